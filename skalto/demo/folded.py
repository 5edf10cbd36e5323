"""Folded sheet as a solid: a section of flats and bends, as wide as asked."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeWire
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.GC import GC_MakeArcOfCircle
from OCP.gp import gp_Pnt, gp_Vec

Place = tuple[float, float]


@dataclass(frozen=True)
class Flat:
    """A straight stretch, *length* mm."""

    length: float


@dataclass(frozen=True)
class Turn:
    """A bend by *angle* degrees, counter-clockwise where positive, of the inner *radius*, mm."""

    angle: float
    radius: float


Step = Flat | Turn


def _section(steps: Sequence[Step], thickness: float, heading: float) -> tuple[list[Any], Place, Place]:
    """The edges of both sides, and where they end: on the right of the way and on the left of it."""
    x = y = 0.0
    turned = math.radians(heading)

    def left(x: float, y: float, angle: float, by: float) -> Place:
        return x - math.sin(angle) * by, y + math.cos(angle) * by

    edges = []
    here, there = (x, y), left(x, y, turned, thickness)
    for step in steps:
        if isinstance(step, Flat):
            x, y = x + math.cos(turned) * step.length, y + math.sin(turned) * step.length
            for a, b in ((here, (x, y)), (there, left(x, y, turned, thickness))):
                edges.append(BRepBuilderAPI_MakeEdge(_at(a), _at(b)).Edge())
        else:
            way, by = math.copysign(1.0, step.angle), math.radians(step.angle)
            cx, cy = left(x, y, turned, thickness + step.radius if way > 0 else -step.radius)
            inner, outer = step.radius, step.radius + thickness
            for radius in (outer, inner) if way > 0 else (inner, outer):
                if radius > 0:
                    points = [
                        (cx + way * math.sin(a) * radius, cy - way * math.cos(a) * radius)
                        for a in (turned, turned + by / 2, turned + by)
                    ]
                    edges.append(BRepBuilderAPI_MakeEdge(GC_MakeArcOfCircle(*(_at(p) for p in points)).Value()).Edge())
            turned += by
            x, y = left(cx, cy, turned, -outer if way > 0 else inner)
        here, there = (x, y), left(x, y, turned, thickness)
    return edges, here, there


def _at(place: Place) -> gp_Pnt:
    return gp_Pnt(place[0], place[1], 0.0)


def folded(steps: Sequence[Step], thickness: float, width: float, heading: float = 0.0) -> Any:
    """A folded sheet: its section in the xy plane, from the origin along x or the *heading*, degrees; *width* mm in z."""
    edges, here, there = _section(steps, thickness, heading)
    turned = math.radians(heading)
    start = (-math.sin(turned) * thickness, math.cos(turned) * thickness)
    edges.append(BRepBuilderAPI_MakeEdge(_at((0.0, 0.0)), _at(start)).Edge())
    edges.append(BRepBuilderAPI_MakeEdge(_at(here), _at(there)).Edge())
    from OCP.TopTools import TopTools_ListOfShape

    rows = TopTools_ListOfShape()
    for edge in edges:
        rows.Append(edge)
    wire = BRepBuilderAPI_MakeWire()
    wire.Add(rows)
    return BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(wire.Wire()).Face(), gp_Vec(0, 0, width)).Shape()
