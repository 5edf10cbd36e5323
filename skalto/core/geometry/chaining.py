"""Pieces of strokes strung end to end, in arrays, and the order in which contours are cut."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from skalto.core.geometry.beziers import bezier_at
from skalto.core.geometry.contour import JOINED
from skalto.core.geometry.grouping import groups_of, near_pairs, tree_of
from skalto.core.geometry.values import Array

_SAMPLES = np.array((0.25, 0.5, 0.75))


@dataclass(frozen=True, eq=False)
class Pieces:
    """Strokes in pieces: cubic Béziers *curves* (m, 4, 2), which are *straight* (m,), the number of each one's stroke (m,); of
    circular arcs the *bulge* (m,), 0 for all else, and the *centre* (m, 2), nan for all else."""

    curves: Array
    straight: NDArray[np.bool_]
    owner: NDArray[np.int64]
    bulge: Array
    centre: Array

    @classmethod
    def plain(cls, curves: Array, straight: bool) -> Pieces:
        """Without arcs, a stroke a piece."""
        count = len(curves)
        return cls(curves, np.full(count, straight), np.arange(count), np.zeros(count), np.full((count, 2), np.nan))

    @classmethod
    def together(cls, parts: Sequence[Pieces]) -> Pieces:
        """Several one after the other, their strokes numbered on."""
        counts = [int(part.owner[-1]) + 1 if len(part.owner) else 0 for part in parts]
        before = np.cumsum([0, *counts])[:-1]
        owner = [part.owner + n for part, n in zip(parts, before.tolist(), strict=True)]
        return cls(
            np.concatenate([np.zeros((0, 4, 2)), *(p.curves for p in parts)]),
            np.concatenate([np.zeros(0, bool), *(p.straight for p in parts)]),
            np.concatenate([np.zeros(0, np.int64), *owner]),
            np.concatenate([np.zeros(0), *(p.bulge for p in parts)]),
            np.concatenate([np.zeros((0, 2)), *(p.centre for p in parts)]),
        )

    def rows(self, chosen: NDArray[Any]) -> Pieces:
        return Pieces(self.curves[chosen], self.straight[chosen], self.owner[chosen], self.bulge[chosen], self.centre[chosen])


def drawn_once(curves: Array) -> NDArray[np.bool_]:
    """Which pieces are drawn for the first time: another with the same ends and the same course, whichever way round, is not.

    Shape (m,). Courses are compared at three places, within :data:`JOINED`.
    """
    forward = np.concatenate((curves[:, 0], bezier_at(curves, _SAMPLES).reshape(len(curves), -1), curves[:, 3]), axis=1)
    points = forward.reshape(len(curves), 5, 2)
    turned = (points[:, 0] > points[:, 4]) @ np.array((2, 1)) >= 2
    same_x = np.abs(points[:, 0, 0] - points[:, 4, 0]) <= JOINED
    turned = np.where(same_x, points[:, 0, 1] > points[:, 4, 1], turned)
    points[turned] = points[turned][:, ::-1]
    kept = np.ones(len(curves), bool)
    if len(curves) < 2:
        return kept
    tree = tree_of(points.reshape(len(curves), -1))
    for a, b in tree.query_pairs(JOINED * 2):
        kept[max(a, b)] = False
    return kept


def nodes_of(curves: Array) -> NDArray[np.int64]:
    """The number of the point at which each piece begins and ends, shape (m, 2): ends within :data:`JOINED` are one."""
    ends = np.concatenate((curves[:, 0], curves[:, 3]))
    labels = groups_of(near_pairs(ends, JOINED), len(ends))
    return np.asarray(labels.reshape(2, -1).T, np.int64)


def chains_of(nodes: NDArray[np.int64]) -> list[tuple[list[tuple[int, bool]], bool]]:
    """Pieces in walking order, each with whether it is walked backward, and whether the walk comes home.

    Where more than two pieces meet, a walk ends.
    """
    at: dict[int, list[int]] = defaultdict(list)
    for number, (a, b) in enumerate(nodes.tolist()):
        at[a].append(number)
        at[b].append(number)
    used = [False] * len(nodes)
    ends = nodes.tolist()

    def walk(number: int, backward: bool) -> tuple[list[tuple[int, bool]], bool]:
        chain = [(number, backward)]
        used[number] = True
        begin, here = (ends[number][1], ends[number][0]) if backward else (ends[number][0], ends[number][1])
        while here != begin and len(at[here]) == 2:
            following = at[here][0] if at[here][1] == chain[-1][0] else at[here][1]
            if used[following]:
                break
            used[following] = True
            back = ends[following][1] == here
            chain.append((following, back))
            here = ends[following][0] if back else ends[following][1]
        return chain, here == begin

    found = []
    for number, (a, b) in enumerate(ends):
        if not used[number] and a != b and (len(at[a]) != 2 or len(at[b]) != 2):
            found.append(walk(number, len(at[a]) == 2))
    found += [walk(number, False) for number in range(len(ends)) if not used[number]]
    return found


def _outlines(runs: Sequence[Array]) -> list[Array]:
    """Contours as chains of chords, to tell which lies in which."""
    return [np.concatenate((bezier_at(run, np.linspace(0, 1, 9)[:-1]).reshape(-1, 2), run[-1:, 3])) for run in runs]


def cutting_order(runs: Sequence[Array], closed: Sequence[bool]) -> list[int]:
    """The order in which contours (k, 4, 2) are cut: what lies inside another before that, and of what may be next the nearest,
    from the lower left on (common practice: a part that has been cut out has moved)."""
    count = len(runs)
    if count < 2:
        return list(range(count))
    chains = _outlines(runs)
    rings = {n: shapely.Polygon(chain) for n, chain in enumerate(chains) if closed[n] and len(chain) > 3}
    numbers = list(rings)
    tree = shapely.STRtree([rings[n] for n in numbers])
    inside: list[set[int]] = [set() for _ in range(count)]
    holders: list[list[int]] = [[] for _ in range(count)]
    for n, chain in enumerate(chains):
        middle = shapely.Point(chain[len(chain) // 3 if closed[n] else 0])
        area = rings[n].area if n in rings else 0.0
        for k in tree.query(middle, predicate="within").tolist():
            other = numbers[k]
            if other != n and rings[other].area > area:
                inside[other].add(n)
                holders[n].append(other)
    starts, ends = np.array([run[0, 0] for run in runs]), np.array([run[-1, 3] for run in runs])
    waiting = [len(own) for own in inside]
    free = np.array([own == 0 for own in waiting])
    here, order = starts.min(axis=0), []
    for _ in range(count):
        away = np.where(free, np.hypot(*(starts - here).T), np.inf)
        chosen = int(np.argmin(away))
        order.append(chosen)
        free[chosen] = False
        waiting[chosen] = -1
        here = ends[chosen]
        for holder in holders[chosen]:
            waiting[holder] -= 1
            free[holder] = waiting[holder] == 0
    return order
