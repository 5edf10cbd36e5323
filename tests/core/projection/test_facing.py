"""Hidden lines from facets: against closed forms, against the kernel where it is right, and by rays where it is not."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from OCP.BRepAlgoAPI import BRepAlgoAPI_Fuse
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeWire
from OCP.BRepFilletAPI import BRepFilletAPI_MakeFillet
from OCP.BRepOffsetAPI import BRepOffsetAPI_ThruSections
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakePrism,
    BRepPrimAPI_MakeSphere,
    BRepPrimAPI_MakeTorus,
)
from OCP.BRepTools import BRepTools
from OCP.GC import GC_MakeArcOfCircle, GC_MakeSegment
from OCP.GeomAPI import GeomAPI_Interpolate, GeomAPI_PointsToBSplineSurface
from OCP.GeomConvert import GeomConvert_CompCurveToBSplineCurve
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt, gp_Vec
from OCP.TColgp import TColgp_Array2OfPnt, TColgp_HArray1OfPnt
from OCP.TopoDS import TopoDS
from scipy.integrate import quad
from scipy.special import ellipe

from skalto.core.artwork import Artwork, Beziers, EdgeClass, Ellipses, Lines
from skalto.core.geometry import bezier_at
from skalto.core.projection.cutting import Shown
from skalto.core.projection.depth import front_depth
from skalto.core.projection.faceted import facet_strokes
from skalto.core.projection.facets import Surface, facets_of
from skalto.core.projection.facing import bodies_of, united
from skalto.core.projection.hiding import hidden_stretches
from skalto.core.projection.methods import HiddenLines
from skalto.core.projection.passing import passing_of
from skalto.core.projection.single import make_single
from skalto.core.projection.view import ProjectionSpec, project_shown, shown_in
from skalto.core.projection.watch import watch
from skalto.core.sources.models.kernel import as_splines, edges
from skalto.core.sources.models.model import Model
from skalto.core.sources.reading import read_model
from skalto.core.viewpoint import parse_viewpoint
from skalto.demo.solids import block, cylinder, fuse, moved
from tests.campaigns.hidden import free_form, union
from tests.core.modelled import modelled, pin_in_plate, together


def _rounded() -> Any:
    body = block(60, 40, 10)
    fillet = BRepFilletAPI_MakeFillet(body)
    for edge in edges(body):
        fillet.Add(3, TopoDS.Edge_s(edge))
    return fillet.Shape()


def seen(model: Model, name: str, way: HiddenLines = HiddenLines.FACETS) -> tuple[Artwork, Shown, ProjectionSpec]:
    viewpoint = parse_viewpoint(name)
    spec = ProjectionSpec(look=viewpoint.look, up=viewpoint.up, hidden_lines=way)
    shown = shown_in(model, spec)
    return project_shown(model, shown, spec), shown, spec


def lengths(artwork: Artwork) -> dict[EdgeClass, float]:
    """The length of each class, mm."""
    found: dict[EdgeClass, float] = {}
    for item in artwork:
        if isinstance(item, Lines):
            runs = item.points
        elif isinstance(item, Ellipses):
            t = item.start[:, None] + item.sweep[:, None] * np.linspace(0, 1, 2001)
            runs = np.cos(t)[..., None] * item.major[:, None] + np.sin(t)[..., None] * item.minor[:, None]
        else:
            assert isinstance(item, Beziers)
            runs = bezier_at(item.points, np.linspace(0, 1, 65))
        own = float(np.linalg.norm(np.diff(runs, axis=1), axis=-1).sum())
        found[item.tags.edge_class] = found.get(item.tags.edge_class, 0.0) + own
    return found


def test_the_outline_of_a_ring_is_as_long_as_it_must_be(tmp_path: Path) -> None:
    """Along its plane: two lines and two half circles. From elsewhere: two curves parallel to the middle circle's ellipse, and
    what one is longer than it the other is shorter (J. Steiner, 1840); the ellipse's length by E(m), DLMF 19.30.5."""
    ring, _ = modelled(BRepPrimAPI_MakeTorus(20, 5).Shape(), tmp_path)
    along = lengths(seen(ring, "front")[0])
    assert along[EdgeClass.OUTLINE] == pytest.approx(4 * 20 + 2 * math.pi * 5, abs=1e-3)
    assert along[EdgeClass.HIDDEN] == pytest.approx(2 * math.pi * 5, abs=1e-3)
    oblique = lengths(seen(ring, "iso")[0])
    assert set(oblique) == {EdgeClass.OUTLINE}
    assert oblique[EdgeClass.OUTLINE] == pytest.approx(2 * 4 * 20 * ellipe(1 - 1 / 3), abs=1e-3)


