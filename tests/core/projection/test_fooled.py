"""Files that are not what was asked for must fail, in every format: another scale, a circle elsewhere, strokes that are
missing or drawn twice, widths exchanged, another unit."""

from __future__ import annotations

import dataclasses
import io
import re
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import ezdxf
import numpy as np
import pikepdf
import pytest

from skalto.core.artwork import EdgeClass
from skalto.core.checks.beside import with_page_checks
from skalto.core.checks.flat import check_flat
from skalto.core.checks.report import check_pdf
from skalto.core.checks.strokes import Pieces, as_beziers, asked_of, compare, joined_pieces
from skalto.core.checks.verdict import Report
from skalto.core.formats import stroke_format
from skalto.core.geometry import Similarity
from skalto.core.output.flat import flat_page
from skalto.core.output.pdf.document import written
from skalto.core.output.pdf.metadata import Metadata
from skalto.core.pages import placed_views as composing
from skalto.core.pages.composition import compose
from skalto.core.pages.page import Page, SheetContext, ViewLines
from skalto.core.paper import FrameStyle
from skalto.core.quantities import Scale
from skalto.core.recipes import PLAIN, SHIPPED_RECIPES, Recipe
from skalto.core.sheets.content import ProjectionContent
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.models.model import Model
from skalto.core.sources.reading import read_model
from skalto.core.viewpoint import parse_viewpoint
from skalto.services.results.writing import write_flat
from tests.conftest import SAMPLES
from tests.core.modelled import lines_of

CUTTER = next(recipe for recipe in SHIPPED_RECIPES if recipe.id == "cutter")
FORMATS = (".pdf", ".dxf", ".svg")
ALL = tuple(EdgeClass(name) for name in ("visible", "outline", "hidden"))


@pytest.fixture(scope="module")
def plate(plate_step: Path) -> Model:
    return read_model(plate_step, plate_step.name)


def view(scale: str = "1:2", turn: float = 0.0, name: str = "top", classes: tuple[EdgeClass, ...] = ALL[:2]) -> ViewSpec:
    seen = parse_viewpoint(name)
    return ViewSpec(
        id="v",
        source="0",
        name=name,
        content=ProjectionContent(look=seen.look, up=seen.up),
        scale=Scale.parse(scale),
        rotation=turn,
        anchor=(3.0, -2.0),
        place=(150.0, 120.0),
        classes=classes,
        centres=False,
    )


def made(model: Model, spec: ViewSpec, clean: bool = False) -> tuple[Page, dict[str, ViewLines]]:
    sheet = SheetSpec(id="s", name="Plate", format="A3", frame=FrameStyle.NONE if clean else FrameStyle.ISO, clean=clean)
    lines = {"v": lines_of(model, spec)}
    return compose(sheet.with_views((spec,)), lines, SheetContext()), lines


def bytes_of(page: Page, suffix: str, recipe: Recipe) -> bytes:
    if suffix == ".pdf":
        return written([page], Metadata("x"), recipe).data
    from skalto.core.output.dxf import write_dxf
    from skalto.core.output.svg import write_svg

    return (write_dxf if suffix == ".dxf" else write_svg)(flat_page(page, recipe))


def checked(data: bytes, page: Page, lines: dict[str, ViewLines], suffix: str, recipe: Recipe = PLAIN) -> Report:
    if suffix == ".pdf":
        return check_pdf(data, recipe, asked=[asked_of(page, lines, recipe, as_beziers)])
    return check_flat(data, stroke_format(suffix[1:]).read_back(), flat_page(page, recipe), page, lines, recipe)


def failing(report: Report) -> set[str]:
    return {check.code for check in report.checks if check.verdict == "fails"}


@pytest.mark.parametrize("recipe", [PLAIN, CUTTER], ids=["plain", "cutter"])
@pytest.mark.parametrize("suffix", FORMATS)
@pytest.mark.parametrize("turn", [0.0, 90.0, -30.0, 217.4])
def test_a_good_file_passes_with_all_its_readings(plate: Model, suffix: str, turn: float, recipe: Recipe) -> None:
    page, lines = made(plate, view(turn=turn), clean=recipe is CUTTER)
    report = checked(bytes_of(page, suffix, recipe), page, lines, suffix, recipe)
    assert not failing(report), [c for c in report.checks if c.verdict == "fails"]
    readings = {r.kind: (r.expected_mm, r.holds) for r in report.pages[0].views[0].readings}
    assert readings == {"width": (60, True), "height": (40, True), "diameter": (15, True)}
    assert report.pages[0].views[0].scale == "1:2"
    assert report.pages[0].min_line_width_mm is not None


