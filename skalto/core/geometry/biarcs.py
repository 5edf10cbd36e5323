"""Curves as circular arcs: cubics replaced by arcs that follow one another smoothly, within a tolerance."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence

import numpy as np

from skalto.core.geometry.beziers import bezier_at
from skalto.core.geometry.contour import Contour
from skalto.core.geometry.segments import Arc, Cubic, Line, Segment
from skalto.core.geometry.values import Array, Point

_DEPTH = 16
_SHARES = np.linspace(0, 1, 25)
_FLAT = 1e-9


def arcs_of(contour: Contour, tolerance: float) -> tuple[Contour, float]:
    """A contour whose cubics are arcs, or lines where they are straight, and how far these are off at most, mm.

    :param tolerance: mm.
    """
    made: list[Segment] = []
    worst = 0.0
    for segment in contour:
        if isinstance(segment, Cubic):
            rows, off = _arcs(segment, tolerance, 0)
            made += rows
            worst = max(worst, off)
        else:
            made.append(segment)
    return Contour(tuple(made), contour.closed), worst


def lines_of(contour: Contour, tolerance: float) -> tuple[Contour, float]:
    """A contour whose cubics are chords, and how far these are off at most, mm; arcs stay arcs."""
    made: list[Segment] = []
    worst = 0.0
    for segment in contour:
        if not isinstance(segment, Cubic):
            made.append(segment)
            continue
        points = [*Contour((segment,), closed=False).chords(tolerance)]
        rows = [Line(a, b) for a, b in itertools.pairwise(points)]
        worst = max(worst, _off(segment, rows))
        made += rows
    return Contour(tuple(made), contour.closed), worst


def _arcs(cubic: Cubic, tolerance: float, depth: int) -> tuple[list[Segment], float]:
    rows = _biarc(cubic)
    off = _off(cubic, rows)
    if off <= tolerance * 0.95 or depth >= _DEPTH:
        return rows, off
    one, other = cubic.halves()
    first, a = _arcs(one, tolerance, depth + 1)
    second, b = _arcs(other, tolerance, depth + 1)
    return first + second, max(a, b)


def _biarc(cubic: Cubic) -> list[Segment]:
    """Two arcs with the cubic's ends and end tangents, whose arms are equally long (the usual choice; from memory)."""
    start, end = np.array(cubic.start), np.array(cubic.end)
    t0, t1 = np.array(cubic.heading(0)), np.array(cubic.heading(1))
    v = end - start
    t = t0 + t1
    square = float(v @ v)
    a, b = 2 * (1 - float(t0 @ t1)), float(v @ t)
    if square < _FLAT**2:
        return [Line(cubic.start, cubic.end)]
    if abs(a) < 1e-12:
        arm = square / (4 * float(v @ t1)) if abs(float(v @ t1)) > 1e-12 else math.sqrt(square) / 3
    else:
        arm = (-b + math.sqrt(b * b + a * square)) / a
    if not 0 < arm < 4 * math.sqrt(square):
        return [Line(cubic.start, cubic.end)]
    middle = (start + end + arm * (t0 - t1)) / 2
    joint = (float(middle[0]), float(middle[1]))
    return [_arc(cubic.start, joint, t0), _arc_back(joint, cubic.end, t1)]


def _arc(start: Point, end: Point, heading: Array) -> Segment:
    """The arc from a place along a heading to another place."""
    chord = np.array(end) - np.array(start)
    size = float(np.hypot(*chord))
    side = float(heading[0] * chord[1] - heading[1] * chord[0])
    if size < _FLAT or abs(side) <= 1e-9 * size:
        return Line(start, end)
    radius = size * size / (2 * side)
    centre = (start[0] - radius * float(heading[1]), start[1] + radius * float(heading[0]))
    half = math.atan2(side, float(heading @ chord))
    return Arc(start, end, centre, 2 * half)


def _arc_back(start: Point, end: Point, heading: Array) -> Segment:
    return _arc(end, start, -heading).reversed()


def _off(cubic: Cubic, rows: Sequence[Segment]) -> float:
    """How far a cubic's points are from segments in its stead."""
    points = bezier_at(np.array((cubic.start, cubic.first, cubic.second, cubic.end), float)[None], _SHARES)[0]
    gaps = np.stack([_gaps(points, own) for own in rows])
    return float(gaps.min(axis=0).max())


def _gaps(points: Array, own: Segment) -> Array:
    start, end = np.array(own.start), np.array(own.end)
    if isinstance(own, Arc):
        beside = points - np.array(own.centre)
        begin = math.atan2(own.start[1] - own.centre[1], own.start[0] - own.centre[0])
        way = math.copysign(1, own.sweep)
        turned = (np.arctan2(beside[:, 1], beside[:, 0]) - begin) * way % (2 * math.pi)
        on = turned <= abs(own.sweep)
        radial = np.abs(np.hypot(beside[:, 0], beside[:, 1]) - own.radius)
        ends = np.minimum(np.hypot(*(points - start).T), np.hypot(*(points - end).T))
        found: Array = np.where(on, radial, ends)
        return found
    chord = end - start
    size = float(chord @ chord) or 1.0
    share = np.clip((points - start) @ chord / size, 0, 1)
    flat: Array = np.hypot(*(points - start - np.outer(share, chord)).T)
    return flat
