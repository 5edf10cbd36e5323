"""What is cut through, what is drawn, and what is warned of."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from OCP.BRepFilletAPI import BRepFilletAPI_MakeFillet
from OCP.BRepPrimAPI import BRepPrimAPI_MakeSphere
from OCP.gp import gp_Pnt, gp_Vec
from OCP.TopoDS import TopoDS

from skalto.core.sheet_metal.choices import PracticeLimits, UnfoldChoices
from skalto.core.sheet_metal.feature_kinds import FeatureKind
from skalto.core.sheet_metal.pattern import NoSheet, SheetKind
from skalto.core.sheet_metal.unfolding import unfolded
from skalto.core.sources.models.kernel import edges
from skalto.demo.solids import block, cut, cylinder, fuse, moved
from tests.core.sheet_metal.shapes import Flat, Turn, box, cone, folded, rod, shifted, turned

ANGLE = folded([Flat(50), Turn(90, 2), Flat(30)], 2, 100)
HOLE = rod((20, -5, 50), (0, 1, 0), 6, 20)


def _features(shape: Any) -> list[tuple[FeatureKind, int]]:
    return [(own.kind, own.side) for own in unfolded(shape).features]


@pytest.mark.parametrize(
    ("tool", "kind"),
    [
        (cone((20, 0, 50), (0, 1, 0), 10, 6, 2), FeatureKind.COUNTERSINK),
        (cone((20, 0, 50), (0, 1, 0), 10, 8, 1), FeatureKind.COUNTERSINK),
        (rod((20, 0, 50), (0, 1, 0), 11, 1), FeatureKind.COUNTERBORE),
    ],
)
def test_of_a_sunk_hole_the_narrow_contour_is_cut(tool: Any, kind: FeatureKind) -> None:
    made = unfolded(cut(ANGLE, HOLE, tool))
    assert [hole[2] for hole in made.holes] == pytest.approx([6])
    # the angle bends to y+, which is side A: the tool comes from side B
    assert [(own.kind, own.side) for own in made.features] == [(kind, 1)]
    assert made.features[0].outline.as_circle is not None
    assert not made.exact_volume


def test_what_does_not_go_through_is_drawn() -> None:
    assert _features(cut(ANGLE, rod((20, 1, 50), (0, 1, 0), 12, 5))) == [(FeatureKind.POCKET, 0)]
    assert _features(cut(ANGLE, rod((20, -4, 50), (0, 1, 0), 12, 5))) == [(FeatureKind.POCKET, 1)]
    assert unfolded(cut(ANGLE, rod((20, 1, 50), (0, 1, 0), 12, 5))).openings == ()


def test_a_pocket_with_a_hole_in_it() -> None:
    made = unfolded(cut(ANGLE, box((10, 1, 40), (30, 5, 60)), HOLE))
    assert [hole[2] for hole in made.holes] == pytest.approx([6])
    assert [own.kind for own in made.features] == [FeatureKind.COUNTERBORE]


def _dimpled() -> Any:
    """A sheet with a dome pressed out of it: 8 outside, 6 inside, about a centre on its upper side."""
    sheet = block(80, 60, 2)
    dome = cut(BRepPrimAPI_MakeSphere(gp_Pnt(0, 0, 0), 8).Shape(), moved(block(40, 40, 20), (0, 0, -20)))
    hollow = cut(BRepPrimAPI_MakeSphere(gp_Pnt(0, 0, 0), 6).Shape(), moved(block(40, 40, 20), (0, 0, -20)))
    return cut(fuse(sheet, moved(dome, (0, 0, 2))), moved(hollow, (0, 0, 2)), cylinder(12, 2))


def test_a_formed_feature_is_told_drawn_and_not_cut() -> None:
    made = unfolded(_dimpled())
    assert made.openings == ()
    assert {own.kind for own in made.features} == {FeatureKind.FORMED}
    assert {own.side for own in made.features} == {0, 1}
    assert any("formed features" in line for line in made.notes)


def test_a_boss_is_told() -> None:
    made = unfolded(fuse(ANGLE, rod((20, 0, 50), (0, 1, 0), 12, 10)))
    assert [own.kind for own in made.features] == [FeatureKind.BOSS]
    assert any("stands on it" in line for line in made.notes)


def test_a_plate_with_a_rebate_is_as_thick_as_its_edge() -> None:
    made = unfolded(cut(block(200, 100, 10), moved(block(180, 80, 4), (0, 0, 8))))
    assert made.kind is SheetKind.DEPTH
    assert made.thickness == pytest.approx(10)
    assert [own.kind for own in made.features] == [FeatureKind.POCKET]


def test_bevelled_edges_are_cut_wide_and_told() -> None:
    made = unfolded(cut(block(80, 60, 4), moved(turned(box((-1, -40, -1), (1, 40, 1)), (0, 1, 0), 45), (40, 0, 4))))
    assert max(made.box) == pytest.approx(80)
    assert [own.kind for own in made.features] == [FeatureKind.BEVEL]
    assert any("wider side" in line for line in made.notes)


def test_round_corners_stay_arcs() -> None:
    made = unfolded(block(80, 60, 3, radius=7))
    assert len(made.outline.segments) == 8
    assert made.area == pytest.approx(80 * 60 - (4 - math.pi) * 49)
    assert made.kind is SheetKind.FLAT


def _tab(relief: float) -> Any:
    floor = box((0, 0, 0), (60, 2, 100))
    made = fuse(floor, shifted(folded([Turn(90, 2), Flat(20)], 2, 40), (60, 0, 30)))
    if relief:
        made = cut(made, box((60 - relief, -1, 28), (70, 3, 30)), box((60 - relief, -1, 70), (70, 3, 72)))
    return made


def test_a_missing_relief_is_warned_of() -> None:
    assert [line for line in unfolded(_tab(0)).warnings if "no relief" in line]
    assert not [line for line in unfolded(_tab(4)).warnings if "no relief" in line]


@pytest.mark.parametrize(("apart", "warned"), [(3.0, True), (4.5, False)])
def test_a_hole_near_a_bend_is_warned_of(apart: float, warned: bool) -> None:
    """From the bend's line r + 2 t are asked for (common practice, no source): 6 mm, of which half the allowance is bend."""
    at = 50 - 3 - apart
    made = unfolded(cut(ANGLE, rod((at, -5, 50), (0, 1, 0), 6, 20)))
    assert bool([line for line in made.warnings if "nearer than r + 2 t = 6 mm" in line]) == warned


