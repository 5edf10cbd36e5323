"""Composed sheets to files of any kind, measured: PDF of many, DXF and SVG of one sheet or one view."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

from skalto.core.checks.report import Report, check_pdf
from skalto.core.errors import InputError
from skalto.core.output.flat import Flat, flat_page, flat_view
from skalto.core.output.pdf.document import write_pdf
from skalto.core.output.pdf.finishing import Metadata
from skalto.core.sheets.compose import SheetContext, ViewLines, compose
from skalto.core.sheets.sheet import SheetSpec

ReportProgress = Callable[[float, str], None]
SUFFIXES = (".pdf", ".dxf", ".svg")
"""File name endings that can be written."""


def write_and_check(
    sheets: Sequence[tuple[SheetSpec, SheetContext]],
    lines: Mapping[str, ViewLines],
    metadata: Metadata,
    report: ReportProgress,
) -> tuple[bytes, Report]:
    """Compose, write as PDF, and measure what was written."""
    data = write_pdf([compose(sheet, lines, context) for sheet, context in sheets], metadata)
    report(0.9, "Measuring the file")
    return data, check_pdf(data)


def write_flat(flat: Flat, suffix: str) -> tuple[bytes, Report]:
    """A page or view as DXF or SVG, and what was measured in it. :raises InputError: for another kind."""
    from skalto.core.checks.flat import check_flat

    if suffix == ".dxf":
        from skalto.core.output.dxf import write_dxf

        data = write_dxf(flat)
    elif suffix == ".svg":
        from skalto.core.output.svg import write_svg

        data = write_svg(flat)
    else:
        raise InputError(f"{suffix} cannot be written: name a file that ends in {', '.join(SUFFIXES)}.")
    return data, check_flat(data, suffix, flat)


def write_one(
    sheet: SheetSpec, context: SheetContext, lines: Mapping[str, ViewLines], suffix: str, view: str | None = None
) -> tuple[bytes, Report]:
    """A sheet, or one view of it, as DXF or SVG, and what was measured in it."""
    page = compose(sheet, lines, context)
    return write_flat(flat_page(page) if view is None else flat_view(page, view), suffix)


def write_for(
    out: str,
    sheets: Sequence[tuple[SheetSpec, SheetContext]],
    lines: Mapping[str, ViewLines],
    metadata: Metadata,
    report: ReportProgress,
) -> tuple[bytes, Report]:
    """What a file's name asks for by its ending. :raises InputError: for several sheets in a file that holds one."""
    suffix = Path(out).suffix.lower()
    if suffix == ".pdf":
        return write_and_check(sheets, lines, metadata, report)
    if len(sheets) != 1:
        raise InputError(f"A {suffix[1:].upper()} file holds one sheet, and these are {len(sheets)}: write a PDF file.")
    return write_one(*sheets[0], lines, suffix)
