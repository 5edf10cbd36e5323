"""What of a page's content stands around its strokes: clips, opacity, layers of forms, annotations (ISO 32000-1, 8.4, 8.5.4,
8.10, 12.5.5)."""

from __future__ import annotations

import re
from contextlib import suppress
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import shapely
from pdfminer.pdfcolor import PDFColorSpace
from pdfminer.pdfinterp import PDFPageInterpreter
from pdfminer.pdftypes import PDFStream
from pdfminer.psparser import PSLiteral
from pdfminer.utils import apply_matrix_pt, mult_matrix

from skalto.core.geometry import Box
from skalto.core.pdf_dictionaries import resolved
from skalto.core.sources.drawings.outlines import outline_of
from skalto.core.sources.drawings.pdf_content import subpaths

Matrix = tuple[float, float, float, float, float, float]
_IDENTITY: Matrix = (1.0, 0.0, 0.0, 1.0, 0.0, 0.0)
_SQUARE = 1e-3
"""A clip whose corners are within this of its box, in points, is a rectangle along the page."""
_UNSEEN = 2 | 32
"""An annotation's flags: hidden, or not to be viewed (12.5.3)."""


@dataclass(frozen=True)
class Look:
    """What holds for all that is painted next: the *clip* in points of the page, and the *outline* within it where that is no
    rectangle, a shapely polygon; the opacity of the groups around (*base*), and that of areas and strokes in them."""

    clip: Box | None = None
    outline: Any = None
    base: float = 1.0
    area: float = 1.0
    stroke: float = 1.0

    def within(self, box: Box) -> Look:
        """The same, clipped by *box* too."""
        if self.clip is None:
            return replace(self, clip=box)
        (a, b, c, d), (x0, y0, x1, y1) = self.clip, box
        return replace(self, clip=(max(a, x0), max(b, y0), min(c, x1), min(d, y1)))

    def inside(self, outline: Any) -> Look:
        """The same, clipped by a shapely polygon too."""
        return replace(self, outline=outline if self.outline is None else self.outline.intersection(outline))


def _numbers(value: Any, count: int) -> tuple[float, ...] | None:
    found = resolved(value)
    if not isinstance(found, list | tuple) or len(found) != count:
        return None
    numbers = [resolved(number) for number in found]
    return tuple(float(n) for n in numbers) if all(isinstance(n, int | float) for n in numbers) else None


def _corners(box: tuple[float, ...], matrix: tuple[float, ...]) -> np.ndarray[Any, np.dtype[np.float64]]:
    x0, y0, x1, y1 = box
    return np.array([apply_matrix_pt(matrix, p) for p in ((x0, y0), (x1, y0), (x1, y1), (x0, y1))], float)


class Tinted(PDFColorSpace):  # type: ignore[misc]
    """An ink by name (8.6.6.4), with the colour that it is shown in where a function of the second kind gives it (7.10.3)."""

    def __init__(self, function: Any) -> None:
        super().__init__("Separation", 1)
        self.ends: tuple[tuple[float, ...], tuple[float, ...], float] | None = None
        entry = function.attrs if isinstance(function, PDFStream) else function
        if isinstance(entry, dict) and resolved(entry.get("FunctionType")) == 2:
            none, full = (tuple(float(resolved(v)) for v in resolved(entry.get(key)) or ()) for key in ("C0", "C1"))
            if none and len(none) == len(full):
                self.ends = none, full, float(resolved(entry.get("N")) or 1)

    def seen(self, share: float) -> tuple[float, ...] | None:
        """The colour, in the space that stands in for it, of a share of the ink; None where it is not known."""
        if self.ends is None:
            return None
        none, full, power = self.ends
        return tuple(a + (b - a) * max(share, 0.0) ** power for a, b in zip(none, full, strict=True))


MOST_FORMS = 200_000
"""The most forms and pictures that a page may paint, those within others counted each time."""


_PAINTED = re.compile(rb"/([^\s/<>\[\](){}%]+)\s+Do\b")


def forms_of(page: Any) -> float:
    """How many forms and pictures a page paints, those within others counted each time; before any of it is painted."""
    known: dict[int, float] = {}

    def within(streams: list[Any], resources: Any, around: frozenset[int]) -> float:
        named = resolved((resolved(resources) or {}).get("XObject")) or {}
        total = 0.0
        for stream in streams:
            for name in _PAINTED.findall(stream.get_data()) if isinstance(stream, PDFStream) else []:
                total += 1.0 + of(resolved(named.get(name.decode("latin-1"))), resources, around)
        return total

    def of(form: Any, above: Any, around: frozenset[int]) -> float:
        if not isinstance(form, PDFStream) or "BBox" not in form or id(form) in around:
            return 0.0
        if id(form) not in known:
            known[id(form)] = within([form], form.get("Resources", above), around | {id(form)})
        return known[id(form)]

    return within([resolved(stream) for stream in page.contents], page.resources, frozenset())