@pytest.mark.parametrize(("length", "warned"), [(6.0, True), (7.0, False)])
def test_a_short_flange_is_warned_of(length: float, warned: bool) -> None:
    """From the bend's line r + 3.5 t are asked for (common practice, no source): 9 mm, of which half the allowance is bend."""
    made = unfolded(folded([Flat(50), Turn(90, 2), Flat(length)], 2, 100))
    assert bool([line for line in made.warnings if "does not lie on the die" in line]) == warned


def test_limits_are_settings() -> None:
    shape = cut(folded([Flat(50), Turn(90, 1), Flat(30)], 2, 100), rod((20, -5, 50), (0, 1, 0), 1.5, 20))
    warnings = unfolded(shape).warnings
    assert [line for line in warnings if "may crack" in line]
    assert [line for line in warnings if "as small as ø1.5" in line]
    loose = PracticeLimits(radius=0.5, hole=0.5)
    assert unfolded(shape, UnfoldChoices(limits=loose)).warnings == ()


def test_a_pattern_over_itself_is_warned_of() -> None:
    """A tab bent up out of an opening that is shorter than it."""
    sheet = cut(box((0, 0, 0), (100, 2, 100)), box((40, -1, 40), (70, 3, 60)))
    for length, warned in ((20, False), (60, True)):
        made = unfolded(fuse(sheet, shifted(folded([Turn(90, 2), Flat(length)], 2, 18), (40, 0, 41))))
        assert any("lies over itself" in line for line in made.warnings) == warned


def test_an_edge_that_is_rounded_all_round_is_told() -> None:
    plate = block(80, 60, 4)
    rounding = BRepFilletAPI_MakeFillet(plate)
    for edge in edges(plate):
        rounding.Add(0.5, TopoDS.Edge_s(edge))
    with pytest.raises(NoSheet, match="edges are rounded"):
        unfolded(rounding.Shape())


