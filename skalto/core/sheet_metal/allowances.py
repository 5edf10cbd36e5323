"""How long a bend is in the flat: K-factors, DIN 6935, tables and typed values.

The developed length of a bend of the angle α (radians), inner radius r and thickness t is α·(r + K·t), where K says how far
through the thickness the neutral fibre lies (geometry). The deduction is what the flat length falls short of the two outer
lengths: 2·(r + t)·tan(α/2) less the allowance (geometry); there is none for a bend of a half turn, whose outer lines do not
meet.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from skalto.core.errors import InputError, first_found
from skalto.core.spreadsheets import csv_of, read_csv
from skalto.core.typed import Text

FLAT_TURN = math.pi - 1e-6
"""From this angle on, radians, outer lines do not meet."""
_NEAR = 1e-6


class BendWay(StrEnum):
    """What a rule is given by."""

    K_FACTOR = "k-factor"
    DIN_6935 = "din6935"
    TABLE = "table"
    ALLOWANCE = "allowance"
    DEDUCTION = "deduction"


SOURCES: dict[BendWay, str] = {
    BendWay.K_FACTOR: "K-factor as typed, allowance = α·(r + K·t) (geometry)",
    BendWay.DIN_6935: "DIN 6935, correction factor k = 0.65 + 0.5·lg(r/t) up to r/t = 5, 1 above, K = k/2 (from memory)",
    BendWay.TABLE: "The bend table",
    BendWay.ALLOWANCE: "Allowance as typed",
    BendWay.DEDUCTION: "Deduction as typed",
}
"""Where each kind of rule comes from, in words."""


class TableRow(BaseModel):
    """A bend that somebody measured: *thickness* and inner *radius*, mm, *angle*, degrees, of any material where it says none,
    and one value: *measure* tells whether it is K, an allowance or a deduction, mm."""

    model_config = ConfigDict(frozen=True)

    material: Text = ""
    thickness: float = Field(gt=0)
    radius: float = Field(ge=0)
    angle: float = Field(gt=0, le=180)
    measure: Literal["k", "allowance", "deduction"] = "k"
    value: float = Field(ge=-10_000, le=10_000)

    @model_validator(mode="after")
    def _within_the_sheet(self) -> TableRow:
        """The neutral fibre lies in the sheet (geometry)."""
        if self.measure == "k" and not 0 <= self.value <= 1:
            raise ValueError(f"K is {self.value:g}, and lies between 0 and 1")
        return self


class BendRule(BaseModel):
    """How allowances are found: by *way*, with its *value* (K, or mm for a typed allowance or deduction) or its *rows*."""

    model_config = ConfigDict(frozen=True)

    way: BendWay = BendWay.K_FACTOR
    value: float = 0.44
    rows: tuple[TableRow, ...] = ()
    name: Text = ""


def source_of(rule: BendRule) -> str:
    """Where a rule comes from, in words, with its value or the table's name."""
    told = SOURCES[rule.way]
    if rule.way is BendWay.TABLE:
        return f"{told} {rule.name}".rstrip()
    return told if rule.way is BendWay.DIN_6935 else f"{told}: {rule.value:g}"


@dataclass(frozen=True)
class Allowance:
    """The developed length of one bend, mm, the *deduction*, mm or None at a half turn, the K-factor that this comes to, and
    what is to be told of it."""

    allowance: float
    deduction: float | None
    k: float
    notes: tuple[str, ...] = ()


def setback(angle: float, radius: float, thickness: float) -> float | None:
    """From a tangent line to where the outer lines meet, mm; None at a half turn.

    :param angle: of the bend, radians. :param radius: inner, mm. :param thickness: mm.
    """
    return None if angle >= FLAT_TURN else (radius + thickness) * math.tan(angle / 2)


def deduction_of(allowance: float, angle: float, radius: float, thickness: float) -> float | None:
    """The deduction, mm, that an allowance comes to, None at a half turn."""
    reach = setback(angle, radius, thickness)
    return None if reach is None else 2 * reach - allowance


