"""What else a finished file is looked over for, by a recipe: text, layers, colours, contours, pictures, size, archive.

Read with pdfium and pdfminer.six; PDF/A by pikepdf's validator.
"""

from __future__ import annotations

import ctypes
import gc
import io
import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import pypdfium2 as pdfium
import pypdfium2.raw as raw
from pdfminer.pdfdocument import PDFDocument
from pdfminer.pdfpage import PDFPage
from pdfminer.pdfparser import PDFParser
from pdfminer.pdftypes import PDFStream

from skalto.core.checks.vectors import PageVectors
from skalto.core.checks.verdict import Check, Place, Verdict
from skalto.core.checks.version import version_check
from skalto.core.colour import LIGHT, luminance
from skalto.core.output.pdf.ink import WHITE
from skalto.core.pdf_dictionaries import resolved, text_of
from skalto.core.quantities import MM_PER_INCH
from skalto.core.recipes import Recipe, named

_CLIP = re.compile(rb"(?:^|\s)W\*?\s+n(?=\s|$)")
_JOINED = 2e-3
"""Ends of contours nearer than this, mm, are one; pdfium's numbers are of single precision."""


@dataclass(frozen=True)
class Opened:
    """A file as two engines have it: its bytes, pdfium's document, pdfminer's, and pdfminer's pages."""

    data: bytes
    document: pdfium.PdfDocument
    miner: PDFDocument
    pages: list[PDFPage]


def opened(data: bytes, document: pdfium.PdfDocument, password: str = "") -> Opened:
    miner = PDFDocument(PDFParser(io.BytesIO(data)), password=password)
    return Opened(data, document, miner, list(PDFPage.create_pages(miner)))


def _texts(pages: Sequence[pdfium.PdfPage]) -> list[str]:
    found = []
    for page in pages:
        textpage = page.get_textpage()
        found.append(textpage.get_text_bounded())
        textpage.close()
    return found


def _fonts(pages: list[PDFPage]) -> tuple[int, list[str]]:
    """How many fonts the file has, and the names of those that are not embedded or whose text cannot be found."""
    seen: dict[str, bool] = {}
    for page in pages:
        for entry in (resolved((resolved(page.resources) or {}).get("Font")) or {}).values():
            font = resolved(entry)
            child = resolved((resolved(font.get("DescendantFonts")) or [font])[0])
            descriptor = resolved(child.get("FontDescriptor")) or {}
            inside = any(key in descriptor for key in ("FontFile", "FontFile2", "FontFile3"))
            seen[text_of(font.get("BaseFont"))] = inside and "ToUnicode" in font
    return len(seen), [name for name, good in seen.items() if not good]


def _placed_fonts(pages: list[PDFPage]) -> list[str]:
    """The names of fonts of placed pages that are not embedded: any reader has another in their place."""
    bad: dict[str, None] = {}

    def look(resources: Any, depth: int) -> None:
        for entry in (resolved((resources or {}).get("XObject")) or {}).values():
            form = resolved(entry)
            if not isinstance(form, PDFStream) or depth > 8 or "Resources" not in form:
                continue
            inner = resolved(form["Resources"]) or {}
            for font in (resolved(own) for own in (resolved(inner.get("Font")) or {}).values()):
                if not isinstance(font, dict):
                    continue
                below = resolved(font.get("DescendantFonts"))
                child = resolved(below[0]) if isinstance(below, list) and below else font
                if not isinstance(child, dict):
                    child = {}
                descriptor = resolved(child.get("FontDescriptor"))
                if not isinstance(descriptor, dict):
                    descriptor = {}
                drawn = text_of(font.get("Subtype")) == "Type3"
                if not drawn and not any(key in descriptor for key in ("FontFile", "FontFile2", "FontFile3")):
                    bad[text_of(font.get("BaseFont"))] = None
            look(inner, depth + 1)

    for page in pages:
        look(resolved(page.resources), 0)
    return list(bad)


