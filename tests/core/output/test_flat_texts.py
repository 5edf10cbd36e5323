"""What is written in DXF and SVG is what was asked for: another figure, or a text that is moved, turned or gone, fails."""

from __future__ import annotations

import io
import math
import re
from collections.abc import Callable
from pathlib import Path
from xml.etree import ElementTree

import ezdxf
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from skalto.core.artwork import Artwork, EdgeClass, Tags, Text
from skalto.core.checks.flat import DXF, SVG
from skalto.core.checks.flat_texts import text_checks
from skalto.core.checks.strokes import AskedText, paint_of
from skalto.core.checks.verdict import Check
from skalto.core.output.dxf import write_dxf
from skalto.core.output.flat import Flat, Part
from skalto.core.output.svg import write_svg
from skalto.core.pens import Pens
from skalto.core.recipes import PLAIN
from skalto.core.sources.reading import read_model
from tests.core.projection.test_fooled import bytes_of, checked, failing, made, mutated_dxf, view

FORMATS = {"svg": (write_svg, SVG), "dxf": (write_dxf, DXF)}


def sheet(*texts: str, turn: float = 0.0, stretch: float = 1.0, slant: float = 0.0) -> Flat:
    """A3 with texts one above the other, 5 mm high."""
    count = len(texts)
    start = np.stack((np.full(count, 60.0), 40.0 + 12.0 * np.arange(count)), axis=1)
    item = Text(
        Tags(EdgeClass.VISIBLE), texts, start, np.full(count, 5.0), np.full(count, turn), np.full(count, 20.0),
        np.full(count, stretch), np.full(count, slant),
    )  # fmt: skip
    return Flat("Words", 420.0, 297.0, (Part(Artwork((item,)), Pens()),))


def told(flat: Flat, data: bytes, name: str) -> list[Check]:
    back = FORMATS[name][1]
    asked = [
        AskedText(item, back.painted(paint_of(item, part.pens, PLAIN, None, False), item, 0.5, PLAIN))
        for part in flat.parts
        for item in part.artwork
        if isinstance(item, Text)
    ]
    return text_checks(data, flat.height, asked, back.words, back.runs)


def _dxf(change: Callable[[ezdxf.entities.Text], None]) -> Callable[[bytes], bytes]:
    def alter(data: bytes) -> bytes:
        return mutated_dxf(data, lambda document: change(document.modelspace().query("TEXT").first))

    return alter


def _svg(change: Callable[[ElementTree.Element], None]) -> Callable[[bytes], bytes]:
    def alter(data: bytes) -> bytes:
        root = ElementTree.fromstring(data)
        change(next(root.iter("{http://www.w3.org/2000/svg}text")))
        return ElementTree.tostring(root)

    return alter


def _matrix(place: int, by: float) -> Callable[[ElementTree.Element], None]:
    def change(own: ElementTree.Element) -> None:
        numbers = [float(v) for v in own.attrib["transform"][7:-1].split()]
        numbers[place] += by
        own.attrib["transform"] = f"matrix({' '.join(map(str, numbers))})"

    return change


def _size(own: ElementTree.Element) -> None:
    own.attrib["font-size"] = str(float(own.attrib["font-size"]) * 1.01)


HARMFUL: dict[str, dict[str, Callable[[bytes], bytes]]] = {
    "another figure": {
        "svg": _svg(lambda own: setattr(own, "text", "90")), "dxf": _dxf(lambda own: own.dxf.set("text", "90")),
    },
    "a figure of letters": {
        "svg": _svg(lambda own: setattr(own, "text", "6O")), "dxf": _dxf(lambda own: own.dxf.set("text", "6O")),
    },
    "moved": {
        "svg": _svg(_matrix(4, 0.01)),
        "dxf": _dxf(lambda own: own.dxf.set("insert", own.dxf.insert + ezdxf.math.Vec3(0.01, 0))),
    },
    "moved up": {
        "svg": _svg(_matrix(5, 3)), "dxf": _dxf(lambda own: own.dxf.set("insert", own.dxf.insert + ezdxf.math.Vec3(0, 3))),
    },
    "turned": {"svg": _svg(_matrix(1, 0.01)), "dxf": _dxf(lambda own: own.dxf.set("rotation", 0.5))},
    "higher": {"svg": _svg(_size), "dxf": _dxf(lambda own: own.dxf.set("height", 5.05))},
    "wider": {"svg": _svg(_matrix(0, 0.1)), "dxf": _dxf(lambda own: own.dxf.set("width", 1.1))},
    "mirrored": {"svg": _svg(_matrix(0, -2)), "dxf": _dxf(lambda own: own.dxf.set("text_generation_flag", 2))},
    "another face": {
        "svg": _svg(lambda own: own.attrib.update({"font-family": "serif"})),
        "dxf": _dxf(lambda own: own.dxf.set("style", "Standard")),
    },
    "gone": {
        "svg": lambda data: re.sub(rb"<text[^>]*>60</text>", b"", data), "dxf": _dxf(lambda own: own.destroy()),
    },
    "doubled": {
        "svg": lambda data: re.sub(rb"<text[^>]*>60</text>", lambda m: m[0] * 2, data),
        "dxf": lambda data: mutated_dxf(data, lambda d: d.modelspace().add_entity(d.modelspace().query("TEXT").first.copy())),
    },
    "one more": {
        "svg": lambda data: re.sub(rb"(<text[^>]*>)60</text>", rb"\g<0>\g<1>R</text>", data),
        "dxf": lambda data: mutated_dxf(data, lambda d: d.modelspace().add_text("R", height=5)),
    },
}  # fmt: skip


