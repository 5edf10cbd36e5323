"""Contours of curved faces, exact: the places on a surface that are seen edge-on, as one curve from edge to edge."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numba
import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.gp import gp_Pnt, gp_Vec
from OCP.TopoDS import TopoDS

from skalto.core.geometry import TAU, Array
from skalto.core.geometry.curves import OneOfMany
from skalto.core.projection.edges import FlatSpline, ProjectedEdge
from skalto.core.projection.facets import Flags, Ints, Surface
from skalto.core.projection.silhouettes import cross
from skalto.core.projection.splines import Spline, Table
from skalto.core.projection.strokes import Strokes, Tag
from skalto.core.sources.models.extents import xyz
from skalto.core.sources.models.kernel import placed

_STEPS = 8
_STRIDE = 8
"""So many places of a contour are tried as one Bézier."""
_CLOSE = 1e-10
"""A step on the surface shorter than this, mm, ends the search."""
_BRACKETS = 60
_FARTHEST = 1e6
"""A step of the parameters longer than this leads nowhere."""


@numba.njit(cache=True)  # type: ignore[untyped-decorator]
def _on_rings(rows, patch, frames, sizes, uv, out):  # type: ignore[no-untyped-def]
    """Point, S_u, S_v, S_uu, S_vv, S_uv of tori, into *out* (6, k, 3) at *rows*."""
    for n in rows:
        p = patch[n]
        cu, su, cv, sv = np.cos(uv[n, 0]), np.sin(uv[n, 0]), np.cos(uv[n, 1]), np.sin(uv[n, 1])
        minor = sizes[p, 1]
        radius = sizes[p, 0] + minor * cv
        for k in range(3):
            x, y, z = frames[p, 1, k], frames[p, 2, k], frames[p, 3, k]
            away, across = cu * x + su * y, cu * y - su * x
            out[0, n, k] = frames[p, 0, k] + radius * away + minor * sv * z
            out[1, n, k] = radius * across
            out[2, n, k] = minor * (cv * z - sv * away)
            out[3, n, k] = -radius * away
            out[4, n, k] = -minor * (cv * away + sv * z)
            out[5, n, k] = -minor * sv * across


@numba.njit(cache=True, error_model="numpy")  # type: ignore[untyped-decorator]
def _steps(orders, still, step, lift):  # type: ignore[no-untyped-def]
    """The next step (k, 2) of places toward where the surface is seen edge-on, and how the lean changes: f_u, f_v and the way
    of its steepest rise, (k, 4); how far the longest step moves a point, mm."""
    most = 0.0
    for n in range(orders.shape[1]):
        e = g = h = 0.0
        for k in range(3):
            e += orders[1, n, k] ** 2
            g += orders[2, n, k] ** 2
            h += orders[1, n, k] * orders[2, n, k]
        ux, uy, vx, vy = orders[1, n, 0], orders[1, n, 1], orders[2, n, 0], orders[2, n, 1]
        f = ux * vy - uy * vx
        fu = orders[3, n, 0] * vy - orders[3, n, 1] * vx + ux * orders[5, n, 1] - uy * orders[5, n, 0]
        fv = orders[5, n, 0] * vy - orders[5, n, 1] * vx + ux * orders[4, n, 1] - uy * orders[4, n, 0]
        det = e * g - h * h
        lift_u, lift_v = (g * fu - h * fv) / det, (e * fv - h * fu) / det
        factor = -f / (fu * lift_u + fv * lift_v)
        a, b = factor * lift_u, factor * lift_v
        if still[n] or not max(abs(a), abs(b)) < _FARTHEST:
            a = b = 0.0
        step[n, 0], step[n, 1] = a, b
        lift[n, 0], lift[n, 1], lift[n, 2], lift[n, 3] = fu, fv, lift_u, lift_v
        for k in range(3):
            most = max(most, abs(a * orders[1, n, k] + b * orders[2, n, k]))
    return most


@numba.njit(cache=True, error_model="numpy")  # type: ignore[untyped-decorator]
def _turned_rings(rows, patch, frames, sizes, given, reach, ways, uv, points, bends, slopes):  # type: ignore[no-untyped-def]
    """:meth:`Patches.turn_to` of the tori at *rows*, each by itself."""
    orders, first = np.empty((6, 3)), np.empty(3)
    for n in rows:
        p = patch[n]
        major, minor = sizes[p, 0], sizes[p, 1]
        u, v, still = given[n, 0], given[n, 1], False
        fu = fv = lift_u = lift_v = e = g = h = 0.0
        for again in range(_STEPS + 1):
            while True:
                cu, su, cv, sv = np.cos(u), np.sin(u), np.cos(v), np.sin(v)
                radius, far = major + minor * cv, 0.0
                for k in range(3):
                    x, y, z = frames[p, 1, k], frames[p, 2, k], frames[p, 3, k]
                    away, across = cu * x + su * y, cu * y - su * x
                    orders[0, k] = frames[p, 0, k] + radius * away + minor * sv * z
                    orders[1, k] = radius * across
                    orders[2, k] = minor * (cv * z - sv * away)
                    orders[3, k] = -radius * away
                    orders[4, k] = -minor * (cv * away + sv * z)
                    orders[5, k] = -minor * sv * across
                    if again == 0:
                        first[k] = orders[0, k]
                    far += (orders[0, k] - first[k]) ** 2
                if still or np.sqrt(far) <= reach[n]:
                    break
                u, v, still = given[n, 0], given[n, 1], True
            e = g = h = 0.0
            for k in range(3):
                e += orders[1, k] ** 2
                g += orders[2, k] ** 2
                h += orders[1, k] * orders[2, k]
            ux, uy, vx, vy = orders[1, 0], orders[1, 1], orders[2, 0], orders[2, 1]
            f = ux * vy - uy * vx
            fu = orders[3, 0] * vy - orders[3, 1] * vx + ux * orders[5, 1] - uy * orders[5, 0]
            fv = orders[5, 0] * vy - orders[5, 1] * vx + ux * orders[4, 1] - uy * orders[4, 0]
            det = e * g - h * h
            lift_u, lift_v = (g * fu - h * fv) / det, (e * fv - h * fu) / det
            factor = -f / (fu * lift_u + fv * lift_v)
            a, b = factor * lift_u, factor * lift_v
            if still or again == _STEPS or not max(abs(a), abs(b)) < _FARTHEST:
                break
            most = 0.0
            for k in range(3):
                most = max(most, abs(a * orders[1, k] + b * orders[2, k]))
            if most < _CLOSE:
                break
            u += a
            v += b
        uv[n, 0], uv[n, 1] = u, v
        # the look as a·S_u + b·S_v
        look_u, look_v, det = orders[1, 2], orders[2, 2], max(e * g - h * h, 1e-30)
        a, b = (g * look_u - h * look_v) / det, (e * look_v - h * look_u) / det
        bend = size = 0.0
        for k in range(3):
            i, j = (k + 1) % 3, (k + 2) % 3
            normal = (orders[1, i] * orders[2, j] - orders[1, j] * orders[2, i]) * sizes[p, 2]
            size += normal * normal
            bend += (a * a * orders[3, k] + 2 * a * b * orders[5, k] + b * b * orders[4, k]) * normal
        bends[n] = bend / max(np.sqrt(size), 1e-30)
        # of what is given, the share along the contour, which runs where f keeps its value
        share = (ways[n, 0] * lift_v - ways[n, 1] * lift_u) / (-fv * lift_v - fu * lift_u)
        if not np.isfinite(share):
            share = 0.0
        for k in range(3):
            points[n, k] = orders[0, k]
            if still:
                slopes[n, k] = ways[n, 0] * orders[1, k] + ways[n, 1] * orders[2, k]
            else:
                slopes[n, k] = share * (fu * orders[2, k] - fv * orders[1, k])


class Patches:
    """The surfaces of faces with their derivatives, in view axes; normals point out of the part."""

    def __init__(self) -> None:
        self._rings: list[tuple[Array, Array, Array, Array, float, float]] = []
        self._adaptors: list[tuple[Any, Array, Array] | None] = []
        self._faces: list[Any] = []
        self._splines, self._nets = Table(), list[int]()
        self._known: list[tuple[Array, Array]] = []
        self.contours = _Traces()
        self._table: tuple[Array, Array, Flags, Ints] | None = None

    def add(
        self, face: Any, spline: Spline | None, kind: int, form: Array, turn: Array, move: Array, uv: Array, outward: Array
    ) -> int:
        """A face, and the *spline* that it is, if any; its number.

        :param turn: (3, 3) and *move* (3,) lead from the part's axes to the view's. :param form: in view axes.
        :param outward: the way out of the part (3,) at the parameters *uv* (2,).
        """
        adaptor, number = BRepAdaptor_Surface(face, False), len(self._faces)
        self._faces.append(face)
        if kind == Surface.TORUS:
            position = adaptor.Torus().Position()
            size = float(np.cbrt(abs(np.linalg.det(turn))))
            x, y, z = (
                turn @ np.array(xyz(d)) / size for d in (position.XDirection(), position.YDirection(), position.Direction())
            )
            self._rings.append((form[:3], x, y, z, float(form[6]), float(form[7])))
            self._adaptors.append(None)
        else:
            self._rings.append((np.zeros(3), np.zeros(3), np.zeros(3), np.zeros(3), 1.0, 1.0))
            self._adaptors.append((adaptor, turn, move))
        self._nets.append(self._splines.add(spline, turn, move) if spline is not None else -1)
        self._known.append((uv, outward))
        self._table = None
        return number

    def ring(self, patch: int) -> tuple[Array, Array, Array, Array, float, float]:
        """Centre, axes and radii of a torus."""
        return self._rings[patch]

    def on_rings(self, patch: Ints, points: Array, near: Array) -> Array:
        """The parameters (k, 2) of points (k, 3) on tori, on the turns of those *near* (k, 2)."""
        frames, sizes, *_ = self._tables()
        centre, x, y, z = (frames[patch, n] for n in range(4))
        away = points - centre
        u = np.arctan2((away * y).sum(axis=1), (away * x).sum(axis=1))
        out = np.cos(u)[:, None] * x + np.sin(u)[:, None] * y
        rise, radius, (major, minor) = (away * z).sum(axis=1), (away * out).sum(axis=1), sizes[patch, :2].T
        v = np.arctan2(rise, radius - major)
        # where the tube is wider than the ring, it goes through the axis, and its inner side lies beyond
        off, off_beyond = (np.abs(np.hypot(r - major, rise) - minor) for r in (radius, -radius))
        beyond = (minor > major) & (off_beyond < off)
        u, v = np.where(beyond, u + np.pi, u), np.where(beyond, np.arctan2(rise, -radius - major), v)
        found = np.stack((u, v), axis=1)
        return np.asarray(found + np.round((near - found) / TAU) * TAU)

    def _tables(self) -> tuple[Array, Array, Flags, Ints]:
        """Centre and axes (p, 4, 3), both radii and the sign of the normal (p, 3), which are rings, and their numbers
        among the splines, (p,)."""
        if self._table is None:
            self._table = (
                np.array([ring[:4] for ring in self._rings]),
                np.array([(*ring[4:], 1.0) for ring in self._rings]),
                np.array([adaptor is None for adaptor in self._adaptors]),
                np.array(self._nets, np.int64),
            )
            # the surfaces' own normals, turned out of the parts
            uv, outward = (np.array(rows) for rows in zip(*self._known, strict=True))
            _, su, sv, *_ = self.second_order(np.arange(len(uv)), uv)
            self._table[1][:, 2] = np.where((cross(su, sv) * outward).sum(axis=1) > 0, 1.0, -1.0)
        return self._table

    def second_order(self, patch: Ints, uv: Array) -> Array:
        """Point, S_u, S_v, S_uu, S_vv, S_uv of patches (k,) at parameters (k, 2): (6, k, 3)."""
        frames, sizes, rings, nets = self._tables()
        found = np.empty((6, len(patch), 3))
        _on_rings(np.flatnonzero(rings[patch]), patch, frames, sizes, uv, found)
        p, du, dv, duu, dvv, duv = gp_Pnt(), gp_Vec(), gp_Vec(), gp_Vec(), gp_Vec(), gp_Vec()
        net = nets[patch]
        own = np.flatnonzero(net >= 0)
        if len(own):
            found[:, own] = self._splines.on_surfaces(net[own], uv[own])
        for n in np.flatnonzero(~rings[patch] & (net < 0)).tolist():
            adaptor = self._adaptors[patch[n]]
            assert adaptor is not None
            surface, turn, move = adaptor
            surface.D2(float(uv[n, 0]), float(uv[n, 1]), p, du, dv, duu, dvv, duv)
            found[:, n] = np.array([(w.X(), w.Y(), w.Z()) for w in (p, du, dv, duu, dvv, duv)]) @ turn.T
            found[0, n] += move
        return found

    def turn_to(self, patch: Ints, uv: Array, reach: Array, way: Array | None = None) -> tuple[Array, Array, Array, Array]:
        """Move parameters (k, 2) by the shortest way on the surface to where it is seen edge-on: (k, 2), the points (k, 3), how
        the surface bends along the look, (k,): less than nought where it falls away from its tangent, and can be seen; and how
        the points move, (k, 3), where the parameters that are given move by *way* (k, 2).

        Where the search leads farther than *reach* (k,), mm, as it does where a face comes to lie edge-on without a bend, they
        stay, and move as they are given.
        """
        frames, sizes, rings, _ = self._tables()
        ringed = rings[patch]
        rows = np.flatnonzero(ringed)
        if not len(rows):
            return self._turned(patch, uv, reach, way)
        found, points, bends, slopes = np.empty_like(uv), np.empty((len(uv), 3)), np.empty(len(uv)), np.empty((len(uv), 3))
        ways = np.zeros_like(uv) if way is None else way
        _turned_rings(rows, patch, frames, sizes, uv, reach, ways, found, points, bends, slopes)
        rest = np.flatnonzero(~ringed)
        if len(rest):
            made = self._turned(patch[rest], uv[rest], reach[rest], None if way is None else way[rest])
            found[rest], points[rest], bends[rest], slopes[rest] = made
        return found, points, bends, slopes

    def _turned(self, patch: Ints, uv: Array, reach: Array, way: Array | None) -> tuple[Array, Array, Array, Array]:
        """:meth:`turn_to` of any surfaces, all at once."""
        begun, uv, still = uv, uv.copy(), np.zeros(len(uv), bool)
        first = self.second_order(patch, uv)[0]
        step, lift = np.empty((len(uv), 2)), np.empty((len(uv), 4))
        for again in range(_STEPS + 1):
            orders = self.second_order(patch, uv)
            far = ~(np.linalg.norm(orders[0] - first, axis=1) <= reach)
            if far.any():
                uv[far], still = begun[far], still | far
                orders = self.second_order(patch, uv)
            moved = _steps(orders, still, step, lift)
            if again == _STEPS or moved < _CLOSE:
                break
            uv += step
        s, su, sv, suu, svv, suv = orders
        e, g, h = (su * su).sum(axis=1), (sv * sv).sum(axis=1), (su * sv).sum(axis=1)
        normal = cross(su, sv) * self._tables()[1][patch, 2:]
        # the look as a·S_u + b·S_v
        p, q = su[:, 2], sv[:, 2]
        det = np.maximum(e * g - h * h, 1e-30)
        a, b = (g * p - h * q) / det, (e * q - h * p) / det
        size = np.maximum(np.linalg.norm(normal, axis=1), 1e-30)
        bend = (((a * a)[:, None] * suu + 2 * (a * b)[:, None] * suv + (b * b)[:, None] * svv) * normal).sum(axis=1) / size
        if way is None:
            return uv, s, bend, np.zeros_like(s)
        # of what is given, the share along the contour, which runs where f keeps its value
        fu, fv, lift_u, lift_v = lift.T
        with np.errstate(divide="ignore", invalid="ignore"):
            share = (way[:, 0] * lift_v - way[:, 1] * lift_u) / (-fv * lift_v - fu * lift_u)
        share = np.where(np.isfinite(share), share, 0.0)
        along = np.where(still[:, None], way, np.stack((-fv * share, fu * share), axis=1))
        return uv, s, bend, along[:, :1] * su + along[:, 1:] * sv

    def nearest(self, patch: Ints, points: Array, uv: Array) -> tuple[Array, Array]:
        """The parameters (k, 2), sought from *uv*, at which patches come nearest to points (k, 3), and how near, mm (k,)."""
        uv = uv.copy()
        for _ in range(_STEPS):
            s, su, sv, *_ = self.second_order(patch, uv)
            away = points - s
            e, g, h = (su * su).sum(axis=1), (sv * sv).sum(axis=1), (su * sv).sum(axis=1)
            p, q = (away * su).sum(axis=1), (away * sv).sum(axis=1)
            with np.errstate(divide="ignore", invalid="ignore"):
                step = np.stack((g * p - h * q, e * q - h * p), axis=1) / (e * g - h * h)[:, None]
            step[~(np.abs(step).max(axis=1, initial=0.0) < _FARTHEST)] = 0.0
            uv += step
            if float(np.linalg.norm(step[:, :1] * su + step[:, 1:] * sv, axis=1).max(initial=0.0)) < _CLOSE:
                break
        return uv, np.asarray(np.linalg.norm(points - self.second_order(patch, uv)[0], axis=1))

    def normals(self, patch: Ints, uv: Array) -> Array:
        """Unit normals out of the part, (k, 3)."""
        _, su, sv, *_ = self.second_order(patch, uv)
        normal = cross(su, sv) * self._tables()[1][patch, 2:]
        return np.asarray(normal / np.maximum(np.linalg.norm(normal, axis=1), 1e-30)[:, None])

    def ends_on(self, asked: Sequence[EdgeOn]) -> tuple[Array, Array]:
        """Where edges come to be seen edge-on, on their faces: parameters of the faces (k, 2) and of the edges (k,), NaN where
        one does not."""
        found, along = np.full((len(asked), 2), np.nan), np.full(len(asked), np.nan)
        curves = [_on_face(self._faces[own.patch], own.edge, (own.low + own.high) / 2, own.near) for own in asked]
        rows = np.array([n for n, curve in enumerate(curves) if curve is not None], np.int64)
        if not len(rows):
            return found, along
        patch = np.array([own.patch for own in asked], np.int64)[rows]

        def places(t: Array) -> Array:
            at = [curves[n].Value(u) for n, u in zip(rows.tolist(), t.tolist(), strict=True)]
            return np.array([(p.X(), p.Y()) for p in at])

        def lean(t: Array) -> Array:
            return np.asarray(self.normals(patch, places(t))[:, 2])

        t = turn_between(lean, np.array([own.low for own in asked])[rows], np.array([own.high for own in asked])[rows])
        turns = np.isfinite(t)
        found[rows[turns]], along[rows[turns]] = places(np.where(turns, t, 0.0))[turns], t[turns]
        return found, along


def turn_between(value: Callable[[Array], Array], low: Array, high: Array) -> Array:
    """Where values change their sign between *low* and *high* (k,), NaN where they do not: regula falsi with the weight of an
    end that stays halved (Illinois; Dowell and Jarratt, BIT 11, 1971)."""
    a, b = low, high
    fa, fb = value(a), value(b)
    turns = (fa > 0) != (fb > 0)
    t = a.copy()
    for _ in range(_BRACKETS):
        with np.errstate(divide="ignore", invalid="ignore"):
            before, t = t, (a * fb - b * fa) / (fb - fa)
        t = np.where(np.isfinite(t), t, b)
        f = value(t)
        other = (f > 0) != (fb > 0)
        a, fa = np.where(other, b, a), np.where(other, fb, fa / 2)
        b, fb = t, f
        if float(np.abs(t - before)[turns].max(initial=0.0)) < 1e-14 * float(1 + np.abs(t).max(initial=0.0)):
            break
    return np.where(turns, t, np.nan)


class _Traces:
    """Contours as chains of places, one after the other."""

    def __init__(self) -> None:
        self._rows: list[tuple[int, Array, Array]] = []
        self._table: tuple[Ints, Array, Array, Ints, Ints] | None = None

    def add(self, patch: int, uv: Array, reach: Array) -> int:
        self._rows.append((patch, uv, reach))
        self._table = None
        return len(self._rows) - 1

    def near(self, number: Ints, t: Array) -> tuple[Ints, Array, Array, Array]:
        """Patches (k,), parameters near the places at counts (k,) of contours (k,), (k, 2), how far off these may be, (k,), and
        how they move, (k, 2)."""
        if self._table is None:
            count = np.array([len(uv) for _, uv, _ in self._rows], np.int64)
            self._table = (
                np.array([patch for patch, _, _ in self._rows], np.int64), np.concatenate([uv for _, uv, _ in self._rows]),
                np.concatenate([reach for _, _, reach in self._rows]), np.cumsum(count) - count, count - 1,
            )  # fmt: skip
        patch, uv, reach, first, last = self._table
        t = np.clip(t, -0.5, last[number] + 0.5)  # searches may try places beyond the ends
        n = np.clip(np.floor(t).astype(np.int64), 0, last[number] - 1)
        row = first[number] + n
        way = uv[row + 1] - uv[row]
        return patch[number], uv[row] + way * (t - n)[:, None], reach[row], way


@dataclass(frozen=True, eq=False)
class EdgeOn:
    """An edge of a patch's face, between two of its own parameters; *near* (2,), where it is there, tells the sides of a seam
    apart."""

    patch: int
    edge: Any
    low: float
    high: float
    near: Array | None = None


def _on_face(face: Any, edge: Any, middle: float, near: Array | None) -> Any:
    """An edge's curve in the parameters of a face, None where it has none: of two that which is *near* at *middle*."""
    curves = [BRep_Tool.CurveOnSurface_s(e, face, 0.0, 0.0) for e in (edge, TopoDS.Edge_s(edge.Reversed()))]

    def away(curve: Any) -> float:
        p = curve.Value(middle)
        return 0.0 if near is None else float(np.hypot(p.X() - near[0], p.Y() - near[1]))

    return min((c for c in curves if c is not None), key=away, default=None)


