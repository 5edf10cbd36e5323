"""Strokes joined end to end into contours, each drawn once, as a cutter wants them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from skalto.core.artwork import (
    TAU,
    Array,
    Artwork,
    Beziers,
    Contours,
    Ellipses,
    Item,
    Lines,
    Polylines,
    Stroked,
    Tags,
    bezier_at,
)
from skalto.core.curves import arc_beziers, arc_pieces
from skalto.core.grouping import groups_of, near_pairs, tree_of
from skalto.core.pens import Pens

JOINED = 1e-3
"""Ends nearer than this, mm, are one: a micrometre is less than a cutter sees (common practice)."""

ARC_TOLERANCE = 4.8e-4
"""As a PDF's arcs have it, mm."""

_SAMPLES = np.array((0.25, 0.5, 0.75))


@dataclass(frozen=True, eq=False)
class Strung:
    """Strokes in pieces: cubic Béziers *curves* (m, 4, 2), which are *straight* (m,), the number of each one's stroke (m,); of
    circular arcs the *bulge* (m,), 0 for all else, and the *centre* (m, 2), nan for all else."""

    curves: Array
    straight: NDArray[np.bool_]
    owner: NDArray[np.int64]
    bulge: Array
    centre: Array

    @classmethod
    def plain(cls, curves: Array, straight: bool) -> Strung:
        """Without arcs, a stroke a piece."""
        count = len(curves)
        return cls(curves, np.full(count, straight), np.arange(count), np.zeros(count), np.full((count, 2), np.nan))

    @classmethod
    def together(cls, parts: Sequence[Strung]) -> Strung:
        """Several one after the other, their strokes numbered on."""
        before = np.cumsum([0, *(int(part.owner[-1]) + 1 if len(part.owner) else 0 for part in parts)])
        owner = [part.owner + n for part, n in zip(parts, before.tolist(), strict=False)]
        return cls(
            np.concatenate([np.zeros((0, 4, 2)), *(p.curves for p in parts)]),
            np.concatenate([np.zeros(0, bool), *(p.straight for p in parts)]),
            np.concatenate([np.zeros(0, np.int64), *owner]),
            np.concatenate([np.zeros(0), *(p.bulge for p in parts)]),
            np.concatenate([np.zeros((0, 2)), *(p.centre for p in parts)]),
        )

    def rows(self, chosen: NDArray[Any]) -> Strung:
        return Strung(self.curves[chosen], self.straight[chosen], self.owner[chosen], self.bulge[chosen], self.centre[chosen])


def strung(item: Stroked) -> Strung:
    """An item's strokes in pieces, its arcs as Béziers within :data:`ARC_TOLERANCE`."""
    if isinstance(item, Polylines):
        return Strung.together([strung(part) for part in item.parts() if len(part)])
    if isinstance(item, Lines):
        a, b = item.points[:, 0], item.points[:, 1]
        return Strung.plain(np.stack((a, a + (b - a) / 3, b - (b - a) / 3, b), axis=1), True)
    if isinstance(item, Beziers):
        return Strung.plain(item.points, False)
    count = arc_pieces(item.radii().max(axis=1), item.sweep, ARC_TOLERANCE)
    circle = item.is_circle()
    # a piece runs counter-clockwise where its axes do
    way = np.sign(item.major[:, 0] * item.minor[:, 1] - item.major[:, 1] * item.minor[:, 0])
    parts = []
    for pieces in np.unique(count).tolist():
        rows = np.flatnonzero(count == pieces)
        made = arc_beziers(item.centre[rows], item.major[rows], item.minor[rows], item.start[rows], item.sweep[rows], pieces)
        bulge = np.where(circle[rows], way[rows] * np.tan(item.sweep[rows] / pieces / 4), 0.0)
        centre = np.where(circle[rows][:, None], item.centre[rows], np.nan)
        own = Strung.plain(made.reshape(-1, 4, 2), False)
        parts.append(
            replace(
                own, owner=np.repeat(rows, pieces), bulge=np.repeat(bulge, pieces), centre=np.repeat(centre, pieces, axis=0)
            )
        )
    found = Strung.together([])
    if parts:
        found = Strung(*(np.concatenate([getattr(part, name) for part in parts]) for name in _FIELDS))
    return found


_FIELDS = ("curves", "straight", "owner", "bulge", "centre")


def pieces_of(item: Stroked) -> tuple[Array, NDArray[np.bool_], NDArray[np.int64]]:
    """Cubic Béziers of an item's strokes (m, 4, 2), which are straight, and the number of each one's stroke."""
    own = strung(item)
    return own.curves, own.straight, own.owner


