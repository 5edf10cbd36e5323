"""Excerpts: cutting every kind of stroke exactly, regions and shifts that register, and what is told of them."""

from __future__ import annotations

import io
import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from pdfminer.high_level import extract_text

from skalto.core.artwork import Artwork, EdgeClass, Ellipses, Polylines, Raster, Tags
from skalto.core.artwork.crop_to_box import crop
from skalto.core.artwork.crop_to_circle import clip_to_circle
from skalto.core.checks.report import check_pdf
from skalto.core.errors import InputError
from skalto.core.layout.drawing_views import refitted, rescaled_unit, shifted
from skalto.core.layout.families import detail_view
from skalto.core.lettering import HEIGHTS
from skalto.core.output.picture import to_picture
from skalto.core.pdf_dictionaries import read_dictionaries
from skalto.core.quantities import Scale
from skalto.core.sheets.annotations import Detail
from skalto.core.sources.drawings.collecting import Collector, Contour
from skalto.core.sources.drawings.excerpt import Excerpt, LayerStyle, excerpt_artwork
from skalto.services.use_cases.desk import overall_dimensions
from skalto.services.use_cases.drawings import nearest_scale, unit_of
from tests.core.drawn import dxf, of_kind, page_of, pdf_of, read, sheet_of
from tests.reference.second_engine import MM

TAGS = Tags(EdgeClass.DRAWN, layer="A")
BOX = (0.0, 0.0, 10.0, 10.0)


def collected(draw: Any) -> Artwork:
    collector = Collector()
    draw(collector)
    return collector.artwork()


def test_a_line_is_cut_where_it_crosses() -> None:
    artwork = crop(collected(lambda c: c.line(TAGS, -5, 5, 15, 5)), BOX)
    assert of_kind(artwork, "lines")[0].points.tolist() == [[[0.0, 5.0], [10.0, 5.0]]]


def test_a_circle_is_cut_into_its_arcs_and_keeps_its_radius() -> None:
    # about a corner with r = 4: one quarter is inside
    (item,) = of_kind(crop(collected(lambda c: c.ellipse(TAGS, (0, 0), (4, 0), (0, 4), 0, math.tau)), BOX), "ellipses")
    assert isinstance(item, Ellipses)
    assert item.sweep == pytest.approx([math.pi / 2])
    assert item.radii()[0].tolist() == [4.0, 4.0]
    # about the middle with r = 5.5: four arcs, over the corners; each side cuts off 2·acos(5/5.5)
    (item,) = of_kind(crop(collected(lambda c: c.ellipse(TAGS, (5, 5), (5.5, 0), (0, 5.5), 0, math.tau)), BOX), "ellipses")
    assert len(item) == 4
    assert item.sweep.sum() == pytest.approx(math.tau - 4 * 2 * math.acos(5 / 5.5))


def test_a_curve_is_cut_at_its_exact_place() -> None:
    # y = x² on [-20, 20] / 10: a parabola as a cubic; it crosses y = 10 where x = ±10 of x/10 scale
    p0, p2 = np.array((-20.0, 40.0)), np.array((20.0, 40.0))
    p1 = np.array((0.0, -40.0))
    cubic = np.array([[p0, p0 + (p1 - p0) * 2 / 3, p2 + (p1 - p2) * 2 / 3, p2]])
    artwork = crop(collected(lambda c: c.beziers(TAGS, cubic)), (-50, -50, 50, 10))
    (item,) = of_kind(artwork, "beziers")
    assert item.points[0, 0] == pytest.approx((-10.0, 10.0), abs=1e-9)
    assert item.points[-1, 3] == pytest.approx((10.0, 10.0), abs=1e-9)


