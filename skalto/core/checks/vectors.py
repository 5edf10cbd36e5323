"""The vector data of a PDF page as pdfium finds it: paths in millimetres, stroke widths, and whose they are."""

from __future__ import annotations

import ctypes
import itertools
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import pypdfium2 as pdfium
import pypdfium2.raw as raw
from numpy.typing import NDArray

from skalto.core.checks.segments import read_segments
from skalto.core.geometry import Array, bezier_bounds
from skalto.core.quantities import PT_PER_MM

MM_PER_PT = float(1 / PT_PER_MM)


@dataclass(frozen=True, eq=False)
class Subpath:
    """A run of cubic Béziers (n, 4, 2), mm on the page; straight pieces are cubics with their arms on the chord."""

    curves: Array
    straight: np.ndarray
    closed: bool


@dataclass(frozen=True, eq=False)
class Paths:
    """Painted paths in drawing order, what is known of each in arrays: the line *width* in mm (nan where it is not stroked),
    the *view*'s number or empty, whether it is marked as *unseen*, as the hidden edges of a view are, whether it is part of a
    page *placed* as it is, and a *box* (n, 4), mm, that it does not leave, line width and all.

    Subpaths are read when they are asked for, while the document is open.
    """

    width: Array
    view: NDArray[np.str_]
    unseen: NDArray[np.bool_]
    placed: NDArray[np.bool_]
    box: Array
    _objects: tuple[Any, ...]
    _to_mm: Array
    _page: Any
    """Kept, since pdfium forgets the objects of a page that is let go."""

    def __len__(self) -> int:
        return len(self.width)

    @property
    def page(self) -> Any:
        """pdfium's page that they are of."""
        return self._page

    def rows(self, chosen: NDArray[Any]) -> Paths:
        """Only some, by a mask or by numbers."""
        numbers = np.flatnonzero(chosen) if chosen.dtype == bool else chosen
        objects = tuple(self._objects[n] for n in numbers.tolist())
        known = self.width[numbers], self.view[numbers], self.unseen[numbers], self.placed[numbers], self.box[numbers]
        return Paths(*known, objects, self._to_mm[numbers], self._page)

    def subpaths(self, number: int) -> tuple[Subpath, ...]:
        """:raises ValueError: when the document has been closed."""
        self._still_open()
        curves, straight, sub, closed, _ = read_segments(self._objects[number : number + 1])
        points = curves @ self._to_mm[number, :2] + self._to_mm[number, 2]
        ends = np.searchsorted(sub, np.arange(len(closed) + 1)).tolist()
        return tuple(Subpath(points[a:b], straight[a:b], bool(closed[n])) for n, (a, b) in enumerate(itertools.pairwise(ends)))

    def curves(self) -> tuple[Array, NDArray[np.int64]]:
        """All pieces of all paths as cubic Béziers (m, 4, 2), mm, and the number of the path that each is of, (m,)."""
        self._still_open()
        points, _, sub, _, before = read_segments(self._objects)
        owner = np.searchsorted(before, sub, side="right") - 1
        matrices = self._to_mm[owner]
        return np.einsum("nki,nij->nkj", points, matrices[:, :2]) + matrices[:, None, 2], owner

    def _still_open(self) -> None:
        if not self._page.raw:
            raise ValueError("The document has been closed, and its paths went with it.")

    def bounds(self, turn: float = 0.0) -> Array | None:
        """Lowest and highest corner of the centre lines, shape (2, 2), along axes that are turned
        by *turn* radians counter-clockwise; None without any.

        Only those are read whose boxes reach beyond what is known already, so that few of many have to be.
        """
        found = np.array(((np.inf, np.inf), (-np.inf, -np.inf)))
        cos, sin = np.cos(turn), np.sin(turn)
        axes = np.array(((cos, -sin), (sin, cos)))  # a point's coordinates along the turned axes
        corners = self.box[:, [0, 1, 2, 1, 2, 3, 0, 3]].reshape(-1, 4, 2)
        turned = np.concatenate(((corners @ axes).min(axis=1), (corners @ axes).max(axis=1)), axis=1) if turn else self.box
        for side in range(4):
            low, axis = side < 2, side % 2
            reach = turned[:, side] if low else -turned[:, side]
            for number in np.argsort(reach, kind="stable").tolist():
                best = found[0, axis] if low else -found[1, axis]
                if reach[number] - _SLACK >= best:
                    break
                curves = [sub.curves for sub in self.subpaths(number)]
                if curves:
                    boxes = bezier_bounds(np.concatenate(curves) @ axes if turn else np.concatenate(curves))
                    found[0] = np.minimum(found[0], boxes[:, 0].min(axis=0))
                    found[1] = np.maximum(found[1], boxes[:, 1].max(axis=0))
        return found if np.isfinite(found).all() else None


@dataclass(frozen=True, eq=False)
class PageVectors:
    """A page: size in mm, and its paths."""

    width: float
    height: float
    paths: Paths


_SLACK = 1e-3
"""What a box in single precision may be too small, mm."""


class _Marks:
    """The marked content that paths stand in. A mark is the same object for all that stands in it, and read once."""

    def __init__(self) -> None:
        self._known: dict[int, tuple[str | None, bool]] = {}

    def of(self, page_object: Any) -> tuple[str, bool]:
        """The number of the view that a path stands in, '' for none, and whether it is marked as unseen."""
        view, unseen = "", False
        for i in range(raw.FPDFPageObj_CountMarks(page_object)):
            mark = raw.FPDFPageObj_GetMark(page_object, i)
            address = ctypes.addressof(mark.contents)
            if address not in self._known:
                self._known[address] = _read_mark(mark)
            number, hidden = self._known[address]
            view, unseen = view or number or "", unseen or hidden
        return view, unseen


