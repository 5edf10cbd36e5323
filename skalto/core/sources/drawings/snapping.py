"""Places of a drawing that a hand means when it points near them: ends of strokes, and centres of circles and arcs."""

from __future__ import annotations

import numpy as np

from skalto.core.artwork import Artwork, Beziers, Ellipses, Lines, Polylines
from skalto.core.geometry import Array


def snap_places(artwork: Artwork) -> tuple[Array, Array]:
    """Ends (n, 2) and centres (m, 2), each place once, in the artwork's units."""
    ends: list[Array] = [np.empty((0, 2))]
    centres: list[Array] = [np.empty((0, 2))]
    for item in artwork:
        if isinstance(item, Lines):
            ends.append(item.points.reshape(-1, 2))
        elif isinstance(item, Polylines):
            ends.append(item.points)
        elif isinstance(item, Beziers):
            ends.append(item.points[:, [0, 3]].reshape(-1, 2))
        elif isinstance(item, Ellipses):
            centres.append(item.centre)
            open_ = ~item.is_whole()
            t = np.stack((item.start, item.start + item.sweep), axis=1)
            ends.append(item.at(t)[open_].reshape(-1, 2))
    return _distinct(np.concatenate(ends)), _distinct(np.concatenate(centres))


def _distinct(points: Array) -> Array:
    """Each place once, in the order in which they came."""
    if not len(points):
        return points
    size = float(np.ptp(points, axis=0).max()) or 1.0
    _, first = np.unique(np.round(points / (size * 1e-9)), axis=0, return_index=True)
    return points[np.sort(first)]
