"""States of parts and sheets, and their revisions."""

from __future__ import annotations

from enum import StrEnum
from typing import Literal


class State(StrEnum):
    """Where a part or a sheet is on its way."""

    IN_WORK = "in work"
    IN_REVIEW = "in review"
    RELEASED = "released"
    WITHDRAWN = "withdrawn"


RevisionWay = Literal["letters", "numbers"]
_LETTERS = "ABCDEFGHJKLMNPRTUVWY"
"""Letters of revisions: without those that are taken for figures or for one another (ASME Y14.35, from memory)."""


def next_revision(revision: str, way: RevisionWay) -> str:
    """The revision after one; '' is before the first.

    >>> tuple(next_revision(own, "letters") for own in ("", "H", "Y", "AY"))
    ('A', 'J', 'AA', 'BA')
    >>> next_revision("", "numbers"), next_revision("9", "numbers")
    ('1', '10')
    """
    text = revision.strip().upper()
    if way == "numbers":
        return str(int(text) + 1) if text.isdigit() else "1"
    if not text or any(letter not in _LETTERS for letter in text):
        return _LETTERS[0]
    rest, last = text[:-1], _LETTERS.index(text[-1])
    if last + 1 < len(_LETTERS):
        return rest + _LETTERS[last + 1]
    return next_revision(rest, "letters") + _LETTERS[0]
