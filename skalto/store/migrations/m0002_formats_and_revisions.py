"""Own sheet formats under a name, and files that come in as the newer revision of a source."""

from __future__ import annotations

from typing import Any

_STATEMENTS = (
    """CREATE TABLE ownformat (
        id INTEGER NOT NULL PRIMARY KEY, name VARCHAR(255) NOT NULL, size VARCHAR(255) NOT NULL)""",
    "CREATE UNIQUE INDEX ownformat_name ON ownformat (name)",
    "ALTER TABLE incoming ADD COLUMN replaces VARCHAR(255) NOT NULL DEFAULT ''",
)


def forward(database: Any) -> None:
    for statement in _STATEMENTS:
        database.execute_sql(statement)
