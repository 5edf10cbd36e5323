"""Flat patterns against closed forms, the kernel's volumes and shapely's areas."""

from __future__ import annotations

import math
from typing import Any

import pytest
import shapely
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from OCP.BRepBuilderAPI import BRepBuilderAPI_NurbsConvert

from skalto.core.errors import InputError
from skalto.core.sheet_metal.allowances import BendRule, BendWay
from skalto.core.sheet_metal.choices import UnfoldChoices
from skalto.core.sheet_metal.part_edges import edges_of_part
from skalto.core.sheet_metal.pattern import FlatPattern, NoSheet, SheetKind
from skalto.core.sheet_metal.unfolding import unfolded
from skalto.demo.folded import Step
from skalto.demo.solids import cut
from tests.core.sheet_metal.shapes import Flat, Turn, box, developed, folded, mirrored, rod, shifted, tray, turned

K = 0.44
ANGLE: list[Step] = [Flat(50), Turn(90, 2), Flat(30)]
SECTIONS: dict[str, list[Step]] = {
    "angle": ANGLE,
    "channel": [Flat(30), Turn(90, 2), Flat(50), Turn(90, 2), Flat(30)],
    "zed": [Flat(30), Turn(90, 2), Flat(50), Turn(-90, 3), Flat(30)],
    "hat": [Flat(20), Turn(-90, 2), Flat(40), Turn(90, 2), Flat(60), Turn(90, 2), Flat(40), Turn(-90, 2), Flat(20)],
    "shallow": [Flat(40), Turn(30, 2), Flat(50)],
    "sharp": [Flat(40), Turn(135, 3), Flat(30)],
    "open hem": [Flat(60), Turn(180, 1), Flat(12)],
    "half pipe": [Turn(180, 30)],
    "rolled": [Flat(20), Turn(120, 150), Flat(20)],
    "spiral": [Flat(20), Turn(90, 10), Turn(90, 12), Turn(90, 30)],
    "curl": [Flat(60), Turn(300, 4)],
    "no radius": [Flat(60), Turn(90, 0), Flat(40)],
    "no radius, both ways": [Flat(60), Turn(90, 0), Flat(40), Turn(-90, 0), Flat(30)],
}


def _sizes(made: FlatPattern) -> tuple[float, float]:
    one, other = made.box
    return max(one, other), min(one, other)


def _held(made: FlatPattern, thickness: float) -> None:
    """What every pattern keeps."""
    assert made.refolded <= 2e-3
    assert made.thickness == pytest.approx(thickness, abs=1e-9)
    assert made.profile.faults() == ()
    assert made.profile.polygon(1e-4).area == pytest.approx(made.area, rel=1e-6)


@pytest.mark.parametrize("name", SECTIONS)
def test_a_folded_section_is_as_long_as_its_flats_and_allowances(name: str) -> None:
    """Twelve shapes and one: α·(r + K·t) for each bend (geometry), within a micrometre."""
    steps = SECTIONS[name]
    made = unfolded(folded(steps, 2, 100))
    length = developed(steps, 2, K)
    assert _sizes(made) == pytest.approx((max(length, 100), min(length, 100)), abs=1e-6)
    assert made.area == pytest.approx(length * 100, rel=1e-9)
    _held(made, 2)
    turns = sorted((abs(step.angle), step.radius) for step in steps if isinstance(step, Turn))
    assert sorted((round(b.angle, 6), round(b.radius, 6)) for b in made.bends) == turns
    assert all(b.length == pytest.approx(100) for b in made.bends)


@settings(max_examples=40, deadline=None)
@given(
    thickness=st.floats(0.5, 6),
    width=st.floats(5, 300),
    flats=st.lists(st.floats(8, 80), min_size=4, max_size=4),
    turns=st.lists(st.tuples(st.floats(5, 120), st.floats(0.3, 12), st.booleans()), min_size=1, max_size=3),
    way=st.tuples(st.floats(-1, 1), st.floats(-1, 1), st.floats(0.1, 1)),
    by=st.floats(0, 360),
)
def test_any_section_unfolds_to_its_closed_form(
    thickness: float, width: float, flats: list[float], turns: list[tuple[float, float, bool]], way: Any, by: float
) -> None:
    # a staircase: bends go to and fro, so that it never meets itself
    steps: list[Step] = [Flat(flats[0] + 6 * thickness)]
    for n, (angle, radius, first) in enumerate(turns):
        steps += [Turn(angle if first == (n % 2 == 0) else -angle, radius), Flat(flats[n + 1] + 6 * thickness)]
    if sum(step.angle for step in steps if isinstance(step, Turn)) > 170:
        steps = steps[:3]
    # a strip narrower than it is thick is a plate on its side
    assume(width > 1.2 * thickness)
    assume(not _meets_itself(steps, thickness))
    shape = shifted(turned(folded(steps, thickness, width), way, by), (3.1, -40.7, 1000.3))
    made = unfolded(shape)
    length = developed(steps, thickness, K)
    assert sorted(made.box) == pytest.approx(sorted((length, width)), abs=1e-3)
    assert made.area == pytest.approx(length * width, rel=1e-8)
    assert made.area_at_half * thickness == pytest.approx(made.volume, rel=1e-7)
    assert made.refolded < 1e-5


