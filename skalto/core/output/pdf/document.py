"""Pages to a PDF file, through pikepdf (ISO 32000-1; clause numbers are its)."""

from __future__ import annotations

import io
import zlib
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from decimal import Decimal
from fractions import Fraction

import pikepdf
from pikepdf import Array, Dictionary, Name, Pdf, String

from skalto import __version__
from skalto.core.output.pdf.content import operators
from skalto.core.output.pdf.resources import PageResources, SharedFonts
from skalto.core.pens import SHOP_DRAWING
from skalto.core.quantities import PT_PER_MM, format_scale
from skalto.core.sheets.compose import Page, PlacedView

MAX_UNITS = 14_400
"""Longest page side in default user space units (Annex C.2, from memory); above it the page takes a UserUnit."""

PIECE = Name("/Skalto")
"""Our key in a page's PieceInfo (14.5): the model lengths by which the page can be measured."""

COMPRESSION = 4
"""zlib's level: a third of the time of its default for a file 4 % larger."""


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
    corners = [_real(v * float(factor), 4) for v in view.box]
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


def _page(pdf: Pdf, page: Page, stamp: str, fonts: SharedFonts) -> None:
    unit = user_unit(page)
    factor = PT_PER_MM / unit
    resources = PageResources(pdf, fonts)
    parts = [operators(page.under, SHOP_DRAWING, resources, unit)]
    drawn = [view for view in page.views if view.box is not None]
    for number, view in enumerate(drawn):
        # marked content (14.6) tells a reader of the file which strokes are whose
        own = operators(view.artwork, SHOP_DRAWING, resources, unit)
        parts.append(b"/View <</Number (%d)>> BDC\n" % number + own + b"EMC\n")
        parts.append(operators(view.marks, SHOP_DRAWING, resources, unit))
    parts.append(operators(page.frame, SHOP_DRAWING, resources, unit))
    content = pdf.make_stream(b"")
    content.write(zlib.compress(b"".join(parts), COMPRESSION), filter=Name.FlateDecode)
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
    fonts = SharedFonts(pdf)
    for page in pages:
        _page(pdf, page, stamp, fonts)
    fonts.embed()
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
