"""Rays along a view through what it shows, as triangles: what a viewer sees first, and from where nothing stands in the way.

By embree, in single precision about the middle of what is shown.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any
from weakref import WeakKeyDictionary

import numpy as np
from numpy.typing import NDArray

from skalto.core.geometry import Array
from skalto.core.geometry.grouping import groups_of
from skalto.core.projection.cutting import Shown
from skalto.core.sources.models.model import Mesh, Model

Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]

CHORD_SHARE = 1e-4
"""Largest distance of a triangle from its face, as a share of the diagonal of what is shown."""
LEAST_CHORD = 2e-3
TURN = 0.3
"""Largest turn between neighbouring triangles, radians."""


@dataclass(frozen=True, eq=False)
class _Part:
    """A shape as triangles in its own axes: corners welded where faces meet, triangles, each one's smooth face and unit normal,
    the edges between two triangles, and which two these are."""

    points: Array
    triangles: Ints
    face: Ints
    normals: Array
    edges: Ints
    sides: Ints

    @classmethod
    def of(cls, points: Array, triangles: Ints, face: Ints) -> _Part:
        """With what follows from the triangles."""
        a, b, c = (points[triangles[:, k]] for k in range(3))
        normal = np.cross(b - a, c - a)
        size = np.linalg.norm(normal, axis=1)[:, None]
        normal = np.divide(normal, size, out=np.zeros_like(normal), where=size > 0)
        return cls(points, triangles, face, normal, *_shared_edges(triangles, len(points)))


_parts: WeakKeyDictionary[Model, dict[tuple[int, float], _Part]] = WeakKeyDictionary()


def _shared_edges(triangles: Ints, count: int) -> tuple[Ints, Ints]:
    """Edges that two triangles of (m, 3) share, (k, 2), and the two, (k, 2); *count* is how many corners there are."""
    pairs = triangles[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2)
    key = pairs.min(axis=1) * count + pairs.max(axis=1)
    order = np.argsort(key, kind="stable")
    same = np.flatnonzero(key[order][1:] == key[order][:-1])
    return pairs[order[same]], np.stack((order[same], order[same + 1]), axis=1) // 3


def _welded(points: Array, triangles: Ints, face: Ints, step: float) -> _Part:
    _, first, number = np.unique(np.round(points / step).astype(np.int64), axis=0, return_index=True, return_inverse=True)
    corners = number.ravel()[triangles]
    kept = (corners[:, 0] != corners[:, 1]) & (corners[:, 1] != corners[:, 2]) & (corners[:, 2] != corners[:, 0])
    return _Part.of(points[first], corners[kept], face[kept])


def _kernel_part(shape: Any, chord: float) -> _Part:
    from OCP.BRepTools import BRepTools

    from skalto.core.sources.models.patches import face_patches

    BRepTools.Clean_s(shape)  # triangles that something else left are finer or coarser
    points, triangles, face, base = [np.empty((0, 3))], [np.empty((0, 3), np.int64)], [np.empty(0, np.int64)], 0
    for number, (own, corners) in enumerate(face_patches(shape, chord, TURN)):
        points.append(own)
        triangles.append(corners + base)
        face.append(np.full(len(corners), number))
        base += len(own)
    return _welded(np.concatenate(points), np.concatenate(triangles), np.concatenate(face), 1e-6)


def _mesh_part(mesh: Mesh) -> _Part:
    """A mesh, its faces those patches whose triangles turn by less than a crease."""
    from skalto.core.projection.mesh_lines import CREASE

    part = _welded(mesh.vertices, mesh.faces, np.arange(len(mesh.faces)), 1e-9)
    pairs, count = part.sides, len(part.triangles)
    pairs = pairs[(part.normals[pairs[:, 0]] * part.normals[pairs[:, 1]]).sum(axis=1) >= np.cos(CREASE)]
    return replace(part, face=groups_of(pairs, count))


def _parts_of(model: Model, shown: Shown, cut: bool, chord: float) -> list[tuple[_Part, Array]]:
    """The shown components as triangles with the matrices that place them; what is cut is in place already."""
    found = []
    kept = _parts.setdefault(model, {})
    for component, shape in zip(shown.components, shown.shapes, strict=True):
        assert component.shape is not None
        if cut:
            found.append((_mesh_part(shape) if isinstance(shape, Mesh) else _kernel_part(shape, chord), np.eye(4)))
            continue
        key = (component.shape, chord)
        if key not in kept:
            own = model.shapes[component.shape]
            kept[key] = _mesh_part(own) if isinstance(own, Mesh) else _kernel_part(own, chord)
        found.append((kept[key], component.matrix()))
    return found


@dataclass(frozen=True, eq=False)
class Stage:
    """All that is shown as triangles in the model's axes about *origin*: which face each is of, unit normals, edges' ends
    (k, 2, 3) with the triangles at both sides of each (k, 2), embree's scene, and how far all reaches from the origin."""

    face: Ints
    normals: Array
    edges: Array
    sides: Ints
    origin: Array
    scene: Any
    reach: float


