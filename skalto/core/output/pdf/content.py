"""Artwork as the operators of a PDF content stream (ISO 32000-1, 8.4 to 8.11, 9.4)."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from enum import Enum, auto
from typing import Protocol, assert_never

import numpy as np
from numpy.typing import NDArray

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
    Stroked,
    Tags,
    Text,
)
from skalto.core.artwork.sink import give
from skalto.core.colour import BLACK, Colour
from skalto.core.geometry import Array
from skalto.core.lettering import FACES, NO_GLYPH, GlyphRun, closer, glyph_runs
from skalto.core.output.pdf.ink import Ink
from skalto.core.output.pdf.paths import DECIMALS, MANY, STEPS, Chunks, Paths, number
from skalto.core.pens import Caps, Joins, Pen, Pens
from skalto.core.quantities import PT_PER_MM

_ENDS = {Caps.FLAT: 0, Caps.ROUND: 1, Caps.SQUARE: 2}
_JOINS = {Joins.MITRE: 0, Joins.ROUND: 1, Joins.BEVEL: 2}
_MATRIX_DECIMALS = 6


class Resources(Protocol):
    """What a page's content needs beside it: fonts, pictures and layers, each under the name that is given back; a layer has
    none where the file has no layers."""

    def font(self, run: GlyphRun) -> str: ...

    def picture(self, item: Raster) -> str: ...

    def layer(self, name: str) -> str: ...

    def opacity(self, value: float) -> str: ...


class Paint(Enum):
    """How an item's operators are painted."""

    STROKE = auto()
    CONTOUR = auto()
    FILL = auto()
    TEXT = auto()
    GHOST = auto()
    PICTURE = auto()


@dataclass(frozen=True, eq=False)
class Made:
    """The operators of an item, a chunk a stroke; each chunk's place in the drawing order, where it has one, and its box."""

    paint: Paint
    chunks: Chunks
    order: NDArray[np.int64] | None = None
    boxes: Array = field(default_factory=lambda: np.zeros((0, 2, 2)))


