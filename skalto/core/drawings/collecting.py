"""Collecting what a reader finds, one thing after another, into artwork: grouped by tags, each with its place in the order."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from skalto.core import lettering, strokefont
from skalto.core.artwork import TAU, Areas, Array, Artwork, Beziers, Ellipses, Item, Lines, Polylines, Raster, Tags, Text
from skalto.core.locating import FARTHEST

Point = tuple[float, float]
OUT_OF_REACH = "strokes or texts at a place out of all reach: left out"
"""What is said of them, after their count."""
_FLAT = 1e-9
"""An ellipse thinner than this share of its length is a line seen edge-on."""


@dataclass
class Contour:
    """A closed contour of an area: cubic Béziers of eight numbers each, and which are straight."""

    curves: list[tuple[float, ...]] = field(default_factory=list)
    straight: list[bool] = field(default_factory=list)

    def line(self, a: Point, b: Point) -> None:
        (x0, y0), (x1, y1) = a, b
        dx, dy = (x1 - x0) / 3, (y1 - y0) / 3
        self.curves.append((x0, y0, x0 + dx, y0 + dy, x1 - dx, y1 - dy, x1, y1))
        self.straight.append(True)

    def curve(self, a: Point, b: Point, c: Point, d: Point) -> None:
        self.curves.append((*a, *b, *c, *d))
        self.straight.append(False)

    @classmethod
    def polygon(cls, corners: Sequence[Point]) -> Contour:
        """Straight from corner to corner, and back to the first."""
        made = cls()
        for a, b in zip(corners, [*corners[1:], corners[0]], strict=True):
            if a != b:
                made.line(a, b)
        return made


@dataclass
class _Run:
    """What came between two things that cover: strokes and texts by tags."""

    lines: dict[Tags, list[tuple[int, float, float, float, float]]] = field(default_factory=dict)
    ellipses: dict[Tags, list[tuple[float, ...]]] = field(default_factory=dict)
    beziers: dict[Tags, list[tuple[int, Array]]] = field(default_factory=dict)
    polylines: dict[Tags, list[tuple[int, Array, Array | None, bool]]] = field(default_factory=dict)
    texts: dict[tuple[Tags, int, bool], list[tuple[int, str, tuple[float, ...]]]] = field(default_factory=dict)


class Collector:
    """Takes strokes, areas, texts and pictures in drawing order; :meth:`artwork` gives all of it."""

    def __init__(self, placed: int = 0) -> None:
        """*placed* is the place in the drawing order after which this one goes on."""
        self._items: list[Item] = []
        self._run = _Run()
        self._areas: tuple[Tags, bool, list[Sequence[Contour]]] | None = None
        self.placed = placed
        self.heights: Counter[float] = Counter()
        self.unreached = 0
        """How much was left out since it lies at no place that can be reached."""

    def _reaches(self, *values: Any) -> bool:
        """Whether numbers and arrays of places are such, and within reach."""
        reached = all(bool(np.all(np.abs(v) < FARTHEST)) if isinstance(v, np.ndarray) else abs(v) < FARTHEST for v in values)
        self.unreached += not reached
        return reached

    def _order(self) -> int:
        if self._areas is not None:
            self._end_areas()
        self.placed += 1
        return self.placed

    def line(self, tags: Tags, x0: float, y0: float, x1: float, y1: float) -> None:
        """A straight segment."""
        if not self._reaches(x0, y0, x1, y1):
            return
        self._run.lines.setdefault(tags, []).append((self._order(), x0, y0, x1, y1))

    def ellipse(self, tags: Tags, centre: Point, a: Point, b: Point, start: float, sweep: float) -> None:
        """c + a·cos t + b·sin t for t from start to start + sweep; a and b are any two conjugate half diameters."""
        (ax, ay), (bx, by) = a, b
        if not self._reaches(*centre, ax, ay, bx, by, start, sweep):
            return
        if sweep < 0:
            bx, by, start, sweep = -bx, -by, -start, -sweep
        if abs(ax * by - ay * bx) <= _FLAT * (ax * ax + ay * ay + bx * bx + by * by):
            self._edge_on(tags, centre, a, (bx, by), start, sweep)
            return
        if abs(ax * bx + ay * by) > 1e-12 * math.hypot(ax, ay) * math.hypot(bx, by):
            turn = 0.5 * math.atan2(2 * (ax * bx + ay * by), ax * ax + ay * ay - bx * bx - by * by)
            cos, sin = math.cos(turn), math.sin(turn)
            ax, ay, bx, by = ax * cos + bx * sin, ay * cos + by * sin, bx * cos - ax * sin, by * cos - ay * sin
            start -= turn
        if ax * by - ay * bx < 0:
            # run the other way round, so that every arc is counter-clockwise
            bx, by, start = -bx, -by, -(start + sweep)
        sweep = TAU if sweep >= TAU - 1e-12 else sweep
        self._run.ellipses.setdefault(tags, []).append((self._order(), *centre, ax, ay, bx, by, start, sweep))

    def _edge_on(self, tags: Tags, centre: Point, a: Point, b: Point, start: float, sweep: float) -> None:
        t = np.linspace(start, start + sweep, 721)
        points = np.array(centre) + np.outer(np.cos(t), a) + np.outer(np.sin(t), b)
        along = points @ (np.array(a) + np.array(b))
        p, q = points[int(along.argmin())], points[int(along.argmax())]
        self.line(tags, float(p[0]), float(p[1]), float(q[0]), float(q[1]))

    def beziers(self, tags: Tags, points: Array) -> None:
        """Cubic Béziers (k, 4, 2), one chain."""
        if len(points) and self._reaches(points):
            self._run.beziers.setdefault(tags, []).append((self._order(), points))

    def polyline(self, tags: Tags, points: Array, bulge: Array | None = None, closed: bool = False) -> None:
        """Segments through points (k, 2); *bulge* (k,) as :class:`Polylines` has it."""
        if len(points) == 2 and not closed and bulge is None:
            self.line(tags, *points.ravel().tolist())
        elif len(points) > 1 and self._reaches(points):
            self._run.polylines.setdefault(tags, []).append((self._order(), points, bulge, closed))

    def polylines(self, tags: Tags, runs: list[Array]) -> None:
        """Several runs (k, 2) that are drawn as one: they have one place in the drawing order."""
        place = self._order()
        kept = [points for points in runs if len(points) > 1 and self._reaches(points)]
        self._run.polylines.setdefault(tags, []).extend((place, points, None, False) for points in kept)

    def text(self, tags: Tags, text: str, start: Point, along: Point, up: Point, face: int = 0, ghost: bool = False) -> None:
        """A run of text: *along* and *up* are what a capital's height becomes in the two directions of its letters."""
        size = math.hypot(*along)
        if not text.strip() or size == 0 or not self._reaches(*start, *along, *up):
            return
        x, y = along[0] / size, along[1] / size
        height, lean = x * up[1] - y * up[0], x * up[0] + y * up[1]
        if height < 0:
            # mirrored: the letters run backward from the same start
            x, y, height, lean, size = -x, -y, -height, -lean, -size
        if height == 0:
            return
        if not ghost:
            self.heights[round(height, 9)] += 1
        row = (*start, height, math.atan2(y, x), size / height, math.atan(lean / height))
        self._run.texts.setdefault((tags, face, ghost), []).append((self._order(), text, row))

    def stroked_text(self, tags: Tags, text: str, start: Point, along: Point, up: Point, name: str) -> None:
        """A run of text as single strokes, and under it the same text, unseen, for whoever searches the file."""
        matrix = np.array((along, up), float)
        self.polylines(tags, [line @ matrix + np.array(start) for line in strokefont.strokes(text, name)])
        own, wanted = lettering.length(text, 1.0), strokefont.length(text, name)
        stretch = wanted / own if own else 1.0
        self.heights[round(abs(float(np.linalg.det(matrix))) / (math.hypot(*along) or 1.0), 9)] += 1
        self.text(tags, text, start, (along[0] * stretch, along[1] * stretch), up, 0, ghost=True)

    def area(self, tags: Tags, contours: Iterable[Contour], winding: bool = False) -> None:
        """A filled area, by the even-odd rule or the nonzero one (*winding*); it covers what came before."""
        kept = [contour for contour in contours if contour.curves and self._reaches(np.array(contour.curves, float))]
        if not kept:
            return
        if self._areas is None or self._areas[:2] != (tags, winding):
            self._end_areas()
            self._end_run()
            self._areas = (tags, winding, [])
        self._areas[2].append(kept)

    def raster(self, tags: Tags, pixels: NDArray[np.uint8], corner: Array, across: Array, upward: Array) -> None:
        """A picture; it covers what came before."""
        if not self._reaches(corner, across, upward):
            return
        self._end_areas()
        self._end_run()
        self._items.append(Raster(tags, pixels, corner, across, upward))

    def _end_areas(self) -> None:
        if self._areas is None:
            return
        tags, winding, areas = self._areas
        self._areas = None
        contours = [(number, contour) for number, area in enumerate(areas) for contour in area]
        self._items.append(
            Areas(
                tags,
                np.array([row for _, contour in contours for row in contour.curves], float).reshape(-1, 4, 2),
                np.array([flag for _, contour in contours for flag in contour.straight], bool),
                np.repeat(np.arange(len(contours)), [len(contour.curves) for _, contour in contours]),
                np.array([number for number, _ in contours], np.int64),
                winding,
            )
        )

    def take(self, artwork: Artwork) -> None:
        """What was collected apart, as it is; it covers what came before."""
        self._end_areas()
        self._end_run()
        self._items.extend(artwork.items)

    def _end_run(self) -> None:
        run, self._run = self._run, _Run()
        for tags, lines in run.lines.items():
            rows = np.array(lines, float)
            self._items.append(Lines(tags, rows[:, 1:].reshape(-1, 2, 2), rows[:, 0].astype(np.int64)))
        for tags, ellipses in run.ellipses.items():
            rows = np.array(ellipses, float)
            parts = (rows[:, 1:3], rows[:, 3:5], rows[:, 5:7], rows[:, 7], rows[:, 8])
            self._items.append(Ellipses(tags, *parts, rows[:, 0].astype(np.int64)))
        for tags, curves in run.beziers.items():
            order = np.repeat([place for place, _ in curves], [len(points) for _, points in curves])
            self._items.append(Beziers(tags, np.concatenate([points for _, points in curves]), order))
        for tags, polylines in run.polylines.items():
            self._items.append(_joined(tags, polylines))
        for (tags, face, ghost), texts in run.texts.items():
            self._items.append(_texts(tags, face, ghost, texts))

    def artwork(self) -> Artwork:
        """Everything so far."""
        self._end_areas()
        self._end_run()
        return Artwork(tuple(self._items))


def _joined(tags: Tags, runs: list[tuple[int, Array, Array | None, bool]]) -> Polylines:
    sizes = [len(points) for _, points, _, _ in runs]
    bulges = [np.zeros(len(points)) if bulge is None else bulge for _, points, bulge, _ in runs]
    return Polylines(
        tags,
        np.concatenate([points for _, points, _, _ in runs]),
        np.concatenate(bulges),
        np.concatenate(([0], np.cumsum(sizes))).astype(np.int64),
        np.array([closed for _, _, _, closed in runs], bool),
        np.array([place for place, _, _, _ in runs], np.int64),
    )


def _texts(tags: Tags, face: int, ghost: bool, texts: list[tuple[int, str, tuple[float, ...]]]) -> Text:
    rows = np.array([row for _, _, row in texts], float)
    lengths = [lettering.length(text, row[2], face) * abs(row[4]) for _, text, row in texts]
    return Text(
        tags,
        tuple(text for _, text, _ in texts),
        rows[:, 0:2],
        rows[:, 2],
        rows[:, 3],
        np.array(lengths),
        rows[:, 4],
        rows[:, 5],
        face,
        ghost,
        np.array([place for place, _, _ in texts], np.int64),
    )
