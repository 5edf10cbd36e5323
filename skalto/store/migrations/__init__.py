"""Steps that bring a database to the present shape. SQLite's ``user_version`` counts those that were taken.

A module ``nnnn_what.py`` holds ``forward(database)``; it says what it does in plain SQL, since the tables' classes move on.
"""

from __future__ import annotations

import importlib
import pkgutil
from typing import Any


def names() -> list[str]:
    """The migrations, in order."""
    return sorted(module.name for module in pkgutil.iter_modules(__path__))


def migrate(database: Any) -> int:
    """Take the steps that are missing, each in a transaction; the count of steps taken."""
    taken = int(database.execute_sql("PRAGMA user_version").fetchone()[0])
    pending = names()[taken:]
    for number, name in enumerate(pending, taken + 1):
        with database.atomic():
            importlib.import_module(f"{__name__}.{name}").forward(database)
            database.execute_sql(f"PRAGMA user_version = {number}")
    return len(pending)
