"""Pages to a PDF file, through pikepdf (ISO 32000-1; clause numbers are its)."""

from __future__ import annotations

import itertools
import zlib
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from datetime import UTC
from decimal import Decimal
from fractions import Fraction

import numpy as np
import pikepdf
from pikepdf import Array, Dictionary, Name, Pdf, String

from skalto.core.errors import InputError
from skalto.core.output.pdf.content import operators
from skalto.core.output.pdf.finishing import finished
from skalto.core.output.pdf.ink import Ink
from skalto.core.output.pdf.layers import SharedLayers
from skalto.core.output.pdf.metadata import Metadata, Passwords
from skalto.core.output.pdf.originals import why_strokes
from skalto.core.output.pdf.paths import DECIMALS, FINE_DECIMALS, real
from skalto.core.output.pdf.resources import PageResources, SharedFonts, Used
from skalto.core.output.pdf.solids import annotation, facts_stream, holds_solids
from skalto.core.output.staging import staged
from skalto.core.pages.page import Page, PlacedView
from skalto.core.quantities import PT_PER_MM
from skalto.core.recipes import PLAIN, Recipe

MAX_UNITS = 14_400
"""Longest page side in default user space units (Annex C.2, from memory); above it the page takes a UserUnit."""

PIECE = Name("/Skalto")
"""Our key in a page's PieceInfo (14.5): the model lengths by which the page can be measured."""

REDUCED = Fraction(1, 10)
"""At this scale and smaller ones, coordinates have a decimal more: what is a micrometre on paper is ten in the model."""

COMPRESSION = 4
"""zlib's level: a third of the time of its default for a file 4 % larger."""

LONG, LONG_COMPRESSION = 6_000_000, 6
"""Content of more bytes than this goes in pieces, which are packed at once on several processors, and closer."""

SMALLEST = 9
"""The level of a file that is to be as small as it gets."""

NO_ARCHIVE = "An archive file may not hold a 3D model (ISO 19005-2, 6.5): choose another recipe, or remove the 3D annotation."


