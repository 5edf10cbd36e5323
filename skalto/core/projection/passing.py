"""Where parts pass through one another: curves that are seen as edges are, and that no part has as an edge.

Triangles tell which faces cross; the curves are the kernel's, of those faces alone. Faces that only touch, or lie in one
another, as a pin does in a hole of its own size, make none.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any
from weakref import WeakKeyDictionary

import numba
import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepAlgoAPI import BRepAlgoAPI_Section
from OCP.BRepClass import BRepClass_FaceClassifier
from OCP.GCPnts import GCPnts_TangentialDeflection
from OCP.gp import gp_Pnt, gp_Vec
from OCP.ShapeAnalysis import ShapeAnalysis_Surface
from OCP.Standard import Standard_Failure
from OCP.TopAbs import TopAbs_EDGE, TopAbs_IN
from OCP.TopoDS import TopoDS

from skalto.core.geometry import Array
from skalto.core.geometry.grouping import boxes_that_meet
from skalto.core.projection.facets import Curve, Facets, Flags, Ints, Surface, frame_of
from skalto.core.projection.splines import Spline, spline_of_edge
from skalto.core.sources.models.building import turned_box
from skalto.core.sources.models.extents import xyz
from skalto.core.sources.models.kernel import placed, sub_shapes

_LEAST = 1e-5
"""Faces that are planes cross where each reaches farther than this beyond the other, mm; round ones by twice what their
triangles may be off."""
_PARALLEL = 1e-9
_TOUCH = 0.01
"""The sine of an angle, below which faces touch along a curve and do not cross there."""

Body = tuple[int, Facets, Array]
"""The number of a component, its shape, and the 4 × 4 matrix that places it."""
_TURN = 0.15
"""The turn of a chord, radians."""


@dataclass(frozen=True, eq=False)
class Crossing:
    """A kernel's edge in which two faces cross, by their numbers; its parameters ``t`` (k,), and those of the faces there,
    ``uv`` (2, k, 2); what the edge is, the rows c, a, b (3, 3) of :class:`~skalto.core.projection.facets.Curve`, and the spline
    that it is, if any."""

    edge: Any
    kind: Curve
    frame: Array
    spline: Spline | None
    faces: tuple[int, int]
    t: Array
    uv: Array


@dataclass(frozen=True, eq=False)
class Passing:
    """What two components, by number, have of crossings, and the 4 × 4 matrix that places these."""

    components: tuple[int, int]
    crossings: list[Crossing]
    matrix: Array


_kept: WeakKeyDictionary[Facets, WeakKeyDictionary[Facets, dict[tuple[float, ...], list[Crossing]]]] = WeakKeyDictionary()


@numba.njit(cache=True)  # type: ignore[untyped-decorator]
def _crossing_faces(
    a: Array, face_a: Ints, slack_a: Array, b: Array, face_b: Ints, slack_b: Array, begin: Ints, end: Ints, found: Flags,
    first: bool,
) -> bool:  # fmt: skip
    """Mark in *found* (faces of a, faces of b) which triangles' sides of a (n, 3, 3) go through triangles of b (m, 3, 3), both
    ends farther off than *slack* of both; with *first* only whether any does. Of a those from *begin* to *end* (m,) may."""
    any_found = False
    for j in range(len(b)):
        p, q, r = b[j, 0], b[j, 1], b[j, 2]
        u, v = q - p, r - p
        normal = np.array((u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]))
        size = np.sqrt(normal[0] ** 2 + normal[1] ** 2 + normal[2] ** 2)
        if size < 1e-30:
            continue
        normal /= size
        low, high = np.minimum(np.minimum(p, q), r), np.maximum(np.maximum(p, q), r)
        for i in range(begin[j], end[j]):
            if found[face_a[i], face_b[j]]:
                continue
            apart = False
            for k in range(3):
                least = min(a[i, 0, k], a[i, 1, k], a[i, 2, k])
                most = max(a[i, 0, k], a[i, 1, k], a[i, 2, k])
                if least > high[k] or most < low[k]:
                    apart = True
                    break
            if apart:
                continue
            slack = slack_a[i] + slack_b[j]
            for k in range(3):
                s, e = a[i, k], a[i, (k + 1) % 3]
                ds = (s[0] - p[0]) * normal[0] + (s[1] - p[1]) * normal[1] + (s[2] - p[2]) * normal[2]
                de = (e[0] - p[0]) * normal[0] + (e[1] - p[1]) * normal[1] + (e[2] - p[2]) * normal[2]
                if min(ds, de) > -slack or max(ds, de) < slack or ds == de:
                    continue
                x = s + (e - s) * (ds / (ds - de))
                inside = True
                for n in range(3):
                    c, d = b[j, n], b[j, (n + 1) % 3]
                    w, y = d - c, x - c
                    side = (
                        (w[1] * y[2] - w[2] * y[1]) * normal[0]
                        + (w[2] * y[0] - w[0] * y[2]) * normal[1]
                        + (w[0] * y[1] - w[1] * y[0]) * normal[2]
                    )
                    if side < 0:
                        inside = False
                        break
                if inside:
                    found[face_a[i], face_b[j]] = True
                    any_found = True
                    if first:
                        return True
                    break
    return any_found


class _Part:
    """A part's triangles in the model's axes, or those of some of its faces."""

    def __init__(self, facets: Facets, matrix: Array, faces: Sequence[int] | None = None) -> None:
        rows = slice(None) if faces is None else np.isin(facets.face, faces)
        points = facets.points @ matrix[:3, :3].T + matrix[:3, 3]
        self.corners, self.face = points[facets.triangles[rows]], facets.face[rows]
        self.low = self.corners.min(axis=(0, 1), initial=np.inf)
        self.high = self.corners.max(axis=(0, 1), initial=-np.inf)
        self.lows, self.highs = self.corners.min(axis=1), self.corners.max(axis=1)
        self.slack = np.where(facets.surface[self.face] == Surface.PLANE, _LEAST, 2 * facets.chord)

    def within(self, low: Array, high: Array, axis: int) -> _Row:
        """The triangles that reach into a box."""
        rows = np.flatnonzero(((self.lows <= high) & (self.highs >= low)).all(axis=1))
        rows = rows[np.argsort(self.lows[rows, axis], kind="stable")]
        return _Row(self.corners[rows], self.face[rows], self.slack[rows], self.lows[rows, axis], self.highs[rows, axis])


@dataclass(frozen=True, eq=False)
class _Row:
    """Triangles (k, 3, 3) in the order in which they begin along an axis: their faces, slack, and from where to where they
    reach there, (k,)."""

    corners: Array
    face: Ints
    slack: Array
    low: Array
    high: Array

    def beside(self, other: _Row) -> tuple[Ints, Ints]:
        """From which to which each of the others may meet one, (m,)."""
        reach = float((self.high - self.low).max())
        return np.searchsorted(self.low, other.low - reach), np.searchsorted(self.low, other.high, side="right")


def _crossed_faces(a: _Part, b: _Part) -> list[tuple[int, int]]:
    """The pairs of faces of two parts that cross."""
    low, high = np.maximum(a.low, b.low), np.minimum(a.high, b.high)
    if (low >= high).any():
        return []
    axis = int(np.argmax(high - low))
    own, other = a.within(low, high, axis), b.within(low, high, axis)
    if not len(own.face) or not len(other.face):
        return []
    faces_a, row = np.unique(own.face, return_inverse=True)
    faces_b, column = np.unique(other.face, return_inverse=True)
    found = np.zeros((len(faces_a), len(faces_b)), bool)
    back = np.zeros((len(faces_b), len(faces_a)), bool)

    def any_of(own_slack: Array, other_slack: Array, first: bool) -> bool:
        ours, theirs = (own.corners, row, own_slack), (other.corners, column, other_slack)
        there: bool = _crossing_faces(*ours, *theirs, *own.beside(other), found, first)
        if not (there and first):
            there |= _crossing_faces(*theirs, *ours, *other.beside(own), back, first)
        return there

    if not any_of(own.slack, other.slack, True):
        return []
    # they do pass through one another: now to the last corner
    any_of(np.zeros(len(own.face)), np.zeros(len(other.face)), False)
    found |= back.T
    return [(int(faces_a[i]), int(faces_b[j])) for i, j in np.argwhere(found)]


def _crossings(a: Facets, b: Facets, pairs: list[tuple[int, int]], matrix: Array) -> list[Crossing]:
    """The curves in which faces cross, in the axes of a; *matrix* leads there from those of b."""
    found = []
    for i, j in pairs:
        if _runs_along(a.surface[i], a.form[i], b.surface[j], matrix, b.form[j]):
            continue
        faces = a.kernel_faces[i], TopoDS.Face_s(placed(b.kernel_faces[j], matrix))
        try:
            section = BRepAlgoAPI_Section(*faces, False)
            section.Approximation(True)
            section.ComputePCurveOn1(False)
            section.ComputePCurveOn2(False)
            section.Build()
            edges = [TopoDS.Edge_s(edge) for edge in sub_shapes(section.Shape(), TopAbs_EDGE)] if section.IsDone() else []
            made = [_crossing(edge, faces, (i, j)) for edge in edges]
        except Standard_Failure:
            continue  # the kernel cannot cut damaged faces with one another
        found += [own for own in made if own is not None]
    return found


def _runs_along(own: int, form: Array, other: int, matrix: Array, other_form: Array) -> bool:
    """Whether two faces are planes side by side, or cylinders one in the other: these never cross."""
    if own != other or own not in (Surface.PLANE, Surface.CYLINDER):
        return False
    axis, point = matrix[:3, :3] @ other_form[3:6], matrix[:3, :3] @ other_form[:3] + matrix[:3, 3]
    if float(np.linalg.norm(np.cross(form[3:6], axis))) > _PARALLEL:
        return False
    return own == Surface.PLANE or float(np.linalg.norm(np.cross(point - form[:3], axis))) < _LEAST


def _crossing(edge: Any, faces: tuple[Any, Any], numbers: tuple[int, int]) -> Crossing | None:
    """An edge of two faces that cross at an angle along it, inside of both: where they touch, nothing is to be seen, and their
    own edges are drawn anyway."""
    curve = BRepAdaptor_Curve(edge)
    steps = GCPnts_TangentialDeflection(curve, _TURN, np.inf)
    t = np.array([steps.Parameter(n) for n in range(1, steps.NbPoints() + 1)])
    if len(t) < 2:
        return None
    points = [curve.Value(u) for u in t.tolist()]
    surfaces = [ShapeAnalysis_Surface(BRep_Tool.Surface_s(face)) for face in faces]
    uv = np.array([[(p.X(), p.Y()) for p in (own.ValueOfUV(at, 1e-6) for at in points)] for own in surfaces])
    for n in {0, (len(t) - 1) // 2, len(t) - 2}:
        at = curve.Value(0.6 * t[n] + 0.4 * t[n + 1])
        (a, a_inside), (b, b_inside) = (_seen_at(face, own, at) for face, own in zip(faces, surfaces, strict=True))
        if a_inside and b_inside and float(np.linalg.norm(np.cross(a, b))) > _TOUCH:
            kind, frame = frame_of(curve)
            return Crossing(edge, kind, frame, spline_of_edge(edge) if kind == Curve.OTHER else None, numbers, t, uv)
    return None


def _seen_at(face: Any, surface: Any, at: Any) -> tuple[Array, bool]:
    """A face's normal at a point of it, and whether that is inside of its contours."""
    uv, point, along, across = surface.ValueOfUV(at, 1e-6), gp_Pnt(), gp_Vec(), gp_Vec()
    BRepAdaptor_Surface(face, False).D1(uv.X(), uv.Y(), point, along, across)
    normal = np.cross(xyz(along), xyz(across))
    inside = BRepClass_FaceClassifier(face, uv, _LEAST).State() == TopAbs_IN
    return normal / max(float(np.linalg.norm(normal)), 1e-30), inside


