"""Pages to a PDF file, through pikepdf (ISO 32000-1; clause numbers are its)."""

from __future__ import annotations

import io
import itertools
import zlib
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from datetime import UTC, datetime
from decimal import Decimal
from fractions import Fraction

import pikepdf
from pikepdf import Array, Dictionary, Name, Pdf, String

from skalto import __version__
from skalto.core.output.pdf.content import operators
from skalto.core.output.pdf.paths import DECIMALS, FINE_DECIMALS
from skalto.core.output.pdf.resources import PageResources, SharedFonts, SharedLayers
from skalto.core.pens import SHOP_DRAWING
from skalto.core.quantities import PT_PER_MM, format_scale
from skalto.core.sheets.compose import Page, PlacedView

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


@dataclass(frozen=True)
class Metadata:
    """What a file says of itself; *created* is the moment that it carries."""

    title: str = ""
    author: str = ""
    created: datetime = datetime(2000, 1, 1, tzinfo=UTC)


def user_unit(page: Page) -> int:
    """The smallest whole UserUnit that keeps both sides within :data:`MAX_UNITS` (8.3.2.3, PDF 1.6)."""
    longest = max(page.width, page.height) * PT_PER_MM
    return max(1, -(-longest // MAX_UNITS).__int__())


def _real(value: float | Fraction, places: int = 6) -> Decimal:
    return Decimal(f"{float(value):.{places}f}").normalize() + Decimal(0)


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
    corners = [_real(v * float(factor), 4) for v in box]
    measure = Dictionary(
        Type=Name.Measure,
        Subtype=Name.RL,
        R=String(format_scale(view.scale)),
        X=_number_format("mm", _real(per_unit, 12)),
        D=_number_format("mm", Decimal(1)),
        A=_number_format("mm²", Decimal(1)),
    )
    return Dictionary(Type=Name.Viewport, BBox=Array(corners), Name=String(view.spec.label), Measure=measure)


def _lengths(view: PlacedView, number: int) -> Dictionary:
    """The view's model lengths, for whoever measures the file: kind, model mm, and for a circle its centre on paper, mm."""
    rows = []
    for length in view.lengths:
        row = Dictionary(Kind=Name("/" + length.kind.capitalize()), Value=_real(length.value, 9))
        if length.centre is not None:
            x, y = length.centre
            by = view.placement
            row.Centre = Array([_real(x * by.scale + by.dx), _real(y * by.scale + by.dy)])
        if length.component:
            row.Component = String(length.component)
        rows.append(row)
    return Dictionary(
        Mark=String(str(number)), Name=String(view.spec.label), Scale=String(format_scale(view.scale)), Lengths=Array(rows)
    )


def _streams(pdf: Pdf, content: bytes) -> pikepdf.Object:
    """A page's content as a stream, or when it is long as several, parted between operators (7.8.2) and packed side by side."""
    ends = [0]
    while len(content) - ends[-1] > LONG:
        ends.append(content.index(b"\n", ends[-1] + LONG) + 1)
    pieces = [content[a:b] for a, b in itertools.pairwise((*ends, len(content)))]
    level = COMPRESSION if len(pieces) == 1 else LONG_COMPRESSION
    with ThreadPoolExecutor(max_workers=4) as pool:
        packed = list(pool.map(lambda piece: zlib.compress(piece, level), pieces))
    streams = []
    for data in packed:
        stream = pdf.make_stream(b"")
        stream.write(data, filter=Name.FlateDecode)
        streams.append(stream)
    return streams[0] if len(streams) == 1 else Array([pdf.make_indirect(stream) for stream in streams])


def _page(pdf: Pdf, page: Page, stamp: str, fonts: SharedFonts, layers: SharedLayers) -> None:
    unit = user_unit(page)
    factor = PT_PER_MM / unit
    resources = PageResources(pdf, fonts, layers)
    parts = [operators(page.under, SHOP_DRAWING, resources, unit)]
    drawn = [view for view in page.views if view.box is not None]
    for number, view in enumerate(drawn):
        # marked content (14.6) tells a reader of the file which strokes are whose
        decimals = FINE_DECIMALS if view.scale <= REDUCED else DECIMALS
        own = operators(view.artwork, SHOP_DRAWING, resources, unit, decimals)
        parts.append(b"/View <</Number (%d)>> BDC\n" % number + own + b"EMC\n")
        parts.append(operators(view.marks, SHOP_DRAWING, resources, unit))
    parts.append(operators(page.frame, SHOP_DRAWING, resources, unit))
    content = _streams(pdf, b"".join(parts))
    box = Array([0, 0, _real(page.width * factor, 6), _real(page.height * factor, 6)])
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
                        Format=Array([_real(page.width), _real(page.height)]),
                        Views=Array([_lengths(view, n) for n, view in enumerate(drawn)]),
                    ),
                )
            }
        ),
        LastModified=String(stamp),
    )
    if unit > 1:
        entry.UserUnit = unit
    pdf.pages.append(pikepdf.Page(pdf.make_indirect(entry)))


def write_pdf(pages: Sequence[Page], metadata: Metadata) -> bytes:
    """A PDF of the pages in order; the same pages and metadata give the same bytes."""
    pdf = Pdf.new()
    stamp = metadata.created.astimezone(UTC).strftime("D:%Y%m%d%H%M%SZ")
    fonts, layers = SharedFonts(pdf), SharedLayers(pdf)
    for page in pages:
        _page(pdf, page, stamp, fonts, layers)
    fonts.embed()
    layers.register()
    pdf.Root.ViewerPreferences = Dictionary()
    pdf.Root.ViewerPreferences.PrintScaling = Name("/None")
    pdf.Root.ViewerPreferences.PickTrayByPDFSize = True
    pdf.Root.ViewerPreferences.Enforce = Array([Name("/PrintScaling")])
    pdf.Root.ViewerPreferences.DisplayDocTitle = True
    pdf.Root.Lang = String("en")
    creator = f"Skalto {__version__}"
    pdf.docinfo["/Title"] = metadata.title
    if metadata.author:
        pdf.docinfo["/Author"] = metadata.author
    pdf.docinfo["/Creator"] = creator
    pdf.docinfo["/Producer"] = creator
    pdf.docinfo["/CreationDate"] = stamp
    pdf.docinfo["/ModDate"] = stamp
    with pdf.open_metadata(set_pikepdf_as_editor=False, update_docinfo=False) as xmp:
        xmp["dc:title"] = metadata.title
        if metadata.author:
            xmp["dc:creator"] = [metadata.author]
        xmp["xmp:CreatorTool"] = creator
        xmp["pdf:Producer"] = creator
        xmp["xmp:CreateDate"] = xmp["xmp:ModifyDate"] = metadata.created.astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
    out = io.BytesIO()
    pdf.save(out, deterministic_id=True, min_version="1.7")
    return out.getvalue()
