"""Curves that lie on one another, wholly or in part, made single: cut where one begins on the other, then compared."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numba
import numpy as np
from numpy.typing import NDArray

from skalto.core.geometry import Array, bezier_at
from skalto.core.geometry.grouping import near_pairs

Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]
_SAMPLES = 17
_INNER = np.array((0.2, 0.5, 0.8))
_BESIDE = 0.12
"""How far along a curve from its end a place is looked at, to tell one that runs along another from one that meets it."""
_LEAST = 1e-6
_PIECES = 4
"""So many boxes are put around a curve."""


@numba.njit(cache=True)  # type: ignore[untyped-decorator]
def _feet(curves, points, parameters, distances):  # type: ignore[no-untyped-def]
    for n in range(len(curves)):
        px, py = points[n, 0], points[n, 1]
        x0, y0 = curves[n, 0, 0] - px, curves[n, 0, 1] - py
        x1, y1 = curves[n, 1, 0] - px, curves[n, 1, 1] - py
        x2, y2 = curves[n, 2, 0] - px, curves[n, 2, 1] - py
        x3, y3 = curves[n, 3, 0] - px, curves[n, 3, 1] - py
        best, t = np.inf, 0.0
        for k in range(_SAMPLES):
            u = k / (_SAMPLES - 1)
            s = 1.0 - u
            a, b, c, d = s * s * s, 3 * s * s * u, 3 * s * u * u, u * u * u
            x, y = a * x0 + b * x1 + c * x2 + d * x3, a * y0 + b * y1 + c * y2 + d * y3
            away = x * x + y * y
            if away < best:
                best, t = away, u
        for step in range(6):
            s = 1.0 - t
            a, b, c, d = s * s * s, 3 * s * s * t, 3 * s * t * t, t * t * t
            x, y = a * x0 + b * x1 + c * x2 + d * x3, a * y0 + b * y1 + c * y2 + d * y3
            if step == 5:
                break
            e, f, g = 3 * s * s, 6 * s * t, 3 * t * t
            vx = e * (x1 - x0) + f * (x2 - x1) + g * (x3 - x2)
            vy = e * (y1 - y0) + f * (y2 - y1) + g * (y3 - y2)
            wx = 6 * (s * (x2 - 2 * x1 + x0) + t * (x3 - 2 * x2 + x1))
            wy = 6 * (s * (y2 - 2 * y1 + y0) + t * (y3 - 2 * y2 + y1))
            below = vx * vx + vy * vy + x * wx + y * wy
            if abs(below) > 1e-18:
                t = min(1.0, max(0.0, t - (x * vx + y * vy) / below))
        parameters[n], distances[n] = t, math.sqrt(x * x + y * y)


def foot(curves: Array, points: Array) -> tuple[Array, Array]:
    """The nearest place of each cubic (n, 4, 2) to a point (n, 2): its parameter (n,), and how far it is (n,)."""
    t, away = np.empty(len(curves)), np.empty(len(curves))
    _feet(np.ascontiguousarray(curves, float), np.ascontiguousarray(points, float), t, away)
    return t, away


def _part(curves: Array, low: Array, high: Array) -> Array:
    """The stretch from *low* to *high* (n,) of each cubic (n, 4, 2), by its polar form."""

    def polar(a: Array, b: Array, c: Array) -> Array:
        p = curves
        for t in (a, b, c):
            p = p[:, :-1] * (1 - t)[:, None, None] + p[:, 1:] * t[:, None, None]
        return p[:, 0]

    return np.stack((polar(low, low, low), polar(low, low, high), polar(low, high, high), polar(high, high, high)), axis=1)


@numba.njit(cache=True)  # type: ignore[untyped-decorator]
def _looked_up(curves, free, near, grid, columns, rows, start, order, ends, pairs):  # type: ignore[no-untyped-def]
    """Write down into *pairs* the numbers of ends and of curves by which they lie, as far as boxes around pieces of
    curves tell; how many there are, more than there is room for where it does not do."""
    count = len(curves)
    polar = np.empty((4, 2))
    stamp = np.full(len(ends), -1)
    n = 0
    for c in range(count):
        for p in range(_PIECES):
            x0, y0, x1, y1 = np.inf, np.inf, -np.inf, -np.inf
            for k in range(4):
                # a pole of the piece, by the polar form
                polar[:] = curves[c]
                for step in range(3):
                    t = (p + (1 if step < k else 0)) / _PIECES
                    for pole in range(3 - step):
                        for axis in range(2):
                            polar[pole, axis] += (polar[pole + 1, axis] - polar[pole, axis]) * t
                x, y = polar[0, 0], polar[0, 1]
                x0, x1, y0, y1 = min(x0, x), max(x1, x), min(y0, y), max(y1, y)
            x0, y0, x1, y1 = x0 - near, y0 - near, x1 + near, y1 + near
            i0, i1 = max(0, int((x0 - grid[0]) / grid[2])), min(columns - 1, int((x1 - grid[0]) / grid[2]))
            j0, j1 = max(0, int((y0 - grid[1]) / grid[2])), min(rows - 1, int((y1 - grid[1]) / grid[2]))
            for j in range(j0, j1 + 1):
                for m in range(start[j * columns + i0], start[j * columns + i1 + 1]):
                    end = order[m]
                    own = end % count
                    if own == c or stamp[end] == c or not (free[own] or free[c]):
                        continue
                    x, y = ends[end, 0], ends[end, 1]
                    if x0 <= x <= x1 and y0 <= y <= y1:
                        stamp[end] = c
                        if n < len(pairs):
                            pairs[n, 0], pairs[n, 1] = end, c
                        n += 1
    return n


def _ends_near(curves: Array, ends: Array, free: Flags, near: float) -> tuple[Ints, Ints]:
    """Of the ends (2n, 2) of curves (n, 4, 2), those that may lie nearer than *near* to another: their numbers, and the
    other's. Of two that are not *free* (n,) nothing is said."""
    if not len(ends):
        return np.empty(0, np.int64), np.empty(0, np.int64)
    low, high = ends.min(axis=0), ends.max(axis=0)
    # about as many cells as ends
    cell = max(float(np.sqrt(np.prod(np.maximum(high - low, 1e-6)) / len(ends))), float((high - low).max()) / 2000, 1e-6)
    columns, rows = (int(count) + 1 for count in (high - low) / cell)
    column, row = ((ends - low) / cell).astype(np.int64).T
    own = np.clip(row, 0, rows - 1) * columns + np.clip(column, 0, columns - 1)
    order = np.argsort(own, kind="stable")
    start = np.searchsorted(own[order], np.arange(columns * rows + 1))
    grid = np.array((low[0], low[1], cell))
    pairs = np.empty((4 * len(ends), 2), np.int64)
    found = _looked_up(curves, free, near, grid, columns, rows, start, order, ends, pairs)
    if found > len(pairs):
        pairs = np.empty((found, 2), np.int64)
        _looked_up(curves, free, near, grid, columns, rows, start, order, ends, pairs)
    return pairs[:found, 0], pairs[:found, 1]


