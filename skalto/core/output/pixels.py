"""Pages as pictures of pixels: PNG, JPEG and TIFF, drawn from the finished file by pdfium."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import Literal

import pypdfium2 as pdfium
from PIL import Image
from pydantic import BaseModel, ConfigDict, Field

from skalto.core.errors import InputError
from skalto.core.quantities import MM_PER_INCH
from skalto.core.recipes import ColourMode

PictureKind = Literal["png", "jpeg", "tiff"]
MOST = 400_000_000
"""Pixels of a picture at most: A0 at 600 dpi has 558 million, at 500 dpi 388 million."""


class PictureRequest(BaseModel):
    """Which picture: its kind, its resolution or, instead, exactly how many pixels wide and high, its colours (black is one bit
    a pixel), and of a JPEG the quality."""

    model_config = ConfigDict(frozen=True)

    kind: PictureKind = "png"
    dpi: int = Field(default=300, ge=10, le=2400)
    pixels: tuple[int, int] | None = None
    colour: ColourMode = "colour"
    quality: int = Field(default=90, ge=20, le=100)


def pixel_size(width: float, height: float, wish: PictureRequest) -> tuple[int, int]:
    """How many pixels wide and high a page of a size in mm becomes. :raises InputError: for a picture that is too large."""
    if wish.pixels is not None:
        columns, rows = wish.pixels
    else:
        columns, rows = (max(1, round(side / MM_PER_INCH * wish.dpi)) for side in (width, height))
    if columns < 1 or rows < 1 or columns * rows > MOST:
        raise InputError(f"A picture of {columns} × {rows} pixels is too large: ask for {MOST // 1_000_000} million or fewer.")
    return columns, rows


def _drawn(page: pdfium.PdfPage, wish: PictureRequest, unit: float) -> Image.Image:
    width, height = page.get_size()
    columns, rows = pixel_size(width * unit / 72 * MM_PER_INCH, height * unit / 72 * MM_PER_INCH, wish)
    # one scale for both sides, the larger one; what is over by a rounding is taken off
    scale = max(columns / width, rows / height)
    picture = page.render(scale=scale, optimize_mode="print").to_pil().convert("RGB")
    if picture.size != (columns, rows):
        if wish.pixels is not None:
            picture = picture.resize((columns, rows), Image.Resampling.LANCZOS)
        else:
            picture = picture.crop((0, picture.height - rows, columns, picture.height))
    if wish.colour == "grey":
        return picture.convert("L")
    if wish.colour == "black":
        return picture.convert("L").point(lambda v: 255 if v >= 128 else 0).convert("1")
    return picture


def draw_pages(data: bytes, wish: PictureRequest, pages: Sequence[int] | None = None) -> list[bytes]:
    """Pictures of a file's pages: one a page, but of a TIFF one with all pages.

    :raises InputError: for a picture that is too large, or one bit in a JPEG.
    """
    if wish.kind == "jpeg" and wish.colour == "black":
        raise InputError("A JPEG has no pictures of one bit: choose greys, or PNG or TIFF.")
    document = pdfium.PdfDocument(data)
    try:
        from skalto.core.pdf_dictionaries import read_dictionaries

        units = [page.user_unit for page in read_dictionaries(data).pages]
        chosen = range(len(document)) if pages is None else pages
        drawn = [_drawn(document[number], wish, units[number]) for number in chosen]
        resolution = _resolution(document[chosen[0]], units[chosen[0]], drawn[0], wish)
    finally:
        document.close()
    return _saved(drawn, wish, resolution)


def _resolution(page: pdfium.PdfPage, unit: float, drawn: Image.Image, wish: PictureRequest) -> float:
    """Dots per inch as the picture says them of itself."""
    return float(wish.dpi) if wish.pixels is None else drawn.width / (page.get_width() * unit / 72)


def _saved(drawn: list[Image.Image], wish: PictureRequest, dpi: float) -> list[bytes]:
    if wish.kind == "tiff":
        out = io.BytesIO()
        # one bit by the standard fax code, all else without loss (TIFF 6.0)
        code = "group4" if wish.colour == "black" else "tiff_lzw"
        first, rest = drawn[0], drawn[1:]
        first.save(out, "TIFF", compression=code, dpi=(dpi, dpi), save_all=True, append_images=rest)
        return [out.getvalue()]
    found = []
    for picture in drawn:
        out = io.BytesIO()
        if wish.kind == "png":
            picture.save(out, "PNG", dpi=(dpi, dpi))
        else:
            picture.save(out, "JPEG", quality=wish.quality, dpi=(round(dpi), round(dpi)), subsampling=0)
        found.append(out.getvalue())
    return found
