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

from skalto.core.geometry import Array
from skalto.core.projection.splines import Spline, spline_of_edge, spline_of_face
from skalto.core.sources.models.extents import xyz
from skalto.core.sources.models.kernel import matrix_of, sub_shapes
from skalto.core.sources.models.triangulations import read_triangulations

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


class _Nodes:
    """The triangles of faces, one face after the other."""

    def __init__(self) -> None:
        self._given: list[Any] = []
        self._faces: list[tuple[int, int, bool]] = []
        self._placed: list[tuple[int, int, Array]] = []
        self.count = 0

    def add(self, number: int, face: Any, triangulation: Any, location: TopLoc_Location) -> None:
        """Those of the face with a *number*."""
        StdPrs_ToolTriangulatedShape.ComputeNormals_s(face, triangulation)
        count, base = triangulation.NbNodes(), self.count
        self._given.append(triangulation)
        turned = face.Orientation() == TopAbs_REVERSED
        if not location.IsIdentity():
            matrix = matrix_of(location)
            self._placed.append((base, base + count, matrix))
            turned ^= bool(np.linalg.det(matrix[:3, :3]) < 0)
        self._faces.append((number, triangulation.NbTriangles(), turned))
        self.count += count

    def all(self) -> tuple[Array, Array, Array, Ints, Ints]:
        """Points and normals (n, 3), parameters (n, 2), triangles (m, 3) and their faces (m,)."""
        # a face whose triangles are another's has that one's normals too: one side of it is turned below
        read = read_triangulations(self._given)
        points = np.concatenate([own.points for own in read]) if read else np.zeros((0, 3))
        normals = np.concatenate([own.normals for own in read]) if read else np.zeros((0, 3))
        uv = np.concatenate([own.uv for own in read]) if read else np.zeros((0, 2))
        for begin, end, matrix in self._placed:
            turn = matrix[:3, :3]
            points[begin:end] = points[begin:end] @ turn.T + matrix[:3, 3]
            normals[begin:end] = normals[begin:end] @ turn.T / np.cbrt(abs(np.linalg.det(turn)))
        bases = np.cumsum([0, *(len(own.points) for own in read)])[:-1].tolist()
        corners = [own.corners + base for own, base in zip(read, bases, strict=True)]
        triangles = np.concatenate(corners) if corners else np.zeros((0, 3), np.int64)
        table = np.array(self._faces, np.int64).reshape(-1, 3)
        face, turned = (np.repeat(table[:, k], table[:, 1]) for k in (0, 2))
        turned = turned.astype(bool)
        triangles[turned] = triangles[turned][:, ::-1]
        if len(triangles):
            # normals agree with the triangles, whichever way the kernel gives them
            a, b, c = (points[triangles[:, k]] for k in range(3))
            agree = (np.cross(b - a, c - a) * normals[triangles[:, 0]]).sum(axis=1)
            against = np.bincount(face, agree) < 0
            normals[np.unique(triangles[against[face]])] *= -1
        return points, normals, uv, triangles, face


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
        self._first_chord = [-1] * count
        self._nodes: list[int] = []
        self._params: list[float] = []
        self._uses: list[tuple[int, int, int, bool]] = []
        self.total, self.whole = 0, True
        self.faces: list[list[int]] = [[] for _ in range(count)]
        self.seam = np.zeros(count, bool)

    def meet(self, face: Any, number: int, triangulation: Any, location: TopLoc_Location, base: int) -> None:
        """The chords along the edges of a face, whose nodes count from *base* on."""
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
            if number in self.faces[row]:
                self.seam[row] = True
            self.faces[row].append(number)
            count, new = polygon.NbNodes(), self._first_chord[row] < 0
            self._nodes += [polygon.Node(n) + base - 1 for n in range(1, count + 1)]
            self._params += [polygon.Parameter(n) for n in range(1, count + 1)] if new else [0.0] * count
            if new:
                self._first_chord[row] = self.total
                self.total += count - 1
            self._uses.append((row, count, self._first_chord[row], new))

    def chords(self, points: Array, normals: Array, triangles: Ints) -> tuple[Array, Array, Array, Ints, Ints]:
        """Ends, the normals of one face there, parameters and edges of the chords; which lies at each side of triangles."""
        nodes, params = np.array(self._nodes, np.int64), np.array(self._params)
        uses = np.array(self._uses, np.int64).reshape(-1, 4)
        end = np.cumsum(uses[:, 1])
        within = np.ones(len(nodes), bool)
        within[end - 1] = False
        low = np.flatnonzero(within)
        use = np.searchsorted(end, low, side="right")
        chord = uses[use, 2] + low - (end - uses[:, 1])[use]
        key, (a, b) = _pair(nodes[low], nodes[low + 1]), (nodes[low], nodes[low + 1])
        order = np.argsort(key, kind="stable")
        asked = _pair(triangles, np.roll(triangles, -1, axis=1))
        place = np.searchsorted(key[order], asked, side="right") - 1
        at = order[np.maximum(place, 0)] if len(order) else np.zeros(place.shape, np.int64)
        sides = np.where((place >= 0) & (key[at] == asked), chord[at], -1) if len(order) else np.full(place.shape, -1)
        own = uses[use, 3] == 1
        a, b, low = a[own], b[own], low[own]
        return (
            np.stack((points[a], points[b]), axis=1), np.stack((normals[a], normals[b]), axis=1),
            np.stack((params[low], params[low + 1]), axis=1), uses[use[own], 0], sides,
        )  # fmt: skip

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


def _pair(a: Ints, b: Ints) -> Ints:
    """One number for two nodes, whichever comes first."""
    return (np.minimum(a, b) << 32) + np.maximum(a, b)


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
    nodes = _Nodes()
    surface, form = np.full(len(faces), int(Surface.OTHER)), np.zeros((len(faces), 8))
    whole = True
    for number, face in enumerate(faces):
        surface[number], form[number] = _form(face)
        location = TopLoc_Location()
        triangulation = BRep_Tool.Triangulation_s(face, location)
        if triangulation is None:
            whole = False
            continue
        edges.meet(face, number, triangulation, location, nodes.count)
        nodes.add(number, face, triangulation, location)
    curve, frame, smooth, kernel = edges.kinds(faces)
    whole = whole and edges.whole
    all_points, all_normals, uv, all_triangles, face_of_all = nodes.all()
    ends, across, params, owner, side = edges.chords(all_points, all_normals, all_triangles)
    # chords of an edge one after the other, edges in their order
    order = np.argsort(owner, kind="stable")
    side = np.concatenate((np.argsort(order), [-1]))[side]
    closed, bodies = _closed_faces(shape, faces)
    turned = _inside_out(bodies, closed, all_points, all_triangles, face_of_all)[face_of_all]
    if turned.any():
        all_normals[np.unique(all_triangles[turned])] *= -1
        all_triangles[turned] = all_triangles[turned][:, ::-1]
        side[turned] = side[turned][:, [1, 0, 2]]
    return Facets(
        points=all_points, normals=all_normals, uv=uv, triangles=all_triangles, face=face_of_all, sides=side,
        surface=surface, form=form, closed=closed, ends=ends[order], across=across[order], params=params[order],
        edge=owner[order], beside=_beside(side, edges.total), curve=curve, frame=frame, smooth=smooth, seam=edges.seam,
        kernel=kernel, kernel_faces=faces, chord=chord, bodies=bodies, whole=whole,
    )  # fmt: skip
