"""A model far from its origin, kept about a local one: the kernel's tolerances and single precision hold near nought alone."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

import numpy as np

from skalto.core.geometry import Array
from skalto.core.locating import local_origin
from skalto.core.sources.models.model import Component, Mesh, Model, ShapeFacts


def _moved_shape(shape: Any, facts: ShapeFacts, by: Array) -> tuple[Any, ShapeFacts]:
    """A shape whose own coordinates lie far out, moved by (3,) mm, with its box anew."""
    if isinstance(shape, Mesh):
        made: Any = replace(shape, vertices=shape.vertices + by)
        low, high = made.vertices.min(axis=0), made.vertices.max(axis=0)
    else:
        from skalto.core.sources.models import kernel
        from skalto.core.sources.models.extents import extents

        made = kernel.baked(shape, by)
        kernel.mark_smooth_edges(made)
        box = extents(made)
        assert box is not None
        low, high = box
    return made, facts.model_copy(update={"low": tuple(low.tolist()), "high": tuple(high.tolist())})


def _moved_component(component: Component, by: Array, own: Mapping[int, Array]) -> Component:
    matrix = component.matrix().copy()
    if component.shape is not None and component.shape in own:
        matrix[:3, 3] += matrix[:3, :3] @ np.asarray(own[component.shape])
    matrix[:3, 3] -= by
    children = tuple(_moved_component(child, by, own) for child in component.children)
    return component.model_copy(update={"placement": tuple(matrix.ravel().tolist()), "children": children})


def localised(model: Model) -> Model:
    """The same model about a local origin where it, or a part in its own axes, lies far out; else the model itself."""
    tree = model.tree
    low, high = np.array(tree.low), np.array(tree.low) + np.array(tree.size)
    origin = np.array(local_origin(low.tolist(), high.tolist()))
    far = {n: np.array(local_origin(facts.low, facts.high)) for n, facts in enumerate(tree.shapes)}
    far = {n: own for n, own in far.items() if own.any()}
    if not origin.any() and not far:
        return model
    shapes, facts = list(model.shapes), list(tree.shapes)
    for n, own in far.items():
        shapes[n], facts[n] = _moved_shape(shapes[n], facts[n], -own)
    changes = {
        "low": tuple((low - origin).tolist()),
        "shapes": tuple(facts),
        "components": tuple(_moved_component(root, origin, far) for root in tree.components),
        "origin": tuple(origin.tolist()),
    }
    return Model(tree.model_copy(update=changes), tuple(shapes))
