"""The pen sets that ship, and how strokes are drawn that no rule speaks of."""

from __future__ import annotations

from skalto.core.artwork import EdgeClass
from skalto.core.paper import ISO_FRAME_WIDTH
from skalto.core.pens.pen import CHAIN, DASHED, DOUBLE_CHAIN, HAIRLINE, Caps, Joins, Pen
from skalto.core.pens.sets import PenRule, PenSet

WIDE, NARROW = 0.5, 0.25
"""A wide and a narrow line, mm, 2 : 1 (ISO 128-2, from memory)."""

TABLE_WIDTH = 0.35
"""Lines of title block and tables, mm (common practice)."""

_FLAT = Caps.FLAT
_MITRE = Joins.MITRE

AS_DRAWN: dict[EdgeClass, Pen] = {
    EdgeClass.VISIBLE: Pen(WIDE),
    EdgeClass.OUTLINE: Pen(WIDE),
    EdgeClass.WIRE: Pen(NARROW),
    EdgeClass.SMOOTH: Pen(NARROW),
    EdgeClass.HIDDEN: Pen(NARROW, DASHED, _FLAT, _MITRE),
    EdgeClass.FRAME: Pen(ISO_FRAME_WIDTH, (), _FLAT, _MITRE),
    EdgeClass.HATCHING: Pen(NARROW, (), _FLAT, _MITRE),
    EdgeClass.CENTRE: Pen(NARROW, CHAIN, _FLAT, _MITRE),
    EdgeClass.CUTTING: Pen(NARROW, CHAIN, _FLAT, _MITRE),
    EdgeClass.CUTTING_END: Pen(WIDE, (), _FLAT, _MITRE),
    EdgeClass.DIMENSION: Pen(NARROW, (), _FLAT, _MITRE),
    EdgeClass.TABLE: Pen(TABLE_WIDTH),
    EdgeClass.TEXT: Pen(NARROW),
    EdgeClass.DRAWN: Pen(NARROW),
    EdgeClass.CUT: Pen(NARROW, (), _FLAT, _MITRE),
    EdgeClass.SCORE: Pen(NARROW, DASHED, _FLAT, _MITRE),
    EdgeClass.ENGRAVE: Pen(NARROW),
    EdgeClass.BEND_UP: Pen(NARROW, (), _FLAT, _MITRE),
    EdgeClass.BEND_DOWN: Pen(NARROW, DASHED, _FLAT, _MITRE),
    EdgeClass.BEND_LIMIT: Pen(NARROW, DOUBLE_CHAIN, _FLAT, _MITRE),
}
"""Pens by edge class: visible edges and outlines wide, the rest narrow, hidden dashed, bend lines continuous (ISO 128-2, from
memory), those that bend away from the viewer dashed (common practice, no source)."""

_EDGES = (EdgeClass.VISIBLE, EdgeClass.OUTLINE, EdgeClass.CUTTING_END)
_CHAINS = (EdgeClass.CENTRE, EdgeClass.CUTTING)
_THIN = (EdgeClass.WIRE, EdgeClass.SMOOTH, EdgeClass.HATCHING, EdgeClass.DIMENSION)


_ELSE = PenRule(name="All else, as it is")
"""What no other rule speaks of: cutting and bend lines, wires, and what a drawing drew; each keeps its own pen."""


def _shop(number: int, wide: float, narrow: float, frame: float) -> PenSet:
    return PenSet(
        id=f"shop-{number}",
        name=f"Shop drawing {wide:g} / {narrow:g}",
        rules=(
            PenRule(name="Visible edges", classes=_EDGES, width=wide),
            PenRule(name="Hidden edges", classes=(EdgeClass.HIDDEN,), width=narrow, line_type="dashed"),
            PenRule(name="Centre lines", classes=_CHAINS, width=narrow, line_type="long-dashed dotted"),
            PenRule(name="Dimensions, hatching", classes=_THIN, width=narrow),
            PenRule(name="Frame", classes=(EdgeClass.FRAME,), width=frame),
            PenRule(name="Tables, lettering", classes=(EdgeClass.TABLE, EdgeClass.TEXT)),
            _ELSE,
        ),
    )


SHIPPED: tuple[PenSet, ...] = (
    _shop(1, WIDE, NARROW, ISO_FRAME_WIDTH),
    _shop(2, 0.7, 0.35, 1.0),
    PenSet(
        id="review",
        name="Review in colour",
        rules=(
            PenRule(name="Visible edges", classes=_EDGES, width=0.35, ink="#1d2a33"),
            PenRule(name="Hidden edges", classes=(EdgeClass.HIDDEN,), width=0.18, ink="#7a5c99", line_type="dashed"),
            PenRule(name="Centre lines", classes=_CHAINS, width=0.18, ink="#1f6f5c", line_type="long-dashed dotted"),
            PenRule(name="Dimensions", classes=(EdgeClass.DIMENSION, EdgeClass.TEXT), width=0.18, ink="#9a4a12"),
            PenRule(name="Hatching", classes=(EdgeClass.HATCHING, EdgeClass.SMOOTH), width=0.13, ink="#1d2a33", tint=55),
            _ELSE,
        ),
    ),
    PenSet(
        id="hairline",
        name="Hairline cut",
        rules=(
            PenRule(name="All lines", width=HAIRLINE, ink="#000000", line_type="continuous", caps=Caps.FLAT, joins=Joins.MITRE),
        ),
    ),
    PenSet(id="single", name="Single width", rules=(PenRule(name="All lines", width=0.35, ink="#000000"),)),
)
"""Shop drawings by ISO 128-2; the cutter's hairline by common practice; the colours of the review set are our own."""

DEFAULT = SHIPPED[0]
