"""Plain strokes of an ASCII DXF file — lines, circles, arcs, polylines, splines — read straight off the text, many at a time.

What is plain is taken out of what the library is given to read, and put back in its place in the drawing order when the rest is
drawn. What is in any way particular — a width, a direction of its own, a code that is not known here — stays with the library,
and so does the whole file where it is out of the ordinary. Group codes are those of the DXF reference, ENTITIES section.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from skalto.core.geometry import Array

LINE, CIRCLE, ARC, POLYLINE, SPLINE, TEXT = range(1, 7)
_KINDS = {b"LINE": LINE, b"CIRCLE": CIRCLE, b"ARC": ARC, b"LWPOLYLINE": POLYLINE, b"SPLINE": SPLINE, b"TEXT": TEXT}
NAMES = frozenset(name.decode() for name in _KINDS)
"""What may be plain."""

_LINKED = (b"VERTEX", b"ATTRIB", b"SEQEND")
"""What belongs to the entity before it, and is none of its own."""

_LEAST = 500
"""Fewer plain entities than this, but for one of each look, are left with the rest: nothing would be gained."""

_BEGIN = re.compile(rb"(?:\A|\n)[ \t]*0\n[ \t]*SECTION\n[ \t]*2\n[ \t]*ENTITIES\Z")
_LETTERS = re.compile(rb"(?:(?!%%)[ -\[\]_-~])*")
"""What stands for itself: no code (%%, \\U+) and no caret; ASCII."""
_END = re.compile(rb"\n[ \t]*0\n[ \t]*ENDSEC\Z")
_FAR = 1072
"""Group codes end at 1071."""

_LOOK = (8, 6, 62, 420, 370, 48, 440, 60, 7, 330)
"""By what an entity's colour, width, line type, layer and font are found, and whose it is: each once at most, but the last."""

_ANY = (0, 5, 100, 102, 360, 67, 410, 347, 390, 430, 284, 39, 210, 220, 230, *_LOOK, *range(1000, _FAR))
_OWN = {
    LINE: (10, 20, 30, 11, 21, 31),
    CIRCLE: (10, 20, 30, 40),
    ARC: (10, 20, 30, 40, 50, 51),
    POLYLINE: (90, 70, 43, 38, 10, 20, 40, 41, 42, 91),
    TEXT: (1, 10, 20, 30, 40, 41, 50, 51, 71, 72, 73, 11, 21, 31),
    SPLINE: (70, 71, 72, 73, 74, 42, 43, 44, 40, 10, 20, 30, 11, 21, 31, 12, 22, 32, 13, 23, 33),
}
_ONCE = {
    LINE: (10, 20, 11, 21),
    CIRCLE: (10, 20, 40),
    ARC: (10, 20, 40, 50, 51),
    POLYLINE: (90, 70),
    SPLINE: (70, 71),
    TEXT: (1, 10, 20, 40),
}
_AT_MOST_ONCE = {TEXT: (41, 50)}
_SMALLEST = 1e-3
"""A text that is less high than this is left to the library, which may not draw it at all."""


@dataclass(frozen=True)
class Strokes:
    """Strokes of one kind in file order: the *place* of each among all that is plain (n,), the *look* of each (n,), and its
    numbers. Lines x0, y0, x1, y1; circles and arcs x, y, radius, start, end, degrees (a circle's are 0 and 360), as rows of
    *values*. Polylines: rows x, y, bulge from ``starts[i]`` to ``starts[i + 1]``, and which are *closed*. Splines: cubic
    Béziers (k, 4, 2) from ``starts[i]`` to ``starts[i + 1]``. *texts* (n,) at x, y, with their heights, width factors and
    angles, degrees."""

    kind: int
    place: NDArray[np.int64]
    look: NDArray[np.int64]
    values: Array
    starts: NDArray[np.int64] | None = None
    closed: NDArray[np.bool_] | None = None
    texts: tuple[str, ...] = ()

    def between(self, first: int, last: int) -> tuple[int, int]:
        """The rows whose places are from *first* to before *last*."""
        a, b = np.searchsorted(self.place, (first, last)).tolist()
        return a, b


