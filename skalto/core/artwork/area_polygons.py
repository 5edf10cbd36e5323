"""Filled areas as polygons, by the rule that fills them; and such as overlap themselves as areas that do not."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import shapely

from skalto.core.artwork.filled import Areas
from skalto.core.geometry import Array, bezier_at

CHORD = 2e-4
"""How near, mm, chords keep to curves."""
_SAME = 1e-6
"""Areas that differ by less than this, as a share of them, are filled alike by both rules."""


def chords_of(curves: Array, chord: float = CHORD) -> Array:
    """Points along Béziers (n, 4, 2), one after the other, within *chord* mm of them."""
    second = np.diff(curves, n=2, axis=1)
    bend = np.hypot(second[..., 0], second[..., 1]).max(axis=1)
    count = np.maximum(1, np.ceil(np.sqrt(0.75 * bend / chord))).astype(int)
    count[bend < 1e-9] = 1
    rows = [curves[:1, 0]]
    if (count == 1).all():
        rows.append(curves[:, 3])
    else:
        for curve, pieces in zip(curves, count.tolist(), strict=True):
            rows.append(bezier_at(curve[None], np.arange(1, pieces + 1) / pieces)[0] if pieces > 1 else curve[None, 3])
    points = np.concatenate(rows)
    moved = np.hypot(*np.diff(points, axis=0).T) > 1e-9
    return points[np.concatenate(([True], moved))]


def polygons_of(item: Areas, chord: float = CHORD) -> list[Any]:
    """Each area as a polygon, or several, by its rule."""
    return [filled_by(rings, item.winding) for rings in _rings(item, chord)]


def _rings(item: Areas, chord: float) -> list[list[Array]]:
    rings: dict[int, list[Array]] = {}
    for contour in np.unique(item.contour).tolist():
        chords = chords_of(item.curves[item.contour == contour], chord)
        if len(chords) > 3:
            rings.setdefault(int(item.area[contour]), []).append(chords)
    return list(rings.values())


def filled_by(polygons: list[Array], winding: bool) -> Any:
    """What polygons (k, 2) fill, by the nonzero rule where *winding*, else by the even-odd one (ISO 32000-1, 8.5.3.3)."""
    if winding:
        return _wound(polygons)
    shape = shapely.Polygon()
    for polygon in polygons:
        shape = shape.symmetric_difference(shapely.make_valid(shapely.Polygon(polygon)))
    return shape


def _wound(polygons: list[Array]) -> Any:
    """What polygons (k, 2) fill by the nonzero rule: of the pieces into which their lines part the plane, those that they run
    around."""
    rings = [np.concatenate((polygon, polygon[:1])) for polygon in polygons]
    if not rings:
        return shapely.Polygon()
    pieces = shapely.polygonize([shapely.union_all([shapely.LineString(ring) for ring in rings])])
    kept = [piece for piece in pieces.geoms if sum(_turns(ring, piece.representative_point()) for ring in rings)]
    return shapely.union_all(kept)


def _turns(ring: Array, point: Any) -> int:
    """How often a closed polygon runs round a point (D. Sunday, 2001)."""
    y0, y1 = ring[:-1, 1], ring[1:, 1]
    left = (ring[1:, 0] - ring[:-1, 0]) * (point.y - y0) - (point.x - ring[:-1, 0]) * (y1 - y0)
    up, down = (y0 <= point.y) & (y1 > point.y) & (left > 0), (y0 > point.y) & (y1 <= point.y) & (left < 0)
    return int(up.sum()) - int(down.sum())


def filled_alike(item: Areas) -> Areas:
    """Areas that both rules fill alike: as they are, but for such as overlap themselves, whose edges become chords. There are
    formats that know but one of the rules."""
    if not item.winding:
        return item
    rings = _rings(item, CHORD)
    if all(_alike(own) for own in rings):
        return replace(item, winding=False)
    ruled = [filled_by(own, True) for own in rings]
    polygons = [part for own in ruled for part in shapely.get_parts(own).tolist() if part.geom_type == "Polygon"]
    found = [(n, np.asarray(ring.coords)) for n, own in enumerate(polygons) for ring in (own.exterior, *own.interiors)]
    ends = [np.stack((ring[:-1], ring[1:]), axis=1) for _, ring in found]
    edges = np.concatenate(ends)
    step = (edges[:, 1] - edges[:, 0]) / 3
    return Areas(
        item.tags, np.stack((edges[:, 0], edges[:, 0] + step, edges[:, 1] - step, edges[:, 1]), axis=1),
        np.ones(len(edges), bool), np.repeat(np.arange(len(found)), [len(own) for own in ends]),
        np.array([n for n, _ in found], np.int64),
    )  # fmt: skip


def _alike(rings: list[Array]) -> bool:
    """Whether both rules fill the same: no ring crosses itself or another, and each runs against the one about it."""
    polygons = [shapely.Polygon(own) for own in rings]
    if not all(own.is_valid for own in polygons):
        return False
    signed = sum(own.area if own.exterior.is_ccw else -own.area for own in polygons)
    even = filled_by(rings, False).area
    return bool(abs(abs(signed) - even) <= _SAME * even)
