"""What a person chooses for cutting: the plate, how far apart, how parts may be turned, the kerf, tabs, lead-ins, order."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator, model_validator

from skalto.core.artwork import EdgeClass
from skalto.core.geometry.profile import Operation
from skalto.core.ids import ShortId
from skalto.core.lengths import Millimetres
from skalto.core.pens.pen import HAIRLINE, Caps, Joins
from skalto.core.pens.sets import PenRule, PenSet
from skalto.core.typed import Line, Text

Positive = Annotated[Millimetres, Field(gt=0, le=20_000)]
NotNegative = Annotated[Millimetres, Field(ge=0, le=1000)]


class Turning(StrEnum):
    """How parts may be turned."""

    ANY = "any"
    QUARTER = "quarter"
    HALF = "half"
    NONE = "none"

    @property
    def angles(self) -> tuple[float, ...] | None:
        """Degrees; None for any."""
        return {
            Turning.ANY: None, Turning.QUARTER: (0.0, 90.0, 180.0, 270.0), Turning.HALF: (0.0, 180.0), Turning.NONE: (0.0,)
        }[self]  # fmt: skip


class Grain(StrEnum):
    """The way that a plate's grain runs, as it lies."""

    NONE = "none"
    ALONG = "along the width"
    ACROSS = "along the height"


class Plate(BaseModel):
    """The stock: *width* × *height*, mm, or a *remnant*, the corners of its outline and of the holes in it; *count* of them,
    None for as many as it takes; *price* of one, in whatever money."""

    model_config = ConfigDict(frozen=True)

    name: Line = Field(default="", max_length=80)
    width: Positive
    height: Positive
    remnant: tuple[tuple[tuple[float, float], ...], ...] = ()
    thickness: NotNegative = 0.0
    material: Line = Field(default="", max_length=80)
    density: float = Field(default=0.0, ge=0, le=30)
    edge: NotNegative = 5.0
    grain: Grain = Grain.NONE
    count: int | None = Field(default=None, ge=0, le=10_000)
    price: float | None = Field(default=None, ge=0)

    @field_validator("remnant")
    @classmethod
    def _rings(cls, rings: tuple[tuple[tuple[float, float], ...], ...]) -> tuple[tuple[tuple[float, float], ...], ...]:
        if any(len(ring) < 3 for ring in rings):
            raise ValueError("A remnant's outline and its holes have three corners at least.")
        return rings

    @model_validator(mode="after")
    def _room(self) -> Plate:
        if 2 * self.edge >= min(self.width, self.height):
            raise ValueError(
                f"An edge margin of {self.edge:g} mm leaves nothing of a plate of {self.width:g} × {self.height:g} mm."
            )
        return self


class Code(BaseModel):
    """How an operation stands in the file: the *layer* that it is on, its *colour* and its line *width*, mm."""

    model_config = ConfigDict(frozen=True)

    layer: Line = Field(min_length=1, max_length=60)
    colour: Text = Field(pattern=r"^#[0-9a-f]{6}$")
    width: float = Field(gt=0, le=5)


class Codes(BaseModel):
    """A cutter's codes: its settings decide how it tells operations apart; as shipped, cuts are a hairline, which drivers
    follow (common practice), colours and layer names are our own."""

    model_config = ConfigDict(frozen=True)

    cut: Code = Code(layer="cut", colour="#000000", width=HAIRLINE)
    score: Code = Code(layer="score", colour="#1f6f5c", width=HAIRLINE)
    engrave: Code = Code(layer="engrave", colour="#b86e00", width=0.25)

    @property
    def rows(self) -> tuple[tuple[Code, Operation], ...]:
        """Each code with what it stands for."""
        return (self.cut, Operation.CUT), (self.score, Operation.SCORE), (self.engrave, Operation.ENGRAVE)

    def of(self, operation: Operation) -> Code:
        """The code of an operation; bend lines are scored."""
        if operation is Operation.CUT:
            return self.cut
        return self.engrave if operation is Operation.ENGRAVE else self.score

    def pens(self, others: PenSet) -> PenSet:
        """A pen set by these codes; what is no operation is drawn by *others*."""
        rules = tuple(
            PenRule(name=name, classes=(edge_class,), width=code.width, ink=code.colour, line_type="continuous", caps=Caps.FLAT,
                    joins=Joins.MITRE)
            for name, edge_class, code in (
                ("Cut", EdgeClass.CUT, self.cut), ("Score", EdgeClass.SCORE, self.score), 
                ("Engrave", EdgeClass.ENGRAVE, self.engrave),
            )
        )  # fmt: skip
        return others.model_copy(update={"rules": (*rules, *others.rules), "all_widths": None, "darken": False})


Corner = Literal["top-left", "top-right", "bottom-left", "bottom-right"]


class Tabs(BaseModel):
    """Bridges that hold a part in its plate: so many, *width* mm, on parts smaller than *below* mm², 0 for all."""

    model_config = ConfigDict(frozen=True)

    count: int = Field(default=0, ge=0, le=24)
    width: float = Field(default=0.5, gt=0, le=20)
    below: float = Field(default=0.0, ge=0)


class CutChoices(BaseModel):
    """How parts are laid and cut. *kerf* is the width that the beam takes; *compensated*, contours are offset by half of it;
    otherwise they stay at nominal, for a driver that offsets them. *lead_in* is the length of the way in from the waste, mm."""

    model_config = ConfigDict(frozen=True)

    gap: NotNegative = 2.0
    turning: Turning = Turning.QUARTER
    flips: bool = False
    kerf: float = Field(default=0.0, ge=0, le=20)
    compensated: bool = True
    corners: Literal["round", "sharp"] = "sharp"
    tabs: Tabs = Tabs()
    lead_in: float = Field(default=0.0, ge=0, le=100)
    common_cut: bool = False
    start: Corner = "top-left"
    codes: Codes = Codes()


class PlacedProfile(BaseModel):
    """A part on a plate: turned over about the y axis where *flipped*, then turned by *turn* degrees, then moved by (x, y)
    mm. A
    *pinned* one stays where it is when the rest is arranged."""

    model_config = ConfigDict(frozen=True)

    id: ShortId
    part: ShortId
    x: Millimetres
    y: Millimetres
    turn: float = 0.0
    flipped: bool = False
    pinned: bool = False
