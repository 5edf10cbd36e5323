"""What a page's content stream may say, as a table (ISO 32000-1, annex A), and what it says: every path, text and picture
with all that it is painted by.

It shares nothing with the writer. What is beyond the table fails by its name; white space, other forms of a number, and a
stream in several parts are no matter.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import pikepdf

_N = rb"[-+]?(?:\d++(?:\.\d*+)?|\.\d++)"
_S = rb"[\0\t\n\f\r ]++"
_POINT = rb"(?>" + _N + _S + _N + _S + rb")"
_PATH = re.compile(
    rb"(?>"
    + _POINT
    + rb"m"
    + _S
    + rb"(?>"
    + _POINT
    + rb"(?:l"
    + _S
    + rb"|"
    + _POINT
    + _POINT
    + rb"c"
    + _S
    + rb"))*+(?:h"
    + _S
    + rb")?+)++"
    rb"(S|f\*|f|W" + _S + rb"n)(?![^\0\t\n\f\r /\[(<])"
)
"""A whole path: subpaths of lines and cubic curves, and what is done with it (8.5)."""
_SPACE = re.compile(rb"[\0\t\n\f\r ]*+")
_TOKEN = re.compile(
    rb"(?P<number>"
    + _N
    + rb")(?![A-Za-z0-9.])|/(?P<name>[^\0\t\n\f\r ()<>\[\]{}/%]++)|\((?P<string>[^()\\]*+)\)|(?P<dict><<|>>)"
    rb"|<(?P<hex>[0-9A-Fa-f\0\t\n\f\r ]*+)>|(?P<array>\[|\])|(?P<word>[A-Za-z'\"][A-Za-z0-9*]*+)"
)

Value = Any
"""A number, a name as ``/name``, bytes, or a list of such."""


def _numbers(count: int) -> Callable[[Sequence[Value]], bool]:
    return lambda given: len(given) == count and all(isinstance(v, float) for v in given)


def _shares(count: int) -> Callable[[Sequence[Value]], bool]:
    return lambda given: _numbers(count)(given) and all(0 <= v <= 1 for v in given)


def _one(*known: float) -> Callable[[Sequence[Value]], bool]:
    return lambda given: len(given) == 1 and given[0] in known


def _name(given: Sequence[Value]) -> bool:
    return len(given) == 1 and isinstance(given[0], str)


def _dashes(given: Sequence[Value]) -> bool:
    return (
        len(given) == 2
        and isinstance(given[0], list)
        and all(isinstance(v, float) and v >= 0 for v in given[0])
        and given[1] >= 0
    )


def _glyphs(given: Sequence[Value]) -> bool:
    return len(given) == 1 and isinstance(given[0], bytes) and len(given[0]) % 2 == 0


def _glyph_rows(given: Sequence[Value]) -> bool:
    return len(given) == 1 and isinstance(given[0], list) and all(isinstance(v, float) or _glyphs([v]) for v in given[0])


def _marked(given: Sequence[Value]) -> bool:
    """A layer, a view, or what a text says (8.11.3.2, 14.6.2, 14.9.4)."""
    if len(given) != 2:
        return False
    mark, facts = given
    if mark == "/OC":
        return isinstance(facts, str)
    keys = {"/View": "/Number", "/Span": "/ActualText"}
    return (
        mark in keys
        and isinstance(facts, list)
        and facts[:1] == [keys[mark]]
        and len(facts) == 2
        and isinstance(facts[1], bytes)
    )


OPERATORS: Mapping[str, Callable[[Sequence[Value]], bool]] = {
    "w": lambda given: _numbers(1)(given) and given[0] > 0,
    "J": _one(0, 1, 2),
    "j": _one(0, 1, 2),
    "d": _dashes,
    "G": _shares(1),
    "g": _shares(1),
    "RG": _shares(3),
    "rg": _shares(3),
    "gs": _name,
    "q": _numbers(0),
    "Q": _numbers(0),
    "cm": _numbers(6),
    "Do": _name,
    "BDC": _marked,
    "BMC": lambda given: list(given) == ["/Unseen"],
    "EMC": _numbers(0),
    "BT": _numbers(0),
    "ET": _numbers(0),
    "Tr": _one(0, 3),
    "Tf": lambda given: len(given) == 2 and isinstance(given[0], str) and isinstance(given[1], float) and given[1] > 0,
    "Tm": _numbers(6),
    "Tj": _glyphs,
    "TJ": _glyph_rows,
}
"""What a page may say beside its paths, and what of."""
_IN_TEXT = {"Tr", "Tf", "Tm", "Tj", "TJ", "BDC", "EMC", "ET"}
_BLOCKS = {("cm", "S"), ("cm", "Do"), ("W", "cm", "Do")}
"""What stands between ``q`` and ``Q``: strokes from a point of their own, a picture or a page, and a page that is cut."""


@dataclass(frozen=True)
class State:
    """What paths and texts are painted with (8.4), in units of the page; colours 0 to 1, a grey as three of it."""

    width: float = 1.0
    ends: int = 0
    joins: int = 0
    dashes: tuple[float, ...] = ()
    phase: float = 0.0
    stroke: tuple[float, ...] = (0.0, 0.0, 0.0)
    fill: tuple[float, ...] = (0.0, 0.0, 0.0)
    opacity: float = 1.0
    multiplied: bool = False
    layer: str = ""
    view: int | None = None
    unseen: bool = False


@dataclass(frozen=True)
class Shown:
    """A run of glyphs: its font's name among the resources, the size of type, its matrix, glyphs by number, after each by how
    many
    thousandths of the size the next stands closer; what it says where that is told; and whether it is only found, not seen."""

    font: str
    size: float
    matrix: tuple[float, ...]
    glyphs: tuple[int, ...]
    closer: tuple[float, ...]
    said: str | None
    ghost: bool
    state: State


@dataclass(frozen=True)
class Placed:
    """A picture or a page that is placed: its name among the resources, and its matrix."""

    name: str
    matrix: tuple[float, ...]
    state: State


@dataclass
class Content:
    """All of a page: the state and the operator of each painted path, in order; texts, pictures and pages; what does not
    belong, with how often."""

    paths: list[tuple[State, str]] = field(default_factory=list)
    texts: list[Shown] = field(default_factory=list)
    placed: list[Placed] = field(default_factory=list)
    wrong: Counter[str] = field(default_factory=Counter)
    operators: int = 0


def read_content(page: pikepdf.Page) -> Content:
    """Read a page. What cannot be read is told among what is wrong, and the rest of the page is not looked at."""
    return _Reader(page).read()


class _Reader:
    def __init__(self, page: pikepdf.Page) -> None:
        parts = page.obj.get("/Contents")
        streams = list(parts) if isinstance(parts, pikepdf.Array) else [] if parts is None else [parts]
        self.data = b"\n".join(own.read_bytes() for own in streams)
        self.resources: Any = page.obj.get("/Resources", pikepdf.Dictionary())
        self.found = Content()
        self.state = State()
        self.states: dict[State, State] = {}
        self.marks: list[tuple[str, State]] = []
        self.block: list[str] | None = None
        self.text = False
        self.font: tuple[str, float] | None = None
        self.matrix: tuple[float, ...] | None = None
        self.ghost = False
        self.said: str | None = None

    def note(self, what: str) -> None:
        self.found.wrong[what] += 1

    def read(self) -> Content:
        data, at = self.data, _SPACE.match(self.data, 0).end()  # type: ignore[union-attr]
        given: list[Value] = []
        open_: list[list[Value]] = []
        while at < len(data):
            path = _PATH.match(data, at) if not given else None
            if path is not None:
                self._path(path[1].decode())
                at = path.end()
            else:
                token = _TOKEN.match(data, at)
                if token is None:
                    self.note(f"content that is none of ours, {data[at : at + 20].decode('latin-1')!r}")
                    return self.found
                at = token.end()
                kind = str(token.lastgroup)
                if kind == "word":
                    self._operator(token[kind].decode(), given)
                    given = []
                elif kind in ("array", "dict"):
                    if token[kind] in (b"[", b"<<"):
                        open_.append(given)
                        given = []
                    elif open_:
                        whole, given = given, open_.pop()
                        given.append(whole)
                    else:
                        self.note("brackets that do not open")
                else:
                    given.append(_value(kind, token[kind]))
            at = _SPACE.match(data, at).end()  # type: ignore[union-attr]
        if given or open_ or self.marks or self.text or self.block is not None:
            self.note("content that does not end")
        return self.found

    def _kept(self) -> State:
        """The state, the same object for the same."""
        return self.states.setdefault(self.state, self.state)

    def _path(self, how: str) -> None:
        self.found.operators += 1
        if self.text:
            self.note("a path in a text")
        if how[0] == "W":
            if self.block != []:
                self.note("a clip")
            else:
                self.block.append("W")
            return
        if self.block is not None and self.block[-1:] != ["S"]:
            self.block.append(how)
        self.found.paths.append((self._kept(), how))

    def _operator(self, word: str, given: list[Value]) -> None:
        self.found.operators += 1
        rule = OPERATORS.get(word)
        if rule is None:
            self.note("a path that is made otherwise" if word in _PATHS else f"the operator {word}")
            return
        if not rule(given):
            self.note(f"the operator {word} of {_told(given)}")
            return
        if self.text and word not in _IN_TEXT:
            self.note(f"{word} in a text")
        if self.block is not None and word not in ("cm", "Do", "Q"):
            self.note(f"{word} between q and Q")
        getattr(self, f"_{_CALLED.get(word, word)}")(*given)

    def _change(self, **changes: Any) -> None:
        self.state = replace(self.state, **changes)

    def _w(self, width: float) -> None:
        self._change(width=width)

    def _J(self, ends: float) -> None:
        self._change(ends=int(ends))

    def _j(self, joins: float) -> None:
        self._change(joins=int(joins))

    def _d(self, dashes: list[float], phase: float) -> None:
        self._change(dashes=tuple(dashes), phase=phase)

    def _G(self, grey: float) -> None:
        self._change(stroke=(grey,) * 3)

    def _g(self, grey: float) -> None:
        self._change(fill=(grey,) * 3)

    def _RG(self, *colour: float) -> None:
        self._change(stroke=colour)

    def _rg(self, *colour: float) -> None:
        self._change(fill=colour)

    def _gs(self, name: str) -> None:
        own = self.resources.get("/ExtGState", {}).get(name)
        if own is None:
            self.note(f"the graphics state {name[1:]} that is not there")
            return
        if "/BM" in own:
            self._change(multiplied=own["/BM"] == "/Multiply")
        if "/CA" in own:
            self._change(opacity=float(own["/CA"]))

    def _q(self) -> None:
        if self.block is not None:
            self.note("q within q")
        self.block = []

    def _Q(self) -> None:
        if self.block is None:
            self.note("Q without q")
        elif tuple(self.block) not in _BLOCKS:
            self.note(f"{' '.join(self.block) or 'nothing'} between q and Q")
        self.block = None

    def _cm(self, *matrix: float) -> None:
        if self.block is None:
            self.note("a matrix over what follows")
            return
        self.block.append("cm")
        self.matrix = matrix

    def _Do(self, name: str) -> None:
        if self.block is None:
            self.note("a picture without its place")
            return
        self.block.append("Do")
        if self.matrix is not None:
            self.found.placed.append(Placed(name, self.matrix, self._kept()))

    def _BDC(self, mark: str, facts: Value) -> None:
        self.marks.append((mark, self.state))
        if mark == "/OC":
            group = self.resources.get("/Properties", {}).get(facts)
            if self.state.layer:
                self.note("a layer within a layer")
            if group is None or group.get("/Type") != "/OCG":
                self.note(f"the layer {facts[1:]} that is none")
            else:
                self._change(layer=str(group.get("/Name", "")))
        elif mark == "/View":
            if not facts[1].isdigit() or len(facts[1]) > 6:
                self.note("a view without its number")
            else:
                self._change(view=int(facts[1]))
        else:
            self.said = facts[1].decode("utf-16", "replace")

    def _BMC(self, mark: str) -> None:
        self.marks.append((mark, self.state))
        self._change(unseen=True)

    def _EMC(self) -> None:
        if not self.marks:
            self.note("EMC without a mark")
            return
        mark, before = self.marks.pop()
        if mark == "/Span":
            self.said = None
        # a mark ends what it says, and nothing else
        self._change(layer=before.layer, view=before.view, unseen=before.unseen)

    def _BT(self) -> None:
        self.text, self.matrix = True, None

    def _ET(self) -> None:
        if not self.text or self.ghost:
            self.note("ET without its text")
        self.text = False

    def _Tr(self, mode: float) -> None:
        self.ghost = mode == 3

    def _Tf(self, font: str, size: float) -> None:
        self.font = font, size

    def _Tm(self, *matrix: float) -> None:
        self.matrix = matrix

    def _Tj(self, glyphs: bytes) -> None:
        self._show([glyphs])

    def _TJ(self, rows: list[Value]) -> None:
        self._show(rows)

    def _show(self, rows: Sequence[Value]) -> None:
        if not self.text or self.font is None or self.matrix is None:
            self.note("a text without its font and place")
            return
        glyphs: list[int] = []
        closer: list[float] = []
        for row in rows:
            if isinstance(row, float):
                if not closer:
                    self.note("a text that begins beside its place")
                    return
                closer[-1] += row
            else:
                own = [int.from_bytes(row[n : n + 2], "big") for n in range(0, len(row), 2)]
                glyphs += own
                closer += [0.0] * len(own)
        self.found.texts.append(
            Shown(*self.font, self.matrix, tuple(glyphs), tuple(closer), self.said, self.ghost, self._kept())
        )
        # what follows would stand where this ended: ours never does
        self.matrix = None


_PATHS = {"m", "l", "c", "v", "y", "h", "re", "S", "s", "f", "F", "f*", "B", "B*", "b", "b*", "n", "W", "W*"}
_CALLED: dict[str, str] = {}


def _value(kind: str, text: bytes) -> Value:
    if kind == "number":
        return float(text)
    if kind == "name":
        return "/" + text.decode("latin-1")
    if kind == "hex":
        digits = bytes(text.translate(None, b"\0\t\n\f\r "))
        return bytes.fromhex((digits + b"0" * (len(digits) % 2)).decode())
    return text


def _told(given: Sequence[Value]) -> str:
    return " ".join(str(v)[:20] for v in given)[:40] or "nothing"
