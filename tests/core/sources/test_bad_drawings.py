"""Damaged and foreign drawings: one clear sentence, or a drawing recovered with a list of what was lost."""

from __future__ import annotations

import io
import subprocess
import time
import zlib
from collections.abc import Callable
from pathlib import Path

import pikepdf
import pytest

from skalto.core.errors import InputError
from skalto.core.sources.drawings.pdf_budget import unpacked_size
from skalto.core.sources.reading import read_drawing
from tests.core.sources.bad_drawings import RECOVERED, REFUSED


@pytest.mark.parametrize("kind", REFUSED)
def test_what_cannot_be_read_is_refused_in_one_sentence(kind: str, tmp_path: Path) -> None:
    make, words = REFUSED[kind]
    path = make(tmp_path)
    with pytest.raises(InputError, match=words) as caught:
        read_drawing(path, path.name)
    assert "\n" not in str(caught.value)
    assert str(caught.value).startswith(path.name)


@pytest.mark.parametrize("kind", RECOVERED)
def test_what_is_damaged_is_recovered_with_a_list(kind: str, tmp_path: Path) -> None:
    path = RECOVERED[kind](tmp_path)
    drawing = read_drawing(path, path.name)
    assert drawing.facts.lost
    assert "recovered" in drawing.facts.lost[0]
    assert drawing.facts.spaces[0].strokes >= 1


@pytest.mark.long
def test_the_command_line_says_so_in_one_line(tmp_path: Path, skalto: Callable[..., subprocess.CompletedProcess[str]]) -> None:
    path = REFUSED["a closed format by another name"][0](tmp_path)
    done = skalto("layers", str(path))
    assert done.returncode == 2
    assert done.stderr.strip().splitlines() == ["plan.dxf is in a closed format that only its maker reads: save it as DXF."]


def test_what_a_pdf_draws_out_of_all_reach_is_told(tmp_path: Path) -> None:
    pdf = pikepdf.new()
    page = pdf.add_blank_page(page_size=(200, 200))
    page.Contents = pdf.make_stream(b"10 10 m 100 10 l S 10 20 m 99999999999999999999 20 l S")
    pdf.save(tmp_path / "far.pdf")
    drawing = read_drawing(tmp_path / "far.pdf", "far.pdf")
    assert drawing.facts.spaces[0].strokes == 1
    assert any(line.startswith("1 × strokes or texts at a place out of all reach") for line in drawing.facts.lost)


def _packed(times: int, megabytes: int) -> bytes:
    """A PDF whose page is spaces, packed over and over."""
    data = b" " * (megabytes * 1_000_000)
    for _ in range(times):
        data = zlib.compress(data, 9)
    with pikepdf.new() as pdf:
        page = pdf.add_blank_page(page_size=(300, 200))
        stream = pikepdf.Stream(pdf, b"")
        filters = [pikepdf.Name("/FlateDecode")] * times
        stream.write(data, filter=pikepdf.Array(filters))
        page.Contents = stream
        out = io.BytesIO()
        pdf.save(out, compress_streams=False, stream_decode_level=pikepdf.StreamDecodeLevel.none)
    return out.getvalue()


@pytest.mark.parametrize("times", [2, 3])
def test_a_pdf_that_swells_is_refused_before_it_does(times: int, tmp_path: Path) -> None:
    """What a few kilobytes unpack to would take gigabytes; the refusal takes no more than the budget, and no time."""
    path = tmp_path / "swells.pdf"
    path.write_bytes(_packed(times, 300))
    assert path.stat().st_size < 20_000
    begun = time.monotonic()
    with pytest.raises(InputError, match="unpacks to more than 256 MB"):
        read_drawing(path, path.name)
    assert time.monotonic() - begun < 20
    # as much as a page of plain text may have is taken
    fine = tmp_path / "fine.pdf"
    fine.write_bytes(_packed(times, 1))
    assert read_drawing(fine, fine.name).facts.spaces


@pytest.mark.parametrize(
    ("filters", "size"),
    [
        (["/FlateDecode"], 1000),
        (["/Fl", "/Fl"], 1000),
        (["/RunLengthDecode"], 64 * 12),
        (["/RunLengthDecode", "/FlateDecode"], 5001),
    ],
)
def test_unpacked_sizes(filters: list[str], size: int) -> None:
    data = b"x" * 1000
    for name in filters:
        data = zlib.compress(data) if name != "/RunLengthDecode" else b"y" * 12
    assert unpacked_size(data, filters, 5000) == size
