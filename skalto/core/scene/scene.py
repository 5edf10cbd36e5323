"""A scene: distinct meshes, and the tree of nodes that places them. What 3D outputs take, and what they are read back to."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from skalto.core.geometry import Array

Ints = NDArray[np.int64]
PIECE = " · piece "
"""In a file, between a part's name and the number of a piece of it."""


@dataclass(frozen=True, eq=False)
class SolidMesh:
    """Triangles in the part's own axes, mm.

    *positions* (n, 3); *normals* (k, 3) unit vectors, empty where none are known; *corners* (m, 3) position indices;
    *turns* (m, 3) normal indices; *shading* (m,) which of the node's colours each triangle has. *uv* (t, 2) places on a
    picture, from 0 to 1 to the right and up, and *uvs* (m, 3) their indices: both empty where no picture lies on it.
    """

    positions: Array
    normals: Array
    corners: Ints
    turns: Ints
    shading: Ints
    uv: Array = field(default_factory=lambda: np.empty((0, 2)))
    uvs: Ints = field(default_factory=lambda: np.empty((0, 3), np.int64))

    @property
    def shadings(self) -> int:
        return int(self.shading.max()) + 1 if len(self.shading) else 1

    def volume(self) -> float:
        """mm³, by the divergence theorem; a number without sense for an open mesh."""
        a, b, c = (self.positions[self.corners[:, k]] for k in range(3))
        return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)

    def area(self) -> float:
        """mm²."""
        a, b, c = (self.positions[self.corners[:, k]] for k in range(3))
        return float(np.linalg.norm(np.cross(b - a, c - a), axis=1).sum() / 2)


@dataclass(frozen=True)
class Material:
    """A colour ``#rrggbb`` and how much it covers, 0 to 1; of what a *picture* lies on, by its name in the scene, the colour is
    its mean."""

    colour: str
    opacity: float = 1.0
    picture: str = ""


@dataclass(frozen=True, eq=False)
class Node:
    """A node: *name* is unique in the scene, *parent* the name of the one above, '' for the world; *matrix* (4, 4) to the
    parent's axes; *meshes* the numbers of its meshes (pieces of one part), none for an assembly; *materials* by shading."""

    name: str
    parent: str
    matrix: Array
    meshes: tuple[int, ...] = ()
    materials: tuple[Material, ...] = ()


def piece_names(node: Node) -> list[str]:
    """The names under which a node's meshes stand in a file: its own where it has one, else its own with numbers."""
    if len(node.meshes) == 1:
        return [node.name]
    return [f"{node.name}{PIECE}{n}" for n in range(1, len(node.meshes) + 1)]


@dataclass(frozen=True, eq=False)
class Scene:
    """Nodes, parents first, and meshes. *paths* tells the component that a node stands for, *groups* the nodes that are no
    component but a class of them; both are known of a scene that was made from a model. *pictures* are files, PNG or JPEG, by
    name."""

    nodes: tuple[Node, ...]
    meshes: tuple[SolidMesh, ...]
    chord: float = 0.0
    paths: dict[str, str] = field(default_factory=dict)
    groups: tuple[str, ...] = ()
    pictures: dict[str, bytes] = field(default_factory=dict)

    def worlds(self) -> dict[str, Array]:
        """Each node's matrix to the world's axes, by name."""
        found: dict[str, Array] = {}
        for node in self.nodes:
            found[node.name] = found[node.parent] @ node.matrix if node.parent else node.matrix
        return found

    def triangles(self) -> int:
        """How many triangles are shown: those of a part that occurs again count again."""
        return sum(len(self.meshes[m].corners) for node in self.nodes for m in node.meshes)

    def distinct(self) -> int:
        """How many triangles are kept."""
        return sum(len(mesh.corners) for mesh in self.meshes)

    def boxes(self) -> dict[str, tuple[Array, Array]]:
        """The box of each node that has meshes, in the world's axes, by name."""
        worlds, found = self.worlds(), {}
        for node in self.nodes:
            if node.meshes:
                m = worlds[node.name]
                points = np.concatenate([self.meshes[n].positions for n in node.meshes]) @ m[:3, :3].T + m[:3, 3]
                found[node.name] = points.min(axis=0), points.max(axis=0)
        return found

    def box(self, without: frozenset[str] = frozenset()) -> tuple[Array, Array] | None:
        """The box of all but some nodes, or None when nothing is left."""
        boxes = [box for name, box in self.boxes().items() if name not in without]
        if not boxes:
            return None
        return np.min([b[0] for b in boxes], axis=0), np.max([b[1] for b in boxes], axis=0)

    def beneath(self, names: Sequence[str]) -> Iterator[Node]:
        """The nodes of these names and all below them."""
        taken = set(names)
        for node in self.nodes:
            if node.name in taken or node.parent in taken:
                taken.add(node.name)
                yield node
