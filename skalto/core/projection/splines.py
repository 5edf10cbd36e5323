"""B-spline curves and surfaces, many of them at many places at once, compiled.

After L. Piegl and W. Tiller, The NURBS Book, 2nd edition: spans A2.1, basis functions and derivatives A2.3; the quotients of
rational ones 4.8 and 4.20.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numba
import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.Geom import Geom_BSplineCurve, Geom_BSplineSurface
from OCP.GeomAbs import GeomAbs_BezierCurve, GeomAbs_BezierSurface, GeomAbs_BSplineCurve, GeomAbs_BSplineSurface
from OCP.GeomConvert import GeomConvert

from skalto.core.geometry import Array
from skalto.core.sources.models.extents import xyz

Ints = NDArray[np.int64]

_ORDERS = 3
"""Value, first and second derivative."""


@dataclass(frozen=True, eq=False)
class Spline:
    """A curve or surface in its part's axes, mm: of degree ``degrees`` over ``knots``, one of each for a curve, two for a
    surface; ``poles`` (…, 4) are x·w, y·w, z·w, w. With a ``period`` other than 0 it goes round."""

    degrees: tuple[int, ...]
    knots: tuple[Array, ...]
    poles: Array
    period: tuple[float, ...]


def _round(poles: Array, axis: int, degree: int, knots: Array) -> Array:
    """Poles so many as *knots* with their repeats ask for: of what goes round the first come again. The kernel's own way to
    open what goes round left surfaces without weights."""
    return np.asarray(np.take(poles, np.arange(len(knots) - degree - 1) % poles.shape[axis], axis=axis))


def spline_of_curve(curve: Geom_BSplineCurve) -> Spline:
    """A curve of the kernel's."""
    period = curve.Period() if curve.IsPeriodic() else 0.0
    count, knots = curve.NbPoles(), _numbers(curve.KnotSequence())
    weights = np.array([curve.Weight(n) for n in range(1, count + 1)])[:, None]
    poles = np.array([xyz(curve.Pole(n)) for n in range(1, count + 1)])
    poles = _round(np.hstack((poles * weights, weights)), 0, curve.Degree(), knots)
    return Spline((curve.Degree(),), (knots,), poles, (period,))


def spline_of_surface(surface: Geom_BSplineSurface) -> Spline:
    """A surface of the kernel's."""
    period = surface.UPeriod() if surface.IsUPeriodic() else 0.0, surface.VPeriod() if surface.IsVPeriodic() else 0.0
    rows, columns = range(1, surface.NbUPoles() + 1), range(1, surface.NbVPoles() + 1)
    weights = np.array([[surface.Weight(i, j) for j in columns] for i in rows])[..., None]
    poles = np.array([[xyz(surface.Pole(i, j)) for j in columns] for i in rows])
    degrees = surface.UDegree(), surface.VDegree()
    knots = _numbers(surface.UKnotSequence()), _numbers(surface.VKnotSequence())
    poles = np.concatenate((poles * weights, weights), axis=-1)
    for axis in (0, 1):
        poles = _round(poles, axis, degrees[axis], knots[axis])
    return Spline(degrees, knots, poles, period)


def spline_of_edge(edge: Any) -> Spline | None:
    """An edge of the kernel's, with its parameter; None where it is no spline."""
    adaptor = BRepAdaptor_Curve(edge)
    if not adaptor.Is3DCurve():
        return None
    kind = adaptor.GetType()
    if kind == GeomAbs_BezierCurve:
        return spline_of_curve(GeomConvert.CurveToBSplineCurve_s(adaptor.Bezier()))
    return spline_of_curve(adaptor.BSpline()) if kind == GeomAbs_BSplineCurve else None


def spline_of_face(face: Any) -> Spline | None:
    """A face of the kernel's, with its parameters; None where it is no spline."""
    adaptor = BRepAdaptor_Surface(face, False)
    kind = adaptor.GetType()
    if kind == GeomAbs_BezierSurface:
        return spline_of_surface(GeomConvert.SurfaceToBSplineSurface_s(adaptor.Bezier()))
    return spline_of_surface(adaptor.BSpline()) if kind == GeomAbs_BSplineSurface else None


