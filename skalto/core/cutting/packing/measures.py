"""What an arrangement is worth: yield, the bound that none can pass, the rectangle that is left over, and whether it holds."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely

from skalto.core.cutting.packing.pieces import Arrangement, Laying, Placed, grown
from skalto.core.geometry import Box

SLACK = 1e-3
"""So much, mm, a gap may be short of what was asked, and a piece over the edge: a micrometre."""


def area_laid(laying: Laying, placed: Sequence[Placed]) -> float:
    """Of the pieces themselves, mm²."""
    return math.fsum(laying.by_key[own.key].own_area for own in placed)


def plate_yield(laying: Laying, arrangement: Arrangement, plate: int) -> float:
    """The share of a plate that becomes pieces."""
    blank = laying.blank_of(plate)
    assert blank is not None, "it has pieces on it"
    return area_laid(laying, arrangement.on(plate)) / float(laying.blanks[blank].area.area)


def bound(laying: Laying, placed: Sequence[Placed], blank: int) -> float:
    """The yield that no arrangement of these pieces on one such plate can pass: the pieces grown by half the gap fill what
    may be used, as far as that is grown too."""
    room = float(laying.usable(blank).area)
    taken = math.fsum(grown_area(laying, own.key) for own in placed)
    plain = area_laid(laying, placed)
    if not taken:
        return 0.0
    # as many of the same mix as fill the room
    return min(1.0, room / taken * plain / float(laying.blanks[blank].area.area))


def grown_area(laying: Laying, key: str) -> float:
    """A piece with half the gap around, and what of its openings that leaves, mm²."""
    return float(laying.by_key[key].area.buffer(laying.gap / 2).area)


def extent(laying: Laying, arrangement: Arrangement, plate: int) -> float:
    """How far to the right the pieces of a plate reach, mm."""
    return max((own.of(laying.by_key[own.key].area).bounds[2] for own in arrangement.on(plate)), default=0.0)


def largest_rectangle(laying: Laying, arrangement: Arrangement, plate: int, step: float = 2.0) -> Box | None:
    """The largest rectangle of a plate that no piece comes nearer to than the gap, found on a grid of *step* mm; None where
    there is none to speak of."""
    blank = laying.blank_of(plate)
    if blank is None:
        return None
    area = laying.blanks[blank].area
    x0, y0, x1, y1 = area.bounds
    step = max(step, (x1 - x0) / 600, (y1 - y0) / 600)
    taken = shapely.union_all([grown(own.of(laying.by_key[own.key].area), laying.gap) for own in arrangement.on(plate)])
    columns, rows = int((x1 - x0) / step), int((y1 - y0) / step)
    if not columns or not rows:
        return None
    free = shapely.difference(area, taken)
    shapely.prepare(free)
    # a cell is free where its corners and middle are, and no edge of what is taken runs through it
    xs, ys = x0 + np.arange(columns) * step, y0 + np.arange(rows) * step
    grid = np.stack([g.ravel() for g in np.meshgrid(xs, ys)], axis=1)
    cells = shapely.box(grid[:, 0], grid[:, 1], grid[:, 0] + step, grid[:, 1] + step)
    clear = shapely.covers(free, cells).reshape(rows, columns)
    best, found = 0.0, None
    heights = np.zeros(columns, int)
    for row in range(rows):
        heights = np.where(clear[row], heights + 1, 0)
        size, left, width, height = _largest(heights.tolist())
        if size > best:
            best = size
            found = (left * step + x0, (row + 1 - height) * step + y0, (left + width) * step + x0, (row + 1) * step + y0)
    return found


def _largest(heights: list[int]) -> tuple[float, int, int, int]:
    """The largest rectangle under a row of bars: its size, where it begins, how wide and how high it is."""
    best = (0.0, 0, 0, 0)
    open_: list[tuple[int, int]] = []
    for place, height in enumerate([*heights, 0]):
        start = place
        while open_ and open_[-1][1] >= height:
            start, own = open_.pop()
            size = float(own * (place - start))
            if size > best[0]:
                best = (size, start, place - start, own)
        open_.append((start, height))
    return best


def faults(laying: Laying, arrangement: Arrangement, exact: dict[str, Any] | None = None) -> list[str]:
    """What is wrong with an arrangement, in sentences: pieces that overlap, come nearer than the gap, or reach over the edge.

    :param exact: areas to take instead of the pieces' own, by key.
    """
    found: list[str] = []
    areas = exact or {piece.key: piece.area for piece in laying.pieces}
    for plate in range(arrangement.plates):
        blank = laying.blank_of(plate)
        if blank is None:
            found.append(f"There is no plate {plate + 1}.")
            continue
        lying = [(own, own.of(areas[own.key])) for own in arrangement.on(plate)]
        inside = laying.blanks[blank].area.buffer(SLACK - laying.edge, join_style="mitre")
        for own, area in lying:
            if not inside.covers(area):
                found.append(f"{own.key} reaches over the edge margin of plate {plate + 1}.")
        for (one, a), (other, b) in itertools.combinations(lying, 2):
            if a.distance(b) < laying.gap - SLACK:
                how = "overlap" if a.intersection(b).area > SLACK**2 else f"are {a.distance(b):.3f} mm apart"
                found.append(f"{one.key} and {other.key} {how} on plate {plate + 1}.")
    return found
