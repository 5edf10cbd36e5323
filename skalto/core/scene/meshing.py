"""Parts as triangles with exact normals, as fine as a quality asks for, few corners twice."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Any

import numpy as np
from numpy.typing import NDArray

from skalto.core.geometry import Array
from skalto.core.geometry.grouping import groups_of
from skalto.core.scene.scene import SolidMesh
from skalto.core.sources.models.model import Mesh, Model, ShapeFacts, hex_colour

Ints = NDArray[np.int64]
MOST_CORNERS = 16_382
"""Positions, and normals, that a mesh may have: from 16 383 on U3D codes an index in 32 bits (tried with the runtime)."""
_MOST_COLOURS = 64
"""Colours of one part's faces that are told apart."""
_TRIES = 3
CREASE = np.radians(30)
"""Triangles of a mesh source that turn by more than this meet in an edge (common practice, no source)."""


class Quality(StrEnum):
    """How near triangles keep to the surface."""

    DRAFT = "draft"
    NORMAL = "normal"
    FINE = "fine"


@dataclass(frozen=True)
class Tolerance:
    """The largest distance of a triangle from its surface, as a *share* of the part's diagonal between *least* and *most* mm,
    and the largest *turn* between neighbours, radians."""

    share: float
    least: float
    most: float
    turn: float

    def chord(self, facts: ShapeFacts) -> float:
        """For a part, mm."""
        diagonal = float(np.linalg.norm(np.subtract(facts.high, facts.low)))
        return float(np.clip(diagonal * self.share, self.least, self.most))


TOLERANCES = {
    Quality.DRAFT: Tolerance(1 / 300, 0.01, 1.0, np.radians(30)),
    Quality.NORMAL: Tolerance(1 / 1500, 0.005, 0.2, np.radians(15)),
    Quality.FINE: Tolerance(1 / 8000, 0.001, 0.05, np.radians(6)),
}
"""The three qualities (our own choice; no source)."""


@dataclass(frozen=True, eq=False)
class PartMesh:
    """A distinct shape as pieces of no more than :data:`MOST_CORNERS` corners, the colours of its shadings (None for the
    component's own), how far triangles may be from the surface, mm, and the picture that lies on it."""

    pieces: tuple[SolidMesh, ...]
    colours: tuple[str | None, ...]
    chord: float
    picture: bytes = b""


def _face_normals(face: Any, count: int) -> Array:
    """The kernel's normals at the nodes of a triangulated face (count, 3), out of the solid."""
    from OCP.BRep import BRep_Tool
    from OCP.BRepLib import BRepLib_ToolTriangulatedShape
    from OCP.TopAbs import TopAbs_REVERSED
    from OCP.TopLoc import TopLoc_Location

    location = TopLoc_Location()
    triangulation = BRep_Tool.Triangulation_s(face, location)
    BRepLib_ToolTriangulatedShape.ComputeNormals_s(face, triangulation)
    rows = (triangulation.Normal(i) for i in range(1, count + 1))
    normals = np.array([(n.X(), n.Y(), n.Z()) for n in rows])
    if not location.IsIdentity():
        from skalto.core.sources.models.kernel import matrix_of

        normals = normals @ matrix_of(location)[:3, :3].T
    return -normals if face.Orientation() == TopAbs_REVERSED else normals


def sagitta(positions: Array, normals: Array, corners: Ints) -> float:
    """How far triangles (m, 3) may be from the smooth surface that passes their corners with those normals, mm.

    Of a circular arc the rise is the chord times the change of the normal over eight; in the middle of a triangle a ball rises
    by a third more than over its edges.
    """
    rise = 0.0
    for k in range(3):
        a, b = corners[:, k], corners[:, (k + 1) % 3]
        bend = np.einsum("ij,ij->i", positions[b] - positions[a], normals[b] - normals[a])
        rise = max(rise, float(np.abs(bend).max(initial=0.0)) / 8)
    return rise * 4 / 3


def kernel_part(shape: Any, facts: ShapeFacts, chord: float, turn: float) -> PartMesh:
    """A kernel shape as triangles. Where the kernel does not keep what it was asked for, as on balls, it is asked for more;
    what it kept in the end is told.

    :param chord: largest distance from the surface, mm. :param turn: largest turn between neighbours, radians.
    """
    asked = chord
    for _ in range(_TRIES):
        part, reached = _meshed(shape, facts, asked, turn)
        if reached <= chord * 1.01:
            break
        asked *= 0.9 * chord / reached
    return replace(part, chord=max(chord, reached))