def test_where_two_cylinders_meet_is_as_long_as_the_curve(tmp_path: Path) -> None:
    """Of radii R and r with axes square to one another: x² − z² = R² − r² along both axes' plane, an integral."""
    lying = BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(-25, 0, 0), gp_Dir(1, 0, 0)), 5, 50).Shape()
    tee, _ = modelled(BRepAlgoAPI_Fuse(cylinder(16, 40, (0, 0, -20)), lying).Shape(), tmp_path)
    curve, _ = quad(lambda z: math.sqrt((39 + 2 * z * z) / (39 + z * z)), -5, 5)
    found = lengths(seen(tee, "front")[0])
    assert found[EdgeClass.VISIBLE] == pytest.approx(2 * 16 + 2 * 10 + 2 * curve, abs=1e-3)
    assert found[EdgeClass.OUTLINE] == pytest.approx(4 * 17 + 4 * 15, abs=1e-3)
    assert EdgeClass.HIDDEN not in found


@pytest.mark.parametrize(
    "body",
    [pin_in_plate(0.2), BRepPrimAPI_MakeCone(10, 4, 15).Shape(), _rounded(), together(block(60, 40, 10), block(20, 20, 5))],
    ids=["pin", "cone", "rounded", "blocks"],
)
def test_lengths_are_the_kernel_s_where_that_is_right(body: Any, tmp_path: Path) -> None:
    model, _ = modelled(body, tmp_path)
    for name in ("front", "left", "top", "iso"):
        ours, theirs = lengths(seen(model, name)[0]), lengths(seen(model, name, HiddenLines.KERNEL)[0])
        assert ours == pytest.approx(theirs, rel=1e-4), name


@pytest.mark.parametrize(
    "body",
    [
        pin_in_plate(0.2), BRepPrimAPI_MakeCone(10, 4, 15).Shape(), _rounded(),
        together(
            moved(BRepPrimAPI_MakeSphere(10).Shape(), turn=("z", 40)), moved(cylinder(6, 40, (2, 1, -20)), turn=("y", 20)),
            moved(block(30, 4, 4), (0, 1, -1.3)),
        ),
    ],
    ids=["pin", "cone", "rounded", "run through"],
)  # fmt: skip
def test_splines_are_seen_as_what_they_were_made_of(body: Any, tmp_path: Path) -> None:
    """Faces and edges that are neither plane nor round have the same exact ends."""
    model, _ = modelled(body, tmp_path)
    (tmp_path / "splines").mkdir()
    as_made, _ = modelled(as_splines(body), tmp_path / "splines")
    for name in ("front", "iso", "dir:1,2,-1.5"):
        exact, splines = lengths(seen(model, name)[0]), lengths(seen(as_made, name)[0])
        assert splines == pytest.approx(exact, rel=1e-4), name


def test_a_pin_in_a_hole_of_its_own_size_hides_the_rim_behind_it(tmp_path: Path) -> None:
    model, _ = modelled(pin_in_plate(0.0), tmp_path)
    artwork, shown, spec = seen(model, "iso")
    assert not watch(model, shown, spec.axes(), artwork).faults
    # the kernel draws it, and the rays say so
    assert watch(model, shown, spec.axes(), seen(model, "iso", HiddenLines.KERNEL)[0]).faults


def test_rays_find_nothing_wrong_with_the_demo_press(press_step: Path) -> None:
    model = read_model(press_step, press_step.name)
    for name in ("front", "iso"):
        artwork, shown, spec = seen(model, name)
        found = watch(model, shown, spec.axes(), artwork)
        assert found.samples > 5000
        assert not found.faults, name