@dataclass(frozen=True)
class Plain:
    """*count* plain strokes in all. *rest* is the file without them, but for one of each look, put last in its section; before
    the n-th entity of the model that stays come ``before[n]`` of the plain ones. *kinds* names those that stay."""

    rest: bytes
    strokes: tuple[Strokes, ...]
    count: int
    looks: int
    before: tuple[int, ...]
    kinds: tuple[str, ...]

    def of_look(self) -> NDArray[np.int64]:
        """How many strokes there are of each look."""
        return np.bincount(np.concatenate([own.look for own in self.strokes]), minlength=self.looks)


def plain_of(data: bytes, least: int = _LEAST) -> Plain | None:
    """What is plain in a file; None where nothing is, or where the file is not as files are."""
    data = data.replace(b"\r\n", b"\n") if b"\r" in data else data
    # an order of drawing of its own (SORTENTSTABLE) is for the library
    if b"\r" in data or b"SORTENTSTABLE" in data or b"\0" in data:
        return None
    found = _section(data)
    if found is None:
        return None
    start, stop = found
    lines = data[start:stop].split(b"\n")[:-1]
    if len(lines) % 2:
        return None
    try:
        return _Section(lines).taken(data[:start], data[stop:], least)
    except (ValueError, OverflowError):
        # a code or a number that is none: the library says what is to be said of it
        return None


def _section(data: bytes) -> tuple[int, int] | None:
    """Where the pairs of the ENTITIES section begin and end; None where there is none, or more than one."""
    starts = [end for end in _ends(data, b"ENTITIES\n", 0) if _BEGIN.search(data[max(0, end - 60) : end - 1])]
    if len(starts) != 1:
        return None
    for end in _ends(data, b"ENDSEC\n", starts[0]):
        last = _END.search(data[max(starts[0] - 1, end - 40) : end - 1])
        if last:
            return starts[0], max(starts[0] - 1, end - 40) + last.start() + 1
    return None


def _ends(data: bytes, word: bytes, at: int) -> Iterator[int]:
    """Behind each place where a word stands."""
    while (at := data.find(word, at)) >= 0:
        at += len(word)
        yield at


