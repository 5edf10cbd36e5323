"""What is done with a finished file: measuring in it, printing it on the stand-in, pictures of it, comparing it."""

from __future__ import annotations

import io
import math
from fractions import Fraction

import numpy as np
import pikepdf
import pypdfium2 as pdfium
import pytest
from PIL import Image

from skalto.core.artwork import Artwork, EdgeClass, Ellipses, Lines, Tags
from skalto.core.checks.comparing import CAME, GONE, compare
from skalto.core.checks.printer import printed, printed_pdf
from skalto.core.checks.printing import Printer
from skalto.core.checks.report import check_pdf
from skalto.core.checks.snapping import snap_points
from skalto.core.checks.strokes import Asked, joined_pieces
from skalto.core.checks.verdict import Check, Report
from skalto.core.errors import InputError
from skalto.core.geometry import Similarity
from skalto.core.lengths import ReferenceLength
from skalto.core.output.pdf.document import write_pdf
from skalto.core.output.pdf.metadata import Metadata
from skalto.core.output.pixels import PictureRequest, draw_pages, pixel_size
from skalto.core.pages.page import Page, PlacedView
from skalto.core.quantities import Scale
from skalto.core.recipes import PLAIN, SHIPPED_RECIPES, changed
from skalto.core.sheets.content import ProjectionContent
from skalto.core.sheets.sheet import ViewSpec

TAGS = Tags(EdgeClass.VISIBLE)
A4 = (210.0, 297.0)


def view(scale: str = "1:1", box: tuple[float, float, float, float] = (20, 30, 190, 267), hole: float = 40) -> PlacedView:
    """A rectangle that fills *box* on the sheet, and a hole in its middle."""
    x0, y0, x1, y1 = box
    corners = np.array(((x0, y0), (x1, y0), (x1, y1), (x0, y1)), float)
    lines = Lines(TAGS, np.stack((corners, np.roll(corners, -1, axis=0)), axis=1))
    middle = np.array([[(x0 + x1) / 2, (y0 + y1) / 2]])
    circle = Ellipses(
        TAGS, middle, np.array([[hole / 2, 0.0]]), np.array([[0.0, hole / 2]]), np.zeros(1), np.array([2 * math.pi])
    )
    spec = ViewSpec(
        id="v", source="s", name="front", content=ProjectionContent(look=(0, 1, 0), up=(0, 0, 1)), scale=Scale.parse(scale)
    )
    ratio = float(spec.scale)
    lengths = (
        ReferenceLength(kind="width", value=(x1 - x0) / ratio),
        ReferenceLength(kind="diameter", value=hole / ratio, centre=(middle[0, 0] / ratio, middle[0, 1] / ratio)),
    )
    return PlacedView(spec, Artwork((lines, circle)), box, spec.scale, Similarity(ratio), lengths)


def file_of(
    *views: PlacedView,
    size: tuple[float, float] = A4,
    frame: tuple[float, float, float, float] | None = None,
    **choices: object,
) -> bytes:
    page = Page("Plate", Fraction(size[0]), Fraction(size[1]), Artwork(), views or (view(),), inside=frame)
    return write_pdf([page], Metadata("Plate"), changed(PLAIN, **choices))


# Measuring


@pytest.mark.parametrize(("scale", "model"), [("1:1", 170.0), ("1:5", 850.0), ("2:1", 85.0)])
def test_ends_of_the_file_give_model_lengths_through_its_viewport(scale: str, model: float) -> None:
    found = snap_points(file_of(view(scale)))
    assert sorted({(round(x, 4), round(y, 4)) for x, y in found.ends}) == [(20, 30), (20, 267), (190, 30), (190, 267)]
    (port,) = found.viewports
    assert port.ratio == scale
    (x0, y0), (x1, y1) = (min(found.ends), max(found.ends))
    # to the last micrometre shown, of the model
    assert (x1 - x0) * port.model == pytest.approx(model, abs=1e-3 * max(1.0, port.model) / 2)
    assert math.dist((x0, y0), (x1, y1)) * port.model == pytest.approx(math.hypot(170, 237) * port.model, abs=1e-3)


