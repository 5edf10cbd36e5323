"""Steps that bring a database to the present shape. SQLite's ``user_version`` counts those that were taken.

A module ``nnnn_what.py`` holds ``forward(database)``; it says what it does in plain SQL, since the tables' classes move on.
"""

from __future__ import annotations

import importlib
import pkgutil
from typing import Any

from skalto import __version__
from skalto.core.errors import InputError


def names() -> list[str]:
    """The migrations, in order."""
    return sorted(module.name for module in pkgutil.iter_modules(__path__))


def migrate(database: Any) -> int:
    """Take the steps that are missing, each in a transaction; the count of steps taken.

    :raises InputError: when a newer release has taken steps that this one does not know.
    """
    known = names()
    taken = int(database.execute_sql("PRAGMA user_version").fetchone()[0])
    if taken > len(known):
        raise InputError(
            f"This data folder was written by a newer release: its database is of form {taken}, and this release "
            f"({__version__}) reads up to form {len(known)}. Start the newer release, or give another data folder."
        )
    if taken == len(known):
        return 0
    # a table that is made anew is taken away for a moment, which its rows elsewhere must not follow (SQLite, ALTER TABLE, 7)
    database.execute_sql("PRAGMA foreign_keys = 0")
    try:
        for number, name in enumerate(known[taken:], taken + 1):
            with database.atomic():
                importlib.import_module(f"{__name__}.{name}").forward(database)
                database.execute_sql(f"PRAGMA user_version = {number}")
    finally:
        database.execute_sql("PRAGMA foreign_keys = 1")
    return len(known) - taken
