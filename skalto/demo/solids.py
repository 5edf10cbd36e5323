"""Few words for making solids with the kernel: outlines with rounded corners, plates, turned parts, holes."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeWire,
    BRepBuilderAPI_Transform,
)
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder, BRepPrimAPI_MakePrism, BRepPrimAPI_MakeRevol
from OCP.GC import GC_MakeArcOfCircle
from OCP.gp import gp_Ax1, gp_Ax2, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain
from OCP.TopAbs import TopAbs_SOLID

from skalto.core.sources.models.kernel import sub_shapes

Corner = tuple[float, float] | tuple[float, float, float]
"""A corner of an outline: x, y and, where it is rounded, the radius."""


def _rounded(corners: Sequence[Corner]) -> list[tuple[Any, ...]]:
    """An outline as ("line", p, q) and ("arc", p, middle, q) pieces, in order."""
    points = np.array([c[:2] for c in corners], float)
    radii = [c[2] if len(c) == 3 else 0.0 for c in corners]
    entries: list[Any] = []
    exits: list[Any] = []
    arcs: list[Any] = []
    for i, radius in enumerate(radii):
        p, before, after = points[i], points[i - 1], points[(i + 1) % len(points)]
        u, v = (before - p) / np.linalg.norm(before - p), (after - p) / np.linalg.norm(after - p)
        half = np.arccos(np.clip(u @ v, -1, 1)) / 2
        if radius <= 0:
            entries.append(p)
            exits.append(p)
            arcs.append(None)
            continue
        run = radius / np.tan(half)
        axis = (u + v) / np.linalg.norm(u + v)
        entries.append(p + u * run)
        exits.append(p + v * run)
        arcs.append(p + axis * (radius / np.sin(half) - radius))
    pieces: list[tuple[Any, ...]] = []
    for i in range(len(points)):
        following = (i + 1) % len(points)
        if arcs[i] is not None:
            pieces.append(("arc", entries[i], arcs[i], exits[i]))
        if np.linalg.norm(entries[following] - exits[i]) > 1e-9:
            pieces.append(("line", exits[i], entries[following]))
    return pieces


def _point(p: Any) -> gp_Pnt:
    return gp_Pnt(float(p[0]), float(p[1]), 0.0)


def face(corners: Sequence[Corner]) -> Any:
    """A flat face in the xy plane."""
    wire = BRepBuilderAPI_MakeWire()
    for piece in _rounded(corners):
        if piece[0] == "line":
            wire.Add(BRepBuilderAPI_MakeEdge(_point(piece[1]), _point(piece[2])).Edge())
        else:
            arc = GC_MakeArcOfCircle(*(_point(p) for p in piece[1:])).Value()
            wire.Add(BRepBuilderAPI_MakeEdge(arc).Edge())
    return BRepBuilderAPI_MakeFace(wire.Wire()).Face()


def plate(corners: Sequence[Corner], thickness: float) -> Any:
    """An outline in xy, as thick as given in z."""
    return BRepPrimAPI_MakePrism(face(corners), gp_Vec(0, 0, thickness)).Shape()


def block(x: float, y: float, z: float, radius: float = 0.0) -> Any:
    """A block centred on the z axis from z = 0, its upright edges rounded."""
    corner = (radius,) if radius else ()
    outline = [(sx * x / 2, sy * y / 2, *corner) for sx, sy in ((-1, -1), (1, -1), (1, 1), (-1, 1))]
    return plate(outline, z)  # type: ignore[arg-type]


def cylinder(diameter: float, length: float, at: tuple[float, float, float] = (0, 0, 0)) -> Any:
    """A cylinder along z."""
    return BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(*at), gp_Dir(0, 0, 1)), diameter / 2, length).Shape()


def turned(profile: Sequence[Corner]) -> Any:
    """A turned part about z: the profile's x is the radius, its y the height."""
    flat = face(profile)
    upright = moved(flat, turn=("x", 90))
    return BRepPrimAPI_MakeRevol(upright, gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1))).Shape()


def prism(sides: int, across: float, height: float) -> Any:
    """A regular prism along z, *across* its flats."""
    radius = across / 2 / np.cos(np.pi / sides)
    angles = np.arange(sides) * 2 * np.pi / sides + np.pi / sides
    return plate([(float(radius * np.cos(a)), float(radius * np.sin(a))) for a in angles], height)


def _solid(shape: Any) -> Any:
    unify = ShapeUpgrade_UnifySameDomain(shape, True, True, True)
    unify.Build()
    found = sub_shapes(unify.Shape(), TopAbs_SOLID)
    return found[0] if len(found) == 1 else unify.Shape()


def cut(shape: Any, *tools: Any) -> Any:
    """A shape less others."""
    for tool in tools:
        shape = BRepAlgoAPI_Cut(shape, tool).Shape()
    return _solid(shape)


def fuse(shape: Any, *others: Any) -> Any:
    """Shapes as one."""
    for other in others:
        shape = BRepAlgoAPI_Fuse(shape, other).Shape()
    return _solid(shape)


_AXES = {"x": gp_Dir(1, 0, 0), "y": gp_Dir(0, 1, 0), "z": gp_Dir(0, 0, 1)}


def placement(by: tuple[float, float, float] = (0, 0, 0), turn: tuple[str, float] | None = None) -> gp_Trsf:
    """Turn about an axis through the origin (degrees), then move."""
    result = gp_Trsf()
    if turn:
        result.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), _AXES[turn[0]]), float(np.radians(turn[1])))
    shift = gp_Trsf()
    shift.SetTranslation(gp_Vec(*by))
    return shift.Multiplied(result)


def moved(shape: Any, by: tuple[float, float, float] = (0, 0, 0), turn: tuple[str, float] | None = None) -> Any:
    """The shape itself turned and moved, not placed."""
    return BRepBuilderAPI_Transform(shape, placement(by, turn), True).Shape()


def mirrored(shape: Any) -> Any:
    """The shape's mirror image across the plane x = 0."""
    flip = gp_Trsf()
    flip.SetMirror(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(1, 0, 0)))
    return BRepBuilderAPI_Transform(shape, flip, True).Shape()
