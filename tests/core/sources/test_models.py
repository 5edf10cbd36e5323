"""Models in: trees, names, placements, colours, units, sizes."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import trimesh
from OCP.BRep import BRep_Builder
from OCP.BRepTools import BRepTools
from OCP.IGESControl import IGESControl_Writer
from OCP.Interface import Interface_Static
from OCP.TopoDS import TopoDS_Compound

from skalto.core.errors import InputError
from skalto.core.sources.models.bundle import pack_shapes, unpack
from skalto.core.sources.models.model import Component, hidden_by_patterns
from skalto.core.sources.models.tessellation import to_glb
from skalto.core.sources.reading import read_model
from skalto.demo.solids import block, cylinder, moved
from tests.conftest import write_step


def _find(components: tuple[Component, ...], path: str) -> Component:
    return next(c for root in components for c in root.walk() if c.path == path)


def test_the_press_comes_in_whole(press_step: Path) -> None:
    tree = read_model(press_step, "Ebba.step").tree
    assert len(tree.leaves()) == 60
    assert tree.solids == 60
    assert len(tree.shapes) == 20  # repeated parts are one shape each
    nuts = [c for c in tree.leaves() if c.part == "Hex nut M12 (bought)"]
    assert len(nuts) == 6
    assert len({c.shape for c in nuts}) == 1
    assert len({c.placement for c in nuts}) == 6
    left = _find(tree.components, "Ebba press/Frame/Cheek, left")
    assert left.colour == "#3f8573"
    # its own axes: 8 mm plate, 220 wide, 262 high, as the demo's script says
    assert left.size == pytest.approx((8, 220, 262))
    roller = _find(tree.components, "Ebba press/Upper roller set/Upper roller")
    assert roller.size == pytest.approx((60, 60, 338))  # along its own z, though it lies along x
    assert roller.matrix()[:3, :3] @ np.array((0, 0, 1)) == pytest.approx((1, 0, 0))


def test_handbook_solids_have_their_volume_and_size(tmp_path: Path) -> None:
    # V = π/4·d²·h and V = a·b·c
    cylinder_step = write_step(cylinder(40, 25), tmp_path / "cylinder.step")
    shape = read_model(cylinder_step, "cylinder.step").tree
    assert shape.components[0].volume == pytest.approx(np.pi / 4 * 40**2 * 25, rel=1e-9)
    assert shape.size == pytest.approx((40, 40, 25), abs=1e-6)
    turned = write_step(moved(block(30, 20, 10), turn=("z", 30)), tmp_path / "turned.step")
    across = 30 * np.cos(np.pi / 6) + 20 * np.sin(np.pi / 6)
    along = 30 * np.sin(np.pi / 6) + 20 * np.cos(np.pi / 6)
    assert read_model(turned, "turned.step").tree.size == pytest.approx((across, along, 10), abs=1e-6)


def test_an_inch_file_comes_in_right(tmp_path: Path) -> None:
    path = write_step(block(25.4, 50.8, 76.2), tmp_path / "inch.step", unit="INCH")
    assert "INCH" in path.read_text()
    assert read_model(path, "inch.step").tree.size == pytest.approx((25.4, 50.8, 76.2))


@pytest.mark.parametrize("schema", ["AP203", "AP214IS", "AP242DIS"])
def test_the_three_step_schemas(schema: str, tmp_path: Path) -> None:
    Interface_Static.SetCVal_s("write.step.schema", schema)
    try:
        path = write_step(block(30, 20, 10), tmp_path / "part.step")
    finally:
        Interface_Static.SetCVal_s("write.step.schema", "AP214IS")
    assert read_model(path, "part.step").tree.size == pytest.approx((30, 20, 10))


def test_iges_and_brep_come_in(tmp_path: Path) -> None:
    writer = IGESControl_Writer("IN", 0)
    writer.AddShape(block(30, 20, 10))
    writer.ComputeModel()
    writer.Write(str(tmp_path / "part.igs"))
    iges = read_model(tmp_path / "part.igs", "part.igs").tree
    assert iges.size == pytest.approx((30, 20, 10), abs=1e-4)  # written in inches
    both = BRep_Builder(), TopoDS_Compound()
    both[0].MakeCompound(both[1])
    for shape in (block(30, 20, 10), moved(cylinder(10, 20), (40, 0, 0))):
        both[0].Add(both[1], shape)
    BRepTools.Write_s(both[1], str(tmp_path / "two.brep"))
    brep = read_model(tmp_path / "two.brep", "two.brep").tree
    assert [c.path for c in brep.leaves()] == ["two/two 1", "two/two 2"]
    assert brep.size == pytest.approx((60, 20, 20), abs=1e-6)


def test_a_model_survives_being_kept(press_step: Path, tmp_path: Path) -> None:
    model = read_model(press_step, "Ebba.step")
    again = unpack(model.tree, pack_shapes(model))
    from skalto.core.sources.models.extents import extents

    for before, after in zip(model.shapes, again.shapes, strict=True):
        assert np.allclose(extents(before), extents(after), atol=1e-9)  # type: ignore[arg-type]


def test_the_scene_has_a_node_for_each_leaf_in_its_colour(press_step: Path) -> None:
    import io

    model = read_model(press_step, "Ebba.step")
    scene = trimesh.load(io.BytesIO(to_glb(model)), file_type="glb")
    nodes = {name.split(".")[0] for name in scene.graph.nodes_geometry}
    assert nodes == {str(n) for n in range(60)}
    low, high = scene.bounds
    assert np.allclose(high - low, model.tree.size, atol=0.5)
    leaf = next(n for n, c in enumerate(model.tree.leaves()) if c.name == "Cheek, left")
    geometry = scene.geometry[scene.graph[f"{leaf}.0"][1]]
    assert geometry.visual.material.baseColorFactor[:3].tolist() == [0x3F, 0x85, 0x73]


@pytest.mark.parametrize("suffix", ["stl", "ply", "obj", "glb"])
def test_meshes_come_in(suffix: str, tmp_path: Path) -> None:
    box = trimesh.creation.box((100, 60, 8))
    if suffix == "glb":
        # glTF is in metres with y up (glTF 2.0, 3.4)
        box.apply_transform(trimesh.transformations.rotation_matrix(-np.pi / 2, (1, 0, 0)))
        box.apply_scale(0.001)
    path = tmp_path / f"box.{suffix}"
    box.export(path)
    tree = read_model(path, path.name).tree
    assert tree.size == pytest.approx((100, 60, 8), abs=1e-4)
    assert tree.leaves()[0].volume == pytest.approx(48_000, rel=1e-5)
    assert tree.kind == "mesh"


def test_a_gltf_scene_keeps_its_tree_and_shares_its_meshes(tmp_path: Path) -> None:
    scene = trimesh.Scene()
    pin = trimesh.creation.cylinder(radius=0.005, height=0.03, sections=48)
    scene.add_geometry(
        pin, geom_name="pin", node_name="pin left", transform=trimesh.transformations.translation_matrix((-0.02, 0, 0))
    )
    scene.graph.update(frame_to="pin right", geometry="pin", matrix=trimesh.transformations.translation_matrix((0.02, 0, 0)))
    path = tmp_path / "pins.glb"
    scene.export(path)
    tree = read_model(path, "pins.glb").tree
    assert {c.name for c in tree.leaves()} == {"pin left", "pin right"}
    assert len(tree.shapes) == 1
    assert tree.size == pytest.approx((50, 30, 10), abs=0.1)


def test_patterns_name_parts_paths_and_assemblies(press_step: Path) -> None:
    tree = read_model(press_step, "Ebba.step").tree
    bought = hidden_by_patterns(tree, [], ["*(BOUGHT)*"])
    assert len(bought) == 60 - len([c for c in tree.leaves() if "bought" not in c.part])
    without_frame = hidden_by_patterns(tree, [], ["ebba press/frame"])
    assert without_frame == {c.path for c in tree.leaves() if c.path.startswith("Ebba press/Frame/")}
    only_rollers = hidden_by_patterns(tree, ["* roller"], [])
    assert len(tree.leaves()) - len(only_rollers) == 2
    with pytest.raises(InputError, match="names no component"):
        hidden_by_patterns(tree, ["crankshaft"], [])
    with pytest.raises(InputError, match="No component is left"):
        hidden_by_patterns(tree, ["handle"], ["*/crank"])
