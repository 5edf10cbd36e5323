"""Exact hidden-line removal by the kernel, read from its data structure.

The kernel's own result comes back as approximated curves. Its data keep, for every edge of every face, the parameter
intervals that are seen and those that are not: the original curve is projected over those.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.GeomAbs import GeomAbs_BSplineCurve
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt, gp_Pnt2d, gp_Vec
from OCP.HLRAlgo import HLRAlgo_EdgeIterator, HLRAlgo_Projector
from OCP.HLRBRep import HLRBRep_Algo, HLRBRep_FaceIterator
from OCP.TopAbs import TopAbs_FACE
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS, TopoDS_Compound
from OCP.TopTools import TopTools_IndexedMapOfShape

from skalto.core.artwork import EdgeClass
from skalto.core.errors import InputError
from skalto.core.geometry import Array
from skalto.core.projection.edges import ProjectedEdge
from skalto.core.projection.silhouettes import Silhouette
from skalto.core.projection.strokes import ORDER, Strokes

_RANK = {edge_class: rank for rank, edge_class in enumerate(ORDER)}
Intervals = list[tuple[float, float]]


def solve(shapes: Sequence[Any], axes: Array) -> Any:
    """Run the kernel's exact algorithm on placed shapes; *axes* are the rows right, up, toward the viewer.

    They go in as one compound: given one by one, the kernel hides each by each other and every time works out anew where
    a shape's own edges cross, which takes up to three times as long.
    """
    algorithm, builder, together = HLRBRep_Algo(), BRep_Builder(), TopoDS_Compound()
    builder.MakeCompound(together)
    for shape in shapes:
        builder.Add(together, shape)
    algorithm.Add(together, 0)
    frame = gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(*axes[2].tolist()), gp_Dir(*axes[0].tolist()))
    algorithm.Projector(HLRAlgo_Projector(frame))
    algorithm.Update()
    algorithm.Hide()
    return algorithm


def _owners(shapes: Sequence[Any], roles: _Roles, faces: int, edges: int) -> list[int]:
    """For each edge (1-based) the number of the shape that it came with: the kernel numbers faces shape by shape."""
    of_face, found = [0], TopTools_IndexedMapOfShape()
    for number, shape in enumerate(shapes):
        TopExp.MapShapes_s(shape, TopAbs_FACE, found)
        # what lies twice in the same place counts once
        of_face += [number] * (found.Extent() + 1 - len(of_face))
    if len(of_face) != faces + 1:
        raise InputError("The kernel finds no lines in this model: it counts other faces than there are; export it again.")
    owner = [0] * (edges + 1)
    for edge, beside in roles.faces_of.items():
        owner[edge] = of_face[beside[0]]
    return owner


class _Roles:
    """What the faces say of the edges: contours of a face, seams, and whose contour it is."""

    def __init__(self, data: Any) -> None:
        self.contour_of: dict[int, int] = {}
        self.seams: set[int] = set()
        self.faces_of: dict[int, list[int]] = {}
        iterator, faces = HLRBRep_FaceIterator(), data.FDataArray()
        for number in range(1, data.NbFaces() + 1):
            iterator.InitEdge(faces.Value(number))
            while iterator.MoreEdge():
                edge = iterator.Edge()
                if iterator.Internal():
                    self.contour_of[edge] = number
                if iterator.Double():
                    self.seams.add(edge)
                self.faces_of.setdefault(edge, []).append(number)
                iterator.NextEdge()


def _intervals(status: Any) -> tuple[Intervals, Intervals]:
    iterator = HLRAlgo_EdgeIterator()
    seen: Intervals = []
    unseen: Intervals = []
    iterator.InitVisible(status)
    while iterator.MoreVisible():
        seen.append(iterator.Visible(0.0, 0.0))
        iterator.NextVisible()
    iterator.InitHidden(status)
    while iterator.MoreHidden():
        unseen.append(iterator.Hidden(0.0, 0.0))
        iterator.NextHidden()
    return seen, unseen


def _is_edge_on(edge: Any, face: Any, look: Array) -> bool:
    """Whether a face is seen edge-on all along one of its edges, so that the edge is part of the outline."""
    try:
        first, last = 0.0, 0.0
        curve = BRep_Tool.CurveOnSurface_s(edge, face, first, last)
        surface = BRep_Tool.Surface_s(face)
        if curve is None or surface is None:
            return False
        adaptor = BRepAdaptor_Curve(edge)
        first, last = adaptor.FirstParameter(), adaptor.LastParameter()
        for fraction in (0.25, 0.7):
            uv: gp_Pnt2d = curve.Value(first + fraction * (last - first))
            p, du, dv = gp_Pnt(), gp_Vec(), gp_Vec()
            surface.D1(uv.X(), uv.Y(), p, du, dv)
            normal = du.Crossed(dv)
            if normal.Magnitude() < 1e-12:
                return False
            if abs(normal.X() * look[0] + normal.Y() * look[1] + normal.Z() * look[2]) > 1e-6 * normal.Magnitude():
                return False
    except (RuntimeError, TypeError):
        return False
    return True


def strokes_of(bodies: Sequence[tuple[int, Any]], axes: Array, tolerance: float) -> Strokes:
    """All edges of placed kernel shapes by class, seen and unseen, in the view's plane.

    :param bodies: shapes with faces, each with the number of its component. :param axes: rows right, up, toward the viewer,
    (3, 3). :param tolerance: mm in the model, for what is fitted.
    """
    strokes = Strokes()
    if not bodies:
        return strokes
    shapes = [shape for _, shape in bodies]
    algorithm = solve(shapes, axes)
    data = algorithm.DataStructure()
    edge_map, edge_data = data.EdgeMap(), data.EDataArray()
    face_map = data.FaceMap()
    roles = _Roles(data)
    owners = [bodies[n][0] for n in _owners(shapes, roles, data.NbFaces(), data.NbEdges())]
    look = -axes[2]
    for number in range(1, data.NbEdges() + 1):
        if number not in roles.faces_of:
            continue  # a free curve, which goes its own way
        facts = edge_data.Value(number)
        contour = roles.contour_of.get(number)
        smooth = facts.Rg1Line() or facts.RgNLine()
        edge = TopoDS.Edge_s(edge_map.FindKey(number))
        seen, unseen = _intervals(facts.Status())
        edge_class = EdgeClass.VISIBLE
        if contour is not None:
            edge_class = EdgeClass.OUTLINE
        elif smooth:
            # where two faces meet smoothly, one's normal along the edge is the other's
            beside = roles.faces_of.get(number)
            if beside and _is_edge_on(edge, TopoDS.Face_s(face_map.FindKey(beside[0])), look):
                edge_class = EdgeClass.OUTLINE
            elif number in roles.seams:
                continue  # where a closed face meets itself: nothing of the part
            else:
                edge_class = EdgeClass.SMOOTH
        _draw(strokes, edge, contour, face_map, axes, tolerance, _RANK[edge_class], owners[number], seen, unseen)
    strokes.fit(tolerance)
    return strokes


def _draw(
    strokes: Strokes,
    edge: Any,
    contour: int | None,
    face_map: Any,
    axes: Array,
    tolerance: float,
    rank: int,
    owner: int,
    seen: Intervals,
    unseen: Intervals,
) -> None:
    # an unseen smooth edge says nothing that a drafter would draw dashed
    hidden = [] if rank == _RANK[EdgeClass.SMOOTH] else unseen
    if not seen and not hidden:
        return
    drawing: Silhouette | ProjectedEdge | None = None
    if contour is not None and BRepAdaptor_Curve(edge).GetType() == GeomAbs_BSplineCurve:
        drawing = Silhouette(TopoDS.Face_s(face_map.FindKey(contour)), edge, axes, tolerance)
        drawing = drawing if drawing.usable else None
    drawing = drawing or ProjectedEdge(edge, axes)
    for intervals, tag in ((seen, (rank, owner)), (hidden, (_RANK[EdgeClass.HIDDEN], owner))):
        for first, last in intervals:
            if last - first > 1e-9 * max(1.0, abs(last)):
                drawing.draw(strokes, tag, first, last)
