"""DXF drawings against closed forms: what entities are, where they lie, their layers, widths, text, pages, units."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from skalto.core.geometry import bezier_at
from skalto.core.layout.drawing_views import page_sheet
from skalto.core.sources.drawings.dxf.pages import paper_of
from tests.core.drawn import dxf, of_kind, read


def test_a_circle_stays_a_circle_and_an_arc_an_arc(tmp_path: Path) -> None:
    def draw(doc: Any, space: Any) -> None:
        space.add_circle((12.5, -7), 30)
        space.add_arc((0, 0), 10, 350, 20)
        space.add_circle((5, 5), 2, {"extrusion": (0, 0, -1)})

    artwork = read(dxf(tmp_path / "a.dxf", draw)).spaces[""]
    (item,) = of_kind(artwork, "ellipses")
    assert item.is_circle().all()
    assert item.centre.tolist() == [[12.5, -7.0], [0.0, 0.0], [-5.0, 5.0]]
    assert item.radii()[:, 0].tolist() == [30.0, 10.0, 2.0]
    assert item.is_whole().tolist() == [True, False, True]
    ends = item.at(np.stack((item.start, item.start + item.sweep), axis=1))[1]
    wanted = [(10 * math.cos(math.radians(a)), 10 * math.sin(math.radians(a))) for a in (350, 20)]
    assert ends == pytest.approx(np.array(wanted), abs=1e-12)


def test_a_tilted_circle_is_the_ellipse_of_its_shadow(tmp_path: Path) -> None:
    # turned by 60° about the y axis, a circle's width is halved (closed form)
    tilt = math.radians(60)
    draw = lambda doc, space: space.add_circle((0, 0), 20, {"extrusion": (math.sin(tilt), 0, math.cos(tilt))})  # noqa: E731
    (item,) = of_kind(read(dxf(tmp_path / "a.dxf", draw)).spaces[""], "ellipses")
    x0, y0, x1, y1 = item.bounds()[0].ravel().tolist()
    assert (x1 - x0, y1 - y0) == pytest.approx((20.0, 40.0), abs=1e-9)


def test_a_bulge_is_an_arc_of_the_angle_that_it_says(tmp_path: Path) -> None:
    # bulge 1 is a half circle: from (0, 0) to (10, 0) it reaches 5 below
    draw = lambda doc, space: space.add_lwpolyline([(0, 0, 1), (10, 0, 0), (10, 20, 0)], format="xyb", close=True)  # noqa: E731
    (item,) = of_kind(read(dxf(tmp_path / "a.dxf", draw)).spaces[""], "polylines")
    assert item.bounds()[0] == pytest.approx(np.array([[0.0, -5.0], [10.0, 20.0]]), abs=1e-12)
    assert item.closed.tolist() == [True]


def test_an_old_polyline_is_read_as_a_new_one(tmp_path: Path) -> None:
    draw = lambda doc, space: space.add_polyline2d([(0, 0, 1), (10, 0, 0)], format="xyb")  # noqa: E731
    (item,) = of_kind(read(dxf(tmp_path / "a.dxf", draw, "R12")).spaces[""], "polylines")
    assert item.bounds()[0] == pytest.approx(np.array([[0.0, -5.0], [10.0, 0.0]]), abs=1e-12)


def test_a_cubic_spline_is_exact_and_a_rational_one_fitted(tmp_path: Path) -> None:
    points = [(0, 0), (10, 30), (30, 30), (40, 0)]

    def draw(doc: Any, space: Any) -> None:
        space.add_open_spline(points)
        # a quarter circle about (100, 0) (The NURBS Book, 7.3)
        space.add_rational_spline([(110, 0), (110, 10), (100, 10)], weights=[1, math.sqrt(0.5), 1], degree=2)

    (item,) = of_kind(read(dxf(tmp_path / "a.dxf", draw)).spaces[""], "beziers")
    first = item.order == item.order.min()
    assert item.points[first][0] == pytest.approx(np.array(points, float), abs=1e-12)
    curve = bezier_at(item.points[~first], np.linspace(0, 1, 33)).reshape(-1, 2)
    off = np.abs(np.hypot(curve[:, 0] - 100, curve[:, 1]) - 10)
    assert off.max() < 10 * 4e-7


def test_layers_widths_colours_and_line_types(tmp_path: Path) -> None:
    def draw(doc: Any, space: Any) -> None:
        doc.header["$LTSCALE"] = 2.0
        doc.linetypes.add("MINE", [0.6, 0.5, -0.1])
        doc.layers.add("CUT", color=1, lineweight=50, linetype="MINE")
        doc.layers.add("OFF", color=5).off()
        doc.layers.add("COLD").freeze()
        doc.layers.add("AUX", plot=False)
        space.add_line((0, 0), (50, 0), {"layer": "CUT"})
        space.add_line((0, 5), (50, 5), {"layer": "CUT", "true_color": 0x102030, "lineweight": 13, "linetype": "CONTINUOUS"})
        space.add_line((0, 9), (50, 9), {"layer": "OFF", "lineweight": 0})

    drawing = read(dxf(tmp_path / "a.dxf", draw))
    tags = {item.points[0, 0, 1]: item.tags for item in of_kind(drawing.spaces[""], "lines")}
    assert (tags[0.0].layer, tags[0.0].colour, tags[0.0].width) == ("CUT", (255, 0, 0), 0.5)
    # half a unit on, a tenth off, twice as long by the file's scale
    assert tags[0.0].dashes == pytest.approx((1.0, 0.2))
    assert (tags[5.0].colour, tags[5.0].width, tags[5.0].dashes) == ((16, 32, 48), 0.13, ())
    assert tags[9.0].width == 0.0
    states = {layer.name: layer.state for layer in drawing.facts.layers}
    assert (states["CUT"], states["OFF"], states["COLD"], states["AUX"]) == ("on", "off", "on, frozen", "on, not printed")
    assert drawing.facts.hidden_layers() >= {"OFF", "COLD", "AUX"}
    assert next(layer.count for layer in drawing.facts.layers if layer.name == "CUT") == 2


def test_what_a_frozen_layer_inserts_is_hidden_with_it(tmp_path: Path) -> None:
    def draw(doc: Any, space: Any) -> None:
        doc.layers.add("COLD").freeze()
        doc.layers.add("OTHER")
        doc.blocks.new("B").add_line((0, 0), (1, 1), {"layer": "OTHER"})
        space.add_blockref("B", (0, 0), {"layer": "COLD"})
        space.add_blockref("B", (5, 0), {"layer": "OTHER"})

    lines = of_kind(read(dxf(tmp_path / "a.dxf", draw)).spaces[""], "lines")
    assert sorted((item.tags.layer, item.points[0, 0, 0]) for item in lines) == [("COLD", 0.0), ("OTHER", 5.0)]


def test_by_block_takes_from_the_insert(tmp_path: Path) -> None:
    def draw(doc: Any, space: Any) -> None:
        doc.blocks.new("B").add_line((0, 0), (1, 1), {"color": 0, "layer": "0"})
        doc.layers.add("RED", color=1)
        space.add_blockref("B", (0, 0), {"layer": "RED", "color": 3})

    (item,) = of_kind(read(dxf(tmp_path / "a.dxf", draw)).spaces[""], "lines")
    assert (item.tags.layer, item.tags.colour) == ("RED", (0, 255, 0))


def test_text_stays_text_old_fonts_are_strokes_and_what_is_missing_is_listed(tmp_path: Path) -> None:
    def draw(doc: Any, space: Any) -> None:
        doc.styles.add("Old", font="romans.shx")
        doc.styles.add("Gone", font="brushscript.ttf")
        space.add_text("Plåt", height=5, dxfattribs={"style": "Old"}).set_placement((0, 0))
        space.add_text("Shop", height=3.5, dxfattribs={"style": "Gone"}).set_placement((0, 20))
        space.add_text("Here", height=2.5, dxfattribs={"style": "Sans"}).set_placement((0, 30))

    drawing = read(dxf(tmp_path / "a.dxf", draw))
    texts = {text: item for item in of_kind(drawing.spaces[""], "text") for text in item.texts}
    assert texts["Plåt"].ghost
    assert not texts["Shop"].ghost
    strokes = of_kind(drawing.spaces[""], "polylines")
    top = max(item.bounds()[:, 1, 1].max() for item in strokes)
    # capitals are as high as the text says; the ring over the a stands under that
    assert top == pytest.approx(5.0, abs=0.6)
    fonts = {font.asked: font for font in drawing.facts.fonts}
    assert fonts["brushscript.ttf"].replaced
    assert fonts["brushscript.ttf"].used == "Liberation Sans"
    assert fonts["brushscript.ttf"].sample == "Shop"
    assert not fonts["LiberationSans.ttf"].replaced
    assert not fonts["romans.shx"].replaced
    assert dict(drawing.facts.spaces[0].heights) == {5.0: 1, 3.5: 1, 2.5: 1}


def test_words_of_one_line_are_one_text(tmp_path: Path) -> None:
    draw = lambda doc, space: space.add_mtext("{\\H5;Cut to the line}", dxfattribs={"char_height": 5, "style": "Sans"})  # noqa: E731
    (item,) = of_kind(read(dxf(tmp_path / "a.dxf", draw)).spaces[""], "text")
    assert item.texts == ("Cut to the line",)


UNITS = [(1, "in", 25.4), (4, "mm", 1.0), (6, "m", 1000.0), (0, "", None), (8, "", None)]
FORMS = [("R12", False), ("R12", True), ("R2000", False), ("R2007", True), ("R2018", False), ("R2018", True)]


@pytest.mark.parametrize(("units", "name", "mm"), UNITS)
def test_the_unit_comes_from_the_file_or_is_not_known(units: int, name: str, mm: float | None, tmp_path: Path) -> None:
    facts = read(dxf(tmp_path / "a.dxf", lambda doc, space: space.add_line((0, 0), (1, 0)), units=units)).facts
    assert (facts.unit, facts.unit_mm) == (name, mm)


@pytest.mark.parametrize(("version", "binary"), FORMS)
def test_every_release_and_both_forms_are_read(version: str, binary: bool, tmp_path: Path) -> None:
    drawing = read(dxf(tmp_path / "a.dxf", lambda doc, space: space.add_circle((3, 4), 5), version, binary=binary))
    assert drawing.facts.form == f"DXF {version}"
    assert drawing.spaces[""].bounds() == (-2.0, -1.0, 8.0, 9.0)


def test_a_saved_page_comes_as_a_sheet(tmp_path: Path) -> None:
    def draw(doc: Any, space: Any) -> None:
        doc.layers.add("PIPES")
        space.add_line((0, 0), (8000, 0), {"layer": "PIPES"})
        space.add_circle((4000, 2000), 500)
        page = doc.layouts.new("Plan 1")
        page.page_setup(size=(420, 297), margins=(5, 7, 5, 7), units="mm")
        first = page.add_viewport((120, 100), (160, 80), (4000, 2000), 4000, status=2)
        first.frozen_layers = ["PIPES"]
        page.add_viewport((300, 100), (100, 80), (4000, 2000), 8000, status=3, dxfattribs={"view_twist_angle": 90})
        page.add_line((10, 10), (400, 10))

    drawing = read(dxf(tmp_path / "a.dxf", draw))
    space = drawing.facts.space("Plan 1")
    assert space.paper == (420.0, 297.0)
    sheet = page_sheet("s", "src", drawing.facts, space, 1.0, frozenset())
    assert (sheet.format, sheet.orientation.value, sheet.clean) == ("A3", "landscape", True)
    first, second, page = sheet.views
    assert [str(own.scale) for own in (first, second, page)] == ["1:50", "1:100", "1:1"]
    assert first.excerpt is not None
    assert first.excerpt.region == (0.0, 0.0, 8000.0, 4000.0)
    assert first.excerpt.off == {"PIPES"}
    assert second.excerpt is not None
    assert second.excerpt.angle == 90.0
    # the page's lower left corner lies a margin to the left of and below its origin
    assert first.place == pytest.approx((120 + 7, 100 + 5))
    assert page.excerpt is not None
    assert page.excerpt.space == "Plan 1"


def test_a_page_in_inches_has_its_size_in_millimetres() -> None:
    class Layout:
        class dxf:
            @staticmethod
            def get(name: str, default: object = None) -> object:
                known = {"plot_paper_units": 0, "paper_width": 431.8, "paper_height": 279.4, "left_margin": 12.7}
                return known.get(name, default)

    unit, size, corner = paper_of(Layout)
    assert (unit, size) == (25.4, (431.8, 279.4))
    assert corner[0] == pytest.approx(-0.5)


def test_a_helix_is_read_as_the_spline_that_it_carries(tmp_path: Path) -> None:
    drawing = read(dxf(tmp_path / "a.dxf", lambda doc, space: space.add_helix(radius=15, pitch=8, turns=2)))
    x0, y0, x1, y1 = drawing.spaces[""].bounds() or (0, 0, 0, 0)
    # seen along its axis, a circle
    assert (x0, y0, x1, y1) == pytest.approx((-15, -15, 15, 15), abs=0.02)
    assert not drawing.facts.lost


def test_drawing_order_is_kept(tmp_path: Path) -> None:
    def draw(doc: Any, space: Any) -> None:
        space.add_circle((0, 0), 5, {"color": 1})
        space.add_line((0, 0), (9, 9), {"color": 3})
        space.add_circle((2, 2), 5, {"color": 1})
        space.add_solid([(0, 0), (5, 0), (0, 5), (5, 5)])
        space.add_circle((4, 4), 5, {"color": 1})

    items = list(read(dxf(tmp_path / "a.dxf", draw)).spaces[""])
    assert [item.kind for item in items] == ["lines", "ellipses", "areas", "ellipses"]
    assert items[1].order.tolist() == [1, 3]
    assert items[0].order.tolist() == [2]
