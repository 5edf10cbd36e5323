"""Damaged and foreign drawings: one clear sentence, or a drawing recovered with a list of what was lost."""

from __future__ import annotations

import subprocess
from collections.abc import Callable
from pathlib import Path

import pikepdf
import pytest

from skalto.core.errors import InputError
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