class _Writer:
    """Operators with the state that they have set: pen, colour of fills, layer."""

    def __init__(self, paths: Paths, pens: Pens, resources: Resources, ink: Ink) -> None:
        self.paths, self.pens, self.resources, self.ink = paths, pens, resources, ink
        self.out: list[bytes] = []
        self._pen: Pen | None = None
        self._fill = BLACK
        self._stroke = BLACK
        self._layer = ""
        self._unseen = False
        self._dashes = b""
        self._phase = 0.0
        self._opacity = 1.0

    def layer(self, name: str, unseen: bool = False) -> None:
        """Go on in a layer's optional content (8.11.3.2), or outside any; hidden edges stand in a mark of their own (14.6),
        so that whoever measures the file can leave them out."""
        short = self.resources.layer(name) if name else ""
        if short == self._layer and unseen == self._unseen:
            return
        if self._unseen:
            self.out.append(b"EMC")
        if short != self._layer:
            if self._layer:
                self.out.append(b"EMC")
            if short:
                self.out.append(b"/OC /%s BDC" % short.encode())
        if unseen:
            self.out.append(b"/Unseen BMC")
        self._layer, self._unseen = short, unseen

    def pen(self, tags: Tags) -> None:
        """Line width, cap and join, dashes (8.4.3) and colour (8.6.8)."""
        pen = self.pens.pen(tags)
        phase = self.pens.phase(tags)
        if pen == self._pen and phase == self._phase:
            return
        factor = self.paths.factor
        dashes = b" ".join(number(d * pen.width * factor) for d in pen.dashes)
        if self._pen is None or pen.width != self._pen.width:
            self.out.append(number(pen.width * factor) + b" w")
        if self._pen is None or (pen.caps, pen.joins) != (self._pen.caps, self._pen.joins):
            self.out.append(b"%d J %d j" % (_ENDS[pen.caps], _JOINS[pen.joins]))
        if self._pen is None or (dashes, phase) != (self._dashes, self._phase):
            self.out.append(b"[%s] %s d" % (dashes, number(phase * factor)))
        self._dashes, self._phase = dashes, phase
        if pen.colour != self._stroke:
            self.out.append(self.ink.stroke(pen.colour))
            self._stroke = pen.colour
        self._pen = pen

    def fill(self, colour: Colour) -> None:
        """The colour of what is filled."""
        if colour != self._fill:
            self._fill = colour
            self.out.append(self.ink.fill(colour))

    def opacity(self, value: float) -> None:
        """How much what is painted covers (11.6.4.4)."""
        if value != self._opacity:
            self.out.append(b"/%s gs" % self.resources.opacity(value).encode())
            self._opacity = value

    def draw(self, item: Item, paint: Paint, chunks: Chunks) -> None:
        """Some of an item's operators, under its layer and pen or colour."""
        self.layer(item.tags.layer, item.tags.edge_class is EdgeClass.HIDDEN)
        self.opacity(item.tags.opacity)
        match paint:
            case Paint.TEXT | Paint.GHOST:
                self.fill(self.pens.pen(item.tags).colour)
                ghost = (b"3 Tr", b"0 Tr") if paint is Paint.GHOST else ()
                chunks = [b"BT", *ghost[:1], *chunks, *ghost[1:], b"ET"]
            case Paint.FILL:
                self.fill(self.pens.pen(item.tags).colour)
            case Paint.STROKE | Paint.CONTOUR:
                self.pen(item.tags)
                if self.paths.steps is not None and paint is Paint.STROKE:
                    chunks = _together(chunks)
            case Paint.PICTURE:
                pass
            case _:
                assert_never(paint)
        self.out += chunks

    def end(self) -> bytes:
        """All of it, the colours black again."""
        self.layer("")
        self.opacity(1.0)
        self.fill(BLACK)
        if self._stroke != BLACK:
            self.out.append(self.ink.stroke(BLACK))
        return b"\n".join((*self.out, b"")) if self.out else b""

    # A sink: what an item's operators are

    def lines(self, item: Lines) -> Made:
        return self._strokes(item)

    def ellipses(self, item: Ellipses) -> Made:
        return self._strokes(item)

    def beziers(self, item: Beziers) -> Made:
        return self._strokes(item)

    def polylines(self, item: Polylines) -> Made:
        return self._strokes(item)

    def _strokes(self, item: Stroked) -> Made:
        if not len(item):
            return Made(Paint.STROKE, [], item.order)
        chunks, begins = self.paths.strokes(item)
        if item.order is None:
            return Made(Paint.STROKE, chunks)
        boxes = item.bounds()
        if begins is None:
            return Made(Paint.STROKE, chunks, item.order, boxes)
        first = np.flatnonzero(begins)
        low, high = np.minimum.reduceat(boxes[:, 0], first), np.maximum.reduceat(boxes[:, 1], first)
        return Made(Paint.STROKE, chunks, item.order[begins], np.stack((low, high), axis=1))

    def contours(self, item: Contours) -> Made:
        return Made(Paint.CONTOUR, self.paths.contours(item))

    def texts(self, item: Text) -> Made:
        # letters reach over their capitals' box by less than its height
        reach = np.array((-1.0, 1.0))[None, :, None] * item.height[:, None, None]
        paint = Paint.GHOST if item.ghost else Paint.TEXT
        return Made(paint, _text(item, self.paths, self.resources), item.order, item.bounds() + reach)

    def fills(self, item: Fills) -> Made:
        return Made(Paint.FILL, self.paths.fills(item))

    def areas(self, item: Areas) -> Made:
        return Made(Paint.FILL, self.paths.areas(item))

    def raster(self, item: Raster) -> Made:
        return Made(Paint.PICTURE, [_raster(item, self.paths.factor, self.resources)])


INK = Ink()

TOGETHER = 16
"""How many strokes of one kind make one path, where there are very many: a file that is read and shown faster."""


def _together(chunks: Chunks) -> Chunks:
    """Strokes that follow one another as subpaths of fewer paths; those with coordinates of their own stay by themselves."""
    own = [chunk for chunk in chunks if chunk.startswith(b"q ")]
    plain = [chunk.removesuffix(b"S") for chunk in chunks if not chunk.startswith(b"q ")]
    return own + [b"".join(plain[at : at + TOGETHER]) + b"S" for at in range(0, len(plain), TOGETHER)]


def _text(item: Text, paths: Paths, resources: Resources) -> Chunks:
    """Runs of text (9.4): a matrix each, glyphs by number."""
    out: Chunks = []
    factor = paths.factor
    for text, (x, y), height, ((a, b), (c, d)) in zip(
        item.texts, item.start.tolist(), item.height.tolist(), item.matrices().tolist(), strict=True
    ):
        rows = []
        lean = b" ".join(number(v / height, _MATRIX_DECIMALS) for v in (a, b, c, d)) if height else b"1 0 0 1"
        for run in glyph_runs(text, item.face):
            face = FACES[run.face]
            at = number(x * factor, paths.decimals) + b" " + number(y * factor, paths.decimals)
            shown = b"/%s %s Tf %s %s Tm %s" % (
                resources.font(run).encode(), number(height * face.size * factor), lean, at, _glyphs(run),
            )  # fmt: skip
            if NO_GLYPH in run.glyphs:
                # what it says, where its glyphs do not tell (14.9.4); of leftward text they do, and readers turn it themselves
                said = run.text.encode("utf-16-be").hex().upper().encode()
                shown = b"/Span <</ActualText <FEFF%s>>> BDC\n%s\nEMC" % (said, shown)
            rows.append(shown)
            on = sum(run.advances) / face.capitals
            x, y = x + a * on, y + b * on
        out.append(b"\n".join(rows))
    return out


