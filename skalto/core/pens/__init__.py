"""Which pen draws what: widths and line types by edge class."""

from __future__ import annotations

from dataclasses import dataclass

from skalto.core.artwork import EdgeClass
from skalto.core.paper import ISO_FRAME_WIDTH


@dataclass(frozen=True)
class Pen:
    """A line width in mm, a line type as dashes and gaps in multiples of the width, and whether its ends are round."""

    width: float
    dashes: tuple[float, ...] = ()
    round_ends: bool = True


WIDE, NARROW = 0.5, 0.25
"""A wide and a narrow line, mm, 2 : 1 (ISO 128-2, from memory)."""

DASHED = (12.0, 3.0)
"""Line type 02: dash 12 d, gap 3 d (ISO 128-2, from memory)."""

SHOP_DRAWING: dict[EdgeClass, Pen] = {
    EdgeClass.VISIBLE: Pen(WIDE),
    EdgeClass.OUTLINE: Pen(WIDE),
    EdgeClass.SMOOTH: Pen(NARROW),
    EdgeClass.HIDDEN: Pen(NARROW, DASHED, round_ends=False),
    EdgeClass.FRAME: Pen(ISO_FRAME_WIDTH, round_ends=False),
}
"""Pens by edge class: visible edges and outlines wide, the rest narrow, hidden dashed (ISO 128-2, from memory)."""
