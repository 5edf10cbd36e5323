"""What the head is to do: lengths worked out by hand, order, tabs, lead-ins, one cut for two."""

from __future__ import annotations

import math
from dataclasses import replace

import pytest

from skalto.core.cutting.choices import Codes, CutChoices, Plate, Tabs
from skalto.core.cutting.cut_paths import CutPlan, PlacedPart, cut_plan
from skalto.core.geometry import Similarity
from skalto.core.geometry.contour import Contour, Line
from skalto.core.geometry.profile import Mark, Operation, Profile
from skalto.core.pens import DEFAULT

PLATE = Plate(width=600, height=400)


def _part(profile: Profile, x: float = 10, y: float = 10, id_: str = "a") -> PlacedPart:
    return PlacedPart(id_, profile.placed(Similarity(dx=x, dy=y)))


def _plan(*parts: PlacedPart, **choices: object) -> CutPlan:
    return cut_plan(parts, CutChoices.model_validate(choices), PLATE)


def test_lengths_worked_out_by_hand() -> None:
    washer = Profile(Contour.circle((12, 12), 12), (Contour.circle((12, 12), 6.5),), name="Washer")
    assert _plan(_part(washer)).cut_length == pytest.approx(2 * math.pi * 18.5, abs=1e-9)
    # with a kerf of 0.2 the outer radius grows by 0.1 and the inner shrinks by 0.1: the sum stays
    assert _plan(_part(washer), kerf=0.2).cut_length == pytest.approx(2 * math.pi * 18.5, abs=1e-9)
    plate = Profile(Contour.rectangle((0, 0, 100, 60)), (Contour.circle((20, 30), 10),), name="Plate")
    sharp = _plan(_part(plate), kerf=0.2, corners="sharp")
    assert sharp.cut_length == pytest.approx(2 * (100.2 + 60.2) + 2 * math.pi * 9.9, abs=1e-9)
    rounded = _plan(_part(plate), kerf=0.2, corners="round")
    assert rounded.cut_length == pytest.approx(2 * 160 + 2 * math.pi * 0.1 + 2 * math.pi * 9.9, abs=1e-9)
    assert (sharp.pierces, rounded.pierces) == (2, 2)


def test_at_nominal_it_says_so() -> None:
    plate = Profile(Contour.rectangle((0, 0, 100, 60)), name="Plate")
    made = _plan(_part(plate), kerf=0.2, compensated=False)
    assert made.cut_length == pytest.approx(320)
    assert "at nominal" in made.notes[0]


def test_what_the_kerf_swallows_is_told_by_name() -> None:
    plate = Profile(
        Contour.rectangle((0, 0, 100, 60)), (Contour.circle((20, 30), 0.2), Contour.circle((60, 30), 5)), name="Plate"
    )
    made = _plan(_part(plate), kerf=0.5)
    assert made.notes == ("Plate: a hole of Ø0.4 mm is narrower than the kerf of 0.5 mm, and is not cut.",)
    assert made.pierces == 2


def test_engraving_then_scoring_then_openings_then_outlines() -> None:
    marks = (Mark(Contour((Line((10, 10), (50, 10)),), closed=False), Operation.SCORE),
             Mark(Contour.circle((70, 40), 5), Operation.ENGRAVE))  # fmt: skip
    plate = Profile(Contour.rectangle((0, 0, 100, 60)), (Contour.circle((20, 30), 10),), marks, "Plate")
    made = _plan(_part(plate), _part(plate, 150, 10, "b"))
    order = [(own.operation, own.is_outline) for own in made.paths]
    assert [operation for operation, _ in order[:4]] == [Operation.ENGRAVE] * 2 + [Operation.SCORE] * 2
    assert [outline for operation, outline in order[4:]] == [False, True, False, True]
    assert made.length(Operation.SCORE) == pytest.approx(80)
    # the head begins at the corner: the part that is nearer to it comes first
    right = cut_plan([_part(plate), _part(plate, 150, 10, "b")], CutChoices(start="bottom-right"), PLATE)
    assert next(own.part for own in right.paths if own.operation is Operation.CUT) == "b"


