"""Where a cutter's courses lie on one another, or one comes back over itself: what is cut twice."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely
from shapely.ops import substring

from skalto.core.geometry import Array
from skalto.core.projection.single import unite

NEAR = 0.01
"""Courses nearer than this, mm, lie on one another: more than a course differs from its chords, less than any beam."""

SHORT = 0.15
"""What lies on something else and is shorter, mm, is a crossing or the point of a corner."""
_ALONG = 0.15
"""Chords that differ more in direction, as a sine, run across one another, not along."""


def over_one_another(courses: Sequence[Array]) -> tuple[float, list[Any]]:
    """How much of courses, each (n, 2), mm, lies on what was drawn before, mm, and where: the stretches that are doubled.

    What lies on another is within :data:`NEAR` of it, however it falls on any grid, and runs along it.
    """
    counts = [max(len(points) - 1, 0) for points in courses]
    whose = np.repeat(np.arange(len(courses)), counts)
    if not len(whose):
        return 0.0, []
    starts = np.concatenate([points[:-1] for points in courses if len(points) > 1])
    ends = np.concatenate([points[1:] for points in courses if len(points) > 1])
    size = np.hypot(*(ends - starts).T)
    kept = size > 1e-9
    starts, ends, size, whose = starts[kept], ends[kept], size[kept], whose[kept]
    way = (ends - starts) / size[:, None]
    chords = shapely.linestrings(np.stack((starts, ends), axis=1))
    earlier, later = shapely.STRtree(chords).query(chords, predicate="dwithin", distance=NEAR)
    pairs = earlier < later
    earlier, later = earlier[pairs], later[pairs]
    across = np.abs(way[earlier, 0] * way[later, 1] - way[earlier, 1] * way[later, 0])
    facing = (way[earlier] * way[later]).sum(axis=1)
    # within one course, what follows on the heels of a chord lies beside it and is none of this, unless it turns back
    between = _between(courses, whose, size, earlier, later)
    pairs = (across < _ALONG) & ((whose[earlier] != whose[later]) | (facing < 0) | (between > SHORT))
    earlier, later = earlier[pairs], later[pairs]
    on = shapely.intersection(chords[later], shapely.buffer(chords[earlier], NEAR))
    # as stretches of the course: from where to where, mm from its start
    points, part = shapely.get_coordinates(on, return_index=True)
    at = _along(size)[later[part]] + ((points - starts[later[part]]) * way[later[part]]).sum(axis=1)
    low, high = np.full(len(on), np.inf), np.full(len(on), -np.inf)
    np.minimum.at(low, part, at)
    np.maximum.at(high, part, at)
    stretches: dict[int, list[tuple[float, float]]] = {}
    for course, first, last in zip(whose[later].tolist(), low.tolist(), high.tolist(), strict=True):
        if last > first:
            stretches.setdefault(course, []).append((first, last))
    found = []
    for course, own in stretches.items():
        rows = [(first, last) for first, last in unite(own, NEAR) if last - first > SHORT]
        own_chords = np.flatnonzero(whose == course)
        line = shapely.LineString(np.concatenate((starts[own_chords[:1]], ends[own_chords])))
        start = float(_along(size)[own_chords[0]])
        found += [substring(line, first - start, last - start) for first, last in rows]
    return sum(own.length for own in found), found


def _along(size: Array) -> Array:
    """Where each chord begins, and the last ends, mm, all laid one after another."""
    return np.concatenate(([0.0], np.cumsum(size)))


def _between(courses: Sequence[Array], whose: Array, size: Array, earlier: Array, later: Array) -> Array:
    """What a course goes from one of its chords to a later one, mm; where it comes home, the shorter way round."""
    home = np.array([len(own) > 2 and bool(np.hypot(*(own[0] - own[-1])) < NEAR) for own in courses])
    whole = np.bincount(whose, weights=size, minlength=len(courses))
    along = _along(size)
    between = along[later] - along[earlier + 1]
    other = whole[whose[later]] - size[earlier] - size[later] - between
    shorter: Array = np.where(home[whose[later]], np.minimum(between, other), between)
    return shorter
