"""What a sheet carries about its views: frame, centring marks, grid references, title block, print-control bar."""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np

from skalto.core.annotation.pencil import Pencil
from skalto.core.annotation.title_block import ISO, LABELS, TEMPLATES, Template
from skalto.core.artwork import Artwork, EdgeClass, Polylines, Tags
from skalto.core.geometry import Box
from skalto.core.lettering import length
from skalto.core.paper import FrameStyle
from skalto.core.quantities import MM_PER_INCH
from skalto.core.sheets.sheet import Arrangement, Furniture, SheetSpec

GRID_FIELD = 50.0
"""Length of a grid reference's field, mm, counted from the centring marks (ISO 5457, from memory)."""

GRID_WIDTH, GRID_HEIGHT = 5.0, 3.5
"""Width of the border that grid references stand in, and the height of their lettering, mm (ISO 5457, from memory)."""

CENTRING_REACH = 5.0
"""How far a centring mark reaches inside the frame, mm (ISO 5457, from memory)."""

LETTERS = "ABCDEFGHJKLMNPQRSTUVWXYZ"
"""Down the sheet, without I and O (ISO 5457, from memory)."""


@dataclass(frozen=True)
class TitleCell:
    """A field of the title block on the sheet: its key, its box in sheet mm, and what it says."""

    key: str
    label: str
    box: Box
    value: str


def title_box(sheet: SheetSpec) -> tuple[Template, Box] | None:
    """The title block's template and its box in the lower right corner, or None without one or where it has no room."""
    frame = sheet.frame_box()
    if frame is None or Furniture.TITLE not in sheet.furniture:
        return None
    template = TEMPLATES.get(sheet.frame, ISO)
    x1, y0 = frame[2], frame[1]
    if frame[2] - frame[0] < template.width - 1e-6 or frame[3] - frame[1] < template.height * 1.5:
        return None
    return template, (x1 - template.width, y0, x1, y0 + template.height)


def title_cells(sheet: SheetSpec, values: dict[str, str]) -> list[TitleCell]:
    """The title block's fields as they lie on the sheet."""
    found = title_box(sheet)
    if found is None:
        return []
    template, (x0, y0, _, _) = found
    return [
        TitleCell(c.key, LABELS[c.key], (x0 + c.x, y0 + c.y, x0 + c.x + c.width, y0 + c.y + c.height), values.get(c.key, ""))
        for c in template.cells
    ]


def _frame_lines(box: Box) -> Polylines:
    x0, y0, x1, y1 = box
    corners = np.array(((x0, y0), (x1, y0), (x1, y1), (x0, y1)))
    return Polylines(Tags(EdgeClass.FRAME), corners, np.zeros(4), np.array((0, 4)), np.array((True,)))


def fields_of_grid(low: float, high: float, middle: float) -> list[tuple[float, float]]:
    """The fields between *low* and *high*: 50 mm each from the middle outward, the rest at the ends; an even number."""
    half = max(1, int((high - low) / 2 / GRID_FIELD + 1e-9))
    inner = [middle + k * GRID_FIELD for k in range(-half + 1, half)]
    marks = [low, *inner, high]
    return list(itertools.pairwise(marks))


def _grid(pencil: Pencil, frame: Box, width: float, height: float) -> None:
    """Letters down, numbers across, in the border outside the frame."""
    x0, y0, x1, y1 = frame
    outer = (max(x0 - GRID_WIDTH, 0), max(y0 - GRID_WIDTH, 0), min(x1 + GRID_WIDTH, width), min(y1 + GRID_WIDTH, height))
    if min(x0 - outer[0], y0 - outer[1], outer[2] - x1, outer[3] - y1) < GRID_WIDTH - 1e-6:
        return
    pencil.rectangle(*outer, EdgeClass.TABLE)
    drop = GRID_HEIGHT / 2
    columns, rows = fields_of_grid(x0, x1, (x0 + x1) / 2), fields_of_grid(y0, y1, (y0 + y1) / 2)
    for number, (a, b) in enumerate(columns, 1):
        for low, high in ((outer[1], y0), (y1, outer[3])):
            if number > 1:
                pencil.line((a, low), (a, high), EdgeClass.TABLE)
            pencil.text(str(number), ((a + b) / 2, (low + high) / 2 - drop), GRID_HEIGHT, 0, 0.5)
    for number, (a, b) in enumerate(reversed(rows)):
        for low, high in ((outer[0], x0), (x1, outer[2])):
            if number:
                pencil.line((low, b), (high, b), EdgeClass.TABLE)
            pencil.text(LETTERS[number % len(LETTERS)], ((low + high) / 2, (a + b) / 2 - drop), GRID_HEIGHT, 0, 0.5)


def _centring(pencil: Pencil, frame: Box, width: float, height: float) -> None:
    x0, y0, x1, y1 = frame
    middle_x, middle_y, reach = (x0 + x1) / 2, (y0 + y1) / 2, CENTRING_REACH
    for a, b in (
        ((middle_x, max(y0 - 10, 0)), (middle_x, y0 + reach)),
        ((middle_x, min(y1 + 10, height)), (middle_x, y1 - reach)),
        ((max(x0 - 10, 0), middle_y), (x0 + reach, middle_y)),
        ((min(x1 + 10, width), middle_y), (x1 - reach, middle_y)),
    ):
        pencil.line(a, b, EdgeClass.FRAME)


