"""A flat pattern as DXF, by line kinds, and the file read again and held against the pattern."""

from __future__ import annotations

import io
import itertools
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import ezdxf
from ezdxf.lldxf.const import VALID_DXF_LINEWEIGHTS

from skalto.core.geometry.biarcs import arcs_of, lines_of
from skalto.core.geometry.contour import Contour
from skalto.core.geometry.segments import Arc, Cubic, Line, Segment
from skalto.core.sheet_metal.feature_kinds import FeatureKind
from skalto.core.sheet_metal.flat_writing import Curves, FlatWriting, LineKind, LineWriting, Version
from skalto.core.sheet_metal.pattern import FlatPattern
from skalto.core.strokefont import length as text_length
from skalto.core.strokefont import strokes

_MM = 4
"""$INSUNITS: millimetres (DXF reference)."""
_TYPES = {"dashed": (6.0, 4.0, -2.0), "chain": (13.0, 8.0, -2.0, 1.0, -2.0), "dotted": (2.5, 0.5, -2.0)}
"""Line types: the length of the pattern, then dashes and gaps, mm."""
SAME = 1e-6
"""Areas of the file read again differ by less than this share."""


@dataclass(frozen=True)
class WrittenPattern:
    """A file of a pattern, how far its arcs or lines are off its curves at most, mm, and what is to be told of it."""

    data: bytes
    deviation: float
    notes: tuple[str, ...]


def lines_by_kind(made: FlatPattern, writing: FlatWriting) -> Iterator[tuple[LineKind, Contour]]:
    """All lines of a pattern, with what each is."""
    yield LineKind.OUTER, made.outline
    for own in made.openings:
        yield LineKind.INNER, own
    for bend in made.bends:
        kind = LineKind.BEND_UP if bend.direction == "up" else LineKind.BEND_DOWN
        for piece in made.bend_pieces(bend):
            yield kind, Contour((Line(*piece),), closed=False)
        for limit in bend.limits if writing.of(LineKind.BEND_LIMIT).written else ():
            for piece in made.bend_pieces(bend, limit):
                yield LineKind.BEND_LIMIT, Contour((Line(*piece),), closed=False)
    for feature in made.features:
        if feature.kind in (FeatureKind.FORMED, FeatureKind.BOSS):
            if feature.side == 0:
                yield LineKind.FORMED, feature.outline
        elif feature.side == 0:
            yield LineKind.SCORE if feature.kind is FeatureKind.POCKET else LineKind.SUNK, feature.outline
        else:
            yield LineKind.OTHER_SIDE, feature.outline
    if writing.of(LineKind.MARK).written and made.name:
        for own in _mark(made, writing.mark):
            yield LineKind.MARK, own
    if writing.of(LineKind.GRAIN).written:
        for own in _grain(made):
            yield LineKind.GRAIN, own


def _mark(made: FlatPattern, height: float) -> Iterator[Contour]:
    """The part's name in single strokes, about the middle of the largest clear circle, smaller where it must be."""
    x, y, radius = made.clear
    wide = max(text_length(made.name), 1e-3)
    size = min(height, 2 * radius * 0.9 / math.hypot(wide, 1.0))
    for stroke in strokes(made.name):
        points = stroke * size + (x - wide * size / 2, y - size / 2)
        rows = [(float(a), float(b)) for a, b in points]
        segments = tuple(Line(p, q) for p, q in itertools.pairwise(rows) if p != q)
        if segments:
            yield Contour(segments, closed=False)


def _grain(made: FlatPattern) -> Iterator[Contour]:
    """An arrow both ways along x, under the middle of the largest clear circle."""
    x, y, radius = made.clear
    size, y = min(0.8 * radius, 30.0), y - radius / 2
    tip = size / 6
    yield Contour((Line((x - size, y), (x + size, y)),), closed=False)
    for way in (-1, 1):
        end = (x + way * size, y)
        for side in (-1, 1):
            yield Contour((Line(end, (end[0] - way * tip, y + side * tip / 3)),), closed=False)


def other_side(made: FlatPattern) -> FlatPattern:
    """The pattern as side B shows it, mirrored, with what is on it."""
    from dataclasses import replace

    width, _ = made.box

    def flipped(own: Contour) -> Contour:
        from skalto.core.geometry import Similarity

        return own.mirrored().placed(Similarity(dx=width))

    def point(at: tuple[float, float]) -> tuple[float, float]:
        return width - at[0], at[1]

    return replace(
        made, outline=flipped(made.outline), openings=tuple(flipped(own) for own in made.openings),
        features=tuple(replace(own, outline=flipped(own.outline), side=1 - own.side) for own in made.features),
        bends=tuple(
            own.model_copy(
                update={
                    "line": (point(own.line[0]), point(own.line[1])),
                    "limits": tuple((point(a), point(b)) for a, b in own.limits),
                    "direction": "down" if own.direction == "up" else "up",
                }
            )
            for own in made.bends
        ),
        turned_over=not made.turned_over,
    )  # fmt: skip


