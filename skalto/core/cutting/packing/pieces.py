"""Pieces, plates and where pieces lie, as packing sees them: polygons in mm, angles in degrees."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np
import shapely
from shapely import affinity

from skalto.core.geometry import Similarity
from skalto.core.geometry.profile import Profile
from skalto.core.typed import Text

CHORD = 0.01
"""How near, mm, the polygons that are packed keep to the profiles, which lie inside them."""
_ARC = 4


def polygon_of(profile: Profile) -> Any:
    """A profile as a polygon that holds it: its openings are as large or smaller by up to :data:`CHORD`."""
    rings = [own.chords(CHORD) for own in profile.contours]
    made = shapely.Polygon(rings[0], rings[1:])
    if not made.is_valid:
        made = shapely.make_valid(made, method="structure")
        made = max(shapely.get_parts(made).tolist(), key=lambda part: part.area)
    return grown(made, CHORD)


def grown(area: Any, by: float) -> Any:
    """An area grown by at least *by* mm, at corners by no more than 2 % above."""
    if by == 0:
        return area
    # chords of a round corner run inside its arc: the radius is larger by what they lose
    return area.buffer(by / math.cos(math.pi / (4 * _ARC)) * (1 + 1e-9) if by > 0 else by, quad_segs=_ARC)


def simpler(area: Any, by: float) -> Any:
    """An area with fewer corners that holds the whole of it, and reaches no further than about twice *by* mm beyond."""
    made = grown(area, by).simplify(by * 0.999)
    if made.geom_type != "Polygon" or not made.is_valid or not made.covers(area):
        return area
    return made


@dataclass(frozen=True, eq=False)
class Piece:
    """A kind of part that is to be laid, *quantity* times: *area* as its profile lies, *turns* that are allowed, degrees,
    None for any, and whether it may be turned over. *size* is the part's own area, mm², where *area* is but near it."""

    key: str
    area: Any
    quantity: int = 1
    turns: tuple[float, ...] | None = (0.0, 90.0, 180.0, 270.0)
    flips: bool = False
    size: float | None = None

    @property
    def own_area(self) -> float:
        """mm²."""
        return float(self.area.area) if self.size is None else self.size

    @cached_property
    def directions(self) -> tuple[float, ...]:
        """The turns that are tried where pieces are laid one by one: of free ones those that bring a side level, and some
        more."""
        if self.turns is not None:
            return tuple(dict.fromkeys(round(turn % 360, 9) for turn in self.turns))
        ring = shapely.get_coordinates(self.area.convex_hull.simplify(0.5))
        steps = np.diff(ring, axis=0)
        longest = np.argsort(-np.hypot(*steps.T))[:3]
        level = [-math.degrees(math.atan2(float(y), float(x))) for x, y in steps[longest].tolist()]
        rows = [own + quarter for own in (0.0, *level) for quarter in (0.0, 90.0, 180.0, 270.0)]
        return tuple(dict.fromkeys(round(turn % 360, 6) for turn in rows))


@dataclass(frozen=True)
class Placed:
    """A piece on a plate: turned over about the y axis where *flipped*, then turned by *turn* degrees, then moved by (x, y)."""

    key: str
    plate: int
    x: float
    y: float
    turn: float = 0.0
    flipped: bool = False
    pinned: bool = False
    id: str = ""

    @property
    def placement(self) -> Similarity:
        return Similarity(dx=self.x, dy=self.y, turn=math.radians(self.turn))

    def of(self, area: Any) -> Any:
        """A piece's area where it lies."""
        if self.flipped:
            area = affinity.scale(area, -1, 1, origin=(0, 0))
        cos, sin = math.cos(math.radians(self.turn)), math.sin(math.radians(self.turn))
        return affinity.affine_transform(area, (cos, -sin, sin, cos, self.x, self.y))


@dataclass(frozen=True, eq=False)
class Blank:
    """A kind of plate: its *area*, (0, 0) at its lower left, and how many there are, None for as many as it takes."""

    area: Any
    count: int | None = None

    @cached_property
    def is_rectangle(self) -> bool:
        return not self.area.interiors and math.isclose(self.area.area, shapely.box(*self.area.bounds).area, rel_tol=1e-9)


@dataclass(frozen=True, eq=False)
class Laying:
    """What is to be laid: pieces, on plates, *gap* mm apart at least, *edge* mm from the edges of plates; *pinned* pieces stay
    where they are and count."""

    pieces: tuple[Piece, ...]
    blanks: tuple[Blank, ...]
    gap: float = 2.0
    edge: float = 5.0
    pinned: tuple[Placed, ...] = ()

    @cached_property
    def by_key(self) -> dict[str, Piece]:
        return {piece.key: piece for piece in self.pieces}

    @cached_property
    def demand(self) -> dict[str, int]:
        """How many of each are still to be laid."""
        rest = {piece.key: piece.quantity for piece in self.pieces}
        for own in self.pinned:
            rest[own.key] = max(rest.get(own.key, 0) - 1, 0)
        return rest

    def blank_of(self, plate: int) -> int | None:
        """The number of the blank that the plate with a number is of: the first ones first; None where there is no such
        plate."""
        for number, blank in enumerate(self.blanks):
            if blank.count is None or plate < blank.count:
                return number
            plate -= blank.count
        return None

    def usable(self, blank: int) -> Any:
        """Where pieces may lie that are grown by half the gap."""
        area = self.blanks[blank].area
        return area.buffer(self.gap / 2 - self.edge, join_style="mitre")


@dataclass(frozen=True, eq=False)
class Arrangement:
    """Pieces where they lie, and how many of each kind found no place."""

    placed: tuple[Placed, ...] = ()
    left: dict[Text, int] = field(default_factory=dict)

    @property
    def plates(self) -> int:
        """How many plates it takes."""
        return 1 + max((own.plate for own in self.placed), default=-1)

    def on(self, plate: int) -> tuple[Placed, ...]:
        return tuple(own for own in self.placed if own.plate == plate)
