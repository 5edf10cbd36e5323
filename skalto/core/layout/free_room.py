"""Where there is room on a sheet that is in use: the largest rectangle that nothing lies in."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from skalto.core.geometry import Array, Box

_CELLS = 160
"""So many cells the longer side of the room is looked at in."""


def largest_free(room: Box, taken: Array | Sequence[Box], gap: float = 3.0) -> Box | None:
    """The largest rectangle within a room that keeps a gap from all that lies in it, mm; None where nothing is free.

    :param taken: boxes (n, 4), (x0, y0, x1, y1) each; one that has no size takes room all the same.
    """
    x0, y0, x1, y1 = room
    if x1 <= x0 or y1 <= y0:
        return None
    step = max(x1 - x0, y1 - y0) / _CELLS
    columns, rows = max(1, int((x1 - x0) / step)), max(1, int((y1 - y0) / step))
    boxes = np.asarray(taken, float).reshape(-1, 4)
    low = np.floor((boxes[:, :2] - gap - (x0, y0)) / step).astype(int)
    high = np.ceil((boxes[:, 2:] + gap - (x0, y0)) / step).astype(int)
    low, high = np.clip(low, 0, (columns, rows)), np.clip(high, 0, (columns, rows))
    # each box raises the count within it: four corners of a table that is summed both ways
    count = np.zeros((rows + 1, columns + 1), np.int64)
    for (cx, cy), sign in (
        ((low[:, 0], low[:, 1]), 1),
        ((high[:, 0], high[:, 1]), 1),
        ((low[:, 0], high[:, 1]), -1),
        ((high[:, 0], low[:, 1]), -1),
    ):
        np.add.at(count, (cy, cx), sign)
    free = count.cumsum(axis=0).cumsum(axis=1)[:rows, :columns] == 0
    best, found = 0, None
    heights = [0] * (columns + 1)
    for row in range(rows):
        heights[:columns] = [h + 1 if open_ else 0 for h, open_ in zip(heights[:columns], free[row].tolist(), strict=True)]
        # the largest rectangle under a skyline: each column ends those before it that are higher
        standing: list[tuple[int, int]] = []
        for column, height in enumerate(heights):
            begin = column
            while standing and standing[-1][1] >= height:
                begin, high_ = standing.pop()
                area = high_ * (column - begin)
                if area > best:
                    best, found = area, (begin, row - high_ + 1, column, row + 1)
            standing.append((begin, height))
    if found is None:
        return None
    a, b, c, d = found
    return x0 + a * step, y0 + b * step, x0 + c * step, y0 + d * step
