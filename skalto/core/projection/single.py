"""No line drawn twice: strokes that lie on the same line, circle or ellipse are cut against each other and joined.

Edges of two faces, of two parts that touch, or one behind the other, fall together in projection. The one whose class
comes first stays (:data:`~skalto.core.projection.strokes.ORDER`); pieces of one edge that meet become one again, so that
a hole leaves as a whole circle.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from skalto.core.artwork import TAU, Array, Artwork
from skalto.core.projection.strokes import Strokes, to_artwork

SAME = 1e-5
"""Strokes nearer than this, in model mm, lie on one another: a hundredth of a micrometre."""
_JOIN = 2e-6
"""Pieces with a gap of at most this, mm, are one."""
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
    result = []
    by_tag: dict[tuple[int, int], list[Interval]] = {}
    for rank, component, low, high in pieces:
        by_tag.setdefault((rank, component), []).append((low, high))
    for tag in sorted(by_tag):
        joined = unite(by_tag[tag], _JOIN)
        for piece in joined:
            result += [(*tag, a, b) for a, b in subtract(piece, covered, least)]
        covered = unite(covered + joined, _JOIN)
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
    alone: list[int] = []
    out_tags: list[tuple[int, int]] = []
    out: list[tuple[float, float, float, float]] = []
    by_angle = _clusters(angle, 1e-5)
    middle = (segments[:, :2] + segments[:, 2:]) / 2
    groups = np.split(np.argsort(by_angle, kind="stable"), np.flatnonzero(np.diff(np.sort(by_angle))) + 1)
    for group in groups:
        if len(group) == 1:
            alone.append(group[0])
            continue
        longest = group[np.argmax(length[group])]
        u = d[longest] / length[longest]
        normal = np.array((-u[1], u[0]))
        offset = _clusters(middle[group] @ normal, 2 * SAME)
        for label in range(int(offset.max()) + 1):
            members = group[offset == label]
            if len(members) == 1:
                alone.append(members[0])
                continue
            base = members[np.argmax(length[members])]
            v = d[base] / length[base]
            n = np.array((-v[1], v[0]))
            p = segments[base, :2]
            first, last = segments[members, :2] - p, segments[members, 2:] - p
            on = (np.abs(first @ n) <= 2 * SAME) & (np.abs(last @ n) <= 2 * SAME)
            alone.extend(members[~on])
            t = np.sort(np.stack((first[on] @ v, last[on] @ v), axis=1), axis=1)
            pieces = [(int(r), int(c), float(a), float(b)) for (r, c), (a, b) in zip(tags[members[on]], t, strict=True)]
            for rank, component, a, b in _resolve(pieces, SAME):
                out_tags.append((rank, component))
                out.append((*(p + v * a), *(p + v * b)))
    single = np.array(alone, np.int64)
    return (
        np.concatenate((tags[single], np.array(out_tags, np.int64).reshape(-1, 2))),
        np.concatenate((segments[single], np.array(out).reshape(-1, 4))),
    )


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
    pairs = cKDTree(points).query_pairs(distance, output_type="ndarray")
    links = coo_array((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(len(points), len(points)))
    labels: NDArray[np.int64] = connected_components(links, directed=False)[1].astype(np.int64)
    return labels


def _single_beziers(tags: list[tuple[int, int]], runs: list[Array]) -> tuple[NDArray[np.int64], Array]:
    """Runs of Béziers, each dropped when one of a class before it runs the same way; then cut into single curves."""
    if not runs:
        return np.empty((0, 2), np.int64), np.empty((0, 8))
    order = sorted(range(len(runs)), key=lambda i: tags[i])
    signs = []
    for i in order:
        run = runs[i]
        # ends, and the middle by arc of parameters, either way round
        flat = np.concatenate((run[:1, 0], run[:, 3]))
        inner = flat[len(flat) // 2] if len(flat) % 2 else (flat[len(flat) // 2 - 1] + flat[len(flat) // 2]) / 2
        ends = sorted((tuple(run[0, 0]), tuple(run[-1, 3])))
        signs.append((*ends[0], *ends[1], *inner, *run.reshape(-1, 2).min(axis=0), *run.reshape(-1, 2).max(axis=0)))
    labels = _labels_by_distance(np.array(signs), 10 * SAME)
    seen: set[int] = set()
    out_tags: list[tuple[int, int]] = []
    out: list[Array] = []
    for label, i in zip(labels, order, strict=True):
        extent = runs[i].reshape(-1, 2)
        if label in seen or np.ptp(extent, axis=0).max() <= SAME:
            continue
        seen.add(int(label))
        out_tags += [tags[i]] * len(runs[i])
        out.append(runs[i].reshape(-1, 8))
    return np.array(out_tags, np.int64).reshape(-1, 2), np.concatenate(out) if out else np.empty((0, 8))


def make_single(strokes: Strokes, components: list[str]) -> Artwork:
    """Strokes as artwork without doubled or zero-length pieces; *components* are the paths that tags number."""
    return to_artwork(
        _single_lines(np.array(strokes.line_tags, np.int64).reshape(-1, 2), np.array(strokes.lines, float).reshape(-1, 4)),
        _single_ellipses(
            np.array(strokes.ellipse_tags, np.int64).reshape(-1, 2), np.array(strokes.ellipses, float).reshape(-1, 8)
        ),
        _single_beziers(strokes.bezier_tags, strokes.beziers),
        components,
    )