class Interpreter(PDFPageInterpreter):  # type: ignore[misc]
    """pdfminer's, which also tells its device of clips, opacity and layers, hands the state down to forms, and counts what it
    cannot give."""

    graphicstate: Any
    _inherited: Any = None
    _clipping: tuple[list[Any], bool] | None = None
    page_matrix: Matrix | None = None

    # state

    def init_state(self, ctm: Any) -> None:
        super().init_state(ctm)
        if self.page_matrix is None:
            self.page_matrix = ctm
        # a line is a unit wide where nothing says otherwise (8.4.1)
        self.graphicstate.linewidth = 1.0
        if self._inherited is not None:
            # a form starts with the state that it is painted in (8.10.1)
            self.graphicstate, self._inherited = self._inherited, None

    def init_resources(self, resources: Any) -> None:
        super().init_resources(resources)
        for name, spec in (resolved((resources or {}).get("ColorSpace")) or {}).items():
            parts = resolved(spec)
            if isinstance(parts, list) and len(parts) > 3 and getattr(resolved(parts[0]), "name", "") == "Separation":
                self.csmap[name] = Tinted(resolved(parts[3]))

    def get_current_state(self) -> Any:
        return (*super().get_current_state(), self.device.look)

    def set_current_state(self, state: Any) -> None:
        super().set_current_state(state[:-1])
        self.device.look = state[-1]

    def do_gs(self, name: Any) -> None:
        known = resolved(self.resources.get("ExtGState")) or {}
        entry = resolved(known.get(name.name if isinstance(name, PSLiteral) else name))
        if not isinstance(entry, dict):
            return
        values = {key: resolved(value) for key, value in entry.items()}
        look = self.device.look
        for key, field in (("ca", "area"), ("CA", "stroke")):
            if isinstance(values.get(key), int | float):
                look = replace(look, **{field: min(max(float(values[key]), 0.0), 1.0)})
        self.device.look = look
        if isinstance(values.get("LW"), int | float):
            self.graphicstate.linewidth = float(values["LW"])
        for key, field in (("LC", "linecap"), ("LJ", "linejoin")):
            if isinstance(values.get(key), int):
                setattr(self.graphicstate, field, values[key])
        dashes = values.get("D")
        if isinstance(dashes, list) and len(dashes) == 2:
            self.graphicstate.dash = (resolved(dashes[0]), resolved(dashes[1]))
        if isinstance(values.get("SMask"), dict):
            self.device.unread["soft mask"] += 1
        modes = values.get("BM")
        first = resolved(modes[0]) if isinstance(modes, list) and modes else modes
        if isinstance(first, PSLiteral) and first.name not in ("Normal", "Compatible"):
            self.device.unread["way of blending colours"] += 1

    def do_w(self, linewidth: Any) -> None:
        """A width counts in the user space in which a stroke is painted, not in that in which it is set (8.4.3.2)."""
        with suppress(TypeError, ValueError):
            self.graphicstate.linewidth = float(linewidth)

    # clips

    def do_W(self) -> None:
        self._clipping = list(self.curpath), True

    def do_W_a(self) -> None:
        self._clipping = list(self.curpath), False

    def _clip(self) -> None:
        """The path that was marked clips what is painted after it (8.5.4)."""
        if self._clipping is None:
            return
        (path, winding), self._clipping = self._clipping, None
        points = [
            apply_matrix_pt(self.ctm, (float(x), float(y)))
            for _, *numbers in path
            for x, y in zip(numbers[::2], numbers[1::2], strict=True)
        ]
        if not points:
            return
        rows = np.array(points, float)
        square = _upright(rows) and sum(row[0] == "m" for row in path) <= 1 and not any(row[0] in "cvy" for row in path)
        look = self.device.look.within(_box(rows))
        if not square:

            def at(x: float, y: float) -> tuple[float, float]:
                return apply_matrix_pt(self.ctm, (x, y))  # type: ignore[no-any-return]

            look = look.inside(outline_of([run.contour() for run in subpaths(path, at)], winding))
        self.device.look = look

    # forms and pictures

    def subinterp(self) -> Interpreter:
        made = super().subinterp()
        made._inherited = self.graphicstate.copy()
        return made  # type: ignore[no-any-return]

    def do_Do(self, name: Any) -> None:
        found = resolved(self.xobjmap.get(name.name if isinstance(name, PSLiteral) else name))
        before = self.device.look
        layer = found.get("OC") if isinstance(found, PDFStream) else None
        if layer is not None:
            self.device.begin_tag(PSLiteral("OC"), layer)
        if isinstance(found, PDFStream) and "BBox" in found:
            box, own = _numbers(found["BBox"], 4), _numbers(found.get("Matrix"), 6) or _IDENTITY
            look = before
            if box is not None:
                corners = _corners(box, mult_matrix(own, self.ctm))
                look = look.within(_box(corners))
                if not _upright(corners):
                    look = look.inside(shapely.Polygon(corners))
            if resolved(found.get("Group")) is not None:
                look = replace(look, base=look.base * look.area, area=1.0, stroke=1.0)
            self.device.look = look
        self.device.ink = (self.graphicstate.ncolor, self.graphicstate.ncs)
        super().do_Do(name)
        if layer is not None:
            self.device.end_tag()
        self.device.look = before
        self.device.set_ctm(self.ctm)

    def do_BDC(self, tag: Any, props: Any) -> None:
        if isinstance(props, PSLiteral):
            known = resolved(resolved(self.resources.get("Properties")) or {}).get(props.name)
            self.device.begin_tag(tag, known)
            return
        self.device.begin_tag(tag, props)

    def do_sh(self, name: Any) -> None:
        self.device.unread["shading: left out"] += 1

    def annotations(self, page: Any) -> None:
        """Paint what stands on a page beside its content, by its normal appearance (12.5.5)."""
        for ref in resolved(page.annots) or []:
            entry = resolved(ref)
            if not isinstance(entry, dict) or int(resolved(entry.get("F")) or 0) & _UNSEEN:
                continue
            kind = getattr(resolved(entry.get("Subtype")), "name", "")
            if kind in ("Popup", "Link", "3D"):
                continue
            form = _appearance(entry)
            box, rect = (_numbers(form.get("BBox"), 4), _numbers(entry.get("Rect"), 4)) if form is not None else (None, None)
            if form is None or box is None or rect is None:
                self.device.unread["annotation without a picture of itself: left out"] += 1
                continue
            self._annotation(entry, form, box, rect)

    def _annotation(self, entry: dict[str, Any], form: PDFStream, box: tuple[float, ...], rect: tuple[float, ...]) -> None:
        own = _numbers(form.get("Matrix"), 6) or _IDENTITY
        x0, y0, x1, y1 = _box(_corners(box, own))
        left, low, right, high = min(rect[0], rect[2]), min(rect[1], rect[3]), max(rect[0], rect[2]), max(rect[1], rect[3])
        wide, tall = (right - left) / (x1 - x0) if x1 > x0 else 1.0, (high - low) / (y1 - y0) if y1 > y0 else 1.0
        fitted = (wide, 0.0, 0.0, tall, left - x0 * wide, low - y0 * tall)
        matrix = mult_matrix(mult_matrix(own, fitted), self.page_matrix or _IDENTITY)
        self.device.look = Look().within(_box(_corners(box, matrix)))
        layer = entry.get("OC")
        if layer is not None:
            self.device.begin_tag(PSLiteral("OC"), layer)
        inner = PDFPageInterpreter.subinterp(self)
        inner.page_matrix = self.page_matrix
        inner.render_contents(resolved(form.get("Resources")) or {}, [form], ctm=matrix)
        if layer is not None:
            self.device.end_tag()
        self.device.look = Look()


