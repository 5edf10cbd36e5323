"""A kernel shape as its faces' triangles and its edges' chords, made once and seen from any side.

The triangulation is conforming: a chord of an edge is a side of one triangle in each face beside it, with the same ends, so
that what hides what within a part is decided by what hangs together and not by a tolerance.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from enum import IntEnum
from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import (
    GeomAbs_Circle,
    GeomAbs_Cone,
    GeomAbs_Cylinder,
    GeomAbs_Ellipse,
    GeomAbs_G1,
    GeomAbs_Line,
    GeomAbs_Plane,
    GeomAbs_Sphere,
    GeomAbs_Torus,
)
from OCP.StdPrs import StdPrs_ToolTriangulatedShape
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_REVERSED, TopAbs_SHELL, TopAbs_SOLID
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS
from OCP.TopTools import TopTools_IndexedMapOfShape

from skalto.core.artwork import Array
from skalto.core.models.extents import xyz
from skalto.core.models.kernel import matrix_of, sub_shapes
from skalto.core.projection.splines import Spline, spline_of_edge, spline_of_face

Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]


class Curve(IntEnum):
    """What an edge is: c + a·t, c + a·cos t + b·sin t, or another."""

    LINE = 0
    CONIC = 1
    OTHER = 2


class Surface(IntEnum):
    """What a face is."""

    PLANE = 0
    CYLINDER = 1
    CONE = 2
    SPHERE = 3
    TORUS = 4
    OTHER = 5


_SURFACES = {
    GeomAbs_Plane: Surface.PLANE,
    GeomAbs_Cylinder: Surface.CYLINDER,
    GeomAbs_Cone: Surface.CONE,
    GeomAbs_Sphere: Surface.SPHERE,
    GeomAbs_Torus: Surface.TORUS,
}


@dataclass(frozen=True, eq=False)
class Facets:
    """Lengths in mm, in the shape's own axes; n nodes, m triangles, f faces, k chords, e edges.

    ``points`` and the faces' true ``normals`` at them, outward, (n, 3), and their parameters ``uv`` (n, 2); ``triangles``
    (m, 3) with the ``face`` of each (m,) and the chord on each of their ``sides``, from corner i to the next, or −1, (m, 3).

    ``surface`` (f,) says what a face is, ``form`` (f, 8) where it lies and how large it is (:func:`_form`), ``closed`` (f,)
    whether it bounds a closed shell.

    A chord runs between ``ends`` (k, 2, 3), at ``params`` (k, 2) of its ``edge`` (k,), with a triangle or −1 at either side,
    ``beside`` (k, 2), and the normals of one face beside it at its ends, ``across`` (k, 2, 3). Edges are
    ``curve`` (e,), ``frame`` (e, 3, 3) the rows c, a, b of :class:`Curve`, ``smooth`` (e,) where two faces meet without a
    crease, ``seam`` (e,) where a face meets itself; ``kernel`` are the kernel's own.
    """

    points: Array
    normals: Array
    uv: Array
    triangles: Ints
    face: Ints
    sides: Ints
    surface: Ints
    form: Array
    closed: Flags
    ends: Array
    across: Array
    params: Array
    edge: Ints
    beside: Ints
    curve: Ints
    frame: Array
    smooth: Flags
    seam: Flags
    kernel: list[Any]
    kernel_faces: list[Any]
    chord: float
    bodies: list[list[int]]
    """The faces of each solid, and of each closed shell beside them."""
    whole: bool
    """Whether every face has triangles and every edge of one has chords."""
    _splines: dict[tuple[str, int], Spline | None] = field(default_factory=dict)

    def edge_spline(self, edge: int) -> Spline | None:
        """An edge as a spline, None where it is none."""
        key = "edge", edge
        if key not in self._splines:
            self._splines[key] = spline_of_edge(self.kernel[edge])
        return self._splines[key]

    def face_spline(self, face: int) -> Spline | None:
        """A face as a spline, None where it is none."""
        key = "face", face
        if key not in self._splines:
            self._splines[key] = spline_of_face(self.kernel_faces[face])
        return self._splines[key]


def _nodes_of(triangulation: Any, face: Any, location: TopLoc_Location) -> tuple[Array, Array, Array, Ints]:
    StdPrs_ToolTriangulatedShape.ComputeNormals_s(face, triangulation)
    count = triangulation.NbNodes()
    points = np.array([xyz(triangulation.Node(n)) for n in range(1, count + 1)]).reshape(-1, 3)
    normals = np.array([xyz(triangulation.Normal(n)) for n in range(1, count + 1)]).reshape(-1, 3)
    places = (triangulation.UVNode(n) for n in range(1, count + 1))
    uv = np.array([(p.X(), p.Y()) for p in places]).reshape(-1, 2)
    triangles = (triangulation.Triangle(n) for n in range(1, triangulation.NbTriangles() + 1))
    corners = np.array([(t.Value(1), t.Value(2), t.Value(3)) for t in triangles], np.int64).reshape(-1, 3) - 1
    if not location.IsIdentity():
        matrix = matrix_of(location)
        points = points @ matrix[:3, :3].T + matrix[:3, 3]
        turn = matrix[:3, :3] / np.cbrt(abs(np.linalg.det(matrix[:3, :3])))
        normals = normals @ turn.T
        if np.linalg.det(turn) < 0:
            corners = corners[:, ::-1]
    return points, normals, uv, corners


def frame_of(adaptor: Any) -> tuple[Curve, Array]:
    """What a kernel curve is, and the rows c, a, b (3, 3) of :class:`Curve`."""
    kind, frame = adaptor.GetType(), np.zeros((3, 3))
    if kind == GeomAbs_Line:
        line = adaptor.Line()
        frame[:2] = xyz(line.Location()), xyz(line.Direction())
        return Curve.LINE, frame
    if kind not in (GeomAbs_Circle, GeomAbs_Ellipse):
        return Curve.OTHER, frame
    conic = adaptor.Circle() if kind == GeomAbs_Circle else adaptor.Ellipse()
    major, minor = (conic.Radius(),) * 2 if kind == GeomAbs_Circle else (conic.MajorRadius(), conic.MinorRadius())
    position = conic.Position()
    frame[:] = xyz(position.Location()), xyz(position.XDirection()), xyz(position.YDirection())
    frame[1:] *= ((major,), (minor,))
    return Curve.CONIC, frame


class _Edges:
    """The edges of a shape, with the chords of each as its faces meet them."""

    def __init__(self, shape: Any) -> None:
        self.found = TopTools_IndexedMapOfShape()
        TopExp.MapShapes_s(shape, TopAbs_EDGE, self.found)
        count = self.found.Extent()
        self.first_chord = np.full(count, -1)
        self.ends: list[Array] = []
        self.across: list[Array] = []
        self.params: list[Array] = []
        self.edge: list[Ints] = []
        self.total, self.whole = 0, True
        self.faces: list[list[int]] = [[] for _ in range(count)]
        self.seam = np.zeros(count, bool)

    def meet(
        self, face: Any, number: int, triangulation: Any, location: TopLoc_Location, points: Array, normals: Array
    ) -> dict[int, int]:
        """Which chord lies between two nodes of a face, by lower node × 2³² + higher node."""
        sides: dict[int, int] = {}
        explorer = TopExp_Explorer(face, TopAbs_EDGE)
        while explorer.More():
            edge = TopoDS.Edge_s(explorer.Current())
            explorer.Next()
            if BRep_Tool.Degenerated_s(edge):
                continue
            polygon = BRep_Tool.PolygonOnTriangulation_s(edge, triangulation, location)
            if polygon is None:
                self.whole = False
                continue
            row = self.found.FindIndex(edge) - 1
            nodes = np.array([polygon.Node(n) for n in range(1, polygon.NbNodes() + 1)], np.int64) - 1
            if number in self.faces[row]:
                self.seam[row] = True
            self.faces[row].append(number)
            if self.first_chord[row] < 0:
                self.first_chord[row] = self.total
                along = np.array([polygon.Parameter(n) for n in range(1, polygon.NbNodes() + 1)])
                at = points[nodes]
                self.ends.append(np.stack((at[:-1], at[1:]), axis=1))
                self.across.append(np.stack((normals[nodes[:-1]], normals[nodes[1:]]), axis=1))
                self.params.append(np.stack((along[:-1], along[1:]), axis=1))
                self.edge.append(np.full(len(nodes) - 1, row))
                self.total += len(nodes) - 1
            first = int(self.first_chord[row])
            low, high = np.minimum(nodes[:-1], nodes[1:]), np.maximum(nodes[:-1], nodes[1:])
            sides.update(zip(((low << 32) + high).tolist(), range(first, first + len(low)), strict=True))
        return sides

    def kinds(self, faces: Sequence[Any]) -> tuple[Ints, Array, Flags, list[Any]]:
        """What each edge is, its frame, whether it is smooth, and the kernel's own; *faces* by number."""
        count = self.found.Extent()
        curve, frame, smooth = np.full(count, int(Curve.OTHER)), np.zeros((count, 3, 3)), np.zeros(count, bool)
        kernel = []
        for row in range(count):
            edge = TopoDS.Edge_s(self.found.FindKey(row + 1))
            kernel.append(edge)
            # what cutting leaves of a seam still has that from before, with a face that is gone
            own = [faces[number] for number in self.faces[row]]
            smooth[row] = len(own) == 2 and BRep_Tool.Continuity_s(edge, *own).value >= GeomAbs_G1.value
            if BRep_Tool.Degenerated_s(edge):
                continue
            curve[row], frame[row] = frame_of(BRepAdaptor_Curve(edge))
        return curve, frame, smooth, kernel


