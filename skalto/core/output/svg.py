"""Artwork to SVG (SVG 1.1, W3C) at its physical size: user units are millimetres, layers are groups, text is text."""

from __future__ import annotations

import base64
import io
import itertools
import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import assert_never
from xml.sax.saxutils import escape, quoteattr

import numpy as np
from PIL import Image

from skalto.core.artwork import (
    Areas,
    Beziers,
    Contours,
    EdgeClass,
    Ellipses,
    Fills,
    Item,
    Lines,
    Polylines,
    Raster,
    Text,
)
from skalto.core.artwork.joining import contour_of
from skalto.core.colour import format_colour
from skalto.core.geometry.contour import Arc, Cubic, Line
from skalto.core.lettering import FACES, glyph_runs
from skalto.core.output.drawing import draw
from skalto.core.output.flat import Flat, Part
from skalto.core.output.pdf.ink import Ink
from skalto.core.pens import Caps, Joins, Pens
from skalto.core.typed import one_line, writable

DECIMALS = 6
"""Decimals of a millimetre: half a unit of the last is half a nanometre."""


def _n(value: float) -> str:
    text = f"{value:.{DECIMALS}f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


_ENDS = {Caps.FLAT: "butt", Caps.ROUND: "round", Caps.SQUARE: "square"}
_JOINS = {Joins.MITRE: "miter", Joins.ROUND: "round", Joins.BEVEL: "bevel"}


def _opacity(item: Item) -> str:
    return f' opacity="{_n(item.tags.opacity)}"' if item.tags.opacity < 1 else ""


@dataclass(frozen=True)
class _Drawn:
    """The elements of an item, and the attributes of how they are painted."""

    elements: list[str]
    style: str


