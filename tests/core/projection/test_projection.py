"""Views: what is seen, what is not, and that curves stay what they are."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
import trimesh
from OCP.BRepPrimAPI import BRepPrimAPI_MakeSphere, BRepPrimAPI_MakeTorus

from skalto.core.artwork import Artwork, Beziers, EdgeClass, Ellipses, Lines
from skalto.core.errors import InputError
from skalto.core.geometry import bezier_at
from skalto.core.projection.hidden_lines import strokes_of
from skalto.core.projection.single import make_single
from skalto.core.projection.view import ProjectionSpec, project, tolerance_for
from skalto.core.quantities import Scale
from skalto.core.sources.reading import read_model
from skalto.core.viewpoint import PRINCIPAL, STANDARD, make_viewpoint, parse_viewpoint
from skalto.demo.solids import block, cut, cylinder, fuse, moved
from tests.conftest import plate_with_holes


def seen(shapes: list[Any], view: str, tolerance: float = 5e-4) -> Artwork:
    return make_single(
        strokes_of(list(enumerate(shapes)), parse_viewpoint(view).axes(), tolerance), [str(n) for n in range(len(shapes))]
    )


def count(artwork: Artwork, edge_class: EdgeClass, kind: type) -> int:
    return sum(len(item) for item in artwork if item.tags.edge_class is edge_class and isinstance(item, kind))


def test_every_axis_frame_is_right_handed_and_square() -> None:
    for viewpoint in STANDARD.values():
        axes = viewpoint.axes()
        assert np.allclose(axes @ axes.T, np.eye(3))
        assert np.linalg.det(axes) == pytest.approx(1)


def test_the_principal_views_look_where_iso_128_has_them() -> None:
    # right hand side of the sheet in each view, for a model that stands on z with its front at −y (ISO 128-3)
    right = {
        "front": (1, 0, 0),
        "top": (1, 0, 0),
        "left": (0, -1, 0),
        "right": (0, 1, 0),
        "bottom": (1, 0, 0),
        "rear": (-1, 0, 0),
    }
    for name, viewpoint in PRINCIPAL.items():
        assert viewpoint.axes()[0] == pytest.approx(right[name])


@pytest.mark.parametrize(
    "text", ["side", "dir:1,2;up:0,0,1", "dir:0,0,0", "dir:0,0,1;up:0,0,2", "dir:a,b,c", "dir:1,0,0;up:nan,0,1"]
)
def test_what_is_no_direction_says_so(text: str) -> None:
    with pytest.raises(InputError, match=r"view|direction"):
        parse_viewpoint(text)


def test_any_direction_with_its_up() -> None:
    assert parse_viewpoint("dir:0,1,0;up:1,0,0").axes()[0] == pytest.approx((0, 0, -1))
    assert make_viewpoint("down", (0, 0, -1)).axes()[1] == pytest.approx((0, 1, 0))


def test_a_plate_with_holes_from_above() -> None:
    top = seen([plate_with_holes()], "top")
    assert count(top, EdgeClass.VISIBLE, Lines) == 4
    circles = [item for item in top if isinstance(item, Ellipses)]
    assert sorted(circles[0].radii()[:, 0]) == pytest.approx([3.25, 6, 15])
    assert circles[0].is_circle().all()
    assert circles[0].is_whole().all()
    assert count(top, EdgeClass.HIDDEN, Lines) + count(top, EdgeClass.HIDDEN, Ellipses) == 0  # all behind what is seen


def test_a_hole_from_aside_is_two_hidden_lines() -> None:
    front = seen([plate_with_holes()], "front")
    hidden = np.concatenate([i.points for i in front.only([EdgeClass.HIDDEN]) if isinstance(i, Lines)])
    assert sorted({round(x, 6) for x in hidden[..., 0].ravel()}) == pytest.approx([-45, -15, 19, 31, 36.75, 43.25])


@pytest.mark.long
def test_a_component_taken_out_hides_nothing(press_step: Path) -> None:
    model = read_model(press_step, "Ebba.step")
    front = STANDARD["right"]
    whole = project(model, ProjectionSpec(look=front.look, up=front.up))
    hidden = frozenset(c.path for c in model.tree.leaves() if c.part != "Cheek, left")
    alone = project(model, ProjectionSpec(look=front.look, up=front.up, hidden=hidden))
    assert {item.tags.component for item in alone} == {"Ebba press/Frame/Cheek, left"}
    own = [i for i in whole if i.tags.component == "Ebba press/Frame/Cheek, left" and i.tags.edge_class is EdgeClass.VISIBLE]
    assert sum(len(i) for i in own) < count(alone, EdgeClass.VISIBLE, Lines) + count(alone, EdgeClass.VISIBLE, Ellipses)
    with pytest.raises(InputError, match="No component"):
        project(model, ProjectionSpec(look=front.look, up=front.up, hidden=frozenset({"Ebba press"})))


def test_a_block_before_another_hides_it() -> None:
    near, far = block(40, 10, 20), moved(block(20, 10, 10), (0, 30, 5))
    front = seen([near, far], "front")
    assert {item.tags.component for item in front.only([EdgeClass.VISIBLE])} == {"0"}
    assert {item.tags.component for item in front.only([EdgeClass.HIDDEN])} == {"1"}


def test_an_isometric_circle_is_an_ellipse_of_known_axes() -> None:
    # ISO 5456-3: a circle of diameter d on a face square to an axis has axes d and d/√3 in true isometric projection
    iso = seen([plate_with_holes()], "iso")
    ellipses = np.concatenate([i.radii() for i in iso.only([EdgeClass.VISIBLE]) if isinstance(i, Ellipses)])
    whole = ellipses[np.isclose(ellipses[:, 0], 15)]
    assert whole[:, 1] == pytest.approx(15 / np.sqrt(3))


def test_a_sphere_is_a_circle_from_everywhere() -> None:
    ball = BRepPrimAPI_MakeSphere(12.0).Shape()
    for view in ("front", "iso", "dir:0.3,0.9,-0.2"):
        outline = seen([ball], view).only([EdgeClass.OUTLINE, EdgeClass.VISIBLE])
        assert outline.bounds() == pytest.approx((-12, -12, 12, 12), abs=1e-6)


def test_the_outline_of_a_torus_is_within_the_tolerance_of_the_true_one() -> None:
    """Seen askew, a torus's outline is the curve at distance r from the projected centre circle, in closed form."""
    torus, look = BRepPrimAPI_MakeTorus(30.0, 10.0).Shape(), np.array((-1, 1, -1)) / np.sqrt(3)
    axes = parse_viewpoint("iso").axes()
    t = np.linspace(0, 2 * np.pi, 720_001)
    radial = np.stack((np.cos(t), np.sin(t), 0 * t), axis=1)
    phi = np.arctan2(-(radial @ look), look[2])
    off = np.cos(phi)[:, None] * radial + np.sin(phi)[:, None] * np.array((0, 0, 1.0))
    true = np.concatenate((30 * radial + 10 * off, 30 * radial - 10 * off)) @ axes[:2].T
    from scipy.spatial import cKDTree

    near = cKDTree(true)
    for tolerance in (5e-4, 5e-5):
        artwork = seen([torus], "iso", tolerance)
        runs = [item for item in artwork.only([EdgeClass.OUTLINE]) if isinstance(item, Beziers)]
        points = np.concatenate([bezier_at(item.points, np.linspace(0, 1, 25)).reshape(-1, 2) for item in runs])
        distance, index = near.query(points)
        spacing = np.linalg.norm(true[(index + 1) % len(true)] - true[index], axis=1)
        assert np.sqrt(np.maximum(distance**2 - spacing**2, 0)).max() <= tolerance + 5e-5


