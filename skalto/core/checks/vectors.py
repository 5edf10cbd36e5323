"""The vector data of a PDF page as pdfium finds it: paths in millimetres, stroke widths, and whose they are."""

from __future__ import annotations

import ctypes
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import pypdfium2 as pdfium
import pypdfium2.raw as raw

from skalto.core.artwork import Array, bezier_bounds
from skalto.core.quantities import PT_PER_MM

MM_PER_PT = float(1 / PT_PER_MM)


@dataclass(frozen=True, eq=False)
class Subpath:
    """A run of cubic Béziers (n, 4, 2), mm on the page; straight pieces are cubics with their arms on the chord."""

    curves: Array
    straight: np.ndarray
    closed: bool


@dataclass(frozen=True, eq=False)
class Path:
    """A painted path: its subpaths, line width in mm (None when it is not stroked), and the view's number or None."""

    subpaths: tuple[Subpath, ...]
    width: float | None
    view: str | None


@dataclass(frozen=True, eq=False)
class PageVectors:
    """A page: size in mm, and its paths in drawing order."""

    width: float
    height: float
    paths: tuple[Path, ...]


def bounds_of(paths: Sequence[Path]) -> Array | None:
    """Lowest and highest corner of paths, shape (2, 2); None without any."""
    curves = [sub.curves for path in paths for sub in path.subpaths]
    if not curves:
        return None
    boxes = bezier_bounds(np.concatenate(curves))
    return np.array((boxes[:, 0].min(axis=0), boxes[:, 1].max(axis=0)))


def _matrix(page_object: Any) -> Array:
    m = raw.FS_MATRIX()
    raw.FPDFPageObj_GetMatrix(page_object, m)
    return np.array(((m.a, m.b), (m.c, m.d), (m.e, m.f)))


def _segments(page_object: Any) -> Iterator[tuple[int, float, float, bool]]:
    x, y = ctypes.c_float(), ctypes.c_float()
    for i in range(raw.FPDFPath_CountSegments(page_object)):
        segment = raw.FPDFPath_GetPathSegment(page_object, i)
        raw.FPDFPathSegment_GetPoint(segment, x, y)
        kind = raw.FPDFPathSegment_GetType(segment)
        yield kind, x.value, y.value, bool(raw.FPDFPathSegment_GetClose(segment))


def _subpaths(page_object: Any, to_mm: Array) -> list[Subpath]:
    result: list[Subpath] = []
    curves: list[list[tuple[float, float]]] = []
    straight: list[bool] = []
    arms: list[tuple[float, float]] = []
    start = here = (0.0, 0.0)

    def finish(closed: bool) -> None:
        if curves:
            points = np.array(curves) @ to_mm[:2] + to_mm[2]
            result.append(Subpath(points, np.array(straight), closed))
        curves.clear()
        straight.clear()

    def line(to: tuple[float, float]) -> None:
        step = ((to[0] - here[0]) / 3, (to[1] - here[1]) / 3)
        curves.append([here, (here[0] + step[0], here[1] + step[1]), (to[0] - step[0], to[1] - step[1]), to])
        straight.append(True)

    for kind, x, y, close in _segments(page_object):
        if kind == raw.FPDF_SEGMENT_MOVETO:
            finish(False)
            start = here = (x, y)
        elif kind == raw.FPDF_SEGMENT_LINETO:
            line((x, y))
            here = (x, y)
        elif kind == raw.FPDF_SEGMENT_BEZIERTO:
            arms.append((x, y))
            if len(arms) == 3:
                curves.append([here, *arms])
                straight.append(False)
                here = (x, y)
                arms = []
        if close:
            if here != start:
                line(start)
            finish(True)
            here = start
    finish(False)
    return result


def _view_mark(page_object: Any) -> str | None:
    """The number in the marked content of a view, where the path stands in one."""
    for i in range(raw.FPDFPageObj_CountMarks(page_object)):
        mark = raw.FPDFPageObj_GetMark(page_object, i)
        buffer, length = (raw.FPDF_WCHAR * 64)(), ctypes.c_ulong()
        raw.FPDFPageObjMark_GetName(mark, buffer, 128, length)
        name = bytes(buffer)[: length.value].decode("utf-16-le").rstrip("\0")
        if name != "View":
            continue
        value, size = (raw.FPDF_WCHAR * 64)(), ctypes.c_ulong()
        if raw.FPDFPageObjMark_GetParamStringValue(mark, b"Number", value, 128, size):
            return bytes(value)[: size.value].decode("utf-16-le").rstrip("\0")
    return None


def _paths(objects: Iterator[Any], above: Array, unit: float) -> Iterator[Path]:
    for page_object in objects:
        kind = raw.FPDFPageObj_GetType(page_object)
        own = _matrix(page_object)
        matrix = np.vstack((own[:2] @ above[:2], own[2] @ above[:2] + above[2]))
        if kind == raw.FPDF_PAGEOBJ_FORM:
            count = raw.FPDFFormObj_CountObjects(page_object)
            inner = (raw.FPDFFormObj_GetObject(page_object, i) for i in range(count))
            yield from _paths(inner, matrix, unit)
        if kind != raw.FPDF_PAGEOBJ_PATH:
            continue
        fill, stroke = ctypes.c_int(), raw.FPDF_BOOL()
        raw.FPDFPath_GetDrawMode(page_object, fill, stroke)
        if not (fill.value or stroke.value):
            continue
        width = None
        if stroke.value:
            value = ctypes.c_float()
            raw.FPDFPageObj_GetStrokeWidth(page_object, value)
            width = value.value * float(np.sqrt(abs(np.linalg.det(matrix[:2])))) * unit
        yield Path(tuple(_subpaths(page_object, matrix * unit)), width, _view_mark(page_object))


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
    return PageVectors((right - left) * unit, (top - bottom) * unit, tuple(_paths(objects, origin, unit)))