def din6935_k(radius: float, thickness: float) -> float:
    """K by DIN 6935 (from memory): half of k = 0.65 + 0.5·lg(r/t), which is 1 above r/t = 5; not below 0.

    >>> round(din6935_k(2, 2), 3), din6935_k(20, 2)
    (0.325, 0.5)
    """
    ratio = radius / thickness
    return 0.5 if ratio > 5 else max(0.0, (0.65 + 0.5 * math.log10(ratio)) / 2)


def allowance_of(rule: BendRule, angle: float, radius: float, thickness: float, material: str = "") -> Allowance:
    """What a rule makes of a bend.

    :param angle: of the bend, radians. :param radius: inner, mm. :param thickness: mm.
    :raises InputError: when a deduction is asked of a half turn, a table has nothing near, or nothing is left of the bend.
    """
    notes: tuple[str, ...] = ()
    if rule.way is BendWay.TABLE:
        length, notes = _by_table(rule, angle, radius, thickness, material)
    elif rule.way is BendWay.ALLOWANCE:
        length = rule.value
    elif rule.way is BendWay.DEDUCTION:
        length = _less_deduction(rule.value, angle, radius, thickness)
    else:
        if rule.way is BendWay.DIN_6935 and radius <= 0:
            raise InputError("DIN 6935 has no factor for a bend without an inner radius: give its allowance or a K-factor.")
        if rule.way is BendWay.DIN_6935 and radius <= 0.05 * thickness:
            notes = (f"DIN 6935 has no factor for an inner radius of {radius:g} mm in {thickness:g} mm: K = 0 is taken.",)
        k = rule.value if rule.way is BendWay.K_FACTOR else din6935_k(radius, thickness)
        length = angle * (radius + k * thickness)
    if length <= 0:
        raise InputError(
            f"Nothing is left of a bend of {math.degrees(angle):.4g}°, R{radius:.4g}: its allowance is {length:.4g} mm."
        )
    k = (length / angle - radius) / thickness
    if not -_NEAR <= k <= 1 + _NEAR:
        notes += (f"The allowance of {length:.4g} mm puts the neutral fibre outside the sheet (K = {k:.3f}).",)
    return Allowance(length, deduction_of(length, angle, radius, thickness), k, notes)


def _less_deduction(deduction: float, angle: float, radius: float, thickness: float) -> float:
    reach = setback(angle, radius, thickness)
    if reach is None:
        raise InputError("A bend of 180° has no deduction, for its outer lines do not meet: give its allowance or a K-factor.")
    return 2 * reach - deduction


def _by_table(rule: BendRule, angle: float, radius: float, thickness: float, material: str) -> tuple[float, tuple[str, ...]]:
    """The allowance out of a table: of its rows for the material and thickness, between radii and angles straight in K."""
    named = [row for row in rule.rows if row.material.casefold() == material.casefold()] if material else []
    own = named or [row for row in rule.rows if not row.material] or list(rule.rows)
    own = [row for row in own if abs(row.thickness - thickness) <= 0.02 * thickness]
    if not own:
        known = ", ".join(f"{value:g}" for value in sorted({row.thickness for row in rule.rows}))
        raise InputError(f"The bend table has no row for {thickness:.4g} mm: it has {known or 'none'}.")
    degrees = math.degrees(angle)
    points = [(row.radius, row.angle, _k_of(row)) for row in own]
    angles = sorted({a for _, a, _ in points})
    at = [(a, *_between([(r, k) for r, b, k in points if b == a], radius)) for a in angles]
    k, exact = _between([(a, value) for a, value, _ in at], degrees)
    near = min(at, key=lambda row: abs(row[0] - degrees))
    notes: tuple[str, ...] = ()
    if not exact or not near[2]:
        radii = ", ".join(f"R{r:g}" for r in sorted({r for r, _, _ in points}))
        notes = (
            f"R{radius:.4g} at {degrees:.4g}° lies between or beyond rows of the bend table ({radii}): K = {k:.4f} is taken.",
        )
    return angle * (radius + k * thickness), notes


def _k_of(row: TableRow) -> float:
    angle = math.radians(row.angle)
    if row.measure == "k":
        return row.value
    length = row.value if row.measure == "allowance" else _less_deduction(row.value, angle, row.radius, row.thickness)
    return (length / angle - row.radius) / row.thickness


