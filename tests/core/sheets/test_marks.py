"""What is drawn on a view by rule: centre marks, axes, planes and circles with their letters; tables of holes and parts."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import pytest

from skalto.core import lettering
from skalto.core.annotation.dimension_style import draw
from skalto.core.annotation.dimension_values import Frame, measure
from skalto.core.annotation.edge_references import SourceFacts
from skalto.core.annotation.parts_table import hole_table, holes, parts_list
from skalto.core.annotation.pencil import Pencil
from skalto.core.annotation.view_marks import (
    CENTRE_REACH,
    axes_of_cylinders,
    caption,
    centre_marks,
    cutting_plane,
    detail_circle,
)
from skalto.core.artwork import Artwork, EdgeClass, Ellipses, Fills, Lines, Tags, Text
from skalto.core.geometry import TAU, Similarity
from skalto.core.pages.composition import compose
from skalto.core.pages.page import SheetContext
from skalto.core.pages.page_annotations import annotate, around
from skalto.core.pages.placed_views import frame_of
from skalto.core.sheets.annotations import Detail, Dimension, DimensionKind, HoleTable, PartsList, Section
from skalto.core.sheets.content import ProjectionContent
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.models.parts import Item, PartFacts, items
from skalto.core.viewpoint import STANDARD
from skalto.demo.solids import block, cut, cylinder, moved
from tests.conftest import plate_with_holes
from tests.core.drawn import as_section, enlarged
from tests.core.modelled import lines_of, modelled

FRONT = ViewSpec(id="v", source="s", name="front", content=ProjectionContent(look=(0, 1, 0), up=(0, 0, 1)))


def circles(*rows: tuple[float, float, float], sweep: float = TAU, edge_class: EdgeClass = EdgeClass.VISIBLE) -> Artwork:
    """Circles or arcs (x, y, radius)."""
    centre, r = np.array([row[:2] for row in rows], float), np.array([row[2] for row in rows], float)
    across = np.stack((r, 0 * r), axis=1)
    return Artwork((Ellipses(Tags(edge_class), centre, across, across[:, ::-1], 0 * r, 0 * r + sweep),))


def strokes(pencil: Pencil, edge_class: EdgeClass | None = None) -> np.ndarray:
    found = [i.points for i in pencil.artwork() if isinstance(i, Lines) and edge_class in (None, i.tags.edge_class)]
    return np.concatenate(found) if found else np.empty((0, 2, 2))


def texts(artwork: Artwork) -> list[str]:
    return [text for item in artwork if isinstance(item, Text) for text in item.texts]


def test_a_centre_mark_is_a_cross_that_reaches_over_its_circle() -> None:
    pencil = Pencil()
    centre_marks(pencil, circles((30, 20, 10)), 0.0)
    reach = 10 + CENTRE_REACH
    assert strokes(pencil, EdgeClass.CENTRE).tolist() == [
        [[30 - reach, 20], [30 + reach, 20]], [[30, 20 - reach], [30, 20 + reach]],
    ]  # fmt: skip


def test_marks_turn_with_the_view_and_small_ones_are_drawn_through() -> None:
    pencil = Pencil()
    centre_marks(pencil, circles((0, 0, 2)), math.radians(30))
    found = strokes(pencil, EdgeClass.DIMENSION)
    assert len(found) == 2
    assert math.degrees(math.atan2(*(found[0, 1] - found[0, 0])[::-1])) == pytest.approx(30)
    assert not len(strokes(pencil, EdgeClass.CENTRE))


@pytest.mark.parametrize(
    "artwork",
    [
        circles((0, 0, 10), sweep=math.pi / 2),
        circles((0, 0, 10), edge_class=EdgeClass.HIDDEN),
        circles((0, 0, 0.5)),
    ],
    ids=["a fillet", "hidden", "too small to mark"],
)
def test_what_gets_no_mark(artwork: Artwork) -> None:
    pencil = Pencil()
    centre_marks(pencil, artwork, 0.0)
    assert not len(strokes(pencil))


def test_concentric_circles_have_one_mark_over_the_largest() -> None:
    pencil = Pencil()
    centre_marks(pencil, circles((5, 5, 4), (5, 5, 9)), 0.0)
    assert np.ptp(strokes(pencil)[0, :, 0]) == pytest.approx(2 * (9 + CENTRE_REACH))


def test_a_detail_s_marks_end_at_its_circle() -> None:
    pencil = Pencil()
    centre_marks(pencil, circles((0, 8, 5), (0, 30, 5)), 0.0, (np.zeros(2), 10.0))
    found = strokes(pencil)
    # the upright line of the first ends at the circle; the second lies outside
    assert len(found) == 2
    assert found[1].tolist() == [[0, pytest.approx(8 - 7.5)], [0, 10]]
    assert np.hypot(*found[0].T).max() <= 10 + 1e-9


def test_holes_seen_from_aside_have_their_axes(tmp_path: Path) -> None:
    _, facts = modelled(plate_with_holes(), tmp_path)
    pencil = Pencil()
    axes_of_cylinders(pencil, Frame(STANDARD["front"].axes(), Similarity()), facts, list(facts.leaves))
    found = sorted(strokes(pencil, EdgeClass.CENTRE).tolist())
    low, high = -CENTRE_REACH, 10 + CENTRE_REACH
    assert found == [pytest.approx(np.array(((x, low), (x, high)))) for x in (-30, 25, 40)]
    # from above they are circles
    pencil = Pencil()
    axes_of_cylinders(pencil, Frame(STANDARD["top"].axes(), Similarity()), facts, list(facts.leaves))
    assert not len(strokes(pencil))


def test_a_cutting_plane_has_wide_ends_two_letters_and_arrows_that_look_along() -> None:
    section = as_section(FRONT, Section(letter="B", start=(0, -30), end=(0, 30)))
    pencil = Pencil()
    cutting_plane(pencil, section, Frame(STANDARD["front"].axes(), Similarity(1, 100, 100)))
    artwork = pencil.artwork()
    assert texts(artwork) == ["B", "B"]
    ends = strokes(pencil, EdgeClass.CUTTING_END)
    assert sorted(ends[:, :, 1].ravel().tolist()) == pytest.approx([64, 70, 130, 136])
    (trace,) = strokes(pencil, EdgeClass.CUTTING)
    assert sorted(trace[:, 1].tolist()) == pytest.approx([70, 130])
    # drawn upward, it looks to the right: the arrowheads' tips lie on the trace, their bases to the left
    (arrows,) = (i.points for i in artwork if isinstance(i, Fills))
    assert arrows[:, 0, 0].tolist() == pytest.approx([100, 100])
    assert (arrows[:, 1:, 0] < 100).all()


def test_a_detail_has_its_circle_on_the_parent_and_its_letter_beside() -> None:
    detail = enlarged(FRONT, Detail(letter="C", centre=(10, 5), radius=8))
    pencil = Pencil()
    detail_circle(pencil, detail, Frame(STANDARD["front"].axes(), Similarity(0.5, 100, 100)))
    artwork = pencil.artwork()
    (ring,) = (i for i in artwork if isinstance(i, Ellipses))
    assert ring.centre.tolist() == [[105, 102.5]]
    assert ring.radii()[0, 0] == 4
    assert texts(artwork) == ["C"]


@pytest.mark.parametrize(
    ("fields", "expected"),
    [
        ({}, []),
        ({"scale": "1:2"}, ["Scale 1:2"]),
        ({"scale": "5:1", "content": enlarged(FRONT, Detail(letter="D", centre=(0, 0), radius=3)).content}, ["D", "Scale 5:1"]),
        ({"content": as_section(FRONT, Section(letter="A", start=(0, 0), end=(0, 1))).content}, ["A–A"]),
    ],
)
def test_captions(fields: dict[str, object], expected: list[str]) -> None:
    pencil = Pencil()
    caption(pencil, FRONT.model_copy(update=fields), (50, 60, 150, 120))
    assert texts(pencil.artwork()) == expected


def test_extension_lines_begin_at_the_near_end_of_the_edge(tmp_path: Path) -> None:
    """ISO 129-1, from memory: they begin at the outline of what is measured, a little away from it."""
    model, facts = modelled(cut(block(120, 80, 10), moved(cylinder(12, 40, (0, 0, -10)), (0, 15, 0))), tmp_path)
    view = FRONT.showing(look=(0, 0, -1), up=(0, 1, 0)).model_copy(update={"place": (100, 100)})
    lines = lines_of(model, view)
    frame = frame_of(view, lines)
    round_ = moved(cylinder(40, 10), (0, 0, 0))
    ring_model, ring = modelled(round_, tmp_path, "disc.step")
    disc = frame_of(view, lines_of(ring_model, view))
    for own_frame, own_facts, starts in ((frame, facts, 40.0), (disc, ring, 100.0)):
        pencil = Pencil()
        dimension = Dimension(id="h", kind=DimensionKind.HEIGHT, offset=12)
        measured = measure(dimension, own_frame, own_facts)
        assert measured is not None
        draw(pencil, dimension, measured)
        level = [line for line in strokes(pencil) if abs(line[0, 1] - line[1, 1]) < 1e-9]
        # of a plate from its corner, of a disc from its highest point: 1 mm away, toward the line at the left
        assert {round(float(line[:, 0].max()), 3) for line in level} == {starts - 1}


def table_of(facts: SourceFacts, frame: Frame, wanted: HoleTable) -> list[tuple[str, float, float, float]]:
    seen = {(-30.0, 0.0, 15.0), (25.0, 15.0, 6.0), (40.0, -20.0, 3.25)}
    rows = holes(wanted, frame, facts, list(facts.leaves), seen)
    return [(h.tag, round(h.x, 6), round(h.y, 6), round(h.diameter, 6)) for h in rows]


def test_a_hole_table_counts_from_its_origin(tmp_path: Path) -> None:
    _, facts = modelled(plate_with_holes(), tmp_path)
    frame = Frame(STANDARD["top"].axes(), Similarity(), (-60, -40, 60, 40))
    assert table_of(facts, frame, HoleTable()) == [("A1", 100, 20, 6.5), ("B1", 85, 55, 12), ("C1", 30, 40, 30)]
    # from the middle of the largest hole
    (path,) = facts.leaves
    own = facts.of(path)
    assert own is not None
    n = int(np.argmax(own.circles[:, 6]))
    origin = {"component": path, "edge": int(own.circle_edges[n]), "kind": "circle", "geometry": own.circles[n, :7].tolist()}
    found = table_of(facts, frame, HoleTable.model_validate({"origin": origin}))
    assert found == [("A1", 70, -20, 6.5), ("B1", 55, 15, 12), ("C1", 0, 0, 30)]
    # a hole that the view does not draw is not in its table
    assert holes(HoleTable(), frame, facts, [path], set()) == []


def test_a_hole_table_is_drawn_with_tags_beside_the_holes(tmp_path: Path) -> None:
    _, facts = modelled(plate_with_holes(), tmp_path)
    frame = Frame(STANDARD["top"].axes(), Similarity(1, 100, 100), (-60, -40, 60, 40))
    rows = holes(HoleTable(), frame, facts, list(facts.leaves), {(-30.0, 0.0, 15.0)})
    pencil = Pencil()
    box = hole_table(pencil, rows, frame, (200, 180), (-60, -40))
    assert box == (200, 180 - 12, 268, 180)
    assert texts(pencil.artwork()) == ["Hole", "X", "Y", "Ø", "A1", "30", "40", "30", "A1"]


def item(number: int, name: str = "Tie rod", mass: float | None = 617.0) -> Item:
    return Item(
        item=number, part=name, name=name, number=f"EB-{100 + number}", material="Steel C45", density=7.85, volume=1.0,
        mass=mass, bought=False, fastener=False, shaft=False, colour="#000000", components=("a", "b"),
    )  # fmt: skip


def test_a_parts_list_grows_upward_from_its_heading_as_wide_as_a_title_block() -> None:
    """ISO 7573, from memory: the heading lies next to the title block, items are entered from there."""
    pencil = Pencil()
    box = parts_list(pencil, PartsList(view="v"), [item(1), item(2, "Handle", None)], (410, 60))
    assert box == (230, 60, 410, 78)
    found = {}  # type: ignore[var-annotated]
    for run in pencil.artwork():
        if isinstance(run, Text):
            for text, (x, y) in zip(run.texts, run.start, strict=True):
                found.setdefault(text, (float(x), float(y)))
    assert found["Item"][1] < found["Tie rod"][1] < found["Handle"][1]
    assert found["Item"][0] == found["1"][0] == 231
    assert "617 g" in found


def test_what_is_too_long_for_its_column_is_cut_with_a_sign() -> None:
    pencil = Pencil()
    long = "Bearing block of the upper roller, drive side, with oil hole"
    parts_list(pencil, PartsList(view="v", columns=("item", "name")), [item(1, long)], (410, 60))
    (shown,) = [text for text in texts(pencil.artwork()) if text.endswith("…")]
    assert long.startswith(shown[:-1])
    assert lettering.length(shown, 2.5) <= 58 - 2


def test_a_sheet_s_list_and_balloons_are_in_step(tmp_path: Path) -> None:
    parts = {"Base": block(60, 60, 8), "Post": moved(cylinder(20, 40), (0, 0, 8)), "Peg": moved(cylinder(6, 12), (22, 22, 8))}
    parts["Peg 2"] = moved(cylinder(6, 12), (-22, 22, 8))
    model, facts = modelled(parts, tmp_path)
    look = STANDARD["iso"]
    view = ViewSpec(id="v", source="s", name="iso", content=ProjectionContent(look=look.look, up=look.up), place=(150, 150))
    sheet = SheetSpec(id="t", name="Stand", format="A3", views=(view,), parts_list=PartsList(view="v"))
    context = SheetContext({"s": facts})

    def written(own: SheetSpec) -> list[str]:
        lines = {v.id: lines_of(model, v) for v in own.views}
        return texts(annotate(compose(own, lines), own, lines, context).frame)

    found = written(sheet)
    # both pegs are one item, twice; each item has its row and its balloon
    assert found.count("2") >= 2
    assert [found.count(n) for n in ("Base", "Post", "Peg", "Peg 2")] == [1, 1, 1, 0]
    without = sheet.model_copy(update={"views": (view.showing(hidden=frozenset({"Assembly/Post"})),)})
    assert "Post" not in written(without)[written(without).index("Item") :]
    assert written(sheet.model_copy(update={"clean": True})) == []
    # by marks: what has one shows it in the list and in its balloon, what has none its number
    by_marks = PartsList(view="v", columns=("item", "mark", "name"), refer="mark")
    marked = SheetContext({"s": facts}, parts={"Base": PartFacts(mark="S001"), "Peg": PartFacts(mark="P014")})
    own = sheet.model_copy(update={"parts_list": by_marks})
    lines = {"v": lines_of(model, view)}
    plain = own.model_copy(update={"parts_list": by_marks.model_copy(update={"refer": "item"})})
    by_mark, by_item = (texts(annotate(compose(s, lines), s, lines, marked).frame) for s in (own, plain))
    assert [by_mark.count(n) for n in ("S001", "P014", "Mark")] == [2, 2, 1]
    # of the three balloons the post's alone keeps its number
    assert [by_item.count(n) - by_mark.count(n) for n in ("1", "2", "3")].count(1) == 2


def test_a_box_with_its_figures() -> None:
    assert around((0, 0, 10, 10), []) == (0, 0, 10, 10)


def test_an_item_that_the_view_does_not_show_is_told(tmp_path: Path) -> None:
    parts = {"Cover": block(60, 60, 30), "Core": moved(block(20, 20, 10), (0, 0, 5)), "Stud": moved(cylinder(8, 5), (0, 0, 30))}
    model, facts = modelled(parts, tmp_path)
    view = FRONT.model_copy(update={"place": (150.0, 150.0)})
    sheet = SheetSpec(id="t", name="Box", format="A3", views=(view,), parts_list=PartsList(view="v"))
    lines = {"v": lines_of(model, view)}
    found = [
        t
        for t in annotate(compose(sheet, lines), sheet, lines, SheetContext({"s": facts})).notices
        if t.code == "balloon-missing"
    ]
    number = next(i.item for i in items(facts.tree, {}, list(facts.leaves.values())) if i.name == "Core")
    assert [t.message.split(":")[0] for t in found] == [f"Item {number} of the parts list has no balloon"]