def user_unit(page: Page) -> int:
    """The smallest whole UserUnit that keeps both sides within :data:`MAX_UNITS` (8.3.2.3, PDF 1.6)."""
    longest = max(page.width, page.height) * PT_PER_MM
    return max(1, -(-longest // MAX_UNITS).__int__())


def _number_format(unit: str, factor: Decimal) -> Array:
    """A number format array of one (12.9, table 266): *factor* times the value, three decimals."""
    return Array([Dictionary(Type=Name.NumberFormat, U=String(unit), C=factor, D=1000, F=Name.D)])


def _viewport(view: PlacedView, factor: Fraction) -> Dictionary:
    """The measurement viewport (12.9) of a view: a reader's ruler reads model millimetres within its box."""
    assert view.box is not None
    per_unit = 1 / (factor * view.scale)
    box = view.box
    if view.region is not None:
        (x0, y0), (x1, y1) = view.region.min(axis=0).tolist(), view.region.max(axis=0).tolist()
        box = x0, y0, x1, y1
    corners = [real(v * float(factor), 4) for v in box]
    measure = Dictionary(
        Type=Name.Measure,
        Subtype=Name.RL,
        R=String(str(view.scale)),
        X=_number_format("mm", real(per_unit, 12)),
        D=_number_format("mm", Decimal(1)),
        A=_number_format("mm²", Decimal(1)),
    )
    return Dictionary(Type=Name.Viewport, BBox=Array(corners), Name=String(view.spec.label), Measure=measure)


def _lengths(view: PlacedView, number: int, as_it_is: bool) -> Dictionary:
    """The view's model lengths, for whoever measures the file: kind, model mm, and for a circle its centre on paper, mm; widths
    and heights are along the view's own axes, which lie turned by *Turn* degrees."""
    rows = []
    for length in view.lengths:
        row = Dictionary(Kind=Name("/" + length.kind.capitalize()), Value=real(length.value, 9))
        if length.centre is not None:
            row.Centre = Array([real(v) for v in view.placement.points(np.array(length.centre)).tolist()])
        if length.component:
            row.Component = String(length.component)
        rows.append(row)
    found = Dictionary(
        Mark=String(str(number)), Name=String(view.spec.label), Scale=String(str(view.scale)), Lengths=Array(rows)
    )
    if view.spec.rotation % 360:
        found.Turn = real(view.spec.rotation)
    if as_it_is and view.region is not None:
        found.Region = Array([real(v) for v in view.region.ravel().tolist()])
    return found


def _streams(pdf: Pdf, content: bytes, level: int | None = None) -> pikepdf.Object:
    """A page's content as a stream, or when it is long as several, parted between operators (7.8.2) and packed side by side."""
    ends = [0]
    while len(content) - ends[-1] > LONG:
        ends.append(content.index(b"\n", ends[-1] + LONG) + 1)
    pieces = [content[a:b] for a, b in itertools.pairwise((*ends, len(content)))]
    level = level or (COMPRESSION if len(pieces) == 1 else LONG_COMPRESSION)
    with ThreadPoolExecutor(max_workers=4) as pool:
        packed = list(pool.map(lambda piece: zlib.compress(piece, level), pieces))
    streams = []
    for data in packed:
        stream = pdf.make_stream(b"")
        stream.write(data, filter=Name.FlateDecode)
        streams.append(stream)
    return streams[0] if len(streams) == 1 else Array([pdf.make_indirect(stream) for stream in streams])


def _page(pdf: Pdf, page: Page, stamp: str, shared: tuple[SharedFonts, SharedLayers], recipe: Recipe) -> None:
    unit = user_unit(page)
    factor = PT_PER_MM / unit
    ink = Ink(recipe.colour, spoken=recipe.file == "cutter")
    resources = PageResources(pdf, *shared, recipe=recipe, ink=ink)
    parts = [ink.beginning(), resources.beginning(recipe.crossing or (recipe.pens or page.pens).crossing)]
    drawn = [view for view in page.views if view.box is not None]
    as_it_is: set[int] = set()
    for view, artwork, pens in staged(page, recipe):
        if view is None or view.box is None:
            parts.append(operators(artwork, pens, resources, unit, ink=ink))
            continue
        # marked content (14.6) tells a reader of the file which strokes are whose
        decimals = FINE_DECIMALS if view.scale <= REDUCED else DECIMALS
        number = next(n for n, other in enumerate(drawn) if other is view)
        if why_strokes(view, pens, recipe) == "":
            as_it_is.add(number)
            own = resources.original(view, float(factor))
        else:
            own = operators(artwork, pens, resources, unit, decimals, ink, apart=recipe.file == "cutter")
        parts.append(b"/View <</Number (%d)>> BDC\n" % number + own + b"EMC\n")
    content = _streams(pdf, b"".join(parts), SMALLEST if recipe.file == "smallest" else None)
    box = Array([0, 0, real(page.width * factor, 6), real(page.height * factor, 6)])
    entry = Dictionary(
        Type=Name.Page,
        MediaBox=box,
        TrimBox=box,
        Resources=resources.dictionary(),
        Contents=content,
        VP=Array([_viewport(view, factor) for view in drawn]),
        PieceInfo=Dictionary(
            {
                str(PIECE): Dictionary(
                    LastModified=String(stamp),
                    Private=Dictionary(
                        Format=Array([real(page.width), real(page.height)]),
                        Frame=Array([real(v) for v in page.inside or ()]),
                        Views=Array([_lengths(view, n, n in as_it_is) for n, view in enumerate(drawn)]),
                    ),
                )
            }
        ),
        LastModified=String(stamp),
    )
    if page.solids and holds_solids(recipe):
        entry.Annots = Array([annotation(pdf, solid, float(factor), resources) for solid in page.solids])
        entry.PieceInfo[PIECE].Private.Solids = facts_stream(pdf, page.solids, recipe)
    if unit > 1:
        entry.UserUnit = unit
    pdf.pages.append(pikepdf.Page(pdf.make_indirect(entry)))


@dataclass(frozen=True)
class Written:
    """A finished file, its twin where it has one, and which glyphs of which faces it holds, by which its pages can go into
    another."""

    data: bytes
    glyphs: Used
    twin: bytes | None = None


def written(pages: Sequence[Page], metadata: Metadata, recipe: Recipe = PLAIN, passwords: Passwords | None = None) -> Written:
    """A PDF of the pages in order; the same pages and choices give the same bytes, unless there are passwords.

    :raises InputError: when the choices do not go together.
    """
    if recipe.file == "archive" and any(page.solids for page in pages):
        raise InputError(NO_ARCHIVE)
    pdf = Pdf.new()
    stamp = metadata.created.astimezone(UTC).strftime("D:%Y%m%d%H%M%SZ")
    fonts, layers = SharedFonts(pdf), SharedLayers(pdf)
    for page in pages:
        _page(pdf, page, stamp, (fonts, layers), recipe)
    if fonts.missing and recipe.file == "archive":
        letters = " ".join(sorted(fonts.missing))
        raise InputError(
            f"No shipped face has {letters}, and an archive file may show no letter that its fonts lack (ISO 19005-2): "
            "write it otherwise, or put text out as outlines."
        )
    fonts.embed()
    layers.register(recipe)
    made = finished(pdf, metadata, recipe, [page.name for page in pages], passwords)
    return Written(made.data, fonts.used(), made.twin)


def write_pdf(pages: Sequence[Page], metadata: Metadata, recipe: Recipe = PLAIN, passwords: Passwords | None = None) -> bytes:
    """The same, the bytes alone."""
    return written(pages, metadata, recipe, passwords).data
