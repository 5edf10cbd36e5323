"""The pages of a PDF to a drawing (ISO 32000-1): paths, text, pictures and layers, in millimetres of the page.

pdfminer.six interprets the content; numbers stay 64-bit, so that a length comes back as it was written.
"""

from __future__ import annotations

import io
import math
from collections import Counter
from collections.abc import Iterable
from contextlib import suppress
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pikepdf
import pypdfium2 as pdfium
import shapely
from pdfminer.pdfdevice import PDFDevice
from pdfminer.pdfdocument import PDFDocument, PDFEncryptionError, PDFPasswordIncorrect, PDFTextExtractionNotAllowed
from pdfminer.pdfexceptions import PDFException
from pdfminer.pdffont import PDFUnicodeNotDefined
from pdfminer.pdfinterp import PDFResourceManager
from pdfminer.pdfpage import PDFPage
from pdfminer.pdfparser import PDFParser
from pdfminer.pdftypes import PDFStream
from pdfminer.psparser import PSException, PSLiteral
from pdfminer.utils import apply_matrix_pt, decode_text, mult_matrix

from skalto.core.artwork import Artwork, EdgeClass, Tags
from skalto.core.artwork.crop_to_box import crop
from skalto.core.artwork.crop_to_outline import clip
from skalto.core.errors import InputError
from skalto.core.geometry import Point
from skalto.core.lettering import FACES
from skalto.core.pdf_dictionaries import PageRecord, read_dictionaries, resolved
from skalto.core.progress import Progress
from skalto.core.quantities import PT_PER_MM, ratio_near
from skalto.core.sources.drawings.collecting import OUT_OF_REACH, Collector
from skalto.core.sources.drawings.drawing import Drawing, DrawingFacts, LayerFacts, SpaceFacts
from skalto.core.sources.drawings.faces import FontLog, choose
from skalto.core.sources.drawings.original import NO_LAYER
from skalto.core.sources.drawings.pdf_budget import refuse_swelling
from skalto.core.sources.drawings.pdf_content import font_name, patterned, picture_by_pdfium, pixels_of, rgb, subpaths
from skalto.core.sources.drawings.pdf_interpreter import MOST_FORMS, Interpreter, Look, forms_of
from skalto.core.sources.drawings.pdf_letters import spaced

_STUMBLES = (PSException, PDFException, ValueError, TypeError, KeyError, AttributeError, AssertionError, RecursionError)
"""What pdfminer raises where a file breaks the rules that it counts on."""

EMPTY = "Its pages are empty: use them as they are, and put something on them."
"""What is told of a file that draws nothing."""
MOST_PAGES = 200
_MM = float(1 / PT_PER_MM)
_GAP = 0.2
"""A step within a string wider than this share of the type's size is a space between words."""

_OUTLINED, _CLIPPING, _UNDRAWN = (1, 5), (4, 5, 6, 7), 7
"""Ways of showing text (9.3.6)."""
_ENDS = {0: "flat", 1: "round", 2: "square"}
_JOINS = {0: "mitre", 1: "round", 2: "bevel"}


