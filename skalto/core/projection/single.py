"""No line drawn twice: strokes that lie on the same line, circle or ellipse are cut against each other and joined.

Edges of two faces, of two parts that touch, or one behind the other, fall together in projection. The one whose class
comes first stays (:data:`~skalto.core.projection.strokes.ORDER`), and a hidden one that only a tangent edge lies on, for
where tangent edges are not drawn (:data:`~skalto.core.projection.strokes.UNDER_SMOOTH`); pieces of one edge that meet become
one again, so that a hole leaves as a whole circle.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from skalto.core.artwork import Artwork, EdgeClass
from skalto.core.geometry import TAU, Array, bezier_at
from skalto.core.geometry.curves import arc_beziers, arc_pieces
from skalto.core.geometry.grouping import groups_of, near_pairs, touched
from skalto.core.projection.strokes import ORDER, UNDER_SMOOTH, Strokes, to_artwork

SAME = 1e-5
"""Strokes nearer than this, in model mm, lie on one another: a hundredth of a micrometre."""
_JOIN = 2e-6
"""Pieces with a gap of at most this, mm, are one."""
_SMOOTH, _HIDDEN = ORDER.index(EdgeClass.SMOOTH), ORDER.index(EdgeClass.HIDDEN)
Interval = tuple[float, float]


def subtract(piece: Interval, covered: list[Interval], least: float) -> list[Interval]:
    """What of *piece* no interval of *covered* (sorted, disjoint) holds; rests shorter than *least* are dropped."""
    low, high = piece
    rest: list[Interval] = []
    for a, b in covered:
        if b <= low:
            continue
        if a >= high:
            break
        if a - low > least:
            rest.append((low, a))
        low = max(low, b)
    if high - low > least:
        rest.append((low, high))
    return rest


def unite(intervals: list[Interval], gap: float) -> list[Interval]:
    """Sorted and disjoint: those that overlap or lie within *gap* become one."""
    result: list[Interval] = []
    for a, b in sorted(intervals):
        if result and a <= result[-1][1] + gap:
            result[-1] = (result[-1][0], max(result[-1][1], b))
        else:
            result.append((a, b))
    return result


def _clusters(values: Array, gap: float) -> NDArray[np.int64]:
    """A label for each value; values whose sorted neighbours lie within *gap* share one."""
    order = np.argsort(values, kind="stable")
    step = np.diff(values[order], prepend=values[order[:1]]) > gap
    labels = np.empty(len(values), np.int64)
    labels[order] = np.cumsum(step)
    return labels


def _resolve(pieces: list[tuple[int, int, float, float]], least: float) -> list[tuple[int, int, float, float]]:
    """Pieces (rank, component, low, high) on one carrier, made single."""
    covered: list[Interval] = []
    solid: list[Interval] = []
    """The same without tangent edges."""

    result = []
    by_tag: dict[tuple[int, int], list[Interval]] = {}
    for rank, component, low, high in pieces:
        by_tag.setdefault((rank, component), []).append((low, high))
    for tag in sorted(by_tag):
        joined = unite(by_tag[tag], _JOIN)
        for piece in joined:
            rests = subtract(piece, covered, least)
            result += [(*tag, a, b) for a, b in rests]
            if tag[0] == _HIDDEN:
                # what nothing but tangent edges lies on
                beneath = [own for rest in subtract(piece, solid, least) for own in subtract(rest, rests, least)]
                result += [(UNDER_SMOOTH, tag[1], a, b) for a, b in beneath]
        covered = unite(covered + joined, _JOIN)
        if tag[0] != _SMOOTH:
            solid = unite(solid + joined, _JOIN)
    return result


def _single_lines(tags: NDArray[np.int64], segments: Array) -> tuple[NDArray[np.int64], Array]:
    """Segments (n, 4) with tags (n, 2), made single."""
    d = segments[:, 2:] - segments[:, :2]
    length = np.hypot(d[:, 0], d[:, 1])
    keep = length > SAME
    tags, segments, d, length = tags[keep], segments[keep], d[keep], length[keep]
    if not len(segments):
        return tags, segments
    angle = np.mod(np.arctan2(d[:, 1], d[:, 0]), np.pi)
    angle[angle > np.pi - 2e-5] -= np.pi
    # those of one direction, then of one line
    by_angle = _clusters(angle, 1e-5)
    u = (d / length[:, None])[_longest(by_angle, length)][by_angle]
    middle = (segments[:, :2] + segments[:, 2:]) / 2
    carrier = _clusters_within(by_angle, u[:, 0] * middle[:, 1] - u[:, 1] * middle[:, 0], 2 * SAME)
    base = _longest(carrier, length)[carrier]
    v, p = d[base] / length[base][:, None], segments[base, :2]
    ends = segments.reshape(-1, 2, 2) - p[:, None]
    on = (np.abs(v[:, None, 0] * ends[..., 1] - v[:, None, 1] * ends[..., 0]) <= 2 * SAME).all(axis=1)
    t = np.sort((ends * v[:, None]).sum(axis=2), axis=1)
    # on most lines there is nothing to be cut or joined
    order = np.lexsort((t[:, 0], carrier))
    meets = np.zeros(int(carrier.max()) + 1, bool)
    before, behind = order[:-1], order[1:]
    met = (carrier[behind] == carrier[before]) & (t[behind, 0] <= t[before, 1] + _JOIN)
    meets[carrier[behind[met]]] = True
    single = ~meets[carrier] | ~on
    members = np.flatnonzero(~single)
    members = members[np.argsort(carrier[members], kind="stable")]
    out_tags: list[tuple[int, int]] = []
    out: list[tuple[float, float, float, float]] = []
    for own in np.split(members, np.flatnonzero(np.diff(carrier[members])) + 1) if len(members) else ():
        (px, py), (vx, vy) = p[own[0]].tolist(), v[own[0]].tolist()
        pieces = [(r, c, a, b) for (r, c), (a, b) in zip(tags[own].tolist(), t[own].tolist(), strict=True)]
        for rank, component, a, b in _resolve(pieces, SAME):
            out_tags.append((rank, component))
            out.append((px + vx * a, py + vy * a, px + vx * b, py + vy * b))
    return (
        np.concatenate((tags[single], np.array(out_tags, np.int64).reshape(-1, 2))),
        np.concatenate((segments[single], np.array(out).reshape(-1, 4))),
    )


def _longest(labels: NDArray[np.int64], length: Array) -> NDArray[np.int64]:
    """The row of the longest of each label, (labels,): the first of several."""
    order = np.lexsort((np.arange(len(length)), -length, labels))
    return order[np.flatnonzero(np.diff(labels[order], prepend=-1))]


def _clusters_within(labels: NDArray[np.int64], values: Array, gap: float) -> NDArray[np.int64]:
    """As :func:`_clusters`, of the values of each label alone."""
    order = np.lexsort((values, labels))
    step = (np.diff(values[order], prepend=-np.inf) > gap) | (np.diff(labels[order], prepend=-1) > 0)
    found = np.empty(len(values), np.int64)
    found[order] = np.cumsum(step) - 1
    return found


def _single_ellipses(tags: NDArray[np.int64], rows: Array) -> tuple[NDArray[np.int64], Array]:
    """Elliptical arcs (n, 8) with tags (n, 2), made single."""
    if not len(rows):
        return tags, rows
    out_tags: list[tuple[int, int]] = []
    out: list[Array] = []
    labels = _labels_by_distance(rows[:, :6], SAME)
    order = np.argsort(labels, kind="stable")
    for members in np.split(order, np.flatnonzero(np.diff(labels[order])) + 1):
        if len(members) == 1:
            out_tags.append(tuple(tags[members[0]].tolist()))
            out.append(rows[members[0]])
            continue
        shape = rows[members[0], :6]
        radius = float(max(np.hypot(*shape[2:4]), np.hypot(*shape[4:6])))
        # lengths along the curve, so that gaps are judged in mm; an arc over the seam becomes two pieces
        pieces = []
        for (rank, component), row in zip(tags[members], rows[members], strict=True):
            start, end = row[6], row[6] + row[7]
            parts = [(start, end)] if end <= TAU + 1e-12 else [(start, TAU), (0.0, end - TAU)]
            pieces += [(int(rank), int(component), a * radius, b * radius) for a, b in parts]
        single = _resolve(pieces, SAME)
        for rank, component, a, b in _join_over_seam(single, TAU * radius):
            sweep = (b - a) / radius
            whole = sweep >= TAU - _JOIN / radius
            out_tags.append((rank, component))
            out.append(np.array((*shape, 0.0 if whole else a / radius, TAU if whole else sweep)))
    return np.array(out_tags, np.int64).reshape(-1, 2), np.array(out).reshape(-1, 8)


def _join_over_seam(pieces: list[tuple[int, int, float, float]], turn: float) -> list[tuple[int, int, float, float]]:
    """Join a piece that ends at a full *turn* with one of the same tag that begins at 0."""
    result = []
    for tag in sorted({(r, c) for r, c, _, _ in pieces}):
        own = sorted((a, b) for r, c, a, b in pieces if (r, c) == tag)
        if len(own) > 1 and own[0][0] <= _JOIN and own[-1][1] >= turn - _JOIN:
            first = own.pop(0)
            own[-1] = (own[-1][0], turn + first[1])
        result += [(*tag, a, b) for a, b in own]
    return result


def _labels_by_distance(points: Array, distance: float) -> NDArray[np.int64]:
    """A label for each row; rows nearer than *distance* share one."""
    return groups_of(near_pairs(points, distance), len(points))


def _straightened(strokes: Strokes) -> tuple[NDArray[np.int64], Array]:
    """Curves seen edge-on are straight: they become lines, which are cut against the other lines. What is left, with its tags:
    (n, 2) and (n, 4, 2)."""
    tags = np.repeat(np.array(strokes.bezier_tags, np.int64).reshape(-1, 2), [len(run) for run in strokes.beziers], axis=0)
    curves = np.concatenate([np.empty((0, 4, 2)), *strokes.beziers])
    chord = curves[:, 3] - curves[:, 0]
    # the longest arm tells the direction where both ends are one
    arms = curves[:, 1:] - curves[:, :1]
    longest = arms[np.arange(len(curves)), np.hypot(arms[..., 0], arms[..., 1]).argmax(axis=1)]
    way = np.where((np.hypot(chord[:, 0], chord[:, 1]) > SAME)[:, None], chord, longest)
    size = np.hypot(way[:, 0], way[:, 1])
    way = np.divide(way, size[:, None], out=np.zeros_like(way), where=size[:, None] > 0)
    off = np.abs(arms[..., 0] * way[:, None, 1] - arms[..., 1] * way[:, None, 0]).max(axis=1)
    flat = (off <= SAME / 2) & (size > SAME)
    if flat.any():
        start, along = curves[flat, 0], way[flat]
        reach = ((bezier_at(curves[flat], np.linspace(0, 1, 65)) - start[:, None]) @ along[:, :, None])[..., 0]
        ends = start + along * reach.min(axis=1)[:, None], start + along * reach.max(axis=1)[:, None]
        strokes.lines += [tuple(row) for row in np.column_stack(ends).tolist()]
        strokes.line_tags += [(rank, component) for rank, component in tags[flat].tolist()]
    return tags[~flat], curves[~flat]


Rows = tuple[NDArray[np.int64], Array]
"""Tags (n, 2) and what they are of."""


def _arcs_as_beziers(rows: Array) -> tuple[Array, NDArray[np.int64]]:
    """Elliptical arcs (n, 8) as cubics, and which each was."""
    pieces = arc_pieces(np.hypot(rows[:, 2], rows[:, 3]), rows[:, 7], SAME)
    curves, owner = [np.empty((0, 4, 2))], [np.empty(0, np.int64)]
    for count in np.unique(pieces).tolist():
        own = np.flatnonzero(pieces == count)
        made = arc_beziers(rows[own, 0:2], rows[own, 2:4], rows[own, 4:6], rows[own, 6], rows[own, 7], count)
        curves.append(made.reshape(-1, 4, 2))
        owner.append(np.repeat(own, count))
    return np.concatenate(curves), np.concatenate(owner)


def _single_beziers(rows: NDArray[np.int64], curves: Array, lines: Rows, ellipses: Rows, near: float) -> tuple[Rows, Rows]:
    """Béziers as single curves, none drawn twice, neither on one another nor on lines and arcs; and the lines without what lies
    under a curve whose class comes first. Where a line and a curve of one class coincide, the line stays."""
    if not len(curves):
        return lines, (np.empty((0, 2), np.int64), np.empty((0, 8)))
    # compiled, and not for the web process
    from skalto.core.projection.coincident import single_curves

    kept = np.ptp(curves, axis=1).max(axis=1) > SAME
    curves, rows = curves[kept], rows[kept]
    a, b = lines[1].reshape(-1, 2, 2)[:, 0], lines[1].reshape(-1, 2, 2)[:, 1]
    straight = np.stack((a, a + (b - a) / 3, b - (b - a) / 3, b), axis=1)
    arcs, arc_owner = _arcs_as_beziers(ellipses[1])
    # only those that come near to a curve
    low, high = curves.min(axis=1) - near, curves.max(axis=1) + near
    boxes = np.hstack((low, high))
    near_lines = np.flatnonzero(touched(np.hstack((np.minimum(a, b), np.maximum(a, b))), boxes))
    near_arcs = np.flatnonzero(touched(np.hstack((arcs.min(axis=1), arcs.max(axis=1))), boxes))
    everything = np.concatenate((curves, straight[near_lines], arcs[near_arcs]))
    ranks = np.concatenate((2 * rows[:, 0] + 1, 2 * lines[0][near_lines, 0], 2 * ellipses[0][arc_owner[near_arcs], 0]))
    free = np.arange(len(everything)) < len(curves)
    single = single_curves(everything, ranks, free, near, (ranks // 2 == _SMOOTH, ranks // 2 == _HIDDEN))
    own = single.owner < len(curves)
    made = rows[single.owner[own]], single.curves[own].reshape(-1, 8)
    made[0][single.under[own], 0] = UNDER_SMOOTH
    # lines that lost a stretch
    end = len(curves) + len(near_lines)
    is_line = (single.owner >= len(curves)) & (single.owner < end)
    left = near_lines[single.owner[is_line] - len(curves)]
    untouched = np.setdiff1d(np.arange(len(straight)), near_lines)
    ends = single.curves[is_line][:, [0, 3]].reshape(-1, 4)
    whole = single.whole[is_line]
    ends[whole] = lines[1][left[whole]]
    tags = lines[0][left]
    tags[single.under[is_line], 0] = UNDER_SMOOTH
    remaining = np.concatenate((lines[0][untouched], tags)), np.concatenate((lines[1][untouched], ends))
    return remaining, made


def make_single(strokes: Strokes, components: list[str], tolerance: float = 0.0) -> Artwork:
    """Strokes as artwork without doubled or zero-length pieces; *components* are the paths that tags number.

    :param tolerance: how far fitted curves may be from what they were fitted to, mm: two of one curve may be that far apart.
    """
    bent = _straightened(strokes)
    lines = _single_lines(np.array(strokes.line_tags, np.int64).reshape(-1, 2), np.array(strokes.lines, float).reshape(-1, 4))
    ellipses = _single_ellipses(
        np.array(strokes.ellipse_tags, np.int64).reshape(-1, 2), np.array(strokes.ellipses, float).reshape(-1, 8)
    )
    near = max(10 * SAME, 2 * tolerance)
    lines, beziers = _single_beziers(*bent, lines, ellipses, near)
    return to_artwork(lines, ellipses, beziers, components)
