"""Loose strokes on the way from the kernel to artwork: one class and component each, still to be made single."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from skalto.core.artwork import Artwork, Beziers, EdgeClass, Ellipses, Item, Lines, Tags
from skalto.core.geometry import TAU, Array
from skalto.core.geometry.curves import CurveFunction, circle_through, fit_many

ORDER = (EdgeClass.VISIBLE, EdgeClass.OUTLINE, EdgeClass.WIRE, EdgeClass.SMOOTH, EdgeClass.HIDDEN)
"""Where two strokes coincide, the class that comes first here is drawn (ISO 128-2, priority of coinciding lines)."""

UNDER_SMOOTH = len(ORDER)
"""The rank of a hidden edge that a tangent edge lies exactly on, in front of it: it is drawn where tangent edges are not."""

ROUND = 1e-6
"""A curve all of whose sampled points lie this near to a line or circle, mm, is that: a nanometre."""

Pair = tuple[float, float]
Tag = tuple[int, int]
"""Rank of the edge class in :data:`ORDER`, number of the component."""


@dataclass
class Strokes:
    """Lists that grow, and become arrays once."""

    line_tags: list[Tag] = field(default_factory=list)
    lines: list[tuple[float, float, float, float]] = field(default_factory=list)
    ellipse_tags: list[Tag] = field(default_factory=list)
    ellipses: list[tuple[float, ...]] = field(default_factory=list)  # cx cy ax ay bx by start sweep
    bezier_tags: list[Tag] = field(default_factory=list)
    beziers: list[Array] = field(default_factory=list)  # (k, 4, 2) a run
    pending: list[tuple[Tag, CurveFunction, Array]] = field(default_factory=list)  # curves still to be fitted

    def line(self, tag: Tag, p: Iterable[float], q: Iterable[float]) -> None:
        self.lines.append((*p, *q))  # type: ignore[arg-type]
        self.line_tags.append(tag)

    def conic(self, tag: Tag, c: Pair, a: Pair, b: Pair, first: float, last: float) -> None:
        """The projected conic c + a·cos t + b·sin t, t in [first, last], a and b of any direction."""
        (cx, cy), (ax, ay), (bx, by) = c, a, b
        aa, bb, ab = ax * ax + ay * ay, bx * bx + by * by, ax * bx + ay * by
        least = 1e-9 * max(aa, bb)
        # the axes of the ellipse that has a and b as half diameters
        shift = 0.0 if abs(ab) <= least and abs(aa - bb) <= least else 0.5 * math.atan2(2 * ab, aa - bb)
        cos, sin = math.cos(shift), math.sin(shift)
        mx, my, nx, ny = ax * cos + bx * sin, ay * cos + by * sin, bx * cos - ax * sin, by * cos - ay * sin
        start, end = first - shift, last - shift
        major, minor = math.hypot(mx, my), math.hypot(nx, ny)
        if minor <= 1e-7 * major or minor < 1e-9:
            self._edge_on(tag, (cx, cy), (mx, my), start, end)
            return
        if mx * ny - my * nx < 0:
            nx, ny, start, end = -nx, -ny, -end, -start
        if abs(major - minor) <= max(1e-7 * major, 1e-6):
            turn = math.atan2(my, mx)
            r = (major + minor) / 2
            mx, my, nx, ny, start, end = r, 0.0, 0.0, r, start + turn, end + turn
        elif mx < -1e-9 * major or (abs(mx) <= 1e-9 * major and my < 0):
            mx, my, nx, ny, start, end = -mx, -my, -nx, -ny, start + math.pi, end + math.pi
        sweep = end - start
        if sweep >= TAU - 1e-9:
            start, sweep = 0.0, TAU
        self.ellipses.append((cx, cy, mx, my, nx, ny, start % TAU, sweep))
        self.ellipse_tags.append(tag)

    def arc_through(self, tag: Tag, centre: Array, radius: float, points: Array) -> None:
        """The arc of a circle that runs through *points* (k, 2), in order."""
        angles = np.unwrap(np.arctan2(points[:, 1] - centre[1], points[:, 0] - centre[0]))
        low, high = sorted((float(angles[0]), float(angles[-1])))
        self.conic(tag, (float(centre[0]), float(centre[1])), (radius, 0.0), (0.0, radius), low, high)

    def plain_through(self, tag: Tag, points: Array) -> bool:
        """The line or circle that runs through *points* (k, 2) of a smooth curve, in order; False, and nothing drawn, where it
        is neither."""
        chord = points[-1] - points[0]
        length = float(np.hypot(*chord))
        if length > ROUND:
            away = np.abs((points - points[0]) @ np.array((-chord[1], chord[0])) / length)
            if away.max() <= ROUND:
                self.line(tag, points[0].tolist(), points[-1].tolist())
                return True
        circle = circle_through(points, ROUND)
        if circle is None:
            return False
        self.arc_through(tag, *circle, points)
        return True

    def _edge_on(self, tag: Tag, c: Pair, m: Pair, start: float, end: float) -> None:
        """A conic seen from its own plane: the straight run between the extremes of its cosine."""
        values = [math.cos(start), math.cos(end)]
        if math.floor(end / TAU) > math.floor(start / TAU) or abs(start % TAU) < 1e-12:
            values.append(1.0)
        if math.floor((end - math.pi) / TAU) > math.floor((start - math.pi) / TAU):
            values.append(-1.0)
        low, high = min(values), max(values)
        self.line(tag, (c[0] + m[0] * low, c[1] + m[1] * low), (c[0] + m[0] * high, c[1] + m[1] * high))

    def curve(self, tag: Tag, points: Array) -> None:
        """A run of cubic Béziers, shape (k, 4, 2)."""
        if len(points):
            self.beziers.append(points)
            self.bezier_tags.append(tag)

    def fit_later(self, tag: Tag, curve: CurveFunction, breaks: Array) -> None:
        """A curve to be fitted with all others by :meth:`fit`."""
        self.pending.append((tag, curve, breaks))

    def fit(self, tolerance: float) -> None:
        """Fit what was left for later, within *tolerance* mm."""
        runs = fit_many([(curve, breaks) for _, curve, breaks in self.pending], tolerance)
        for (tag, _, _), run in zip(self.pending, runs, strict=True):
            self.curve(tag, run)
        self.pending.clear()


Tagged = tuple[NDArray[np.int64], Array]
"""Tags (n, 2) and the rows that they belong to, (n, …)."""


def to_artwork(lines: Tagged, ellipses: Tagged, beziers: Tagged, components: list[str]) -> Artwork:
    """Arrays with their tags (n, 2) as artwork: an item for each kind, class and component, in :data:`ORDER` reversed.

    Hidden edges come first, so that what is seen lies over them.
    """
    items: list[Item] = []
    for rank in reversed(range(UNDER_SMOOTH + 1)):
        own, under = (EdgeClass.HIDDEN, EdgeClass.SMOOTH) if rank == UNDER_SMOOTH else (ORDER[rank], None)
        for tags, data in (lines, ellipses, beziers):
            chosen = np.flatnonzero(tags[:, 0] == rank) if len(tags) else np.empty(0, int)
            for number in np.unique(tags[chosen, 1]) if len(chosen) else ():
                rows = data[chosen[tags[chosen, 1] == number]]
                mark = Tags(own, components[int(number)], under=under)
                if data is lines[1]:
                    items.append(Lines(mark, rows.reshape(-1, 2, 2)))
                elif data is ellipses[1]:
                    items.append(Ellipses(mark, rows[:, 0:2], rows[:, 2:4], rows[:, 4:6], rows[:, 6], rows[:, 7]))
                else:
                    items.append(Beziers(mark, rows.reshape(-1, 4, 2)))
    return Artwork(tuple(items))
