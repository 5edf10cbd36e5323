"""Where bodies of triangles pass through one another: lines that are seen as edges are, and that no mesh has as an edge.

Two triangles cross where each has corners on both sides of the other's plane and their stretches of the line in which these
planes meet overlap (T. Möller, A fast triangle-triangle intersection test, Journal of Graphics Tools 2, 1997). A corner in a
plane counts as on its front, so that an edge in the other's face is found once, and what only touches from there never.
"""

from __future__ import annotations

from collections.abc import Sequence

import numba
import numpy as np
from numpy.typing import NDArray

from skalto.core.geometry import Array
from skalto.core.geometry.grouping import boxes_that_meet, groups_of

Ints = NDArray[np.int64]
_LEAST = 1e-9
"""Distances below this share of the size of all are none."""


@numba.njit(cache=True)  # type: ignore[untyped-decorator]
def _stretch(tri, d, way, ends):  # type: ignore[no-untyped-def]
    """Where a triangle with corners at distances *d* (3,) from a plane meets it: both *ends* (2, 3), in order along *way*;
    False where it does not."""
    n = 0
    for k in range(3):
        j = (k + 1) % 3
        p, q = d[k], d[j]
        if (p >= 0) != (q >= 0) and n < 2:
            t = p / (p - q)
            for x in range(3):
                ends[n, x] = tri[k, x] + (tri[j, x] - tri[k, x]) * t
            n += 1
    if n < 2:
        return False
    first = ends[0, 0] * way[0] + ends[0, 1] * way[1] + ends[0, 2] * way[2]
    last = ends[1, 0] * way[0] + ends[1, 1] * way[1] + ends[1, 2] * way[2]
    if first > last:
        for x in range(3):
            ends[0, x], ends[1, x] = ends[1, x], ends[0, x]
    return True


@numba.njit(cache=True)  # type: ignore[untyped-decorator]
def _normal(tri, out):  # type: ignore[no-untyped-def]
    """The unit normal of a triangle; False for one without area."""
    ux, uy, uz = tri[1, 0] - tri[0, 0], tri[1, 1] - tri[0, 1], tri[1, 2] - tri[0, 2]
    vx, vy, vz = tri[2, 0] - tri[0, 0], tri[2, 1] - tri[0, 1], tri[2, 2] - tri[0, 2]
    out[0], out[1], out[2] = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
    size = np.sqrt(out[0] * out[0] + out[1] * out[1] + out[2] * out[2])
    if size < 1e-30:
        return False
    for x in range(3):
        out[x] /= size
    return True


@numba.njit(cache=True)  # type: ignore[untyped-decorator]
def _distances(tri, plane, normal, least, d):  # type: ignore[no-untyped-def]
    """Of a triangle's corners from the plane of another, into *d* (3,); whether they lie on both sides."""
    front = back = False
    for k in range(3):
        d[k] = 0.0
        for x in range(3):
            d[k] += (tri[k, x] - plane[0, x]) * normal[x]
        if abs(d[k]) < least:
            d[k] = 0.0
        if d[k] >= 0:
            front = True
        else:
            back = True
    return front and back


@numba.njit(cache=True)  # type: ignore[untyped-decorator]
def _crossing(a, b, begin, end, least, capacity, found, pairs):  # type: ignore[no-untyped-def]
    """The segments in which triangles a (n, 3, 3) and b (m, 3, 3) cross, of b with each those of a from *begin* to *end* (m,),
    into *found* (capacity, 2, 3), with their numbers in *pairs*; how many there are."""
    count = 0
    na, nb, way = np.empty(3), np.empty(3), np.empty(3)
    da, db = np.empty(3), np.empty(3)
    ea, eb = np.empty((2, 3)), np.empty((2, 3))
    for j in range(len(b)):
        if begin[j] >= end[j] or not _normal(b[j], nb):
            continue
        for i in range(begin[j], end[j]):
            apart = False
            for x in range(3):
                if min(a[i, 0, x], a[i, 1, x], a[i, 2, x]) > max(b[j, 0, x], b[j, 1, x], b[j, 2, x]) or max(
                    a[i, 0, x], a[i, 1, x], a[i, 2, x]
                ) < min(b[j, 0, x], b[j, 1, x], b[j, 2, x]):
                    apart = True
                    break
            if apart or not _distances(a[i], b[j], nb, least, da) or not _normal(a[i], na):
                continue
            if not _distances(b[j], a[i], na, least, db):
                continue
            way[0] = na[1] * nb[2] - na[2] * nb[1]
            way[1] = na[2] * nb[0] - na[0] * nb[2]
            way[2] = na[0] * nb[1] - na[1] * nb[0]
            if not _stretch(a[i], da, way, ea) or not _stretch(b[j], db, way, eb):
                continue
            value = np.zeros(4)
            for x in range(3):
                value[0] += ea[0, x] * way[x]
                value[1] += ea[1, x] * way[x]
                value[2] += eb[0, x] * way[x]
                value[3] += eb[1, x] * way[x]
            low = 0 if value[0] > value[2] else 2
            high = 1 if value[1] < value[3] else 3
            size = np.sqrt(way[0] * way[0] + way[1] * way[1] + way[2] * way[2])
            if value[high] - value[low] <= least * max(size, 1e-12):
                continue
            if count < capacity:
                for x in range(3):
                    found[count, 0, x] = ea[0, x] if low == 0 else eb[0, x]
                    found[count, 1, x] = ea[1, x] if high == 1 else eb[1, x]
                pairs[count, 0], pairs[count, 1] = i, j
            count += 1
    return count


