"""An SVG file that has been altered by another hand fails by the name of what was done to it; one that is only written another
way passes."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path
from xml.etree import ElementTree

import pytest
from hypothesis import given
from hypothesis import strategies as st

from skalto.core.checks.svg_grammar import path, svg_grammar_checks
from skalto.core.recipes import PLAIN, changed
from skalto.core.sources.models.model import Model
from skalto.core.sources.reading import read_model
from tests.core.projection.test_fooled import CUTTER, bytes_of, checked, failing, made, view

Element = ElementTree.Element
SVG = "{http://www.w3.org/2000/svg}"
ElementTree.register_namespace("", SVG[1:-1])


@pytest.fixture(scope="module")
def plate(plate_step: Path) -> Model:
    return read_model(plate_step, plate_step.name)


@pytest.fixture(scope="module")
def written(plate: Model) -> bytes:
    """With a frame and a title block: strokes, areas, texts."""
    page, _ = made(plate, view())
    return bytes_of(page, ".svg", PLAIN)


def _tree(data: bytes, change: Callable[[Element], None]) -> bytes:
    root = ElementTree.fromstring(data)
    change(root)
    return ElementTree.tostring(root, encoding="utf-8", xml_declaration=True)


def _strokes(root: Element) -> Element:
    return next(own for own in root.iter(f"{SVG}g") if own.get("stroke", "none") != "none")


def _put(where: Callable[[Element], Element], element: str, attributes: dict[str, str]) -> Callable[[Element], None]:
    def change(root: Element) -> None:
        where(root).append(Element(SVG + element, attributes))

    return change


def _set(where: Callable[[Element], Element], **values: str) -> Callable[[Element], None]:
    return lambda root: where(root).attrib.update({key.replace("_", "-"): value for key, value in values.items()})


def _a(element: str) -> Callable[[Element], Element]:
    return lambda root: next(root.iter(SVG + element))


def _root(root: Element) -> Element:
    return root


def _drop(where: Callable[[Element], Element], key: str) -> Callable[[Element], None]:
    return lambda root: where(root).attrib.__delitem__(key)


HARMFUL: dict[str, tuple[Callable[[Element], None], str]] = {
    "all moved": (_set(_strokes, transform="translate(5 0)"), "transform of g"),
    "all scaled": (_set(_root, transform="scale(1.01)"), "transform of svg"),
    "a path moved": (_set(_a("path"), transform="translate(.02 0)"), "transform of path"),
    "a circle moved": (_set(_a("circle"), transform="translate(.02 0)"), "transform of circle"),
    "a style over all": (_set(_strokes, style="stroke-width:3"), "stroke-width:3"),
    "a class": (_set(_strokes, **{"class": "x"}), "class of g"),
    "not displayed": (_set(_strokes, display="none"), "display of g"),
    "not visible": (_set(_a("path"), visibility="hidden"), "visibility of path"),
    "clipped": (_set(_strokes, clip_path="url(#c)"), "clip-path of g"),
    "masked": (_set(_strokes, mask="url(#m)"), "mask of g"),
    "filtered": (_set(_strokes, filter="url(#f)"), "filter of g"),
    "thin as nothing": (_set(_strokes, stroke_opacity="0"), "stroke-opacity of g"),
    "all but invisible": (_set(_strokes, opacity="0"), "opacity of g as '0'"),
    "a colour by name": (_set(_strokes, stroke="white"), "stroke of g as 'white'"),
    "a reference": (_set(_strokes, stroke="url(#none)"), "stroke of g"),
    "widths that do not scale": (_set(_strokes, vector_effect="non-scaling-stroke"), "vector-effect of g"),
    "ends of another kind": (_set(_strokes, stroke_linecap="inherit"), "stroke-linecap of g"),
    "ends left away": (_drop(_strokes, "stroke-linecap"), "g without stroke-linecap"),
    "corners left away": (_drop(_strokes, "stroke-linejoin"), "g without stroke-linejoin"),
    "a corner's limit": (_set(_strokes, stroke_miterlimit="1"), "stroke-miterlimit of g"),
    "filled": (_set(_strokes, fill="#ffffff"), "fill of g as '#ffffff'"),
    "something over it": (_put(_root, "rect", {"width": "420", "height": "297", "fill": "#fff"}), "the element rect"),
    "a white area over it": (
        _put(_root, "path", {"d": "M0 0L420 0L420 297Z", "fill": "#ffffff", "stroke": "none"}),
        "the element path where none stands",
    ),
    "a line of another kind": (_put(_strokes, "line", {"x2": "9"}), "the element line"),
    "a polygon": (_put(_root, "polygon", {"points": "0,0 9,0 9,9"}), "the element polygon"),
    "a style sheet": (_put(_root, "style", {}), "the element style"),
    "a script": (_put(_root, "script", {}), "the element script"),
    "drawn again": (_put(_root, "use", {"href": "#view-0"}), "the element use"),
    "another drawing in it": (_put(_root, "svg", {"width": "1mm", "height": "1mm", "viewBox": "0 0 1 1"}), "the element svg"),
    "something foreign": (_put(_root, "foreignObject", {}), "the element foreignObject"),
    "a link": (_put(_root, "a", {}), "the element a"),
    "a picture from outside": (
        _put(_strokes, "image", {"href": "x.png", "width": "1", "height": "1"}), "the element image where none stands",
    ),
    "moving": (_put(_strokes, "animate", {"attributeName": "stroke-width"}), "the element animate"),
    "a group in strokes": (_put(_strokes, "g", {"id": "x"}), "the element g where none stands"),
    "a window scaled": (_set(_root, viewBox="0 0 210 148.5"), "a window that is not the sheet"),
    "a window moved": (_set(_root, viewBox="1 0 420 297"), "a window that is not the sheet"),
    "in inches": (_set(_root, width="420in"), "width of svg as '420in'"),
    "no size": (_drop(_root, "width"), "svg without width"),
    "stretched": (_set(_root, preserveAspectRatio="none"), "preserveAspectRatio of svg"),
    "letters set wider": (_set(_a("text"), letter_spacing="2"), "letter-spacing of text"),
    "letters moved": (_set(_a("text"), dx="5"), "dx of text"),
    "letters from the end": (_set(_a("text"), text_anchor="end"), "text-anchor of text"),
    "part of a text": (_put(_a("text"), "tspan", {}), "the element tspan"),
    "relative": (_set(_a("path"), d="m0 0l5 5"), "d of path"),
    "a path of quarters": (_set(_a("path"), d="M0 0Q5 5 9 9"), "d of path"),
    "a path cut short": (_set(_a("path"), d="M0 0L5"), "d of path"),
    "an empty path": (_set(_a("path"), d=""), "d of path"),
    "a circle turned inside out": (_set(_a("circle"), r="-3"), "r of circle"),
    "a title twice": (_put(_root, "title", {}), "2 titles"),
    "words between": (lambda root: setattr(_strokes(root), "text", "x"), "words outside of texts"),
}  # fmt: skip
"""One line for each way to do harm: how, and what is said of it."""

HARMFUL_TEXT: dict[str, tuple[Callable[[bytes], bytes], str]] = {
    "a style sheet beside it": (
        lambda data: data.replace(b"<svg", b'<?xml-stylesheet href="a.css"?><svg', 1), "an instruction xml-stylesheet",
    ),
    "a document type": (lambda data: data.replace(b"<svg", b'<!DOCTYPE svg [<!ENTITY a "9">]><svg', 1), "a document type"),
    "another namespace": (lambda data: data.replace(b"2000/svg", b"1999/svg", 1), "the element svg of another kind"),
    "cut short": (lambda data: data[: len(data) // 2], "no XML"),
    "empty": (lambda data: b"", "no XML"),
}  # fmt: skip

HARMLESS: dict[str, Callable[[bytes], bytes]] = {
    "written anew": lambda data: _tree(data, lambda root: None),
    "attributes in another order": lambda data: _tree(data, _reversed),
    "white space": lambda data: data.replace(b"\n", b"\r\n\t ").replace(b"<path ", b"<path\n  "),
    "comments": lambda data: data.replace(b"<g ", b"<!-- a group --><g ", 7),
    "numbers in another form": lambda data: re.sub(rb'(r=")([\d.]+)"', rb'\g<1>\g<2>e0"', data),
    "commas": lambda data: re.sub(rb'(d="M[-\d.]+) ', rb"\1,", data),
    "zeros behind": lambda data: re.sub(rb'(stroke-width="[\d.]+)"', rb'\g<1>0"', data),
    "no line ends": lambda data: data.replace(b">\n<", b"><"),
}


def _reversed(root: Element) -> None:
    for own in root.iter():
        items = list(own.attrib.items())[::-1]
        own.attrib.clear()
        own.attrib.update(items)


def _told(data: bytes, blend: bool = False) -> str:
    (check,) = svg_grammar_checks(data, blend)
    return "" if check.verdict == "holds" else check.reading


@pytest.mark.parametrize("name", HARMFUL)
def test_what_was_put_in_is_named(written: bytes, name: str) -> None:
    change, told = HARMFUL[name]
    assert told in _told(_tree(written, change))


@pytest.mark.parametrize("name", HARMFUL_TEXT)
def test_what_was_done_to_the_text_is_named(written: bytes, name: str) -> None:
    change, told = HARMFUL_TEXT[name]
    assert told in _told(change(written))


@pytest.mark.parametrize("name", HARMLESS)
def test_another_way_to_write_it_passes_the_whole_proof(plate: Model, written: bytes, name: str) -> None:
    other = HARMLESS[name](written)
    assert other != written
    assert _told(other) == ""
    page, lines = made(plate, view())
    assert not failing(checked(other, page, lines, ".svg"))


def test_it_is_part_of_the_proof(plate: Model, written: bytes) -> None:
    page, lines = made(plate, view())
    hidden = _tree(written, HARMFUL["not displayed"][0])
    assert "grammar" in failing(checked(hidden, page, lines, ".svg"))
    # every stroke is where it was
    assert failing(checked(hidden, page, lines, ".svg")) == {"grammar"}


def test_all_that_we_write_is_known(plate: Model) -> None:
    """The cutter's file, with no groups but its pens', and colours that are multiplied."""
    page, _ = made(plate, view(turn=30.0), clean=True)
    assert _told(bytes_of(page, ".svg", CUTTER)) == ""
    crossing = changed(PLAIN, crossing="blend")
    page, lines = made(plate, view())
    data = bytes_of(page, ".svg", crossing)
    assert _told(data, blend=True) == ""
    assert "multiplied" in _told(data)
    assert not failing(checked(data, page, lines, ".svg", crossing))
    assert "not multiplied" in _told(bytes_of(page, ".svg", PLAIN), blend=True)


def test_many_faults_are_told_in_one_sentence(written: bytes) -> None:
    told = _told(written.replace(b"<path ", b'<path class="a" '))
    assert re.fullmatch(r"It has what we do not write: the attribute class of path \(line \d+, \d+ times\)", told)


@given(st.lists(st.sampled_from(["M", "L", "A", "C", "Z", " ", ",", "1", "-2.5", ".3e4", "z", "e", "+"]), max_size=12))
def test_paths_against_a_rule_written_another_way(parts: list[str]) -> None:
    number = r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d{1,3})?"

    def run(count: int) -> str:
        return rf"(?:(?:\s*,?\s*{number}){{{count}}})+\s*,?\s*"

    whole = rf"\s*,?\s*M{run(2)}(?:[ML]{run(2)}|C{run(6)}|A{run(7)}|Z\s*,?\s*)*"
    text = "".join(parts)
    # numbers that run into one another can be parted in several ways
    if re.search(r"[\d.][\d.+]|[-+.]{2}", text):
        return
    assert path(text) == (re.fullmatch(whole, text) is not None), text
