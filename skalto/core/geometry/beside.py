"""Contours at a distance beside closed contours: what of the course beside is left where it crosses itself or comes too near.

Lines stay lines and arcs arcs. Outer corners are rounded or sharp, by choice.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from typing import Literal

import numpy as np
import shapely

from skalto.core.geometry.chaining import chains_of, nodes_of
from skalto.core.geometry.contour import JOINED, Contour
from skalto.core.geometry.crossings import crossings
from skalto.core.geometry.offset import Corner, offset_course, round_corner
from skalto.core.geometry.segments import Line, Segment
from skalto.core.geometry.stringing import divided
from skalto.core.geometry.values import Point

Corners = Literal["round", "sharp"]
LONGEST = 4.0
"""A sharp corner reaches at most so many times the distance beyond its own; a sharper one is cut off straight (as the mitre
limit of ISO 32000-1, 8.4.3.5, keeps strokes from spikes)."""
_FITTED = 2e-5
"""How near, mm, the course beside a cubic Bézier keeps to its distance."""
_CHORD = 2e-5
_SHORT = 5e-5
"""So much nearer than the distance, mm, a course may come to its contour: chords of both are taken for it."""


def sharp_corner(corner: Point, before: Point, after: Point, by: float) -> tuple[Segment, ...]:
    """Straight on to where both courses meet, cut off where that is further than :data:`LONGEST`."""
    size = abs(by)
    ax, ay = (before[0] - corner[0]) / size, (before[1] - corner[1]) / size
    bx, by_ = (after[0] - corner[0]) / size, (after[1] - corner[1]) / size
    half = math.hypot(ax + bx, ay + by_) / 2  # the cosine of half the turn
    if half * LONGEST >= 1:
        reach = size / half
        mx, my = (ax + bx) / (2 * half), (ay + by_) / (2 * half)
        tip = (corner[0] + mx * reach, corner[1] + my * reach)
        return tuple(s for s in (Line(before, tip), Line(tip, after)) if s.length > 0)
    # both go straight on by as much as keeps the flat end at that distance
    cross = ax * by_ - ay * bx
    turn = math.copysign(1.0, cross if abs(cross) > 1e-12 else by)
    quarter = math.acos(max(-1.0, min(1.0, ax * bx + ay * by_))) / 4
    on = size * math.tan(quarter)
    first = (before[0] - ay * on * turn, before[1] + ax * on * turn)
    second = (after[0] + by_ * on * turn, after[1] - bx * on * turn)
    return tuple(s for s in (Line(before, first), Line(first, second), Line(second, after)) if s.length > 0)


CORNERS: dict[Corners, Corner] = {"round": round_corner, "sharp": sharp_corner}


def beside(contour: Contour, by: float, corners: Corners = "round") -> tuple[Contour, ...]:
    """The closed contours at *by* mm on the right of a closed one: outside of one that runs counter-clockwise, on the other
    side where negative. None where nothing is left; several where it falls apart.

    >>> [round(own.area, 6) for own in beside(Contour.rectangle((0, 0, 10, 10)), 1, "sharp")]
    [144.0]
    >>> beside(Contour.rectangle((0, 0, 10, 10)), -6)
    ()
    """
    if by == 0:
        return (contour,)
    way = contour.is_counter_clockwise
    raw = offset_course(contour, by, CORNERS[corners], _FITTED)
    if raw is None:
        return ()
    segments = [segment for segment in raw if segment.length > 1e-9]
    pieces = _kept(_crossed(segments), contour, abs(by))
    return tuple(own for own in _closed(pieces) if own.is_counter_clockwise == way and abs(own.area) > JOINED**2)


def _crossed(segments: Sequence[Segment]) -> list[Segment]:
    """The segments of a course cut wherever they cross one another."""
    boxes = shapely.box(*np.array([segment.box for segment in segments]).T)
    tree = shapely.STRtree(boxes)
    shares: list[list[float]] = [[] for _ in segments]
    for a, b in tree.query(boxes, predicate="dwithin", distance=1e-9).T.tolist():
        if a < b:
            for t, u in crossings(segments[a], segments[b]):
                shares[a].append(t)
                shares[b].append(u)
    return _divided(segments, shares)


def _divided(segments: Sequence[Segment], shares: Sequence[Sequence[float]]) -> list[Segment]:
    return divided(segments, [_apart(s, own) for s, own in zip(segments, shares, strict=True)])


def _apart(segment: Segment, shares: Sequence[float]) -> list[float]:
    """Shares that are apart from the ends and from one another."""
    length, kept = segment.length, [0.0]
    for share in sorted(shares):
        if (share - kept[-1]) * length > JOINED / 2 and (1 - share) * length > JOINED / 2:
            kept.append(share)
    return kept[1:]


def _kept(pieces: list[Segment], contour: Contour, distance: float) -> list[Segment]:
    """The pieces that keep their distance from the contour all along, without those that lead nowhere."""
    if not pieces:
        return []
    course = shapely.LinearRing(contour.chords(_CHORD)) if len(contour.chords(_CHORD)) > 2 else None
    if course is None:
        return []
    shapely.prepare(course)
    places = np.array([piece.at(t) for piece in pieces for t in (0.5, 0.25, 0.75)])
    far = shapely.distance(course, shapely.points(places)).reshape(-1, 3).min(axis=1)
    rows = [piece for piece, own in zip(pieces, far.tolist(), strict=True) if own >= distance - _SHORT]
    while rows:
        ends = np.array([(s.start, s.start, s.end, s.end) for s in rows], float)
        nodes = nodes_of(ends)
        count = np.bincount(nodes.ravel(), minlength=int(nodes.max()) + 1)
        loose = [
            (a == b and piece.length <= 2 * JOINED) or (a != b and (count[a] == 1 or count[b] == 1))
            for piece, (a, b) in zip(rows, nodes.tolist(), strict=True)
        ]
        if not any(loose):
            break
        rows = [piece for piece, own in zip(rows, loose, strict=True) if not own]
    return rows


def _closed(pieces: list[Segment]) -> list[Contour]:
    if not pieces:
        return []
    ends = np.array([(s.start, s.start, s.end, s.end) for s in pieces], float)
    found = []
    for chain, whole in chains_of(nodes_of(ends)):
        if whole:
            own = [pieces[n].reversed() if back else pieces[n] for n, back in chain]
            if sum(back for _, back in chain) * 2 > len(chain):
                own = [segment.reversed() for segment in reversed(own)]
            found.append(Contour(tuple(_met(own))))
    return found


def _met(segments: list[Segment]) -> list[Segment]:
    """Straight segments moved to where their neighbours end, so that a contour of them has no steps."""
    out = list(segments)
    for n, (one, following) in enumerate(itertools.pairwise((*segments, segments[0]))):
        if one.end == following.start:
            continue
        other = (n + 1) % len(out)
        if isinstance(out[n], Line):
            out[n] = Line(out[n].start, following.start)
        elif isinstance(out[other], Line):
            out[other] = Line(one.end, out[other].end)
    return out
