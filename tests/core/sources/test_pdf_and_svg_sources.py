"""PDF pages and SVG as sources, and artwork out again as DXF and SVG, read back."""

from __future__ import annotations

import io
import math
from dataclasses import replace
from pathlib import Path
from typing import Any

import ezdxf
import numpy as np
import pikepdf
import pytest
from PIL import Image
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from skalto.core.formats import stroke_format
from skalto.core.geometry import Similarity
from skalto.core.output.dxf import write_dxf
from skalto.core.output.flat import flat_page, flat_view
from skalto.core.output.svg import write_svg
from skalto.core.recipes import PLAIN
from skalto.core.sources.drawings.excerpt import Excerpt
from skalto.services.results.writing import write_flat
from skalto.services.use_cases.drawings import unit_of
from tests.core.drawn import dxf, of_kind, page_and_lines, page_of, pdf_of, read, sheet_of

SVG = "<svg xmlns='http://www.w3.org/2000/svg' width='210mm' height='100mm' viewBox='0 0 2100 1000'>{}</svg>"


def _plan(doc: Any, space: Any) -> None:
    doc.layers.add("WALLS", color=7, lineweight=50)
    doc.layers.add("GRID", color=1, lineweight=18)
    space.add_lwpolyline([(0, 0), (8123.45, 0), (8123.45, 4987.65), (0, 4987.65)], close=True, dxfattribs={"layer": "WALLS"})
    space.add_circle((3000.123, 2000.456), 777.7, {"layer": "GRID"})
    space.add_arc((6000, 2500), 500, 20, 200, dxfattribs={"layer": "GRID"})
    space.add_text("Press room", height=175, dxfattribs={"style": "Sans", "layer": "WALLS"}).set_placement((1000, 4000))


def test_a_pdf_made_here_at_1_50_comes_back_at_1_50_within_a_micrometre_of_the_drawing(tmp_path: Path) -> None:
    drawing = read(dxf(tmp_path / "plan.dxf", _plan))
    path = tmp_path / "plan.pdf"
    path.write_bytes(pdf_of(drawing, sheet_of(Excerpt(region=(-500, -500, 9000, 5500)), "A3", "1:50")))
    back = read(path)
    space = back.facts.spaces[0]
    assert space.scale == "1:50"
    unit = unit_of(back.facts, "", None, path.name)
    assert unit == pytest.approx(50.0, rel=1e-9)
    (walls,) = [item for item in of_kind(back.spaces[""], "polylines") if len(item.points) == 4]
    # in the drawing's own millimetres, not the paper's
    assert np.ptp(walls.points, axis=0) * unit == pytest.approx((8123.45, 4987.65), abs=1e-3)
    circles = [item for item in of_kind(back.spaces[""], "ellipses") if item.is_whole().any()]
    assert 2 * circles[0].radii()[0, 0] * unit == pytest.approx(2 * 777.7, abs=0.05)
    assert {layer.name for layer in back.facts.layers} >= {"WALLS", "GRID"}
    assert walls.tags.layer == "WALLS"
    assert walls.tags.width == pytest.approx(0.5, abs=1e-4)
    assert "Press room" in [text for item in of_kind(back.spaces[""], "text") for text in item.texts]