def text_checks(found: Opened, pages: Sequence[pdfium.PdfPage], recipe: Recipe) -> list[Check]:
    """Fonts embedded, text to be found, expected words."""
    texts = _texts(pages)
    words = sum(len(text.split()) for text in texts)
    count, bad = _fonts(found.pages)
    checks = []
    if recipe.text == "outlines":
        verdict: Verdict = "fails" if words else "holds"
        checks.append(
            Check(
                code="text",
                title="Text",
                verdict=verdict,
                reading="as outlines" if not words else f"{words} words are text",
                limit="no text",
            )
        )
    elif bad:
        checks.append(
            Check(code="fonts", title="Text", verdict="fails", reading=f"{', '.join(bad)} not inside", limit="all fonts inside")
        )
    else:
        fonts = "1 font inside" if count == 1 else f"{count} fonts inside"
        if words:
            reading = f"{words} words, all can be found"
            checks.append(Check(code="fonts", title="Text", verdict="holds", reading=reading, limit=fonts))
    lacking = _placed_fonts(found.pages)
    if lacking:
        reading = f"{', '.join(lacking)} not inside, and readers take what they have"
        limit = "all fonts inside"
        checks.append(Check(code="fonts-placed", title="Fonts of placed pages", verdict="mend", reading=reading, limit=limit))
    flat = [" ".join(text.split()).casefold() for text in texts]
    for word in recipe.words:
        places = [str(n + 1) for n, text in enumerate(flat) if " ".join(word.split()).casefold() in text]
        where = f"on page {', '.join(places)}" if places else "not found"
        checks.append(Check(code="word", title=f"“{word}”", verdict="holds" if places else "fails", reading=where))
    return checks


def layers_of(found: Opened) -> tuple[list[str], list[str], list[str]]:
    """Names of the file's layers in its order, of those that start hidden, and of those that are locked."""
    properties = resolved(found.miner.catalog.get("OCProperties")) or {}
    state = resolved(properties.get("D")) or {}

    def names(key: str) -> list[str]:
        return [
            text_of(resolved(group).get("Name"))
            for group in resolved(state.get(key)) or []
            if isinstance(resolved(group), dict)
        ]

    return names("Order"), names("OFF"), names("Locked")


def layer_checks(found: Opened, recipe: Recipe) -> list[Check]:
    """Layers against the recipe: there or not, hidden at first, locked, left out."""
    order, hidden, locked = layers_of(found)
    if not recipe.writes_layers:
        reading = "no layers" if not order else f"{len(order)} layers"
        return [
            Check(code="layers", title="Layers", verdict="fails" if order else "holds", reading=reading, limit="none wanted")
        ]
    wrong = [name for name in order if named(recipe.left_out, name)]
    wrong += [name for name in order if named(recipe.start_hidden, name) != (name in hidden)]
    wrong += [name for name in order if named(recipe.locked, name) != (name in locked)]
    if not order:
        return []
    if wrong:
        return [
            Check(code="layers", title="Layers", verdict="fails", reading=f"{', '.join(dict.fromkeys(wrong))} not as chosen")
        ]
    shown = ", ".join(order[:4]) + (f" and {len(order) - 4} more" if len(order) > 4 else "")
    start = f"{', '.join(hidden[:3])} start hidden" if hidden else ""
    return [Check(code="layers", title="Layers", verdict="holds", reading=shown, limit=start)]


@dataclass(frozen=True)
class _Seen:
    """What one walk over a page finds: colours of painted paths and texts, with how many have each, its pictures, how much is
    painted at all, and the boxes of texts that are too light, in the page's units."""

    colours: Counter[tuple[int, int, int]]
    pictures: list[pdfium.PdfImage]
    painted: int = 0
    pale: tuple[Place, ...] = ()


def _walk(page: pdfium.PdfPage) -> _Seen:
    colours: Counter[tuple[int, int, int]] = Counter()
    pictures: list[pdfium.PdfImage] = []
    pale: list[Place] = []
    painted = 0
    sides = [ctypes.c_float() for _ in range(4)]
    red, green, blue, cover = (ctypes.c_uint() for _ in range(4))
    parts = [ctypes.byref(part) for part in (red, green, blue, cover)]
    fill, stroke = ctypes.c_int(), raw.FPDF_BOOL()
    for number in range(raw.FPDFPage_CountObjects(page)):
        item = raw.FPDFPage_GetObject(page, number)
        kind = raw.FPDFPageObj_GetType(item)
        if kind == raw.FPDF_PAGEOBJ_IMAGE:
            # of pictures alone objects are made: a page may have a hundred thousand others
            pictures.append(pdfium.PdfImage(item, page=page, pdf=page.pdf))
            continue
        filled, stroked = kind == raw.FPDF_PAGEOBJ_TEXT, False
        if filled and raw.FPDFTextObj_GetTextRenderMode(item) == raw.FPDF_TEXTRENDERMODE_INVISIBLE:
            continue
        painted += kind != raw.FPDF_PAGEOBJ_PATH
        if kind == raw.FPDF_PAGEOBJ_PATH:
            raw.FPDFPath_GetDrawMode(item, fill, stroke)
            filled, stroked = bool(fill.value), bool(stroke.value)
            painted += filled or stroked
        if filled and raw.FPDFPageObj_GetFillColor(item, *parts):
            seen = red.value, green.value, blue.value
            colours[seen] += 1
            if kind == raw.FPDF_PAGEOBJ_TEXT and luminance(seen) >= LIGHT:
                raw.FPDFPageObj_GetBounds(item, *(ctypes.byref(side) for side in sides))
                pale.append((sides[0].value, sides[1].value, sides[2].value, sides[3].value))
        if stroked and raw.FPDFPageObj_GetStrokeColor(item, *parts):
            colours[red.value, green.value, blue.value] += 1
    return _Seen(colours, pictures, painted + len(pictures), tuple(pale))


