"""Texts of a drawing written anew in an excerpt: in place, in style, findable, and back again."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any

import numpy as np
import pypdfium2 as pdfium
import pytest

from skalto.core.artwork import Artwork, Polylines, Text
from skalto.core.lettering import length
from skalto.core.sources.drawings.excerpt import Excerpt, excerpt_artwork
from skalto.core.sources.drawings.retexting import retexted, texts_of
from skalto.core.sources.reading import read_drawing
from skalto.core.strokefont import strokes
from tests.core.drawn import dxf
from tests.core.sources.test_originals import Placed, source


def _title(doc: Any, msp: Any) -> None:
    doc.styles.add("Pen", font="simplex.shx")
    msp.add_line((0, 0), (100, 0))
    msp.add_text("Sheet 1", height=5, rotation=30, dxfattribs={"style": "Sans", "layer": "TITLE", "color": 1}).set_placement(
        (10, 20)
    )
    msp.add_text("EB-101", height=4, dxfattribs={"style": "Pen", "layer": "TITLE"}).set_placement((10, 60))
    msp.add_text("EB-101", height=4, dxfattribs={"style": "Pen", "layer": "TITLE"}).set_placement((60, 60))


@pytest.fixture
def drawn(tmp_path: Path) -> Artwork:
    path = dxf(tmp_path / "a.dxf", _title)
    return read_drawing(path, path.name).spaces[""]


def keys(artwork: Artwork) -> dict[str, str]:
    return {own.key: own.text for own in texts_of(artwork)}


def one(artwork: Artwork, text: str) -> tuple[Text, int]:
    return next((i, i.texts.index(text)) for i in artwork if isinstance(i, Text) and text in i.texts)


def test_a_text_keeps_its_place_size_angle_layer_and_colour(drawn: Artwork) -> None:
    key = next(key for key, text in keys(drawn).items() if text == "Sheet 1")
    anew = retexted(drawn, {key: "Sheet 12 of 40"})
    (before, n), (after, m) = one(drawn, "Sheet 1"), one(anew, "Sheet 12 of 40")
    assert after.start[m] == pytest.approx(before.start[n])
    assert (after.height[m], after.angle[m]) == pytest.approx((before.height[n], before.angle[n]))
    assert (after.tags, after.face) == (before.tags, before.face)
    assert after.length[m] == pytest.approx(length("Sheet 12 of 40", float(before.height[n]), before.face))
    assert "Sheet 1" not in keys(anew).values()
    assert len(keys(anew)) == len(keys(drawn))


def test_single_strokes_are_drawn_anew_and_the_same_words_elsewhere_stay(drawn: Artwork) -> None:
    key = next(key for key in keys(drawn) if key.startswith("EB-101@10"))
    anew = retexted(drawn, {key: "EB-7"})
    assert sorted(keys(anew).values()) == ["EB-101", "EB-7", "Sheet 1"]
    runs = [run for item in anew if isinstance(item, Polylines) for run in np.split(item.points, item.first[1:-1])]
    near = [run for run in runs if 9 < run[:, 0].min() < 40 and run[:, 1].min() > 50]
    wanted = [line * 4 + (10, 60) for line in strokes("EB-7")]
    assert len(near) == len([line for line in wanted if len(line) > 1])
    assert max(run[:, 0].max() for run in near) == pytest.approx(max(line[:, 0].max() for line in wanted), abs=1e-6)
    assert any(run[:, 0].min() > 55 for run in runs)


def test_an_empty_one_takes_the_text_away(drawn: Artwork) -> None:
    key = next(iter(keys(drawn)))
    assert key not in keys(retexted(drawn, {key: ""}))


def test_a_key_that_is_not_there_changes_nothing(drawn: Artwork) -> None:
    assert keys(retexted(drawn, {"gone@0.000,0.000": "x"})) == keys(drawn)


def test_an_excerpt_has_it_where_its_region_and_turn_put_it(drawn: Artwork) -> None:
    key = next(key for key, text in keys(drawn).items() if text == "Sheet 1")
    excerpt = Excerpt(unit=10, angle=90, region=(-1000, 0, 0, 1000), texts={key: "Plan"})
    (item, n) = one(excerpt_artwork(drawn, excerpt), "Plan")
    assert item.start[n] == pytest.approx((-200, 100))
    assert excerpt.covers((10, 20))
    assert not excerpt.covers((10, -20))


def test_a_page_with_a_text_of_its_own_goes_out_in_strokes_with_it(tmp_path: Path) -> None:
    path = source(tmp_path / "a.pdf")
    (key,) = keys(read_drawing(path, path.name).spaces[""])
    placed = Placed(path, Excerpt(texts={key: "Ebba II"}))
    data = placed.written()
    text = pdfium.PdfDocument(io.BytesIO(data))[0].get_textpage().get_text_bounded()
    assert "Ebba II" in text
    reading = next(check.reading for check in placed.checked(data).checks if check.code == "page-strokes")
    assert "some of its texts are written anew" in reading
