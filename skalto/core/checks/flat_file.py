"""Strokes of a DXF or SVG file as it stands on disk, found by readers of its plain text that share nothing with the writers.

They know what Skalto writes, no more: a reader of what others write is :mod:`skalto.core.sources.drawings`.
"""

from __future__ import annotations

import itertools
import math
import re
from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from xml.etree.ElementTree import Element

import numpy as np
from numpy.typing import NDArray

from skalto.core.artwork import Beziers, EdgeClass, Ellipses, Lines, Tags
from skalto.core.artwork.strokes import bulge_arcs
from skalto.core.checks.flat_paint import layer_without_number
from skalto.core.checks.paint import Paint, Paints
from skalto.core.checks.strokes import Pieces, of_curves, of_ellipses
from skalto.core.geometry import TAU, Array, Similarity

_TAGS = Tags(EdgeClass.DRAWN)
Row = tuple[float, ...]


@dataclass
class Gathered:
    """Strokes on the way: lines (4 numbers), elliptical arcs (8: centre, both axes, start, sweep) and curves (8), each with its
    width, its view, whether it is unseen, and the number of the run that it is a part of."""

    lines: list[Row] = field(default_factory=list)
    ellipses: list[Row] = field(default_factory=list)
    curves: list[Row] = field(default_factory=list)
    about: dict[str, list[tuple[float, str, bool, int]]] = field(default_factory=lambda: defaultdict(list))
    closed: list[bool] = field(default_factory=list)
    layers: list[str] = field(default_factory=list)
    paints: list[Paint] = field(default_factory=list)
    filled: Gathered | None = None
    """The outlines of what is filled, on the way too."""

    def run(self, closed: bool, layer: str, paint: Paint) -> int:
        """A new run of strokes."""
        self.closed.append(closed)
        self.layers.append(layer)
        self.paints.append(paint)
        return len(self.closed) - 1

    def add(self, kind: str, row: Row, width: float, view: str, unseen: bool, run: int) -> None:
        getattr(self, kind).append(row)
        self.about[kind].append((width, view, unseen, run))


Primitive = Lines | Ellipses | Beziers


@dataclass(frozen=True, eq=False)
class FlatFile:
    """What a file holds, mm, y up: its size, its strokes by kind and the same in pieces; whose view each piece is, which are
    unseen, the run that each is of; which runs are said to be closed, and the layer of each; how many mm a unit is; clip
    paths."""

    width: float | None
    height: float | None
    strokes: tuple[Primitive, ...]
    pieces: Pieces
    view: NDArray[np.str_]
    unseen: NDArray[np.bool_]
    run: NDArray[np.int64]
    closed: NDArray[np.bool_]
    layers: tuple[str, ...]
    unit_mm: float | None
    clips: int = 0
    areas: Pieces = field(default_factory=lambda: Pieces(np.zeros((0, 3, 2)), np.zeros(0)))
    """The outlines of what is filled."""

    def boxes(self, turn: float = 0.0) -> Array:
        """The exact box of each piece along axes turned by *turn* radians, (n, 2, 2)."""
        back = Similarity(turn=-turn)
        return np.concatenate([np.empty((0, 2, 2)), *(own.placed(back).bounds() for own in self.strokes)])

    def circles(self) -> tuple[Array, NDArray[np.str_]]:
        """Whole circles (k, 3), centre and radius, and whose view each is."""
        at = 0
        for own in self.strokes:
            if isinstance(own, Ellipses):
                rows = own.is_circle() & own.is_whole()
                return np.column_stack((own.centre, own.radii()[:, 0]))[rows], self.view[at : at + len(own)][rows]
            at += len(own)
        return np.empty((0, 3)), np.empty(0, np.str_)