def _form(face: Any) -> tuple[Surface, Array]:
    """What a face is, and eight numbers: a point of the plane, the middle, or the tip of a cone; the axis; then the radius, the
    half angle of a cone, or the two radii of a torus."""
    adaptor = BRepAdaptor_Surface(face, False)
    kind, form = _SURFACES.get(adaptor.GetType(), Surface.OTHER), np.zeros(8)
    if kind is Surface.OTHER:
        return kind, form
    read = {
        Surface.PLANE: adaptor.Plane, Surface.CYLINDER: adaptor.Cylinder, Surface.CONE: adaptor.Cone,
        Surface.SPHERE: adaptor.Sphere, Surface.TORUS: adaptor.Torus,
    }[kind]()  # fmt: skip
    position = read.Position()
    form[:3] = xyz(read.Apex() if kind is Surface.CONE else position.Location())
    form[3:6] = xyz(position.Direction())
    if kind in (Surface.CYLINDER, Surface.SPHERE):
        form[6] = read.Radius()
    elif kind is Surface.CONE:
        form[6] = read.SemiAngle()
    elif kind is Surface.TORUS:
        form[6:] = read.MajorRadius(), read.MinorRadius()
    return kind, form


def _numbers_in(shape: Any, found: Any) -> list[int]:
    """The numbers of a shape's faces among those *found*, from 0."""
    own = TopTools_IndexedMapOfShape()
    TopExp.MapShapes_s(shape, TopAbs_FACE, own)
    return [found.FindIndex(own.FindKey(n)) - 1 for n in range(1, own.Extent() + 1)]


