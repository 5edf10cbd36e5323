"""Lengths of the model, taken from the geometry and not from the drawing, by which a finished file is judged."""

from __future__ import annotations

import numpy as np

from skalto.core.artwork import Artwork, EdgeClass, Ellipses
from skalto.core.geometry import TAU, Array
from skalto.core.lengths import ReferenceLength
from skalto.core.projection.cutting import Shown
from skalto.core.projection.view import ProjectionSpec
from skalto.core.sources.models.building import turned_box
from skalto.core.sources.models.model import Mesh, Model


def _view_box(model: Model, shown: Shown, spec: ProjectionSpec) -> tuple[Array, Array] | None:
    """The exact extents of what is shown along the view's axes, (3,) each."""
    turning = np.eye(4)
    turning[:3, :3] = spec.axes()
    boxes = []
    for component, shape in zip(shown.components, shown.shapes, strict=True):
        assert component.shape is not None
        matrix = turning @ component.matrix()
        facts = model.tree.shapes[component.shape]
        rotation = np.abs(matrix[:3, :3])
        if spec.cut is None and np.all((rotation < 1e-12) | (np.abs(rotation - rotation.max()) < 1e-12)):
            boxes.append(turned_box(np.array(facts.low), np.array(facts.high), matrix))
        elif isinstance(shape, Mesh):
            points = shape.vertices @ turning[:3, :3].T
            boxes.append((points.min(axis=0), points.max(axis=0)))
        else:
            from skalto.core.sources.models.extents import extents
            from skalto.core.sources.models.kernel import placed

            found = extents(placed(shape, turning))
            if found is not None:
                boxes.append(found)
    if not boxes:
        return None
    return np.min([b[0] for b in boxes], axis=0), np.max([b[1] for b in boxes], axis=0)


def _diameter(model: Model, spec: ProjectionSpec, artwork: Artwork) -> ReferenceLength | None:
    """The largest circular edge of the model that is square to the view and seen whole."""
    if model.tree.kind == "mesh":
        return None
    from skalto.core.sources.models.circles import circular_edges

    seen = [
        (*centre, radius)
        for item in artwork
        if isinstance(item, Ellipses) and item.tags.edge_class is EdgeClass.VISIBLE
        for centre, radius, whole, circle in zip(
            item.centre, item.radii()[:, 0], item.sweep >= TAU - 1e-9, item.is_circle(), strict=True
        )
        if whole and circle
    ]
    if not seen:
        return None
    circles = np.array(seen)
    axes = spec.axes()
    best: ReferenceLength | None = None
    for component in model.shown(spec.hidden):
        assert component.shape is not None
        matrix = component.matrix()
        for centre, axis, radius in circular_edges(model.shapes[component.shape]):
            if best is not None and 2 * radius <= best.value:
                continue
            direction = matrix[:3, :3] @ axis
            if abs(direction @ axes[2]) < 1 - 1e-10:
                continue
            x, y = (axes[:2] @ (matrix[:3, :3] @ centre + matrix[:3, 3])).tolist()
            if np.abs(circles - (x, y, radius)).max(axis=1).min() > 1e-3:
                continue
            best = ReferenceLength(kind="diameter", value=2 * radius, centre=(x, y), component=component.path)
    return best


def reference_lengths(model: Model, shown: Shown, spec: ProjectionSpec, artwork: Artwork) -> list[ReferenceLength]:
    """Overall width and height of what is shown, and the largest hole or disc that is seen whole."""
    box = _view_box(model, shown, spec)
    lengths: list[ReferenceLength] = []
    if box is not None:
        width, height, _ = (box[1] - box[0]).tolist()
        lengths += [ReferenceLength(kind="width", value=width), ReferenceLength(kind="height", value=height)]
    circle = _diameter(model, spec, artwork)
    return lengths + ([circle] if circle else [])
