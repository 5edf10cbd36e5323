"""Which parts are flat plates: two parallel faces apart by the thickness, all walls square to them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
import shapely

from skalto.core.errors import InputError
from skalto.core.geometry import Array
from skalto.core.sources.models.model import Mesh
from skalto.core.viewpoint import Vector

SQUARE = 1e-3
"""A wall is square to the faces where it leans by less than this, radians (0.06°; common practice, no source)."""
LEVEL = 1e-4
"""Faces whose heights differ by less than this, mm, are in one plane."""
CHORD = 1e-3
"""How near, mm, triangles keep to the part's faces."""
_MOST = 0.5
"""The share of a plate's outline along which its edge is as high as the plate is thick: a rebate takes some of it, a boss on a
flange all."""
_NEAR = 20 * CHORD
_GRID = 1e-6


class NoPlate(Exception):
    """Why a part is not a flat plate, in words that follow “it is no flat plate: ”."""


@dataclass(frozen=True, eq=False)
class Face:
    """A face: unit *normals* (k, 3), either way out, *points* (j, 3) at places all over it, its *area*, mm², and whether its
    normals point into the part."""

    normals: Array
    area: float
    points: Array
    inward: bool = False

    @property
    def is_plane(self) -> bool:
        return len(self.normals) > 0 and bool(np.abs(np.abs(self.normals @ self.normals[0]) - 1).max() <= SQUARE**2 / 2)


class PartFaces:
    """The faces of a part; its triangles are made when they are asked for, which takes the longest."""

    def __init__(self, shape: Any, chord: float = CHORD) -> None:
        """:param chord: how near, mm, triangles keep to faces."""
        self._shape, self.chord = shape, chord
        self._mesh = _mesh_faces(shape) if isinstance(shape, Mesh) else None
        self.faces = [face for face, _ in self._mesh] if self._mesh is not None else _kernel_faces(shape)

    @cached_property
    def corners(self) -> list[Array]:
        """Of each face the corners (m, 3, 3) of its triangles, counter-clockwise seen from outside."""
        if self._mesh is not None:
            return [corners for _, corners in self._mesh]
        from skalto.core.sources.models.patches import face_patches

        return [points[triangles] for points, triangles in face_patches(self._shape, self.chord, anew=True)]


@dataclass(frozen=True)
class FlatPlate:
    """A flat plate: *normal* points out of side A, in the part's own axes; *thickness*, mm; *low* and *high*, the heights of
    both sides along the normal; how much of each side is sunk, mm²."""

    normal: Vector
    thickness: float
    low: float
    high: float
    sunk_a: float = 0.0
    sunk_b: float = 0.0


def _kernel_faces(shape: Any) -> list[Face]:
    from OCP.BRepAdaptor import BRepAdaptor_Surface
    from OCP.BRepGProp import BRepGProp
    from OCP.GProp import GProp_GProps
    from OCP.TopAbs import TopAbs_FACE, TopAbs_REVERSED
    from OCP.TopoDS import TopoDS

    from skalto.core.sources.models.kernel import sub_shapes

    found = []
    for face in sub_shapes(shape, TopAbs_FACE):
        measured = GProp_GProps()
        BRepGProp.SurfaceProperties_s(face, measured, 1e-3)
        normals, points = _normals(BRepAdaptor_Surface(TopoDS.Face_s(face)))
        found.append(Face(normals, float(measured.Mass()), points, face.Orientation() == TopAbs_REVERSED))
    return found


def face_alone(shape: Any, number: int) -> tuple[Any, Vector]:
    """A flat face of a part as a shape of its own, and its normal out of the part, or one of both ways of a mesh's.

    :raises InputError: when there is no such face, or it is not flat.
    """
    faces = PartFaces(shape)
    if number >= len(faces.faces) or not faces.faces[number].is_plane:
        raise InputError("This part has no flat face of that number any more: choose another.")
    corners = faces.corners[number]
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]).sum(axis=0)
    unit = normal / np.linalg.norm(normal)
    towards = (float(unit[0]), float(unit[1]), float(unit[2]))
    if isinstance(shape, Mesh):
        points, inverse = np.unique(corners.reshape(-1, 3).round(9), axis=0, return_inverse=True)
        return Mesh(points, inverse.reshape(-1, 3).astype(np.int64)), towards
    from OCP.TopAbs import TopAbs_FACE

    from skalto.core.sources.models.kernel import sub_shapes

    return sub_shapes(shape, TopAbs_FACE)[number], towards