def test_circles_give_their_centres_and_strokes_their_crossings() -> None:
    found = snap_points(file_of(view(hole=40)))
    ((x, y, radius),) = found.centres
    assert (x, y) == pytest.approx((105, 148.5), abs=1e-4)
    # a circle's Béziers may be off by half a micrometre
    assert radius == pytest.approx(20, abs=5e-4)
    cross = Lines(TAGS, np.array([[[0.0, 100.0], [210.0, 100.0]]]))
    page = Page("x", Fraction(210), Fraction(297), Artwork((cross,)), (view(),))
    strokes = snap_points(write_pdf([page], Metadata("x"))).strokes
    assert any(np.allclose(stroke, (0, 100, 210, 100), atol=1e-4) for stroke in strokes)
    with pytest.raises(InputError, match="no such page"):
        snap_points(file_of(), 3)


def test_a_large_sheet_is_measured_in_its_own_unit() -> None:
    """Above 14 400 units a page has a UserUnit, which pdfium leaves to its reader (ISO 32000-1, 8.3.2.3)."""
    found = snap_points(file_of(view(box=(100, 100, 6100, 300)), size=(6200, 400)))
    assert max(x for x, _ in found.ends) - min(x for x, _ in found.ends) == pytest.approx(6000, abs=2e-3)
    assert found.viewports[0].model == pytest.approx(1, rel=1e-9)


# Printing


def test_a_printer_that_reduces_a4_onto_a4_prints_at_its_own_scale() -> None:
    """210 mm come to the 200 that lie between margins of 5: 1 : 1.05."""
    found = printed(file_of(), Printer(margins=(5, 5, 5, 5), habit="reduce"))
    assert found.factor == pytest.approx(200 / 210)
    assert found.measured == pytest.approx(200 / 210, abs=1e-6)
    assert found.views[0].ratio == "1:1"
    assert found.views[0].true_ratio == "1:1.05"
    assert found.cut == {}
    assert found.lost == {}
    # a hole of 40 mm comes out at 38.095
    assert 40 * found.measured == pytest.approx(38.0952, abs=1e-4)


def test_a_printer_at_full_size_prints_true_and_cuts_the_edges() -> None:
    found = printed(file_of(view(box=(2, 3, 190, 267))), Printer(margins=(5, 5, 5, 5), habit="full size"))
    assert (found.factor, found.measured) == (1.0, pytest.approx(1.0, abs=1e-7))
    assert found.views[0].true_ratio == "1:1"
    assert found.cut == {"left": 5, "bottom": 5, "right": 5, "top": 5}
    # of the drawing itself, what lies in the margins
    assert found.lost == pytest.approx({"left": 3, "bottom": 2}, abs=2e-3)
    assert found.views[0].cut == pytest.approx({"left": 3, "bottom": 2}, abs=2e-3)


def test_the_printed_sheet_is_the_paper_with_white_margins() -> None:
    data = printed_pdf(file_of(view(box=(2, 3, 208, 294))), Printer(margins=(5, 5, 5, 5), habit="full size"))
    document = pdfium.PdfDocument(data)
    assert [round(v / 72 * 25.4, 2) for v in document[0].get_size()] == [210, 297]
    shown = np.asarray(document[0].render(scale=150 / 72).to_pil().convert("L"))
    document.close()
    margin = round(5 / 25.4 * 150) - 1
    assert shown[:, :margin].min() == 255
    assert shown[:margin].min() == 255
    assert shown.min() < 100


@pytest.mark.parametrize("habit", ["reduce", "full size"])
def test_paper_turns_to_lie_as_the_page_does(habit: str) -> None:
    found = printed(file_of(view(box=(20, 20, 200, 150)), size=(297, 210)), Printer(margins=(3, 4, 5, 6), habit=habit))  # type: ignore[arg-type]
    assert (found.printer.width, found.printer.height) == (297, 210)
    assert found.printer.margins == (4, 5, 6, 3)
    # a larger page is reduced by more, a smaller one not at all
    larger = printed(file_of(view(box=(20, 20, 200, 150)), size=(420, 297)), Printer(margins=(5, 5, 5, 5)))
    assert larger.measured == pytest.approx(min(287 / 420, 200 / 297), abs=1e-6)
    smaller = printed(file_of(view(box=(5, 5, 80, 50)), size=(90, 60)), Printer())
    assert smaller.measured == pytest.approx(1, abs=1e-6)
    with pytest.raises(InputError, match="leave nothing"):
        printed(file_of(), Printer(margins=(110, 5, 110, 5)))


