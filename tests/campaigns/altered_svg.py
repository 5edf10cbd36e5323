"""Ways to alter a finished SVG, by lxml, one line each: what does harm, and what changes nothing that anybody sees."""

from __future__ import annotations

import base64
import io
import random
import re
from collections.abc import Callable
from typing import Any

from lxml import etree
from PIL import Image

Way = Callable[[Any, random.Random], Any]
SVG = "{http://www.w3.org/2000/svg}"
_NUMBER = re.compile(r"-?\d+(?:\.\d*)?")


def altered(data: bytes, way: Way | Callable[[bytes], bytes], chance: random.Random) -> bytes | None:
    """A file altered in one way; None where it cannot be."""
    root = etree.fromstring(data)
    if way(root, chance) is False:  # type: ignore[call-arg, arg-type]
        return None
    return bytes(etree.tostring(root, encoding="utf-8", xml_declaration=True))


def _stroked(own: Any) -> bool:
    parent = own.getparent()
    return parent is not None and parent.get("stroke", "none") != "none"


def _of(kind: str, change: Callable[[Any, random.Random], Any]) -> Way:
    """One ``stroke``, ``area``, ``text``, ``image``, ``circle``, or the group of one with ``'s``."""

    def way(root: Any, chance: random.Random) -> bool:
        name = kind.removesuffix("'s")
        tags = {"stroke": ("path", "circle", "ellipse"), "area": ("path",)}.get(name, (name,))
        rows = [own for tag in tags for own in root.iter(SVG + tag)]
        if name in ("stroke", "area"):
            rows = [own for own in rows if _stroked(own) is (name == "stroke") and _long(own)]
        if not rows:
            return False
        own = chance.choice(rows)
        return change(own.getparent() if kind.endswith("'s") else own, chance) is not False

    return way


def _long(own: Any) -> bool:
    numbers = [float(v) for v in _NUMBER.findall(own.get("d", ""))]
    return not numbers or len(numbers) > 4 or max(abs(numbers[0] - numbers[2]), abs(numbers[1] - numbers[3])) > 0.01


def _set(**values: str) -> Callable[[Any, random.Random], None]:
    def change(own: Any, chance: random.Random) -> None:
        for key, value in values.items():
            own.set(key.rstrip("_").replace("_", "-"), value)

    return change


def _removed(own: Any, chance: random.Random) -> None:
    own.getparent().remove(own)


def _doubled(own: Any, chance: random.Random) -> None:
    own.addnext(etree.fromstring(etree.tostring(own)))


def _number_moved(key: str, least: float = 0.02) -> Callable[[Any, random.Random], Any]:
    """One of the numbers of an attribute changed."""

    def change(own: Any, chance: random.Random) -> Any:
        text = own.get(key)
        if text is None:
            return False
        # an arc's flags and turn are no lengths: only what begins a path
        found = list(_NUMBER.finditer(text))[: 2 if key == "d" else None]
        one = chance.choice(found)
        own.set(key, f"{text[: one.start()]}{float(one[0]) + chance.choice((least, 1.0, -5.0)):g}{text[one.end() :]}")
        return True

    return change


def _shifted(own: Any, chance: random.Random) -> Any:
    """All of an element, by its numbers or by what is around it."""
    if own.get("cx") is None:
        return _number_moved("d")(own, chance)
    if own.get("transform"):
        return False
    own.set("cx", f"{float(own.get('cx')) + chance.choice((0.02, 1.0)):g}")
    return True


def _put(element: str, first: bool = False, **values: Any) -> Way:
    def way(root: Any, chance: random.Random) -> None:
        own = etree.Element(SVG + element, {key.replace("_", "-"): value for key, value in values.items()})
        if first:
            root.insert(1, own)
        else:
            root.append(own)

    return way


def _root(change: Callable[[Any, random.Random], Any]) -> Way:
    return lambda root, chance: change(root, chance) is not False


def _colour(key: str) -> Callable[[Any, random.Random], Any]:
    def change(own: Any, chance: random.Random) -> Any:
        value = int(own.get(key, "#000000")[1:], 16)
        own.set(key, f"#{value ^ (0x40 << chance.choice((0, 8, 16))):06x}")
        return True

    return change


