"""A scene as plain data, for whoever wants to see what is in a file."""

from __future__ import annotations

from typing import Any

import numpy as np

from skalto.core.scene.scene import Scene


def described_scene(scene: Scene) -> dict[str, Any]:
    """Nodes with parents, matrices (4 rows), faces, boxes in the world's axes (mm) and materials; meshes; totals."""
    boxes = scene.boxes()
    nodes = []
    for node in scene.nodes:
        row: dict[str, Any] = {
            "name": node.name,
            "parent": node.parent,
            "kind": "part" if node.meshes else "group",
            "matrix": np.round(node.matrix, 9).tolist(),
            "faces": sum(len(scene.meshes[m].corners) for m in node.meshes),
            "materials": [{"colour": m.colour, "opacity": m.opacity} for m in node.materials],
        }
        if node.name in boxes:
            row["box"] = [np.round(side, 6).tolist() for side in boxes[node.name]]
            row["volume"] = round(sum(scene.meshes[m].volume() for m in node.meshes), 6)
        nodes.append(row)
    meshes = [
        {"faces": len(m.corners), "positions": len(m.positions), "normals": len(m.normals), "colours": m.shadings}
        for m in scene.meshes
    ]
    return {"nodes": nodes, "meshes": meshes, "triangles": scene.triangles(), "distinct": scene.distinct()}