# Pictures


@pytest.mark.parametrize("kind", ["png", "jpeg", "tiff"])
@pytest.mark.parametrize("dpi", [72, 300])
def test_pictures_are_as_many_pixels_as_their_resolution_says(kind: str, dpi: int) -> None:
    wish = PictureRequest(kind=kind, dpi=dpi)  # type: ignore[arg-type]
    (data,) = draw_pages(file_of(), wish)
    picture = Image.open(io.BytesIO(data))
    assert picture.size == pixel_size(*A4, wish) == (round(210 / 25.4 * dpi), round(297 / 25.4 * dpi))
    assert tuple(round(float(v)) for v in picture.info["dpi"]) == (dpi, dpi)


def test_exact_pixels_greys_and_one_bit() -> None:
    (data,) = draw_pages(file_of(), PictureRequest(kind="png", pixels=(640, 480), colour="grey"))
    picture = Image.open(io.BytesIO(data))
    assert (picture.size, picture.mode) == ((640, 480), "L")
    (data,) = draw_pages(file_of(), PictureRequest(kind="tiff", colour="black"))
    picture = Image.open(io.BytesIO(data))
    assert (picture.mode, picture.info["compression"]) == ("1", "group4")
    with pytest.raises(InputError, match="one bit"):
        draw_pages(file_of(), PictureRequest(kind="jpeg", colour="black"))
    with pytest.raises(InputError, match="too large"):
        pixel_size(841, 1189, PictureRequest(dpi=2400))


def test_a_tiff_holds_all_pages() -> None:
    pages = [
        Page(name, Fraction(w), Fraction(h), Artwork(), (view(box=(5, 5, 60, 40)),))
        for name, w, h in (("a", 90, 60), ("b", 60, 90))
    ]
    data = write_pdf(pages, Metadata("x"))
    (tiff,) = draw_pages(data, PictureRequest(kind="tiff", dpi=100))
    picture = Image.open(io.BytesIO(tiff))
    assert picture.n_frames == 2  # type: ignore[attr-defined]
    sizes = []
    for number in range(2):
        picture.seek(number)
        sizes.append(picture.size)
    assert sizes == [(354, 236), (236, 354)]
    assert len(draw_pages(data, PictureRequest(kind="png", dpi=50))) == 2


def test_a_millimetre_in_a_picture_is_as_many_pixels() -> None:
    (data,) = draw_pages(file_of(), PictureRequest(kind="png", dpi=254, colour="grey"))
    dark = np.asarray(Image.open(io.BytesIO(data))) < 128
    columns = np.flatnonzero(dark.sum(axis=0) > 1000)
    # ten pixels a millimetre: the sides of the rectangle stand 170 mm apart, each 0.5 mm wide
    assert columns.max() - columns.min() + 1 == pytest.approx(1700 + 5, abs=2)


# Comparing


def test_two_pages_over_one_another_show_what_went_and_what_came() -> None:
    before, after = file_of(view(hole=40)), file_of(view(hole=60))
    found = compare(before, after)
    picture = np.asarray(Image.open(io.BytesIO(found.png)))
    assert (picture == GONE).all(axis=-1).sum() > 100
    assert (picture == CAME).all(axis=-1).sum() > 100
    (gone,), (came,) = found.gone, found.came
    assert gone == pytest.approx((85, 128.5, 125, 168.5), abs=2.5)
    assert came == pytest.approx((75, 118.5, 135, 178.5), abs=2.5)
    same = compare(before, before)
    assert (same.gone, same.came) == ((), ())
    turned = compare(before, file_of(view(box=(20, 20, 200, 150)), size=(297, 210)))
    assert turned.gone
    assert turned.came


# Checks against a recipe


def codes(data: bytes, **choices: object) -> dict[str, str]:
    report = check_pdf(data, changed(PLAIN, **choices))
    return {check.code: check.verdict for check in report.checks}


