"""What of an artwork lies within an outline of any shape: strokes are cut where they cross it, and keep what they are."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from skalto.core.artwork.changing import changed
from skalto.core.artwork.crop_to_box import bezier_part, cut_area
from skalto.core.artwork.drawing import Artwork, Item
from skalto.core.artwork.filled import Areas, Fills, Raster, Text
from skalto.core.artwork.sink import give
from skalto.core.artwork.strokes import Beziers, Contours, Ellipses, Lines, Polylines
from skalto.core.geometry import TAU, Array, bezier_at

Run = tuple[float, float]
_SAMPLES = 129
"""At how many places a curve is tried."""
_LEAST = 1e-9


def _holds(shape: Any, points: Array) -> NDArray[np.bool_]:
    return np.asarray(shapely.intersects_xy(shape, points[..., 0], points[..., 1]))


class _ToOutline:
    """A sink that gives the parts of each item that lie within a shapely polygon."""

    def __init__(self, shape: Any) -> None:
        self.shape = shape

    def _masks(self, boxes: Array) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
        """Which boxes lie wholly within, and which touch the shape."""
        frames = shapely.box(boxes[:, 0, 0], boxes[:, 0, 1], boxes[:, 1, 0], boxes[:, 1, 1])
        return shapely.covers(self.shape, frames), shapely.intersects(self.shape, frames)

    def texts(self, item: Text) -> list[Item]:
        return [item.rows(_holds(self.shape, item.corners().mean(axis=1)))]

    def raster(self, item: Raster) -> list[Item]:
        return [_raster(item, self.shape)]

    def lines(self, item: Lines) -> list[Item]:
        return self._stroked(item)

    def ellipses(self, item: Ellipses) -> list[Item]:
        return self._stroked(item)

    def beziers(self, item: Beziers) -> list[Item]:
        return self._stroked(item)

    def _stroked(self, item: Lines | Ellipses | Beziers) -> list[Item]:
        within, touched = self._masks(item.bounds())
        return [item] if within.all() else [_strokes(item, within, touched, self.shape)]

    def polylines(self, item: Polylines) -> list[Item]:
        within, touched = self._masks(item.bounds())
        if within.all():
            return [item]
        kept: list[Item] = [item.rows(np.flatnonzero(within))] if within.any() else []
        cut = item.rows(np.flatnonzero(touched & ~within))
        return kept + [part for own in cut.parts() if len(cut) and len(own) for part in give(own, self)]

    def contours(self, item: Contours) -> list[Item]:
        raise TypeError("strokes are joined after everything has been cut")

    def fills(self, item: Fills) -> list[Item]:
        return self._filled(item)

    def areas(self, item: Areas) -> list[Item]:
        return self._filled(item)

    def _filled(self, item: Areas | Fills) -> list[Item]:
        within, touched = self._masks(item.bounds())
        if within.all():
            return [item]
        return [part for number in np.flatnonzero(touched).tolist() for part in cut_area(item, number, self.shape)]


def _strokes(item: Lines | Ellipses | Beziers, within: NDArray[np.bool_], touched: NDArray[np.bool_], shape: Any) -> Item:
    rows: list[int] = []
    runs: list[Run] = []
    for n in np.flatnonzero(touched).tolist():
        own = [_whole(item, n)] if within[n] else _runs(_at(item, n), _whole(item, n), shape)
        rows += [n] * len(own)
        runs += own
    index = np.array(rows, int)
    order = None if item.order is None else item.order[index]
    low, high = np.array(runs, float).reshape(-1, 2).T
    if isinstance(item, Ellipses):
        return Ellipses(item.tags, item.centre[index], item.major[index], item.minor[index], low, high - low, order)
    if isinstance(item, Lines):
        start, step = item.points[index, 0], item.points[index, 1] - item.points[index, 0]
        points = np.stack((start + low[:, None] * step, start + high[:, None] * step), axis=1)
        return replace(item, points=points, order=order)
    parts = [bezier_part(item.points[n], a, b) for n, (a, b) in zip(rows, runs, strict=True)]
    return replace(item, points=np.array(parts, float).reshape(-1, 4, 2), order=order)


def _whole(item: Lines | Ellipses | Beziers, n: int) -> Run:
    return (float(item.start[n]), float(item.start[n] + item.sweep[n])) if isinstance(item, Ellipses) else (0.0, 1.0)


def _at(item: Lines | Ellipses | Beziers, n: int) -> Callable[[Array], Array]:
    if isinstance(item, Ellipses):
        c, a, b = item.centre[n], item.major[n], item.minor[n]
        return lambda t: np.asarray(c + np.outer(np.cos(t), a) + np.outer(np.sin(t), b))
    if isinstance(item, Lines):
        p, q = item.points[n]
        return lambda t: np.asarray(p + np.outer(t, q - p))
    return lambda t: np.asarray(bezier_at(item.points[n][None], t)[0])


def _runs(at: Callable[[Array], Array], whole: Run, shape: Any) -> list[Run]:
    """The runs of parameter of a curve that lie within: its crossings with the outline's edges, found by the pieces of a fine
    polyline and made exact by halving."""
    t = np.linspace(*whole, _SAMPLES)
    points = at(t)
    marks: list[float] = []
    line = shapely.linestrings(np.stack((points[:-1], points[1:]), axis=1))
    border = shape.boundary
    for n in np.flatnonzero(shapely.intersects(border, line)).tolist():
        met = shapely.get_coordinates(shapely.intersection(border, line[n]))
        step = points[n + 1] - points[n]
        length = float(step @ step)
        shares = np.clip((met - points[n]) @ step / length, 0, 1) if length else np.zeros(0)
        marks += [_crossing(at, float(t[n] + share * (t[n + 1] - t[n])), float(t[n + 1] - t[n]), shape) for share in shares]
    ends = sorted({whole[0], whole[1], *(m for m in marks if whole[0] < m < whole[1])})
    found: list[Run] = []
    middles = (np.array(ends[:-1]) + np.array(ends[1:])) / 2
    for low, high, kept in zip(ends[:-1], ends[1:], _holds(shape, at(middles)).tolist(), strict=True):
        if not kept or high - low <= _LEAST * (whole[1] - whole[0]):
            continue
        if found and found[-1][1] == low:
            found[-1] = (found[-1][0], high)
        else:
            found.append((low, high))
    if len(found) > 1 and whole[1] - whole[0] >= TAU - 1e-12 and found[0][0] == whole[0] and found[-1][1] == whole[1]:
        # a circle that begins inside is cut elsewhere, not where it happens to begin
        last = found.pop()
        found[0] = (last[0] - TAU, found[0][1])
    return found


def _crossing(at: Callable[[Array], Array], t: float, step: float, shape: Any) -> float:
    """Where a curve crosses the outline near *t*, by halving; *t* itself where it only touches it."""
    low, high = t - step / 64, t + step / 64
    inside = _holds(shape, at(np.array((low, high)))).tolist()
    if inside[0] == inside[1]:
        return t
    for _ in range(48):
        middle = (low + high) / 2
        if bool(_holds(shape, at(np.array((middle,))))[0]) == inside[0]:
            low = middle
        else:
            high = middle
    return (low + high) / 2


def _raster(item: Raster, shape: Any) -> Raster:
    rows, columns = item.pixels.shape[:2]
    u, v = (np.arange(columns) + 0.5) / columns, 1 - (np.arange(rows) + 0.5) / rows
    places = item.corner + u[None, :, None] * item.across + v[:, None, None] * item.upward
    pixels = item.pixels.copy()
    pixels[~_holds(shape, places), 3] = 0
    return replace(item, pixels=pixels)


def clip(artwork: Artwork, shape: Any) -> Artwork:
    """The parts of everything that lie within a shapely polygon. A text is kept whole where its middle lies within."""
    if shape.geom_type == "GeometryCollection":
        shape = shapely.union_all([part for part in shape.geoms if part.area > 0])
    shapely.prepare(shape)
    return changed(artwork, _ToOutline(shape))
