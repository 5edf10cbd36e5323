"""Silhouettes of curved faces, made exact.

The kernel walks along a contour and fits a curve that may be a few micrometres off. Here its points are moved along the
face until the surface is truly seen edge-on (normal square to the direction of looking), and Béziers are laid through them.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.gp import gp_Pnt, gp_Vec

from skalto.core.artwork import Array
from skalto.core.curves import circle_through, fit_beziers
from skalto.core.projection.strokes import Strokes, Tag

_STEPS = 5
_CLOSE = 1e-8
"""A step on the surface shorter than this, mm, ends the search."""
_ROUND = 1e-6


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


def _cross(a: Array, b: Array) -> Array:
    """Cross products of (k, 3) rows; NumPy's own spends its time on axis rules."""
    x = a[:, 1] * b[:, 2] - a[:, 2] * b[:, 1]
    y = a[:, 2] * b[:, 0] - a[:, 0] * b[:, 2]
    return np.stack((x, y, a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]), axis=1)


class Silhouette:
    """The exact contour on one face near one kernel curve, which has a curve in the face's parameter plane.

    :param axes: rows right, up, toward the viewer, (3, 3). :param tolerance: mm in the model.
    """

    def __init__(self, face: Any, edge: Any, axes: Array, tolerance: float) -> None:
        self._surface = BRep_Tool.Surface_s(face)
        self._plane_curve = BRep_Tool.CurveOnSurface_s(edge, face, 0.0, 0.0)
        self._axes = axes
        self._tolerance = tolerance

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
            f = _cross(su, sv) @ look
            fu = (_cross(suu, sv) + _cross(su, suv)) @ look
            fv = (_cross(suv, sv) + _cross(su, svv)) @ look
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

    def draw(self, strokes: Strokes, tag: Tag, first: float, last: float) -> None:
        """Add [first, last] of the kernel curve's parameter: a circle or line where it is one, else Béziers."""
        flat, _ = self._evaluate(np.linspace(first, last, 9))
        chord = flat[-1] - flat[0]
        length = float(np.hypot(*chord))
        if length > _ROUND:
            away = np.abs((flat - flat[0]) @ np.array((-chord[1], chord[0])) / length)
            if away.max() <= _ROUND:
                strokes.line(tag, flat[0].tolist(), flat[-1].tolist())
                return
        circle = circle_through(flat, _ROUND)
        if circle is not None:
            strokes.arc_through(tag, *circle, flat)
            return
        strokes.curve(tag, fit_beziers(self._evaluate, np.array((first, last)), self._tolerance))
