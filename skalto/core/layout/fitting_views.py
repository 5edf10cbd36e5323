"""Where views fit on a sheet beside its title block and tables, and at what scale: exactly, and not by the room that is left in
one piece."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from skalto.core.geometry import Array, Box
from skalto.core.quantities import PREFERRED_SCALES, Scale

CLEAR = 4.0
"""What stays free about views, tables, title block and frame, mm (our own choice)."""


@dataclass(frozen=True)
class Seat:
    """A view in its cell: its column and row (rows upward), its size, model mm, and what its own dimensions take at its left
    and below it, mm."""

    cell: tuple[int, int]
    size: tuple[float, float]
    left: float = 0.0
    below: float = 0.0


def _starts(sizes: Mapping[int, float], edges: Mapping[int, float], gap: float) -> dict[int, float]:
    """Where the middle of each column or row lies, the first one's edge at 0."""
    found, at = {}, 0.0
    for number in sorted(sizes):
        at += edges[number]
        found[number] = at + sizes[number] / 2
        at += sizes[number] + gap
    return found


def laid(seats: Sequence[Seat], scale: Fraction | float, gap: float) -> tuple[Array, Array]:
    """The middles of views (n, 2) and their boxes with their dimensions (n, 4), mm from the layout's lower left: views in line,
    *gap* mm between what is drawn of one and the next."""
    columns: dict[int, float] = {}
    rows: dict[int, float] = {}
    left: dict[int, float] = {}
    below: dict[int, float] = {}
    for seat in seats:
        column, row = seat.cell
        columns[column] = max(columns.get(column, 0.0), seat.size[0] * float(scale))
        rows[row] = max(rows.get(row, 0.0), seat.size[1] * float(scale))
        left[column] = max(left.get(column, 0.0), seat.left)
        below[row] = max(below.get(row, 0.0), seat.below)
    xs, ys = _starts(columns, left, gap), _starts(rows, below, gap)
    middles = np.array([(xs[seat.cell[0]], ys[seat.cell[1]]) for seat in seats])
    half = np.array([seat.size for seat in seats]) * float(scale) / 2
    edges = np.array([(seat.left, seat.below) for seat in seats])
    return middles, np.hstack((middles - half - edges, middles + half))


def free_offset(boxes: Array, obstacles: Sequence[Box], within: Box, toward: tuple[float, float]) -> tuple[float, float] | None:
    """By how much boxes (n, 4) can be moved so that all lie within a box and none on an obstacle; None where they cannot. Of
    all such places the one whose middle is nearest to *toward*.

    Each pair of a box and an obstacle rules out a rectangle of moves (their Minkowski difference); where a move is left, one is
    left at a corner of these, or at the place that was wanted.
    """
    low, high = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
    least, most = np.array(within[:2]) - low, np.array(within[2:]) - high
    if bool(np.any(least > most + 1e-9)):
        return None
    most = np.maximum(least, most)
    rows = np.array(obstacles, float).reshape(-1, 4)
    closed_low = (rows[None, :, :2] - boxes[:, None, 2:]).reshape(-1, 2)
    closed_high = (rows[None, :, 2:] - boxes[:, None, :2]).reshape(-1, 2)
    wanted = np.clip(np.array(toward) - (low + high) / 2, least, most)
    tries = []
    for axis in (0, 1):
        own = np.concatenate(([wanted[axis], least[axis], most[axis]], closed_low[:, axis], closed_high[:, axis]))
        tries.append(np.unique(own[(own >= least[axis] - 1e-9) & (own <= most[axis] + 1e-9)]))
    moves = np.stack(np.meshgrid(*tries, indexing="ij"), axis=-1).reshape(-1, 2)
    over, under = moves[:, None] > closed_low + 1e-9, moves[:, None] < closed_high - 1e-9
    hit: NDArray[np.bool_] = np.asarray(np.all(over & under, axis=2))
    free = moves[~np.any(hit, axis=1)]
    if not len(free):
        return None
    best = free[np.argmin(np.linalg.norm(free - wanted, axis=1))]
    return float(best[0]), float(best[1])


def grown(box: Box, by: float) -> Box:
    return box[0] - by, box[1] - by, box[2] + by, box[3] + by


def table_places(sizes: Sequence[tuple[float, float]], within: Box, title: Box | None) -> Iterator[list[tuple[float, float]]]:
    """Where tables may stand, each by its upper left corner: at the upper right one below the other, over the title block, or
    at the left of it."""
    if not sizes:
        yield []
        return
    x0, y0, x1, y1 = within
    tall = sum(height for _, height in sizes) + CLEAR * (len(sizes) - 1)

    def down(right: float, top: float) -> list[tuple[float, float]]:
        found = []
        for width, height in sizes:
            found.append((right - width, top))
            top -= height + CLEAR
        return found

    wide = max(width for width, _ in sizes)
    ways = [(x1, y1)]
    if title is not None:
        ways += [(x1, title[3] + CLEAR + tall), (title[0] - CLEAR, y0 + tall)]
    else:
        ways.append((x1, y0 + tall))
    for right, top in ways:
        if right - wide < x0 - 1e-9 or top > y1 + 1e-9 or top - tall < y0 - 1e-9:
            continue
        if title is not None and right > title[0] + 1e-9 and top - tall < title[3] - 1e-9:
            continue
        yield down(right, top)


@dataclass(frozen=True)
class Fit:
    """A scale, the middles of the views, and the upper left corners of the tables, mm on the sheet."""

    scale: Scale
    places: tuple[tuple[float, float], ...]
    tables: tuple[tuple[float, float], ...]


def best_fit(
    seats: Sequence[Seat], tables: Sequence[tuple[float, float]], usable: Box, title: Box | None, gap: float,
    scales: Sequence[Scale] = PREFERRED_SCALES,
) -> Fit | None:  # fmt: skip
    """The largest of some scales at which views, tables and title block have room on a sheet; None where none is small enough.

    :param tables: their widths and heights, mm. :param usable: what the frame leaves.
    """
    within = grown(usable, -CLEAR)
    if within[0] >= within[2] or within[1] >= within[3]:
        return None
    ways = list(table_places(tables, within, title))
    for scale in scales:
        middles, boxes = laid(seats, scale, gap)
        for corners in ways:
            stand = [(x, y - height, x + width, y) for (x, y), (width, height) in zip(corners, tables, strict=True)] + (
                [title] if title is not None else []
            )
            toward = _middle(within, title)
            offset = free_offset(boxes, [grown(box, CLEAR) for box in stand], within, toward)
            if offset is not None:
                moved = middles + np.array(offset)
                return Fit(scale, tuple((float(x), float(y)) for x, y in moved), tuple(corners))
    return None


def _middle(within: Box, title: Box | None) -> tuple[float, float]:
    """Where views are best: in the middle of what lies over the title block, or at the left of it, whichever is larger."""
    if title is None:
        return (within[0] + within[2]) / 2, (within[1] + within[3]) / 2
    above, beside = (within[0], title[3], within[2], within[3]), (within[0], within[1], title[0], within[3])
    x0, y0, x1, y1 = max(above, beside, key=lambda box: (box[2] - box[0]) * (box[3] - box[1]))
    return (x0 + x1) / 2, (y0 + y1) / 2
