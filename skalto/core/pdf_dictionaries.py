"""What a PDF's dictionaries say of scale, read with pdfminer.six, which did not write them."""

from __future__ import annotations

import io
import re
from dataclasses import dataclass
from typing import Any

from pdfminer.pdfdocument import PDFDocument
from pdfminer.pdfpage import PDFPage
from pdfminer.pdfparser import PDFParser
from pdfminer.psparser import PSLiteral
from pdfminer.utils import decode_text

from skalto.core.quantities import PT_PER_MM, Scale


@dataclass(frozen=True)
class Viewport:
    """A measurement viewport: name, the ratio as written, its box in mm, and the scale that its factor gives."""

    name: str
    ratio: str
    box: tuple[float, float, float, float]
    scale: float


@dataclass(frozen=True)
class Length:
    """A model length that the file says its drawing can be judged by."""

    kind: str
    value: float
    centre: tuple[float, float] | None


@dataclass(frozen=True)
class ViewRecord:
    """What the writer noted of a view: its mark's number, name, scale and lengths, by how many degrees it is turned, and of a
    page placed as it is the corners of the part that shows, mm, where it is not the whole."""

    mark: str
    name: str
    scale: Scale
    lengths: tuple[Length, ...]
    turn: float = 0.0
    region: tuple[tuple[float, float], ...] = ()


@dataclass(frozen=True)
class PageRecord:
    """The dictionaries of a page."""

    user_unit: float
    media_box: tuple[float, float, float, float]
    viewports: tuple[Viewport, ...]
    views: tuple[ViewRecord, ...]
    format_mm: tuple[float, float] | None
    frame_mm: tuple[float, float, float, float] | None = None


@dataclass(frozen=True)
class FileRecord:
    """The dictionaries of a file: its pages, and whether it asks to be printed without scaling."""

    pages: tuple[PageRecord, ...]
    print_scaling: str | None
    tray_by_size: bool


def resolved(value: Any) -> Any:
    """The object behind any indirect references."""
    from pdfminer.pdftypes import resolve1

    return resolve1(value)


def text_of(value: Any) -> str:
    """A name or string of a dictionary as text."""
    value = resolved(value)
    if isinstance(value, PSLiteral):
        return str(value.name)
    return decode_text(value) if isinstance(value, bytes) else str(value or "")


def _numbers(value: Any) -> list[float]:
    return [float(resolved(v)) for v in resolved(value) or []]


def _viewport(entry: Any, unit: float) -> Viewport | None:
    entry = resolved(entry)
    measure = resolved(entry.get("Measure")) or {}
    formats = resolved(measure.get("X")) or []
    box = _numbers(entry.get("BBox"))
    if not formats or len(box) != 4:
        return None
    per_unit = float(resolved(resolved(formats[0])["C"]))
    return Viewport(
        text_of(entry.get("Name")),
        text_of(measure.get("R")),
        tuple(v * unit for v in box),  # type: ignore[arg-type]
        unit / per_unit if per_unit else 0.0,
    )


def _ratio(text: str) -> Scale:
    match = re.fullmatch(r"\s*(\d+)\s*:\s*(\d+)\s*", text)
    return Scale(int(match[1]), int(match[2])) if match and int(match[2]) else Scale(0)


def _view(entry: Any) -> ViewRecord:
    entry = resolved(entry)
    lengths = []
    for row in resolved(entry.get("Lengths")) or []:
        row = resolved(row)
        centre = _numbers(row["Centre"]) if "Centre" in row else None
        place = (centre[0], centre[1]) if centre else None
        lengths.append(Length(text_of(row.get("Kind")).lower(), float(resolved(row["Value"])), place))
    scale, turn = _ratio(text_of(entry.get("Scale"))), float(resolved(entry.get("Turn")) or 0.0)
    region = _numbers(entry.get("Region"))
    corners = tuple(zip(region[::2], region[1::2], strict=True))
    return ViewRecord(text_of(entry.get("Mark")), text_of(entry.get("Name")), scale, tuple(lengths), turn, corners)


def read_dictionaries(data: bytes, password: str = "") -> FileRecord:
    """Read the page, viewport and print dictionaries of a PDF file."""
    document = PDFDocument(PDFParser(io.BytesIO(data)), password=password)
    return record_of(document, list(PDFPage.create_pages(document)))


def record_of(document: PDFDocument, of: list[PDFPage]) -> FileRecord:
    """The same, of a file that has been opened, and its pages."""
    preferences = resolved(document.catalog.get("ViewerPreferences")) or {}
    pages = []
    for page in of:
        user_unit = float(resolved(page.attrs.get("UserUnit")) or 1.0)
        unit = user_unit * float(1 / PT_PER_MM)
        viewports = [_viewport(v, unit) for v in resolved(page.attrs.get("VP")) or []]
        piece = resolved((resolved(page.attrs.get("PieceInfo")) or {}).get("Skalto")) or {}
        private = resolved(piece.get("Private")) or {}
        size, frame = _numbers(private.get("Format")), _numbers(private.get("Frame"))
        pages.append(
            PageRecord(
                user_unit,
                tuple(float(v) for v in page.mediabox),  # type: ignore[arg-type]
                tuple(v for v in viewports if v is not None),
                tuple(_view(v) for v in resolved(private.get("Views")) or []),
                (size[0], size[1]) if len(size) == 2 else None,
                (frame[0], frame[1], frame[2], frame[3]) if len(frame) == 4 else None,
            )
        )
    scaling = preferences.get("PrintScaling")
    return FileRecord(
        tuple(pages), text_of(scaling) if scaling is not None else None, bool(resolved(preferences.get("PickTrayByPDFSize")))
    )
