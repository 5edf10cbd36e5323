"""Curves: fitting cubic Béziers to anything with points and tangents, recognising conics, and arcs as Béziers."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from skalto.core.geometry import TAU, Array, bezier_at

CurveFunction = Callable[[Array], tuple[Array, Array]]
"""From parameters (k,) to points (k, 2) and derivatives (k, 2)."""


@dataclass(frozen=True, eq=False)
class OneOfMany:
    """A curve that is quicker worked out together with others of its kind: *many* takes curves, and for each place which of
    them it is on (k,) and the parameter (k,); *curve* is this one."""

    curve: Any
    many: Callable[[Sequence[Any], NDArray[np.int64], Array], tuple[Array, Array]]

    def __call__(self, t: Array) -> tuple[Array, Array]:
        return self.many([self.curve], np.zeros(len(t), np.int64), t)


_MAX_DEPTH = 12
_SAMPLES = np.array((1 / 6, 1 / 3, 1 / 2, 2 / 3, 5 / 6))


def arc_pieces(radius: Array, sweep: Array, tolerance: float) -> Array:
    """How many equal cubic Béziers keep each arc's radial error at or under *tolerance*, and no more.

    The error of the usual cubic (control arms 4/3·tan(θ/4)) on a circle is 2/27·sin⁶(θ/4)/cos²(θ/4)·r (closed form;
    at θ = 90° it is 2.73·10⁻⁴ r). On an ellipse the larger half axis bounds it.

    :param radius: (n,) mm, the larger half axis. :param sweep: (n,) radians. :param tolerance: mm.
    :return: (n,) integers, at least 1 and no piece over 90°.
    """
    pieces = np.maximum(1, np.ceil(np.abs(sweep) / (np.pi / 2) - 1e-9)).astype(int)
    while True:
        quarter = np.abs(sweep) / pieces / 4
        error = 2 / 27 * np.sin(quarter) ** 6 / np.cos(quarter) ** 2 * radius
        short = error > tolerance
        if not short.any():
            return pieces
        pieces = pieces + short


def arc_beziers(centre: Array, major: Array, minor: Array, start: Array, sweep: Array, pieces: int) -> Array:
    """Elliptical arcs (n) as *pieces* cubic Béziers each: shape (n, pieces, 4, 2)."""
    step = sweep / pieces
    t = start[:, None] + step[:, None] * np.arange(pieces + 1)
    cos, sin = np.cos(t)[..., None], np.sin(t)[..., None]
    a, b = major[:, None], minor[:, None]
    points = centre[:, None] + cos * a + sin * b
    # the end of a whole ellipse is its beginning, to the last bit
    whole = np.abs(sweep) >= TAU - 1e-12
    points[whole, -1] = points[whole, 0]
    tangent = (cos * b - sin * a) * (4 / 3 * np.tan(step / 4))[:, None, None]
    return np.stack((points[:, :-1], points[:, :-1] + tangent[:, :-1], points[:, 1:] - tangent[:, 1:], points[:, 1:]), axis=2)


def _hermite(p0: Array, p1: Array, d0: Array, d1: Array, middle: Array) -> Array:
    """Cubics with the given ends and end tangents whose middle comes nearest to *middle*: arms by least squares.

    All (n, 2); returns (n, 4, 2).
    """
    chord = np.linalg.norm(p1 - p0, axis=1)[:, None]
    with np.errstate(divide="ignore", invalid="ignore"):
        u0 = np.nan_to_num(d0 / np.linalg.norm(d0, axis=1)[:, None])
        u1 = np.nan_to_num(d1 / np.linalg.norm(d1, axis=1)[:, None])
    # B(1/2) = (p0 + p1)/2 + 3/8 (a0·u0 − a1·u1): two equations for the arms a0, a1
    rhs = (middle - (p0 + p1) / 2) * (8 / 3)
    det = -u0[:, 0] * u1[:, 1] + u1[:, 0] * u0[:, 1]
    with np.errstate(divide="ignore", invalid="ignore"):
        a0 = (-rhs[:, 0] * u1[:, 1] + u1[:, 0] * rhs[:, 1]) / det
        a1 = (u0[:, 0] * rhs[:, 1] - u0[:, 1] * rhs[:, 0]) / det
    flat = ~(np.isfinite(a0) & np.isfinite(a1) & (np.abs(det) > 1e-4))
    length = chord[:, 0]
    bad = flat | (a0 <= 0) | (a1 <= 0) | (a0 > 2 * length) | (a1 > 2 * length)
    a0, a1 = np.where(bad, length / 3, a0)[:, None], np.where(bad, length / 3, a1)[:, None]
    return np.stack((p0, p0 + a0 * u0, p1 - a1 * u1, p1), axis=1)


def _deviation(cubics: Array, points: Array) -> Array:
    """Largest distance from sample points (n, k, 2) to their cubics (n, 4, 2), by Newton's foot points: (n,)."""
    t = np.broadcast_to(_SAMPLES, points.shape[:2]).copy()
    d = 3 * np.diff(cubics, axis=1)
    for _ in range(3):
        s = 1 - t
        value = bezier_at(cubics, t)
        slope = (s * s)[..., None] * d[:, None, 0] + (2 * s * t)[..., None] * d[:, None, 1] + (t * t)[..., None] * d[:, None, 2]
        with np.errstate(divide="ignore", invalid="ignore"):
            move = ((points - value) * slope).sum(-1) / (slope * slope).sum(-1)
        t = np.clip(t + np.nan_to_num(move), 0, 1)
    gap: Array = np.linalg.norm(points - bezier_at(cubics, t), axis=-1).max(axis=1)
    return gap


