"""A solid as a sheet: flats and bends, each with a face or more on either skin, and the straight lines where they go over into
one another."""

from __future__ import annotations

from collections import defaultdict, deque
from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass, field

import numpy as np

from skalto.core.geometry import TAU, Array
from skalto.core.sheet_metal.faces import Edge, Face, SolidFaces, Surface, spread
from skalto.core.sheet_metal.pairs import LOOSE, Opposites, Pair, flat_axes

A, B = 0, 1
"""The sides of a sheet: A is seen."""


@dataclass(eq=False)
class Region:
    """A flat or a bend: *faces* of both sides. A flat has its *normal* out of side A and a place on that side; a bend its axis,
    *radii* (inner, outer), mm, whether side A is the outer one, and from which *angle* about the axis to which it reaches."""

    number: int
    bend: bool
    axes: Array
    origin: Array
    members: list[int]
    radii: tuple[float, float] = (0.0, 0.0)
    outer_is_a: bool = False
    angle: tuple[float, float] = (0.0, 0.0)
    faces: tuple[list[int], list[int]] = field(default_factory=lambda: ([], []))
    spans: dict[int, tuple[float, float]] = field(default_factory=dict)

    def angles(self, points: Array, face: int | None = None) -> Array:
        """The angles of points (k, 3) about a bend's axis, radians, the turn that the face, or the bend, is in."""
        beside = (points - self.origin) @ self.axes.T
        found: Array = np.arctan2(beside[:, 1], beside[:, 0])
        low, high = self.angle if face is None else self.spans.get(face, self.angle)
        middle = (low + high) / 2
        return found + TAU * np.round((middle - found) / TAU)

    def along(self, points: Array) -> Array:
        """How far along a bend's axis points (k, 3) are, mm."""
        found: Array = (points - self.origin) @ self.axes[2]
        return found

    def tangent(self, point: Array) -> Array:
        """The unit vector at a place of a bend in which its angle grows."""
        beside = point - self.origin
        found = np.cross(self.axes[2], beside)
        return found / max(float(np.linalg.norm(found)), 1e-300)

    def depth(self, points: Array, thickness: float) -> Array:
        """How far points (k, 3) are within the sheet under side A: 0 on it, the thickness on side B, mm."""
        if not self.bend:
            found: Array = (self.origin - points) @ self.axes[2]
            return found
        beside = (points - self.origin) @ self.axes.T
        radius = np.hypot(beside[:, 0], beside[:, 1])
        low = self.radii[1] - thickness
        return self.radii[1] - radius if self.outer_is_a else radius - low


@dataclass(frozen=True)
class Link:
    """Where region *here* goes over into *there*: a face of each on one skin, along the edge's line through *at* along
    *way*."""

    here: int
    there: int
    face_here: int
    face_there: int
    edge: int
    at: Array
    way: Array


@dataclass(eq=False)
class Skins:
    """All that may be sheet of one thickness: regions, which one a face is of, and links from each region."""

    solid: SolidFaces
    thickness: float
    regions: list[Region]
    of_face: dict[int, int]
    links: dict[int, list[Link]]


class _Groups:
    """What belongs together, by pairs."""

    def __init__(self, members: Iterable[int]) -> None:
        self._up = {own: own for own in members}

    def __contains__(self, own: int) -> bool:
        return own in self._up

    def root(self, own: int) -> int:
        while self._up[own] != own:
            self._up[own] = self._up[self._up[own]]
            own = self._up[own]
        return own

    def join(self, one: int, other: int) -> None:
        self._up[self.root(one)] = self.root(other)

    def joined(self, one: int, other: int) -> bool:
        return self.root(one) == self.root(other)

    def groups(self) -> list[list[int]]:
        found: dict[int, list[int]] = defaultdict(list)
        for own in self._up:
            found[self.root(own)].append(own)
        return [sorted(group) for _, group in sorted(found.items())]


