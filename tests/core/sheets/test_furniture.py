"""Frames, grid references, title blocks, tables, lettering, formats: against the standards as FACTS and memory have them."""

from __future__ import annotations

import io
from datetime import date
from fractions import Fraction

import numpy as np
import pikepdf
import pytest
from fontTools.ttLib import TTFont
from pdfminer.high_level import extract_text

from skalto.core import lettering
from skalto.core.annotation.furniture import GRID_FIELD, fields_of_grid, furnish, title_box, title_cells
from skalto.core.annotation.title_block import ASME, ISO, REQUIRED, TitleContext, field_values, missing_fields
from skalto.core.artwork import Artwork, EdgeClass, Lines, Raster, Tags, Text
from skalto.core.checks.report import check_pdf
from skalto.core.errors import InputError
from skalto.core.layout.arrangement import Layout, fitting_limit, offered_scales, room_for_views
from skalto.core.layout.format_change import FollowFormat, reformatted
from skalto.core.output.pdf.document import write_pdf
from skalto.core.output.pdf.metadata import Metadata
from skalto.core.output.picture import to_picture
from skalto.core.pages.composition import compose
from skalto.core.pages.page import SheetContext, ViewLines
from skalto.core.paper import FORMATS, FrameStyle, Orientation, parse_format
from skalto.core.sheets.annotations import Note
from skalto.core.sheets.sheet import Arrangement, Furniture, SheetSpec, ViewSpec

SEEN = Tags(EdgeClass.VISIBLE)


def square(size: float = 40) -> ViewLines:
    c = np.array(((-1, -1), (1, -1), (1, 1), (-1, 1), (-1, -1)), float) * size / 2
    return ViewLines(Artwork((Lines(SEEN, np.stack((c[:-1], c[1:]), axis=1)),)), ())


def view(**fields: object) -> ViewSpec:
    base: dict[str, object] = {
        "id": "v",
        "source": "s",
        "name": "top",
        "look": (0, 0, -1),
        "up": (0, 1, 0),
        "place": (150, 150),
    }
    return ViewSpec.model_validate(base | fields)


def sheet(**fields: object) -> SheetSpec:
    return SheetSpec.model_validate({"id": "s", "name": "Plate", "format": "A3"} | fields)


def texts(artwork: Artwork) -> list[str]:
    return [text for item in artwork if isinstance(item, Text) for text in item.texts]


# ISO 216 and ISO 5457, elongated from memory; ASME Y14.1 in inches; architectural: common practice, no source
@pytest.mark.parametrize(
    ("name", "short", "long"),
    [
        ("A3x3", 420, 891), ("A3×4", 420, 1189), ("a4x3", 297, 630), ("A4x4", 297, 841), ("A4x5", 297, 1051),
        ("ANSI-F", 28 * 25.4, 40 * 25.4), ("ARCH-A", 9 * 25.4, 12 * 25.4), ("ARCH-D", 24 * 25.4, 36 * 25.4),
        ("ARCH-E1", 30 * 25.4, 42 * 25.4),
    ],
)  # fmt: skip
def test_formats_of_the_standards(name: str, short: float, long: float) -> None:
    found = parse_format(name)
    assert sorted((float(found.width), float(found.height))) == pytest.approx([short, long])
    assert found.name in FORMATS


def test_the_iso_frame_of_an_a3_sheet() -> None:
    """ISO 5457, from memory: 20 mm at the left, 10 elsewhere, line 0.7 mm; centring marks on the frame's middles."""
    plain = sheet(furniture=["centring marks"])
    assert plain.frame_box() == (20, 10, 410, 287)
    frame, *rest = furnish(plain, {})
    assert frame.tags.edge_class is EdgeClass.FRAME
    marks = np.concatenate([item.points for item in rest if isinstance(item, Lines)])
    middles = {tuple(np.round(p, 3)) for row in marks for p in row}
    # each reaches from 10 mm outside (the paper's edge at the frame's side) to 5 mm inside
    assert {(215, 0), (215, 15), (215, 297), (215, 282), (10, 148.5), (25, 148.5), (420, 148.5), (405, 148.5)} == middles


def test_grid_references_count_from_the_middle() -> None:
    """ISO 5457, from memory: fields of 50 mm from the centring marks, letters down without I and O, numbers across."""
    fields = fields_of_grid(20, 410, 215)
    assert len(fields) == 6
    assert {round(b - a, 6) for a, b in fields[1:-1]} == {GRID_FIELD}
    assert fields[2][1] == 215
    found = texts(furnish(sheet(format="A0", furniture=["grid references"]), {}))
    assert {"1", "22", "A", "H", "J", "N", "P"} <= set(found)
    assert not {"I", "O"} & set(found)
    # no room for the border, no references
    assert not texts(furnish(sheet(furniture=["grid references"], margins=(2, 2, 2, 2)), {}))


