"""Pens: rules, widths, line types, colours, and what a finished file has of them, read by pdfium and as operators."""

from __future__ import annotations

import io
import itertools
from collections.abc import Callable
from fractions import Fraction

import numpy as np
import pikepdf
import pypdfium2 as pdfium
import pytest

from skalto.core.artwork import Artwork, EdgeClass, Ellipses, Lines, Tags
from skalto.core.checks.vectors import read_page
from skalto.core.colour import luminance
from skalto.core.errors import InputError
from skalto.core.lettering import lettered
from skalto.core.output.pdf.document import write_pdf
from skalto.core.output.pdf.metadata import Metadata
from skalto.core.pages.page import Page
from skalto.core.pens import LINE_TYPES, SHIPPED, WIDTHS, Caps, Joins, PenRule, Pens, PenSet, pens_from_json, pens_to_json
from skalto.core.pens.picking import item_at
from skalto.core.pens.shipped import AS_DRAWN

RED, BLUE, YELLOW = (255, 0, 0), (0, 0, 255), (255, 255, 0)


def line(x: float, tags: Tags, y0: float = 10, y1: float = 40) -> Lines:
    return Lines(tags, np.array([[[x, y0], [x, y1]]], float))


def drawn(layer: str = "", colour: tuple[int, int, int] | None = None, width: float | None = None) -> Tags:
    return Tags(EdgeClass.DRAWN, layer=layer, colour=colour, width=width)


def page(*items: object, pens: PenSet = SHIPPED[0]) -> Page:
    return Page("x", Fraction(100), Fraction(60), Artwork(), (), Artwork(tuple(items)), pens=pens)  # type: ignore[arg-type]


def written(*items: object, pens: PenSet) -> bytes:
    return write_pdf([page(*items, pens=pens)], Metadata("x"))


def operators_of(data: bytes) -> list[tuple[list[float | str], str]]:
    """All operators of the first page, by pikepdf's parser."""
    with pikepdf.open(io.BytesIO(data)) as pdf:
        found = []
        for operands, operator in pikepdf.parse_content_stream(pdf.pages[0]):
            plain = [float(v) if not isinstance(v, pikepdf.Object) else str(v) for v in operands]
            found.append((plain, str(operator)))
    return found


def widths_by_engine(data: bytes) -> list[float]:
    """The widths, mm, of all stroked paths in drawing order, as pdfium has them."""
    document = pdfium.PdfDocument(data)
    found = read_page(document, 0).paths.width.tolist()
    document.close()
    return found


def one(**rule: object) -> PenSet:
    return PenSet(id="one", name="One", rules=(PenRule.model_validate(rule),))


@pytest.mark.parametrize(
    ("condition", "holds"),
    [
        ({"layer": "WAL*"}, lambda t: t.layer.startswith("WAL")),
        ({"colour": "#ff0000"}, lambda t: t.colour == RED),
        ({"classes": ("hidden",)}, lambda t: t.edge_class is EdgeClass.HIDDEN),
        ({"component": "plate"}, lambda t: "plate" in t.component),
        ({"component": "*/bolt*"}, lambda t: "/bolt" in t.component),
        ({"wider": 0.3}, lambda t: t.width is not None and t.width >= 0.3),
        ({"wider": 0.2, "narrower": 0.3}, lambda t: t.width is not None and 0.2 <= t.width <= 0.3),
        ({}, lambda t: True),
    ],
)
def test_a_rule_takes_hold_of_what_it_says(condition: dict[str, object], holds: Callable[[Tags], bool]) -> None:
    all_tags = [
        drawn("WALLS", RED, 0.5), drawn("walls-new", BLUE, 0.25), drawn("DOORS", RED, 0.3), drawn("DOORS"),
        Tags(EdgeClass.HIDDEN, component="press/plate"), Tags(EdgeClass.VISIBLE, component="press/bolt (2)"),
    ]  # fmt: skip
    names = {"press/plate": ("press/plate", "plate"), "press/bolt (2)": ("press/bolt (2)", "press/bolt")}
    pens = Pens(one(width=0.7, **condition), naming=lambda component: names.get(component, (component,)))
    expected = [t.layer.casefold().startswith("wal") if "layer" in condition else holds(t) for t in all_tags]
    assert [pens.rule(tags) == 0 for tags in all_tags] == expected
    data = written(*(line(10 * n + 5, tags) for n, tags in enumerate(all_tags)), pens=one(width=0.7, **condition))
    if "component" not in condition:
        # outside a view nothing is known of components
        assert [round(w, 4) == 0.7 for w in widths_by_engine(data)] == expected


