"""Every kind of U3D file that is written, loaded by the reference runtime (PyPI: vtk-u3dexporter)."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import trimesh

from skalto.core.checks.solids import fields_of_pdf
from skalto.core.layout.annotations_3d import annotation_for, bare_sheet
from skalto.core.output.pdf.document import write_pdf
from skalto.core.output.pdf.metadata import Metadata
from skalto.core.output.u3d.reader import read_u3d
from skalto.core.output.u3d.writer import write_u3d
from skalto.core.pages.composition import compose
from skalto.core.scene.building import build_scene
from skalto.core.scene.choices import Grouping, SceneChoices, SceneSpec
from skalto.core.scene.meshing import Quality, part_meshes, split
from skalto.core.scene.scene import Node, Scene, SolidMesh, piece_names
from skalto.core.scene.solid import make_solid
from skalto.core.sheets.sheet import SheetSpec
from skalto.core.sources.reading import read_model
from tests.core.scene.solids import GLASS, GREY, RED, mesh_of, moved, pictured_scene, small_scene
from tests.reference.u3d_runtime import loaded, rewritten


def agrees(scene: Scene, data: bytes | None = None) -> None:
    """The runtime's nodes, matrices, faces and bounding spheres are those of the scene, and of our own reader."""
    data = data or write_u3d(scene)
    found, _ = loaded(data)
    back = read_u3d(data)
    assert [n.name for n in back.nodes] == [n.name for n in scene.nodes]
    worlds, ours = scene.worlds(), back.worlds()
    names = {name for node in scene.nodes for name in (node.name, *piece_names(node)) if name}
    assert set(found) == names
    for node in scene.nodes:
        world = np.reshape(found[node.name].matrix, (4, 4)).T
        size = np.abs(worlds[node.name]).max() + 1
        assert np.abs(world - worlds[node.name]).max() < 2e-6 * size, node.name
        assert np.abs(ours[node.name] - worlds[node.name]).max() < 2e-6 * size
        for name, number in zip(piece_names(node), node.meshes, strict=True):
            mesh = scene.meshes[number]
            assert found[name].faces == len(mesh.corners)
            used = mesh.positions[np.unique(mesh.corners)]
            *centre, radius = found[name].sphere
            reach = np.linalg.norm(used - centre, axis=1).max()
            # a sphere about all: no smaller than they reach, no larger than their box's
            assert reach <= radius * (1 + 1e-5) + 1e-6
            assert radius <= np.linalg.norm(np.ptp(used, axis=0)) / 2 * (1 + 1e-4) + np.linalg.norm(
                (used.min(axis=0) + used.max(axis=0)) / 2 - centre
            )  # fmt: skip


def one_triangle() -> SolidMesh:
    points = np.array(((0.0, 0, 0), (3, 0, 0), (0, 4, 0)))
    index = np.array(((0, 1, 2),))
    return SolidMesh(points, np.array(((0.0, 0, 1),)), index, np.zeros((1, 3), np.int64), np.zeros(1, np.int64))


def test_one_triangle() -> None:
    agrees(Scene((Node("a", "", np.eye(4), (0,), (GREY,)),), (one_triangle(),)))


def test_a_picture_and_its_places() -> None:
    """The runtime decodes the places of every corner and packs them anew by itself; the picture's bytes it hands on."""
    scene = pictured_scene()
    agrees(scene)
    back = read_u3d(rewritten(write_u3d(scene)))
    assert back.pictures == scene.pictures
    assert back.nodes[0].materials == scene.nodes[0].materials
    both = [np.concatenate((m.positions[m.corners], m.uv[m.uvs]), axis=2) for m in (scene.meshes[0], back.meshes[0])]
    # a triangle may begin with any of its corners, and stand anywhere
    ours, theirs = ({tuple(sorted(tuple(np.round(row, 4)) for row in rows)) for rows in own} for own in both)
    assert len(ours) == 12
    assert ours == theirs
    assert not len(back.meshes[1].uv)


def test_names_of_several_scripts_mirrored_parts_and_glass() -> None:
    agrees(small_scene())


def test_without_normals() -> None:
    mesh = mesh_of(trimesh.creation.box((1, 2, 3)))
    plain = SolidMesh(mesh.positions, np.empty((0, 3)), mesh.corners, np.zeros_like(mesh.turns), mesh.shading)
    agrees(Scene((Node("box", "", moved(1, 2, 3), (0,), (RED,)),), (plain,)))


@pytest.mark.parametrize("sections", [40, 8_190, 8_191])
def test_on_both_sides_of_every_limit(sections: int) -> None:
    """A disc on both sides of 0x3FFF positions in one mesh, which the static contexts of the coder turn on."""
    agrees(Scene((Node("rod", "", np.eye(4), (0,), (RED,)),), (mesh_of(trimesh.creation.cylinder(40, 3, sections=sections)),)))


def test_three_hundred_thousand_faces_in_pieces() -> None:
    ball = mesh_of(trimesh.creation.icosphere(7, 100))
    assert len(ball.corners) >= 300_000
    pieces = tuple(split(ball))
    agrees(Scene((Node("ball", "", moved(3, 2, 1), tuple(range(len(pieces))), (GLASS,)),), pieces))


def test_five_hundred_nodes_at_ten_levels() -> None:
    mesh = mesh_of(trimesh.creation.box((1, 1, 1)))
    nodes = [Node(f"level {k}", f"level {k - 1}" if k else "", moved(1, 0, 0, turn=7)) for k in range(10)]
    nodes += [Node(f"part {k}", f"level {k % 10}", moved(k, k % 7, 0, k % 3 == 0, k), (0,), (RED,)) for k in range(490)]
    agrees(Scene(tuple(nodes), (mesh,)))


@pytest.mark.parametrize(
    ("grouping", "sheet"),
    [(Grouping.ASSEMBLY, SheetSpec(id="s", name="Review")), (Grouping.KIND, bare_sheet("s", "Press in 3D"))],
    ids=["a field on a sheet", "a page by itself"],
)
def test_the_press_node_by_node_out_of_its_pdf(press_step: Path, grouping: Grouping, sheet: SheetSpec) -> None:
    model = read_model(press_step, "Ebba.step")
    choices = SceneChoices(quality=Quality.DRAFT, grouping=grouping, opacity={"Ebba press/Frame/Cheek, left": 0.3})
    field = annotation_for(sheet, "f", "0", "Ebba", whole=sheet.clean).model_copy(update={"choices": choices, "poster_dpi": 36})
    scene = build_scene(model.tree, part_meshes(model, Quality.DRAFT), SceneSpec(choices=choices))
    solid = make_solid(field, model.tree, scene, write_u3d(scene))
    page = compose(sheet.model_copy(update={"annotations_3d": (field,)}), {}, None, {"f": solid})
    (found,) = fields_of_pdf(write_pdf([page], Metadata("Ebba")))
    agrees(scene, found.u3d)
    components = {c.path: c for c in model.tree.walk()}
    worlds = read_u3d(found.u3d).worlds()
    leaves = [path for path in scene.paths.values() if components[path].shape is not None]
    assert sorted(leaves) == sorted(leaf.path for leaf in model.tree.leaves())
    for name, path in scene.paths.items():
        assert np.abs(worlds[name] - components[path].matrix()).max() < 1e-4