def _finished(
    found: Gathered,
    factor: float,
    size: tuple[float | None, float | None],
    unit: float | None,
    clips: int = 0,
    tall: float | None = None,
) -> FlatFile:
    """What was gathered, in mm; :param tall: the page's height, mm, where y runs down from its top."""

    def at(xy: Array) -> Array:
        return xy * factor if tall is None else np.array((0.0, tall)) + xy * np.array((factor, -factor))

    def along(xy: Array) -> Array:
        return xy * (factor if tall is None else np.array((factor, -factor)))

    strokes: list[Primitive] = []
    courses, about = [], []
    if found.lines:
        points = at(np.array(found.lines).reshape(-1, 2, 2))
        courses.append(np.stack((points[:, 0], points.mean(axis=1), points[:, 1]), axis=1))
        strokes.append(Lines(_TAGS, points))
        about += found.about["lines"]
    if found.ellipses:
        e = np.array(found.ellipses)
        arcs = Ellipses(_TAGS, at(e[:, 0:2]), along(e[:, 2:4]), along(e[:, 4:6]), e[:, 6], e[:, 7])
        courses.append(of_ellipses(arcs))
        strokes.append(arcs)
        about += found.about["ellipses"]
    if found.curves:
        points = at(np.array(found.curves).reshape(-1, 4, 2))
        courses.append(of_curves(points, np.zeros(0)).course)
        strokes.append(Beziers(_TAGS, points))
        about += found.about["curves"]
    # the widths of a file with a size are in its own units; those of the others are lengths
    width = np.array([row[0] for row in about], float) * (1.0 if tall is None else factor)
    course = np.concatenate([np.empty((0, 3, 2)), *courses])
    view, unseen, run = zip(*((row[1], row[2], row[3]) for row in about), strict=True) if about else ((), (), ())
    runs = np.array(run, np.int64)
    numbers: dict[Paint, int] = {}
    of = np.array([numbers.setdefault(own, len(numbers)) for own in found.paints], np.int64)
    pieces = Pieces(course, width, Paints(of[runs] if len(runs) else runs, tuple(numbers)))
    areas = Pieces(np.zeros((0, 3, 2)), np.zeros(0))
    if found.filled is not None:
        areas = _finished(found.filled, factor, size, unit, clips, tall).pieces
    return FlatFile(
        size[0], size[1], tuple(strokes), pieces, np.array(view, np.str_), np.array(unseen, bool), runs,
        np.array(found.closed, bool), tuple(found.layers), unit, clips, areas,
    )  # fmt: skip


# DXF

UNITS = {1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0, 8: 2.54e-5, 9: 0.0254, 10: 914.4, 13: 1e-3, 14: 100.0}
"""$INSUNITS: millimetres of a drawing unit (DXF reference); others have none."""


def _groups(text: str) -> Iterator[tuple[int, str]]:
    lines = text.splitlines()
    for code, value in zip(lines[::2], lines[1::2], strict=True):
        yield int(code), value.strip()


def _objects(rows: list[tuple[int, str]]) -> Iterator[tuple[str, list[tuple[int, str]]]]:
    """Records with their group codes."""
    own: list[tuple[int, str]] = []
    name = ""
    for code, value in rows:
        if code == 0:
            if name:
                yield name, own
            name, own = value, []
        else:
            own.append((code, value))
    if name:
        yield name, own


def _sections(text: str) -> dict[str, list[tuple[int, str]]]:
    found: dict[str, list[tuple[int, str]]] = {}
    name: str | None = None
    opening = False
    for code, value in _groups(text):
        if code == 0 and value == "SECTION":
            opening = True
        elif opening and code == 2:
            name, opening = value, False
            found[name] = []
        elif code == 0 and value == "ENDSEC":
            name = None
        elif name is not None:
            found[name].append((code, value))
    return found


class Record:
    """The group codes of a record."""

    def __init__(self, rows: list[tuple[int, str]]) -> None:
        self.rows = rows
        self.first: dict[int, str] = {}
        for code, value in rows:
            self.first.setdefault(code, value)

    def number(self, code: int, default: float = 0.0) -> float:
        return float(self.first.get(code, default))

    def all(self, code: int) -> list[float]:
        return [float(value) for own, value in self.rows if own == code]