def test_a_fillet_edge_is_smooth_where_it_faces_and_outline_where_it_turns_away() -> None:
    from OCP.BRepFilletAPI import BRepFilletAPI_MakeFillet
    from OCP.TopoDS import TopoDS

    from skalto.core.sources.models.kernel import edges, mark_smooth_edges

    body = block(40, 30, 20)
    maker = BRepFilletAPI_MakeFillet(body)
    for edge in edges(body):
        curve = __import__("OCP.BRepAdaptor", fromlist=["x"]).BRepAdaptor_Curve(TopoDS.Edge_s(edge))
        ends = (curve.Value(curve.FirstParameter()), curve.Value(curve.LastParameter()))
        if all(abs(p.Z() - 20) < 1e-6 and abs(p.Y() + 15) < 1e-6 for p in ends):
            maker.Add(5.0, TopoDS.Edge_s(edge))
    shape = maker.Shape()
    mark_smooth_edges(shape)
    front = seen([shape], "front")
    assert front.only([EdgeClass.VISIBLE, EdgeClass.OUTLINE]).bounds() == pytest.approx((-20, 0, 20, 20))
    smooth = np.concatenate([i.points for i in front.only([EdgeClass.SMOOTH]) if isinstance(i, Lines)])
    assert smooth[..., 1].ravel() == pytest.approx([15, 15])


