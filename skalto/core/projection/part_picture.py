"""A small picture of a part, for lists: what is seen of it from the corner, as chords, in a box of a known size."""

from __future__ import annotations

import itertools

import numpy as np

from skalto.core.artwork import Polylines
from skalto.core.geometry import Array
from skalto.core.projection.cutting import Shown
from skalto.core.projection.rough import rough_lines
from skalto.core.sources.models.model import Component, Mesh, Model
from skalto.core.viewpoint import make_viewpoint

WIDTH, HEIGHT = 56.0, 40.0
"""The box that pictures stand in, units of the picture."""
_LOOK = make_viewpoint("iso", (-1.0, 1.0, -1.0), (0.0, 0.0, 1.0))
_STEPS = 10
"""So many steps a unit has: less than a pixel of any screen."""
MOST = 6000
"""A picture of more chords than this would be black: it is left out."""


def part_picture(model: Model, component: Component) -> str:
    """Path data of SVG, y down, in a box of WIDTH × HEIGHT, the part's picture in its middle; '' where nothing can be shown."""
    if component.shape is None:
        return ""
    axes = np.array(_LOOK.axes())
    runs = _runs(model, component, axes)
    points = np.concatenate(runs) if runs else np.zeros((0, 2))
    if not len(points) or len(points) > MOST or not np.isfinite(points).all():
        return ""
    low, high = points.min(axis=0), points.max(axis=0)
    size = np.maximum(high - low, 1e-9)
    factor = min((WIDTH - 2) / size[0], (HEIGHT - 2) / size[1])
    middle = (low + high) / 2
    out = []
    for run in runs:
        at = np.round(((run - middle) * (factor, -factor) + (WIDTH / 2, HEIGHT / 2)) * _STEPS).astype(int)
        keep = np.append(True, (np.diff(at, axis=0) != 0).any(axis=1))
        if keep.sum() > 1:
            out.append("M" + "L".join(f"{x / _STEPS:g} {y / _STEPS:g}" for x, y in at[keep].tolist()))
    return "".join(out)


def _runs(model: Model, component: Component, axes: Array) -> list[Array]:
    assert component.shape is not None
    shape = model.shapes[component.shape]
    if isinstance(shape, Mesh):
        from skalto.core.artwork import EdgeClass
        from skalto.core.projection.mesh_lines import mesh_strokes
        from skalto.core.projection.strokes import ORDER

        strokes = mesh_strokes([(shape, component.matrix())], axes)
        unseen = ORDER.index(EdgeClass.HIDDEN)
        return [
            np.array(line).reshape(2, 2) for line, tag in zip(strokes.lines, strokes.line_tags, strict=True) if tag[0] != unseen
        ]
    from skalto.core.sources.models.kernel import placed

    art = rough_lines(model, Shown((component,), (placed(shape, component.matrix()),)), axes)
    found: list[Array] = []
    for item in art.items:
        if isinstance(item, Polylines):
            found += [item.points[a:b] for a, b in itertools.pairwise(item.first.tolist())]
    return found
