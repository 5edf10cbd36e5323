"""Numbers that stand in the names of parts, taken out by a pattern: “EB-####” finds EB-0012 in “EB-0012 side frame”."""

from __future__ import annotations

from collections.abc import Sequence

from skalto.core.errors import InputError
from skalto.core.release.register import PartRow

DIGIT, LETTER = "#", "@"
_MARKS = " _-.,:;()[]"
"""What is left about a number once it is gone from a name."""


def checked(pattern: str) -> str:
    """The pattern, without blanks about it. :raises InputError: when no digit and no letter stands in it."""
    pattern = pattern.strip()
    if DIGIT not in pattern and LETTER not in pattern:
        raise InputError(f"“{pattern}” would find only itself: write # for a digit and @ for a letter, such as EB-####.")
    if len(pattern) > 40:
        raise InputError("A pattern of numbers has 40 signs at the most.")
    return pattern


def _fits(pattern: str, text: str) -> bool:
    return all(
        sign.isdecimal() if own == DIGIT else sign.isalpha() if own == LETTER else sign.casefold() == own.casefold()
        for own, sign in zip(pattern, text, strict=True)
    )


def taken_out(pattern: str, name: str) -> tuple[str, str] | None:
    """The number in a name and what is left of the name; None where the pattern is not found. It stands alone: neither a
    letter nor a digit is beside it. A name that is nothing but its number stays as it is."""
    size = len(pattern)
    for at in range(len(name) - size + 1):
        before, after = name[at - 1 : at], name[at + size : at + size + 1]
        if before.isalnum() or after.isalnum() or not _fits(pattern, name[at : at + size]):
            continue
        rest = [part for part in (name[:at].rstrip(_MARKS), name[at + size :].lstrip(_MARKS)) if part]
        return name[at : at + size], " ".join(rest) or name
    return None


def numbers_of(pattern: str, rows: Sequence[PartRow]) -> dict[str, dict[str, str]]:
    """What is to be said of the rows of a register: number and name, by the key of each whose name has a number and that has
    none yet. :raises InputError: for a bad pattern."""
    pattern = checked(pattern)
    told = {}
    for row in rows:
        found = None if row.number else taken_out(pattern, row.name)
        if found is not None:
            told[row.key] = {"number": found[0]} | ({"name": found[1]} if found[1] != row.name else {})
    return told
