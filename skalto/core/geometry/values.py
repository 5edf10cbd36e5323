"""The values that geometry is made of, each defined here alone."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
"""Numbers in rows: coordinates are millimetres, angles radians."""
Bools = NDArray[np.bool_]
Ints = NDArray[np.int64]
Point = tuple[float, float]
"""A point of a plane, or a step from one to another, mm."""
Box = tuple[float, float, float, float]
"""(x0, y0, x1, y1): the lower left and the upper right corner, mm."""
TAU = 2.0 * np.pi
"""A whole turn, radians."""
