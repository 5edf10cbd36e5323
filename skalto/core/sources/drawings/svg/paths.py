"""Paths of a plain SVG file: absolute lines and cubic Béziers (SVG 1.1, 8.3), with the arcs that they were found again."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np

from skalto.core.artwork import Tags
from skalto.core.geometry import Point, bezier_at, bezier_bounds
from skalto.core.geometry.curves import circle_through
from skalto.core.locating import FARTHEST
from skalto.core.sources.drawings.collecting import Collector, Contour
from skalto.core.sources.drawings.svg.round import Arc, Cubic, joined

Matrix = tuple[float, float, float, float, float, float]
_ROUND = 1e-6
"""A closed run of curves within this share of its size of a circle is one."""


def times(outer: Matrix, inner: Matrix) -> Matrix:
    """The matrix that does *inner* first."""
    a, b, c, d, e, f = outer
    g, h, i, j, k, m = inner
    return a * g + c * h, b * g + d * h, a * i + c * j, b * i + d * j, a * k + c * m + e, b * k + d * m + f


def outline(matrix: Matrix, point: Point) -> Point:
    """A point moved by a matrix."""
    a, b, c, d, e, f = matrix
    x, y = point
    return a * x + c * y + e, b * x + d * y + f


@dataclass
class Sub:
    """A subpath: where it begins, its pieces, a straight one being its end alone, and whether it closes."""

    start: Point
    curves: list[Point | Cubic] = field(default_factory=list)
    closed: bool = False

    @property
    def flat(self) -> bool:
        """Whether it goes along one line alone, so that nothing lies in it."""
        return len(self.curves) < 2 and all(len(piece) == 2 for piece in self.curves)

    @property
    def end(self) -> Point:
        if not self.curves:
            return self.start
        last = self.curves[-1]
        return last[3] if len(last) == 4 else last

    def chains(self) -> list[list[Point] | list[Arc | Cubic]]:
        """Its pieces put together: runs of corners, and chains of curves with their arcs."""
        found: list[list[Point] | list[Arc | Cubic]] = []
        corners: list[Point] = [self.start]
        curves: list[Cubic] = []
        for piece in self.curves:
            if len(piece) == 4:
                if len(corners) > 1:
                    found.append(corners)
                curves.append(piece)
                corners = [piece[3]]
            else:
                if curves:
                    found.append(joined(curves))
                    curves = []
                corners.append(piece)
        if curves:
            found.append(joined(curves))
        if len(corners) > 1:
            found.append(corners)
        return found

    def contour(self) -> Contour:
        """As the edge of an area; arcs finer than they were."""
        made = Contour()
        for chain in self.chains():
            if isinstance(chain[0], tuple) and len(chain[0]) == 2:
                for a, b in pairwise(chain):
                    if a != b:
                        made.line(a, b)  # type: ignore[arg-type]
                continue
            for piece in chain:
                for cubic in piece.cubics() if isinstance(piece, Arc) else [piece]:
                    made.curve(*cubic)  # type: ignore[arg-type]
        if self.end != self.start:
            made.line(self.end, self.start)
        return made

    def stroke(self, collector: Collector, tags: Tags) -> None:
        """As a stroke: corners as a polyline, arcs as arcs, other curves as Béziers."""
        if not self.curves:
            return
        if all(len(piece) == 2 for piece in self.curves):
            points = [self.start, *self.curves]
            if self.closed and points[0] == points[-1] and len(points) > 2:
                points.pop()
            collector.polyline(tags, np.array(points, float), closed=self.closed and len(points) > 2)
            return
        if self.closed and self.end != self.start:
            self.curves.append(self.start)
        if all(len(piece) == 4 for piece in self.curves) and self._circle(collector, tags):
            return
        for chain in self.chains():
            if isinstance(chain[0], tuple) and len(chain[0]) == 2:
                collector.polyline(tags, np.array(chain, float))
                continue
            waiting: list[Cubic] = []
            for piece in chain:
                if not isinstance(piece, Arc):
                    waiting.append(piece)  # type: ignore[arg-type]
                    continue
                collector.beziers(tags, np.array(waiting, float).reshape(-1, 4, 2))
                waiting = []
                collector.ellipse(tags, piece.centre, piece.u, piece.v, piece.start, piece.sweep)
            collector.beziers(tags, np.array(waiting, float).reshape(-1, 4, 2))

    def _circle(self, collector: Collector, tags: Tags) -> bool:
        """Whether it is one whole circle, drawn as such: also where its Béziers are not made in the common way."""
        first = joined(self.curves)  # type: ignore[arg-type]
        if len(first) == 1 and isinstance(first[0], Arc):
            return False
        curves = np.array(self.curves, float)
        size = float(np.ptp(curves.reshape(-1, 2), axis=0).max())
        if math.dist(self.end, self.start) > _ROUND * size:
            return False
        found = circle_through(bezier_at(curves, np.linspace(0, 1, 9)).reshape(-1, 2), 3e-4 * size)
        if found is None:
            return False
        (cx, cy), radius = found[0].tolist(), found[1]
        collector.ellipse(tags, (cx, cy), (radius, 0.0), (0.0, radius), 0.0, math.tau)
        return True


@dataclass
class Path:
    """The subpaths of one path, in the drawing's units."""

    subpaths: list[Sub]

    def box(self) -> tuple[float, float, float, float]:
        """Its bounds, exact."""
        points = [sub.start for sub in self.subpaths] + [p for sub in self.subpaths for p in sub.curves if len(p) == 2]
        low, high = np.full(2, np.inf), np.full(2, -np.inf)
        if points:
            low, high = np.array(points, float).min(axis=0), np.array(points, float).max(axis=0)
        curves = np.array([piece for sub in self.subpaths for piece in sub.curves if len(piece) == 4], float)
        if len(curves):
            boxes = bezier_bounds(curves)
            low, high = np.minimum(low, boxes[:, 0].min(axis=0)), np.maximum(high, boxes[:, 1].max(axis=0))
        return float(low[0]), float(low[1]), float(high[0]), float(high[1])

    def triangles(self) -> list[list[Point]]:
        """The corners of each subpath where all are closed and straight; nothing else can be letters."""
        if any(not sub.closed or any(len(piece) == 4 for piece in sub.curves) for sub in self.subpaths):
            return []
        found = []
        for sub in self.subpaths:
            corners: list[Point] = [sub.start, *sub.curves]  # type: ignore[list-item]
            found.append(corners[:-1] if len(corners) == 4 and corners[-1] == corners[0] else corners)
        return found


def path_of(d: str, matrix: Matrix) -> Path:
    """A plain path moved by a matrix: moves, lines, cubic Béziers and closings, all absolute.

    :raises OverflowError: when it reaches further than any drawing.
    """
    words = d.split()
    subs: list[Sub] = []
    at = 0

    def point() -> Point:
        nonlocal at
        made = outline(matrix, (float(words[at]), float(words[at + 1])))
        at += 2
        if not (abs(made[0]) <= FARTHEST and abs(made[1]) <= FARTHEST):
            raise OverflowError
        return made

    while at < len(words):
        word = words[at]
        at += 1
        if word == "M":
            subs.append(Sub(point()))
        elif word == "L":
            subs[-1].curves.append(point())
        elif word == "C":
            subs[-1].curves.append((subs[-1].end, point(), point(), point()))
        elif word == "Z":
            subs[-1].closed = True
            if at < len(words) and words[at] != "M":
                subs.append(Sub(subs[-1].start))
    return Path([sub for sub in subs if sub.curves])
