"""Families of views: which way a pulled view looks, where it lies, and what it takes from its parent."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from skalto.core.errors import InputError
from skalto.core.layout import families
from skalto.core.layout.family_layout import family_cells, overall_sizes
from skalto.core.quantities import Scale
from skalto.core.sheets.annotations import Detail, Section
from skalto.core.sheets.content import ProjectionContent, SectionContent
from skalto.core.sheets.sheet import Arrangement, SheetSpec, ViewSpec
from skalto.core.viewpoint import PRINCIPAL, STANDARD, make_viewpoint
from tests.core.drawn import enlarged

FIRST, THIRD = Arrangement.FIRST, Arrangement.THIRD
FRONT = ViewSpec(
    id="f", source="s", name="front", content=ProjectionContent(look=(0, 1, 0), up=(0, 0, 1)), place=(200, 150), anchor=(3, 5)
)
MIDDLE = np.array((3.0, 7.0, 5.0))


def middle(view: ViewSpec) -> np.ndarray:
    return MIDDLE


def sheet(*views: ViewSpec, arrangement: Arrangement = FIRST) -> SheetSpec:
    return SheetSpec(id="s", name="S", views=(FRONT, *views), arrangement=arrangement)


def pulled(dx: float, dy: float, arrangement: Arrangement = FIRST) -> ViewSpec:
    place = (FRONT.place[0] + dx, FRONT.place[1] + dy)
    return families.pull_view(sheet(arrangement=arrangement), FRONT, "p", place, middle)


# ISO 5456-2 (from memory), with the front view in the middle. First angle: the view from above lies below, from below
# above, from the left at the right, from the right at the left. Third angle: each on its own side.
@pytest.mark.parametrize(
    ("name", "first", "third"),
    [("top", (0, -1), (0, 1)), ("bottom", (0, 1), (0, -1)), ("left", (1, 0), (-1, 0)), ("right", (-1, 0), (1, 0))],
)
def test_where_the_standard_puts_the_views(name: str, first: tuple[int, int], third: tuple[int, int]) -> None:
    for arrangement, (dx, dy) in ((FIRST, first), (THIRD, third)):
        view = pulled(80 * dx, 80 * dy, arrangement)
        assert view.name == name
        assert np.allclose(make_viewpoint("", view.look, view.up).axes(), PRINCIPAL[name].axes())


def test_the_rear_view_lies_beyond_the_left_one() -> None:
    left = pulled(80, 0)
    rear = families.pull_view(sheet(left), left, "r", (400, 150), middle)
    assert rear.name == "rear"


@pytest.mark.parametrize(
    ("direction", "first", "third"),
    [((1, 1), "iso below left", "iso"), ((-1, 1), "iso below", "iso left"), ((-1, -1), "iso", "iso below left")],
)
def test_a_diagonal_pull_gives_a_pictorial_view(direction: tuple[int, int], first: str, third: str) -> None:
    for arrangement, name in ((FIRST, first), (THIRD, third)):
        assert pulled(60 * direction[0], 60 * direction[1], arrangement).name == name


def test_a_pull_snaps_to_eight_directions() -> None:
    assert families.direction_of_pull(100, 20) == (1, 0)
    assert families.direction_of_pull(-10, -90) == (0, -1)
    assert families.direction_of_pull(50, -49) == pytest.approx((math.sqrt(0.5), -math.sqrt(0.5)))
    with pytest.raises(InputError, match="Pull the view away"):
        families.direction_of_pull(0, 0)


@given(st.floats(0, 2 * math.pi), st.tuples(*[st.floats(-1, 1)] * 3), st.floats(-50, 50), st.sampled_from([FIRST, THIRD]))
@settings(max_examples=80, deadline=None)
def test_a_model_point_lies_in_line_in_parent_and_pulled_view(
    angle: float, look: tuple[float, float, float], depth: float, arrangement: Arrangement
) -> None:
    """The coordinate across the pull of any model point is the same in both, whatever the direction of the pull."""
    if np.linalg.norm(look) < 0.1:
        return
    axes = make_viewpoint("", look).axes()
    pull = (math.cos(angle), math.sin(angle))
    new_look, new_up = families.pulled_look(axes, pull, arrangement)
    new = make_viewpoint("", new_look, new_up).axes()
    across = np.array((-pull[1], pull[0]))
    point = np.array((depth, 2 * depth - 7, 3.3))
    assert across @ (new[:2] @ point) == pytest.approx(across @ (axes[:2] @ point), abs=1e-9)
    # and it is seen square to the parent
    assert abs(new[2] @ axes[2]) < 1e-9


@pytest.mark.parametrize("tilt", [1e-3, 1e-6, 3e-9])
def test_axes_are_square_however_near_the_look_is_to_the_up(tilt: float) -> None:
    axes = make_viewpoint("", (0.6 * tilt, -0.88 * tilt, 0.7)).axes()
    assert np.abs(axes @ axes.T - np.eye(3)).max() < 1e-13


def test_a_member_is_anchored_at_the_same_point_of_the_model() -> None:
    top = pulled(3, -90)
    assert top.place == (200, 60)
    # the front's anchor is (x, z) = (3, 5), the depth the model's middle: in the view from above that is (x, y)
    assert top.anchor == pytest.approx((3, 7))


def test_moves_take_the_family_along_and_keep_it_in_line() -> None:
    top = pulled(0, -90)
    made = families.moved(sheet(top), {"f": (10, 5)})
    assert [v.place for v in made.views] == [(210, 155), (210, 65)]
    made = families.moved(made, {"p": (33, -7)})
    assert made.view("p").place == (210, 58)
    apart = made.with_views(
        tuple(v.model_copy(update={"overrides": frozenset({"place"})}) if v.id == "p" else v for v in made.views)
    )
    assert families.moved(apart, {"p": (33, -7)}).view("p").place == (243, 51)


def test_members_take_scale_and_components_unless_set_apart() -> None:
    top = pulled(0, -90)
    parent = FRONT.showing(hidden=frozenset({"a/b"})).model_copy(
        update={"scale": Scale(1, 2), "overrides": frozenset({"scale"})}
    )
    made = families.refreshed(sheet(top).with_views((parent, top)), middle)
    assert str(made.view("p").scale) == "1:2"
    assert made.view("p").hidden == {"a/b"}
    own = top.model_copy(update={"scale": Scale(5, 1), "overrides": frozenset({"scale", "components"})})
    made = families.refreshed(sheet(top).with_views((parent, own)), middle)
    assert str(made.view("p").scale) == "5:1"
    assert made.view("p").hidden == frozenset()


def test_a_sheet_scale_is_taken_by_views_without_their_own() -> None:
    made = families.refreshed(sheet(pulled(0, -90)).model_copy(update={"scale": Scale(1, 5)}), middle)
    assert {str(v.scale) for v in made.views} == {"1:5"}


def test_turning_the_arrangement_about_mirrors_places_and_keeps_directions() -> None:
    top, left = pulled(0, -90), pulled(120, 0).model_copy(update={"id": "l"})
    made = families.rearranged(sheet(top, left), THIRD, middle)
    assert made.view("p").look == top.look
    assert made.view("l").look == left.look
    assert made.view("p").place[1] > made.view("f").place[1]
    assert made.view("l").place[0] < made.view("f").place[0]
    assert made.view("p").place[0] == made.view("f").place[0]
    again = families.rearranged(made, FIRST, middle)
    assert [v.place for v in again.views] == [v.place for v in sheet(top, left).views]


@pytest.mark.parametrize("arrangement", [FIRST, THIRD])
def test_a_section_looks_to_the_right_of_its_trace(arrangement: Arrangement) -> None:
    section = Section(letter="A", start=(10, -40), end=(10, 40))
    view = families.section_view(sheet(arrangement=arrangement), FRONT, "a", section, 120, middle)
    # the trace runs up: one looks toward +x, which in first angle is drawn at the right
    assert view.look == (1, 0, 0)
    assert view.up == (0, 0, 1)
    assert isinstance(view.content, SectionContent)
    assert view.content.depth == 10
    assert view.place == ((320, 150) if arrangement is FIRST else (80, 150))
    slanting = Section(letter="B", start=(0, 0), end=(30, 30))
    view = families.section_view(sheet(arrangement=arrangement), FRONT, "b", slanting, 100, middle)
    assert view.look == pytest.approx((math.sqrt(0.5), 0, -math.sqrt(0.5)))
    with pytest.raises(InputError, match="no length"):
        families.section_view(sheet(), FRONT, "c", Section(letter="C", start=(1, 1), end=(1, 1)), 100, middle)


def test_a_detail_follows_its_parent_but_for_the_scale() -> None:
    detail = families.detail_view(sheet(), FRONT, "d", Detail(letter="A", centre=(4, 6), radius=3), "5:1", (300, 50))  # type: ignore[arg-type]
    turned = FRONT.showing(look=(1.0, 0.0, 0.0), hidden=frozenset({"x"}))
    made = families.refreshed(sheet().with_views((turned, detail)), middle)
    assert made.view("d").look == (1, 0, 0)
    assert made.view("d").hidden == {"x"}
    assert str(made.view("d").scale) == "5:1"
    assert made.view("d").anchor == (4, 6)
    assert families.next_letter(made.views) == "B"
    assert families.next_letter([enlarged(FRONT, Detail(letter=c, centre=(0, 0), radius=1)) for c in "ABCDEFGH"]) == "J"


def test_views_asked_for_by_name_are_laid_out_as_a_family() -> None:
    views = [STANDARD[n] for n in ("front", "top", "left", "rear", "iso")]
    cells, parents = family_cells(views, FIRST)
    assert cells == [(0, 0), (0, -1), (1, 0), (2, 0), (1, -1)]
    assert parents == [None, 0, 0, 2, None]
    assert family_cells(views[:3], THIRD)[0] == [(0, 0), (0, 1), (-1, 0)]


def test_overall_sizes_say_each_size_once() -> None:
    rows = overall_sizes([STANDARD[n] for n in ("front", "top", "left", "iso")])
    assert [[d.kind.value for d in row] for row in rows] == [["width", "height"], ["height"], [], []]
