"""Silhouettes of curved faces, made exact.

The kernel walks along a contour and fits a curve that may be a few micrometres off. Here its points are moved along the
face until the surface is truly seen edge-on (normal square to the direction of looking), and Béziers are laid through them.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.GeomAbs import GeomAbs_Torus
from OCP.gp import gp_Pnt, gp_Vec

from skalto.core.geometry import Array
from skalto.core.geometry.curves import CurveFunction
from skalto.core.projection.strokes import Strokes, Tag
from skalto.core.sources.models.extents import xyz

_STEPS = 5
_CLOSE = 1e-8
"""A step on the surface shorter than this, mm, ends the search."""


def _second_order(surface: Any, uv: Array) -> Array:
    """Point, S_u, S_v, S_uu, S_vv, S_uv at parameters (k, 2): shape (6, k, 3)."""
    p, du, dv, duu, dvv, duv = gp_Pnt(), gp_Vec(), gp_Vec(), gp_Vec(), gp_Vec(), gp_Vec()
    rows = []
    for u, v in uv.tolist():
        surface.D2(u, v, p, du, dv, duu, dvv, duv)
        rows.append([(w.X(), w.Y(), w.Z()) for w in (p, du, dv, duu, dvv, duv)])
    return np.array(rows).transpose(1, 0, 2)


def _dot(a: Array, b: Array) -> Array:
    product: Array = (a * b).sum(axis=-1)
    return product


def cross(a: Array, b: Array) -> Array:
    """Cross products of (k, 3) rows; NumPy's own spends its time on axis rules."""
    x = a[:, 1] * b[:, 2] - a[:, 2] * b[:, 1]
    y = a[:, 2] * b[:, 0] - a[:, 0] * b[:, 2]
    return np.stack((x, y, a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]), axis=1)


class Ring:
    """The contour of a torus, in closed form: at turn u it lies where v makes the normal square to the look.

    The normal is cos v · e(u) + sin v · z, with e(u) radial: square to the look where tan v = −(e·look)/(z·look).
    """

    def __init__(self, torus: Any, axes: Array) -> None:
        position = torus.Position()
        self._x, self._y, self._z = (
            np.array(xyz(d)) for d in (position.XDirection(), position.YDirection(), position.Direction())
        )
        self._centre = np.array(xyz(position.Location()))
        self._major, self._minor = torus.MajorRadius(), torus.MinorRadius()
        self._flat, self._look = axes[:2], -axes[2]

    def _angle(self, u: Array) -> tuple[Array, Array]:
        """v on the branch that holds v = 0 where the look is along the ring's plane, and dv/du."""
        a = np.cos(u) * (self._x @ self._look) + np.sin(u) * (self._y @ self._look)
        slope = -np.sin(u) * (self._x @ self._look) + np.cos(u) * (self._y @ self._look)
        c = float(self._z @ self._look)
        return np.arctan2(-a, np.full_like(a, c)), -slope * c / (a * a + c * c)

    def span(
        self, start: tuple[float, float], middle: tuple[float, float], end: tuple[float, float]
    ) -> tuple[CurveFunction, float, float] | None:
        """The contour near the parameters (u, v) of three points along it, over the turn u; None where it does not turn."""
        u0, u1 = start[0], end[0]
        if abs(float(self._z @ self._look)) < 1e-6 or abs(u1 - u0) < 1e-6 or not min(u0, u1) < middle[0] < max(u0, u1):
            return None
        near, _ = self._angle(np.array([middle[0]]))
        branch = 0.0 if math.cos(float(near[0]) - middle[1]) > 0 else math.pi

        def contour(u: Array) -> tuple[Array, Array]:
            v, dv = self._angle(u)
            cos, sin = np.cos(v + branch)[:, None], np.sin(v + branch)[:, None]
            e = np.cos(u)[:, None] * self._x + np.sin(u)[:, None] * self._y
            across = -np.sin(u)[:, None] * self._x + np.cos(u)[:, None] * self._y
            radius = self._major + self._minor * cos
            point = self._centre + radius * e + self._minor * sin * self._z
            slope = radius * across + self._minor * dv[:, None] * (cos * self._z - sin * e)
            return point @ self._flat.T, slope @ self._flat.T

        return contour, u0, u1