def _normals(surface: Any) -> tuple[Array, Array]:
    """Unit normals (k, 3) at places all over a surface, and the places (25, 3)."""
    from OCP.gp import gp_Pnt, gp_Vec

    u0, u1 = surface.FirstUParameter(), surface.LastUParameter()
    v0, v1 = surface.FirstVParameter(), surface.LastVParameter()
    rows, places = [], []
    point, along, across = gp_Pnt(), gp_Vec(), gp_Vec()
    for u in np.linspace(u0, u1, 5).tolist():
        for v in np.linspace(v0, v1, 5).tolist():
            surface.D1(u, v, point, along, across)
            rows.append(np.cross((along.X(), along.Y(), along.Z()), (across.X(), across.Y(), across.Z())))
            places.append((point.X(), point.Y(), point.Z()))
    normals = np.array(rows)
    size = np.linalg.norm(normals, axis=1)
    kept: Array = normals[size > 1e-12] / size[size > 1e-12][:, None]
    return kept, np.array(places)


def _mesh_faces(mesh: Mesh) -> list[tuple[Face, Array]]:
    """The triangles of a mesh, those of one plane as one face."""
    corners = mesh.vertices[mesh.faces]
    areas = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    size = np.linalg.norm(areas, axis=1)
    corners, normals, size = corners[size > 1e-12], areas[size > 1e-12] / size[size > 1e-12][:, None], size[size > 1e-12]
    height = (corners[:, 0] * normals).sum(axis=1)
    keys = np.round(np.column_stack((normals * 1e4, height * 1e3))).astype(np.int64)
    _, groups = np.unique(keys, axis=0, return_inverse=True)
    groups = groups.reshape(-1)
    order = np.argsort(groups, kind="stable")
    bounds = np.flatnonzero(np.diff(groups[order])) + 1
    return [
        (Face(normals[rows[:1]], float(size[rows].sum() / 2), corners[rows].reshape(-1, 3)), corners[rows])
        for rows in np.split(order, bounds)
    ]


def covered(corners: Sequence[Array], axes: Array) -> Any:
    """The area that faces cover in a plane, each by its triangles (m, 3, 3), as a shapely geometry: *axes* are the plane's
    right, up and out, (3, 3)."""
    found = []
    for own in corners:
        triangles = own @ axes[:2].T
        kept = triangles[np.abs(_twice(triangles)) > 1e-12]
        if len(kept):
            found.append(_face_area(kept))
    return shapely.union_all(found, grid_size=_GRID)


def _face_area(triangles: Array) -> Any:
    """What the triangles (m, 3, 2) of one face cover: they share their sides and lie beside one another, but where the face
    turns back on itself."""
    polygons = shapely.polygons(triangles)
    with suppress(shapely.errors.GEOSException):
        made = shapely.coverage_union_all(polygons)
        if made.is_valid and abs(made.area - np.abs(_twice(triangles)).sum() / 2) <= 1e-6 * made.area:
            return made
    return shapely.union_all(polygons, grid_size=_GRID)


def _twice(triangles: Array) -> Array:
    """Twice the signed areas of triangles (m, 3, 2)."""
    a, b = triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0]
    found: Array = a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]
    return found


def plane_axes(normal: Vector) -> Array:
    """Right, up and out of the plane square to a normal, (3, 3): what is up in the part is up in it, as far as that goes."""
    out = np.array(normal) / np.linalg.norm(normal)
    level = int(np.argmin(np.abs(out) - np.array((0.0, 1e-9, 2e-9))))
    up = np.zeros(3)
    up[level] = 1.0
    up -= out * (up @ out)
    up /= np.linalg.norm(up)
    return np.array((np.cross(up, out), up, out))


def flat_plate(part: PartFaces) -> FlatPlate:
    """How a part is a flat plate, the way that more of its faces lie where there are several. Side A is the one with more sunk
    into it.

    :raises NoPlate: when it is none.
    """
    reasons = []
    for normal in _directions(part.faces):
        try:
            return _plate_along(part, normal)
        except NoPlate as error:
            reasons.append(str(error))
    raise NoPlate(reasons[0] if reasons else "it has no two level faces that are parallel")


def _directions(faces: Sequence[Face]) -> list[Array]:
    """Directions square to level faces, each once, those that more area is square to first."""
    found: list[tuple[Array, float]] = []
    for face in faces:
        if not face.is_plane:
            continue
        own = face.normals[0]
        for n, (known, area) in enumerate(found):
            if abs(known @ own) > 1 - SQUARE**2 / 2:
                found[n] = known, area + face.area
                break
        else:
            found.append((own, face.area))
    found.sort(key=lambda row: -row[1])
    # the way that is more along an axis of the part, so that it does not depend on how a face is turned
    return [normal * math.copysign(1, normal[int(np.argmax(np.abs(normal)))]) for normal, _ in found[:3]]