def test_a_polyline_inside_stays_and_one_that_crosses_goes_in_pieces() -> None:
    def draw(c: Collector) -> None:
        c.polyline(TAGS, np.array([[1.0, 1], [4, 1], [4, 4]]), np.array([0.5, 0, 0]), closed=True)
        c.polyline(TAGS, np.array([[8.0, 5], [12, 5], [12, 8]]), np.array([0.0, 0, 0]))

    artwork = crop(collected(draw), BOX)
    (kept,) = of_kind(artwork, "polylines")
    assert isinstance(kept, Polylines)
    assert kept.bulge.tolist() == [0.5, 0.0, 0.0]
    assert of_kind(artwork, "lines")[0].points.tolist() == [[[8.0, 5.0], [10.0, 5.0]]]


def test_an_area_with_a_hole_is_cut_with_its_hole() -> None:
    square = Contour.polygon([(5.0, 2.0), (20.0, 2.0), (20.0, 8.0), (5.0, 8.0)])
    hole = Contour.polygon([(8.0, 4.0), (12.0, 4.0), (12.0, 6.0), (8.0, 6.0)])
    (item,) = of_kind(crop(collected(lambda c: c.area(TAGS, [square, hole])), BOX), "areas")
    points = item.curves[:, 0]
    following = item.curves[:, 3]
    area = abs(float((points[:, 0] * following[:, 1] - following[:, 0] * points[:, 1]).sum()) / 2)
    assert area == pytest.approx(5 * 6 - 2 * 2)


def test_a_text_is_kept_whole_where_its_middle_lies_inside_and_a_picture_loses_pixels() -> None:
    def draw(c: Collector) -> None:
        c.text(TAGS, "in", (1, 1), (2, 0), (0, 2))
        c.text(TAGS, "out", (9.5, 1), (2, 0), (0, 2))
        c.raster(TAGS, np.full((4, 4, 4), 255, np.uint8), np.array((8.0, 0)), np.array((4.0, 0)), np.array((0.0, 4)))

    artwork = crop(collected(draw), BOX)
    assert [item.texts for item in of_kind(artwork, "text")] == [("in",)]
    (picture,) = of_kind(artwork, "raster")
    assert isinstance(picture, Raster)
    assert (picture.pixels[..., 3] > 0).sum(axis=1).tolist() == [2, 2, 2, 2]


def test_a_picture_of_many_strokes_goes_in_parts_and_shows_each_once() -> None:
    random = np.random.default_rng(4)

    def draw(c: Collector) -> None:
        for x, y in random.uniform(0, 900, (1500, 2)).tolist():
            c.line(TAGS, x, y, x + 5, y + 3)
            c.polyline(TAGS, np.array([[x, y], [x + 2, y], [x + 2, y + 4]]), np.array([0.0, 0.5, 0.0]))

    artwork = collected(draw)
    picture = to_picture(artwork)
    assert sum(path.strokes for path in picture.paths) == 3000
    assert len(picture.paths) > 4
    assert sum(path.d.count("M") for path in picture.paths) == 3000
    boxes = np.array([path.box for path in picture.paths])
    assert (*boxes[:, :2].min(axis=0), *boxes[:, 2:].max(axis=0)) == pytest.approx(artwork.bounds())


def test_a_detail_of_a_drawing_keeps_what_lies_in_its_circle() -> None:
    def draw(c: Collector) -> None:
        c.polyline(TAGS, np.array([[0.0, 5], [10, 5], [10, 20]]))
        c.polyline(TAGS, np.array([[3.0, 5], [7, 5]]), np.array([1.0, 0.0]))
        c.text(TAGS, "in", (4, 6), (1, 0), (0, 1))
        c.text(TAGS, "out", (12, 6), (1, 0), (0, 1))
        c.area(TAGS, [Contour.polygon([(0.0, 0.0), (20.0, 0.0), (20.0, 20.0), (0.0, 20.0)])])

    artwork = clip_to_circle(collected(draw), (5, 5), 4)
    assert of_kind(artwork, "lines")[0].points.tolist() == [[[1.0, 5.0], [9.0, 5.0]]]
    assert of_kind(artwork, "ellipses")[0].sweep == pytest.approx([math.pi])
    assert [item.texts for item in of_kind(artwork, "text")] == [("in",)]
    x0, y0, x1, y1 = of_kind(artwork, "areas")[0].bounds().ravel().tolist()
    assert (x0, y0, x1, y1) == pytest.approx((1, 1, 9, 9), abs=1e-3)


