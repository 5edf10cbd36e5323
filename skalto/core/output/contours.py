"""Strokes joined end to end into contours, each drawn once, as a cutter wants them."""

from __future__ import annotations

from collections import defaultdict

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from skalto.core.artwork import Array, Artwork, Beziers, Contours, Ellipses, Item, Lines, Polylines, Stroked, Tags, bezier_at
from skalto.core.curves import arc_beziers, arc_pieces
from skalto.core.pens import Pens

JOINED = 1e-3
"""Ends nearer than this, mm, are one: a micrometre is less than a cutter sees (common practice)."""

ARC_TOLERANCE = 4.8e-4
"""As a PDF's arcs have it, mm."""

_SAMPLES = np.array((0.25, 0.5, 0.75))


def pieces_of(item: Stroked) -> tuple[Array, NDArray[np.bool_], NDArray[np.int64]]:
    """Cubic Béziers of an item's strokes (m, 4, 2), which are straight, and the number of each one's stroke."""
    if isinstance(item, Polylines):
        lines, arcs = item.parts()
        found = [pieces_of(part) for part in (lines, arcs) if len(part)]
        if not found:
            return np.zeros((0, 4, 2)), np.zeros(0, bool), np.zeros(0, np.int64)
        owners, before = [], 0
        for _, _, own in found:
            owners.append(own + before)
            before += int(own[-1]) + 1
        return np.concatenate([f[0] for f in found]), np.concatenate([f[1] for f in found]), np.concatenate(owners)
    if isinstance(item, Lines):
        a, b = item.points[:, 0], item.points[:, 1]
        curves = np.stack((a, a + (b - a) / 3, b - (b - a) / 3, b), axis=1)
        return curves, np.ones(len(curves), bool), np.arange(len(curves))
    if isinstance(item, Beziers):
        return item.points, np.zeros(len(item.points), bool), np.arange(len(item.points))
    count = arc_pieces(item.radii().max(axis=1), item.sweep, ARC_TOLERANCE)
    curves_of: list[Array] = []
    owner: list[NDArray[np.int64]] = []
    for pieces in np.unique(count).tolist():
        rows = np.flatnonzero(count == pieces)
        made = arc_beziers(item.centre[rows], item.major[rows], item.minor[rows], item.start[rows], item.sweep[rows], pieces)
        curves_of.append(made.reshape(-1, 4, 2))
        owner.append(np.repeat(rows, pieces))
    curves = np.concatenate(curves_of) if curves_of else np.zeros((0, 4, 2))
    return curves, np.zeros(len(curves), bool), np.concatenate(owner) if owner else np.zeros(0, np.int64)


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
    tree = cKDTree(points.reshape(len(curves), -1))
    for a, b in tree.query_pairs(JOINED * 2):
        kept[max(a, b)] = False
    return kept


def _nodes(curves: Array) -> NDArray[np.int64]:
    """The number of the point at which each piece begins and ends, shape (m, 2): ends within :data:`JOINED` are one."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components

    ends = np.concatenate((curves[:, 0], curves[:, 3]))
    pairs = cKDTree(ends).query_pairs(JOINED, output_type="ndarray")
    joined = coo_matrix((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(len(ends), len(ends)))
    _, labels = connected_components(joined, directed=False)
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


def _joined(tags: Tags, curves: Array, straight: NDArray[np.bool_]) -> Contours:
    kept = _single(curves)
    curves, straight = curves[kept], straight[kept]
    rows, first, closed = [], [0], []
    numbers: list[int] = []
    for chain, whole in _chains(_nodes(curves)):
        own = np.stack([curves[n][::-1] if back else curves[n] for n, back in chain])
        # what lies within a micrometre becomes one point
        own[1:, 0] = own[:-1, 3]
        if whole:
            own[-1, 3] = own[0, 0]
        rows.append(own)
        numbers += [n for n, _ in chain]
        first.append(first[-1] + len(chain))
        closed.append(whole)
    return Contours(tags, np.concatenate(rows), straight[numbers], np.array(first, np.int64), np.array(closed, bool))


def joined(artwork: Artwork, pens: Pens) -> Artwork:
    """The same drawing with the strokes of each pen as contours, whatever is drawn twice once; what is filled comes first."""
    groups: dict[object, tuple[Tags, list[Array], list[NDArray[np.bool_]]]] = {}
    rest: list[Item] = []
    for item in artwork:
        if not isinstance(item, Lines | Ellipses | Beziers | Polylines):
            rest.append(item)
            continue
        curves, straight, _ = pieces_of(item)
        if len(curves):
            key = (pens.pen(item.tags), item.tags.layer)
            own = groups.setdefault(key, (item.tags, [], []))
            own[1].append(curves)
            own[2].append(straight)
    contours = [_joined(tags, np.concatenate(curves), np.concatenate(straight)) for tags, curves, straight in groups.values()]
    return Artwork((*rest, *contours))