def test_a_boss_with_a_hole_has_no_seam() -> None:
    part = cut(fuse(block(60, 60, 10), cylinder(30, 30)), cylinder(12, 60, (0, 0, -5)))
    front = seen([part], "front")
    xs = np.concatenate([i.points for i in front.only([EdgeClass.VISIBLE, EdgeClass.OUTLINE]) if isinstance(i, Lines)])
    upright = xs[np.isclose(xs[:, 0, 0], xs[:, 1, 0])]
    assert sorted(upright[:, 0, 0]) == pytest.approx([-30, -15, 15, 30])


def test_tolerances_follow_the_scale_in_steps() -> None:
    assert tolerance_for(Scale.parse("1:1")) == pytest.approx(5e-4)
    assert tolerance_for(Scale.parse("10:1")) == pytest.approx(5e-5)
    assert tolerance_for(Scale.parse("2:1")) == pytest.approx(5e-5)
    assert tolerance_for(Scale.parse("1:20")) == pytest.approx(5e-3)


def test_a_mesh_box_is_seen_like_a_solid_one(tmp_path: Path) -> None:
    path = tmp_path / "box.stl"
    trimesh.creation.box((40, 30, 20)).export(path)
    iso = STANDARD["iso"]
    mesh = project(read_model(path, "box.stl"), ProjectionSpec(look=iso.look, up=iso.up))
    solid = seen([moved(block(40, 30, 20), (0, 0, -10))], "iso")
    for edge_class in (EdgeClass.VISIBLE, EdgeClass.HIDDEN):
        one, other = (
            np.sort(np.concatenate([i.points.reshape(-1, 4) for i in a.only([edge_class])]).ravel())
            for a in (mesh, solid)  # type: ignore[union-attr]
        )
        assert one == pytest.approx(other, abs=1e-5)


def test_a_mesh_before_another_cuts_its_edges_where_it_covers_them(tmp_path: Path) -> None:
    scene = trimesh.Scene()
    scene.add_geometry(
        trimesh.creation.box((0.02, 0.02, 0.01)),
        node_name="near",
        transform=trimesh.transformations.translation_matrix((0, 0, 0.05)),
    )
    scene.add_geometry(trimesh.creation.box((0.06, 0.01, 0.01)), node_name="bar")
    path = tmp_path / "two.glb"
    scene.export(path)
    model = read_model(path, "two.glb")
    # glTF's z is the model's −y: the front view looks from there
    front = STANDARD["front"]
    view = project(model, ProjectionSpec(look=front.look, up=front.up))
    bar = [i for i in view.only([EdgeClass.VISIBLE]) if i.tags.component.endswith("bar")]
    lines = np.concatenate([i.points for i in bar])  # type: ignore[union-attr]
    level = lines[np.isclose(lines[:, 0, 1], lines[:, 1, 1])]
    xs = np.sort(np.abs(level[..., 0]), axis=1)
    assert xs == pytest.approx(np.tile((10.0, 30.0), (4, 1)), abs=1e-4)
