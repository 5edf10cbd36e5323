"""Exact contours as artwork, in the order in which they are given."""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np

from skalto.core.artwork.joining import ARC_TOLERANCE
from skalto.core.artwork.strokes import Contours
from skalto.core.artwork.tags import Tags
from skalto.core.geometry import Array
from skalto.core.geometry.contour import Arc, Contour, Cubic, Line, Segment
from skalto.core.geometry.curves import arc_beziers, arc_pieces


def contour_items(tags: Tags, contours: Iterable[Contour]) -> Contours:
    """Contours as one item, arcs as Béziers within a PDF's tolerance that know their centres and angles."""
    curves: list[Array] = []
    straight: list[bool] = []
    bulge: list[float] = []
    centre: list[tuple[float, float]] = []
    first, closed = [0], []
    for contour in contours:
        for segment in contour:
            made, angle, middle = _curves(segment)
            curves.append(made)
            straight += [isinstance(segment, Line)] * len(made)
            bulge += [angle] * len(made)
            centre += [middle] * len(made)
        first.append(len(straight))
        closed.append(contour.closed)
    return Contours(
        tags, np.concatenate([np.empty((0, 4, 2)), *curves]), np.array(straight, bool), np.array(first, np.int64),
        np.array(closed, bool), np.array(bulge, float), np.array(centre, float).reshape(-1, 2),
    )  # fmt: skip


def bezier_curves(segment: Segment) -> Array:
    """A segment as cubic Béziers (n, 4, 2), an arc within a PDF's tolerance."""
    return _curves(segment)[0]


def _curves(segment: Segment) -> tuple[Array, float, tuple[float, float]]:
    """A segment as cubic Béziers (n, 4, 2), with the bulge of each and the centre."""
    nowhere = (math.nan, math.nan)
    if isinstance(segment, Cubic):
        return np.array([(segment.start, segment.first, segment.second, segment.end)], float), 0.0, nowhere
    if isinstance(segment, Arc):
        (cx, cy), (x, y) = segment.centre, segment.start
        pieces = int(arc_pieces(np.array([segment.radius]), np.array([segment.sweep]), ARC_TOLERANCE)[0])
        begin = math.atan2(y - cy, x - cx)
        r = segment.radius
        made = arc_beziers(
            np.array([segment.centre], float), np.array([(r, 0.0)]), np.array([(0.0, r)]), np.array([begin]),
            np.array([segment.sweep]), pieces,
        )[0]  # fmt: skip
        made[0, 0], made[-1, 3] = segment.start, segment.end
        return made, math.tan(segment.sweep / pieces / 4), segment.centre
    a, b = np.array(segment.start), np.array(segment.end)
    return np.array([(a, a + (b - a) / 3, b - (b - a) / 3, b)]), 0.0, nowhere
