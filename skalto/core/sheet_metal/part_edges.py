"""The edges of a part as they are shown where it cannot be unfolded, and along which of them it may be slit."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from skalto.core.geometry import Array
from skalto.core.sheet_metal.faces import SolidFaces
from skalto.core.sheet_metal.pattern import NoSheet
from skalto.core.sheet_metal.skins import Skins, reachable
from skalto.core.sheet_metal.unfolding import Unfolder
from skalto.core.sources.models.model import Mesh

_FINE, _COARSE = 24, 4
"""So many chords show a curve, of a part with many edges fewer."""
_MANY = 2000


@dataclass(frozen=True, eq=False)
class PartEdge:
    """An edge: *points* (k, 3) along it, mm in the part's own axes, and whether the sheet may be *slit* there: a limit of a
    bend on the way on which it comes round to itself."""

    points: Array
    slit: bool


def edges_of_part(shape: Any) -> list[PartEdge]:
    """All edges of a part that has exact faces; none of a mesh."""
    if isinstance(shape, Mesh):
        return []
    try:
        unfolder = Unfolder(shape)
    except NoSheet:
        solid, slits = SolidFaces(shape), frozenset[int]()
    else:
        solid, slits = unfolder.solid, _closing(unfolder.skins())
    chords = _COARSE if len(solid.edges) > _MANY else _FINE
    return [PartEdge(_thinned(edge.points, 1 if edge.is_straight() else chords), edge.number in slits) for edge in solid.edges]


def _thinned(points: Array, chords: int) -> Array:
    rows = np.unique(np.linspace(0, len(points) - 1, min(chords, len(points) - 1) + 1).round().astype(int))
    kept: Array = points[rows]
    return kept


def _closing(skins: Skins) -> frozenset[int]:
    """The edges where regions go over into one another on a way that closes."""
    by_pair: dict[frozenset[int], set[int]] = {}
    for links in skins.links.values():
        for link in links:
            by_pair.setdefault(frozenset((link.here, link.there)), set()).add(link.edge)
    found: set[int] = set()
    for pair, edges in by_pair.items():
        here, there = sorted(pair)
        if there in reachable(skins, here, frozenset((pair,))):
            found |= edges
    return frozenset(found)
