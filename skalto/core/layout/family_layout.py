"""Laying out a family of views that were named, not pulled: where each goes about the first one."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from skalto.core.geometry import Array
from skalto.core.layout.families import pulled_look
from skalto.core.sheets.annotations import Dimension, DimensionKind
from skalto.core.sheets.sheet import Arrangement
from skalto.core.viewpoint import Viewpoint, make_viewpoint

Cell = tuple[int, int]
_STRAIGHT: tuple[Cell, ...] = ((1, 0), (-1, 0), (0, 1), (0, -1))
_DIAGONAL: tuple[Cell, ...] = ((1, -1), (1, 1), (-1, -1), (-1, 1))


def _place_about(axes: Array, wanted: Array, arrangement: Arrangement) -> Cell | None:
    """The cell about a view with *axes* in which one with *wanted* axes lies, or None when it is no neighbour."""
    for cell in _STRAIGHT:
        look, up = pulled_look(axes, (float(cell[0]), float(cell[1])), arrangement)
        if np.abs(make_viewpoint("", look, up).axes() - wanted).max() < 1e-9:
            return cell
    return None


def family_cells(viewpoints: Sequence[Viewpoint], arrangement: Arrangement) -> tuple[list[Cell], list[int | None]]:
    """A cell for every view about the first, and the number of the view that it was pulled from, None for the others.

    Views that are no neighbours of one that is placed, pictorial ones above all, take free corners (ISO 128-3, ISO 5456-2).
    """
    cells: dict[int, Cell] = {0: (0, 0)}
    parents: dict[int, int] = {}
    axes = [v.axes() for v in viewpoints]
    waiting = list(range(1, len(viewpoints)))
    going = True
    while waiting and going:
        going = False
        for number in list(waiting):
            for placed, cell in list(cells.items()):
                step = _place_about(axes[placed], axes[number], arrangement)
                if step is None or (cell[0] + step[0], cell[1] + step[1]) in cells.values():
                    continue
                # a second step goes on in the line of the first
                if placed and (step[0] * cell[1] or step[1] * cell[0]):
                    continue
                cells[number] = (cell[0] + step[0], cell[1] + step[1])
                parents[number] = placed
                waiting.remove(number)
                going = True
                break
    for number in waiting:
        # the corner that the straight views leave open first
        used = set(cells.values())
        lean = (max((c[0] for c in used), key=abs, default=0) or 1, min((c[1] for c in used), key=lambda v: -abs(v)) or -1)
        corners = sorted(_DIAGONAL, key=lambda c: (c[0] * lean[0] < 0) + (c[1] * lean[1] < 0))
        free = [c for c in corners if c not in used]
        cells[number] = free[0] if free else (max(c[0] for c in used) + 1, 0)
    return [cells[n] for n in range(len(viewpoints))], [parents.get(n) for n in range(len(viewpoints))]


def overall_sizes(viewpoints: Sequence[Viewpoint]) -> list[tuple[Dimension, ...]]:
    """Overall dimensions for a set of views, each size of the model once, none on a pictorial view."""
    done: list[Array] = []
    rows = []
    for number, viewpoint in enumerate(viewpoints):
        axes = viewpoint.axes()
        own: list[Dimension] = []
        if np.abs(axes[2]).max() > 0.999:
            for kind, axis, offset in ((DimensionKind.WIDTH, axes[0], -12.0), (DimensionKind.HEIGHT, axes[1], 12.0)):
                if all(abs(axis @ other) < 0.999 for other in done):
                    done.append(axis)
                    own.append(Dimension(id=f"overall{number}{kind.value}", kind=kind, offset=offset))
        rows.append(tuple(own))
    return rows