def _meshed(shape: Any, facts: ShapeFacts, chord: float, turn: float) -> tuple[PartMesh, float]:
    """A shape as triangles, and how far they may be from it, mm."""
    from OCP.BRepTools import BRepTools
    from OCP.TopAbs import TopAbs_FACE
    from OCP.TopoDS import TopoDS

    from skalto.core.sources.models.kernel import sub_shapes
    from skalto.core.sources.models.patches import face_patches

    BRepTools.Clean_s(shape)  # triangles that something else left are finer or coarser
    patches = face_patches(shape, chord, turn)
    faces = [TopoDS.Face_s(sub) for sub in sub_shapes(shape, TopAbs_FACE)]
    colours: list[str | None] = []
    points, normals, corners, shading = [], [], [], []
    start = 0
    for number, (own, triangles) in enumerate(patches):
        if not len(triangles):
            continue
        colour = facts.face_colours.get(number)
        if colour not in colours and len(colours) >= _MOST_COLOURS:
            colour = None  # beyond so many, faces take the component's own
        if colour not in colours:
            colours.append(colour)
        points.append(own)
        normals.append(_face_normals(faces[number], len(own)))
        corners.append(triangles + start)
        shading.append(np.full(len(triangles), colours.index(colour), np.int64))
        start += len(own)
    BRepTools.Clean_s(shape)
    if not points:
        return PartMesh((), (), chord), 0.0
    places, directions, triangles = np.concatenate(points), np.concatenate(normals), np.concatenate(corners)
    mesh = welded(places, directions, triangles, np.concatenate(shading))
    return PartMesh(tuple(split(mesh)), tuple(colours), chord), sagitta(places, directions, triangles)


def mesh_part(mesh: Mesh) -> PartMesh:
    """A mesh source as it is: normals are those of its triangles, smoothed where they meet without a crease."""
    import trimesh

    faces = np.asarray(mesh.faces, np.int64)
    colours: tuple[str | None, ...] = (None,)
    shading = np.zeros(len(faces), np.int64)
    if mesh.colours is not None and len(mesh.colours) == len(faces):
        found, group = np.unique(mesh.colours, axis=0, return_inverse=True)
        if len(found) <= _MOST_COLOURS:
            colours, shading = tuple(hex_colour(c) for c in found), group.ravel().astype(np.int64)
    plain = trimesh.Trimesh(mesh.vertices, faces, process=False)
    smooth = smooth_corners(plain, CREASE)
    uv = mesh.texture.at.reshape(-1, 2) if mesh.texture is not None else None
    own = welded(mesh.vertices[faces].reshape(-1, 3), smooth, np.arange(3 * len(faces)).reshape(-1, 3), shading, uv)
    return PartMesh(tuple(split(own)), colours, 0.0, mesh.texture.picture if mesh.texture is not None else b"")


def smooth_corners(mesh: Any, crease: float) -> Array:
    """A normal for every corner of a trimesh mesh, (3 m, 3): the mean over the triangles about it that do not turn away by
    more than *crease*, weighed by their angle there."""
    normals = np.asarray(mesh.face_normals)
    groups = _smooth_groups(mesh, crease)
    # corners of one vertex in one smooth group share their mean
    vertex = np.asarray(mesh.faces).ravel()
    group = np.repeat(groups, 3)
    key, inverse = np.unique(np.stack((vertex, group), axis=1), axis=0, return_inverse=True)
    total = np.zeros((len(key), 3))
    weights = np.asarray(mesh.face_angles).ravel()[:, None]
    np.add.at(total, inverse.ravel(), np.repeat(normals, 3, axis=0) * weights)
    length = np.linalg.norm(total, axis=1, keepdims=True)
    total = np.divide(total, length, out=np.zeros_like(total), where=length > 0)
    smooth: Array = total[inverse.ravel()]
    return smooth


def _smooth_groups(mesh: Any, crease: float) -> Ints:
    """For each triangle the number of its smooth neighbourhood."""
    pairs = np.asarray(mesh.face_adjacency)
    pairs = pairs[np.asarray(mesh.face_adjacency_angles) <= crease]
    return groups_of(pairs, len(mesh.faces))


def _distinct(rows: Array, decimals: int | None = None) -> tuple[Array, Ints]:
    """Distinct rows as single precision has them, in order of first use, and for each row its number."""
    if decimals is not None:
        rows = np.round(rows, decimals)
    single = np.ascontiguousarray(rows, np.float32) + np.float32(0)  # no minus nothing
    keys = single.view(np.uint32).astype(np.uint64)
    mixed = keys[:, 0] * np.uint64(0x9E3779B97F4A7C15) ^ keys[:, 1] * np.uint64(0xC2B2AE3D27D4EB4F)
    mixed = (mixed ^ (mixed >> np.uint64(29))) * np.uint64(0xBF58476D1CE4E5B9) ^ keys[:, 2] * np.uint64(0x165667B19E3779F9)
    _, first, inverse = np.unique(mixed, return_index=True, return_inverse=True)
    if not np.array_equal(single[first][inverse], single):  # two rows under one number: the long way
        _, first, inverse = np.unique(single, axis=0, return_index=True, return_inverse=True)
    order = np.argsort(first, kind="stable")
    rank = np.empty(len(order), np.int64)
    rank[order] = np.arange(len(order))
    return single[first[order]].astype(np.float64), rank[inverse.ravel()]


def _distinct_places(uv: Array) -> tuple[Array, Ints]:
    """Distinct places on a picture, and for each row its number."""
    rows, at = _distinct(np.column_stack((uv, np.zeros(len(uv)))))
    return rows[:, :2], at


