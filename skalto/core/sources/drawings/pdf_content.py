"""Pieces of a PDF page's content: subpaths, colours, font names and pictures (ISO 32000-1, 8.5, 8.6, 9.6, 8.9)."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from typing import Any

import numpy as np
import pikepdf
import pypdfium2.raw as raw
from numpy.typing import NDArray
from pdfminer.pdftypes import PDFStream
from pdfminer.psparser import PSLiteral
from pdfminer.utils import decode_text
from pikepdf.models.image import PdfImage
from PIL import Image

from skalto.core.artwork import Tags
from skalto.core.geometry import Point, bezier_at
from skalto.core.geometry.curves import circle_through
from skalto.core.pdf_dictionaries import resolved
from skalto.core.sources.drawings.collecting import Collector, Contour

_ROUND = 1e-3
"""A closed run of curves within this of a circle, mm on the page, is one."""


class Subpath:
    """One subpath in mm: its pieces of four points each, which are straight, and whether it closes."""

    def __init__(self, start: Point) -> None:
        self.start = start
        self.here = start
        self.pieces: list[tuple[Point, Point, Point, Point]] = []
        self.straight: list[bool] = []
        self.closed = False

    def line(self, to: Point) -> None:
        self.pieces.append((self.here, self.here, to, to))
        self.straight.append(True)
        self.here = to

    def curve(self, a: Point, b: Point, to: Point) -> None:
        self.pieces.append((self.here, a, b, to))
        self.straight.append(False)
        self.here = to

    def contour(self) -> Contour:
        made = Contour()
        for (a, b, c, d), flat in zip(self.pieces, self.straight, strict=True):
            if not flat:
                made.curve(a, b, c, d)
            elif a != d:
                made.line(a, d)
        if self.here != self.start:
            made.line(self.here, self.start)
        return made

    def stroke(self, collector: Collector, tags: Tags) -> None:
        if not self.pieces:
            collector.line(tags, *self.start, *self.start)
            return
        if all(self.straight):
            points = [self.start, *(piece[3] for piece in self.pieces)]
            closed = self.closed or (len(points) > 3 and points[0] == points[-1])
            if closed and points[0] == points[-1] and len(points) > 2:
                points.pop()
            collector.polyline(tags, np.array(points), closed=closed and len(points) > 2)
            return
        if not any(self.straight) and self._circle(collector, tags):
            return
        self._pieces(collector, tags)

    def _circle(self, collector: Collector, tags: Tags) -> bool:
        """Whether it is one whole circle, drawn as such."""
        curves = np.array(self.pieces)
        if math.dist(self.here, self.start) > _ROUND:
            return False
        found = circle_through(bezier_at(curves, np.linspace(0, 1, 9)).reshape(-1, 2), _ROUND)
        if found is None:
            return False
        (cx, cy), radius = found[0].tolist(), found[1]
        collector.ellipse(tags, (cx, cy), (radius, 0.0), (0.0, radius), 0.0, math.tau)
        return True

    def _pieces(self, collector: Collector, tags: Tags) -> None:
        run: list[Point] = []
        curves: list[Any] = []
        pieces = list(zip(self.pieces, self.straight, strict=True))
        if self.closed and self.here != self.start:
            pieces.append(((self.here, self.here, self.start, self.start), True))
        for piece, flat in pieces:
            if flat:
                if curves:
                    collector.beziers(tags, np.array(curves))
                    curves = []
                run = run or [piece[0]]
                run.append(piece[3])
            else:
                if run:
                    collector.polyline(tags, np.array(run))
                    run = []
                curves.append(piece)
        if run:
            collector.polyline(tags, np.array(run))
        if curves:
            collector.beziers(tags, np.array(curves))


def subpaths(path: Any, at: Callable[[float, float], Point]) -> Iterable[Subpath]:
    current: Subpath | None = None
    for operator, *numbers in path:
        points = [at(float(x), float(y)) for x, y in zip(numbers[::2], numbers[1::2], strict=True)]
        if operator == "m":
            if current is not None and current.pieces:
                yield current
            current = Subpath(points[0])
        elif current is None:
            continue
        elif operator == "l":
            current.line(points[0])
        elif operator == "c":
            current.curve(points[0], points[1], points[2])
        elif operator == "v":
            current.curve(current.here, points[0], points[1])
        elif operator == "y":
            current.curve(points[0], points[1], points[1])
        elif operator == "h":
            current.closed = True
            yield current
            current = Subpath(current.start)
    if current is not None and current.pieces:
        yield current


def rgb(colour: Any, space: Any) -> tuple[int, int, int] | None:
    """A colour as red, green and blue; of a space that is not the device's, black; of an ink alone, its share of black."""
    if colour is None:
        return None
    values = [float(v) for v in (colour if isinstance(colour, tuple | list) else (colour,)) if isinstance(v, int | float)]
    if len(values) == 1 and hasattr(space, "seen"):
        values = list(space.seen(values[0]) or (1 - values[0],))
        space = None
    if len(values) == 1:
        if _name(space) in ("Separation", "DeviceN"):
            values = [1 - values[0]]
        grey = round(255 * min(max(values[0], 0.0), 1.0))
        return grey, grey, grey
    if len(values) == 3:
        red, green, blue = (round(255 * min(max(v, 0.0), 1.0)) for v in values)
        return red, green, blue
    if len(values) == 4:
        c, m, y, k = values
        red, green, blue = (round(255 * (1 - min(1.0, v + k))) for v in (c, m, y))
        return red, green, blue
    return 0, 0, 0