def _appearance(entry: dict[str, Any]) -> PDFStream | None:
    shown = resolved((resolved(entry.get("AP")) or {}).get("N"))
    if isinstance(shown, dict):
        state = resolved(entry.get("AS"))
        shown = resolved(shown.get(state.name)) if isinstance(state, PSLiteral) else None
    return shown if isinstance(shown, PDFStream) else None


def _upright(corners: np.ndarray[Any, np.dtype[np.float64]]) -> bool:
    """Whether four corners are those of a rectangle along the page."""
    x0, y0, x1, y1 = _box(corners)
    at_edge = (np.abs(corners - (x0, y0)) < _SQUARE) | (np.abs(corners - (x1, y1)) < _SQUARE)
    return bool(at_edge.all())


def _box(corners: np.ndarray[Any, np.dtype[np.float64]]) -> Box:
    (x0, y0), (x1, y1) = corners.min(axis=0).tolist(), corners.max(axis=0).tolist()
    return x0, y0, x1, y1


def _painting(name: str) -> Any:
    """A painting operator, after which a marked path clips (8.5.3.1)."""
    own = getattr(PDFPageInterpreter, name)

    def paint(self: Interpreter) -> None:
        own(self)
        self._clip()

    return paint


for _name in ("do_S", "do_f", "do_f_a", "do_B", "do_B_a", "do_n"):
    setattr(Interpreter, _name, _painting(_name))
Interpreter.do_F = Interpreter.do_f  # type: ignore[attr-defined]
