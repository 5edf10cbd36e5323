"""Pages of PDFs placed as they are: where they lie, what cuts them, what makes strokes of them, and that the proof sees it."""

from __future__ import annotations

import io
from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

import pikepdf
import pypdfium2 as pdfium
import pytest
from pikepdf import Array, Dictionary, Name, Pdf

from skalto.core.checks.report import check_pdf
from skalto.core.checks.snapping import snap_points
from skalto.core.checks.strokes import as_beziers, asked_of
from skalto.core.checks.verdict import Report
from skalto.core.errors import InputError
from skalto.core.formats import stroke_format
from skalto.core.layout.drawing_views import middle_of, whole_box
from skalto.core.output.pdf.document import written
from skalto.core.output.pdf.joining import Part, join
from skalto.core.output.pdf.metadata import Metadata
from skalto.core.pages.composition import compose
from skalto.core.pages.page import Page, SheetContext, ViewLines
from skalto.core.paper import FrameStyle
from skalto.core.pens.sets import PenRule, PenSet
from skalto.core.quantities import Scale
from skalto.core.recipes import PLAIN, Recipe
from skalto.core.sheets.content import DrawingContent
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.drawings.excerpt import Excerpt, LayerStyle
from skalto.core.sources.drawings.original import page_alone
from skalto.core.sources.reading import read_drawing
from skalto.services.results.drawings import facts_of_drawing
from skalto.services.results.writing import write_flat
from tests.core.drawn import drawn_excerpt

META = Metadata("x", created=datetime(2026, 1, 1, tzinfo=UTC))
CONTENT = (
    "q 2 w {x0} {y0} 100 50 re S {x1} {y0} m {x2} {y0} l {x2} {y1} l S /OC /L BDC 1 0 0 RG {x1} {y1} m {x2} {y1} l S EMC Q "
    "BT /F 12 Tf {x0} {y1} Td (Ebba) Tj ET"
)


def source(
    path: Path, box: tuple[float, ...] = (0, 0, 400, 200), change: Callable[[Pdf, pikepdf.Page], None] | None = None
) -> Path:
    """A page with lines, a layer and text in a font that is not embedded."""
    pdf = Pdf.new()
    pdf.add_blank_page(page_size=(400, 200))
    page = pdf.pages[0]
    page.obj.MediaBox = Array(list(box))
    group = pdf.make_indirect(Dictionary(Type=Name.OCG, Name=pikepdf.String("Walls")))
    pdf.Root.OCProperties = Dictionary(OCGs=Array([group]), D=Dictionary(Order=Array([group]), ON=Array([group])))
    font = Dictionary(Type=Name.Font, Subtype=Name.Type1, BaseFont=Name.Helvetica, Encoding=Name.WinAnsiEncoding)
    page.obj.Resources = Dictionary(Properties=Dictionary(L=group), Font=Dictionary(F=font))
    x, y = box[0], box[1]
    content = CONTENT.format(x0=x + 20, y0=y + 20, x1=x + 200, x2=x + 300, y1=y + 150)
    page.obj.Contents = pdf.make_stream(content.encode())
    if change is not None:
        change(pdf, page)
    pdf.save(path)
    return path


class Placed:
    """A page on a sheet."""

    def __init__(self, path: Path, excerpt: Excerpt | None = None, scale: str = "1:1", turn: float = 0.0) -> None:
        drawing = read_drawing(path, path.name)
        self.facts = drawing.facts
        excerpt = excerpt or Excerpt()
        box = excerpt.region or whole_box(drawing.facts.space(excerpt.space), excerpt.unit, excerpt.angle)
        view = ViewSpec(
            id="v",
            source="s",
            name="x",
            content=DrawingContent(excerpt=excerpt),
            anchor=middle_of(box),
            place=(210, 148.5),
            scale=Scale.parse(scale),
            rotation=turn,
            centres=False,
        )
        self.sheet = SheetSpec(
            id="s", name="x", format="A3", frame=FrameStyle.NONE, furniture=frozenset(), clean=True, views=(view,)
        )
        self.lines: dict[str, ViewLines] = {"v": drawn_excerpt(drawing, path, excerpt)}
        self.context = SheetContext(sources={"s": facts_of_drawing(drawing.facts)})

    def page(self) -> Page:
        return compose(self.sheet, self.lines, self.context)

    def written(self, recipe: Recipe = PLAIN) -> bytes:
        return written([self.page()], META, recipe).data

    def checked(self, data: bytes, recipe: Recipe = PLAIN) -> Report:
        return check_pdf(data, recipe, asked=[asked_of(self.page(), self.lines, recipe, as_beziers)])


