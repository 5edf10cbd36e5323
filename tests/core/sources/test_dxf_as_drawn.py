"""A DXF file comes in as it was drawn: what does not show counts for nothing, codes are letters, fills are what they were."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any

import numpy as np
import pikepdf
import pypdfium2 as pdfium
import pytest

from skalto.core.output.dxf import write_dxf
from skalto.core.output.flat import flat_page
from skalto.core.output.pdf.document import write_pdf
from skalto.core.output.pdf.metadata import Metadata
from skalto.core.output.svg import write_svg
from skalto.core.sources.drawings.excerpt import Excerpt
from tests.conftest import Ran
from tests.core.drawn import dxf, of_kind, page_of, read, sheet_of

CORPUS = Path(__file__).parents[2] / "campaigns" / "corpus"


def _outline(space: Any) -> None:
    space.add_lwpolyline([(0, 0), (100, 0), (100, 50), (0, 50)], close=True)


def _off(doc: Any, space: Any) -> None:
    doc.layers.add("OFF").off()
    space.add_line((0, 0), (5000, 0), {"layer": "OFF"})


def _frozen(doc: Any, space: Any) -> None:
    doc.layers.add("FROZEN").freeze()
    space.add_line((0, 0), (0, 6000), {"layer": "FROZEN"})


def _not_plotted(doc: Any, space: Any) -> None:
    doc.layers.add("HELP").dxf.plot = 0
    space.add_line((0, 0), (-7000, 0), {"layer": "HELP"})


def _defpoints(doc: Any, space: Any) -> None:
    space.add_line((0, 0), (0, -8000), {"layer": "Defpoints"})


def _in_block(doc: Any, space: Any) -> None:
    doc.layers.add("OFF").off()
    block = doc.blocks.new("PART")
    block.add_line((0, 0), (9000, 9000), {"layer": "OFF"})
    block.add_line((0, 0), (10, 10))
    block.add_attdef("TAG", (20000, 0), "x")
    space.add_blockref("PART", (10, 10))


def _attdef(doc: Any, space: Any) -> None:
    space.add_attdef("TAG", (30000, 0), "x")


def _wipeout(doc: Any, space: Any) -> None:
    space.add_wipeout([(40000, 0), (40010, 10)])


def _point(doc: Any, space: Any) -> None:
    space.add_point((50000, 0))


def _xline(doc: Any, space: Any) -> None:
    space.add_xline((10, 10), (1, 0))


def _ray(doc: Any, space: Any) -> None:
    space.add_ray((10, 10), (0, 1))


@pytest.mark.parametrize("more", [_off, _frozen, _not_plotted, _defpoints, _in_block, _attdef, _wipeout, _point, _xline, _ray])
def test_what_does_not_show_does_not_count_as_drawn(more: Any, tmp_path: Path, skalto_here: Ran) -> None:
    def draw(doc: Any, space: Any) -> None:
        _outline(space)
        more(doc, space)

    path = dxf(tmp_path / "plan.dxf", draw)
    assert read(path).facts.spaces[0].box == pytest.approx((0, 0, 100, 50))
    status, _, told = skalto_here("export", path, "--out", tmp_path / "a.pdf", "--paper", "A4")
    assert status == 0, told


def test_endless_lines_go_as_far_as_what_else_is_drawn(tmp_path: Path) -> None:
    def draw(doc: Any, space: Any) -> None:
        _outline(space)
        space.add_xline((10, 10), (1, 0))
        space.add_ray((20, 10), (0, 1))
        space.add_ray((500, 10), (0, 1))

    rows = np.concatenate(
        [item.points.reshape(-1, 4) for item in of_kind(read(dxf(tmp_path / "a.dxf", draw)).spaces[""], "lines")]
    )
    assert sorted(rows.tolist()) == [[0, 10, 100, 10], [20, 10, 20, 50]]


def test_a_page_with_an_empty_viewport_is_a_sheet_all_the_same(tmp_path: Path, skalto_here: Ran) -> None:
    def draw(doc: Any, space: Any) -> None:
        _outline(space)
        page = doc.layouts.get("Layout1")
        page.page_setup(size=(297, 210), margins=(0, 0, 0, 0), units="mm")
        page.add_viewport(center=(100, 100), size=(150, 100), view_center_point=(50, 25), view_height=60)
        page.add_viewport(center=(230, 100), size=(50, 50), view_center_point=(9000, 9000), view_height=60)
        page.add_text("Sheet 1", height=5).set_placement((20, 20))

    path = dxf(tmp_path / "plan.dxf", draw)
    (page,) = [space for space in read(path).facts.spaces if space.name]
    assert len(page.excerpts) == 1
    status, _, told = skalto_here("export", path, "--out", tmp_path / "a.pdf", "--region", "page:Layout1")
    assert status == 0, told


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (r"A \S+0.1^-0.2; B", {"A", "+0.1", "-0.2"}),
        (r"\S1/2; in", {"1", "2"}),
        (r"\U+2205 %%176", {"∅", "°"}),
        (r"5%%d ±", {"5°", "±"}),
    ],
)
def test_formatted_text_is_what_it_says(content: str, words: set[str], tmp_path: Path) -> None:
    drawing = read(
        dxf(
            tmp_path / "a.dxf",
            lambda doc, space: space.add_mtext(content, {"char_height": 3, "insert": (20, 20), "style": "Sans"}),
        )
    )
    found = " ".join(text for item in of_kind(drawing.spaces[""], "text") for text in item.texts).split()
    assert words <= set(found)
    assert "k" not in "".join(found)


def test_codes_for_letters_in_plain_text(tmp_path: Path) -> None:
    drawing = read(
        dxf(
            tmp_path / "a.dxf",
            lambda doc, space: space.add_text("%%176 %%c \\U+2205 10 %%p1", height=3, dxfattribs={"style": "Sans"}),
        )
    )
    (text,) = of_kind(drawing.spaces[""], "text")
    assert text.texts[0].replace("⌀", "Ø") == "° Ø ∅ 10 ±1"


def test_a_gradient_runs_from_one_colour_to_the_other_within_its_border(tmp_path: Path) -> None:
    def draw(doc: Any, space: Any) -> None:
        hatch = space.add_hatch()
        hatch.paths.add_polyline_path([(10, 10), (50, 10), (50, 30), (10, 30)], is_closed=True)
        hatch.paths.add_polyline_path([(25, 15), (35, 15), (35, 25), (25, 25)], is_closed=True, flags=16)
        hatch.set_gradient((255, 0, 0), (0, 0, 255))

    page = page_of(read(dxf(tmp_path / "a.dxf", draw)), sheet_of(Excerpt(region=(0, 0, 60, 40)), "60x40mm"))
    data = write_pdf([page], Metadata("x"))
    shown = np.asarray(pdfium.PdfDocument(data)[0].render(scale=10 * 72 / 254 * 2.54).to_pil().convert("RGB")).astype(int)
    at = lambda x, y: shown[round((40 - y) / 40 * shown.shape[0]), round(x / 60 * shown.shape[1])]  # noqa: E731
    left, right = at(12, 12), at(48, 12)
    assert left[0] > 220
    assert left[2] < 40
    assert right[2] > 220
    assert right[0] < 40
    assert at(30, 20).min() > 250, "the opening stays open"
    assert at(5, 5).min() > 250


def test_what_is_see_through_stays_so_in_every_format(tmp_path: Path) -> None:
    def draw(doc: Any, space: Any) -> None:
        _outline(space)
        hatch = space.add_hatch(color=1)
        hatch.paths.add_polyline_path([(10, 10), (50, 10), (50, 30), (10, 30)], is_closed=True)
        hatch.transparency = 0.6
        space.add_line((0, 40), (100, 40)).transparency = 0.5

    drawing = read(dxf(tmp_path / "a.dxf", draw))
    page = page_of(drawing, sheet_of(Excerpt(region=(-5, -5, 105, 55)), "110x60mm"))
    with pikepdf.open(io.BytesIO(write_pdf([page], Metadata("x")))) as pdf:
        states = pdf.pages[0].Resources.ExtGState
        assert sorted(float(state.ca) for state in states.values()) == pytest.approx([0.4, 0.5, 1.0], abs=0.01)
        shown = np.asarray(pdfium.PdfDocument(write_pdf([page], Metadata("x")))[0].render(scale=3).to_pil().convert("RGB"))
    red = shown[round(35 / 60 * shown.shape[0]), round(30 / 110 * shown.shape[1])]
    # 40 % of pure red on white
    assert red.tolist() == pytest.approx([255, 153, 153], abs=4)
    assert b'opacity="0.4' in write_svg(flat_page(page))
    path = tmp_path / "out.dxf"
    path.write_bytes(write_dxf(flat_page(page)))
    again = read(path).spaces[""]
    assert {round(item.tags.opacity, 1) for item in again} == {0.4, 0.5, 1.0}


def test_a_line_type_with_text_keeps_its_dashes_and_is_told(tmp_path: Path) -> None:
    def draw(doc: Any, space: Any) -> None:
        doc.linetypes.add("MAIN", pattern='A,5,-2,["GAS",STANDARD,S=1,U=0.0,X=-1,Y=-.5],-2.5', length=9.5)
        space.add_line((0, 0), (100, 0), {"linetype": "MAIN"})

    drawing = read(dxf(tmp_path / "a.dxf", draw))
    (line,) = of_kind(drawing.spaces[""], "lines")
    assert line.tags.dashes == pytest.approx((5, 4.5))
    assert any(told.startswith("Line type MAIN: drawn with its dashes") for told in drawing.facts.lost)


def test_segments_without_width_in_a_wide_polyline_are_lines(tmp_path: Path) -> None:
    def draw(doc: Any, space: Any) -> None:
        space.add_lwpolyline([(0, 0, 2, 2, 0), (20, 0, 0, 0, 0), (40, 0, 0, 0, 0.5), (60, 0, 1, 1, 0), (80, 0)], format="xyseb")

    artwork = read(dxf(tmp_path / "a.dxf", draw)).spaces[""]
    assert len(of_kind(artwork, "areas")) == 1
    (line,) = of_kind(artwork, "lines")
    assert line.points.tolist() == [[[20, 0], [40, 0]]]
    (arc,) = of_kind(artwork, "polylines")
    assert arc.bulge[0] == pytest.approx(0.5)


def test_what_other_files_hold_is_told_by_name(tmp_path: Path) -> None:
    def draw(doc: Any, space: Any) -> None:
        _outline(space)
        doc.add_xref_def("site plan.dxf", "SITE")
        space.add_blockref("SITE", (0, 0))
        definition = doc.add_image_def(filename="/secret/scan.png", size_in_pixel=(60, 40))
        space.add_image(definition, insert=(15, 20), size_in_units=(6, 4))

    told = " ".join(read(dxf(tmp_path / "a.dxf", draw)).facts.lost)
    assert "site plan.dxf" in told
    assert "The picture scan.png is a file of its own, which is not opened" in told
    assert "/secret" not in told


def test_a_layer_that_is_off_keeps_its_colour(tmp_path: Path) -> None:
    def draw(doc: Any, space: Any) -> None:
        doc.layers.add("A", color=7).off()
        doc.layers.add("B", color=1).off()
        space.add_line((0, 0), (10, 0), {"layer": "A"})
        space.add_line((0, 5), (10, 5), {"layer": "B"})

    colours = {item.tags.layer: item.tags.colour for item in read(dxf(tmp_path / "a.dxf", draw)).spaces[""]}
    assert colours == {"A": (0, 0, 0), "B": (255, 0, 0)}


def test_halves_of_characters_are_joined_or_replaced_and_places_out_of_reach_are_told() -> None:
    """Codes as the DXF reference has them for U+1F600, in UTF-16 (RFC 2781), and a byte that is no letter of the code page."""
    halves = read(CORPUS / "halves.dxf")
    (text,) = of_kind(halves.spaces[""], "text")
    assert text.texts == ("half \ufffd alone, whole \U0001f600, âÿ",)
    assert {layer.name for layer in halves.facts.layers} >= {"CUT \ufffd ÿ"}
    assert {item.tags.layer for item in halves.spaces[""]} == {"CUT \ufffd ÿ"}
    places = read(CORPUS / "place.dxf")
    assert places.facts.spaces[0].box == (0, 0, 40, 20)
    assert any(line.startswith("3 × strokes or texts at a place out of all reach") for line in places.facts.lost)
