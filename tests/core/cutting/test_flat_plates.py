"""Which solids are flat plates, and their profiles against the solids' own volumes."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import trimesh
from OCP.BRepFilletAPI import BRepFilletAPI_MakeChamfer
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCone
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from OCP.TopoDS import TopoDS

from skalto.core.cutting.flat_plates import FlatPlate, NoPlate, PartFaces, flat_plate
from skalto.core.cutting.model_profiles import PartProfile, face_profile, plate_profile, silhouette_profile
from skalto.core.errors import InputError
from skalto.core.geometry.contour import Arc
from skalto.core.geometry.profile import Operation
from skalto.core.sources.models.kernel import edges
from skalto.core.sources.models.model import Model
from skalto.core.sources.reading import read_model
from skalto.demo.solids import block, cut, cylinder, fuse, moved, plate
from tests.core.modelled import modelled


def _plate_of(shape: Any) -> FlatPlate:
    return flat_plate(PartFaces(shape))


def _profile(shape: Any, folder: Path) -> tuple[PartProfile, Model]:
    model, _ = modelled(shape, folder)
    faces = PartFaces(model.shapes[0])
    return plate_profile(model, 0, flat_plate(faces), faces, "Part"), model


def _cone(large: float, small: float, height: float, at: tuple[float, float, float]) -> Any:
    axis = gp_Ax2(gp_Pnt(*at), gp_Dir(0, 0, 1))
    return BRepPrimAPI_MakeCone(axis, small, large, height).Shape()


@pytest.mark.parametrize("turn", [None, ("x", 90), ("y", 37), ("z", 15)])
def test_a_plate_is_one_however_it_stands(turn: tuple[str, float] | None, tmp_path: Path) -> None:
    slab = cut(
        plate([(0, 0, 8), (120, 0, 3), (120, 70), (0, 70, 20)], 6),
        cylinder(12, 20, (40, 30, -5)),
        cylinder(5, 20, (90, 40, -5)),
    )
    made, model = _profile(moved(slab, (11, -7, 3), turn), tmp_path)
    assert made.profile.thickness == pytest.approx(6, abs=1e-9)
    # a prism's volume is its area times its height
    assert made.profile.area * 6 == pytest.approx(model.tree.shapes[0].volume, rel=1e-9)
    circles = sorted(round(2 * own.as_circle[1], 6) for own in made.profile.openings if own.as_circle)
    assert circles == [5, 12]
    assert sum(isinstance(own, Arc) for own in made.profile.outline) == 3
    assert made.profile.marks == ()
    assert made.notes == ()
    assert made.profile.faults() == ()


def test_what_does_not_go_through_is_a_mark(tmp_path: Path) -> None:
    slab = cut(
        block(200, 100, 10), cylinder(20, 4, (40, 0, 7)), moved(block(30, 20, 6), (-50, 0, 6)), cylinder(8, 30, (0, 0, -5))
    )
    made, _ = _profile(slab, tmp_path)
    assert len(made.profile.openings) == 1
    assert {mark.operation for mark in made.profile.marks} == {Operation.SCORE}
    assert math.fsum(mark.course.length for mark in made.profile.marks) == pytest.approx(20 * math.pi + 100, abs=1e-6)
    assert "do not go through" in made.notes[0]


def test_a_countersunk_hole_is_cut_at_its_neck(tmp_path: Path) -> None:
    slab = cut(block(80, 60, 8), cylinder(6, 20, (0, 0, -5)), _cone(6, 3, 3, (0, 0, 5)))
    made, _ = _profile(slab, tmp_path)
    (opening,) = made.profile.openings
    assert opening.as_circle is not None
    assert opening.as_circle[1] == pytest.approx(3, abs=1e-6)
    (mark,) = made.profile.marks
    assert mark.course.as_circle is not None
    assert mark.course.as_circle[1] == pytest.approx(6, abs=1e-6)


def test_side_a_is_the_one_with_more_sunk_into_it(tmp_path: Path) -> None:
    under = cut(block(80, 60, 8), moved(block(40, 20, 2), (0, 0, -0.001)))
    own = _plate_of(under)
    assert own.normal[2] == pytest.approx(-1)
    both = cut(under, moved(block(10, 10, 2), (20, 15, 6.5)))
    made, _ = _profile(both, tmp_path)
    assert any("side B" in note for note in made.notes)


@pytest.mark.parametrize(
    ("shape", "why"),
    [
        (lambda: fuse(block(76, 76, 8), cylinder(50, 20)), "not level out to its edge"),
        (lambda: cylinder(10, 100), "through and only"),
        (lambda: _chamfered(), "edges are not square"),
    ],
)
def test_what_is_no_plate_and_why(shape: Any, why: str) -> None:
    with pytest.raises(NoPlate, match=why):
        _plate_of(shape())


def _chamfered() -> Any:
    slab = block(60, 40, 6)
    made = BRepFilletAPI_MakeChamfer(slab)
    for edge in edges(slab)[:12]:
        made.Add(1.0, TopoDS.Edge_s(edge))
    return made.Shape()


def test_a_rebate_along_an_edge_leaves_it_a_plate(tmp_path: Path) -> None:
    stepped = cut(block(100, 60, 10), moved(block(100, 20, 10), (0, 30, 6)))
    made, _ = _profile(stepped, tmp_path)
    assert made.profile.area == pytest.approx(6000, abs=1e-6)
    assert math.fsum(mark.course.length for mark in made.profile.marks) == pytest.approx(100, abs=1e-6)


def test_a_mesh_is_measured_too(tmp_path: Path) -> None:
    path = tmp_path / "plate.stl"
    slab = trimesh.creation.annulus(20, 60, 4.0)
    slab.export(path)
    model = read_model(path, path.name)
    faces = PartFaces(model.shapes[0])
    made = plate_profile(model, 0, flat_plate(faces), faces, "Plate").profile
    assert made.thickness == pytest.approx(4, abs=1e-6)
    assert made.area == pytest.approx(slab.volume / 4, rel=1e-6)
    assert len(made.openings) == 1


def test_a_silhouette_is_what_a_part_covers(tmp_path: Path) -> None:
    model, _ = modelled(fuse(cylinder(40, 10), moved(cylinder(10, 60), (0, 0, 0), ("x", 90))), tmp_path)
    made = silhouette_profile(model, 0, (0.0, 0.0, 1.0), "Spigot")
    assert "silhouette" in made.notes[0]
    # a disc of radius 20, and a bar of width 10 that sticks out of it by 60 less what the disc covers of it
    covered = np.trapezoid(np.sqrt(400 - np.linspace(-5, 5, 20001) ** 2), np.linspace(-5, 5, 20001))
    assert made.profile.area == pytest.approx(math.pi * 400 + 600 - covered, abs=1e-3)


def test_a_chosen_face_is_cut_as_it_is_and_its_holes_with_it(tmp_path: Path) -> None:
    """A block 80 × 50 × 30 with a blind hole in its top and a slanted end: no flat plate, but its faces are known by hand."""
    shape = cut(plate([(0, 0), (80, 0), (60, 50), (0, 50)], 30), cylinder(20, 10, (25, 25, 20)))
    model, _ = modelled(shape, tmp_path)
    faces = PartFaces(model.shapes[0]).faces
    flat = {round(face.area, 3): n for n, face in enumerate(faces) if face.is_plane}
    top = (80 + 60) / 2 * 50 - math.pi * 100
    made = face_profile(model, 0, flat[round(top, 3)], "Block")
    assert made.profile.area == pytest.approx(top, rel=1e-9)
    assert [round(2 * own.as_circle[1], 9) for own in made.profile.openings if own.as_circle] == [20]
    assert "one of its faces" in made.notes[0]
    slant = math.hypot(20, 50) * 30
    end = face_profile(model, 0, flat[round(slant, 3)])
    assert end.profile.area == pytest.approx(slant, rel=1e-9)
    assert len(end.profile.outline.segments) == 4
    # the bottom, whole though the hole is above it
    assert face_profile(model, 0, flat[round((80 + 60) / 2 * 50, 3)]).profile.openings == ()
    wall = next(n for n, face in enumerate(faces) if not face.is_plane)
    for number in (wall, 99):
        with pytest.raises(InputError, match="no flat face"):
            face_profile(model, 0, number)


def test_a_face_of_a_mesh(tmp_path: Path) -> None:
    path = tmp_path / "box.stl"
    trimesh.creation.box((40, 30, 10)).export(path)
    model = read_model(path, "box.stl")
    areas = sorted(face_profile(model, 0, n).profile.area for n in range(6))
    assert areas == pytest.approx([300, 300, 400, 400, 1200, 1200], rel=1e-6)


def test_faces_know_which_way_is_out(tmp_path: Path) -> None:
    model, _ = modelled(cut(block(40, 30, 20), cylinder(10, 40, (20, 15, -5))), tmp_path)
    faces = PartFaces(model.shapes[0])
    flat = [n for n, face in enumerate(faces.faces) if face.is_plane]
    assert len(flat) == 6
    for number in flat:
        own = faces.faces[number]
        towards = own.normals[0] * (-1 if own.inward else 1)
        corners = faces.corners[number]
        around = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]).sum(axis=0)
        assert np.dot(towards, around / np.linalg.norm(around)) == pytest.approx(1)
