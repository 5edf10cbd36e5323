"""Placements that keep shapes."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from skalto.core.geometry.values import Array


@dataclass(frozen=True)
class Similarity:
    """A placement that keeps shapes: scale first, then turn by *turn* radians, then move by (dx, dy) mm."""

    scale: float = 1.0
    dx: float = 0.0
    dy: float = 0.0
    turn: float = 0.0

    def vectors(self, xy: Array) -> Array:
        """Scale and turn directions, shape (…, 2)."""
        if not self.turn:
            return xy * self.scale
        cos, sin = math.cos(self.turn) * self.scale, math.sin(self.turn) * self.scale
        turned: Array = np.stack((xy[..., 0] * cos - xy[..., 1] * sin, xy[..., 0] * sin + xy[..., 1] * cos), axis=-1)
        return turned

    def points(self, xy: Array) -> Array:
        """Move points, shape (…, 2)."""
        moved: Array = self.vectors(xy) + np.array((self.dx, self.dy))
        return moved

    def back(self, xy: Array) -> Array:
        """Where points (…, 2) came from."""
        return Similarity(1 / self.scale, turn=-self.turn).vectors(np.asarray(xy, float) - np.array((self.dx, self.dy)))