def read_dxf_text(data: bytes) -> FlatFile:
    """The strokes of a DXF file (DXF reference, group codes)."""
    sections = _sections(data.decode("utf-8", errors="replace"))
    unit = None
    header = sections.get("HEADER", [])
    for (code, name), (_, value) in itertools.pairwise(header):
        if code == 9 and name == "$INSUNITS":
            unit = UNITS.get(int(value))
    widths: dict[str, float] = {}
    colours: dict[str, int] = {}
    types: dict[str, tuple[float, ...]] = {}
    for kind, rows in _objects(sections.get("TABLES", [])):
        record = Record(rows)
        name = record.first.get(2, "").casefold()
        if kind == "LAYER":
            widths[name] = record.number(370, -3) / 100
            colours[name] = int(record.number(420))
        elif kind == "LTYPE":
            types[name] = tuple(map(abs, record.all(49)))
    views: dict[str, tuple[str, bool]] = {}
    for kind, rows in _objects(sections.get("OBJECTS", [])):
        record = Record(rows)
        told = re.fullmatch(r"view (\d+)( unseen)?", record.first.get(300, ""))
        if kind == "GROUP" and told:
            for code, value in rows:
                if code == 340:
                    views[value] = told[1], bool(told[2])
    found = Gathered(filled=Gathered())
    for kind, rows in _objects(sections.get("ENTITIES", [])):
        record = Record(rows)
        layer = record.first.get(8, "0")
        own = record.number(370, -1)
        width = widths.get(layer.casefold(), 0.0) if own < 0 else own / 100
        view, unseen = views.get(record.first.get(5, ""), ("", False))
        paint = _dxf_paint(record, layer.casefold(), colours, types, view, unseen)
        if kind == "HATCH" and found.filled is not None:
            _hatch(record, found.filled, layer, paint)
        else:
            _entity(kind, record, found, layer, (width, view, unseen), paint)
    return _finished(found, unit or 1.0, (None, None), unit)


def _dxf_paint(
    r: Record, layer: str, colours: Mapping[str, int], types: Mapping[str, tuple[float, ...]], view: str, unseen: bool
) -> Paint:
    colour = int(r.number(420, colours.get(layer, 0)))
    rgb = (colour >> 16 & 255, colour >> 8 & 255, colour & 255)
    if 420 not in r.first and r.number(62, 256) != 256:
        # by a number alone: none that was asked for
        rgb = (-1, -1, -1)
    opacity = (int(r.number(440)) & 255) / 255 if 440 in r.first else 1.0
    number = int(view) if view else None
    return Paint(rgb, types.get(r.first.get(6, "").casefold(), ()), opacity=opacity, layer=layer, view=number, unseen=unseen)


def dxf_paints(data: bytes) -> Iterator[tuple[str, Record, Paint]]:
    """What stands in the drawing's space, record by record, and how it is painted; which view it is of is not asked for."""
    sections = _sections(data.decode("utf-8", errors="replace"))
    colours: dict[str, int] = {}
    for kind, rows in _objects(sections.get("TABLES", [])):
        if kind == "LAYER":
            record = Record(rows)
            colours[record.first.get(2, "").casefold()] = int(record.number(420))
    for kind, rows in _objects(sections.get("ENTITIES", [])):
        record = Record(rows)
        yield kind, record, _dxf_paint(record, record.first.get(8, "0").casefold(), colours, {}, "", False)


def _hatch(r: Record, found: Gathered, layer: str, paint: Paint) -> None:
    """The outlines of a hatch (DXF reference, HATCH): of corners, or of lines and cubic splines."""
    rows = iter(r.rows)
    about = (0.0, "", False)
    corners: list[list[float]] | None = None
    edge: list[float] = []
    kind = 0
    run = -1

    def end_edge() -> None:
        if kind == 1 and len(edge) == 4:
            found.add("lines", tuple(edge), *about, run)
        elif kind == 4 and len(edge) == 8:
            found.add("curves", tuple(edge), *about, run)
        edge.clear()

    def end_path() -> None:
        end_edge()
        for a, b in itertools.pairwise([*corners, *corners[:1]] if corners else []):
            found.add("lines", (*a, *b), *about, run)

    for code, value in rows:
        if code == 92:
            end_path()
            corners, kind = ([] if int(value) & 2 else None), 0
            run = found.run(True, layer, paint)
        elif run < 0:
            continue
        elif code in (75, 98):
            break
        elif code == 72 and corners is None:
            end_edge()
            kind = int(value)
        elif code == 10 and corners is not None:
            corners.append([float(value), 0.0])
        elif code == 20 and corners:
            corners[-1][1] = float(value)
        elif code in (10, 20, 11, 21) and corners is None:
            edge.append(float(value))
    end_path()


