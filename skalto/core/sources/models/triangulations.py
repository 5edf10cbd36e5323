"""The kernel's triangulations as arrays, many at once: it writes them as bytes, which is some thirty times as fast as asking
for each node."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from skalto.core.geometry import Array

_HEAD = b"\nTriangulations "


@dataclass(frozen=True, eq=False)
class Triangulation:
    """*points* (n, 3), their parameters on the face *uv* (n, 2), *corners* (m, 3) as numbers of points, and *normals* (n, 3)
    where the kernel has them, else none."""

    points: Array
    uv: Array
    corners: NDArray[np.int64]
    normals: Array


def read_triangulations(given: Sequence[Any]) -> list[Triangulation]:
    """The triangulations of some faces (``Poly_Triangulation``), in the faces' own coordinates.

    They are hung on faces without a surface, and read from the kernel's binary form of these, version 4
    (``BinTools_ShapeSet::WriteTriangulation``): counts of nodes and triangles, whether parameters and normals follow, the
    deflection, then nodes, parameters, triangles and normals.
    """
    from OCP.BinTools import BinTools, BinTools_FormatVersion
    from OCP.BRep import BRep_Builder
    from OCP.TopoDS import TopoDS_Compound, TopoDS_Face

    if not given:
        return []
    builder, whole = BRep_Builder(), TopoDS_Compound()
    builder.MakeCompound(whole)
    # what hangs on several faces is written once; the wrapper of one thing is one object as long as it is held
    numbers: dict[int, int] = {}
    for one in given:
        if id(one) not in numbers:
            numbers[id(one)] = len(numbers)
            face = TopoDS_Face()
            builder.MakeFace(face, one)
            builder.Add(whole, face)
    stream = io.BytesIO()
    BinTools.Write_s(whole, stream, True, True, BinTools_FormatVersion.BinTools_FormatVersion_VERSION_4)
    data = stream.getvalue()
    at = data.index(_HEAD)
    end = data.index(b"\n", at + 1)
    if int(data[at + len(_HEAD) : end]) != len(numbers):
        raise ValueError(f"the kernel wrote {data[at + len(_HEAD) : end]!r} triangulations of {len(numbers)}")
    found, at = [], end + 1
    for _ in numbers:
        one, at = _one(data, at)
        found.append(one)
    return [found[numbers[id(own)]] for own in given]


def _one(data: bytes, at: int) -> tuple[Triangulation, int]:
    nodes, triangles = np.frombuffer(data, "<i4", 2, at).tolist()
    has_uv, has_normals = data[at + 8] != 0, data[at + 9] != 0
    at += 18
    points = np.frombuffer(data, "<f8", 3 * nodes, at).reshape(-1, 3)
    at += 24 * nodes
    uv = np.zeros((0, 2))
    if has_uv:
        uv = np.frombuffer(data, "<f8", 2 * nodes, at).reshape(-1, 2)
        at += 16 * nodes
    corners = np.frombuffer(data, "<i4", 3 * triangles, at).reshape(-1, 3).astype(np.int64) - 1
    at += 12 * triangles
    normals = np.zeros((0, 3))
    if has_normals:
        normals = np.frombuffer(data, "<f4", 3 * nodes, at).reshape(-1, 3).astype(float)
        # kept in single precision, and one long only as far as that goes
        length = np.linalg.norm(normals, axis=1, keepdims=True)
        normals = np.divide(normals, length, out=normals, where=length > 0)
        at += 12 * nodes
    return Triangulation(points, uv, corners, normals), at
