"""What of an artwork lies within an outline of any shape: strokes are cut where they cross it, and keep what they are."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from skalto.core.artwork import (
    TAU,
    Areas,
    Array,
    Artwork,
    Beziers,
    Contours,
    Ellipses,
    Fills,
    Item,
    Lines,
    Polylines,
    Raster,
    Text,
    bezier_at,
)
from skalto.core.drawings.collecting import Contour
from skalto.core.drawings.cropping import bezier_part, cut_area, filled_by

Run = tuple[float, float]
_FLAT, _SAMPLES = 64, 129
"""Into how many pieces a curved edge of an outline goes, and at how many places a curve is tried."""
_LEAST = 1e-9


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


def clip(artwork: Artwork, shape: Any) -> Artwork:
    """The parts of everything that lie within a shapely polygon. A text is kept whole where its middle lies within."""
    if shape.geom_type == "GeometryCollection":
        shape = shapely.union_all([part for part in shape.geoms if part.area > 0])
    shapely.prepare(shape)
    items = [part for item in artwork if len(item) for part in _clipped(item, shape) if len(part)]
    return Artwork(tuple(items))


def _holds(shape: Any, points: Array) -> NDArray[np.bool_]:
    return np.asarray(shapely.intersects_xy(shape, points[..., 0], points[..., 1]))


def _clipped(item: Item, shape: Any) -> list[Item]:
    if isinstance(item, Text):
        return [item.rows(_holds(shape, item.corners().mean(axis=1)))]
    if isinstance(item, Raster):
        return [_raster(item, shape)]
    boxes = item.bounds()
    frames = shapely.box(boxes[:, 0, 0], boxes[:, 0, 1], boxes[:, 1, 0], boxes[:, 1, 1])
    within, touched = shapely.covers(shape, frames), shapely.intersects(shape, frames)
    if within.all():
        return [item]
    if isinstance(item, Polylines):
        kept: list[Item] = [item.rows(np.flatnonzero(within))] if within.any() else []
        cut = item.rows(np.flatnonzero(touched & ~within))
        return kept + [part for own in cut.parts() if len(cut) and len(own) for part in _clipped(own, shape)]
    if isinstance(item, Areas | Fills):
        return [part for number in np.flatnonzero(touched).tolist() for part in cut_area(item, number, shape)]
    if isinstance(item, Contours):
        raise TypeError("strokes are joined after everything has been cut")
    return [_strokes(item, within, touched, shape)]


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
