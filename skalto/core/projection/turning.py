"""Contours of curved faces, exact: the places on a surface that are seen edge-on, as one curve from edge to edge."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.gp import gp_Pnt, gp_Vec
from OCP.TopoDS import TopoDS

from skalto.core.artwork import Array
from skalto.core.curves import OneOfMany
from skalto.core.models.extents import xyz
from skalto.core.models.kernel import placed
from skalto.core.projection.edges import ProjectedEdge
from skalto.core.projection.facets import Flags, Ints, Surface
from skalto.core.projection.silhouettes import cross
from skalto.core.projection.splines import Spline, Table
from skalto.core.projection.strokes import Strokes, Tag

_STEPS = 8
_CLOSE = 1e-10
"""A step on the surface shorter than this, mm, ends the search."""
_BRACKETS = 60
_FARTHEST = 1e6
"""A step of the parameters longer than this leads nowhere."""


class Patches:
    """The surfaces of faces with their derivatives, in view axes; normals point out of the part."""

    def __init__(self) -> None:
        self._rings: list[tuple[Array, Array, Array, Array, float, float]] = []
        self._adaptors: list[tuple[Any, Array, Array] | None] = []
        self._faces: list[Any] = []
        self._splines, self._nets = Table(), list[int]()
        self._signs: list[float] = []
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
        self._signs.append(1.0)
        self._table = None
        _, su, sv, *_ = self.second_order(np.array([number]), uv[None])
        self._signs[number] = 1.0 if float(cross(su, sv)[0] @ outward) > 0 else -1.0
        self._table = None
        return number

    def ring(self, patch: int) -> tuple[Array, Array, Array, Array, float, float]:
        """Centre, axes and radii of a torus."""
        return self._rings[patch]

    def _tables(self) -> tuple[Array, Array, Flags, Ints]:
        """Centre and axes (p, 4, 3), both radii and the sign of the normal (p, 3), which are rings, and their numbers
        among the splines, (p,)."""
        if self._table is None:
            self._table = (
                np.array([ring[:4] for ring in self._rings]),
                np.array([(*ring[4:], sign) for ring, sign in zip(self._rings, self._signs, strict=True)]),
                np.array([adaptor is None for adaptor in self._adaptors]),
                np.array(self._nets, np.int64),
            )
        return self._table

    def second_order(self, patch: Ints, uv: Array) -> Array:
        """Point, S_u, S_v, S_uu, S_vv, S_uv of patches (k,) at parameters (k, 2): (6, k, 3)."""
        frames, sizes, rings, nets = self._tables()
        c, x, y, z = (frames[patch, n] for n in range(4))
        major, minor = sizes[patch, :1], sizes[patch, 1:2]
        cu, su, cv, sv = (f(uv[:, n])[:, None] for n in (0, 1) for f in (np.cos, np.sin))
        out, across = cu * x + su * y, cu * y - su * x
        radius = major + minor * cv
        found = np.stack((
            c + radius * out + minor * sv * z, radius * across, minor * (cv * z - sv * out), -radius * out,
            -minor * (cv * out + sv * z), -minor * sv * across,
        ))  # fmt: skip
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
        stay.
        """
        begun, uv, still = uv, uv.copy(), np.zeros(len(uv), bool)
        first = self.second_order(patch, uv)[0]
        for again in range(_STEPS + 1):
            s, su, sv, suu, svv, suv = self.second_order(patch, uv)
            far = ~(np.linalg.norm(s - first, axis=1) <= reach)
            if far.any():
                uv[far], still = begun[far], still | far
                s, su, sv, suu, svv, suv = self.second_order(patch, uv)
            f = cross(su, sv)[:, 2]
            fu = (cross(suu, sv) + cross(su, suv))[:, 2]
            fv = (cross(suv, sv) + cross(su, svv))[:, 2]
            e, g, h = (su * su).sum(axis=1), (sv * sv).sum(axis=1), (su * sv).sum(axis=1)
            with np.errstate(divide="ignore", invalid="ignore"):
                lift_u, lift_v = (g * fu - h * fv) / (e * g - h * h), (e * fv - h * fu) / (e * g - h * h)
                factor = -f / (fu * lift_u + fv * lift_v)
                step = np.stack((factor * lift_u, factor * lift_v), axis=1)
            step[~(np.abs(step).max(axis=1, initial=0.0) < _FARTHEST) | still] = 0.0
            moved = step[:, :1] * su + step[:, 1:] * sv
            if again == _STEPS or float(np.abs(moved).max(initial=0.0)) < _CLOSE:
                break
            uv += step
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
        with np.errstate(divide="ignore", invalid="ignore"):
            share = (way[:, 0] * lift_v - way[:, 1] * lift_u) / (-fv * lift_v - fu * lift_u)
        share = np.where(np.isfinite(share), share, 0.0)
        return uv, s, bend, (-fv * share)[:, None] * su + (fu * share)[:, None] * sv

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
        self.patches, self.patch, self._uv, self._reach = patches, patch, uv, reach

    @property
    def last(self) -> int:
        return len(self._uv) - 1

    def near(self, t: Array) -> tuple[Array, Array, Array]:
        """Parameters near the places at counts (k,), and how they move, (k, 2) each; and how far off they may be, (k,)."""
        t = np.clip(t, -0.5, self.last + 0.5)  # searches may try places beyond the ends
        n = np.clip(np.floor(t).astype(np.int64), 0, self.last - 1)
        way = self._uv[n + 1] - self._uv[n]
        return self._uv[n] + way * (t - n)[:, None], way, self._reach[n]

    def draw(self, strokes: Strokes, tag: Tag, first: float, last: float, flat: Array) -> None:
        """Add [first, last], which runs through *flat* (k, 2): a line or circle where it is one, else Béziers."""
        if strokes.plain_through(tag, flat):
            return
        inner = np.arange(np.floor(first) + 1, np.ceil(last))
        strokes.fit_later(tag, OneOfMany(self, _flat_many), np.concatenate(((first,), inner, (last,))))