def test_artwork_of_every_kind_is_kept_and_read_back() -> None:
    def draw(c: Collector) -> None:
        c.line(TAGS, 0, 0, 1, 1)
        c.polyline(TAGS, np.array([[1.0, 1], [4, 1], [4, 4]]), closed=True)
        c.stroked_text(TAGS, "Å", (1, 1), (2, 0), (0, 2), "rowmans")
        c.area(TAGS, [Contour.polygon([(0.0, 0.0), (1.0, 0.0), (0.0, 1.0)])])
        c.raster(TAGS, np.zeros((3, 5, 4), np.uint8), np.zeros(2), np.array((1.0, 0)), np.array((0.0, 1)))

    artwork = collected(draw)
    again = Artwork.from_bytes(artwork.to_bytes())
    assert [item.kind for item in again] == [item.kind for item in artwork]
    assert [item.tags for item in again] == [item.tags for item in artwork]
    for a, b in zip(artwork, again, strict=True):
        assert a.bounds() == pytest.approx(b.bounds())
    assert of_kind(again, "text")[0].ghost
    assert of_kind(again, "raster")[0].pixels.dtype == np.uint8


def _storeys(doc: Any, space: Any) -> None:
    for up in (0.0, 12_000.0):
        space.add_lwpolyline(
            [(0, up), (9000, up), (9000, up + 6000), (0, up + 6000)], close=True, dxfattribs={"layer": "WALLS"}
        )
    doc.layers.add("WALLS", lineweight=50)
    space.add_text("Press room", height=125, dxfattribs={"layer": "ROOMS", "style": "Sans"}).set_placement((1000, 1000))
    space.add_circle((4000, 3000), 800, {"layer": "MACHINES"})


def _walls(data: bytes) -> list[np.ndarray]:
    """The corners of the closed four-sided path of each page, mm, from pdfminer."""
    from pdfminer.pdfinterp import PDFPageInterpreter
    from pdfminer.pdfpage import PDFPage

    from tests.reference.second_engine import _Paths

    found = []
    for page in PDFPage.get_pages(io.BytesIO(data)):
        device = _Paths()
        PDFPageInterpreter(device.rsrcmgr, device).process_page(page)
        paths = [np.array([p for _, *points in path for p in points]) for _, path in device.paths if path[-1][0] == "h"]
        found.append(next(p for p in paths if len(p) == 4) * MM)
    return found


def test_storeys_register_to_a_micrometre_when_one_is_shifted(tmp_path: Path) -> None:
    drawing = read(dxf(tmp_path / "plan.dxf", _storeys))
    sheet = sheet_of(Excerpt(region=(-500, -500, 9500, 6500)), "A3", "1:50")
    above = sheet.with_views((shifted(sheet.views[0], 0.0, -12_000.0, drawing.facts),))
    data = pdf_of(drawing, sheet, above)
    ground, upper = _walls(data)
    assert np.abs(ground - upper).max() < 1e-3
    assert np.ptp(ground, axis=0) == pytest.approx((180.0, 120.0), abs=1e-3)
    assert check_pdf(data).holds
    assert "Press room" in extract_text(io.BytesIO(data), page_numbers=[0])
    assert "Press room" not in extract_text(io.BytesIO(data), page_numbers=[1])


def test_the_viewport_is_the_region_and_the_paper_it_takes(tmp_path: Path) -> None:
    drawing = read(dxf(tmp_path / "plan.dxf", _storeys))
    record = read_dictionaries(pdf_of(drawing, sheet_of(Excerpt(region=(-500, -500, 9500, 6500)), "A3", "1:50")))
    (port,) = record.pages[0].viewports
    assert port.scale == pytest.approx(1 / 50, rel=1e-9)
    assert (port.box[2] - port.box[0], port.box[3] - port.box[1]) == pytest.approx((200.0, 140.0), abs=1e-3)


