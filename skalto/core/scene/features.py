"""What a reviewer can measure on a mesh alone: its edges, circles among them, and its plane and round faces.

Found from triangles and normals as they stand in a finished file, not from the model: corners of a tessellated circle lie on
it, so that its diameter is the true one to single precision.
"""

from __future__ import annotations

import itertools
from collections import defaultdict
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict

from skalto.core.geometry import Array
from skalto.core.geometry.grouping import groups_of
from skalto.core.scene.scene import Ints, SolidMesh

Vector = tuple[float, float, float]
SHARP = np.radians(2.0)
"""Normals of two triangles that differ by more than this at a corner that they share meet in an edge."""
FLAT = np.radians(0.05)
ROUND = 2e-4
"""Relative to the radius: how far a corner may be from its circle (single precision, and sums of it)."""
MOST_EDGES, MOST_FACES = 200_000, 20_000
"""A mesh with more edges or faces than this is a scan, not a part: none are told."""


class EdgeFeature(BaseModel):
    """An edge: a straight *line*, a *circle* or part of one, or another *curve*; *points* along it, mm."""

    model_config = ConfigDict(frozen=True)

    kind: Literal["line", "circle", "curve"]
    length: float
    points: tuple[Vector, ...]
    closed: bool = False
    centre: Vector | None = None
    axis: Vector | None = None
    diameter: float | None = None


class FaceFeature(BaseModel):
    """A face: *plane* with its normal and a point, *round* (a cylinder) with its axis, a point of it and the diameter, or
    *other*."""

    model_config = ConfigDict(frozen=True)

    kind: Literal["plane", "round", "other"]
    point: Vector | None = None
    direction: Vector | None = None
    diameter: float | None = None
    area: float = 0.0


@dataclass(frozen=True, eq=False)
class Features:
    """A mesh's faces and edges: *face_of* (m,) tells the face of each triangle."""

    faces: tuple[FaceFeature, ...]
    edges: tuple[EdgeFeature, ...]
    face_of: Ints


def _vector(v: Array) -> Vector:
    x, y, z = (round(float(value), 6) + 0.0 for value in v)
    return x, y, z


def _half_edges(mesh: SolidMesh) -> tuple[Ints, Ints]:
    """Pairs of triangles that share an edge (k, 2), as half-edge numbers 3 t + side; and those half-edges that have no one
    partner."""
    c = mesh.corners
    start, end = c.ravel(), np.roll(c, -1, axis=1).ravel()
    low, high = np.minimum(start, end), np.maximum(start, end)
    key = low * (len(mesh.positions) + 1) + high
    order = np.argsort(key, kind="stable")
    ordered = key[order]
    first = np.flatnonzero(np.r_[True, ordered[1:] != ordered[:-1]])
    count = np.diff(np.r_[first, len(ordered)])
    twins = first[count == 2]
    pairs = np.stack((order[twins], order[twins + 1]), axis=1)
    paired = np.zeros(len(key), bool)
    paired[pairs.ravel()] = True
    return pairs, np.flatnonzero(~paired)


def _corner_normals(mesh: SolidMesh, halves: Ints) -> Array:
    """The normals at both ends of half-edges, (k, 2, 3), in the order of their vertices' numbers."""
    triangle, side = halves // 3, halves % 3
    nxt = (side + 1) % 3
    normals = np.stack((mesh.normals[mesh.turns[triangle, side]], mesh.normals[mesh.turns[triangle, nxt]]), axis=1)
    swap = mesh.corners[triangle, side] > mesh.corners[triangle, nxt]
    normals[swap] = normals[swap][:, ::-1]
    return normals


def _plain_normals(mesh: SolidMesh) -> Array:
    a, b, c = (mesh.positions[mesh.corners[:, k]] for k in range(3))
    normal = np.cross(b - a, c - a)
    length = np.linalg.norm(normal, axis=1, keepdims=True)
    plain: Array = np.divide(normal, length, out=np.zeros_like(normal), where=length > 0)
    return plain