def _through() -> tuple[Any, Any]:
    """A plate, and a leaning rod that goes through it."""
    return block(60, 40, 10), moved(cylinder(12, 60, (0, 0, -25)), turn=("y", 25))


@pytest.mark.parametrize("name", ["front", "top", "iso", "dir:1,2,-1.5"])
def test_bodies_that_pass_through_one_another_are_seen_as_one(name: str, tmp_path: Path) -> None:
    """Where they do there is an edge, as in the body that both make."""
    (tmp_path / "one").mkdir()
    one, _ = modelled(fuse(*_through()), tmp_path / "one")
    two, _ = modelled(together(*_through()), tmp_path)
    joined, apart = lengths(seen(one, name)[0]), lengths(seen(two, name)[0])
    for edge_class in (EdgeClass.VISIBLE, EdgeClass.OUTLINE):
        assert apart.get(edge_class, 0.0) == pytest.approx(joined.get(edge_class, 0.0), rel=1e-4), edge_class
    artwork, shown, spec = seen(two, name)
    assert not watch(two, shown, spec.axes(), artwork).faults


def test_bodies_that_only_touch_make_no_edges_of_their_own(tmp_path: Path) -> None:
    """A pin in a hole of its own size, a plate on a plate, a ball on a plate."""
    on_plate = together(
        block(60, 40, 10), moved(block(20, 20, 5), (0, 0, 10)), moved(BRepPrimAPI_MakeSphere(5).Shape(), (15, 0, 15))
    )
    for body in (pin_in_plate(0.0), pin_in_plate(0.05), on_plate):
        model, _ = modelled(body, tmp_path)
        spec = ProjectionSpec(look=(0, 0, -1), up=(0, 1, 0))
        shown = shown_in(model, spec)
        assert passing_of(bodies_of(model, shown, range(len(shown.shapes)))) == []
    model, _ = modelled(together(*_through()), tmp_path)
    shown = shown_in(model, spec)
    (passing,) = passing_of(bodies_of(model, shown, range(len(shown.shapes))))
    assert len(passing.crossings) == 2


def test_a_solid_that_is_inside_out_is_seen_as_it_is(tmp_path: Path) -> None:
    facets, turned_ = (facets_of(shape, 0.02, 0.25) for shape in (_rounded(), _rounded().Reversed()))
    for own in (facets, turned_):
        a, b, c = (own.points[own.triangles[:, k]] for k in range(3))
        # of a block without what the rounding takes
        assert 0.95 * 60 * 40 * 10 < float((np.cross(a, b) * c).sum()) / 6 < 60 * 40 * 10
    strokes = [facet_strokes([(0, own, np.eye(4))], parse_viewpoint("iso").axes(), 1e-3) for own in (facets, turned_)]
    right, same = (lengths(make_single(own, ["a"], 1e-3)) for own in strokes)
    assert same == pytest.approx(right, rel=1e-6)


def test_what_is_cut_is_the_kernel_s_where_that_is_right(plate_step: Path) -> None:
    model = read_model(plate_step, plate_step.name)
    for name in ("front", "left", "iso"):
        viewpoint = parse_viewpoint(name)
        found = []
        for way in HiddenLines:
            spec = ProjectionSpec(look=viewpoint.look, up=viewpoint.up, cut=0.0, hidden_lines=way)
            found.append(lengths(project_shown(model, shown_in(model, spec), spec)))
        assert found[0] == pytest.approx(found[1], rel=1e-4), name


_NUMBER = st.integers(-20, 20).map(float)
_PLACE = st.tuples(_NUMBER, _NUMBER, _NUMBER)