def test_a_hole_chamfered_on_both_sides_is_cut_at_its_waist() -> None:
    made = unfolded(cut(ANGLE, HOLE, cone((20, 0, 50), (0, 1, 0), 7, 6, 0.5), cone((20, 2, 50), (0, -1, 0), 7, 6, 0.5)))
    assert [hole[2] for hole in made.holes] == pytest.approx([6])
    assert sorted((own.kind, own.side) for own in made.features) == [(FeatureKind.COUNTERSINK, 0), (FeatureKind.COUNTERSINK, 1)]
    assert made.refolded < 1e-6


def test_a_hole_in_a_rebate_along_the_edge_is_cut() -> None:
    made = unfolded(cut(block(80, 60, 4), moved(block(20, 80, 4), (40, 0, 2)), cylinder(6, 20, (35, 0, -5))))
    assert [hole[2] for hole in made.holes] == pytest.approx([6])
    assert max(made.box) == pytest.approx(80)
    assert made.kind is SheetKind.DEPTH


def test_a_hole_that_ends_on_a_bend_keeps_side_a() -> None:
    made = unfolded(cut(ANGLE, rod((50, 4, 20), (1, -1, 0), 2, 9)))
    assert made.features == ()
    assert any("as they are on side A" in line for line in made.notes)


def _prism_of(curve: Any, pieces: int, along: gp_Vec) -> Any:
    """A body whose section is a closed curve, in so many pieces."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeWire
    from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism

    low, high = curve.FirstParameter(), curve.LastParameter()
    wire = BRepBuilderAPI_MakeWire()
    for n in range(pieces):
        a, b = (low + (high - low) * k / pieces for k in (n, n + 1))
        wire.Add(BRepBuilderAPI_MakeEdge(curve, a, b).Edge())
    return BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(wire.Wire()).Face(), along).Shape()


def _ellipse(at: tuple[float, float, float], seam: float) -> Any:
    from OCP.Geom import Geom_Ellipse
    from OCP.gp import gp_Ax2, gp_Dir

    way = gp_Dir(math.cos(seam), 0.0, math.sin(seam))
    return Geom_Ellipse(gp_Ax2(gp_Pnt(*at), gp_Dir(0, 1, 0), way), 12.0, 5.0)


def _free_form(at: tuple[float, float, float], seam: float) -> Any:
    """A closed spline without a corner, through nine places."""
    from OCP.GeomAPI import GeomAPI_Interpolate
    from OCP.TColgp import TColgp_HArray1OfPnt

    points = TColgp_HArray1OfPnt(1, 9)
    for n in range(9):
        angle, reach = seam + 2 * math.pi * n / 9, (9.0, 12.0, 10.0)[n % 3]
        points.SetValue(n + 1, gp_Pnt(at[0] + reach * math.cos(angle), at[1], at[2] + reach * math.sin(angle)))
    made = GeomAPI_Interpolate(points, True, 1e-9)
    made.Perform()
    return made.Curve()


@pytest.mark.parametrize("seam", [0.0, 0.4, 2.1])
@pytest.mark.parametrize("pieces", [1, 2])
@pytest.mark.parametrize("kind", [_ellipse, _free_form])
def test_a_closed_curve_has_no_end_at_its_seam(kind: Any, pieces: int, seam: float) -> None:
    """The same opening in one piece and in two, in a bent sheet and in a plain plate: within the same fractions of a
    micrometre."""
    tool = _prism_of(kind((24, -5, 50), seam), pieces, gp_Vec(0, 20, 0))
    for body in (ANGLE, box((0, 0, 0), (60, 2, 100))):
        made = unfolded(cut(body, tool))
        assert len(made.openings) == 1
        assert made.exact_volume
        assert made.refolded < 1e-3


def test_the_edge_of_a_closed_curve_goes_on_over_its_seam() -> None:
    from skalto.core.sheet_metal.faces import SolidFaces

    solid = SolidFaces(_prism_of(_ellipse((0, 0, 0), 0.0), 1, gp_Vec(0, 2, 0)))
    (edge,) = [own for own in solid.edges if own.is_closed and own.points[:, 1].max() < 1]
    span = edge.high - edge.low
    found = edge.within(np.array((edge.low - 0.1, edge.high + 0.1, edge.low + 0.3)))
    assert found == pytest.approx((edge.high - 0.1, edge.low + 0.1, edge.low + 0.3))
    assert span == pytest.approx(2 * math.pi)