def _closed_faces(shape: Any, faces: list[Any]) -> tuple[Flags, list[list[int]]]:
    """Which faces bound one closed shell, and the bodies: the faces of each solid, and of each closed shell beside them.

    A face that two shells share is within: it is seen from both sides, as one that bounds none.
    """
    found = TopTools_IndexedMapOfShape()
    for face in faces:
        found.Add(face)
    times = np.zeros(len(faces), np.int64)
    shells = [_numbers_in(s, found) for s in sub_shapes(shape, TopAbs_SHELL) if BRep_Tool.IsClosed_s(s)]
    for numbers in shells:
        times[numbers] += 1
    closed = times == 1
    bodies = [_numbers_in(solid, found) for solid in sub_shapes(shape, TopAbs_SOLID)]
    inside = np.zeros(len(faces), bool)
    for numbers in bodies:
        inside[numbers] = True
    bodies += [numbers for numbers in shells if not inside[numbers].any()]
    return closed, bodies


def _inside_out(bodies: list[list[int]], closed: Flags, points: Array, triangles: Ints, face: Ints) -> Flags:
    """The faces of bodies whose way out is the way in: what they enclose is less than nothing."""
    turned = np.zeros(len(closed), bool)
    if not len(triangles):
        return turned
    a, b, c = (points[triangles[:, k]] - points[triangles].mean(axis=(0, 1)) for k in range(3))
    share = (np.cross(a, b) * c).sum(axis=1)
    volume = np.bincount(face, share, minlength=len(closed))
    for numbers in bodies:
        if closed[numbers].all() and volume[numbers].sum() < 0:
            turned[numbers] = True
    return turned


def is_closed(shape: Any) -> bool:
    """Whether every face of a shape bounds a closed shell."""
    return bool(_closed_faces(shape, [TopoDS.Face_s(f) for f in sub_shapes(shape, TopAbs_FACE)])[0].all())


