"""Tables as CSV (RFC 4180), as spreadsheets write and open them. All tables come in and go out through here."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from skalto.core.errors import InputError

_SIGNS = tuple("=+-@＝＋－＠")
_SEPARATORS = "\t;,"
_PARTED = re.compile(r"[\",;\t\r\n]")
LONGEST_CELL = 10_000
"""Letters of a cell of a table that comes in."""


def harmless(value: object) -> object:
    """A cell that no spreadsheet takes for a formula (OWASP, CSV injection: signs, tab and carriage return at its beginning,
    blanks before them, the signs' wide forms too)."""
    if not isinstance(value, str):
        return value
    return f"'{value}" if value[:1] in ("\t", "\r", "\n") or value.lstrip()[:1] in _SIGNS else value


def plain(cell: str) -> str:
    """A cell as it was before :func:`harmless`, without blanks about it."""
    cell = cell.strip()
    return cell[1:].strip() if cell[:1] == "'" and cell[1:].lstrip()[:1] in _SIGNS else cell


def _written(cell: object) -> str:
    text = "" if cell is None else str(harmless(cell))
    # a semicolon or tab parts cells where people write decimal commas
    return '"' + text.replace('"', '""') + '"' if _PARTED.search(text) or text != text.strip() else text


def csv_of(rows: Iterable[Iterable[object]], end: str = "\r\n") -> str:
    """Rows as CSV, every cell of them :func:`harmless`, headings too; None is an empty cell."""
    return "".join(",".join(_written(cell) for cell in row) + end for row in rows)


@dataclass(frozen=True)
class Row:
    """A row of a table: its *number*, from 1, and its cells, :func:`plain`."""

    number: int
    cells: tuple[str, ...]


@dataclass(frozen=True)
class Table:
    """A table as it came in: which sign stood between its cells, its *first* row, None where it is empty, and the others that
    are not empty."""

    separator: str
    first: Row | None
    rows: tuple[Row, ...]

    @property
    def heads(self) -> tuple[str, ...]:
        """The cells of its first row."""
        return self.first.cells if self.first is not None else ()

    @property
    def decimal_comma(self) -> bool:
        """Whether a comma may stand in a number: where cells are parted by something else."""
        return self.separator != ","


def read_csv(text: str, what: str, whole: bool = True) -> Table:
    """A table with commas, semicolons or tabs between its cells, whatever ends its lines; rows that begin with # are passed
    over.

    :param what: what it is in a sentence: ``the bend table``. :param whole: whether every row must have as many cells as the
        first.
    :raises InputError: for a table that cannot be read, and where *whole* for a row with more or fewer cells, by its number.
    """
    text = text.lstrip("\ufeff").replace("\r\n", "\n").replace("\r", "\n")
    if "\0" in text:
        raise InputError(f"{what[:1].upper()}{what[1:]} holds bytes that are no text: save it as CSV.")
    lines = text.split("\n")
    first = next((line for line in lines if line.strip() and not line.lstrip().startswith("#")), "")
    separator = max(_SEPARATORS, key=first.count)
    if not first.count(separator):
        separator = ","
    reader = csv.reader(io.StringIO(text), delimiter=separator, strict=True)
    found: list[Row] = []
    number = 0
    try:
        for cells in reader:
            number += 1
            row = Row(number, tuple(plain(cell) for cell in cells))
            if not any(row.cells) or row.cells[0].startswith("#"):
                continue
            if any(len(cell) > LONGEST_CELL for cell in row.cells):
                raise InputError(f"Row {number} of {what} has a cell of more than {LONGEST_CELL} letters: shorten it.")
            found.append(row)
    except csv.Error:
        raise InputError(f"Row {number + 1} of {what} cannot be read: a quotation mark may lack its other half.") from None
    if not found:
        return Table(separator, None, ())
    heads, rows = found[0].cells, found[1:]
    while len(heads) > 1 and not heads[-1] and not any(any(row.cells[len(heads) - 1 :]) for row in rows):
        # an empty column at the end is no column
        heads = heads[:-1]
        rows = [Row(row.number, row.cells[: len(heads)]) for row in rows]
    if whole:
        for row in rows:
            if len(row.cells) != len(heads):
                raise InputError(_of_another_length(row, heads, what, separator))
    return Table(separator, Row(found[0].number, heads), tuple(rows))


def _of_another_length(row: Row, heads: Sequence[str], what: str, separator: str) -> str:
    told = f"Row {row.number} of {what} has {len(row.cells)} cells for {len(heads)} columns: {separator.join(row.cells)[:80]}"
    if separator == "," and len(row.cells) > len(heads):
        told += " (where numbers have decimal commas, part the cells by semicolons)"
    return f"{told}."


def natural(text: str) -> list[tuple[int, int, str]]:
    """What texts are sorted by so that figures in them count: A2 before A10, whatever the case.

    >>> sorted(["A10", "a2", "B1"], key=natural)
    ['a2', 'A10', 'B1']
    """
    parts = re.split(r"(\d+)", text.casefold())
    # figures beyond any count are letters: a number of 5 000 of them is not read
    return [(1, int(part), "") if part.isdecimal() and len(part) < 100 else (0, 0, part) for part in parts if part]
