"""A view's lines for the desk: SVG path data by edge class, or by a drawing's layers and colours; y down."""

from __future__ import annotations

import base64
import io
import itertools
import math
from collections.abc import Sequence
from dataclasses import replace
from typing import assert_never

import numpy as np
import orjson
from numpy.typing import NDArray
from PIL import Image
from pydantic import BaseModel, ConfigDict

from skalto.core.artwork import (
    Areas,
    Artwork,
    Beziers,
    Contours,
    EdgeClass,
    Ellipses,
    Fills,
    Lines,
    Polylines,
    Raster,
    Stroked,
    Tags,
    Text,
)
from skalto.core.colour import BLACK, Colour, format_colour
from skalto.core.geometry import (
    Array,
)
from skalto.core.lettering import FACES, drawn_as, glyph_runs
from skalto.core.output.drawing import draw
from skalto.core.pens import Caps, Pens

PLAIN = Pens()
_FLIP = np.array((1.0, -1.0))
"""The screen's y runs down."""
Pathed = Stroked | Contours | Areas | Fills
"""What becomes path data."""
DECIMALS = 4
_FINE = 10.0
"""Up to this size, mm, coordinates have :data:`DECIMALS`; ten times as large, one less: the eye sees no more."""


class PicturePen(BaseModel):
    """What draws a path: a line width and dashes, mm on paper, a colour, and the number of the rule of the sheet's pen set."""

    model_config = ConfigDict(frozen=True)

    width: float
    dashes: tuple[float, ...] = ()
    colour: str = "#000000"
    caps: Caps = Caps.ROUND
    rule: int | None = None


class PicturePath(BaseModel):
    """All strokes of one kind: path data, the box of the strokes (x0, y0, x1, y1), y up, and the pen that draws them.

    Of a drawing, with its *layer* and *colour*; a *fill* is an area. A line type of the drawing's own has its *dashes* in mm
    of the view, not of the paper.
    """

    model_config = ConfigDict(frozen=True)

    edge_class: str
    d: str
    box: tuple[float, float, float, float]
    strokes: int
    pen: PicturePen
    layer: str = ""
    colour: str | None = None
    dashes: tuple[float, ...] = ()
    fill: bool = False
    opacity: float = 1.0


class PictureText(BaseModel):
    """A run of text: where its baseline starts (y up), the size of type in mm, its angle in degrees, the face by number;
    *drawn* are the characters whose glyphs draw it, *stretch* and *slant* (degrees) how they are widened and lean."""

    model_config = ConfigDict(frozen=True)

    text: str
    drawn: str
    x: float
    y: float
    size: float
    angle: float
    face: int
    stretch: float = 1.0
    slant: float = 0.0
    colour: str | None = None


class PictureImage(BaseModel):
    """A picture of pixels as a PNG in a data address, and the matrix (a, b, c, d, e, f) that puts the unit square there."""

    model_config = ConfigDict(frozen=True)

    href: str
    matrix: tuple[float, float, float, float, float, float]


class Picture(BaseModel):
    """A view (model mm) or what is written on a sheet (mm) for the screen; *fills* is the path data of filled polygons."""

    model_config = ConfigDict(frozen=True)

    paths: tuple[PicturePath, ...]
    texts: tuple[PictureText, ...] = ()
    images: tuple[PictureImage, ...] = ()
    fills: str = ""