class _Section:
    """The pairs of an ENTITIES section."""

    def __init__(self, lines: list[bytes]) -> None:
        self.lines = lines
        self.values = lines[1::2]
        codes = np.array(lines[0::2], dtype=np.bytes_)
        if codes.dtype.itemsize > 12:
            raise ValueError("a line that is no group code")
        self.codes = codes.astype(np.int64)
        if len(self.codes) == 0 or self.codes[0] != 0 or self.codes.min() < 0 or self.codes.max() >= _FAR:
            raise ValueError("not a group code")
        if (self.codes == 999).any():
            raise ValueError("a remark")
        self.starts = np.flatnonzero(self.codes == 0)
        self.owner = np.cumsum(self.codes == 0) - 1
        self.names = [self.values[row].strip() for row in self.starts.tolist()]
        self.kind = np.array([_KINDS.get(name, 0) for name in self.names], np.int64)
        self._rows: dict[int, NDArray[np.int64]] = {}

    def rows(self, code: int) -> NDArray[np.int64]:
        """Where a group code stands within what may be plain."""
        if code not in self._rows:
            rows = np.flatnonzero(self.codes == code)
            self._rows[code] = rows[self.kind[self.owner[rows]] > 0]
        return self._rows[code]

    def numbers(self, rows: NDArray[np.int64]) -> Array:
        """Values as numbers. :raises ValueError: where one is none."""
        values = self.values
        if not len(rows):
            return np.zeros(0)
        found: Array = np.array([values[row] for row in rows.tolist()], np.bytes_).astype(float)
        return found

    def _strike(self, rows: NDArray[np.int64]) -> None:
        """What these rows belong to is not plain."""
        self.kind[self.owner[rows]] = 0
        self._rows.clear()

    def _count(self, code: int) -> NDArray[np.int64]:
        found: NDArray[np.int64] = np.bincount(self.owner[self.rows(code)], minlength=len(self.kind)).astype(np.int64)
        return found

    def sift(self) -> None:
        """Leave to the library what is not plain."""
        allowed = np.zeros((len(_OWN) + 1, _FAR), bool)
        allowed[0] = True
        for kind, own in _OWN.items():
            allowed[kind, [*_ANY, *own]] = True
        self._strike(np.flatnonzero(~allowed[self.kind[self.owner], self.codes]))
        for kind, once in _ONCE.items():
            for code in once:
                self.kind[(self.kind == kind) & (self._count(code) != 1)] = 0
        for kind, once in _AT_MOST_ONCE.items():
            for code in once:
                self.kind[(self.kind == kind) & (self._count(code) > 1)] = 0
        for code in _LOOK[:-1]:
            self.kind[self._count(code) > 1] = 0
        self.kind[self._count(8) != 1] = 0
        self._rows.clear()
        self._strike_values(67, self.numbers(self.rows(67)) != 0)
        rows = self.rows(410)
        self._strike(rows[np.array([self.values[row].strip().lower() != b"model" for row in rows.tolist()], bool)])
        for code, usual in ((210, 0.0), (220, 0.0), (230, 1.0)):
            self._strike_values(code, self.numbers(self.rows(code)) != usual)
        rows = self.rows(40)
        round_ = np.isin(self.kind[self.owner[rows]], (CIRCLE, ARC))
        self._strike(rows[round_][~(self.numbers(rows[round_]) > 0)])
        self._sift_polylines()
        self._sift_splines()
        self._sift_texts()

    def _strike_values(self, code: int, wrong: NDArray[np.bool_]) -> None:
        self._strike(self.rows(code)[wrong])

    def _of(self, code: int, kind: int) -> NDArray[np.int64]:
        rows = self.rows(code)
        found: NDArray[np.int64] = rows[self.kind[self.owner[rows]] == kind]
        return found

    def _sift_polylines(self) -> None:
        for code in (40, 41, 43):
            rows = self._of(code, POLYLINE)
            self._strike(rows[self.numbers(rows) != 0])
        of = self.kind == POLYLINE
        self.kind[of & ((self._count(10) != self._count(20)) | (self._count(10) == 0))] = 0
        self._rows.clear()
        # x and y take turns, and a bulge stands behind its vertex (DXF reference, LWPOLYLINE)
        x, y, bulges = self._of(10, POLYLINE), self._of(20, POLYLINE), self._of(42, POLYLINE)
        self.kind[self.owner[x[y != x + 1]]] = 0
        before = np.searchsorted(x, bulges) - 1
        apart = (before < 0) | (self.owner[x[before]] != self.owner[bulges])
        self.kind[self.owner[bulges[apart]]] = 0
        # two bulges at one vertex
        again = np.flatnonzero(before[1:] == before[:-1]) + 1
        self.kind[self.owner[bulges[again]]] = 0
        self._rows.clear()

    def _sift_splines(self) -> None:
        """Polynomial ones of the third degree that are clamped, each inner knot once."""
        flags, degrees = self._of(70, SPLINE), self._of(71, SPLINE)
        # closed is no more than a remark, periodic (2) and rational (4) are not plain
        self._strike(flags[(self.numbers(flags).astype(np.int64) & 6) != 0])
        degrees = self._of(71, SPLINE)
        self._strike(degrees[self.numbers(degrees) != 3])
        of = self.kind == SPLINE
        points, knots = self._count(10), self._count(40)
        self.kind[of & ((points < 4) | (points != self._count(20)) | (knots != points + 4) | (self._count(11) > 0))] = 0
        self._rows.clear()
        x, y = self._of(10, SPLINE), self._of(20, SPLINE)
        self.kind[self.owner[x[y != x + 1]]] = 0
        self._rows.clear()
        values, own = self.numbers(self._of(40, SPLINE)), self.owner[self._of(40, SPLINE)]
        if not len(own):
            return
        starts = np.flatnonzero(np.r_[True, own[1:] != own[:-1]])
        ends = np.r_[starts[1:], len(own)]
        step = np.diff(values, append=np.nan)
        # which steps of a knot vector have to be none: the first three and the last three
        at = np.arange(len(own)) - np.repeat(starts, ends - starts)
        left = np.repeat(ends, ends - starts) - 1 - np.arange(len(own))
        size = np.repeat(values[ends - 1] - values[starts], ends - starts)
        none = (at < 3) | ((left <= 3) & (left >= 1))
        wrong = np.where(none, step != 0, step <= 1e-6 * np.abs(size)) & (left >= 1)
        self.kind[own[wrong | ~np.isfinite(values)]] = 0
        self._rows.clear()

    def _sift_texts(self) -> None:
        """Of one line from its lower left, in letters that are what they are."""
        for code in (71, 72, 73):
            rows = self._of(code, TEXT)
            self._strike(rows[self.numbers(rows) != 0])
        for code, least in ((40, _SMALLEST), (41, 0.0)):
            rows = self._of(code, TEXT)
            self._strike(rows[~(self.numbers(rows) > least)])
        rows = self._of(1, TEXT)
        self._strike(rows[np.array([not _LETTERS.fullmatch(self.values[row]) for row in rows.tolist()], bool)])

    def looks(self) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """The number of each plain entity's look, and of each look one entity that has it."""
        plain = np.flatnonzero(self.kind)
        # a text that names no font has one all the same, and a line has none
        key = (self.kind == TEXT).astype(np.int64)
        for code in _LOOK:
            rows = self.rows(code)
            own = np.zeros(len(self.kind), np.int64)
            texts = np.array([self.values[row].strip() for row in rows.tolist()] or [b""], np.bytes_)
            if code in (6, 7, 8) and any(b"\\" in text or not text.isascii() for text in np.unique(texts).tolist()):
                # names in another writing are equal for the library alone
                strange = [row for row in rows.tolist() if b"\\" in self.values[row] or not self.values[row].isascii()]
                self._strike(np.array(strange, np.int64))
                return self.looks()
            if len(rows):
                # the last of several owners is the entity's own: what is in braces before it are its followers
                own[self.owner[rows]] = np.unique(texts, return_inverse=True)[1] + 1
            key = np.unique(key * (int(own.max()) + 1) + own, return_inverse=True)[1].astype(np.int64)
        _, first, look = np.unique(key[plain], return_index=True, return_inverse=True)
        found = np.full(len(self.kind), -1, np.int64)
        found[plain] = look
        return found, plain[first]

    def taken(self, head: bytes, tail: bytes, least: int) -> Plain | None:
        """What is plain, and the file without it."""
        self.sift()
        look, examples = self.looks()
        plain = np.flatnonzero(self.kind)
        if len(plain) - len(examples) < max(least, 1):
            return None
        place = np.full(len(self.kind), -1, np.int64)
        place[plain] = np.arange(len(plain))
        strokes = tuple(own for own in self._strokes(place, look) if len(own.place))
        ends = np.r_[self.starts[1:], len(self.codes)]
        kept = np.flatnonzero(self.kind == 0)
        pieces: list[bytes] = []
        for entity in (*kept.tolist(), *examples.tolist()):
            pieces += self.lines[2 * self.starts[entity] : 2 * ends[entity]]
        before = np.cumsum(self.kind > 0)
        stay = [e for e in kept.tolist() if self.names[e] not in _LINKED and not self._on_paper(e, ends)]
        rest = head + b"\n".join(pieces) + (b"\n" if pieces else b"") + tail
        names = tuple(self.names[entity].decode("ascii", "replace") for entity in stay)
        return Plain(rest, strokes, len(plain), len(examples), tuple(before[stay].tolist()), names)

    def _on_paper(self, entity: int, ends: NDArray[np.int64]) -> bool:
        first, last = int(self.starts[entity]), int(ends[entity])
        rows = np.flatnonzero(self.codes[first:last] == 67)
        return len(rows) > 0 and self.values[first + int(rows[0])].strip() == b"1"

    def _column(self, code: int, kind: int) -> Array:
        return self.numbers(self._of(code, kind))

    def _strokes(self, place: NDArray[np.int64], look: NDArray[np.int64]) -> Iterator[Strokes]:
        for kind, columns in ((LINE, (10, 20, 11, 21)), (CIRCLE, (10, 20, 40)), (ARC, (10, 20, 40, 50, 51))):
            of = np.flatnonzero(self.kind == kind)
            rows = np.stack([self._column(code, kind) for code in columns], axis=1)
            if kind == CIRCLE:
                rows = np.column_stack((rows, np.zeros(len(rows)), np.full(len(rows), 360.0)))
            yield Strokes(kind, place[of], look[of], rows)
        of, x = np.flatnonzero(self.kind == POLYLINE), self._of(10, POLYLINE)
        bulges, rows_of_bulges = np.zeros(len(x)), self._of(42, POLYLINE)
        bulges[np.searchsorted(x, rows_of_bulges) - 1] = self.numbers(rows_of_bulges)
        values = np.column_stack((self.numbers(x), self._column(20, POLYLINE), bulges))
        closed = (self._column(70, POLYLINE).astype(np.int64) & 1) > 0
        starts = np.r_[0, np.cumsum(self._count(10)[of])]
        yield Strokes(POLYLINE, place[of], look[of], values, starts, closed)
        of, x = np.flatnonzero(self.kind == SPLINE), self._of(10, SPLINE)
        points = np.column_stack((self.numbers(x), self._column(20, SPLINE)))
        pieces, starts = _pieces(points, self._column(40, SPLINE), self._count(10)[of])
        yield Strokes(SPLINE, place[of], look[of], pieces, starts)
        of, marked = np.flatnonzero(self.kind == TEXT), self._of(1, TEXT)
        values = np.stack([self._column(code, TEXT) for code in (10, 20, 40)], axis=1)
        more = np.tile((1.0, 0.0), (len(self.kind), 1))
        for column, code in enumerate((41, 50)):
            more[self.owner[self._of(code, TEXT)], column] = self._column(code, TEXT)
        texts = tuple(self.values[row].decode("ascii") for row in marked.tolist())
        yield Strokes(TEXT, place[of], look[of], np.column_stack((values, more[of])), texts=texts)