def has_other_side(made: FlatPattern) -> bool:
    """Whether something is worked from side B."""
    return any(own.side == 1 and own.kind is not FeatureKind.BEVEL for own in made.features)


def write_pattern(made: FlatPattern, writing: FlatWriting) -> WrittenPattern:
    """A pattern as DXF in mm, its lower left at the origin."""
    document = ezdxf.new(writing.version.value)
    if writing.version is not Version.R12:
        document.units = _MM
        document.header["$MEASUREMENT"] = 1
    space = document.modelspace()
    width, height = made.box
    document.header["$EXTMIN"], document.header["$EXTMAX"] = (0.0, 0.0, 0.0), (width, height, 0.0)
    layers: dict[LineKind, str] = {}
    curves = _curves(writing)
    notes = []
    if curves is not writing.curves and any(isinstance(s, Cubic) for own in (made.outline, *made.openings) for s in own):
        notes.append(f"R12 has no splines: curves are arcs within {writing.tolerance:g} mm.")
    worst = 0.0
    for kind, contour in lines_by_kind(made, writing):
        own = writing.of(kind)
        if not own.written:
            continue
        if kind not in layers:
            layers[kind] = _layer(document, own, writing.version)
        contour, off = _as_written(contour, writing)
        worst = max(worst, off)
        _draw(space, contour, {"layer": layers[kind]}, writing)
    if worst > 0:
        notes.append(f"Curves are {curves.value} within {1000 * worst:.3g} µm.")
    stream = io.StringIO()
    document.write(stream)
    return WrittenPattern(stream.getvalue().encode(document.output_encoding, errors="dxfreplace"), worst, tuple(notes))


def _curves(writing: FlatWriting) -> Curves:
    """What curves become: R12 has no splines."""
    return Curves.ARCS if writing.version is Version.R12 and writing.curves is Curves.SPLINES else writing.curves


def _as_written(contour: Contour, writing: FlatWriting) -> tuple[Contour, float]:
    """A contour with its curves as they are written, and how far these are off at most, mm."""
    curves = _curves(writing)
    if curves is Curves.SPLINES:
        return contour, 0.0
    return (arcs_of if curves is Curves.ARCS else lines_of)(contour, writing.tolerance)


def _layer(document: Any, own: LineWriting, version: Version) -> str:
    """The layer of a kind of line, made where it is not there."""
    name = own.layer
    if version is Version.R12:
        # names of R12 have capitals, digits, $, - and _, 31 of them (DXF reference)
        name = "".join(c if c.isalnum() or c in "$-_" else "_" for c in name.upper())[:31]
    kind = "CONTINUOUS"
    if own.line_type != "continuous":
        kind = own.line_type.upper()
        if kind not in document.linetypes:
            document.linetypes.add(kind, list(_TYPES[own.line_type]), description=own.line_type)
    if name not in document.layers:
        made = document.layers.add(name, color=own.colour, linetype=kind)
        if version is not Version.R12:
            made.dxf.lineweight = int(min(VALID_DXF_LINEWEIGHTS, key=lambda w: abs(w - own.width * 100)))
        if not own.on:
            made.off()
    return name


def _draw(space: Any, contour: Contour, with_: dict[str, Any], writing: FlatWriting) -> None:
    circle = contour.as_circle
    if circle is not None:
        space.add_circle(*circle, with_)
        return
    plain = not any(isinstance(segment, Cubic) for segment in contour)
    if writing.joined and plain and len(contour.segments) > 1:
        rows = [(*s.start, math.tan(s.sweep / 4) if isinstance(s, Arc) else 0.0) for s in _halved(contour.segments)]
        if not contour.closed:
            rows.append((*contour.end, 0.0))
        if writing.version is Version.R12:
            made = space.add_polyline2d([(x, y, b) for x, y, b in rows], format="xyb", dxfattribs=with_)
            made.close(contour.closed)
        else:
            space.add_lwpolyline(rows, format="xyb", close=contour.closed, dxfattribs=with_)
        return
    for own, chain in itertools.groupby(contour, key=lambda s: isinstance(s, Cubic)):
        pieces = list(chain)
        if own:
            _spline(space, [s for s in pieces if isinstance(s, Cubic)], with_)
            continue
        for segment in pieces:
            if isinstance(segment, Line):
                space.add_line(segment.start, segment.end, with_)
            elif isinstance(segment, Arc):
                _arc(space, segment, with_)


def _halved(segments: Sequence[Segment]) -> Iterator[Segment]:
    """Arcs of more than half a turn as two: a bulge tells no whole turn, and larger ones lose digits."""
    for own in segments:
        if isinstance(own, Arc) and abs(own.sweep) > math.pi * 1.001:
            yield from own.halves()
        else:
            yield own