def readings(report: Report) -> dict[str, tuple[float, bool]]:
    return {r.kind: (round(r.measured_mm or 0, 3), r.holds) for view in report.pages[0].views for r in view.readings}


def verdict(report: Report, code: str) -> tuple[str, str]:
    return next(((check.verdict, check.reading) for check in report.checks if check.code == code), ("", ""))


@pytest.mark.parametrize("rotation", [0, 90, 180, 270])
@pytest.mark.parametrize("box", [(0, 0, 400, 200), (-100, 50, 300, 250)])
@pytest.mark.parametrize("unit", [1, 2.5])
def test_a_page_lies_where_its_strokes_were_read_however_it_is_turned(
    rotation: int, box: tuple[float, ...], unit: float, tmp_path: Path
) -> None:
    def change(pdf: Pdf, page: pikepdf.Page) -> None:
        page.obj.Rotate, page.obj.UserUnit = rotation, unit

    placed = Placed(source(tmp_path / "a.pdf", box, change), scale="1:2")
    report = placed.checked(placed.written())
    assert verdict(report, "page-placed")[0] == "holds", verdict(report, "page-placed")
    sides = sorted((280 * 25.4 / 72 / 2 * unit, 130 * 25.4 / 72 / 2 * unit), reverse=rotation % 180 == 0)
    found = readings(report)
    assert found["width"] == (pytest.approx(sides[0], abs=1e-3), True)
    assert found["height"] == (pytest.approx(sides[1], abs=1e-3), True)


def test_an_excerpt_cuts_the_page_exactly_and_is_measured_by_what_shows(tmp_path: Path) -> None:
    placed = Placed(source(tmp_path / "a.pdf"), Excerpt(region=(20, 0, 90, 60), angle=0), turn=30)
    data = placed.written()
    report = placed.checked(data)
    assert verdict(report, "page-placed")[0] == "holds"
    # from the corner of the cut at x = 20 to the line that leaves it at x = 90
    assert readings(report)["width"] == (pytest.approx(70, abs=1e-3), True)
    assert not [finding for finding in report.findings if finding.code in ("outside", "margin")]
    image = pdfium.PdfDocument(data)[0].render(scale=2).to_pil().convert("L")
    assert image.getbbox() is not None
    ink = image.point(lambda v: 255 * (v < 128)).getbbox()
    assert ink is not None
    # nothing is painted outside of the turned rectangle about the sheet's middle
    assert (ink[2] - ink[0]) / 2 / 72 * 25.4 <= 70 * 0.8661 + 60 * 0.5 + 0.5


MUTATIONS: dict[str, Callable[[bytes], bytes]] = {
    "moved": lambda content: content.replace(b" cm\n/O0", b" cm 1 0 0 1 0.02 0 cm\n/O0"),
    "scaled": lambda content: content.replace(b" cm\n/O0", b" cm 1.0002 0 0 1.0002 0 0 cm\n/O0"),
    "left out": lambda content: content.replace(b"/O0 Do", b""),
    "twice": lambda content: content.replace(b"/O0 Do", b"/O0 Do /O0 Do"),
}


@pytest.mark.parametrize("what", MUTATIONS)
def test_the_proof_sees_a_page_that_is(what: str, tmp_path: Path) -> None:
    placed = Placed(source(tmp_path / "a.pdf"))
    with pikepdf.open(io.BytesIO(placed.written())) as pdf:
        page = pdf.pages[0]
        content = page.Contents.read_bytes()
        changed = MUTATIONS[what](content)
        assert changed != content
        page.Contents = pdf.make_stream(changed)
        out = io.BytesIO()
        pdf.save(out)
    assert verdict(placed.checked(out.getvalue()), "page-placed")[0] == "fails"