@pytest.mark.parametrize("suffix", FORMATS)
def test_a_scale_that_is_not_the_view_s_fails(plate: Model, suffix: str, monkeypatch: pytest.MonkeyPatch) -> None:
    right = composing.placement

    def wrong(spec: ViewSpec) -> Similarity:
        return dataclasses.replace(right(spec), scale=right(spec).scale * 1.01)

    monkeypatch.setattr(composing, "placement", wrong)
    page, lines = made(plate, view())
    report = checked(bytes_of(page, suffix, PLAIN), page, lines, suffix)
    assert {"length", "strokes-missing"} <= failing(report)
    off = {r.kind: r.measured_mm for r in report.pages[0].views[0].readings}
    assert off["width"] == pytest.approx(60.6, abs=1e-3)


def mutated_pdf(data: bytes, change: Callable[[str], str]) -> bytes:
    with pikepdf.open(io.BytesIO(data)) as pdf:
        content = pdf.pages[0].Contents.read_bytes().decode("latin-1")
        changed = change(content)
        assert changed != content
        pdf.pages[0].Contents = pdf.make_stream(changed.encode("latin-1"))
        out = io.BytesIO()
        pdf.save(out)
        return out.getvalue()


def in_view(content: str, change: Callable[[str], str]) -> str:
    begin = content.index("/View <<")
    return content[:begin] + change(content[begin:])


def mutated_dxf(data: bytes, change: Callable[[ezdxf.document.Drawing], None]) -> bytes:
    document = ezdxf.read(io.StringIO(data.decode()))
    change(document)
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


def _shift_small_circle(document: ezdxf.document.Drawing) -> None:
    small = min(document.modelspace().query("CIRCLE"), key=lambda c: c.dxf.radius)
    small.dxf.center = small.dxf.center + ezdxf.math.Vec3(0.02, 0, 0)


def _first_line_of_view(document: ezdxf.document.Drawing) -> ezdxf.entities.DXFEntity:
    (group,) = [g for _, g in document.groups if g.dxf.description == "view 0"]
    return next(entity for entity in group if entity.dxftype() == "LINE")


def _copy_line(document: ezdxf.document.Drawing) -> None:
    document.modelspace().add_entity(_first_line_of_view(document).copy())


def _widen(document: ezdxf.document.Drawing) -> None:
    for entity in document.modelspace():
        if entity.dxf.get("layer") == "visible":
            entity.dxf.lineweight = 18


def _drop(document: ezdxf.document.Drawing) -> None:
    document.modelspace().delete_entity(_first_line_of_view(document))


def _inches(document: ezdxf.document.Drawing) -> None:
    document.header["$INSUNITS"] = 1


DXF_CHANGES = {
    "circle": _shift_small_circle,
    "dropped": _drop,
    "doubled": _copy_line,
    "widths": _widen,
    "unit": _inches,
}
_LINE = re.compile(r"^\S+ \S+ m \S+ \S+ l S\n", re.M)


def _pdf_circle(content: str) -> str:
    """The last circle, the smallest, moved by 0.02 mm."""
    *_, last = re.finditer(r"^\S+ \S+ m\n(?:[-\d. ]+ c\n)+h S", content, re.M)
    return content[: last.start()] + "q 1 0 0 1 0.0567 0 cm " + last[0] + " Q" + content[last.end() :]


PDF_CHANGES: dict[str, Callable[[str], str]] = {
    "circle": lambda content: in_view(content, _pdf_circle),
    "dropped": lambda content: in_view(content, lambda own: _LINE.sub("", own, count=1)),
    "doubled": lambda content: in_view(content, lambda own: _LINE.sub(lambda m: m[0] * 2, own, count=1)),
    "widths": lambda content: in_view(content, lambda own: re.sub(r"1\.4173 w", "0.7087 w", own)),
}
SVG_CHANGES: dict[str, Callable[[str], str]] = {
    "circle": lambda text: re.sub(
        r'(<circle cx=")([\d.]+)("[^>]*r="1\.625")', lambda m: f"{m[1]}{float(m[2]) + 0.02}{m[3]}", text, count=1
    ),
    "dropped": lambda text: re.sub(r'(id="view-0".*?)<path [^>]*/>', r"\1", text, count=1, flags=re.S),
    "doubled": lambda text: re.sub(r'(id="view-0".*?)(<path [^>]*/>)', r"\1\2\2", text, count=1, flags=re.S),
    "widths": lambda text: re.sub(
        r'(id="view-0".*?)stroke-width="[\d.]+"', lambda m: f'{m[1]}stroke-width="0.18"', text, count=1, flags=re.S
    ),
    "unit": lambda text: text.replace('width="420mm"', 'width="420px"').replace('height="297mm"', 'height="297px"'),
}
FAILS = {
    "circle": {"strokes-missing", "strokes-added"},
    "dropped": {"strokes-missing"},
    "doubled": {"strokes-doubled"},
    "widths": {"strokes-width"},
    "unit": {"length"},
}


