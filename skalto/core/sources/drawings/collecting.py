"""Collecting what a reader finds, one thing after another, into artwork: grouped by tags, each with its place in the order."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from skalto.core import lettering, strokefont
from skalto.core.artwork import Areas, Artwork, Beziers, Ellipses, Item, Lines, Polylines, Raster, Tags, Text
from skalto.core.geometry import TAU, Array, Point
from skalto.core.locating import FARTHEST

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

    lines: dict[Tags, list[tuple[float, ...] | Array]] = field(default_factory=dict)
    ellipses: dict[Tags, list[tuple[float, ...] | Array]] = field(default_factory=dict)
    beziers: dict[Tags, list[tuple[int, Array]]] = field(default_factory=dict)
    polylines: dict[Tags, list[tuple[int, Array, Array | None, bool] | Polylines]] = field(default_factory=dict)
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
        self.waiting: Callable[[], None] | None = None
        """Puts down what has its places already, before something covers it."""

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

    def places(self, count: int) -> int:
        """Keep so many places in the drawing order for what is put down many at a time; the one before the first of them."""
        self._order()
        self.placed += count - 1
        return self.placed - count

    def _reached(self, *values: Array) -> NDArray[np.bool_]:
        """Which rows lie within reach; the others are counted."""
        reached = np.all([np.all(np.abs(own.reshape(len(own), -1)) < FARTHEST, axis=1) for own in values], axis=0)
        self.unreached += int((~reached).sum())
        return np.asarray(reached, bool)

    def lines(self, tags: Tags, places: NDArray[np.int64], ends: Array) -> None:
        """Straight segments (n, 4): x0, y0, x1, y1; at *places* in the drawing order that rise."""
        kept = self._reached(ends)
        if kept.any():
            rows: Array = np.column_stack((places.astype(float), ends))[kept]
            self._run.lines.setdefault(tags, []).append(rows)

    def arcs(self, tags: Tags, places: NDArray[np.int64], circles: Array) -> None:
        """Arcs (n, 5): x, y, radius, and from which to which angle they run counter-clockwise, degrees."""
        x, y, radius, begin, end = circles.T
        start, sweep, none = np.radians(begin), np.radians((end - begin) % 360.0), np.zeros(len(circles))
        sweep = np.where((sweep == 0) | (sweep >= TAU - 1e-12), TAU, sweep)
        kept = self._reached(np.column_stack((x, y, radius, start)))
        if kept.any():
            rows = np.column_stack((places, x, y, radius, none, none, radius, start, sweep))
            self._run.ellipses.setdefault(tags, []).append(rows[kept])

    def chains(self, tags: Tags, chains: Polylines, pairs: bool = True) -> None:
        """Polylines with their places in the drawing order; with *pairs* one of two points and no more is a line."""
        points, starts, order = chains.points, chains.first, chains.order
        assert order is not None
        sizes = np.diff(starts)
        far = (np.abs(points) >= FARTHEST).any(axis=1) | ~np.isfinite(points).all(axis=1)
        reached = np.add.reduceat(far, starts[:-1]) == 0 if len(sizes) else np.zeros(0, bool)
        reached |= sizes < 2
        self.unreached += int((~reached).sum())
        bulged = np.add.reduceat(chains.bulge != 0, starts[:-1]) > 0 if len(sizes) else np.zeros(0, bool)
        two = (sizes == 2) & ~chains.closed & ~bulged & reached & pairs
        if two.any():
            at = starts[:-1][two]
            rows: Array = np.column_stack((order[two], points[at], points[at + 1])).astype(float)
            self._run.lines.setdefault(tags, []).append(rows)
        kept = np.flatnonzero(reached & (sizes > 1) & ~two)
        if len(kept):
            self._run.polylines.setdefault(tags, []).append(_chosen(chains, kept))

    def stroked_texts(self, tags: Tags, places: NDArray[np.int64], texts: Sequence[str], frames: Array, name: str) -> None:
        """What :meth:`stroked_text` does for many: *frames* (n, 6) are start, along and up; each has its place and the next."""
        strokes = [strokefont.strokes(text, name) for text in texts]
        lines = [line for own in strokes for line in own if len(line) > 1]
        if lines:
            counts = [sum(len(line) > 1 for line in own) for own in strokes]
            sizes = np.array([len(line) for line in lines], np.int64)
            of = np.repeat(np.arange(len(texts)), counts)
            frame, points = frames[np.repeat(of, sizes)], np.concatenate(lines)
            points = frame[:, 0:2] + points[:, :1] * frame[:, 2:4] + points[:, 1:] * frame[:, 4:6]
            starts = np.r_[0, np.cumsum(sizes)].astype(np.int64)
            none = np.zeros(len(points))
            self.chains(tags, Polylines(tags, points, none, starts, np.zeros(len(sizes), bool), places[of]), pairs=False)
        for place, text, (x, y, ax, ay, ux, uy) in zip(places.tolist(), texts, frames.tolist(), strict=True):
            own, wanted = lettering.length(text, 1.0), strokefont.length(text, name)
            stretch = wanted / own if own else 1.0
            self.heights[round(abs(ax * uy - ay * ux) / (math.hypot(ax, ay) or 1.0), 9)] += 1
            self.text_at(place + 1, tags, text, (x, y), (ax * stretch, ay * stretch), (ux, uy), 0, ghost=True)

    def curves(self, tags: Tags, places: Sequence[int], curves: Sequence[Array]) -> None:
        """Chains of cubic Béziers (k, 4, 2)."""
        for place, points in zip(places, curves, strict=True):
            if len(points) and self._reaches(points):
                self._run.beziers.setdefault(tags, []).append((place, points))

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
        row = self._text_row(text, start, along, up)
        if row is not None:
            self._keep_text(self._order(), tags, text, row, face, ghost)

    def text_at(
        self, place: int, tags: Tags, text: str, start: Point, along: Point, up: Point, face: int = 0, ghost: bool = False
    ) -> None:  # fmt: skip
        """The same at a place in the drawing order that was kept for it."""
        row = self._text_row(text, start, along, up)
        if row is not None:
            self._keep_text(place, tags, text, row, face, ghost)

    def _keep_text(self, place: int, tags: Tags, text: str, row: tuple[float, ...], face: int, ghost: bool) -> None:
        if not ghost:
            self.heights[round(row[2], 9)] += 1
        self._run.texts.setdefault((tags, face, ghost), []).append((place, text, row))

    def _text_row(self, text: str, start: Point, along: Point, up: Point) -> tuple[float, ...] | None:
        """Start, height, angle, stretch and slant of a run of text; None for one that cannot be drawn."""
        size = math.hypot(*along)
        if not text.strip() or size == 0 or not self._reaches(*start, *along, *up):
            return None
        x, y = along[0] / size, along[1] / size
        height, lean = x * up[1] - y * up[0], x * up[0] + y * up[1]
        if height < 0:
            # mirrored: the letters run backward from the same start
            x, y, height, lean, size = -x, -y, -height, -lean, -size
        if height == 0:
            return None
        return (*start, height, math.atan2(y, x), size / height, math.atan(lean / height))

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
        if self.waiting is not None:
            waiting, self.waiting = self.waiting, None
            waiting()
        run, self._run = self._run, _Run()
        for tags, lines in run.lines.items():
            rows = _rows(lines)
            self._items.append(Lines(tags, rows[:, 1:].reshape(-1, 2, 2), rows[:, 0].astype(np.int64)))
        for tags, ellipses in run.ellipses.items():
            rows = _rows(ellipses)
            parts = (rows[:, 1:3], rows[:, 3:5], rows[:, 5:7], rows[:, 7], rows[:, 8])
            self._items.append(Ellipses(tags, *parts, rows[:, 0].astype(np.int64)))
        for tags, curves in run.beziers.items():
            curves.sort(key=_place)
            order = np.repeat([place for place, _ in curves], [len(points) for _, points in curves])
            self._items.append(Beziers(tags, np.concatenate([points for _, points in curves]), order))
        for tags, polylines in run.polylines.items():
            self._items.append(_joined(tags, polylines))
        for (tags, face, ghost), texts in run.texts.items():
            texts.sort(key=_place)
            self._items.append(_texts(tags, face, ghost, texts))

    def artwork(self) -> Artwork:
        """Everything so far."""
        self._end_areas()
        self._end_run()
        return Artwork(tuple(self._items))


def _place(row: tuple[Any, ...]) -> int:
    """What comes by itself and what waited for its turn are mixed."""
    return int(row[0])


def _rows(given: list[tuple[float, ...] | Array]) -> Array:
    """Rows that came one by one or many at a time, in one."""
    if not any(isinstance(own, np.ndarray) for own in given):
        return np.array(given, float)
    rows = np.concatenate([np.atleast_2d(np.asarray(own, float)) for own in given])
    return rows[np.argsort(rows[:, 0], kind="stable")]


def _chosen(chains: Polylines, which: NDArray[np.int64]) -> Polylines:
    """Some of several polylines, in the order in which they are named."""
    sizes = np.diff(chains.first)[which]
    starts = np.r_[0, np.cumsum(sizes)].astype(np.int64)
    rows = np.repeat(chains.first[which] - starts[:-1], sizes) + np.arange(starts[-1])
    order = None if chains.order is None else chains.order[which]
    return Polylines(chains.tags, chains.points[rows], chains.bulge[rows], starts, chains.closed[which], order)


def _joined(tags: Tags, runs: list[tuple[int, Array, Array | None, bool] | Polylines]) -> Polylines:
    single = [own for own in runs if not isinstance(own, Polylines)]
    many = [own for own in runs if isinstance(own, Polylines)]
    sizes = [len(points) for _, points, _, _ in single]
    bulges = [np.zeros(len(points)) if bulge is None else bulge for _, points, bulge, _ in single]
    sizes_ = np.concatenate([np.array(sizes, np.int64), *(np.diff(own.first) for own in many)])
    places = np.concatenate([np.array([place for place, *_ in single], np.int64), *(_order_of(own) for own in many)])
    made = Polylines(
        tags,
        np.concatenate([*(points for _, points, _, _ in single), *(own.points for own in many)]),
        np.concatenate([*bulges, *(own.bulge for own in many)]),
        np.r_[0, np.cumsum(sizes_)].astype(np.int64),
        np.concatenate([np.array([closed for *_, closed in single], bool), *(own.closed for own in many)]),
        places,
    )
    return _chosen(made, np.argsort(places, kind="stable")) if many else made


def _order_of(chains: Polylines) -> NDArray[np.int64]:
    assert chains.order is not None
    return chains.order


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
