"""Texts of other writing systems: drawn by a shipped face, found by searching in three engines, told where a letter lacks."""

from __future__ import annotations

import io
import subprocess
import unicodedata
from pathlib import Path

import numpy as np
import pikepdf.pdfa
import pypdfium2 as pdfium
import pytest
from pdfminer.high_level import extract_text

from skalto.core.errors import InputError
from skalto.core.lettering import FACES, directed, glyph_runs, missing
from skalto.core.output.flat import flat_page
from skalto.core.output.pdf.document import write_pdf
from skalto.core.output.pdf.metadata import Metadata
from skalto.core.output.svg import write_svg
from skalto.core.pages.composition import compose
from skalto.core.pages.page import Page, SheetContext
from skalto.core.paper import FrameStyle, Orientation
from skalto.core.recipes import PLAIN, SHIPPED_RECIPES, Recipe
from skalto.core.sheets.annotations import Note
from skalto.core.sheets.sheet import SheetSpec

ARCHIVE = next(recipe for recipe in SHIPPED_RECIPES if recipe.id == "archive")
TEXTS = {
    "Japanese": "版画プレス 尺度 1:2",
    "Chinese": "材料：钢板 厚度 3 毫米",
    "Korean": "인쇄기 도면",
    "Greek": "Διάμετρος Ø12",
    "Russian": "Пресс, вид спереди",
}
LACKING = "\u1200"
"""An Ethiopic letter: none of the shipped faces has it."""


def page_of(*texts: str) -> Page:
    notes = tuple(Note(id=str(n), text=text, place=(20, 250 - 15 * n), height=5) for n, text in enumerate(texts))
    sheet = SheetSpec(
        id="s",
        name="Words",
        format="A4",
        orientation=Orientation.PORTRAIT,
        frame=FrameStyle.NONE,
        furniture=frozenset(),
        notes=notes,
    )
    return compose(sheet, {}, SheetContext())


def pdf_of(*texts: str, recipe: Recipe = PLAIN) -> bytes:
    return write_pdf([page_of(*texts)], Metadata("Words"), recipe)


def poppler(data: bytes, folder: Path) -> str:
    path = folder / "a.pdf"
    path.write_bytes(data)
    return subprocess.run(["pdftotext", "-layout", str(path), "-"], capture_output=True, text=True, check=True).stdout


def pdfium_text(data: bytes) -> str:
    document = pdfium.PdfDocument(data)
    return str(document[0].get_textpage().get_text_bounded())


def plain(text: str) -> str:
    return "".join(unicodedata.normalize("NFKC", text).split())


@pytest.mark.parametrize("name", list(TEXTS))
def test_a_text_is_drawn_and_found_as_it_was_written(name: str, tmp_path: Path) -> None:
    text = TEXTS[name]
    assert missing(text) == ""
    data = pdf_of(text)
    assert plain(text) in plain(poppler(data, tmp_path))
    assert plain(text) in plain(pdfium_text(data))
    assert plain(text) in plain(extract_text(io.BytesIO(data)))
    # something is drawn, and no two letters alike: empty boxes would be
    picture = np.asarray(pdfium.PdfDocument(data)[0].render(scale=4).to_pil().convert("L"))
    assert (picture < 128).sum() > 300


def test_each_letter_of_a_text_has_its_own_glyph() -> None:
    for text in TEXTS.values():
        for run in glyph_runs(text):
            assert 0 not in run.glyphs


@pytest.mark.parametrize("text", ["مكبس الطباعة", "بلا حلال", "قطر 12 مم", "Press مكبس 3", "סולם 1:2"])
def test_leftward_text_extracts_in_reading_order(text: str, tmp_path: Path) -> None:
    data = pdf_of(text)
    words = sorted(plain(word) for word in text.split())
    found = [plain(word) for word in poppler(data, tmp_path).translate(dict.fromkeys(range(0x202A, 0x202F), " ")).split()]
    for word in words:
        assert word in found
    assert all(word in plain(pdfium_text(data)) for word in words)


def test_stretches_of_one_direction_in_the_order_in_which_they_stand() -> None:
    assert [(p.text, p.leftward) for p in directed("plate 12")] == [("plate 12", False)]
    assert [(p.text, p.leftward) for p in directed("قطر 12 مم")] == [(" مم", True), ("12", False), ("قطر ", True)]
    assert [(p.text, p.leftward) for p in directed("Press مكبس 3")] == [("Press ", False), ("مكبس", True), (" 3", False)]
    assert directed("") == []


def test_letters_that_no_face_has_are_told_with_their_text_and_still_found() -> None:
    text = f"Mark {LACKING} here"
    page = page_of(text)
    (told,) = [own for own in page.notices if own.code == "letters-missing"]
    assert LACKING in told.message
    assert "“Mark" in told.message
    data = pdf_of(text, f"other {LACKING}\u1201")
    assert LACKING in pdfium_text(data)
    assert "\u1201" in pdfium_text(data)


def test_an_archive_refuses_a_letter_that_it_cannot_show() -> None:
    with pytest.raises(InputError, match="No shipped face has"):
        pdf_of(f"Mark {LACKING}", recipe=ARCHIVE)
    data = pdf_of(TEXTS["Japanese"], recipe=ARCHIVE)
    assert pikepdf.pdfa.validate_written(io.BytesIO(data), "2b").passed


def test_a_file_with_a_few_letters_of_a_large_face_stays_small() -> None:
    assert FACES[5].path.stat().st_size > 3_000_000
    assert len(pdf_of(TEXTS["Japanese"])) < 60_000


def test_svg_says_leftward_text_in_reading_order() -> None:
    assert "مكبس الطباعة" in write_svg(flat_page(page_of("مكبس الطباعة"))).decode()
