from fractions import Fraction

import pytest

from skalto.core.errors import InputError
from skalto.core.paper import FORMATS, FrameStyle, Orientation, frame_rectangle, parse_format
from skalto.core.quantities import PT_PER_MM


@pytest.mark.parametrize(
    ("name", "width", "height"),
    # ISO 216, trimmed sizes, mm
    [("A4", 210, 297), ("A3", 297, 420), ("A2", 420, 594), ("A1", 594, 841), ("A0", 841, 1189)],
)
def test_iso_216(name: str, width: int, height: int) -> None:
    assert (FORMATS[name].width, FORMATS[name].height) == (width, height)


@pytest.mark.parametrize(
    ("name", "width", "height"),
    # ASME Y14.1, inches
    [("ANSI-A", "8.5", "11"), ("ANSI-B", "11", "17"), ("ANSI-C", "17", "22"), ("ANSI-D", "22", "34"), ("ANSI-E", "34", "44")],
)
def test_asme_y14_1(name: str, width: str, height: str) -> None:
    assert (FORMATS[name].width, FORMATS[name].height) == (
        Fraction(width) * Fraction("25.4"),
        Fraction(height) * Fraction("25.4"),
    )


def test_sizes_as_typed() -> None:
    assert [(f.width, f.height) for f in map(parse_format, ("90x60mm", "90 x 60", "11x17in", '8 1/2"x11"'))] == [
        (90, 60), (90, 60), (Fraction("279.4"), Fraction("431.8")), (Fraction("215.9"), Fraction("279.4")),
    ]  # fmt: skip
    assert parse_format("a3").name == "A3"
    assert parse_format("ansi b").name == "ANSI-B"


@pytest.mark.parametrize("text", ["A4", "a4", "A 4", "a-4", "DIN A4", "din-a4", "ISO A4", "iso_a4"])
def test_a4_in_any_spelling(text: str) -> None:
    assert parse_format(text).name == "A4"


@pytest.mark.parametrize(
    ("text", "width", "height"),
    # inches; names of the paper trade (common practice, no source)
    [
        ("Letter", "8.5", "11"), ("US letter", "8.5", "11"), ("legal", "8.5", "14"), ("TABLOID", "11", "17"),
        ("Ledger", "17", "11"), ("11x17", "11", "17"), ("8.5x11", "8.5", "11"), ("8.5 x 11", "8.5", "11"),
        ("17x11", "17", "11"), ("24 × 36", "24", "36"), ("arch d", "24", "36"), ("22x34in", "22", "34"),
    ],
)  # fmt: skip
def test_paper_as_the_trade_says_it(text: str, width: str, height: str) -> None:
    found = parse_format(text)
    assert (found.width, found.height) == (Fraction(width) * Fraction("25.4"), Fraction(height) * Fraction("25.4"))


def test_two_small_numbers_without_a_unit_are_asked_about() -> None:
    for text in ("12x20", "50 x 30"):
        with pytest.raises(InputError, match=r"may be inches or millimetres: write .*in or .*mm"):
            parse_format(text)
    assert parse_format("12x20in").width == Fraction("304.8")
    assert parse_format("50x30mm").width == 50
    assert parse_format("90x60").width == 90


def test_the_unit_that_was_typed_is_the_one_that_is_shown() -> None:
    for text in ("14x20in", "90x60mm", "1.5x2m", "30x20cm"):
        assert parse_format(text).name == text
        assert parse_format(parse_format(text).name) == parse_format(text)
    assert parse_format('8 1/2" x 13"').name == "8.5x13in"


def test_ledger_lies_wide_and_tabloid_upright() -> None:
    from skalto.core.layout.arrangement import Layout, choose_format

    tall = Layout.row([(0, 0, 10, 100)])
    assert choose_format("Ledger", "auto", tall, FrameStyle.NONE, None).width > 400
    assert choose_format("Tabloid", "auto", tall, FrameStyle.NONE, None).width < 300


def test_a_label_in_points() -> None:
    # 90 × 60 mm is 255.1181 × 170.0787 pt: 1 pt is 25.4/72 mm exactly
    label = parse_format("90x60mm")
    assert float(label.width * PT_PER_MM) == pytest.approx(255.1181, abs=5e-5)
    assert float(label.height * PT_PER_MM) == pytest.approx(170.0787, abs=5e-5)


@pytest.mark.parametrize("text", ["", "A9", "90", "0x60", "90x-3mm", "1x1000m", "axb"])
def test_what_is_no_format_says_so(text: str) -> None:
    with pytest.raises(InputError, match=r"format|sheet side|length"):
        parse_format(text)


def test_orientation() -> None:
    assert parse_format("A3").turned(Orientation.LANDSCAPE).width == 420
    assert parse_format("90x60").turned(Orientation.PORTRAIT).width == 60


def test_the_iso_frame() -> None:
    # ISO 5457, from memory: 20 mm at the filing side, 10 mm elsewhere
    assert frame_rectangle(420, 297, FrameStyle.ISO) == (20, 10, 410, 287)
    assert frame_rectangle(420, 297, FrameStyle.NONE) is None
    assert frame_rectangle(30, 297, FrameStyle.ISO) is None
