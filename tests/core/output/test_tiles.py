"""Tiles of a page: together they are the page as pdfium draws it whole, each once, and none beyond its ends."""

from __future__ import annotations

import io

import numpy as np
import pypdfium2 as pdfium
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image
from reportlab.pdfgen.canvas import Canvas

from skalto.core.errors import InputError
from skalto.core.output.tiles import SIDE, draw_tile, tiles_of


def _page(width: float, height: float) -> bytes:
    """Lines across, letters and a filled square in a corner of the page, width and height in points."""
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(width, height))
    for n in range(24):
        canvas.setLineWidth(0.3 + 0.2 * n)
        canvas.line(0, height * n / 24, width, height * (24 - n) / 24)
    canvas.setFont("Helvetica", 30)
    canvas.drawString(width * 0.6, height * 0.7, "Plate 4")
    canvas.rect(width - 20, 0, 20, 20, fill=1)
    canvas.save()
    return out.getvalue()


@pytest.mark.parametrize("size", [(842, 595), (595, 842), (500, 500), (2000, 90)])
@pytest.mark.parametrize("level", [0, 1, 2])
def test_tiles_together_are_the_page(size: tuple[float, float], level: int) -> None:
    data = _page(*size)
    columns, rows = tiles_of(*size, level)
    scale = SIDE * 2**level / max(size)
    whole = pdfium.PdfDocument(data)[0].render(scale=scale).to_pil().convert("L")
    put = Image.new("L", (columns * SIDE, rows * SIDE), 255)
    for column in range(columns):
        for row in range(rows):
            tile = Image.open(io.BytesIO(draw_tile(lambda: data, level, column, row))).convert("L")
            assert max(tile.size) <= SIDE
            put.paste(tile, (column * SIDE, row * SIDE))
    wide, high = min(whole.width, put.width), min(whole.height, put.height)
    assert abs(put.width - whole.width) < SIDE
    off = np.abs(np.asarray(put)[:high, :wide].astype(int) - np.asarray(whole)[:high, :wide].astype(int))
    # lines are smoothed about where a tile begins, which may be a fraction of a pixel off
    assert off.mean() < 2.5
    both = (Image.fromarray(np.asarray(own)[:high, :wide]) for own in (put, whole))
    shrunk = [np.asarray(own.resize((64, 64), Image.Resampling.BOX)) for own in both]
    assert np.abs(shrunk[0].astype(int) - shrunk[1].astype(int)).max() < 24


@given(st.floats(1, 1e5), st.floats(1, 1e5), st.integers(0, 7))
@settings(max_examples=200, deadline=None)
def test_as_many_tiles_as_the_page_needs(width: float, height: float, level: int) -> None:
    columns, rows = tiles_of(width, height, level)
    side = max(width, height) / 2**level
    for count, length in ((columns, width), (rows, height)):
        assert count >= 1
        assert count * side >= length * (1 - 1e-9)
        assert count == 1 or (count - 1) * side < length


@pytest.mark.parametrize("place", [(0, 1, 0), (1, 2, 0), (1, 0, 2), (9, 0, 0), (-1, 0, 0), (1, -1, 0)])
def test_no_tile_beyond_the_page(place: tuple[int, int, int]) -> None:
    data = _page(842, 595)
    with pytest.raises(InputError, match="there is no tile"):
        draw_tile(lambda: data, *place)


def test_the_last_file_is_kept_open_and_no_other_is_mistaken_for_it() -> None:
    first, second = _page(842, 595), _page(500, 500)
    asked: list[int] = []

    def read(number: int, data: bytes) -> bytes:
        asked.append(number)
        return data

    sizes = [
        Image.open(io.BytesIO(draw_tile(lambda n=n, d=d: read(n, d), 0, 0, 0, f"file {n}"))).size  # type: ignore[misc]
        for n, d in ((1, first), (1, first), (2, second), (1, first))
    ]
    assert asked == [1, 2, 1]
    assert sizes[0] == sizes[1] == sizes[3] != sizes[2]
