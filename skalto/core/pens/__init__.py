"""Which pen draws what: widths, line types and colours by rule."""

from skalto.core.pens.drawing import Pens, Tally, drawn
from skalto.core.pens.pen import CHAIN, DASHED, HAIRLINE, LINE_TYPES, WIDTHS, Caps, Joins, Pen
from skalto.core.pens.sets import PenRule, PenSet, pens_from_json, pens_to_json
from skalto.core.pens.shipped import AS_DRAWN, DEFAULT, SHIPPED

__all__ = [
    "AS_DRAWN", "CHAIN", "DASHED", "DEFAULT", "HAIRLINE", "LINE_TYPES", "SHIPPED", "WIDTHS", "Caps", "Joins", "Pen", "PenRule",
    "PenSet", "Pens", "Tally", "drawn", "pens_from_json", "pens_to_json",
]  # fmt: skip
