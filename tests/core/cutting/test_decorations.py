"""Lettering and excerpts on parts and plates: where they stand, what of them reaches the file, what the cutter makes of it."""

from __future__ import annotations

import io
from dataclasses import replace
from typing import Any

import ezdxf
import ezdxf.path
import numpy as np
import pypdfium2
import pytest
import shapely
from pydantic import ValidationError

from skalto.core.artwork import Artwork, EdgeClass, Lines, Raster, Tags
from skalto.core.checks.cut_pieces import cut_checks, engraving
from skalto.core.checks.verdict import Report
from skalto.core.cutting.choices import CutChoices, PlacedProfile, Plate
from skalto.core.cutting.decorating import decorated, excerpted
from skalto.core.cutting.decorations import Decoration, ExcerptContent, LetteringContent
from skalto.core.cutting.laying import laying_of
from skalto.core.cutting.section import ComponentOrigin, CutList, CutPart, CuttingContent
from skalto.core.formats import stroke_format
from skalto.core.geometry.contour import Contour
from skalto.core.geometry.profile import Mark, Operation, Profile
from skalto.core.layout.cutting_sheets import cutting_sheet
from skalto.core.output.pdf.metadata import Metadata
from skalto.core.pages.composition import compose
from skalto.core.pages.page import Page, SheetContext
from skalto.core.pens import SHIPPED
from skalto.core.progress import silent
from skalto.core.recipes import SHIPPED_RECIPES
from skalto.core.sources.drawings.excerpt import Excerpt
from skalto.services.results.writing import write_and_check, write_one

HAIRLINE = next(own for own in SHIPPED if own.id == "hairline")
CUTTER = next(own for own in SHIPPED_RECIPES if own.id == "cutter")
PLATE = Plate(width=120, height=80, thickness=3, edge=2)
SIGN = Profile(Contour.rectangle((0, 0, 60, 30)), (Contour.circle((5, 15), 1.5),), name="Nameplate", thickness=3)


def _lettering(text: str = "EBBA", height: float = 10.0, **fields: Any) -> Decoration:
    content = LetteringContent(text=text, height=height, letters=fields.pop("letters", "outlines"))
    return Decoration(id="d", content=content, **{"x": 32.0, "y": 15.0} | fields)


def _job(*decorations: Decoration, on_plate: tuple[Decoration, ...] = (), **placed: Any) -> tuple[Any, SheetContext]:
    part = CutPart(
        id="p", name="Nameplate", origin=ComponentOrigin(source="s", component="/sign"), quantity=2, decorations=decorations
    )
    cut_list = CutList(id="c", name="Signs", parts=(part,), plates=(PLATE,), choices=CutChoices(kerf=0.2))
    where = (
        PlacedProfile(id="1", part="p", x=4, y=4),
        PlacedProfile(id="2", part="p", **{"x": 116.0, "y": 74.0, "turn": 180.0} | placed),
    )
    content = CuttingContent(cut_list="c", placed=where, decorations=on_plate)
    sheet = cutting_sheet("k", "Signs", cut_list, content)
    return sheet, SheetContext(pens=HAIRLINE, cut_list=cut_list, profiles={"p": SIGN})


def _page(*decorations: Decoration, **fields: Any) -> Page:
    sheet, context = _job(*decorations, **fields)
    return compose(sheet, {}, context)


def _written(sheet: Any, context: SheetContext, ending: str) -> tuple[bytes, Report]:
    if ending == "pdf":
        made, report = write_and_check([(sheet, context)], {}, Metadata("Signs"), silent, CUTTER)
        return made.data, report
    return write_one(sheet, context, {}, stroke_format(ending), None, CUTTER)


def _check(report: Report, code: str) -> Any:
    return next(own for own in report.checks if own.code == code)


def test_lettering_stands_about_its_middle_and_is_as_high_as_it_was_typed() -> None:
    made = decorated(_lettering(height=10), {})
    assert made.box is not None
    assert not made.marks
    x0, y0, x1, y1 = made.box
    assert ((x0 + x1) / 2, (y0 + y1) / 2) == pytest.approx((32, 15))
    # the line of this face is a tenth of a capital wide, and round ends reach over the capital's height
    assert 10 <= y1 - y0 <= 11.5
    turned = decorated(_lettering(height=10, turn=90), {}).box
    assert turned is not None
    assert (turned[2] - turned[0], turned[3] - turned[1]) == pytest.approx((y1 - y0, x1 - x0), abs=1e-9)


