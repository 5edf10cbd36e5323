"""What lies near and what hangs together. The library behind it takes a second to load, so it is loaded when it is used."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

Ints = NDArray[np.int64]

GROWN = 1e-6
"""How much wider, mm, boxes are taken to be where one asks what they touch."""
_CELLS = 512
"""So many cells a side, at most, tell roughly what touches what."""


def tree_of(points: NDArray[np.float64]) -> Any:
    """Points (n, d) as a ``scipy.spatial.cKDTree``, to ask what lies near."""
    from scipy.spatial import cKDTree

    return cKDTree(points)


def near_pairs(points: NDArray[np.float64], distance: float) -> Ints:
    """Pairs (m, 2) of rows of *points* (n, d) that lie within *distance* of each other."""
    pairs: Ints = tree_of(points).query_pairs(distance, output_type="ndarray")
    return pairs


def groups_of(pairs: Ints, count: int) -> Ints:
    """For each of *count* things the number of its group, (count,): things of a pair (m, 2) are in the same."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    links = coo_array((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(count, count))
    groups: Ints = connected_components(links, directed=False)[1].astype(np.int64)
    return groups


def boxes_that_meet(low: NDArray[np.float64], high: NDArray[np.float64]) -> list[tuple[int, int]]:
    """Which boxes, given by their corners (k, 3), reach into one another: pairs of their numbers, the lesser first."""
    import shapely

    boxes = shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1])
    first, second = shapely.STRtree(boxes).query(boxes, predicate="intersects")
    near = (first < second) & (low[first] < high[second]).all(axis=1) & (low[second] < high[first]).all(axis=1)
    return list(zip(first[near].tolist(), second[near].tolist(), strict=True))


def touched(boxes: NDArray[np.float64], others: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Which *boxes* (n, 4) meet some of the *others* (m, 4), or come close: as far as a grid over these tells."""
    if not len(others):
        return np.zeros(len(boxes), bool)
    low, high = others[:, :2].min(axis=0) - GROWN, others[:, 2:].max(axis=0) + GROWN
    many = int(min(_CELLS, 32 + 4 * np.sqrt(len(others))))
    cell = max(float((high - low).max()) / many, GROWN)

    def cells(at: NDArray[np.float64]) -> Ints:
        return np.asarray(np.clip(np.floor((at - low) / cell), -1, many + 1).astype(np.int64) + 1)

    begin, end = cells(others[:, :2] - GROWN), cells(others[:, 2:] + GROWN)
    count = np.zeros((many + 4, many + 4), np.int64)
    for x, y, sign in ((begin, begin, 1), (end + 1, begin, -1), (begin, end + 1, -1), (end + 1, end + 1, 1)):
        np.add.at(count, (x[:, 0], y[:, 1]), sign)
    filled = count.cumsum(axis=0).cumsum(axis=1) > 0
    total = np.pad(filled.cumsum(axis=0).cumsum(axis=1), ((1, 0), (1, 0)))
    (x0, y0), (x1, y1) = cells(boxes[:, :2]).T, cells(boxes[:, 2:]).T + 1
    outside = (boxes[:, 2:] < low).any(axis=1) | (boxes[:, :2] > high).any(axis=1)
    return np.asarray((total[x1, y1] - total[x0, y1] - total[x1, y0] + total[x0, y0] > 0) & ~outside)
