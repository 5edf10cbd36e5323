"""Cells of CSV files that spreadsheets open."""

from __future__ import annotations


def harmless(value: object) -> object:
    """A cell that no spreadsheet takes for a formula (OWASP, CSV injection: signs, tab and carriage return at its beginning,
    the signs' wide forms too)."""
    return f"'{value}" if isinstance(value, str) and value[:1] in tuple("=+-@\t\r\n＝＋－＠") else value