def projection_symbol(pencil: Pencil, centre: tuple[float, float], size: float, arrangement: Arrangement) -> None:
    """The symbol of the arrangement: a truncated cone from the side and from its small end (ISO 5456-2, from memory)."""
    x, y = centre
    large, small = size / 2, size / 4
    long = size
    gap = size * 0.55
    total = long + gap + 2 * large
    left = x - total / 2
    first = arrangement is Arrangement.FIRST
    # the view on the small end lies on the far side of the cone in first angle
    cone = left if first else left + 2 * large + gap
    rings = left + long + gap + large if first else left + large
    pencil.path(
        ((cone, y - small), (cone + long, y - large), (cone + long, y + large), (cone, y + small)),
        EdgeClass.VISIBLE,
        closed=True,
    )
    for radius in (large, small):
        pencil.arc((rings, y), radius, edge_class=EdgeClass.VISIBLE)
    for low, high in ((cone - 1.2, cone + long + 1.2), (rings - large - 1.2, rings + large + 1.2)):
        pencil.line((low, y), (high, y), EdgeClass.CENTRE)
    pencil.line((rings, y - large - 1.2), (rings, y + large + 1.2), EdgeClass.CENTRE)


def _fitted(text: str, height: float, room: float) -> tuple[str, float]:
    """A text that fits its field: lower first, in the standard's steps; cut short when even the lowest is too long."""
    for lower in (height, 2.5, 1.8):
        if lower <= height and length(text, lower) <= room:
            return text, lower
    while text and length(text + "…", 1.8) > room:
        text = text[:-1]
    return text + "…", 1.8


def _title(pencil: Pencil, sheet: SheetSpec, values: dict[str, str]) -> None:
    found = title_box(sheet)
    if found is None:
        return
    _, box = found
    pencil.rectangle(*box, EdgeClass.FRAME)
    lettering = {cell.key: cell.lettering for cell in found[0].cells}
    for cell in title_cells(sheet, values):
        x0, y0, x1, y1 = cell.box
        pencil.rectangle(x0, y0, x1, y1, EdgeClass.TABLE)
        label, low = _fitted(cell.label, 1.8, x1 - x0 - 2)
        pencil.text(label, (x0 + 1, y1 - 1 - low), low)
        if cell.key == "projection":
            projection_symbol(pencil, ((x0 + x1) / 2, y0 + (y1 - y0 - 2.8) / 2), 4.2, sheet.arrangement)
            continue
        text, height = _fitted(cell.value, lettering[cell.key], x1 - x0 - 2.4)
        middle = y0 + max((y1 - y0 - 2.8 - height) / 2, 0.8)
        pencil.text(text, (x0 + 1.2, middle), height)


def _rule(pencil: Pencil, frame: Box | None, width: float, note: str) -> None:
    """100 mm and 4 in to hold a ruler against, at the lower left; the *note* follows the 100 mm."""
    x, y = (frame[0] + 6, frame[1] + 6) if frame else (6.0, 6.0)
    inch = float(MM_PER_INCH)
    if x + 4 * inch + 20 > width:
        return
    pencil.line((x, y), (x + 100, y), EdgeClass.TABLE)
    for k in range(11):
        pencil.line((x + k * 10, y), (x + k * 10, y - (3 if k % 5 == 0 else 1.8)), EdgeClass.TABLE)
    pencil.text(f"100 mm{note}", (x + 102, y - 2.2), 1.8)
    y += 1.6
    pencil.line((x, y), (x + 4 * inch, y), EdgeClass.TABLE)
    for k in range(17):
        pencil.line((x + k * inch / 4, y), (x + k * inch / 4, y + (3 if k % 4 == 0 else 1.8)), EdgeClass.TABLE)
    pencil.text("4 in", (x + 4 * inch + 2, y + 0.6), 1.8)


def furnish(sheet: SheetSpec, values: dict[str, str], note: str = "") -> Artwork:
    """Frame and all about it; nothing on a clean sheet. *values* are the title block's fields, the *note* stands at the
    print-control bar."""
    if sheet.clean:
        return Artwork()
    paper = sheet.paper()
    width, height = float(paper.width), float(paper.height)
    frame = sheet.frame_box()
    pencil = Pencil()
    if frame is not None:
        if Furniture.GRID in sheet.furniture:
            _grid(pencil, frame, width, height)
        if Furniture.CENTRING in sheet.furniture and sheet.frame is FrameStyle.ISO:
            _centring(pencil, frame, width, height)
        _title(pencil, sheet, values)
    if Furniture.RULE in sheet.furniture:
        _rule(pencil, frame, width, note)
    drawn = pencil.artwork()
    return Artwork((_frame_lines(frame),)) + drawn if frame is not None else drawn