def test_a_page_of_another_program_has_no_scale_until_it_is_said(tmp_path: Path) -> None:
    path = tmp_path / "foreign.pdf"
    canvas = Canvas(str(path), pagesize=(200 * mm, 100 * mm))
    canvas.setStrokeColorRGB(0, 0.5, 0)
    canvas.setLineWidth(0.7 * mm)
    canvas.setDash(3 * mm, 1 * mm)
    canvas.line(10 * mm, 10 * mm, 110 * mm, 10 * mm)
    canvas.circle(50 * mm, 50 * mm, 20 * mm, stroke=1, fill=0)
    canvas.setFillColorRGB(1, 0, 0)
    canvas.rect(120 * mm, 20 * mm, 30 * mm, 40 * mm, stroke=0, fill=1)
    canvas.setFont("Helvetica", 12)
    canvas.drawString(10 * mm, 80 * mm, "Guard, left")
    canvas.showPage()
    canvas.line(0, 0, 50 * mm, 50 * mm)
    canvas.save()
    drawing = read(path)
    assert [space.label for space in drawing.facts.spaces] == ["Page 1", "Page 2"]
    assert drawing.facts.spaces[0].paper == pytest.approx((200.0, 100.0), abs=1e-3)
    assert drawing.facts.unit_mm is None
    (line,) = of_kind(drawing.spaces[""], "lines")
    assert np.ptp(line.points[0], axis=0) == pytest.approx((100.0, 0.0), abs=1e-4)
    assert (line.tags.colour, line.tags.width) == ((0, 128, 0), pytest.approx(0.7, abs=1e-4))
    assert line.tags.dashes == pytest.approx((3.0, 1.0), abs=1e-4)
    (area,) = of_kind(drawing.spaces[""], "areas")
    assert area.tags.colour == (255, 0, 0)
    # the writer's circle of four Béziers is off by 2.7e-4 of its radius (closed form), and is drawn as it is
    (round_,) = of_kind(drawing.spaces[""], "beziers") or of_kind(drawing.spaces[""], "ellipses")
    _, _, x1, y1 = round_.bounds().reshape(-1, 4).max(axis=0).tolist()
    assert (x1, y1) == pytest.approx((70.0, 70.0), abs=0.01)
    (text,) = of_kind(drawing.spaces[""], "text")
    assert text.texts == ("Guard, left",)
    assert drawing.facts.fonts[0].used == "Liberation Sans"


def test_layers_that_a_pdf_has_switched_off_come_in_off(tmp_path: Path) -> None:
    drawing = read(dxf(tmp_path / "plan.dxf", _plan))
    path = tmp_path / "plan.pdf"
    with pikepdf.open(io.BytesIO(pdf_of(drawing, sheet_of(Excerpt(region=(-500, -500, 9000, 5500)), "A3", "1:50")))) as pdf:
        pdf.Root.OCProperties.D.OFF = pikepdf.Array([g for g in pdf.Root.OCProperties.OCGs if str(g.Name) == "GRID"])
        pdf.save(path)
    assert read(path).facts.hidden_layers() == {"GRID"}


def test_svg_has_its_physical_size_and_keeps_circles(tmp_path: Path) -> None:
    body = (
        "<g id='cut' transform='translate(100 200) scale(2)'><circle cx='50' cy='50' r='40' fill='none' stroke='#ff0000' "
        "stroke-width='2.5'/></g><g id='marks'><path d='M0 0L100 0A50 50 0 0 1 100 100Z' fill='none' stroke='black'/>"
        "<text x='20' y='900' font-size='100' font-family='Arial'>Plate 1</text></g>"
    )
    path = tmp_path / "a.svg"
    path.write_text(SVG.format(body))
    drawing = read(path)
    assert (drawing.facts.unit, drawing.facts.unit_mm) == ("mm", 1.0)
    assert drawing.facts.spaces[0].declared == pytest.approx((0, 0, 210, 100))
    circle = next(item for item in of_kind(drawing.spaces[""], "ellipses") if item.is_whole().any())
    # (100 + 2·50, 200 + 2·50) in tenths of a millimetre, y from the bottom
    assert circle.centre[0] == pytest.approx((20.0, 70.0), abs=1e-8)
    assert circle.radii()[0] == pytest.approx((8.0, 8.0), abs=1e-8)
    assert (circle.tags.layer, circle.tags.colour) == ("cut", (255, 0, 0))
    assert circle.tags.width == pytest.approx(0.5)
    arc = next(item for item in of_kind(drawing.spaces[""], "ellipses") if not item.is_whole().all())
    assert arc.sweep[0] == pytest.approx(math.pi)
    (text,) = of_kind(drawing.spaces[""], "text")
    assert text.texts == ("Plate 1",)
    assert text.start[0] == pytest.approx((2.0, 10.0))
    assert {layer.name for layer in drawing.facts.layers} == {"cut", "marks"}


def test_svg_without_a_physical_size_asks_for_its_unit(tmp_path: Path) -> None:
    path = tmp_path / "a.svg"
    path.write_text("<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 100 50'><rect width='100' height='50'/></svg>")
    drawing = read(path)
    assert drawing.facts.unit_mm is None
    assert drawing.spaces[""].bounds() == pytest.approx((0, 0, 100, 50))


