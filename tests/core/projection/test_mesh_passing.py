"""Bodies of triangles that pass through one another: the lines between them, against the kernel's own section of solids."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st
from OCP.BRepAlgoAPI import BRepAlgoAPI_Section
from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox
from OCP.gp import gp_Pnt, gp_Trsf
from OCP.TopAbs import TopAbs_EDGE
from OCP.TopoDS import TopoDS
from trimesh.transformations import random_rotation_matrix, rotation_matrix, translation_matrix

from skalto.core.artwork import EdgeClass
from skalto.core.projection.mesh_lines import mesh_strokes
from skalto.core.projection.mesh_passing import bodies_of, passing_lines
from skalto.core.projection.strokes import ORDER
from skalto.core.sources.models.kernel import sub_shapes
from skalto.core.sources.models.model import Mesh
from skalto.core.viewpoint import parse_viewpoint

VISIBLE, HIDDEN = (ORDER.index(c) for c in (EdgeClass.VISIBLE, EdgeClass.HIDDEN))


def _lines(*shapes: trimesh.Trimesh) -> np.ndarray:
    triangles = np.concatenate([shape.triangles for shape in shapes])
    body = np.repeat(np.arange(len(shapes)), [len(shape.faces) for shape in shapes])
    return passing_lines(triangles, body)[0]


def _length(lines: np.ndarray) -> float:
    return float(np.linalg.norm(lines[:, 1] - lines[:, 0], axis=1).sum())


def _kernel_box(size: tuple[float, float, float], matrix: np.ndarray) -> Any:
    half = [v / 2 for v in size]
    box = BRepPrimAPI_MakeBox(gp_Pnt(*(-v for v in half)), gp_Pnt(*half)).Shape()
    move = gp_Trsf()
    move.SetValues(*matrix[:3].ravel().tolist())
    return BRepBuilderAPI_Transform(box, move, True).Shape()


def _section_length(a: Any, b: Any) -> float:
    from OCP.BRepGProp import BRepGProp
    from OCP.GProp import GProp_GProps

    section = BRepAlgoAPI_Section(a, b)
    total = 0.0
    for edge in sub_shapes(section.Shape(), TopAbs_EDGE):
        found = GProp_GProps()
        BRepGProp.LinearProperties_s(TopoDS.Edge_s(edge), found)
        total += found.Mass()
    return total


@given(st.integers(0, 2**31), st.tuples(*[st.floats(-12, 12)] * 3))
@settings(max_examples=120, deadline=None)
def test_random_boxes_cross_where_the_kernel_says(seed: int, by: tuple[float, float, float]) -> None:
    """Boxes in any position: the length of all lines between them is the kernel's, and each lies in both surfaces."""
    rng = np.random.default_rng(seed)
    sizes = [tuple(rng.uniform(4, 20, 3).tolist()) for _ in range(2)]
    matrices = [random_rotation_matrix(rng.random(3)) for _ in range(2)]
    matrices[1] = translation_matrix(by) @ matrices[1]
    meshes = [trimesh.creation.box(size, matrix) for size, matrix in zip(sizes, matrices, strict=True)]
    lines = _lines(*meshes)
    exact = _section_length(*(_kernel_box(size, matrix) for size, matrix in zip(sizes, matrices, strict=True)))
    assert _length(lines) == pytest.approx(exact, rel=1e-6, abs=1e-5)
    for size, matrix in zip(sizes, matrices, strict=True):
        own = (lines.reshape(-1, 3) - matrix[:3, 3]) @ matrix[:3, :3]
        off = np.abs(np.abs(own) - np.array(size) / 2).min(axis=1) if len(own) else np.zeros(1)
        assert off.max() < 1e-6


def _box(x: float, y: float, z: float, size: tuple[float, float, float]) -> trimesh.Trimesh:
    return trimesh.creation.box(size, translation_matrix((x, y, z)))


@pytest.mark.parametrize(
    ("name", "other"),
    [("on top", _box(0, 0, 10, (10, 10, 10))), ("beside", _box(20, 0, 0, (20, 20, 10))), ("apart", _box(60, 0, 0, (5, 5, 5)))],
)
def test_what_only_touches_from_there_has_no_line(name: str, other: trimesh.Trimesh) -> None:
    assert not len(_lines(_box(0, 0, 0, (20, 20, 10)), other)), name


