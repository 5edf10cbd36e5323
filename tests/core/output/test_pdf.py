"""The file: exact boxes, viewports, printing, metadata, widths; and that the check finds what is wrong in it."""

from __future__ import annotations

import io
from dataclasses import replace
from fractions import Fraction
from typing import Any

import numpy as np
import pikepdf
import pypdfium2 as pdfium
import pytest

from skalto.core.artwork import Artwork, EdgeClass, Ellipses, Lines, Tags
from skalto.core.checks.report import check_pdf
from skalto.core.checks.vectors import read_page
from skalto.core.errors import InputError
from skalto.core.geometry import TAU, Similarity
from skalto.core.lengths import ReferenceLength
from skalto.core.output.pdf.content import TOGETHER, operators
from skalto.core.output.pdf.document import write_pdf
from skalto.core.output.pdf.metadata import Metadata
from skalto.core.output.pdf.paths import MANY, number
from skalto.core.pages.composition import compose
from skalto.core.pages.page import Page, PlacedView, ViewLines
from skalto.core.pages.placed_views import excess
from skalto.core.paper import FrameStyle, Orientation
from skalto.core.pens import Pens
from skalto.core.quantities import FULL_SIZE
from skalto.core.sheets.content import DrawingContent, ProjectionContent
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.drawings.collecting import Collector
from skalto.core.sources.drawings.excerpt import Excerpt

SEEN = Tags(EdgeClass.VISIBLE)


def _view(scale: str = "1:1", place: tuple[float, float] = (100, 80), **fields: object) -> ViewSpec:
    return ViewSpec(
        id="v", source="s", name="top", content=ProjectionContent(look=(0, 0, -1), up=(0, 1, 0)),
        scale=scale, place=place, **fields,  # type: ignore[arg-type]
    )  # fmt: skip


def _square_with_hole(lengths: bool = True) -> ViewLines:
    corners = np.array(((-30, -20), (30, -20), (30, 20), (-30, 20), (-30, -20)), float)
    circle = Ellipses(SEEN, np.zeros((1, 2)), np.array([[8.0, 0]]), np.array([[0, 8.0]]), np.zeros(1), np.array([TAU]))
    known = (
        ReferenceLength(kind="width", value=60),
        ReferenceLength(kind="height", value=40),
        ReferenceLength(kind="diameter", value=16, centre=(0, 0)),
    )
    return ViewLines(Artwork((Lines(SEEN, np.stack((corners[:-1], corners[1:]), 1)), circle)), known if lengths else ())


def _pdf(view: ViewSpec | None = None, lines: ViewLines | None = None, **sheet: object) -> bytes:
    options: dict[str, object] = {
        "format": "A4",
        "orientation": Orientation.LANDSCAPE,
        "frame": FrameStyle.NONE,
        "clean": True,
    } | sheet
    spec = SheetSpec(id="s", name="One", views=(view or _view(),), **options)  # type: ignore[arg-type]
    return write_pdf([compose(spec, {"v": lines or _square_with_hole()})], Metadata("A title — Übung", "Ada"))


def test_numbers_are_short_and_exact_enough() -> None:
    assert [number(v) for v in (1.0, 0.5, -0.00001, 123.456789, 1e-4)] == [b"1", b"0.5", b"0", b"123.4568", b"0.0001"]


def test_lines_and_circles_as_operators() -> None:
    text = operators(_square_with_hole().artwork, Pens(), None).decode()  # type: ignore[arg-type]
    assert text.count(" l S") == 4
    assert text.count("h S") == 1
    assert text.startswith("1.4173 w\n1 J 1 j\n[] 0 d\n")  # 0.5 mm


def test_hidden_lines_are_dashed_in_multiples_of_their_width() -> None:
    text = operators(Artwork((Lines(Tags(EdgeClass.HIDDEN), np.zeros((1, 2, 2))),)), Pens(), None).decode()  # type: ignore[arg-type]
    # ISO 128-2, from memory: dash 12 d, gap 3 d, here of 0.25 mm
    assert "[8.5039 2.126] 0 d" in text


