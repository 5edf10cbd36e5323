"""Triangles of planes and cylinders by the kernel's quicker algorithm: as near to the faces as they are asked to be."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from OCP.BRepTools import BRepTools

from skalto.core.sources.models.patches import face_patches
from skalto.demo.solids import block, cut, cylinder
from tests.core.modelled import together


def _drilled(rows: int) -> Any:
    """A block of 90 × 90 × 10 mm with so many by so many holes of 4 mm, 8 mm apart."""
    step = 8.0
    start = -step * (rows - 1) / 2
    holes = [cylinder(4, 40, (start + step * i, start + step * j, -10)) for i in range(rows) for j in range(rows)]
    return cut(block(90, 90, 10), *holes)


@pytest.mark.parametrize("chord", [0.2, 0.05, 0.01])
def test_a_drilled_plate_is_as_true_as_it_is_asked_to_be(chord: float) -> None:
    rows = 6
    shape = _drilled(rows)
    BRepTools.Clean_s(shape)
    patches = face_patches(shape, chord)
    assert len(patches) == 6 + rows * rows
    area = 0.0
    for points, triangles in patches:
        a, b, c = (points[triangles[:, k]] for k in range(3))
        area += float(np.linalg.norm(np.cross(b - a, c - a), axis=1).sum()) / 2
        middles = np.concatenate(((a + b) / 2, (b + c) / 2, (c + a) / 2, (a + b + c) / 3))
        flat = np.ptp(points, axis=0).min() < 1e-9
        if not flat:
            # a hole: its middle is that of its box
            centre = (points[:, :2].min(axis=0) + points[:, :2].max(axis=0)) / 2
            off = np.abs(np.linalg.norm(middles[:, :2] - centre, axis=1) - 2)
            assert off.max() <= chord
    holes = rows * rows
    exact = 2 * (90 * 90 - holes * np.pi * 4) + 4 * 90 * 10 + holes * np.pi * 4 * 10
    assert area == pytest.approx(exact, rel=4 * chord / 4)


def test_what_is_bent_otherwise_goes_the_careful_way() -> None:
    """A ball beside a block: the quicker algorithm leaves its triangles off by several times what was asked for."""
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeSphere

    ball = BRepPrimAPI_MakeSphere(15.0).Shape()
    shape = together(block(10, 10, 10), ball)
    BRepTools.Clean_s(shape)
    worst = max(
        float(np.abs(np.linalg.norm(points[triangles].mean(axis=1), axis=1) - 15).max())
        for points, triangles in face_patches(shape, 0.05)
        if np.linalg.norm(points, axis=1).min() > 14.9
    )
    assert worst <= 0.06