@pytest.mark.parametrize("what", list(PDF_CHANGES))
def test_a_changed_pdf_fails(plate: Model, what: str) -> None:
    page, lines = made(plate, view())
    data = mutated_pdf(bytes_of(page, ".pdf", PLAIN), PDF_CHANGES[what])
    assert FAILS[what] <= failing(checked(data, page, lines, ".pdf"))


@pytest.mark.parametrize("what", list(DXF_CHANGES))
def test_a_changed_dxf_fails(plate: Model, what: str) -> None:
    page, lines = made(plate, view())
    data = mutated_dxf(bytes_of(page, ".dxf", PLAIN), DXF_CHANGES[what])
    assert FAILS[what] <= failing(checked(data, page, lines, ".dxf"))
    if what == "unit":
        assert "unit" in failing(checked(data, page, lines, ".dxf"))


@pytest.mark.parametrize("what", list(SVG_CHANGES))
def test_a_changed_svg_fails(plate: Model, what: str) -> None:
    page, lines = made(plate, view())
    text = bytes_of(page, ".svg", PLAIN).decode()
    changed = SVG_CHANGES[what](text)
    assert changed != text
    report = checked(changed.encode(), page, lines, ".svg")
    assert FAILS[what] <= failing(report)
    if what == "unit":
        assert "format" in failing(report)


@pytest.mark.parametrize("suffix", FORMATS)
def test_hidden_edges_stand_for_no_outline(plate: Model, suffix: str) -> None:
    """The outline taken away, its place held by dashed strokes alone."""
    page, lines = made(plate, view(name="front", classes=ALL))
    own = page.views[0]
    items = [
        dataclasses.replace(item, tags=dataclasses.replace(item.tags, edge_class=EdgeClass.HIDDEN)) for item in own.artwork
    ]
    hidden = dataclasses.replace(own, artwork=dataclasses.replace(own.artwork, items=tuple(items)))
    data = bytes_of(dataclasses.replace(page, views=(hidden,)), suffix, PLAIN)
    report = checked(data, page, lines, suffix)
    assert "length-missing" in failing(report)


@pytest.mark.parametrize("suffix", FORMATS)
def test_what_overlaps_or_leaves_the_sheet_fails_for_the_cutter_and_warns_elsewhere(plate: Model, suffix: str) -> None:
    spec = view(scale="1:1")
    views = (
        spec,
        spec.model_copy(update={"id": "w", "place": (160.0, 125.0)}),
        spec.model_copy(update={"id": "x", "place": (400.0, 120.0)}),
    )
    sheet = SheetSpec(id="s", name="Plate", format="A3", frame=FrameStyle.NONE, clean=True).with_views(views)
    lines = {own.id: lines_of(plate, own) for own in views}
    page = compose(sheet, lines, SheetContext())
    for recipe, verdict in ((PLAIN, "mend"), (CUTTER, "fails")):
        if suffix == ".pdf":
            report = checked(bytes_of(page, suffix, recipe), page, lines, suffix, recipe)
        else:
            report = write_flat(page, lines, stroke_format(suffix[1:]), recipe)[1]
        verdicts = {c.code: c.verdict for c in with_page_checks(report, [page], lines, recipe).checks}
        assert verdicts["sheet-overlap"] == verdict
        assert verdicts["outside"] == verdict