def _within(facets: Facets) -> list[Crossing]:
    """The curves in which the bodies of one part pass through one another."""
    parts = [_Part(facets, np.eye(4), faces) for faces in facets.bodies] if len(facets.bodies) > 1 else []
    parts = [part for part in parts if len(part.face)]
    if not parts:
        return []
    near = boxes_that_meet(np.array([part.low for part in parts]), np.array([part.high for part in parts]))
    pairs = [pair for i, j in near for pair in _crossed_faces(parts[i], parts[j])]
    return _crossings(facets, facets, pairs, np.eye(4))


def crossings_kept(facets: Sequence[Facets]) -> list[tuple[Facets, Facets, tuple[float, ...], list[Crossing]]]:
    """All crossings that were made of some facets: of which two, how the second lies to the first, and the curves."""
    ours = {id(own) for own in facets}
    return [
        (own, other, key, crossings)
        for own in facets
        for other, found in _kept.get(own, WeakKeyDictionary()).items()
        if id(other) in ours
        for key, crossings in found.items()
    ]


def keep_crossings(own: Facets, other: Facets, key: tuple[float, ...], crossings: list[Crossing]) -> None:
    """Take crossings that were made before, where there are none yet."""
    _kept.setdefault(own, WeakKeyDictionary()).setdefault(other, {}).setdefault(key, crossings)