def test_the_page_is_the_format() -> None:
    with pikepdf.open(io.BytesIO(_pdf())) as pdf:
        page = pdf.pages[0]
        assert [float(v) for v in page.MediaBox] == pytest.approx([0, 0, 841.889764, 595.275591], abs=1e-6)
        assert page.TrimBox == page.MediaBox
        assert "/CropBox" not in page
        assert "/UserUnit" not in page
        assert pdf.Root.ViewerPreferences.PrintScaling == "/None"
        assert pdf.Root.ViewerPreferences.PickTrayByPDFSize is True
        assert pdf.Root.Lang == "en"
        assert str(pdf.docinfo["/Title"]) == "A title — Übung"
        with pdf.open_metadata() as xmp:
            assert xmp["dc:title"] == "A title — Übung"


def test_the_same_sheet_gives_the_same_bytes() -> None:
    assert _pdf() == _pdf()


def test_pages_over_200_inches_take_a_user_unit() -> None:
    # ISO 32000-1 Annex C (memory): no side over 14 400 units
    data = _pdf(_view(place=(5900, 100)), format="6000x300mm")
    with pikepdf.open(io.BytesIO(data)) as pdf:
        assert pdf.pages[0].UserUnit == 2
        assert max(float(v) for v in pdf.pages[0].MediaBox) <= 14_400
    report = check_pdf(data)
    assert report.pages[0].width_mm == pytest.approx(6000, abs=1e-3)
    assert report.holds


@pytest.mark.parametrize("scale", ["1:1", "2:1", "1:5", "3:7"])
def test_a_reader_s_ruler_reads_the_model(scale: str) -> None:
    with pikepdf.open(io.BytesIO(_pdf(_view(scale)))) as pdf:
        viewport = pdf.pages[0].VP[0]
        assert str(viewport.Measure.R) == scale
        a, b = Fraction(scale.split(":")[0]), Fraction(scale.split(":")[1])
        # model millimetres a point
        assert float(viewport.Measure.X[0].C) == pytest.approx(float(Fraction(254, 720) * b / a), rel=1e-9)
        box = [float(v) for v in viewport.BBox]
        assert (box[2] - box[0]) * float(viewport.Measure.X[0].C) == pytest.approx(60, abs=1e-3)


def test_the_check_measures_what_is_there() -> None:
    report = check_pdf(_pdf(_view("2:1")))
    (view,) = report.pages[0].views
    assert {r.kind: (r.expected_mm, r.holds) for r in view.readings} == {
        "width": (120, True),
        "height": (80, True),
        "diameter": (32, True),
    }
    assert view.viewport_scale == pytest.approx(2)
    assert report.pages[0].min_line_width_mm == pytest.approx(0.5, abs=1e-4)
    assert not report.findings


def test_the_check_finds_a_drawing_that_is_a_hair_too_large() -> None:
    """The same content drawn 1.0001 times too large, as a careless step in between might."""
    with pikepdf.open(io.BytesIO(_pdf())) as pdf:
        page = pdf.pages[0]
        page.Contents = pdf.make_stream(b"1.0001 0 0 1.0001 0 0 cm\n" + page.Contents.read_bytes())
        out = io.BytesIO()
        pdf.save(out)
    report = check_pdf(out.getvalue())
    assert not report.holds
    assert [f.code for f in report.findings] == ["length", "length", "length"]
    assert report.pages[0].views[0].deviation_um == pytest.approx(6.0, abs=0.2)


