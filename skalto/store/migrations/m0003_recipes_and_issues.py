"""Recipes in all their versions, issues and the files that they sent."""

from __future__ import annotations

from typing import Any

_STATEMENTS = (
    """CREATE TABLE recipeversion (
        id INTEGER NOT NULL PRIMARY KEY, recipe VARCHAR(255) NOT NULL, version INTEGER NOT NULL, document TEXT NOT NULL,
        gone INTEGER NOT NULL, made DATETIME NOT NULL)""",
    "CREATE UNIQUE INDEX recipeversion_recipe_version ON recipeversion (recipe, version)",
    """CREATE TABLE issue (
        id INTEGER NOT NULL PRIMARY KEY, job INTEGER NOT NULL, job_number VARCHAR(255) NOT NULL, job_name VARCHAR(255) NOT NULL,
        pack VARCHAR(255) NOT NULL, pack_id VARCHAR(255) NOT NULL, purpose VARCHAR(255) NOT NULL,
        revision VARCHAR(255) NOT NULL, note TEXT NOT NULL, state VARCHAR(255) NOT NULL, error TEXT NOT NULL,
        plan TEXT NOT NULL, secret TEXT NOT NULL, began DATETIME NOT NULL, ended DATETIME)""",
    "CREATE INDEX issue_state ON issue (state)",
    """CREATE TABLE issuedfile (
        id INTEGER NOT NULL PRIMARY KEY, issue_id INTEGER NOT NULL, name VARCHAR(255) NOT NULL, "key" VARCHAR(255) NOT NULL,
        hash VARCHAR(255) NOT NULL, size INTEGER NOT NULL, pages INTEGER NOT NULL, holds INTEGER NOT NULL,
        FOREIGN KEY (issue_id) REFERENCES issue (id) ON DELETE CASCADE)""",
    "CREATE INDEX issuedfile_issue_id ON issuedfile (issue_id)",
)


def forward(database: Any) -> None:
    for statement in _STATEMENTS:
        database.execute_sql(statement)
