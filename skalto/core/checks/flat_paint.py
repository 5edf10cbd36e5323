"""How what was asked for is painted in a DXF or SVG file: what these formats can say of it."""

from __future__ import annotations

import re
from dataclasses import replace

from skalto.core.artwork import Areas, Contours, EdgeClass, Fills, Item, Raster, Text
from skalto.core.checks.paint import Paint
from skalto.core.pens.pen import HAIRLINE
from skalto.core.recipes import Recipe

_OPERATIONS = (EdgeClass.CUT, EdgeClass.SCORE, EdgeClass.ENGRAVE)
_NUMBERED = re.compile(r"(.*?) \d{1,6}", re.S)


def layer_without_number(label: str) -> str:
    """The name of an SVG group without the number that parts those of one layer."""
    found = _NUMBERED.fullmatch(label)
    return found[1] if found else label


def dxf_painted(paint: Paint, item: Item, width: float, recipe: Recipe) -> Paint:
    """DXF has no ends, corners, filling rules or dashes that begin elsewhere; layers are of edge classes where there are
    none, in a cutter's file of operations, and the characters that no layer may have are underlined."""
    tags, cutter = item.tags, recipe.file == "cutter"
    name = tags.layer or tags.edge_class.value
    if cutter and not (tags.edge_class in _OPERATIONS and tags.layer):
        stroked = not isinstance(item, Text | Fills | Areas | Raster)
        # contours are joined of what is no contour yet
        joined = stroked or isinstance(item, Contours)
        name = "cut" if joined and width <= HAIRLINE * 1.01 else "engrave"
    layer = "".join("_" if c in '<>/\\":;?*|=`' else c for c in name)[:255] or "0"
    filled = isinstance(item, Fills | Areas)
    return replace(
        paint, layer=layer.casefold(), phase=0.0, ends="", joins="", rule="", multiplied=False,
        dashes=() if filled else paint.dashes, view=None if cutter else paint.view,
        unseen=False if cutter or paint.view is None else paint.unseen,
    )  # fmt: skip


def svg_painted(paint: Paint, item: Item, width: float, recipe: Recipe) -> Paint:
    """SVG has a group for each layer, or where there is none for each edge class; a cutter's file has none."""
    cutter = recipe.file == "cutter"
    name = "" if cutter else " ".join((item.tags.layer or item.tags.edge_class.value).split())
    return replace(
        paint, layer=layer_without_number(name), rule="evenodd" if isinstance(item, Fills) else paint.rule,
        view=None if cutter else paint.view, unseen=False if cutter or paint.view is None else paint.unseen,
    )  # fmt: skip
