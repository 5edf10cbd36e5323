"""A kernel shape as triangles, face by face."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
ANGLE = 0.35
"""Largest turn between neighbouring triangles of a curved face, radians."""


def face_patches(shape: Any, chord: float, angle: float = ANGLE) -> list[tuple[Array, NDArray[np.int64]]]:
    """Each face of a kernel shape as (points (n, 3), triangles (m, 3)), in the kernel's face order.

    :param chord: largest distance from the face, mm. :param angle: largest turn between neighbours, radians.
    """
    from OCP.BRep import BRep_Tool
    from OCP.BRepMesh import BRepMesh_IncrementalMesh
    from OCP.TopAbs import TopAbs_FACE, TopAbs_REVERSED
    from OCP.TopLoc import TopLoc_Location
    from OCP.TopoDS import TopoDS

    from skalto.core.models.kernel import matrix_of, sub_shapes

    BRepMesh_IncrementalMesh(shape, chord, False, angle, True)
    patches = []
    for sub in sub_shapes(shape, TopAbs_FACE):
        face = TopoDS.Face_s(sub)
        location = TopLoc_Location()
        triangulation = BRep_Tool.Triangulation_s(face, location)
        if triangulation is None:
            patches.append((np.empty((0, 3)), np.empty((0, 3), np.int64)))
            continue
        nodes = (triangulation.Node(i) for i in range(1, triangulation.NbNodes() + 1))
        points = np.array([(p.X(), p.Y(), p.Z()) for p in nodes])
        if not location.IsIdentity():
            matrix = matrix_of(location)
            points = points @ matrix[:3, :3].T + matrix[:3, 3]
        triangles = (triangulation.Triangle(i) for i in range(1, triangulation.NbTriangles() + 1))
        corners = np.array([(t.Value(1), t.Value(2), t.Value(3)) for t in triangles], np.int64) - 1
        patches.append((points, corners[:, ::-1] if face.Orientation() == TopAbs_REVERSED else corners))
    return patches
