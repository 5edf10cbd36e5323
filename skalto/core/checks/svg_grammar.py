"""What an SVG file of ours may be made of, as a table (SVG 1.1, W3C, chapters 5 to 11): what is beyond it fails by its name.

It shares nothing with the writer, and reads the file with expat, not with what measures it. What a file may be written
otherwise and still draw the same is taken: white space, comments, the order of attributes, other forms of a number.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from xml.parsers import expat

from skalto.core.checks.verdict import Check

SVG = "http://www.w3.org/2000/svg"
XML = "http://www.w3.org/XML/1998/namespace"
MULTIPLIED = "mix-blend-mode:multiply"
_NUMBER = re.compile(r"[-+]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][-+]?\d{1,3})?")
_BETWEEN = re.compile(r"\s*,?\s*")
_PICTURE = re.compile(r"data:image/png;base64,[A-Za-z0-9+/=\s]+")

Rule = Callable[[str], bool]


def number(text: str) -> bool:
    return _NUMBER.fullmatch(text.strip()) is not None


def _above(text: str) -> bool:
    return number(text) and float(text) > 0


def _share(text: str) -> bool:
    return number(text) and 0 < float(text) < 1


def _colour(text: str) -> bool:
    return re.fullmatch(r"#[0-9a-fA-F]{6}", text.strip()) is not None


def _millimetres(text: str) -> bool:
    return text.strip().endswith("mm") and _above(text.strip()[:-2])


def _one_of(*words: str) -> Rule:
    return lambda text: text.strip() in words


def _numbers(count: int | None = None) -> Rule:
    def rule(text: str) -> bool:
        found = text.replace(",", " ").split()
        return bool(found) and all(map(number, found)) and (count is None or len(found) == count)

    return rule


def _call(name: str, count: int) -> Rule:
    """``name(numbers)``, one, and nothing after it."""

    def rule(text: str) -> bool:
        text = text.strip()
        return text.startswith(f"{name}(") and text.endswith(")") and _numbers(count)(text[len(name) + 1 : -1])

    return rule


_OPERANDS = {"M": 2, "L": 2, "C": 6, "A": 7, "Z": 0}
"""What a path may say, all of it absolute, and of how many numbers each is (SVG 1.1, 8.3)."""


def path(text: str) -> bool:
    at, command, taken = 0, "", 0
    while (at := _BETWEEN.match(text, at).end()) < len(text):  # type: ignore[union-attr]
        if text[at] in _OPERANDS:
            if command and not _whole(command, taken):
                return False
            if not command and text[at] != "M":
                return False
            command, taken, at = text[at], 0, at + 1
            continue
        found = _NUMBER.match(text, at)
        if found is None or not _OPERANDS.get(command):
            return False
        taken, at = taken + 1, found.end()
    return bool(command) and _whole(command, taken)


def _whole(command: str, taken: int) -> bool:
    wants = _OPERANDS[command]
    return taken == 0 if wants == 0 else taken > 0 and taken % wants == 0


def _anything(text: str) -> bool:
    return bool(text)


@dataclass(frozen=True)
class Form:
    """One thing that may stand in the file: attributes that it must have, others that it may, what may stand in it, and whether
    words may."""

    must: Mapping[str, Rule]
    may: Mapping[str, Rule] = field(default_factory=dict)
    holds: frozenset[str] = frozenset()
    words: bool = False


_PAINTED = {"opacity": _share, "style": _one_of(MULTIPLIED)}
_STROKED = {"path", "circle", "ellipse"}
_ENDS, _JOINS = _one_of("butt", "round", "square"), _one_of("miter", "round", "bevel")
_NONE = _one_of("none")

FORMS: Mapping[str, tuple[str, Form]] = {
    "svg": ("svg", Form(
        {"width": _millimetres, "height": _millimetres, "viewBox": _numbers(4)},
        holds=frozenset({"title", "named", "strokes", "areas", "words", "pictures"}),
    )),
    "title": ("title", Form({}, words=True)),
    "named": ("g", Form({"id": _anything}, holds=frozenset({"named", "strokes", "areas", "words", "pictures"}))),
    "strokes": ("g", Form(
        {"fill": _NONE, "stroke": _colour, "stroke-width": _above, "stroke-linecap": _ENDS, "stroke-linejoin": _JOINS},
        {"stroke-dasharray": _numbers(), "stroke-dashoffset": number, **_PAINTED}, frozenset(_STROKED),
    )),
    "areas": ("g", Form(
        {"fill": _colour, "fill-rule": _one_of("nonzero", "evenodd"), "stroke": _NONE}, _PAINTED, frozenset({"path"}),
    )),
    "words": ("g", Form({"fill": _colour, "stroke": _NONE}, _PAINTED, frozenset({"text"}))),
    "pictures": ("g", Form({}, {"style": _one_of(MULTIPLIED)}, frozenset({"image"}))),
    "path": ("path", Form({"d": path})),
    "circle": ("circle", Form({"cx": number, "cy": number, "r": _above})),
    "ellipse": ("ellipse", Form(
        {"cx": number, "cy": number, "rx": _above, "ry": _above, "transform": _call("rotate", 3)},
    )),
    "text": ("text", Form({
        "transform": _call("matrix", 6), "font-family": _anything, "font-size": _above, "textLength": number,
        "lengthAdjust": _one_of("spacingAndGlyphs"), f"{XML} space": _one_of("preserve"),
    }, words=True)),
    "image": ("image", Form({
        "width": _one_of("1"), "height": _one_of("1"), "preserveAspectRatio": _NONE, "transform": _call("matrix", 6),
        "href": lambda text: _PICTURE.fullmatch(text) is not None,
    })),
}  # fmt: skip
"""What may stand in the file, by a name of ours: its element, and its form. A group is what its attributes make of it."""


def _form_of(element: str, given: Mapping[str, str]) -> str:
    """The name of the form that an element is meant as; '' where it is none. A group is meant as that of which it has the most
    and lacks the least."""
    if element != "g":
        return element if element in FORMS and FORMS[element][0] == element else ""

    def likeness(name: str) -> tuple[int, int]:
        form = FORMS[name][1]
        return len(given.keys() & (form.must.keys() | form.may.keys())), -len(form.must.keys() - given.keys())

    return max((name for name, (own, _) in FORMS.items() if own == "g"), key=likeness)


class _Reader:
    """Walks a file, and notes what does not belong."""

    def __init__(self, blend: bool) -> None:
        self.blend = blend
        self.wrong: Counter[str] = Counter()
        self.lines: dict[str, int] = {}
        self.count: Counter[str] = Counter()
        self.open: list[str] = []
        self.parser = expat.ParserCreate(namespace_separator=" ")
        self.parser.StartElementHandler = self.start
        self.parser.EndElementHandler = lambda name: self.open.pop()
        self.parser.CharacterDataHandler = self.words
        self.parser.ProcessingInstructionHandler = lambda target, data: self.note(f"an instruction {target}")
        self.parser.StartDoctypeDeclHandler = lambda *facts: self.note("a document type of its own")
        self.parser.StartCdataSectionHandler = lambda: self.note("words that are no markup")

    def note(self, what: str) -> None:
        self.lines.setdefault(what, self.parser.CurrentLineNumber)
        self.wrong[what] += 1

    def start(self, name: str, given: dict[str, str]) -> None:
        space, _, element = name.rpartition(" ")
        within = self.open[-1] if self.open else ""
        form = _form_of(element, given) if space == SVG else ""
        self.open.append(form)
        self.count[form] += 1
        if not form:
            # what stands in it is not told once more
            if within or len(self.open) == 1:
                self.note(f"the element {element}" if space == SVG else f"the element {element} of another kind")
            return
        if form != "svg" if len(self.open) == 1 else form not in FORMS[within][1].holds if within else False:
            self.note(f"the element {element} where none stands")
        must, may = FORMS[form][1].must, FORMS[form][1].may
        for key, value in given.items():
            rule = must.get(key) or may.get(key)
            told = key.rpartition(" ")[2]
            if rule is None:
                self.note(f"the attribute {told} of {element}")
            elif not rule(value):
                self.note(f"{told} of {element} as {value[:40]!r}")
        for key in must.keys() - given.keys():
            self.note(f"{element} without {key.rpartition(' ')[2]}")
        if form in ("strokes", "areas", "words", "pictures") and ("style" in given) is not self.blend:
            self.note(f"colours that are {'not ' if self.blend else ''}multiplied where they cross")
        if form == "svg" and not self.wrong:
            window = [float(own) for own in given["viewBox"].replace(",", " ").split()]
            sheet = [0.0, 0.0, *(float(given[side].strip()[:-2]) for side in ("width", "height"))]
            if max(abs(a - b) for a, b in zip(window, sheet, strict=True)) > 1e-6:
                self.note("a window that is not the sheet, in millimetres")

    def words(self, text: str) -> None:
        form = self.open[-1] if self.open else ""
        if text.strip() and form and not FORMS[form][1].words:
            self.note("words outside of texts")


def svg_grammar_checks(data: bytes, blend: bool) -> list[Check]:
    """Whether a file is made of nothing but what we write, and *blend*, whether its colours are multiplied where they cross."""
    reader = _Reader(blend)
    try:
        reader.parser.Parse(data, True)
    except expat.ExpatError as error:
        return [_check("fails", f"it is no XML: {error}")]
    if reader.count["title"] != 1:
        reader.note(f"{reader.count['title']} titles")
    if reader.wrong:
        told = [f"{what} (line {reader.lines[what]}{f', {n} times' if n > 1 else ''})" for what, n in reader.wrong.items()]
        more = f", and {len(told) - 5} more" if len(told) > 5 else ""
        return [_check("fails", f"It has what we do not write: {', '.join(told[:5])}{more}")]
    return [_check("holds", f"{sum(reader.count.values())} elements, each as we write it")]


def _check(verdict: str, reading: str) -> Check:
    return Check.model_validate({"code": "grammar", "title": "Made of", "verdict": verdict, "reading": reading})
