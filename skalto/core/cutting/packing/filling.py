"""Pieces laid one after another, each where it reaches least far to the right, then least far up."""

from __future__ import annotations

import random
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from skalto.core.cutting.packing.pieces import Arrangement, Laying, Piece, Placed
from skalto.core.cutting.packing.regions import Plate, Shapes, Turned, corners_of

Stop = Callable[[], bool]


@dataclass(frozen=True, eq=False)
class Spot:
    """A place for a piece, and how good it is: smaller is better."""

    turned: Turned
    x: float
    y: float
    cost: tuple[float, ...]


def options(piece: Piece) -> list[Turned]:
    return [(piece.key, turn, flip) for flip in ((False, True) if piece.flips else (False,)) for turn in piece.directions]


def best_spot(plate: Plate, turned: Sequence[Turned]) -> Spot | None:
    """Where a piece is best laid on a plate, of the ways that it may be turned; None where it does not fit."""
    found: Spot | None = None
    for own in turned:
        corners = corners_of(plate.free(own))
        if not len(corners):
            continue
        _, _, x1, y1 = plate.shapes.size(own)
        reach = corners[:, 0] + x1
        # a piece that reaches no further right than what is there costs nothing more: the lowest such place
        rows = np.lexsort((corners[:, 0], corners[:, 1] + y1, np.round(reach, 3)))
        best = int(rows[0])
        cost = (round(float(reach[best]), 3), round(float(corners[best, 1] + y1), 3))
        if found is None or cost < found.cost:
            found = Spot(own, float(corners[best, 0]), float(corners[best, 1]), cost)
    return found


def queue_of(laying: Laying, shuffle: random.Random | None = None) -> list[str]:
    """The pieces to lay, one by one: the largest first, or nearly so where *shuffle* has a say."""
    size = {piece.key: piece.area.convex_hull.area for piece in laying.pieces}
    rows = [key for key, count in laying.demand.items() for _ in range(count)]
    if shuffle is None:
        return sorted(rows, key=lambda key: (-size[key], key))
    weight = {key: size[key] * shuffle.uniform(0.5, 2.0) for key in size}
    return sorted(rows, key=lambda key: (-weight[key], key))


def filled(
    laying: Laying, shapes: Shapes, queue: Sequence[str], stop: Stop = lambda: False, ways: int | None = None
) -> Arrangement:
    """Pieces laid in the order of a *queue* on the first plate that has room; what has none on any is left.

    :param ways: try no more than so many turns of each.
    """
    plates: list[Plate] = []
    placed = list(laying.pinned)

    def plate(number: int) -> Plate | None:
        while len(plates) <= number:
            blank = laying.blank_of(len(plates))
            if blank is None:
                return None
            plates.append(Plate(shapes, blank))
        return plates[number]

    for pinned in laying.pinned:
        own = plate(pinned.plate)
        if own is not None:
            own.add((pinned.key, pinned.turn, pinned.flipped), pinned.x, pinned.y)
    turns = {piece.key: options(piece)[:ways] for piece in laying.pieces}
    left: dict[str, int] = {}
    for place, key in enumerate(queue):
        if stop():
            for rest in queue[place:]:
                left[rest] = left.get(rest, 0) + 1
            break
        spot, number = None, 0
        full = left.get(key, 0) > 0
        while not full:
            own = plate(number)
            if own is None:
                break
            spot = best_spot(own, turns[key])
            if spot is not None or not own.on:
                break
            number += 1
        if spot is None:
            left[key] = left.get(key, 0) + 1
            continue
        waiting = [turned for other in set(queue[place + 1 :]) for turned in turns[other]]
        plates[number].add(spot.turned, spot.x, spot.y, waiting or [spot.turned])
        placed.append(Placed(key, number, spot.x, spot.y, spot.turned[1], spot.turned[2]))
    return Arrangement(tuple(placed), left)
