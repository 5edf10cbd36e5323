"""The cutter's settings."""

from __future__ import annotations

from typing import Any


def forward(database: Any) -> None:
    database.execute_sql('CREATE TABLE "cuttersettings" ("id" INTEGER NOT NULL PRIMARY KEY, "document" TEXT NOT NULL)')
