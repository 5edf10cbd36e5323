"""Scenes to U3D (ECMA-363): nodes, meshes that several nodes may show, shaders and materials."""

from __future__ import annotations

import io
import struct
from collections.abc import Sequence

import numpy as np
from PIL import Image

from skalto.core.errors import InputError
from skalto.core.geometry import Array
from skalto.core.output.u3d import blocks
from skalto.core.output.u3d.blocks import block, f32, padded, text, u32
from skalto.core.scene.scene import Material, Scene, SolidMesh, piece_names

_QUALITY = 1000
_ALL_CHANNELS = 0x617
_NO_BLENDING = 0x606
_SHINE = 0.12


def _matrix(matrix: Array) -> bytes:
    return f32(*np.asarray(matrix, float).T.ravel().tolist())


def _chain(name: str, kind: int, modifiers: Sequence[bytes]) -> bytes:
    head = padded(text(name) + u32(kind, 0)) + u32(len(modifiers))
    return block(blocks.MODIFIER_CHAIN, head + b"".join(modifiers))


def _group(name: str, parent: str, matrix: Array) -> bytes:
    data = text(name) + u32(1) + text(parent) + _matrix(matrix)
    return _chain(name, 0, [block(blocks.GROUP_NODE, data)])


def _model(name: str, parent: str, matrix: Array, mesh: str, shaders: Sequence[str]) -> bytes:
    node = text(name) + u32(1) + text(parent) + _matrix(matrix) + text(mesh) + u32(3)
    lists = b"".join(u32(1) + text(shader) for shader in shaders)
    shading = text(name) + u32(1, 1, len(shaders)) + lists
    return _chain(name, 0, [block(blocks.MODEL_NODE, node), block(blocks.SHADING_MODIFIER, shading)])


def _counts(mesh: SolidMesh) -> tuple[int, int, int, int]:
    return len(mesh.positions), len(mesh.normals), mesh.shadings, len(mesh.uv)


def _declaration(name: str, mesh: SolidMesh) -> bytes:
    positions, normals, shadings, uv = _counts(mesh)
    data = text(name) + u32(0, 0 if normals else 1, len(mesh.corners), positions, normals, 0, 0, uv, shadings)
    for number in range(shadings):
        # how many pictures lie on it, and that a place on each has two coordinates
        data += u32(0, *((1, 2) if uv else (0,)), number)
    data += u32(positions, positions, _QUALITY, _QUALITY, _QUALITY) + f32(1, 1, 1, 1, 1) + f32(0.9, 0.5, 0.985) + u32(0)
    return _chain(name, 1, [block(blocks.MESH_DECLARATION, data)])


def _continuation(name: str, mesh: SolidMesh) -> bytes:
    positions, normals, _, uv = _counts(mesh)
    plain = text(name) + u32(0, len(mesh.corners), positions, normals, 0, 0, uv)
    plain += mesh.positions.astype("<f4").tobytes() + mesh.normals.astype("<f4").tobytes()
    plain += np.column_stack((mesh.uv, np.zeros((uv, 2)))).astype("<f4").tobytes()
    from skalto.core.output.u3d.coder import encode_faces  # compiled: takes half a second to load

    faces = encode_faces(plain, mesh.corners, mesh.turns, mesh.uvs, mesh.shading, _counts(mesh))
    return block(blocks.MESH_CONTINUATION, faces)


def _shader(name: str, picture: str) -> bytes:
    layers = 1 if picture else 0
    data = text(name) + u32(1) + f32(0) + u32(_ALL_CHANNELS, _NO_BLENDING, 1, layers, 0) + text(name)
    if picture:
        # whole, multiplied by what is lit, laid by the mesh's own places, as they are, and again in both directions
        whole = _matrix(np.eye(4))
        data += text(picture) + f32(1) + bytes((0, 0)) + f32(1) + bytes((0,)) + whole + whole + bytes((3,))
    return block(blocks.LIT_SHADER, data)


def _material(name: str, material: Material) -> bytes:
    rgb = [int(material.colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    # beneath a picture it is white, which leaves the picture's colours as they are
    lit = [1.0] * 3 if material.picture else rgb
    shades = f32(*(v * blocks.AMBIENT for v in rgb)) + f32(*lit) + f32(*[_SHINE] * 3) + f32(0, 0, 0)
    return block(blocks.MATERIAL, text(name) + u32(0x3F) + shades + f32(0.1, material.opacity))


def _name_of(material: Material) -> str:
    return f"{material.colour} {round(material.opacity * 100)} %" + f", {material.picture}" * bool(material.picture)


def _texture(name: str, data: bytes) -> tuple[bytes, bytes]:
    """A picture's declaration, and its bytes (9.8.3 and 9.8.4)."""
    with Image.open(io.BytesIO(data)) as picture:
        wide, high, packing = picture.width, picture.height, blocks.PNG if picture.format == "PNG" else blocks.JPEG
    told = text(name) + u32(high, wide) + bytes((blocks.RGB,)) + u32(1) + bytes((packing, blocks.RGB, 0, 0)) + u32(len(data))
    chain = _chain(name, 2, [block(blocks.TEXTURE_DECLARATION, told)])
    return chain, block(blocks.TEXTURE_CONTINUATION, text(name) + u32(0) + data)


def write_u3d(scene: Scene) -> bytes:
    """The scene as a U3D file, in its own unit (mm): the same scene gives the same bytes.

    :raises InputError: for a scene without a mesh, and for a name of more bytes than a string may have.
    """
    if not scene.meshes:
        raise InputError("Nothing is left to put into the 3D model: show at least one component.")
    long = next((node.name for node in scene.nodes if len(node.name.encode()) > 0xFF00), None)
    if long is not None:
        raise InputError(f"The name {long[:40]} … is too long for a 3D file: shorten it.")
    declared: list[bytes] = []
    materials: dict[str, Material] = {}
    meshes = [f"mesh {number}" for number in range(len(scene.meshes))]
    identity = np.eye(4)
    for node in scene.nodes:
        shaders = []
        for material in node.materials:
            materials[_name_of(material)] = material
            shaders.append(_name_of(material))
        if len(node.meshes) != 1:
            declared.append(_group(node.name, node.parent, node.matrix))
        for name, mesh in zip(piece_names(node), node.meshes, strict=True):
            above, matrix = (node.parent, node.matrix) if len(node.meshes) == 1 else (node.name, identity)
            declared.append(_model(name, above, matrix, meshes[mesh], shaders[: scene.meshes[mesh].shadings] or shaders[:1]))
    declared += [_declaration(name, mesh) for name, mesh in zip(meshes, scene.meshes, strict=True)]
    for name, material in materials.items():
        declared += [_shader(name, material.picture), _material(name, material)]
    textures = [_texture(name, data) for name, data in scene.pictures.items()]
    body = b"".join(declared + [declaration for declaration, _ in textures])
    continued = b"".join([own for _, own in textures])
    continued += b"".join(_continuation(name, mesh) for name, mesh in zip(meshes, scene.meshes, strict=True))
    head = 12 + 24
    values = struct.pack("<hhIIQI", 0, 0, 0, head + len(body), head + len(body) + len(continued), blocks.UTF8)
    return block(blocks.FILE_HEADER, values) + body + continued