def _single(curves: Array) -> NDArray[np.bool_]:
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


def _nodes(curves: Array) -> NDArray[np.int64]:
    """The number of the point at which each piece begins and ends, shape (m, 2): ends within :data:`JOINED` are one."""
    ends = np.concatenate((curves[:, 0], curves[:, 3]))
    labels = groups_of(near_pairs(ends, JOINED), len(ends))
    return np.asarray(labels.reshape(2, -1).T, np.int64)


def _chains(nodes: NDArray[np.int64]) -> list[tuple[list[tuple[int, bool]], bool]]:
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


def _joined(tags: Tags, pieces: Strung) -> Contours:
    pieces = pieces.rows(_single(pieces.curves))
    runs, bulges, numbers, closed = [], [], [], []
    for chain, whole in _chains(_nodes(pieces.curves)):
        own = np.stack([pieces.curves[n][::-1] if back else pieces.curves[n] for n, back in chain])
        # what lies within a micrometre becomes one point
        own[1:, 0] = own[:-1, 3]
        if whole:
            own[-1, 3] = own[0, 0]
        runs.append(own)
        bulges.append(np.array([-pieces.bulge[n] if back else pieces.bulge[n] for n, back in chain]))
        numbers.append(np.array([n for n, _ in chain], np.int64))
        closed.append(whole)
    order = cutting_order(runs, closed)
    picked = np.concatenate([numbers[n] for n in order])
    first = np.cumsum([0, *(len(runs[n]) for n in order)])
    return Contours(
        tags, np.concatenate([runs[n] for n in order]), pieces.straight[picked], first.astype(np.int64),
        np.array([closed[n] for n in order], bool), np.concatenate([bulges[n] for n in order]), pieces.centre[picked],
    )  # fmt: skip


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


def joined(artwork: Artwork, pens: Pens, by_layer: bool = True) -> Artwork:
    """The same drawing with the strokes of each pen as contours in cutting order, whatever is drawn twice once; what is filled
    comes first.

    :param by_layer: whether strokes of several layers stay apart.
    """
    groups: dict[object, tuple[Tags, list[Strung]]] = {}
    rest: list[Item] = []
    for item in artwork:
        if not isinstance(item, Lines | Ellipses | Beziers | Polylines):
            rest.append(item)
            continue
        own = strung(item)
        if len(own.curves):
            key = (pens.pen(item.tags), item.tags.layer if by_layer else "")
            groups.setdefault(key, (item.tags, []))[1].append(own)
    contours = [_joined(tags, Strung.together(parts)) for tags, parts in groups.values()]
    return Artwork((*rest, *contours))


@dataclass
class Side:
    """A part of a contour: straight, an arc about *centre* by *angle* radians (counter-clockwise where positive), or a *curve*
    (4, 2)."""

    start: Array
    end: Array
    angle: float = 0.0
    centre: Array | None = None
    curve: Array | None = None


_ONE_CIRCLE = 1e-6
"""Arcs whose centres are nearer than this, mm, are of one circle."""
_MOST = 1.5 * np.pi
"""The largest angle of one arc, so that its ends stay apart."""


def sides_of(item: Contours, number: int) -> list[Side]:
    """The sides of a contour, arcs that follow one another on one circle as one."""
    sides: list[Side] = []
    for n in range(int(item.first[number]), int(item.first[number + 1])):
        curve = item.curves[n]
        if item.straight[n]:
            sides.append(Side(curve[0], curve[3]))
            continue
        bulge = 0.0 if item.bulge is None else float(item.bulge[n])
        if not bulge or item.centre is None:
            sides.append(Side(curve[0], curve[3], curve=curve))
            continue
        angle, centre = 4 * float(np.arctan(bulge)), item.centre[n]
        last = sides[-1] if sides and sides[-1].centre is not None else None
        if (
            last is not None
            and last.centre is not None
            and angle * last.angle > 0
            and abs(last.angle + angle) < _MOST
            and np.hypot(*(centre - last.centre)) <= _ONE_CIRCLE
        ):
            last.angle, last.end = last.angle + angle, curve[3]
        else:
            sides.append(Side(curve[0], curve[3], angle, centre))
    return sides


def whole_circle(sides: Sequence[Side]) -> tuple[Array, float] | None:
    """Centre and radius where the sides of a closed contour are one circle."""
    centre = sides[0].centre
    if centre is None or any(side.centre is None or np.hypot(*(side.centre - centre)) > _ONE_CIRCLE for side in sides):
        return None
    if abs(abs(sum(side.angle for side in sides)) - TAU) > 1e-6:
        return None
    return centre, float(np.hypot(*(sides[0].start - centre)))
