"""Scenes to glb (glTF 2.0): nodes, meshes that occur again once, materials with their cover; metres and y up, as it has it."""

from __future__ import annotations

import io

import numpy as np
import trimesh
from PIL import Image

from skalto.core.scene.meshing import vertices_of
from skalto.core.scene.scene import Material, Scene

MODEL_TO_GLTF = np.array(((0.001, 0, 0, 0), (0, 0, 0.001, 0), (0, -0.001, 0, 0), (0, 0, 0, 1)))
"""A model is in mm with z up; glTF is in metres with y up (glTF 2.0, 3.4)."""


def _material(material: Material, picture: Image.Image | None) -> trimesh.visual.material.PBRMaterial:
    rgb = [int(material.colour[i : i + 2], 16) for i in (1, 3, 5)] if picture is None else [255, 255, 255]
    cover = round(material.opacity * 255)
    return trimesh.visual.material.PBRMaterial(
        baseColorFactor=[*rgb, cover], metallicFactor=0.05, roughnessFactor=0.65, doubleSided=True,
        alphaMode="OPAQUE" if cover == 255 else "BLEND", baseColorTexture=picture,
    )  # fmt: skip


def write_glb(scene: Scene) -> bytes:
    """The scene as a glb file; a part of several colours is a node with one mesh beneath for each."""
    out = trimesh.Scene(base_frame="world")
    out.graph.update(frame_to="model", matrix=MODEL_TO_GLTF, frame_from="world")
    parts = [vertices_of(mesh) for mesh in scene.meshes]
    pictures = {name: Image.open(io.BytesIO(data)) for name, data in scene.pictures.items()}
    for node in scene.nodes:
        out.graph.update(frame_to=node.name, frame_from=node.parent or "model", matrix=node.matrix)
        for number in node.meshes:
            positions, normals, triangles, uv = parts[number]
            mesh = scene.meshes[number]
            for shading in range(mesh.shadings):
                own = triangles[mesh.shading == shading]
                if not len(own):
                    continue
                material = node.materials[min(shading, len(node.materials) - 1)] if node.materials else Material("#b8bcc0")
                name = f"{number}.{shading} {material.colour} {material.opacity:g} {material.picture}".strip()
                if name not in out.geometry:
                    used, index = np.unique(own, return_inverse=True)
                    solid = trimesh.Trimesh(
                        positions[used], index.reshape(-1, 3), vertex_normals=normals[used], process=False,
                        visual=trimesh.visual.TextureVisuals(
                            uv=uv[used] if len(uv) else None, material=_material(material, pictures.get(material.picture))
                        ),
                    )  # fmt: skip
                    out.geometry[name] = solid
                out.graph.update(
                    frame_to=f"{node.name} · {number}.{shading}", frame_from=node.name, matrix=np.eye(4), geometry=name
                )  # fmt: skip
    return bytes(out.export(file_type="glb", include_normals=True))