@settings(max_examples=100, deadline=None)
@given(st.lists(st.tuples(_PLACE, _PLACE, _PLACE), min_size=1, max_size=12), _PLACE, _PLACE)
def test_stretches_are_those_that_samples_find(corners: list[Any], start: Any, end: Any) -> None:
    """Against each triangle's plane and sides, asked at many places of a chord."""
    triangles = np.array(corners)
    across = np.cross(triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0])
    triangles = np.where((across[:, 2] < 0)[:, None, None], triangles[:, ::-1], triangles)
    triangles = triangles[np.abs(across[:, 2]) > 1e-6]
    count = len(triangles)
    chord, names = np.array((start, end)), np.arange(count)
    if not count or np.linalg.norm((chord[1] - chord[0])[:2]) < 1e-6:
        return
    beside = np.full((1, 5), -1)
    line = np.zeros(1, np.int64), np.zeros(1, np.int64), np.array([[0.0, 1.0]]), np.zeros((1, 3, 3))
    planes = np.zeros(count, np.int64), np.zeros((count, 8))
    _, spans = hidden_stretches(
        chord[None],
        beside,
        beside[:, :2],
        np.full(1, np.inf),
        line,
        triangles,
        names,
        names,
        names,
        np.full(count, 1e-6),
        1e-6,
        planes,
    )
    share = (np.arange(400) + 0.5) / 400
    at = chord[0] + (chord[1] - chord[0]) * share[:, None]
    hidden, near = np.zeros(len(share), bool), np.zeros(len(share), bool)
    for a, b, c in triangles:
        normal = np.cross(b - a, c - a)
        depth = a[2] - ((at[:, :2] - a[:2]) @ normal[:2]) / normal[2] - at[:, 2]
        sides = np.array([(q - p)[0] * (at[:, 1] - p[1]) - (q - p)[1] * (at[:, 0] - p[0]) for p, q in ((a, b), (b, c), (c, a))])
        hidden |= (sides > 0).all(axis=0) & (depth > 0)
        near |= (np.abs(sides) < 1e-3).any(axis=0) | (np.abs(depth) < 1e-3)
    said = ((spans[:, :1] <= share) & (spans[:, 1:] >= share)).any(axis=0)
    assert (said == hidden)[~near].all()


_FORM = st.tuples(*(st.floats(-20, 20),) * 3)
_UNIT = _FORM.filter(lambda v: np.linalg.norm(v) > 1).map(lambda v: np.array(v) / np.linalg.norm(v))


def _on(surface: Surface, middle: Any, axis: Any, u: float, v: float) -> tuple[Any, Any, Any]:
    """A surface's form, a place on it, and the normal there, away from the axis or middle."""
    x = np.cross(axis, (1.0, 0, 0) if abs(axis[0]) < 0.7 else (0, 1.0, 0))
    x /= np.linalg.norm(x)
    out = x * np.cos(u) + np.cross(axis, x) * np.sin(u)
    form = np.array((*middle, *axis, 0.0, 0.0))
    if surface == Surface.CYLINDER:
        form[6] = 5
        return form, middle + 5 * out + 7 * np.sin(v) * axis, out
    if surface == Surface.CONE:
        form[6] = 0.4
        return form, middle + 9 * (np.cos(0.4) * axis + np.sin(0.4) * out), np.cos(0.4) * out - np.sin(0.4) * axis
    if surface == Surface.SPHERE:
        form[6] = 5
        normal = np.cos(v) * out + np.sin(v) * axis
        return form, middle + 5 * normal, normal
    form[6:] = 9, 3
    normal = np.cos(v) * out + np.sin(v) * axis
    return form, middle + 9 * out + 3 * normal, normal


@settings(max_examples=200, deadline=None)
@given(
    st.sampled_from((Surface.CYLINDER, Surface.CONE, Surface.SPHERE, Surface.TORUS)), _FORM, _UNIT, st.floats(0, 6),
    st.floats(0, 6), st.floats(-0.3, 0.3), st.booleans(),
)  # fmt: skip
def test_a_ray_meets_a_curved_face_where_it_lies(
    surface: Surface, middle: Any, axis: Any, u: float, v: float, off: float, inner: bool
) -> None:
    """Places on surfaces by their own equations; the search begins somewhat before or behind."""
    form, place, normal = _on(surface, np.array(middle), axis, u, v)
    if abs(normal[2]) < 0.3:
        return
    toward = normal if normal[2] > 0 else -normal
    found = np.empty(3)
    z = front_depth(int(surface), form, place[0], place[1], place[2] + off, place, toward, 1.0, found)
    assert z == pytest.approx(place[2], abs=1e-7)
    assert found == pytest.approx(toward, abs=1e-6)
    if surface != Surface.TORUS:
        # the other side lies elsewhere
        other = front_depth(int(surface), form, place[0], place[1], place[2], place, -toward, 0.1, found)
        assert np.isnan(other) or abs(other - place[2]) > 1e-6


