"""Which pen draws what: widths, line types and colours by rule."""

from skalto.core.pens.drawing import Pens, Tally, drawn
from skalto.core.pens.pen import (
    BLACK,
    CHAIN,
    DASHED,
    HAIRLINE,
    LIGHT,
    LINE_TYPES,
    WIDTHS,
    Colour,
    Ends,
    Joins,
    Pen,
    format_colour,
    luminance,
    parse_colour,
)
from skalto.core.pens.sets import PenRule, PenSet, pens_from_json, pens_to_json
from skalto.core.pens.shipped import AS_DRAWN, DEFAULT, SHIPPED

__all__ = [
    "AS_DRAWN", "BLACK", "CHAIN", "DASHED", "DEFAULT", "HAIRLINE", "LIGHT", "LINE_TYPES", "SHIPPED", "WIDTHS", "Colour", "Ends",
    "Joins", "Pen", "PenRule", "PenSet", "Pens", "Tally", "drawn", "format_colour", "luminance", "parse_colour",
    "pens_from_json", "pens_to_json",
]  # fmt: skip