class _Device(PDFDevice):  # type: ignore[misc]
    """Takes what a page paints."""

    def __init__(self, manager: PDFResourceManager, fonts: FontLog) -> None:
        super().__init__(manager)
        self.fonts = fonts
        self.unread: Counter[str] = Counter()
        self.counts: Counter[str] = Counter()
        self.file: pikepdf.Pdf | None = None
        self.second: pdfium.PdfDocument | None = None
        self.start(0)

    def start(self, page: int) -> None:
        """Begin a page, by its number from 0."""
        self.page = page
        self._pictures = 0
        self.heights: Counter[float] = Counter()
        self._done: list[Artwork] = []
        self._marks: list[str | None] = []
        self._look = Look()
        self._here = Collector()

    @property
    def look(self) -> Look:
        """What holds for what is painted next."""
        return self._look

    @look.setter
    def look(self, look: Look) -> None:
        if look.clip != self._look.clip or look.outline is not self._look.outline:
            self._end_clip()
        self._look = look

    def _end_clip(self) -> None:
        """What was painted under the present clip is cut by it."""
        done, box = self._here.artwork(), self._look.clip
        self.heights.update(self._here.heights)
        if self._here.unreached:
            self.unread[OUT_OF_REACH] += self._here.unreached
        self._here = Collector(self._here.placed)
        if len(done) and box is not None:
            x0, y0, x1, y1 = (number * _MM for number in box)
            done = crop(done, (x0, y0, x1, y1)) if x1 > x0 and y1 > y0 else Artwork()
        if len(done) and self._look.outline is not None:
            done = clip(done, shapely.transform(self._look.outline, lambda points: points * _MM))
        self._done.append(done)

    def artwork(self) -> Artwork:
        """All that a page paints, mm."""
        self._end_clip()
        return Artwork(tuple(item for part in self._done for item in part))

    # layers (8.11)

    def begin_tag(self, tag: Any, props: Any = None) -> None:
        name: str | None = None
        if isinstance(tag, PSLiteral) and tag.name == "OC":
            entry = resolved(props)
            if isinstance(entry, dict):
                groups = resolved(entry.get("OCGs"))
                several = isinstance(groups, list) and len(groups) > 1
                if several or entry.get("VE") is not None:
                    self.unread["thing that several layers switch: it is on the first of them"] += 1
                inner = resolved(groups[0] if isinstance(groups, list) and groups else groups) if groups is not None else entry
                label = resolved(inner.get("Name")) if isinstance(inner, dict) else None
                name = decode_text(label) if isinstance(label, bytes) else None
        self._marks.append(name)

    def end_tag(self) -> None:
        if self._marks:
            self._marks.pop()

    def do_tag(self, tag: Any, props: Any = None) -> None:
        pass

    def begin_figure(self, name: str, bbox: Any, matrix: Any) -> None:
        pass

    def end_figure(self, name: str) -> None:
        pass

    @property
    def layer(self) -> str:
        return next((name for name in reversed(self._marks) if name), NO_LAYER)

    def _tags(
        self, colour: Any, space: Any, opacity: float = 1.0, width: float | None = None, dashes: tuple[float, ...] = ()
    ) -> Tags:
        cover = round(self.look.base * opacity, 4)
        return Tags(EdgeClass.DRAWN, layer=self.layer, colour=rgb(colour, space), width=width, dashes=dashes, opacity=cover)

    def _stroked(self, gstate: Any, growth: float) -> Tags:
        """What is known of a stroke: width, dashes, ends and joins (8.4.3)."""
        pattern = gstate.dash[0] if isinstance(gstate.dash, tuple | list) and gstate.dash else ()
        dashes = tuple(float(d) * growth for d in resolved(pattern) or ())
        dashes = dashes * 2 if len(dashes) % 2 else dashes
        width = round(float(gstate.linewidth or 0) * growth, 6)
        tags = self._tags(gstate.scolor, gstate.scs, self.look.stroke, width, dashes if sum(dashes) > 0 else ())
        if tags.dashes and len(gstate.dash) > 1 and isinstance(resolved(gstate.dash[1]), int | float):
            tags = replace(tags, phase=float(resolved(gstate.dash[1])) * growth)
        ends, joins = resolved(gstate.linecap), resolved(gstate.linejoin)
        return replace(tags, ends=_ENDS.get(ends or 0, ""), joins=_JOINS.get(joins or 0, ""))

    def _at(self, x: float, y: float) -> Point:
        px, py = apply_matrix_pt(self.ctm, (x, y))
        return px * _MM, py * _MM

    # paths (8.5)

    def paint_path(self, gstate: Any, stroke: bool, fill: bool, evenodd: bool, path: Any) -> None:
        self.counts[self.layer] += 1
        runs = list(subpaths(path, self._at))
        if fill and patterned(gstate.ncs):
            self.unread["area filled with a pattern or gradient: left empty"] += 1
        elif fill:
            self._here.area(self._tags(gstate.ncolor, gstate.ncs, self.look.area), [run.contour() for run in runs], not evenodd)
        if not stroke:
            return
        growth = math.sqrt(abs(self.ctm[0] * self.ctm[3] - self.ctm[1] * self.ctm[2])) * _MM
        tags = self._stroked(gstate, growth)
        for run in runs:
            run.stroke(self._here, tags)

    # text (9.4)

    def render_string(self, textstate: Any, seq: Iterable[Any], ncs: Any, graphicstate: Any) -> None:
        font, size = textstate.font, float(textstate.fontsize)
        wide = textstate.scaling * 0.01
        matrix = mult_matrix(textstate.matrix, self.ctm)
        x, y = textstate.linematrix
        letters: list[tuple[str, float]] = []
        for part in seq:
            if isinstance(part, int | float):
                step = part * 0.001 * size * wide
                if -step > _GAP * abs(size * wide) and letters:
                    letters.append((" ", x))
                x -= step
                continue
            if not isinstance(part, bytes):
                continue
            for cid in font.decode(part):
                try:
                    letters.append((font.to_unichr(cid), x))
                except PDFUnicodeNotDefined:
                    letters.append(("\ufffd", x))
                x += font.char_width(cid) * size * wide + textstate.charspace * wide
                if cid == 32 and font.is_multibyte() is False:
                    x += textstate.wordspace * wide
        textstate.linematrix = (x, y)
        if not letters:
            return
        if textstate.render in _CLIPPING:
            self.unread["text that clips: not applied"] += 1
        if textstate.render == _UNDRAWN:
            return
        if textstate.render in _OUTLINED:
            self.unread["text whose outline alone is drawn: filled"] += 1
        capital = size / FACES[choose(font_name(font)).face].size * wide
        for run, end in spaced(letters, x, choose(font_name(font)), capital):
            text, start = "".join(c for c, _ in run), (run[0][1], y + textstate.rise)
            self._text(text, matrix, start, end, size, textstate, graphicstate)

    def _text(self, text: str, matrix: Any, start: Point, end: float, size: float, textstate: Any, gstate: Any) -> None:
        if not text.strip():
            return
        self.counts[self.layer] += 1
        name = font_name(textstate.font)
        self.fonts.note(name, text, self.layer)
        choice = choose(name)
        capital = size / FACES[choice.face].size
        own = choice.length(text) * capital
        stretch = (end - start[0]) / own if own > 0 else 1.0
        origin = apply_matrix_pt(matrix, start)
        right = apply_matrix_pt(matrix, (start[0] + capital * stretch, start[1]))
        up = apply_matrix_pt(matrix, (start[0], start[1] + capital))
        along = ((right[0] - origin[0]) * _MM, (right[1] - origin[1]) * _MM)
        upward = choice.upward(along, ((up[0] - origin[0]) * _MM, (up[1] - origin[1]) * _MM))
        tags = self._tags(gstate.ncolor, gstate.ncs, self.look.area)
        place = (origin[0] * _MM, origin[1] * _MM)
        self._here.text(tags, text, place, along, upward, choice.face, ghost=textstate.render == 3)

    # pictures (8.9)

    ink: tuple[Any, Any] = (None, None)
    """Colour and colour space in which a stencil is painted."""

    def render_image(self, name: str, stream: PDFStream) -> None:
        self.counts[self.layer] += 1
        pixels = pixels_of(stream, self.file, rgb(self.ink[0], self.ink[1]) or (0, 0, 0))
        self._pictures += 1
        if pixels is None:
            pixels = picture_by_pdfium(self.second, self.page, self._pictures - 1, stream)
        if pixels is None:
            self.unread["picture in a form that is not read: left out"] += 1
            return
        corner, across, upward = (np.array(self._at(*p)) for p in ((0, 0), (1, 0), (0, 1)))
        self._here.raster(self._tags(None, None, self.look.area), pixels, corner, across - corner, upward - corner)


