"""Whether a BREP file's text is whole: the kernel's reader goes on for ever where a number or a word is missing in it.

The grammar is that of the kernel's published description of the format ("BRep Format", Open CASCADE Technology's
documentation), versions 1 to 3.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from itertools import islice
from math import isfinite

from skalto.core.errors import InputError

_CURVES = {"1": 6, "2": 13, "3": 14, "4": 13, "5": 14}
"""Numbers of a line, circle, ellipse, parabola and hyperbola in space."""

_PLANE_CURVES = {"1": 4, "2": 7, "3": 8, "4": 7, "5": 8}
_SURFACES = {"1": 12, "2": 13, "3": 14, "4": 13, "5": 14}
"""Numbers of a plane, cylinder, cone, sphere and torus."""

_MANY = 100_000_000
"""More of anything in one list is damage."""


_SMOOTHNESS = ("C0", "G1", "C1", "G2", "C2", "C3", "CN")
"""How smooth an edge is between its faces; a seam has it without a space behind the number of its second curve."""


_LONG = 38
"""Characters of a number; on one of more than 40 the kernel's reader never ends. Writers need 25."""

_WORD = re.compile(r"\S+", re.ASCII)
_PLAIN = bytes(range(32, 127)) + b"\t\n\r"


class _Damaged(Exception):
    """Something else stands where a number or a word is expected."""


class _Words:
    """The words of a text from a place on, taken one after another: all at once they would need eight times its memory."""

    def __init__(self, text: str, start: int) -> None:
        self._found = _WORD.finditer(text, start)
        self._ahead: str | None = None
        self.ended = False

    def next(self) -> str:
        if self._ahead is not None:
            word, self._ahead = self._ahead, None
            return word
        found = next(self._found, None)
        if found is None:
            self.ended = True
            raise _Damaged
        return found.group()

    def over(self) -> bool:
        """Whether there are no more."""
        return self.ended or (self._ahead is None and next(self._found, None) is None)

    def skip(self, word: str) -> bool:
        """Take the next word where it is this one."""
        self._ahead = self.next()
        if self._ahead != word:
            return False
        self._ahead = None
        return True

    def number(self, least: int = 0, most: int = _MANY) -> int:
        word = self.next()
        if not word.removeprefix("-").isdecimal() or not least <= int(word) <= most:
            raise _Damaged
        return int(word)

    def reals(self, count: int) -> None:
        if not count:
            return
        words = [self.next(), *(found.group() for found in islice(self._found, count - 1))]
        self.ended = len(words) < count
        try:
            finite = all(len(word) <= _LONG and isfinite(float(word)) for word in words)
        except ValueError:
            raise _Damaged from None
        if self.ended or not finite:
            raise _Damaged

    def smooth_number(self) -> None:
        word = self.next()
        number, smooth = word[:-2], word[-2:]
        if smooth not in _SMOOTHNESS or not number.isdecimal():
            raise _Damaged

    def head(self, word: str) -> int:
        """The count behind a section's name."""
        if self.next() != word:
            raise _Damaged
        return self.number()


def _curve(words: _Words, plane: bool) -> None:
    kind, size = words.next(), 2 if plane else 3
    simple = (_PLANE_CURVES if plane else _CURVES).get(kind)
    if simple is not None:
        words.reals(simple)
    elif kind == "6":
        rational, degree = words.number(0, 1), words.number()
        words.reals((degree + 1) * (size + rational))
    elif kind == "7":
        rational, _, _ = words.number(0, 1), words.number(0, 1), words.number()
        poles, knots = words.number(), words.number()
        words.reals(poles * (size + rational))
        _knots(words, knots)
    elif kind == "8":
        words.reals(2)
        _curve(words, plane)
    elif kind == "9":
        words.reals(1 if plane else 4)
        _curve(words, plane)
    else:
        raise _Damaged


def _knots(words: _Words, count: int) -> None:
    for _ in range(count):
        words.reals(1)
        words.number()


def _surface(words: _Words) -> None:
    kind = words.next()
    if kind in _SURFACES:
        words.reals(_SURFACES[kind])
    elif kind in ("6", "7"):
        words.reals(3 if kind == "6" else 6)
        _curve(words, False)
    elif kind == "8":
        rational = words.number(0, 1) | words.number(0, 1)
        across, up = words.number(), words.number()
        words.reals((across + 1) * (up + 1) * (3 + rational))
    elif kind == "9":
        rational = words.number(0, 1) | words.number(0, 1)
        words.number(0, 1), words.number(0, 1), words.number(), words.number()
        across, up, knots_across, knots_up = (words.number() for _ in range(4))
        words.reals(across * up * (3 + rational))
        _knots(words, knots_across)
        _knots(words, knots_up)
    elif kind in ("10", "11"):
        words.reals(4 if kind == "10" else 1)
        _surface(words)
    else:
        raise _Damaged


