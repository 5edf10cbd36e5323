"""The faces of all parts of a view by one number each, and the exact surface of each, made when it is asked for."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass

import numpy as np

from skalto.core.geometry import Array
from skalto.core.projection.facets import Facets, Surface
from skalto.core.projection.turning import Patches


@dataclass(frozen=True, eq=False)
class Placed:
    """A part in view axes: *turn* (3, 3) and *move* (3,) lead there from its own, ``form`` (f, 8) are its faces there."""

    facets: Facets
    form: Array
    turn: Array
    move: Array


class Faces:
    """Faces count on from part to part."""

    def __init__(self) -> None:
        self.patches = Patches()
        self._parts: list[Placed] = []
        self._first: list[int] = []
        self._made: dict[int, int] = {}
        self.count = 0

    def add(self, part: Placed) -> int:
        """The number of a part's first face."""
        self._parts.append(part)
        self._first.append(self.count)
        self.count += len(part.facets.surface)
        return self._first[-1]

    def patch(self, face: int) -> int:
        """The number among the patches of a face that has triangles."""
        if face not in self._made:
            n = bisect_right(self._first, face) - 1
            part, number = self._parts[n], face - self._first[n]
            facets, surface = part.facets, int(part.facets.surface[number])
            node = int(facets.triangles[int(np.argmax(facets.face == number)), 0])
            spline = facets.face_spline(number) if surface == Surface.OTHER else None
            self._made[face] = self.patches.add(
                facets.kernel_faces[number], spline, surface, part.form[number], part.turn, part.move, facets.uv[node],
                part.turn @ facets.normals[node],
            )  # fmt: skip
        return self._made[face]
