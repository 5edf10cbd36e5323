"""One kernel edge, projected: the original curve over an interval, as lines, conics and Béziers."""

from __future__ import annotations

from typing import Any

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.GeomAbs import GeomAbs_BezierCurve, GeomAbs_BSplineCurve, GeomAbs_Circle, GeomAbs_Ellipse, GeomAbs_Line
from OCP.gp import gp_Pnt, gp_Vec

from skalto.core.geometry import Array
from skalto.core.geometry.curves import circle_through
from skalto.core.projection.strokes import ROUND, Strokes, Tag
from skalto.core.sources.models.extents import xyz


def _flat_poles(curve: Any, flat: Array) -> tuple[Array, Array, int]:
    """A kernel B-spline in the view's plane, by its rows (2, 3): knots, poles (x·w, y·w, w), degree."""
    if curve.IsPeriodic():
        curve = curve.Copy()
        curve.SetNotPeriodic()
    n = curve.NbPoles()
    weights = np.array([curve.Weight(i) for i in range(1, n + 1)])[:, None] if curve.IsRational() else np.ones((n, 1))
    poles = np.array([xyz(curve.Pole(i)) for i in range(1, n + 1)])
    knots = np.array([curve.Knot(i) for i in range(1, curve.NbKnots() + 1)])
    counts = [curve.Multiplicity(i) for i in range(1, curve.NbKnots() + 1)]
    return np.repeat(knots, counts), np.hstack((poles @ flat.T * weights, weights)), curve.Degree()


class FlatSpline:
    """A spline in the view's plane: the projection of a spline is the spline of the projected poles.

    :param knots: each as often as it counts. :param poles: x·w, y·w, w, (n, 3). :param span: what of the parameter is drawn:
        where all of that is a circle, it is drawn as one; the whole spline where it is not given.
    """

    def __init__(self, knots: Array, poles: Array, degree: int, span: tuple[float, float] | None = None) -> None:
        from scipy.interpolate import BSpline  # takes half a second to load, and many parts have no spline

        self._spline, self._degree = BSpline(knots, poles, degree), degree
        self._knots = np.unique(knots)
        self._rational = bool(np.ptp(poles[:, 2]) > 0)
        low, high = span or (float(knots[degree]), float(knots[len(poles)]))
        self._circle = circle_through(self.at(np.linspace(low, high, 17))[0], ROUND) if degree > 1 else None

    def at(self, t: Array) -> tuple[Array, Array]:
        """Points and derivatives, (k, 2)."""
        value, slope = self._spline(t), self._spline(t, 1)
        w = value[:, 2:]
        points = value[:, :2] / w
        return points, (slope[:, :2] - points * slope[:, 2:]) / w

    def draw(self, strokes: Strokes, tag: Tag, first: float, last: float) -> None:
        """Add the interval [first, last] of the parameter."""
        if self._circle is not None:
            strokes.arc_through(tag, *self._circle, self.at(np.linspace(first, last, 9))[0])
            return
        least = 1e-12 * (last - first)
        inner = self._knots[(self._knots > first + least) & (self._knots < last - least)]
        breaks = np.concatenate(((first,), inner, (last,)))
        if self._rational or self._degree > 3:
            strokes.fit_later(tag, self.at, breaks)
        else:
            strokes.curve(tag, self._exact(breaks))

    def _exact(self, breaks: Array) -> Array:
        """A polynomial spline of degree three or less is its Béziers: ends and end slopes of each knot span."""
        low, high = breaks[:-1], breaks[1:]
        span = (high - low)[:, None]
        # slopes from within the span, since a knot may be a corner
        inset = 1e-9 * (high - low)
        p0, p3 = self.at(low)[0], self.at(high)[0]
        if self._degree <= 2:
            middle = self.at((low + high) / 2)[0]
            control = 2 * middle - (p0 + p3) / 2
            return np.stack((p0, p0 + (control - p0) * 2 / 3, p3 + (control - p3) * 2 / 3, p3), axis=1)
        d0, d3 = self.at(low + inset)[1], self.at(high - inset)[1]
        return np.stack((p0, p0 + d0 * span / 3, p3 - d3 * span / 3, p3), axis=1)


class ProjectedEdge:
    """An edge seen along a viewpoint; draws any interval of its parameter into strokes.

    :param axes: rows right, up, toward the viewer, (3, 3).
    """

    def __init__(self, edge: Any, axes: Array) -> None:
        self.curve = BRepAdaptor_Curve(edge)
        self._flat = axes[:2]
        self._rows = self._flat.tolist()
        self.kind = self.curve.GetType()
        self._spline: FlatSpline | None = None
        span = self.curve.FirstParameter(), self.curve.LastParameter()
        if self.kind == GeomAbs_BSplineCurve:
            self._spline = FlatSpline(*_flat_poles(self.curve.BSpline(), self._flat), span)
        elif self.kind == GeomAbs_BezierCurve:
            from OCP.GeomConvert import GeomConvert

            self._spline = FlatSpline(*_flat_poles(GeomConvert.CurveToBSplineCurve_s(self.curve.Bezier()), self._flat), span)

    def _evaluate(self, t: Array) -> tuple[Array, Array]:
        """Points and derivatives (k, 2) on the sheet's plane."""
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
        elif self._spline is not None:
            self._spline.draw(strokes, tag, first, last)
        else:
            strokes.fit_later(tag, self._evaluate, np.array((first, last)))

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