class _Svg:
    """Writes items; y runs down from the top edge."""

    def __init__(self, height: float, ink: Ink) -> None:
        self.height = height
        self.ink = ink
        self.pens = Pens()

    def take_up(self, pens: Pens) -> None:
        self.pens = pens

    def _colour(self, item: Item) -> str:
        return format_colour(self.ink.seen(self.pens.pen(item.tags).colour))

    def _stroked(self, item: Item, elements: list[str]) -> _Drawn:
        pen, phase = self.pens.pen(item.tags), self.pens.phase(item.tags)
        ends = f'stroke-linecap="{_ENDS[pen.caps]}" stroke-linejoin="{_JOINS[pen.joins]}"'
        dashes = f' stroke-dasharray="{" ".join(_n(d * pen.width) for d in pen.dashes)}"' if pen.dashes else ""
        dashes += f' stroke-dashoffset="{_n(phase)}"' if phase else ""
        style = f'fill="none" stroke="{self._colour(item)}" stroke-width="{_n(pen.width)}" {ends}{dashes}'
        return _Drawn(elements, style + _opacity(item))

    def _filled(self, item: Item, elements: list[str], rule: str) -> _Drawn:
        return _Drawn(elements, f'fill="{self._colour(item)}" fill-rule="{rule}" stroke="none"' + _opacity(item))

    def at(self, x: float, y: float) -> str:
        return f"{_n(x)} {_n(self.height - y)}"

    def lines(self, item: Lines) -> _Drawn:
        return self._stroked(item, [f'<path d="M{self.at(*a)}L{self.at(*b)}"/>' for a, b in item.points.tolist()])

    def ellipses(self, item: Ellipses) -> _Drawn:
        out = []
        ends = item.at(np.stack((item.start, item.start + item.sweep), axis=1)).tolist()
        rows = zip(item.centre.tolist(), item.radii().tolist(), item.major.tolist(), ends, strict=True)
        whole, circle, sweep = item.is_whole().tolist(), item.is_circle().tolist(), item.sweep.tolist()
        for n, ((cx, cy), (rx, ry), (ax, ay), (p, q)) in enumerate(rows):
            turn = -math.degrees(math.atan2(ay, ax))
            if whole[n] and circle[n]:
                out.append(f'<circle cx="{_n(cx)}" cy="{_n(self.height - cy)}" r="{_n(rx)}"/>')
            elif whole[n]:
                x, y = _n(cx), _n(self.height - cy)
                out.append(f'<ellipse cx="{x}" cy="{y}" rx="{_n(rx)}" ry="{_n(ry)}" transform="rotate({_n(turn)} {x} {y})"/>')
            else:
                large = int(sweep[n] > math.pi)
                out.append(f'<path d="M{self.at(*p)}A{_n(rx)} {_n(ry)} {_n(turn)} {large} 0 {self.at(*q)}"/>')
        return self._stroked(item, out)

    def beziers(self, item: Beziers) -> _Drawn:
        out: list[str] = []
        parts: list[str] = []
        here = None
        for a, b, c, d in item.points.tolist():
            if a != here:
                if parts:
                    out.append(f'<path d="{"".join(parts)}"/>')
                parts = [f"M{self.at(*a)}"]
            parts.append(f"C{self.at(*b)} {self.at(*c)} {self.at(*d)}")
            here = d
        return self._stroked(item, [*out, f'<path d="{"".join(parts)}"/>'] if parts else out)

    def polylines(self, item: Polylines) -> _Drawn:
        out = []
        points, bulge = item.points.tolist(), item.bulge.tolist()
        for number, closed in enumerate(item.closed.tolist()):
            run = item.run(number)
            places = [*range(run.start, run.stop), *([run.start] if closed else [])]
            parts = [f"M{self.at(*points[run.start])}"]
            for a, b in itertools.pairwise(places):
                k = bulge[a]
                if abs(k) <= 1e-12:
                    parts.append(f"L{self.at(*points[b])}")
                    continue
                radius = _n(math.dist(points[a], points[b]) * (1 + k * k) / (4 * abs(k)))
                parts.append(f"A{radius} {radius} 0 {int(abs(k) > 1)} {int(k < 0)} {self.at(*points[b])}")
            out.append(f'<path d="{"".join(parts)}{"Z" if closed else ""}"/>')
        return self._stroked(item, out)

    def contours(self, item: Contours) -> _Drawn:
        out = []
        for number in range(len(item)):
            contour = contour_of(item, number)
            whole = contour.as_circle
            if whole is not None:
                (x, y), radius = whole
                out.append(f'<circle cx="{_n(x)}" cy="{_n(self.height - y)}" r="{_n(radius)}"/>')
                continue
            parts = [f"M{self.at(*contour.start)}"]
            for segment in contour:
                match segment:
                    case Line():
                        parts.append(f"L{self.at(*segment.end)}")
                    case Arc():
                        radius_ = _n(segment.radius)
                        flags = f"{int(abs(segment.sweep) > math.pi)} {int(segment.sweep < 0)}"
                        parts.append(f"A{radius_} {radius_} 0 {flags} {self.at(*segment.end)}")
                    case Cubic():
                        arms = (segment.first, segment.second, segment.end)
                        parts.append(f"C{' '.join(self.at(*point) for point in arms)}")
                    case _:
                        assert_never(segment)
            out.append(f'<path d="{"".join(parts)}{"Z" if contour.closed else ""}"/>')
        return self._stroked(item, out)

    def areas(self, item: Areas) -> _Drawn:
        out: list[str] = []
        parts: list[str] = []
        contour = area = -1
        owners = item.area[item.contour].tolist()
        for n, ((a, b, c, d), own) in enumerate(zip(item.curves.tolist(), item.contour.tolist(), strict=True)):
            if own != contour:
                parts += ["Z"] if parts else []
                if owners[n] != area and parts:
                    out.append(f'<path d="{"".join(parts)}"/>')
                    parts = []
                contour, area = own, owners[n]
                parts.append(f"M{self.at(*a)}")
            parts.append(f"L{self.at(*d)}" if item.straight[n] else f"C{self.at(*b)} {self.at(*c)} {self.at(*d)}")
        elements = [*out, f'<path d="{"".join(parts)}Z"/>'] if parts else out
        return self._filled(item, elements, "nonzero" if item.winding else "evenodd")

    def fills(self, item: Fills) -> _Drawn:
        rows = [f'<path d="M{"L".join(self.at(*p) for p in polygon)}Z"/>' for polygon in item.points.tolist()]
        return self._filled(item, rows, "evenodd")

    def texts(self, item: Text) -> _Drawn:
        out = []
        for text, (x, y), height, ((a, b), (c, d)) in zip(
            item.texts, item.start.tolist(), item.height.tolist(), item.matrices().tolist(), strict=True
        ):
            for run in glyph_runs(text, item.face):
                face = FACES[run.face]
                words = escape(writable(run.text))
                matrix = " ".join(_n(v) for v in (a / height, -b / height, -c / height, d / height, x, self.height - y))
                on = sum(run.advances) / face.capitals
                out.append(
                    f'<text transform="matrix({matrix})" font-family={quoteattr(one_line(face.name))} '
                    f'font-size="{_n(height * face.size)}" textLength="{_n(on * height)}" lengthAdjust="spacingAndGlyphs" '
                    f'xml:space="preserve">{words}</text>'
                )
                x, y = x + a * on, y + b * on
        return _Drawn(out, f'fill="{self._colour(item)}" stroke="none"' + _opacity(item))

    def raster(self, item: Raster) -> _Drawn:
        out = io.BytesIO()
        pixels = np.dstack((np.asarray(self.ink.pixels(item.pixels[..., :3]).convert("RGB")), item.pixels[..., 3]))
        Image.fromarray(pixels, "RGBA").save(out, "PNG")
        (a, b), (c, d), (x, y) = item.across.tolist(), item.upward.tolist(), (item.corner + item.upward).tolist()
        matrix = " ".join(_n(v) for v in (a, -b, -c, d, x, self.height - y))
        data = base64.b64encode(out.getvalue()).decode()
        picture = f'<image width="1" height="1" preserveAspectRatio="none" transform="matrix({matrix})"'
        return _Drawn([f'{picture} href="data:image/png;base64,{data}"/>'], "")