def _other(key: str, *words: str) -> Callable[[Any, random.Random], Any]:
    def change(own: Any, chance: random.Random) -> Any:
        own.set(key, chance.choice([word for word in words if word != own.get(key)]))
        return True

    return change


def _words(own: Any, chance: random.Random) -> Any:
    own.text = "9" if own.text != "9" else "6"
    return True


def _pixels(own: Any, chance: random.Random) -> Any:
    out = io.BytesIO()
    Image.new("RGBA", (40, 40), (200, 30, 30, 255)).save(out, "PNG")
    own.set("href", "data:image/png;base64," + base64.b64encode(out.getvalue()).decode())
    return True


def _window(root: Any, chance: random.Random) -> None:
    wide, high = (float(root.get(side)[:-2]) for side in ("width", "height"))
    root.set("viewBox", f"0 0 {wide * 1.0001:g} {high * 1.0001:g}")


_COVER: dict[str, Any] = {"d": "M10 10L200 10L200 200Z", "fill": "#ffffff", "stroke": "none"}

HARMFUL: dict[str, Way] = {
    "a stroke dropped": _of("stroke", _removed),
    "a stroke doubled": _of("stroke", _doubled),
    "a stroke moved": _of("stroke", _shifted),
    "a stroke moved by its transform": _of("stroke", _set(transform="translate(0.5 0)")),
    "a radius changed": _of("circle", _number_moved("r")),
    "an area dropped": _of("area", _removed),
    "an area moved": _of("area", _number_moved("d")),
    "an area doubled": _of("area", _doubled),
    "a width changed": _of("stroke's", _other("stroke-width", "0.1", "0.9", "2")),
    "a colour changed": _of("stroke's", _colour("stroke")),
    "a colour by name": _of("stroke's", _set(stroke="white")),
    "a colour of areas": _of("area's", _colour("fill")),
    "a colour of a text": _of("text's", _colour("fill")),
    "dashes put in": _of("stroke's", _set(stroke_dasharray="3 1.3")),
    "dashes begin elsewhere": _of("stroke's", _set(stroke_dasharray="3 1.3", stroke_dashoffset="2")),
    "ends changed": _of("stroke's", _other("stroke-linecap", "butt", "round", "square")),
    "corners changed": _of("stroke's", _other("stroke-linejoin", "miter", "round", "bevel")),
    "a limit for corners": _of("stroke's", _set(stroke_miterlimit="1")),
    "seen through": _of("stroke's", _set(opacity="0.3")),
    "strokes seen through": _of("stroke's", _set(stroke_opacity="0.3")),
    "filled by another rule": _of("area's", lambda own, chance: own.set(
        "fill-rule", "nonzero" if own.get("fill-rule") == "evenodd" else "evenodd"
    )),
    "strokes filled": _of("stroke's", _set(fill="#ffffff")),
    "multiplied or not": lambda root, chance: [
        own.attrib.pop("style") if own.get("style") else own.set("style", "mix-blend-mode:multiply")
        for own in root.iter(SVG + "g") if own.get("stroke")
    ] != [],
    "a layer renamed": lambda root, chance: next(
        (own.set("id", "else") is None for own in root.iter(SVG + "g") if own.get("id", "view-").partition("-")[0] != "view"),
        False,
    ),
    "a view renamed": lambda root, chance: next(
        (own.set("id", "view-77") is None for own in root.iter(SVG + "g") if own.get("id", "").startswith("view-")), False,
    ),
    "not displayed": _of("stroke's", _set(display="none")),
    "not visible": _of("stroke", _set(visibility="hidden")),
    "clipped": _of("stroke's", _set(clip_path="url(#c)")),
    "masked": _of("stroke's", _set(mask="url(#m)")),
    "filtered": _of("stroke's", _set(filter="url(#f)")),
    "a class": _of("stroke", _set(class_="x")),
    "a style": _of("stroke", _set(style="stroke-width:3")),
    "widths that do not scale": _of("stroke", _set(vector_effect="non-scaling-stroke")),
    "a length of its own": _of("stroke", _set(pathLength="1")),
    "arrowheads": _of("stroke", _set(marker_end="url(#a)")),
    "all moved": _root(lambda root, chance: [own.set("transform", "translate(.05 0)") for own in root.iter(SVG + "g")] != []),
    "a window scaled": _window,
    "a window moved": _root(lambda root, chance: root.set("viewBox", "1 0 " + " ".join(root.get("viewBox").split()[2:]))),
    "in inches": _root(lambda root, chance: root.set("width", root.get("width").replace("mm", "in"))),
    "a wider sheet": _root(lambda root, chance: root.set("width", f"{float(root.get('width')[:-2]) * 1.001:g}mm")),
    "without a size": _root(lambda root, chance: root.attrib.__delitem__("width")),
    "stretched": _root(_set(preserveAspectRatio="none")),
    "an area over it": _put("path", **_COVER),
    "a rectangle over it": _put("rect", x="5", y="5", width="90", height="90", fill="#ffffff"),
    "a polygon": _put("polygon", points="0,0 90,0 90,90"),
    "a line": _put("line", x1="0", y1="0", x2="90", y2="90", stroke="#000000"),
    "a group that covers": lambda root, chance: root.append(etree.fromstring(
        f'<g xmlns="{SVG[1:-1]}" fill="#ffffff" fill-rule="evenodd" stroke="none"><path d="M5 5L200 5L200 200Z"/></g>'
    )),
    "a group of strokes more": lambda root, chance: root.append(etree.fromstring(
        f'<g xmlns="{SVG[1:-1]}" fill="none" stroke="#000000" stroke-width="0.5" stroke-linecap="round" '
        'stroke-linejoin="round">'
        '<path d="M5 5L200 5"/></g>'
    )),
    "a text more": lambda root, chance: root.append(etree.fromstring(
        f'<g xmlns="{SVG[1:-1]}" fill="#000000" stroke="none"><text transform="matrix(1 0 0 1 50 50)" '
        'font-family="Routed Gothic" '
        'font-size="5" textLength="5" lengthAdjust="spacingAndGlyphs" xml:space="preserve">9</text></g>'
    )),
    "a style sheet": _put("style", True),
    "a script": _put("script"),
    "drawn again": _put("use", href="#view-0"),
    "a symbol": _put("symbol"),
    "something foreign": _put("foreignObject", width="90", height="90"),
    "a picture from outside": _put("image", href="x.png", width="90", height="90"),
    "moving": _of("stroke", lambda own, chance: own.append(etree.Element(SVG + "animate"))),
    "another drawing in it": _put("svg", width="9", height="9"),
    "a text dropped": _of("text", _removed),
    "a text doubled": _of("text", _doubled),
    "other words": _of("text", _words),
    "a text moved": _of("text", _number_moved("transform")),
    "larger letters": _of("text", _number_moved("font-size", 0.3)),
    "another face": _of("text", _other("font-family", "Liberation Sans", "Liberation Serif")),
    "bold": _of("text", _set(font_weight="bold")),
    "letters wider apart": _of("text", _set(letter_spacing="1")),
    "from its middle": _of("text", _set(text_anchor="middle")),
    "set to another length": _of("text", _number_moved("textLength", 1.5)),
    "other pixels": _of("image", _pixels),
    "a picture moved": _of("image", _number_moved("transform", 1.0)),
    "a picture dropped": _of("image", _removed),
}  # fmt: skip


def _other_order(root: Any, chance: random.Random) -> None:
    for own in root.iter():
        rows = list(own.attrib.items())
        chance.shuffle(rows)
        own.attrib.clear()
        for key, value in rows:
            own.set(key, value)


def _commas(root: Any, chance: random.Random) -> None:
    for own in root.iter(SVG + "path"):
        own.set("d", re.sub(r"(\d) (-?\d)", r"\1,\2", own.get("d")))


def _zeros(root: Any, chance: random.Random) -> None:
    for own in root.iter(SVG + "circle"):
        own.set("r", f"{float(own.get('r')):.9f}")


HARMLESS: dict[str, Way] = {
    "written anew": lambda root, chance: None,
    "attributes in another order": _other_order,
    "commas": _commas,
    "zeros behind": _zeros,
    "comments": lambda root, chance: root.insert(1, etree.Comment(" by hand ")),
    "indented": lambda root, chance: etree.indent(root) if not list(root.iter(SVG + "text")) else False,
}  # fmt: skip
"""What changes nothing that anybody sees or measures."""