def welded(points: Array, normals: Array, corners: Ints, shading: Ints, uv: Array | None = None) -> SolidMesh:
    """Corners that coincide as one, normals that coincide as one, no triangle that is a line.

    :param uv: places on a picture, one for each point.
    """
    positions, at = _distinct(points)
    directions, toward = _distinct(normals, 6)
    corner, turn = at[corners], toward[corners]
    a, b, c = corner.T
    real = (a != b) & (b != c) & (a != c)
    mesh = SolidMesh(positions, directions, corner[real], turn[real], shading[real])
    if uv is None:
        return mesh
    places, there = _distinct_places(uv)
    return replace(mesh, uv=places, uvs=there[corners][real])


def merged(pieces: Sequence[SolidMesh]) -> SolidMesh:
    """Pieces of a part as one mesh again: corners and normals that coincide are one."""
    if len(pieces) == 1:
        return pieces[0]
    points = np.concatenate([piece.positions[piece.corners].reshape(-1, 3) for piece in pieces])
    corners = np.arange(len(points)).reshape(-1, 3)
    shading = np.concatenate([piece.shading for piece in pieces])
    if any(not len(piece.normals) for piece in pieces):
        positions, at = _distinct(points)
        return SolidMesh(positions, np.empty((0, 3)), at[corners], np.zeros_like(corners), shading)
    normals = np.concatenate([piece.normals[piece.turns].reshape(-1, 3) for piece in pieces])
    mapped = all(len(piece.uv) for piece in pieces)
    uv = np.concatenate([piece.uv[piece.uvs].reshape(-1, 2) for piece in pieces]) if mapped else None
    return welded(points, normals, corners, shading, uv)


def split(mesh: SolidMesh) -> list[SolidMesh]:
    """A mesh in pieces of few enough corners and normals, cut across its longest way so that each stays together."""
    if max(len(mesh.positions), len(mesh.normals), len(mesh.uv)) <= MOST_CORNERS:
        return [mesh]
    middles = mesh.positions[mesh.corners].mean(axis=1)
    axis = int(np.argmax(np.ptp(middles, axis=0)))
    order = np.argsort(middles[:, axis], kind="stable")
    half = len(order) // 2
    return [piece for part in (order[:half], order[half:]) for piece in split(picked(mesh, np.sort(part)))]


def picked(mesh: SolidMesh, triangles: Ints | Sequence[int] | NDArray[np.bool_]) -> SolidMesh:
    """Some of a mesh's triangles, with the corners and normals that they use."""
    corners, turns = mesh.corners[triangles], mesh.turns[triangles]
    used, corner = np.unique(corners, return_inverse=True)
    turned, turn = np.unique(turns, return_inverse=True)
    normals = mesh.normals[turned] if len(mesh.normals) else mesh.normals
    some = SolidMesh(
        mesh.positions[used], normals, corner.reshape(-1, 3), turn.reshape(-1, 3), mesh.shading[triangles]
    )  # fmt: skip
    if not len(mesh.uv):
        return some
    places, place = np.unique(mesh.uvs[triangles], return_inverse=True)
    return replace(some, uv=mesh.uv[places], uvs=place.reshape(-1, 3))


def part_meshes(model: Model, quality: Quality) -> list[PartMesh]:
    """Every distinct shape of a model, in order."""
    found = []
    tolerance = TOLERANCES[quality]
    for shape, facts in zip(model.shapes, model.tree.shapes, strict=True):
        if isinstance(shape, Mesh):
            found.append(mesh_part(shape))
        else:
            found.append(kernel_part(shape, facts, tolerance.chord(facts), tolerance.turn))
    return found


def vertices_of(mesh: SolidMesh) -> tuple[Array, Array, NDArray[np.int64], Array]:
    """Vertices with one normal and one place on a picture each, as viewers take them: positions (n, 3), normals (n, 3),
    triangles (m, 3), places (n, 2), or none (0, 2)."""
    if not len(mesh.normals):
        points = mesh.positions[mesh.corners].reshape(-1, 3)
        a, b, c = (mesh.positions[mesh.corners[:, k]] for k in range(3))
        normal = np.cross(b - a, c - a)
        normal = normal / np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-30)
        uv = mesh.uv[mesh.uvs].reshape(-1, 2) if len(mesh.uv) else mesh.uv
        return points, np.repeat(normal, 3, axis=0), np.arange(len(points)).reshape(-1, 3), uv
    keys = mesh.corners.ravel() * len(mesh.normals) + mesh.turns.ravel()
    if len(mesh.uv):
        # numbered anew, since three counts multiplied may be more than a whole number can hold
        keys = np.unique(keys, return_inverse=True)[1] * len(mesh.uv) + mesh.uvs.ravel()
    _, first, index = np.unique(keys, return_index=True, return_inverse=True)
    positions, normals = mesh.positions[mesh.corners.ravel()[first]], mesh.normals[mesh.turns.ravel()[first]]
    uv = mesh.uv[mesh.uvs.ravel()[first]] if len(mesh.uv) else mesh.uv
    return positions, normals, index.reshape(-1, 3), uv