class _Draft:
    """Path data with as many decimals as the drawing's size needs."""

    def __init__(self, decimals: int) -> None:
        self.decimals = decimals

    def rows(self, values: Array) -> str:
        rounded = np.round(np.ascontiguousarray(values), self.decimals) + 0.0
        # whole numbers without their zero
        return orjson.dumps(rounded, option=orjson.OPT_SERIALIZE_NUMPY).decode().replace(".0,", ",").replace(".0]", "]")

    def lines(self, points: Array) -> str:
        text = self.rows(points)[3:-3]
        return "M" + text.replace("]],[[", "M").replace("],[", "L")

    def ellipses(self, item: Ellipses) -> str:
        # an arc of a whole turn would be none: all go in two halves
        halves = item.at(item.start[:, None] + item.sweep[:, None] * np.array((0.0, 0.5, 1.0))) * np.array((1.0, -1.0))
        turns = -np.degrees(np.arctan2(item.major[:, 1], item.major[:, 0]))
        out = []
        n = self.decimals
        for (rx, ry), turn, (p, q, r) in zip(item.radii().tolist(), turns.tolist(), halves.tolist(), strict=True):
            axes = f"A{rx:.{n}f} {ry:.{n}f} {turn:.4f} 0 0 "
            out.append(f"M{p[0]:.{n}f} {p[1]:.{n}f}{axes}{q[0]:.{n}f} {q[1]:.{n}f}{axes}{r[0]:.{n}f} {r[1]:.{n}f}")
        return "".join(out)

    def beziers(self, points: Array) -> str:
        starts = self.rows(points[:, 0])[2:-2].replace(",", " ").split("] [")
        arms = self.rows(points[:, 1:].reshape(-1, 6))[2:-2].replace(",", " ").split("] [")
        return "".join(f"M{start}C{arm}" for start, arm in zip(starts, arms, strict=True))

    def polylines(self, item: Polylines) -> str:
        flipped = item.points * np.array((1.0, -1.0))
        rows = self.rows(flipped)[2:-2].replace(",", " ").split("] [")
        # from point to point, in differences of what is rounded, so that nothing adds up
        kept = np.round(flipped, self.decimals)
        steps = self.rows(np.diff(kept, axis=0, prepend=kept[:1]))[2:-2].replace(",", " ").split("] [")
        first, closed = item.first.tolist(), item.closed.tolist()
        bulged = np.abs(item.bulge) > 1e-12
        round_ = np.logical_or.reduceat(bulged, item.first[:-1]).tolist() if bulged.any() else [False] * len(closed)
        out = []
        for number, whole in enumerate(closed):
            begin, end = first[number], first[number + 1]
            if not round_[number]:
                out.append(f"M{rows[begin]}l" + " ".join(steps[begin + 1 : end]) + ("Z" if whole else ""))
                continue
            out.append(f"M{rows[begin]}")
            for a, b in itertools.pairwise((*range(begin, end), *([begin] if whole else []))):
                bulge = float(item.bulge[a])
                if not bulged[a]:
                    out.append(f"L{rows[b]}")
                    continue
                radius = math.dist(flipped[a], flipped[b]) * (1 + bulge**2) / (4 * abs(bulge))
                out.append(f"A{radius:.6g} {radius:.6g} 0 {int(abs(bulge) > 1)} {int(bulge < 0)} {rows[b]}")
            out.append("Z" if whole else "")
        return "".join(out)

    def areas(self, item: Areas) -> str:
        curves = np.round(item.curves * np.array((1.0, -1.0)), self.decimals).reshape(-1, 8).tolist()
        out = []
        contour = -1
        for row, own, straight in zip(curves, item.contour.tolist(), item.straight.tolist(), strict=True):
            if own != contour:
                out.append(f"{'Z' if contour >= 0 else ''}M{row[0]} {row[1]}")
                contour = own
            out.append(f"L{row[6]} {row[7]}" if straight else "C" + " ".join(str(v) for v in row[2:]))
        return "".join(out) + "Z"

    def path(self, item: Pathed) -> str:
        match item:
            case Lines():
                return self.lines(item.points * _FLIP)
            case Ellipses():
                return self.ellipses(item)
            case Polylines():
                return self.polylines(item)
            case Beziers():
                return self.beziers(item.points * _FLIP)
            case Contours():
                return self.contours(item)
            case Areas():
                return self.areas(item)
            case Fills():
                polygons = item.points * _FLIP
                return "".join("M" + "L".join(f"{x:.4f} {y:.4f}" for x, y in polygon) + "Z" for polygon in polygons)
            case _:
                assert_never(item)

    def contours(self, item: Contours) -> str:
        out = []
        for begin, end, closed in zip(item.first[:-1].tolist(), item.first[1:].tolist(), item.closed.tolist(), strict=True):
            whole = self.beziers(item.curves[begin:end] * _FLIP)
            start, *rest = whole.split("M")[1:]
            # one subpath: each curve goes on where the one before ends
            out.append("M" + start + "".join("C" + row.split("C")[1] for row in rest) + ("Z" if closed else ""))
        return "".join(out)