def _between(points: list[tuple[float, float]], at: float) -> tuple[float, bool]:
    """The value at a place, between points by a straight line, beyond the ends that of the end; whether a point is there."""
    rows = sorted(points)
    for x, y in rows:
        if abs(x - at) <= 1e-6 * max(1.0, abs(at)):
            return y, True
    if at <= rows[0][0]:
        return rows[0][1], False
    if at >= rows[-1][0]:
        return rows[-1][1], False
    n = next(n for n, (x, _) in enumerate(rows) if x > at)
    (x0, y0), (x1, y1) = rows[n - 1], rows[n]
    return y0 + (y1 - y0) * (at - x0) / (x1 - x0), False


COLUMNS = ("material", "thickness", "radius", "angle", "measure", "value")
"""The columns of a bend table as CSV."""


def table_from_csv(text: str, name: str = "") -> BendRule:
    """A bend table out of CSV, with comma, semicolon or tab between, and a decimal comma where the semicolon or tab is.

    :raises InputError: naming the row and what is wrong with it.
    """
    table = read_csv(text, "the bend table")
    if not table.heads:
        raise InputError("The bend table is empty: its first row names the columns " + ", ".join(COLUMNS) + ".")
    heads = [head.casefold() for head in table.heads]
    twice = next((head for head in heads if head and heads.count(head) > 1), "")
    if twice:
        raise InputError(f"The bend table has the column {twice} twice: keep one.")
    missing = [name for name in ("thickness", "radius", "angle") if name not in heads]
    values = [name for name in ("k", "allowance", "deduction") if name in heads]
    if missing or not (values or {"measure", "value"} <= set(heads)):
        raise InputError(
            "The bend table's first row names its columns: thickness, radius, angle, and k, allowance or deduction; "
            f"it has {', '.join(heads)}."
        )
    found = []
    for row in table.rows:
        try:
            found.append(_table_row(dict(zip(heads, row.cells, strict=True)), values, table.decimal_comma))
        except ValidationError as error:
            raise InputError(f"Row {row.number} of the bend table: {first_found(error)[1]}.") from None
        except ValueError:
            cells = table.separator.join(row.cells)[:80]
            raise InputError(f"Row {row.number} of the bend table has what is no number: {cells}.") from None
    return BendRule(way=BendWay.TABLE, rows=tuple(found), name=name)


def _table_row(row: dict[str, str], values: Sequence[str], comma: bool) -> TableRow:
    def number(cell: str) -> float:
        value = float(cell.replace(",", ".") if comma else cell)
        if not math.isfinite(value):
            raise ValueError(cell)
        return value

    measure = next((name for name in values if row.get(name)), row.get("measure", "").casefold() or "k")
    value = row.get(measure) or row.get("value", "")
    return TableRow.model_validate(
        {
            "material": row.get("material", ""), "thickness": number(row["thickness"]), "radius": number(row["radius"]),
            "angle": number(row["angle"]), "measure": measure, "value": number(value),
        }
    )  # fmt: skip


def table_as_csv(rule: BendRule) -> str:
    """A bend table as CSV, as :func:`table_from_csv` takes it."""
    rows = ((row.material, row.thickness, row.radius, row.angle, row.measure, row.value) for row in rule.rows)
    return csv_of((COLUMNS, *rows), "\n")


EXAMPLE_TABLE = BendRule(
    way=BendWay.TABLE,
    name="Example",
    rows=tuple(
        TableRow(material=material, thickness=thickness, radius=ratio * thickness, angle=90, measure="k", value=k)
        for material, shift in (("Steel", 0.0), ("Aluminium", 0.01), ("Stainless", -0.01))
        for thickness in (1.0, 1.5, 2.0, 3.0)
        for ratio, k in ((0.5, 0.32 + shift), (1.0, 0.38 + shift), (2.0, 0.43 + shift), (4.0, 0.48 + shift))
    ),
)
"""A table that shows how one is written; its values are made up, and stand for no machine."""