def test_the_proof_sees_an_operator_that_was_changed(tmp_path: Path) -> None:
    placed = Placed(source(tmp_path / "a.pdf"))
    with pikepdf.open(io.BytesIO(placed.written())) as pdf:
        form = pdf.pages[0].Resources.XObject.O0
        form.write(form.read_bytes().replace(b"1 0 0 RG", b"0 0 1 RG"))
        out = io.BytesIO()
        pdf.save(out)
    found = verdict(placed.checked(out.getvalue()), "page-placed")
    assert found == ("fails", "the page's operators are not in the file as they are")


RED = PenSet(id="p", name="Red", rules=(PenRule(name="all", ink="#ff0000"),))


@pytest.mark.parametrize(
    ("excerpt", "recipe", "why"),
    [
        ({"strokes": True}, {}, "as chosen"),
        ({}, {"file": "cutter"}, "a cutter takes strokes"),
        ({}, {"file": "archive"}, "an archive file"),
        ({}, {"colour": "grey"}, "its colours are changed"),
        ({}, {"text": "outlines"}, "its text goes out as outlines"),
        ({}, {"left_out": ("WALLS",)}, "the recipe leaves layers out"),
        ({}, {"pens": RED}, "the pens change its lines"),
        ({"off": frozenset({"Walls"})}, {}, "some of its layers are off"),
        ({"off": frozenset({"page"})}, {}, "some of its layers are off"),
        ({"styles": {"Walls": LayerStyle(colour="#00ff00")}}, {}, "some of its layers have colours"),
    ],
)
def test_what_changes_a_page_makes_strokes_of_it_and_is_told(
    excerpt: dict[str, object], recipe: dict[str, object], why: str, tmp_path: Path
) -> None:
    placed = Placed(source(tmp_path / "a.pdf"), Excerpt().model_copy(update=excerpt))
    chosen = PLAIN.model_copy(update=recipe)
    data = placed.written(chosen)
    with pikepdf.open(io.BytesIO(data)) as pdf:
        assert "/O0" not in pdf.pages[0].resources.get("/XObject", {})
    report = placed.checked(data, chosen)
    assert why in verdict(report, "page-strokes")[1]
    assert verdict(report, "page-placed") == ("", "")


def test_strokes_that_lack_something_are_a_warning(tmp_path: Path) -> None:
    def change(pdf: Pdf, page: pikepdf.Page) -> None:
        page.obj.Resources.ExtGState = Dictionary(M=Dictionary(BM=Name.Multiply))
        page.obj.Contents = pdf.make_stream(b"/M gs " + page.obj.Contents.read_bytes())

    path = source(tmp_path / "a.pdf", change=change)
    placed = Placed(path, Excerpt(strokes=True))
    state, reading = verdict(placed.checked(placed.written()), "page-strokes")
    assert state == "mend"
    assert "way of blending colours" in reading
    as_it_is = Placed(path)
    assert verdict(as_it_is.checked(as_it_is.written()), "page-placed")[0] == "holds"


def test_its_layers_are_layers_of_the_file_and_of_the_file_of_all(tmp_path: Path) -> None:
    placed = Placed(source(tmp_path / "a.pdf"))
    made = written([placed.page()], META, PLAIN)
    both = join([Part(made.data, made.glyphs, "One"), Part(made.data, made.glyphs, "Two")], META, PLAIN)
    for data in (made.data, both.data):
        with pikepdf.open(io.BytesIO(data)) as pdf:
            (group,) = pdf.Root.OCProperties.OCGs
            assert str(group.Name) == "Walls"
            for page in pdf.pages:
                assert page.Resources.XObject.O0.Resources.Properties.L.objgen == group.objgen


