"""Scenes for the tests of 3D: simple meshes, and a small assembly with a mirrored and a turned part."""

from __future__ import annotations

import io

import numpy as np
import trimesh
from PIL import Image

from skalto.core.scene.meshing import mesh_part, welded
from skalto.core.scene.scene import Material, Node, Scene, SolidMesh
from skalto.core.sources.models.model import Mesh, Texture

RED, GLASS, GREY = Material("#c02020"), Material("#2080c0", 0.25), Material("#b8bcc0")


def mesh_of(shape: trimesh.Trimesh, colours: int = 1) -> SolidMesh:
    """A trimesh shape with its flat normals; *colours* take turns over its triangles."""
    normals = np.repeat(np.asarray(shape.face_normals), 3, axis=0)
    corners = np.arange(3 * len(shape.faces)).reshape(-1, 3)
    return welded(shape.vertices[shape.faces].reshape(-1, 3), normals, corners, np.arange(len(shape.faces)) % colours)


QUARTERS = ((255, 0, 0), (0, 255, 0), (0, 0, 255), (255, 255, 0))
"""The colours of :func:`quarters`: above left and right, below left and right."""


def quarters(size: int = 64) -> Image.Image:
    """A picture of four colours."""
    pixels = np.repeat(np.repeat(np.array(QUARTERS, np.uint8).reshape(2, 2, 3), size // 2, axis=0), size // 2, axis=1)
    return Image.fromarray(pixels)


def pictured(shape: trimesh.Trimesh, material: object = None) -> trimesh.Trimesh:
    """A box whose every side shows all of :func:`quarters`, upright on the sides that look along x."""
    corners = shape.triangles.reshape(-1, 3)
    low, size = shape.bounds[0], np.ptp(shape.bounds, axis=0)
    along = np.abs(np.repeat(shape.face_normals, 3, axis=0)).argmax(axis=1)
    share = (corners - low) / size
    rows = np.arange(len(corners))
    uv = np.stack((share[rows, (along + 1) % 3], share[rows, (along + 2) % 3]), axis=1)
    material = material or trimesh.visual.material.PBRMaterial(baseColorTexture=quarters(), baseColorFactor=[255] * 4)
    visual = trimesh.visual.TextureVisuals(uv=uv, material=material)
    return trimesh.Trimesh(corners, np.arange(len(corners)).reshape(-1, 3), process=False, visual=visual)


def pictured_scene(suffix: str = "PNG") -> Scene:
    """A box with a picture on it, and one of one colour beside it."""
    shape = trimesh.creation.box((10, 20, 30))
    out = io.BytesIO()
    quarters().save(out, suffix)
    texture = Texture(out.getvalue(), pictured(shape).visual.uv.reshape(-1, 3, 2))
    part = mesh_part(Mesh(np.asarray(shape.vertices), np.asarray(shape.faces), None, texture))
    nodes = (
        Node("Sign", "", moved(5, 0, 0), (0,), (Material("#808040", 1.0, "picture 1"),)),
        Node("Foot", "", moved(0, 0, -40), (1,), (GREY,)),
    )
    return Scene(nodes, (part.pieces[0], mesh_of(shape)), pictures={"picture 1": out.getvalue()})


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