def _plate_along(part: PartFaces, normal: Array) -> FlatPlate:
    lean = [np.abs(face.normals @ normal) if len(face.normals) else np.zeros(1) for face in part.faces]
    walls = [bool(own.max() <= SQUARE) for own in lean]
    level = [bool(own.min() >= 1 - SQUARE**2 / 2) for own in lean]
    heights = [float((face.points @ normal).mean()) for face in part.faces]
    known = [height for height, own in zip(heights, level, strict=True) if own]
    if not known or max(known) - min(known) <= LEVEL:
        raise NoPlate("it has no two level faces that are parallel")
    low, high = min(known), max(known)
    ends = [own and (height >= high - LEVEL or height <= low + LEVEL) for own, height in zip(level, heights, strict=True)]
    on_ends = sum(face.area for face, own in zip(part.faces, ends, strict=True) if own)
    leaning = sum(f.area for f, wall, flat in zip(part.faces, walls, level, strict=True) if not wall and not flat)
    if leaning > on_ends or not any(
        wall and np.ptp(face.points @ normal) >= (high - low) - LEVEL for face, wall in zip(part.faces, walls, strict=True)
    ):
        # known before any triangle is made
        square = "its edges are not square to its faces"
        raise NoPlate(square if 0 < leaning < on_ends / 4 else "its two sides are not level out to its edge")
    return _measured(part, normal, (low, high), walls, level)


def _measured(part: PartFaces, normal: Array, ends: tuple[float, float], walls: list[bool], level: list[bool]) -> FlatPlate:
    low, high = ends
    axes = plane_axes((float(normal[0]), float(normal[1]), float(normal[2])))
    up: tuple[list[Array], list[Array]] = ([], [])
    down: tuple[list[Array], list[Array]] = ([], [])
    leaning = []
    for corners, wall, flat in zip(part.corners, walls, level, strict=True):
        if wall or not len(corners):
            continue
        own = corners.reshape(-1, 3) @ normal
        if own.max() > high + LEVEL or own.min() < low - LEVEL:
            raise NoPlate("it rises over its level faces")
        triangles = corners @ axes[:2].T
        # a face may be seen from both sides in parts
        above = _twice(triangles) > 0
        for (end, sunk), chosen, at_end in ((up, above, own.min() >= high - LEVEL), (down, ~above, own.max() <= low + LEVEL)):
            (end if flat and at_end else sunk).append(corners[chosen])
        if not flat:
            leaning.append(triangles)
    shadow, below = covered([*up[0], *up[1]], axes), covered([*down[0], *down[1]], axes)
    side_a, side_b = covered(up[0], axes), covered(down[0], axes)
    if abs(below.area - shadow.area) > 1e-3 * shadow.area + _NEAR:
        raise NoPlate("its surface is not closed")
    around = shapely.union_all([ring.exterior for ring in _polygons(shadow)])
    if leaning and shapely.dwithin(shapely.MultiPoint(np.concatenate(leaning).reshape(-1, 2)), around, _NEAR):
        # a chamfer at the outline, or a slope: about a hole it is a countersink, which is sunk into the plate
        raise NoPlate("its edges are not square to its faces")
    high_edge = around.intersection(side_a.boundary.buffer(_NEAR)).intersection(side_b.boundary.buffer(_NEAR))
    if high_edge.length < _MOST * around.length:
        raise NoPlate("its two sides are not level out to its edge")
    thickness, width = high - low, _least_width(shadow)
    if thickness > width * (1 + 1e-6):
        raise NoPlate(f"it is {thickness:.4g} mm through and only {width:.4g} mm across")
    sunk_a, sunk_b = (
        own if own > 1e-6 * shadow.area else 0.0 for own in (shadow.area - side_a.area, shadow.area - side_b.area)
    )
    if sunk_b > sunk_a + 1e-6 * shadow.area:
        normal, low, high, sunk_a, sunk_b = -normal, -high, -low, sunk_b, sunk_a
    return FlatPlate((float(normal[0]), float(normal[1]), float(normal[2])), thickness, low, high, sunk_a, sunk_b)


def _polygons(area: Any) -> list[Any]:
    return [part for part in shapely.get_parts(area).tolist() if part.geom_type == "Polygon"]


def _least_width(area: Any) -> float:
    """The width of the narrowest strip that holds an area, mm."""
    ring = shapely.get_coordinates(area.convex_hull)
    steps = np.diff(ring, axis=0)
    size = np.hypot(*steps.T)
    steps = steps[size > 1e-9] / size[size > 1e-9][:, None]
    across = np.stack((-steps[:, 1], steps[:, 0]), axis=1) @ ring.T
    return float((across.max(axis=1) - across.min(axis=1)).min())
