"""How deep a curved face truly lies behind a place of the view, compiled: for what is nearer to it than its triangles are.

All in view axes (x right, y up, z toward the viewer). A ray along the look meets a cylinder, a cone and a sphere where a
quadratic has its roots; a torus by Newton's steps from its triangle.
"""

from __future__ import annotations

import math

import numba
import numpy as np

_CYLINDER, _CONE, _SPHERE, _TORUS = 1, 2, 3, 4
"""As :class:`~skalto.core.projection.facets.Surface` numbers them; compiled code takes plain numbers."""
_STEPS = 10
_FLAT = 1e-4
"""A torus that leans less than this toward the viewer is not sought: its triangles are taken instead."""


@numba.njit(cache=True, nogil=True)  # type: ignore[untyped-decorator]
def _outward(surface, form, x, y, z, out):  # type: ignore[no-untyped-def]
    """How far a place is outside of a surface, mm, and the normal there that leads away from the axis or middle, into *out*."""
    wx, wy, wz = x - form[0], y - form[1], z - form[2]
    along = wx * form[3] + wy * form[4] + wz * form[5]
    if surface == _SPHERE:
        size = math.sqrt(wx * wx + wy * wy + wz * wz)
        out[0], out[1], out[2] = wx / max(size, 1e-12), wy / max(size, 1e-12), wz / max(size, 1e-12)
        return size - form[6]
    ax, ay, az = wx - along * form[3], wy - along * form[4], wz - along * form[5]
    radial = math.sqrt(ax * ax + ay * ay + az * az)
    ax, ay, az = ax / max(radial, 1e-12), ay / max(radial, 1e-12), az / max(radial, 1e-12)
    if surface == _CYLINDER:
        out[0], out[1], out[2] = ax, ay, az
        return radial - form[6]
    if surface == _CONE:
        cos, sin = math.cos(abs(form[6])), math.sin(abs(form[6]))
        side = sin if along >= 0 else -sin
        out[0], out[1], out[2] = ax * cos - form[3] * side, ay * cos - form[4] * side, az * cos - form[5] * side
        return radial * cos - abs(along) * sin
    ring = radial - form[6]
    size = math.sqrt(ring * ring + along * along)
    ring, along = ring / max(size, 1e-12), along / max(size, 1e-12)
    out[0], out[1], out[2] = ax * ring + form[3] * along, ay * ring + form[4] * along, az * ring + form[5] * along
    return size - form[7]


@numba.njit(cache=True, nogil=True)  # type: ignore[untyped-decorator]
def front_depth(surface, form, x, y, guess, corner, normal, reach, out):  # type: ignore[no-untyped-def]
    """The z at which the side of a surface that faces the viewer lies behind the place (x, y), NaN where there is none nearer
    than *reach* to the *guess*; *out* (3,) takes its normal toward the viewer.

    :param surface: cylinder, cone, sphere or torus. :param form: as in :class:`~skalto.core.projection.facets.Facets`, (8,).
    :param corner: a place (3,) on it with the *normal* (3,) of a triangle there, whose front faces the viewer.
    """
    _outward(surface, form, corner[0], corner[1], corner[2], out)
    side = 1.0 if out[0] * normal[0] + out[1] * normal[1] + out[2] * normal[2] > 0 else -1.0
    z = guess
    if surface == _TORUS:
        off = np.inf
        for _ in range(_STEPS):
            off = _outward(surface, form, x, y, z, out)
            if abs(out[2]) < _FLAT or abs(z - guess) > reach:
                return np.nan
            if abs(off) < 1e-10:
                break
            z -= off / out[2]
        if abs(off) > 1e-8:
            return np.nan
    else:
        wx, wy, wz = x - form[0], y - form[1], guess - form[2]
        along = wx * form[3] + wy * form[4] + wz * form[5]
        a, b, c = 1.0, wz, wx * wx + wy * wy + wz * wz
        if surface == _SPHERE:
            c -= form[6] ** 2
        else:
            factor = 1.0 if surface == _CYLINDER else 1.0 / math.cos(form[6]) ** 2
            a -= factor * form[5] ** 2
            b -= factor * along * form[5]
            c -= factor * along * along + (form[6] ** 2 if surface == _CYLINDER else 0.0)
        inside = b * b - a * c
        if inside < 0:
            return np.nan
        root = side * math.sqrt(inside)
        # the quotient that loses no digits
        if root * b > 0:
            z = guess - c / (b + root)
        elif a != 0.0:
            z = guess + (root - b) / a
        else:
            return np.nan
        _outward(surface, form, x, y, z, out)
    if not abs(z - guess) <= reach or out[2] * side < 0:
        return np.nan
    out[0], out[1], out[2] = out[0] * side, out[1] * side, out[2] * side
    return z