def _numbers(array: Any) -> Array:
    return np.array([array.Value(n) for n in range(array.Lower(), array.Upper() + 1)], float)


@numba.njit(cache=True, error_model="numpy")  # type: ignore[untyped-decorator]
def _basis(knots, first, count, degree, period, t, found, table, pair):  # type: ignore[no-untyped-def]
    """The functions that are not zero at *t*, and their derivatives, into *found* (3, degree + 1); the number of the first."""
    low, high = knots[first + degree], knots[first + count]
    if period > 0.0:
        if t < low:
            t += period * np.ceil((low - t) / period)
        elif t > high:
            t -= period * np.ceil((t - high) / period)
    a, b = degree, count
    while b - a > 1:
        middle = (a + b) // 2
        if t < knots[first + middle]:
            b = middle
        else:
            a = middle
    span = a
    while span > degree and knots[first + span] >= knots[first + span + 1]:
        span -= 1
    # the triangle of functions, and of the differences of knots beneath it
    table[0, 0] = 1.0
    for j in range(1, degree + 1):
        saved = 0.0
        for r in range(j):
            right, left = knots[first + span + r + 1] - t, t - knots[first + span + 1 - j + r]
            table[j, r] = right + left
            term = table[r, j - 1] / table[j, r]
            table[r, j] = saved + right * term
            saved = left * term
        table[j, j] = saved
    for j in range(degree + 1):
        found[0, j] = table[j, degree]
    for r in range(degree + 1):
        one, two = 0, 1
        pair[0, 0] = 1.0
        for k in range(1, _ORDERS):
            d = 0.0
            if k > degree:
                found[k, r] = 0.0
                continue
            rk, pk = r - k, degree - k
            if r >= k:
                pair[two, 0] = pair[one, 0] / table[pk + 1, rk]
                d = pair[two, 0] * table[rk, pk]
            begin = 1 if rk >= -1 else -rk
            end = k - 1 if r - 1 <= pk else degree - r
            for j in range(begin, end + 1):
                pair[two, j] = (pair[one, j] - pair[one, j - 1]) / table[pk + 1, rk + j]
                d += pair[two, j] * table[rk + j, pk]
            if r <= pk:
                pair[two, k] = -pair[one, k - 1] / table[pk + 1, r]
                d += pair[two, k] * table[r, pk]
            found[k, r] = d
            one, two = two, one
    factor = float(degree)
    for k in range(1, _ORDERS):
        for j in range(degree + 1):
            found[k, j] *= factor
        factor *= degree - k
    return span - degree


@numba.njit(cache=True, error_model="numpy")  # type: ignore[untyped-decorator]
def _on_curves(which, t, head, periods, knots, poles, out):  # type: ignore[no-untyped-def]
    """Point and derivative into *out* (2, k, 3)."""
    found, table, pair = np.empty((_ORDERS, 32)), np.empty((32, 32)), np.empty((2, 32))
    for n in range(len(which)):
        degree, count, at_knots, at_poles = head[which[n], 0], head[which[n], 2], head[which[n], 4], head[which[n], 6]
        first = _basis(knots, at_knots, count, degree, periods[which[n], 0], t[n], found, table, pair)
        sums = np.zeros((2, 4))
        for j in range(degree + 1):
            for k in range(2):
                for c in range(4):
                    sums[k, c] += found[k, j] * poles[at_poles + first + j, c]
        w, dw = sums[0, 3], sums[1, 3]
        for c in range(3):
            out[0, n, c] = sums[0, c] / w
            out[1, n, c] = (sums[1, c] - dw * out[0, n, c]) / w