def _texts(item: Text, pens: Pens) -> list[PictureText]:
    found: list[PictureText] = []
    if item.ghost:
        return found
    stretch = item.stretch if item.stretch is not None else np.ones(len(item))
    slant = item.slant if item.slant is not None else np.zeros(len(item))
    colour = _shade(pens.pen(item.tags).colour)
    rows = zip(item.texts, item.start, item.height, item.angle, stretch, slant, strict=True)
    for text, (x, y), height, angle, wide, lean in rows:
        for run in glyph_runs(text, item.face):
            face = FACES[run.face]
            words = "".join(run.characters)
            found.append(
                PictureText(
                    text=words,
                    drawn=drawn_as(run.face, words),
                    x=round(float(x), 4),
                    y=round(float(y), 4),
                    size=round(float(height * face.size), 4),
                    angle=round(float(np.degrees(angle)), 4),
                    face=run.face,
                    stretch=round(float(wide), 6),
                    slant=round(float(np.degrees(lean)), 4),
                    colour=colour,
                )
            )
            on = sum(run.advances) / face.capitals * height * wide
            x, y = x + np.cos(angle) * on, y + np.sin(angle) * on
    return found


PART = 400
"""Strokes of one kind beyond so many go in several paths."""


def _shade(colour: Colour) -> str | None:
    """A colour that is not the desk's own black."""
    return None if colour == BLACK else format_colour(colour)


def _image(item: Raster) -> PictureImage:
    out = io.BytesIO()
    Image.fromarray(item.pixels, "RGBA").save(out, "PNG")
    (a, b), (c, d), (e, f) = item.across.tolist(), item.upward.tolist(), (item.corner + item.upward).tolist()
    # the unit square has its first row at its top, and the screen's y runs down
    matrix = (a, -b, -c, d, e, -f)
    return PictureImage(href="data:image/png;base64," + base64.b64encode(out.getvalue()).decode(), matrix=matrix)


def _decimals(artwork: Artwork) -> int:
    box = artwork.bounds()
    size = max(box[2] - box[0], box[3] - box[1]) if box else 0.0
    return DECIMALS if size <= _FINE else max(0, DECIMALS - math.floor(math.log10(size / _FINE)))


def _taken(item: Stroked, rows: NDArray[np.int64]) -> Stroked:
    """Some strokes of an item, by their numbers."""
    if isinstance(item, Polylines):
        return item.rows(rows)
    if isinstance(item, Ellipses):
        parts = (item.centre[rows], item.major[rows], item.minor[rows], item.start[rows], item.sweep[rows])
        return Ellipses(item.tags, *parts)
    return replace(item, points=item.points[rows], order=None)


def _parted(own: list[Stroked], box: tuple[float, float, float, float]) -> list[list[Stroked]]:
    """Many strokes of one kind by where they lie: a browser draws only what a part of its screen needs."""
    count = sum(len(item) for item in own)
    if count <= PART:
        return [own]
    side = math.ceil(math.sqrt(count / PART) * 2)
    low, size = np.array(box[:2]), np.maximum(np.array(box[2:]) - np.array(box[:2]), 1e-9)
    parts: dict[int, list[Stroked]] = {}
    for item in own:
        middle = item.bounds().mean(axis=1)
        cells = np.floor((middle - low) / size * side).astype(np.int64).clip(0, side - 1)
        numbers = cells[:, 1] * side + cells[:, 0]
        for number in np.unique(numbers).tolist():
            parts.setdefault(number, []).append(_taken(item, np.flatnonzero(numbers == number)))
    return [parts[number] for number in sorted(parts)]


