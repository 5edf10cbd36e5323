"""The profile of a flat part: what is cut from a plate.

What sheet metal unfolds and what cutting arranges meet here; of each other they know no more than how a part is unfolded.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum
from typing import Any

import shapely

from skalto.core.errors import InputError
from skalto.core.geometry.contour import Contour, Where
from skalto.core.geometry.placement import Similarity
from skalto.core.geometry.values import Box

FINE = 1e-3
"""Chords by which contours are held against one another keep within this, mm, of them."""


class Operation(StrEnum):
    """What is done along a line of a plate (ISO 9013 speaks of cutting; bends as in DIN 6935, from memory)."""

    CUT = "cut"
    SCORE = "score"
    """Cut part of the way through, to fold along."""
    ENGRAVE = "engrave"
    BEND_UP = "bend up"
    BEND_DOWN = "bend down"
    """Away from the side that is seen."""
    BEND_LIMIT = "bend limit"
    """Where the bent part of a flat pattern begins and ends."""


_TURNED = {Operation.BEND_UP: Operation.BEND_DOWN, Operation.BEND_DOWN: Operation.BEND_UP}


@dataclass(frozen=True)
class Mark:
    """A line on the part that is not cut through, open or closed, with what is done along it."""

    course: Contour
    operation: Operation

    def __post_init__(self) -> None:
        if self.operation is Operation.CUT:
            raise ValueError("What is cut through is the outline or an opening, not a mark.")


@dataclass(frozen=True)
class Profile:
    """A flat part: its *outline*, its *openings* and the *marks* on it, mm, seen on side A; *thickness* in mm, 0 where it is
    not known.

    The outline runs counter-clockwise and openings clockwise, whichever way they were given.

    >>> plate = Profile(Contour.rectangle((0, 0, 100, 50)), (Contour.circle((20, 25), 5),))
    >>> round(plate.area, 3), plate.openings[0].is_counter_clockwise
    (4921.46, False)

    :raises ValueError: where the outline or an opening is not closed, or encloses nothing.
    """

    outline: Contour
    openings: tuple[Contour, ...] = ()
    marks: tuple[Mark, ...] = ()
    name: str = ""
    material: str = ""
    thickness: float = 0.0

    def __post_init__(self) -> None:
        for what, contour in (("outline", self.outline), *(("opening", own) for own in self.openings)):
            if not contour.closed:
                raise ValueError(f"The {what} of a profile is closed.")
            if contour.area == 0:
                raise ValueError(f"The {what} of a profile encloses an area.")
        if self.thickness < 0:
            raise ValueError("A thickness is 0 or more.")
        object.__setattr__(self, "outline", self.outline.directed(True))
        object.__setattr__(self, "openings", tuple(own.directed(False) for own in self.openings))

    @property
    def area(self) -> float:
        """What is left of the plate within the outline, mm²."""
        return self.outline.area + sum(own.area for own in self.openings)

    @property
    def cut_length(self) -> float:
        """Of the outline and all openings, mm."""
        return self.outline.length + sum(own.length for own in self.openings)

    @property
    def box(self) -> Box:
        return self.outline.box

    @property
    def contours(self) -> tuple[Contour, ...]:
        """The outline, then the openings."""
        return (self.outline, *self.openings)

    def polygon(self, chord: float = FINE) -> Any:
        """As a polygon of shapely, within *chord* mm of it."""
        rings = [own.chords(chord) for own in self.contours]
        made = shapely.Polygon(rings[0], [ring for ring in rings[1:] if len(ring) > 2])
        return made if made.is_valid else shapely.make_valid(made)

    def placed(self, by: Similarity) -> Profile:
        """Moved, turned and scaled; the thickness scales too."""
        return replace(
            self,
            outline=self.outline.placed(by),
            openings=tuple(own.placed(by) for own in self.openings),
            marks=tuple(Mark(mark.course.placed(by), mark.operation) for mark in self.marks),
            thickness=self.thickness * by.scale,
        )

    def turned_over(self) -> Profile:
        """Seen on side B: mirrored about the y axis, bends up become bends down."""
        return replace(
            self,
            outline=self.outline.mirrored(),
            openings=tuple(own.mirrored() for own in self.openings),
            marks=tuple(Mark(m.course.mirrored(), _TURNED.get(m.operation, m.operation)) for m in self.marks),
        )

    def faults(self) -> tuple[str, ...]:
        """What keeps it from being cut, in sentences: contours that cross themselves or one another, openings outside."""
        rings = [shapely.Polygon(contour.chords(FINE)) for contour in self.contours]
        found = []
        names = ["The outline", *(f"Opening {n}" for n in range(1, len(rings)))]
        for name, ring in zip(names, rings, strict=True):
            if not ring.is_valid:
                found.append(f"{name} crosses itself.")
        if found:
            return tuple(found)
        outer = rings[0].buffer(2 * FINE)
        tree = shapely.STRtree(rings[1:])
        for number, ring in enumerate(rings[1:], 1):
            if not outer.covers(ring):
                found.append(f"Opening {number} is not inside the outline.")
            for other in tree.query(ring, predicate="intersects").tolist():
                if other + 1 > number and ring.intersection(rings[other + 1]).area > FINE**2:
                    found.append(f"Openings {number} and {other + 1} overlap.")
        return tuple(found)


@dataclass
class _Nested:
    contour: Contour
    ring: shapely.Polygon
    holder: int | None = None
    depth: int = 0
    held: list[int] = field(default_factory=list)


def nested(contours: Sequence[Contour]) -> list[tuple[int, list[int]]]:
    """Which closed contours are outlines, and the numbers of the openings in each: what is in an opening is an outline again.

    Outlines come in the order of the contours given.
    """
    rows = [_Nested(own, shapely.Polygon(own.chords(FINE))) for own in contours]
    tree = shapely.STRtree([row.ring for row in rows])
    for number, row in enumerate(rows):
        holders = [
            other
            for other in tree.query(row.ring, predicate="intersects").tolist()
            if other != number
            and abs(rows[other].contour.area) > abs(row.contour.area)
            and _inside(row.contour, rows[other].contour)
        ]
        row.depth = len(holders)
        row.holder = min(holders, key=lambda n: abs(rows[n].contour.area), default=None)
    for number, row in enumerate(rows):
        if row.depth % 2 and row.holder is not None:
            rows[row.holder].held.append(number)
    return [(number, row.held) for number, row in enumerate(rows) if row.depth % 2 == 0]


def _inside(inner: Contour, outer: Contour) -> bool:
    """Whether a contour that does not cross another is inside it: by the first of its places that is not on it."""
    for segment in inner:
        for share in (0.5, 0.0, 0.25, 0.75):
            found = outer.where(segment.at(share))
            if found is not Where.ON:
                return found is Where.INSIDE
    return False


def profiles_of(
    contours: Iterable[Contour], marks: Iterable[Mark] = (), name: str = "", material: str = "", thickness: float = 0.0
) -> tuple[Profile, ...]:
    """The parts that closed contours make, with their openings and the marks on them; marks on no part are left out.

    :raises InputError: where a contour is open or encloses nothing.
    """
    rows = list(contours)
    for number, contour in enumerate(rows, 1):
        if not contour.closed or contour.area == 0:
            raise InputError(f"Contour {number} is not closed: join its ends, or make it a mark.")
    made = [
        Profile(rows[outline], tuple(rows[n] for n in openings), (), name, material, thickness)
        for outline, openings in nested(rows)
    ]
    own: list[list[Mark]] = [[] for _ in made]
    for mark in marks:
        middle = mark.course.segments[len(mark.course.segments) // 2].at(0.5)
        holders = [n for n, part in enumerate(made) if part.outline.where(middle) is not Where.OUTSIDE]
        if holders:
            own[min(holders, key=lambda n: made[n].outline.area)].append(mark)
    return tuple(replace(part, marks=tuple(on)) for part, on in zip(made, own, strict=True))
