"""Drawings that tests make, as the application has them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import ezdxf

from skalto.core.artwork import Artwork
from skalto.core.errors import InputError
from skalto.core.layout.families import of_model
from skalto.core.output.pdf.document import write_pdf
from skalto.core.output.pdf.metadata import Metadata
from skalto.core.pages.composition import compose
from skalto.core.pages.page import Page, SheetContext, ViewLines
from skalto.core.paper import FrameStyle
from skalto.core.quantities import Scale
from skalto.core.sheets.annotations import Detail, Section
from skalto.core.sheets.content import DetailContent, DrawingContent, SectionContent
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.drawings.drawing import Drawing
from skalto.core.sources.drawings.excerpt import Excerpt
from skalto.core.sources.drawings.original import page_alone
from skalto.core.sources.reading import read_drawing
from skalto.services.results.drawings import excerpt_lines, facts_of_drawing, page_number

NOW = datetime(2026, 1, 1, tzinfo=UTC)


def dxf(path: Path, draw: Callable[[Any, Any], None], version: str = "R2010", units: int = 4, binary: bool = False) -> Path:
    """A DXF file of what *draw* puts into the document and its drawing."""
    doc: Any = ezdxf.new(version, setup=True, units=units)
    doc.styles.add("Sans", font="LiberationSans.ttf")
    draw(doc, doc.modelspace())
    doc.saveas(path, fmt="bin" if binary else "asc")
    return path


def read(path: Path) -> Drawing:
    return read_drawing(path, path.name)


def of_kind(artwork: Artwork, kind: str) -> list[Any]:
    """The items of one kind."""
    return [item for item in artwork if item.kind == kind]


def sheet_of(excerpt: Excerpt, paper: str, scale: str = "1:1", place: tuple[float, float] | None = None) -> SheetSpec:
    """A bare sheet with one excerpt, its region's middle at *place* or in the middle."""
    sheet = SheetSpec(
        id="s", name="Sheet", format=paper, frame=FrameStyle.NONE, furniture=frozenset(), scale=Scale.parse(scale)
    )
    size = sheet.paper()
    x0, y0, x1, y1 = excerpt.region or (0, 0, 0, 0)
    view = ViewSpec(
        id="v",
        source="s",
        name="plan",
        content=DrawingContent(excerpt=excerpt),
        scale=Scale.parse(scale),
        anchor=((x0 + x1) / 2, (y0 + y1) / 2),
        place=place or (float(size.width) / 2, float(size.height) / 2),
        centres=False,
    )
    return sheet.with_views((view,))


def page_and_lines(drawing: Drawing, sheet: SheetSpec) -> tuple[Page, dict[str, ViewLines]]:
    """The composed page, with what is told of it, and the lines of its views."""
    lines = {v.id: excerpt_lines(drawing.spaces[v.excerpt.space], v.excerpt) for v in sheet.views if v.excerpt}
    return compose(sheet, lines, SheetContext({"s": facts_of_drawing(drawing.facts)})), lines


def page_of(drawing: Drawing, sheet: SheetSpec) -> Page:
    """The composed page alone."""
    return page_and_lines(drawing, sheet)[0]


def pdf_of(drawing: Drawing, *sheets: SheetSpec) -> bytes:
    return write_pdf([page_of(drawing, sheet) for sheet in sheets], Metadata("x", created=NOW))


def as_section(view: ViewSpec, section: Section) -> ViewSpec:
    """A view as a section."""
    return view.model_copy(update={"content": SectionContent(plane=section, **of_model(view))})


def enlarged(view: ViewSpec, detail: Detail) -> ViewSpec:
    """A view as a detail of itself."""
    return view.model_copy(update={"content": DetailContent(circle=detail, of=view.whole)})


def drawn_excerpt(drawing: Drawing, path: Path, excerpt: Excerpt) -> ViewLines:
    """A drawing's lines as a view shows them, and for a PDF the page that they are of."""
    lines = excerpt_lines(drawing.spaces[excerpt.space], excerpt)
    number = page_number(drawing.facts, excerpt.space)
    if number is None:
        return lines
    try:
        alone = page_alone(path.read_bytes(), number)
    except InputError:
        alone = b""
    return replace(lines, original=alone)
