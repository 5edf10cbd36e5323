"""A stand-in printer: a page as it would come out of a printer with margins that it cannot print, and habits of its own."""

from __future__ import annotations

import io

import pikepdf
import pypdfium2 as pdfium
from pikepdf import Array, Dictionary, Name

from skalto.core.checks.printing import Printed, PrintedView, Printer
from skalto.core.checks.vectors import read_page
from skalto.core.errors import InputError
from skalto.core.geometry import Box
from skalto.core.pdf_dictionaries import read_dictionaries
from skalto.core.quantities import PT_PER_MM

_PT = float(PT_PER_MM)


def _placed(printer: Printer, width: float, height: float) -> tuple[float, float, float]:
    """The factor, and where the page's lower left comes, mm: in the middle of what can be printed, or of the paper."""
    x0, y0, x1, y1 = printer.printable()
    factor = min((x1 - x0) / width, (y1 - y0) / height, 1.0) if printer.habit == "reduce" else 1.0
    middle = ((x0 + x1) / 2, (y0 + y1) / 2) if printer.habit == "reduce" else (printer.width / 2, printer.height / 2)
    return factor, middle[0] - width * factor / 2, middle[1] - height * factor / 2


def _over(box: Box, within: Box) -> dict[str, float]:
    over = {"left": within[0] - box[0], "bottom": within[1] - box[1], "right": box[2] - within[2], "top": box[3] - within[3]}
    return {side: round(by, 3) for side, by in over.items() if by > 1e-3}


def printed_pdf(data: bytes, printer: Printer, page: int = 0) -> bytes:
    """The sheet of paper as a PDF of its own: the page drawn at its factor, cut to what the printer can print."""
    with pikepdf.open(io.BytesIO(data)) as source:
        own = source.pages[page]
        unit = float(own.obj.get("/UserUnit", 1)) / _PT
        width, height = (float(v) * unit for v in own.mediabox[2:])
        # on paper an annotation, such as a 3D annotation, is its picture
        source.flatten_annotations("print")
        printer = printer.for_page(width, height)
        factor, x, y = _placed(printer, width, height)
        pdf = pikepdf.new()
        form = pdf.copy_foreign(own.as_form_xobject())
        x0, y0, x1, y1 = (v * _PT for v in printer.printable())
        scale = factor * unit * _PT
        content = (
            f"q {x0:.4f} {y0:.4f} {x1 - x0:.4f} {y1 - y0:.4f} re W n "
            f"{scale:.8f} 0 0 {scale:.8f} {x * _PT:.5f} {y * _PT:.5f} cm /Page Do Q"
        )
        entry = Dictionary(
            Type=Name.Page,
            MediaBox=Array([0, 0, round(printer.width * _PT, 4), round(printer.height * _PT, 4)]),
            Resources=Dictionary(XObject=Dictionary(Page=form)),
            Contents=pdf.make_stream(content.encode()),
        )
        pdf.pages.append(pikepdf.Page(pdf.make_indirect(entry)))
        out = io.BytesIO()
        pdf.save(out, deterministic_id=True)
    return out.getvalue()


def _span(data: bytes, page: int, unit: float) -> tuple[Box | None, tuple[float, float]]:
    """The box of all strokes of a page, mm, and the page's size, by pdfium."""
    document = pdfium.PdfDocument(data)
    try:
        vectors = read_page(document, page, unit)
        found = vectors.paths.bounds()
        box = None if found is None else (*found[0].tolist(), *found[1].tolist())
        return box, (vectors.width, vectors.height)  # type: ignore[return-value]
    finally:
        document.close()


def _ratio(scale: float) -> str:
    """A scale in words: to five figures, 1 : n or n : 1."""
    return f"{scale:.6g}:1" if scale > 1 + 1e-9 else f"1:{1 / scale:.6g}"


def printed(data: bytes, printer: Printer, page: int = 0) -> Printed:
    """Print a page on the stand-in, and measure what came out.

    The factor is the size of the drawing on the printed sheet against that in the file, both read by pdfium.

    :raises InputError: when the margins leave nothing, or there is no such page.
    """
    record = read_dictionaries(data)
    if not 0 <= page < len(record.pages):
        raise InputError("This file has no such page.")
    before, (width, height) = _span(data, page, record.pages[page].user_unit)
    printer = printer.for_page(width, height)
    factor, x, y = _placed(printer, width, height)
    after, _ = _span(printed_pdf(data, printer, page), 0, 1.0)
    measured = None
    if before and after:
        side = 0 if before[2] - before[0] >= before[3] - before[1] else 1
        span = before[side + 2] - before[side]
        measured = (after[side + 2] - after[side]) / span if span > 1e-6 else None
    true = measured or factor
    within = printer.printable()

    def on_paper(box: Box) -> Box:
        return box[0] * factor + x, box[1] * factor + y, box[2] * factor + x, box[3] * factor + y

    views = tuple(
        PrintedView(
            name=port.name, ratio=port.ratio, true_ratio=_ratio(port.scale * true), cut=_over(on_paper(port.box), within)
        )
        for port in record.pages[page].viewports
    )
    place = on_paper((0.0, 0.0, width, height))
    return Printed(
        printer=printer,
        factor=factor,
        measured=None if measured is None else round(measured, 7),
        place=place,
        printable=within,
        cut=_over(place, within),
        views=views,
        lost=_over(on_paper(before), within) if before else {},
    )