def _layers(document: PDFDocument) -> dict[str, bool]:
    """The file's layers in order, and whether each is switched on (8.11.4.3)."""

    def within(holder: Any, name: str, kind: type) -> Any:
        # a damaged file has anything anywhere
        value = resolved(holder.get(name))
        return value if isinstance(value, kind) else kind()

    properties = within(document.catalog, "OCProperties", dict)
    off = {getattr(ref, "objid", None) for ref in within(within(properties, "D", dict), "OFF", list)}
    found = {}
    for ref in within(properties, "OCGs", list):
        entry = resolved(ref)
        label = resolved(entry.get("Name")) if isinstance(entry, dict) else None
        if isinstance(label, bytes):
            found[decode_text(label)] = getattr(ref, "objid", None) not in off
    return found


def _scales(record: PageRecord) -> list[str]:
    """The scales at which a page is drawn, by its measurement viewports; one that has others in it is the paper's own ruler."""
    ports = [port for port in record.viewports if port.scale > 0]
    inner = [port for port in ports if not any(_holds(port.box, other.box) for other in ports if other is not port)]
    return [str(scale) for scale in sorted({ratio_near(port.scale) for port in inner}, reverse=True)]


def _holds(outer: tuple[float, ...], inner: tuple[float, ...]) -> bool:
    within = outer[0] <= inner[0] and outer[1] <= inner[1] and inner[2] <= outer[2] and inner[3] <= outer[3]
    return within and outer != inner