def _entity(kind: str, r: Record, found: Gathered, layer: str, about: tuple[float, str, bool], paint: Paint) -> None:
    if kind == "LINE":
        found.add("lines", (r.number(10), r.number(20), r.number(11), r.number(21)), *about, found.run(False, layer, paint))
    elif kind in ("CIRCLE", "ARC"):
        radius, start, sweep = r.number(40), 0.0, TAU
        if kind == "ARC":
            start = math.radians(r.number(50))
            sweep = (math.radians(r.number(51)) - start) % TAU or TAU
        found.add(
            "ellipses",
            (r.number(10), r.number(20), radius, 0, 0, radius, start, sweep),
            *about,
            found.run(kind == "CIRCLE", layer, paint),
        )
    elif kind == "ELLIPSE":
        ax, ay, ratio, start = r.number(11), r.number(21), r.number(40), r.number(41)
        up = math.copysign(1.0, r.number(230, 1.0))
        sweep = (r.number(42) - start) % TAU
        sweep = TAU if sweep < 1e-9 or sweep > TAU - 1e-9 else sweep
        row = (r.number(10), r.number(20), ax, ay, -ay * ratio * up, ax * ratio * up, start, sweep)
        found.add("ellipses", row, *about, found.run(sweep >= TAU, layer, paint))
    elif kind == "LWPOLYLINE":
        _polyline(r, found, layer, about, paint)
    elif kind == "SPLINE":
        _spline(r, found, layer, about, paint)


def _polyline(r: Record, found: Gathered, layer: str, about: tuple[float, str, bool], paint: Paint) -> None:
    points: list[list[float]] = []
    for code, value in r.rows:
        if code == 10:
            points.append([float(value), 0.0, 0.0])
        elif code == 20 and points:
            points[-1][1] = float(value)
        elif code == 42 and points:
            points[-1][2] = float(value)
    closed = bool(int(r.number(70)) & 1)
    run = found.run(closed, layer, paint)
    for (ax, ay, bulge), (bx, by, _) in itertools.pairwise([*points, *points[:1]] if closed else points):
        if abs(bulge) <= 1e-12:
            found.add("lines", (ax, ay, bx, by), *about, run)
        else:
            c, a, b, s, w = bulge_arcs(np.array(((ax, ay),)), np.array(((bx, by),)), np.array((bulge,)))
            found.add("ellipses", (*c[0].tolist(), *a[0].tolist(), *b[0].tolist(), float(s[0]), float(w[0])), *about, run)


def _spline(r: Record, found: Gathered, layer: str, about: tuple[float, str, bool], paint: Paint) -> None:
    degree = int(r.number(71))
    knots, x, y = np.array(r.all(40)), r.all(10), r.all(20)
    run = found.run(bool(int(r.number(70)) & 1), layer, paint)
    if degree != 3 or len(knots) != len(x) + 4 or len(x) % 3 != 1:
        return  # not what is written here: its pieces are then missing
    for n in range(0, len(x) - 3, 3):
        found.add("curves", tuple(v for k in range(4) for v in (x[n + k], y[n + k])), *about, run)


# SVG

_LENGTHS = {"mm": 1.0, "cm": 10.0, "in": 25.4, "pt": 25.4 / 72, "px": 25.4 / 96, "": 25.4 / 96}
_NUMBER = r"[-+]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][-+]?\d+)?"
_TOKEN = re.compile(rf"[MLACZ]|{_NUMBER}")