def test_guests_are_cut_before_the_opening_that_they_lie_in() -> None:
    frame = Profile(Contour.rectangle((0, 0, 100, 100)), (Contour.rectangle((10, 10, 90, 90)),), name="Frame")
    guest = Profile(Contour.rectangle((0, 0, 20, 20)), name="Guest")
    made = _plan(_part(frame), _part(guest, 60, 60, "g"), start="bottom-left")
    assert [own.part for own in made.paths] == ["g", "a", "a"]


def test_tabs_leave_their_width_standing() -> None:
    plate = Profile(Contour.rectangle((0, 0, 100, 60)), name="Plate")
    made = _plan(_part(plate), kerf=0.2, tabs=Tabs(count=4, width=0.5))
    assert made.pierces == 4
    assert all(not own.course.closed for own in made.paths)
    # each tab keeps its width beside the beam's half at both ends
    assert made.cut_length == pytest.approx(2 * (100.2 + 60.2) - 4 * 0.7, abs=1e-9)
    large = _plan(_part(plate), tabs=Tabs(count=4, below=1000))
    assert large.paths[0].course.closed
    narrow = _plan(_part(Profile(Contour.rectangle((0, 0, 2, 2)), name="Chip")), tabs=Tabs(count=12, width=0.5))
    assert "have no room" in narrow.notes[0]


def test_lead_ins_come_from_the_waste_and_keep_off_parts() -> None:
    plate = Profile(Contour.rectangle((0, 0, 100, 60)), (Contour.circle((50, 30), 10),), name="Plate")
    made = _plan(_part(plate), kerf=0.2, lead_in=3)
    for own in made.paths:
        start = own.course.start
        assert not own.course.closed
        inside = plate.outline.placed(Similarity(dx=10, dy=10)).where(start).value == "inside"
        # of an opening the waste is in it, of an outline beside the part
        assert inside is not own.is_outline
        assert own.course.segments[0].length == pytest.approx(3)
    hemmed = [_part(plate), _part(plate, 10, 70.4, "b"), _part(plate, 110.4, 10, "c")]
    tight = cut_plan(hemmed, CutChoices(kerf=0.2, lead_in=3), PLATE)
    solid = [own.profile.outline for own in hemmed]
    for own in tight.paths:
        if own.is_outline and not own.course.closed:
            assert all(outline.where(own.course.start).value == "outside" for outline in solid)


def test_one_cut_for_two_parts_on_a_common_line() -> None:
    plate = Profile(Contour.rectangle((0, 0, 100, 60)), name="Plate")
    parts = (_part(plate), _part(plate, 110.2, 10, "b"))
    twice = _plan(*parts, kerf=0.2)
    once = _plan(*parts, kerf=0.2, common_cut=True)
    assert twice.cut_length - once.cut_length == pytest.approx(60.2, abs=1e-6)
    far = (_part(plate), _part(plate, 112, 10, "b"))
    assert _plan(*far, kerf=0.2, common_cut=True).cut_length == pytest.approx(_plan(*far, kerf=0.2).cut_length)


def test_codes_draw_operations_whatever_the_pens_are() -> None:
    codes = Codes()
    pens = codes.pens(DEFAULT)
    assert [rule.width for rule in pens.rules[:3]] == [codes.cut.width, codes.score.width, codes.engrave.width]
    assert pens.rules[3:] == DEFAULT.rules
    assert codes.cut.width == pytest.approx(0.0254)
    assert codes.of(Operation.BEND_UP) == codes.score


@pytest.mark.parametrize("edge", [200.0, 250.0])
def test_a_margin_that_leaves_nothing_is_refused(edge: float) -> None:
    with pytest.raises(ValueError, match="leaves nothing"):
        Plate(width=600, height=400, edge=edge)


def test_a_part_turned_over_is_its_mirror_image() -> None:
    lean = Profile(Contour.polygon([(0, 0), (60, 0), (0, 40)]), name="Wedge")
    made = cut_plan([PlacedPart("a", replace(lean.turned_over(), name="Wedge"))], CutChoices(), PLATE)
    xs = {round(p[0], 6) for own in made.paths for p in (s.start for s in own.course)}
    assert xs == {0.0, -60.0}
