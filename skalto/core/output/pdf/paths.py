"""Strokes and areas as path operators of a PDF (ISO 32000-1, 8.5): a list of bytes, one for each subpath or area."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction

import numpy as np
import orjson
from numpy.typing import NDArray

from skalto.core.artwork import Areas, Beziers, Contours, Ellipses, Fills, Lines, Polylines, Stroked
from skalto.core.artwork.strokes import bulge_arcs
from skalto.core.geometry import Array
from skalto.core.geometry.curves import arc_beziers, arc_pieces

DECIMALS = 4
"""Decimals of a coordinate in points: half a unit of the last is 0.018 µm."""

FINE_DECIMALS = 5
"""The same where the drawing is reduced, so that a length of the model is exact too."""

MANY = 20_000
"""From so many strokes in one view on, coordinates go in steps of :data:`STEPS` a unit, for a smaller file."""

STEPS = 2000
"""Steps a point: half of one is 0.088 µm."""

ARC_TOLERANCE = 4.8e-4
"""Largest radial error of an arc's Béziers on paper, mm. A length between two arcs is to hold 1 µm, so each has half of
it, less what rounding may add."""

MANY_CIRCLES = 500
"""From so many arcs of one kind on, whole circles are written from their centres."""

_JOINED = 1e-9
_ROUND = 1e-12

Chunks = list[bytes]


def real(value: float | Fraction, places: int = 6) -> Decimal:
    """A number for a dictionary, without zeros at its end."""
    return Decimal(f"{float(value):.{places}f}").normalize() + Decimal(0)


def number(value: float, decimals: int = DECIMALS) -> bytes:
    """One number, shortest decimals."""
    text = f"{value:.{decimals}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return b"0" if text in ("-0", "") else text.encode()


@dataclass(frozen=True)
class Paths:
    """How artwork, mm, becomes path operators: *factor* units a mm, and how many *decimals* a number has, or in what *steps* a
    unit it goes."""

    factor: float
    decimals: int = DECIMALS
    steps: int | None = None

    def _rows(self, values: Array) -> Chunks:
        """Rows of numbers (n, k), mm, each as bytes between spaces."""
        if not len(values):
            return []
        # + 0.0 turns a negative zero into zero
        scaled = np.ascontiguousarray(values) * self.factor
        rounded = (np.round(scaled, self.decimals) if self.steps is None else np.round(scaled * self.steps) / self.steps) + 0.0
        text = orjson.dumps(rounded, option=orjson.OPT_SERIALIZE_NUMPY).replace(b".0,", b",").replace(b".0]", b"]")
        return text[2:-2].replace(b",", b" ").split(b"] [")

    def lines(self, item: Lines) -> Chunks:
        """``x y m x y l S`` for each segment."""
        starts, ends = self._rows(item.points[:, 0]), self._rows(item.points[:, 1])
        return [a + b" m " + b + b" l S" for a, b in zip(starts, ends, strict=True)]

    def _curves(self, points: Array, closed: NDArray[np.bool_], first: NDArray[np.bool_]) -> Chunks:
        """Cubic Béziers (n, 4, 2): *first* (n,) marks where a subpath begins, *closed* (n,) the last piece of a closed one."""
        starts = self._rows(points[:, 0])
        arms = self._rows(points[:, 1:].reshape(-1, 6))
        last = np.append(first[1:], True)
        out: Chunks = []
        rows: Chunks = []
        for start, arm, begins, ends, whole in zip(starts, arms, first.tolist(), last.tolist(), closed.tolist(), strict=True):
            if begins:
                rows = [start + b" m"]
            rows.append(arm + b" c")
            if ends:
                rows.append(b"h S" if whole else b"S")
                out.append(b"\n".join(rows))
        return out

    def ellipses(self, item: Ellipses) -> Chunks:
        """Each arc as Béziers within :data:`ARC_TOLERANCE`; a whole one is closed."""
        pieces = arc_pieces(item.radii().max(axis=1), item.sweep, ARC_TOLERANCE)
        whole = item.is_whole()
        out: Chunks = [b""] * len(item)
        # of many circles each counts from its own centre: a circle has few figures of its own, and they repeat
        many = len(item) >= MANY_CIRCLES
        centre = np.where((whole & many)[:, None], 0.0, item.centre)
        places = self._rows(item.centre) if many else []
        for count in np.unique(pieces):
            rows = np.flatnonzero(pieces == count)
            curves = arc_beziers(
                centre[rows], item.major[rows], item.minor[rows], item.start[rows], item.sweep[rows], int(count)
            )
            first = np.tile(np.arange(count) == 0, len(rows))
            chunks = self._curves(curves.reshape(-1, 4, 2), np.repeat(whole[rows], count), first)
            for row, chunk in zip(rows.tolist(), chunks, strict=True):
                out[row] = b"q 1 0 0 1 " + places[row] + b" cm " + chunk + b" Q" if many and whole[row] else chunk
        return out

    def beziers(self, item: Beziers) -> tuple[Chunks, NDArray[np.bool_]]:
        """Curves that meet are one subpath; which rows begin one."""
        points = item.points
        joined = np.abs(points[1:, 0] - points[:-1, 3]).max(axis=1) <= _JOINED
        if item.order is not None:
            joined &= item.order[1:] == item.order[:-1]
        first = np.concatenate(([True], ~joined))
        return self._curves(points, np.zeros(len(points), bool), first), first

    def polylines(self, item: Polylines) -> tuple[Chunks, NDArray[np.bool_]]:
        """Each run as one subpath, its arcs as Béziers. Which runs begin a path: runs that have one place in the drawing order,
        the letters of a text above all, are one, in coordinates from its first point on, which repeat from text to text.
        """
        begins = np.ones(len(item), bool)
        if item.order is not None:
            begins[1:] = item.order[1:] != item.order[:-1]
        firsts = np.flatnonzero(begins)
        counts = np.diff((*firsts.tolist(), len(item)))
        arcs = self._arc_segments(item)
        several = (counts > 1) & (not arcs)
        # from where on each path's coordinates count
        origin = np.where(several[:, None], item.points[item.first[:-1]][firsts], 0.0)
        places = self._rows(origin)
        origin = np.repeat(origin, counts, axis=0)
        rows = self._rows(item.points - np.repeat(origin, np.diff(item.first), axis=0))
        runs = [self._run(item, number_, rows, arcs) for number_ in range(len(item))]
        paths: Chunks = []
        ends = (*firsts[1:].tolist(), len(item))
        for own, begin, end, place in zip(several.tolist(), firsts.tolist(), ends, places, strict=True):
            path = b" ".join((*runs[begin:end], b"S"))
            paths.append(b"q 1 0 0 1 " + place + b" cm " + path + b" Q" if own else path)
        return paths, begins

    @staticmethod
    def _run(item: Polylines, number_: int, rows: Chunks, arcs: dict[int, bytes]) -> bytes:
        begin, end = int(item.first[number_]), int(item.first[number_ + 1])
        closed = bool(item.closed[number_])
        if not arcs:
            return rows[begin] + b" m " + b" ".join(row + b" l" for row in rows[begin + 1 : end]) + (b" h" if closed else b"")
        parts = [rows[begin] + b" m"]
        parts += [arcs[at] if at in arcs else rows[at + 1] + b" l" for at in range(begin, end - 1)]
        if closed:
            parts += [arcs[end - 1]] if end - 1 in arcs else []
            parts.append(b"h")
        return b" ".join(parts)

    def _arc_segments(self, item: Polylines) -> dict[int, bytes]:
        """The curve operators of the segments that are arcs, by the number of the point that each begins at."""
        bulged = np.abs(item.bulge) > _ROUND
        if not bulged.any():
            return {}
        following = np.arange(len(item.points)) + 1
        following[item.first[1:] - 1] = item.first[:-1]
        at = np.flatnonzero(bulged)
        bulge = item.bulge[at]
        centre, major, minor, start, sweep = bulge_arcs(item.points[at], item.points[following[at]], bulge)
        pieces = arc_pieces(np.linalg.norm(major, axis=1), sweep, ARC_TOLERANCE)
        found: dict[int, bytes] = {}
        for count in np.unique(pieces):
            rows = np.flatnonzero(pieces == count)
            curves = arc_beziers(centre[rows], major[rows], minor[rows], start[rows], sweep[rows], int(count))
            back = bulge[rows] < 0
            curves[back] = curves[back][:, ::-1, ::-1]
            arms = self._rows(curves[:, :, 1:].reshape(-1, 6))
            for n, row in enumerate(rows.tolist()):
                found[int(at[row])] = b" ".join(arm + b" c" for arm in arms[n * count : (n + 1) * count])
        return found

    def strokes(self, item: Stroked) -> tuple[Chunks, NDArray[np.bool_] | None]:
        """The subpaths of an item, and, where these are fewer than its rows, which rows begin one."""
        if isinstance(item, Lines):
            return self.lines(item), None
        if isinstance(item, Ellipses):
            return self.ellipses(item), None
        if isinstance(item, Polylines):
            return self.polylines(item)
        return self.beziers(item)

    def fills(self, item: Fills) -> Chunks:
        """Filled polygons (8.5.3.3)."""
        corners = item.points.shape[1]
        rows = self._rows(item.points.reshape(-1, 2))
        return [
            rows[at] + b" m " + b" ".join(row + b" l" for row in rows[at + 1 : at + corners]) + b" h f"
            for at in range(0, len(rows), corners)
        ]

    def areas(self, item: Areas) -> Chunks:
        """Filled areas by their rule, one path an area."""
        paint = b"f" if item.winding else b"f*"
        starts, arms = self._rows(item.curves[:, 0]), self._rows(item.curves[:, 1:].reshape(-1, 6))
        ends = self._rows(item.curves[:, 3])
        out: Chunks = []
        parts: Chunks = []
        contour = area = -1
        owners = item.area[item.contour].tolist()
        for n, (own, straight) in enumerate(zip(item.contour.tolist(), item.straight.tolist(), strict=True)):
            if own != contour:
                if parts:
                    parts.append(b"h")
                if owners[n] != area and parts:
                    out.append(b" ".join((*parts, paint)))
                    parts = []
                contour, area = own, owners[n]
                parts.append(starts[n] + b" m")
            parts.append(ends[n] + b" l" if straight else arms[n] + b" c")
        if parts:
            out.append(b" ".join((*parts, b"h", paint)))
        return out

    def contours(self, item: Contours) -> Chunks:
        """Each contour as one path, ``h`` where it closes."""
        starts, arms = self._rows(item.curves[:, 0]), self._rows(item.curves[:, 1:].reshape(-1, 6))
        ends, straight = self._rows(item.curves[:, 3]), item.straight.tolist()
        out: Chunks = []
        for begin, end, closed in zip(item.first[:-1].tolist(), item.first[1:].tolist(), item.closed.tolist(), strict=True):
            # the closing operator draws the last side by itself where that is straight
            last = end - 1 if closed and straight[end - 1] and end - begin > 1 else end
            parts = [starts[begin] + b" m"]
            parts += [ends[n] + b" l" if straight[n] else arms[n] + b" c" for n in range(begin, last)]
            out.append(b" ".join((*parts, b"h S" if closed else b"S")))
        return out