def test_single_strokes_are_courses_and_outlines_can_be_scored() -> None:
    strokes = decorated(_lettering("E 7", letters="single strokes", operation="score"), {})
    assert not len(strokes.areas)
    assert {mark.operation for mark in strokes.marks} == {Operation.SCORE}
    outlines = decorated(_lettering("O", operation="score"), {})
    assert len(outlines.marks) == 2
    assert all(mark.course.closed for mark in outlines.marks)
    told = decorated(_lettering("Прес", letters="single strokes"), {})
    assert "no single-stroke font" in told.notes[0]
    assert len(told.areas)


def test_texts_that_cannot_be_drawn_are_refused() -> None:
    with pytest.raises(ValidationError, match="type some"):
        LetteringContent(text="  ")
    with pytest.raises(ValidationError, match="No shipped font"):
        LetteringContent(text="a\U00012000")


@pytest.mark.parametrize("ending", ["pdf", "dxf", "svg"])
def test_engraved_lettering_reaches_the_file_and_the_pieces_still_fall_out(ending: str) -> None:
    sheet, context = _job(_lettering(), _lettering("no. 7", 4, y=4.0, letters="single strokes", operation="score"))
    _, report = _written(sheet, context, ending)
    assert _check(report, "cut-pieces").verdict == "holds", _check(report, "cut-pieces")
    marks = _check(report, "cut-marks")
    assert marks.verdict == "holds", marks
    assert "mm scored" in marks.reading
    assert "mm² engraved" in marks.reading


def test_the_engraved_area_is_what_an_engine_of_its_own_shows_dark() -> None:
    """PDFium fills the glyphs; its dark dots are counted, and held against the area that is asked for."""
    sheet, context = _job(_lettering("Ägg & 8%", 9))
    data, _ = _written(sheet, context, "pdf")
    dots = 40.0
    image = pypdfium2.PdfDocument(io.BytesIO(data))[0].render(scale=dots * 25.4 / 72).to_numpy()
    rows, columns = image.shape[:2]
    x0, y0, x1, y1 = (int(v * dots) for v in (12, 10, 62, 28))
    part = image[rows - y1 : rows - y0, x0:x1, 2::-1].astype(float)
    page = compose(sheet, {}, context)
    assert page.cut is not None
    ink = np.array([0xB8, 0x6E, 0x00], float)
    share = ((255 - part) @ (255 - ink)) / ((255 - ink) @ (255 - ink))
    seen = float(share.sum()) / dots**2
    asked = engraving(page.cut).intersection(shapely.box(12, 10, 62, 28)).area
    assert columns == int(120 * dots)
    assert seen == pytest.approx(asked, rel=0.01)


@pytest.mark.parametrize("ending", ["pdf", "dxf", "svg"])
def test_lettering_that_is_lost_or_moved_on_the_way_fails(ending: str) -> None:
    asked = _page(_lettering())
    for written in ((), (_lettering(x=32.3),)):
        data, _ = _written(*_job(*written), ending)
        (check,) = [own for own in cut_checks(data, f".{ending}", [asked]) if own.code == "cut-marks"]
        assert check.verdict == "fails"
        assert "are missing" in check.reading


@pytest.mark.parametrize("ending", ["pdf", "dxf", "svg"])
def test_a_scored_line_that_is_lost_or_too_long_fails(ending: str) -> None:
    few, more = (_lettering(text, 5, letters="single strokes", operation="score") for text in ("no. 7", "no. 77"))
    for asked, written in ((few, ()), (few, (more,)), (more, (few,))):
        data, _ = _written(*_job(*written), ending)
        (check,) = [own for own in cut_checks(data, f".{ending}", [_page(asked)]) if own.code == "cut-marks"]
        assert check.verdict == "fails", check


def test_a_part_takes_its_lettering_along() -> None:
    page = _page(_lettering())
    assert page.cut is not None
    first, second = (shapely.union_all([shapely.box(*own.box) for own in part.decorations]) for part in page.cut.parts)
    # the second lies half turned about: its corner is at (116, 74)
    assert second.centroid.coords[0] == pytest.approx((116 - 32, 74 - 15))
    assert first.centroid.coords[0] == pytest.approx((4 + 32, 4 + 15))


def test_what_is_wrong_with_a_decoration_is_told() -> None:
    def told(page: Page) -> str:
        return " ".join(own.message for own in page.notices if own.code == "cut-decoration")

    assert told(_page(_lettering())) == ""
    assert "reaches over its edge" in told(_page(_lettering(x=55.0)))
    # over the hole at its left
    assert "reaches over its edge" in told(_page(_lettering("I", 6, x=5.0)))
    assert "is turned over" in told(_page(_lettering(), flipped=True, x=116, y=40, turn=0))
    on_plate = _lettering("left over", 5, x=118.0, y=40.0)
    assert "reaches off it" in told(_page(on_plate=(on_plate,)))