def test_the_check_finds_a_wrong_viewport_and_missing_lines() -> None:
    with pikepdf.open(io.BytesIO(_pdf())) as pdf:
        pdf.pages[0].VP[0].Measure.X[0].C = 0.5
        out = io.BytesIO()
        pdf.save(out)
    assert [f.code for f in check_pdf(out.getvalue()).findings] == ["viewport-scale"]
    with pikepdf.open(io.BytesIO(_pdf())) as pdf:
        pdf.pages[0].Contents = pdf.make_stream(b"")
        del pdf.pages[0]["/VP"]
        del pdf.Root["/ViewerPreferences"]
        out = io.BytesIO()
        pdf.save(out)
    codes = [f.code for f in check_pdf(out.getvalue()).findings]
    assert codes.count("length-missing") == 3
    assert {"viewport-missing", "print-scaling"} <= set(codes)


def test_the_check_finds_a_page_of_the_wrong_size_and_a_tray_left_open() -> None:
    with pikepdf.open(io.BytesIO(_pdf())) as pdf:
        pdf.pages[0].MediaBox = pikepdf.Array([0, 0, 841.9, 595.2756])
        del pdf.Root.ViewerPreferences["/PickTrayByPDFSize"]
        out = io.BytesIO()
        pdf.save(out)
    report = check_pdf(out.getvalue())
    assert {(f.level, f.code) for f in report.findings} == {("error", "format"), ("warning", "print-tray")}
    assert "297 x 210 mm" in report.findings[-1].message


def test_what_leaves_the_sheet_is_told_by_side() -> None:
    report = check_pdf(_pdf(_view(place=(25, 200))))
    (finding,) = report.findings
    assert finding.code == "outside"
    assert "5.00 mm at the left" in finding.message
    assert "10.00 mm at the top" in finding.message
    assert excess((-5, 10, 20, 220), (0, 0, 297, 210)) == {"left": 5, "top": 10}


def test_lengths_are_judged_only_by_edges_that_are_drawn() -> None:
    report = check_pdf(_pdf(_view(classes=("visible",))))
    assert [r.kind for r in report.pages[0].views[0].readings] == ["diameter"]
    report = check_pdf(_pdf(lines=_square_with_hole(lengths=False)))
    assert report.findings[0].code == "no-length"
    assert report.holds


def test_a_foreign_pdf_is_measured_as_far_as_it_goes() -> None:
    pdf = pikepdf.new()
    pdf.add_blank_page(page_size=(200, 100))
    pdf.pages[0].Contents = pdf.make_stream(b"0.1 w 10 10 m 50 50 l S")
    out = io.BytesIO()
    pdf.save(out)
    report = check_pdf(out.getvalue())
    assert report.pages[0].width_mm == pytest.approx(200 * 25.4 / 72, abs=1e-3)
    assert {f.code for f in report.findings} == {"print-scaling", "no-known-scale", "thin-line"}


@pytest.mark.parametrize("data", [b"", b"not a pdf", b"%PDF-1.7\n%garbage"])
def test_what_is_no_pdf_says_so(data: bytes) -> None:
    with pytest.raises(InputError, match=r"not a PDF|damaged"):
        check_pdf(data)


def test_a_locked_pdf_says_so() -> None:
    with pikepdf.open(io.BytesIO(_pdf())) as pdf:
        out = io.BytesIO()
        pdf.save(out, encryption=pikepdf.Encryption(user="secret", owner="secret"))
    with pytest.raises(InputError, match="password"):
        check_pdf(out.getvalue())


def _rendered(artwork: Artwork) -> np.ndarray:
    view = ViewSpec(id="v", source="s", name="top", content=ProjectionContent(look=(0, 0, -1), up=(0, 1, 0)))
    placed = PlacedView(view, artwork, artwork.bounds(), FULL_SIZE, Similarity(), ())
    data = write_pdf([Page("x", Fraction(100), Fraction(100), Artwork(), (placed,))], Metadata("x"))
    return np.array(pdfium.PdfDocument(data)[0].render(scale=4).to_pil())