def skins_of(solid: SolidFaces, opposites: Opposites, thickness: float) -> Skins:
    """The flats and bends of a solid that are *thickness* mm through."""

    def fitting(pairs: list[Pair]) -> list[Pair]:
        return [pair for pair in pairs if abs(pair.distance - thickness) <= LOOSE]

    flats, bends = fitting(opposites.planes), fitting(opposites.cylinders)
    planes = {n for pair in flats for n in (pair.one, pair.other)}
    cylinders = {n for pair in bends for n in (pair.one, pair.other)} | _sharp(solid, planes, thickness)
    skin = planes | cylinders
    groups = _Groups(sorted(skin))
    for pair in (*flats, *bends):
        groups.join(pair.one, pair.other)
    smooth = [edge for edge in solid.edges if _joins(edge, skin) and solid.is_smooth(edge)]
    for edge in smooth:
        a, b = (solid.faces[n] for n in edge.faces)
        if a.surface is b.surface and (a.surface is Surface.PLANE or _coaxial(solid, a.number, b.number)):
            groups.join(a.number, b.number)
    _bridge(solid, groups, smooth)
    regions = [_region(solid, n, members) for n, members in enumerate(groups.groups())]
    of_face = {face: region.number for region in regions for face in region.members}
    links: dict[int, list[Link]] = defaultdict(list)
    for edge in smooth:
        for one, other in (edge.faces, edge.faces[::-1]):
            here, there = of_face[one], of_face[other]
            if here != there and edge.is_straight() and _along_axes(edge, regions[here], regions[there]):
                way = edge.chord / np.linalg.norm(edge.chord)
                links[here].append(Link(here, there, one, other, edge.number, edge.points[0], way))
    return Skins(solid, thickness, regions, of_face, links)


def _joins(edge: Edge, skin: set[int]) -> bool:
    return len(edge.faces) == 2 and edge.faces[0] != edge.faces[1] and edge.faces[0] in skin and edge.faces[1] in skin


def _sharp(solid: SolidFaces, planes: set[int], thickness: float) -> set[int]:
    """Cylinders of bends without an inner radius: as round outside as the sheet is thick, tangent to flats on both sides."""
    found = set()
    for face in solid.faces:
        if face.surface is not Surface.CYLINDER or not face.outer or abs(face.radius - thickness) > LOOSE:
            continue
        tangent = {
            other
            for n in face.edges
            for other in solid.edges[n].faces
            if other in planes and other != face.number and solid.edges[n].is_straight() and solid.is_smooth(solid.edges[n])
        }
        if len(tangent) > 1:
            found.add(face.number)
    return found


def _coaxial(solid: SolidFaces, one: int, other: int) -> bool:
    a, b = solid.faces[one], solid.faces[other]
    return abs(a.radius - b.radius) <= LOOSE and _one_axis(a, b)


def _bridge(solid: SolidFaces, groups: _Groups, smooth: Sequence[Edge]) -> None:
    """Join stretches of one bend that an opening parts: about one axis, of one radius, between the same flats."""
    beside: dict[int, set[int]] = defaultdict(set)
    for edge in smooth:
        one, other = (groups.root(n) for n in edge.faces)
        if one != other and edge.is_straight():
            beside[one].add(other)
            beside[other].add(one)
    by_neighbours: dict[frozenset[int], list[int]] = defaultdict(list)
    for root, neighbours in sorted(beside.items()):
        if solid.faces[root].surface is Surface.CYLINDER:
            by_neighbours[frozenset(neighbours)].append(root)
    for roots in by_neighbours.values():
        kept: list[int] = []
        for root in roots:
            for known in kept:
                a, b = solid.faces[known], solid.faces[root]
                alike = a.outer == b.outer and abs(a.radius - b.radius) <= LOOSE
                if (alike or a.outer != b.outer) and _one_axis(a, b) and not groups.joined(known, root):
                    groups.join(root, known)
                    break
            else:
                kept.append(root)


def _one_axis(a: Face, b: Face) -> bool:
    beside = b.origin - a.origin
    beside = beside - (beside @ a.axis) * a.axis
    return abs(abs(float(a.axis @ b.axis)) - 1) <= 1e-6 and float(np.linalg.norm(beside)) <= LOOSE


def _along_axes(edge: Edge, one: Region, other: Region) -> bool:
    way = edge.chord / max(float(np.linalg.norm(edge.chord)), 1e-300)
    bends = [region for region in (one, other) if region.bend]
    return bool(bends) and all(abs(abs(float(way @ region.axes[2])) - 1) <= 1e-5 for region in bends)