def test_the_first_rule_that_fits_draws() -> None:
    pens = PenSet(id="p", name="P", rules=(PenRule(layer="A", width=1.0), PenRule(width=0.18)))
    assert widths_by_engine(written(line(10, drawn("A")), line(20, drawn("B")), pens=pens)) == pytest.approx(
        [1.0, 0.18], abs=2e-5
    )


@pytest.mark.parametrize("width", [*WIDTHS, 0.0254, 3.3])
def test_widths_are_in_the_file_as_asked(width: float) -> None:
    assert widths_by_engine(written(line(10, drawn()), pens=one(width=width))) == pytest.approx([width], abs=2e-5)


def test_the_widths_of_the_standard_grow_by_the_root_of_two() -> None:
    """ISO 128-2 (from memory): ratio √2, rounded to the usual values."""
    for thin, wide in itertools.pairwise(WIDTHS):
        assert wide / thin == pytest.approx(np.sqrt(2), rel=0.04)


@pytest.mark.parametrize("name", [name for name in LINE_TYPES if name != "continuous"])
def test_line_types_are_multiples_of_the_width(name: str) -> None:
    """ISO 128-2 (from memory): gap 3 d, dash 12 d, long dash 24 d, short dash 6 d, dot at most 0.5 d,
    and spaced dashes 18 d apart."""
    with pikepdf.open(io.BytesIO(written(line(10, drawn()), pens=one(width=0.5, line_type=name)))) as pdf:
        stream = pdf.pages[0].Contents.read_bytes().decode()
    dashes = stream.split("[")[1].split("]")[0].split()
    in_widths = [round(float(v) / (0.5 * 72 / 25.4), 2) for v in dashes]
    assert tuple(in_widths) == LINE_TYPES[name]
    assert set(in_widths) <= {0.5, 3, 6, 12, 18, 24}


def test_own_patterns_colours_screening_ends_and_joins() -> None:
    rule = {
        "width": 1.0,
        "line_type": "own",
        "dashes": (5, 2),
        "ink": "#3366cc",
        "tint": 50,
        "ends": "square",
        "joins": "bevel",
    }
    with pikepdf.open(io.BytesIO(written(line(10, drawn(colour=RED)), pens=one(**rule)))) as pdf:
        stream = pdf.pages[0].Contents.read_bytes().decode()
    assert "[14.1732 5.6693] 0 d" in stream
    assert "2 J 2 j" in stream
    # half the ink of #3366cc on white
    red, green, blue = (float(v) for v in stream.split(" RG")[0].splitlines()[-1].split())
    assert (red, green, blue) == pytest.approx((0.6, 0.7, 0.9), abs=0.004)


def test_a_drawing_s_dashes_keep_their_length_at_another_width() -> None:
    tags = Tags(EdgeClass.DRAWN, width=0.5, dashes=(4.0, 2.0))
    for rule in ({"width": 0.25}, {"width": 1.0}, {}):
        with pikepdf.open(io.BytesIO(written(line(10, tags), pens=one(**rule)))) as pdf:
            stream = pdf.pages[0].Contents.read_bytes().decode()
        lengths = [float(v) * 25.4 / 72 for v in stream.split("[")[1].split("]")[0].split()]
        assert lengths == pytest.approx([4.0, 2.0], abs=1e-4)


def test_one_width_for_all_and_widths_with_the_scale() -> None:
    items = (line(10, drawn("A", width=0.5)), line(20, Tags(EdgeClass.HIDDEN)))
    assert widths_by_engine(written(*items, pens=PenSet(id="p", name="P", all_widths=0.35))) == pytest.approx(
        [0.35] * 2, abs=1e-5
    )
    scaled = Pens(PenSet(id="p", name="P", scaled=True), scale=0.5)
    assert scaled.pen(Tags(EdgeClass.VISIBLE)).width == pytest.approx(0.25)
    assert Pens(PenSet(id="p", name="P"), scale=0.5).pen(Tags(EdgeClass.VISIBLE)).width == pytest.approx(0.5)