_stages: WeakKeyDictionary[Model, dict[tuple[tuple[str, ...], float], Stage]] = WeakKeyDictionary()
_KEPT = 2


def _staged(placed: Sequence[tuple[_Part, Array]]) -> Stage | None:
    from embreex.mesh_construction import TriangleMesh
    from embreex.rtcore_scene import EmbreeScene

    corners, face, normals, edges, sides = [], [], [], [], []
    triangles = faces = 0
    for own, matrix in placed:
        if not len(own.triangles):
            continue
        turned = matrix[:3, :3]
        points = own.points @ turned.T + matrix[:3, 3]
        corners.append(points[own.triangles])
        normals.append(own.normals @ turned.T / np.cbrt(np.linalg.det(turned)))
        face.append(own.face + faces)
        edges.append(points[own.edges])
        sides.append(own.sides + triangles)
        triangles += len(own.triangles)
        faces += int(own.face.max()) + 1
    if not corners:
        return None
    at, ends = np.concatenate(corners), np.concatenate(edges)
    low, high = at.min(axis=(0, 1)), at.max(axis=(0, 1))
    origin = (low + high) / 2
    scene = EmbreeScene()
    TriangleMesh(scene, (at - origin).astype(np.float32))
    reach = float(np.linalg.norm(high - low)) / 2 + 1.0
    return Stage(np.concatenate(face), np.concatenate(normals), ends - origin, np.concatenate(sides), origin, scene, reach)


def stage_of(model: Model, shown: Shown, cut: bool, chord: float) -> Stage | None:
    """What is shown as triangles; of a model's own shapes kept, since views of all directions share it."""
    if cut:
        return _staged(_parts_of(model, shown, cut, chord))
    kept, key = _stages.setdefault(model, {}), (tuple(c.path for c in shown.components), chord)
    if key not in kept:
        made = _staged(_parts_of(model, shown, cut, chord))
        if made is None:
            return None
        while len(kept) >= _KEPT:
            kept.pop(next(iter(kept)))
        kept[key] = made
    return kept[key]


class Sight:
    """A stage as a view sees it: everything in view axes (x right, y up, z toward the viewer) about the stage's origin."""

    def __init__(self, stage: Stage, axes: Array) -> None:
        self.stage, self.axes = stage, axes
        self.face, self.sides = stage.face, stage.sides
        self.normals, self.edges = stage.normals @ axes.T, stage.edges @ axes.T
        self.origin = axes @ stage.origin

    def _run(self, start: Array, toward: float) -> dict[str, Any]:
        way = np.broadcast_to((self.axes[2] * toward).astype(np.float32), start.shape).copy()
        found: dict[str, Any] = self.stage.scene.run(
            (start @ self.axes).astype(np.float32), way, query="INTERSECT", output=True
        )
        return found

    def first(self, places: Array) -> tuple[Ints, Array]:
        """The first triangle that a viewer sees at places (n, 2), −1 for none, and how near it is, (n,)."""
        if not len(places):
            return np.empty(0, np.int64), np.empty(0)
        found = self._run(np.column_stack((places, np.full(len(places), self.stage.reach))), -1.0)
        hit = found["primID"].astype(np.int64)
        return hit, np.where(hit >= 0, self.stage.reach - found["tfar"], -np.inf)

    def free(self, places: Array) -> Flags:
        """Whether a ray from places (n, 3) reaches the viewer."""
        return np.asarray(self._run(places, 1.0)["primID"] < 0) if len(places) else np.zeros(0, bool)


def chord_of(shown: Shown, model: Model) -> float:
    """How near triangles keep to the faces of what is shown, mm."""
    corners = []
    for component in shown.components:
        facts, matrix = model.tree.shapes[component.shape or 0], component.matrix()
        low, high = np.array(facts.low), np.array(facts.high)
        middle = matrix[:3, :3] @ ((low + high) / 2) + matrix[:3, 3]
        half = np.abs(matrix[:3, :3]) @ ((high - low) / 2)
        corners += [middle - half, middle + half]
    return max(float(np.linalg.norm(np.ptp(np.array(corners), axis=0))) * CHORD_SHARE, LEAST_CHORD)
