"""What of an artwork lies within a circle, as a detail shows it; every curve is cut, none approximated."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely
from numpy.typing import NDArray

from skalto.core.artwork import Array, Artwork, Beziers, Contours, Ellipses, Item, Lines, Polylines, Raster, Text, bezier_at
from skalto.core.drawings.cropping import bezier_part, cut_area

Mask = NDArray[np.bool_]
_SAMPLES = 65
_LEAST = 1e-6


def clip_to_circle(artwork: Artwork, centre: tuple[float, float], radius: float) -> Artwork:
    """The parts of all strokes within a circle, in the artwork's units."""
    c = np.array(centre, float)
    items = [part for item in artwork if len(item) for part in _clipped(item, c, radius)]
    return Artwork(tuple(item for item in items if len(item)))


def _clipped(item: Item, centre: Array, radius: float) -> list[Item]:
    if isinstance(item, Text):
        return [item.rows(np.linalg.norm(item.corners().mean(axis=1) - centre, axis=1) <= radius)]
    if isinstance(item, Raster):
        return []
    boxes = item.bounds()
    far = np.maximum(np.abs(boxes[:, 0] - centre), np.abs(boxes[:, 1] - centre))
    within = np.hypot(far[:, 0], far[:, 1]) <= radius
    near = np.maximum(np.maximum(boxes[:, 0] - centre, centre - boxes[:, 1]), 0)
    touched = np.hypot(near[:, 0], near[:, 1]) <= radius
    crossing = touched & ~within
    if isinstance(item, Lines):
        return [_lines(item, within, crossing, centre, radius)]
    if isinstance(item, Ellipses):
        return [_ellipses(item, within, crossing, centre, radius)]
    if isinstance(item, Beziers):
        return [_beziers(item, within, crossing, centre, radius)]
    if isinstance(item, Polylines):
        parts = item.rows(np.flatnonzero(touched)).parts() if touched.any() else ()
        return [part for segments in parts if len(segments) for part in _clipped(segments, centre, radius)]
    if isinstance(item, Contours):
        raise TypeError("strokes are joined after everything has been cut")
    # the circle as a polygon: off by less than 2e-5 of its radius
    disc = shapely.Point(*centre).buffer(radius, quad_segs=128)
    return [part for number in np.flatnonzero(touched).tolist() for part in cut_area(item, number, disc)]


def _lines(item: Lines, within: Mask, crossing: Mask, centre: Array, radius: float) -> Lines:
    a, b = item.points[crossing, 0], item.points[crossing, 1]
    d, e = b - a, a - centre
    dd, de, ee = (d * d).sum(1), (d * e).sum(1), (e * e).sum(1) - radius**2
    root = de * de - dd * ee
    ok = (root > 0) & (dd > 0)
    with np.errstate(invalid="ignore", divide="ignore"):
        t0 = np.clip((-de - np.sqrt(root)) / dd, 0, 1)
        t1 = np.clip((-de + np.sqrt(root)) / dd, 0, 1)
    ok &= (t1 - t0) * np.sqrt(dd) > _LEAST
    cut = np.stack((a + t0[:, None] * d, a + t1[:, None] * d), axis=1)[ok]
    return replace(item, points=np.concatenate((item.points[within], cut)), order=None)


def _inside(at: Array, ts: Array, centre: Array, radius: float, point) -> list[tuple[float, float]]:  # type: ignore[no-untyped-def]
    """The runs of parameter whose points lie within the circle; borders by bisection of the samples *at* *ts*."""
    inside = np.hypot(*(at - centre).T) <= radius
    borders = []
    for i in np.flatnonzero(inside[1:] != inside[:-1]):
        low, high = float(ts[i]), float(ts[i + 1])
        for _ in range(50):
            middle = (low + high) / 2
            if (np.hypot(*(point(middle) - centre)) <= radius) == inside[i]:
                low = middle
            else:
                high = middle
        borders.append((low + high) / 2)
    marks = [float(ts[0]), *borders, float(ts[-1])]
    first = 0 if inside[0] else 1
    return [(marks[i], marks[i + 1]) for i in range(first, len(marks) - 1, 2) if marks[i + 1] - marks[i] > 1e-9]


def _ellipses(item: Ellipses, within: Mask, crossing: Mask, centre: Array, radius: float) -> Ellipses:
    rows = [tuple(array[within] for array in (item.centre, item.major, item.minor, item.start, item.sweep))]
    for n in np.flatnonzero(crossing):
        ts = item.start[n] + item.sweep[n] * np.linspace(0, 1, _SAMPLES)

        def point(t: float, n: int = int(n)) -> Array:
            return np.asarray(item.centre[n] + np.cos(t) * item.major[n] + np.sin(t) * item.minor[n])

        at = np.array([point(t) for t in ts])
        for low, high in _inside(at, ts, centre, radius, point):
            rows.append(
                (item.centre[n : n + 1], item.major[n : n + 1], item.minor[n : n + 1], np.array([low]), np.array([high - low]))
            )
    joined = [np.concatenate([row[k] for row in rows]) for k in range(5)]
    return Ellipses(item.tags, *joined)


def _beziers(item: Beziers, within: Mask, crossing: Mask, centre: Array, radius: float) -> Beziers:
    kept = [item.points[within]]
    ts = np.linspace(0, 1, 17)
    for n in np.flatnonzero(crossing):
        curve = item.points[n : n + 1]

        def point(t: float, curve: Array = curve) -> Array:
            return np.asarray(bezier_at(curve, np.array([t]))[0, 0])

        for low, high in _inside(bezier_at(curve, ts)[0], ts, centre, radius, point):
            kept.append(bezier_part(curve[0], low, high)[None])
    return replace(item, points=np.concatenate(kept), order=None)
