"""What all jobs share in versions, the log of states, releases and their files."""

from __future__ import annotations

from typing import Any

_STATEMENTS = (
    """CREATE TABLE "sharedversion" ("id" INTEGER NOT NULL PRIMARY KEY, "kind" VARCHAR(255) NOT NULL,
        "shared" VARCHAR(255) NOT NULL, "version" INTEGER NOT NULL, "document" TEXT NOT NULL, "gone" INTEGER NOT NULL,
        "made" DATETIME NOT NULL)""",
    'CREATE UNIQUE INDEX "sharedversion_kind_shared_version" ON "sharedversion" ("kind", "shared", "version")',
    """CREATE TABLE "statechange" ("id" INTEGER NOT NULL PRIMARY KEY, "job" INTEGER NOT NULL,
        "subject" VARCHAR(255) NOT NULL, "state" VARCHAR(255) NOT NULL, "revision" VARCHAR(255) NOT NULL,
        "person" VARCHAR(255) NOT NULL, "note" TEXT NOT NULL, "made" DATETIME NOT NULL)""",
    'CREATE INDEX "statechange_job" ON "statechange" ("job")',
    """CREATE TABLE "release" ("id" INTEGER NOT NULL PRIMARY KEY, "job" INTEGER NOT NULL,
        "job_number" VARCHAR(255) NOT NULL, "job_name" VARCHAR(255) NOT NULL, "rules" TEXT NOT NULL,
        "outbox" VARCHAR(255) NOT NULL, "whole" INTEGER NOT NULL, "person" VARCHAR(255) NOT NULL, "note" TEXT NOT NULL,
        "state" VARCHAR(255) NOT NULL, "error" TEXT NOT NULL, "began" DATETIME NOT NULL, "ended" DATETIME)""",
    'CREATE INDEX "release_job" ON "release" ("job")',
    'CREATE INDEX "release_state" ON "release" ("state")',
    """CREATE TABLE "releasefile" ("id" INTEGER NOT NULL PRIMARY KEY, "release_id" INTEGER NOT NULL,
        "path" VARCHAR(255) NOT NULL, "kind" VARCHAR(255) NOT NULL, "called" VARCHAR(255) NOT NULL, "work" TEXT NOT NULL,
        "state" VARCHAR(255) NOT NULL, "priority" INTEGER NOT NULL, "share" REAL NOT NULL, "text" VARCHAR(255) NOT NULL,
        "error" TEXT NOT NULL, "log" TEXT NOT NULL, "about" TEXT NOT NULL, "began" DATETIME, "ended" DATETIME,
        FOREIGN KEY ("release_id") REFERENCES "release" ("id") ON DELETE CASCADE)""",
    'CREATE INDEX "releasefile_release_id" ON "releasefile" ("release_id")',
    'CREATE INDEX "releasefile_release_id_state" ON "releasefile" ("release_id", "state")',
)


def forward(database: Any) -> None:
    for statement in _STATEMENTS:
        database.execute_sql(statement)
