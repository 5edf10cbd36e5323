"""Exact extents of kernel shapes, quickly: edges first, then only the faces that could reach further."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.Bnd import Bnd_Box
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepBndLib import BRepBndLib
from OCP.GeomAbs import (
    GeomAbs_Circle,
    GeomAbs_Cone,
    GeomAbs_Cylinder,
    GeomAbs_Ellipse,
    GeomAbs_Line,
    GeomAbs_Plane,
    GeomAbs_SurfaceOfExtrusion,
)
from OCP.TopAbs import TopAbs_FACE
from OCP.TopoDS import TopoDS

from skalto.core.models.kernel import edges, sub_shapes

Array = NDArray[np.float64]
_RULED = (GeomAbs_Plane, GeomAbs_Cylinder, GeomAbs_Cone, GeomAbs_SurfaceOfExtrusion)
"""Straight lines run through every point of these up to their edges, so that their edges reach as far as they do."""
TAU = 2 * np.pi


def xyz(p: Any) -> tuple[float, float, float]:
    """The coordinates of a kernel point, vector or direction."""
    return p.X(), p.Y(), p.Z()


def _conic_reach(centre: Array, a: Array, b: Array, first: float, last: float) -> Array:
    """Points (k, 3) of c + a·cos t + b·sin t, t in [first, last], that hold every coordinate's extremes."""
    peaks = np.arctan2(b, a)
    t = np.concatenate((peaks, peaks + np.pi))
    t = first + np.mod(t - first, TAU)
    t = np.concatenate((t[t <= last], (first, last)))
    result: Array = centre + np.cos(t)[:, None] * a + np.sin(t)[:, None] * b
    return result


def _edge_points(edge: Any) -> Array | None:
    """Points (k, 3) that reach as far as the edge does; None when only the kernel can tell."""
    curve = BRepAdaptor_Curve(edge)
    kind, first, last = curve.GetType(), curve.FirstParameter(), curve.LastParameter()
    if kind == GeomAbs_Line:
        return np.array((xyz(curve.Value(first)), xyz(curve.Value(last))))
    if kind in (GeomAbs_Circle, GeomAbs_Ellipse):
        conic = curve.Circle() if kind == GeomAbs_Circle else curve.Ellipse()
        major, minor = (
            (conic.Radius(), conic.Radius()) if kind == GeomAbs_Circle else (conic.MajorRadius(), conic.MinorRadius())
        )
        x, y = (np.array(xyz(axis.Direction())) for axis in (conic.XAxis(), conic.YAxis()))
        return _conic_reach(np.array(xyz(conic.Location())), major * x, minor * y, first, last)
    return None


def _box(shape: Any, optimal: bool) -> tuple[Array, Array] | None:
    box = Bnd_Box()
    box.SetGap(0.0)
    if optimal:
        BRepBndLib.AddOptimal_s(shape, box, False, False)
    else:
        BRepBndLib.Add_s(shape, box, False)
    if box.IsVoid():
        return None
    return np.array(xyz(box.CornerMin())), np.array(xyz(box.CornerMax()))


def extents(shape: Any, tolerance: float = 1e-6) -> tuple[Array, Array] | None:
    """Lowest and highest corner (3,) mm of the geometry itself, to about *tolerance*; None for a shape of nothing."""
    low, high = np.full(3, np.inf), np.full(3, -np.inf)
    slow: list[Any] = []
    for edge in edges(shape):
        edge = TopoDS.Edge_s(edge)
        points = _edge_points(edge)
        if points is None:
            slow.append(edge)
            continue
        low, high = np.minimum(low, points.min(axis=0)), np.maximum(high, points.max(axis=0))
    for face in sub_shapes(shape, TopAbs_FACE):
        face = TopoDS.Face_s(face)
        if BRepAdaptor_Surface(face, False).GetType() not in _RULED:
            slow.append(face)
    for piece in slow:
        loose = _box(piece, optimal=False)
        if loose is None or (np.all(loose[0] >= low - tolerance) and np.all(loose[1] <= high + tolerance)):
            continue
        tight = _box(piece, optimal=True)
        if tight is not None:
            # the kernel widens its box by its confusion tolerance
            low, high = np.minimum(low, tight[0] + 1e-7), np.maximum(high, tight[1] - 1e-7)
    return (low, high) if np.all(np.isfinite(low)) else None
