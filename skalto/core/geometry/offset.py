"""Courses at a distance beside a contour, segment by segment.

An arc's neighbour is an arc about the same centre. What a contour's own neighbour is where the contour bends is the business
of whoever offsets: a corner is filled by a *corner* function, round ones by :func:`round_corner`.
"""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from skalto.core.geometry.beziers import bezier_at
from skalto.core.geometry.contour import Contour
from skalto.core.geometry.curves import fit_beziers
from skalto.core.geometry.segments import Arc, Cubic, Line, Segment
from skalto.core.geometry.values import TAU, Array, Point

Corner = Callable[[Point, Point, Point, float], tuple[Segment, ...]]
"""From a corner, where the course beside it breaks off and goes on again, and the distance, to what joins the two."""
TOLERANCE = 1e-3
"""How far, mm, the neighbour of a cubic Bézier may be off: a micrometre."""
_MEET = 1e-9


def _beside(point: Point, heading: Point, by: float) -> Point:
    return point[0] + heading[1] * by, point[1] - heading[0] * by


def offset_segment(segment: Segment, by: float, tolerance: float = TOLERANCE) -> tuple[Segment, ...]:
    """The course at *by* mm on the right of a segment, on its left where negative; a cubic's within *tolerance*.

    An arc whose neighbour would pass through its centre has none: the result is empty.
    """
    start, end = _beside(segment.start, segment.heading(0), by), _beside(segment.end, segment.heading(1), by)
    if isinstance(segment, Line):
        return (Line(start, end),)
    if isinstance(segment, Arc):
        radius = segment.radius + math.copysign(by, by * segment.sweep)
        if radius <= _MEET:
            return ()
        return (Arc(start, start if abs(segment.sweep) >= TAU - 1e-12 else end, segment.centre, segment.sweep),)

    points = np.array((segment.start, segment.first, segment.second, segment.end), float)
    first, second = 3 * np.diff(points, axis=0), 6 * np.diff(points, n=2, axis=0)

    def course(t: Array) -> tuple[Array, Array]:
        s, u = (1 - t)[:, None], t[:, None]
        d = s * s * first[0] + 2 * s * u * first[1] + u * u * first[2]
        dd = s * second[0] + u * second[1]
        speed = np.maximum(np.hypot(*d.T), 1e-12)[:, None]
        right = np.stack((d[:, 1], -d[:, 0]), axis=1) / speed
        bend = ((d[:, 0] * dd[:, 1] - d[:, 1] * dd[:, 0]) / speed[:, 0] ** 3)[:, None]
        return bezier_at(points[None], t)[0] + right * by, d * (1 + bend * by)

    pieces = fit_beziers(course, np.array((0.0, 1.0)), tolerance)
    cubics = [Cubic(*((float(x), float(y)) for x, y in piece)) for piece in pieces.tolist()]
    cubics[0] = Cubic(start, cubics[0].first, cubics[0].second, cubics[0].end)
    cubics[-1] = Cubic(cubics[-1].start, cubics[-1].first, cubics[-1].second, end)
    return tuple(cubics)


def round_corner(corner: Point, before: Point, after: Point, by: float) -> tuple[Segment, ...]:
    """An arc about the corner from where the course beside it breaks off to where it goes on, the short way round."""
    begin, end = (
        math.atan2(before[1] - corner[1], before[0] - corner[0]),
        math.atan2(after[1] - corner[1], after[0] - corner[0]),
    )
    sweep = math.remainder(end - begin, TAU)
    return (Arc(before, after, corner, sweep),) if sweep else ()


def offset_course(contour: Contour, by: float, corner: Corner = round_corner, tolerance: float = TOLERANCE) -> Contour | None:
    """The whole course at *by* mm on the right of a contour: outward of one that runs counter-clockwise.

    Outer corners are joined by *corner*; at inner ones, and where an arc has no neighbour, the course goes through the corner
    itself, in loops that run backward and that whoever takes areas by the nonzero rule of positive turns leaves out. None where
    nothing is left.
    """
    made: list[tuple[Segment, tuple[Segment, ...]]] = [(s, offset_segment(s, by, tolerance)) for s in contour]
    kept = [(source, own) for source, own in made if own]
    if not kept:
        return None
    out: list[Segment] = []
    for number, (source, own) in enumerate(kept):
        out += own
        last = number == len(kept) - 1
        if last and not contour.closed:
            break
        following, after = kept[(number + 1) % len(kept)]
        a, b = own[-1].end, after[0].start
        if math.dist(a, b) <= _MEET:
            continue
        before_, after_ = source.heading(1), following.heading(0)
        outer = (before_[0] * after_[1] - before_[1] * after_[0]) * by > 0
        out += corner(source.end, a, b, by) if outer else (Line(a, source.end), Line(source.end, b))
    return Contour(tuple(segment for segment in out if segment.length > 0), contour.closed)