def _meets_itself(steps: list[Step], thickness: float) -> bool:
    x = y = heading = 0.0
    points = [(x, y)]
    for step in steps:
        if isinstance(step, Flat):
            x, y = x + math.cos(heading) * step.length, y + math.sin(heading) * step.length
            points.append((x, y))
            continue
        for _ in range(20):
            heading += math.radians(step.angle) / 20
            size = math.radians(abs(step.angle)) / 20 * (step.radius + thickness / 2)
            x, y = x + math.cos(heading) * size, y + math.sin(heading) * size
            points.append((x, y))
    # twice as wide as the sheet, with its middle at most half of that off
    area = shapely.LineString(points).buffer(2 * thickness)
    return len(area.interiors) > 0


def test_a_tray_unfolds_to_a_cross() -> None:
    made = unfolded(tray(100, 60, 20, 2, 2, 0.5))
    reach = 2 * (math.pi / 2 * (2 + K * 2) + 20)
    assert _sizes(made) == pytest.approx((100 + reach, 60 + reach), abs=1e-9)
    assert [b.direction for b in made.bends] == ["up"] * 4
    assert sorted(round(b.length, 6) for b in made.bends) == [59, 59, 99, 99]
    assert made.kind is SheetKind.BENT
    assert made.warnings == ()
    _held(made, 2)


def test_it_does_not_matter_how_the_solid_lies_is_mirrored_or_written() -> None:
    shape = cut(tray(100, 60, 20, 2, 2, 0.5), rod((30, -5, 20), (0, 1, 0), 6, 20))
    made = unfolded(shape)
    for other in (
        mirrored(shape, (3, 4, 5), (1, 2, 3)), turned(shape, (1, 1, 3), 77), BRepBuilderAPI_NurbsConvert(shape, True).Shape(),
    ):  # fmt: skip
        again = unfolded(other)
        assert _sizes(again) == pytest.approx(_sizes(made), abs=1e-6)
        assert again.area == pytest.approx(made.area, rel=1e-9)
        assert [d for _, _, d in again.holes] == pytest.approx([6])
        _held(again, 2)


def test_side_b_is_the_mirror_image_and_its_bends_go_down() -> None:
    shape = cut(folded(ANGLE, 2, 100), rod((20, -5, 30), (0, 1, 0), 6, 20))
    a, b = unfolded(shape), unfolded(shape, UnfoldChoices(side="b"))
    assert (a.bends[0].direction, b.bends[0].direction) == ("up", "down")
    assert _sizes(a) == pytest.approx(_sizes(b))
    (xa, ya, _), (xb, yb, _) = a.holes[0], b.holes[0]
    width, height = a.box
    beside = {(round(xb, 6), round(yb, 6)), (round(width - xb, 6), round(height - yb, 6))}
    assert (round(width - xa, 6), round(ya, 6)) in beside


def test_a_hole_stays_round_and_one_through_a_bend_is_drawn_out() -> None:
    shape = cut(folded(ANGLE, 2, 100), rod((20, -5, 50), (0, 1, 0), 10, 20), rod((50, 4, 20), (1, -1, 0), 2, 9))
    made = unfolded(shape)
    assert [hole[2] for hole in made.holes] == pytest.approx([10])
    assert len(made.openings) == 2
    drawn = next(own for own in made.openings if own.as_circle is None)
    # on side A the bend's inner radius is 2, and its neutral one 2.88
    x0, y0, x1, y1 = drawn.box
    assert sorted((x1 - x0, y1 - y0)) == pytest.approx((2, 2 * math.asin(1 / 2) * (2 + K * 2)), abs=1e-3)
    assert len(made.bends) == 1
    assert any("lies on bend 1" in line for line in made.warnings)
    _held(made, 2)


def test_a_notch_across_a_bend_shortens_it() -> None:
    made = unfolded(cut(folded(ANGLE, 2, 100), box((30, -5, 90), (70, 50, 120))))
    assert [b.length for b in made.bends] == pytest.approx([90])
    assert len(made.outline.segments) == 8 - 2
    _held(made, 2)


def test_a_slot_across_a_bend_leaves_one_bend_in_two_stretches() -> None:
    made = unfolded(cut(folded(ANGLE, 2, 100), box((40, -5, 40), (80, 20, 60))))
    assert len(made.bends) == 1
    pieces = made.bend_pieces(made.bends[0])
    assert sorted(math.dist(*piece) for piece in pieces) == pytest.approx([40, 40], abs=2e-3)