def test_a_sheet_goes_out_as_dxf_with_true_curves_layers_and_widths(tmp_path: Path) -> None:
    page = page_of(read(dxf(tmp_path / "plan.dxf", _plan)), sheet_of(Excerpt(region=(-500, -500, 9000, 5500)), "A3", "1:50"))
    path = tmp_path / "out.dxf"
    path.write_bytes(write_dxf(flat_page(page)))
    document = ezdxf.readfile(path)
    assert (document.dxfversion, document.units) == ("AC1024", 4)
    assert not document.audit().errors
    (circle,) = document.modelspace().query("CIRCLE")
    assert circle.dxf.radius == pytest.approx(777.7 / 50, abs=1e-9)
    (arc,) = document.modelspace().query("ARC")
    assert (arc.dxf.start_angle % 360, arc.dxf.end_angle % 360) == pytest.approx((20, 200))
    (walls,) = document.modelspace().query("LWPOLYLINE")
    assert walls.closed
    assert document.layers.get("WALLS").dxf.lineweight == 50
    assert document.layers.get("GRID").dxf.lineweight == 18
    assert circle.dxf.layer == "GRID"
    heights = {text.dxf.text: text.dxf.height for text in document.modelspace().query("TEXT")}
    assert heights["Press room"] == pytest.approx(3.5)


def test_a_sheet_goes_out_as_svg_and_comes_back_as_large(tmp_path: Path) -> None:
    page = page_of(read(dxf(tmp_path / "plan.dxf", _plan)), sheet_of(Excerpt(region=(-500, -500, 9000, 5500)), "A3", "1:50"))
    path = tmp_path / "out.svg"
    path.write_bytes(write_svg(flat_page(page)))
    assert b'width="420mm" height="297mm"' in path.read_bytes()
    back = read(path)
    (walls,) = of_kind(back.spaces[""], "polylines")
    assert np.ptp(walls.points, axis=0) == pytest.approx((8123.45 / 50, 4987.65 / 50), abs=1e-5)
    whole = next(item for item in of_kind(back.spaces[""], "ellipses") if item.is_whole().any())
    assert whole.radii()[0, 0] == pytest.approx(777.7 / 50, abs=1e-5)


@pytest.mark.parametrize("suffix", [".dxf", ".svg"])
def test_one_view_alone_is_measured_by_the_drawing_s_lengths(suffix: str, tmp_path: Path) -> None:
    page, lines = page_and_lines(
        read(dxf(tmp_path / "plan.dxf", _plan)), sheet_of(Excerpt(region=(-500, -500, 9000, 5500)), "A3", "1:50")
    )
    data, report = write_flat(page, lines, stroke_format(suffix[1:]), PLAIN, "v")
    assert report.holds, report.findings
    (view,) = report.pages[0].views
    assert (view.scale, len(view.readings)) == ("1:50", 3)
    assert view.readings[0].model_mm > 100
    from skalto.core.checks.flat import check_flat

    wider = {"v": replace(lines["v"], artwork=lines["v"].artwork.placed(Similarity(1.0001)))}
    assert not check_flat(data, stroke_format(suffix[1:]).read_back(), flat_view(page, "v"), page, wider, PLAIN, "v").holds


# what stands around the strokes of a page


def _canvas(draw: Any) -> bytes:
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(100 * mm, 80 * mm))
    draw(canvas)
    canvas.save()
    return out.getvalue()


def _back(tmp_path: Path, data: bytes) -> Any:
    path = tmp_path / "page.pdf"
    path.write_bytes(data)
    return read(path)


def _clipped(canvas: Canvas) -> None:
    canvas.saveState()
    path = canvas.beginPath()
    path.rect(20 * mm, 20 * mm, 40 * mm, 30 * mm)
    canvas.clipPath(path, stroke=0, fill=0)
    canvas.line(0, 35 * mm, 100 * mm, 35 * mm)
    canvas.restoreState()
    canvas.line(0, 70 * mm, 100 * mm, 70 * mm)


