"""Artwork as the operators of a PDF content stream (ISO 32000-1, 8.5)."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Protocol

import numpy as np
import orjson

from skalto.core.artwork import Array, Artwork, Beziers, EdgeClass, Ellipses, Fills, Item, Lines, Raster, Stroked, Text
from skalto.core.curves import arc_beziers, arc_pieces
from skalto.core.lettering import FACES, GlyphRun, glyph_runs
from skalto.core.pens import Pen
from skalto.core.quantities import PT_PER_MM

DECIMALS = 4
"""Decimals of a coordinate in points: half a unit of the last is 0.018 µm."""

ARC_TOLERANCE = 4.8e-4
"""Largest radial error of an arc's Béziers on paper, mm. A length between two arcs is to hold 1 µm, so each has half of
it, less what rounding may add."""

_JOINED = 1e-9


def _numbers(values: Array) -> bytes:
    """An array as JSON rows, shortest decimals, without the zero behind a whole number."""
    # + 0.0 turns a negative zero into zero
    text = orjson.dumps(np.round(values, DECIMALS) + 0.0, option=orjson.OPT_SERIALIZE_NUMPY)
    return text.replace(b".0,", b",").replace(b".0]", b"]")


def number(value: float) -> bytes:
    """One number as :func:`_numbers` writes it."""
    return _numbers(np.array([float(value)]))[1:-1]


def _lines(points: Array) -> bytes:
    """Segments (n, 2, 2) in points: ``x y m x y l S``."""
    text = _numbers(np.ascontiguousarray(points))[3:-3]
    return text.replace(b"]],[[", b" l S\n").replace(b"],[", b" m ").replace(b",", b" ") + b" l S\n"


def _curves(points: Array, closed: np.ndarray, first: np.ndarray) -> bytes:
    """Cubic Béziers (n, 4, 2): *first* (n,) marks where a subpath begins, *closed* (n,) the last piece of a closed one."""
    starts = _numbers(np.ascontiguousarray(points[:, 0]))[2:-2].replace(b",", b" ").split(b"] [")
    arms = _numbers(np.ascontiguousarray(points[:, 1:].reshape(-1, 6)))[2:-2].replace(b",", b" ").split(b"] [")
    last = np.append(first[1:], True)
    out = []
    for start, arm, begins, ends, whole in zip(starts, arms, first.tolist(), last.tolist(), closed.tolist(), strict=True):
        if begins:
            out.append(start + b" m")
        out.append(arm + b" c")
        if ends:
            out.append(b"h S" if whole else b"S")
    return b"\n".join(out) + b"\n"


def _ellipses(item: Ellipses, factor: float) -> bytes:
    pieces = arc_pieces(item.radii().max(axis=1), item.sweep, ARC_TOLERANCE)
    whole = item.is_whole()
    out = []
    for count in np.unique(pieces):
        rows = pieces == count
        curves = arc_beziers(
            item.centre[rows], item.major[rows], item.minor[rows], item.start[rows], item.sweep[rows], int(count)
        )
        first = np.tile(np.arange(count) == 0, int(rows.sum()))
        out.append(_curves(curves.reshape(-1, 4, 2) * factor, np.repeat(whole[rows], count), first))
    return b"".join(out)


def _beziers(item: Beziers, factor: float) -> bytes:
    points = item.points
    joined = np.abs(points[1:, 0] - points[:-1, 3]).max(axis=1) <= _JOINED
    first = np.concatenate(([True], ~joined))
    return _curves(points * factor, np.zeros(len(points), bool), first)


class Resources(Protocol):
    """What a page's content needs beside it: fonts and pictures, each under the name that is given back."""

    def font(self, run: GlyphRun) -> str: ...

    def picture(self, item: Raster) -> str: ...


def _text(item: Text, factor: float, resources: Resources) -> bytes:
    """Runs of text (9.4): a matrix each, glyphs by number, in black."""
    out = [b"BT\n"]
    for text, (x, y), height, angle in zip(item.texts, item.start, item.height, item.angle, strict=True):
        cos, sin = np.cos(angle), np.sin(angle)
        for run in glyph_runs(text):
            face = FACES[run.face]
            size = height * face.size
            matrix = b" ".join(number(v) for v in (cos, sin, -sin, cos, x * factor, y * factor))
            glyphs = "".join(f"{glyph:04X}" for glyph in run.glyphs)
            out.append(
                b"/%s %s Tf %s Tm <%s> Tj\n" % (resources.font(run).encode(), number(size * factor), matrix, glyphs.encode())
            )
            on = sum(run.advances) / face.capitals * height
            x, y = x + cos * on, y + sin * on
    out.append(b"ET\n")
    return b"".join(out)


def _fills(item: Fills, factor: float) -> bytes:
    """Filled polygons (8.5.3.3)."""
    out = []
    for polygon in item.points * factor:
        rows = [b" ".join(number(v) for v in point) for point in polygon]
        out.append(rows[0] + b" m " + b" ".join(row + b" l" for row in rows[1:]) + b" h f\n")
    return b"".join(out)


def _raster(item: Raster, factor: float, resources: Resources) -> bytes:
    """A picture (8.9.5) in its own coordinate system."""
    values = (*item.across, *item.upward, *item.corner)
    matrix = b" ".join(number(float(v) * factor) for v in values)
    return b"q %s cm /%s Do Q\n" % (matrix, resources.picture(item).encode())


def _strokes(item: Stroked, factor: float) -> bytes:
    if not len(item):
        return b""
    if isinstance(item, Lines):
        return _lines(item.points * factor)
    if isinstance(item, Ellipses):
        return _ellipses(item, factor)
    return _beziers(item, factor)


def _pen(pen: Pen, factor: float) -> bytes:
    """Line width, cap and join, and dashes (8.4.3)."""
    caps = 1 if pen.round_ends else 0
    dashes = b" ".join(number(d * pen.width * factor) for d in pen.dashes)
    return b"%s w %d J %d j [%s] 0 d\n" % (number(pen.width * factor), caps, caps, dashes)


def operators(artwork: Artwork, pens: Mapping[EdgeClass, Pen], resources: Resources, user_unit: int = 1) -> bytes:
    """The operators that draw an artwork (sheet mm) in black, one path a stroke.

    :param user_unit: the page's UserUnit; coordinates are divided by it.
    """
    factor = float(PT_PER_MM / user_unit)
    out: list[bytes] = []
    current = None
    for item in artwork:
        if isinstance(item, Text | Fills | Raster):
            out.append(_unstroked(item, factor, resources))
            continue
        pen = pens[item.tags.edge_class]
        if pen != current:
            out.append(_pen(pen, factor))
            current = pen
        out.append(_strokes(item, factor))
    return b"".join(out)


def _unstroked(item: Item, factor: float, resources: Resources) -> bytes:
    if isinstance(item, Text):
        return _text(item, factor, resources)
    if isinstance(item, Raster):
        return _raster(item, factor, resources)
    assert isinstance(item, Fills)
    return _fills(item, factor)
