"""The thickness of a sheet, and which faces are its two skins: planes and cylinders that lie the thickness apart."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely

from skalto.core.geometry import TAU, Array
from skalto.core.sheet_metal.faces import Face, SolidFaces, Surface, spread

LOOSE = 5e-3
"""Faces whose distances differ by less than this, mm, are as far apart (common practice: files carry a micrometre or two)."""
_PARALLEL = 1e-3
_GRID = 1e-6
_MOST = 400
"""So many faces of one direction are looked through for an opposite one of each."""


@dataclass(frozen=True)
class Pair:
    """Two faces with the part between them, *distance* mm apart, over *area* mm²."""

    one: int
    other: int
    distance: float
    area: float


def flat_axes(normal: Array) -> Array:
    """Right, up and out of a plane, (3, 3)."""
    aside = np.eye(3)[int(np.argmin(np.abs(normal)))]
    right = np.cross(aside, normal)
    right /= np.linalg.norm(right)
    return np.array((right, np.cross(normal, right), normal))


class Opposites:
    """The pairs of a solid: of planes the nearest opposite one behind each, and coaxial cylinders."""

    def __init__(self, solid: SolidFaces) -> None:
        self.solid = solid
        self._areas: dict[int, Any] = {}
        self.planes = list(self._plane_pairs())
        self.cylinders = list(self._cylinder_pairs())

    def _plane_pairs(self) -> Iterator[Pair]:
        for group in self._directions():
            axes = flat_axes(group[0].axis)
            up = [face for face in group if face.axis @ axes[2] > 0]
            down = [face for face in group if face.axis @ axes[2] < 0]
            heights = np.array([float(face.origin @ axes[2]) for face in down])
            order = np.argsort(heights)[::-1]
            falling = -heights[order]
            boxes = np.array([self._box(face, axes) for face in down]).reshape(-1, 4)[order]
            for face in up:
                height = float(face.origin @ axes[2])
                first = int(np.searchsorted(falling, LOOSE - height))
                x0, y0, x1, y1 = self._box(face, axes)
                over = boxes[first:]
                near = (over[:, 0] < x1) & (over[:, 2] > x0) & (over[:, 1] < y1) & (over[:, 3] > y0)
                rows = order[first + np.flatnonzero(near)[:_MOST]].tolist()
                behind = [(height - float(heights[n]), down[n]) for n in rows]
                yield from self._nearest(face, behind, axes)

    def _nearest(self, face: Face, behind: list[tuple[float, Face]], axes: Array) -> Iterator[Pair]:
        """Opposite faces behind a face, the nearest over each of its places."""
        left = self._area(face, axes)
        whole = left.area
        for distance, other in behind:
            over = self._area(other, axes)
            if not left.intersects(over):
                continue
            shared = left.intersection(over)
            if shared.area <= 1e-6 * whole:
                continue
            yield Pair(face.number, other.number, distance, float(shared.area))
            left = left.difference(over)
            if left.area <= 1e-3 * whole:
                return

    def _box(self, face: Face, axes: Array) -> tuple[float, float, float, float]:
        """The box of a face's edges in a plane, mm."""
        beside = self.solid.samples(face.number) @ axes[:2].T
        (x0, y0), (x1, y1) = beside.min(axis=0).tolist(), beside.max(axis=0).tolist()
        return x0, y0, x1, y1

    def _area(self, face: Face, axes: Array) -> Any:
        known = self._areas.get(face.number)
        if known is None:
            courses = [shapely.LineString(self.solid.edges[n].points @ axes[:2].T) for n in face.edges]
            snapped = shapely.set_precision(shapely.MultiLineString(courses), _GRID, mode="pointwise")
            known = shapely.build_area(shapely.GeometryCollection(list(shapely.get_parts(snapped))))
            if known.is_empty:
                known = shapely.MultiLineString(courses).convex_hull
            known = known if known.is_valid else shapely.make_valid(known)
            shapely.prepare(known)
            self._areas[face.number] = known
        return known

    def _directions(self) -> Iterator[list[Face]]:
        """Planes by the line that they are square to."""
        planes = [face for face in self.solid.faces if face.surface is Surface.PLANE and face.area > 0]
        buckets: list[tuple[Array, list[Face]]] = []
        index: dict[tuple[int, ...], list[int]] = defaultdict(list)
        for face in sorted(planes, key=lambda own: -own.area):
            way = face.axis * np.copysign(1, face.axis[int(np.argmax(np.abs(face.axis)))])
            key = tuple(int(v) for v in np.round(way * 50))
            near = [n for at in _around(key) for n in index.get(at, ())]
            for n in near:
                if abs(buckets[n][0] @ way) > 1 - _PARALLEL**2 / 2:
                    buckets[n][1].append(face)
                    break
            else:
                index[key].append(len(buckets))
                buckets.append((way, [face]))
        for _, group in buckets:
            if len(group) > 1:
                yield group

    def _cylinder_pairs(self) -> Iterator[Pair]:
        rows = [face for face in self.solid.faces if face.surface is Surface.CYLINDER]
        if len(rows) < 2:
            return
        axes, origins = np.array([f.axis for f in rows]), np.array([f.origin for f in rows])
        inner = np.array([not f.outer for f in rows])
        radii = np.array([f.radius for f in rows])
        for n, face in enumerate(rows):
            if not face.outer:
                continue
            beside = origins - face.origin
            beside = beside - np.outer(beside @ face.axis, face.axis)
            near = (
                inner
                & (np.abs(np.abs(axes @ face.axis) - 1) <= _PARALLEL**2 / 2)
                & (np.linalg.norm(beside, axis=1) <= LOOSE)
                & (face.radius - radii > LOOSE)
            )
            found = sorted(np.flatnonzero(near).tolist(), key=lambda m: face.radius - radii[m])
            for m in found:
                area = self._shared(rows[n], rows[m])
                if area > 0:
                    yield Pair(face.number, rows[m].number, float(face.radius - radii[m]), area)

    def _shared(self, outer: Face, inner: Face) -> float:
        """About what area, mm², of the outer cylinder lies over the inner."""
        (a0, a1, z0, z1), (b0, b1, y0, y1) = self.extents(outer, outer), self.extents(inner, outer)
        along = min(z1, y1) - max(z0, y0)
        around = max(min(a1, b1 + turn) - max(a0, b0 + turn) for turn in (-TAU, 0.0, TAU))
        return outer.radius * max(0.0, around) * max(0.0, along)

    def extents(self, face: Face, about: Face) -> tuple[float, float, float, float]:
        """From where to where a cylinder reaches about another's axis: angles, radians, and heights along it, mm."""
        axes = flat_axes(about.axis)
        beside = (self.solid.samples(face.number) - about.origin) @ axes.T
        begin, end = spread(np.arctan2(beside[:, 1], beside[:, 0]))
        return begin, end, float(beside[:, 2].min()), float(beside[:, 2].max())

    def thicknesses(self) -> list[tuple[float, float]]:
        """Distances, mm, each with the area, mm², over which faces are so far apart; the most area first."""
        rows = sorted((pair.distance, pair.area) for pair in (*self.planes, *self.cylinders))
        groups: list[list[tuple[float, float]]] = []
        for distance, area in rows:
            if groups and distance - groups[-1][0][0] <= LOOSE:
                groups[-1].append((distance, area))
            else:
                groups.append([(distance, area)])
        found = [(_median(group), sum(area for _, area in group)) for group in groups]
        return sorted(found, key=lambda row: -row[1])


def _around(key: tuple[int, ...]) -> Iterable[tuple[int, ...]]:
    a, b, c = key
    return ((a + i, b + j, c + k) for i in (-1, 0, 1) for j in (-1, 0, 1) for k in (-1, 0, 1))


def _median(group: list[tuple[float, float]]) -> float:
    """The distance with as much area under it as over it."""
    half = sum(area for _, area in group) / 2
    for distance, area in group:
        half -= area
        if half <= 0:
            return distance
    return group[-1][0]
