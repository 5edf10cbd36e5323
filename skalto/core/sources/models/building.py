"""From labels, names and placements to a :class:`ModelTree`: what every reader has in common."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np

from skalto.core.geometry import Array
from skalto.core.sources.models.model import Component, ModelTree, ShapeFacts, Size, cover_of
from skalto.core.typed import one_line

DEFAULT_COLOUR = "#b8bcc0"
_HERE = np.eye(4)
BoxOf = Callable[[int, Array], tuple[Array, Array]]
"""The exact box of shape number n at a 4 × 4 placement."""


@dataclass
class Branch:
    """A component as a reader finds it: its placement is relative to its parent, its colour as :func:`cover_of` reads it."""

    name: str
    part: str
    placement: Array
    shape: int | None = None
    colour: str | None = None
    children: list[Branch] = field(default_factory=list)


def _is_axis_aligned(matrix: Array) -> bool:
    rotation = np.abs(matrix[:3, :3])
    return bool(np.all((rotation < 1e-12) | (np.abs(rotation - rotation.max()) < 1e-12)))


def turned_box(low: Array, high: Array, matrix: Array) -> tuple[Array, Array]:
    """The box around a box after a placement."""
    centre = matrix[:3, :3] @ ((low + high) / 2) + matrix[:3, 3]
    half = np.abs(matrix[:3, :3]) @ ((high - low) / 2)
    return centre - half, centre + half


class TreeBuilder:
    """Turns branches into components: unique paths, world placements, sizes in each one's own axes."""

    def __init__(self, shapes: Sequence[ShapeFacts], box_of: BoxOf) -> None:
        self._shapes = shapes
        self._box_of = box_of
        self._boxes: dict[tuple[int, bytes], tuple[Array, Array]] = {}

    def _box(self, shape: int, matrix: Array) -> tuple[Array, Array]:
        facts = self._shapes[shape]
        low, high = np.array(facts.low), np.array(facts.high)
        if matrix is _HERE:
            return low, high
        if _is_axis_aligned(matrix):
            return turned_box(low, high, matrix)
        # the turning decides the box; the move only shifts it
        key = (shape, np.round(matrix[:3, :3], 12).tobytes())
        if key not in self._boxes:
            turning = np.eye(4)
            turning[:3, :3] = matrix[:3, :3]
            self._boxes[key] = self._box_of(shape, turning)
        low, high = self._boxes[key]
        return low + matrix[:3, 3], high + matrix[:3, 3]

    def _leaf_boxes(self, branch: Branch, matrix: Array) -> list[tuple[Array, Array]]:
        boxes = [self._box(branch.shape, matrix)] if branch.shape is not None else []
        for child in branch.children:
            boxes += self._leaf_boxes(child, matrix @ child.placement)
        return boxes

    def _around(self, branches: Sequence[tuple[Branch, Array]]) -> tuple[Size, Size]:
        """Lowest corner and size of the box around branches at placements."""
        boxes = [box for branch, matrix in branches for box in self._leaf_boxes(branch, matrix)]
        if not boxes:
            return (0.0, 0.0, 0.0), (0.0, 0.0, 0.0)
        low, high = np.min([b[0] for b in boxes], axis=0), np.max([b[1] for b in boxes], axis=0)
        return tuple(low.tolist()), tuple((high - low).tolist())

    def _component(self, branch: Branch, above: str, world: Array, name: str, colour: str | None) -> Component:
        path = f"{above}/{name}" if above else name
        here = world @ branch.placement
        colour = branch.colour or colour
        children = self._siblings(branch.children, path, here, colour)
        facts = self._shapes[branch.shape] if branch.shape is not None else None
        hue, opacity = cover_of(colour or DEFAULT_COLOUR)
        return Component(
            name=name,
            path=path,
            part=branch.part,
            shape=branch.shape,
            colour=hue,
            opacity=opacity,
            placement=tuple(float(v) for v in here.ravel()),
            size=self._around([(branch, _HERE)])[1],
            volume=facts.volume if facts else sum(c.volume for c in children),
            children=children,
        )

    def _siblings(self, branches: Sequence[Branch], above: str, world: Array, colour: str | None) -> tuple[Component, ...]:
        taken: set[str] = set()
        result = []
        for branch in branches:
            # a slash would read as a level of the tree
            base = name = one_line(branch.name).replace("/", "-").strip() or "unnamed"
            number = 2
            while name in taken:
                name, number = f"{base} ({number})", number + 1
            taken.add(name)
            result.append(self._component(branch, above, world, name, colour))
        return tuple(result)

    def build(self, roots: Sequence[Branch], unit: str, kind: str) -> ModelTree:
        components = self._siblings(roots, "", np.eye(4), None)
        leaves = [leaf for root in components for leaf in root.walk() if leaf.shape is not None]
        low, size = self._around([(root, root.placement) for root in roots])
        return ModelTree(
            unit=unit,
            kind=kind,
            low=low,
            size=size,
            solids=sum(self._shapes[leaf.shape].solids for leaf in leaves if leaf.shape is not None),
            shapes=tuple(self._shapes),
            components=components,
        )
