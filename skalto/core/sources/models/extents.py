"""Exact extents of kernel shapes, quickly: edges first, then only the faces that could reach further."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from OCP.Bnd import Bnd_Box
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepClass import BRepClass_FaceClassifier
from OCP.GeomAbs import (
    GeomAbs_Circle,
    GeomAbs_Cone,
    GeomAbs_Cylinder,
    GeomAbs_Ellipse,
    GeomAbs_Line,
    GeomAbs_Plane,
    GeomAbs_Sphere,
    GeomAbs_SurfaceOfExtrusion,
    GeomAbs_Torus,
)
from OCP.gp import gp_Pnt, gp_Pnt2d, gp_Vec
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_OUT, TopAbs_VERTEX
from OCP.TopoDS import TopoDS

from skalto.core.geometry import TAU, Array
from skalto.core.sources.models.kernel import edges, sub_shapes

_RULED = (GeomAbs_Plane, GeomAbs_Cylinder, GeomAbs_Cone, GeomAbs_SurfaceOfExtrusion)
"""Straight lines run through every point of these up to their edges, so that their edges reach as far as they do."""


def xyz(p: Any) -> tuple[float, float, float]:
    """The coordinates of a kernel point, vector or direction."""
    return p.X(), p.Y(), p.Z()


class _Reach:
    """The lowest and highest coordinates so far; plain numbers, since arrays of three cost more than they save."""

    def __init__(self) -> None:
        self.low = [math.inf] * 3
        self.high = [-math.inf] * 3

    def point(self, p: Any) -> None:
        for i, value in enumerate((p.X(), p.Y(), p.Z())):
            if value < self.low[i]:
                self.low[i] = value
            if value > self.high[i]:
                self.high[i] = value

    def conic(self, conic: Any, major: float, minor: float, first: float, last: float) -> None:
        """An arc c + major·x·cos t + minor·y·sin t, t in [first, last], beside its ends: where a coordinate turns back."""
        position = conic.Position()
        centre, x, y = (xyz(v) for v in (position.Location(), position.XDirection(), position.YDirection()))
        for i in range(3):
            a, b = major * x[i], minor * y[i]
            reach = math.hypot(a, b)
            peak = math.atan2(b, a)
            if first + (peak - first) % TAU <= last:
                self.high[i] = max(self.high[i], centre[i] + reach)
            if first + (peak + math.pi - first) % TAU <= last:
                self.low[i] = min(self.low[i], centre[i] - reach)

    def box(self, low: Array, high: Array) -> None:
        self.low = [min(a, float(b)) for a, b in zip(self.low, low, strict=True)]
        self.high = [max(a, float(b)) for a, b in zip(self.high, high, strict=True)]

    def holds(self, low: Array, high: Array, tolerance: float) -> bool:
        """Whether a box lies within what has been reached."""
        return all(a <= b + tolerance for a, b in zip(self.low, low, strict=True)) and all(
            a >= b - tolerance for a, b in zip(self.high, high, strict=True)
        )

    def edge(self, edge: Any) -> bool:
        """Take in an edge beside its ends; False when only the kernel can tell how far it reaches."""
        curve = BRepAdaptor_Curve(edge)
        kind = curve.GetType()
        if kind == GeomAbs_Line:
            return True
        if kind == GeomAbs_Circle:
            circle = curve.Circle()
            radius = circle.Radius()
            self.conic(circle, radius, radius, curve.FirstParameter(), curve.LastParameter())
            return True
        if kind == GeomAbs_Ellipse:
            ellipse = curve.Ellipse()
            self.conic(ellipse, ellipse.MajorRadius(), ellipse.MinorRadius(), curve.FirstParameter(), curve.LastParameter())
            return True
        return False


_TURNS = 48
"""Places along a spline edge at which it is looked at first; between two it does not turn back twice in a sound model."""


def _spline_reach(edge: Any) -> tuple[Array, Array]:
    """Lowest and highest corner of a free-form edge: coarse samples, then bisection of the slope beside the extreme ones."""
    curve = BRepAdaptor_Curve(edge)
    t = np.linspace(curve.FirstParameter(), curve.LastParameter(), _TURNS + 1)
    points = np.array([xyz(curve.Value(value)) for value in t.tolist()])
    low, high = points.min(axis=0), points.max(axis=0)
    p, v = gp_Pnt(), gp_Vec()
    for axis in range(3):
        for extreme, sign in ((int(points[:, axis].argmin()), 1.0), (int(points[:, axis].argmax()), -1.0)):
            a, b = float(t[max(extreme - 1, 0)]), float(t[min(extreme + 1, _TURNS)])
            for _ in range(40):
                middle = (a + b) / 2
                curve.D1(middle, p, v)
                if sign * xyz(v)[axis] < 0:
                    a = middle
                else:
                    b = middle
            value = xyz(curve.Value((a + b) / 2))[axis]
            low[axis], high[axis] = min(low[axis], value), max(high[axis], value)
    return low, high


def _face_peaks(face: Any) -> Array | None:
    """Points (k, 3) of a spherical or toroidal face at which it is square to an axis; None for other faces.

    Together with its edges they reach as far as the face does: inside a smooth face a coordinate is extreme only there.
    """
    surface = BRepAdaptor_Surface(face)
    kind = surface.GetType()
    if kind == GeomAbs_Sphere:
        ball = surface.Sphere()
        position, ring, radius = ball.Position(), 0.0, ball.Radius()
    elif kind == GeomAbs_Torus:
        torus = surface.Torus()
        position, ring, radius = torus.Position(), torus.MajorRadius(), torus.MinorRadius()
        if radius > ring:
            return None
    else:
        return None
    x, y, z = (np.array(xyz(d)) for d in (position.XDirection(), position.YDirection(), position.Direction()))
    centre = np.array(xyz(position.Location()))
    u_range = surface.FirstUParameter(), surface.LastUParameter()
    v_range = surface.FirstVParameter(), surface.LastVParameter()
    found = []
    for axis in np.eye(3):
        flat, up = math.hypot(axis @ x, axis @ y), float(axis @ z)
        if flat < 1e-12:
            turns: tuple[float, ...] = ((u_range[0] + u_range[1]) / 2,)  # a whole circle is as high
        else:
            turn = math.atan2(axis @ y, axis @ x)
            turns = (turn, turn + math.pi)
        for number, u in enumerate(turns):
            out = flat if number == 0 else -flat
            for v in (math.atan2(up, out), math.atan2(-up, -out)):
                inside = [_within(u, *u_range), _within(v, *v_range)]
                if None in inside or BRepClass_FaceClassifier(face, gp_Pnt2d(*inside), 1e-7).State() == TopAbs_OUT:
                    continue
                around = math.cos(u) * x + math.sin(u) * y
                found.append(centre + (ring + radius * math.cos(v)) * around + radius * math.sin(v) * z)
    return np.array(found).reshape(-1, 3)


def _within(angle: float, first: float, last: float) -> float | None:
    """The angle, turned by whole turns into a range; None when it is not in it."""
    angle = first + (angle - first) % TAU
    return angle if angle <= last else None


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
    reach = _Reach()
    for vertex in sub_shapes(shape, TopAbs_VERTEX):
        reach.point(BRep_Tool.Pnt_s(TopoDS.Vertex_s(vertex)))
    slow = [edge for edge in map(TopoDS.Edge_s, edges(shape)) if not reach.edge(edge)]
    for face in map(TopoDS.Face_s, sub_shapes(shape, TopAbs_FACE)):
        if BRepAdaptor_Surface(face, False).GetType() in _RULED:
            continue
        peaks = _face_peaks(face)
        if peaks is None:
            slow.append(face)
        elif len(peaks):
            reach.box(peaks.min(axis=0), peaks.max(axis=0))
    for piece in slow:
        loose = _box(piece, optimal=False)
        if loose is None or reach.holds(*loose, tolerance):
            continue
        if piece.ShapeType() == TopAbs_EDGE:
            reach.box(*_spline_reach(piece))
            continue
        tight = _box(piece, optimal=True)
        if tight is not None:
            # the kernel widens its box by its confusion tolerance
            reach.box(tight[0] + 1e-7, tight[1] - 1e-7)
    return (np.array(reach.low), np.array(reach.high)) if math.isfinite(reach.low[0]) else None
