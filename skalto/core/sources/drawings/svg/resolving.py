"""An SVG file made plain by usvg: groups, paths of lines and cubic Béziers, pictures; styles and references are resolved."""

from __future__ import annotations

import math
import re
from collections import Counter
from dataclasses import dataclass, field
from xml.etree.ElementTree import Element, SubElement, tostring

import defusedxml.ElementTree as Safe
from defusedxml import DefusedXmlException

from skalto.core.errors import InputError
from skalto.core.quantities import parse_length
from skalto.core.sources.drawings.svg.letters import GENERIC, PLAIN, Fonts, fonts_of
from skalto.core.sources.drawings.svg.sandbox import SandboxError, run
from skalto.core.sources.drawings.svg.styling import write_styles

PX = 25.4 / 96
"""Millimetres of a CSS pixel (CSS Values 3, 5.2: 1/96 inch)."""

SVG, XLINK = "http://www.w3.org/2000/svg", "http://www.w3.org/1999/xlink"
_PHYSICAL = re.compile(r"\s*([\d.]+(?:[eE][-+]?\d+)?)\s*(mm|cm|in|pt|pc)\s*", re.IGNORECASE)
_SUBSET_END = re.compile(rb"\]\s*>")
_ENTITY = re.compile(rb"<!ENTITY\s+([\w.-]+)\s+[\"']([^\"'&%<]{0,200})[\"']\s*>")
_HIDDEN = re.compile(r"display\s*:\s*none|visibility\s*:\s*hidden")
DEEPEST = 200
_MOST_ENTITIES = 40
_GROUPS = frozenset(("g", "use", "svg", "a", "switch"))
_UNDRAWN = {
    "foreignObject": "embedded web page (foreignObject)",
    "animate": "animation: as it starts",
    "animateTransform": "animation: as it starts",
    "set": "animation: as it starts",
}


@dataclass
class Plain:
    """A file made plain: its *root*, the *box* of its coordinates (left, top, width, height), mm of a unit in x and in y or
    None where nothing physical says it, the ids of what stands uppermost and can be a layer, its fonts, and what is told."""

    root: Element
    box: tuple[float, float, float, float]
    unit: tuple[float, float] | None
    layers: frozenset[str]
    fonts: Fonts
    notices: Counter[str] = field(default_factory=Counter)


def local(node: Element) -> str:
    """An element's name without its namespace."""
    return str(node.tag).rsplit("}", 1)[-1]


def parsed(data: bytes, name: str) -> Element:
    """The tree of an SVG file.

    :raises InputError: when it is not SVG, or might fetch or swell.
    """
    try:
        root: Element = Safe.fromstring(_without_entities(data))
    except DefusedXmlException:
        raise InputError(f"{name} declares entities, which may fetch or swell: save it as plain SVG.") from None
    except Safe.ParseError as error:
        raise InputError(f"{name} is not well-formed XML (line {error.position[0]}): export the drawing again.") from None
    if local(root) != "svg":
        raise InputError(f"{name} is XML, but not SVG: export the drawing as SVG.")
    if _depth(root) > DEEPEST:
        raise InputError(f"{name} nests more than {DEEPEST} groups in one another: ungroup the drawing and export it again.")
    return root


def _depth(root: Element) -> int:
    deep, level = 0, [root]
    while level and deep <= DEEPEST:
        deep, level = deep + 1, [child for node in level for child in node]
    return deep


def _without_entities(data: bytes) -> bytes:
    """A file whose few short names for texts are written out, as old exporters have them; what could fetch or swell stays."""
    begin = data.find(b"<!DOCTYPE")
    opened = data.find(b"[", begin)
    if begin < 0 or opened < 0 or b">" in data[begin:opened]:
        return data
    end = _SUBSET_END.search(data, opened)
    if end is None:
        return data
    subset = data[opened + 1 : end.start()]
    known = dict(_ENTITY.findall(subset))
    if not known or len(known) > _MOST_ENTITIES or len(known) != subset.count(b"<!ENTITY"):
        return data
    body = data[:begin] + data[end.end() :]
    if body.count(b"&") * 200 > max(len(body), 1 << 20):
        return data
    return re.sub(rb"&([\w.-]+);", lambda match: known.get(match[1], match[0]), body)


