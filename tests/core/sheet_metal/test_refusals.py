"""What is no sheet is told in a sentence, with the place; nothing hangs."""

from __future__ import annotations

import math
import time
from typing import Any

import numpy as np
import pytest
from OCP.BRepOffsetAPI import BRepOffsetAPI_ThruSections
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCone
from OCP.BRepTools import BRepTools
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from OCP.TopAbs import TopAbs_FACE
from OCP.TopoDS import TopoDS

from skalto.core.sheet_metal.faces import SolidFaces
from skalto.core.sheet_metal.pattern import NoSheet, SheetKind
from skalto.core.sheet_metal.unfolding import unfolded
from skalto.core.sources.models.kernel import sub_shapes
from skalto.core.sources.models.model import Mesh
from skalto.demo.folded import Step
from skalto.demo.solids import block, cut, cylinder, fuse, moved, plate
from tests.core.sheet_metal.shapes import Flat, Turn, box, folded


def _told(shape: Any) -> NoSheet:
    with pytest.raises(NoSheet) as error:
        unfolded(shape)
    assert error.value.reason.endswith(".")
    return error.value


def test_blocks_and_bars_are_no_sheet() -> None:
    assert _told(block(10, 10, 10)).kind in (SheetKind.NONE, SheetKind.PROFILE)
    assert _told(cylinder(10, 100)).kind is SheetKind.PROFILE
    assert "section along its length" in _told(plate([(0, 0), (40, 0), (40, 3), (3, 3), (3, 40), (0, 40)], 200)).reason


def test_two_thicknesses_are_told_with_both() -> None:
    thick = fuse(folded([Flat(50), Turn(90, 2), Flat(30)], 2, 60), box((10, 0, 0), (40, 5, 60)))
    told = _told(thick)
    assert told.kind is SheetKind.NONE
    assert "two thicknesses, 2 and 5 mm" in told.reason
    assert told.place is not None


def test_a_closed_tube_is_told() -> None:
    round_tube = _told(cut(cylinder(40, 100), moved(cylinder(36, 120), (0, 0, -10))))
    assert round_tube.kind is SheetKind.PROFILE
    assert "closed tube" in round_tube.reason
    square = _told(cut(block(44, 44, 200, 4), moved(block(40, 40, 220, 2), (0, 0, -10))))
    assert square.kind is SheetKind.PROFILE
    assert "closes on itself" in square.reason
    assert square.place is not None


def test_a_conical_bend_is_told() -> None:
    axis = gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1))
    outer, inner = (BRepPrimAPI_MakeCone(axis, r, r + 20, 50, math.pi).Shape() for r in (20, 18))
    assert "conical bend" in _told(cut(outer, inner)).reason


def test_meshes_and_several_solids_are_told() -> None:
    corners = np.array([(0, 0, 0), (1, 0, 0), (0, 1, 0), (0, 0, 1)], float)
    faces = np.array([(0, 2, 1), (0, 1, 3), (0, 3, 2), (1, 2, 3)])
    assert "mesh" in _told(Mesh(corners, faces)).reason
    from skalto.core.sources.models.kernel import compound

    assert "2 solids" in _told(compound([block(50, 40, 2), moved(block(50, 40, 2), (0, 0, 30))])).reason


@pytest.mark.long
def test_a_casting_of_many_faces_is_refused_soon() -> None:
    """Five thousand faces around a star, as high as it is wide."""
    around = [((300 + 9 * (n % 2)) * math.cos(a), (300 + 9 * (n % 2)) * math.sin(a)) for n, a in enumerate(_turns(5000))]
    begun = time.monotonic()
    told = _told(plate(around, 700))
    assert told.kind in (SheetKind.NONE, SheetKind.PROFILE)
    assert time.monotonic() - begun < 60, "a limit against hanging, not a measure"


def _turns(count: int) -> list[float]:
    return [float(a) for a in np.linspace(0, 2 * math.pi, count + 1)[:-1]]


def test_walls_that_meet_without_a_bend_are_told() -> None:
    """A channel with end walls that stand on its floor without a radius: its volume is more than that of the channel alone."""
    made = folded([Flat(18), Turn(90, 2), Flat(40), Turn(90, 2), Flat(18)], 2, 60)
    for z in (0, 58):
        made = fuse(made, box((0, 2, z), (20, 46, z + 2)))
    told = _told(made)
    assert told.kind is SheetKind.NONE
    shell = cut(block(60, 40, 20), moved(block(56, 36, 20), (0, 0, 2)))
    assert "without a bend" in _told(shell).reason


def test_a_bend_along_a_curve_or_of_a_changing_radius_is_told() -> None:
    """A flange around a turned disc, and an angle whose radius grows along its length, as free surfaces."""
    angle: list[list[Step]] = [[Flat(46), Turn(90, 6), Flat(26)], [Flat(50), Turn(90, 2), Flat(30)]]
    through = BRepOffsetAPI_ThruSections(True, True)
    for height, steps in zip((0, 100), angle, strict=True):
        faces = sub_shapes(moved(folded(steps, 2, 10), (0, 0, height)), TopAbs_FACE)
        end = min(faces, key=lambda own: sum(abs(p[2] - height) for p in _corners(own)))
        through.AddWire(BRepTools.OuterWire_s(TopoDS.Face_s(end)))
    through.Build()
    told = _told(through.Shape())
    assert "conical bend goes on, or one along a curve" in told.reason
    assert told.place is not None


def _corners(face: Any) -> Any:
    return SolidFaces(face).places
