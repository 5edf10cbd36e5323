"""A model as triangles with its colours, for the eye: a glb scene (glTF 2.0)."""

from __future__ import annotations

from collections import defaultdict
from typing import Any

import numpy as np
import trimesh
from numpy.typing import NDArray

from skalto.core.geometry import Array
from skalto.core.progress import Progress
from skalto.core.sources.models.model import Mesh, Model, cover_of, hex_colour, with_cover
from skalto.core.sources.models.patches import ANGLE, face_patches

CHORD_SHARE = 1 / 1500
"""Largest distance of a triangle from its face, as a share of the part's diagonal."""


def _kernel_meshes(shape: Any, chord: float, face_colours: dict[int, str]) -> dict[str | None, trimesh.Trimesh]:
    """One mesh for each colour of the faces; None stands for the component's own."""
    groups: dict[str | None, list[tuple[Array, NDArray[np.int64]]]] = defaultdict(list)
    for number, patch in enumerate(face_patches(shape, chord)):
        if len(patch[1]):
            groups[face_colours.get(number)].append(patch)
    return {
        colour: trimesh.util.concatenate([trimesh.Trimesh(p, f, process=False) for p, f in patches])
        for colour, patches in groups.items()
    }


def _clean(shape: Any) -> None:
    """Drop a shape's triangles: whoever needs some needs them finer or coarser, and they take more room than the shape."""
    from OCP.BRepTools import BRepTools

    BRepTools.Clean_s(shape)


def _mesh_meshes(mesh: Mesh) -> dict[str | None, trimesh.Trimesh]:
    if mesh.colours is None:
        return {None: _flat(mesh.vertices, mesh.faces)}
    colours, group = np.unique(mesh.colours, axis=0, return_inverse=True)
    if len(colours) > 64:
        return {None: _flat(mesh.vertices, mesh.faces)}
    group = group.ravel()
    return {hex_colour(colour): _flat(mesh.vertices, mesh.faces[group == number]) for number, colour in enumerate(colours)}


def _flat(vertices: Array, faces: NDArray[np.int64]) -> trimesh.Trimesh:
    """A mesh whose triangles share no corners, so that its creases stay sharp to the eye."""
    return trimesh.graph.smooth_shade(trimesh.Trimesh(vertices, faces, process=False), angle=np.radians(30), facet_minarea=None)


def _material(colour: str) -> Any:
    rgb = [int(colour[i : i + 2], 16) for i in (1, 3, 5)]
    cover = round(cover_of(colour)[1] * 255)
    return trimesh.visual.material.PBRMaterial(
        baseColorFactor=[*rgb, cover], metallicFactor=0.05, roughnessFactor=0.65, doubleSided=True,
        alphaMode="OPAQUE" if cover == 255 else "BLEND",
    )  # fmt: skip


def _wires(shape: Any, chord: float) -> list[Array]:
    """The free curves of a shape as runs of points (n, 3)."""
    from OCP.BRepAdaptor import BRepAdaptor_Curve
    from OCP.GCPnts import GCPnts_TangentialDeflection
    from OCP.TopoDS import TopoDS

    from skalto.core.sources.models.extents import xyz
    from skalto.core.sources.models.kernel import free_edges

    runs = []
    for edge in free_edges(shape):
        points = GCPnts_TangentialDeflection(BRepAdaptor_Curve(TopoDS.Edge_s(edge)), ANGLE, chord)
        runs.append(np.array([xyz(points.Value(n)) for n in range(1, points.NbPoints() + 1)]))
    return [run for run in runs if len(run) > 1]


def _line_geometry(runs: list[Array], colour: str) -> Any:
    """Runs of points as lines of one colour."""
    rgba = [*(int(colour[i : i + 2], 16) for i in (1, 3, 5)), 255]
    lines = trimesh.load_path(np.concatenate([np.stack((run[:-1], run[1:]), axis=1) for run in runs]))
    lines.colors = np.tile(np.array(rgba, np.uint8), (len(lines.entities), 1))
    return lines


def to_glb(model: Model, progress: Progress = lambda share, text: None) -> bytes:
    """The model as one glb: a node ``n.k`` for the k-th colour of leaf n (in tree order), mm, z up, no root turn."""
    scene = trimesh.Scene()
    meshes: dict[int, dict[str | None, trimesh.Trimesh]] = {}
    for number, leaf in enumerate(model.tree.leaves()):
        assert leaf.shape is not None
        facts = model.tree.shapes[leaf.shape]
        if leaf.shape not in meshes:
            progress(0.95 * len(meshes) / len(model.shapes), "Making the 3D view")
            shape = model.shapes[leaf.shape]
            if isinstance(shape, Mesh):
                meshes[leaf.shape] = _mesh_meshes(shape)
            else:
                diagonal = float(np.linalg.norm(np.subtract(facts.high, facts.low)))
                chord = max(diagonal * CHORD_SHARE, 1e-3)
                meshes[leaf.shape] = _kernel_meshes(shape, chord, facts.face_colours) if facts.faces else {}
                _clean(shape)
                wires = _wires(shape, chord)
                if wires:
                    scene.add_geometry(_line_geometry(wires, leaf.colour), node_name=f"{number}.w", transform=leaf.matrix())
        for k, (own, mesh) in enumerate(meshes[leaf.shape].items()):
            colour = own or with_cover(leaf.colour, leaf.opacity)
            name = f"{leaf.shape}.{k}{colour}"
            if name not in scene.geometry:
                coloured = mesh.copy(include_cache=True)
                coloured.visual = trimesh.visual.TextureVisuals(material=_material(colour))
                scene.add_geometry(coloured, geom_name=name, node_name=f"{number}.{k}", transform=leaf.matrix())
            else:
                scene.graph.update(frame_to=f"{number}.{k}", matrix=leaf.matrix(), geometry=name)
    return bytes(scene.export(file_type="glb", include_normals=True))
