"""Artwork of 50 000 segments to a PDF page, against reportlab's canvas drawing the same lines."""

from __future__ import annotations

import io
from fractions import Fraction

import numpy as np
from reportlab.pdfgen.canvas import Canvas

from bench.clock import best_of, told
from bench.size import sized
from skalto.core.artwork import Artwork, EdgeClass, Lines, Tags
from skalto.core.geometry import Similarity
from skalto.core.output.pdf.document import write_pdf
from skalto.core.output.pdf.metadata import Metadata
from skalto.core.pages.page import Page, PlacedView
from skalto.core.quantities import FULL_SIZE
from skalto.core.sheets.content import ProjectionContent
from skalto.core.sheets.sheet import ViewSpec

SEGMENTS = sized(50_000, 500)
TIMES_FASTER = 4.0


def _segments() -> np.ndarray:
    random = np.random.default_rng(5)
    start = random.uniform((10, 10), (400, 280), (SEGMENTS, 2))
    return np.stack((start, start + random.normal(0, 5, (SEGMENTS, 2))), axis=1)


def _ours(points: np.ndarray) -> bytes:
    artwork = Artwork((Lines(Tags(EdgeClass.VISIBLE), points),))
    view = ViewSpec(id="v", source="s", name="top", content=ProjectionContent(look=(0, 0, -1), up=(0, 1, 0)))
    placed = PlacedView(view, artwork, artwork.bounds(), FULL_SIZE, Similarity(), ())
    return write_pdf([Page("Lines", Fraction(420), Fraction(297), Artwork(), (placed,))], Metadata("Lines"))


def _reportlab(points: np.ndarray) -> bytes:
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(420 / 25.4 * 72, 297 / 25.4 * 72), pageCompression=1)
    canvas.setLineWidth(0.5 / 25.4 * 72)
    canvas.setLineCap(1)
    for x0, y0, x1, y1 in (points.reshape(-1, 4) / 25.4 * 72).tolist():
        canvas.line(x0, y0, x1, y1)
    canvas.showPage()
    canvas.save()
    return out.getvalue()


def run() -> None:
    points = _segments()
    ours, reference = best_of(5, lambda: _ours(points), lambda: _reportlab(points))
    limit = 1 / TIMES_FASTER
    told(f"{SEGMENTS} segments to PDF", ours, reference, f"<= {limit:g}", ours <= limit * reference)
    own, other = len(_ours(points)), len(_reportlab(points))
    print(f"{'the file':<44} {own:9d} bytes  reference {other:9d} bytes  {'holds' if own <= other else 'DOES NOT HOLD'}")