def _length(text: str) -> float | None:
    match = re.fullmatch(rf"({_NUMBER})\s*(mm|cm|in|pt|px|)", text.strip())
    return float(match[1]) * _LENGTHS[match[2]] if match else None


def arc_of(
    p: tuple[float, float], q: tuple[float, float], rx: float, ry: float, turn: float, large: bool, positive: bool
) -> Row:
    """An SVG arc as centre, axes, start and sweep, the sweep positive (SVG 1.1, F.6.5); y runs down, and so do the angles."""
    cos, sin = math.cos(turn), math.sin(turn)
    dx, dy = (p[0] - q[0]) / 2, (p[1] - q[1]) / 2
    x, y = cos * dx + sin * dy, -sin * dx + cos * dy
    grow = max(1.0, math.sqrt((x / rx) ** 2 + (y / ry) ** 2))
    rx, ry = rx * grow, ry * grow
    top = max(0.0, (rx * ry) ** 2 - (rx * y) ** 2 - (ry * x) ** 2)
    k = math.sqrt(top / ((rx * y) ** 2 + (ry * x) ** 2)) * (-1 if large == positive else 1)
    cx, cy = k * rx * y / ry, -k * ry * x / rx
    start, end = math.atan2((y - cy) / ry, (x - cx) / rx), math.atan2((-y - cy) / ry, (-x - cx) / rx)
    middle = (cos * cx - sin * cy + (p[0] + q[0]) / 2, sin * cx + cos * cy + (p[1] + q[1]) / 2)
    sweep = (end - start) % TAU if positive else (start - end) % TAU
    return (*middle, cos * rx, sin * rx, -sin * ry, cos * ry, start if positive else end, sweep or TAU)


def _path(text: str, found: Gathered, about: tuple[float, str, bool], layer: str, paint: Paint) -> None:
    tokens = _TOKEN.findall(text)
    at, command = 0, ""
    here = begin = (0.0, 0.0)
    run = -1

    def take(count: int) -> list[float]:
        nonlocal at
        values = [float(v) for v in tokens[at : at + count]]
        at += count
        return values

    while at < len(tokens):
        if tokens[at] in "MLACZ":
            command = tokens[at]
            at += 1
        if command == "M":
            x, y = take(2)
            here = begin = (x, y)
            run = found.run(False, layer, paint)
        elif command == "L":
            x, y = take(2)
            found.add("lines", (*here, x, y), *about, run)
            here = (x, y)
        elif command == "C":
            values = take(6)
            found.add("curves", (*here, *values), *about, run)
            here = (values[4], values[5])
        elif command == "A":
            rx, ry, turn, large, positive, x, y = take(7)
            found.add("ellipses", arc_of(here, (x, y), rx, ry, math.radians(turn), bool(large), bool(positive)), *about, run)
            here = (x, y)
        else:
            if math.dist(here, begin) > 1e-9:
                found.add("lines", (*here, *begin), *about, run)
            found.closed[run] = True
            here = begin


_STYLED = (
    "stroke", "stroke-width", "fill", "stroke-linecap", "stroke-linejoin", "stroke-dasharray", "stroke-dashoffset", "opacity",
    "style", "fill-rule",
)  # fmt: skip
_OF_A_VIEW = re.compile(r"view-(\d{1,6})(-unseen)?")
_SVG_ENDS = {"butt": "flat", "round": "round", "square": "square"}
_SVG_JOINS = {"miter": "mitre", "round": "round", "bevel": "bevel"}


def _hex(text: str) -> tuple[int, int, int]:
    found = re.fullmatch(r"#([0-9a-fA-F]{2})([0-9a-fA-F]{2})([0-9a-fA-F]{2})", text.strip())
    return (int(found[1], 16), int(found[2], 16), int(found[3], 16)) if found else (-1, -1, -1)


