"""Tables on a sheet: the parts list (ISO 7573, from memory) and the table of holes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from skalto.core.annotation.dimension_values import Frame
from skalto.core.annotation.edge_references import SourceFacts, resolve
from skalto.core.annotation.pencil import Pencil
from skalto.core.annotation.title_block import mass_text
from skalto.core.artwork import EdgeClass
from skalto.core.geometry import Box, Point
from skalto.core.lettering import length
from skalto.core.quantities import format_mm
from skalto.core.sheets.annotations import HoleTable, PartsList
from skalto.core.sources.models.parts import Item

ROW, LETTERING, HEADING = 6.0, 2.5, 2.5
_COLUMNS: dict[str, tuple[str, float]] = {
    "item": ("Item", 11.0),
    "mark": ("Mark", 18.0),
    "quantity": ("Qty", 11.0),
    "name": ("Name", 58.0),
    "number": ("Part number", 36.0),
    "material": ("Material", 40.0),
    "mass": ("Mass", 24.0),
}
"""Heading and width, mm, of each column of a parts list; all but the mark are as wide as the title block, and the name makes
room for a mark."""


def _width(column: str, columns: Sequence[str]) -> float:
    width = _COLUMNS[column][1]
    return width - _COLUMNS["mark"][1] if column == "name" and "mark" in columns else width


def _cut(text: str, room: float) -> str:
    if length(text, LETTERING) <= room:
        return text
    while text and length(text + "…", LETTERING) > room:
        text = text[:-1]
    return text + "…"


def part_row(item: Item) -> dict[str, str]:
    """What a parts list says of an item."""
    return {
        "item": str(item.item),
        "mark": item.mark,
        "quantity": str(item.quantity),
        "name": item.name,
        "number": item.number,
        "material": item.material,
        "mass": mass_text(item.mass) if item.mass is not None else "",
    }


def parts_list_box(wanted: PartsList, count: int, corner: Point) -> Box:
    """The box of a parts list of *count* items whose lower right corner lies at *corner*."""
    width = sum(_width(c, wanted.columns) for c in wanted.columns)
    return corner[0] - width, corner[1], corner[0], corner[1] + (count + 1) * ROW


def parts_list(pencil: Pencil, wanted: PartsList, items: Sequence[Item], corner: Point) -> Box:
    """The parts list, its heading at the bottom and items upward, as it stands on a title block; its box."""
    box = parts_list_box(wanted, len(items), corner)
    rows: list[dict[str, str]] = [{str(c): _COLUMNS[c][0] for c in wanted.columns}, *(part_row(item) for item in items)]
    widths = [_width(c, wanted.columns) for c in wanted.columns]
    draw_table(pencil, widths, [[row[c] for c in wanted.columns] for row in rows], box, upward=True)
    return box


def draw_table(pencil: Pencil, widths: Sequence[float], rows: Sequence[Sequence[str]], box: Box, upward: bool) -> None:
    """A table of texts, columns of *widths* mm, in a box; rows run from its top down, or *upward*; what is too long is cut."""
    x0, y0, x1, y1 = box
    for number, row in enumerate(rows):
        low = y0 + number * ROW if upward else y1 - (number + 1) * ROW
        x = x0
        for width, text in zip(widths, row, strict=True):
            pencil.text(_cut(text, width - 2), (x + 1, low + (ROW - LETTERING) / 2), LETTERING)
            x += width
    for number in range(len(rows) + 1):
        y = y0 + number * ROW
        edge = EdgeClass.FRAME if number in (0, len(rows)) else EdgeClass.TABLE
        pencil.line((x0, y), (x1, y), edge)
    x = x0
    for number in range(len(widths) + 1):
        pencil.line((x, y0), (x, y1), EdgeClass.FRAME if number in (0, len(widths)) else EdgeClass.TABLE)
        x += widths[number] if number < len(widths) else 0


@dataclass(frozen=True)
class Hole:
    """A hole as seen square: its tag, place from the origin and diameter, model mm, and where it lies in the plane."""

    tag: str
    x: float
    y: float
    diameter: float
    plane: Point


def holes(
    wanted: HoleTable, frame: Frame, facts: SourceFacts, paths: Sequence[str], seen: set[tuple[float, float, float]]
) -> list[Hole]:
    """The holes of a view from left to right and upward, those of one diameter under one letter.

    :param seen: the circles that the view draws, as rounded centre and radius in the view's plane, model mm.
    """
    found: dict[tuple[float, float, float], tuple[float, float, float]] = {}
    for path in paths:
        own = facts.of(path)
        if own is None:
            continue
        for row in own.circles:
            if row[8] and row[7] > 6.28 and abs(abs(row[3:6] @ frame.axes[2]) - 1) < 1e-9:
                x, y = frame.plane(row[:3]).tolist()
                key = (round(x, 3), round(y, 3), round(float(row[6]), 3))
                if key in seen:
                    found[key] = (x, y, float(row[6]))
    origin = _origin(wanted, frame, facts)
    diameters = sorted({round(2 * r, 4) for _, _, r in found.values()})
    letters = {d: "ABCDEFGHJKLMNPQRSTUVWXYZ"[n % 24] for n, d in enumerate(diameters)}
    counts: dict[str, int] = {}
    rows = []
    for x, y, r in sorted(found.values(), key=lambda h: (round(2 * h[2], 4), round(h[0], 4), round(h[1], 4))):
        letter = letters[round(2 * r, 4)]
        counts[letter] = counts.get(letter, 0) + 1
        rows.append(Hole(f"{letter}{counts[letter]}", x - origin[0], y - origin[1], 2 * r, (x, y)))
    return rows


def _origin(wanted: HoleTable, frame: Frame, facts: SourceFacts) -> Point:
    if wanted.origin is not None:
        row = resolve(wanted.origin, facts)
        if row is not None:
            point = row[:3] if wanted.origin.end != 1 else row[3:6]
            x, y = frame.plane(point).tolist()
            return x, y
    return (frame.box[0], frame.box[1]) if frame.box else (0.0, 0.0)


_HOLE_WIDTHS = (13.0, 19.0, 19.0, 17.0)


def hole_table_box(count: int, corner: Point) -> Box:
    """The box of a table of so many holes with its upper left at *corner*."""
    return corner[0], corner[1] - (count + 1) * ROW, corner[0] + sum(_HOLE_WIDTHS), corner[1]


def hole_table(pencil: Pencil, rows: Sequence[Hole], frame: Frame, corner: Point, origin: Point) -> Box:
    """The table with its upper left at *corner*, tags beside the holes, and a mark at the origin; the table's box."""
    text = [("Hole", "X", "Y", "Ø"), *((h.tag, format_mm(h.x), format_mm(h.y), format_mm(h.diameter)) for h in rows)]
    box = hole_table_box(len(rows), corner)
    draw_table(pencil, _HOLE_WIDTHS, text, box, upward=False)
    for hole in rows:
        x, y = frame.by.points(np.array(hole.plane)).tolist()
        reach = (hole.diameter / 2 * frame.by.scale) * 0.7071 + 1.0
        pencil.text(hole.tag, (x + reach, y + reach), LETTERING)
    x, y = frame.by.points(np.array(origin)).tolist()
    pencil.arc((x, y), 1.6)
    pencil.line((x, y), (x + 9, y))
    pencil.arrow((x + 9, y), (1, 0))
    pencil.line((x, y), (x, y + 9))
    pencil.arrow((x, y + 9), (0, 1))
    return box