def test_what_lies_behind_a_roller_close_to_its_contour_is_hidden(tmp_path: Path) -> None:
    """A bar whose corner lies behind the roller, 0.05 mm within its contour in the view: the roller's triangles are off by
    more. One 0.05 mm beyond the contour is seen."""
    bar = moved(block(20, 20, 200), (139.95, 14, 100))
    model, _ = modelled(together(cylinder(300, 400), bar), tmp_path)
    artwork, *_ = seen(model, "front")
    for x, there in ((149.95, False), (129.95, False)):
        assert _upright(artwork, x) == there
    model, _ = modelled(together(cylinder(300, 400), moved(bar, (0.1, 0, 0))), tmp_path)
    artwork, *_ = seen(model, "front")
    assert _upright(artwork, 150.05)
    assert not _upright(artwork, 130.05)


def _upright(artwork: Artwork, x: float) -> bool:
    """Whether a line is drawn at x in the view that is seen."""
    return any(
        bool((np.abs(item.points[..., 0] - x) < 1e-6).all(axis=1).any())
        for item in artwork
        if isinstance(item, Lines) and item.tags.edge_class is EdgeClass.VISIBLE
    )


_SPAN = st.tuples(st.integers(0, 3), st.integers(0, 12), st.integers(0, 12))


@given(st.lists(_SPAN, max_size=12))
def test_hidden_stretches_that_overlap_are_one(spans: list[tuple[int, int, int]]) -> None:
    curve = np.array([n for n, _, _ in spans], np.int64)
    owner, joined = united(curve, np.array([[a, b] for _, a, b in spans], float).reshape(-1, 2))
    covered = {(n, k) for n, a, b in spans for k in range(a, b)}
    assert {(n, k) for n, (a, b) in zip(owner.tolist(), joined.tolist(), strict=True) for k in range(int(a), int(b))} == covered
    same = owner[1:] == owner[:-1]
    assert (np.diff(owner) >= 0).all()
    assert (joined[1:, 0] > joined[:-1, 1])[same].all()


@pytest.mark.parametrize(
    ("number", "view"),
    [
        (5, "iso"), (5, "dir:1,2,-1.5"), (4, "iso"), (24, "iso"), (26, "dir:1,2,-1.5"), (13, "dir:1,2,-1.5"), (17, "iso"),
        (16, "top"), (17, "left"), (38, "front"), (7, "iso"),
    ],
)  # fmt: skip
def test_unions_of_plain_solids_by_rays(number: int, view: str, tmp_path: Path) -> None:
    """Cones with their tips, curves that begin on the face that hides them, curves on a ring that go behind it or come out of
    it, edges close to the contour of their own face: each was wrong once."""
    path = tmp_path / "union.brep"
    BRepTools.Write_s(union(number, False), str(path))
    artwork, shown, spec = seen(model := read_model(path, path.name), view)
    found = watch(model, shown, spec.axes(), artwork, count=30_000)
    assert sum(fault.length for fault in found.faults) <= 2e-4 * found.drawn


@pytest.mark.parametrize(("number", "view"), [(0, "front"), (3, "iso"), (1, "top"), (4, "iso"), (2, "top"), (8, "iso")])
def test_free_forms_by_rays(number: int, view: str, tmp_path: Path) -> None:
    """Lofts through closed splines had no contours at all; of extrusions and bodies of revolution some went to and fro."""
    model, _ = modelled(free_form(number), tmp_path)
    artwork, shown, spec = seen(model, view)
    found = watch(model, shown, spec.axes(), artwork, count=30_000)
    assert sum(fault.length for fault in found.faults) <= 2e-4 * found.drawn


