"""What each job has, what each result is made from, what nothing refers to, and sessions that have ended."""

from __future__ import annotations

import json
import uuid
from typing import Any

_STATEMENTS = (
    """CREATE TABLE "jobsource" ("id" INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, "job_id" INTEGER NOT NULL,
        "source" VARCHAR(255) NOT NULL, FOREIGN KEY ("job_id") REFERENCES "job" ("id") ON DELETE CASCADE)""",
    'CREATE UNIQUE INDEX "jobsource_job_id_source" ON "jobsource" ("job_id", "source")',
    'CREATE INDEX "jobsource_source" ON "jobsource" ("source")',
    """CREATE TABLE "made" ("id" INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, "key" VARCHAR(255) NOT NULL,
        "sources" TEXT NOT NULL)""",
    'CREATE UNIQUE INDEX "made_key" ON "made" ("key")',
    """CREATE TABLE "orphan" ("id" INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, "what" VARCHAR(255) NOT NULL,
        "since" DATETIME NOT NULL)""",
    'CREATE UNIQUE INDEX "orphan_what" ON "orphan" ("what")',
    """CREATE TABLE "about" ("id" INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, "name" VARCHAR(255) NOT NULL,
        "value" VARCHAR(255) NOT NULL)""",
    'CREATE UNIQUE INDEX "about_name" ON "about" ("name")',
    """CREATE TABLE "signedout" ("id" INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, "name" VARCHAR(255) NOT NULL,
        "until" INTEGER NOT NULL)""",
    'CREATE UNIQUE INDEX "signedout_name" ON "signedout" ("name")',
)


def forward(database: Any) -> None:
    for statement in _STATEMENTS:
        database.execute_sql(statement)
    database.execute_sql("INSERT INTO about (name, value) VALUES ('database', ?)", (uuid.uuid4().hex,))
    put = "INSERT OR IGNORE INTO jobsource (job_id, source) VALUES (?, ?)"
    # a row at a time: a job may have five hundred steps of a megabyte
    for (step,) in database.execute_sql("SELECT id FROM step ORDER BY id").fetchall():
        job, document = database.execute_sql("SELECT job_id, document FROM step WHERE id = ?", (step,)).fetchone()
        try:
            sources = json.loads(document).get("sources") or []
        except (ValueError, AttributeError):
            continue
        for source in sources:
            if isinstance(source, dict) and isinstance(source.get("id"), str):
                database.execute_sql(put, (job, source["id"]))
