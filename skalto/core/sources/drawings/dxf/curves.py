"""Splines as cubic Béziers: exactly where they are polynomial of third degree or less, else fitted."""

from __future__ import annotations

from typing import Any

import numpy as np
from scipy.interpolate import BSpline

from skalto.core.geometry import Array
from skalto.core.geometry.curves import fit_beziers

FIT = 4e-7
"""How far a fitted curve may be from the true one, in its own size: half a micrometre on a sheet of the size A0."""


def spline_beziers(entity: Any) -> Array:
    """A SPLINE's cubic Béziers (k, 4, 2). :raises ValueError: when it has too few points to be a curve."""
    tool = entity.construction_tool()
    if not tool.is_rational and tool.is_clamped and tool.degree <= 3:
        return _raised(np.array([[p.vec2 for p in piece] for piece in tool.bezier_decomposition()], float))
    points = np.array([(p.x, p.y) for p in tool.control_points], float)
    weights = np.array(tool.weights(), float) if tool.is_rational else np.ones(len(points))
    return fitted(points, weights, np.array(tool.knots(), float), int(tool.degree))


def _raised(pieces: Array) -> Array:
    """Bézier pieces (k, degree + 1, 2) of first to third degree as cubic ones."""
    if pieces.shape[1] == 4:
        return pieces
    if pieces.shape[1] == 3:
        a, b, c = pieces[:, 0], pieces[:, 1], pieces[:, 2]
        return np.stack((a, a + (b - a) * 2 / 3, c + (b - c) * 2 / 3, c), axis=1)
    a, b = pieces[:, 0], pieces[:, 1]
    return np.stack((a, a + (b - a) / 3, b + (a - b) / 3, b), axis=1)


def fitted(points: Array, weights: Array, knots: Array, degree: int) -> Array:
    """Cubic Béziers (k, 4, 2) along a rational B-spline of any degree, within :data:`FIT` of its size."""
    homogeneous = np.column_stack((points * weights[:, None], weights))
    curve = BSpline(knots, homogeneous, degree)
    slope = curve.derivative()

    def along(t: Array) -> tuple[Array, Array]:
        value, change = curve(t), slope(t)
        place = value[:, :2] / value[:, 2:]
        return place, (change[:, :2] - place * change[:, 2:]) / value[:, 2:]

    breaks = np.unique(knots[degree : len(points) + 1])
    size = float(np.ptp(points, axis=0).max()) or 1.0
    return fit_beziers(along, breaks, size * FIT)
