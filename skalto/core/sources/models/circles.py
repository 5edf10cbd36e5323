"""The circular edges of a kernel shape."""

from __future__ import annotations

from typing import Any

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.GeomAbs import GeomAbs_Circle
from OCP.TopoDS import TopoDS

from skalto.core.geometry import Array
from skalto.core.sources.models.extents import xyz
from skalto.core.sources.models.kernel import edges


def circular_edges(shape: Any) -> list[tuple[Array, Array, float]]:
    """Centre (3,), axis (3,) and radius, mm, of every edge that is a circle or an arc, in the shape's own axes."""
    found = []
    for edge in edges(shape):
        curve = BRepAdaptor_Curve(TopoDS.Edge_s(edge))
        if curve.GetType() == GeomAbs_Circle:
            circle = curve.Circle()
            found.append((np.array(xyz(circle.Location())), np.array(xyz(circle.Axis().Direction())), float(circle.Radius())))
    return found
