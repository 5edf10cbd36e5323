"""The parts register as a table: CSV out, and what is typed or pasted as one in."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from pydantic import ValidationError

from skalto.core.errors import InputError, first_found
from skalto.core.release.register import PartRow
from skalto.core.release.section import PROPERTIES, OwnField
from skalto.core.sources.models.parts import PartFacts, PartKind
from skalto.core.spreadsheets import csv_of, read_csv

_COMPUTED = ("quantity", "mass")
"""What nobody types; marks are given."""
TYPED = ("name", "description", "number", "revision", "material", "finish", "thickness", "kind")


def as_table(rows: Sequence[PartRow], own: Sequence[OwnField]) -> str:
    """The register as CSV (RFC 4180): the key, all properties, the house's own fields; mm and g."""
    names = (*PROPERTIES, *(f.name for f in own))
    told = ((row.key, *(values.get(name, "") for name in names)) for row in rows for values in (row.values(),))
    return csv_of((("part", *names), *told))


def read_value(name: str, text: str, own: Sequence[OwnField]) -> Any:
    """What is typed for a property or a field, as it is kept. :raises InputError: when it does not fit."""
    text = text.strip()
    field = next((f for f in own if f.name.casefold() == name.casefold()), None)
    if field is not None:
        try:
            return field.read(text)
        except ValueError as error:
            raise InputError(str(error)) from None
    if name == "kind":
        try:
            return PartKind(text.casefold()) if text else None
        except ValueError:
            raise InputError(f"“{text}” is no kind of part: write {', '.join(k.value for k in PartKind)}.") from None
    if name == "thickness":
        try:
            value = float(text.lower().removesuffix("mm").replace(",", ".")) if text else None
        except ValueError:
            value = -1.0
        if value is not None and not 0 < value <= 1000:
            raise InputError(f"“{text}” is no thickness: write one in mm, such as 1.5.")
        return value
    return text


def with_values(facts: PartFacts, values: Mapping[str, str], own: Sequence[OwnField]) -> PartFacts:
    """What is said of a part, with some properties and fields typed. :raises InputError: when one does not fit."""
    update: dict[str, Any] = {}
    fields = dict(facts.fields)
    for name, text in values.items():
        field = next((f for f in own if f.name.casefold() == name.casefold()), None)
        if field is not None:
            value = read_value(name, text, own)
            fields = {key: v for key, v in fields.items() if key != field.name} | ({field.name: value} if value else {})
        elif name in TYPED:
            update[name] = read_value(name, text, own)
            if name == "kind":
                # what is bought by kind is bought in parts lists too
                update["bought"] = None if update[name] is None else update[name] is PartKind.BOUGHT
        else:
            raise InputError(f"“{name}” is not typed: it comes from the models. What is typed is {', '.join(TYPED)}.")
    try:
        return PartFacts.model_validate(facts.model_dump() | update | {"fields": fields})
    except ValidationError as error:
        where, message = first_found(error)
        raise InputError(f"{where[0]}: {message}." if where else f"{message}.") from None


def from_table(text: str, rows: Sequence[PartRow], own: Sequence[OwnField]) -> dict[str, dict[str, str]]:
    """What a table says of parts, by their keys: only what differs from the register. Rows are found by *part*, else by
    *mark*, else by *number*; commas, semicolons and tabs part cells.

    :raises InputError: for a table without such a column, a column that there is not, and a row that fits no part or several.
    """
    table = read_csv(text, "the table")
    heads = table.heads
    known = {name.casefold(): name for name in ("part", *PROPERTIES, *(f.name for f in own))}
    names = [known.get(head.casefold(), "") for head in heads]
    strange = [head for head, name in zip(heads, names, strict=True) if head and not name]
    if strange:
        raise InputError(
            f"“{strange[0]}” is no column of the register: name one of {', '.join(known.values())}, or add a field."
        )
    twice = [name for name in names if name and names.count(name) > 1]
    if twice:
        raise InputError(f"The column “{twice[0]}” is there twice: keep one.")
    by = next((name for name in ("part", "mark", "number") if name in names), None)
    if by is None:
        raise InputError("The table says of no row which part it is: give it a column “part”, “mark” or “number”.")
    found: dict[str, dict[str, str]] = {}
    for own_row in table.rows:
        number = own_row.number
        values = {name: cell for name, cell in zip(names, own_row.cells, strict=True) if name}
        row = _row_of(rows, by, values.get(by, ""), number)
        if row.key in found:
            raise InputError(f"Row {number} is about {row.name} again: keep one row for each part.")
        now = row.values()
        told = {
            name: text
            for name, text in values.items()
            if name not in ("part", "mark", by, *_COMPUTED) and text != now.get(name, "")
        }
        for name, value in told.items():
            try:
                read_value(name, value, own)
            except InputError as error:
                raise InputError(f"Row {number}: {error}") from None
        if told:
            found[row.key] = told
    return found


def _row_of(rows: Sequence[PartRow], by: str, value: str, number: int) -> PartRow:
    if not value:
        raise InputError(f"Row {number} says nothing under “{by}”: which part is it?")
    found = [row for row in rows if (row.key if by == "part" else row.values()[by]).casefold() == value.casefold()]
    if not found:
        raise InputError(f"Row {number}: there is no part with the {by} “{value}”.")
    if len(found) > 1:
        raise InputError(f"Row {number}: {len(found)} parts have the {by} “{value}”: name them under “part”.")
    return found[0]