def colour_checks(seen: Sequence[_Seen], recipe: Recipe) -> list[Check]:
    """Colours against the recipe: greys alone, or black alone; of a colour file only how many there are."""
    colours: Counter[tuple[int, int, int]] = Counter()
    for page in seen:
        colours += page.colours
    if recipe.colour == "colour":
        if not colours:
            return []
        kinds = "1 colour" if len(colours) == 1 else f"{len(colours)} colours"
        return [Check(code="colour", title="Colours", verdict="told", reading=kinds, limit="as they are")]
    if not colours:
        return []
    if recipe.colour == "grey":
        bad = {colour: count for colour, count in colours.items() if max(colour) - min(colour) > 1}
    else:
        bad = {colour: count for colour, count in colours.items() if max(colour) > 0 and min(colour) < WHITE}
    limit = {"grey": "greys alone", "black": "black alone"}[recipe.colour]
    if bad:
        reading = f"{sum(bad.values())} strokes in {len(bad)} other colours"
        return [Check(code="colour", title="Colours", verdict="fails", reading=reading, limit=limit)]
    return [Check(code="colour", title="Colours", verdict="holds", reading="nothing else", limit=limit)]


def picture_checks(seen: Sequence[_Seen], units: Sequence[float], recipe: Recipe) -> list[Check]:
    """Pictures with fewer dots than the recipe has for them, and which is the coarsest; *units* are the pages' UserUnits."""
    coarse: tuple[float, int, Place] | None = None
    count = 0
    for number, page in enumerate(seen):
        for item in page.pictures:
            count += 1
            width, height = item.get_px_size()
            m = item.get_matrix()
            inches = units[number] / 72
            sides = np.hypot(m.a, m.b) * inches, np.hypot(m.c, m.d) * inches
            dpi = float(min(width / max(sides[0], 1e-9), height / max(sides[1], 1e-9)))
            if coarse is None or dpi < coarse[0]:
                left, bottom, right, top = (v * inches * MM_PER_INCH for v in item.get_bounds())
                coarse = dpi, number + 1, (left, bottom, right, top)
    if coarse is None:
        return []
    dpi, number, place = coarse
    verdict: Verdict = "holds" if dpi >= recipe.picture_dpi * 0.98 else "mend"
    what = "1 picture" if count == 1 else f"{count} pictures"
    return [
        Check(
            code="pictures", title="Pictures", verdict=verdict, reading=f"{what}, the coarsest {dpi:.0f} dpi",
            limit=f"{recipe.picture_dpi} dpi", page=number, place=place,
        )
    ]  # fmt: skip


def paint_checks(seen: Sequence[_Seen], found: Opened, units: Sequence[float]) -> list[Check]:
    """Pages that show nothing, and texts too light for white paper."""
    checks = []
    for number, page in enumerate(seen, 1):
        if not page.painted and not found.pages[number - 1].annots:
            reading = "nothing is drawn on this page: put a view on the sheet, or remove the sheet"
            checks.append(Check(code="empty", title="Empty page", verdict="mend", reading=reading, page=number))
        if page.pale:
            mm = units[number - 1] / 72 * MM_PER_INCH
            left, bottom, right, top = (v * mm for v in page.pale[0])
            what = "1 text is" if len(page.pale) == 1 else f"{len(page.pale)} texts are"
            checks.append(
                Check(
                    code="pale", title="Light text", verdict="mend", reading=f"{what} too light for white paper",
                    limit=f"luminance under {LIGHT:g}", page=number, place=(left, bottom, right, top),
                )
            )  # fmt: skip
    return checks


def _contours(vectors: PageVectors) -> tuple[int, list[Place], list[Place]]:
    """Contours of a page, the boxes of those that are open, and of those that are drawn twice."""
    count = 0
    loose: list[Place] = []
    twice: list[Place] = []
    seen: set[tuple[Any, ...]] = set()
    stroked = vectors.paths.rows(~np.isnan(vectors.paths.width))
    for number in range(len(stroked)):
        for sub in stroked.subpaths(number):
            count += 1
            points = sub.curves.reshape(-1, 2)
            low, high = points.min(axis=0), points.max(axis=0)
            place = (float(low[0]), float(low[1]), float(high[0]), float(high[1]))
            if not sub.closed and np.linalg.norm(points[0] - points[-1]) > _JOINED:
                loose.append(place)
            length = float(np.linalg.norm(np.diff(sub.curves, axis=1), axis=-1).sum())
            key = tuple(round(v / 0.005) for v in (*place, length / 4))
            if key in seen:
                twice.append(place)
            seen.add(key)
    return count, loose, twice