def _glyphs(run: GlyphRun) -> bytes:
    """Glyphs by number, with the gaps between them where they stand as pairs (9.4.3): in thousandths of the size of type."""
    gaps = closer(run)
    if not any(gaps[:-1]):
        return b"<%s> Tj" % "".join(f"{glyph:04X}" for glyph in run.glyphs).encode()
    units = FACES[run.face].units
    parts, waiting = [], ""
    for glyph, gap in zip(run.glyphs, gaps, strict=True):
        waiting += f"{glyph:04X}"
        if gap:
            parts.append(f"<{waiting}>{number(gap * 1000 / units).decode()}")
            waiting = ""
    return b"[%s] TJ" % ("".join(parts) + (f"<{waiting}>" if waiting else "")).encode()


def _raster(item: Raster, factor: float, resources: Resources) -> bytes:
    """A picture (8.9.5) in its own coordinate system."""
    values = (*item.across, *item.upward, *item.corner)
    matrix = b" ".join(number(float(v) * factor) for v in values)
    return b"q %s cm /%s Do Q" % (matrix, resources.picture(item).encode())


def _batches(artwork: Artwork, pens: Pens) -> Iterator[list[Item]]:
    """Items one by one, but those together whose strokes have places in one drawing order; rule by rule where rules order."""
    by_rule = pens.pens.order == "by rule"
    batch: list[Item] = []
    for item in artwork:
        if by_rule and batch and pens.rule(batch[0].tags) != pens.rule(item.tags):
            yield batch
            batch = []
        if getattr(item, "order", None) is None:
            if batch:
                yield batch
                batch = []
            yield [item]
        else:
            batch.append(item)
    if batch:
        yield batch


def operators(
    artwork: Artwork,
    pens: Pens,
    resources: Resources,
    user_unit: int = 1,
    decimals: int = DECIMALS,
    ink: Ink = INK,
    apart: bool = False,
) -> bytes:
    """The operators that draw an artwork (sheet mm); what comes later covers what came before. One path a stroke, unless there
    are very many: see :data:`TOGETHER`.

    :param user_unit: the page's UserUnit; coordinates are divided by it.
    :param apart: one path a stroke whatever their number.
    """
    artwork = pens.arranged(artwork)
    many = len(artwork) >= MANY and not apart
    paths = Paths(float(PT_PER_MM / user_unit), DECIMALS if many else decimals, STEPS if many else None)
    writer = _Writer(paths, pens, resources, ink)
    for batch in _batches(artwork, pens):
        made = [(item, give(item, writer)) for item in batch]
        if len(batch) == 1 or len({pens.pen(item.tags).colour for item in batch}) == 1:
            # of one colour, nothing is seen to cover anything: whole groups, for a smaller file
            for item, own in made:
                writer.draw(item, own.paint, own.chunks)
            continue
        for number_, chunks in _in_passes(made, pens):
            item, own = made[number_]
            writer.draw(item, own.paint, chunks)
    return writer.end()


def _in_passes(made: list[tuple[Item, Made]], pens: Pens) -> Iterator[tuple[int, Chunks]]:
    """The groups of a batch of several colours, in passes that show what their drawing order shows."""
    colours = {colour: n for n, colour in enumerate({pens.pen(item.tags).colour for item, _ in made})}
    order = np.concatenate([own.order if own.order is not None else np.zeros(len(own.chunks), int) for _, own in made])
    owner = np.repeat(np.arange(len(made)), [len(own.chunks) for _, own in made])
    colour = np.array([colours[pens.pen(item.tags).colour] for item, _ in made])[owner]
    half = np.array([pens.pen(item.tags).width / 2 if own.paint is Paint.STROKE else 0.0 for item, own in made])[owner]
    boxes = np.concatenate([own.boxes for _, own in made])
    boxes = boxes + np.array((-1.0, 1.0))[None, :, None] * (half + 1e-3)[:, None, None]
    rows = np.argsort(order, kind="stable")
    level = np.empty(len(rows), np.int64)
    from skalto.core.output.pdf.layering import passes  # compiled: takes half a second to load

    level[rows] = passes(boxes[rows], colour[rows].astype(np.int64))
    chunks_of = [chunk for _, own in made for chunk in own.chunks]
    sequence = np.lexsort((order, owner, level))
    keys = np.stack((level[sequence], owner[sequence]), axis=1)
    for group in np.split(sequence, np.flatnonzero((keys[1:] != keys[:-1]).any(axis=1)) + 1):
        yield int(owner[group[0]]), [chunks_of[n] for n in group.tolist()]