def _location(words: _Words) -> None:
    if words.number(1, 2) == 1:
        words.reals(12)
        return
    while words.number():
        words.number(-_MANY)


def _polygon(words: _Words) -> None:
    nodes, parameters = words.number(), words.number(0, 1)
    words.reals(1 + nodes * (3 + parameters))


def _polygon_on(words: _Words) -> None:
    nodes = words.number()
    for _ in range(nodes):
        words.number()
    if words.next() != "p":
        raise _Damaged
    words.reals(1)
    if words.number(0, 1):
        words.reals(nodes)


def _triangulation(words: _Words, version: int) -> None:
    nodes, triangles, flat = words.number(), words.number(), words.number(0, 1)
    normals = words.number(0, 1) if version >= 3 else 0
    words.reals(1 + nodes * (3 + 2 * flat))
    for _ in range(3 * triangles):
        words.number(1, nodes)
    words.reals(3 * nodes * normals)


def _vertex(words: _Words) -> None:
    words.reals(4)
    while True:
        words.reals(1)
        kind = words.number(0, 3)
        if not kind:
            return
        if kind == 3:
            words.reals(1)
        for _ in range(3 if kind == 2 else 2):
            words.number()


def _edge(words: _Words, version: int) -> None:
    words.reals(1)
    for _ in range(3):
        words.number(0, 1)
    while kind := words.number(0, 7):
        if kind == 1:
            words.number(), words.number()
            words.reals(2)
        elif kind in (2, 3):
            words.number()
            if kind == 3:
                words.smooth_number()
            words.number(), words.number()
            words.reals(2)
            if version == 2:
                words.reals(4)
        elif kind == 4:
            if words.next() not in _SMOOTHNESS:
                raise _Damaged
            for _ in range(4):
                words.number()
        else:
            for _ in range({5: 2, 6: 3, 7: 4}[kind]):
                words.number()


def _face(words: _Words) -> None:
    words.number(0, 1)
    words.reals(1)
    words.number(), words.number()
    if words.skip("2"):
        words.number()


def _shape(words: _Words, version: int, count: int) -> None:
    kind = words.next()
    if kind == "Ve":
        _vertex(words)
    elif kind == "Ed":
        _edge(words, version)
    elif kind == "Fa":
        _face(words)
    elif kind not in ("Wi", "Sh", "So", "CS", "Co"):
        raise _Damaged
    flags = words.next()
    if len(flags) != 7 or flags.strip("01"):
        raise _Damaged
    while (child := words.next()) != "*":
        _reference(words, child, count)


def _reference(words: _Words, word: str, count: int) -> None:
    if word[:1] not in ("+", "-", "i", "e") or not word[1:].isdecimal() or not 1 <= int(word[1:]) <= count:
        raise _Damaged
    words.number()


def check_brep(data: bytes, what: str) -> None:
    """Follow the text of a BREP file from its heading to the shape that it names at its end.

    :raises InputError: when something else stands where a number or a word is expected, naming the section.
    """
    data = data.rstrip(b"\0")
    text = data.decode("latin-1")
    start, version = text.find("CASCADE Topology V"), 0
    if start >= 0:
        version = int(text[start + 18]) if text[start + 18 : start + 19] in ("1", "2", "3") else 0
    end = text.find("\n", start)
    if not version or end < 0:
        raise InputError(f"{what} is damaged: its heading names no version of the format from 1 to 3; export it again.")
    if data[end:].translate(None, _PLAIN):
        raise InputError(f"{what} is damaged: there are bytes in it that are no text; copy or export it again.")
    words = _Words(text, end)
    sections: list[tuple[str, str, Callable[[], None]]] = [
        ("Locations", "placements", lambda: _location(words)),
        ("Curve2ds", "curves on faces", lambda: _curve(words, True)),
        ("Curves", "curves", lambda: _curve(words, False)),
        ("Polygon3D", "polygons", lambda: _polygon(words)),
        ("PolygonOnTriangulations", "polygons on triangles", lambda: _polygon_on(words)),
        ("Surfaces", "surfaces", lambda: _surface(words)),
        ("Triangulations", "triangles", lambda: _triangulation(words, version)),
    ]
    told = ""
    try:
        for head, told, one in sections:  # noqa: B007 - the name stays for the sentence
            for _ in range(words.head(head)):
                one()
        told = "shapes"
        count = words.head("TShapes")
        for _ in range(count):
            _shape(words, version, count)
        told = "last line, which names the shape,"
        _reference(words, words.next(), count)
    except (_Damaged, RecursionError):
        cut = "cut short" if words.over() else "damaged"
        raise InputError(f"{what} is {cut} in its {told} and cannot be read; copy or export it again.") from None
