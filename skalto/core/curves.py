"""Curves: fitting cubic Béziers to anything with points and tangents, recognising conics, and arcs as Béziers."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from skalto.core.artwork import TAU, Array, bezier_at

CurveFunction = Callable[[Array], tuple[Array, Array]]
"""From parameters (k,) to points (k, 2) and derivatives (k, 2)."""

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
    for _ in range(4):
        s = 1 - t
        value = bezier_at(cubics, t)
        slope = (s * s)[..., None] * d[:, None, 0] + (2 * s * t)[..., None] * d[:, None, 1] + (t * t)[..., None] * d[:, None, 2]
        with np.errstate(divide="ignore", invalid="ignore"):
            move = ((points - value) * slope).sum(-1) / (slope * slope).sum(-1)
        t = np.clip(t + np.nan_to_num(move), 0, 1)
    gap: Array = np.linalg.norm(points - bezier_at(cubics, t), axis=-1).max(axis=1)
    return gap


def fit_beziers(curve: CurveFunction, breaks: Array, tolerance: float) -> Array:
    """Cubic Béziers along a curve, none further from it than *tolerance*.

    :param breaks: (m,) rising parameters; between two the curve is smooth.
    :param tolerance: mm.
    :return: (n, 4, 2) in order along the curve.
    """
    low, high = np.asarray(breaks[:-1], float), np.asarray(breaks[1:], float)
    done: list[tuple[float, Array]] = []
    for depth in range(_MAX_DEPTH + 1):
        span = high - low
        # tangents just inside a break, where two smooth pieces may meet at a corner
        t = np.concatenate((low + 1e-9 * span, high - 1e-9 * span, *(low + f * span for f in _SAMPLES)))
        points, slopes = curve(t)
        n = len(low)
        ends, _ = curve(np.concatenate((low, high)))
        samples = points[2 * n :].reshape(len(_SAMPLES), n, 2).transpose(1, 0, 2)
        middle = samples[:, len(_SAMPLES) // 2]
        cubics = _hermite(ends[:n], ends[n:], slopes[:n] * span[:, None], slopes[n : 2 * n] * span[:, None], middle)
        ok = _deviation(cubics, samples) <= tolerance * 0.9
        if depth == _MAX_DEPTH:
            ok[:] = True
        done += [(float(low[i]), cubics[i]) for i in np.flatnonzero(ok)]
        if ok.all():
            break
        low, high = low[~ok], high[~ok]
        centre = (low + high) / 2
        low, high = np.stack((low, centre), 1).ravel(), np.stack((centre, high), 1).ravel()
    done.sort(key=lambda pair: pair[0])
    return np.array([cubic for _, cubic in done]).reshape(-1, 4, 2)


def circle_through(points: Array, tolerance: float) -> tuple[Array, float] | None:
    """The circle on which all *points* (k, 2) lie within *tolerance*, as (centre, radius), or None.

    Points on a line, or fewer than five, give None.
    """
    if len(points) < 5:
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
