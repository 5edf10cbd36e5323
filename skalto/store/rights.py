"""Who may read what is kept: the data folder is its user's alone; what is handed on goes by the user's own habit."""

from __future__ import annotations

import os
from pathlib import Path

_OWN = 0o077
_habit = 0o022
_private: Path | None = None


def keep_private(data: Path | None) -> None:
    """Have all that this process and its children write readable by its user alone (files 0600, folders 0700), a data folder
    that is there already too."""
    global _habit, _private
    before = os.umask(_OWN)
    # one that is set already is a parent's or our own
    _habit = int(os.environ.get("SKALTO_HABIT", f"{before:o}"), 8)
    os.environ["SKALTO_HABIT"] = f"{_habit:o}"
    if data is None:
        return
    data.mkdir(mode=0o700, parents=True, exist_ok=True)
    if data.stat().st_mode & _OWN:
        data.chmod(0o700)
    _private = data.resolve()


def hand_on(path: Path, above: Path) -> None:
    """Give a file that is handed on, and the folders between it and the one *above*, the rights that the user's other files
    have; what lies in the data folder stays its user's."""
    if _private is None or path.resolve().is_relative_to(_private):
        return
    path.chmod(0o666 & ~_habit)
    for folder in path.parents:
        if folder == above or not folder.is_relative_to(above):
            break
        folder.chmod(0o777 & ~_habit)
