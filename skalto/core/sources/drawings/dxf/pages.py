"""Pages saved in a DXF file: their paper, and what of the drawing each shows where."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

import numpy as np
from ezdxf.math import Vec3

from skalto.core.artwork import Areas, Artwork, Item, Lines
from skalto.core.geometry import Box, Similarity
from skalto.core.quantities import MM_PER_INCH
from skalto.core.sources.drawings.drawing import SavedExcerpt
from skalto.core.sources.drawings.dxf.loading import readable

_UNITS = {0: float(MM_PER_INCH), 1: 1.0}
"""Paper units of a page (DXF reference, PLOTSETTINGS, code 72): inches, millimetres."""


def paper_of(layout: Any) -> tuple[float, tuple[float, float], tuple[float, float]]:
    """A page's mm a unit, its size in mm as it lies, and where its lower left corner is in its own units."""
    dxf = layout.dxf
    unit = _UNITS.get(dxf.get("plot_paper_units", 1), 1.0)
    # paper sizes and margins are always in millimetres (DXF reference, PLOTSETTINGS, codes 40 to 45)
    width, height = float(dxf.get("paper_width", 0)), float(dxf.get("paper_height", 0))
    left, bottom = float(dxf.get("left_margin", 0)), float(dxf.get("bottom_margin", 0))
    if dxf.get("plot_rotation", 0) in (1, 3):
        width, height, left, bottom = height, width, bottom, left
    if width <= 0 or height <= 0:
        (x0, y0, _), (x1, y1, _) = Vec3(dxf.limmin).xyz, Vec3(dxf.limmax).xyz
        return unit, ((x1 - x0) * unit, (y1 - y0) * unit), (x0, y0)
    return unit, (width, height), (-left / unit, -bottom / unit)


def excerpts_of(layout: Any, unit: float, corner: tuple[float, float], names: dict[str, str]) -> tuple[SavedExcerpt, ...]:
    """What a page shows through its viewports. *names* are the layers' names as written, by their keys."""
    found = []
    viewports = sorted(layout.query("VIEWPORT"), key=lambda v: v.dxf.get("status", 1))
    for viewport in viewports:
        dxf = viewport.dxf
        # the first viewport is the page itself (DXF reference, VIEWPORT, code 69)
        if dxf.get("id", 2) == 1 or dxf.get("status", 1) < 1 or not viewport.is_top_view or dxf.view_height <= 0:
            continue
        per_unit = dxf.height / dxf.view_height
        middle = _middle(viewport)
        half = dxf.width / per_unit / 2, dxf.height / per_unit / 2
        region: Box = (middle[0] - half[0], middle[1] - half[1], middle[0] + half[0], middle[1] + half[1])
        place = ((dxf.center.x - corner[0]) * unit, (dxf.center.y - corner[1]) * unit)
        hidden = tuple(names.get(own.lower(), own) for own in map(readable, viewport.frozen_layers))
        found.append(
            SavedExcerpt(
                region=region, scale=per_unit * unit, place=place, angle=float(dxf.get("view_twist_angle", 0)), hidden=hidden
            )
        )
    return tuple(found)


def shows(artwork: Artwork, excerpt: SavedExcerpt) -> bool:
    """Whether a saved page's excerpt shows anything of the drawing; a page may have an empty one."""
    from skalto.core.artwork.crop_to_box import crop

    turned = artwork.placed(Similarity(turn=math.radians(excerpt.angle))) if excerpt.angle else artwork
    x0, y0, x1, y1 = excerpt.region
    near: list[Item] = []
    for item in turned:
        if item.tags.layer in excerpt.hidden or not len(item):
            continue
        boxes = item.bounds()
        inside = (boxes[:, 0] >= (x0, y0)).all(axis=1) & (boxes[:, 1] <= (x1, y1)).all(axis=1)
        if inside.any():
            return True
        if ((boxes[:, 0] <= (x1, y1)).all(axis=1) & (boxes[:, 1] >= (x0, y0)).all(axis=1)).any():
            near.append(item)
    return bool(near) and len(crop(Artwork(tuple(near)), excerpt.region)) > 0


def within(artwork: Artwork, box: Box | None) -> tuple[Artwork, int]:
    """The drawing without points and masks in the paper's colour that lie outside of a box, and how many these were."""
    if box is None:
        return artwork, 0
    items: list[Item] = []
    strays = 0
    for item in artwork:
        boxes = item.bounds() if len(item) else np.zeros((0, 2, 2))
        outside = (boxes[:, 1] < box[:2]).any(axis=1) | (boxes[:, 0] > box[2:]).any(axis=1)
        if isinstance(item, Lines):
            dots = np.ptp(item.points, axis=1).max(axis=1) == 0
            gone = dots & outside
            if gone.any():
                strays += int(gone.sum())
                order = None if item.order is None else item.order[~gone]
                item = replace(item, points=item.points[~gone], order=order)
        elif isinstance(item, Areas) and item.tags.colour == (255, 255, 255) and len(item) and outside.all():
            strays += len(item)
            continue
        if len(item):
            items.append(item)
    return Artwork(tuple(items)), strays


def _middle(viewport: Any) -> tuple[float, float]:
    """The middle of what a viewport shows, in the drawing turned by the viewport's twist.

    The view centre is given in the turned system about the target point (DXF reference, VIEWPORT, codes 12, 17, 51).
    """
    dxf = viewport.dxf
    angle = math.radians(dxf.get("view_twist_angle", 0))
    target = dxf.view_target_point
    x = target.x * math.cos(angle) - target.y * math.sin(angle)
    y = target.x * math.sin(angle) + target.y * math.cos(angle)
    return x + dxf.view_center_point.x, y + dxf.view_center_point.y
