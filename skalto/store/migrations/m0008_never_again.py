"""Ids are never given again (SQLite's AUTOINCREMENT), and what is left of deleted jobs belongs to no job of today."""

from __future__ import annotations

from typing import Any

_KEPT_AFTER = (("issue", "began"), ("release", "began"), ("statechange", "made"))
"""Tables whose rows stay when their job is deleted, and the column that says when they came."""


def forward(database: Any) -> None:
    tables = "SELECT name, sql FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%'"
    for name, sql in database.execute_sql(tables).fetchall():
        _made_anew(database, name, sql)
    ever = (
        ("job", "id"),
        ("job", "CAST(number AS INTEGER)"),
        ("issuedsheet", "job"),
        *((table, "job") for table, _ in _KEPT_AFTER),
    )
    last = max(
        int(database.execute_sql(f"SELECT COALESCE(MAX({column}), 0) FROM {table}").fetchone()[0]) for table, column in ever
    )
    last = _set_apart(database, last)
    database.execute_sql("DELETE FROM sqlite_sequence WHERE name = 'job'")
    database.execute_sql("INSERT INTO sqlite_sequence (name, seq) VALUES ('job', ?)", (last,))


def _made_anew(database: Any, name: str, sql: str) -> None:
    indexes = database.execute_sql(
        "SELECT sql FROM sqlite_master WHERE type = 'index' AND tbl_name = ? AND sql IS NOT NULL", (name,)
    ).fetchall()
    columns = sql.partition("(")[2]
    assert columns.count("INTEGER NOT NULL PRIMARY KEY") == 1, sql
    columns = columns.replace("INTEGER NOT NULL PRIMARY KEY", "INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT")
    database.execute_sql(f'CREATE TABLE "anew" ({columns}')
    database.execute_sql(f'INSERT INTO "anew" SELECT * FROM "{name}" ORDER BY id')
    database.execute_sql(f'DROP TABLE "{name}"')
    database.execute_sql(f'ALTER TABLE "anew" RENAME TO "{name}"')
    for (index,) in indexes:
        database.execute_sql(index)


def _set_apart(database: Any, last: int) -> int:
    """Give what came before a job of today, under its id, an id of its own: that of the job that was deleted. The last id."""
    for job, created in database.execute_sql("SELECT id, created FROM job ORDER BY id").fetchall():
        earlier = {}
        for table, came in _KEPT_AFTER:
            rows = database.execute_sql(f'SELECT id FROM "{table}" WHERE job = ? AND {came} < ?', (job, created)).fetchall()
            earlier[table] = [row[0] for row in rows]
        if not any(earlier.values()):
            continue
        last += 1
        for table, ids in earlier.items():
            for own in ids:
                database.execute_sql(f'UPDATE "{table}" SET job = ? WHERE id = ?', (last, own))
                if table == "issue":
                    database.execute_sql("UPDATE issuedsheet SET job = ? WHERE issue_id = ?", (last, own))
    return last
