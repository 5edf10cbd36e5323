"""How a flat pattern is written as DXF: which lines, on which layers, in which version, with which curves."""

from __future__ import annotations

from collections.abc import Mapping
from enum import StrEnum
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator

from skalto.core.typed import Line


class LineKind(StrEnum):
    """What a line of a flat pattern is."""

    OUTER = "outer contour"
    INNER = "inner contours"
    BEND_UP = "bend up"
    BEND_DOWN = "bend down"
    BEND_LIMIT = "bend limits"
    SCORE = "score and engraving"
    SUNK = "countersinks"
    FORMED = "formed features"
    OTHER_SIDE = "other side"
    MARK = "part mark"
    GRAIN = "grain"


LineType = Literal["continuous", "dashed", "chain", "dotted"]
_FORBIDDEN = set('<>/\\":;?*|=`,')


class LineWriting(BaseModel):
    """How one kind of line is written: whether at all, its *layer*, *colour* (a number of the DXF palette, 1 to 255), line
    type, width, mm, and whether the layer is *on*."""

    model_config = ConfigDict(frozen=True)

    written: bool = True
    layer: Line = Field(min_length=1, max_length=255)
    colour: int = Field(default=7, ge=1, le=255)
    line_type: LineType = "continuous"
    width: float = Field(default=0.25, ge=0, le=2.11)
    on: bool = True

    @field_validator("layer")
    @classmethod
    def _layer(cls, name: str) -> str:
        bad = "".join(sorted(set(name) & _FORBIDDEN))
        if bad or not name.strip():
            raise ValueError(f"A layer's name has none of {bad}: choose another." if bad else "A layer has a name.")
        return name.strip()


SHIPPED_LINES: dict[LineKind, LineWriting] = {
    LineKind.OUTER: LineWriting(layer="outline", colour=7, width=0.35),
    LineKind.INNER: LineWriting(layer="openings", colour=7, width=0.35),
    LineKind.BEND_UP: LineWriting(layer="bend-up", colour=4),
    LineKind.BEND_DOWN: LineWriting(layer="bend-down", colour=6, line_type="dashed"),
    LineKind.BEND_LIMIT: LineWriting(written=False, layer="bend-limits", colour=8, line_type="dotted"),
    LineKind.SCORE: LineWriting(layer="score", colour=3),
    LineKind.SUNK: LineWriting(layer="sunk", colour=2),
    LineKind.FORMED: LineWriting(layer="formed", colour=30),
    LineKind.OTHER_SIDE: LineWriting(written=False, layer="other-side", colour=9, line_type="dashed"),
    LineKind.MARK: LineWriting(written=False, layer="mark", colour=3),
    LineKind.GRAIN: LineWriting(written=False, layer="grain", colour=8, line_type="chain"),
}
"""Layers and colours of our own."""


class Version(StrEnum):
    """Releases of DXF."""

    R12 = "R12"
    R2000 = "R2000"
    R2010 = "R2010"
    R2018 = "R2018"


class Curves(StrEnum):
    """What becomes of curves that are neither lines nor arcs."""

    SPLINES = "splines"
    ARCS = "arcs"
    LINES = "lines"


class OtherSide(StrEnum):
    """When what is worked from the other face gets a file of its own."""

    NEVER = "never"
    NEEDED = "when there is something"
    ALWAYS = "always"
    SAID = "as a property of the part says"


class FlatWriting(BaseModel):
    """How a flat pattern is written as DXF.

    *curves* become splines, arcs or lines within *tolerance*, mm; contours are *joined* to closed polylines, or single
    entities; *mark* is the height of the part's mark, mm. The *other side* has a file of its own, with *affix* before or
    behind its name; where a property says whether, it is *said_by* the one of that name: yes, or anything but no."""

    model_config = ConfigDict(frozen=True)

    version: Version = Version.R2010
    curves: Curves = Curves.ARCS
    tolerance: float = Field(default=0.01, gt=0, le=1)
    joined: bool = True
    lines: dict[LineKind, LineWriting] = SHIPPED_LINES
    mark: float = Field(default=5.0, gt=0, le=100)
    other_side: OtherSide = OtherSide.NEVER
    affix: Line = Field(default="-side-b", max_length=40)
    before: bool = False
    said_by: Line = Field(default="Side B", max_length=40)

    @field_validator("lines")
    @classmethod
    def _complete(cls, lines: dict[LineKind, LineWriting]) -> dict[LineKind, LineWriting]:
        """Those that nothing is said of are written as they ship."""
        return SHIPPED_LINES | lines

    def of(self, kind: LineKind) -> LineWriting:
        """How a kind of line is written."""
        return self.lines[kind]

    def wants_other_side(self, something: bool, fields: Mapping[str, str]) -> bool:
        """Whether the other side gets a file of its own.

        :param something: whether there is something on it. :param fields: the properties of the part.
        """
        match self.other_side:
            case OtherSide.NEVER:
                return False
            case OtherSide.ALWAYS:
                return True
            case OtherSide.NEEDED:
                return something
            case OtherSide.SAID:
                known = {name.casefold(): text.strip().casefold() for name, text in fields.items()}
                return known.get(self.said_by.casefold(), "") not in ("", "no")

    def other_name(self, stem: str) -> str:
        """The file of the other side, without its ending."""
        return self.affix + stem if self.before else stem + self.affix