class Silhouette:
    """The exact contour on one face near one kernel curve, which has a curve in the face's parameter plane.

    :param axes: rows right, up, toward the viewer, (3, 3). :param tolerance: mm in the model.
    """

    def __init__(self, face: Any, edge: Any, axes: Array, tolerance: float) -> None:
        self._surface = BRep_Tool.Surface_s(face)
        self._plane_curve = BRep_Tool.CurveOnSurface_s(edge, face, 0.0, 0.0)
        self._axes = axes
        self._tolerance = tolerance
        adaptor = BRepAdaptor_Surface(face, False)
        self._ring = Ring(adaptor.Torus(), axes) if adaptor.GetType() == GeomAbs_Torus else None

    @property
    def usable(self) -> bool:
        """Whether the kernel left what is needed to find the exact contour."""
        return self._surface is not None and self._plane_curve is not None

    def _evaluate(self, t: Array) -> tuple[Array, Array]:
        """Points and tangents (k, 2) on the sheet's plane, at the kernel curve's parameters."""
        points = [self._plane_curve.Value(float(value)) for value in t]
        uv = np.array([(p.X(), p.Y()) for p in points])
        look = -self._axes[2]
        first: Array | None = None
        for _ in range(_STEPS):
            s, su, sv, suu, svv, suv = _second_order(self._surface, uv)
            first = s if first is None else first
            f = cross(su, sv) @ look
            fu = (cross(suu, sv) + cross(su, suv)) @ look
            fv = (cross(suv, sv) + cross(su, svv)) @ look
            # the shortest step on the surface, by its own metric, that brings f to nought
            e, g, h = _dot(su, su), _dot(sv, sv), _dot(su, sv)
            with np.errstate(divide="ignore", invalid="ignore"):
                lift_u, lift_v = (g * fu - h * fv) / (e * g - h * h), (e * fv - h * fu) / (e * g - h * h)
                factor = -f / (fu * lift_u + fv * lift_v)
                step = np.stack((factor * lift_u, factor * lift_v), axis=1)
            step[~np.isfinite(step).all(axis=1)] = 0.0
            moved = step[:, :1] * su + step[:, 1:] * sv
            length = np.sqrt(_dot(moved, moved))
            if length.max() < _CLOSE:
                break
            uv = uv + step
        assert first is not None
        # a point that ran away belongs to another contour: keep the kernel's there
        gone = np.sqrt(_dot(s - first, s - first)) > 0.05 + 100 * self._tolerance
        s = np.where(gone[:, None], first, s)
        # the contour runs where f keeps its value: along (−fv, fu) in the parameter plane
        along = (-fv[:, None] * su + fu[:, None] * sv) @ self._axes[:2].T
        flat = s @ self._axes[:2].T
        if len(flat) > 1:
            order = np.argsort(t)
            chord = np.gradient(flat[order], axis=0)[np.argsort(order)]
            along = np.where((_dot(along, chord) < 0)[:, None], -along, along)
        return flat, along

    def _span(self, first: float, last: float) -> tuple[CurveFunction, float, float]:
        """The contour over [first, last] of the kernel curve's parameter, and its own parameter's range."""
        if self._ring is not None:
            ends = [self._plane_curve.Value(t) for t in (first, (first + last) / 2, last)]
            span = self._ring.span(*((p.X(), p.Y()) for p in ends))
            if span is not None:
                return span
        return self._evaluate, first, last

    def draw(self, strokes: Strokes, tag: Tag, first: float, last: float) -> None:
        """Add [first, last] of the kernel curve's parameter: a circle or line where it is one, else Béziers."""
        curve, first, last = self._span(first, last)
        flat, _ = curve(np.linspace(first, last, 9))
        if not strokes.plain_through(tag, flat):
            strokes.fit_later(tag, curve, np.array((first, last)))
