"""Lists of parts as people type them, remnants, and the cutter's chart."""

from __future__ import annotations

import pytest

from skalto.core.cutter.machine import Machine
from skalto.core.cutting.choices import CutChoices, Plate
from skalto.core.cutting.laying import laying_of
from skalto.core.cutting.parts_list import read_parts_list
from skalto.core.cutting.remnants import remnant_of
from skalto.core.cutting.section import ComponentOrigin, CutList, CutPart
from skalto.core.errors import InputError
from skalto.core.geometry.contour import Contour
from skalto.core.geometry.profile import Profile

KNOWN = {"Cheek, left": "a", "EB-104": "b", "Bed plate": "b"}


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("Bed plate;2\nCheek, left;4\n", {"b": 2, "a": 4}),
        ('Part,Quantity\n"Cheek, left",3\n', {"a": 3}),
        ("\ufeffeb-104\t7", {"b": 7}),
        ("Bed plate;2\nEB-104;1\n\n", {"b": 3}),
        ("Bed plate", {"b": 1}),
        ("Bed plate;0", {"b": 0}),
    ],
)
def test_lists_of_parts(text: str, found: dict[str, int]) -> None:
    assert read_parts_list(text, KNOWN) == found


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("Part;Quantity\nBed plate;2\nFoot;1", "Line 3 .* no flat part Foot"),
        ("Bed plate;two", "“two” is no quantity of Bed plate"),
        ("Bed plate;-1", "no quantity"),
        ("Bed plate;1.5", "no quantity"),
        ("", "has no part"),
        ("Part;Quantity\n", "has no part"),
    ],
)
def test_lists_that_say_nothing_clear(text: str, told: str) -> None:
    with pytest.raises(InputError, match=told):
        read_parts_list(text, KNOWN)


def test_a_remnant_has_the_largest_outline_and_its_holes() -> None:
    corner = Profile(Contour.polygon([(10, 20), (210, 20), (210, 70), (110, 70), (110, 170), (10, 170)]))
    holed = Profile(corner.outline, (Contour.circle((50, 60), 20),))
    made = remnant_of(Plate(width=600, height=400, thickness=3), [Profile(Contour.rectangle((0, 0, 5, 5))), holed], "Rest")
    assert (made.width, made.height, made.thickness) == (200, 150, 3)
    assert len(made.remnant) == 2
    assert set(made.remnant[0]) == {(0, 0), (200, 0), (200, 50), (100, 50), (100, 150), (0, 150)}
    assert min(x for x, _ in made.remnant[1]) == pytest.approx(20, abs=0.05)
    with pytest.raises(InputError, match="no closed outline"):
        remnant_of(Plate(width=600, height=400), [], "Rest")
    with pytest.raises(InputError, match="leaves nothing of Rest"):
        remnant_of(Plate(width=600, height=400, edge=80), [holed], "Rest")


def test_the_chart_says_when_it_takes_another_row() -> None:
    machine = Machine()
    assert machine.nearest("plywood", 3)[1] == ""
    row, told = machine.nearest("Plywood", 4)
    assert row.thickness in (3, 6)
    assert "no Plywood of 4 mm" in told
    row, told = machine.nearest("Brass", 2)
    assert row.thickness == 2
    assert "no Brass" in told
    assert machine.nearest("", 0)[1] == ""
    with pytest.raises(InputError, match="chart is empty"):
        Machine(chart=()).nearest("Plywood", 3)


@pytest.mark.parametrize(
    ("choices", "told"),
    [
        ({"gap": 0.1, "kerf": 0.4}, "Set the gap to 0.4 mm, or more"),
        ({"gap": 0.1, "kerf": 0.4, "compensated": False}, "Set the gap to 0.4 mm, or more"),
        ({"gap": 0.0, "kerf": 0.4, "common_cut": True}, r"Set the gap to 0.4 mm\."),
    ],
)
def test_a_gap_narrower_than_the_beam_is_refused_at_once(choices: dict[str, object], told: str) -> None:
    with pytest.raises(InputError, match=told):
        laying_of(cut_list(choices), {"a": Profile(Contour.rectangle((0, 0, 50, 30)))})


@pytest.mark.parametrize(
    "choices", [{"gap": 0.4, "kerf": 0.4}, {"gap": 0.0}, {"gap": 0.0, "kerf": 0.4, "common_cut": True, "compensated": False}]
)
def test_a_gap_as_wide_as_the_beam_is_not(choices: dict[str, object]) -> None:
    assert len(laying_of(cut_list(choices), {"a": Profile(Contour.rectangle((0, 0, 50, 30)))}).pieces) == 1


def cut_list(choices: dict[str, object]) -> CutList:
    part = CutPart(id="a", name="Strip", origin=ComponentOrigin(source="s", component="Strip"), quantity=6)
    plates = (Plate(width=600, height=400, thickness=3),)
    return CutList(id="c", name="Strips", parts=(part,), plates=plates, choices=CutChoices.model_validate(choices))