def _cuts(curves: Array, free: Flags, near: float) -> tuple[Ints, Array]:
    """Where curves begin or end on the inside of others, and run along them: the number of the other, and its parameter there.
    Of two that are not *free* (n,) nothing is said."""
    ends = np.concatenate((curves[:, 0], curves[:, 3]))
    beside = np.concatenate((bezier_at(curves, np.array((_BESIDE,)))[:, 0], bezier_at(curves, np.array((1 - _BESIDE,)))[:, 0]))
    point, other = _ends_near(curves, ends, free, near)
    t, off = foot(curves[other], ends[point])
    length = np.linalg.norm(np.diff(curves[other], axis=1), axis=-1).sum(axis=1)
    inside = (off <= near) & (t * length > 2 * near) & ((1 - t) * length > 2 * near)
    point, other, t = point[inside], other[inside], t[inside]
    if not len(point):
        return other, t
    _, along = foot(curves[other], beside[point])
    runs = along <= near
    return other[runs], t[runs]


def _parted(curves: Array, free: Flags, near: float) -> tuple[Array, Ints]:
    """Curves cut where others begin on them, in order, and which each piece was."""
    other, t = _cuts(curves, free, near)
    rows = np.concatenate((np.arange(len(curves)), np.arange(len(curves)), other))
    at = np.concatenate((np.zeros(len(curves)), np.ones(len(curves)), t))
    order = np.lexsort((at, rows))
    rows, at = rows[order], at[order]
    same = (rows[1:] == rows[:-1]) & (at[1:] - at[:-1] > _LEAST)
    owner = rows[:-1][same]
    return _part(curves[owner], at[:-1][same], at[1:][same]), owner


@dataclass(frozen=True, eq=False)
class Single:
    """What is left of curves: pieces (m, 4, 2), which each was (m,), whether it is all of that (m,), and whether it lies
    *under* one that it outlasts (m,)."""

    curves: Array
    owner: Ints
    whole: Flags
    under: Flags


def single_curves(curves: Array, ranks: Ints, free: Flags, near: float, lasting: tuple[Flags, Flags]) -> Single:
    """Cubic Béziers (n, 4, 2) with nothing drawn twice; of two that lie on one another nearer than *near* the one with the
    lower of *ranks* (n,) stays, else the first.

    :param free: (n,) those that are looked at; of the others, lines and arcs that have been made single among themselves, no
    two are compared.
    :param lasting: (n,) each: those under which what lasts is kept, and what lasts under them.
    """
    pieces, owner = _parted(curves, free, near)
    order = np.argsort(ranks[owner], kind="stable")
    ends = np.stack((pieces[:, 0], pieces[:, 3]), axis=1)
    # by the middle of the ends, which is the same whichever way round
    pairs = near_pairs(ends.mean(axis=1), 2 * near)
    kept = np.ones(len(pieces), bool)
    under = np.zeros(len(pieces), bool)
    over, lasts = (own[owner] for own in lasting)
    if len(pairs):
        pairs = pairs[free[owner[pairs]].any(axis=1)]
        a, b = pairs[:, 0], pairs[:, 1]
        along = np.linalg.norm(ends[a] - ends[b], axis=-1).max(axis=1)
        against = np.linalg.norm(ends[a] - ends[b][:, ::-1], axis=-1).max(axis=1)
        pairs = pairs[np.minimum(along, against) <= 2 * near]
        a, b = pairs[:, 0], pairs[:, 1]
        alike = np.ones(len(pairs), bool)
        for share in _INNER:
            alike &= foot(pieces[a], bezier_at(pieces[b], np.array((share,)))[:, 0])[1] <= near
        place = np.empty(len(pieces), np.int64)
        place[order] = np.arange(len(pieces))
        for one, two in pairs[alike].tolist():
            first, last = (two, one) if place[one] > place[two] else (one, two)
            if over[first] and lasts[last]:
                under[last] = True
            else:
                kept[last] = False
    count = np.bincount(owner, minlength=len(curves))
    return Single(pieces[kept], owner[kept], (count == 1)[owner[kept]], under[kept])
