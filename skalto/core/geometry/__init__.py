"""Exact geometry in a plane: values, placements, curves, contours and profiles. It knows nothing of sheets or strokes."""

from skalto.core.geometry.beziers import bezier_at, bezier_bounds
from skalto.core.geometry.placement import Similarity
from skalto.core.geometry.values import TAU, Array, Bools, Box, Ints, Point

__all__ = ["TAU", "Array", "Bools", "Box", "Ints", "Point", "Similarity", "bezier_at", "bezier_bounds"]
