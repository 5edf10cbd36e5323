"""The first shape: jobs, their history, files on their way in, proofs."""

from __future__ import annotations

from typing import Any

_STATEMENTS = (
    """CREATE TABLE job (
        id INTEGER NOT NULL PRIMARY KEY, number VARCHAR(255) NOT NULL, head INTEGER NOT NULL,
        created DATETIME NOT NULL, changed DATETIME NOT NULL)""",
    "CREATE UNIQUE INDEX job_number ON job (number)",
    """CREATE TABLE step (
        id INTEGER NOT NULL PRIMARY KEY, job_id INTEGER NOT NULL REFERENCES job (id) ON DELETE CASCADE,
        number INTEGER NOT NULL, label VARCHAR(255) NOT NULL, document TEXT NOT NULL, made DATETIME NOT NULL)""",
    "CREATE UNIQUE INDEX step_job_id_number ON step (job_id, number)",
    """CREATE TABLE incoming (
        id INTEGER NOT NULL PRIMARY KEY, job_id INTEGER NOT NULL REFERENCES job (id) ON DELETE CASCADE,
        source VARCHAR(255) NOT NULL, name VARCHAR(255) NOT NULL, size INTEGER NOT NULL, state VARCHAR(255) NOT NULL,
        error TEXT NOT NULL, came DATETIME NOT NULL)""",
    "CREATE INDEX incoming_job_id ON incoming (job_id)",
    """CREATE TABLE proof (
        id INTEGER NOT NULL PRIMARY KEY, job_id INTEGER NOT NULL REFERENCES job (id) ON DELETE CASCADE,
        sheet VARCHAR(255) NOT NULL, "key" VARCHAR(255) NOT NULL, made DATETIME NOT NULL)""",
    "CREATE INDEX proof_job_id ON proof (job_id)",
)


def forward(database: Any) -> None:
    for statement in _STATEMENTS:
        database.execute_sql(statement)
