"""The stand-in cutter's settings: its bed, how it tells cuts from engraving, its motion, and its chart by material."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from skalto.core.cutting.choices import Codes, Corner
from skalto.core.errors import InputError
from skalto.core.pens.pen import HAIRLINE
from skalto.core.typed import Line

Speed = Annotated[float, Field(gt=0, le=5000)]


class ChartRow(BaseModel):
    """How a material of a thickness is worked: speeds, mm/s, power, per cent, how many passes, dots per inch, and the *kerf*
    that the beam takes, mm. The values that ship are invented: try yours on a scrap."""

    model_config = ConfigDict(frozen=True)

    material: Line = Field(min_length=1, max_length=80)
    thickness: float = Field(gt=0, le=100)
    cut: Speed
    score: Speed
    engrave: Speed
    power: int = Field(default=100, ge=1, le=100)
    passes: int = Field(default=1, ge=1, le=20)
    dpi: int = Field(default=500, ge=50, le=2400)
    kerf: float = Field(default=0.15, ge=0, le=10)


_SAME = 0.05
"""Plates nearer in thickness than this, mm, are alike."""

CHART: tuple[ChartRow, ...] = (
    ChartRow(material="Plywood", thickness=3, cut=18, score=120, engrave=400, power=80, kerf=0.15),
    ChartRow(material="Plywood", thickness=6, cut=8, score=120, engrave=400, power=100, kerf=0.2),
    ChartRow(material="Grey board", thickness=2, cut=30, score=150, engrave=500, power=55, kerf=0.15),
    ChartRow(material="Acrylic", thickness=3, cut=14, score=100, engrave=400, power=85, kerf=0.18),
    ChartRow(material="Steel", thickness=8, cut=15, score=100, engrave=300, power=100, kerf=0.4),
    ChartRow(material="Steel", thickness=10, cut=11, score=100, engrave=300, power=100, kerf=0.45),
)
"""The chart that ships; its values are invented."""


class Machine(BaseModel):
    """A cutter's settings: the size of its bed, *width* × *height*, mm, the *corner* to which a job goes, the widest line, mm,
    that it follows as a *hairline*, its *codes*, and its motion: *rapid* speed between cuts, mm/s, *acceleration*, mm/s², and
    that with which rows are turned round, *deviation* at a corner, mm, the time of a *pierce*, s, and its *chart*."""

    model_config = ConfigDict(frozen=True)

    width: float = Field(default=1000.0, gt=0, le=20_000)
    height: float = Field(default=700.0, gt=0, le=20_000)
    corner: Corner = "top-left"
    hairline: float = Field(default=round(HAIRLINE * 1.5, 4), gt=0, le=2)
    codes: Codes = Codes()
    rapid: Speed = 500.0
    acceleration: float = Field(default=3000.0, gt=0, le=1e6)
    row_acceleration: float = Field(default=20_000.0, gt=0, le=1e6)
    deviation: float = Field(default=0.02, gt=0, le=5)
    pierce: float = Field(default=0.1, ge=0, le=60)
    chart: tuple[ChartRow, ...] = Field(default=CHART, max_length=200)

    @property
    def follows(self) -> float:
        """The widest line, mm, that is followed rather than engraved: its hairline, and what its own codes say."""
        return max(self.hairline, 1.05 * self.codes.cut.width)

    @property
    def least_kerf(self) -> float:
        """What its beam takes at the least, of all that its chart has, mm; 0 where the chart is empty."""
        return min((row.kerf for row in self.chart), default=0.0)

    def nearest(self, material: str, thickness: float) -> tuple[ChartRow, str]:
        """The row for a plate, and where the chart has none for it a sentence on what is taken instead.

        :raises InputError: when the chart is empty.
        """
        try:
            row = self.row(material, thickness)
        except InputError:
            row = min(self.rows(), key=lambda own: abs(own.thickness - thickness)) if thickness else self.row()
            return row, f"The chart has no {material}: {row.material} of {row.thickness:g} mm is taken instead."
        if material and thickness and abs(row.thickness - thickness) > _SAME:
            return row, f"The chart has no {row.material} of {thickness:g} mm: that of {row.thickness:g} mm is taken."
        return row, ""

    def rows(self) -> tuple[ChartRow, ...]:
        """:raises InputError: when the chart is empty."""
        if not self.chart:
            raise InputError("The cutter's chart is empty: add a material to it.")
        return self.chart

    def row(self, material: str = "", thickness: float = 0.0) -> ChartRow:
        """The chart's row for a material and a thickness: the nearest thickness of that material, the first row where none is
        named.

        :raises InputError: when the chart has no such material.
        """
        rows = self.rows()
        if material:
            rows = tuple(row for row in rows if row.material.casefold() == material.casefold())
        if not rows:
            known = ", ".join(dict.fromkeys(row.material for row in self.chart))
            raise InputError(f"The cutter's chart has no {material}: it has {known}.")
        return min(rows, key=lambda row: abs(row.thickness - thickness)) if thickness else rows[0]
