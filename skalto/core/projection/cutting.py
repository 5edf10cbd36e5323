"""Cutting a model by a plane square to the look: what is left, and the faces that the cut makes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from skalto.core.geometry import Array
from skalto.core.sources.models.model import Component, Mesh, Model

TOUCHING = 1e-6
"""A part that reaches less than this beyond the plane, mm, is not cut by it."""

COVER_CHORD = 0.05
"""The same for what an uncut part covers of the hatching behind it."""

CHORD = 5e-3
"""Largest distance of a cut face's outline from its true curve, model mm; for hatching, not for lines."""


@dataclass(frozen=True, eq=False)
class CutFace:
    """A face that the cut made: whose, its exact area mm², and its rings (k, 2) in the view's plane, the outer one first."""

    component: str
    area: float
    rings: tuple[Array, ...]


@dataclass(frozen=True, eq=False)
class Shown:
    """What a view looks at: components with their shapes placed in the model's axes, and cut faces."""

    components: tuple[Component, ...]
    shapes: tuple[Any, ...]
    faces: tuple[CutFace, ...] = ()


def _depths(component: Component, model: Model, look: Array) -> tuple[float, float]:
    """How near and how far along the look a component's box reaches; the part itself reaches no further."""
    assert component.shape is not None
    facts = model.tree.shapes[component.shape]
    low, high, matrix = np.array(facts.low), np.array(facts.high), component.matrix()
    along = look @ matrix[:3, :3]
    middle = float(along @ ((low + high) / 2) + look @ matrix[:3, 3])
    half = float(np.abs(along) @ ((high - low) / 2))
    return middle - half, middle + half


def cut_model(model: Model, shown: Sequence[Component], axes: Array, cut: float, uncut: frozenset[str]) -> Shown:
    """Take away what lies nearer than *cut* along the look; components in *uncut* stay whole.

    :param axes: rows right, up, toward the viewer, (3, 3).
    """
    from skalto.core.sources.models.model import covered

    look = -axes[2]
    components, shapes, faces, covers = [], [], [], []
    for component in shown:
        assert component.shape is not None
        near, far = _depths(component, model, look)
        shape = model.shapes[component.shape]
        whole = covered(component.path, uncut)
        if not whole and far <= cut + TOUCHING:
            continue
        if isinstance(shape, Mesh):
            placed: Any = Mesh(shape.vertices @ component.matrix()[:3, :3].T + component.matrix()[:3, 3], shape.faces)
        else:
            from skalto.core.sources.models.kernel import placed as place

            placed = place(shape, component.matrix())
        if not whole and near < cut - TOUCHING:
            halved = _cut_mesh(placed, axes, cut) if isinstance(placed, Mesh) else _cut_shape(placed, axes, cut)
            if halved is None:
                continue
            placed, own = halved
            faces += [CutFace(component.path, area, rings) for area, rings in own]
        if whole and near < cut - TOUCHING:
            covers.append(_cover(placed, axes))
        components.append(component)
        shapes.append(placed)
    return Shown(tuple(components), tuple(shapes), tuple(_seen(faces, covers)))


def _cover(shape: Any, axes: Array) -> Any:
    """The area that a part covers in the view's plane, as a polygon within :data:`COVER_CHORD`."""
    import shapely

    closed = False
    if isinstance(shape, Mesh):
        triangles = shape.vertices[shape.faces]
    else:
        from skalto.core.projection.facets import is_closed
        from skalto.core.sources.models.patches import face_patches

        closed = is_closed(shape)
        patches = face_patches(shape, COVER_CHORD, anew=True)
        triangles = np.concatenate([points[corners] for points, corners in patches if len(corners)])
    flat = triangles @ axes[:2].T
    a, b = flat[:, 1] - flat[:, 0], flat[:, 2] - flat[:, 0]
    area = a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]
    kept = np.abs(area) > 1e-9
    if closed:
        # what faces the viewer covers the same as what faces away
        facing = area > 0
        kept &= facing if 2 * (facing & kept).sum() <= kept.sum() else ~facing
    flat = flat[kept]
    return shapely.union_all(shapely.polygons(flat), grid_size=1e-6)


def _seen(faces: list[CutFace], covers: list[Any]) -> list[CutFace]:
    """Cut faces without what uncut parts before them cover; areas stay those of the whole faces."""
    if not covers or not faces:
        return faces
    import shapely

    before = shapely.union_all(covers)
    result = []
    for face in faces:
        rest = shapely.difference(shapely.Polygon(face.rings[0], face.rings[1:]).buffer(0), before)
        pieces = [piece for piece in getattr(rest, "geoms", [rest]) if piece.geom_type == "Polygon" and piece.area > 1e-6]
        rings = [tuple(np.array(r.coords)[:-1] for r in (piece.exterior, *piece.interiors)) for piece in pieces]
        shares = sum(piece.area for piece in pieces) or 1.0
        result += [
            CutFace(face.component, face.area * piece.area / shares, own) for piece, own in zip(pieces, rings, strict=True)
        ]
        if not pieces:
            result.append(CutFace(face.component, face.area, ()))
    return result


Faces = list[tuple[float, tuple[Array, ...]]]