def pixel(data: bytes, x: float, y: float, dpi: int = 600) -> tuple[int, int, int]:
    """The colour at a place, mm, as pdfium draws the page."""
    document = pdfium.PdfDocument(data)
    picture = document[0].render(scale=dpi / 72).to_pil().convert("RGB")
    document.close()
    found = picture.getpixel((round(x / 25.4 * dpi), picture.height - round(y / 25.4 * dpi)))
    assert isinstance(found, tuple)
    return found[0], found[1], found[2]


def crossing(pens: PenSet) -> bytes:
    across = Lines(drawn("B", YELLOW), np.array([[[5.0, 25.0], [60.0, 25.0]]]))
    return written(line(30, drawn("A", (0, 255, 255))), across, pens=pens)


def test_where_lines_cross_the_later_covers_or_colours_blend() -> None:
    wide = one(width=2.0)
    assert pixel(crossing(wide), 30, 25) == YELLOW
    blend = wide.model_copy(update={"crossing": "blend"})
    # cyan times yellow is green (ISO 32000-1, 11.3.5.2: multiply)
    assert pixel(crossing(blend), 30, 25) == (0, 255, 0)
    assert pixel(crossing(blend), 30, 35) == (0, 255, 255)


def test_an_upper_rule_draws_over_a_lower_one_when_rules_order() -> None:
    rules = (PenRule(layer="A", width=2.0), PenRule(layer="B", width=2.0))
    as_drawn = PenSet(id="p", name="P", rules=rules)
    assert pixel(crossing(as_drawn), 30, 25) == YELLOW
    assert pixel(crossing(as_drawn.model_copy(update={"order": "by rule"})), 30, 25) == (0, 255, 255)


def test_light_colours_are_counted_and_turned_black() -> None:
    items = Artwork((line(10, drawn(colour=YELLOW)), line(20, drawn(colour=(250, 250, 250))), line(30, drawn(colour=BLUE))))
    plain = PenSet(id="p", name="P")
    assert Pens(plain).tally([items]).light == {YELLOW: 1, (250, 250, 250): 1}
    dark = plain.model_copy(update={"darken": True})
    assert Pens(dark).tally([items]).light == {}
    assert [Pens(dark).pen(item.tags).colour for item in items] == [(0, 0, 0), (0, 0, 0), BLUE]
    # WCAG 2.2: relative luminance of yellow 0.9278, of pure blue 0.0722
    assert luminance(YELLOW) == pytest.approx(0.9278, abs=1e-4)
    assert luminance(BLUE) == pytest.approx(0.0722, abs=1e-4)


def test_text_takes_a_rule_s_colour() -> None:
    text = lettered([("Ebba", (20.0, 20.0), 5.0, 0.0, 0.0)])
    stream = operators_of(written(text, pens=one(classes=("text",), ink="#ff0000")))
    assert ([1.0, 0.0, 0.0], "rg") in stream


def test_each_rule_counts_what_it_draws() -> None:
    two = Lines(drawn("A"), np.zeros((2, 2, 2)))
    circle = Ellipses(
        Tags(EdgeClass.VISIBLE),
        np.zeros((1, 2)),
        np.array([[1.0, 0]]),
        np.array([[0, 1.0]]),
        np.zeros(1),
        np.array([2 * np.pi]),
    )
    pens = PenSet(id="p", name="P", rules=(PenRule(layer="A"), PenRule(layer="B")))
    tally = Pens(pens).tally([Artwork((two, circle))])
    assert (tally.rules, tally.rest) == ((2, 0), 1)


def test_a_stroke_is_found_under_a_point() -> None:
    parts = [(Artwork((line(10, drawn("A")), line(20, drawn("B")))), Pens())]
    for x, layer in ((10.5, "A"), (19.2, "B")):
        found = item_at(parts, (x, 25.0), 1.0)
        assert found is not None
        assert found[0].tags.layer == layer
    assert item_at(parts, (15.0, 25.0), 1.0) is None
    assert item_at(parts, (10.0, 45.0), 1.0) is None
    circle = Ellipses(
        drawn("C"), np.zeros((1, 2)), np.array([[5.0, 0]]), np.array([[0, 5.0]]), np.zeros(1), np.array([2 * np.pi])
    )
    assert item_at([(Artwork((circle,)), Pens())], (0.0, 0.0), 1.0) is None
    assert item_at([(Artwork((circle,)), Pens())], (3.54, 3.54), 1.0) is not None


