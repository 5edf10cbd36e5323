"""Fields in braces, of which names of files and words about them are made."""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping

FIELDS = ("job", "job_number", "pack", "number", "sheet", "title", "revision", "purpose", "format", "date")
"""What may stand in braces: *number* is the sheet's place among those that are sent, from 1."""

_BRACED = re.compile(r"\{([^{}]*)\}")
_MARKS = "_-. "
"""Marks that part one field from the next."""


def names_in(pattern: str) -> list[str]:
    """The fields of a pattern, in order."""
    return _BRACED.findall(pattern)


def check_pattern(pattern: str, fields: Collection[str] = FIELDS) -> str:
    """The pattern. :raises ValueError: for a field that there is not, or a brace without its other half."""
    unknown = [name for name in names_in(pattern) if name not in fields]
    if unknown:
        raise ValueError(f"“{{{unknown[0]}}}” is not a field: write one of {', '.join(fields)} in braces.")
    if "{" in _BRACED.sub("", pattern) or "}" in _BRACED.sub("", pattern):
        raise ValueError("A brace has no other half: write a field as {title}.")
    return pattern.strip()


def filled(pattern: str, fields: Mapping[str, str]) -> str:
    """A pattern with its fields; one that is empty takes the marks before it along."""
    out = ""
    at = 0
    for found in _BRACED.finditer(pattern):
        out += pattern[at : found.start()]
        value = fields.get(found.group(1), "")
        out = out + value if value else out.rstrip(_MARKS)
        at = found.end()
    return (out + pattern[at:]).strip(_MARKS)
