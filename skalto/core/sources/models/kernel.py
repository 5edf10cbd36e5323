"""The geometry kernel's small change: silence, boxes, volumes, binary shapes."""

from __future__ import annotations

import hashlib
import io
import math
from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np
from OCP.BinTools import BinTools
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepBuilderAPI import BRepBuilderAPI_NurbsConvert, BRepBuilderAPI_Transform
from OCP.BRepGProp import BRepGProp
from OCP.BRepLib import BRepLib
from OCP.GeomAbs import GeomAbs_Circle, GeomAbs_Cone, GeomAbs_Line
from OCP.gp import gp_Trsf, gp_Vec
from OCP.GProp import GProp_GProps
from OCP.Message import Message
from OCP.ShapeUpgrade import ShapeUpgrade_ShapeDivideClosedEdges
from OCP.TopAbs import TopAbs_COMPOUND, TopAbs_EDGE, TopAbs_FACE, TopAbs_ShapeEnum, TopAbs_SOLID
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS, TopoDS_Compound, TopoDS_Iterator, TopoDS_Shape
from OCP.TopTools import TopTools_IndexedMapOfShape

from skalto.core.geometry import Array

Message.DefaultMessenger_s().ChangePrinters().Clear()  # its chatter would mix into standard output


def sub_shapes(shape: Any, kind: TopAbs_ShapeEnum) -> list[Any]:
    """The distinct sub-shapes of a kind, in the kernel's order (which a binary round trip keeps)."""
    found = TopTools_IndexedMapOfShape()
    TopExp.MapShapes_s(shape, kind, found)
    return [found.FindKey(i) for i in range(1, found.Size() + 1)]


def count(shape: Any, kind: TopAbs_ShapeEnum) -> int:
    """How many distinct sub-shapes of a kind there are."""
    found = TopTools_IndexedMapOfShape()
    TopExp.MapShapes_s(shape, kind, found)
    return int(found.Size())


def solids(shape: Any) -> int:
    return count(shape, TopAbs_SOLID)


def faces(shape: Any) -> int:
    return count(shape, TopAbs_FACE)


def edges(shape: Any) -> list[Any]:
    return sub_shapes(shape, TopAbs_EDGE)


def signed_volume(shape: Any) -> float:
    """The volume of a shape, mm³, less than 0 where its faces look inward.

    The kernel's integral over a face whose border closes in one free-form edge is off by up to 1e-4 of the volume (measured: a
    plate with such an opening); of the same border in pieces it is not.
    """
    if any(_closes_in_one(edge) for edge in edges(shape)):
        divided = ShapeUpgrade_ShapeDivideClosedEdges(shape)
        divided.SetNbSplitPoints(3)
        if divided.Perform():
            shape = divided.Result()
    found = GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, found)
    return float(found.Mass())


def _closes_in_one(edge: Any) -> bool:
    """Whether an edge closes by itself and is no circle."""
    own = TopoDS.Edge_s(edge)
    if BRep_Tool.Degenerated_s(own) or not BRep_Tool.IsClosed_s(edge):
        return False
    return BRepAdaptor_Curve(own).GetType() not in (GeomAbs_Line, GeomAbs_Circle)


def fingerprint(shape: Any) -> tuple[float, ...]:
    """Numbers that two shapes share when one can be moved onto the other: volume, area, principal moments, how far its faces
    are from one another, and a number that changes its sign when a shape is mirrored; mm³, mm², mm⁵, mm.

    All come from exact integrals over volume and faces, so that neither place nor seams matter. Moments alone do not tell a
    hole in a square plate from the same hole turned about the middle; distances do.
    """
    if not solids(shape):
        return ()
    whole = GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, whole)
    centre = whole.CentreOfMass()
    moments = sorted(whole.PrincipalProperties().Moments())
    areas, places = [], []
    for face in sub_shapes(shape, TopAbs_FACE):
        own = GProp_GProps()
        BRepGProp.SurfaceProperties_s(face, own)
        middle = own.CentreOfMass()
        areas.append(own.Mass())
        places.append((middle.X() - centre.X(), middle.Y() - centre.Y(), middle.Z() - centre.Z()))
    area, place = np.array(areas), np.array(places)
    apart, hand = _apart_and_hand(place)
    return float(whole.Mass()), float(area.sum()), *(float(m) for m in moments), apart, hand


_ROWS = 256


def _apart_and_hand(place: Array) -> tuple[float, float]:
    """How far faces are from one another on the average, mm, and their hand, by their middles (n, 3) about the centre of mass;
    a small hole counts as much as a large side.

    Each face sees the others in two ways, by how far they are and by how near: the triple product of both and of its own place
    is what a mirror turns round; faces on both sides of a mirror plane cancel out.
    """
    count, reach = len(place), float(np.sqrt((place**2).sum(axis=1).mean()))
    apart = turned = size = 0.0
    for begin in range(0, count, _ROWS):
        own = place[begin : begin + _ROWS]
        beside = place[None] - own[:, None]
        distance = np.linalg.norm(beside, axis=2)
        apart += float(distance.sum())
        far = np.einsum("ij,ijk->ik", distance, beside)
        near = np.einsum("ij,ijk->ik", 1 / (1 + (distance / max(reach, 1e-9)) ** 2), beside)
        turned += float((np.cross(far, near) * own).sum())
        size += float((np.linalg.norm(far, axis=1) * np.linalg.norm(near, axis=1)).sum() * reach)
    return apart / count**2, turned / size if size > 1e-9 else 0.0


