"""What lies near and what hangs together. The library behind it takes a second to load, so it is loaded when it is used."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

Ints = NDArray[np.int64]


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
