"""What may be drawn of a view, as it is found: curves with their chords, in view axes."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from skalto.core.artwork import EdgeClass
from skalto.core.geometry import Array
from skalto.core.projection.facets import Flags, Ints
from skalto.core.projection.placing import Faces
from skalto.core.projection.solving import NONE, Rows, numbered
from skalto.core.projection.splines import Table
from skalto.core.projection.strokes import ORDER

EDGE_ON = 1e-6
"""A normal that leans toward the viewer by less than this is square to the look."""
OUTLINE, SMOOTH, VISIBLE = (ORDER.index(c) for c in (EdgeClass.OUTLINE, EdgeClass.SMOOTH, EdgeClass.VISIBLE))


@dataclass(frozen=True, eq=False)
class Curves(Rows):
    """What may be drawn, ``span`` (n, 2) of the parameter, ``rank`` of the class where it is seen, and the ``part`` (n,)."""

    span: Array
    rank: Ints
    part: Ints
    contours: dict[int, list[int]]
    """The contours of each face that are neither line nor conic."""
    edges: list[Any]
    """The kernel's edge of each, None of contours."""
    faces: Faces

    @property
    def plain(self) -> Flags:
        """Which are lines and conics, (n,)."""
        return np.asarray((self.thread == NONE) & (self.trace == NONE))


@dataclass(frozen=True, eq=False)
class Chords:
    """Chords of curves: ``ends`` (k, 2, 3) at ``params`` (k, 2) of ``curve`` (k,), what is ``beside`` (k, 5: two triangles, the
    part whose triangles are as true as the chord, two faces that only hide it where they are nearer by what is ``clear`` (k,),
    mm), and whether all is hidden (k,)."""

    ends: Array
    params: Array
    curve: Ints
    beside: Ints
    hidden: Flags
    clear: Array


def _stacked(rows: list[Array], *shape: int, kind: type = float) -> Array:
    return np.concatenate([np.empty((0, *shape), kind), *rows])


class Stage:
    """Curves and their chords, as they are found, of *faces*."""

    def __init__(self, faces: Faces) -> None:
        self._curves: dict[str, list[Any]] = {k: [] for k in ("conic", "frame", "span", "rank", "part", "other", "edge")}
        self._chords: dict[str, list[Any]] = {k: [] for k in ("ends", "params", "curve", "beside", "hidden", "clear")}
        self._count = 0
        self.contours: dict[int, list[int]] = {}
        self.faces, self.table = faces, Table()
        self.patches = faces.patches

    def add_curves(
        self,
        conic: Flags,
        frame: Array,
        span: Array,
        rank: Ints,
        part: int | Ints,
        other: list[Any],
        edges: list[Any] | None = None,
    ) -> Ints:
        """Their numbers; *edges* are the kernel's, of what are edges."""
        for key, value in (("conic", conic), ("frame", frame), ("span", span), ("rank", rank)):
            self._curves[key].append(value)
        self._curves["part"].append(np.full(len(conic), part))
        self._curves["other"] += other
        self._curves["edge"] += edges if edges is not None else [None] * len(other)
        numbers = np.arange(self._count, self._count + len(conic))
        self._count += len(conic)
        return numbers

    def add_chords(
        self, ends: Array, params: Array, curve: Ints, beside: Ints, hidden: Flags, clear: Array | float = np.inf
    ) -> None:
        """As in :class:`Chords`; those of one curve in order, and of curves in the order of their numbers."""
        own = ("ends", ends), ("params", params), ("curve", curve), ("beside", beside), ("hidden", hidden)
        for key, value in (*own, ("clear", np.broadcast_to(clear, len(ends)))):
            self._chords[key].append(value)

    def all_curves(self) -> Curves:
        c = self._curves
        thread, trace = numbered(c["other"])
        return Curves(
            conic=_stacked(c["conic"], kind=bool).astype(bool), frame=_stacked(c["frame"], 3, 3), other=c["other"],
            span=_stacked(c["span"], 2), rank=_stacked(c["rank"], kind=int).astype(np.int64),
            part=_stacked(c["part"], kind=int).astype(np.int64), contours=self.contours, edges=c["edge"], faces=self.faces,
            thread=thread, trace=trace, table=self.table, patches=self.patches,
        )  # fmt: skip

    def all_chords(self) -> Chords:
        k = self._chords
        return Chords(
            _stacked(k["ends"], 2, 3), _stacked(k["params"], 2), _stacked(k["curve"], kind=int).astype(np.int64),
            _stacked(k["beside"], 5, kind=int).astype(np.int64), _stacked(k["hidden"], kind=bool).astype(bool),
            _stacked(k["clear"]),
        )  # fmt: skip
