"""Allowances against handbook lengths and worked examples."""

from __future__ import annotations

import math

import pytest

from skalto.core.errors import InputError
from skalto.core.sheet_metal.allowances import (
    BendRule,
    BendWay,
    allowance_of,
    deduction_of,
    din6935_k,
    table_as_csv,
    table_from_csv,
)

QUARTER = math.pi / 2


@pytest.mark.parametrize(
    ("thickness", "radius", "allowance", "deduction"), [(2, 2, 4.5239, 3.4761), (1.5, 3, 5.7491, 2 * 4.5 - 5.7491)]
)
def test_worked_examples(thickness: float, radius: float, allowance: float, deduction: float) -> None:
    """Worked by hand: α·(r + K·t) and 2·(r + t)·tan(α/2) less that, at K 0.44."""
    own = allowance_of(BendRule(), QUARTER, radius, thickness)
    assert own.allowance == pytest.approx(allowance, abs=5e-5)
    assert own.deduction == pytest.approx(deduction, abs=1e-4)


@pytest.mark.parametrize(("k", "per_thickness"), [(0.55 / QUARTER, 0.55), (0.64 / QUARTER, 0.64), (0.71 / QUARTER, 0.71)])
def test_handbook_lengths(k: float, per_thickness: float) -> None:
    """Machinery's Handbook (from memory): a right angle takes 0.55, 0.64 or 0.71 times T, by the metal, and 1.57 R."""
    own = allowance_of(BendRule(value=k), QUARTER, 3.0, 2.0)
    assert own.allowance == pytest.approx(per_thickness * 2.0 + 1.57 * 3.0, abs=3e-3)


@pytest.mark.parametrize(
    ("ratio", "k"), [(1.0, 0.325), (2.0, (0.65 + 0.5 * math.log10(2)) / 2), (5.0, 0.49974), (5.01, 0.5), (100, 0.5)]
)
def test_din_6935(ratio: float, k: float) -> None:
    """DIN 6935 (from memory): k = 0.65 + 0.5·lg(r/t) up to 5, then 1; K is half of it."""
    assert din6935_k(2 * ratio, 2) == pytest.approx(k, abs=1e-5)


def test_what_din_6935_says_nothing_of_is_told() -> None:
    own = allowance_of(BendRule(way=BendWay.DIN_6935), QUARTER, 0.09, 2.0)
    assert own.k == pytest.approx(0, abs=1e-9)
    assert "no factor" in own.notes[0]
    with pytest.raises(InputError, match="no factor"):
        allowance_of(BendRule(way=BendWay.DIN_6935), QUARTER, 0.0, 2.0)


def test_allowance_and_deduction_are_one() -> None:
    for angle in (0.8, QUARTER, 2.5):
        typed = allowance_of(BendRule(way=BendWay.DEDUCTION, value=1.25), angle, 2, 1.5)
        again = allowance_of(BendRule(way=BendWay.ALLOWANCE, value=typed.allowance), angle, 2, 1.5)
        assert again.deduction == pytest.approx(1.25)
        assert again.allowance == pytest.approx(angle * (2 + typed.k * 1.5))
    assert deduction_of(5.0, math.pi, 2, 1.5) is None


def test_a_fibre_outside_the_sheet_is_told_and_nothing_left_is_refused() -> None:
    assert "outside the sheet" in allowance_of(BendRule(way=BendWay.ALLOWANCE, value=20.0), QUARTER, 2, 2).notes[0]
    with pytest.raises(InputError, match="Nothing is left"):
        allowance_of(BendRule(way=BendWay.DEDUCTION, value=30.0), QUARTER, 2, 2)


TABLE = """material;thickness;radius;angle;k;deduction
steel;2;2;90;0,40;
steel;2;4;90;0,44;
steel;2;2;45;;1,2
;1;1;90;0,33;
"""


def test_a_table_is_looked_up_and_interpolated() -> None:
    rule = table_from_csv(TABLE, "shop")
    exact = allowance_of(rule, QUARTER, 2, 2, "Steel")
    assert (exact.k, exact.notes) == (pytest.approx(0.40), ())
    between = allowance_of(rule, QUARTER, 3, 2, "steel")
    assert between.k == pytest.approx(0.42)
    assert "between" in between.notes[0]
    eighth = allowance_of(rule, QUARTER / 2, 2, 2, "steel")
    assert eighth.deduction == pytest.approx(1.2)
    assert allowance_of(rule, QUARTER, 1, 1, "brass").k == pytest.approx(0.33)
    with pytest.raises(InputError, match=r"no row for 5 mm: it has 1, 2"):
        allowance_of(rule, QUARTER, 1, 5, "steel")
    assert table_from_csv(table_as_csv(rule), "shop") == rule


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("", "is empty"),
        ("a,b\n1,2\n", "first row names its columns"),
        ("thickness,radius,angle,k\n2,2,ninety,0.4\n", "Row 2"),
        ("thickness,radius,angle,k\n2,2,90,nan\n", "Row 2"),
        ("thickness,radius,angle,k\n-2,2,90,0.4\n", "Row 2"),
        ("thickness,radius,angle,k\n2,2,90\n", "Row 2"),
    ],
)
def test_a_bad_table_is_refused(text: str, told: str) -> None:
    with pytest.raises(InputError, match=told):
        table_from_csv(text)