def _box(record: PageRecord) -> tuple[float, float, float, float] | None:
    boxes = [port.box for port in record.viewports]
    if not boxes:
        return None
    rows = np.array(boxes)
    (x0, y0), (x1, y1) = rows[:, :2].min(axis=0).tolist(), rows[:, 2:].max(axis=0).tolist()
    return x0, y0, x1, y1


def read_pdf(path: Path, name: str, progress: Progress) -> Drawing:
    """Read the pages of a PDF file, in mm of the page; a page with measurement viewports says its scale.

    :raises InputError: when it is no PDF, is locked, or draws nothing.
    """
    data = path.read_bytes()
    if b"%PDF" not in data[:1024]:
        raise InputError(f"{name} is not a PDF file: export it again.")
    refuse_swelling(data, name)
    fonts = FontLog()
    try:
        document = PDFDocument(PDFParser(io.BytesIO(data)))
        records = read_dictionaries(data).pages
    except (PDFPasswordIncorrect, PDFEncryptionError, PDFTextExtractionNotAllowed):
        raise InputError(f"{name} needs a password: save it without one.") from None
    except _STUMBLES:
        raise InputError(f"{name} is damaged, so its pages cannot be read: export it again.") from None
    manager = PDFResourceManager(caching=True)
    device = _Device(manager, fonts)
    with suppress(pikepdf.PdfError):
        device.file = pikepdf.open(io.BytesIO(data))
    with suppress(pdfium.PdfiumError):
        device.second = pdfium.PdfDocument(data)
    interpreter = Interpreter(manager, device)
    spaces: dict[str, Any] = {}
    facts: list[SpaceFacts] = []
    lost: list[str] = []
    # the records are of the same pages, read by the same engine
    for number, (page, record) in enumerate(zip(PDFPage.create_pages(document), records, strict=True), 1):
        if number > MOST_PAGES:
            lost.append(f"The file has more than {MOST_PAGES} pages: the first {MOST_PAGES} are here.")
            break
        progress(0.1 + 0.85 * (number - 1) / len(records), f"Reading page {number}")
        device.start(number - 1)
        try:
            if forms_of(page) > MOST_FORMS:
                raise InputError(
                    f"{name} paints more than {MOST_FORMS} forms on page {number}, through forms within forms: "
                    "print it to a plain PDF."
                )
            interpreter.page_matrix = None
            interpreter.process_page(page)
            interpreter.annotations(page)
        except (*_STUMBLES, IndexError, ArithmeticError):
            lost.append(f"Page {number} is damaged: what could be read of it is here.")
        artwork = device.artwork()
        width, height = (record.media_box[2] - record.media_box[0], record.media_box[3] - record.media_box[1])
        if page.rotate % 180:
            width, height = height, width
        size = (width * _MM * record.user_unit, height * _MM * record.user_unit)
        heights = tuple(sorted(device.heights.items(), key=lambda row: -row[1])[:40])
        if record.user_unit != 1:
            from skalto.core.geometry import Similarity

            artwork = artwork.placed(Similarity(record.user_unit))
        label = f"Page {number}"
        scales = _scales(record)
        if len(scales) > 1:
            lost.append(f"{label} is drawn at several scales, {', '.join(scales)}: give the one of the area that you use.")
        key = "" if number == 1 else str(number)
        spaces[key] = artwork
        facts.append(
            SpaceFacts(
                name=key, label=label, box=artwork.bounds(), declared=_box(record), paper=size,
                scale=scales[0] if len(scales) == 1 else "",
                strokes=len(artwork), heights=heights,
            )
        )  # fmt: skip
    if not spaces:
        raise InputError(f"{name} is damaged, so its pages cannot be read: export it again.")
    if not any(len(artwork) for artwork in spaces.values()):
        lost.append(EMPTY)
    lost += [f"{count} × {what if ':' in what else what + ': not applied'}." for what, count in device.unread.most_common()]
    layers = _layers(document)
    rows = [LayerFacts(name=layer, on=on, count=device.counts.get(layer, 0)) for layer, on in layers.items()]
    rows += [LayerFacts(name=layer, count=count) for layer, count in device.counts.items() if layer not in layers]
    return Drawing(
        DrawingFacts(
            kind="pdf",
            form="PDF",
            layers=tuple(rows),
            spaces=tuple(facts),
            fonts=fonts.facts(),
            lost=tuple(lost),
        ),
        spaces,
    )
