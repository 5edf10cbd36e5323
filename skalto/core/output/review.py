"""Scenes for the review viewer: one block of bytes that a page reads as it stands, with all that can be measured in it.

Four bytes with the length of the JSON (low end first), the JSON, zeros to a multiple of four, then the numbers that it names by
place and count: places in single precision; normals in shares of 32 767; indices in 16 bits, or in 32 where they are larger,
which is told behind the count; pictures, by place and count of bytes, behind them.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import orjson

from skalto.core.scene.features import Features, features_of
from skalto.core.scene.meshing import merged, vertices_of
from skalto.core.scene.scene import Scene, SolidMesh

VERSION = 3
_TURNS = 32_767


class _Numbers:
    """Arrays one behind the other."""

    def __init__(self) -> None:
        self.parts: list[bytes] = []
        self.at = 0

    def add(self, values: Any, kind: str) -> list[int]:
        """Put numbers down; their place and count."""
        numbers = np.ascontiguousarray(values, kind)
        return [self.add_file(numbers.tobytes())[0], numbers.size]

    def add_indices(self, values: Any) -> list[int]:
        """Put whole numbers down, none below 0; their place, their count, and how many bytes each has."""
        width = 2 if np.max(values, initial=0) < 2**16 else 4
        return [*self.add(values, f"<u{width}"), width]

    def add_file(self, data: bytes) -> list[int]:
        """Put a file down; its place, and how many bytes it has."""
        place = [self.at, len(data)]
        whole = data + b"\0" * (-len(data) % 4)
        self.parts.append(whole)
        self.at += len(whole)
        return place


def _edges(features: Features) -> tuple[list[list[float]], list[int], list[dict[str, Any]]]:
    segments: list[list[float]] = []
    owners: list[int] = []
    rows = []
    for number, edge in enumerate(features.edges):
        for a, b in zip(edge.points[:-1], edge.points[1:], strict=True):
            segments.append([*a, *b])
            owners.append(number)
        row = edge.model_dump(exclude={"points"}, exclude_none=True)
        rows.append(row | {"ends": [edge.points[0], edge.points[-1]]})
    return segments, owners, rows


def _mesh(mesh: SolidMesh, numbers: _Numbers) -> dict[str, Any]:
    features = features_of(mesh)
    order = np.argsort(mesh.shading, kind="stable")
    positions, normals, triangles, uv = vertices_of(mesh)
    shading = mesh.shading[order]
    starts = np.flatnonzero(np.r_[True, shading[1:] != shading[:-1]]) if len(shading) else np.zeros(0, int)
    ends = np.r_[starts[1:], len(shading)]
    segments, owners, rows = _edges(features)
    return {
        "positions": numbers.add(positions, "<f4"),
        "normals": numbers.add(np.round(np.clip(normals, -1, 1) * _TURNS), "<i2"),
        "uv": numbers.add(uv, "<f4"),
        "triangles": numbers.add_indices(triangles[order]),
        "faceOf": numbers.add_indices(features.face_of[order]),
        "groups": [[int(a) * 3, int(b - a) * 3, int(shading[a])] for a, b in zip(starts, ends, strict=True)],
        "segments": numbers.add(segments, "<f4"),
        "edgeOf": numbers.add_indices(owners),
        "faces": [face.model_dump(exclude_none=True) for face in features.faces],
        "edges": rows,
    }


def pack_review(scene: Scene, title: str, views: Sequence[dict[str, Any]], told: dict[str, Any]) -> bytes:
    """The scene with its prepared views.

    :param views: as :func:`plain_view` gives them. :param told: what else the viewer says: unit, tolerance (mm), which view is
        first, groups.
    """
    numbers = _Numbers()
    # a part that was too large for one mesh of the file is one again here: where it was cut is no edge of it
    parts = list(dict.fromkeys(node.meshes for node in scene.nodes if node.meshes))
    place = {pieces: number for number, pieces in enumerate(parts)}
    meshes = [_mesh(merged([scene.meshes[m] for m in pieces]), numbers) for pieces in parts]
    nodes = [
        {
            "name": node.name,
            "parent": node.parent,
            "matrix": np.asarray(node.matrix, float).ravel().tolist(),
            "meshes": [place[node.meshes]] if node.meshes else [],
            "materials": [[m.colour, m.opacity, m.picture] for m in node.materials],
            "path": scene.paths.get(node.name, ""),
        }
        for node in scene.nodes
    ]
    pictures = {name: numbers.add_file(data) for name, data in scene.pictures.items()}
    head = orjson.dumps(
        {
            "version": VERSION,
            "title": title,
            "nodes": nodes,
            "meshes": meshes,
            "pictures": pictures,
            "views": list(views),
            **told,
        }
    )
    head += b" " * (-len(head) % 4)
    return len(head).to_bytes(4, "little") + head + b"".join(numbers.parts)


def plain_view(view: Any) -> dict[str, Any]:
    """A prepared view as the viewer takes it, from one that goes into a file or was found in one."""
    return {
        "id": view.id,
        "name": view.name,
        "camera": view.camera.model_dump(),
        "background": view.background,
        "lighting": str(view.lighting),
        "mode": str(view.mode),
        "states": view.states,
        "drawn": view.drawn,
        "cuts": [{"centre": cut.centre, "turns": cut.turns, "filled": cut.filled, "ghost": cut.ghost} for cut in view.cuts],
    }
