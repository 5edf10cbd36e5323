"""What is drawn on a view by rule: centre marks and axes, cutting planes with their letters, hatching, captions."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import shapely

from skalto.core.annotation.dimension_values import Frame
from skalto.core.annotation.edge_references import SourceFacts
from skalto.core.annotation.pencil import Pencil
from skalto.core.artwork import Artwork, EdgeClass, Ellipses, Lines, Tags
from skalto.core.geometry import Array, Box
from skalto.core.projection.cutting import CutFace
from skalto.core.sheets.sheet import ViewSpec

CENTRE_REACH = 2.5
"""How far a centre line reaches beyond what it belongs to, mm (ISO 128-2, from memory: a little)."""

SMALLEST_MARKED = 0.7
"""A circle of a smaller radius on paper, mm, gets no centre mark: the mark would fill it."""

CHAIN_FROM = 6.0
"""Centre lines of circles smaller than this radius on paper, mm, are drawn through (ISO 128-2, from memory)."""

LETTER_HEIGHT, CAPTION_HEIGHT = 5.0, 3.5
HATCH_ANGLES = (45.0, 135.0, 30.0, 120.0, 60.0, 150.0)
"""Of parts that meet in a section, each in turn (ISO 128-50, from memory, has 45° and turned or spaced otherwise)."""


def _circles(artwork: Artwork) -> list[tuple[float, float, float]]:
    """Centre and largest radius of the circles of which at least half is seen, mm on paper."""
    swept: dict[tuple[float, float, float], float] = {}
    for item in artwork:
        if not isinstance(item, Ellipses) or item.tags.edge_class is EdgeClass.HIDDEN:
            continue
        round_ones = item.is_circle()
        radii = item.radii()[:, 0]
        for (x, y), radius, sweep in zip(item.centre[round_ones], radii[round_ones], item.sweep[round_ones], strict=True):
            key = (round(float(x), 3), round(float(y), 3), round(float(radius), 3))
            swept[key] = swept.get(key, 0.0) + float(sweep)
    largest: dict[tuple[float, float], float] = {}
    for (x, y, radius), sweep in swept.items():
        if sweep >= math.pi - 1e-6 and radius >= SMALLEST_MARKED:
            largest[x, y] = max(largest.get((x, y), 0.0), radius)
    return [(x, y, radius) for (x, y), radius in largest.items()]


def centre_marks(pencil: Pencil, artwork: Artwork, turn: float, within: tuple[Array, float] | None = None) -> None:
    """A cross at the centre of every circle that is seen, reaching over its largest; *turn* is the view's, radians. Of a
    detail, what lies *within* its circle (centre, radius)."""
    cos, sin = math.cos(turn), math.sin(turn)
    for x, y, radius in _circles(artwork):
        reach = radius + CENTRE_REACH
        edge_class = EdgeClass.CENTRE if radius >= CHAIN_FROM else EdgeClass.DIMENSION
        for dx, dy in ((cos, sin), (-sin, cos)):
            low, high = -reach, reach
            if within is not None:
                away = np.array((x, y)) - within[0]
                middle, square = -float(away @ (dx, dy)), float(away @ (-dy, dx))
                half = math.sqrt(max(within[1] ** 2 - square**2, 0.0))
                low, high = max(low, middle - half), min(high, middle + half)
            if low < high:
                pencil.line((x + dx * low, y + dy * low), (x + dx * high, y + dy * high), edge_class)


def axes_of_cylinders(pencil: Pencil, frame: Frame, facts: SourceFacts, paths: Sequence[str]) -> None:
    """A centre line along the axis of every round part or hole that is seen from the side."""
    runs: dict[tuple[float, ...], list[float]] = {}
    look = frame.axes[2]
    for path in paths:
        own = facts.of(path)
        if own is None or not len(own.circles):
            continue
        circles = own.circles[(own.circles[:, 7] > math.pi - 1e-6) & (np.abs(own.circles[:, 3:6] @ look) < 1e-9)]
        for row in circles:
            centre, axis = frame.plane(row[:3]), frame.axes[:2] @ row[3:6]
            axis = axis / np.hypot(*axis)
            if axis[0] < -1e-9 or (abs(axis[0]) <= 1e-9 and axis[1] < 0):
                axis = -axis
            key = (*np.round(axis, 6).tolist(), round(float(centre @ np.array((-axis[1], axis[0]))), 4))
            runs.setdefault(key, []).append(float(centre @ axis))
    for (ax, ay, off), places in runs.items():
        low, high = min(places), max(places)
        if high - low < 1e-6:
            continue
        axis, normal = np.array((ax, ay)), np.array((-ay, ax))
        a, b = (frame.by.points(axis * v + normal * off) for v in (low, high))
        d = (b - a) / np.hypot(*(b - a)) * CENTRE_REACH
        pencil.line(a - d, b + d, EdgeClass.CENTRE)


def hatching(faces: Sequence[CutFace], frame: Frame, order: Sequence[str]) -> Artwork:
    """Hatching of cut faces, mm on paper: each component its own angle; spacing by the size of the area.

    :param order: the components in the order in which angles are dealt out.
    """
    pieces: list[Array] = []
    ranks = {path: number for number, path in enumerate(order)}
    for face in faces:
        if not face.rings:
            continue
        rings = [frame.by.points(ring) for ring in face.rings]
        area = shapely.Polygon(rings[0], rings[1:]).buffer(0)
        rank = ranks.get(face.component, 0)
        # between neighbours of one angle the lines are shifted by a part of their spacing
        angle = math.radians(HATCH_ANGLES[rank % len(HATCH_ANGLES)])
        spacing = float(np.clip(math.sqrt(abs(area.area)) / 12, 1.4, 4.0))
        pieces.append(_hatched(area, angle, spacing, 0.37 * rank))
    found = [piece for piece in pieces if len(piece)]
    if not found:
        return Artwork()
    return Artwork((Lines(Tags(EdgeClass.HATCHING), np.concatenate(found)),))


def _hatched(area: shapely.Geometry, angle: float, spacing: float, shift: float) -> Array:
    """Parallel lines over an area, cut at its border: (n, 2, 2)."""
    d = np.array((math.cos(angle), math.sin(angle)))
    n = np.array((-d[1], d[0]))
    x0, y0, x1, y1 = area.bounds
    corners = np.array(((x0, y0), (x1, y0), (x1, y1), (x0, y1)))
    along, across = corners @ d, corners @ n
    first = math.ceil(across.min() / spacing - shift)
    offsets = (np.arange(first, math.floor(across.max() / spacing - shift) + 1) + shift) * spacing
    lines = shapely.linestrings(
        np.stack((d * along.min() + n * offsets[:, None], d * along.max() + n * offsets[:, None]), axis=1)
    )
    cut = shapely.get_parts(shapely.intersection(lines, area))
    cut = cut[(shapely.get_type_id(cut) == 1) & (shapely.length(cut) > 0.05)]
    if not len(cut):
        return np.empty((0, 2, 2))
    return np.asarray(shapely.get_coordinates(cut)).reshape(-1, 2, 2)


def cutting_plane(pencil: Pencil, section: ViewSpec, frame: Frame) -> tuple[Array, Array]:
    """The trace of a section on its parent: long-dashed dotted with wide ends, arrows that look, letters; its ends."""
    assert section.section is not None
    a, b = (frame.by.points(np.array(p)) for p in (section.section.start, section.section.end))
    d = (b - a) / np.hypot(*(b - a))
    look = np.array((d[1], -d[0]))
    a, b = a - d * 6.0, b + d * 6.0
    wide = min(6.0, float(np.hypot(*(b - a))) / 3)
    pencil.line(a + d * wide, b - d * wide, EdgeClass.CUTTING)
    for end, inward in ((a, d), (b, -d)):
        pencil.line(end, end + inward * wide, EdgeClass.CUTTING_END)
        tip = end + inward * 1.5
        pencil.line(tip - look * 9.0, tip - look * 2.0, EdgeClass.DIMENSION)
        pencil.arrow(tip, look, EdgeClass.DIMENSION, 1.3)
        at = tip - look * 9.0 - inward * 4.5
        pencil.text(section.section.letter, (at[0], at[1] - LETTER_HEIGHT / 2), LETTER_HEIGHT, 0.0, 0.5)
    return a, b


def detail_circle(pencil: Pencil, detail: ViewSpec, frame: Frame) -> None:
    """The circle of a detail on its parent, and its letter."""
    assert detail.detail is not None
    centre, radius = frame.by.points(np.array(detail.detail.centre)), detail.detail.radius * frame.by.scale
    pencil.arc(centre, radius)
    at = centre + (radius + 2.0) * math.sqrt(0.5)
    pencil.text(detail.detail.letter, at, LETTER_HEIGHT)


def caption(pencil: Pencil, view: ViewSpec, box: Box, below: float = 4.0) -> None:
    """A section's or detail's letters above it; *below* mm under it the scale of what is not 1:1 (ISO 5455, where the
    word scale may be left out)."""
    x = (box[0] + box[2]) / 2
    if view.section is not None and view.detail is None:
        pencil.text(f"{view.section.letter}–{view.section.letter}", (x, box[3] + 4), LETTER_HEIGHT, 0.0, 0.5)
    elif view.detail is not None:
        pencil.text(view.detail.letter, (x, box[3] + 4), LETTER_HEIGHT, 0.0, 0.5)
    if view.scale != 1:
        pencil.text(f"Scale {view.scale}", (x, box[1] - below - CAPTION_HEIGHT), CAPTION_HEIGHT, 0.0, 0.5)