@dataclass(frozen=True, eq=False)
class _Group:
    """Items that follow one another on one layer, and whether they are the hidden edges of a view."""

    name: str
    unseen: bool
    items: list[_Drawn]


def _groups(part: Part, sink: _Svg) -> list[_Group]:
    groups: list[_Group] = []
    for item, drawn in draw(part.artwork, part.pens, sink):
        if isinstance(item, Text) and item.ghost:
            continue
        name, unseen = item.tags.layer or item.tags.edge_class.value, item.tags.edge_class is EdgeClass.HIDDEN
        if not groups or (groups[-1].name, groups[-1].unseen) != (name, unseen):
            groups.append(_Group(name, unseen, []))
        groups[-1].items.append(drawn)
    return groups


def _view_groups(groups: list[_Group], view: int | None) -> Iterator[tuple[str, list[_Group]]]:
    """Groups with the name of what they are together: a view's seen lines, its hidden ones, or nothing."""
    for unseen, own in itertools.groupby(groups, key=lambda group: group.unseen):
        yield "" if view is None else f"view-{view}{'-unseen' if unseen else ''}", list(own)


def write_svg(flat: Flat) -> bytes:
    """An SVG file of a page or a view."""
    sink = _Svg(flat.height, Ink(flat.colour))
    width, height = _n(flat.width), _n(flat.height)
    out = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}mm" height="{height}mm" viewBox="0 0 {width} {height}">',
        f"<title>{escape(one_line(flat.name))}</title>",
    ]
    seen: dict[str, int] = {}
    # colours that lie over one another are multiplied (CSS Compositing and Blending 1, W3C)
    blend = ' style="mix-blend-mode:multiply"' if flat.blend else ""
    for part in flat.parts:
        # a cutting program takes every group apart: it gets none but those of its pens
        for view, groups in _view_groups(_groups(part, sink), None if flat.contours else part.view):
            out += [f'<g id="{view}">'] if view else []
            for group in groups:
                seen[group.name] = seen.get(group.name, 0) + 1
                label = group.name if seen[group.name] == 1 else f"{group.name} {seen[group.name]}"
                out += [] if flat.contours else [f"<g id={quoteattr(one_line(label))}>"]
                for drawn in group.items:
                    out += [f"<g {drawn.style}{blend}>", *drawn.elements, "</g>"]
                out += [] if flat.contours else ["</g>"]
            out += ["</g>"] if view else []
    out.append("</svg>\n")
    return "\n".join(out).encode()