def clip_check(clips: int) -> Check:
    """A cutter's file has no clips: it would cut what they hide."""
    reading = f"{clips} clip paths" if clips else "no clip path"
    return Check(code="clip", title="Clipping", verdict="fails" if clips else "holds", reading=reading)


def closed_check(count: int, loose: Sequence[Place], page: int, gap: float | None = None) -> list[Check]:
    """Whether all of *count* contours close; of the *loose* ones their boxes, and the widest *gap*, mm, where it is known.
    Nothing of a page without contours."""
    if not count:
        return []
    reading = f"{len(loose)} of {count} are open" if loose else f"{count}, all closed"
    if loose and gap is not None:
        reading += f", the widest gap {gap:.2f} mm"
    place = loose[0] if loose else None
    verdict: Verdict = "mend" if loose else "holds"
    return [Check(code="open", title="Contours", verdict=verdict, reading=reading, page=page, place=place)]


def cutter_checks(found: Opened, pages: list[PageVectors]) -> list[Check]:
    """What a cutter would stumble over: clipping, open contours, contours drawn twice, several line widths."""
    checks = []
    clips = sum(len(_CLIP.findall(b"\n".join(resolved(c).get_data() for c in page.contents))) for page in found.pages)
    checks.append(clip_check(clips))
    for number, vectors in enumerate(pages, 1):
        count, loose, twice = _contours(vectors)
        checks += closed_check(count, loose, number)
        if twice:
            reading = f"{len(twice)} are drawn twice"
            checks.append(
                Check(code="doubled", title="Doubled contours", verdict="fails", reading=reading, page=number, place=twice[0])
            )
        widths = {round(w, 4) for w in vectors.paths.width[~np.isnan(vectors.paths.width)].tolist()}
        if len(widths) > 1:
            reading = f"{len(widths)} line widths, {min(widths):g} to {max(widths):g} mm"
            checks.append(Check(code="widths", title="Line widths", verdict="mend", reading=reading, limit="one", page=number))
    return checks


def archive_check(data: bytes) -> Check:
    """Whether the file is PDF/A-2b, by pikepdf's validator. What that does not know, and finds nothing against, is named."""
    import pikepdf.pdfa

    # it takes any warning that falls while it parses for one about the file; those of garbage collected meanwhile are not
    collecting = gc.isenabled()
    gc.disable()
    try:
        report = pikepdf.pdfa.validate_written(io.BytesIO(data), "2b")
    finally:
        if collecting:
            gc.enable()
    if report.violations:
        first = report.violations[0]
        reading = f"{len(report.violations)} violations, the first {first.rule}: {first.message}"
        return Check(code="archive", title="PDF/A-2b", verdict="fails", reading=reading)
    if report.findings:
        rest = "; ".join(dict.fromkeys(finding.message for finding in report.findings))
        return Check(code="archive", title="PDF/A-2b", verdict="mend", reading="no violation; not looked at: " + rest)
    return Check(code="archive", title="PDF/A-2b", verdict="holds", reading="approved")


def size_check(data: bytes, recipe: Recipe) -> Check:
    megabytes = len(data) / 1e6
    reading = f"{megabytes:.2f} MB" if megabytes >= 0.1 else f"{len(data) / 1e3:.1f} kB"
    if recipe.size_limit is None:
        return Check(code="size", title="File size", verdict="told", reading=reading)
    over = megabytes > recipe.size_limit
    return Check(
        code="size", title="File size", verdict="mend" if over else "holds", reading=reading, limit=f"{recipe.size_limit:g} MB"
    )


def inspect(found: Opened, vectors: list[PageVectors], recipe: Recipe, password: str = "") -> list[Check]:
    """All of the above."""
    # a page is loaded once: with a hundred thousand strokes that alone takes half a second
    pages = [page.paths.page for page in vectors] or list(found.document)
    seen = [_walk(page) for page in pages]
    checks = [*text_checks(found, pages, recipe), *layer_checks(found, recipe), *colour_checks(seen, recipe)]
    units = [float(resolved(page.attrs.get("UserUnit")) or 1.0) for page in found.pages]
    checks += picture_checks(seen, units, recipe)
    checks += paint_checks(seen, found, units)
    if recipe.file == "cutter":
        checks += cutter_checks(found, vectors)
    if recipe.file == "archive":
        checks.append(archive_check(found.data))
    if any(page.annots for page in found.pages):
        from skalto.core.checks.solids import solid_checks

        checks += solid_checks(found.pages)
    return [*checks, version_check(found.data, password), size_check(found.data, recipe)]
