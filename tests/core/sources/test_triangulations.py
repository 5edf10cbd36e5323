"""The kernel's triangulations read many at once, against asking for each node."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from OCP.BRep import BRep_Tool
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.StdPrs import StdPrs_ToolTriangulatedShape
from OCP.TopAbs import TopAbs_FACE
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS

from skalto.core.sources.models.kernel import sub_shapes
from skalto.core.sources.models.patches import face_patches
from skalto.core.sources.models.triangulations import read_triangulations
from skalto.demo.solids import block, cylinder, fuse, moved


@pytest.fixture(scope="module")
def faces() -> list[tuple[Any, Any]]:
    """The faces of a block with a round bar through it, and their triangulations."""
    shape = fuse(block(30, 20, 10), moved(cylinder(6, 30, (0, 0, -10)), turn=("y", 20)))
    BRepMesh_IncrementalMesh(shape, 0.02, False, 0.1, True)
    found = []
    for sub in sub_shapes(shape, TopAbs_FACE):
        face = TopoDS.Face_s(sub)
        found.append((face, BRep_Tool.Triangulation_s(face, TopLoc_Location())))
    return found


def test_every_node_is_what_the_kernel_says(faces: list[tuple[Any, Any]]) -> None:
    for face, triangulation in faces:
        StdPrs_ToolTriangulatedShape.ComputeNormals_s(face, triangulation)
    read = read_triangulations([own for _, own in faces])
    assert len(read) == len(faces)
    for found, (_, own) in zip(read, faces, strict=True):
        nodes = range(1, own.NbNodes() + 1)
        np.testing.assert_array_equal(found.points, [[(p := own.Node(n)).X(), p.Y(), p.Z()] for n in nodes])
        np.testing.assert_array_equal(found.uv, [[(p := own.UVNode(n)).X(), p.Y()] for n in nodes])
        np.testing.assert_allclose(found.normals, [[(p := own.Normal(n)).X(), p.Y(), p.Z()] for n in nodes], atol=1e-15)
        triangles = [own.Triangle(n) for n in range(1, own.NbTriangles() + 1)]
        np.testing.assert_array_equal(found.corners, [[t.Value(k) - 1 for k in (1, 2, 3)] for t in triangles])


def test_one_that_stands_twice_is_read_twice(faces: list[tuple[Any, Any]]) -> None:
    first, second = faces[0][1], faces[1][1]
    read = read_triangulations([first, second, first])
    np.testing.assert_array_equal(read[0].points, read[2].points)
    assert len(read[1].points) == second.NbNodes()


def test_nothing_is_read_of_nothing() -> None:
    assert read_triangulations([]) == []


def test_patches_of_a_body_close_around_its_volume() -> None:
    """By the divergence theorem over the triangles: 30 · 20 · 10."""
    volume = 0.0
    for points, corners in face_patches(block(30, 20, 10), 0.1):
        a, b, c = (points[corners[:, k]] for k in range(3))
        volume += float((np.cross(a, b) * c).sum()) / 6
    assert volume == pytest.approx(6000, rel=1e-12)
