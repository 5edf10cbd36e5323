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

CHAIN = (24.0, 3.0, 0.5, 3.0)
"""Line type 04: long dash 24 d, gap 3 d, dot 0.5 d, gap 3 d (ISO 128-2, from memory)."""

TABLE_WIDTH = 0.35
"""Lines of title block and tables, mm (common practice)."""

SHOP_DRAWING: dict[EdgeClass, Pen] = {
    EdgeClass.VISIBLE: Pen(WIDE),
    EdgeClass.OUTLINE: Pen(WIDE),
    EdgeClass.SMOOTH: Pen(NARROW),
    EdgeClass.HIDDEN: Pen(NARROW, DASHED, round_ends=False),
    EdgeClass.FRAME: Pen(ISO_FRAME_WIDTH, round_ends=False),
    EdgeClass.HATCHING: Pen(NARROW, round_ends=False),
    EdgeClass.CENTRE: Pen(NARROW, CHAIN, round_ends=False),
    EdgeClass.CUTTING: Pen(NARROW, CHAIN, round_ends=False),
    EdgeClass.CUTTING_END: Pen(WIDE, round_ends=False),
    EdgeClass.DIMENSION: Pen(NARROW, round_ends=False),
    EdgeClass.TABLE: Pen(TABLE_WIDTH),
    EdgeClass.TEXT: Pen(NARROW),
}
"""Pens by edge class: visible edges and outlines wide, the rest narrow, hidden dashed (ISO 128-2, from memory)."""