def test_a_clip_cuts_what_is_painted_under_it_and_ends_with_its_state(tmp_path: Path) -> None:
    back = _back(tmp_path, _canvas(_clipped))
    rows = np.concatenate([item.points for item in of_kind(back.spaces[""], "lines")])
    found = sorted((round(float(p[0, 1]), 3), round(float(p[:, 0].min()), 3), round(float(p[:, 0].max()), 3)) for p in rows)
    assert found == [(35.0, 20.0, 60.0), (70.0, 0.0, 100.0)]
    assert not any("clip" in told for told in back.facts.lost)


def test_a_round_clip_cuts_where_strokes_cross_it(tmp_path: Path) -> None:
    def draw(canvas: Canvas) -> None:
        path = canvas.beginPath()
        path.circle(40 * mm, 40 * mm, 20 * mm)
        canvas.clipPath(path, stroke=0, fill=0)
        canvas.line(0, 40 * mm, 100 * mm, 40 * mm)
        canvas.line(0, 52 * mm, 100 * mm, 52 * mm)

    back = _back(tmp_path, _canvas(draw))
    found = sorted(line[:, 0].tolist() for item in of_kind(back.spaces[""], "lines") for line in np.sort(item.points, axis=1))
    # 12 above the middle of a circle of radius 20, half the chord is 16; the circle is four Béziers (2.7·10⁻⁴ off)
    assert found[0] == pytest.approx([20, 60], abs=0.003)
    assert found[1] == pytest.approx([24, 56], abs=0.01)
    assert not any("clip" in told for told in back.facts.lost)


def test_ends_joins_and_the_rule_of_filling_come_along(tmp_path: Path) -> None:
    def draw(canvas: Canvas) -> None:
        canvas.setLineCap(2)
        canvas.setLineJoin(1)
        canvas.line(0, 0, 50, 0)
        path = canvas.beginPath()
        for side in (40, 20):
            path.rect(50, 50, side * mm, side * mm)
        canvas.drawPath(path, stroke=0, fill=1, fillMode=1)
        canvas.drawPath(path, stroke=0, fill=1, fillMode=0)

    back = _back(tmp_path, _canvas(draw))
    (line,) = of_kind(back.spaces[""], "lines")
    assert (line.tags.ends, line.tags.joins) == ("square", "round")
    assert [item.winding for item in of_kind(back.spaces[""], "areas")] == [True, False]


def test_the_box_of_a_form_cuts_it_and_it_takes_the_state_that_it_is_painted_in(tmp_path: Path) -> None:
    def draw(canvas: Canvas) -> None:
        canvas.beginForm("stamp", 0, 0, 30 * mm, 30 * mm)
        canvas.line(0, 10 * mm, 90 * mm, 10 * mm)
        canvas.endForm()
        canvas.setLineWidth(1.5 * mm)
        canvas.setStrokeColorRGB(1, 0, 0)
        canvas.translate(10 * mm, 10 * mm)
        canvas.doForm("stamp")

    back = _back(tmp_path, _canvas(draw))
    (item,) = of_kind(back.spaces[""], "lines")
    assert sorted(item.points[0, :, 0].tolist()) == pytest.approx([10, 40], abs=1e-3)
    assert item.tags.colour == (255, 0, 0)
    assert item.tags.width == pytest.approx(1.5, abs=1e-3)


def test_opacity_comes_along_and_that_of_a_group_is_multiplied(tmp_path: Path) -> None:
    data = _canvas(lambda canvas: canvas.line(0, 0, 10, 10))
    with pikepdf.open(io.BytesIO(data)) as pdf:
        half = pikepdf.Dictionary(CA=0.5, ca=0.5)
        group = pdf.make_stream(b"/H gs 20 w 0 50 m 200 50 l S")
        group.update(
            pikepdf.Dictionary(
                Type=pikepdf.Name.XObject, Subtype=pikepdf.Name.Form, BBox=[0, 0, 200, 200],
                Group=pikepdf.Dictionary(S=pikepdf.Name.Transparency),
                Resources=pikepdf.Dictionary(ExtGState=pikepdf.Dictionary(H=half)),
            )
        )  # fmt: skip
        page = pdf.pages[0]
        page.Resources.ExtGState = pikepdf.Dictionary(H=half)
        page.Resources.XObject = pikepdf.Dictionary(G=group)
        page.Contents = pdf.make_stream(b"q /H gs 0 10 m 200 10 l S /G Do Q 0 90 m 200 90 l S")
        out = io.BytesIO()
        pdf.save(out)
    back = _back(tmp_path, out.getvalue())
    found = {round(float(item.points[0, 0, 1])): item.tags.opacity for item in of_kind(back.spaces[""], "lines")}
    assert found == {round(10 * 25.4 / 72): 0.5, round(50 * 25.4 / 72): 0.25, round(90 * 25.4 / 72): 1.0}


