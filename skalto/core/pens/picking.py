"""Which stroke lies under a point, and so which rule drew it."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from skalto.core.artwork import Artwork, Beziers, Contours, Ellipses, Item, Lines, Polylines, Raster, Text
from skalto.core.artwork.joining import pieces_of
from skalto.core.geometry import bezier_at
from skalto.core.pens.drawing import Pens

_SAMPLES = np.linspace(0.0, 1.0, 17)


def _nearest(item: Item, point: np.ndarray, within: float) -> float:
    """How far the nearest stroke of an item is, mm; infinite beyond *within*."""
    boxes = item.bounds()
    near = ((boxes[:, 0] - within <= point) & (boxes[:, 1] + within >= point)).all(axis=1)
    if not near.any():
        return np.inf
    if not isinstance(item, Lines | Ellipses | Beziers | Polylines):
        return 0.0
    curves, _, _ = pieces_of(item)
    low, high = curves.min(axis=1), curves.max(axis=1)
    close = ((low - within <= point) & (high + within >= point)).all(axis=1)
    if not close.any():
        return np.inf
    run = bezier_at(curves[close], _SAMPLES)
    a, b = run[:, :-1], run[:, 1:]
    along = b - a
    t = ((point - a) * along).sum(axis=-1) / np.maximum((along**2).sum(axis=-1), 1e-30)
    foot = a + along * t.clip(0, 1)[..., None]
    return float(np.linalg.norm(foot - point, axis=-1).min())


def item_at(parts: Iterable[tuple[Artwork, Pens]], point: tuple[float, float], within: float) -> tuple[Item, Pens] | None:
    """The item whose stroke is nearest to a point on the sheet, mm, and its pens; None when none is as near as *within*."""
    at = np.array(point)
    best: tuple[float, Item, Pens] | None = None
    for artwork, pens in parts:
        for item in artwork:
            if not len(item) or isinstance(item, Raster | Contours) or (isinstance(item, Text) and item.ghost):
                continue
            off = _nearest(item, at, within)
            # what is drawn later lies over what is as near
            if off <= within and (best is None or off <= best[0]):
                best = off, item, pens
    return None if best is None else (best[1], best[2])