@pytest.mark.parametrize(("template", "frame"), [(ISO, FrameStyle.ISO), (ASME, FrameStyle.ASME)])
def test_title_blocks_are_tiled_by_their_cells(template: object, frame: FrameStyle) -> None:
    assert template in (ISO, ASME)
    assert ISO.width <= 180  # ISO 7200, from memory
    area = sum(c.width * c.height for c in template.cells)  # type: ignore[attr-defined]
    assert area == pytest.approx(template.width * template.height, rel=1e-3)  # type: ignore[attr-defined]
    found = title_box(sheet(frame=frame))
    assert found is not None
    box = sheet(frame=frame).frame_box()
    assert box is not None
    assert (found[1][2], found[1][1]) == (box[2], box[1])
    for key in ("owner", "number", "date", "sheet", "title", "approval", "creator", "type", "scale", "revision"):
        assert key in {c.key for c in template.cells}  # type: ignore[attr-defined]


def test_fields_fill_themselves_in_and_what_is_missing_is_told() -> None:
    context = TitleContext(
        job={"owner": "Verkstan"}, job_name="Press", job_number="0007", number=2, count=5, today=date(2026, 11, 25),
        materials=("Steel",), mass=2480.0,
    )  # fmt: skip
    spec = sheet(views=[view(scale="1:2").model_dump()], title={"revision": "B", "title": "Cheek"})
    values = field_values(spec, context)
    wanted = {
        "owner": "Verkstan", "number": "0007-02", "sheet": "2/5", "scale": "1:2", "title": "Cheek", "revision": "B",
        "date": "2026-11-25", "format": "A3", "material": "Steel", "mass": "2.48 kg", "supplementary": "Press",
    }  # fmt: skip
    assert wanted.items() <= values.items()
    # ISO 7200, from memory
    assert set(REQUIRED) == {"owner", "number", "date", "sheet", "title", "approval", "creator", "type"}
    assert missing_fields(values) == ["Approved by", "Created by"]
    page = compose(spec, {"v": square()}, SheetContext(title=context))
    assert any("Approved by, Created by" in t.message for t in page.notices if t.code == "title-empty")
    other = sheet(views=[view().model_dump(), view(id="w", scale="2:1").model_dump()])
    assert field_values(other, context)["scale"] == "1:1 (2:1)"


def test_the_symbol_shows_the_arrangement() -> None:
    """ISO 5456-2, from memory: rings right of the cone in first angle, left of it in third; small end at the left."""
    rings = {}
    for arrangement in Arrangement:
        drawn = furnish(sheet(arrangement=arrangement.value), {})
        circles = [i for i in drawn if i.kind == "ellipses"]
        cone = next(i for i in drawn if isinstance(i, Lines) and i.tags.edge_class is EdgeClass.VISIBLE)
        rings[arrangement] = float(circles[0].centre[0, 0]) - float(cone.points[:, :, 0].mean())  # type: ignore[union-attr]
        left = cone.points[np.isclose(cone.points[:, :, 0], cone.points[:, :, 0].min()).all(axis=1)][0]
        right = cone.points[np.isclose(cone.points[:, :, 0], cone.points[:, :, 0].max()).all(axis=1)][0]
        assert abs(left[1, 1] - left[0, 1]) < abs(right[1, 1] - right[0, 1])
    assert rings[Arrangement.FIRST] > 0 > rings[Arrangement.THIRD]


def test_a_sheet_too_small_for_its_title_block_says_so() -> None:
    page = compose(sheet(format="90x60"), {})
    assert [t.code for t in page.notices] == ["title-no-room"]


def test_the_control_bar_is_100_mm_and_4_in() -> None:
    drawn = furnish(sheet(frame="none", furniture=["print-control bar"]), {})
    level = [p for i in drawn if isinstance(i, Lines) for p in i.points if np.isclose(p[0, 1], p[1, 1])]
    assert sorted(float(abs(p[1, 0] - p[0, 0])) for p in level) == pytest.approx([100, 101.6])


def test_what_is_not_full_size_shows_its_scale_and_sections_their_letters() -> None:
    spec = sheet(views=[view(scale="1:2").model_dump()], furniture=[])
    assert texts(compose(spec, {"v": square()}).views[0].marks) == ["Scale 1:2"]
    assert texts(compose(sheet(views=[view().model_dump()]), {"v": square()}).views[0].marks) == []
    cut = view(section={"letter": "B", "start": (0, 0), "end": (0, 9)}, depth=0.0)
    assert texts(compose(sheet(views=[cut.model_dump()]), {"v": square()}).views[0].marks) == ["B–B"]