def _beside(sides: Ints, count: int) -> Ints:
    """The triangles at both sides of each chord, (count, 2)."""
    beside = np.full((count, 2), -1)
    rows, _ = np.nonzero(sides >= 0)
    chords = sides[sides >= 0]
    order = np.argsort(chords, kind="stable")
    chords, rows = chords[order], rows[order]
    first = np.concatenate(([True], chords[1:] != chords[:-1])) if len(chords) else np.zeros(0, bool)
    beside[chords[first], 0] = rows[first]
    second = np.flatnonzero(~first)
    beside[chords[second], 1] = rows[second]
    return beside


def facets_of(shape: Any, chord: float, turn: float) -> Facets:
    """A shape with faces as :class:`Facets`.

    :param chord: largest distance of a triangle from its face, mm. :param turn: largest turn between neighbours, radians.
    """
    BRepTools.Clean_s(shape)  # triangles that something else left are finer or coarser
    BRepMesh_IncrementalMesh(shape, chord, False, turn, True)
    faces = [TopoDS.Face_s(f) for f in sub_shapes(shape, TopAbs_FACE)]
    edges = _Edges(shape)
    points, normals, uv, triangles, face_of, sides = [], [], [], [], [], []
    surface, form = np.full(len(faces), int(Surface.OTHER)), np.zeros((len(faces), 8))
    base, whole = 0, True
    for number, face in enumerate(faces):
        surface[number], form[number] = _form(face)
        location = TopLoc_Location()
        triangulation = BRep_Tool.Triangulation_s(face, location)
        if triangulation is None:
            whole = False
            continue
        own, out, place, corners = _nodes_of(triangulation, face, location)
        if face.Orientation() == TopAbs_REVERSED:
            corners = corners[:, ::-1]
        if len(corners):
            # normals agree with the triangles, whichever way the kernel gives them
            a, b, c = (own[corners[:, k]] for k in range(3))
            flat = np.cross(b - a, c - a)
            if float((flat * out[corners[:, 0]]).sum()) < 0:
                out = -out
        chords = edges.meet(face, number, triangulation, location, own, out)
        after = np.roll(corners, -1, axis=1)
        key = (np.minimum(corners, after) << 32) + np.maximum(corners, after)
        sides.append(np.array([chords.get(k, -1) for k in key.ravel().tolist()], np.int64).reshape(-1, 3))
        points.append(own)
        normals.append(out)
        uv.append(place)
        triangles.append(corners + base)
        face_of.append(np.full(len(corners), number))
        base += len(own)
    curve, frame, smooth, kernel = edges.kinds(faces)
    whole = whole and edges.whole
    side = np.concatenate([np.empty((0, 3), np.int64), *sides])
    # chords of an edge one after the other, edges in their order
    owner = np.concatenate([np.empty(0, np.int64), *edges.edge])
    order = np.argsort(owner, kind="stable")
    place = np.concatenate((np.argsort(order), [-1]))
    side = place[side]
    all_points = np.concatenate([np.empty((0, 3)), *points])
    all_normals = np.concatenate([np.empty((0, 3)), *normals])
    all_triangles = np.concatenate([np.empty((0, 3), np.int64), *triangles])
    face_of_all = np.concatenate([np.empty(0, np.int64), *face_of])
    closed, bodies = _closed_faces(shape, faces)
    turned = _inside_out(bodies, closed, all_points, all_triangles, face_of_all)[face_of_all]
    if turned.any():
        all_normals[np.unique(all_triangles[turned])] *= -1
        all_triangles[turned] = all_triangles[turned][:, ::-1]
        side[turned] = side[turned][:, [1, 0, 2]]
    return Facets(
        points=all_points, normals=all_normals, uv=np.concatenate([np.empty((0, 2)), *uv]), triangles=all_triangles,
        face=face_of_all, sides=side, surface=surface, form=form, closed=closed,
        ends=np.concatenate([np.empty((0, 2, 3)), *edges.ends])[order],
        across=np.concatenate([np.empty((0, 2, 3)), *edges.across])[order],
        params=np.concatenate([np.empty((0, 2)), *edges.params])[order], edge=owner[order],
        beside=_beside(side, edges.total), curve=curve, frame=frame, smooth=smooth, seam=edges.seam, kernel=kernel,
        kernel_faces=faces, chord=chord, bodies=bodies, whole=whole,
    )  # fmt: skip