def test_a_pin_in_a_hole_of_its_own_size_has_no_line() -> None:
    ring = trimesh.creation.annulus(5.0, 12.0, 8.0, sections=48)
    pin = trimesh.creation.cylinder(5.0, 30.0, sections=48)
    lines = _lines(ring, pin)
    # the pin's own facets lie in the hole's; where the plate ends there is its rim
    assert all(abs(abs(z) - 4.0) < 1e-9 for z in lines[..., 2].ravel())


def test_a_line_in_the_other_s_face_is_found_once() -> None:
    """A bar whose upper and lower halves meet, in triangles, just in the middle plane of the plate's face."""
    lower, upper = _box(0, 0, 1, (4, 4, 6)), _box(0, 0, 7, (4, 4, 6))
    bar = trimesh.util.concatenate([lower, upper])
    # without the faces between both
    inner = np.abs(bar.triangles[:, :, 2] - 4).max(axis=1) < 1e-9
    bar = trimesh.Trimesh(bar.vertices, bar.faces[~inner])
    plate = _box(0, 0, 2, (30, 30, 4))  # its upper face is at z = 4
    upper_lines = [line for line in _lines(plate, bar) if abs(line[:, 2].mean() - 4) < 1e-9]
    assert _length(np.array(upper_lines)) == pytest.approx(16)


def test_bodies_are_what_hangs_together() -> None:
    two = trimesh.util.concatenate([_box(0, 0, 0, (1, 1, 1)), _box(5, 0, 0, (1, 1, 1))])
    body = bodies_of(two.faces)
    assert len(np.unique(body)) == 2
    assert len(np.unique(body[:12])) == 1


def test_the_line_is_drawn_seen_before_and_hidden_behind() -> None:
    """A bar of 4 × 4 through a plate of 30 × 30 × 4, looked at from above: its foot on the plate is seen, the lower one hidden.
    And so in one mesh of two bodies."""
    plate, bar = _box(0, 0, 0, (30, 30, 4)), _box(0, 0, 0, (4, 4, 20))
    bar.apply_transform(rotation_matrix(0.4, (1, 0, 0)))
    whole = trimesh.util.concatenate([plate, bar])
    axes = parse_viewpoint("top").axes()
    eye = np.eye(4)
    ways = (
        [(Mesh(plate.vertices, plate.faces), eye), (Mesh(bar.vertices, bar.faces), eye)],
        [(Mesh(whole.vertices, whole.faces), eye)],
    )
    found = []
    for meshes in ways:
        strokes = mesh_strokes(meshes, axes)
        lines = np.array(strokes.lines)
        tags = np.array(strokes.line_tags)[:, 0]
        found.append([sorted(np.round(lines[tags == rank], 6).tolist()) for rank in (VISIBLE, HIDDEN)])
    assert found[0] == found[1]
    seen = np.array(found[0][0])
    # the bar leans: its foot in the upper face z = 2 runs from y = (2·sin ∓ 2)/cos on, 4 wide
    at = [(2 * np.sin(0.4) * -1 + side * 2) / np.cos(0.4) for side in (-1, 1)]
    for y in at:
        level = seen[(np.abs(seen[:, 1] - y) < 1e-6) & (np.abs(seen[:, 3] - y) < 1e-6)]
        hidden = np.array(found[0][1])
        unseen = hidden[(np.abs(hidden[:, 1] - y) < 1e-6) & (np.abs(hidden[:, 3] - y) < 1e-6)]
        assert np.abs(level[:, 2] - level[:, 0]).sum() + np.abs(unseen[:, 2] - unseen[:, 0]).sum() == pytest.approx(4, abs=1e-4)
    assert sum(len(seen[np.abs(seen[:, 1] - y) < 1e-6]) for y in at) > 0


def test_many_triangles_of_two_balls() -> None:
    """Two balls of radius 10 whose middles are 12 apart meet in a circle of radius 8 (Pythagoras)."""
    balls = [trimesh.creation.icosphere(5, 10.0) for _ in range(2)]
    balls[1].apply_translation((12, 0, 0))
    lines = _lines(*balls)
    assert _length(lines) == pytest.approx(2 * np.pi * 8, rel=2e-3)
    assert np.abs(lines[..., 0] - 6).max() < 0.02