def test_overlap_and_leaving_the_frame_are_told_with_figures() -> None:
    views = [view(place=(30, 150)), view(id="w", name="front", look=(0, 1, 0), up=(0, 0, 1), place=(60, 150))]
    spec = sheet(views=[v.model_dump() for v in views], furniture=[])
    told = [t.message for t in compose(spec, {"v": square(), "w": square()}).notices]
    assert told == [
        "The top view leaves the frame by 10 mm at the left.",
        "The top view and the front view lie over one another by 10 × 40 mm.",
    ]


def test_what_lies_over_the_title_block_is_told_with_figures() -> None:
    """The title block is 180 mm wide in the frame's lower right corner (ISO 7200, 4; from memory)."""
    spec = sheet(views=[view(place=(230, 30)).model_dump()])
    block = title_box(spec)
    assert block is not None
    left, _, right, high = block[1]
    assert right - left == 180
    spec = sheet(views=[view(place=(left, high)).model_dump()])
    told = [t.message for t in compose(spec, {"v": square()}).notices if t.code == "overlap"]
    assert told == ["The top view and the title block lie over one another by 20 × 20 mm."]
    beside = sheet(views=[view(place=(left, high + 20)).model_dump()])
    assert not [t for t in compose(beside, {"v": square()}).notices if t.code == "overlap"]
    clean = spec.model_copy(update={"clean": True})
    assert not [t for t in compose(clean, {"v": square()}).notices if t.code == "overlap"]


def test_a_clean_sheet_composes_to_its_views_alone() -> None:
    spec = sheet(views=[view(scale="1:2").model_dump()], clean=True, notes=[Note(id="n", text="x", place=(9, 9)).model_dump()])
    page = compose(spec, {"v": square()})
    assert len(page.frame) == len(page.under) == len(page.views[0].marks) == 0
    assert page.views[0].box == (140, 140, 160, 160)


def test_a_turned_view_lies_turned() -> None:
    placed = compose(sheet(views=[view(turn=30).model_dump()]), {"v": square()}).views[0]
    reach = 20 * (np.cos(np.radians(30)) + np.sin(np.radians(30)))
    assert placed.box == pytest.approx((150 - reach, 150 - reach, 150 + reach, 150 + reach))


@pytest.mark.parametrize(
    ("follow", "place", "scale"), [("keep", (150, 150), "1:1"), ("centre", None, "1:1"), ("rescale", None, "2:1")]
)
def test_views_follow_a_change_of_format_as_asked(follow: str, place: tuple[float, float] | None, scale: str) -> None:
    old = sheet(views=[view().model_dump()], furniture=[])
    new = reformatted(old, old.model_copy(update={"format": "A1"}), FollowFormat(follow))
    assert new.orientation is Orientation.LANDSCAPE
    assert str(new.views[0].scale) == str(new.scale) == scale
    if place:
        assert new.views[0].place == place
    else:
        factor = float(new.views[0].scale)
        away = np.subtract(new.views[0].place, _middle(new))
        assert away == pytest.approx(np.subtract((150, 150), _middle(old)) * factor)


def _middle(spec: SheetSpec) -> np.ndarray:
    room = np.array(room_for_views(spec))
    return (room[:2] + room[2:]) / 2


def test_scales_that_fit() -> None:
    preferred, largest = offered_scales(np.array((300.0, 100.0)), (0, 0, 277, 190))
    assert preferred == "1:2"
    paper, model = (int(v) for v in largest.split(":"))
    assert 0.999 * 277 / 300 <= Fraction(paper, model) <= Fraction(277, 300)
    assert offered_scales(np.array((10.0, 5.0)), (0, 0, 277, 190))[0] == "20:1"
    assert fitting_limit(np.array((0.0, 5.0)), (0, 0, 100, 100)) == 20


def test_a_layout_says_what_it_takes_and_where_each_lies() -> None:
    layout = Layout.of([(0, 0, 100, 50), (0, 0, 100, 80), (0, 0, 80, 50)], [(0, 0), (0, -1), (1, 0)], gap=10)
    assert layout.size(Fraction(1, 2)) == (100, 75)
    places = layout.places(Fraction(1, 2), (0, 0, 100, 75))
    assert places == [(25, 62.5), (25, 20), (80, 62.5)]
    assert layout.largest_scale((200, 200)) == 1
    with pytest.raises(InputError):
        layout.largest_scale((10.0001, 10.0001))