def _name(space: Any) -> str:
    name = getattr(space, "name", "")
    return name if isinstance(name, str) else str(getattr(name, "name", ""))


def patterned(space: Any) -> bool:
    """Whether a colour of this space is a pattern (8.7)."""
    return _name(space) == "Pattern"


def font_name(font: Any) -> str:
    name = getattr(font, "basefont", None) or getattr(font, "fontname", "") or ""
    text = name.name if isinstance(name, PSLiteral) else (decode_text(name) if isinstance(name, bytes) else str(name))
    # a subset has six capitals and a plus before its name (9.6.4)
    return text[7:] if len(text) > 7 and text[6] == "+" else text


def pixels_of(stream: PDFStream, file: pikepdf.Pdf | None, ink: tuple[int, int, int]) -> NDArray[np.uint8] | None:
    """A picture as rows of red, green, blue and cover, a stencil in *ink*; None in a form that is not read.

    :param file: the file again as pikepdf has it, which knows every colour space and filter; None reads plain pictures alone.
    """
    try:
        number = getattr(stream, "objid", None)
        if file is not None and number:
            return _pixels(file.get_object((number, 0)), ink)
        width, height = (int(resolved(stream.get_any((long, short)))) for long, short in (("Width", "W"), ("Height", "H")))
        data = stream.get_data()
        mode = {1: "L", 3: "RGB", 4: "CMYK"}.get(len(data) // max(width * height, 1))
        if mode is None or int(resolved(stream.get_any(("BitsPerComponent", "BPC"))) or 8) != 8:
            return None
        return np.array(Image.frombytes(mode, (width, height), data[: width * height * len(mode)]).convert("RGBA"), np.uint8)
    except Exception:
        # the libraries that decode pictures have errors of their own for each of the many ways to be damaged
        return None


def picture_by_pdfium(document: Any, page: int, number: int, stream: PDFStream) -> NDArray[np.uint8] | None:
    """A picture of a page by its *number* among its pictures, in drawing order, as pdfium decodes it, which knows kinds that
    others leave to programs of their own (JBIG2, JPEG 2000); None where it is another one, or none."""
    if document is None:
        return None
    try:
        pictures = list(document[page].get_objects(filter=(raw.FPDF_PAGEOBJ_IMAGE,), max_depth=12))
        width, height = (int(resolved(stream.get_any((long, short)))) for long, short in (("Width", "W"), ("Height", "H")))
        if number >= len(pictures) or tuple(pictures[number].get_px_size()) != (width, height):
            return None
        return np.array(pictures[number].get_bitmap().to_pil().convert("RGBA"), np.uint8)
    except Exception:
        return None


def _pixels(found: Any, ink: tuple[int, int, int]) -> NDArray[np.uint8]:
    picture = PdfImage(found)
    shown = picture.as_pil_image()
    if picture.image_mask:
        # a sample of 0 is painted, unless the decoding turns it (8.9.6.2)
        cover = np.array(shown.convert("L"), np.uint8)
        turned = [float(v) for v in found.get("/Decode", [0, 1])] == [1.0, 0.0]
        pixels = np.empty((*cover.shape, 4), np.uint8)
        pixels[..., :3] = ink
        pixels[..., 3] = cover if turned else 255 - cover
        return pixels
    pixels = np.array(shown.convert("RGBA"), np.uint8)
    mask = found.get("/SMask", None)
    if mask is not None:
        cover_picture = PdfImage(mask).as_pil_image().convert("L")
        if cover_picture.size != shown.size:
            cover_picture = cover_picture.resize(shown.size)
        pixels[..., 3] = np.array(cover_picture, np.uint8)
    return pixels
