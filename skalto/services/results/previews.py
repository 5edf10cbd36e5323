"""Small pictures of the pages of a drawing, for choosing among them."""

from __future__ import annotations

import io
from datetime import UTC, datetime

import pypdfium2 as pdfium

from skalto.core.errors import InputError
from skalto.core.layout.drawing_views import page_sheet
from skalto.core.output.pdf.document import write_pdf
from skalto.core.output.pdf.metadata import Metadata
from skalto.core.pages.composition import compose
from skalto.core.pages.page import SheetContext
from skalto.core.sources.drawings.drawing import DrawingFacts, SpaceFacts
from skalto.services.results.drawings import facts_of_drawing
from skalto.services.results.lines import project_lines
from skalto.services.stored import keys
from skalto.services.stored.context import load_facts
from skalto.store.blobs import Blobs

SIDE = 320
"""The longer side of a preview, pixels."""


def small_page(store: Blobs, source: str, space: str) -> bytes:
    """A page of a PDF, or one saved in a drawing, as a small PNG. :raises InputError: when it has no size."""
    facts = load_facts(store, source).drawing
    if facts is None:
        raise InputError("A model has no pages: choose a drawing.")
    if facts.kind == "pdf":
        number = [own.name for own in facts.spaces].index(space)
        return _small(store.get(keys.file_key(source)), number)
    return _small(_as_pdf(store, source, facts, facts.space(space)), 0)


def _as_pdf(store: Blobs, source: str, facts: DrawingFacts, page: SpaceFacts) -> bytes:
    sheet = page_sheet("preview", source, facts, page, facts.unit_mm or 1.0, facts.hidden_layers())
    lines = {view.id: project_lines(store, source, view.lines()) for view in sheet.views}
    made = compose(sheet, lines, SheetContext(sources={source: facts_of_drawing(facts)}))
    return write_pdf([made], Metadata(page.label, created=datetime(2000, 1, 1, tzinfo=UTC)))


def _small(data: bytes, number: int) -> bytes:
    document = pdfium.PdfDocument(data)
    try:
        page = document[number]
        scale = SIDE / max(page.get_width(), page.get_height(), 1.0)
        out = io.BytesIO()
        page.render(scale=scale).to_pil().convert("RGB").save(out, "PNG", optimize=True)
    finally:
        document.close()
    return out.getvalue()
