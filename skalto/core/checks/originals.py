"""Pages of other PDFs that a file shows as they are: every path where the page has it, every operator the same."""

from __future__ import annotations

import io
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import pikepdf
import pypdfium2 as pdfium
import shapely
from pdfminer.pdfpage import PDFPage
from pdfminer.pdftypes import PDFStream

from skalto.core.artwork import Artwork, Beziers, EdgeClass, Tags
from skalto.core.artwork.crop_to_outline import clip
from skalto.core.checks.vectors import MM_PER_PT, PageVectors, Paths, read_page
from skalto.core.checks.verdict import Check
from skalto.core.geometry import Array, bezier_bounds
from skalto.core.pdf_dictionaries import ViewRecord, resolved
from skalto.core.sources.drawings.original import content_of, lying

LIMIT_UM = 1.0
SINGLE = 2.4e-7
"""What single precision adds, as a share of the page's longer side."""

WIDTH_SHARE = 1e-4
"""What a line's width may be off, as a share of it."""


@dataclass(frozen=True, eq=False)
class Placing:
    """A page that is to be shown as it is: its *label*, the page alone, and where it goes: the matrix (3, 2) from mm of the
    page, as it lies upright, to mm of the sheet."""

    label: str
    data: bytes
    matrix: Array


def within_regions(vectors: PageVectors, views: Sequence[ViewRecord]) -> PageVectors:
    """The same without what placed pages have outside the part that shows; boxes go no further than it."""
    paths = vectors.paths
    if not paths.placed.any():
        return vectors
    keep, box = np.ones(len(paths), bool), paths.box.copy()
    for view in views:
        if not view.region:
            continue
        own = paths.placed & (paths.view == view.mark)
        (x0, y0), (x1, y1) = np.min(view.region, axis=0).tolist(), np.max(view.region, axis=0).tolist()
        keep &= ~own | ((box[:, 0] <= x1) & (box[:, 1] <= y1) & (box[:, 2] >= x0) & (box[:, 3] >= y0))
        box[own] = np.clip(box[own], (x0, y0, x0, y0), (x1, y1, x1, y1))
    return replace(vectors, paths=replace(paths, box=box).rows(keep))


def cut_bounds(paths: Paths, region: Sequence[tuple[float, float]], turn: float) -> Array | None:
    """As :meth:`Paths.bounds`, of what lies within a region alone, along axes turned by *turn* radians."""
    curves, _ = paths.curves()
    inside = clip(Artwork((Beziers(Tags(EdgeClass.DRAWN), curves),)), shapely.Polygon(region)) if len(curves) else Artwork()
    points = [item.points for item in inside if isinstance(item, Beziers)]
    if not points:
        return None
    cos, sin = math.cos(turn), math.sin(turn)
    boxes = bezier_bounds(np.concatenate(points) @ np.array(((cos, -sin), (sin, cos))))
    return np.stack((boxes[:, 0].min(axis=0), boxes[:, 1].max(axis=0)))


def original_checks(page: PDFPage, vectors: PageVectors, asked: Mapping[int, Placing], number: int) -> list[Check]:
    """Every placed page against the page itself, by pdfium and pdfminer.six; *number* is the sheet's, from 1."""
    return [_check(page, vectors.paths.rows(_of(vectors.paths, view)), placing, number) for view, placing in asked.items()]


def _of(paths: Paths, view: int) -> Any:
    return paths.placed & (paths.view == str(view))


def _check(page: PDFPage, paths: Paths, placing: Placing, number: int) -> Check:
    def made(verdict: Any, reading: str) -> Check:
        return Check(code="page-placed", title=placing.label, verdict=verdict, reading=reading, page=number)

    with pikepdf.open(io.BytesIO(placing.data)) as source:
        how, content = lying(source.pages[0]), content_of(source.pages[0])
    if not any(form == content for form in _forms(page)):
        return made("fails", "the page's operators are not in the file as they are")
    document = pdfium.PdfDocument(placing.data)
    try:
        own = read_page(document, 0, how.unit)
        wanted, _ = own.paths.curves()
        found, _ = paths.curves()
        if found.shape != wanted.shape:
            return made("fails", f"{len(paths)} paths for the {len(own.paths)} of the page")
        # pdfium reads a page's content as it stands, from the media box's corner
        turned = how.upright() * (MM_PER_PT * how.unit)
        there = (wanted / (MM_PER_PT * how.unit) + np.array(how.box[:2])) @ turned[:2] + turned[2]
        there = there @ placing.matrix[:2] + placing.matrix[2]
        off = float(np.abs(found - there).max(initial=0.0)) * 1000
        limit = LIMIT_UM + SINGLE * 1000 * max(own.width, own.height, float(np.abs(there).max(initial=0.0)))
        grown = math.sqrt(abs(float(np.linalg.det(placing.matrix[:2]))))
        widths = np.nan_to_num(paths.width), np.nan_to_num(own.paths.width) * grown
        wide = bool((np.abs(widths[0] - widths[1]) <= WIDTH_SHARE * widths[1] + 1e-5).all())
    finally:
        document.close()
    if off > limit or not wide:
        return made("fails", f"placed {off:.1f} µm from where it belongs" if off > limit else "its lines are of another width")
    return made("holds", f"placed as it is: {len(paths)} paths within {off:.2f} µm, every operator the same")


def _forms(page: PDFPage) -> list[bytes]:
    found = []
    for entry in (resolved((resolved(page.resources) or {}).get("XObject")) or {}).values():
        form = resolved(entry)
        if isinstance(form, PDFStream) and getattr(form.get("Subtype"), "name", "") == "Form":
            found.append(form.get_data())
    return found
