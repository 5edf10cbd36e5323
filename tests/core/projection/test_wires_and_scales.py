"""Free curves of a model are drawn, seen and hidden; placements that scale give sizes and lines of what is placed."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import trimesh
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeWire
from OCP.BRepTools import BRepTools
from OCP.gp import gp_Ax2, gp_Circ, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.IGESControl import IGESControl_Writer
from OCP.TopLoc import TopLoc_Location

from skalto.core.artwork import Artwork, EdgeClass
from skalto.core.projection.view import ProjectionSpec
from skalto.core.scene.meshing import Quality, part_meshes
from skalto.core.sources.models.meshes import GLTF_TO_MODEL
from skalto.core.sources.models.model import Model
from skalto.core.sources.models.parts import items
from skalto.core.sources.models.tessellation import to_glb
from skalto.core.sources.reading import read_model
from skalto.core.viewpoint import parse_viewpoint
from skalto.demo.solids import block
from skalto.services.results.lines import project_model
from tests.conftest import plate_with_holes, write_step
from tests.core.modelled import together


def _line(a: tuple[float, ...], b: tuple[float, ...]) -> Any:
    return BRepBuilderAPI_MakeEdge(gp_Pnt(*a), gp_Pnt(*b)).Edge()


def _ring(radius: float, z: float) -> Any:
    return BRepBuilderAPI_MakeWire(
        BRepBuilderAPI_MakeEdge(gp_Circ(gp_Ax2(gp_Pnt(0, 0, z), gp_Dir(0, 0, 1)), radius)).Edge()
    ).Wire()


WIRED = together(block(40, 20, 10), _line((-50, 0, 5), (50, 0, 5)), _ring(30, 20), _line((-10, 5, 10), (10, 5, 10)))
"""A block 40 × 20 × 10, z from 0, a line through it lengthwise, a ring of 30 above it, and a line drawn on its top."""


def _length(artwork: Artwork, *classes: EdgeClass) -> float:
    found = 0.0
    for item in artwork:
        if item.tags.edge_class in classes:
            if item.kind == "lines":
                found += float(np.linalg.norm(item.points[:, 1] - item.points[:, 0], axis=1).sum())  # type: ignore[union-attr]
            elif item.kind == "ellipses":
                found += float((item.radii()[:, 0] * item.sweep).sum())  # type: ignore[union-attr]
    return found


def _view(model: Model, name: str, **more: Any) -> Any:
    seen = parse_viewpoint(name)
    return project_model(model, ProjectionSpec(look=seen.look, up=seen.up, **more))


def _iges(path: Path) -> Path:
    writer = IGESControl_Writer("MM", 1)
    writer.AddShape(WIRED)
    writer.Write(str(path))
    return path


def _brep(path: Path) -> Path:
    BRepTools.Write_s(WIRED, str(path))
    return path


@pytest.mark.parametrize("suffix", [".step", ".brep", ".iges"])
def test_free_curves_are_drawn_seen_and_hidden(suffix: str, tmp_path: Path) -> None:
    path = tmp_path / f"wired{suffix}"
    path = {".step": lambda p: write_step(WIRED, p), ".brep": _brep, ".iges": _iges}[suffix](path)
    model = read_model(path, path.name)
    top = _view(model, "top").artwork
    # the ring, the line outside of the block, the line on its top
    assert _length(top, EdgeClass.WIRE) == pytest.approx(2 * np.pi * 30 + 60 + 20, abs=0.02)
    front = _view(model, "front").artwork
    assert _length(front, EdgeClass.WIRE) == pytest.approx(60 + 60, abs=0.02)
    assert _length(front, EdgeClass.VISIBLE) == pytest.approx(100, abs=1e-6)
    # the stretch inside the block is hidden
    hidden = [item for item in front if item.tags.edge_class is EdgeClass.HIDDEN and item.kind == "lines"]
    reach = np.concatenate([item.points.reshape(-1, 2) for item in hidden])  # type: ignore[union-attr]
    inside = reach[np.abs(reach[:, 1] - 5) < 1e-6]
    assert np.abs(inside[:, 0]).max() == pytest.approx(20, abs=0.01)
    lengths = {own.kind: own.value for own in _view(model, "top").lengths}
    assert lengths["width"] == pytest.approx(100)


def test_a_file_of_curves_alone_is_drawn(tmp_path: Path) -> None:
    path = write_step(together(_line((0, 0, 0), (30, 0, 0)), _ring(10, 0)), tmp_path / "curves.step")
    model = read_model(path, path.name)
    assert _length(_view(model, "top").artwork, EdgeClass.WIRE) == pytest.approx(30 + 2 * np.pi * 10, abs=1e-3)
    assert items(model.tree, {}) == []
    scene = trimesh.load_scene(io.BytesIO(to_glb(model)), file_type="glb")
    assert len(scene.geometry) >= 1


def test_curves_make_no_parts_and_do_not_stop_the_3d_model(tmp_path: Path) -> None:
    path = write_step(WIRED, tmp_path / "wired.step")
    model = read_model(path, path.name)
    assert len(items(model.tree, {})) == 1
    assert sum(len(part.pieces) for part in part_meshes(model, Quality.DRAFT)) == 1
    names = trimesh.load_scene(io.BytesIO(to_glb(model)), file_type="glb").graph.nodes_geometry
    assert any(str(name).endswith(".w") for name in names)


@pytest.mark.parametrize("factor", [2.5, 0.1])
def test_a_scaled_placement_in_a_brep_file(factor: float, tmp_path: Path) -> None:
    by = gp_Trsf()
    by.SetTranslation(gp_Vec(10, 0, 0))
    grow = gp_Trsf()
    grow.SetScaleFactor(factor)
    shape = plate_with_holes().Moved(TopLoc_Location(by.Multiplied(grow)), False)
    path = tmp_path / "scaled.brep"
    BRepTools.Write_s(shape, str(path))
    model = read_model(path, path.name)
    assert model.tree.size == pytest.approx((120 * factor, 80 * factor, 10 * factor), rel=1e-6)
    volume = (120 * 80 - np.pi * (15**2 + 6**2 + 3.25**2)) * 10 * factor**3
    assert model.tree.shapes[0].volume == pytest.approx(volume, rel=1e-6)
    view = _view(model, "top")
    box = view.artwork.bounds()
    assert box[2] - box[0] == pytest.approx(120 * factor, rel=1e-9)
    assert {own.kind: own.value for own in view.lengths}["diameter"] == pytest.approx(30 * factor)


def test_nodes_that_scale_unevenly_in_gltf(tmp_path: Path) -> None:
    """Sizes, volume and lines as trimesh has the whole scene, which applies the nodes' matrices itself."""
    scene = trimesh.Scene()
    stretch = np.diag((1.0, 2.0, 3.0, 1.0))
    turned = trimesh.transformations.rotation_matrix(0.6, (0, 0, 1)) @ stretch
    turned[:3, 3] = (5, 6, 7)
    scene.add_geometry(trimesh.creation.box((10, 10, 10)), node_name="plain", geom_name="box")
    scene.graph.update(frame_to="stretched", frame_from="world", matrix=turned, geometry="box")
    mirrored = np.diag((-1.5, 1.5, 1.5, 1.0))
    scene.graph.update(frame_to="mirrored", frame_from="stretched", matrix=mirrored, geometry="box")
    path = tmp_path / "scaled.glb"
    path.write_bytes(scene.export(file_type="glb"))
    model = read_model(path, path.name)
    whole = trimesh.load_scene(path).to_mesh()
    corners = whole.vertices @ GLTF_TO_MODEL[:3, :3].T
    low, size = np.array(model.tree.low), np.array(model.tree.size)
    assert low == pytest.approx(corners.min(axis=0), rel=1e-6)
    assert size == pytest.approx(np.ptp(corners, axis=0), rel=1e-6)
    volumes = sorted(leaf.volume for leaf in model.tree.leaves())
    unit = volumes[0] / 1000
    assert volumes == pytest.approx([1000 * unit, 6000 * unit, 6000 * 1.5**3 * unit], rel=1e-6)
