"""Drawing order without its cost: strokes in as few passes as show the same.

Where two strokes of different colours meet, the later one covers; where they do not, nobody sees which came first. Strokes
are given passes so that whatever may meet in another colour keeps its order, and each pass is drawn group by group.
"""

from __future__ import annotations

import numba
import numpy as np
from numpy.typing import NDArray

CELLS = 512
"""Into how many cells a side the drawing is divided to see what may meet."""


@numba.njit(cache=True)  # type: ignore[untyped-decorator]
def _passes(cells: NDArray[np.int64], colour: NDArray[np.int64], side: int) -> NDArray[np.int64]:
    count = len(colour)
    level = np.zeros(count, np.int64)
    last = np.zeros((side, side), np.int64)
    whose = np.full((side, side), -1, np.int64)
    for n in range(count):
        x0, y0, x1, y1 = cells[n, 0], cells[n, 1], cells[n, 2], cells[n, 3]
        own = 0
        for y in range(y0, y1 + 1):
            for x in range(x0, x1 + 1):
                if whose[y, x] == -1:
                    continue
                # a cell with several colours in its last pass takes whoever comes next into the pass after
                below = last[y, x] + (1 if whose[y, x] != colour[n] else 0)
                if below > own:
                    own = below
        level[n] = own
        for y in range(y0, y1 + 1):
            for x in range(x0, x1 + 1):
                if whose[y, x] == -1 or last[y, x] < own:
                    last[y, x] = own
                    whose[y, x] = colour[n]
    return level


def passes(boxes: NDArray[np.float64], colour: NDArray[np.int64]) -> NDArray[np.int64]:
    """In which pass each stroke is drawn, in drawing order: boxes (n, 2, 2) with their line widths, and colours by number."""
    low = boxes[:, 0].min(axis=0)
    size = np.maximum(boxes[:, 1].max(axis=0) - low, 1e-9)
    cells = np.floor((boxes - low) / size * CELLS).astype(np.int64).clip(0, CELLS - 1).reshape(-1, 4)
    found: NDArray[np.int64] = _passes(np.ascontiguousarray(cells), colour, CELLS)
    return found