def _faces_of(mesh: SolidMesh) -> tuple[Ints, Ints, Ints, NDArray[np.bool_]]:
    """Face numbers of triangles, pairs of half-edges between different faces, lone half-edges, and which triangles are flat."""
    pairs, lone = _half_edges(mesh)
    count = len(mesh.corners)
    own = _plain_normals(mesh)
    if len(mesh.normals):
        bend = np.abs(np.einsum("tkj,tj->tk", mesh.normals[mesh.turns], own))
        flat = (bend > np.cos(FLAT * 4)).all(axis=1)
        first, second = _corner_normals(mesh, pairs[:, 0]), _corner_normals(mesh, pairs[:, 1])
        smooth = (np.einsum("kej,kej->ke", first, second) > np.cos(SHARP)).all(axis=1)
    else:
        flat = np.ones(count, bool)
        smooth = np.einsum("kj,kj->k", own[pairs[:, 0] // 3], own[pairs[:, 1] // 3]) > np.cos(SHARP)
    one, other = pairs[:, 0] // 3, pairs[:, 1] // 3
    level = np.einsum("kj,kj->k", own[one], own[other]) > np.cos(FLAT)
    # a plane that a curved face runs into is a face of its own
    joined = smooth & (flat[one] == flat[other]) & (~flat[one] | level)
    number = groups_of(np.stack((one[joined], other[joined]), axis=1), count)
    apart = number[one] != number[other]
    return number, pairs[apart], lone, flat


def _fit_circle(points: Array) -> tuple[Array, Array, float, float] | None:
    """Centre, axis, radius and largest deviation of the circle through points (n, 3); None where they lie on a line."""
    middle = points.mean(axis=0)
    _, spread, axes = np.linalg.svd(points - middle, full_matrices=False)
    if len(points) < 3 or spread[1] < 1e-6 * spread[0]:
        return None
    flat = (points - middle) @ axes[:2].T
    system = np.column_stack((2 * flat, np.ones(len(flat))))
    solution = np.linalg.lstsq(system, (flat**2).sum(axis=1), rcond=None)[0]
    centre = middle + solution[:2] @ axes[:2]
    radius = float(np.sqrt(max(solution[2] + solution[:2] @ solution[:2], 0.0)))
    off = np.abs(np.linalg.norm(points - centre, axis=1) - radius)
    out = np.abs((points - middle) @ axes[2]) if len(axes) > 2 else np.zeros(1)
    return centre, axes[2], radius, float(max(off.max(), out.max()))


def _edge(points: Array, closed: bool) -> EdgeFeature:
    steps = np.linalg.norm(np.diff(points, axis=0), axis=1)
    length = float(steps.sum())
    chord = float(np.linalg.norm(points[-1] - points[0]))
    rows = tuple(_vector(p) for p in points)
    if not closed and chord > 0:
        along = (points[-1] - points[0]) / chord
        away = points - points[0]
        off = np.linalg.norm(away - np.outer(away @ along, along), axis=1).max()
        if off <= max(1e-5, 2e-6 * chord):
            return EdgeFeature(kind="line", length=round(chord, 6), points=(rows[0], rows[-1]))
    if len(points) >= 4:
        found = _fit_circle(points[:-1] if closed else points)
        if found is not None and found[3] <= max(1e-5, ROUND * found[2]):
            centre, axis, radius, _ = found
            swept = 2 * np.arcsin(np.clip(steps / (2 * radius), 0, 1)).sum()
            return EdgeFeature(
                kind="circle", length=round(float(radius * swept), 6), points=rows, closed=closed, centre=_vector(centre),
                axis=_vector(axis), diameter=round(2 * radius, 6),
            )  # fmt: skip
    return EdgeFeature(kind="curve", length=round(length, 6), points=rows, closed=closed)


def _chains(segments: dict[tuple[int, int], list[tuple[int, int]]]) -> list[list[int]]:
    """Vertices of edges in order: pieces between the same two faces, joined where exactly two of them meet."""
    chains = []
    for pieces in segments.values():
        around: dict[int, list[int]] = defaultdict(list)
        for a, b in pieces:
            around[a].append(b)
            around[b].append(a)
        left = {frozenset(piece) for piece in pieces}
        ends = [v for v, near in around.items() if len(near) != 2]
        for start in (*ends, *around):
            for second in around[start]:
                if frozenset((start, second)) not in left:
                    continue
                chain = [start, second]
                left.discard(frozenset((start, second)))
                while len(around[chain[-1]]) == 2:
                    nxt = next((v for v in around[chain[-1]] if frozenset((chain[-1], v)) in left), None)
                    if nxt is None:
                        break
                    left.discard(frozenset((chain[-1], nxt)))
                    chain.append(nxt)
                chains.append(chain)
    return chains


def _corners_in(points: Array, chain: list[int]) -> list[list[int]]:
    """A chain cut where it turns a corner: two faces may meet along a square."""
    closed = chain[0] == chain[-1]
    p = points[chain]
    steps = np.diff(p, axis=0)
    steps = steps / np.maximum(np.linalg.norm(steps, axis=1, keepdims=True), 1e-12)
    if closed:
        turn = np.einsum("ij,ij->i", steps, np.roll(steps, 1, axis=0))
        sharp = np.flatnonzero(turn < np.cos(np.radians(35)))
        if not len(sharp):
            return [chain]
        loop = chain[:-1]
        start = int(sharp[0])
        chain = [*loop[start:], *loop[:start], loop[start]]
        cuts = [int(s) - start for s in sharp] + [len(loop)]
    else:
        turn = np.einsum("ij,ij->i", steps[1:], steps[:-1])
        cuts = [0, *(np.flatnonzero(turn < np.cos(np.radians(35))) + 1).tolist(), len(chain) - 1]
    return [chain[a : b + 1] for a, b in itertools.pairwise(cuts) if b > a]


def _edges(mesh: SolidMesh, number: Ints, apart: Ints, lone: Ints) -> list[EdgeFeature]:
    segments: dict[tuple[int, int], list[tuple[int, int]]] = defaultdict(list)
    if len(apart) + len(lone) > MOST_EDGES:
        return []

    def ends(half: int) -> tuple[int, int]:
        return int(mesh.corners[half // 3, half % 3]), int(mesh.corners[half // 3, (half % 3 + 1) % 3])

    for one, other in apart.tolist():
        a, b = number[one // 3], number[other // 3]
        segments[int(min(a, b)), int(max(a, b))].append(ends(one))
    for half in lone.tolist():
        segments[int(number[half // 3]), -1].append(ends(half))
    found = []
    for chain in _chains(segments):
        for part in _corners_in(mesh.positions, chain):
            found.append(_edge(mesh.positions[part], part[0] == part[-1]))
    return found


def _face(mesh: SolidMesh, rows: Ints, flat: bool) -> FaceFeature:
    corners = mesh.corners[rows]
    a, b, c = (mesh.positions[corners[:, k]] for k in range(3))
    crosses = np.cross(b - a, c - a)
    area = round(float(np.linalg.norm(crosses, axis=1).sum() / 2), 6)
    if flat:
        total = crosses.sum(axis=0)
        length = float(np.linalg.norm(total))
        if length > 0:
            return FaceFeature(kind="plane", point=_vector(a[0]), direction=_vector(total / length), area=area)
    if len(mesh.normals) and len(rows) >= 4:
        found = _cylinder(mesh, rows)
        if found is not None:
            point, axis, diameter = found
            return FaceFeature(kind="round", point=_vector(point), direction=_vector(axis), diameter=diameter, area=area)
    return FaceFeature(kind="other", area=area)


def _cylinder(mesh: SolidMesh, rows: Ints) -> tuple[Array, Array, float] | None:
    """A point of the axis, the axis and the diameter of a cylinder, or None when the face is none."""
    normals = mesh.normals[np.unique(mesh.turns[rows])]
    points = mesh.positions[np.unique(mesh.corners[rows])]
    _, spread, axes = np.linalg.svd(normals, full_matrices=False)
    # the normals of a cylinder lie in a plane square to its axis, and turn about in it
    if len(normals) < 3 or spread[2] > 1e-3 * np.sqrt(len(normals)) or spread[1] < 1e-3:
        return None
    axis = axes[2]
    across = np.array(axes[:2])
    flat = points @ across.T
    system = np.column_stack((2 * flat, np.ones(len(flat))))
    solution, _, rank, _ = np.linalg.lstsq(system, (flat**2).sum(axis=1), rcond=None)
    if rank < 3:
        return None
    radius = float(np.sqrt(max(solution[2] + solution[:2] @ solution[:2], 0.0)))
    if radius <= 0 or np.abs(np.linalg.norm(flat - solution[:2], axis=1) - radius).max() > max(1e-5, ROUND * radius):
        return None
    along = points @ axis
    return solution[:2] @ across + axis * (along.min() + along.max()) / 2, axis, round(2 * radius, 6)


def features_of(mesh: SolidMesh) -> Features:
    """The faces and edges of a mesh, in its own axes, mm."""
    if not len(mesh.corners):
        return Features((), (), np.zeros(0, np.int64))
    number, apart, lone, flat = _faces_of(mesh)
    if number.max() >= MOST_FACES:
        whole = FaceFeature(kind="other", area=round(mesh.area(), 6))
        return Features((whole,), (), np.zeros(len(mesh.corners), np.int64))
    order = np.argsort(number, kind="stable")
    starts = np.flatnonzero(np.r_[True, number[order][1:] != number[order][:-1]])
    faces = []
    for rows in np.split(order, starts[1:]):
        faces.append(_face(mesh, rows, bool(flat[rows].all())))
    return Features(tuple(faces), tuple(_edges(mesh, number, apart, lone)), number)


def plain(features: Features) -> dict[str, Any]:
    """As plain data for a viewer: short, since there may be thousands."""
    return {
        "faces": [face.model_dump(exclude_none=True) for face in features.faces],
        "edges": [edge.model_dump(exclude_none=True) for edge in features.edges],
    }
