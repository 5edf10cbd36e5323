"""What is written on a view or a sheet beside the model's lines: dimensions, notes, tables, as written down in a job."""

from __future__ import annotations

import re
from enum import StrEnum
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator

from skalto.core.errors import InputError
from skalto.core.ids import ShortId
from skalto.core.lengths import Millimetres, ModelMillimetres
from skalto.core.typed import Line, Text, Words

Point = tuple[Millimetres, Millimetres]
ModelPoint = tuple[ModelMillimetres, ModelMillimetres]


class Ref(BaseModel):
    """An edge of the model that something is attached to.

    *component* and *edge* (its number in the part) find it again; *geometry* is where it was, model mm: both ends of a line
    (6 numbers), or centre, axis and radius of a circle (7). *end* 0 or 1 is an end of a line; None is the whole edge, or
    a circle's centre.
    """

    model_config = ConfigDict(frozen=True)

    component: Text
    edge: int
    kind: Literal["line", "circle"]
    geometry: tuple[float, ...]
    end: Literal[0, 1] | None = None


class DimensionKind(StrEnum):
    """What a dimension measures."""

    HORIZONTAL = "horizontal"
    VERTICAL = "vertical"
    ALIGNED = "aligned"
    DIAMETER = "diameter"
    RADIUS = "radius"
    ANGLE = "angle"
    WIDTH = "width"
    HEIGHT = "height"


_TOLERANCE = re.compile(r"\s*|±\s*[\d.,]+|\+/-\s*[\d.,]+|[+-]?\s*[\d.,]+\s*/\s*(?:[+-]\s*)?[\d.,]+|[A-Za-z]{1,2}\d{1,2}")


class Dimension(BaseModel):
    """A dimension attached to one or two edges of the model; its value is the model's (ISO 129-1).

    *offset* is how far the dimension line lies from what it measures, mm on paper; for a diameter, radius or angle the
    distance of its figure from the centre. *along* shifts the figure along the line, mm; *angle* is the direction of
    a leader, degrees. *was* is the value before a newer revision came in, until someone has seen it.
    """

    model_config = ConfigDict(frozen=True)

    id: ShortId
    kind: DimensionKind
    first: Ref | None = None
    second: Ref | None = None
    offset: Millimetres = 10.0
    along: Millimetres = 0.0
    angle: float = 45.0
    prefix: Line = Field(default="", max_length=40)
    suffix: Line = Field(default="", max_length=40)
    tolerance: Line = Field(default="", max_length=24)
    decimals: int = Field(default=2, ge=0, le=4)
    was: float | None = None
    lost: bool = False

    @field_validator("tolerance")
    @classmethod
    def _tolerance(cls, text: str) -> str:
        if not _TOLERANCE.fullmatch(text):
            raise ValueError(f"“{text}” is not a tolerance: write ±0.1, +0.2/-0.1, or a class such as H7.")
        return text.strip().replace("+/-", "±")


class Section(BaseModel):
    """The plane of a section: its trace from *start* to *end* in the parent view's plane, model mm, seen from the side that
    lies to the left of that direction; what stays *uncut*; whether cut faces are hatched."""

    model_config = ConfigDict(frozen=True)

    letter: Words = Field(pattern=r"^[A-Z]{1,2}$")
    start: ModelPoint
    end: ModelPoint
    uncut: frozenset[Text] = frozenset()
    hatched: bool = True


class Detail(BaseModel):
    """A circle of the parent view's plane, model mm, that is shown larger."""

    model_config = ConfigDict(frozen=True)

    letter: Words = Field(pattern=r"^[A-Z]{1,2}$")
    centre: ModelPoint
    radius: float = Field(gt=0, le=100_000)


class Note(BaseModel):
    """A text on the sheet, its lines from *place* (upper left, mm) downward; with *target*, a point of a view's plane
    (model mm), a leader runs to it. One that is there *always* stays on a sheet without its furniture, for the cutter to
    see."""

    model_config = ConfigDict(frozen=True)

    id: ShortId
    text: Words = Field(min_length=1, max_length=2000)
    place: Point
    height: float = Field(default=3.5, ge=0.5, le=100)
    angle: float = 0.0
    view: Text | None = None
    target: ModelPoint | None = None
    always: bool = False


class HoleTable(BaseModel):
    """Holes of a view with their places from *origin* (None: the lower left of what the view shows) and diameters."""

    model_config = ConfigDict(frozen=True)

    place: Point | None = None
    origin: Ref | None = None


class BendTable(BaseModel):
    """The bends of a flat pattern: where the table's upper left corner lies (None: beside the view)."""

    model_config = ConfigDict(frozen=True)

    place: Point | None = None


class PlatesTable(BaseModel):
    """What is cut from which plate of a cutting list: where the table's upper left corner lies (None: within the frame)."""

    model_config = ConfigDict(frozen=True)

    cut_list: Text
    place: Point | None = None


class PartsList(BaseModel):
    """The parts list of what a view shows: where its lower right corner lies (None: on the title block); whether balloons refer
    to its items, or to the marks of the parts that have one."""

    model_config = ConfigDict(frozen=True)

    view: Text
    place: Point | None = None
    columns: tuple[Literal["item", "mark", "quantity", "name", "number", "material", "mass"], ...] = (
        "item", "quantity", "name", "number", "material", "mass",
    )  # fmt: skip
    balloons: bool = True
    refer: Literal["item", "mark"] = "item"
    moved: dict[int, Point] = {}


def refuse_short(section: Section) -> Section:
    """:raises InputError: when the plane's trace has no length."""
    (x0, y0), (x1, y1) = section.start, section.end
    if (x1 - x0) ** 2 + (y1 - y0) ** 2 < 1e-6:
        raise InputError("The cutting plane has no length: draw it from one side of the view to the other.")
    return section