def test_a_picked_region_leaves_the_drawing_where_it_lies(tmp_path: Path) -> None:
    drawing = read(dxf(tmp_path / "plan.dxf", _storeys))
    sheet = sheet_of(Excerpt(region=(-500, -500, 9500, 6500)), "A3", "1:50")
    before = _walls(pdf_of(drawing, sheet))[0]
    wanted = Excerpt(region=(-200, -200, 9700, 12_500))
    after = sheet.with_views((refitted(sheet.views[0], wanted, drawing.facts),))
    assert np.abs(_walls(pdf_of(drawing, after))[0] - before).max() < 1e-3


def test_a_tabloid_rectangle_fills_an_asme_b_page_and_its_excess_is_told(tmp_path: Path) -> None:
    corners = [(0, 0), (17, 0), (17, 11), (0, 11)]
    drawing = read(dxf(tmp_path / "b.dxf", lambda doc, space: space.add_lwpolyline(corners, close=True), units=1))
    excerpt = Excerpt(unit=25.4, region=(0, 0, 431.8, 279.4))
    sheet = sheet_of(excerpt, "ANSI-B")
    page = page_of(drawing, sheet)
    assert page.views[0].box == pytest.approx((0, 0, 431.8, 279.4), abs=1e-9)
    assert [told.code for told in page.notices if told.code == "outside"] == []
    data = pdf_of(drawing, sheet)
    assert check_pdf(data).pages[0].views[0].deviation_um == pytest.approx(0, abs=0.1)
    large = page_of(drawing, sheet_of(excerpt, "ANSI-B", "5:2"))
    (message,) = [told.message for told in large.notices if told.code == "outside"]
    # (2.5 − 1) · 431.8 / 2 and (2.5 − 1) · 279.4 / 2
    assert "323.85 mm at the left, 209.55 mm at the bottom, 323.85 mm at the right, 209.55 mm at the top" in message


def test_layers_are_switchable_in_the_file_and_those_that_are_off_are_not_in_it(tmp_path: Path) -> None:
    drawing = read(dxf(tmp_path / "plan.dxf", _storeys))
    import pikepdf

    data = pdf_of(drawing, sheet_of(Excerpt(region=(-500, -500, 9500, 6500), off=frozenset({"MACHINES"})), "A3", "1:50"))
    with pikepdf.open(io.BytesIO(data)) as pdf:
        names = [str(group.Name) for group in pdf.Root.OCProperties.OCGs]
    assert names == ["ROOMS", "WALLS"]


def test_a_layer_takes_colour_and_width_of_its_own(tmp_path: Path) -> None:
    drawing = read(dxf(tmp_path / "plan.dxf", _storeys))
    shown = excerpt_artwork(drawing.spaces[""], Excerpt(styles={"WALLS": LayerStyle(colour="#b3261e", width=0.7)}))
    tags = {item.tags.layer: item.tags for item in shown}
    assert (tags["WALLS"].colour, tags["WALLS"].width) == ((0xB3, 0x26, 0x1E), 0.7)
    assert tags["MACHINES"].width == 0.25


def test_an_excerpt_that_shows_nothing_says_so(tmp_path: Path) -> None:
    drawing = read(dxf(tmp_path / "plan.dxf", _storeys))
    with pytest.raises(InputError, match="shows nothing: pick another area"):
        excerpt_artwork(drawing.spaces[""], Excerpt(region=(1e6, 1e6, 2e6, 2e6)))


