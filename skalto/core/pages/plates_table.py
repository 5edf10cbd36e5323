"""What is cut from which plate: rows for CSV, and the same as a table on a sheet."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import astuple, dataclass, fields

from skalto.core.annotation.parts_table import ROW, draw_table
from skalto.core.annotation.pencil import Pencil
from skalto.core.geometry import Box, Point
from skalto.core.geometry.profile import Operation
from skalto.core.pages.cut_pages import plate_area
from skalto.core.pages.page import NamedPlate
from skalto.core.spreadsheets import csv_of

_HEADINGS = ("Plate", "Stock", "Part", "Qty", "Cut, m", "Pierces", "Yield")
_WIDTHS = (13.0, 52.0, 58.0, 11.0, 17.0, 15.0, 14.0)


@dataclass(frozen=True)
class PlateRow:
    """A part on a plate, or with *part* '' the plate as a whole: quantity, area, mm², cutting length, mm, pierces, scored
    length, mm, mass, g, None where it is not known; and of the plate the share that becomes parts and its price."""

    plate: int
    sheet: str
    width: float
    height: float
    thickness: float
    material: str
    part: str
    quantity: int
    area: float
    cut: float
    pierces: int
    scored: float
    mass: float | None
    share: float | None = None
    price: float | None = None

    @property
    def stock(self) -> str:
        """Size and material of the plate."""
        sizes = f"{self.width:g} × {self.height:g}" + (f" × {self.thickness:g}" if self.thickness else "")
        return f"{sizes} {self.material}".strip()


def plate_rows(plates: Sequence[NamedPlate]) -> list[PlateRow]:
    """The rows of some plates in order, each as a whole, then its parts by name."""
    found = []
    for number, own in enumerate(plates, 1):
        names = sorted({part.name for part in own.page.parts})
        found.append(_row(number, own, None))
        found += [_row(number, own, name) for name in names]
    return found


def _row(number: int, own: NamedPlate, name: str | None) -> PlateRow:
    page, plate = own.page, own.page.plate
    parts = [part for part in page.parts if name in (None, part.name)]
    ids = {part.id for part in parts}
    paths = [path for path in page.plan.paths if path.part in ids or name is None]
    area = math.fsum(part.profile.area for part in parts)
    known = plate.density and plate.thickness
    return PlateRow(
        plate=number, sheet=own.name, width=plate.width, height=plate.height, thickness=plate.thickness,
        material=plate.material,
        part=name or "", quantity=len(parts), area=area,
        cut=math.fsum(path.course.length for path in paths if path.operation is Operation.CUT),
        pierces=sum(path.operation is Operation.CUT for path in paths),
        scored=math.fsum(path.course.length for path in paths if path.operation not in (Operation.CUT, Operation.ENGRAVE)),
        mass=area * plate.thickness * plate.density / 1000 if known else None,
        share=area / plate_area(plate).area if name is None else None, price=plate.price if name is None else None,
    )  # fmt: skip


def rows_as_csv(rows: Sequence[PlateRow]) -> str:
    """Rows as CSV (RFC 4180), a heading first; lengths in mm, areas in mm², masses in g."""
    told = ([round(v, 4) if isinstance(v, float) else v for v in astuple(row)] for row in rows)
    return csv_of(([own.name for own in fields(PlateRow)], *told))


def table_box(rows: Sequence[PlateRow], corner: Point) -> Box:
    """The box of the table with its upper left at *corner*."""
    return corner[0], corner[1] - (len(rows) + 1) * ROW, corner[0] + sum(_WIDTHS), corner[1]


def plates_table(pencil: Pencil, rows: Sequence[PlateRow], corner: Point) -> Box:
    """The table with its upper left at *corner*; its box."""
    box = table_box(rows, corner)
    draw_table(pencil, _WIDTHS, [_HEADINGS, *(_cells(row) for row in rows)], box, upward=False)
    return box


def _cells(row: PlateRow) -> tuple[str, ...]:
    whole = not row.part
    return (
        str(row.plate) if whole else "", row.stock if whole else "", row.part or row.sheet, str(row.quantity),
        f"{row.cut / 1000:.3f}", str(row.pierces), f"{row.share:.1%}" if row.share is not None else "",
    )  # fmt: skip
