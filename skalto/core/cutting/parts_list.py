"""Lists of parts to cut as people type them: CSV, a part and how often a line."""

from __future__ import annotations

from collections.abc import Mapping

from skalto.core.errors import InputError
from skalto.core.spreadsheets import read_csv


def read_parts_list(text: str, known: Mapping[str, str]) -> dict[str, int]:
    """How often each part is wanted.

    :param text: CSV (RFC 4180), separated by commas, semicolons or tabs, each line a part and its quantity, once for one that
        has none; a first line of headings is passed over. :param known: parts by what a line may call them, in any case.
    :raises InputError: for a part that is not known, and a quantity that is no whole number, with the line.
    """
    table = read_csv(text, "the list", whole=False)
    by_name = {name.strip().casefold(): part for name, part in known.items() if name.strip()}
    found: dict[str, int] = {}
    begun = False
    for row in (table.first, *table.rows) if table.first is not None else ():
        number, cells = row.number, row.cells
        if any(cells[2:]):
            raise InputError(f"Line {number} of the list has {len(cells)} cells: a part and its quantity are taken.")
        name, quantity = cells[0], cells[1] if len(cells) > 1 else "1"
        if not begun and name.casefold() not in by_name and not quantity.isdigit():
            begun = True
            continue
        begun = True
        part = by_name.get(name.casefold())
        if part is None:
            raise InputError(f"Line {number} of the list: there is no flat part {name or 'without a name'} here.")
        if not quantity.isdecimal():
            raise InputError(f"Line {number} of the list: “{quantity}” is no quantity of {name}: write a whole number.")
        found[part] = found.get(part, 0) + int(quantity)
    if not found:
        raise InputError("The list has no part: write a part and its quantity a line, such as Cheek;2.")
    return found
