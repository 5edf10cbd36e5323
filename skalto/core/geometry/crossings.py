"""Where two segments cross: in closed form for lines and arcs, by halving for cubic Béziers."""

from __future__ import annotations

import math
from collections.abc import Iterator

from skalto.core.geometry.segments import Arc, Cubic, Line, Segment
from skalto.core.geometry.values import TAU, Box, Point

NEAR = 1e-9
"""Crossings of curves are found this well, mm."""
_SAME = 1e-12
_MOST = 64


def crossings(one: Segment, other: Segment) -> list[tuple[float, float]]:
    """Where two segments cross or touch, as shares of the course of each. What lies along one another has no single crossing:
    its ends are found where they lie on the other's inside, lines and arcs only.

    >>> crossings(Line((0, 0), (10, 0)), Line((2, -1), (2, 1)))
    [(0.2, 0.5)]
    """
    if isinstance(one, Line) and isinstance(other, Line):
        return _of_lines(one, other)
    if isinstance(one, Line) and isinstance(other, Arc):
        return list(_of_line_and_arc(one, other))
    if isinstance(one, Arc) and isinstance(other, Line):
        return [(t, s) for s, t in _of_line_and_arc(other, one)]
    if isinstance(one, Arc) and isinstance(other, Arc):
        return list(_of_arcs(one, other))
    return _by_halving(one, other)


def _of_lines(one: Line, other: Line) -> list[tuple[float, float]]:
    (px, py), (qx, qy) = one.start, other.start
    rx, ry = one.end[0] - px, one.end[1] - py
    sx, sy = other.end[0] - qx, other.end[1] - qy
    det = rx * sy - ry * sx
    if abs(det) <= _SAME * math.hypot(rx, ry) * math.hypot(sx, sy):
        return []
    dx, dy = qx - px, qy - py
    t, u = (dx * sy - dy * sx) / det, (dx * ry - dy * rx) / det
    return [(_clamped(t), _clamped(u))] if _within(t) and _within(u) else []


def _within(t: float) -> bool:
    return -1e-9 <= t <= 1 + 1e-9


def _clamped(t: float) -> float:
    return min(1.0, max(0.0, t))


def _share(arc: Arc, point: Point) -> float | None:
    """The share of an arc at which a point of its circle lies, None where it is on the rest of the circle."""
    (cx, cy), (x0, y0) = arc.centre, arc.start
    turn = math.atan2(point[1] - cy, point[0] - cx) - math.atan2(y0 - cy, x0 - cx)
    turn = turn * math.copysign(1, arc.sweep) % TAU
    size = abs(arc.sweep)
    slack = 1e-9 / max(arc.radius, 1e-9)
    if turn <= size + slack:
        return min(1.0, turn / size)
    return 0.0 if turn >= TAU - slack else None


def _of_line_and_arc(line: Line, arc: Arc) -> Iterator[tuple[float, float]]:
    (x0, y0), (cx, cy) = line.start, arc.centre
    dx, dy = line.end[0] - x0, line.end[1] - y0
    length = math.hypot(dx, dy)
    if length <= _SAME:
        return
    ux, uy = dx / length, dy / length
    along = (cx - x0) * ux + (cy - y0) * uy
    off = (cx - x0) * uy - (cy - y0) * ux
    rest = arc.radius**2 - off * off
    if rest < -2 * arc.radius * NEAR:
        return
    half = math.sqrt(max(rest, 0.0))
    for distance in (along - half, along + half) if half > NEAR else (along,):
        t = distance / length
        if _within(t):
            share = _share(arc, (x0 + ux * distance, y0 + uy * distance))
            if share is not None:
                yield _clamped(t), share


def _of_arcs(one: Arc, other: Arc) -> Iterator[tuple[float, float]]:
    (ax, ay), (bx, by), r, s = one.centre, other.centre, one.radius, other.radius
    apart = math.hypot(bx - ax, by - ay)
    if apart <= NEAR or apart > r + s + NEAR or apart < abs(r - s) - NEAR:
        return
    along = (apart * apart + r * r - s * s) / (2 * apart)
    half = math.sqrt(max(r * r - along * along, 0.0))
    ux, uy = (bx - ax) / apart, (by - ay) / apart
    for side in (half, -half) if half > NEAR else (0.0,):
        point = ax + ux * along - uy * side, ay + uy * along + ux * side
        t, u = _share(one, point), _share(other, point)
        if t is not None and u is not None:
            yield t, u


def _box(segment: Segment) -> Box:
    if isinstance(segment, Cubic):
        xs, ys = zip(*segment.hull, strict=True)
        return min(xs), min(ys), max(xs), max(ys)
    return segment.box


def _apart(a: Box, b: Box) -> bool:
    return a[0] > b[2] + NEAR or b[0] > a[2] + NEAR or a[1] > b[3] + NEAR or b[1] > a[3] + NEAR


def _halves(segment: Segment) -> tuple[Segment, Segment]:
    return segment.halves()


def _by_halving(one: Segment, other: Segment) -> list[tuple[float, float]]:
    """Halves of both as long as their boxes overlap, down to :data:`NEAR`; near places are one."""
    found: list[tuple[float, float]] = []
    waiting: list[tuple[Segment, float, float, Segment, float, float]] = [(one, 0.0, 1.0, other, 0.0, 1.0)]
    steps = 0
    while waiting and steps < 20000:
        steps += 1
        a, a0, a1, b, b0, b1 = waiting.pop()
        box_a, box_b = _box(a), _box(b)
        if _apart(box_a, box_b):
            continue
        size_a = max(box_a[2] - box_a[0], box_a[3] - box_a[1])
        size_b = max(box_b[2] - box_b[0], box_b[3] - box_b[1])
        if max(size_a, size_b) <= 1e-6:
            place = ((a0 + a1) / 2, (b0 + b1) / 2)
            if all(abs(place[0] - t) * one.length > 1e-5 or abs(place[1] - u) * other.length > 1e-5 for t, u in found):
                found.append(place)
                if len(found) > _MOST:
                    # they run along one another
                    return []
            continue
        if size_a >= size_b:
            first, second = _halves(a)
            middle = (a0 + a1) / 2
            waiting += [(first, a0, middle, b, b0, b1), (second, middle, a1, b, b0, b1)]
        else:
            first, second = _halves(b)
            middle = (b0 + b1) / 2
            waiting += [(a, a0, a1, first, b0, middle), (a, a0, a1, second, middle, b1)]
    return found
