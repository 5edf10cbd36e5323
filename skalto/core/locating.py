"""Where what lies far from its origin is counted from."""

from __future__ import annotations

import math
from collections.abc import Sequence

FAR = 100.0
"""What lies further from its origin than so many times its own size is kept about a local one."""

FARTHEST = 1e15
"""mm; whole units in the last place are a tenth of a millimetre there."""


def local_origin(low: Sequence[float], high: Sequence[float]) -> tuple[float, ...]:
    """The round point near the middle of a box from which to count, where the box lies far out; nought else.

    Round, so that a revision a little larger counts from the same point.
    """
    size = max((b - a for a, b in zip(low, high, strict=True)), default=0.0)
    middle = [(a + b) / 2 for a, b in zip(low, high, strict=True)]
    if size <= 0 or max(abs(v) for v in middle) <= FAR * size:
        return tuple(0.0 for _ in middle)
    step = 10.0 ** math.ceil(math.log10(size) + 1)
    return tuple(round(v / step) * step for v in middle)