def test_a_closed_section_is_slit_where_one_says() -> None:
    tube = cut(_round_box(44, 200, 4), _round_box(40, 202, 2, -1))
    with pytest.raises(NoSheet, match="closes on itself") as told:
        unfolded(tube)
    assert told.value.kind is SheetKind.PROFILE
    made = unfolded(tube, UnfoldChoices(slit=(22, -18, 100)))
    assert _sizes(made) == pytest.approx((200, 4 * 36 + 4 * math.pi / 2 * (2 + K * 2)), abs=1e-6)
    _held(made, 2)


def test_the_edges_along_which_it_may_be_slit_all_open_it() -> None:
    tube = cut(_round_box(44, 200, 4), _round_box(40, 202, 2, -1))
    edges = edges_of_part(tube)
    slits = [own.points.mean(axis=0) for own in edges if own.slit]
    # two limits of each bend, on both sides of the sheet
    assert (len(edges), len(slits)) == (48, 16)
    for at in slits:
        made = unfolded(tube, UnfoldChoices(slit=tuple(at.tolist())))
        assert _sizes(made) == pytest.approx((200, 4 * 36 + 4 * math.pi / 2 * (2 + K * 2)), abs=1e-6)


def test_what_opens_already_is_slit_nowhere() -> None:
    assert not any(own.slit for own in edges_of_part(folded(ANGLE, 2, 100)))
    assert len(edges_of_part(box((0, 0, 0), (1, 1, 1)))) == 12


def _round_box(size: float, length: float, radius: float, at: float = 0) -> Any:
    from skalto.demo.solids import block, moved

    return moved(block(size, size, length, radius), (0, 0, at))


def test_rules_are_one_for_all_bends_or_typed_for_one() -> None:
    shape = folded([Flat(30), Turn(90, 2), Flat(50), Turn(90, 2), Flat(30)], 2, 10)
    plain = BendRule(way=BendWay.DEDUCTION, value=3.2)
    made = unfolded(shape, UnfoldChoices(rule=plain))
    # outer lengths 34, 58 and 34
    assert max(made.box) == pytest.approx(34 + 58 + 34 - 2 * 3.2)
    assert made.rule == "Deduction as typed: 3.2"
    assert "DIN 6935" in unfolded(shape, UnfoldChoices(rule=BendRule(way=BendWay.DIN_6935))).rule
    made = unfolded(shape, UnfoldChoices(rule=plain, typed={2: BendRule(way=BendWay.ALLOWANCE, value=5.0)}))
    assert max(made.box) == pytest.approx(30 + 50 + 30 + (8 - 3.2) + 5.0)
    assert [b.typed for b in made.bends] == [False, True]
    with pytest.raises(InputError, match="no deduction"):
        unfolded(folded(SECTIONS["open hem"], 2, 10), UnfoldChoices(rule=plain))


def test_a_base_and_a_turn_are_chosen() -> None:
    shape = folded(ANGLE, 2, 100)
    made = unfolded(shape)
    other = unfolded(shape, UnfoldChoices(base=made.bends[0].faces[0]))
    assert _sizes(other) == pytest.approx(_sizes(made))
    quarter = unfolded(shape, UnfoldChoices(turn=90))
    assert quarter.box == pytest.approx(made.box[::-1])
    walls = next(n for n in range(20) if n not in made.bends[0].faces and n != made.base and _is_wall(shape, n))
    with pytest.raises(InputError, match="two sides"):
        unfolded(shape, UnfoldChoices(base=walls))


def _is_wall(shape: Any, number: int) -> bool:
    from skalto.core.sheet_metal.faces import SolidFaces

    return SolidFaces(shape).faces[number].area < 2 * 100 + 1


def test_a_bend_keeps_its_number_whichever_face_stays() -> None:
    shape = folded([Flat(30), Turn(90, 2), Flat(50), Turn(90, 3), Flat(40), Turn(90, 4), Flat(30)], 2, 60)
    made = unfolded(shape)
    radii = [b.radius for b in made.bends]
    for face, _ in made.bases:
        other = unfolded(shape, UnfoldChoices(base=face))
        assert [b.radius for b in other.bends] == pytest.approx(radii)
    assert [b.radius for b in unfolded(shape, UnfoldChoices(side="b")).bends] == pytest.approx(radii)


def test_bends_are_measured_from_the_datum_edge() -> None:
    made = unfolded(folded(ANGLE, 2, 100))
    bend = made.bends[0]
    allowance = math.pi / 2 * (2 + K * 2)
    assert bend.distance in (pytest.approx(50 + allowance / 2), pytest.approx(30 + allowance / 2))
    assert bend.datum == "lower"
    assert bend.note == "UP 90° R2"
