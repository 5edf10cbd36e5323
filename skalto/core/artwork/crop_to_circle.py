"""What of an artwork lies within a circle, as a detail shows it; every curve is cut, none approximated."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely
from numpy.typing import NDArray

from skalto.core.artwork.changing import changed
from skalto.core.artwork.crop_to_box import bezier_part, cut_area
from skalto.core.artwork.drawing import Artwork, Item
from skalto.core.artwork.filled import Areas, Fills, Raster, Text
from skalto.core.artwork.sink import give
from skalto.core.artwork.strokes import Beziers, Contours, Ellipses, Lines, Polylines
from skalto.core.geometry import Array, Point, bezier_at

Mask = NDArray[np.bool_]
_SAMPLES = 65
_LEAST = 1e-6


class _ToCircle:
    """A sink that gives the parts of each item that lie within a circle."""

    def __init__(self, centre: Array, radius: float) -> None:
        self.centre, self.radius = centre, radius

    def _masks(self, boxes: Array) -> tuple[Mask, Mask]:
        """Which boxes lie wholly within, and which touch the circle."""
        far = np.maximum(np.abs(boxes[:, 0] - self.centre), np.abs(boxes[:, 1] - self.centre))
        near = np.maximum(np.maximum(boxes[:, 0] - self.centre, self.centre - boxes[:, 1]), 0)
        return np.hypot(far[:, 0], far[:, 1]) <= self.radius, np.hypot(near[:, 0], near[:, 1]) <= self.radius

    def texts(self, item: Text) -> list[Item]:
        return [item.rows(np.linalg.norm(item.corners().mean(axis=1) - self.centre, axis=1) <= self.radius)]

    def raster(self, item: Raster) -> list[Item]:
        # a shaded picture is masked where it is placed
        return []

    def lines(self, item: Lines) -> list[Item]:
        within, touched = self._masks(item.bounds())
        return [_lines(item, within, touched & ~within, self.centre, self.radius)]

    def ellipses(self, item: Ellipses) -> list[Item]:
        within, touched = self._masks(item.bounds())
        return [_ellipses(item, within, touched & ~within, self.centre, self.radius)]

    def beziers(self, item: Beziers) -> list[Item]:
        within, touched = self._masks(item.bounds())
        return [_beziers(item, within, touched & ~within, self.centre, self.radius)]

    def polylines(self, item: Polylines) -> list[Item]:
        _, touched = self._masks(item.bounds())
        parts = item.rows(np.flatnonzero(touched)).parts() if touched.any() else ()
        return [part for segments in parts if len(segments) for part in give(segments, self)]

    def contours(self, item: Contours) -> list[Item]:
        raise TypeError("strokes are joined after everything has been cut")

    def fills(self, item: Fills) -> list[Item]:
        return self._filled(item)

    def areas(self, item: Areas) -> list[Item]:
        return self._filled(item)

    def _filled(self, item: Areas | Fills) -> list[Item]:
        _, touched = self._masks(item.bounds())
        # the circle as a polygon: off by less than 2e-5 of its radius
        disc = shapely.Point(*self.centre).buffer(self.radius, quad_segs=128)
        return [part for number in np.flatnonzero(touched).tolist() for part in cut_area(item, number, disc)]


def clip_to_circle(artwork: Artwork, centre: Point, radius: float) -> Artwork:
    """The parts of all strokes within a circle, in the artwork's units."""
    return changed(artwork, _ToCircle(np.array(centre, float), radius))


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
