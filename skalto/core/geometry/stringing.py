"""Loose segments strung to contours, and cut where others touch them."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from skalto.core.geometry.chaining import chains_of, nodes_of
from skalto.core.geometry.contour import JOINED, Contour
from skalto.core.geometry.segments import Arc, Cubic, Line, Segment
from skalto.core.geometry.values import TAU, Point

_FINE = 1e-4
_SAMPLES = 17


@dataclass(frozen=True)
class Strung:
    """Contours that close, and *open* ones."""

    closed: tuple[Contour, ...]
    open: tuple[Contour, ...]


def part_of(segment: Segment, low: float, high: float) -> Segment:
    """The course of a segment between the shares *low* and *high* of it; an arc stays an arc.

    >>> part_of(Line((0, 0), (10, 0)), 0.25, 0.5)
    Line(start=(2.5, 0.0), end=(5.0, 0.0))
    """
    start = segment.start if low <= 0 else segment.at(low)
    end = segment.end if high >= 1 else segment.at(high)
    if isinstance(segment, Line):
        return Line(start, end)
    if isinstance(segment, Arc):
        return Arc(start, end, segment.centre, segment.sweep * (high - low))
    # de Casteljau twice: what lies before high, and of that what lies after low
    points = np.array((segment.start, segment.first, segment.second, segment.end), float)
    points = _before(points, high)
    points = _before(points[::-1], 1 - low / high if high else 0.0)[::-1]
    first, second = ((float(x), float(y)) for x, y in points[1:3].tolist())
    return Cubic(start, first, second, end)


def _before(points: np.ndarray, t: float) -> np.ndarray:
    rows, kept = points, [points[0]]
    for _ in range(3):
        rows = rows[:-1] + (rows[1:] - rows[:-1]) * t
        kept.append(rows[0])
    return np.array(kept)


def nearest_share(segment: Segment, point: Point) -> float:
    """The share of a segment's course at which it is nearest to a point, 0 to 1."""
    if isinstance(segment, Line):
        (x0, y0), (x1, y1) = segment.start, segment.end
        size = (x1 - x0) ** 2 + (y1 - y0) ** 2
        if size == 0:
            return 0.0
        return min(1.0, max(0.0, ((point[0] - x0) * (x1 - x0) + (point[1] - y0) * (y1 - y0)) / size))
    if isinstance(segment, Arc):
        (cx, cy), (x0, y0) = segment.centre, segment.start
        begin, here = math.atan2(y0 - cy, x0 - cx), math.atan2(point[1] - cy, point[0] - cx)
        along = (here - begin) * math.copysign(1, segment.sweep) % TAU / abs(segment.sweep)
        if along <= 1:
            return along
        return 0.0 if math.dist(point, segment.start) <= math.dist(point, segment.end) else 1.0
    shares = np.linspace(0, 1, _SAMPLES)
    t = float(shares[int(np.argmin([math.dist(segment.at(float(s)), point) for s in shares]))])
    step = 1 / (_SAMPLES - 1)
    for _ in range(40):
        # a search by thirds about the nearest sample
        a, b = max(0.0, t - step), min(1.0, t + step)
        t = min((a, t, b, (a + t) / 2, (t + b) / 2), key=lambda s: math.dist(segment.at(s), point))
        step /= 2
    return t


def divided(segments: Sequence[Segment], at: Sequence[Sequence[float]]) -> list[Segment]:
    """Segments cut at shares of their courses, a list of them for each."""
    found: list[Segment] = []
    for segment, shares in zip(segments, at, strict=True):
        places = sorted({0.0, 1.0, *(s for s in shares if 0 < s < 1)})
        pieces = [part_of(segment, a, b) for a, b in itertools.pairwise(places)]
        found += [piece for piece in pieces if piece.length > JOINED / 2] or [segment]
    return found


def divided_where_touched(segments: Sequence[Segment]) -> list[Segment]:
    """Segments cut where another one ends on them, within :data:`JOINED`."""
    if not segments:
        return []
    courses = [shapely.LineString([*Contour((s,), closed=False).chords(_FINE)]) for s in segments]
    ends = [p for s in segments for p in (s.start, s.end)]
    tree = shapely.STRtree([shapely.Point(p) for p in ends])
    shares: list[list[float]] = [[] for _ in segments]
    for number, (segment, course) in enumerate(zip(segments, courses, strict=True)):
        for other in tree.query(course, predicate="dwithin", distance=JOINED + _FINE).tolist():
            point = ends[other]
            share = nearest_share(segment, point)
            place = segment.at(share)
            far = min(math.dist(place, segment.start), math.dist(place, segment.end)) > JOINED
            if far and math.dist(place, point) <= JOINED:
                shares[number].append(share)
    return divided(segments, shares)


def strung(segments: Sequence[Segment], gap: float = 0.0) -> Strung:
    """Segments end to end. Where more than two meet a contour ends; open ends up to *gap* mm apart, the nearest first, are
    closed by a straight line."""
    if not segments:
        return Strung((), ())
    ends = np.array([(s.start, s.start, s.end, s.end) for s in segments], float)
    made: list[tuple[Segment, ...]] = []
    closed: list[Contour] = []
    for chain, whole in chains_of(nodes_of(ends)):
        own = tuple(segments[n].reversed() if back else segments[n] for n, back in chain)
        if whole:
            closed.append(Contour(own))
        else:
            made.append(own)
    if gap > 0:
        made, more = _bridged(made, gap)
        closed += more
    return Strung(tuple(closed), tuple(Contour(own, closed=False) for own in made))


def _bridged(chains: list[tuple[Segment, ...]], gap: float) -> tuple[list[tuple[Segment, ...]], list[Contour]]:
    """Chains joined over gaps, the smallest first, and those that close by it."""
    closed: list[Contour] = []
    rows = list(chains)
    while rows:
        ends = [(n, which, chain[-1].end if which else chain[0].start) for n, chain in enumerate(rows) for which in (0, 1)]
        tree = shapely.STRtree([shapely.Point(p) for _, _, p in ends])
        pairs = tree.query([shapely.Point(p) for _, _, p in ends], predicate="dwithin", distance=gap).T.tolist()
        near = [(math.dist(ends[a][2], ends[b][2]), a, b) for a, b in pairs if a < b]
        near = [(d, a, b) for d, a, b in near if ends[a][0] != ends[b][0] or len(rows[ends[a][0]]) > 1]
        if not near:
            break
        _, a, b = min(near)
        (one, at_end, _), (other, other_end, _) = ends[a], ends[b]
        if one == other:
            chain = rows.pop(one)
            bridge = (Line(chain[-1].end, chain[0].start),) if chain[-1].end != chain[0].start else ()
            closed.append(Contour((*chain, *bridge)))
            continue
        first = rows[one] if at_end else tuple(s.reversed() for s in reversed(rows[one]))
        second = tuple(s.reversed() for s in reversed(rows[other])) if other_end else rows[other]
        bridge = (Line(first[-1].end, second[0].start),) if first[-1].end != second[0].start else ()
        rows = [row for n, row in enumerate(rows) if n not in (one, other)]
        rows.append((*first, *bridge, *second))
    return rows, closed
