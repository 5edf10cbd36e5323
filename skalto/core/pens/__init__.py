"""Which pen draws what: widths and line types by edge class."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from skalto.core.artwork import EdgeClass, Tags
from skalto.core.paper import ISO_FRAME_WIDTH


@dataclass(frozen=True)
class Pen:
    """A line width in mm, a line type as dashes and gaps in multiples of the width, whether its ends are round, and its colour,
    red, green and blue of 0 to 255."""

    width: float
    dashes: tuple[float, ...] = ()
    round_ends: bool = True
    colour: tuple[int, int, int] = (0, 0, 0)


WIDE, NARROW = 0.5, 0.25
"""A wide and a narrow line, mm, 2 : 1 (ISO 128-2, from memory)."""

DASHED = (12.0, 3.0)
"""Line type 02: dash 12 d, gap 3 d (ISO 128-2, from memory)."""

CHAIN = (24.0, 3.0, 0.5, 3.0)
"""Line type 04: long dash 24 d, gap 3 d, dot 0.5 d, gap 3 d (ISO 128-2, from memory)."""

HAIRLINE = 0.0254
"""The thinnest line, mm: 0.001 in, which a cutter follows (common practice)."""

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
    EdgeClass.DRAWN: Pen(NARROW),
}
"""Pens by edge class: visible edges and outlines wide, the rest narrow, hidden dashed (ISO 128-2, from memory)."""


def pen_for(tags: Tags, pens: Mapping[EdgeClass, Pen]) -> Pen:
    """The pen that draws a stroke: its class's, with what a drawing says of its own width, colour and line type."""
    pen = pens[tags.edge_class]
    if tags.width is None and tags.colour is None and not tags.dashes:
        return pen
    width = pen.width if tags.width is None else max(tags.width, HAIRLINE)
    # a dot is half a width long (ISO 128-2, from memory)
    dashes = tuple(max(length / width, 0.5) for length in tags.dashes) or pen.dashes
    return Pen(width, dashes, pen.round_ends and not any(dashes), tags.colour or pen.colour)