def test_an_annotation_is_drawn_as_it_looks_where_it_stands(tmp_path: Path) -> None:
    data = _canvas(lambda canvas: canvas.line(0, 0, 10, 10))
    with pikepdf.open(io.BytesIO(data)) as pdf:
        looks = pdf.make_stream(b"0 0 1 RG 0 5 m 10 5 l S")
        looks.update(pikepdf.Dictionary(Type=pikepdf.Name.XObject, Subtype=pikepdf.Name.Form, BBox=[0, 0, 10, 10]))
        note = {"Type": pikepdf.Name.Annot, "Subtype": pikepdf.Name.Square, "Rect": [100, 100, 200, 140]}
        shown = pikepdf.Dictionary(**note, AP=pikepdf.Dictionary(N=looks))  # type: ignore[arg-type]
        unseen = pikepdf.Dictionary(**note, F=2, AP=pikepdf.Dictionary(N=looks))  # type: ignore[arg-type]
        pdf.pages[0].Annots = pdf.make_indirect(pikepdf.Array([shown, unseen, pikepdf.Dictionary(**note)]))  # type: ignore[arg-type]
        out = io.BytesIO()
        pdf.save(out)
    back = _back(tmp_path, out.getvalue())
    blue = [item for item in of_kind(back.spaces[""], "lines") if item.tags.colour == (0, 0, 255)]
    points = np.concatenate([item.points for item in blue]) * 72 / 25.4
    assert points.reshape(-1).tolist() == pytest.approx([100, 120, 200, 120])
    assert any("1 × annotation" in told for told in back.facts.lost)


def test_a_pattern_fills_with_nothing_rather_than_black_and_is_told(tmp_path: Path) -> None:
    def draw(canvas: Canvas) -> None:
        canvas.saveState()
        path = canvas.beginPath()
        path.rect(20 * mm, 20 * mm, 40 * mm, 30 * mm)
        canvas.clipPath(path, stroke=0, fill=0)
        canvas.linearGradient(0, 0, 100 * mm, 0, ((1, 0, 0), (0, 0, 1)))
        canvas.restoreState()
        canvas.line(0, 0, 10, 10)

    back = _back(tmp_path, _canvas(draw))
    assert not of_kind(back.spaces[""], "areas")
    assert any("shading" in told for told in back.facts.lost)


def test_an_ink_alone_is_dark_where_there_is_all_of_it(tmp_path: Path) -> None:
    from reportlab.lib.colors import CMYKColorSep

    def draw(canvas: Canvas) -> None:
        canvas.setFillColor(CMYKColorSep(0, 0, 0, 1, spotName="Key"))
        canvas.rect(10, 10, 50, 50, stroke=0, fill=1)

    (area,) = of_kind(_back(tmp_path, _canvas(draw)).spaces[""], "areas")
    assert area.tags.colour == (0, 0, 0)


def test_pictures_of_one_bit_and_stencils_are_read(tmp_path: Path) -> None:

    data = _canvas(lambda canvas: canvas.line(0, 0, 10, 10))
    rows = np.zeros((8, 8), bool)
    rows[:, :4] = True
    packed = np.packbits(rows, axis=1).tobytes()
    with pikepdf.open(io.BytesIO(data)) as pdf:
        kind = {"Type": pikepdf.Name.XObject, "Subtype": pikepdf.Name.Image, "Width": 8, "Height": 8, "BitsPerComponent": 1}
        plain, stencil = pdf.make_stream(packed), pdf.make_stream(packed)
        plain.update(pikepdf.Dictionary(**kind, ColorSpace=pikepdf.Name.DeviceGray))  # type: ignore[arg-type]
        stencil.update(pikepdf.Dictionary(**kind, ImageMask=True))  # type: ignore[arg-type]
        pdf.pages[0].Resources.XObject = pikepdf.Dictionary(P=plain, S=stencil)
        pdf.pages[0].Contents = pdf.make_stream(
            b"q 50 0 0 50 0 0 cm /P Do Q q 0 1 0 rg 50 0 0 50 100 0 cm /S Do Q 0 0 m 9 9 l S"
        )
        out = io.BytesIO()
        pdf.save(out)
    back = _back(tmp_path, out.getvalue())
    plain_pixels, stencil_pixels = [item.pixels for item in of_kind(back.spaces[""], "raster")]
    assert plain_pixels[0, 0].tolist() == [255, 255, 255, 255]
    assert plain_pixels[0, 7].tolist() == [0, 0, 0, 255]
    assert stencil_pixels[0, 0, 3] == 0
    assert stencil_pixels[0, 7].tolist() == [0, 255, 0, 255]