def _region(solid: SolidFaces, number: int, members: list[int]) -> Region:
    faces = [solid.faces[n] for n in members]
    largest = max(faces, key=lambda face: face.area)
    if largest.surface is Surface.PLANE:
        return Region(number, False, flat_axes(largest.axis), largest.origin, members)
    radii = sorted({face.radius for face in faces})
    inner = [face.radius for face in faces if not face.outer]
    outer = [face.radius for face in faces if face.outer]
    region = Region(
        number, True, flat_axes(largest.axis), largest.origin, members,
        (min(inner, default=0.0), max(outer, default=radii[-1])),
    )  # fmt: skip
    waiting = {}
    for face in faces:
        beside = (solid.samples(face.number) - region.origin) @ region.axes.T
        waiting[face.number] = spread(np.arctan2(beside[:, 1], beside[:, 0]))
    low, high = region.spans[largest.number] = waiting.pop(largest.number)
    while waiting:
        # the one nearest to what is known, in the turn in which it is nearest
        _, own, turn = min(
            (max(begin + t - high, low - end - t), own, t) for own, (begin, end) in waiting.items() for t in (-TAU, 0.0, TAU)
        )
        begin, end = waiting.pop(own)
        region.spans[own] = begin + turn, end + turn
        low, high = min(low, begin + turn), max(high, end + turn)
    region.angle = low, high
    return region


def sided(region: Region, solid: SolidFaces, face: int, side: int) -> None:
    """Say which of a region's faces are on side A, by one face whose side is known."""
    known = solid.faces[face]
    if region.bend:
        region.outer_is_a = known.outer == (side == A)
        for n in region.members:
            region.faces[A if solid.faces[n].outer == region.outer_is_a else B].append(n)
        return
    normal = known.axis * (1 if side == A else -1)
    region.axes = flat_axes(normal)
    for n in region.members:
        region.faces[A if solid.faces[n].axis @ normal > 0 else B].append(n)
    on_a = [solid.faces[n] for n in region.faces[A]] or [known]
    region.origin = max(on_a, key=lambda own: own.area).origin


@dataclass(eq=False)
class Charts:
    """Where regions lie in the flat: of each the map from space to the flat at its link's line, (2, 3), the line's place in
    space and in the flat."""

    at: dict[int, tuple[Array, Array, Array]] = field(default_factory=dict)
    order: list[tuple[int, Link | None]] = field(default_factory=list)


def place(chart: tuple[Array, Array, Array], region: Region, points: Array, neutral: float, face: int | None = None) -> Array:
    """Points (k, 3) of a region in the flat, (k, 2), mm.

    :param neutral: of a bend the radius by which its angles become lengths, mm.
    """
    matrix, origin, flat = chart
    if not region.bend:
        moved: Array = (points - origin) @ matrix.T + flat
        return moved
    angle = region.angles(points, face) - region.angles(origin[None], None)[0]
    across = matrix @ region.tangent(origin)
    along = matrix @ region.axes[2]
    found: Array = (
        flat + np.outer(region.along(points) - region.along(origin[None])[0], along) + np.outer(angle * neutral, across)
    )
    return found


def local(chart: tuple[Array, Array, Array], region: Region, point: Array, neutral: float) -> tuple[Array, Array, Array]:
    """The chart of a region moved to another of its places: the map there turns with the sheet."""
    matrix, origin, _ = chart
    if not region.bend:
        return matrix, point, place(chart, region, point[None], neutral)[0]
    across, along = matrix @ region.tangent(origin), matrix @ region.axes[2]
    turned = np.outer(across, region.tangent(point)) + np.outer(along, region.axes[2])
    return turned, point, place(chart, region, point[None], neutral)[0]


def reachable(skins: Skins, base: int, apart: Collection[frozenset[int]] = ()) -> deque[int]:
    """The regions that hang together with one, where some pairs are *apart*."""
    seen, waiting, found = {base}, deque([base]), deque([base])
    while waiting:
        for link in skins.links[waiting.popleft()]:
            if link.there not in seen and frozenset((link.here, link.there)) not in apart:
                seen.add(link.there)
                waiting.append(link.there)
                found.append(link.there)
    return found