def test_strokes_in_passes_show_what_one_by_one_shows() -> None:
    random = np.random.default_rng(8)
    collector = Collector()
    for n in range(400):
        colour = [(255, 0, 0), (0, 160, 0), (0, 0, 255), (0, 0, 0)][int(random.integers(4))]
        tags = Tags(EdgeClass.DRAWN, colour=colour, width=float(random.choice((0.5, 2.0))))
        x, y, u, v = random.uniform(5, 95, 4).tolist()
        if n % 3:
            collector.line(tags, x, y, u, v)
        else:
            collector.ellipse(tags, (x, y), (8, 0), (0, 5), 0.3, 4.0)
    artwork = collector.artwork()
    # the same strokes, one item each, in their order
    single: list[tuple[int, Lines | Ellipses]] = []
    for item in artwork:
        assert isinstance(item, Lines | Ellipses)
        assert item.order is not None
        for n, place in enumerate(item.order.tolist()):
            if isinstance(item, Lines):
                single.append((place, replace(item, points=item.points[n : n + 1], order=None)))
            else:
                arcs = (item.centre, item.major, item.minor, item.start, item.sweep)
                single.append((place, Ellipses(item.tags, *(array[n : n + 1] for array in arcs))))  # type: ignore[arg-type]
    one_by_one = Artwork(tuple(item for _, item in sorted(single, key=lambda row: row[0])))
    assert len(one_by_one) == 400
    shown = _rendered(artwork).astype(int)
    # equal colours over one another may be rounded another way
    assert np.abs(shown - _rendered(one_by_one)).max() <= 2
    # and the order is seen: the other way round it looks different
    assert np.abs(shown - _rendered(Artwork(tuple(reversed(one_by_one.items))))).max() > 100


def test_a_file_that_does_not_know_its_scale_is_told_and_breaks_nothing() -> None:
    item = Lines(Tags(EdgeClass.VISIBLE), np.array([[[0.0, 0.0], [100.0, 100.0]]]))
    view = ViewSpec(id="v", source="s", name="plan", content=ProjectionContent(look=(0, 0, -1), up=(0, 1, 0)))
    lengths = (ReferenceLength(kind="width", value=100.0),)
    placed = PlacedView(view, Artwork((item,)), (0, 0, 100, 100), FULL_SIZE, Similarity(), lengths)
    data = write_pdf([Page("x", Fraction(100), Fraction(100), Artwork(), (placed,))], Metadata("x"))
    with pikepdf.open(io.BytesIO(data)) as pdf:
        page: Any = pdf.pages[0].obj
        (own,) = (record for record in page.PieceInfo.Skalto.Private.Views if str(record.Scale) == "1:1")
        own.Scale = pikepdf.String("one to one")
        out = io.BytesIO()
        pdf.save(out)
    codes = {finding.code for finding in check_pdf(out.getvalue()).findings}
    assert "viewport-scale" in codes


def test_a_page_of_very_many_strokes_is_in_parts_and_measures_true() -> None:
    random = np.random.default_rng(9)
    start = random.uniform(5, 90, (MANY + 500, 2))
    points = np.concatenate((np.stack((start, start + 3), axis=1), [[[0.0, 0.0], [100.0, 100.0]]]))
    item = Lines(Tags(EdgeClass.DRAWN, colour=(0, 0, 0), width=0.25), points, np.arange(len(points)))
    view = ViewSpec(id="v", source="s", name="plan", content=DrawingContent(excerpt=Excerpt()))
    lengths = (ReferenceLength(kind="width", value=100.0), ReferenceLength(kind="height", value=100.0))
    placed = PlacedView(view, Artwork((item,)), (0, 0, 100, 100), FULL_SIZE, Similarity(), lengths)
    data = write_pdf([Page("x", Fraction(100), Fraction(100), Artwork(), (placed,))], Metadata("x"))
    report = check_pdf(data)
    assert report.holds
    assert max(abs(r.deviation_um or 9) for r in report.pages[0].views[0].readings) < 0.2
    with pdfium.PdfDocument(data) as document:
        paths = read_page(document, 0).paths
        assert len(paths) == -(-len(points) // TOGETHER)
        assert sum(len(paths.subpaths(n)) for n in range(len(paths))) == len(points)