@pytest.mark.parametrize("way", HiddenLines)
def test_the_round_part_of_a_spline_is_drawn_round(way: HiddenLines, tmp_path: Path) -> None:
    """An edge that takes of a spline the arc and not the line before it, radius 10 mm."""
    line = GC_MakeSegment(gp_Pnt(-20, -10, 0), gp_Pnt(0, -10, 0)).Value()
    arc = GC_MakeArcOfCircle(gp_Pnt(0, -10, 0), gp_Pnt(10, 0, 0), gp_Pnt(0, 10, 0)).Value()
    joined = GeomConvert_CompCurveToBSplineCurve(line)
    assert joined.Add(arc, 1e-7)
    spline = joined.BSplineCurve()
    edge = BRepBuilderAPI_MakeEdge(spline, gp_Pnt(0, -10, 0), gp_Pnt(0, 10, 0)).Edge()
    model, _ = modelled(BRepPrimAPI_MakePrism(edge, gp_Vec(0, 0, 5)).Shape(), tmp_path)
    artwork, *_ = seen(model, "top", way)
    (arcs,) = [item for item in artwork if isinstance(item, Ellipses)]
    assert np.hypot(*arcs.major.T) == pytest.approx(10, abs=1e-6)
    assert not any(isinstance(item, Beziers) for item in artwork)


def test_a_wall_that_wavers_by_less_than_a_pen_has_no_contours(tmp_path: Path) -> None:
    """A loft through sections that differ by some 0.4 µm, as exporters write what should be an extrusion."""
    chance = np.random.default_rng(3)
    turn = np.linspace(0, 2 * math.pi, 16, endpoint=False)
    loft = BRepOffsetAPI_ThruSections(True, False)
    for height in (0.0, 4.0, 9.0, 15.0):
        points = TColgp_HArray1OfPnt(1, len(turn))
        for n, t in enumerate(turn):
            off = 1 + chance.uniform(-2e-5, 2e-5)
            points.SetValue(n + 1, gp_Pnt(20 * off * math.cos(t), 12 * off * math.sin(t), height))
        through = GeomAPI_Interpolate(points, True, 1e-7)
        through.Perform()
        loft.AddWire(BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(through.Curve()).Edge()).Wire())
    model, _ = modelled(loft.Shape(), tmp_path)
    artwork, shown, spec = seen(model, "top")
    around = 4 * 20 * ellipe(1 - 0.36)
    found = lengths(artwork)
    assert found[EdgeClass.VISIBLE] == pytest.approx(around, rel=1e-3)
    assert found.get(EdgeClass.OUTLINE, 0.0) + found.get(EdgeClass.HIDDEN, 0.0) < 1e-4 * around
    assert watch(model, shown, spec.axes(), artwork).faults == ()
    # from the side it is a body like any other
    assert lengths(seen(model, "front")[0])[EdgeClass.OUTLINE] == pytest.approx(2 * 15, rel=1e-2)


def test_contours_of_a_surface_that_waves_more_finely_than_its_triangles(tmp_path: Path) -> None:
    """Between two places of a contour the search led to and fro: strokes twice as long as the kernel's, and on a larger face so
    many in one place that no memory held them."""
    chance, points = np.random.default_rng(2), TColgp_Array2OfPnt(1, 20, 1, 20)
    for i in range(20):
        for j in range(20):
            points.SetValue(i + 1, j + 1, gp_Pnt(4 * i, 4 * j, 0.01 * chance.normal()))
    made = GeomAPI_PointsToBSplineSurface()
    made.Interpolate(points)
    model, _ = modelled(BRepBuilderAPI_MakeFace(made.Surface(), 1e-6).Face(), tmp_path)
    artwork, _, _ = seen(model, "front")
    kernel = lengths(seen(model, "front", HiddenLines.KERNEL)[0])
    assert sum(lengths(artwork).values()) < sum(kernel.values())
    assert sum(len(item) for item in artwork) < 4000
