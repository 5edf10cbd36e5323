"""Sections: areas of cut faces against closed forms, what is left whole, hatching within its face; details by circle."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import pytest
import shapely
import trimesh

from skalto.core.annotation.dimension_values import Frame
from skalto.core.annotation.view_marks import HATCH_ANGLES, hatching
from skalto.core.artwork import Artwork, Beziers, EdgeClass, Ellipses, Lines, Tags
from skalto.core.artwork.crop_to_circle import clip_to_circle
from skalto.core.errors import InputError
from skalto.core.geometry import TAU, Similarity, bezier_at
from skalto.core.projection.cutting import CutFace, _cover
from skalto.core.projection.view import ProjectionSpec, project, shown_in
from skalto.core.sources.models.parts import uncut_by_custom
from skalto.core.sources.models.patches import face_patches
from skalto.core.sources.reading import read_model
from skalto.demo.solids import block, cut, cylinder, moved, turned
from tests.conftest import write_step

SEEN = Tags(EdgeClass.VISIBLE)


def _model(shape: object, tmp_path: Path, name: str = "part.step"):  # type: ignore[no-untyped-def]
    path = write_step(shape, tmp_path / name)
    return read_model(path, path.name)


def _area(model, look: tuple[float, float, float], depth: float, up: tuple[float, float, float] = (0, 0, 1)) -> float:  # type: ignore[no-untyped-def]
    return sum(face.area for face in shown_in(model, ProjectionSpec(look=look, up=up, cut=depth)).faces)


def test_section_areas_of_simple_solids_in_closed_form(tmp_path: Path) -> None:
    """Areas by elementary geometry: a rectangle less a strip, a ring, a circle of a sphere, an ellipse of a cylinder."""
    plate = _model(cut(block(120, 80, 10), cylinder(30, 40, (-30, 0, -10))), tmp_path)
    # through the hole's axis: 80 × 10 less the hole's 30 × 10
    assert _area(plate, (1, 0, 0), -30) == pytest.approx(80 * 10 - 30 * 10, abs=1e-6)
    # 9 mm beside the axis the chord is 2·√(15² − 9²) = 24
    assert _area(plate, (1, 0, 0), -21) == pytest.approx(80 * 10 - 24 * 10, abs=1e-6)
    # square to the axis: the plate's outline less the circle
    assert _area(plate, (0, 0, -1), -5, (0, 1, 0)) == pytest.approx(120 * 80 - math.pi * 15**2, rel=1e-9)
    tube = _model(cut(cylinder(60, 100), cylinder(40, 200, (0, 0, -50))), tmp_path, "tube.step")
    assert _area(tube, (0, 0, -1), -40, (0, 1, 0)) == pytest.approx(math.pi * (30**2 - 20**2), rel=1e-9)
    # a cylinder cut at 45° shows an ellipse of half axes r and r·√2
    rod = _model(cylinder(20, 200, (0, 0, -100)), tmp_path, "rod.step")
    assert _area(rod, (0, 1, 1), 0) == pytest.approx(math.pi * 10 * 10 * math.sqrt(2), rel=1e-6)


def test_a_cone_is_cut_in_a_hyperbola_of_the_right_area(tmp_path: Path) -> None:
    """A cone r = h(1 − z/H), cut d beside its axis; the area by numerical integration of the chord 2·√(r² − d²)."""
    radius, height, beside = 40.0, 60.0, 15.0
    cone = _model(turned([(0, 0), (radius, 0), (0, height)]), tmp_path)
    z = np.linspace(0, height, 400_001)
    chord = 2 * np.sqrt(np.maximum((radius * (1 - z / height)) ** 2 - beside**2, 0))
    assert _area(cone, (1, 0, 0), beside) == pytest.approx(float(np.trapezoid(chord, z)), rel=1e-6)


def test_the_near_half_is_gone_and_the_far_half_seen(tmp_path: Path) -> None:
    part = cut(
        block(60, 40, 20), moved(cylinder(10, 100), (0, 0, 10), ("y", 90)), moved(cylinder(10, 100), (0, 0, 10), ("y", -90))
    )
    model = _model(part, tmp_path)
    spec = ProjectionSpec(look=(0, 1, 0), up=(0, 0, 1), cut=0)
    shown = shown_in(model, spec)
    assert sum(f.area for f in shown.faces) == pytest.approx(60 * 20 - 60 * 10, abs=1e-6)
    # in the open bore's upper and lower edges are seen, not hidden
    lines = [i for i in project(model, spec) if isinstance(i, Lines) and i.tags.edge_class is EdgeClass.VISIBLE]
    levels = {round(float(y), 3) for item in lines for y in item.points[:, :, 1].ravel()}
    assert {5.0, 15.0} <= levels


def test_a_plane_beyond_the_part_leaves_nothing_and_says_so(tmp_path: Path) -> None:
    model = _model(block(10, 10, 10), tmp_path)
    with pytest.raises(InputError, match="cutting plane leaves nothing"):
        shown_in(model, ProjectionSpec(look=(1, 0, 0), up=(0, 0, 1), cut=50))


def test_meshes_are_cut_and_capped(tmp_path: Path) -> None:
    tube = trimesh.creation.annulus(r_min=10, r_max=20, height=40, sections=64)
    path = tmp_path / "tube.stl"
    tube.export(path)
    model = read_model(path, path.name)
    spec = ProjectionSpec(look=(0, 1, 0), up=(0, 0, 1), cut=0)
    faces = shown_in(model, spec).faces
    # the polygon's own section: two strips of (r_max − r_min) × height, as wide as its flats make them
    assert len(faces) == 2
    assert sum(f.area for f in faces) == pytest.approx(2 * 10 * 40, rel=2e-3)
    # outer sides, bore, top and bottom, each once
    assert len(project(model, spec)) == 6


def test_fasteners_and_shafts_stay_whole_by_custom(press_step: Path) -> None:
    model = read_model(press_step, "Ebba.step")
    across = uncut_by_custom(model.tree, {}, (1, 0, 0))
    assert any("Hex screw" in path for path in across)
    # the rollers lie along x: cut square they are hatched, lengthwise they are not
    assert not any("Upper roller" in path for path in across if path.endswith("Upper roller"))
    lengthwise = uncut_by_custom(model.tree, {}, (0, 1, 0))
    assert any(path.endswith("Upper roller") for path in lengthwise)


def test_hatching_stays_in_its_face_and_turns_from_part_to_part() -> None:
    ring = np.array(((0, 0), (60, 0), (60, 40), (0, 40)), float)
    hole = np.array(((20, 10), (40, 10), (40, 30), (20, 30)), float)
    frame = Frame(np.eye(3), Similarity())
    drawn = {}
    for name, order in (("a", ["a", "b"]), ("b", ["a", "b"])):
        (item,) = hatching([CutFace(name, 2000, (ring, hole))], frame, order)
        assert isinstance(item, Lines)
        area = shapely.Polygon(ring, [hole]).buffer(1e-6)
        assert all(area.covers(shapely.LineString(row)) for row in item.points)
        d = item.points[:, 1] - item.points[:, 0]
        drawn[name] = set(np.round(np.degrees(np.arctan2(d[:, 1], d[:, 0])) % 180).tolist())
    assert drawn == {"a": {HATCH_ANGLES[0]}, "b": {HATCH_ANGLES[1]}}


def test_a_circle_cuts_every_kind_of_stroke_exactly() -> None:
    lines = Lines(SEEN, np.array([[[-20, 3], [20, 3]], [[0, 0], [1, 1]], [[30, 30], [40, 40]]], float))
    circle = Ellipses(SEEN, np.array([[8.0, 0]]), np.array([[6.0, 0]]), np.array([[0, 6.0]]), np.zeros(1), np.array([TAU]))
    curve = Beziers(SEEN, np.array([[[-15, -4], [-5, -4], [5, 4], [15, 4]]], float))
    found = {item.kind: item for item in clip_to_circle(Artwork((lines, circle, curve)), (0, 0), 10)}
    half = math.sqrt(100 - 9)
    assert np.allclose(sorted(found["lines"].points.tolist()), sorted([[[0, 0], [1, 1]], [[-half, 3], [half, 3]]]))
    arcs = found["ellipses"]
    # the two circles meet where x = (8² − 6² + 10²) / 16
    ends = arcs.at(np.stack((arcs.start, arcs.start + arcs.sweep), axis=1)).reshape(-1, 2)
    on_border = ends[np.abs(np.hypot(*ends.T) - 10) < 1e-6]
    assert on_border[:, 0] == pytest.approx([8.0] * len(on_border))
    points = bezier_at(found["beziers"].points, np.linspace(0, 1, 50)).reshape(-1, 2)
    assert np.hypot(*points.T).max() == pytest.approx(10, abs=1e-6)


def test_hatching_is_the_same_whatever_was_asked_of_a_part_before() -> None:
    """A part that stays uncut covers hatching by its triangles: finer ones that it had from elsewhere change nothing."""
    axes = np.array(((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)))
    fresh, used = cylinder(40, 10), cylinder(40, 10)
    face_patches(used, 1e-3)
    assert _cover(used, axes).equals(_cover(fresh, axes))
