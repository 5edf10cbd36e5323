"""Solids of sheet metal whose flat sizes are known in closed form."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCone, BRepPrimAPI_MakeCylinder
from OCP.gp import gp_Ax1, gp_Ax2, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec

from skalto.demo.folded import Flat, Step, Turn, folded
from skalto.demo.solids import fuse

Place = tuple[float, float, float]


def developed(steps: Sequence[Step], thickness: float, k: float) -> float:
    """The flat length of a section, mm: α·(r + K·t) for each bend (geometry)."""
    return sum(
        step.length if isinstance(step, Flat) else math.radians(abs(step.angle)) * (step.radius + k * thickness)
        for step in steps
    )


def box(low: Place, high: Place) -> Any:
    return BRepPrimAPI_MakeBox(gp_Pnt(*low), gp_Pnt(*high)).Shape()


def rod(at: Place, along: Place, diameter: float, length: float) -> Any:
    return BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(*at), gp_Dir(*along)), diameter / 2, length).Shape()


def cone(at: Place, along: Place, begin: float, end: float, height: float) -> Any:
    return BRepPrimAPI_MakeCone(gp_Ax2(gp_Pnt(*at), gp_Dir(*along)), begin / 2, end / 2, height).Shape()


def shifted(shape: Any, by: Place) -> Any:
    change = gp_Trsf()
    change.SetTranslation(gp_Vec(*by))
    return BRepBuilderAPI_Transform(shape, change, True).Shape()


def turned(shape: Any, axis: Place, degrees: float) -> Any:
    change = gp_Trsf()
    change.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(*axis)), math.radians(degrees))
    return BRepBuilderAPI_Transform(shape, change, True).Shape()


def mirrored(shape: Any, at: Place, normal: Place) -> Any:
    change = gp_Trsf()
    change.SetMirror(gp_Ax2(gp_Pnt(*at), gp_Dir(*normal)))
    return BRepBuilderAPI_Transform(shape, change, True).Shape()


def tray(width: float, depth: float, wall: float, thickness: float, radius: float, gap: float) -> Any:
    """A flat floor, *width* in x and *depth* in z, with a wall on each side, *gap* mm shorter at each end than its side."""
    floor = box((0, 0, 0), (width, thickness, depth))
    side = shifted(folded([Turn(90, radius), Flat(wall)], thickness, depth - 2 * gap), (width, 0, gap))
    end = folded([Turn(90, radius), Flat(wall)], thickness, width - 2 * gap)
    end = shifted(turned(end, (0, 1, 0), -90), (width - gap, 0, depth))
    walls = (side, mirrored(side, (width / 2, 0, 0), (1, 0, 0)), end, mirrored(end, (0, 0, depth / 2), (0, 0, 1)))
    made = floor
    for own in walls:
        made = fuse(made, own)
    return made


__all__ = ["Flat", "Turn", "box", "cone", "developed", "folded", "mirrored", "rod", "shifted", "tray", "turned"]