def test_a_picture_that_one_library_cannot_decode_comes_by_another(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    pixels = np.zeros((20, 30, 3), np.uint8)
    pixels[:, :15] = (200, 30, 40)

    def draw(canvas: Canvas) -> None:
        canvas.drawImage(ImageReader(Image.fromarray(pixels)), 10 * mm, 10 * mm, 30 * mm, 20 * mm)

    monkeypatch.setattr("skalto.core.sources.drawings.pdf.pixels_of", lambda *what: None)
    (raster,) = of_kind(_back(tmp_path, _canvas(draw)).spaces[""], "raster")
    assert np.array_equal(raster.pixels[..., :3], pixels)


def test_a_picture_that_is_cut_short_comes_as_far_as_it_goes(tmp_path: Path) -> None:
    data = _canvas(lambda canvas: canvas.line(0, 0, 50 * mm, 0))
    with pikepdf.open(io.BytesIO(data)) as pdf:
        short = pdf.make_stream(b"\xaa" * 40)
        palette = pikepdf.Array([pikepdf.Name.Indexed, pikepdf.Name.DeviceRGB, 1, pikepdf.String(b"\x00\x00\x00\xff\xff\xff")])
        kind = {"Type": pikepdf.Name.XObject, "Subtype": pikepdf.Name.Image, "BitsPerComponent": 1, "ColorSpace": palette}
        short.update(pikepdf.Dictionary(**kind, Width=100, Height=100))  # type: ignore[arg-type]
        page = pdf.pages[0]
        page.Resources.XObject = pikepdf.Dictionary(P=short)
        page.Contents = pdf.make_stream(page.Contents.read_bytes() + b"\nq 50 0 0 50 100 100 cm /P Do Q")
        out = io.BytesIO()
        pdf.save(out)
    back = _back(tmp_path, out.getvalue())
    assert len(of_kind(back.spaces[""], "lines")) == 1
    (raster,) = of_kind(back.spaces[""], "raster")
    assert raster.pixels.shape[:2] == (100, 100)


def test_a_page_with_two_scales_asks_for_the_one_of_the_area(tmp_path: Path) -> None:
    def ports(*scales: float) -> bytes:
        data = _canvas(lambda canvas: canvas.line(0, 0, 10, 10))
        with pikepdf.open(io.BytesIO(data)) as pdf:
            made = []
            for number, scale in enumerate(scales):
                factor = pikepdf.Dictionary(U="mm", C=25.4 / 72 / scale, D=1000)
                measure = pikepdf.Dictionary(
                    Type=pikepdf.Name.Measure, Subtype=pikepdf.Name.RL, R=f"1:{1 / scale:g}", X=[factor]
                )
                box = [0, 0, 280, 220] if number == 0 else [10 + 60 * number, 10, 60 + 60 * number, 60]
                made.append(pikepdf.Dictionary(Type=pikepdf.Name.Viewport, BBox=box, Measure=measure))
            pdf.pages[0].VP = pikepdf.Array(made)
            out = io.BytesIO()
            pdf.save(out)
            return out.getvalue()

    one = _back(tmp_path, ports(1, 1 / 200))
    assert one.facts.spaces[0].scale == "1:200"
    two = _back(tmp_path, ports(1, 1 / 200, 1 / 50))
    assert two.facts.spaces[0].scale == ""
    assert any("1:50, 1:200" in told for told in two.facts.lost)
    alone = _back(tmp_path, ports(1 / 5))
    assert alone.facts.spaces[0].scale == "1:5"