def _near(contours: Sequence[Contour], which: Ints, t: Array) -> tuple[Ints, Array, Array, Array]:
    """Patches (k,), parameters near the places (k, 2), how far off they may be (k,), and how they move, (k, 2); *which* (k,) of
    the contours each is on."""
    place, way, reach = np.empty((len(t), 2)), np.empty((len(t), 2)), np.empty(len(t))
    order = np.argsort(which, kind="stable")
    for rows in np.split(order, np.flatnonzero(np.diff(which[order])) + 1):
        place[rows], way[rows], reach[rows] = contours[which[rows[0]]].near(t[rows])
    return np.array([contour.patch for contour in contours], np.int64)[which], place, reach, way


def bends_on(contours: Sequence[Contour], which: Ints, t: Array) -> tuple[Array, Array, Array]:
    """Points (k, 3) at counts (k,) of the contours that *which* (k,) names, how the surface bends there along the look, (k,),
    and its unit normals, (k, 3)."""
    patches, (patch, uv, reach, _) = contours[0].patches, _near(contours, which, t)
    uv, point, bend, _ = patches.turn_to(patch, uv, reach)
    return point, bend, patches.normals(patch, uv)


def points_on(contours: Sequence[Contour], which: Ints, t: Array) -> tuple[Array, Array]:
    """Points and derivatives (k, 3) at counts (k,) of the contours that *which* (k,) names."""
    _, point, _, slope = contours[0].patches.turn_to(*_near(contours, which, t))
    return point, slope


def _flat_many(contours: Sequence[Contour], which: Ints, t: Array) -> tuple[Array, Array]:
    point, slope = points_on(contours, which, t)
    return point[:, :2], slope[:, :2]


class KernelEdge:
    """An edge that is neither line nor conic, in view axes; *thread* is its number in the view's table of splines, or −1."""

    def __init__(self, edge: Any, turn: Array, move: Array, thread: int = -1) -> None:
        self.thread = thread
        self._edge, self._turn, self._move = edge, turn, move
        self._adaptor = BRepAdaptor_Curve(edge)
        self._drawing: ProjectedEdge | None = None

    def at(self, t: Array) -> tuple[Array, Array]:
        point, slope = gp_Pnt(), gp_Vec()
        rows = []
        for u in t.tolist():
            self._adaptor.D1(u, point, slope)
            rows.append((*xyz(point), *xyz(slope)))
        table = np.array(rows).reshape(-1, 6)
        return table[:, :3] @ self._turn.T + self._move, table[:, 3:] @ self._turn.T

    def draw(self, strokes: Strokes, tag: Tag, first: float, last: float, flat: Array) -> None:
        """Add [first, last]."""
        if self._drawing is None:
            matrix = np.eye(4)
            matrix[:3, :3], matrix[:3, 3] = self._turn, self._move
            self._drawing = ProjectedEdge(TopoDS.Edge_s(placed(self._edge, matrix)), np.eye(3))
        self._drawing.draw(strokes, tag, first, last)
