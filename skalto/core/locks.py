"""What is released is locked: which changes of a job touch it."""

from __future__ import annotations

from collections.abc import Mapping

from skalto.core.errors import InputError
from skalto.core.job import JobDocument
from skalto.core.sheets.sheet import SheetSpec
from skalto.core.sources.models.parts import PartFacts


def refuse_locked(before: JobDocument, after: JobDocument, locked: Mapping[str, str]) -> None:
    """Look whether a change touches what is released.

    :param locked: released sheets and parts (``sheet:…`` and ``part:…``) with their revisions.
    :raises InputError: when it does, saying what to do.
    """
    nothing = PartFacts()
    for subject, revision in locked.items():
        kind, _, name = subject.partition(":")
        if kind == "sheet":
            old = next((own for own in before.sheets if own.id == name), None)
            new = next((own for own in after.sheets if own.id == name), None)
            # a newer revision of a source is told in the register: it does not take away what was released
            same = old is None or (new is not None and _own(old) == _own(new))
            called = name if old is None else old.name
        else:
            same = before.parts.get(name, nothing) == after.parts.get(name, nothing)
            called = before.parts.get(name, nothing).name or name
        if not same:
            at = f" at revision {revision}" if revision else ""
            raise InputError(f"{called} is released{at} and locked: begin its next revision first.")


def _own(sheet: SheetSpec) -> SheetSpec:
    """A sheet without which revisions of its sources it shows."""
    views = tuple(view.model_copy(update={"source": "source"}) for view in sheet.views)
    return sheet.model_copy(update={"views": views, "made_for": None})