def test_lettering_is_as_long_as_the_faces_own_tables_say() -> None:
    """Advance widths by fontTools, which shapes nothing, against the shaped length."""
    font = TTFont(lettering.FACES[0].path)
    cmap, widths = font.getBestCmap(), font["hmtx"]
    for text in ("Plate", "172±0.1", "Ø62 H7"):
        plain = sum(widths[cmap[ord(c)]][0] for c in lettering.drawn_as(0, text))
        kerned = lettering.length(text, 3.5) * 736 / 3.5
        assert kerned == pytest.approx(plain, rel=0.06)
    assert font["glyf"][cmap[ord("H")]].yMax == pytest.approx(lettering.FACES[0].capitals, abs=60)


def test_what_the_first_face_lacks_comes_from_the_second() -> None:
    runs = lettering.glyph_runs("Ra Ω ∠ 3")
    assert [run.face for run in runs] == [0, 1, 0, 1, 0]
    assert lettering.missing("aΩ") == ""
    assert lettering.missing("aሀ漢") == "ሀ"


def test_text_in_the_file_is_text() -> None:
    notes = [Note(id="n", text="Größe 1:1\nΩ ∠ 45° – second line", place=(40, 200)).model_dump()]
    data = write_pdf([compose(sheet(views=[view().model_dump()], notes=notes), {"v": square()})], Metadata("T"))
    found = extract_text(io.BytesIO(data))
    assert "Größe 1:1" in found
    assert "Ω ∠ 45° – second line" in found
    with pikepdf.open(io.BytesIO(data)) as pdf:
        fonts = [pdf.pages[0].Resources.Font[name] for name in pdf.pages[0].Resources.Font]  # type: ignore[call-overload]
        assert {str(f.Subtype) for f in fonts} == {"/Type0"}
        for font in fonts:
            program = font.DescendantFonts[0].FontDescriptor.FontFile2.read_bytes()
            assert len(program) < 60_000
            assert str(font.BaseFont)[7] == "+"
            TTFont(io.BytesIO(program))
    # the same sheet gives the same bytes
    again = write_pdf([compose(sheet(views=[view().model_dump()], notes=notes), {"v": square()})], Metadata("T"))
    assert again == data


def test_a_shaded_picture_lies_beneath_its_view() -> None:
    pixels = np.zeros((8, 8, 4), np.uint8)
    pixels[2:6, 2:6] = (200, 30, 30, 255)
    lines = ViewLines(square().artwork, (), (), pixels, (-20, -20, 20, 20))
    page = compose(sheet(views=[view(shaded=True).model_dump()]), {"v": lines})
    (raster,) = page.under
    assert isinstance(raster, Raster)
    assert raster.bounds()[0].ravel().tolist() == [130, 130, 170, 170]
    data = write_pdf([page], Metadata("T"))
    with pikepdf.open(io.BytesIO(data)) as pdf:
        image = pdf.pages[0].Resources.XObject.P0
        assert (int(image.Width), int(image.Height)) == (8, 8)
        assert image.SMask.read_bytes()[2 * 8 + 2] == 255
        operators = [str(i.operator) for i in pikepdf.parse_content_stream(pdf.pages[0])]
        assert operators.index("Do") < operators.index("BDC")
    assert check_pdf(data).pages[0].width_mm == 420


def test_the_desks_picture_has_texts_fills_and_strokes() -> None:
    picture = to_picture(furnish(sheet(), {"owner": "Verkstan 1"}))
    assert {"frame", "table", "visible", "centre line"} <= {p.edge_class for p in picture.paths}
    (owner,) = [t for t in picture.texts if t.text == "Verkstan 1"]
    assert owner.drawn == "Verkstan \ue111"
    assert owner.size == pytest.approx(3.5 * 1024 / 736, abs=1e-3)
    assert next(c.key for c in title_cells(sheet(), {})) == "tolerances"
    assert Furniture.TITLE in sheet().furniture


def test_a_sheet_too_small_for_its_frame_says_so() -> None:
    sheet = SheetSpec(id="s", name="Label", format="20x12mm", furniture=frozenset())
    page = compose(sheet, {}, SheetContext())
    (told,) = [own for own in page.notices if own.code == "frame-no-room"]
    assert told.message.startswith("The sheet of 20 × 12 mm is too small for its frame")
    assert not [
        own for own in compose(sheet.model_copy(update={"frame": FrameStyle.NONE}), {}).notices if own.code == "frame-no-room"
    ]
