"""The faces and edges of a solid as sheet metal looks at them: planes and cylinders with their outward sides, and who is beside
whom."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepGProp import BRepGProp
from OCP.GeomAbs import GeomAbs_Circle, GeomAbs_Cone, GeomAbs_Cylinder, GeomAbs_Line, GeomAbs_Plane
from OCP.gp import gp_Cone, gp_Cylinder, gp_Pln, gp_Pnt, gp_Vec
from OCP.GProp import GProp_GProps
from OCP.ShapeAnalysis import ShapeAnalysis_CanonicalRecognition
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_REVERSED, TopAbs_VERTEX
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopoDS import TopoDS
from OCP.TopTools import TopTools_IndexedMapOfShape

from skalto.core.geometry import TAU, Array
from skalto.core.sources.models.kernel import signed_volume

ALIKE = 1e-3
"""A surface that is within this, mm, of a plane, cylinder or cone is taken for one."""
_STEP = math.radians(2)
_SAMPLES = 33


class Surface(StrEnum):
    """What a face lies on."""

    PLANE = "plane"
    CYLINDER = "cylinder"
    CONE = "cone"
    OTHER = "other"


@dataclass(eq=False)
class Edge:
    """An edge: the kernel's *curve* from *low* to *high*, the numbers of its *faces* and end *vertices*, and *points* (k, 3)
    along it, mm."""

    number: int
    curve: Any
    low: float
    high: float
    faces: tuple[int, ...]
    vertices: tuple[int, int]
    points: Array

    @cached_property
    def is_line(self) -> bool:
        return bool(self.curve.GetType() == GeomAbs_Line)

    @cached_property
    def is_circle(self) -> bool:
        return bool(self.curve.GetType() == GeomAbs_Circle)

    @property
    def chord(self) -> Array:
        """From its first end to its last, (3,) mm."""
        found: Array = self.points[-1] - self.points[0]
        return found

    def is_straight(self) -> bool:
        """Whether it runs straight, whatever curve it lies on."""
        if self.is_line:
            return True
        size = float(np.linalg.norm(self.chord))
        if size < 1e-9:
            return False
        unit = self.chord / size
        beside = self.points - self.points[0]
        return bool(np.linalg.norm(beside - np.outer(beside @ unit, unit), axis=1).max() <= 1e-6)

    @cached_property
    def is_closed(self) -> bool:
        """Whether it comes back to where it began: its seam is no end."""
        return float(np.linalg.norm(self.chord)) <= 1e-6 and len(self.points) > 2

    def within(self, t: Array) -> Array:
        """Parameters (k,) of places on it: those beyond its ends at the ends, those beyond the seam of a closed one on the
        other side of it."""
        if self.is_closed:
            return np.asarray(self.low + np.mod(t - self.low, self.high - self.low))
        return np.asarray(np.clip(t, self.low, self.high))

    def at(self, t: Array) -> tuple[Array, Array]:
        """Points and derivatives (k, 3) at parameters (k,)."""
        point, slope = gp_Pnt(), gp_Vec()
        points, slopes = np.empty((len(t), 3)), np.empty((len(t), 3))
        for n, own in enumerate(t.tolist()):
            self.curve.D1(own, point, slope)
            points[n] = point.X(), point.Y(), point.Z()
            slopes[n] = slope.X(), slope.Y(), slope.Z()
        return points, slopes


@dataclass(eq=False)
class Face:
    """A face: for a plane *origin* on it and *axis* its normal out of the part; for a cylinder *origin* and *axis* of its
    axis, its *radius*, mm, and *outer*: whether the part is on the axis's side of it; a cone has its half angle, radians, for
    a radius."""

    number: int
    surface: Surface
    area: float
    origin: Array
    axis: Array
    radius: float = 0.0
    outer: bool = False
    edges: list[int] = field(default_factory=list)

    def normal_at(self, points: Array) -> Array:
        """Unit normals (k, 3) out of the part at points (k, 3) of a plane or cylinder."""
        if self.surface is Surface.PLANE:
            return np.broadcast_to(self.axis, points.shape)
        beside = points - self.origin
        beside = beside - np.outer(beside @ self.axis, self.axis)
        size = np.linalg.norm(beside, axis=1)
        found: Array = beside / np.where(size > 1e-12, size, 1.0)[:, None] * (1 if self.outer else -1)
        return found


class SolidFaces:
    """All faces and edges of a solid.

    :ivar volume: mm³. :ivar places: of the vertices (n, 3).
    """

    def __init__(self, shape: Any) -> None:
        volume = signed_volume(shape)
        self.volume = abs(volume)
        self._turned = volume < 0
        faces, edges, vertices = (TopTools_IndexedMapOfShape() for _ in range(3))
        TopExp.MapShapes_s(shape, TopAbs_FACE, faces)
        TopExp.MapShapes_s(shape, TopAbs_EDGE, edges)
        TopExp.MapShapes_s(shape, TopAbs_VERTEX, vertices)
        places = [BRep_Tool.Pnt_s(TopoDS.Vertex_s(vertices.FindKey(n))) for n in range(1, vertices.Size() + 1)]
        self.places: Array = np.array([(p.X(), p.Y(), p.Z()) for p in places]).reshape(-1, 3)
        self.faces = [self._face(n - 1, TopoDS.Face_s(faces.FindKey(n))) for n in range(1, faces.Size() + 1)]
        beside: dict[int, list[int]] = {}
        for n in range(1, faces.Size() + 1):
            walk = TopExp_Explorer(faces.FindKey(n), TopAbs_EDGE)
            while walk.More():
                beside.setdefault(edges.FindIndex(walk.Current()), []).append(n - 1)
                walk.Next()
        self.edges: list[Edge] = []
        for n, own_faces in sorted(beside.items()):
            own = TopoDS.Edge_s(edges.FindKey(n))
            if not BRep_Tool.Degenerated_s(own):
                self._add(own, tuple(own_faces), vertices)

    def _add(self, own: Any, beside: tuple[int, ...], vertices: Any) -> None:
        curve = BRepAdaptor_Curve(own)
        low, high = float(curve.FirstParameter()), float(curve.LastParameter())
        first, last = TopExp.FirstVertex_s(own, False), TopExp.LastVertex_s(own, False)
        ends = (vertices.FindIndex(first) - 1, vertices.FindIndex(last) - 1)
        kind = curve.GetType()
        count = 2 if kind == GeomAbs_Line else _SAMPLES
        if kind == GeomAbs_Circle:
            count = max(3, math.ceil((high - low) / _STEP) + 1)
        edge = Edge(len(self.edges), curve, low, high, beside, ends, np.empty((0, 3)))
        edge.points = edge.at(np.linspace(low, high, count))[0]
        self.edges.append(edge)
        for face in set(beside):
            self.faces[face].edges.append(edge.number)

    def _face(self, number: int, face: Any) -> Face:
        measured = GProp_GProps()
        BRepGProp.SurfaceProperties_s(face, measured)
        area = abs(float(measured.Mass()))
        kind, own = _known(face)
        if own is None:
            return Face(number, kind, area, np.zeros(3), np.zeros(3))
        origin, axis = _vector(own.Location()), _vector(own.Axis().Direction())
        point, normal = self._outward(face)
        if kind is Surface.PLANE:
            return Face(number, kind, area, origin, axis * math.copysign(1, axis @ normal))
        beside = point - origin
        beside -= (beside @ axis) * axis
        radius = abs(float(own.SemiAngle())) if kind is Surface.CONE else float(own.Radius())
        return Face(number, kind, area, origin, axis, radius, bool(beside @ normal > 0))

    def _outward(self, face: Any) -> tuple[Array, Array]:
        """A place of a face and the normal out of the part there."""
        surface = BRepAdaptor_Surface(face)
        u0, u1 = surface.FirstUParameter(), surface.LastUParameter()
        v0, v1 = surface.FirstVParameter(), surface.LastVParameter()
        point, along, across = gp_Pnt(), gp_Vec(), gp_Vec()
        for share in (0.5, 0.37, 0.71):
            surface.D1(u0 + (u1 - u0) * share, v0 + (v1 - v0) * share, point, along, across)
            normal = np.cross(_vector(along), _vector(across))
            size = float(np.linalg.norm(normal))
            if size > 1e-12:
                break
        way = -1 if (face.Orientation() == TopAbs_REVERSED) != self._turned else 1
        return _vector(point), normal / max(size, 1e-300) * way

    @cached_property
    def beside(self) -> list[list[int]]:
        """For each face the numbers of those that it shares an edge with."""
        found: list[set[int]] = [set() for _ in self.faces]
        for edge in self.edges:
            for one in edge.faces:
                found[one].update(edge.faces)
        return [sorted(own - {n}) for n, own in enumerate(found)]

    def samples(self, face: int) -> Array:
        """Points (k, 3) along the edges of a face."""
        rows = [self.edges[e].points for e in self.faces[face].edges]
        return np.concatenate(rows) if rows else np.empty((0, 3))

    def is_smooth(self, edge: Edge) -> bool:
        """Whether two faces, planes or cylinders, go over into one another along an edge without a corner."""
        one, other = (self.faces[n] for n in edge.faces)
        at = edge.points[[0, len(edge.points) // 2, -1]]
        cosines = (one.normal_at(at) * other.normal_at(at)).sum(axis=1)
        return bool(cosines.min() > math.cos(0.01))


def _vector(own: Any) -> Array:
    return np.array((own.X(), own.Y(), own.Z()))


def _known(face: Any) -> tuple[Surface, Any]:
    """What a face lies on, by its surface's kind or, for a free one, by what it is within :data:`ALIKE`."""
    surface = BRepAdaptor_Surface(face)
    kind = surface.GetType()
    if kind == GeomAbs_Plane:
        return Surface.PLANE, surface.Plane()
    if kind == GeomAbs_Cylinder:
        return Surface.CYLINDER, surface.Cylinder()
    if kind == GeomAbs_Cone:
        return Surface.CONE, surface.Cone()
    found = ShapeAnalysis_CanonicalRecognition(face)
    plane, cylinder, cone = gp_Pln(), gp_Cylinder(), gp_Cone()
    if found.IsPlane(ALIKE, plane):
        return Surface.PLANE, plane
    if found.IsCylinder(ALIKE, cylinder):
        return Surface.CYLINDER, cylinder
    if found.IsCone(ALIKE, cone):
        return Surface.CONE, cone
    return Surface.OTHER, None


def spread(angles: NDArray[np.float64]) -> tuple[float, float]:
    """The least arc, radians, that holds angles sampled along a face's edges: where it begins, 0 to 2π, and where it ends; a
    whole turn when there is no gap."""
    rows = np.sort(np.asarray(angles) % TAU)
    gaps = np.diff(np.append(rows, rows[0] + TAU))
    widest = int(np.argmax(gaps))
    if gaps[widest] < 1.2 * _STEP:
        return float(rows[0]), float(rows[0]) + TAU
    begin = float(rows[(widest + 1) % len(rows)])
    return begin, begin + TAU - float(gaps[widest])