@numba.njit(cache=True, error_model="numpy")  # type: ignore[untyped-decorator]
def _on_surfaces(which, uv, head, periods, knots, poles, out):  # type: ignore[no-untyped-def]
    """S, S_u, S_v, S_uu, S_vv, S_uv into *out* (6, k, 3)."""
    along, across = np.empty((_ORDERS, 32)), np.empty((_ORDERS, 32))
    table, pair = np.empty((32, 32)), np.empty((2, 32))
    orders = ((0, 0), (1, 0), (0, 1), (2, 0), (0, 2), (1, 1))
    for n in range(len(which)):
        row = which[n]
        p, q, columns, at_poles = head[row, 0], head[row, 1], head[row, 3], head[row, 6]
        i0 = _basis(knots, head[row, 4], head[row, 2], p, periods[row, 0], uv[n, 0], along, table, pair)
        j0 = _basis(knots, head[row, 5], columns, q, periods[row, 1], uv[n, 1], across, table, pair)
        sums = np.zeros((6, 4))
        for i in range(p + 1):
            for j in range(q + 1):
                pole = at_poles + (i0 + i) * columns + j0 + j
                for k in range(6):
                    weight = along[orders[k][0], i] * across[orders[k][1], j]
                    for c in range(4):
                        sums[k, c] += weight * poles[pole, c]
        w = sums[0, 3]
        for c in range(3):
            s = sums[0, c] / w
            su, sv = (sums[1, c] - sums[1, 3] * s) / w, (sums[2, c] - sums[2, 3] * s) / w
            out[0, n, c], out[1, n, c], out[2, n, c] = s, su, sv
            out[3, n, c] = (sums[3, c] - 2 * sums[1, 3] * su - sums[3, 3] * s) / w
            out[4, n, c] = (sums[4, c] - 2 * sums[2, 3] * sv - sums[4, 3] * s) / w
            out[5, n, c] = (sums[5, c] - sums[1, 3] * sv - sums[2, 3] * su - sums[5, 3] * s) / w


@dataclass(eq=False)
class Table:
    """Splines of one kind, all curves or all surfaces, placed in a view's axes, to be asked together."""

    _heads: list[list[int]] = field(default_factory=list)
    _periods: list[tuple[float, float]] = field(default_factory=list)
    _knots: list[Array] = field(default_factory=list)
    _poles: list[Array] = field(default_factory=list)
    _counts: list[int] = field(default_factory=lambda: [0, 0])
    _made: tuple[Ints, Array, Array, Array] | None = None

    def add(self, spline: Spline, turn: Array, move: Array) -> int:
        """A spline; its number. *turn* (3, 3) and *move* (3,) lead from its axes to the view's."""
        at_knots, at_poles = self._counts
        both = len(spline.degrees) == 2
        second = at_knots + len(spline.knots[0]) if both else 0
        self._heads.append(
            [spline.degrees[0], spline.degrees[1] if both else 0, spline.poles.shape[0], spline.poles.shape[1] if both else 1,
             at_knots, second, at_poles, 0]
        )  # fmt: skip
        self._periods.append((spline.period[0], spline.period[1] if both else 0.0))
        flat = spline.poles.reshape(-1, 4)
        self._poles.append(np.hstack((flat[:, :3] @ turn.T + flat[:, 3:] * move, flat[:, 3:])))
        self._knots += spline.knots
        self._counts = [at_knots + sum(len(k) for k in spline.knots), at_poles + len(flat)]
        self._made = None
        return len(self._heads) - 1

    def _arrays(self) -> tuple[Ints, Array, Array, Array]:
        if self._made is None:
            self._made = (
                np.array(self._heads, np.int64).reshape(-1, 8), np.array(self._periods).reshape(-1, 2),
                np.concatenate([np.empty(0), *self._knots]), np.concatenate([np.empty((0, 4)), *self._poles]),
            )  # fmt: skip
        return self._made

    def on_curves(self, which: Ints, t: Array) -> Array:
        """Points and derivatives of curves (k,) at parameters (k,): (2, k, 3)."""
        out = np.empty((2, len(which), 3))
        _on_curves(np.ascontiguousarray(which), np.ascontiguousarray(t, float), *self._arrays(), out)
        return out

    def on_surfaces(self, which: Ints, uv: Array) -> Array:
        """S, S_u, S_v, S_uu, S_vv, S_uv of surfaces (k,) at parameters (k, 2): (6, k, 3)."""
        out = np.empty((6, len(which), 3))
        _on_surfaces(np.ascontiguousarray(which), np.ascontiguousarray(uv, float), *self._arrays(), out)
        return out
