"""Outlines that clip: closed contours of a drawing as polygons."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

import numpy as np

from skalto.core.artwork.area_polygons import filled_by
from skalto.core.geometry import bezier_at
from skalto.core.sources.drawings.collecting import Contour

_FLAT = 64
"""Into how many pieces a curved edge goes."""


def outline_of(contours: Iterable[Contour], winding: bool) -> Any:
    """A shapely polygon of closed contours, by the nonzero rule where *winding*, else by the even-odd one. Curved edges become
    64 pieces each: within 8·10⁻⁵ of the radius of a quarter circle."""
    t = np.linspace(0, 1, _FLAT + 1)[:-1]
    polygons = []
    for contour in contours:
        curves = np.array(contour.curves, float).reshape(-1, 4, 2)
        parts = [c[:1] if flat else bezier_at(c[None], t)[0] for c, flat in zip(curves, contour.straight, strict=True)]
        if parts and sum(len(part) for part in parts) > 2:
            polygons.append(np.concatenate(parts))
    return filled_by(polygons, winding)
