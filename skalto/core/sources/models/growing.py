"""A model in another unit than its file names: all of it larger or smaller by one factor."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from skalto.core.sources.models.model import Component, Mesh, Model, ShapeFacts, Size


def _by(size: Size, factor: float) -> Size:
    return size[0] * factor, size[1] * factor, size[2] * factor


def _grown_shape(shape: Any, factor: float) -> tuple[Any, str]:
    if isinstance(shape, Mesh):
        return replace(shape, vertices=shape.vertices * factor), ""
    from skalto.core.sources.models import kernel

    made = kernel.scaled(shape, factor)
    kernel.mark_smooth_edges(made)
    return made, kernel.content_name(made)


def _grown_facts(facts: ShapeFacts, factor: float, content: str) -> ShapeFacts:
    changes: dict[str, Any] = {
        "low": _by(facts.low, factor), "high": _by(facts.high, factor), "volume": facts.volume * factor**3,
        # of a mesh the name stays what it is, and says by how much it has grown
        "content": content or (f"{facts.content}x{factor!r}" if facts.content else ""),
    }  # fmt: skip
    if facts.fingerprint:
        volume, area, *moments, apart, hand = facts.fingerprint
        changes["fingerprint"] = (volume * factor**3, area * factor**2, *(m * factor**5 for m in moments), apart * factor, hand)
    return facts.model_copy(update=changes)


def _grown_component(component: Component, factor: float) -> Component:
    matrix = component.matrix().copy()
    matrix[:3, 3] *= factor
    return component.model_copy(
        update={
            "placement": tuple(matrix.ravel().tolist()), "size": _by(component.size, factor),
            "volume": component.volume * factor**3,
            "children": tuple(_grown_component(child, factor) for child in component.children),
        }
    )  # fmt: skip


def grown(model: Model, factor: float) -> Model:
    """The same model, each length times a factor; its shapes about their own origins, its components' places with them."""
    if factor == 1:
        return model
    tree = model.tree
    made = [_grown_shape(shape, factor) for shape in model.shapes]
    changes = {
        "low": _by(tree.low, factor), "size": _by(tree.size, factor), "origin": _by(tree.origin, factor),
        "shapes": tuple(
            _grown_facts(facts, factor, content) for facts, (_, content) in zip(tree.shapes, made, strict=True)
        ),
        "components": tuple(_grown_component(root, factor) for root in tree.components),
    }  # fmt: skip
    return Model(tree.model_copy(update=changes), tuple(shape for shape, _ in made))