def test_a_cutter_s_dxf_has_closed_contours_in_order_on_one_layer(plate: Model) -> None:
    page, _ = made(plate, view(scale="1:1"), clean=True)
    document = ezdxf.read(io.StringIO(bytes_of(page, ".dxf", CUTTER).decode()))
    entities = list(document.modelspace())
    assert [e.dxftype() for e in entities] == ["CIRCLE", "CIRCLE", "CIRCLE", "LWPOLYLINE"]
    assert {e.dxf.layer for e in entities} == {"cut"}
    assert entities[-1].closed
    assert not document.audit().errors
    assert not [g for _, g in document.groups if g.dxf.description.startswith("view")]
    text = bytes_of(page, ".svg", CUTTER).decode()
    shapes = re.findall(r"<(circle|path) ", text)
    assert shapes == ["circle", "circle", "circle", "path"]
    assert re.search(r'<path d="[^"]*Z"', text)
    assert 'id="' not in text


def test_mixed_contours_keep_their_arcs(tmp_path: Path) -> None:
    """A slot, lines and half circles, is one polyline with bulges in DXF and one path with arcs in SVG."""
    from skalto.core.artwork import Artwork, Ellipses, Lines, Tags
    from skalto.core.artwork.joining import contour_of, joined
    from skalto.core.geometry.contour import Arc

    tags = Tags(EdgeClass.VISIBLE)
    lines = Lines(tags, np.array([[[0.0, 0], [40, 0]], [[40.0, 10], [0, 10]]]))
    half = np.array([[0.0, 5.0], [40.0, 5.0]])
    arcs = Ellipses(
        tags, half, np.array([[0.0, 5.0], [0.0, -5.0]]), np.array([[-5.0, 0.0], [5.0, 0.0]]), np.zeros(2), np.full(2, np.pi)
    )
    (slot,) = joined(Artwork((lines, arcs)), lambda tags: tags)
    contour = contour_of(slot, 0)  # type: ignore[arg-type]
    assert contour.closed
    sweeps = [abs(own.sweep) for own in contour if isinstance(own, Arc)]
    assert sweeps == pytest.approx([np.pi, np.pi], abs=1e-9)
    assert len(contour.segments) == 4
    assert abs(contour.area) == pytest.approx(400 + np.pi * 25)


def test_what_lies_inside_is_cut_before_what_holds_it_and_near_things_next() -> None:
    from skalto.core.geometry.chaining import cutting_order

    def square(x: float, y: float, size: float) -> np.ndarray:
        corners = np.array([(x, y), (x + size, y), (x + size, y + size), (x, y + size), (x, y)], float)
        a, b = corners[:-1], corners[1:]
        return np.stack((a, a + (b - a) / 3, b - (b - a) / 3, b), axis=1)

    runs = [square(0, 0, 100), square(60, 60, 30), square(65, 65, 10), square(10, 10, 20), square(200, 0, 5), square(110, 0, 5)]
    order = cutting_order(runs, [True] * 6)
    assert order.index(2) < order.index(1) < order.index(0)
    assert order.index(3) < order.index(0)
    assert order[0] == 3
    assert order.index(5) < order.index(4)


def test_the_scale_of_a_sheet_with_a_frame_is_the_view_s(plate: Model) -> None:
    """What was told of a frame's marks is the view's own, at its scale."""
    page, lines = made(plate, view(scale="1:2"))
    data, report = write_flat(page, lines, stroke_format("dxf"), PLAIN)
    (own,) = report.pages[0].views
    assert Fraction(*map(int, own.scale.split(":"))) == Fraction(1, 2)
    assert {r.kind: r.model_mm for r in own.readings}["width"] == pytest.approx(120)
    assert data


@pytest.mark.parametrize("suffix", FORMATS)
def test_strokes_as_short_as_what_two_may_be_apart_are_not_missed(suffix: str) -> None:
    """A public sample from the top at 1:1 has one that is a little longer in one than in the other."""
    (path,) = SAMPLES.rglob("linkrods.step")
    page, lines = made(read_model(Path(path), path.name), view("1:1"))
    assert not failing(checked(bytes_of(page, suffix, PLAIN), page, lines, suffix))


def test_a_long_one_is_missed_beside_short_ones() -> None:
    short = np.array([((0, 0), (0.0025, 0), (0.005, 0))])
    long = np.array([((10, 0), (15, 0), (20, 0))])
    asked = Pieces(np.concatenate((short, long)), np.full(2, 0.5))
    nothing = Pieces(short, np.full(1, 0.5))
    assert len(compare(asked, nothing, 400).missing) == 1
    assert len(compare(nothing, asked, 400).added) == 1
    assert len(compare(asked, joined_pieces([asked, asked.rows(np.array([1]))]), 400).doubled) == 2
