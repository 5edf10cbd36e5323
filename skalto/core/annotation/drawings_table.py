"""The table of drawings on a sheet, such as the cover sheet of a pack."""

from __future__ import annotations

from collections.abc import Sequence

from skalto.core.annotation.parts_table import ROW, draw_table
from skalto.core.annotation.pencil import Pencil
from skalto.core.geometry import Box, Point
from skalto.core.sheets.listed import ListedDrawing

_HEADINGS = ("No.", "Drawing number", "Title", "Rev.", "Mark", "Format", "Scale")
_WIDTHS = (10.0, 34.0, 66.0, 12.0, 20.0, 20.0, 18.0)
"""As wide as a title block."""


def drawings_table(pencil: Pencil, rows: Sequence[ListedDrawing], corner: Point) -> Box:
    """The table with its upper left at *corner*, a row a drawing in order; its box."""
    box = corner[0], corner[1] - (len(rows) + 1) * ROW, corner[0] + sum(_WIDTHS), corner[1]
    told = [
        (str(place), row.number, row.title, row.revision, row.mark, row.format.removesuffix("mm"), row.scale)
        for place, row in enumerate(rows, 1)
    ]
    draw_table(pencil, _WIDTHS, [_HEADINGS, *told], box, upward=False)
    return box
