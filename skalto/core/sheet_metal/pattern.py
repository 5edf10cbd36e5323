"""A flat pattern: what is cut, where it is bent, and what came of holding it against the model."""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace
from enum import StrEnum
from functools import cached_property
from typing import TYPE_CHECKING, Any, Literal

import shapely
from pydantic import BaseModel, ConfigDict

from skalto.core.geometry.contour import Contour
from skalto.core.geometry.placement import Similarity
from skalto.core.geometry.profile import Mark, Operation, Profile
from skalto.core.geometry.segments import Line
from skalto.core.geometry.values import Point
from skalto.core.sheet_metal.feature_kinds import FeatureKind

if TYPE_CHECKING:
    # these load the kernel, and a pattern is read by those who have none
    from skalto.core.sheet_metal.folding import Folded
    from skalto.core.sheet_metal.openings import Feature


class SheetKind(StrEnum):
    """What a part is to whoever bends and cuts."""

    FLAT = "flat plate"
    BENT = "bent sheet"
    ROLLED = "rolled sheet"
    DEPTH = "plate with depth features"
    PROFILE = "tube or profile"
    NONE = "no sheet"


class NoSheet(Exception):
    """Why a part has no flat pattern: its *kind*, the *reason*, a sentence, and the *place* that it is about, mm, or None."""

    def __init__(self, kind: SheetKind, reason: str, place: tuple[float, float, float] | None = None) -> None:
        super().__init__(reason)
        self.kind, self.reason, self.place = kind, reason, place


class Bend(BaseModel):
    """A bend of a pattern: *angle* it is bent by, degrees, inner *radius*, *length* along it, *allowance* and *deduction* (None
    at a half turn), mm, *k* that these come to, *distance* of its line from the datum edge, mm.

    *line* is its middle in the flat and *limits* where it begins and ends, each two points, mm; *faces* the numbers of its
    faces in the part.
    """

    model_config = ConfigDict(frozen=True)

    number: int
    angle: float
    radius: float
    direction: Literal["up", "down"]
    length: float
    allowance: float
    deduction: float | None
    k: float
    distance: float = 0.0
    datum: Literal["left", "lower"] = "left"
    line: tuple[Point, Point]
    limits: tuple[tuple[Point, Point], ...]
    faces: tuple[int, ...] = ()
    typed: bool = False

    @property
    def note(self) -> str:
        """What stands beside the bend line: ``UP 90° R2``."""
        return f"{self.direction.upper()} {trimmed(self.angle)}° R{trimmed(self.radius)}"


def trimmed(value: float, digits: int = 2) -> str:
    """A number to some digits, without noughts behind.

    >>> trimmed(90.0), trimmed(2.50001)
    ('90', '2.5')
    """
    text = f"{value:.{digits}f}".rstrip("0").rstrip(".")
    return text or "0"


