"""Edges of a model that dimensions and balloons hang on, and how they are found again in a newer revision."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from skalto.core.artwork import Artwork
from skalto.core.geometry import Array
from skalto.core.sheet_metal.facts import sheet_edges
from skalto.core.sheets.annotations import Ref
from skalto.core.sources.drawings.drawing import DrawingFacts
from skalto.core.sources.models.features import PartEdges, placed_edges
from skalto.core.sources.models.model import Component, ModelTree

_SAME = 1e-6


@dataclass(eq=False)
class SourceFacts:
    """What is known of a source without its geometry: the tree, and every part's straight and circular edges; of a *drawing*
    its layers, pages and fonts, beside a tree without components."""

    tree: ModelTree
    edges: Sequence[PartEdges]
    drawing: DrawingFacts | None = None
    _placed: dict[str, PartEdges] = field(default_factory=dict)

    @cached_property
    def leaves(self) -> dict[str, Component]:
        return {leaf.path: leaf for leaf in self.tree.leaves()}

    @cached_property
    def _names(self) -> dict[str, tuple[str, ...]]:
        """Each component's path, its path without the numbers of repeats, its part, and its own and its assemblies' names."""
        found = {}
        for component in self.tree.walk():
            steps = component.path.split("/")
            above = ["/".join(steps[: n + 1]) for n in range(len(steps))]
            plain = "/".join(re.sub(r" \(\d+\)$", "", step) for step in steps)
            found[component.path] = tuple(dict.fromkeys((*above, plain, component.part, *steps)))
        return found

    def naming(self, component: str) -> tuple[str, ...]:
        """The names that a component goes by, its own and those of what it is in."""
        return self._names.get(component, (component,))

    def of(self, path: str) -> PartEdges | None:
        """A component's edges in the model's axes; None when there is no such component."""
        if path not in self._placed:
            leaf = self.leaves.get(path)
            if leaf is None or leaf.shape is None:
                return None
            self._placed[path] = placed_edges(self.edges[leaf.shape], leaf)
        return self._placed[path]


def flat_facts(facts: SourceFacts, component: str, artwork: Artwork) -> SourceFacts:
    """A source's facts in which a component's edges are those of its flat pattern, lying at z = 0.

    :param artwork: the pattern's lines, mm.
    """
    lines, circles = sheet_edges(artwork)
    numbers = np.arange(len(lines) + len(circles))
    own = PartEdges(lines, numbers[: len(lines)], circles, numbers[len(lines) :])
    return SourceFacts(facts.tree, facts.edges, facts.drawing, {component: own})


def resolve(ref: Ref, facts: SourceFacts) -> Array | None:
    """Where the edge of a reference is now: (6,) both ends of a line or (7,) a circle; None when it is lost.

    It is found by its geometry, else by its number if it is still the same kind of edge, else as the nearest of its
    kind and size in the component.
    """
    own = facts.of(ref.component)
    if own is None:
        return None
    wanted = np.array(ref.geometry)
    rows, numbers = (own.lines, own.line_edges) if ref.kind == "line" else (own.circles[:, :7], own.circle_edges)
    if not len(rows):
        return None
    off = np.abs(rows - wanted).max(axis=1)
    if ref.kind == "line":
        off = np.minimum(off, np.abs(rows[:, [3, 4, 5, 0, 1, 2]] - wanted).max(axis=1))
    nearest = int(np.argmin(off))
    if off[nearest] <= _SAME:
        return _oriented(rows[nearest], wanted, ref.kind)
    alike = _alike(rows, wanted, ref.kind)
    same_number = np.flatnonzero((numbers == ref.edge) & alike)
    if len(same_number):
        return _oriented(rows[same_number[0]], wanted, ref.kind)
    if alike.any():
        chosen = np.flatnonzero(alike)
        middle = (rows[chosen, :3] + rows[chosen, 3:6]) / 2 if ref.kind == "line" else rows[chosen, :3]
        at = (wanted[:3] + wanted[3:6]) / 2 if ref.kind == "line" else wanted[:3]
        return _oriented(rows[chosen[int(np.argmin(np.linalg.norm(middle - at, axis=1)))]], wanted, ref.kind)
    return None


def _alike(rows: Array, wanted: Array, kind: str) -> NDArray[np.bool_]:
    """Which edges are of the kind that is wanted: parallel lines, or circles of one axis direction and radius."""
    if kind == "line":
        d, w = rows[:, 3:6] - rows[:, :3], wanted[3:6] - wanted[:3]
        size = np.linalg.norm(d, axis=1) * np.linalg.norm(w)
        return np.asarray(np.abs(np.abs(d @ w) - size) <= 1e-9 * np.maximum(size, 1e-12))
    return np.asarray((np.abs(rows[:, 6] - wanted[6]) <= _SAME) & (np.abs(rows[:, 3:6] @ wanted[3:6]) > 1 - 1e-9))


def _oriented(row: Array, wanted: Array, kind: str) -> Array:
    """A line's ends in the order in which the reference has them."""
    if kind == "line" and (row[3:6] - row[:3]) @ (wanted[3:6] - wanted[:3]) < 0:
        return row[[3, 4, 5, 0, 1, 2]]
    return row
