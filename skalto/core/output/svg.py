"""Artwork to SVG (SVG 1.1, W3C) at its physical size: user units are millimetres, layers are groups, text is text."""

from __future__ import annotations

import base64
import io
import itertools
import math
from collections.abc import Iterator
from dataclasses import dataclass
from xml.sax.saxutils import escape, quoteattr

import numpy as np
from PIL import Image

from skalto.core.artwork import (
    Areas,
    Artwork,
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
from skalto.core.lettering import FACES, glyph_runs
from skalto.core.output.contours import sides_of, whole_circle
from skalto.core.output.flat import Flat
from skalto.core.output.pdf.ink import Ink
from skalto.core.pens import Ends, Joins, Pens, format_colour

DECIMALS = 6
"""Decimals of a millimetre: half a unit of the last is half a nanometre."""


def _n(value: float) -> str:
    text = f"{value:.{DECIMALS}f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


class _Draft:
    """Writes items; y runs down from the top edge."""

    def __init__(self, height: float) -> None:
        self.height = height

    def at(self, x: float, y: float) -> str:
        return f"{_n(x)} {_n(self.height - y)}"

    def lines(self, item: Lines) -> list[str]:
        return [f'<path d="M{self.at(*a)}L{self.at(*b)}"/>' for a, b in item.points.tolist()]

    def ellipses(self, item: Ellipses) -> list[str]:
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
        return out

    def beziers(self, item: Beziers) -> list[str]:
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
        return [*out, f'<path d="{"".join(parts)}"/>'] if parts else out

    def polylines(self, item: Polylines) -> list[str]:
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
        return out

    def contours(self, item: Contours) -> list[str]:
        out = []
        for number, closed in enumerate(item.closed.tolist()):
            sides = sides_of(item, number)
            whole = whole_circle(sides) if closed else None
            if whole is not None:
                (x, y), radius = whole
                out.append(f'<circle cx="{_n(float(x))}" cy="{_n(self.height - float(y))}" r="{_n(radius)}"/>')
                continue
            parts = [f"M{self.at(*sides[0].start.tolist())}"]
            for side in sides:
                if side.curve is not None:
                    parts.append(f"C{' '.join(self.at(*point) for point in side.curve[1:].tolist())}")
                elif side.centre is None:
                    parts.append(f"L{self.at(*side.end.tolist())}")
                else:
                    radius_ = _n(math.dist(side.start, side.centre))
                    flags = f"{int(abs(side.angle) > math.pi)} {int(side.angle < 0)}"
                    parts.append(f"A{radius_} {radius_} 0 {flags} {self.at(*side.end.tolist())}")
            out.append(f'<path d="{"".join(parts)}{"Z" if closed else ""}"/>')
        return out

    def areas(self, item: Areas) -> list[str]:
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
        return [*out, f'<path d="{"".join(parts)}Z"/>'] if parts else out

    def fills(self, item: Fills) -> list[str]:
        return [f'<path d="M{"L".join(self.at(*p) for p in polygon)}Z"/>' for polygon in item.points.tolist()]

    def texts(self, item: Text) -> list[str]:
        out = []
        for text, (x, y), height, ((a, b), (c, d)) in zip(
            item.texts, item.start.tolist(), item.height.tolist(), item.matrices().tolist(), strict=True
        ):
            for run in glyph_runs(text, item.face):
                face = FACES[run.face]
                words = escape(run.text)
                matrix = " ".join(_n(v) for v in (a / height, -b / height, -c / height, d / height, x, self.height - y))
                on = sum(run.advances) / face.capitals
                out.append(
                    f'<text transform="matrix({matrix})" font-family={quoteattr(face.name)} '
                    f'font-size="{_n(height * face.size)}" textLength="{_n(on * height)}" lengthAdjust="spacingAndGlyphs" '
                    f'xml:space="preserve">{words}</text>'
                )
                x, y = x + a * on, y + b * on
        return out

    def raster(self, item: Raster) -> list[str]:
        out = io.BytesIO()
        Image.fromarray(item.pixels, "RGBA").save(out, "PNG")
        (a, b), (c, d), (x, y) = item.across.tolist(), item.upward.tolist(), (item.corner + item.upward).tolist()
        matrix = " ".join(_n(v) for v in (a, -b, -c, d, x, self.height - y))
        data = base64.b64encode(out.getvalue()).decode()
        picture = f'<image width="1" height="1" preserveAspectRatio="none" transform="matrix({matrix})"'
        return [f'{picture} href="data:image/png;base64,{data}"/>']


_ENDS = {Ends.FLAT: "butt", Ends.ROUND: "round", Ends.SQUARE: "square"}
_JOINS = {Joins.MITRE: "miter", Joins.ROUND: "round", Joins.BEVEL: "bevel"}


def _style(item: Item, pens: Pens, ink: Ink) -> str:
    if isinstance(item, Raster):
        return ""
    return _painted(item, pens, ink) + (f' opacity="{_n(item.tags.opacity)}"' if item.tags.opacity < 1 else "")


def _painted(item: Item, pens: Pens, ink: Ink) -> str:
    pen = pens.pen(item.tags)
    colour = format_colour(ink.seen(pen.colour))
    if isinstance(item, Text):
        return f'fill="{colour}" stroke="none"'
    if isinstance(item, Fills | Areas):
        rule = "nonzero" if isinstance(item, Areas) and item.winding else "evenodd"
        return f'fill="{colour}" fill-rule="{rule}" stroke="none"'
    ends = f'stroke-linecap="{_ENDS[pen.ends]}" stroke-linejoin="{_JOINS[pen.joins]}"'
    dashes = f' stroke-dasharray="{" ".join(_n(d * pen.width) for d in pen.dashes)}"' if pen.dashes else ""
    phase = pens.phase(item.tags)
    dashes += f' stroke-dashoffset="{_n(phase)}"' if phase else ""
    return f'fill="none" stroke="{colour}" stroke-width="{_n(pen.width)}" {ends}{dashes}'


def _elements(item: Item, draft: _Draft) -> list[str]:
    if isinstance(item, Lines):
        return draft.lines(item)
    if isinstance(item, Ellipses):
        return draft.ellipses(item)
    if isinstance(item, Polylines):
        return draft.polylines(item)
    if isinstance(item, Beziers):
        return draft.beziers(item)
    if isinstance(item, Contours):
        return draft.contours(item)
    if isinstance(item, Areas):
        return draft.areas(item)
    if isinstance(item, Fills):
        return draft.fills(item)
    return draft.raster(item) if isinstance(item, Raster) else draft.texts(item)


@dataclass(frozen=True, eq=False)
class _Group:
    """Items that follow one another on one layer, and whether they are the hidden edges of a view."""

    name: str
    unseen: bool
    items: list[Item]


def _groups(artwork: Artwork) -> list[_Group]:
    groups: list[_Group] = []
    for item in artwork:
        if not len(item) or (isinstance(item, Text) and item.ghost):
            continue
        name, unseen = item.tags.layer or item.tags.edge_class.value, item.tags.edge_class is EdgeClass.HIDDEN
        if not groups or (groups[-1].name, groups[-1].unseen) != (name, unseen):
            groups.append(_Group(name, unseen, []))
        groups[-1].items.append(item)
    return groups


def _view_groups(groups: list[_Group], view: int | None) -> Iterator[tuple[str, list[_Group]]]:
    """Groups with the name of what they are together: a view's seen lines, its hidden ones, or nothing."""
    for unseen, own in itertools.groupby(groups, key=lambda group: group.unseen):
        yield "" if view is None else f"view-{view}{'-unseen' if unseen else ''}", list(own)


def write_svg(flat: Flat) -> bytes:
    """An SVG file of a page or a view."""
    draft = _Draft(flat.height)
    width, height = _n(flat.width), _n(flat.height)
    out = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}mm" height="{height}mm" viewBox="0 0 {width} {height}">',
        f"<title>{escape(flat.name)}</title>",
    ]
    seen: dict[str, int] = {}
    ink = Ink(flat.colour)
    # colours that lie over one another are multiplied (CSS Compositing and Blending 1, W3C)
    blend = ' style="mix-blend-mode:multiply"' if flat.blend else ""
    for part in flat.parts:
        pens = part.pens
        # a cutting program takes every group apart: it gets none but those of its pens
        for view, groups in _view_groups(_groups(pens.arranged(part.artwork)), None if flat.contours else part.view):
            out += [f'<g id="{view}">'] if view else []
            for group in groups:
                seen[group.name] = seen.get(group.name, 0) + 1
                label = group.name if seen[group.name] == 1 else f"{group.name} {seen[group.name]}"
                out += [] if flat.contours else [f"<g id={quoteattr(label)}>"]
                for item in group.items:
                    out += [f"<g {_style(item, pens, ink)}{blend}>", *_elements(item, draft), "</g>"]
                out += [] if flat.contours else ["</g>"]
            out += ["</g>"] if view else []
    out.append("</svg>\n")
    return "\n".join(out).encode()
