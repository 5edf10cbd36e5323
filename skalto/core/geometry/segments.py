"""The segments of exact contours: straight lines, circular arcs and cubic Béziers.

Each knows its ends to the last bit, so that what follows on another meets it. A circular arc stays one: it is never
replaced by chords or Béziers here.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from skalto.core.geometry.beziers import bezier_at, bezier_bounds
from skalto.core.geometry.placement import Similarity
from skalto.core.geometry.values import TAU, Box, Point

_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(16)
_NODES, _WEIGHTS = (_NODES + 1) / 2, _WEIGHTS / 2
_EXACT = 1e-12
"""How much a length found by halving may still change, as a share of it."""


def _moved(point: Point, by: Similarity) -> Point:
    x, y = by.points(np.array(point)).tolist()
    return x, y


def _cross(a: Point, b: Point) -> float:
    return a[0] * b[1] - a[1] * b[0]


def _less(a: Point, b: Point) -> Point:
    return a[0] - b[0], a[1] - b[1]


def _unit(x: float, y: float) -> Point:
    size = math.hypot(x, y) or 1.0
    return x / size, y / size


@dataclass(frozen=True)
class Line:
    """A straight segment.

    >>> Line((0, 0), (3, 4)).length
    5.0
    """

    start: Point
    end: Point

    @property
    def length(self) -> float:
        """mm."""
        return math.dist(self.start, self.end)

    @property
    def swept(self) -> float:
        """The signed area, mm², that the line from the origin to a point of the segment sweeps: positive counter-clockwise."""
        return _cross(self.start, self.end) / 2

    @property
    def box(self) -> Box:
        (x0, y0), (x1, y1) = self.start, self.end
        return min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1)

    def at(self, t: float) -> Point:
        """The point at the share *t* of its course, 0 to 1."""
        (x0, y0), (x1, y1) = self.start, self.end
        return x0 + (x1 - x0) * t, y0 + (y1 - y0) * t

    def heading(self, t: float) -> Point:
        """The unit vector along the course at *t*."""
        return _unit(self.end[0] - self.start[0], self.end[1] - self.start[1])

    def reversed(self) -> Line:
        return Line(self.end, self.start)

    def placed(self, by: Similarity) -> Line:
        return Line(_moved(self.start, by), _moved(self.end, by))

    def mirrored(self) -> Line:
        """Turned over about the y axis."""
        return Line((-self.start[0], self.start[1]), (-self.end[0], self.end[1]))

    def halves(self) -> tuple[Line, Line]:
        middle = self.at(0.5)
        return Line(self.start, middle), Line(middle, self.end)

    @property
    def hull(self) -> tuple[Point, ...]:
        """Corners of a polygon that holds the segment."""
        return self.start, self.end


@dataclass(frozen=True)
class Arc:
    """A circular arc about *centre* by *sweep* radians, counter-clockwise where positive; a whole turn ends where it begins.

    >>> round(Arc((1, 0), (0, 1), (0, 0), math.pi / 2).length, 12) == round(math.pi / 2, 12)
    True
    """

    start: Point
    end: Point
    centre: Point
    sweep: float

    @classmethod
    def circle(cls, centre: Point, radius: float) -> Arc:
        """A whole circle, counter-clockwise from its rightmost point."""
        start = (centre[0] + radius, centre[1])
        return cls(start, start, centre, TAU)

    @property
    def radius(self) -> float:
        """mm."""
        return math.dist(self.start, self.centre)

    @property
    def length(self) -> float:
        return self.radius * abs(self.sweep)

    @property
    def swept(self) -> float:
        return (self.radius**2 * self.sweep + _cross(self.centre, _less(self.end, self.start))) / 2

    @property
    def _begin(self) -> float:
        return math.atan2(self.start[1] - self.centre[1], self.start[0] - self.centre[0])

    @property
    def box(self) -> Box:
        (cx, cy), radius, begin = self.centre, self.radius, self._begin
        xs, ys = [self.start[0], self.end[0]], [self.start[1], self.end[1]]
        low, high = sorted((begin, begin + self.sweep))
        for quarter in range(math.ceil(low / (TAU / 4)), math.floor(high / (TAU / 4)) + 1):
            xs.append(cx + radius * (1, 0, -1, 0)[quarter % 4])
            ys.append(cy + radius * (0, 1, 0, -1)[quarter % 4])
        return min(xs), min(ys), max(xs), max(ys)

    def at(self, t: float) -> Point:
        if t in (0, 1):
            return self.end if t else self.start
        angle = self._begin + self.sweep * t
        return self.centre[0] + self.radius * math.cos(angle), self.centre[1] + self.radius * math.sin(angle)

    def heading(self, t: float) -> Point:
        angle, way = self._begin + self.sweep * t, math.copysign(1.0, self.sweep)
        return -math.sin(angle) * way, math.cos(angle) * way

    def reversed(self) -> Arc:
        return Arc(self.end, self.start, self.centre, -self.sweep)

    def placed(self, by: Similarity) -> Arc:
        return Arc(_moved(self.start, by), _moved(self.end, by), _moved(self.centre, by), self.sweep)

    def mirrored(self) -> Arc:
        return Arc((-self.start[0], self.start[1]), (-self.end[0], self.end[1]), (-self.centre[0], self.centre[1]), -self.sweep)

    def halves(self) -> tuple[Arc, Arc]:
        middle = self.at(0.5)
        return Arc(self.start, middle, self.centre, self.sweep / 2), Arc(middle, self.end, self.centre, self.sweep / 2)

    @property
    def hull(self) -> tuple[Point, ...]:
        if abs(self.sweep) > TAU / 4:
            (cx, cy), r = self.centre, self.radius
            return (cx - r, cy - r), (cx + r, cy - r), (cx + r, cy + r), (cx - r, cy + r)
        # the tangents of both ends meet outside the arc, on its bisector
        reach = self.radius / math.cos(self.sweep / 2)
        angle = self._begin + self.sweep / 2
        tip = (self.centre[0] + reach * math.cos(angle), self.centre[1] + reach * math.sin(angle))
        return self.start, tip, self.end


@dataclass(frozen=True)
class Cubic:
    """A cubic Bézier with two control points."""

    start: Point
    first: Point
    second: Point
    end: Point

    @property
    def length(self) -> float:
        """By Gauss's rule in ever more pieces, until it changes by less than 10⁻¹² of it."""
        pieces, before = 1, self._length(1)
        while pieces < 1024:
            pieces *= 2
            found = self._length(pieces)
            if abs(found - before) <= _EXACT * max(found, 1.0):
                break
            before = found
        return found

    def _length(self, pieces: int) -> float:
        t = ((np.arange(pieces)[:, None] + _NODES) / pieces).ravel()
        speed = np.hypot(*self._slopes(t).T)
        return float((speed.reshape(pieces, -1) @ _WEIGHTS).sum() / pieces)

    def _points(self) -> np.ndarray:
        return np.array((self.start, self.first, self.second, self.end), float)

    def _slopes(self, t: np.ndarray) -> np.ndarray:
        d = 3 * np.diff(self._points(), axis=0)
        s = (1 - t)[:, None]
        u = t[:, None]
        found: np.ndarray = s * s * d[0] + 2 * s * u * d[1] + u * u * d[2]
        return found

    @property
    def swept(self) -> float:
        # x·dy − y·dx is of the fifth degree: sixteen nodes are exact by far
        points, slopes = bezier_at(self._points()[None], _NODES)[0], self._slopes(_NODES)
        return float(((points[:, 0] * slopes[:, 1] - points[:, 1] * slopes[:, 0]) @ _WEIGHTS) / 2)

    @property
    def box(self) -> Box:
        (x0, y0), (x1, y1) = bezier_bounds(self._points()[None])[0].tolist()
        return x0, y0, x1, y1

    def at(self, t: float) -> Point:
        if t in (0, 1):
            return self.end if t else self.start
        x, y = bezier_at(self._points()[None], np.array((t,)))[0, 0].tolist()
        return x, y

    def heading(self, t: float) -> Point:
        x, y = self._slopes(np.array((t,)))[0].tolist()
        if math.hypot(x, y) < 1e-12:
            # an arm without length: the way to the next point that stands apart
            points = (
                (self.start, self.first, self.second, self.end) if t < 0.5 else (self.end, self.second, self.first, self.start)
            )
            apart = next((p for p in points[1:] if math.dist(p, points[0]) > 1e-12), points[-1])
            x, y = _less(apart, points[0]) if t < 0.5 else _less(points[0], apart)
        return _unit(x, y)

    def reversed(self) -> Cubic:
        return Cubic(self.end, self.second, self.first, self.start)

    def placed(self, by: Similarity) -> Cubic:
        return Cubic(*(_moved(point, by) for point in (self.start, self.first, self.second, self.end)))

    def mirrored(self) -> Cubic:
        return Cubic(*((-x, y) for x, y in (self.start, self.first, self.second, self.end)))

    def halves(self) -> tuple[Cubic, Cubic]:
        def mid(a: Point, b: Point) -> Point:
            return (a[0] + b[0]) / 2, (a[1] + b[1]) / 2

        ab, bc, cd = mid(self.start, self.first), mid(self.first, self.second), mid(self.second, self.end)
        abc, bcd = mid(ab, bc), mid(bc, cd)
        middle = mid(abc, bcd)
        return Cubic(self.start, ab, abc, middle), Cubic(middle, bcd, cd, self.end)

    @property
    def hull(self) -> tuple[Point, ...]:
        return self.start, self.first, self.second, self.end


Segment = Line | Arc | Cubic
