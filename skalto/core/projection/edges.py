"""One kernel edge, projected: the original curve over an interval, as lines, conics and Béziers."""

from __future__ import annotations

from typing import Any

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.GeomAbs import GeomAbs_BezierCurve, GeomAbs_BSplineCurve, GeomAbs_Circle, GeomAbs_Ellipse, GeomAbs_Line
from OCP.gp import gp_Pnt, gp_Vec
from scipy.interpolate import BSpline

from skalto.core.artwork import Array
from skalto.core.curves import circle_through
from skalto.core.models.extents import xyz
from skalto.core.projection.strokes import ROUND, Strokes, Tag


def _bspline(curve: Any) -> tuple[BSpline, Array, bool, int]:
    """A kernel B-spline as (homogeneous spline of (x·w, y·w, z·w, w), distinct knots, rational, degree)."""
    if curve.IsPeriodic():
        curve = curve.Copy()
        curve.SetNotPeriodic()
    n, degree = curve.NbPoles(), curve.Degree()
    rational = curve.IsRational()
    poles = np.ones((n, 4))
    for i in range(n):
        poles[i, :3] = xyz(curve.Pole(i + 1))
        if rational:
            poles[i, 3] = curve.Weight(i + 1)
    poles[:, :3] *= poles[:, 3:]
    knots = np.array([curve.Knot(i + 1) for i in range(curve.NbKnots())])
    counts = [curve.Multiplicity(i + 1) for i in range(curve.NbKnots())]
    return BSpline(np.repeat(knots, counts), poles, degree), knots, rational, degree


class ProjectedEdge:
    """An edge seen along a viewpoint; draws any interval of its parameter into strokes.

    :param axes: rows right, up, toward the viewer, (3, 3).
    """

    def __init__(self, edge: Any, axes: Array) -> None:
        self.curve = BRepAdaptor_Curve(edge)
        self._flat = axes[:2]
        self._rows = self._flat.tolist()
        self.kind = self.curve.GetType()
        self._spline: tuple[BSpline, Array, bool, int] | None = None
        self._circle: tuple[Array, float] | None = None
        if self.kind in (GeomAbs_BSplineCurve, GeomAbs_BezierCurve):
            self._prepare_spline()

    def _prepare_spline(self) -> None:
        if self.kind == GeomAbs_BezierCurve:
            from OCP.GeomConvert import GeomConvert

            geometry = GeomConvert.CurveToBSplineCurve_s(self.curve.Bezier())
        else:
            geometry = self.curve.BSpline()
        spline, knots, rational, degree = _bspline(geometry)
        # the view's plane alone: the projection of a spline is the spline of the projected poles
        flat = np.column_stack((spline.c[:, :3] @ self._flat.T, spline.c[:, 3]))
        self._spline = BSpline(spline.t, flat, spline.k), knots, rational, degree
        if degree > 1:
            t = np.linspace(self.curve.FirstParameter(), self.curve.LastParameter(), 17)
            self._circle = circle_through(self._evaluate(t)[0], ROUND)

    def _evaluate(self, t: Array) -> tuple[Array, Array]:
        """Points and derivatives (k, 2) on the sheet's plane."""
        if self._spline is not None:
            spline = self._spline[0]
            value, slope = spline(t), spline(t, 1)
            w = value[:, 2:]
            points = value[:, :2] / w
            return points, (slope[:, :2] - points * slope[:, 2:]) / w
        point, vector = gp_Pnt(), gp_Vec()
        rows = []
        for u in t:
            self.curve.D1(float(u), point, vector)
            rows.append((*xyz(point), *xyz(vector)))
        table = np.array(rows)
        return table[:, :3] @ self._flat.T, table[:, 3:] @ self._flat.T

    def draw(self, strokes: Strokes, tag: Tag, first: float, last: float) -> None:
        """Add the interval [first, last] of the edge."""
        if self.kind == GeomAbs_Line:
            strokes.line(tag, self._flat_of(self.curve.Value(first)), self._flat_of(self.curve.Value(last)))
        elif self.kind in (GeomAbs_Circle, GeomAbs_Ellipse):
            self._draw_conic(strokes, tag, first, last)
        elif self._circle is not None:
            strokes.arc_through(tag, *self._circle, self._evaluate(np.linspace(first, last, 9))[0])
        else:
            self._draw_curve(strokes, tag, first, last)

    def _flat_of(self, v: Any) -> tuple[float, float]:
        """A kernel point or direction on the view's plane; plain numbers are quicker here than arrays."""
        x, y, z = v.X(), v.Y(), v.Z()
        (rx, ry, rz), (ux, uy, uz) = self._rows
        return rx * x + ry * y + rz * z, ux * x + uy * y + uz * z

    def _draw_conic(self, strokes: Strokes, tag: Tag, first: float, last: float) -> None:
        circular = self.kind == GeomAbs_Circle
        conic = self.curve.Circle() if circular else self.curve.Ellipse()
        major, minor = (conic.Radius(),) * 2 if circular else (conic.MajorRadius(), conic.MinorRadius())
        position = conic.Position()
        (ax, ay), (bx, by) = self._flat_of(position.XDirection()), self._flat_of(position.YDirection())
        centre = self._flat_of(position.Location())
        strokes.conic(tag, centre, (ax * major, ay * major), (bx * minor, by * minor), first, last)

    def _draw_curve(self, strokes: Strokes, tag: Tag, first: float, last: float) -> None:
        breaks = np.array((first, last))
        if self._spline is not None:
            _, knots, rational, degree = self._spline
            inner = knots[(knots > first + 1e-12 * (last - first)) & (knots < last - 1e-12 * (last - first))]
            breaks = np.concatenate(((first,), inner, (last,)))
            if not rational and degree <= 3:
                strokes.curve(tag, self._exact(breaks))
                return
        strokes.fit_later(tag, self._evaluate, breaks)

    def _exact(self, breaks: Array) -> Array:
        """A polynomial spline of degree three or less is its Béziers: ends and end slopes of each knot span."""
        assert self._spline is not None
        low, high = breaks[:-1], breaks[1:]
        span = (high - low)[:, None]
        # slopes from within the span, since a knot may be a corner
        inset = 1e-9 * (high - low)
        p0, p3 = self._evaluate(low)[0], self._evaluate(high)[0]
        degree = self._spline[3]
        if degree <= 2:
            middle = self._evaluate((low + high) / 2)[0]
            control = 2 * middle - (p0 + p3) / 2
            return np.stack((p0, p0 + (control - p0) * 2 / 3, p3 + (control - p3) * 2 / 3, p3), axis=1)
        d0, d3 = self._evaluate(low + inset)[1], self._evaluate(high - inset)[1]
        return np.stack((p0, p0 + d0 * span / 3, p3 - d3 * span / 3, p3), axis=1)