def passing_of(bodies: Sequence[Body]) -> list[Passing]:
    """The curves in which bodies pass through one another."""
    rigid = [(n, f, m) for n, f, m in bodies if len(f.triangles) and abs(abs(np.linalg.det(m[:3, :3])) - 1) < 1e-9]
    if not rigid:
        return []
    found: list[Passing] = []
    for number, facets, matrix in rigid:
        kept = _kept.setdefault(facets, WeakKeyDictionary()).setdefault(facets, {})
        if () not in kept:
            kept[()] = _within(facets)
        if kept[()]:
            found.append(Passing((number, number), kept[()], matrix))
    spans = {id(facets): (facets.points.min(axis=0), facets.points.max(axis=0)) for _, facets, _ in rigid}
    boxes = np.array([turned_box(*spans[id(facets)], matrix) for _, facets, matrix in rigid])
    parts: dict[int, _Part] = {}
    for i, j in boxes_that_meet(boxes[:, 0], boxes[:, 1]):
        (number, facets, matrix), (other, other_facets, other_matrix) = rigid[i], rigid[j]
        relative = np.linalg.inv(matrix) @ other_matrix
        kept = _kept.setdefault(facets, WeakKeyDictionary()).setdefault(other_facets, {})
        key = tuple(np.round(relative, 9).ravel().tolist())
        if key not in kept:
            for n in (i, j):
                if n not in parts:
                    parts[n] = _Part(rigid[n][1], rigid[n][2])
            kept[key] = _crossings(facets, other_facets, _crossed_faces(parts[i], parts[j]), relative)
        if kept[key]:
            found.append(Passing((number, other), kept[key], matrix))
    return found
