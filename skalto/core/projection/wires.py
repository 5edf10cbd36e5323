"""Free curves of a model in a view: seen where a ray from them reaches the viewer."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from OCP.TopoDS import TopoDS

from skalto.core.artwork import EdgeClass
from skalto.core.geometry import Array
from skalto.core.projection.cutting import Shown
from skalto.core.projection.edges import ProjectedEdge
from skalto.core.projection.rays import Sight, chord_of, stage_of
from skalto.core.projection.strokes import ORDER, Strokes
from skalto.core.sources.models.model import Model

_SAMPLES = 129
_HALVINGS = 26
_LIFT = 3.0
"""By so many times the tessellation's tolerance a curve is lifted toward the viewer, so that one drawn on a face is seen."""
_WIRE, _HIDDEN = ORDER.index(EdgeClass.WIRE), ORDER.index(EdgeClass.HIDDEN)


def _points(curve: Any, t: Array, axes: Array) -> Array:
    """Points of a curve in view axes, (k, 3)."""
    values = (curve.Value(float(u)) for u in t)
    found: Array = np.array([(p.X(), p.Y(), p.Z()) for p in values]) @ axes.T
    return found


def _intervals(curve: Any, sight: Sight | None, axes: Array, lift: float) -> list[tuple[float, float, bool]]:
    """Stretches of a curve by its parameter, and whether each is seen."""
    first, last = curve.FirstParameter(), curve.LastParameter()
    if sight is None:
        return [(first, last, True)]
    seen_from = sight

    def free(t: Array) -> Any:
        return seen_from.free(_points(curve, t, axes) - seen_from.origin + np.array((0.0, 0.0, lift)))

    t = np.linspace(first, last, _SAMPLES)
    seen = free(t)
    changes = np.flatnonzero(seen[1:] != seen[:-1])
    low, high = t[changes].copy(), t[changes + 1].copy()
    for _ in range(_HALVINGS if len(changes) else 0):
        middle = (low + high) / 2
        as_before = free(middle) == seen[changes]
        low, high = np.where(as_before, middle, low), np.where(as_before, high, middle)
    ends = [first, *((low + high) / 2).tolist(), last]
    states = [bool(seen[0]), *(bool(seen[n + 1]) for n in changes.tolist())]
    return list(zip(ends[:-1], ends[1:], states, strict=True))


def add_wires(strokes: Strokes, model: Model, shown: Shown, axes: Array, tolerance: float, cut: bool) -> None:
    """Add the free curves of what is shown to a view's strokes; those behind parts as hidden ones.

    Where one comes from behind a part, its end is as exact as the tessellation. :param tolerance: mm, for what is fitted.
    """
    from skalto.core.sources.models.kernel import free_edges

    wires: Sequence[tuple[int, Any]] = [(n, edge) for n, shape in enumerate(shown.shapes) for edge in free_edges(shape)]
    if not wires:
        return
    chord = chord_of(shown, model)
    stage = stage_of(model, shown, cut, chord)
    sight = Sight(stage, axes) if stage is not None else None
    for owner, edge in wires:
        drawing = ProjectedEdge(TopoDS.Edge_s(edge), axes)
        for first, last, seen in _intervals(drawing.curve, sight, axes, _LIFT * chord):
            if last - first > 1e-9 * max(1.0, abs(last)):
                drawing.draw(strokes, (_WIRE if seen else _HIDDEN, owner), first, last)
    strokes.fit(tolerance)
