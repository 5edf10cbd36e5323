from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from skalto.core.errors import InputError
from skalto.core.quantities import PREFERRED_SCALES, Scale, format_mm, largest_preferred, parse_length


@pytest.mark.parametrize(
    ("text", "mm"),
    [
        ("90", 90), ("90mm", 90), ("3.5in", Fraction(889, 10)), ("0.001in", Fraction(254, 10000)),
        ('8 1/2"', Fraction(2159, 10)), ("1'-0\"", Fraction(3048, 10)), ("12,5 mm", Fraction(25, 2)), ("1 m", 1000),
        ("72pt", Fraction(254, 10)), ("-4.25mm", Fraction(-17, 4)),
    ],
)  # fmt: skip
def test_lengths_are_read_exactly(text: str, mm: Fraction) -> None:
    assert parse_length(text) == mm


@pytest.mark.parametrize("text", ["", "abc", "12 furlongs", "1/0in", "mm", "1..2", "3 4"])
def test_what_is_no_length_says_so(text: str) -> None:
    with pytest.raises(InputError, match=r"length|divides"):
        parse_length(text)


@pytest.mark.parametrize(
    ("text", "scale"),
    [
        ("1:2", Fraction(1, 2)), ("2:1", Fraction(2)), ("5:2", Fraction(5, 2)), (" 1 : 2.5 ", Fraction(2, 5)),
        # inch practice, common practice without a source
        ("3\"=1'-0\"", Fraction(1, 4)), ("1 1/2\"=1'-0\"", Fraction(1, 8)), ("1\"=1'-0\"", Fraction(1, 12)),
        ("1/2\"=1'-0\"", Fraction(1, 24)), ("1/4\"=1'-0\"", Fraction(1, 48)), ("1/8\"=1'-0\"", Fraction(1, 96)),
        ("1/16\"=1'-0\"", Fraction(1, 192)),
    ],
)  # fmt: skip
def test_scales_are_exact_ratios(text: str, scale: Fraction) -> None:
    assert Scale.parse(text) == scale


@pytest.mark.parametrize("text", ["", "0:1", "1:0", "-1:2", "a:b", "1:2:3", "1:99999999", "largest"])
def test_what_is_no_scale_says_so(text: str) -> None:
    with pytest.raises(InputError, match="is not a scale"):
        Scale.parse(text)


@given(st.integers(1, 10_000), st.integers(1, 10_000))
def test_a_scale_survives_being_written(paper: int, model: int) -> None:
    assert Scale.parse(str(Scale(paper, model))) == Fraction(paper, model)


def test_the_largest_preferred_scale() -> None:
    # ISO 5455: 50 20 10 5 2 1 and 1:2 1:5 … 1:10000
    assert [str(s) for s in PREFERRED_SCALES[:7]] == ["50:1", "20:1", "10:1", "5:1", "2:1", "1:1", "1:2"]
    assert largest_preferred(Fraction(1, 2)) == Fraction(1, 2)
    assert largest_preferred(0.4999) == Fraction(1, 5)
    assert largest_preferred(1000) == 50
    with pytest.raises(InputError):
        largest_preferred(1e-6)


def test_lengths_for_people() -> None:
    assert [format_mm(v) for v in (220.0, 0.25, -0.00001, 1.23456)] == ["220", "0.25", "0", "1.235"]


@pytest.mark.parametrize(
    ("text", "scale"),
    [
        ("2", "2:1"),
        ("1/2", "1:2"),
        ("100%", "1:1"),
        ("50 %", "1:2"),
        ("0.5", "1:2"),
        ("12,5%", "1:8"),
        ("2.5", "5:2"),
        ("1", "1:1"),
    ],
)
def test_scales_as_factors(text: str, scale: str) -> None:
    assert str(Scale.parse(text)) == scale


@pytest.mark.parametrize("text", ["0", "0%", "-1", "1/0", "%", "1e9", "50 %%"])
def test_factors_that_are_no_scale(text: str) -> None:
    with pytest.raises(InputError):
        Scale.parse(text)
