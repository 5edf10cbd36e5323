"""What of an artwork lies in a rectangle: every stroke is cut exactly, none approximated."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from skalto.core.artwork.area_polygons import filled_by
from skalto.core.artwork.changing import changed
from skalto.core.artwork.drawing import Artwork, Item
from skalto.core.artwork.filled import Areas, Fills, Raster, Text
from skalto.core.artwork.sink import give
from skalto.core.artwork.strokes import Beziers, Contours, Ellipses, Lines, Polylines
from skalto.core.artwork.tags import Tags
from skalto.core.geometry import TAU, Array, Box, bezier_at

Mask = NDArray[np.bool_]
_LEAST = 1e-9
"""Shares of a stroke shorter than this are dropped."""

_FLAT = 64
"""Into how many pieces a curved edge of an area goes where the rectangle cuts the area."""


def _masks(bounds: Array, box: Box) -> tuple[Mask, Mask]:
    """Which boxes lie wholly within, and which only partly."""
    low, high = np.array(box[:2]), np.array(box[2:])
    within = np.asarray((bounds[:, 0] >= low).all(axis=1) & (bounds[:, 1] <= high).all(axis=1))
    touched = np.asarray((bounds[:, 1] >= low).all(axis=1) & (bounds[:, 0] <= high).all(axis=1))
    return within, touched & ~within


class _ToBox:
    """A sink that gives the parts of each item that lie in a box."""

    def __init__(self, box: Box) -> None:
        self.box = box

    def texts(self, item: Text) -> list[Item]:
        return [item.rows(_holds(item.corners().mean(axis=1), self.box))]

    def raster(self, item: Raster) -> list[Item]:
        return _raster(item, self.box)

    def lines(self, item: Lines) -> list[Item]:
        within, crossing = _masks(item.bounds(), self.box)
        return [item] if within.all() else [_lines(item, within, crossing, self.box)]

    def ellipses(self, item: Ellipses) -> list[Item]:
        within, crossing = _masks(item.bounds(), self.box)
        return [item] if within.all() else [_ellipses(item, within, crossing, self.box)]

    def beziers(self, item: Beziers) -> list[Item]:
        within, crossing = _masks(item.bounds(), self.box)
        return [item] if within.all() else [_beziers(item, within, crossing, self.box)]

    def polylines(self, item: Polylines) -> list[Item]:
        """Runs that lie within stay; those that the box cuts go in their segments."""
        within, crossing = _masks(item.bounds(), self.box)
        if within.all():
            return [item]
        kept: list[Item] = [item.rows(np.flatnonzero(within))] if within.any() else []
        cut = item.rows(np.flatnonzero(crossing)).parts() if crossing.any() else ()
        return kept + [part for segments in cut if len(segments) for part in give(segments, self)]

    def contours(self, item: Contours) -> list[Item]:
        raise TypeError("strokes are joined after everything has been cut")

    def fills(self, item: Fills) -> list[Item]:
        return self._filled(item)

    def areas(self, item: Areas) -> list[Item]:
        return self._filled(item)

    def _filled(self, item: Areas | Fills) -> list[Item]:
        within, crossing = _masks(item.bounds(), self.box)
        return [item] if within.all() else _areas(item, within, crossing, self.box)


def _holds(points: Array, box: Box) -> Mask:
    return np.asarray((points >= np.array(box[:2])).all(axis=-1) & (points <= np.array(box[2:])).all(axis=-1))


def _order(order: NDArray[np.int64] | None, *parts: NDArray[np.signedinteger]) -> NDArray[np.int64] | None:
    """The places in the drawing order of kept and cut rows, by their numbers."""
    return None if order is None else order[np.concatenate(parts).astype(int)]


def _cut_lines(points: Array, box: Box) -> tuple[Array, NDArray[np.int64]]:
    """Segments (n, 2, 2) cut to the box (Liang and Barsky, 1984): those that remain, and which each came from."""
    start, step = points[:, 0], points[:, 1] - points[:, 0]
    t0, t1 = np.zeros(len(points)), np.ones(len(points))
    ok = np.ones(len(points), bool)
    for axis in (0, 1):
        for limit, sign in ((box[axis], -1.0), (box[axis + 2], 1.0)):
            p, q = sign * step[:, axis], sign * (limit - start[:, axis])
            with np.errstate(divide="ignore", invalid="ignore"):
                r = q / p
            ok &= ~((p == 0) & (q < 0))
            t0 = np.where(p < 0, np.maximum(t0, r), t0)
            t1 = np.where(p > 0, np.minimum(t1, r), t1)
    ok &= t1 - t0 > _LEAST
    rows = np.flatnonzero(ok)
    cut = np.stack((start + t0[:, None] * step, start + t1[:, None] * step), axis=1)[rows]
    return cut, rows


def _lines(item: Lines, within: Mask, crossing: Mask, box: Box) -> Lines:
    inner, outer = np.flatnonzero(within), np.flatnonzero(crossing)
    cut, rows = _cut_lines(item.points[outer], box)
    # a point, which has no length, is there or not
    dots = outer[(np.ptp(item.points[outer], axis=1) == 0).all(axis=1)]
    points = np.concatenate((item.points[inner], cut, item.points[dots]))
    return replace(item, points=points, order=_order(item.order, inner, outer[rows], dots))


def _arc_runs(centre: Array, a: Array, b: Array, start: float, sweep: float, box: Box) -> list[tuple[float, float]]:
    """Start and sweep of the parts of c + a·cos t + b·sin t that lie in the box."""
    marks = [start, start + sweep]
    for axis in (0, 1):
        reach = float(np.hypot(a[axis], b[axis]))
        if reach == 0:
            continue
        peak = float(np.arctan2(b[axis], a[axis]))
        for limit in (box[axis], box[axis + 2]):
            cosine = (limit - centre[axis]) / reach
            if abs(cosine) <= 1:
                for t in (peak + np.arccos(cosine), peak - np.arccos(cosine)):
                    t = start + (t - start) % TAU
                    if t < start + sweep:
                        marks.append(float(t))
    marks.sort()
    low, high = np.array(marks[:-1]), np.array(marks[1:])
    middle = (low + high) / 2
    points = centre + np.outer(np.cos(middle), a) + np.outer(np.sin(middle), b)
    keep = _holds(points, box) & (high - low > _LEAST)
    runs: list[tuple[float, float]] = []
    for s, e, kept in zip(low.tolist(), high.tolist(), keep.tolist(), strict=True):
        if kept and runs and abs(runs[-1][0] + runs[-1][1] - s) < 1e-15:
            runs[-1] = (runs[-1][0], e - runs[-1][0])
        elif kept:
            runs.append((s, e - s))
    whole = sweep >= TAU - 1e-12
    if whole and len(runs) > 1 and runs[0][0] == start and abs(sum(runs[-1]) - start - sweep) < 1e-12:
        # a circle that begins inside is cut elsewhere, not where it happens to begin
        last = runs.pop()
        runs[0] = (last[0] - TAU, runs[0][1] + last[1])
    return runs


def _ellipses(item: Ellipses, within: Mask, crossing: Mask, box: Box) -> Ellipses:
    rows = list(np.flatnonzero(within))
    start, sweep = list(item.start[within]), list(item.sweep[within])
    for n in np.flatnonzero(crossing):
        for low, span in _arc_runs(
            item.centre[n], item.major[n], item.minor[n], float(item.start[n]), float(item.sweep[n]), box
        ):
            rows.append(n)
            start.append(low)
            sweep.append(span)
    index = np.array(rows, int)
    return Ellipses(
        item.tags,
        item.centre[index],
        item.major[index],
        item.minor[index],
        np.array(start, float),
        np.array(sweep, float),
        _order(item.order, index),
    )


def bezier_part(p: Array, low: float, high: float) -> Array:
    """A cubic Bézier (4, 2) between two parameters, by blossoming."""

    def blossom(u: float, v: float, w: float) -> Array:
        q = [p[i] * (1 - u) + p[i + 1] * u for i in range(3)]
        r = [q[i] * (1 - v) + q[i + 1] * v for i in range(2)]
        return np.asarray(r[0] * (1 - w) + r[1] * w)

    return np.array((blossom(low, low, low), blossom(low, low, high), blossom(low, high, high), blossom(high, high, high)))


def _bezier_runs(p: Array, box: Box) -> list[tuple[float, float]]:
    """The parameter runs of a cubic Bézier (4, 2) that lie in the box."""
    marks = [0.0, 1.0]
    for axis in (0, 1):
        v = p[:, axis]
        power = np.array((v[3] - 3 * v[2] + 3 * v[1] - v[0], 3 * (v[2] - 2 * v[1] + v[0]), 3 * (v[1] - v[0]), v[0]))
        for limit in (box[axis], box[axis + 2]):
            roots = np.roots(power - (0, 0, 0, limit))
            real = roots[np.abs(roots.imag) < 1e-9].real
            marks += real[(real > 0) & (real < 1)].tolist()
    marks.sort()
    middles = (np.array(marks[:-1]) + np.array(marks[1:])) / 2
    keep = _holds(bezier_at(p[None], middles)[0], box)
    runs: list[tuple[float, float]] = []
    for low, high, kept in zip(marks[:-1], marks[1:], keep.tolist(), strict=True):
        if not kept or high - low <= _LEAST:
            continue
        if runs and runs[-1][1] == low:
            runs[-1] = (runs[-1][0], high)
        else:
            runs.append((low, high))
    return runs


def _beziers(item: Beziers, within: Mask, crossing: Mask, box: Box) -> Beziers:
    pieces, rows = [], []
    for n in np.flatnonzero(within | crossing).tolist():
        if within[n]:
            pieces.append(item.points[n])
            rows.append(n)
            continue
        for low, high in _bezier_runs(item.points[n], box):
            pieces.append(bezier_part(item.points[n], low, high))
            rows.append(n)
    return replace(item, points=np.array(pieces, float).reshape(-1, 4, 2), order=_order(item.order, np.array(rows, int)))


def polygons_of(item: Areas | Fills, number: int) -> list[Array]:
    """The contours of an area as polygons (k, 2)."""
    if isinstance(item, Fills):
        return [item.points[number]]
    found = []
    for contour in np.flatnonzero(item.area == number):
        rows = item.contour == contour
        curves, straight = item.curves[rows], item.straight[rows]
        t = np.linspace(0, 1, _FLAT + 1)[:-1]
        parts = [c[:1] if flat else bezier_at(c[None], t)[0] for c, flat in zip(curves, straight, strict=True)]
        found.append(np.concatenate(parts))
    return found


def _areas(item: Areas | Fills, within: Mask, crossing: Mask, box: Box) -> list[Item]:
    """Areas that the box cuts become polygons first."""
    kept: list[Item] = []
    frame = shapely.box(*box)
    for number in np.flatnonzero(within | crossing).tolist():
        if within[number]:
            kept.append(_one_area(item, number))
            continue
        kept += cut_area(item, number, frame)
    return kept


def cut_area(item: Areas | Fills, number: int, frame: Any) -> list[Item]:
    """What of an area lies in a shapely polygon, its curves as polygons; nothing where none of it does."""
    polygons = [polygon for polygon in polygons_of(item, number) if len(polygon) > 2]
    cut = filled_by(polygons, isinstance(item, Areas) and item.winding).intersection(frame)
    rings = [
        np.array(ring.coords)[:-1]
        for part in getattr(cut, "geoms", [cut])
        if isinstance(part, shapely.Polygon) and not part.is_empty
        for ring in (part.exterior, *part.interiors)
    ]
    return [polygon_areas(item.tags, rings)] if rings else []


def _one_area(item: Areas | Fills, number: int) -> Item:
    if isinstance(item, Fills):
        return replace(item, points=item.points[number : number + 1])
    contours = np.flatnonzero(item.area == number)
    rows = np.isin(item.contour, contours)
    return Areas(
        item.tags,
        item.curves[rows],
        item.straight[rows],
        item.contour[rows] - contours[0],
        np.zeros(len(contours), np.int64),
        item.winding,
    )


def polygon_areas(tags: Tags, rings: list[Array]) -> Areas:
    """Polygons (k, 2) as the contours of one area."""
    curves, contour = [], []
    for number, ring in enumerate(rings):
        following = np.roll(ring, -1, axis=0)
        step = (following - ring) / 3
        curves.append(np.stack((ring, ring + step, following - step, following), axis=1))
        contour.append(np.full(len(ring), number))
    points = np.concatenate(curves)
    return Areas(tags, points, np.ones(len(points), bool), np.concatenate(contour), np.zeros(len(rings), np.int64))


def _raster(item: Raster, box: Box) -> list[Item]:
    """A picture keeps its place; its pixels outside the box become clear."""
    within, crossing = _masks(item.bounds(), box)
    if within.all():
        return [item]
    if not crossing.any():
        return []
    rows, columns = item.pixels.shape[:2]
    u = (np.arange(columns) + 0.5) / columns
    v = 1 - (np.arange(rows) + 0.5) / rows
    places = item.corner + u[None, :, None] * item.across + v[:, None, None] * item.upward
    pixels = item.pixels.copy()
    pixels[~_holds(places, box), 3] = 0
    return [replace(item, pixels=pixels)]


def crop(artwork: Artwork, box: Box) -> Artwork:
    """The parts of everything that lie within *box* (x0, y0, x1, y1). A text is kept whole where its middle lies within."""
    return changed(artwork, _ToBox(box))