class Contour:
    """A contour over the count along a chain of places on it: 0 at the first, 1 at the next, and so on.

    :param uv: (k, 2), each exactly on the contour, as :meth:`Patches.turn_to` finds them; no place between two of them lies
        farther from either than *reach* (k,), mm.
    """

    def __init__(self, patches: Patches, patch: int, uv: Array, reach: Array) -> None:
        self.patches, self._uv = patches, uv
        self.number = patches.contours.add(patch, uv, reach)

    @property
    def last(self) -> int:
        return len(self._uv) - 1

    def draw(self, strokes: Strokes, tag: Tag, first: float, last: float, flat: Array) -> None:
        """Add [first, last], which runs through *flat* (k, 2): a line or circle where it is one, else Béziers."""
        if strokes.plain_through(tag, flat):
            return
        inner = np.arange(np.floor(first) + _STRIDE, np.ceil(last), _STRIDE)
        strokes.fit_later(tag, OneOfMany(self, _flat_many), np.concatenate(((first,), inner, (last,))))


def bends_on(patches: Patches, number: Ints, t: Array) -> tuple[Array, Array, Array]:
    """Points (k, 3) at counts (k,) of the contours by *number* (k,), how the surface bends there along the look, (k,), and its
    unit normals, (k, 3)."""
    patch, uv, reach, _ = patches.contours.near(number, t)
    uv, point, bend, _ = patches.turn_to(patch, uv, reach)
    return point, bend, patches.normals(patch, uv)