def bodies_of(faces: Ints) -> Ints:
    """Which body each of the triangles (m, 3) belongs to, (m,): those that hang together by corners are one."""
    corners = faces.ravel()
    triangle = np.repeat(np.arange(len(faces)), 3)
    order = np.argsort(corners, kind="stable")
    same = np.flatnonzero(np.diff(corners[order]) == 0)
    return np.asarray(groups_of(np.stack((triangle[order[same]], triangle[order[same + 1]]), axis=1), len(faces)))


def passing_lines(triangles: Array, body: Ints) -> tuple[Array, Ints]:
    """The segments (k, 2, 3) in which bodies cross, and the two triangles that each lies in, (k, 2).

    :param triangles: of all bodies, (m, 3, 3). :param body: which each belongs to, (m,), counted from 0.
    """
    none = np.empty((0, 2, 3)), np.empty((0, 2), np.int64)
    count = int(body.max()) + 1 if len(body) else 0
    if count < 2:
        return none
    lows, highs = triangles.min(axis=1), triangles.max(axis=1)
    low, high = np.full((count, 3), np.inf), np.full((count, 3), -np.inf)
    np.minimum.at(low, body, lows)
    np.maximum.at(high, body, highs)
    least = _LEAST * float((high.max(axis=0) - low.min(axis=0)).max())
    order = np.argsort(body, kind="stable")
    first = np.searchsorted(body[order], np.arange(count + 1))
    found: list[tuple[Array, Ints]] = []
    for i, j in boxes_that_meet(low, high):
        within = np.maximum(low[i], low[j]), np.minimum(high[i], high[j])
        rows = [_within(order[first[n] : first[n + 1]], lows, highs, *within) for n in (i, j)]
        if len(rows[0]) and len(rows[1]):
            found.append(_crossed(triangles, lows, highs, rows, least))
    return (np.concatenate([own for own, _ in found]), np.concatenate([own for _, own in found])) if found else none


def _within(rows: Ints, lows: Array, highs: Array, low: Array, high: Array) -> Ints:
    return rows[((lows[rows] <= high) & (highs[rows] >= low)).all(axis=1)]


def _crossed(triangles: Array, lows: Array, highs: Array, rows: Sequence[Ints], least: float) -> tuple[Array, Ints]:
    """Of two bodies' triangles by their numbers."""
    axis = int(np.argmax(highs[rows[0]].max(axis=0) - lows[rows[0]].min(axis=0)))
    own = rows[0][np.argsort(lows[rows[0], axis], kind="stable")]
    other = rows[1]
    reach = float((highs[own, axis] - lows[own, axis]).max())
    begin = np.searchsorted(lows[own, axis], lows[other, axis] - reach)
    end = np.searchsorted(lows[own, axis], highs[other, axis], side="right")
    capacity = 4 * (len(own) + len(other)) + 64
    while True:
        found, pairs = np.empty((capacity, 2, 3)), np.empty((capacity, 2), np.int64)
        count = int(_crossing(triangles[own], triangles[other], begin, end, least, capacity, found, pairs))
        if count <= capacity:
            return found[:count], np.stack((own[pairs[:count, 0]], other[pairs[:count, 1]]), axis=1)
        capacity = count
