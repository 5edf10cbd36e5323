"""A kernel shape as triangles, face by face."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from skalto.core.geometry import Array
from skalto.core.sources.models.triangulations import read_triangulations

ANGLE = 0.35
"""Largest turn between neighbouring triangles of a curved face, radians."""


def _mesh(shape: Any, chord: float, angle: float) -> None:
    """Give a shape its triangles.

    Planes and cylinders need no nodes but those that the kernel sets beforehand: its quicker algorithm, which adds none where
    triangles turn out to lie too far off, does for these, and takes a third of the time where a face has many holes.
    """
    from OCP.BRepAdaptor import BRepAdaptor_Surface
    from OCP.BRepMesh import BRepMesh_IncrementalMesh
    from OCP.GeomAbs import GeomAbs_Cylinder
    from OCP.IMeshTools import IMeshTools_MeshAlgoType, IMeshTools_Parameters
    from OCP.TopAbs import TopAbs_FACE
    from OCP.TopoDS import TopoDS

    from skalto.core.sources.models.kernel import sub_shapes

    kinds = (BRepAdaptor_Surface(TopoDS.Face_s(face), False).GetType() for face in sub_shapes(shape, TopAbs_FACE))
    wish = IMeshTools_Parameters()
    wish.Deflection, wish.Angle, wish.InParallel = chord, angle, True
    if all(kind.value <= GeomAbs_Cylinder.value for kind in kinds):
        wish.MeshAlgo = IMeshTools_MeshAlgoType.IMeshTools_MeshAlgoType_Delabella
    BRepMesh_IncrementalMesh(shape, wish)


def face_patches(shape: Any, chord: float, angle: float = ANGLE, anew: bool = False) -> list[tuple[Array, NDArray[np.int64]]]:
    """Each face of a kernel shape as (points (n, 3), triangles (m, 3)), in the kernel's face order.

    :param chord: largest distance from the face, mm. :param angle: largest turn between neighbours, radians.
    :param anew: whether triangles that are there already, and finer, are left aside: what is made from them is then the same
        whatever was asked of the shape before.
    """
    from OCP.BRep import BRep_Tool
    from OCP.TopAbs import TopAbs_FACE, TopAbs_REVERSED
    from OCP.TopLoc import TopLoc_Location
    from OCP.TopoDS import TopoDS

    from skalto.core.sources.models.kernel import matrix_of, sub_shapes

    if anew:
        from OCP.BRepBuilderAPI import BRepBuilderAPI_Copy

        shape = BRepBuilderAPI_Copy(shape, False, False).Shape()
    _mesh(shape, chord, angle)
    faces = [TopoDS.Face_s(sub) for sub in sub_shapes(shape, TopAbs_FACE)]
    places = [TopLoc_Location() for _ in faces]
    given = [BRep_Tool.Triangulation_s(face, place) for face, place in zip(faces, places, strict=True)]
    read = iter(read_triangulations([own for own in given if own is not None]))
    patches = []
    for face, location, triangulation in zip(faces, places, given, strict=True):
        if triangulation is None:
            patches.append((np.empty((0, 3)), np.empty((0, 3), np.int64)))
            continue
        own = next(read)
        points, corners = own.points, own.corners
        if not location.IsIdentity():
            matrix = matrix_of(location)
            points = points @ matrix[:3, :3].T + matrix[:3, 3]
        patches.append((points, corners[:, ::-1] if face.Orientation() == TopAbs_REVERSED else corners))
    return patches
