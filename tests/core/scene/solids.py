"""Scenes for the tests of 3D: simple meshes, and a small assembly with a mirrored and a turned part."""

from __future__ import annotations

import numpy as np
import trimesh

from skalto.core.scene.meshing import welded
from skalto.core.scene.scene import Material, Node, Scene, SolidMesh

RED, GLASS, GREY = Material("#c02020"), Material("#2080c0", 0.25), Material("#b8bcc0")


def mesh_of(shape: trimesh.Trimesh, colours: int = 1) -> SolidMesh:
    """A trimesh shape with its flat normals; *colours* take turns over its triangles."""
    normals = np.repeat(np.asarray(shape.face_normals), 3, axis=0)
    corners = np.arange(3 * len(shape.faces)).reshape(-1, 3)
    return welded(shape.vertices[shape.faces].reshape(-1, 3), normals, corners, np.arange(len(shape.faces)) % colours)


def moved(x: float, y: float, z: float, mirrored: bool = False, turn: float = 0.0) -> np.ndarray:
    matrix = np.eye(4)
    c, s = np.cos(np.radians(turn)), np.sin(np.radians(turn))
    matrix[:2, :2] = (c, -s), (s, c)
    if mirrored:
        matrix[:3, :3] = matrix[:3, :3] @ np.diag((-1.0, 1.0, 1.0))
    matrix[:3, 3] = x, y, z
    return matrix


def small_scene() -> Scene:
    """Seven nodes with names in several scripts: two groups, parts that occur again, one mirrored, one see-through."""
    box, tube = mesh_of(trimesh.creation.box((10, 20, 30)), 2), mesh_of(trimesh.creation.cylinder(4, 25, sections=24))
    nodes = (
        Node("Ebba", "", moved(5, 0, 0)),
        Node("Rám", "Ebba", moved(0, 7, 1, turn=30)),
        Node("Sida, vänster", "Rám", moved(0, 0, 0), (0,), (RED, GREY)),
        Node("Стойка", "Rám", moved(40, 0, 0, mirrored=True), (0,), (RED, GREY)),
        Node("軸", "Ebba", moved(0, 0, 50, turn=90), (1,), (GLASS,)),
        Node("محور", "Ebba", moved(0, 0, 80), (1,), (GREY,)),
        Node("Άξονας", "", moved(-30, 2, 3), (1,), (RED,)),
    )
    return Scene(nodes, (box, tube))
