"""Strokes: straight segments, elliptical arcs, cubic Béziers and polylines, in arrays.

*order* (n,), where it is there, is each one's place in the drawing order of its artwork: items are grouped by their tags, and
an output that shows what covers what draws by it.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from skalto.core.artwork.tags import Tags
from skalto.core.geometry.beziers import bezier_bounds
from skalto.core.geometry.placement import Similarity
from skalto.core.geometry.values import TAU, Array


class _Bounded:
    """What takes its bounds once: it never changes, and a sheet asks again and again."""

    def _measured(self) -> Array:
        raise NotImplementedError

    @cached_property
    def _bounds(self) -> Array:
        found = self._measured()
        found.setflags(write=False)
        return found

    def bounds(self) -> Array:
        """Exact lowest and highest corner of each, shape (n, 2, 2); not to be written into."""
        return self._bounds


@dataclass(frozen=True, eq=False)
class Lines(_Bounded):
    """Straight segments: *points* of shape (n, 2, 2)."""

    tags: Tags
    points: Array
    order: NDArray[np.int64] | None = None
    kind: ClassVar[str] = "lines"

    def placed(self, by: Similarity) -> Lines:
        return replace(self, tags=self.tags.placed(by), points=by.points(self.points))

    def _measured(self) -> Array:
        """Lowest and highest corner of each, shape (n, 2, 2)."""
        return np.stack((self.points.min(axis=1), self.points.max(axis=1)), axis=1)

    def __len__(self) -> int:
        return len(self.points)


@dataclass(frozen=True, eq=False)
class Ellipses(_Bounded):
    """Elliptical arcs, c + a·cos t + b·sin t for t from start to start + sweep.

    *centre* (n, 2), *major* a (n, 2), *minor* b (n, 2) square to it, *start* and *sweep* (n,) in radians, the sweep
    positive; a whole ellipse sweeps exactly 2π. A circular arc is one whose axes are equally long: see :meth:`is_circle`.
    """

    tags: Tags
    centre: Array
    major: Array
    minor: Array
    start: Array
    sweep: Array
    order: NDArray[np.int64] | None = None
    kind: ClassVar[str] = "ellipses"

    def placed(self, by: Similarity) -> Ellipses:
        tags, major, minor = self.tags.placed(by), by.vectors(self.major), by.vectors(self.minor)
        return replace(self, tags=tags, centre=by.points(self.centre), major=major, minor=minor)

    def radii(self) -> Array:
        """Half axes, shape (n, 2)."""
        return np.stack((np.linalg.norm(self.major, axis=1), np.linalg.norm(self.minor, axis=1)), axis=1)

    def is_circle(self) -> NDArray[np.bool_]:
        """Which are circular, to a ten millionth of the radius or a nanometre, shape (n,)."""
        radii = self.radii()
        return np.abs(radii[:, 0] - radii[:, 1]) <= np.maximum(1e-7 * radii[:, 0], 1e-6)

    def is_whole(self) -> NDArray[np.bool_]:
        """Which close on themselves, shape (n,)."""
        return self.sweep >= TAU - 1e-12

    def at(self, t: Array) -> Array:
        """Points at parameters of shape (n, k): shape (n, k, 2)."""
        return self.centre[:, None] + np.cos(t)[..., None] * self.major[:, None] + np.sin(t)[..., None] * self.minor[:, None]

    def _measured(self) -> Array:
        """Exact: ends, and the extremes of each coordinate that lie within the sweep, shape (n, 2, 2)."""
        ends = self.at(np.stack((self.start, self.start + self.sweep), axis=1))
        low, high = ends.min(axis=1), ends.max(axis=1)
        for axis in (0, 1):
            peak = np.arctan2(self.minor[:, axis], self.major[:, axis])
            reach = np.hypot(self.major[:, axis], self.minor[:, axis])
            for angle, sign in ((peak, 1.0), (peak + np.pi, -1.0)):
                inside = np.mod(angle - self.start, TAU) <= self.sweep + 1e-12
                value = self.centre[:, axis] + sign * reach
                low[:, axis] = np.where(inside, np.minimum(low[:, axis], value), low[:, axis])
                high[:, axis] = np.where(inside, np.maximum(high[:, axis], value), high[:, axis])
        return np.stack((low, high), axis=1)

    def __len__(self) -> int:
        return len(self.centre)


@dataclass(frozen=True, eq=False)
class Beziers(_Bounded):
    """Cubic Bézier curves: *points* of shape (n, 4, 2)."""

    tags: Tags
    points: Array
    order: NDArray[np.int64] | None = None
    kind: ClassVar[str] = "beziers"

    def placed(self, by: Similarity) -> Beziers:
        return replace(self, tags=self.tags.placed(by), points=by.points(self.points))

    def _measured(self) -> Array:
        """Exact, from the roots of the derivative, shape (n, 2, 2)."""
        return bezier_bounds(self.points)

    def __len__(self) -> int:
        return len(self.points)


def bulge_arcs(start: Array, end: Array, bulge: Array) -> tuple[Array, Array, Array, Array, Array]:
    """The circular arcs of polyline segments from *start* (n, 2) to *end* (n, 2): centre, major, minor, start and sweep as
    :class:`Ellipses` has them. *bulge* (n,), not zero, is the tangent of a quarter of the arc's angle, positive for one that
    runs counter-clockwise (DXF reference, LWPOLYLINE, code 42)."""
    chord = end - start
    square = np.stack((-chord[:, 1], chord[:, 0]), axis=1)
    centre = (start + end) / 2 + square * ((1 - bulge**2) / (4 * bulge))[:, None]
    major = np.where((bulge > 0)[:, None], start, end) - centre
    minor = np.stack((-major[:, 1], major[:, 0]), axis=1)
    return centre, major, minor, np.zeros(len(bulge)), 4 * np.arctan(np.abs(bulge))


@dataclass(frozen=True, eq=False)
class Polylines(_Bounded):
    """Runs of straight segments and circular arcs: *points* (m, 2), the *bulge* (m,) of the segment that begins at each (0 for
    a straight one), *first* (n + 1,) where each run begins and the last ends, and which runs are *closed* (n,)."""

    tags: Tags
    points: Array
    bulge: Array
    first: NDArray[np.int64]
    closed: NDArray[np.bool_]
    order: NDArray[np.int64] | None = None
    kind: ClassVar[str] = "polylines"

    def placed(self, by: Similarity) -> Polylines:
        return replace(self, tags=self.tags.placed(by), points=by.points(self.points))

    def segments(self) -> tuple[Array, Array, Array, NDArray[np.int64]]:
        """Start (s, 2) and end (s, 2) of every segment, its bulge (s,), and the number of its run (s,)."""
        count = np.diff(self.first)
        owner = np.repeat(np.arange(len(count)), count)
        following = np.arange(len(self.points)) + 1
        following[self.first[1:] - 1] = self.first[:-1]
        last = np.zeros(len(self.points), bool)
        last[self.first[1:] - 1] = True
        kept = ~last | self.closed[owner]
        return self.points[kept], self.points[following[kept]], self.bulge[kept], owner[kept]

    def parts(self) -> tuple[Lines, Ellipses]:
        """Every segment by itself, the straight ones and the arcs; each has the place of its run in the drawing order."""
        start, end, bulge, owner = self.segments()
        straight = np.abs(bulge) <= 1e-12
        order = None if self.order is None else self.order[owner]

        def of(chosen: NDArray[np.bool_]) -> NDArray[np.int64] | None:
            return None if order is None else order[chosen]

        lines = Lines(self.tags, np.stack((start, end), axis=1)[straight], of(straight))
        arcs = bulge_arcs(start[~straight], end[~straight], bulge[~straight])
        return lines, Ellipses(self.tags, *arcs, of(~straight))

    def _measured(self) -> Array:
        """Exact, of each run, shape (n, 2, 2)."""
        low = np.minimum.reduceat(self.points, self.first[:-1], axis=0)
        high = np.maximum.reduceat(self.points, self.first[:-1], axis=0)
        start, end, bulge, owner = self.segments()
        round_ = np.abs(bulge) > 1e-12
        if round_.any():
            arcs = Ellipses(self.tags, *bulge_arcs(start[round_], end[round_], bulge[round_])).bounds()
            np.minimum.at(low, owner[round_], arcs[:, 0])
            np.maximum.at(high, owner[round_], arcs[:, 1])
        return np.stack((low, high), axis=1)

    def rows(self, chosen: NDArray[np.int64]) -> Polylines:
        """Only the runs of these numbers."""
        sizes = np.diff(self.first)[chosen]
        first = np.concatenate(([0], np.cumsum(sizes))).astype(np.int64)
        # the number of each point that stays: where its run begins, and how far on in it
        at = np.repeat(self.first[:-1][chosen] - first[:-1], sizes) + np.arange(first[-1])
        order = None if self.order is None else self.order[chosen]
        return Polylines(self.tags, self.points[at], self.bulge[at], first, self.closed[chosen], order)

    def run(self, number: int) -> slice:
        """Which points are those of a run."""
        return slice(int(self.first[number]), int(self.first[number + 1]))

    def __len__(self) -> int:
        return len(self.closed)


@dataclass(frozen=True, eq=False)
class Contours(_Bounded):
    """Strokes joined end to end: *curves* (m, 4, 2) as cubic Béziers, *straight* (m,) those that are lines, *first* (n + 1,)
    where each contour begins and the last ends, and which are *closed* (n,). What is a circular arc has its *bulge* (m,), as
    :class:`Polylines` have it, and its *centre* (m, 2), nan for all else."""

    tags: Tags
    curves: Array
    straight: NDArray[np.bool_]
    first: NDArray[np.int64]
    closed: NDArray[np.bool_]
    bulge: Array | None = None
    centre: Array | None = None
    kind: ClassVar[str] = "contours"

    def placed(self, by: Similarity) -> Contours:
        centre = None if self.centre is None else by.points(self.centre)
        return replace(self, tags=self.tags.placed(by), curves=by.points(self.curves), centre=centre)

    def _measured(self) -> Array:
        """Exact, of each contour, shape (n, 2, 2)."""
        boxes = bezier_bounds(self.curves)
        low = np.minimum.reduceat(boxes[:, 0], self.first[:-1], axis=0)
        return np.stack((low, np.maximum.reduceat(boxes[:, 1], self.first[:-1], axis=0)), axis=1)

    def __len__(self) -> int:
        return len(self.closed)