def test_every_check_has_its_reading_and_its_limit() -> None:
    report = check_pdf(file_of(), PLAIN)
    by_code = {check.code: check for check in report.checks}
    assert by_code["format"].reading == "210.0000 × 297.0000 mm"
    assert by_code["thin-line"].reading == "thinnest 0.5 mm"
    assert by_code["viewport"].reading == "a reader measures at 1:1"
    assert {"colour", "size", "printing", "length"} <= set(by_code)
    assert {check.verdict for check in report.checks} == {"holds", "told"}
    # of text and layers there are none: nothing is said of them
    assert not {"fonts", "layers"} & set(by_code)
    # how many colours there are, and bytes without a limit, are held against nothing
    assert {check.code for check in report.checks if check.verdict == "told"} == {"colour", "size"}


def test_a_check_of_nothing_says_nothing_and_the_same_counts_once() -> None:
    out = io.BytesIO()
    with pikepdf.new() as pdf:
        pdf.add_blank_page(page_size=(300, 200))
        pdf.save(out)
    report = check_pdf(out.getvalue(), PLAIN, asked=[Asked({None: joined_pieces([])}, [])])
    passing = {check.code for check in report.checks if check.verdict == "holds"}
    assert passing == {"format", "version"}
    same = Check(code="a", title="A", verdict="holds", reading="1")
    assert Report(pages=(), findings=(), checks=(same, same.model_copy())).checks == (same,)


def test_checks_fail_where_the_file_is_not_as_the_recipe_has_it() -> None:
    data = file_of()
    assert codes(data, least_width=0.6)["thin-line"] == "mend"
    assert codes(data, words=("Cheek",))["word"] == "fails"
    assert codes(data, size_limit=0.001)["size"] == "mend"
    assert codes(data, file="archive")["archive"] == "fails"
    assert codes(file_of(view(box=(20, 30, 207, 267)), frame=(20, 10, 200, 287)))["margin"] == "mend"
    assert codes(file_of(view(box=(20, 30, 215, 267))))["outside"] == "mend"
    red = Lines(Tags(EdgeClass.DRAWN, colour=(200, 0, 0), layer="A"), np.array([[[5.0, 5], [50, 5]]]))
    page = Page("x", Fraction(210), Fraction(297), Artwork((red,)), (view(),))
    coloured = write_pdf([page], Metadata("x"))
    assert codes(coloured, colour="grey")["colour"] == "fails"
    assert codes(write_pdf([page], Metadata("x"), changed(PLAIN, colour="grey")), colour="grey")["colour"] == "holds"
    assert codes(coloured, start_hidden=("A",))["layers"] == "fails"
    assert codes(coloured, layers="none")["layers"] == "fails"
    assert codes(coloured)["layers"] == "holds"


def test_a_cutter_s_checks_find_clips_open_and_doubled_contours() -> None:
    cutter = next(r for r in SHIPPED_RECIPES if r.id == "cutter")
    page = Page("x", Fraction(210), Fraction(297), Artwork(), (view(),))
    good = check_pdf(write_pdf([page], Metadata("x"), cutter), cutter)
    assert good.holds
    verdicts = {check.code: (check.verdict, check.reading) for check in good.checks}
    assert verdicts["clip"] == ("holds", "no clip path")
    assert verdicts["open"] == ("holds", "2, all closed")
    loose = Lines(TAGS, np.array([[[5.0, 5], [50, 5]], [[5.0, 5], [50, 5]]]))
    page = Page("x", Fraction(210), Fraction(297), Artwork((loose,)), (view(),))
    plain = check_pdf(write_pdf([page], Metadata("x")), cutter)
    verdicts = {check.code: (check.verdict, check.reading) for check in plain.checks}
    assert verdicts["open"][0] == "mend"
    assert verdicts["doubled"] == ("fails", "1 are drawn twice")
    with pikepdf.open(io.BytesIO(write_pdf([page], Metadata("x"), cutter))) as pdf:
        pdf.pages[0].Contents = pdf.make_stream(b"0 0 100 100 re W n\n" + pdf.pages[0].Contents.read_bytes())
        out = io.BytesIO()
        pdf.save(out)
    assert {c.code: c.verdict for c in check_pdf(out.getvalue(), cutter).checks}["clip"] == "fails"