def test_parts_with_marks_or_lettering_are_not_turned_over_in_arranging() -> None:
    _sheet, context = _job()
    cut_list = context.cut_list
    assert cut_list is not None
    loose = cut_list.model_copy(update={"choices": cut_list.choices.model_copy(update={"flips": True})})
    assert laying_of(loose, {"p": SIGN}).pieces[0].flips
    scored = replace(SIGN, marks=(Mark(Contour.circle((30, 15), 4), Operation.SCORE),))
    assert not laying_of(loose, {"p": scored}).pieces[0].flips
    lettered = loose.parts[0].model_copy(update={"decorations": (_lettering(),)})
    assert not laying_of(loose.model_copy(update={"parts": (lettered,)}), {"p": SIGN}).pieces[0].flips


def _excerpt(operation: str = "engrave", scale: float = 1.0, region: Any = None) -> Decoration:
    content = ExcerptContent(source="art", excerpt=Excerpt(region=region), scale=scale)
    return Decoration(id="x", content=content, operation=operation, x=30, y=15)  # type: ignore[arg-type]


def _space() -> Artwork:
    lines = Lines(Tags(EdgeClass.DRAWN), np.array([[(0.0, 0.0), (10.0, 0.0)], [(10.0, 0.0), (10.0, 4.0)]]))
    pixels = np.zeros((4, 4, 4), np.uint8)
    picture = Raster(Tags(EdgeClass.DRAWN), pixels, np.array((0.0, 1.0)), np.array((5.0, 0.0)), np.array((0.0, 2.0)))
    return Artwork((lines, picture))


def test_excerpts_are_cut_out_and_scaled_and_pictures_are_not_scored() -> None:
    whole = _excerpt(scale=2)
    assert isinstance(whole.content, ExcerptContent)
    made = decorated(whole, {"x": excerpted(whole.content, _space())})
    assert made.box == pytest.approx((20, 11, 40, 19))
    assert sum(mark.course.length for mark in made.marks) == pytest.approx(28)
    part = _excerpt(region=(8.0, -1.0, 11.0, 5.0))
    assert isinstance(part.content, ExcerptContent)
    assert sum(m.course.length for m in decorated(part, {"x": excerpted(part.content, _space())}).marks) == pytest.approx(6)
    scored = _excerpt("score")
    assert isinstance(scored.content, ExcerptContent)
    told = decorated(scored, {"x": excerpted(scored.content, _space())})
    assert told.notes == ("1 picture cannot be scored: engrave them.",)
    assert not len(told.areas)


@pytest.mark.parametrize("ending", ["pdf", "svg"])
def test_a_picture_on_the_plate_itself_is_engraved_by_its_box(ending: str) -> None:
    own = _excerpt(scale=1.0).model_copy(update={"x": 30.0, "y": 50.0})
    assert isinstance(own.content, ExcerptContent)
    sheet, context = _job(on_plate=(own,))
    _, report = _written(sheet, replace(context, excerpts={"x": excerpted(own.content, _space())}), ending)
    marks = _check(report, "cut-marks")
    assert marks.verdict == "holds", marks


def test_letters_that_overlap_themselves_are_filled_alike_everywhere() -> None:
    """The stroke through an ø runs over its ring: DXF fills by the even-odd rule, and would leave the crossings out."""
    sheet, context = _job(_lettering("ø8", 9))
    page = compose(sheet, {}, context)
    assert page.cut is not None
    whole = engraving(page.cut).area
    data, report = _written(sheet, context, "dxf")
    assert _check(report, "cut-marks").verdict == "holds"
    found = 0.0
    for hatch in ezdxf.read(io.StringIO(data.decode())).modelspace().query("HATCH"):
        area = shapely.Polygon()
        for path in ezdxf.path.from_hatch(hatch):
            ring = shapely.Polygon([(v.x, v.y) for v in path.flattening(0.002)])
            area = area.symmetric_difference(shapely.make_valid(ring))
        found += area.area
    assert found == pytest.approx(whole, rel=1e-3)


@pytest.mark.parametrize("ending", ["pdf", "dxf", "svg"])
def test_closed_single_strokes_are_engraved_all_the_way_round(ending: str) -> None:
    sheet, context = _job(_lettering("O 8 %", 9, letters="single strokes"))
    _, report = _written(sheet, context, ending)
    marks = _check(report, "cut-marks")
    assert marks.verdict == "holds", marks