def resolve(root: Element, name: str) -> Plain:
    """What the tree of an SVG file draws. The tree itself is changed.

    :raises InputError: when it is nested so deep, or repeats itself so often, that it cannot be resolved.
    """
    notices: Counter[str] = Counter()
    _tidy(root, notices)
    write_styles(root)
    box, unit = _size(root)
    layers = frozenset(node.get("id", "") for node in root if local(node) in _GROUPS and node.get("id"))
    fonts = fonts_of(root)
    options = ["--skip-system-fonts", "--indent", "none", "--font-family", PLAIN]
    for kind, family in GENERIC.items():
        options += [f"--{kind}-family", family]
    if fonts.files:
        options += ["--use-fonts-dir", "/w"]
    try:
        data, _ = run("usvg", [*options, "/w/in.svg", "/w/out.svg"], {"in.svg": tostring(root), **fonts.files}, "out.svg")
    except SandboxError:
        raise InputError(f"{name} cannot be resolved: it repeats itself too often, or is damaged. Export it again.") from None
    return Plain(Safe.fromstring(data), box, unit, layers, fonts, notices)


def _tidy(root: Element, notices: Counter[str]) -> None:
    """Elements get the namespace that old files leave out; nothing refers to what is not in the file itself."""
    for parent in list(root.iter()):
        for node in list(parent):
            if not isinstance(node.tag, str):
                continue
            kind = local(node)
            if kind in _UNDRAWN:
                notices[_UNDRAWN[kind]] += 1
            target = node.get(f"{{{XLINK}}}href", node.get("href", "")).strip()
            if kind in ("image", "feImage") and not target.startswith("data:"):
                notices["picture in a file of its own"] += kind == "image"
                parent.remove(node)
            elif kind == "use" and not target.startswith("#"):
                notices["part in a file of its own"] += 1
                parent.remove(node)
            elif _HIDDEN.search(node.get("style", "")) or node.get("display") == "none" or node.get("visibility") == "hidden":
                notices["hidden element"] += 1
    for node in root.iter():
        if isinstance(node.tag, str) and not node.tag.startswith("{"):
            node.tag = f"{{{SVG}}}{node.tag}"


def _size(root: Element) -> tuple[tuple[float, float, float, float], tuple[float, float] | None]:
    """The box of the user's units, and the mm of one in x and in y; the root is rewritten so that shapes are resolved in these
    units as they stand (SVG 1.1, 7.7, 7.8)."""
    mm = [_millimetres(root.get(side, "")) for side in ("width", "height")]
    box = [float(v) for v in re.split(r"[\s,]+", root.get("viewBox", "").strip()) if _is_number(v)]
    if len(box) == 4 and box[2] > 0 and box[3] > 0:
        left, top, width, height = box
        x, y = (size / side if size else None for size, side in zip(mm, (width, height), strict=True))
        fitting = root.get("preserveAspectRatio", "").split()
        if x and y and "none" not in fitting:
            x = y = max(x, y) if "slice" in fitting else min(x, y)
        one, other = x or y, y or x
        unit = (one, other) if one and other else None
    else:
        left = top = 0.0
        width, height = (s / PX if s else _plain(root.get(side)) for s, side in zip(mm, ("width", "height"), strict=True))
        unit = (PX, PX) if any(mm) else None
    root.attrib.pop("preserveAspectRatio", None)
    sides = width or 100.0, height or 100.0
    root.set("width", repr(sides[0]))
    root.set("height", repr(sides[1]))
    root.set("viewBox", f"{left!r} {top!r} {sides[0]!r} {sides[1]!r}")
    return (left, top, width, height), unit


def _is_number(text: str) -> bool:
    """Whether it is a number, and a finite one."""
    try:
        return math.isfinite(float(text))
    except ValueError:
        return False


def _millimetres(text: str) -> float | None:
    """A physical length in mm; None for any other."""
    match = _PHYSICAL.fullmatch(text)
    if match is None or not _is_number(match[1]):
        return None
    number, unit = match[1], match[2].lower()
    # a pica has twelve points
    return float(parse_length(f"{float(number):.12f}{'pt' if unit == 'pc' else unit}")) * (12 if unit == "pc" else 1)


def _plain(text: str | None) -> float:
    number = (text or "0").strip().removesuffix("px")
    return float(number) if _is_number(number) else 0.0


def picture(definitions: Element, painted: Element, box: tuple[float, float, float, float], columns: int) -> bytes:
    """A PNG picture of one thing, *columns* pixels wide, of the box (left, top, width, height) of the user's units.

    :raises SandboxError: when it cannot be painted.
    """
    root = Element(f"{{{SVG}}}svg", {"viewBox": " ".join(repr(v) for v in box), "width": repr(box[2]), "height": repr(box[3])})
    root.append(definitions)
    SubElement(root, f"{{{SVG}}}g").append(painted)
    data, _ = run(
        "resvg", ["-w", str(columns), "--skip-system-fonts", "/w/in.svg", "/w/out.png"], {"in.svg": tostring(root)}, "out.png"
    )
    return data
