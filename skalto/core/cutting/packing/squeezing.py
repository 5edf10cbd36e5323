"""A strip made shorter by moving its pieces all at once, none turned: each pair stays apart along a line between its convex
parts, and a linear program finds the shortest strip that this allows; then lines are chosen anew (compaction by separating
lines, after Li and Milenkovic, “Compaction and separation algorithms for non-convex polygons”, 1995, from memory).
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.optimize import linprog
from scipy.sparse import coo_matrix, csr_matrix, vstack

from skalto.core.geometry import Array

ROUNDS = 30
REACH = 15.0
"""How far, mm, a piece moves in a round at most along each axis."""
GAIN = 1e-3
"""A round that shortens the strip by less than this, mm, is the last but one."""
_FLAT = 1e-7
_DOWN = 1e-4
"""What a mm of a piece's own way to the left counts against one of the strip."""


def convex_parts(area: Any) -> list[Array]:
    """Convex polygons (k, 2), counter-clockwise, that make up an area without holes."""
    hull = area.convex_hull
    if hull.area - area.area <= _FLAT * hull.area:
        return [_corners(hull)]
    parts = list(shapely.get_parts(shapely.constrained_delaunay_triangles(area)))
    number = 0
    while number < len(parts):
        joined = next((m for m in range(number + 1, len(parts)) if _convex(parts[number], parts[m]) is not None), None)
        if joined is None:
            number += 1
            continue
        parts[number] = _convex(parts[number], parts.pop(joined))
    return [_corners(part) for part in parts]


def _convex(one: Any, other: Any) -> Any:
    """Two areas as one where that is convex."""
    if not shapely.intersects(one, other):
        return None
    both = shapely.union(one, other)
    hull = both.convex_hull
    return hull if both.geom_type == "Polygon" and hull.area - both.area <= _FLAT * hull.area else None


def _corners(area: Any) -> Array:
    ring: Array = np.asarray(shapely.orient_polygons(area).exterior.coords)[:-1]
    return ring


class _Parts:
    """The convex parts of pieces, each with as many corners: *points* (p, k, 2), outward *normals* of the edges, how far each
    edge is *out* along its normal (p, k), whose they are, and their *boxes* (p, 4)."""

    def __init__(self, areas: Sequence[Any]) -> None:
        rings = [(n, ring) for n, area in enumerate(areas) for ring in convex_parts(area)]
        most = max(len(ring) for _, ring in rings)
        edges = [np.roll(ring, -1, axis=0) - ring for _, ring in rings]
        normals = [np.stack((e[:, 1], -e[:, 0]), axis=1) / np.hypot(e[:, 0], e[:, 1])[:, None] for e in edges]
        self.owner = np.array([n for n, _ in rings])
        self.points = np.stack([_filled(ring, most) for _, ring in rings])
        self.normals = np.stack([_filled(own, most) for own in normals])
        self.out = np.einsum("pkd,pkd->pk", self.normals, self.points)
        self.boxes = np.concatenate((self.points.min(axis=1), self.points.max(axis=1)), axis=1)
        first, second = np.triu_indices(len(rings), 1)
        apart = self.owner[first] != self.owner[second]
        self.pairs = np.stack((first[apart], second[apart]))

    def between(self, by: Array) -> tuple[Array, NDArray[np.int64], NDArray[np.int64], Array]:
        """For each pair of parts that may meet, their pieces moved *by* (n, 2): the direction from the first to the second in
        which they are furthest apart, the pieces, and how far, mm."""
        boxes = self.boxes + np.concatenate((by, by), axis=1)[self.owner]
        a, b = self.pairs
        gaps = np.maximum(boxes[a, :2] - boxes[b, 2:], boxes[b, :2] - boxes[a, 2:]).max(axis=1)
        a, b = self.pairs[:, gaps < 2 * REACH]
        moved_a, moved_b = by[self.owner[a]], by[self.owner[b]]
        from_a = self._away(a, b, moved_b - moved_a)
        from_b = self._away(b, a, moved_a - moved_b)
        rows = np.arange(len(a))
        edge_a, edge_b = from_a.argmax(axis=1), from_b.argmax(axis=1)
        own_a, own_b = from_a[rows, edge_a], from_b[rows, edge_b]
        by_a = own_a >= own_b
        normal = np.where(by_a[:, None], self.normals[a, edge_a], -self.normals[b, edge_b])
        away = np.where(by_a, own_a, own_b)
        # what is further apart than both can move needs no line
        near = away < 2 * math.sqrt(2) * REACH
        return normal[near], self.owner[a[near]], self.owner[b[near]], away[near]

    def _away(self, a: NDArray[np.int64], b: NDArray[np.int64], by: Array) -> Array:
        """How far each *b*, moved *by* from each *a*, is beyond each edge of that, (m, k)."""
        beyond = np.einsum("mkd,mjd->mkj", self.normals[a], self.points[b]).min(axis=2)
        found: Array = beyond + np.einsum("mkd,md->mk", self.normals[a], by) - self.out[a]
        return found


