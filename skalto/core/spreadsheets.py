"""Cells of CSV files that spreadsheets open."""

from __future__ import annotations

import re


def harmless(value: object) -> object:
    """A cell that no spreadsheet takes for a formula (OWASP, CSV injection: signs, tab and carriage return at its beginning,
    the signs' wide forms too)."""
    return f"'{value}" if isinstance(value, str) and value[:1] in tuple("=+-@\t\r\n＝＋－＠") else value


def natural(text: str) -> list[tuple[int, int, str]]:
    """What texts are sorted by so that figures in them count: A2 before A10, whatever the case.

    >>> sorted(["A10", "a2", "B1"], key=natural)
    ['a2', 'A10', 'B1']
    """
    parts = re.split(r"(\d+)", text.casefold())
    return [(1, int(part), "") if part.isdecimal() else (0, 0, part) for part in parts if part]