@dataclass(frozen=True, eq=False)
class FlatPattern:
    """A flat pattern seen on side A, its lower left at the origin, mm.

    *volume* is the model's, mm³; *refolded* how far its contours folded up are from the model's edges at most, mm;
    *area_at_half* what its area is where the neutral fibre lies in the middle, mm², which times the thickness is the volume;
    *rule* where the rule of its bends comes from, in words;
    *bases* the faces of side A that may stay where they are, the largest first, with their areas, mm².
    """

    name: str
    kind: SheetKind
    reason: str
    thickness: float
    outline: Contour
    openings: tuple[Contour, ...]
    features: tuple[Feature, ...]
    bends: tuple[Bend, ...]
    volume: float
    density: float = 0.0
    material: str = ""
    refolded: float = 0.0
    area_at_half: float = 0.0
    exact_volume: bool = True
    notes: tuple[str, ...] = ()
    warnings: tuple[str, ...] = ()
    folded: Folded | None = None
    turned_over: bool = False
    base: int = 0
    bases: tuple[tuple[int, float], ...] = ()
    rule: str = ""
    placement: Similarity = field(default_factory=Similarity)

    @property
    def profile(self) -> Profile:
        """As what is cut and marked from a plate: bend lines, and the outlines of what is sunk into side A."""
        marks = [
            Mark(Contour((Line(*own),), closed=False), Operation.BEND_UP if bend.direction == "up" else Operation.BEND_DOWN)
            for bend in self.bends
            for own in self.bend_pieces(bend)
        ]
        marks += [
            Mark(own.outline, Operation.SCORE)
            for own in self.features
            if own.side == 0 and own.kind not in (FeatureKind.FORMED, FeatureKind.BOSS, FeatureKind.BEVEL)
        ]
        return Profile(self.outline, self.openings, tuple(marks), self.name, self.material, self.thickness)

    @cached_property
    def _sheet(self) -> Any:
        """What is on the sheet, by chords, a little wider."""
        made = Profile(self.outline, self.openings).polygon().buffer(1e-4)
        shapely.prepare(made)
        return made

    def bend_pieces(self, bend: Bend, line: tuple[Point, Point] | None = None) -> list[tuple[Point, Point]]:
        """The stretches of a bend's line, or of another along it, that are on the sheet."""
        one, other = line or bend.line
        within = shapely.LineString((one, other)).intersection(self._sheet)
        size = math.dist(one, other)
        found = []
        for piece in shapely.get_parts(within):
            if piece.geom_type != "LineString" or piece.length < 1e-2:
                continue
            a, b = (min(1.0, max(0.0, math.dist(one, p) / size)) for p in (piece.coords[0], piece.coords[-1]))
            # ends of the line itself stay what they are
            low, high = sorted(0.0 if s * size < 2e-3 else 1.0 if (1 - s) * size < 2e-3 else s for s in (a, b))
            found.append((_between(one, other, low), _between(one, other, high)))
        return found

    @property
    def box(self) -> tuple[float, float]:
        """Width and height of the pattern as it lies, mm."""
        x0, y0, x1, y1 = self.outline.box
        return x1 - x0, y1 - y0

    @property
    def area(self) -> float:
        """mm²."""
        return abs(self.outline.area) - sum(abs(own.area) for own in self.openings)

    @property
    def cut_length(self) -> float:
        """mm."""
        return self.outline.length + sum(own.length for own in self.openings)

    @property
    def pierces(self) -> int:
        """How often the cutter begins."""
        return 1 + len(self.openings)

    @property
    def mass(self) -> float | None:
        """g, None where the density is not known."""
        return self.volume / 1000 * self.density if self.density else None

    @property
    def holes(self) -> tuple[tuple[float, float, float], ...]:
        """Round openings: where, and their diameters, mm, the lowest first."""
        round_ = [own for contour in self.openings if (own := contour.as_circle) is not None]
        return tuple(sorted(((x, y, 2 * r) for (x, y), r in round_), key=lambda h: (round(h[1], 6), round(h[0], 6))))

    @property
    def clear(self) -> tuple[float, float, float]:
        """The largest circle on the sheet that no contour and no bend line comes into: its centre and radius, mm."""
        area = Profile(self.outline, self.openings).polygon(0.05)
        lines = [shapely.LineString(bend.line) for bend in self.bends]
        lines += [own.outline.line(0.05) for own in self.features]
        free = area.difference(shapely.MultiLineString(lines).buffer(0.1)) if lines else area
        found = shapely.maximum_inscribed_circle(free, 0.5)
        (x, y), (_, _) = found.coords
        return float(x), float(y), float(found.length)

    @property
    def smallest_rectangle(self) -> tuple[float, float]:
        """The sides of the smallest rectangle about it, whichever way it is turned, the longer first, mm."""
        box = shapely.minimum_rotated_rectangle(self.outline.line(1e-3).convex_hull)
        ring = shapely.get_coordinates(box)
        one, other = math.dist(ring[0], ring[1]), math.dist(ring[1], ring[2])
        own = self.box
        # a box along the axes is exact
        if own[0] * own[1] <= one * other * (1 + 1e-5):
            one, other = own
        return max(one, other), min(one, other)

    def placed(self, by: Similarity) -> FlatPattern:
        """Moved and turned from where it was laid flat."""

        def moved(line: tuple[Point, Point]) -> tuple[Point, Point]:
            own = Contour((Line(*line),), closed=False).placed(by)
            return own.start, own.end

        return replace(
            self, outline=self.outline.placed(by), openings=tuple(own.placed(by) for own in self.openings),
            features=tuple(replace(own, outline=own.outline.placed(by)) for own in self.features),
            bends=tuple(
                own.model_copy(update={"line": moved(own.line), "limits": tuple(moved(limit) for limit in own.limits)})
                for own in self.bends
            ),
            placement=by,
        )  # fmt: skip


def _between(one: Point, other: Point, share: float) -> Point:
    if share <= 0 or share >= 1:
        return one if share <= 0 else other
    return one[0] + (other[0] - one[0]) * share, one[1] + (other[1] - one[1]) * share