def _pieces(points: Array, knots: Array, counts: NDArray[np.int64]) -> tuple[Array, NDArray[np.int64]]:
    """The cubic Béziers (k, 4, 2) of many clamped cubic B-splines, *counts* control points each, and where each begins.

    By the blossom: a piece's control points are its values at the piece's two ends, taken three, two, one and no times the
    first (Ramshaw, Blossoms are polar forms, 1989).
    """
    starts = np.r_[0, np.cumsum(counts - 3)].astype(np.int64)
    found = np.zeros((int(starts[-1]), 4, 2))
    first_point, first_knot = np.r_[0, np.cumsum(counts)][:-1], np.r_[0, np.cumsum(counts + 4)][:-1]
    for count in np.unique(counts).tolist():
        of = np.flatnonzero(counts == count)
        p = points[first_point[of, None] + np.arange(count)]
        t = knots[first_knot[of, None] + np.arange(count + 4)]
        for n in range(3, count):
            a, b = t[:, n, None], t[:, n + 1, None]
            for j, arguments in enumerate(((a, a, a), (a, a, b), (a, b, b), (b, b, b))):
                d = [p[:, n - 3 + i] for i in range(4)]
                for level, u in enumerate(arguments, 1):
                    for i in range(3, level - 1, -1):
                        low, high = t[:, n - 3 + i, None], t[:, n - 3 + i + 4 - level, None]
                        share = (u - low) / (high - low)
                        d[i] = d[i - 1] * (1 - share) + d[i] * share
                found[starts[of] + n - 3, j] = d[3]
    return found, starts