def fit_many(curves: Sequence[tuple[CurveFunction, Array]], tolerance: float) -> list[Array]:
    """Cubic Béziers along curves, none further from its own than *tolerance*; all halved and tried together.

    :param curves: each with its breaks (m,), all rising or all falling; between two the curve is smooth.
    :param tolerance: mm.
    :return: for each curve (n, 4, 2) in order along it.
    """
    owner = np.concatenate([np.full(len(breaks) - 1, n) for n, (_, breaks) in enumerate(curves)] or [np.empty(0, int)])
    low = np.concatenate([np.asarray(breaks[:-1], float) for _, breaks in curves] or [np.empty(0)])
    high = np.concatenate([np.asarray(breaks[1:], float) for _, breaks in curves] or [np.empty(0)])
    done: list[list[tuple[float, Array]]] = [[] for _ in curves]
    for depth in range(_MAX_DEPTH + 1):
        if not len(low):
            break
        ends, slopes, samples = _sampled(curves, owner, low, high)
        span = (high - low)[:, None]
        middle = samples[:, len(_SAMPLES) // 2]
        cubics = _hermite(ends[0], ends[1], slopes[0] * span, slopes[1] * span, middle)
        ok = _deviation(cubics, samples) <= tolerance * 0.9
        if depth == _MAX_DEPTH:
            ok[:] = True
        for i in np.flatnonzero(ok):
            done[owner[i]].append((float(low[i]), cubics[i]))
        owner, low, high = owner[~ok], low[~ok], high[~ok]
        centre = (low + high) / 2
        owner = np.repeat(owner, 2)
        low, high = np.stack((low, centre), 1).ravel(), np.stack((centre, high), 1).ravel()
    result = []
    for (_, breaks), pieces in zip(curves, done, strict=True):
        pieces.sort(key=lambda pair: pair[0], reverse=bool(breaks[-1] < breaks[0]))
        result.append(np.array([cubic for _, cubic in pieces]).reshape(-1, 4, 2))
    return result


def _sampled(
    curves: Sequence[tuple[CurveFunction, Array]], owner: Array, low: Array, high: Array
) -> tuple[tuple[Array, Array], tuple[Array, Array], Array]:
    """Points and slopes (n, 2) at both ends of each piece, and points (n, k, 2) between, each from its own curve."""
    n, k = len(low), len(_SAMPLES)
    ends, slopes, samples = np.empty((2, n, 2)), np.empty((2, n, 2)), np.empty((n, k, 2))
    span = high - low
    # tangents just inside a break, where two smooth pieces may meet at a corner
    inset = 1e-9 * span
    t = np.stack((low, high, low + inset, high - inset, *(low + f * span for f in _SAMPLES)), axis=1)

    def put(rows: NDArray[np.int64], found: tuple[Array, Array]) -> None:
        points, tangents = (values.reshape(len(rows), k + 4, 2) for values in found)
        ends[:, rows] = points[:, :2].transpose(1, 0, 2)
        slopes[:, rows] = tangents[:, 2:4].transpose(1, 0, 2)
        samples[rows] = points[:, 4:]

    kin: dict[Any, list[int]] = {}
    for number in np.unique(owner).tolist():
        curve = curves[number][0]
        if isinstance(curve, OneOfMany):
            kin.setdefault(curve.many, []).append(number)
            continue
        rows = np.flatnonzero(owner == number)
        put(rows, curve(t[rows].ravel()))
    for many, numbers in kin.items():
        rows = np.flatnonzero(np.isin(owner, numbers))
        which = np.repeat(np.searchsorted(numbers, owner[rows]), k + 4)
        put(rows, many([curve.curve for n in numbers if isinstance(curve := curves[n][0], OneOfMany)], which, t[rows].ravel()))
    return (ends[0], ends[1]), (slopes[0], slopes[1]), samples


def fit_beziers(curve: CurveFunction, breaks: Array, tolerance: float) -> Array:
    """Cubic Béziers (n, 4, 2) along one curve: :func:`fit_many` of it alone."""
    return fit_many([(curve, breaks)], tolerance)[0]


def _round_by_three(points: Array, tolerance: float) -> bool:
    """A quick no for what is not round: whether the circle through three of the points comes near the rest."""
    third = len(points) // 3
    (ax, ay), (bx, by), (cx, cy) = points[0].tolist(), points[third].tolist(), points[2 * third].tolist()
    bx, by, cx, cy = bx - ax, by - ay, cx - ax, cy - ay
    det = 2 * (bx * cy - by * cx)
    size = max(abs(bx), abs(by), abs(cx), abs(cy))
    if abs(det) <= 1e-9 * size * size:
        return False
    b2, c2 = bx * bx + by * by, cx * cx + cy * cy
    x, y = (cy * b2 - by * c2) / det, (bx * c2 - cx * b2) / det
    gap = np.hypot(points[:, 0] - ax - x, points[:, 1] - ay - y) - np.hypot(x, y)
    return bool(np.abs(gap).max() <= 20 * tolerance)


def circle_through(points: Array, tolerance: float) -> tuple[Array, float] | None:
    """The circle on which all *points* (k, 2) lie within *tolerance*, as (centre, radius), or None.

    Points on a line, or fewer than five, give None.
    """
    if len(points) < 5 or not _round_by_three(points, tolerance):
        return None
    origin = points.mean(axis=0)
    p = points - origin
    size = np.abs(p).max()
    if size <= tolerance:
        return None
    system = np.column_stack((2 * p, np.full(len(p), size)))
    solution, _, rank, singular = np.linalg.lstsq(system, (p * p).sum(axis=1), rcond=None)
    if rank < 3 or singular[-1] < 1e-5 * singular[0]:
        return None
    centre = solution[:2]
    radii = np.linalg.norm(p - centre, axis=1)
    radius = float(radii.mean())
    if radius > 1e3 * size or np.abs(radii - radius).max() > tolerance:
        return None
    return centre + origin, radius
