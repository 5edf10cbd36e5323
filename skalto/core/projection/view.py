"""A view of a model: viewpoint and shown components to artwork, in model millimetres in the view's plane.

The origin of that plane is the model's own; a sheet scales and places it.
"""

from __future__ import annotations

from fractions import Fraction

import numpy as np
from pydantic import BaseModel, ConfigDict

from skalto.core.artwork import Array, Artwork
from skalto.core.errors import InputError
from skalto.core.models.model import Model
from skalto.core.projection.single import make_single
from skalto.core.viewpoint import Vector, make_viewpoint

PAPER_TOLERANCE = 5e-4
"""How far a fitted curve may be from the true one on paper, mm: half of the 1 µm that a length between two may be off."""


class ProjectionSpec(BaseModel):
    """What decides a view's lines: the direction, what is hidden, and how exactly curves are fitted (model mm)."""

    model_config = ConfigDict(frozen=True)

    look: Vector
    up: Vector
    hidden: frozenset[str] = frozenset()
    tolerance: float = PAPER_TOLERANCE

    def axes(self) -> Array:
        return make_viewpoint("", self.look, self.up).axes()


def tolerance_for(scale: Fraction) -> float:
    """The model tolerance that holds :data:`PAPER_TOLERANCE` at a scale, in steps of ten so that few differ."""
    return PAPER_TOLERANCE * float(10.0 ** np.floor(-np.log10(float(scale)) + 1e-9))


def project(model: Model, spec: ProjectionSpec) -> Artwork:
    """Hidden-line removal over the shown components: all edge classes, no line twice.

    :raises InputError: when no component is shown.
    """
    shown = model.shown(spec.hidden)
    if not shown:
        raise InputError("No component is shown in this view: show at least one.")
    axes = spec.axes()
    components = [c.path for c in shown]
    if model.tree.kind == "mesh":
        placed = [(model.shapes[c.shape], c.matrix()) for c in shown if c.shape is not None]
        from skalto.core.projection.mesh_lines import mesh_strokes

        strokes = mesh_strokes(placed, axes)
    else:
        from skalto.core.models.kernel import as_splines, has_inverted_cone
        from skalto.core.models.kernel import placed as place
        from skalto.core.projection.hidden_lines import strokes_of

        # the kernel's contours go wrong on a cone of negative radius: such shapes are seen as splines
        distinct = {c.shape: model.shapes[c.shape] for c in shown if c.shape is not None}
        sound = {n: as_splines(shape) if has_inverted_cone(shape) else shape for n, shape in distinct.items()}
        strokes = strokes_of([place(sound[c.shape], c.matrix()) for c in shown if c.shape is not None], axes, spec.tolerance)
    return make_single(strokes, components)