def content_name(shape: Any) -> str:
    """A short name for a shape as it is in its own axes, to 10 nm: another one for whatever was changed of it. The same shape
    written by another program in another order has the same."""
    rows: list[tuple[float, ...]] = []
    for kind, mode in ((TopAbs_FACE, BRepGProp.SurfaceProperties_s), (TopAbs_EDGE, BRepGProp.LinearProperties_s)):
        for own in sub_shapes(shape, kind):
            measured = GProp_GProps()
            mode(own, measured)
            middle = measured.CentreOfMass()
            rows.append((middle.X(), middle.Y(), middle.Z(), measured.Mass()))
    # half a step aside: models are full of whole numbers, which must not lie where rounding turns
    steps = np.floor(np.array(rows).reshape(-1, 4) * 1e5 + 0.3137).astype(np.int64)
    return hashlib.sha256(steps[np.lexsort(steps.T)].tobytes()).hexdigest()[:32]


def transform(matrix: Array) -> gp_Trsf:
    """The kernel's transformation of a 4 × 4 placement (rotation, mirroring, one scale, translation)."""
    result = gp_Trsf()
    result.SetValues(*(float(v) for v in matrix[:3].ravel()))
    return result


def free_edges(shape: Any) -> list[Any]:
    """The edges that bound no face: loose curves and wires."""
    found = TopTools_IndexedMapOfShape()
    explorer = TopExp_Explorer(shape, TopAbs_EDGE, TopAbs_FACE)
    while explorer.More():
        found.Add(explorer.Current())
        explorer.Next()
    return [found.FindKey(i) for i in range(1, found.Size() + 1)]


def matrix_of(location: TopLoc_Location) -> Array:
    """The 4 × 4 matrix of a location."""
    t = location.Transformation()
    result = np.eye(4)
    result[:3] = [[t.Value(i, j) for j in range(1, 5)] for i in range(1, 4)]
    return result


def placed(shape: Any, matrix: Array) -> Any:
    """The shape at a placement; its geometry is shared, not copied."""
    if np.array_equal(matrix, np.eye(4)):
        return shape
    return shape.Moved(TopLoc_Location(transform(matrix)), False)


def scaled(shape: Any, factor: float) -> Any:
    """The shape grown about its own origin, its geometry anew."""
    by = gp_Trsf()
    by.SetScaleFactor(factor)
    return BRepBuilderAPI_Transform(shape, by, True).Shape()


def baked(shape: Any, by: Array) -> Any:
    """The shape moved by (3,) mm, its geometry anew: no placement is left that carries the distance."""
    move = gp_Trsf()
    move.SetTranslation(gp_Vec(*by.tolist()))
    return BRepBuilderAPI_Transform(shape, move, True).Shape()


def unscaled(shape: Any) -> Any:
    """The same shape where none of its placements scales: some writers leave scales in them, which the kernel's algorithms do
    not expect."""

    def clean(at: Any) -> bool:
        factor = at.Location().Transformation().ScaleFactor() if not at.Location().IsIdentity() else 1.0
        return abs(abs(factor) - 1) < 1e-12 and all(clean(child) for child in children(at))

    if clean(shape):
        return shape
    if shape.ShapeType() != TopAbs_COMPOUND:
        location = shape.Location()
        plain = shape.Located(TopLoc_Location(), False)
        return BRepBuilderAPI_Transform(plain, location.Transformation(), True).Shape()
    builder, made = BRep_Builder(), TopoDS_Compound()
    builder.MakeCompound(made)
    for child in children(shape):
        builder.Add(made, unscaled(child))
    return made


def mark_smooth_edges(shape: Any) -> None:
    """Record which edges their two faces meet at smoothly, so that they are told from sharp ones."""
    BRepLib.EncodeRegularity_s(shape, 1e-4)


def has_inverted_cone(shape: Any) -> bool:
    """Whether a conical face lies beyond its apex (a negative radius, as some STEP files have it)."""
    for face in sub_shapes(shape, TopAbs_FACE):
        surface = BRepAdaptor_Surface(TopoDS.Face_s(face))
        if surface.GetType() != GeomAbs_Cone:
            continue
        cone = surface.Cone()
        slope, radius = math.sin(cone.SemiAngle()), cone.RefRadius()
        if min(radius + v * slope for v in (surface.FirstVParameter(), surface.LastVParameter())) < -1e-7:
            return True
    return False


def as_splines(shape: Any) -> Any:
    """The same shape with every surface and curve as B-splines, exactly (conics are rational)."""
    return BRepBuilderAPI_NurbsConvert(shape, True).Shape()


def compound(shapes: Sequence[Any]) -> Any:
    """Shapes as one, in order."""
    builder, made = BRep_Builder(), TopoDS_Compound()
    builder.MakeCompound(made)
    for shape in shapes:
        builder.Add(made, shape)
    return made


def to_bytes(shapes: Sequence[Any]) -> bytes:
    """Shapes as one binary block, in order."""
    out = io.BytesIO()
    BinTools.Write_s(compound(shapes), out)
    return out.getvalue()


def children(shape: Any) -> Iterator[Any]:
    """What a shape is directly made of, placed."""
    it = TopoDS_Iterator(shape)
    while it.More():
        yield it.Value()
        it.Next()


def from_bytes(data: bytes) -> list[Any]:
    """What :func:`to_bytes` wrote."""
    shape = TopoDS_Shape()
    BinTools.Read_s(shape, io.BytesIO(data))
    return list(children(shape))
