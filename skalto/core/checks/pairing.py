"""Which of many rows lie near which others, in all their numbers at once."""

from __future__ import annotations

import numba
import numpy as np
from numpy.typing import NDArray

from skalto.core.geometry import Array

Ints = NDArray[np.int64]
_CELL = 4.0
"""The side of a cell of the grid in nearnesses: what is near lies in at most two columns and two rows of cells."""
MOST = 4
"""How many near rows are named of each."""
_SHIFT = 1 << 30


def _keys(rows: Array, side: float) -> Ints:
    """The cell of each row in the grid of its first two numbers."""
    cells = np.clip(np.floor(rows[:, :2] / side), -_SHIFT + 2, _SHIFT - 3).astype(np.int64) + _SHIFT
    return cells[:, 0] * (2 * _SHIFT) + cells[:, 1]


class Near:
    """Rows (n, d) to be asked what of them lies near, no number further off than *near*."""

    def __init__(self, rows: Array, near: float) -> None:
        self._near = near
        keys = _keys(rows, _CELL * near)
        self._order = np.argsort(keys, kind="stable")
        self._keys, self._rows = keys[self._order], np.ascontiguousarray(rows[self._order])

    def of(self, rows: Array) -> tuple[Ints, Ints]:
        """How many lie near each of some rows (m,), and of these the first :data:`MOST` by number (m, MOST), −1 for none."""
        side = _CELL * self._near
        low, high = _keys(rows - self._near, side), _keys(rows + self._near, side)
        found: tuple[Ints, Ints] = _count(
            self._keys, self._rows, self._order, np.ascontiguousarray(rows), low, high, self._near
        )
        return found


@numba.njit(cache=True, nogil=True)  # type: ignore[untyped-decorator]
def _count(keys: Ints, rows: Array, order: Ints, asked: Array, low: Ints, high: Ints, near: float) -> tuple[Ints, Ints]:
    counts, named = np.zeros(len(asked), np.int64), np.full((len(asked), MOST), -1, np.int64)
    column = np.int64(2 * _SHIFT)
    for n in range(len(asked)):
        for x in range(low[n] // column, high[n] // column + 1):
            first, last = x * column + low[n] % column, x * column + high[n] % column
            at = np.searchsorted(keys, first)
            while at < len(keys) and keys[at] <= last:
                apart = False
                for k in range(asked.shape[1]):
                    if not abs(rows[at, k] - asked[n, k]) <= near:
                        apart = True
                        break
                if not apart:
                    if counts[n] < MOST:
                        named[n, counts[n]] = order[at]
                    counts[n] += 1
                at += 1
    return counts, named
