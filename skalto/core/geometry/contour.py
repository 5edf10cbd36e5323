"""Exact contours: segments end to end, open or closed, with what follows from them in closed form."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property
from typing import Any

import shapely

from skalto.core.geometry.placement import Similarity
from skalto.core.geometry.segments import Arc, Cubic, Line, Segment
from skalto.core.geometry.values import TAU, Box, Point

JOINED = 1e-3
"""Ends nearer than this, mm, are one: a micrometre is less than a cutter sees (common practice)."""
ONE_CIRCLE = 1e-6
"""Arcs whose centres are nearer than this, mm, are of one circle."""
_ON = 1e-9
"""A point nearer to a contour than this, mm, is on it."""


class Where(StrEnum):
    """Where a point is."""

    INSIDE = "inside"
    OUTSIDE = "outside"
    ON = "on"


@dataclass(frozen=True)
class Contour:
    """Segments, each beginning where the one before ends; a *closed* one comes home.

    >>> square = Contour.polygon([(0, 0), (2, 0), (2, 2), (0, 2)])
    >>> square.area, square.length, square.is_counter_clockwise
    (4.0, 8.0, True)
    >>> square.where((1, 1)).value, square.where((3, 1)).value, square.where((2, 1)).value
    ('inside', 'outside', 'on')

    :raises ValueError: where segments do not meet within :data:`JOINED`.
    """

    segments: tuple[Segment, ...]
    closed: bool = True

    def __post_init__(self) -> None:
        if not self.segments:
            raise ValueError("A contour has at least one segment.")
        pairs = itertools.pairwise((*self.segments, self.segments[0]) if self.closed else self.segments)
        for number, (one, following) in enumerate(pairs):
            if math.dist(one.end, following.start) > JOINED:
                raise ValueError(f"Segment {number + 1} of the contour ends {math.dist(one.end, following.start):g} mm off.")

    @classmethod
    def polygon(cls, points: Iterable[Point]) -> Contour:
        """A closed contour of straight segments through its corners."""
        corners = [(float(x), float(y)) for x, y in points]
        return cls(tuple(Line(a, b) for a, b in itertools.pairwise((*corners, corners[0]))))

    @classmethod
    def rectangle(cls, box: Box) -> Contour:
        x0, y0, x1, y1 = box
        return cls.polygon(((x0, y0), (x1, y0), (x1, y1), (x0, y1)))

    @classmethod
    def circle(cls, centre: Point, radius: float) -> Contour:
        """A whole circle, counter-clockwise."""
        return cls((Arc.circle(centre, radius),))

    def __iter__(self) -> Iterator[Segment]:
        return iter(self.segments)

    @property
    def start(self) -> Point:
        return self.segments[0].start

    @property
    def end(self) -> Point:
        return self.segments[-1].end

    @cached_property
    def area(self) -> float:
        """What a closed contour encloses, mm²; negative where it runs clockwise. Exact but for rounding."""
        x, y = self.start
        at_home = self.placed(Similarity(dx=-x, dy=-y))
        pieces = at_home.segments
        # ends that are the same place within a micrometre may lie that far apart: the area between counts too
        gaps = (
            (a.end[0] * b.start[1] - a.end[1] * b.start[0]) / 2
            for a, b in zip(pieces, (*pieces[1:], pieces[0]), strict=True)
            if a.end != b.start
        )
        return math.fsum((*(segment.swept for segment in pieces), *gaps))

    @cached_property
    def length(self) -> float:
        """mm."""
        return math.fsum(segment.length for segment in self.segments)

    @cached_property
    def box(self) -> Box:
        """The exact box of the course."""
        boxes = [segment.box for segment in self.segments]
        x0, y0, x1, y1 = zip(*boxes, strict=True)
        return min(x0), min(y0), max(x1), max(y1)

    @property
    def is_counter_clockwise(self) -> bool:
        return self.area > 0

    def reversed(self) -> Contour:
        """The same course the other way round."""
        return Contour(tuple(segment.reversed() for segment in reversed(self.segments)), self.closed)

    def directed(self, counter_clockwise: bool) -> Contour:
        """As it is, or reversed, so that it runs as asked."""
        return self if self.is_counter_clockwise == counter_clockwise else self.reversed()

    def placed(self, by: Similarity) -> Contour:
        return Contour(tuple(segment.placed(by) for segment in self.segments), self.closed)

    def mirrored(self) -> Contour:
        """Turned over about the y axis, running the same way round as before."""
        return Contour(tuple(segment.mirrored() for segment in self.segments), self.closed).reversed()

    def where(self, point: Point) -> Where:
        """Whether a point is inside a closed contour, by the nonzero rule, outside, or within 10⁻⁹ mm on it."""
        turns = 0.0
        for segment in self.segments:
            own = _turn(segment, point)
            if own is None:
                return Where.ON
            turns += own
        return Where.INSIDE if self.closed and abs(turns) > TAU / 2 else Where.OUTSIDE

    @property
    def as_circle(self) -> tuple[Point, float] | None:
        """Centre and radius where a closed contour is one whole circle, else None."""
        arcs = [segment for segment in self.segments if isinstance(segment, Arc)]
        if not self.closed or len(arcs) < len(self.segments):
            return None
        centre = arcs[0].centre
        if any(math.dist(arc.centre, centre) > ONE_CIRCLE for arc in arcs):
            return None
        return (centre, arcs[0].radius) if abs(abs(math.fsum(arc.sweep for arc in arcs)) - TAU) <= 1e-6 else None

    def chords(self, tolerance: float) -> list[Point]:
        """Points along the contour whose chords keep within *tolerance*, mm, of it; the first is not given again at the end."""
        points: list[Point] = []
        for segment in self.segments:
            points += [segment.at(n / count) for count in (_pieces(segment, tolerance),) for n in range(count)]
        return points if self.closed else [*points, self.end]

    def line(self, tolerance: float) -> Any:
        """The whole course as a line of shapely, by the same chords; a closed one comes home."""
        points = self.chords(tolerance)
        return shapely.LineString([*points, points[0]] if self.closed else points)


def _pieces(segment: Segment, tolerance: float) -> int:
    if isinstance(segment, Line):
        return 1
    if isinstance(segment, Arc):
        # the sagitta of a chord over the angle θ is r·(1 − cos(θ/2))
        most = 2 * math.acos(max(1 - tolerance / segment.radius, 0.0)) if segment.radius > tolerance else TAU / 4
        return max(1, math.ceil(abs(segment.sweep) / most))
    # a cubic is within √3/18 of its second differences of its chord (Bézier curves' convergence: from memory)
    p = (segment.start, segment.first, segment.second, segment.end)
    bend = max(math.hypot(p[n][0] - 2 * p[n + 1][0] + p[n + 2][0], p[n][1] - 2 * p[n + 1][1] + p[n + 2][1]) for n in (0, 1))
    return max(1, math.ceil(math.sqrt(0.75 * bend / tolerance)))


def _turn(segment: Segment, point: Point) -> float | None:
    """The angle by which the line from a point to the segment turns along it, or None where the point is on it.

    A curve lies within its hull: seen from outside of that, it turns as its chord does.
    """
    waiting: list[Segment] = [segment]
    turned = 0.0
    while waiting:
        own = waiting.pop()
        hull = own.hull
        if not _holds(hull, point):
            turned += _angle(own.start, own.end, point)
            continue
        xs, ys = [x for x, _ in hull], [y for _, y in hull]
        if max(max(xs) - min(xs), max(ys) - min(ys)) <= _ON or isinstance(own, Line):
            return None
        waiting += own.halves()
    return turned


def _angle(a: Point, b: Point, seen_from: Point) -> float:
    ax, ay, bx, by = a[0] - seen_from[0], a[1] - seen_from[1], b[0] - seen_from[0], b[1] - seen_from[1]
    return math.atan2(ax * by - ay * bx, ax * bx + ay * by)


def _holds(hull: tuple[Point, ...], point: Point) -> bool:
    """Whether a point is in, or within 10⁻⁹ mm of, the smallest convex polygon about some points."""
    if len(hull) == 2:
        return _distance(hull[0], hull[1], point) <= _ON
    x, y = point
    if not (
        min(p[0] for p in hull) - _ON <= x <= max(p[0] for p in hull) + _ON
        and min(p[1] for p in hull) - _ON <= y <= max(p[1] for p in hull) + _ON
    ):
        return False
    # outside if all points are on one side of a line through it: seen from there they take less than half a turn
    angles = sorted(math.atan2(py - y, px - x) for px, py in hull if math.dist((px, py), point) > _ON)
    if len(angles) < len(hull):
        return True
    gaps = [b - a for a, b in itertools.pairwise((*angles, angles[0] + TAU))]
    if max(gaps) <= TAU / 2:
        return True
    return any(_distance(a, b, point) <= _ON for a, b in itertools.combinations(hull, 2))


def _distance(a: Point, b: Point, point: Point) -> float:
    """How far a point is from a straight segment."""
    dx, dy = b[0] - a[0], b[1] - a[1]
    size = dx * dx + dy * dy
    t = 0.0 if size == 0 else max(0.0, min(1.0, ((point[0] - a[0]) * dx + (point[1] - a[1]) * dy) / size))
    return math.hypot(a[0] + t * dx - point[0], a[1] + t * dy - point[1])


__all__ = ["JOINED", "ONE_CIRCLE", "Arc", "Contour", "Cubic", "Line", "Segment", "Where"]
