"""Item references about a view: where each balloon goes so that no two leaders cross (ISO 6433, from memory)."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from skalto.core.annotation.pencil import Pencil
from skalto.core.artwork import Artwork, Beziers, EdgeClass, Ellipses, Lines
from skalto.core.geometry import Array, Box, Point, bezier_at
from skalto.core.lettering import length
from skalto.core.sources.models.parts import Item

RADIUS, LETTERING = 4.5, 3.5
AWAY, STEP = 13.0, 12.0
"""How far balloons lie from the view, and from one another at least, mm."""


@dataclass(frozen=True)
class Balloon:
    """An item's balloon: where it lies and what its leader points at, sheet mm; what stands in it, '' for the item's number."""

    item: int
    place: Point
    target: Point
    text: str = ""


def _points_by_component(artwork: Artwork) -> dict[str, Array]:
    """Points on the seen edges of every component, (n, 2)."""
    found: dict[str, list[Array]] = {}
    for item in artwork:
        if item.tags.edge_class not in (EdgeClass.VISIBLE, EdgeClass.OUTLINE):
            continue
        if isinstance(item, Lines):
            # no end: it may lie on a neighbour
            points = item.points[:, 0] * 0.6 + item.points[:, 1] * 0.4
            points = points[np.linalg.norm(item.points[:, 1] - item.points[:, 0], axis=1) > 1.0]
        elif isinstance(item, Ellipses):
            points = item.at((item.start + item.sweep * 0.45)[:, None])[:, 0]
        elif isinstance(item, Beziers):
            points = bezier_at(item.points, np.array([0.45]))[:, 0]
        else:
            continue
        if len(points):
            found.setdefault(item.tags.component, []).append(points)
    return {path: np.concatenate(rows) for path, rows in found.items()}


def _outward(points: Array, box: Box) -> Array:
    """How far points lie inside a box from its nearest side."""
    inside: Array = np.minimum.reduce(
        (points[:, 0] - box[0], box[2] - points[:, 0], points[:, 1] - box[1], box[3] - points[:, 1])
    )
    return inside


def _slots(box: Box, ring: int) -> Array:
    """Places on a ring about a view, (n, 2)."""
    away = AWAY + ring * STEP
    x0, y0, x1, y1 = box[0] - away, box[1] - away, box[2] + away, box[3] + away
    across = np.linspace(x0, x1, max(2, int((x1 - x0) / STEP) + 1))
    upright = np.linspace(y0, y1, max(2, int((y1 - y0) / STEP) + 1))[1:-1]
    rows = [np.stack((across, np.full(len(across), y)), axis=1) for y in (y0, y1)]
    rows += [np.stack((np.full(len(upright), x), upright), axis=1) for x in (x0, x1)]
    return np.concatenate(rows)


def _free(slots: Array, within: Box, taken: Sequence[Box]) -> Array:
    r = RADIUS + 1.0
    x, y = slots[:, 0], slots[:, 1]
    ok = (x >= within[0] + r) & (x <= within[2] - r) & (y >= within[1] + r) & (y <= within[3] - r)
    for b in taken:
        ok &= (x < b[0] - r) | (x > b[2] + r) | (y < b[1] - r) | (y > b[3] + r)
    return slots[ok]


def place_balloons(
    items: Sequence[Item], artwork: Artwork, box: Box, within: Box, taken: Sequence[Box], moved: Mapping[int, Point]
) -> list[Balloon]:
    """A balloon for every item that the view shows, outside it and clear of what is *taken*.

    Places are dealt out so that all leaders together are shortest; shortest leaders cannot cross, since uncrossing two
    would shorten both. A balloon in *moved* stays where it was put.
    """
    points = _points_by_component(artwork)
    targets: dict[int, Array] = {}
    for item in items:
        own = [points[path] for path in item.components if path in points]
        if own:
            every = np.concatenate(own)
            targets[item.item] = every[int(np.argmin(_outward(every, box)))]
    automatic = [number for number in targets if number not in moved]
    slots = np.empty((0, 2))
    for ring in range(4):
        if len(slots) >= len(automatic):
            break
        slots = np.concatenate((slots, _free(_slots(box, ring), within, taken)))
    for place in moved.values():
        slots = slots[np.hypot(*(slots - place).T) > STEP]
    places: dict[int, Point] = {number: place for number, place in moved.items() if number in targets}
    if len(automatic) and len(slots):
        from scipy.optimize import linear_sum_assignment  # takes a second to load

        goals = np.array([targets[number] for number in automatic])
        cost = np.linalg.norm(goals[:, None] - slots[None], axis=2)
        for row, column in zip(*linear_sum_assignment(cost), strict=True):
            x, y = slots[column].tolist()
            places[automatic[row]] = (x, y)
    return [
        Balloon(number, places[number], (float(target[0]), float(target[1])))
        for number, target in targets.items()
        if number in places
    ]


def draw_balloon(pencil: Pencil, balloon: Balloon) -> None:
    """A circle with the item's number or mark, and a leader that ends in an arrow on the part's edge."""
    (x, y), target = balloon.place, balloon.target
    away = math.dist(balloon.place, target)
    pencil.arc((x, y), RADIUS)
    if away > RADIUS:
        d = ((target[0] - x) / away, (target[1] - y) / away)
        pencil.line((x + d[0] * RADIUS, y + d[1] * RADIUS), target)
        pencil.arrow(target, d)
    text = balloon.text or str(balloon.item)
    height = min(LETTERING, LETTERING * (2 * RADIUS - 2.2) / max(length(text, LETTERING), 1e-9))
    pencil.text(text, (x, y - height / 2), height, 0.0, 0.5)