@pytest.mark.parametrize("name", FORMATS)
@pytest.mark.parametrize("harm", HARMFUL)
def test_what_was_altered_fails(name: str, harm: str) -> None:
    flat = sheet("60", "Ø12", "Ebba")
    data = FORMATS[name][0](flat)
    assert [check.verdict for check in told(flat, data, name)] == ["holds"]
    other = HARMFUL[harm][name](data)
    assert other != data
    (check,) = told(flat, other, name)
    assert (check.verdict, check.code) == ("fails", "written")
    assert "60" in check.reading or "90" in check.reading or "6O" in check.reading or "R" in check.reading
    assert check.place is not None


@pytest.mark.parametrize("name", FORMATS)
def test_it_is_part_of_the_proof(plate_step: Path, name: str) -> None:
    """The format of the sheet in its title block, by another."""
    page, lines = made(read_model(plate_step, plate_step.name), view())
    data = bytes_of(page, f".{name}", PLAIN)
    assert not failing(checked(data, page, lines, f".{name}"))
    for old in (b"A3", b"1/1"):
        other = (
            data.replace(b">%s<" % old, b">%s<" % old[::-1])
            if name == "svg"
            else re.sub(rb"(\r?\n)%s(\r?\n)" % re.escape(old), rb"\g<1>" + old[::-1] + b"x" + rb"\g<2>", data)
        )
        if other != data:
            assert "written" in failing(checked(other, page, lines, f".{name}")), old
            return
    raise AssertionError("nothing was altered")


@pytest.mark.parametrize("name", FORMATS)
def test_nothing_written_is_no_check(name: str) -> None:
    flat = Flat("Empty", 420.0, 297.0, ())
    assert told(flat, FORMATS[name][0](flat), name) == []


@pytest.mark.parametrize("name", FORMATS)
def test_equal_texts_are_told_apart_by_their_places(name: str) -> None:
    flat = sheet("12", "12", "12")
    data = FORMATS[name][0](flat)
    (check,) = told(flat, data, name)
    assert (check.verdict, check.reading[:7]) == ("holds", "3 texts")
    two = sheet("12", "12")
    (check,) = told(two, data, name)
    assert (check.verdict, "not asked for" in check.reading) == ("fails", True)


LETTERS = st.text(st.characters(exclude_categories=["Cc", "Cs", "Co", "Cn", "Zl", "Zp"]), min_size=1, max_size=12)


@pytest.mark.parametrize("name", FORMATS)
@settings(max_examples=60, deadline=None)
@given(
    words=st.lists(LETTERS.filter(lambda own: own.strip()), min_size=1, max_size=3),
    turn=st.floats(-4, 4),
    stretch=st.sampled_from([1.0, 0.7, 1.9, -1.0]),
    slant=st.sampled_from([0.0, 0.26, -0.2]),
)
def test_what_we_write_is_what_is_read(name: str, words: list[str], turn: float, stretch: float, slant: float) -> None:
    flat = sheet(*words, turn=turn, stretch=stretch, slant=slant)
    (check,) = told(flat, FORMATS[name][0](flat), name)
    assert check.verdict == "holds", check.reading


@pytest.mark.parametrize(
    "words", ["%%c12", "^ I", "^", "2^", "a^I", "\\U+00D8", "{a}", "  lead", "a  b", "60°±0.1", "السلام 12", "<&>\"'"]
)
@pytest.mark.parametrize("name", FORMATS)
def test_texts_that_a_format_has_signs_for(name: str, words: str) -> None:
    flat = sheet(words)
    (check,) = told(flat, FORMATS[name][0](flat), name)
    assert check.verdict == "holds", check.reading


def test_the_dxf_is_read_as_another_reader_has_it() -> None:
    flat = sheet("60", turn=math.radians(30))
    document = ezdxf.read(io.StringIO(write_dxf(flat).decode()))
    (own,) = document.modelspace().query("TEXT")
    (read,) = DXF.words(write_dxf(flat), 297.0)
    assert (own.dxf.text, own.dxf.insert.x, own.dxf.insert.y) == (read.text, read.x, read.y)
    assert math.hypot(*read.along) == pytest.approx(own.dxf.height)
    assert math.degrees(math.atan2(read.along[1], read.along[0])) == pytest.approx(own.dxf.rotation)