def svg_paint(style: Mapping[str, str], layer: str, view: str, unseen: bool) -> Paint:
    """How an element is painted, by what it and those around it say (SVG 1.1, 11)."""
    stroked = style.get("stroke", "none") != "none"
    common = Paint(
        colour=_hex(style["stroke"] if stroked else style.get("fill", "")), opacity=float(style.get("opacity", 1)),
        multiplied="multiply" in style.get("style", ""), layer=layer_without_number(layer),
        view=int(view) if view else None, unseen=unseen,
    )  # fmt: skip
    if not stroked:
        return replace(common, rule=style.get("fill-rule", "nonzero"))
    dashes = style.get("stroke-dasharray", "").replace(",", " ").split()
    return replace(
        common, dashes=tuple(float(own) for own in dashes), phase=float(style.get("stroke-dashoffset", 0)),
        ends=_SVG_ENDS.get(style.get("stroke-linecap", "butt"), ""),
        joins=_SVG_JOINS.get(style.get("stroke-linejoin", "miter"), ""),
    )  # fmt: skip


def svg_texts(element: Element, style: Mapping[str, str] = {}, layer: str = "") -> Iterator[tuple[Element, Paint]]:
    """The texts of an SVG file, and how each is painted; which view it is of is not asked for."""
    style = {**style, **{key: element.attrib[key] for key in _STYLED if key in element.attrib}}
    name, own = element.tag.rpartition("}")[2], element.attrib.get("id", "")
    if name == "g" and own and not _OF_A_VIEW.fullmatch(own):
        layer = own
    if name == "text":
        yield element, replace(svg_paint(style, layer, "", False), rule="")
    for child in element:
        yield from svg_texts(child, style, layer)


def _walk(element: Element, style: dict[str, str], view: str, unseen: bool, layer: str, found: Gathered) -> int:
    """Gather what an element draws; how many clip paths it names."""
    name = element.tag.rpartition("}")[2]
    style = style | {key: element.attrib[key] for key in _STYLED if key in element.attrib}
    clips = int("clip-path" in element.attrib or name == "clipPath")
    own = element.attrib.get("id", "")
    told = _OF_A_VIEW.fullmatch(own)
    if told:
        view, unseen = told[1], bool(told[2])
    elif name == "g" and own:
        layer = own
    if style.get("stroke", "none") != "none":
        about = (float(style.get("stroke-width", 1)), view, unseen)
        get = element.attrib.get
        paint = svg_paint(style, layer, view, unseen)
        if name == "path":
            _path(get("d", ""), found, about, layer, paint)
        elif name == "circle":
            r = float(get("r", 0))
            found.add(
                "ellipses",
                (float(get("cx", 0)), float(get("cy", 0)), r, 0, 0, r, 0, TAU),
                *about,
                found.run(True, layer, paint),
            )
        elif name == "ellipse":
            cx, cy, rx, ry = (float(get(key, 0)) for key in ("cx", "cy", "rx", "ry"))
            match = re.match(rf"rotate\(({_NUMBER})", get("transform", ""))
            turn = math.radians(float(match[1])) if match else 0.0
            cos, sin = math.cos(turn), math.sin(turn)
            found.add(
                "ellipses", (cx, cy, cos * rx, sin * rx, -sin * ry, cos * ry, 0, TAU), *about, found.run(True, layer, paint)
            )
    elif name == "path" and style.get("fill", "none") != "none" and found.filled is not None:
        _path(element.attrib.get("d", ""), found.filled, (0.0, "", False), layer, svg_paint(style, layer, view, unseen))
    return clips + sum(_walk(child, style, view, unseen, layer, found) for child in element)


def read_svg_text(data: bytes) -> FlatFile:
    """The strokes of an SVG file as it is written here: absolute paths, circles and ellipses, no transforms but turns of these.
    Coordinates come out as a page has them, y up."""
    from defusedxml.ElementTree import fromstring

    root = fromstring(data)
    box = [float(v) for v in root.attrib.get("viewBox", "0 0 1 1").split()]
    width, height = _length(root.attrib.get("width", "")), _length(root.attrib.get("height", ""))
    factor = (width or box[2]) / box[2]
    found = Gathered(filled=Gathered())
    clips = _walk(root, {}, "", False, "", found)
    tall = height if height is not None else box[3] * factor
    return _finished(found, factor, (width, height), factor, clips, tall)