def test_small_and_odd_lettering_and_dimensions_for_another_scale_are_told(tmp_path: Path) -> None:
    def draw(doc: Any, space: Any) -> None:
        for n, height in enumerate((50, 125, 125, 160)):
            space.add_text("note", height=height, dxfattribs={"style": "Sans"}).set_placement((0, 400 * n))
        dimension = space.add_linear_dim(
            base=(0, 900), p1=(0, 0), p2=(1000, 0), override={"dimscale": 20, "dimtxsty": "Sans", "dimtxt": 6.25}
        )
        dimension.render()
        space.add_line((0, 0), (1000, 0), {"layer": "HIDDEN"})

    drawing = read(dxf(tmp_path / "a.dxf", draw))
    excerpt = Excerpt(region=(-200, -200, 1800, 1800), off=frozenset({"HIDDEN"}))
    told = {t.code: t.message for t in page_of(drawing, sheet_of(excerpt, "A3", "1:50")).notices}
    assert "1 mm, under 1.8 mm, the least height of ISO 3098; 1:20 makes all of it legible" in told["text-small"]
    assert "3.2 mm, at no height of ISO 3098" in told["text-odd"]
    assert told["dimension-scale"] == "1 dimension was made for 1:20, and the drawing view plan is at 1:50."
    assert "1 entity does not show in the drawing view plan, on layers that are off: HIDDEN" in told["layers-off"]
    # the heights of ISO 3098, as FACTS has them (from memory of the standard)
    assert HEIGHTS == (1.8, 2.5, 3.5, 5.0, 7.0, 10.0, 14.0, 20.0)


def test_text_has_the_height_on_paper_that_the_scale_gives(tmp_path: Path) -> None:
    drawing = read(dxf(tmp_path / "plan.dxf", _storeys))
    page = page_of(drawing, sheet_of(Excerpt(region=(-500, -500, 9500, 6500)), "A3", "1:50"))
    (text,) = [item for item in page.views[0].artwork if item.kind == "text"]
    assert text.height.tolist() == pytest.approx([2.5])


def test_overall_sizes_and_a_detail_of_an_excerpt(tmp_path: Path) -> None:
    drawing = read(dxf(tmp_path / "plan.dxf", _storeys))
    sheet = sheet_of(Excerpt(region=(-500, -500, 9500, 6500)), "A3", "1:50")
    view = sheet.views[0].model_copy(update={"dimensions": overall_dimensions(sheet.views[0])})
    detail = Detail(letter="A", centre=(4000.0, 3000.0), radius=1000.0)
    lens = detail_view(sheet, view, "d", detail, Scale(1, 20), (60.0, 60.0))
    page = page_of(drawing, sheet.with_views((view, lens)))
    # in the drawing's own millimetres
    assert [(d.text, d.value) for d in page.views[0].dimensions] == [("9000", 9000.0), ("6000", 6000.0)]
    assert [told.code for told in page.notices if told.level == "error"] == []
    (circle,) = [item for item in page.views[1].artwork if item.kind == "ellipses"]
    assert circle.radii()[0, 0] == pytest.approx(800 / 20)


def test_a_unit_said_later_keeps_the_part_that_an_excerpt_shows() -> None:
    view = sheet_of(Excerpt(region=(0, 0, 10, 20)), "A4").views[0]
    inches = rescaled_unit(view, 25.4)
    assert inches.excerpt is not None
    assert inches.excerpt.region == pytest.approx((0, 0, 254, 508))
    assert inches.anchor == pytest.approx((127, 254))


def test_a_measured_page_is_offered_the_nearest_standard_scale(tmp_path: Path) -> None:
    assert nearest_scale(49.3) == nearest_scale(50)
    assert str(nearest_scale(49.3)) == "1:50"
    facts = read(dxf(tmp_path / "a.dxf", lambda doc, space: space.add_line((0, 0), (1, 0)), units=0)).facts
    with pytest.raises(InputError, match="does not say its unit: choose it"):
        unit_of(facts, "", None, "a.dxf")
    assert unit_of(facts, "", 25.4, "a.dxf") == 25.4