def points_on(patches: Patches, number: Ints, t: Array) -> tuple[Array, Array]:
    """Points and derivatives (k, 3) at counts (k,) of the contours by *number* (k,)."""
    _, point, _, slope = patches.turn_to(*patches.contours.near(number, t))
    return point, slope


def _flat_many(contours: Sequence[Contour], which: Ints, t: Array) -> tuple[Array, Array]:
    numbers = np.array([contour.number for contour in contours], np.int64)
    point, slope = points_on(contours[0].patches, numbers[which], t)
    return point[:, :2], slope[:, :2]


class KernelEdge:
    """An edge that is neither line nor conic, in view axes; of a spline *thread* is its number in the view's table, else −1."""

    def __init__(self, edge: Any, turn: Array, move: Array, spline: Spline | None, thread: int) -> None:
        self.thread = thread
        self._edge, self._turn, self._move, self._spline = edge, turn, move, spline
        self._adaptor = BRepAdaptor_Curve(edge) if spline is None else None
        self._drawing: ProjectedEdge | FlatSpline | None = None

    def at(self, t: Array) -> tuple[Array, Array]:
        assert self._adaptor is not None
        point, slope = gp_Pnt(), gp_Vec()
        rows = []
        for u in t.tolist():
            self._adaptor.D1(u, point, slope)
            rows.append((*xyz(point), *xyz(slope)))
        table = np.array(rows).reshape(-1, 6)
        return table[:, :3] @ self._turn.T + self._move, table[:, 3:] @ self._turn.T

    def draw(self, strokes: Strokes, tag: Tag, first: float, last: float, flat: Array) -> None:
        """Add [first, last]."""
        spline = self._spline
        if self._drawing is None and spline is not None and not spline.period[0]:
            w = spline.poles[:, 3:]
            poles = np.hstack((spline.poles[:, :3] @ self._turn[:2].T + w * self._move[:2], w))
            own = BRepAdaptor_Curve(self._edge)
            self._drawing = FlatSpline(spline.knots[0], poles, spline.degrees[0], (own.FirstParameter(), own.LastParameter()))
        if self._drawing is None:
            matrix = np.eye(4)
            matrix[:3, :3], matrix[:3, 3] = self._turn, self._move
            self._drawing = ProjectedEdge(TopoDS.Edge_s(placed(self._edge, matrix)), np.eye(3))
        self._drawing.draw(strokes, tag, first, last)