def _picture_pen(tags: Tags, pens: Pens) -> tuple[PicturePen, tuple[float, ...]]:
    """The pen, and dashes in mm of the view: a drawing's own line type grows with it."""
    pen = pens.pen(tags)
    number = pens.rule(tags)
    own = tags.dashes if pens.keeps_dashes(tags) else ()
    dashes = () if own else tuple(round(d * pen.width, 4) for d in pen.dashes)
    shown = PicturePen(width=round(pen.width, 5), dashes=dashes, colour=format_colour(pen.colour), caps=pen.caps, rule=number)
    return shown, tuple(round(d, 4) for d in own)


class _Desk:
    """A sink that gathers a picture: strokes of each kind as one path, areas in their place among them."""

    def __init__(self, draft: _Draft) -> None:
        self.draft = draft
        self.pens = PLAIN
        self.paths: list[PicturePath] = []
        self.written: list[PictureText] = []
        self.images: list[PictureImage] = []
        self.black: list[str] = []
        self._groups: dict[object, list[Stroked | Contours]] = {}

    def take_up(self, pens: Pens) -> None:
        self.pens = pens

    def lines(self, item: Lines) -> None:
        self._stroke(item)

    def ellipses(self, item: Ellipses) -> None:
        self._stroke(item)

    def beziers(self, item: Beziers) -> None:
        self._stroke(item)

    def polylines(self, item: Polylines) -> None:
        self._stroke(item)

    def contours(self, item: Contours) -> None:
        self._stroke(item)

    def texts(self, item: Text) -> None:
        self.written += _texts(item, self.pens)

    def fills(self, item: Fills) -> None:
        if self.pens.pen(item.tags).colour == BLACK:
            self.black.append(self.draft.path(item))
        else:
            self._area(item)

    def areas(self, item: Areas) -> None:
        self._area(item)

    def raster(self, item: Raster) -> None:
        self.images.append(_image(item))

    def _stroke(self, item: Stroked | Contours) -> None:
        self._groups.setdefault((_kind(item.tags), self.pens.rule(item.tags)), []).append(item)

    def _area(self, item: Areas | Fills) -> None:
        self.flush()
        self._add(item.tags, [item], fill=True)

    def flush(self) -> None:
        """Put the strokes that were gathered behind what is there."""
        for whole in self._groups.values():
            tags = whole[0].tags
            around = Artwork(tuple(whole)).bounds()
            assert around is not None
            strokes = [item for item in whole if not isinstance(item, Contours)]
            for own in _parted(strokes, around) if strokes and tags.edge_class is EdgeClass.DRAWN else [whole]:
                self._add(tags, own)
        self._groups.clear()

    def _add(self, tags: Tags, own: Sequence[Pathed], fill: bool = False) -> None:
        box = Artwork(tuple(own)).bounds()
        assert box is not None
        pen, dashes = _picture_pen(tags, self.pens)
        self.paths.append(
            PicturePath(
                edge_class=tags.edge_class.value,
                d="".join(self.draft.path(item) for item in own),
                box=box,
                strokes=sum(len(item) for item in own),
                pen=pen,
                layer=tags.layer,
                colour=None if tags.colour is None else format_colour(tags.colour),
                dashes=dashes,
                fill=fill,
                opacity=tags.opacity,
            )
        )


def to_picture(artwork: Artwork, pens: Pens = PLAIN) -> Picture:
    """The strokes of each kind as one path, areas in their place among them, texts, pictures and fills.

    :param pens: what draws them.
    """
    desk = _Desk(_Draft(_decimals(artwork)))
    for _ in draw(artwork, pens, desk):
        pass
    desk.flush()
    return Picture(paths=tuple(desk.paths), texts=tuple(desk.written), images=tuple(desk.images), fills="".join(desk.black))


def _kind(tags: Tags) -> Tags:
    """Strokes that look the same go together, whatever component they are of."""
    return Tags(
        tags.edge_class, layer=tags.layer, colour=tags.colour, width=tags.width, dashes=tags.dashes, opacity=tags.opacity
    )
