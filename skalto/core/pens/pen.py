"""A pen, and the widths and line types that the trade knows."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from skalto.core.colour import BLACK, Colour


class Caps(StrEnum):
    """How a stroke ends (ISO 32000-1, 8.4.3.3): cut off square at its last point, in a half circle, or half a width further."""

    FLAT = "flat"
    ROUND = "round"
    SQUARE = "square"


class Joins(StrEnum):
    """How two pieces of a stroke meet (ISO 32000-1, 8.4.3.4)."""

    MITRE = "mitre"
    ROUND = "round"
    BEVEL = "bevel"


@dataclass(frozen=True)
class Pen:
    """A line width in mm, a line type as dashes and gaps in multiples of the width, how strokes end and join, and a colour."""

    width: float
    dashes: tuple[float, ...] = ()
    caps: Caps = Caps.ROUND
    joins: Joins = Joins.ROUND
    colour: Colour = BLACK


WIDTHS = (0.13, 0.18, 0.25, 0.35, 0.5, 0.7, 1.0, 1.4, 2.0)
"""Line widths, mm, each √2 times the one before (ISO 128-2, from memory)."""

HAIRLINE = 0.0254
"""The thinnest line, mm: 0.001 in, which a cutter follows (common practice)."""

_DASH, _GAP, _LONG, _SHORT, _DOT = 12.0, 3.0, 24.0, 6.0, 0.5
"""The elements of line types, in multiples of the width (ISO 128-2, from memory)."""

_D, _L, _K, _P = (_DASH, _GAP), (_LONG, _GAP), (_SHORT, _GAP), (_DOT, _GAP)

LINE_TYPES: dict[str, tuple[float, ...]] = {
    "continuous": (),
    "dashed": _D,
    "dashed, spaced": (_DASH, 18.0),
    "long-dashed dotted": _L + _P,
    "long-dashed double-dotted": _L + _P * 2,
    "long-dashed triplicate-dotted": _L + _P * 3,
    "dotted": _P,
    "long-dashed short-dashed": _L + _K,
    "long-dashed double-short-dashed": _L + _K * 2,
    "dashed dotted": _D + _P,
    "double-dashed dotted": _D * 2 + _P,
    "dashed double-dotted": _D + _P * 2,
    "double-dashed double-dotted": _D * 2 + _P * 2,
    "dashed triplicate-dotted": _D + _P * 3,
    "double-dashed triplicate-dotted": _D * 2 + _P * 3,
}
"""The line types 01 to 15, dashes and gaps in multiples of the width (ISO 128-2, from memory)."""

DASHED = LINE_TYPES["dashed"]
CHAIN = LINE_TYPES["long-dashed dotted"]
DOUBLE_CHAIN = LINE_TYPES["long-dashed double-dotted"]


def screened(colour: Colour, percent: int) -> Colour:
    """A colour with only so much of its ink: 100 is all of it, 0 none."""
    red, green, blue = (round(255 - (255 - v) * percent / 100) for v in colour)
    return red, green, blue
