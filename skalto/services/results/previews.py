"""Small pictures of the pages of a drawing, for choosing among them."""

from __future__ import annotations

import io
from datetime import UTC, datetime
from typing import Any

import numpy as np
import pypdfium2 as pdfium

from skalto.core.artwork import Artwork
from skalto.core.errors import InputError
from skalto.core.geometry import Array
from skalto.core.layout.drawing_views import page_sheet
from skalto.core.output.pdf.document import write_pdf
from skalto.core.output.pdf.metadata import Metadata
from skalto.core.output.pdf.onto import place_of
from skalto.core.output.pixels import PictureRequest, draw_pages
from skalto.core.pages.composition import compose
from skalto.core.pages.page import SheetContext
from skalto.core.quantities import MM_PER_INCH
from skalto.core.sources.drawings.drawing import DrawingFacts, SpaceFacts
from skalto.core.sources.drawings.snapping import snap_places
from skalto.services.results.drawings import facts_of_drawing
from skalto.services.results.lines import project_lines
from skalto.services.results.writing import page_alone
from skalto.services.stored import keys
from skalto.services.stored.context import load_facts
from skalto.store.blobs import Blobs

SIDE = 320
"""The longer side of a preview, pixels."""
_PAGE_DPI, _PAGE_SIDE = 144, 2400
"""Of a finished page on the desk: its resolution, and its longer side at most, pixels."""
_GUIDE, _MOST_GUIDES = 8.0, 120
"""How long a line is that an area snaps to, mm, and how many there are each way."""


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


def finished_page(store: Blobs, source: str, number: int) -> tuple[bytes, dict[str, Any]]:
    """A page of a PDF, from 1, as a PNG, its size as it is seen, mm, and where lines lie on it that an area snaps to.

    :raises InputError: for a page that is not there, and a file that cannot be opened.
    """
    data = store.get(keys.file_key(source))
    place = place_of(data, number)
    dpi = max(10, min(_PAGE_DPI, round(_PAGE_SIDE / max(place.width, place.height) * MM_PER_INCH)))
    picture = draw_pages(page_alone(data, number), PictureRequest(dpi=dpi))[0]
    artwork = Artwork.from_bytes(store.get(keys.model_key(source, f"space-{number - 1}.art")))
    space = load_facts(store, source).drawing
    told = None if space is None else space.spaces[number - 1]
    unit, origin = (1.0, (0.0, 0.0)) if told is None else (told.unit, (told.declared or (0.0, 0.0))[:2])
    ends = (snap_places(artwork)[0] - np.asarray(origin, float)) * unit
    return picture, {"width": place.width, "height": place.height, "xs": guides(ends, 0), "ys": guides(ends, 1)}


def guides(ends: Array, axis: int) -> list[float]:
    """Where upright (0) or level (1) lines lie, by the ends (n, 2) of what is drawn, mm: places at which two ends or more lie,
    far from one another; the longest ones."""
    if not len(ends):
        return []
    places = np.round(ends[:, axis], 2)
    order = np.argsort(places, kind="stable")
    values, starts = np.unique(places[order], return_index=True)
    across = ends[order, 1 - axis]
    reach = np.maximum.reduceat(across, starts) - np.minimum.reduceat(across, starts)
    kept = np.flatnonzero(reach >= _GUIDE)
    kept = kept[np.argsort(-reach[kept], kind="stable")][:_MOST_GUIDES]
    return sorted(float(v) for v in values[kept])
