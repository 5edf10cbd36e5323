"""The straight and circular edges of a model's parts: what dimensions are attached to."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from skalto.core.geometry import Array
from skalto.core.sources.models.model import Component, Mesh, Model

Ints = NDArray[np.int64]
MESH_EDGES = 20_000
"""A mesh with more sharp edges than this gives none: they would be facets, not edges."""


@dataclass(frozen=True, eq=False)
class PartEdges:
    """Edges of one shape in its own axes, mm: *lines* (n, 6) both ends; *circles* (m, 9) centre, axis, radius, swept
    angle, and 1 for the rim of a hole; and each one's number among the shape's edges."""

    lines: Array
    line_edges: Ints
    circles: Array
    circle_edges: Ints


def _kernel_edges(shape: Any) -> PartEdges:
    from OCP.BRepAdaptor import BRepAdaptor_Curve
    from OCP.GeomAbs import GeomAbs_Circle, GeomAbs_Line
    from OCP.TopoDS import TopoDS

    from skalto.core.sources.models.extents import xyz
    from skalto.core.sources.models.kernel import edges

    lines, line_edges, circles, circle_edges = [], [], [], []
    rims = _hole_rims(shape)
    for number, sub in enumerate(edges(shape)):
        curve = BRepAdaptor_Curve(TopoDS.Edge_s(sub))
        kind = curve.GetType()
        first, last = curve.FirstParameter(), curve.LastParameter()
        if kind == GeomAbs_Line:
            lines.append((*xyz(curve.Value(first)), *xyz(curve.Value(last))))
            line_edges.append(number)
        elif kind == GeomAbs_Circle:
            circle = curve.Circle()
            circles.append(
                (*xyz(circle.Location()), *xyz(circle.Axis().Direction()), circle.Radius(), last - first, float(number in rims))
            )
            circle_edges.append(number)
    return PartEdges(
        np.array(lines, float).reshape(-1, 6), np.array(line_edges, np.int64),
        np.array(circles, float).reshape(-1, 9), np.array(circle_edges, np.int64),
    )  # fmt: skip


def _hole_rims(shape: Any) -> set[int]:
    """The edges that bound a cylinder seen from within."""
    from OCP.BRepAdaptor import BRepAdaptor_Surface
    from OCP.GeomAbs import GeomAbs_Cylinder
    from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_REVERSED
    from OCP.TopExp import TopExp
    from OCP.TopoDS import TopoDS
    from OCP.TopTools import TopTools_IndexedMapOfShape

    from skalto.core.sources.models.kernel import sub_shapes

    numbers = TopTools_IndexedMapOfShape()
    TopExp.MapShapes_s(shape, TopAbs_EDGE, numbers)
    rims: set[int] = set()
    for sub in sub_shapes(shape, TopAbs_FACE):
        surface = BRepAdaptor_Surface(TopoDS.Face_s(sub))
        if surface.GetType() != GeomAbs_Cylinder:
            continue
        if (sub.Orientation() == TopAbs_REVERSED) == surface.Cylinder().Position().Direct():
            rims |= {numbers.FindIndex(edge) - 1 for edge in sub_shapes(sub, TopAbs_EDGE)}
    return rims


def _mesh_edges(mesh: Mesh) -> PartEdges:
    import trimesh

    whole = trimesh.Trimesh(mesh.vertices, mesh.faces, process=True)
    sharp = whole.face_adjacency_edges[whole.face_adjacency_angles > np.radians(30)]
    if len(sharp) > MESH_EDGES:
        sharp = sharp[:0]
    ends = np.asarray(whole.vertices)[sharp].reshape(-1, 6)
    return PartEdges(ends, np.arange(len(ends)), np.empty((0, 9)), np.empty(0, np.int64))


def part_edges(model: Model) -> list[PartEdges]:
    """The edges of every distinct shape, in order."""
    return [_mesh_edges(shape) if isinstance(shape, Mesh) else _kernel_edges(shape) for shape in model.shapes]


def pack(parts: Sequence[PartEdges]) -> bytes:
    """As one block; read with :func:`unpack`."""
    arrays: dict[str, Array | Ints] = {}
    for number, part in enumerate(parts):
        arrays |= {
            f"l{number}": part.lines,
            f"le{number}": part.line_edges,
            f"c{number}": part.circles,
            f"ce{number}": part.circle_edges,
        }
    out = io.BytesIO()
    np.savez(out, **arrays)  # type: ignore[arg-type]
    return out.getvalue()


def unpack(data: bytes) -> list[PartEdges]:
    with np.load(io.BytesIO(data)) as found:
        return [
            PartEdges(found[f"l{n}"], found[f"le{n}"], found[f"c{n}"], found[f"ce{n}"]) for n in range(len(found.files) // 4)
        ]


def placed_edges(part: PartEdges, component: Component) -> PartEdges:
    """A component's edges in the model's axes."""
    matrix = component.matrix()
    turn, move = matrix[:3, :3], matrix[:3, 3]
    lines = (part.lines.reshape(-1, 2, 3) @ turn.T + move).reshape(-1, 6)
    size = float(np.cbrt(abs(np.linalg.det(turn))))
    circles = np.concatenate(
        (
            part.circles[:, :3] @ turn.T + move,
            part.circles[:, 3:6] @ turn.T / size,
            part.circles[:, 6:7] * size,
            part.circles[:, 7:],
        ),
        axis=1,
    )
    return PartEdges(lines, part.line_edges, circles, part.circle_edges)
