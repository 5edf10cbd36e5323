"""A page in tiles for the screen, drawn from the finished file by pdfium: of one as large as a hall, what fits the eye."""

from __future__ import annotations

import io
import math
from collections.abc import Callable, Hashable

import pypdfium2 as pdfium

from skalto.core.errors import InputError

SIDE = 1024
"""Pixels of a tile's side, and at level 0 of the page's longer side; every level has twice as many as the one before."""
LEVELS = 8
_open: dict[Hashable, pdfium.PdfDocument] = {}


def tiles_of(width: float, height: float, level: int) -> tuple[int, int]:
    """How many columns and rows of tiles a page of a size, in any unit, has at a level."""
    longer = max(width, height)
    columns, rows = (max(1, math.ceil(2**level * side / longer - 1e-9)) for side in (width, height))
    return columns, rows


def draw_tile(read: Callable[[], bytes], level: int, column: int, row: int, of: Hashable = None) -> bytes:
    """A tile of a file's first page as PNG, columns from the left, rows from the top; at the right and at the bottom it ends
    with the page.

    :param read: gives the file, where it is not the last one, which is kept open. :param of: what names it.
    :raises InputError: for a tile that the page has not.
    """
    if of is None or of not in _open:
        for document in _open.values():
            document.close()
        _open.clear()
        _open[of] = pdfium.PdfDocument(read())
    page = _open[of][0]
    width, height = page.get_size()
    columns, rows = tiles_of(width, height, level)
    if not (0 <= level < LEVELS and 0 <= column < columns and 0 <= row < rows):
        raise InputError(f"The page has {columns} × {rows} tiles at level {level}: there is no tile {column}, {row}.")
    scale = SIDE * 2**level / max(width, height)
    side = SIDE / scale
    left, top = column * side, row * side
    right, bottom = max(0.0, width - left - side), max(0.0, height - top - side)
    picture = page.render(scale=scale, crop=(left, bottom, right, top)).to_pil().convert("RGB")
    if max(picture.size) > SIDE:  # a pixel too many by rounding up
        picture = picture.crop((0, 0, min(picture.width, SIDE), min(picture.height, SIDE)))
    out = io.BytesIO()
    picture.save(out, "PNG", compress_level=1)
    return out.getvalue()
