"""A flat pattern folded up again, by its bend lines, angles and radii alone, and held against the edges of the model."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from skalto.core.geometry import Array, Bools
from skalto.core.geometry.contour import Contour
from skalto.core.sheet_metal.faces import Edge, SolidFaces

_TOUCH = 1e-6
_WIDE = 1.0
_SPACING = 0.5


@dataclass(frozen=True, eq=False)
class Strip:
    """A region of the pattern, as the fold goes from its parent: it begins in the flat at *start* along *along*, and *across*
    leads into it; a bend turns by one radian in *neutral* mm, about side A's *radius*, mm, to side A where *up*.

    *bend* is the number of the bend that it is, 0 for a flat. *parent* is the number of the strip that it hangs on, -1 for the
    one that stays; *area* where it lies, a shapely polygon.
    """

    parent: int
    start: Array
    along: Array
    across: Array
    area: object
    neutral: float = 0.0
    radius: float = 0.0
    up: bool = True
    bend: int = 0


@dataclass(eq=False)
class _Frame:
    place: Array
    along: Array
    across: Array
    out: Array


class Folded:
    """A pattern folded up about its base, which lies in space as *base* tells: a place and the vectors along, across and
    out."""

    def __init__(self, strips: Sequence[Strip], base: tuple[Array, Array, Array, Array], thickness: float) -> None:
        self.strips, self.thickness = strips, thickness
        self.frames: list[_Frame] = []
        for strip in strips:
            if strip.parent < 0:
                self.frames.append(_Frame(*base))
                continue
            place, out = self._moved(strip.parent, strip.start[None], 0.0)
            along, across = (
                self._turned(strip.parent, strip.start, strip.along),
                self._turned(strip.parent, strip.start, strip.across),
            )
            self.frames.append(_Frame(place[0], along, across, out[0]))

    def _moved(self, number: int, points: Array, depth: float, share: float = 1.0) -> tuple[Array, Array]:
        """Points (k, 2) of a strip in space, *depth* mm under side A, and the normals out of side A there; a share of each turn
        where it is folded in part."""
        strip, frame = self.strips[number], self.frames[number]
        beside = points - strip.start
        a, s = beside @ strip.along, beside @ strip.across
        if not strip.neutral:
            place = frame.place + np.outer(a, frame.along) + np.outer(s, frame.across) - depth * frame.out
            return place, np.broadcast_to(frame.out, place.shape)
        way = 1.0 if strip.up else -1.0
        turn = s / strip.neutral
        # the axis is on side A where the sheet bends up
        centre = frame.place + way * strip.radius * frame.out
        out = np.outer(np.cos(turn), frame.out) - way * np.outer(np.sin(turn), frame.across)
        place = centre + np.outer(a, frame.along) - (way * strip.radius + depth) * out
        return place, out

    def _turned(self, number: int, at: Array, direction: Array) -> Array:
        """A direction of the flat, (2,), in space, at a place of a strip."""
        strip, frame = self.strips[number], self.frames[number]
        a, s = float(direction @ strip.along), float(direction @ strip.across)
        found: Array = a * frame.along + s * frame.across
        if not strip.neutral:
            return found
        way = 1.0 if strip.up else -1.0
        turn = float((at - strip.start) @ strip.across) / strip.neutral
        found = a * frame.along + s * (np.cos(turn) * frame.across + way * np.sin(turn) * frame.out)
        return found

    def places(self, flat: Array, depth: float) -> Iterator[tuple[Bools, Array]]:
        """Points (k, 2) of the pattern in space, *depth* mm under side A: for each strip which of them are on it, and where
        these are; where strips lie over one another a point is on several."""
        at = shapely.points(flat)
        apart = np.stack([shapely.distance(strip.area, at) for strip in self.strips])
        on = (apart <= apart.min(axis=0) + _TOUCH) & (apart <= _WIDE)
        for number, rows in enumerate(on):
            if rows.any():
                yield rows, self._moved(number, flat[rows], depth)[0]


def sampled(contour: Contour) -> Array:
    """Points (k, 2) along a contour, its ends and some between."""
    rows = []
    for segment in contour:
        count = int(np.clip(segment.length / _SPACING, 3, 24))
        rows += [segment.at(n / count) for n in range(count)]
    return np.array(rows)


def furthest(
    folded: Folded, contours: Sequence[Contour], solid: SolidFaces, within: Sequence[tuple[Contour, float]] = ()
) -> tuple[float, Array]:
    """How far, mm, contours folded up are from the model's edges at most, and where in space; each on the side that it is
    nearer to, or where it is *within* the sheet, so many mm under side A."""
    worst, where = 0.0, np.zeros(3)
    model = _Edges(solid)
    for contour in contours:
        flat = sampled(contour)
        rows = []
        for depth in (0.0, folded.thickness, *(own for other, own in within if other is contour)):
            gaps, places = np.full(len(flat), 10 * _WIDE), np.zeros((len(flat), 3))
            for on, points in folded.places(flat, depth):
                found = model.distances(points)
                places[on] = np.where((found < gaps[on])[:, None], points, places[on])
                gaps[on] = np.minimum(gaps[on], found)
            n = int(np.argmax(gaps))
            rows.append((float(gaps[n]), places[n]))
        own = min(rows, key=lambda row: row[0])
        if own[0] > worst:
            worst, where = own
    return worst, where


class _Edges:
    """The edges of a solid, to measure from."""

    def __init__(self, solid: SolidFaces) -> None:
        self.edges = solid.edges
        low = [edge.points.min(axis=0) for edge in self.edges]
        high = [edge.points.max(axis=0) for edge in self.edges]
        self.low, self.high = np.array(low).reshape(-1, 3), np.array(high).reshape(-1, 3)

    def distances(self, points: Array) -> Array:
        """Of each point (k, 3) the distance to the nearest edge, mm; the margin where none is near."""
        found = np.full(len(points), np.inf)
        for margin in (0.05, _WIDE):
            open_ = found > margin
            if not open_.any():
                break
            own = points[open_]
            best = np.full(len(own), np.inf)
            inside: Bools = (own[:, None] >= self.low - margin) & (own[:, None] <= self.high + margin)
            boxes = np.asarray(inside.all(axis=2))
            for number in np.flatnonzero(boxes.any(axis=0)).tolist():
                rows = boxes[:, number]
                best[rows] = np.minimum(best[rows], _apart(self.edges[number], own[rows]))
            found[open_] = best
        return np.where(np.isfinite(found), found, 10 * _WIDE)


def _apart(edge: Edge, points: Array) -> Array:
    ends = edge.points[[0, -1]]
    at_ends: Array = np.linalg.norm(points[:, None] - ends, axis=2).min(axis=1)
    if edge.is_line:
        size = float(np.linalg.norm(edge.chord))
        unit = edge.chord / max(size, 1e-300)
        s = np.clip((points - ends[0]) @ unit, 0, size)
        found: Array = np.linalg.norm(points - ends[0] - np.outer(s, unit), axis=1)
        return found
    return np.minimum(at_ends, _apart_curve(edge, points))


def _apart_curve(edge: Edge, points: Array) -> Array:
    """By Newton's foot points from the nearest of the samples."""
    near = np.argmin(np.linalg.norm(points[:, None] - edge.points, axis=2), axis=1)
    t = edge.low + (edge.high - edge.low) * near / (len(edge.points) - 1)
    best: Array = np.linalg.norm(points - edge.points[near], axis=1)
    for _ in range(4):
        at, slope = edge.at(t)
        gap = np.linalg.norm(points - at, axis=1)
        best = np.minimum(best, gap)
        size = (slope * slope).sum(axis=1)
        t = edge.within(t + ((points - at) * slope).sum(axis=1) / np.where(size > 0, size, 1.0))
    found: Array = np.minimum(best, np.linalg.norm(points - edge.at(t)[0], axis=1))
    return found