def _cut_shape(shape: Any, axes: Array, cut: float) -> tuple[Any, Faces] | None:
    """The far half of a kernel shape with its cut faces, or None when nothing is left."""
    from OCP.Bnd import Bnd_Box
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Common
    from OCP.BRepBndLib import BRepBndLib
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox
    from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
    from OCP.TopAbs import TopAbs_FACE

    from skalto.core.sources.models.kernel import mark_smooth_edges, sub_shapes

    box = Bnd_Box()
    BRepBndLib.Add_s(shape, box, False)
    low, high = np.array(box.CornerMin().Coord()), np.array(box.CornerMax().Coord())
    size = float(np.linalg.norm(high - low)) * 2 + 10.0
    middle = (low + high) / 2
    look = -axes[2]
    corner = middle + look * (cut - look @ middle) - (axes[0] + axes[1]) * size / 2
    # the box's own x and y must make a right hand with the look: up, right
    frame = gp_Ax2(gp_Pnt(*corner.tolist()), gp_Dir(*look.tolist()), gp_Dir(*axes[1].tolist()))
    far = BRepPrimAPI_MakeBox(frame, size, size, size).Shape()
    halved = BRepAlgoAPI_Common(shape, far).Shape()
    found = sub_shapes(halved, TopAbs_FACE)
    if not found:
        return None
    mark_smooth_edges(halved)
    return halved, [face for sub in found if (face := _cut_face(sub, axes, cut)) is not None]


def _cut_face(sub: Any, axes: Array, cut: float) -> tuple[float, tuple[Array, ...]] | None:
    """Area and rings of a face, if it lies in the cutting plane."""
    from OCP.BRepAdaptor import BRepAdaptor_Surface
    from OCP.BRepGProp import BRepGProp
    from OCP.BRepTools import BRepTools
    from OCP.GeomAbs import GeomAbs_Plane
    from OCP.GProp import GProp_GProps
    from OCP.TopAbs import TopAbs_WIRE
    from OCP.TopoDS import TopoDS

    from skalto.core.sources.models.extents import xyz
    from skalto.core.sources.models.kernel import sub_shapes

    face = TopoDS.Face_s(sub)
    surface = BRepAdaptor_Surface(face)
    if surface.GetType() != GeomAbs_Plane:
        return None
    plane, look = surface.Plane(), -axes[2]
    if (
        abs(abs(np.array(xyz(plane.Axis().Direction())) @ look) - 1) > 1e-9
        or abs(np.array(xyz(plane.Location())) @ look - cut) > 1e-5
    ):
        return None
    properties = GProp_GProps()
    BRepGProp.SurfaceProperties_s(face, properties)
    outer = BRepTools.OuterWire_s(face)
    wires = sorted(sub_shapes(face, TopAbs_WIRE), key=lambda wire: not wire.IsSame(outer))
    return float(properties.Mass()), tuple(_ring(wire, face) @ axes[:2].T for wire in wires)


def _ring(wire: Any, face: Any) -> Array:
    """Points (k, 3) along a wire, curves within :data:`CHORD`."""
    from OCP.BRepAdaptor import BRepAdaptor_Curve
    from OCP.BRepTools import BRepTools_WireExplorer
    from OCP.GCPnts import GCPnts_QuasiUniformDeflection
    from OCP.GeomAbs import GeomAbs_Line
    from OCP.TopAbs import TopAbs_REVERSED
    from OCP.TopoDS import TopoDS

    from skalto.core.sources.models.extents import xyz

    points: list[Array] = []
    explorer = BRepTools_WireExplorer(TopoDS.Wire_s(wire), face)
    while explorer.More():
        edge = explorer.Current()
        curve = BRepAdaptor_Curve(edge)
        if curve.GetType() == GeomAbs_Line:
            own = np.array([xyz(curve.Value(t)) for t in (curve.FirstParameter(), curve.LastParameter())])
        else:
            steps = GCPnts_QuasiUniformDeflection(curve, CHORD)
            own = np.array([xyz(steps.Value(i)) for i in range(1, steps.NbPoints() + 1)])
        points.append(own[::-1][:-1] if edge.Orientation() == TopAbs_REVERSED else own[:-1])
        explorer.Next()
    return np.concatenate(points) if points else np.empty((0, 3))


def _cut_mesh(mesh: Mesh, axes: Array, cut: float) -> tuple[Mesh, Faces] | None:
    """The far half of a mesh, capped, with its cut faces; a mesh that is not closed is not capped."""
    import shapely
    import trimesh

    look = -axes[2]
    origin = look * cut
    vertices, faces, _ = trimesh.intersections.slice_faces_plane(mesh.vertices, mesh.faces, look, origin)
    if not len(faces):
        return None
    found: Faces = []
    trace = trimesh.Trimesh(mesh.vertices, mesh.faces, process=True).section(look, origin)
    if trace is not None:
        to_plane = np.eye(4)
        to_plane[:3, :3] = axes
        flat, _ = trace.to_2D(to_2D=to_plane)
        loops = [shapely.LineString(run) for run in flat.discrete if len(run) > 3 and np.allclose(run[0], run[-1])]
        # even and odd: a loop within a loop is a hole
        whole = shapely.build_area(shapely.GeometryCollection(loops))
        for polygon in shapely.get_parts(whole):
            rings = tuple(np.array(ring.coords)[:-1, :2] for ring in (polygon.exterior, *polygon.interiors))
            found.append((float(polygon.area), rings))
            # the cap: triangles of the polygon, back in the model
            for triangle in shapely.constrained_delaunay_triangles(polygon).geoms:
                corners = np.array(triangle.exterior.coords)[:3, :2] @ axes[:2] + origin
                # seen from the viewer's side, counter-clockwise
                if np.cross(corners[1] - corners[0], corners[2] - corners[0]) @ axes[2] < 0:
                    corners = corners[::-1]
                faces = np.vstack((faces, np.arange(3) + len(vertices)))
                vertices = np.vstack((vertices, corners))
    merged = trimesh.Trimesh(vertices, faces, process=True)
    return Mesh(np.asarray(merged.vertices, float), np.asarray(merged.faces, np.int64)), found
