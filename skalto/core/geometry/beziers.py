"""Cubic Béziers in arrays."""

from __future__ import annotations

import numpy as np

from skalto.core.geometry.values import Array


def bezier_at(points: Array, t: Array) -> Array:
    """Cubic Béziers (n, 4, 2) at parameters (k,) or (n, k): points of shape (n, k, 2)."""
    t = np.asarray(t, float).reshape(-1, np.shape(t)[-1])
    s = 1.0 - t
    weights = np.stack((s * s * s, 3 * s * s * t, 3 * s * t * t, t * t * t), axis=-1)
    result: Array = weights @ points
    return result


def bezier_bounds(points: Array) -> Array:
    """Exact bounds of cubic Béziers (n, 4, 2): lowest and highest corner, shape (n, 2, 2)."""
    d0, d1, d2 = (points[:, i + 1] - points[:, i] for i in range(3))
    a, b, c = d0 - 2 * d1 + d2, 2 * (d1 - d0), d0
    with np.errstate(divide="ignore", invalid="ignore"):
        root = np.sqrt(b * b - 4 * a * c)
        q = -0.5 * (b + np.where(b >= 0, root, -root))
        roots = np.stack((q / a, c / q), axis=1)
    roots = np.where(np.isfinite(roots) & (roots > 0) & (roots < 1), roots, 0.0)
    candidates = [points[:, 0], points[:, 3]]
    for r in (roots[:, 0], roots[:, 1]):
        s = 1.0 - r
        candidates.append(
            s**3 * points[:, 0] + 3 * s * s * r * points[:, 1] + 3 * s * r * r * points[:, 2] + r**3 * points[:, 3]
        )
    stack = np.stack(candidates, axis=1)
    return np.stack((stack.min(axis=1), stack.max(axis=1)), axis=1)
