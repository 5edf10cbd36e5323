"""Whose browser a step, and a file on its way in, came from."""

from __future__ import annotations

from typing import Any


def forward(database: Any) -> None:
    database.execute_sql("ALTER TABLE step ADD COLUMN person VARCHAR(255) NOT NULL DEFAULT ''")
    database.execute_sql("ALTER TABLE incoming ADD COLUMN person VARCHAR(255) NOT NULL DEFAULT ''")
