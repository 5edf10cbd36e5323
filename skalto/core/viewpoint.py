"""Directions of looking, after ISO 128-3 and ISO 5456-2 and -3.

A model stands with z up; its front looks at −y. Each viewpoint is the direction *looked along* and the
direction that points up on the sheet.
"""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from skalto.core.errors import InputError
from skalto.core.typed import typed

Vector = tuple[float, float, float]


@dataclass(frozen=True)
class Viewpoint:
    """A named direction of looking: *look* along, *up* on the sheet (need not be square to it)."""

    name: str
    look: Vector
    up: Vector

    def axes(self) -> NDArray[np.float64]:
        """Rows: right, up and toward the viewer, as unit vectors in the model's axes, shape (3, 3)."""
        look, up = (_handy(np.asarray(vector, float)) for vector in (self.look, self.up))
        look = look / np.linalg.norm(look)
        left = up - look * (up @ look)
        size = np.linalg.norm(left)
        near = bool(size < 1e-3 * np.linalg.norm(up))
        up = left / size
        if near:
            # of an up that lies nearly along the look little is left, and that is not square to it
            up = up - look * (up @ look)
            up /= np.linalg.norm(up)
        axes = np.array([np.cross(look, up), up, -look])
        axes[np.abs(axes) < 1e-15] = 0.0
        return axes


def _handy(vector: NDArray[np.float64]) -> NDArray[np.float64]:
    """The same direction in numbers whose squares are numbers."""
    largest = float(np.abs(vector).max())
    return vector if 1e-100 < largest < 1e100 else vector / largest


PRINCIPAL: dict[str, Viewpoint] = {
    v.name: v
    for v in (
        Viewpoint("front", (0, 1, 0), (0, 0, 1)),
        Viewpoint("top", (0, 0, -1), (0, 1, 0)),
        Viewpoint("left", (1, 0, 0), (0, 0, 1)),
        Viewpoint("right", (-1, 0, 0), (0, 0, 1)),
        Viewpoint("bottom", (0, 0, 1), (0, -1, 0)),
        Viewpoint("rear", (0, -1, 0), (0, 0, 1)),
    )
}
"""The six principal views of ISO 128-3."""

PICTORIAL: dict[str, Viewpoint] = {
    v.name: v
    for v in (
        Viewpoint("iso", (-1, 1, -1), (0, 0, 1)),
        Viewpoint("iso left", (1, 1, -1), (0, 0, 1)),
        Viewpoint("iso below", (-1, 1, 1), (0, 0, 1)),
        Viewpoint("iso below left", (1, 1, 1), (0, 0, 1)),
    )
}
"""Four isometric views (ISO 5456-3), from the four corners of the front."""

STANDARD = PRINCIPAL | PICTORIAL

_CUSTOM = re.compile(r"dir:(?P<look>[^;]+)(?:;up:(?P<up>[^;]+))?")


def _vector(text: str, whole: str) -> Vector:
    try:
        x, y, z = (float(part) for part in text.split(","))
    except ValueError:
        raise InputError(f"“{whole}” is not a direction: write dir:x,y,z;up:x,y,z with three numbers each.") from None
    return x, y, z


def make_viewpoint(name: str, look: Sequence[float], up: Sequence[float] | None = None) -> Viewpoint:
    """A viewpoint from vectors; without *up*, z is up, or y for a view straight up or down.

    :raises InputError: for a zero or endless vector, or an *up* along the look.
    """
    if up is None:
        up = (0, 0, 1) if math.hypot(look[0], look[1]) > 1e-9 * abs(look[2]) else (0, 1, 0)
    look_a, up_a = np.asarray(look, float), np.asarray(up, float)
    if not (np.isfinite(look_a).all() and np.isfinite(up_a).all()) or not np.any(look_a) or not np.any(up_a):
        raise InputError("A direction needs at least one number that is not zero.")
    look_a, up_a = look_a / np.abs(look_a).max(), up_a / np.abs(up_a).max()
    if np.linalg.norm(np.cross(look_a, up_a)) < 1e-9:
        raise InputError("Up is parallel to the view direction: choose another up direction.")
    return Viewpoint(name, tuple(map(float, look)), tuple(map(float, up)))  # type: ignore[arg-type]


def parse_viewpoint(text: str) -> Viewpoint:
    """Read a viewpoint: a standard name or ``dir:x,y,z;up:x,y,z`` (the direction looked along).

    :raises InputError: when it is neither.
    """
    text = typed(text, "a view direction")
    key = text.lower().replace("-", " ").replace("_", " ")
    if key in STANDARD:
        return STANDARD[key]
    match = _CUSTOM.fullmatch(text.lower().replace(" ", ""))
    if not match:
        raise InputError(f"“{text}” is not a view: name one of {', '.join(STANDARD)}, or write dir:x,y,z;up:x,y,z.")
    up = _vector(match["up"], text) if match["up"] else None
    return make_viewpoint(text, _vector(match["look"], text), up)
