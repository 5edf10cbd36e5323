"""The stand-in cutter's settings: its bed, how it tells cuts from engraving, its motion, and its chart by material."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, field_validator

from skalto.core.cutting.choices import Codes, Corner
from skalto.core.errors import InputError
from skalto.core.geometry.profile import Operation
from skalto.core.pens.pen import HAIRLINE

Speed = Annotated[float, Field(gt=0, le=5000)]


class ChartRow(BaseModel):
    """How a material of a thickness is worked: speeds, mm/s, power, per cent, how many passes, dots per inch, and the *kerf*
    that the beam takes, mm. The values that ship are invented: try yours on a scrap."""

    model_config = ConfigDict(frozen=True)

    material: str = Field(min_length=1, max_length=80)
    thickness: float = Field(gt=0, le=100)
    cut: Speed
    score: Speed
    engrave: Speed
    power: int = Field(default=100, ge=1, le=100)
    passes: int = Field(default=1, ge=1, le=20)
    dpi: int = Field(default=500, ge=50, le=2400)
    kerf: float = Field(default=0.15, ge=0, le=10)


CHART: tuple[ChartRow, ...] = (
    ChartRow(material="Plywood", thickness=3, cut=18, score=120, engrave=400, power=80, kerf=0.15),
    ChartRow(material="Plywood", thickness=6, cut=8, score=120, engrave=400, power=100, kerf=0.2),
    ChartRow(material="Grey board", thickness=2, cut=30, score=150, engrave=500, power=55, kerf=0.15),
    ChartRow(material="Acrylic", thickness=3, cut=14, score=100, engrave=400, power=85, kerf=0.18),
    ChartRow(material="Steel", thickness=8, cut=15, score=100, engrave=300, power=100, kerf=0.4),
    ChartRow(material="Steel", thickness=10, cut=11, score=100, engrave=300, power=100, kerf=0.45),
)
"""The chart that ships; its values are invented."""


class OperationCode(BaseModel):
    """What a hairline of a *colour* stands for, and in a DXF file, which has layers for operations, what is on a *layer*."""

    model_config = ConfigDict(frozen=True)

    colour: str = Field(pattern=r"^#[0-9a-f]{6}$")
    layer: str = ""
    operation: Operation

    @field_validator("operation")
    @classmethod
    def _known(cls, operation: Operation) -> Operation:
        if operation not in (Operation.CUT, Operation.SCORE, Operation.ENGRAVE):
            raise ValueError("A code stands for cut, score or engrave.")
        return operation


def code_table(codes: Codes) -> tuple[OperationCode, ...]:
    """The table that goes with a file's codes."""
    rows = ((codes.cut, Operation.CUT), (codes.score, Operation.SCORE), (codes.engrave, Operation.ENGRAVE))
    return tuple(OperationCode(colour=code.colour, layer=code.layer, operation=operation) for code, operation in rows)


class Machine(BaseModel):
    """A cutter: the size of its *bed*, mm, the *corner* to which a job goes, the widest line, mm, that it follows as a
    *hairline*, its code table, and its motion: *rapid* speed between cuts, mm/s, *acceleration*, mm/s², *deviation* at a
    corner, mm, and the time of a *pierce*, s."""

    model_config = ConfigDict(frozen=True)

    width: float = Field(default=1000.0, gt=0, le=20_000)
    height: float = Field(default=700.0, gt=0, le=20_000)
    corner: Corner = "top-left"
    hairline: float = Field(default=HAIRLINE * 1.5, gt=0, le=2)
    codes: tuple[OperationCode, ...] = code_table(Codes())
    rapid: Speed = 500.0
    acceleration: float = Field(default=3000.0, gt=0, le=1e6)
    row_acceleration: float = Field(default=20_000.0, gt=0, le=1e6)
    deviation: float = Field(default=0.02, gt=0, le=5)
    pierce: float = Field(default=0.1, ge=0, le=60)
    chart: tuple[ChartRow, ...] = CHART

    def row(self, material: str = "", thickness: float = 0.0) -> ChartRow:
        """The chart's row for a material and a thickness: the nearest thickness of that material, the first row where none is
        named.

        :raises InputError: when the chart has no such material.
        """
        if not self.chart:
            raise InputError("The cutter's chart is empty: add a material to it.")
        if not material:
            rows = self.chart
        else:
            rows = tuple(row for row in self.chart if row.material.casefold() == material.casefold())
        if not rows:
            known = ", ".join(dict.fromkeys(row.material for row in self.chart))
            raise InputError(f"The cutter's chart has no {material}: it has {known}.")
        return min(rows, key=lambda row: abs(row.thickness - thickness)) if thickness else rows[0]
