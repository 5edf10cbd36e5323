"""Decorations as what a cutter does: courses to score or to engrave along, and areas and pictures to engrave."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from skalto.core.artwork import Artwork, EdgeClass, Polylines, Tags, Text
from skalto.core.artwork.area_polygons import filled_alike
from skalto.core.artwork.drawing import Item
from skalto.core.artwork.filled import Areas, Fills, Raster
from skalto.core.cutting.decorations import Decoration, ExcerptContent, LetteringContent
from skalto.core.cutting.drawn_profiles import courses, outline
from skalto.core.geometry import Box, Similarity
from skalto.core.geometry.profile import Mark, Operation
from skalto.core.lettering import lettered
from skalto.core.outlines import outlined
from skalto.core.sources.drawings.excerpt import excerpt_artwork
from skalto.core.strokefont import SETS, can_draw, strokes

_PLAIN = Tags(EdgeClass.ENGRAVE)


@dataclass(frozen=True, eq=False)
class Decorated:
    """What a decoration comes to where it stands: *marks*, and *areas*, filled areas and pictures to engrave; its *box*, and
    sentences on what of it cannot be done."""

    marks: tuple[Mark, ...]
    areas: Artwork
    box: Box | None
    notes: tuple[str, ...] = field(default=())

    def placed(self, by: Similarity) -> Decorated:
        """Moved and turned with its part."""
        marks = tuple(Mark(own.course.placed(by), own.operation) for own in self.marks)
        areas = self.areas.placed(by)
        return replace(self, marks=marks, areas=areas, box=_box(marks, areas))


def decorated(own: Decoration, excerpts: Mapping[str, Artwork]) -> Decorated:
    """What a decoration comes to.

    :param excerpts: what :func:`excerpted` made of an excerpt, by the decoration's id. :raises KeyError: when it is not there.
    """
    content, operation = own.content, Operation(own.operation)
    if isinstance(content, LetteringContent):
        artwork, notes = _letters(content)
    else:
        artwork, notes = excerpts[own.id], ()
    marks, areas, left = _worked(artwork, operation)
    box = _box(marks, areas)
    if box is None:
        return Decorated((), Artwork(), None, (*notes, *left, f"{own.name} has nothing to {own.operation}."))
    to_middle = Similarity(dx=-(box[0] + box[2]) / 2, dy=-(box[1] + box[3]) / 2)
    there = Similarity(dx=own.x, dy=own.y, turn=math.radians(own.turn))
    return Decorated(marks, areas, box, (*notes, *left)).placed(to_middle).placed(there)


def excerpted(content: ExcerptContent, space: Artwork) -> Artwork:
    """An excerpt's lines, areas and pictures at its scale; *space* is the drawing as it was read. :raises InputError: when it
    shows nothing."""
    return excerpt_artwork(space, content.excerpt).placed(Similarity(content.scale))


def _letters(content: LetteringContent) -> tuple[Artwork, tuple[str, ...]]:
    if content.letters == "single strokes":
        if can_draw(content.text.replace(" ", ""), SETS[0]):
            rows = [line * content.height for line in strokes(content.text, SETS[0]) if len(line) > 1]
            return Artwork(tuple(_polyline(row) for row in rows)), ()
        note = f"“{content.text}” has letters that no single-stroke font has, and is drawn in outlines."
        return outlined(Artwork((_text(content),))), (note,)
    return outlined(Artwork((_text(content),))), ()


def _text(content: LetteringContent) -> Text:
    return replace(lettered([(content.text, (0.0, 0.0), content.height, 0.0, 0.0)]), tags=_PLAIN)


def _polyline(points: np.ndarray) -> Polylines:
    return Polylines(_PLAIN, points, np.zeros(len(points)), np.array((0, len(points))), np.zeros(1, bool))


def _worked(artwork: Artwork, operation: Operation) -> tuple[tuple[Mark, ...], Artwork, tuple[str, ...]]:
    """What is done along strokes, and what is engraved as areas; pictures cannot be scored."""
    lines: list[Item] = []
    areas: list[Item] = []
    pictures = 0
    for item in outlined(artwork):
        if isinstance(item, Areas | Fills):
            if operation is Operation.ENGRAVE:
                plain = filled_alike(item) if isinstance(item, Areas) else item
                areas.append(replace(plain, tags=_PLAIN))
            elif isinstance(item, Areas):
                lines += outline(filled_alike(item))
            else:
                lines += [_polyline(np.concatenate((own, own[:1]))) for own in item.points]
        elif isinstance(item, Raster):
            if operation is Operation.ENGRAVE:
                areas.append(replace(item, tags=_PLAIN))
            else:
                pictures += 1
        elif not isinstance(item, Text):
            lines.append(item)
    notes = (f"{pictures} {'picture' if pictures == 1 else 'pictures'} cannot be scored: engrave them.",) if pictures else ()
    return tuple(Mark(course, operation) for course in courses(Artwork(tuple(lines)))), Artwork(tuple(areas)), notes


def _box(marks: Iterable[Mark], areas: Artwork) -> Box | None:
    boxes = [mark.course.box for mark in marks]
    for item in areas:
        rows = item.bounds()
        if len(rows):
            boxes.append((*rows[:, 0].min(axis=0).tolist(), *rows[:, 1].max(axis=0).tolist()))
    if not boxes:
        return None
    low, high = np.array(boxes)[:, :2].min(axis=0), np.array(boxes)[:, 2:].max(axis=0)
    return (float(low[0]), float(low[1]), float(high[0]), float(high[1]))
