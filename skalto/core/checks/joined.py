"""A file of several pages, each of which was measured in a file of its own: the same pages again, and the whole."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import pypdfium2 as pdfium
from pdfminer.pdfpage import PDFPage
from pdfminer.pdftypes import PDFStream

from skalto.core.checks.inspection import Opened, inspect, opened
from skalto.core.checks.listing import listed
from skalto.core.checks.pdf_asked import joined_checks
from skalto.core.checks.report import FOUND, file_findings, finding_of
from skalto.core.checks.vectors import PageVectors, read_page
from skalto.core.checks.verdict import OF_DRAWINGS, Check, Finding, PageCheck, Report
from skalto.core.errors import InputError
from skalto.core.pdf_dictionaries import FileRecord, record_of, resolved
from skalto.core.recipes import OWN, Recipe


@dataclass(frozen=True)
class Measured:
    """A page's own file, and what was measured in it."""

    data: bytes
    report: Report


_OF_A_FILE = (
    "fonts", "text", "word", "layers", "colour", "pictures", "clip", "open", "doubled", "widths", "archive", "size",
    "print-scaling", "print-tray", "empty", "pale", "grammar", "glyphs",
)  # fmt: skip
"""What is found again in the whole: findings of a page's own file that are not taken over."""

_OF_A_PAGE = ("watch", "strokes", "sheet-", "cut-", "reduced", "areas", "written", "painted", "says")
_BY_RECIPE = ("clip", "open", "doubled", "widths", "colour", "text")
"""What a page is looked over for by its own recipe, where the pages of a file have several."""


def of_a_page(code: str) -> bool:
    """Whether a check is of a page and what it was made from, which the joined file itself cannot tell."""
    return code == "title" or code.startswith(_OF_A_PAGE)


def _streams(page: PDFPage) -> list[PDFStream]:
    return [resolved(stream) for stream in page.contents]


def _alike(page: PDFPage, other: PDFPage) -> bool:
    """Whether two pages have the same operators, packed alike or not."""
    here, there = _streams(page), _streams(other)
    raw = [stream.rawdata for stream in here]
    if None not in raw and raw == [stream.rawdata for stream in there]:
        return True
    return b"".join(s.get_data() for s in here) == b"".join(s.get_data() for s in there)


def _same(record: FileRecord, own: FileRecord, number: int, found: Opened, other: Opened) -> bool:
    """Whether a page is what was measured: its operators byte for byte, its box, its unit, its viewports."""
    here, there = record.pages[number], own.pages[0]
    plain = replace(here, views=(), format_mm=None, frame_mm=None) == replace(there, views=(), format_mm=None, frame_mm=None)
    return plain and _alike(found.pages[number], other.pages[0])


def check_joined(data: bytes, parts: Sequence[Measured], recipe: Recipe, password: str = "") -> Report:
    """Open a joined file with pdfium and pdfminer.six, find every page as it was measured, and look over the whole.

    :raises InputError: when the file cannot be opened.
    """
    try:
        document = pdfium.PdfDocument(data, password=password or None)
    except pdfium.PdfiumError:
        raise InputError("The file that was written cannot be opened: send it again.") from None
    try:
        found = opened(data, document, password)
        record = record_of(found.miner, found.pages)
        findings: list[Finding] = file_findings(record)
        pages: list[PageCheck] = []
        for number, part in enumerate(parts):
            own = pdfium.PdfDocument(part.data)
            other = opened(part.data, own)
            there = record_of(other.miner, other.pages)
            same = number < len(record.pages) and _same(record, there, number, found, other)
            own.close()
            if not same:
                message = f"Page {number + 1} is not the page that was measured: send it again."
                findings.append(Finding(level="error", code="page", message=message, page=number + 1))
            pages.append(part.report.pages[0])
            findings += [
                f.model_copy(update={"page": number + 1, "message": f.message.replace("Page 1 ", f"Page {number + 1} ")})
                for f in part.report.findings
                if f.code not in _OF_A_FILE and not f.code.startswith("solid")
            ]
        kept = [
            (n, check)
            for n, part in enumerate(parts, 1)
            for check in part.report.checks
            if of_a_page(check.code) or (recipe.id == OWN.id and check.code in _BY_RECIPE)
        ]
        codes = {check.code for _, check in kept}
        checks = listed(pages, [f for f in findings if f.code not in codes], recipe.viewports)
        for n, check in kept:
            title = f"Page {n}, {check.title[:1].lower()}{check.title[1:]}"
            checks.append(check.model_copy(update={"page": n, "title": title}))
        drawn: list[PageVectors] = []
        if recipe.file == "cutter":
            drawn = [read_page(document, number, page.user_unit) for number, page in enumerate(record.pages)]
        more: list[Check] = [
            c for c in inspect(found, drawn, recipe, password) if not (recipe.id == OWN.id and c.code in _BY_RECIPE)
        ]
        drawn.clear()
        more = joined_checks(data, [part.data for part in parts], recipe, password) + more
        # of a plate its pieces were measured: marks on it are open, and of widths of their own
        plates = {n for n, check in kept if check.code == "cut-pieces"}
        more = [c for c in more if not (c.code in OF_DRAWINGS and c.page in plates)]
        checks += more
        findings += [finding_of(check) for check in more if check.verdict in FOUND]
    finally:
        document.close()
    return Report(pages=tuple(pages), findings=tuple(findings), checks=tuple(checks))
