"""What is asked of a finished file that something was put onto: that all of it is as it was, by readers that wrote nothing."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import Any

import pikepdf
from pdfminer.pdfdocument import PDFDocument
from pdfminer.pdfpage import PDFPage
from pdfminer.pdfparser import PDFParser
from pdfminer.pdftypes import PDFStream
from pdfminer.psexceptions import PSException

from skalto.core.checks.solids import solid_checks
from skalto.core.checks.verdict import Check
from skalto.core.checks.version import version_check
from skalto.core.errors import InputError
from skalto.core.pdf_dictionaries import resolved


def _pages(data: bytes) -> list[PDFPage]:
    return list(PDFPage.create_pages(PDFDocument(PDFParser(io.BytesIO(data)))))


def _raw(page: PDFPage) -> list[bytes]:
    streams = [resolved(stream) for stream in page.contents]
    return [bytes(own.rawdata or own.get_data()) for own in streams if isinstance(own, PDFStream)]


def _within(old: Sequence[bytes], new: Sequence[bytes]) -> bool:
    """Whether the old streams stand in the new row, one after another."""
    return any(list(new[n : n + len(old)]) == list(old) for n in range(len(new) - len(old) + 1))


def _opened(data: bytes) -> pikepdf.Pdf:
    """A file with its objects as they stand: what pages inherit is not handed down to them."""
    return pikepdf.open(io.BytesIO(data), inherit_page_attributes=False)


def _objects(pdf: pikepdf.Pdf) -> dict[tuple[int, int], bytes]:
    """What every object of a file says. To be asked before its pages are: one that stands there twice becomes two then."""
    found = {}
    with pikepdf.explicit_conversion():  # a number that stands alone is an object too
        for own in pdf.objects:
            if own is None:
                continue  # a number that stands for nothing
            told = own.unparse(resolved=True)
            if isinstance(own, pikepdf.Stream):
                told = own.stream_dict.unparse(resolved=True) + b"\n" + own.read_raw_bytes()
            found[own.objgen] = told
    return found


def _without_version(root: Any) -> dict[str, bytes]:
    """What a catalog says but for the version: its own entries, as they are written."""
    with pikepdf.explicit_conversion():
        return {key: value.unparse() for key, value in root.items() if key != "/Version"}


def _object_of(pdf: pikepdf.Pdf, pages: Sequence[PDFPage], number: int) -> int:
    """The number of a page's object. The one reader lists a page that stands for several once, the other gives up where a page
    tree runs into itself."""
    try:
        return int(pdf.pages[number - 1].obj.objgen[0])
    except pikepdf.PdfError:
        return int(pages[number - 1].pageid)


def onto_checks(before: bytes, after: bytes, number: int) -> list[Check]:
    """Whether an updated file has all bytes, pages and objects of the old one; its 3D, decoded.

    :param number: the page that something was put onto, from 1. :raises InputError: when the file cannot be opened.
    """
    checks = []

    def tell(code: str, title: str, holds: bool, reading: str, limit: str) -> None:
        checks.append(Check(code=code, title=title, verdict="holds" if holds else "fails", reading=reading, limit=limit))

    added = len(after) - len(before)
    tell("onto-bytes", "Old file", after.startswith(before), f"{added} bytes appended", "all its bytes at the beginning")
    try:
        old, new = _pages(before), _pages(after)
        with _opened(before) as one, _opened(after) as other:
            was, now = _objects(one), _objects(other)
            page = _object_of(one, old, number)
            root = one.Root.objgen
            plain_root = [_without_version(own.Root) for own in (one, other)]
    except Exception:
        raise InputError("The file that was written cannot be opened: put the model on once more.") from None
    if not old:
        raise InputError("No page of this PDF can be read by others: save it again with the program that made it.")
    # by their objects: one that stands for several pages is listed once
    later = {own.pageid: own for own in new}
    same = [
        own.pageid in later and (_within if own.pageid == page else list.__eq__)(_raw(own), _raw(later[own.pageid]))
        for own in old
    ]
    held = len(old) == len(new) and all(same)
    tell("onto-pages", "Pages", held, f"{sum(same)} of {len(old)} pages as they were", "every operator")
    changed = [key for key, told in was.items() if key[0] != page and now.get(key) != told]
    if changed == [root] and plain_root[0] == plain_root[1]:
        # the version that it claims may be raised for what is added
        changed = []
    tell(
        "onto-objects",
        "Fonts and resources",
        not changed,
        f"{len(was) - len(changed)} of {len(was)} objects",
        "all but the page",
    )
    try:
        solids: list[Any] = [check for check in solid_checks(new) if check.page in (None, number)]
    except PSException:
        raise InputError("A page of this PDF is damaged: save it again with the program that made it.") from None
    return [*checks, version_check(after), *solids]
