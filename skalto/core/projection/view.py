"""A view of a model: viewpoint and shown components to artwork, in model millimetres in the view's plane.

The origin of that plane is the model's own; a sheet scales and places it.
"""

from __future__ import annotations

from fractions import Fraction
from typing import Annotated, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from skalto.core.artwork import Artwork
from skalto.core.errors import InputError
from skalto.core.geometry import Array
from skalto.core.projection.cutting import Shown, cut_model
from skalto.core.projection.methods import HiddenLines
from skalto.core.projection.single import make_single
from skalto.core.projection.strokes import Strokes
from skalto.core.sheet_metal.choices import FlatSpec
from skalto.core.sources.drawings.excerpt import Excerpt
from skalto.core.sources.models.model import Component, Mesh, Model
from skalto.core.viewpoint import Vector, make_viewpoint

PAPER_TOLERANCE = 5e-4
"""How far a fitted curve may be from the true one on paper, mm: half of the 1 µm that a length between two may be off."""


class ProjectionSpec(BaseModel):
    """What decides a view's lines: the direction, what is hidden, how exactly curves are fitted (model mm), and what finds it.

    With *cut*, all that lies nearer than that along the look, mm, is taken away, but for the components in *uncut*.
    """

    model_config = ConfigDict(frozen=True)

    kind: Literal["projection"] = "projection"
    look: Vector
    up: Vector
    hidden: frozenset[str] = frozenset()
    tolerance: float = PAPER_TOLERANCE
    cut: float | None = None
    uncut: frozenset[str] = frozenset()
    hidden_lines: HiddenLines = HiddenLines.FACETS

    def axes(self) -> Array:
        return make_viewpoint("", self.look, self.up).axes()


class ExcerptSpec(BaseModel):
    """What decides the lines of a part of a drawing."""

    model_config = ConfigDict(frozen=True)

    kind: Literal["excerpt"] = "excerpt"
    excerpt: Excerpt


LinesSpec = Annotated[ProjectionSpec | ExcerptSpec | FlatSpec, Field(discriminator="kind")]
"""What decides the lines of a view, whatever it shows."""


class ShadeSpec(BaseModel):
    """What decides a shaded picture: the view, dots a model mm, and colours by component path that differ from the model's."""

    model_config = ConfigDict(frozen=True)

    view: ProjectionSpec
    dots: float
    colours: dict[str, str] = {}


def tolerance_for(scale: Fraction) -> float:
    """The model tolerance that holds :data:`PAPER_TOLERANCE` at a scale, in steps of ten so that few differ."""
    return PAPER_TOLERANCE * float(10.0 ** np.floor(-np.log10(float(scale)) + 1e-9))


def shown_in(model: Model, spec: ProjectionSpec) -> Shown:
    """What a view looks at: the shown components, placed, and cut where it is a section.

    :raises InputError: when no component is shown, or the cutting plane leaves nothing.
    """
    components = model.shown(spec.hidden)
    if not components:
        raise InputError("No component is shown in this view: show at least one.")
    if spec.cut is not None:
        shown = cut_model(model, components, spec.axes(), spec.cut, spec.uncut)
        if not shown.components:
            raise InputError("The cutting plane leaves nothing to see: move it into the part, or turn it about.")
        return shown
    if model.tree.kind == "mesh":
        return Shown(
            tuple(components), tuple(_placed_mesh(model.shapes[c.shape], c) for c in components if c.shape is not None)
        )
    from skalto.core.sources.models.kernel import placed

    return Shown(tuple(components), tuple(placed(model.shapes[c.shape], c.matrix()) for c in components if c.shape is not None))


def _placed_mesh(mesh: Mesh, component: Component) -> Mesh:
    matrix = component.matrix()
    return Mesh(mesh.vertices @ matrix[:3, :3].T + matrix[:3, 3], mesh.faces, mesh.colours)


def project(model: Model, spec: ProjectionSpec) -> Artwork:
    """Hidden-line removal over the shown components: all edge classes, no line twice.

    :raises InputError: when no component is shown, or a cut leaves nothing.
    """
    return project_shown(model, shown_in(model, spec), spec)


def project_shown(model: Model, shown: Shown, spec: ProjectionSpec) -> Artwork:
    """The same, of what was made ready by :func:`shown_in`."""
    axes = spec.axes()
    components = [c.path for c in shown.components]
    if model.tree.kind == "mesh":
        from skalto.core.projection.mesh_lines import mesh_strokes

        strokes = mesh_strokes([(mesh, np.eye(4)) for mesh in shown.shapes], axes)
    else:
        from skalto.core.projection.wires import add_wires

        strokes = _shape_strokes(model, shown, spec, axes)
        add_wires(strokes, model, shown, axes, spec.tolerance, spec.cut is not None)
    return make_single(strokes, components, spec.tolerance)


def _shape_strokes(model: Model, shown: Shown, spec: ProjectionSpec, axes: Array) -> Strokes:
    """The edges of kernel shapes: from facets, where every face has them, else by the kernel's algorithm."""
    from skalto.core.sources.models.kernel import as_splines, faces, has_inverted_cone

    numbers = [n for n, shape in enumerate(shown.shapes) if faces(shape)]
    if spec.hidden_lines is HiddenLines.FACETS:
        from skalto.core.projection.faceted import shown_strokes

        strokes = shown_strokes(model, shown, numbers, axes, spec.tolerance, spec.cut is not None)
        if strokes is not None:
            return strokes
    from skalto.core.projection.hidden_lines import strokes_of

    # the kernel's contours go wrong on a cone of negative radius: such shapes are seen as splines
    inverted = {
        c.shape for c in {c.shape: c for c in shown.components}.values() if has_inverted_cone(model.shapes[c.shape or 0])
    }
    shapes = [(n, as_splines(shown.shapes[n]) if shown.components[n].shape in inverted else shown.shapes[n]) for n in numbers]
    return strokes_of(shapes, axes, spec.tolerance)
