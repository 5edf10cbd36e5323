"""Exact places on curves, many at once: where one meets a surface, turns out of sight on it, or crosses another in the view.

All in view axes (x right, y up, z toward the viewer), mm. Each search is Newton's from a place near by.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from skalto.core.geometry import Array
from skalto.core.projection.facets import Flags, Ints, Surface
from skalto.core.projection.silhouettes import cross
from skalto.core.projection.splines import Table
from skalto.core.projection.turning import Contour, KernelEdge, Patches, points_on

_STEPS = 12
_CLOSE = 1e-11
NONE, ODD = -1, -2
_MET = 1e-6
"""A curve and a surface that are nearer than this, mm, meet."""


@dataclass(frozen=True, eq=False)
class Rows:
    """Curves, one a row: the rows c, a, b of ``frame`` (n, 3, 3) say c + a·t for a line, c + a·cos t + b·sin t for a ``conic``
    (n,); ``other`` is None for these, and the curve itself where it is neither. Of splines ``thread`` (n,) is the
    number in the ``table``, :data:`ODD` of the kernel's other curves; of contours ``trace`` (n,) is that among those of the
    ``patches``; :data:`NONE` of the rest."""

    conic: Flags
    frame: Array
    other: list[KernelEdge | Contour | None]
    thread: Ints
    trace: Ints
    table: Table
    patches: Patches

    def pick(self, rows: Ints) -> Rows:
        other = [self.other[n] for n in rows.tolist()]
        return Rows(self.conic[rows], self.frame[rows], other, self.thread[rows], self.trace[rows], self.table, self.patches)

    def at(self, t: Array) -> tuple[Array, Array]:
        """Points and derivatives (n, 3), each curve at its parameter, (n,)."""
        c, a, b = self.frame[:, 0], self.frame[:, 1], self.frame[:, 2]
        turned = self.conic[:, None]
        cos, sin = np.cos(t)[:, None], np.sin(t)[:, None]
        point = c + np.where(turned, a * cos + b * sin, a * t[:, None])
        slope = np.where(turned, b * cos - a * sin, a)
        there = np.isfinite(t)
        splined = np.flatnonzero((self.thread >= 0) & there)
        if len(splined):
            point[splined], slope[splined] = self.table.on_curves(self.thread[splined], t[splined])
        traced = np.flatnonzero((self.trace >= 0) & there)
        if len(traced):
            point[traced], slope[traced] = points_on(self.patches, self.trace[traced], t[traced])
        for n in np.flatnonzero((self.thread == ODD) & there).tolist():
            other = self.other[n]
            assert isinstance(other, KernelEdge)
            places, slopes = other.at(t[n : n + 1])
            point[n], slope[n] = places[0], slopes[0]
        return point, slope


def numbered(other: list[KernelEdge | Contour | None]) -> tuple[Ints, Ints]:
    """The ``thread`` and ``trace`` of curves."""
    thread = [NONE if not isinstance(own, KernelEdge) else own.thread if own.thread >= 0 else ODD for own in other]
    trace = [own.number if isinstance(own, Contour) else NONE for own in other]
    return np.array(thread, np.int64), np.array(trace, np.int64)


def on_surface(surface: Ints, form: Array, points: Array) -> tuple[Array, Array]:
    """How far points (n, 3) are from surfaces, mm (n,), and the unit normals there, (n, 3)."""
    away = points - form[:, :3]
    axis = form[:, 3:6]
    along = (away * axis).sum(axis=1)
    across = away - along[:, None] * axis
    radial = np.linalg.norm(across, axis=1)
    out = across / np.maximum(radial, 1e-12)[:, None]
    distance, normal = along.copy(), axis.copy()
    is_ = surface == Surface.CYLINDER
    distance[is_], normal[is_] = (radial - form[:, 6])[is_], out[is_]
    is_ = surface == Surface.CONE
    if is_.any():
        # the half of the cone that the point is on
        half = np.abs(form[:, 6])
        side = np.where(along >= 0, 1.0, -1.0)
        distance[is_] = (radial * np.cos(half) - np.abs(along) * np.sin(half))[is_]
        normal[is_] = (out * np.cos(half)[:, None] - axis * (side * np.sin(half))[:, None])[is_]
    is_ = surface == Surface.SPHERE
    if is_.any():
        size = np.linalg.norm(away, axis=1)
        distance[is_], normal[is_] = (size - form[:, 6])[is_], (away / np.maximum(size, 1e-12)[:, None])[is_]
    is_ = surface == Surface.TORUS
    if is_.any():
        ring = radial - form[:, 6]
        size = np.hypot(ring, along)
        distance[is_] = (size - form[:, 7])[is_]
        normal[is_] = ((out * ring[:, None] + axis * along[:, None]) / np.maximum(size, 1e-12)[:, None])[is_]
    return distance, normal


def _newton(value: Callable[[Array], Array], slope: Callable[[Array], Array] | None, t: Array, reach: Array) -> Array:
    """The root of *value* near t (n,), NaN where none is nearer than *reach* (n,)."""
    at = t.copy()
    step = np.zeros_like(t)
    small = 1e-7 * np.maximum(reach, 1e-9)
    for _ in range(_STEPS):
        f = value(at)
        d = slope(at) if slope is not None else (value(at + small) - value(at - small)) / (2 * small)
        with np.errstate(divide="ignore", invalid="ignore"):
            step = -f / d
        step = np.where(np.isfinite(step), step, np.inf)
        at = np.where(np.abs(step) <= 2 * reach, at + step, np.nan)
        if not (np.abs(step[np.isfinite(at)]) > _CLOSE * (1 + np.abs(at[np.isfinite(at)]))).any():
            break
    found = np.isfinite(at) & (np.abs(at - t) <= reach) & (np.abs(step) <= 1e-8 * (1 + np.abs(at)))
    return np.where(found, at, np.nan)


def pierced(curves: Rows, t: Array, reach: Array, surface: Ints, form: Array, place: Array, normal: Array) -> Array:
    """Where curves go through surfaces, on the side that faces the viewer as the surface does at a *place* (n, 3), by its
    *normal* there (n, 3): what goes in at the back of a cylinder is hidden before."""

    def value(u: Array) -> Array:
        return on_surface(surface, form, curves.at(u)[0])[0]

    def slope(u: Array) -> Array:
        point, way = curves.at(u)
        change: Array = (on_surface(surface, form, point)[1] * way).sum(axis=1)
        return change

    found = _newton(value, slope, t, reach)
    way_out = np.where((on_surface(surface, form, place)[1] * normal).sum(axis=1) > 0, 1.0, -1.0)
    lean = on_surface(surface, form, curves.at(np.where(np.isfinite(found), found, t))[0])[1][:, 2] * way_out
    return np.where(lean > 0, found, np.nan)


def pierced_patch(curves: Rows, t: Array, reach: Array, patches: Patches, patch: Ints, uv: Array, normal: Array) -> Array:
    """Where curves go through the surfaces of patches (n,), sought from t and the parameters *uv* (n, 2), on the side that
    faces the viewer as the surface does there, by its *normal* (n, 3)."""
    at, place, step = t.copy(), uv.copy(), np.full(len(t), np.inf)
    for _ in range(_STEPS):
        point, way = curves.at(at)
        surface, su, sv, *_ = patches.second_order(patch, place)
        gap, normal = surface - point, cross(su, sv)
        with np.errstate(divide="ignore", invalid="ignore"):
            step = (gap * normal).sum(axis=1) / (way * normal).sum(axis=1)
            # what is left lies in the surface: along S_u and S_v
            rest = way * step[:, None] - gap
            square = (normal * normal).sum(axis=1)
            move = np.stack(((cross(rest, sv) * normal).sum(axis=1), (cross(su, rest) * normal).sum(axis=1)), axis=1)
            move = move / square[:, None]
        going = np.isfinite(step) & np.isfinite(move).all(axis=1) & (np.abs(step) <= 2 * reach)
        at, place = np.where(going, at + step, np.nan), np.where(going[:, None], place + move, place)
        if not (np.abs(step[going]) > _CLOSE * (1 + np.abs(at[going]))).any():
            break
    found = np.isfinite(at) & (np.abs(at - t) <= reach) & (np.abs(step) <= 1e-8 * (1 + np.abs(at)))
    rows = np.flatnonzero(found)
    if len(rows):
        way_out = np.where((patches.normals(patch[rows], uv[rows]) * normal[rows]).sum(axis=1) > 0, 1.0, -1.0)
        gap = patches.second_order(patch[rows], place[rows])[0] - curves.pick(rows).at(at[rows])[0]
        faces_viewer = patches.normals(patch[rows], place[rows])[:, 2] * way_out > 0
        found[rows] = (np.linalg.norm(gap, axis=1) < _MET) & faces_viewer
    return np.where(found, at, np.nan)


def turned_away(curves: Rows, t: Array, reach: Array, surface: Ints, form: Array) -> Array:
    """Where curves that lie on surfaces come to a place that is seen edge-on."""
    return _newton(lambda u: on_surface(surface, form, curves.at(u)[0])[1][:, 2], None, t, reach)


def behind_contour(curves: Rows, t: Array, reach: Array, surface: Ints, form: Array) -> Array:
    """Where curves cross, in the view, the contour of a cylinder, cone or sphere; NaN for other surfaces."""
    axis, middle = form[:, 3:6], form[:, :2]
    flat = np.linalg.norm(axis[:, :2], axis=1)
    across = np.column_stack((-axis[:, 1], axis[:, 0])) / np.maximum(flat, 1e-12)[:, None]
    start = curves.at(t)[0][:, :2] - middle
    side = np.where((start * across).sum(axis=1) >= 0, 1.0, -1.0)
    # of a cone, the contour is two lines through its tip
    half = np.abs(form[:, 6])
    with np.errstate(divide="ignore", invalid="ignore"):
        tilt = np.arcsin(np.clip(np.sin(half) / np.maximum(flat, 1e-12), -1, 1))
    forward = axis[:, :2] / np.maximum(flat, 1e-12)[:, None]
    ahead = np.where((start * forward).sum(axis=1) >= 0, 1.0, -1.0)
    leaning = across * np.cos(tilt)[:, None] - forward * (side * ahead * np.sin(tilt))[:, None]
    normal = np.where((surface == Surface.CONE)[:, None], leaning, across)
    offset = np.where(surface == Surface.CYLINDER, side * form[:, 6], 0.0)
    round_ = surface == Surface.SPHERE

    def value(u: Array) -> Array:
        at = curves.at(u)[0][:, :2] - middle
        straight = (at * normal).sum(axis=1) - offset
        found: Array = np.where(round_, np.linalg.norm(at, axis=1) - form[:, 6], straight)
        return found

    found = _newton(value, None, t, reach)
    known = np.isin(surface, (Surface.CYLINDER, Surface.CONE, Surface.SPHERE)) & (round_ | (flat > 1e-9))
    return np.where(known, found, np.nan)


def crossed(curves: Rows, t: Array, reach: Array, others: Rows, s: Array) -> Array:
    """Where curves cross others in the view; both places are sought, from t and s, and neither is far from there."""
    u, v = t.copy(), s.copy()
    step, lost = np.full(len(t), np.inf), np.zeros(len(t), bool)
    for _ in range(_STEPS):
        p, dp = curves.at(u)
        q, dq = others.at(v)
        lost |= ~(np.isfinite(q).all(axis=1) & np.isfinite(p).all(axis=1))
        gap = (q - p)[:, :2]
        det = dp[:, 1] * dq[:, 0] - dp[:, 0] * dq[:, 1]
        with np.errstate(divide="ignore", invalid="ignore"):
            du = (gap[:, 1] * dq[:, 0] - gap[:, 0] * dq[:, 1]) / det
            dv = (gap[:, 1] * dp[:, 0] - gap[:, 0] * dp[:, 1]) / det
        step = np.where(np.isfinite(du) & np.isfinite(dv), du, np.inf)
        lost |= np.abs(step) > 2 * reach
        # what is lost stays where it is
        u, v = np.where(lost, u, u + step), np.where(lost, v, v + dv)
        if not (np.abs(step[~lost]) > _CLOSE * (1 + np.abs(u[~lost]))).any():
            break
    found = ~lost & (np.abs(u - t) <= reach) & (np.abs(step) <= 1e-8 * (1 + np.abs(u)))
    far = np.linalg.norm(dp[:, :2], axis=1) * reach
    found &= np.abs(v - s) * np.linalg.norm(dq[:, :2], axis=1) <= 4 * far
    return np.where(found, u, np.nan)