def _arc(space: Any, segment: Arc, with_: dict[str, Any]) -> None:
    a = math.degrees(math.atan2(segment.start[1] - segment.centre[1], segment.start[0] - segment.centre[0]))
    b = math.degrees(math.atan2(segment.end[1] - segment.centre[1], segment.end[0] - segment.centre[0]))
    start, end = (a, b) if segment.sweep > 0 else (b, a)
    space.add_arc(segment.centre, segment.radius, start, end, dxfattribs=with_)


def _spline(space: Any, pieces: Sequence[Cubic], with_: dict[str, Any]) -> None:
    from ezdxf.math import BSpline, Vec3

    points = [Vec3(*pieces[0].start)]
    for own in pieces:
        points += [Vec3(*own.first), Vec3(*own.second), Vec3(*own.end)]
    knots = [0.0] * 4 + [float(k) for k in range(1, len(pieces)) for _ in range(3)] + [float(len(pieces))] * 4
    space.add_spline(dxfattribs=with_).apply_construction_tool(BSpline(points, order=4, knots=knots))


def reread(data: bytes, made: FlatPattern, writing: FlatWriting) -> tuple[str, ...]:
    """What is wrong with a written file, read again: contours that do not close, areas and counts that differ, doubled entities
    and such of no length; nothing where all is well."""
    document = ezdxf.read(io.StringIO(data.decode("utf-8", errors="replace")))
    found: list[str] = []
    seen: set[tuple[Any, ...]] = set()
    per_layer: dict[str, list[Segment]] = {}
    for entity in document.modelspace():
        key = _key(entity)
        if key in seen:
            found.append(f"A {entity.dxftype()} is there twice.")
        seen.add(key)
        for segment in _segments(entity):
            if segment.length < 1e-7:
                found.append(f"A {entity.dxftype()} has no length.")
            per_layer.setdefault(entity.dxf.layer.casefold(), []).append(segment)
    wanted: dict[str, list[Contour]] = {}
    for kind, contour in lines_by_kind(made, writing):
        if kind in (LineKind.OUTER, LineKind.INNER) and writing.of(kind).written:
            own, _ = _as_written(contour, writing)
            wanted.setdefault(_read_name(writing.of(kind).layer, writing.version), []).append(own)
    for layer, contours in wanted.items():
        found += _closed(layer, per_layer.get(layer, []), contours)
    return tuple(found)


def _read_name(layer: str, version: Version) -> str:
    if version is Version.R12:
        layer = "".join(c if c.isalnum() or c in "$-_" else "_" for c in layer.upper())[:31]
    return layer.casefold()


def _closed(layer: str, segments: Sequence[Segment], contours: Sequence[Contour]) -> Iterator[str]:
    from skalto.core.geometry.stringing import strung

    got = strung(segments)
    if got.open:
        yield f"{len(got.open)} contours on {layer} do not close."
    own = sorted(abs(c.area) for c in got.closed)
    asked = sorted(abs(c.area) for c in contours)
    if len(own) != len(asked):
        yield f"{layer} has {len(own)} closed contours instead of {len(asked)}."
        return
    for area, wanted in zip(own, asked, strict=True):
        if abs(area - wanted) > SAME * wanted:
            yield f"An area on {layer} is {area - wanted:.4g} mm² off."


def _key(entity: Any) -> tuple[Any, ...]:
    rows = [tuple(round(v, 6) for p in (s.start, s.end, s.at(0.5)) for v in p) for s in _segments(entity)]
    return entity.dxf.layer, tuple(sorted(rows))


def _segments(entity: Any) -> list[Segment]:
    match entity.dxftype():
        case "LINE":
            return [Line(_xy(entity.dxf.start), _xy(entity.dxf.end))]
        case "CIRCLE":
            return [Arc.circle(_xy(entity.dxf.center), float(entity.dxf.radius))]
        case "ARC":
            start, end = _xy(entity.start_point), _xy(entity.end_point)
            sweep = math.radians((entity.dxf.end_angle - entity.dxf.start_angle) % 360)
            return [Arc(start, end, _xy(entity.dxf.center), sweep or math.tau)]
        case "SPLINE":
            return [Cubic(*(_xy(p) for p in piece)) for piece in entity.construction_tool().bezier_decomposition()]
        case "LWPOLYLINE" | "POLYLINE":
            return [own for part in entity.virtual_entities() for own in _segments(part)]
    return []


def _xy(point: Any) -> tuple[float, float]:
    return float(point[0]), float(point[1])


__all__ = ["FlatWriting", "WrittenPattern", "has_other_side", "lines_by_kind", "other_side", "reread", "write_pattern"]
