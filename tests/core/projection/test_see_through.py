"""Parts that are seen through: from STEP and glTF, through the scene, into U3D and glTF and the poster."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import trimesh
from OCP.Quantity import Quantity_Color, Quantity_ColorRGBA, Quantity_TOC_sRGB
from OCP.STEPCAFControl import STEPCAFControl_Writer
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDocStd import TDocStd_Document
from OCP.TopAbs import TopAbs_FACE
from OCP.XCAFDoc import XCAFDoc_ColorSurf, XCAFDoc_DocumentTool

from skalto.core.output.glb import write_glb
from skalto.core.output.u3d.reader import read_u3d
from skalto.core.output.u3d.writer import write_u3d
from skalto.core.scene.building import build_scene
from skalto.core.scene.choices import SceneChoices, SceneSpec
from skalto.core.scene.meshing import Quality, part_meshes
from skalto.core.scene.poster import camera_of, draw_view
from skalto.core.scene.scene import Scene
from skalto.core.scene.views import standard_views
from skalto.core.sources.models.kernel import sub_shapes
from skalto.core.sources.models.model import Model, cover_of, with_cover
from skalto.core.sources.models.tessellation import to_glb
from skalto.core.sources.reading import read_model
from skalto.demo.solids import block, moved


def _rgba(red: float, green: float, blue: float, alpha: float) -> Quantity_ColorRGBA:
    return Quantity_ColorRGBA(Quantity_Color(red, green, blue, Quantity_TOC_sRGB), alpha)


@pytest.fixture(scope="module")
def guarded(tmp_path_factory: pytest.TempPathFactory) -> Model:
    """A red block behind a clear guard, and a box with one clear window, as STEP (ISO 10303-46, surface_style_transparent)."""
    document = TDocStd_Document(TCollection_ExtendedString("XmlXCAF"))
    tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    colours = XCAFDoc_DocumentTool.ColorTool_s(document.Main())

    def part(name: str, shape: Any, colour: Quantity_ColorRGBA) -> Any:
        label = tool.AddShape(shape, False)
        TDataStd_Name.Set_s(label, TCollection_ExtendedString(name))
        colours.SetColor(label, colour, XCAFDoc_ColorSurf)
        return label

    part("Block", block(20, 20, 20), _rgba(0.8, 0.1, 0.1, 1))
    part("Guard", moved(block(40, 2, 40), (-10, -10, -10)), _rgba(0.2, 0.4, 0.8, 0.25))
    case = moved(block(10, 10, 10), (60, 0, 0))
    label = part("Case", case, _rgba(0.5, 0.5, 0.5, 1))
    colours.SetColor(tool.AddSubShape(label, sub_shapes(case, TopAbs_FACE)[0]), _rgba(0.8, 0.8, 1, 0.5), XCAFDoc_ColorSurf)
    path = tmp_path_factory.mktemp("guard") / "guarded.step"
    writer = STEPCAFControl_Writer()
    writer.SetColorMode(True)
    writer.SetNameMode(True)
    assert writer.Transfer(document)
    writer.Write(str(path))
    assert b"SURFACE_STYLE_TRANSPARENT" in path.read_bytes()
    return read_model(path, path.name)


def _scene(model: Model, **choices: object) -> Scene:
    chosen = SceneChoices.model_validate(choices)
    return build_scene(model.tree, part_meshes(model, Quality.DRAFT), SceneSpec(choices=chosen))


def _covers(scene: Scene) -> dict[str, list[float]]:
    return {node.name: sorted(round(m.opacity, 2) for m in node.materials) for node in scene.nodes if node.meshes}


def test_colours_carry_their_cover() -> None:
    assert cover_of("#336699") == ("#336699", 1.0)
    assert cover_of("#33669980") == ("#336699", pytest.approx(128 / 255))
    assert with_cover("#336699", 0.5) == "#33669980"
    assert with_cover("#336699", 1) == "#336699"
    assert with_cover("#336699", 0) == "#336699"  # nothing of the part would be seen


def test_step_says_what_is_seen_through(guarded: Model) -> None:
    parts = {leaf.name: leaf for leaf in guarded.tree.leaves()}
    assert parts["Block"].opacity == 1
    assert parts["Guard"].opacity == pytest.approx(0.25, abs=1 / 255)
    assert parts["Guard"].colour == "#3366cc"
    told = {row["name"]: row["opacity"] for row in guarded.tree.report()["components"]}
    assert told == {"Block": 1, "Guard": pytest.approx(0.25, abs=1 / 255), "Case": 1}
    assert list(guarded.tree.shapes[parts["Case"].shape or 0].face_colours.values()) == ["#ccccff80"]


def test_what_is_seen_through_stays_so_in_u3d(guarded: Model) -> None:
    made = _scene(guarded)
    back = read_u3d(write_u3d(made))
    assert _covers(made) == {"Block": [1], "Guard": [0.25], "Case": [0.5, 1]}
    assert {node.name: sorted(round(m.opacity, 2) for m in node.materials) for node in back.nodes if node.meshes} == _covers(
        made
    )


def test_a_given_cover_comes_first(guarded: Model) -> None:
    made = _scene(guarded, opacity={"Guard": 0.6, "Case": 0.3})
    assert _covers(made) == {"Block": [1], "Guard": [0.6], "Case": [0.3, 0.3]}
    with pytest.raises(ValueError, match="more than 0"):
        SceneChoices(opacity={"Guard": 0})


def test_gltf_out_and_in_keeps_it(guarded: Model, tmp_path: Path) -> None:
    """glTF 2.0, 3.9.4: BLEND is seen through; the alpha of an OPAQUE material counts for nothing."""
    path = tmp_path / "guarded.glb"
    path.write_bytes(write_glb(_scene(guarded)))
    again = read_model(path, path.name)
    covers = sorted(round(leaf.opacity, 2) for leaf in again.tree.leaves())
    assert covers == [0.25, 0.5, 1, 1]  # the case is one mesh for each of its two colours
    opaque = trimesh.creation.box((1, 1, 1))
    material = trimesh.visual.material.PBRMaterial(baseColorFactor=[10, 20, 30, 90], alphaMode="OPAQUE")
    opaque.visual = trimesh.visual.TextureVisuals(material=material)
    path.write_bytes(trimesh.Scene([opaque]).export(file_type="glb"))
    assert [leaf.opacity for leaf in read_model(path, path.name).tree.leaves()] == [1]


def test_faces_of_a_mesh_are_seen_through_one_by_one(tmp_path: Path) -> None:
    box = trimesh.creation.box((10, 10, 10))
    rgba = np.tile(np.array([200, 200, 200, 255], np.uint8), (len(box.faces), 1))
    rgba[:2] = [40, 80, 160, 51]
    box.visual = trimesh.visual.ColorVisuals(box, face_colors=rgba)
    path = tmp_path / "box.ply"
    path.write_bytes(box.export(file_type="ply"))
    made = _scene(read_model(path, path.name))
    assert _covers(made) == {"box": [0.2, 1]}


def test_the_page_is_sent_what_is_seen_through(guarded: Model) -> None:
    data = to_glb(guarded)
    document = json.loads(data[20 : 20 + int.from_bytes(data[12:16], "little")])
    modes = [(round(m["pbrMetallicRoughness"]["baseColorFactor"][3], 2), m["alphaMode"]) for m in document["materials"]]
    assert sorted(modes) == [(0.25, "BLEND"), (0.5, "BLEND"), (1, "OPAQUE"), (1, "OPAQUE")]


def test_the_poster_lets_what_is_behind_show(guarded: Model) -> None:
    scene = _scene(guarded)
    front = next(view for view in standard_views() if view.name == "Front")
    camera = camera_of(front, scene, 1.0)
    both = draw_view(scene, front, camera, 200, 200)
    alone = draw_view(scene, front.model_copy(update={"hidden": frozenset({"Guard"})}), camera, 200, 200)
    reddest = np.unravel_index(np.argmax(alone[..., 0].astype(int) - alone[..., 2]), alone.shape[:2])
    bare, through = alone[reddest].astype(int), both[reddest].astype(int)
    assert bare[0] > bare[2] + 60
    # a quarter of the guard's blue over three quarters of the block's red
    assert through[2] > bare[2] + 15
    assert through[0] < bare[0] - 10
    assert through[0] > through[2]