def test_a_file_without_layers_shows_all_of_it(tmp_path: Path) -> None:
    placed = Placed(source(tmp_path / "a.pdf"))
    with pikepdf.open(io.BytesIO(placed.written(PLAIN.model_copy(update={"layers": "none"})))) as pdf:
        assert "/OCProperties" not in pdf.Root
        assert "/Type" not in pdf.pages[0].Resources.XObject.O0.Resources.Properties.L


def test_fonts_that_the_page_does_not_hold_are_told(tmp_path: Path) -> None:
    placed = Placed(source(tmp_path / "a.pdf"))
    state, reading = verdict(placed.checked(placed.written()), "fonts-placed")
    assert state == "mend"
    assert reading.startswith("Helvetica not inside")


def test_annotations_are_part_of_the_page(tmp_path: Path) -> None:
    def change(pdf: Pdf, page: pikepdf.Page) -> None:
        looks = pdf.make_stream(b"0 0 1 RG 0 5 m 10 5 l S")
        looks.update(Dictionary(Type=Name.XObject, Subtype=Name.Form, BBox=[0, 0, 10, 10]))
        note = Dictionary(Type=Name.Annot, Subtype=Name.Square, Rect=[350, 100, 390, 140], AP=Dictionary(N=looks), F=4)
        page.obj.Annots = Array([pdf.make_indirect(note)])

    placed = Placed(source(tmp_path / "a.pdf", change=change))
    report = placed.checked(placed.written())
    assert verdict(report, "page-placed")[0] == "holds"
    assert readings(report)["width"] == (pytest.approx(370 * 25.4 / 72, abs=1e-3), True)


def test_the_same_page_gives_the_same_bytes_and_no_page_a_sentence(tmp_path: Path) -> None:
    data = source(tmp_path / "a.pdf").read_bytes()
    assert page_alone(data, 0) == page_alone(data, 0)
    with pytest.raises(InputError, match="strokes instead"):
        page_alone(data, 4)
    placed = Placed(tmp_path / "a.pdf")
    assert placed.written() == placed.written()


@pytest.mark.parametrize("suffix", [".dxf", ".svg"])
def test_a_format_without_pages_tells_what_its_strokes_lack(suffix: str, tmp_path: Path) -> None:
    def change(pdf: Pdf, page: pikepdf.Page) -> None:
        page.obj.Resources.ExtGState = Dictionary(M=Dictionary(BM=Name.Multiply))
        page.obj.Contents = pdf.make_stream(b"/M gs " + page.obj.Contents.read_bytes())

    placed = Placed(source(tmp_path / "a.pdf", change=change))
    _, report = write_flat(placed.page(), placed.lines, stroke_format(suffix[1:]), PLAIN)
    state, reading = verdict(report, "page-strokes")
    assert state == "mend"
    assert f"{suffix[1:].upper()} holds no pages" in reading
    assert any(finding.code == "page-strokes" for finding in report.findings)


def test_nothing_that_the_excerpt_cuts_off_is_snapped_to(tmp_path: Path) -> None:
    whole, part = Placed(source(tmp_path / "a.pdf")), Placed(tmp_path / "a.pdf", Excerpt(region=(0, 0, 60, 40)))
    assert len(snap_points(whole.written()).ends) == 8
    assert len(snap_points(part.written()).ends) == 4


def test_a_page_that_cannot_be_taken_out_of_its_file_goes_out_in_strokes_and_says_so(tmp_path: Path) -> None:
    placed = Placed(source(tmp_path / "a.pdf"))
    placed.lines["v"] = replace(placed.lines["v"], original=b"")
    report = placed.checked(placed.written())
    assert "its page cannot be taken out of its file" in verdict(report, "page-strokes")[1]
    assert report.holds


def test_a_layer_that_is_off_and_on_another_page_alone_changes_nothing(tmp_path: Path) -> None:
    placed = Placed(source(tmp_path / "a.pdf"), Excerpt(off=frozenset({"Roof"})))
    assert verdict(placed.checked(placed.written()), "page-placed")[0] == "holds"
