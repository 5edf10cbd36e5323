"""A model as blobs: the tree as JSON, the shapes as one binary block."""

from __future__ import annotations

import io
from typing import Any

import numpy as np

from skalto.core.sources.models.model import Mesh, Model, ModelTree, Texture


def pack_shapes(model: Model) -> bytes:
    """The shapes of a model, in order."""
    if model.tree.kind != "mesh":
        from skalto.core.sources.models.kernel import to_bytes

        return to_bytes(list(model.shapes))
    arrays: dict[str, Any] = {}
    for number, mesh in enumerate(model.shapes):
        arrays |= {f"v{number}": mesh.vertices, f"f{number}": mesh.faces}
        if mesh.colours is not None:
            arrays[f"c{number}"] = mesh.colours
        if mesh.texture is not None:
            arrays |= {f"t{number}": np.frombuffer(mesh.texture.picture, np.uint8), f"u{number}": mesh.texture.at}
    out = io.BytesIO()
    np.savez(out, **arrays)
    return out.getvalue()


def unpack(tree: ModelTree, data: bytes) -> Model:
    """The model that :func:`pack_shapes` was given."""
    if tree.kind != "mesh":
        from skalto.core.sources.models.kernel import from_bytes

        return Model(tree, tuple(from_bytes(data)))
    with np.load(io.BytesIO(data)) as archive:
        meshes = [_mesh(archive, number) for number in range(len(tree.shapes))]
    return Model(tree, tuple(meshes))


def _mesh(archive: Any, number: int) -> Mesh:
    picture = archive.get(f"t{number}")
    texture = None if picture is None else Texture(picture.tobytes(), archive[f"u{number}"])
    return Mesh(archive[f"v{number}"], archive[f"f{number}"], archive.get(f"c{number}"), texture)