def _read_mark(mark: Any) -> tuple[str | None, bool]:
    buffer, length = (raw.FPDF_WCHAR * 64)(), ctypes.c_ulong()
    raw.FPDFPageObjMark_GetName(mark, buffer, 128, length)
    name = bytes(buffer)[: length.value].decode("utf-16-le").rstrip("\0")
    if name != "View":
        return None, name == "Unseen"
    value, size = (raw.FPDF_WCHAR * 64)(), ctypes.c_ulong()
    if raw.FPDFPageObjMark_GetParamStringValue(mark, b"Number", value, 128, size):
        return bytes(value)[: size.value].decode("utf-16-le").rstrip("\0"), False
    return None, False


@dataclass
class _Gathered:
    """What pdfium says of the paths of a page, as plain numbers, to be turned into mm together."""

    objects: list[Any] = field(default_factory=list)
    boxes: list[float] = field(default_factory=list)
    matrices: list[float] = field(default_factory=list)
    widths: list[float] = field(default_factory=list)
    views: list[str] = field(default_factory=list)
    unseen: list[bool] = field(default_factory=list)
    placed: list[bool] = field(default_factory=list)
    above: list[int] = field(default_factory=list)
    """Which of the matrices of forms each lies under."""
    forms: list[Array] = field(default_factory=list)


def _gather(objects: Iterator[Any], above: Array, found: _Gathered, marks: _Marks, around: str | None = None) -> None:
    """*around* is the view of the form whose objects they are, None for those of the page itself."""
    own_form = len(found.forms)
    found.forms.append(above)
    fill, stroke, value, m = ctypes.c_int(), raw.FPDF_BOOL(), ctypes.c_float(), raw.FS_MATRIX()
    left, bottom, right, top = (ctypes.c_float() for _ in range(4))
    at_fill, at_stroke, at_value, at_matrix = (ctypes.byref(v) for v in (fill, stroke, value, m))
    sides = [ctypes.byref(v) for v in (left, bottom, right, top)]
    kind_of, matrix_of, mode_of = raw.FPDFPageObj_GetType, raw.FPDFPageObj_GetMatrix, raw.FPDFPath_GetDrawMode
    width_of, bounds_of_object = raw.FPDFPageObj_GetStrokeWidth, raw.FPDFPageObj_GetBounds
    for page_object in objects:
        kind = kind_of(page_object)
        if kind != raw.FPDF_PAGEOBJ_PATH and kind != raw.FPDF_PAGEOBJ_FORM:
            continue
        matrix_of(page_object, at_matrix)
        own = (m.a, m.b, m.c, m.d, m.e, m.f)
        if kind == raw.FPDF_PAGEOBJ_FORM:
            count = raw.FPDFFormObj_CountObjects(page_object)
            parts = (raw.FPDFFormObj_GetObject(page_object, i) for i in range(count))
            matrix = np.array(own).reshape(3, 2)
            own_view = marks.of(page_object)[0] if around is None else around
            _gather(parts, np.vstack((matrix[:2] @ above[:2], matrix[2] @ above[:2] + above[2])), found, marks, own_view)
            continue
        mode_of(page_object, at_fill, at_stroke)
        if not (fill.value or stroke.value):
            continue
        width_of(page_object, at_value)
        bounds_of_object(page_object, *sides)
        found.objects.append(page_object)
        found.boxes += (left.value, bottom.value, right.value, top.value)
        found.matrices += own
        found.widths.append(value.value if stroke.value else float("nan"))
        view, unseen = marks.of(page_object) if around is None else (around, False)
        found.views.append(view)
        found.unseen.append(unseen)
        found.placed.append(around is not None)
        found.above.append(own_form)


def _finished(found: _Gathered, unit: float, page: Any) -> Paths:
    """Paths in mm. A box is in the space that its object lies in, the object's own matrix done."""
    above = np.array(found.forms).reshape(-1, 3, 2)[found.above]
    corners = np.array(found.boxes).reshape(-1, 4)[:, [0, 1, 2, 1, 2, 3, 0, 3]].reshape(-1, 4, 2)
    corners = corners @ above[:, :2] + above[:, 2:]
    boxes = np.concatenate((corners.min(axis=1), corners.max(axis=1)), axis=1) * unit if len(corners) else np.zeros((0, 4))
    matrices = np.array(found.matrices).reshape(-1, 3, 2) @ above[:, :2]
    matrices[:, 2] += above[:, 2]
    widths = np.array(found.widths) * np.sqrt(np.abs(np.linalg.det(matrices[:, :2]))) * unit
    views, unseen, placed = np.array(found.views, np.str_), np.array(found.unseen, bool), np.array(found.placed, bool)
    return Paths(widths, views, unseen, placed, boxes, tuple(found.objects), matrices * unit, page)


def read_page(document: pdfium.PdfDocument, number: int, user_unit: float = 1.0) -> PageVectors:
    """The paths of a page (number from 0), mm from the lower left of its MediaBox.

    :param user_unit: the page's UserUnit, which pdfium leaves to whoever asks.
    """
    page = document[number]
    unit = MM_PER_PT * user_unit
    left, bottom, right, top = page.get_mediabox()
    count = raw.FPDFPage_CountObjects(page)
    objects = (raw.FPDFPage_GetObject(page, i) for i in range(count))
    origin = np.array(((1.0, 0.0), (0.0, 1.0), (-left, -bottom)))
    found = _Gathered()
    _gather(objects, origin, found, _Marks())
    return PageVectors((right - left) * unit, (top - bottom) * unit, _finished(found, unit, page))