def _filled(rows: Array, count: int) -> Array:
    return np.concatenate((rows, np.repeat(rows[-1:], count - len(rows), axis=0)))


def squeezed(areas: Sequence[Any], height: float, stop: Callable[[], bool] = lambda: False) -> tuple[Array, float]:
    """How far each area moves, (n, 2) mm, so that a strip of a height from (0, 0) on gets shorter, and how long it is then.

    :param areas: polygons without holes, none over another, within the strip.
    """
    parts, count = _Parts(areas), len(areas)
    boxes = np.array([area.bounds for area in areas])
    by, width = np.zeros((count, 2)), float(boxes[:, 2].max())
    for _ in range(ROUNDS):
        if stop():
            break
        moved = _moved(parts, boxes + np.concatenate((by, by), axis=1), by, height, width)
        if moved is None:
            break
        by = by + moved[0]
        gained, width = width - moved[1], min(width, moved[1])
        if gained < GAIN:
            break
    return by, width


def _moved(parts: _Parts, boxes: Array, by: Array, height: float, width: float) -> tuple[Array, float] | None:
    """One round: how far pieces move, and the strip's new length; None where no solution is found."""
    count = len(boxes)
    normal, a, b, away = parts.between(by)
    rows = np.arange(len(a))
    apart = csr_matrix(
        (
            np.concatenate((normal.ravel(), -normal.ravel())),
            (
                np.concatenate((np.repeat(rows, 2), np.repeat(rows, 2))),
                np.concatenate([np.stack((2 * own, 2 * own + 1), axis=1).ravel() for own in (a, b)]),
            ),
        ),
        shape=(len(a), 2 * count + 1),
    )
    each = np.arange(count)
    columns = np.concatenate((2 * each, np.full(count, 2 * count)))
    within = coo_matrix(
        (np.repeat((1.0, -1.0), count), (np.tile(each, 2), columns)), shape=(count, 2 * count + 1)
    )  # fmt: skip
    low = np.minimum(np.maximum(-REACH, -boxes[:, :2]), 0.0)
    high = np.full((count, 2), REACH)
    high[:, 1] = np.maximum(np.minimum(REACH, height - boxes[:, 3]), 0.0)
    cost = np.zeros(2 * count + 1)
    cost[: 2 * count : 2], cost[-1] = _DOWN, 1.0
    found = linprog(
        cost,
        A_ub=vstack((apart, within)).tocsr(),
        b_ub=np.concatenate((np.maximum(away, 0.0), -boxes[:, 2])),
        bounds=[*zip(low.ravel().tolist(), high.ravel().tolist(), strict=True), (0.0, width)],
        method="highs-ds",
    )
    return None if found.status else (found.x[:-1].reshape(count, 2), float(found.x[-1]))
