"""Artwork: everything that can be drawn on a sheet, in millimetres, x right, y up, origin at the lower left.

It keeps what things are: a line stays a line and an arc an arc until an output has no such thing. Strokes of one
kind and one set of tags are held in arrays, never as an object a stroke.
"""

from skalto.core.artwork.drawing import Artwork, Item, Stroked
from skalto.core.artwork.filled import Areas, Fills, Raster, Text
from skalto.core.artwork.strokes import Beziers, Contours, Ellipses, Lines, Polylines
from skalto.core.artwork.tags import EdgeClass, Tags

__all__ = [
    "Areas",
    "Artwork",
    "Beziers",
    "Contours",
    "EdgeClass",
    "Ellipses",
    "Fills",
    "Item",
    "Lines",
    "Polylines",
    "Raster",
    "Stroked",
    "Tags",
    "Text",
]
