"""Rotations: which way up a model stands in 3D."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from pydantic import AfterValidator

from skalto.core.geometry import Array
from skalto.core.viewpoint import Vector

_STRAIGHT = 1e-6


def _a_turn(rows: tuple[Vector, Vector, Vector]) -> tuple[Vector, Vector, Vector]:
    matrix = np.asarray(rows, float)
    if not np.isfinite(matrix).all() or np.abs(matrix @ matrix.T - np.eye(3)).max() > _STRAIGHT or np.linalg.det(matrix) < 0:
        raise ValueError("A model is turned, neither mirrored nor stretched: give three unit vectors square to each other.")
    return rows


Turn = Annotated[tuple[Vector, Vector, Vector], AfterValidator(_a_turn)]
"""A rotation, (3, 3) by rows, from the model's axes to those of the 3D annotation."""

UPRIGHT: tuple[Vector, Vector, Vector] = ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))
"""As the model has its axes: z points up."""


def straightened(matrix: Array) -> tuple[Vector, Vector, Vector]:
    """The rotation nearest to a matrix (3, 3), so that many turns one after another do not drift."""
    u, _, v = np.linalg.svd(np.asarray(matrix, float))
    rows = np.round(u @ v, 12) + 0.0
    return tuple(rows[0].tolist()), tuple(rows[1].tolist()), tuple(rows[2].tolist())
