"""Circular and elliptical arcs found again in cubic Béziers that were made of them."""

from __future__ import annotations

import math
from dataclasses import dataclass

from skalto.core.geometry import Point

Cubic = tuple[Point, Point, Point, Point]
_WIDEST = math.radians(46)
_NARROWEST = math.radians(0.25)
_LIKE, _SAME = 2e-4, 1e-6
"""How like, as shares, the two halves of an arc's Bézier are, and two arcs of one ellipse."""
_QUARTER = 3e-4
"""Quarters are commonly written with a rounded figure for their arms."""


@dataclass(frozen=True)
class Arc:
    """centre + u·cos t + v·sin t for t from *start* to start + *sweep*; *pieces* is how many Béziers it was."""

    centre: Point
    u: Point
    v: Point
    start: float
    sweep: float
    pieces: int = 1

    @property
    def size(self) -> float:
        return math.sqrt(self.u[0] ** 2 + self.u[1] ** 2 + self.v[0] ** 2 + self.v[1] ** 2)

    @property
    def circular(self) -> bool:
        """Whether it is of a circle."""
        (ux, uy), (vx, vy) = self.u, self.v
        bound = _SAME * self.size**2
        return abs(ux * ux + uy * uy - vx * vx - vy * vy) <= bound and abs(ux * vx + uy * vy) <= bound

    def shape(self) -> tuple[float, float, float]:
        """What all arcs of one ellipse have in common, whichever half diameters tell it."""
        (ux, uy), (vx, vy) = self.u, self.v
        return ux * ux + vx * vx, ux * uy + vx * vy, uy * uy + vy * vy

    def at(self, t: float) -> Point:
        cos, sin = math.cos(t), math.sin(t)
        (cx, cy), (ux, uy), (vx, vy) = self.centre, self.u, self.v
        return cx + ux * cos + vx * sin, cy + uy * cos + vy * sin

    def cubics(self) -> list[Cubic]:
        """As Béziers of at most 30 degrees each: within 4·10⁻⁷ of its radius."""
        count = max(1, math.ceil(abs(self.sweep) / math.radians(30) - 1e-9))
        step = self.sweep / count
        arm = 4 / 3 * math.tan(step / 4)
        (ux, uy), (vx, vy) = self.u, self.v
        found = []
        for number in range(count):
            a, b = self.start + number * step, self.start + (number + 1) * step
            (x0, y0), (x3, y3) = self.at(a), self.at(b)
            p1 = x0 + arm * (vx * math.cos(a) - ux * math.sin(a)), y0 + arm * (vy * math.cos(a) - uy * math.sin(a))
            p2 = x3 - arm * (vx * math.cos(b) - ux * math.sin(b)), y3 - arm * (vy * math.cos(b) - uy * math.sin(b))
            found.append(((x0, y0), p1, p2, (x3, y3)))
        return found


def arc_of(curve: Cubic) -> Arc | None:
    """The arc of at most a quarter of an ellipse that a Bézier was made of: its arms are 4/3·tan(φ/4) of the half diameters, as
    every program makes them; None for any other curve."""
    (x0, y0), (x1, y1), (x2, y2), (x3, y3) = curve
    ax, ay, bx, by, cx, cy = x1 - x0, y1 - y0, x2 - x3, y2 - y3, x3 - x0, y3 - y0
    chord = math.hypot(cx, cy)
    area = ax * by - ay * bx
    if chord == 0 or abs(area) <= 1e-12 * chord * chord:
        return None
    # where the tangents meet, in arms from either end
    s, t = (cx * by - cy * bx) / area, (cx * ay - cy * ax) / area
    if s <= 0 or t <= 0 or abs(s - t) > _LIKE * s:
        return None
    share = 2 / (s + t)
    half = 1 - 1.5 * share
    if not 0 < half < 1:
        return None
    phi = 2 * math.atan(math.sqrt(half))
    if not _NARROWEST < phi < _WIDEST:
        return None
    if abs(phi - math.pi / 4) < _QUARTER:
        phi, share = math.pi / 4, 4 / 3 * (math.sqrt(2) - 1)
    tx, ty = x0 + ax / share, y0 + ay / share
    mx, my = (x0 + x3) / 2, (y0 + y3) / 2
    cos, sin = math.cos(phi), math.sin(phi)
    u = (tx - mx) * cos / sin**2, (ty - my) * cos / sin**2
    v = cx / (2 * sin), cy / (2 * sin)
    return Arc((mx - u[0] * cos, my - u[1] * cos), u, v, -phi, 2 * phi)


def joined(curves: list[Cubic]) -> list[Arc | Cubic]:
    """A chain of Béziers with its arcs found: circular ones by themselves, elliptical ones where two or more follow one
    another on one ellipse."""
    found: list[Arc | Cubic] = []
    waiting: list[tuple[Arc, Cubic]] = []

    def end() -> None:
        if not waiting:
            return
        first = waiting[0][0]
        sweep = sum(arc.sweep for arc, _ in waiting)
        whole = abs(sweep - math.tau) < 1e-6
        if len(waiting) > 1 or first.circular:
            found.append(_rounded(Arc(first.centre, first.u, first.v, first.start, math.tau if whole else sweep, len(waiting))))
        else:
            found.append(waiting[0][1])
        waiting.clear()

    for curve in curves:
        arc = arc_of(curve)
        if arc is None:
            end()
            found.append(curve)
            continue
        if waiting and not _same(waiting[0][0], arc):
            end()
        waiting.append((arc, curve))
    end()
    return found


def _same(a: Arc, b: Arc) -> bool:
    if math.dist(a.centre, b.centre) > _SAME * a.size:
        return False
    if (a.u[0] * a.v[1] - a.u[1] * a.v[0]) * (b.u[0] * b.v[1] - b.u[1] * b.v[0]) < 0:
        return False
    return max(abs(p - q) for p, q in zip(a.shape(), b.shape(), strict=True)) <= _SAME * a.size**2


def _rounded(arc: Arc) -> Arc:
    """One whose half diameters are equal where it is circular: what the figures of the file leave over goes."""
    if not arc.circular:
        return arc
    (ux, uy), (vx, vy) = arc.u, arc.v
    turn = 1.0 if ux * vy - uy * vx > 0 else -1.0
    return Arc(arc.centre, arc.u, (-uy * turn, ux * turn), arc.start, arc.sweep, arc.pieces)