def test_a_pen_set_goes_through_its_file() -> None:
    for pens in SHIPPED:
        assert pens_from_json(pens_to_json(pens)) == pens


@pytest.mark.parametrize(
    ("data", "told"),
    [
        (b"[1", "not JSON"),
        (b"{}", "not a pen set"),
        (b'{"kind":"skalto.pens","version":1,"pens":{"id":"a","name":"A","rules":[{"width":-1}]}}', "width"),
        (b'{"kind":"skalto.pens","version":1,"pens":{"id":"a","name":"A","rules":[{"colour":"red"}]}}', "#rrggbb"),
        (b'{"kind":"skalto.pens","version":1,"pens":{"id":"a","name":"A","rules":[{"line_type":"wavy"}]}}', "not a line type"),
        (b'{"kind":"skalto.pens","version":1,"pens":{"id":"a","name":"A","rules":[{"line_type":"own","dashes":[3]}]}}', "even"),
    ],
)
def test_a_bad_pen_file_says_what_is_wrong(data: bytes, told: str) -> None:
    with pytest.raises(InputError, match=told):
        pens_from_json(data)


def test_the_sets_that_ship() -> None:
    """Wide to narrow 2 : 1 and hidden lines dashed (ISO 128-2, from memory); the cutter's hairline 0.001 in (by practice)."""
    by_id = {pens.id: Pens(pens) for pens in SHIPPED}
    for name, wide, narrow in (("shop-1", 0.5, 0.25), ("shop-2", 0.7, 0.35)):
        assert by_id[name].pen(Tags(EdgeClass.VISIBLE)).width == wide
        for edge_class in (EdgeClass.HIDDEN, EdgeClass.CENTRE, EdgeClass.DIMENSION, EdgeClass.HATCHING, EdgeClass.SMOOTH):
            assert by_id[name].pen(Tags(edge_class)).width == narrow
        assert by_id[name].pen(Tags(EdgeClass.HIDDEN)).dashes == LINE_TYPES["dashed"]
    for edge_class in EdgeClass:
        pen = by_id["hairline"].pen(Tags(edge_class, colour=RED))
        assert (pen.width, pen.colour, pen.dashes) == (0.0254, (0, 0, 0), ())
        assert (pen.caps, pen.joins) == (Caps.FLAT, Joins.MITRE)
        assert by_id["single"].pen(Tags(edge_class)).width == 0.35


def test_every_edge_class_has_a_pen_and_a_name_of_its_own() -> None:
    assert set(AS_DRAWN) == set(EdgeClass)
    assert len({own.label for own in EdgeClass}) == len(EdgeClass)
    # lines to bend up and down along are told apart in black too
    assert AS_DRAWN[EdgeClass.BEND_UP].dashes != AS_DRAWN[EdgeClass.BEND_DOWN].dashes


@pytest.mark.parametrize("edge", [EdgeClass.CUT, EdgeClass.SCORE, EdgeClass.BEND_LIMIT])
def test_a_rule_finds_strokes_of_the_classes_of_cutting_and_bending(edge: EdgeClass) -> None:
    rules = (PenRule(name="Own", classes=(edge,), width=0.7),)
    pens = Pens(PenSet(id="own", name="Own", rules=rules))
    assert pens.pen(Tags(edge)).width == 0.7
    assert pens.pen(Tags(EdgeClass.VISIBLE)).width == 0.5


@pytest.mark.parametrize("pens", SHIPPED, ids=lambda own: own.id)
@pytest.mark.parametrize("edge", list(EdgeClass))
def test_every_class_has_a_rule_in_every_set_that_ships(pens: PenSet, edge: EdgeClass) -> None:
    assert Pens(pens).rule(Tags(edge)) is not None


@pytest.mark.parametrize("edge", [EdgeClass.TABLE, EdgeClass.TEXT, EdgeClass.BEND_UP, EdgeClass.BEND_DOWN, EdgeClass.SCORE])
def test_what_is_as_it_is_keeps_its_pen(edge: EdgeClass) -> None:
    assert Pens(SHIPPED[0]).pen(Tags(edge)) == AS_DRAWN[edge]
