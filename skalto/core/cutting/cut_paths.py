"""What a cutter is to do on a plate, path by path, in order: engrave, score, then each part's openings before its outline."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely

from skalto.core.cutting.choices import Corner, CutChoices, Plate
from skalto.core.cutting.decorating import Decorated
from skalto.core.geometry import Point
from skalto.core.geometry.beside import beside
from skalto.core.geometry.contour import Contour
from skalto.core.geometry.profile import Operation, Profile
from skalto.core.geometry.segments import Arc, Line, Segment
from skalto.core.geometry.stringing import divided, nearest_share, part_of

ON_ONE_LINE = 0.02
"""Straight cuts of two parts that lie nearer to one line than this, mm, are one cut: what a piece may be off."""
_CHORD = 0.01
_LEAST = 1e-3


@dataclass(frozen=True, eq=False)
class PlacedPart:
    """A part where it lies on the plate: its profile at nominal, whose it is, its name, and what is drawn on it."""

    id: str
    profile: Profile
    decorations: tuple[Decorated, ...] = ()

    @property
    def name(self) -> str:
        return self.profile.name


@dataclass(frozen=True, eq=False)
class CutPath:
    """One course of the head: what is done along it, of which part, and whether it is the part's outline."""

    operation: Operation
    course: Contour
    part: str
    is_outline: bool = False


@dataclass(frozen=True, eq=False)
class CutPlan:
    """The paths in order, and what whoever cuts should know, each in a sentence."""

    paths: tuple[CutPath, ...]
    notes: tuple[str, ...] = ()

    @property
    def cut_length(self) -> float:
        """mm."""
        return math.fsum(own.course.length for own in self.paths if own.operation is Operation.CUT)

    @property
    def pierces(self) -> int:
        """How often the beam goes in to cut through."""
        return sum(own.operation is Operation.CUT for own in self.paths)

    def length(self, operation: Operation) -> float:
        """mm."""
        return math.fsum(own.course.length for own in self.paths if own.operation is operation)


def cut_plan(parts: Sequence[PlacedPart], choices: CutChoices, plate: Plate, decorations: Sequence[Decorated] = ()) -> CutPlan:
    """The paths of the parts of a plate, and of the decorations on the plate itself."""
    notes: list[str] = []
    half = choices.kerf / 2 if choices.compensated else 0.0
    if choices.kerf and not choices.compensated:
        notes.append(f"Contours are at nominal: the cutter offsets them by half of its kerf, {choices.kerf:g} mm.")
    cuts: list[tuple[PlacedPart, list[Contour], list[Contour]]] = []
    for part in parts:
        inner, outer = _offset(part, half, choices, notes)
        cuts.append((part, inner, outer))
    if choices.common_cut:
        shared = _one_cut_each([outline for _, _, outer in cuts for outline in outer])
        rows = iter(shared)
        cuts = [(part, inner, [own for _ in outer for own in next(rows)]) for part, inner, outer in cuts]
    here = _corner(choices.start, plate)
    marks = [CutPath(m.operation, m.course, part.id) for part in parts for m in part.profile.marks]
    drawn = [("", own) for own in decorations] + [(part.id, own) for part in parts for own in part.decorations]
    marks += [CutPath(m.operation, m.course, part) for part, own in drawn for m in own.marks]
    paths: list[CutPath] = []
    for operation in (Operation.ENGRAVE, None):
        own = [m for m in marks if (m.operation is Operation.ENGRAVE) == (operation is Operation.ENGRAVE)]
        ordered, here = _nearest_first(own, here)
        paths += ordered
    solid = shapely.union_all([part.profile.polygon(_CHORD) for part in parts]) if choices.lead_in else None
    waiting = [(part, inner, outer) for part, inner, outer in cuts if inner or outer]
    held = _held(parts)
    while waiting:
        # what lies in an opening is cut before the opening: it would fall out with it
        rest = {part.id for part, _, _ in waiting}
        free = [n for n, (part, _, _) in enumerate(waiting) if not held[part.id] & rest] or list(range(len(waiting)))
        number = min(free, key=lambda n: _away(waiting[n], here))
        part, inner, outer = waiting.pop(number)
        tabbed = choices.tabs.count and (not choices.tabs.below or part.profile.area < choices.tabs.below)
        openings, here = _nearest_first([CutPath(Operation.CUT, own, part.id) for own in inner], here)
        outlines, here = _nearest_first([CutPath(Operation.CUT, own, part.id, True) for own in outer], here)
        made: list[CutPath] = []
        for path in (*openings, *outlines):
            if tabbed and path.is_outline and path.course.closed:
                made += _tabbed(path, choices, part.name, notes)
            elif choices.lead_in and path.course.closed:
                made.append(_led_in(path, choices.lead_in, half, solid, part.name, notes))
            else:
                made.append(path)
        paths += made
        here = made[-1].course.end if made else here
    return CutPlan(tuple(paths), tuple(dict.fromkeys(notes)))


def _held(parts: Sequence[PlacedPart]) -> dict[str, set[str]]:
    """For each part those that lie in its openings."""
    found: dict[str, set[str]] = {part.id: set() for part in parts}
    for part in parts:
        for opening in part.profile.openings:
            room = shapely.Polygon(opening.chords(_CHORD)) if len(opening.chords(_CHORD)) > 2 else None
            for other in parts:
                if room is not None and other is not part and room.contains(shapely.Point(other.profile.outline.start)):
                    found[part.id].add(other.id)
    return found


def _corner(start: Corner, plate: Plate) -> Point:
    return (plate.width if start.endswith("right") else 0.0, plate.height if start.startswith("top") else 0.0)


def _offset(part: PlacedPart, half: float, choices: CutChoices, notes: list[str]) -> tuple[list[Contour], list[Contour]]:
    """A part's openings and outline, offset by half the kerf; what is too narrow for it is left out, by name."""
    inner: list[Contour] = []
    for number, opening in enumerate(part.profile.openings, 1):
        made = beside(opening, half, choices.corners)
        if not made:
            circle = opening.as_circle
            what = f"opening {number}" if circle is None else f"a hole of Ø{2 * circle[1]:.4g} mm"
            notes.append(f"{part.name}: {what} is narrower than the kerf of {choices.kerf:g} mm, and is not cut.")
        inner += made
    outer = list(beside(part.profile.outline, half, choices.corners))
    return inner, outer


def _away(row: tuple[PlacedPart, list[Contour], list[Contour]], here: Point) -> float:
    _, inner, outer = row
    return min(_nearest(own, here)[0] for own in (inner or outer))


def _nearest(course: Contour, here: Point) -> tuple[float, int, float]:
    """How near a course comes to a point at the ends of its segments, and where: of a closed one anywhere, else at its ends."""
    if not course.closed:
        return min((math.dist(course.start, here), 0, 0.0), (math.dist(course.end, here), -1, 1.0))
    if len(course.segments) == 1:
        segment = course.segments[0]
        share = nearest_share(segment, here)
        return math.dist(segment.at(share), here), 0, share
    return min((math.dist(segment.start, here), n, 0.0) for n, segment in enumerate(course))


def begun_at(course: Contour, number: int, share: float = 0.0) -> Contour:
    """A closed contour from another place on."""
    rows = list(course.segments)
    if 0 < share < 1:
        rows[number : number + 1] = [part_of(rows[number], 0, share), part_of(rows[number], share, 1)]
        number += 1
    return Contour((*rows[number:], *rows[:number]))


def _begins(course: Contour) -> list[tuple[float, float, float]]:
    """Where a course may begin: points, and of a circle, which may begin anywhere, its centre with its radius."""
    if not course.closed:
        return [(*course.start, 0.0), (*course.end, 0.0)]
    if len(course.segments) == 1 and isinstance(course.segments[0], Arc):
        return [(*course.segments[0].centre, course.segments[0].radius)]
    return [(*segment.start, 0.0) for segment in course]


def _nearest_first(paths: Iterable[CutPath], here: Point) -> tuple[list[CutPath], Point]:
    """Paths one after the other, always the one that begins nearest; closed ones may begin at any corner, open ones at either
    end."""
    waiting = list(paths)
    ordered: list[CutPath] = []
    begins = [_begins(path.course) for path in waiting]
    rows = np.array([row for own in begins for row in own]).reshape(-1, 3)
    owner = np.repeat(np.arange(len(begins)), [len(own) for own in begins])
    number = np.concatenate([np.arange(len(own)) for own in begins]) if begins else owner
    while len(ordered) < len(waiting):
        nearest = int(np.abs(np.hypot(rows[:, 0] - here[0], rows[:, 1] - here[1]) - rows[:, 2]).argmin())
        path, segment = waiting[owner[nearest]], int(number[nearest])
        if path.course.closed:
            share = nearest_share(path.course.segments[0], here) if rows[nearest, 2] else 0.0
            course = begun_at(path.course, segment, share)
        else:
            course = path.course.reversed() if segment else path.course
        ordered.append(replace(path, course=course))
        here = course.end
        left = owner != owner[nearest]
        rows, owner, number = rows[left], owner[left], number[left]
    return ordered, here


def _tabbed(path: CutPath, choices: CutChoices, name: str, notes: list[str]) -> list[CutPath]:
    """A closed path in pieces between tabs; each end is as far off that the beam leaves the tab its width."""
    course, tabs = path.course, choices.tabs
    spare = tabs.width + choices.kerf
    step = course.length / tabs.count
    if step <= 2 * spare:
        notes.append(f"{name}: {tabs.count} tabs of {tabs.width:g} mm have no room on its outline, and are left out.")
        return [path]
    pieces = []
    for number in range(tabs.count):
        low, high = number * step + spare / 2, (number + 1) * step - spare / 2
        pieces.append(replace(path, course=_stretch(course, low, high)))
    return pieces


def _stretch(course: Contour, low: float, high: float) -> Contour:
    """The part of a course between two lengths along it, mm."""
    found: list[Segment] = []
    done = 0.0
    for segment in course:
        length = segment.length
        a, b = max(low - done, 0.0), min(high - done, length)
        if b - a > _LEAST:
            found.append(_by_length(segment, a, b))
        done += length
    return Contour(tuple(found), closed=False)


def _by_length(segment: Segment, a: float, b: float) -> Segment:
    """The part of a segment between two lengths along it; of a cubic by halving the share."""
    length = segment.length
    if not hasattr(segment, "first"):
        return part_of(segment, a / length, b / length)

    def share(at: float) -> float:
        if at <= 0 or at >= length:
            return 0.0 if at <= 0 else 1.0
        low, high = 0.0, 1.0
        for _ in range(40):
            middle = (low + high) / 2
            low, high = (middle, high) if part_of(segment, 0, middle).length < at else (low, middle)
        return low

    return part_of(segment, share(a), share(b))


def _led_in(path: CutPath, length: float, half: float, solid: shapely.Geometry, name: str, notes: list[str]) -> CutPath:
    """A closed path with a way in from the waste: straight, square to the course, shorter where a part is in the way."""
    course = path.course
    longest = max(range(len(course.segments)), key=lambda n: course.segments[n].length)
    share = 0.5
    for own in (length, length / 2, length / 4):
        if own < 2 * half:
            break
        for number in [longest, *(n for n in range(len(course.segments)) if n != longest)]:
            segment = course.segments[number]
            x, y = segment.at(share)
            hx, hy = segment.heading(share)
            # the waste is on the right of an outline, which runs counter-clockwise, and of an opening, which runs clockwise
            away = (x + hy * own, y - hx * own)
            line = shapely.LineString(((x + hy * half * 0.5, y - hx * half * 0.5), away))
            if shapely.distance(line, solid) >= half * 0.5 - 1e-9 and not shapely.intersects(line, solid):
                begun = begun_at(course, number, share)
                # it comes back to where it met the contour
                return replace(path, course=Contour((Line(away, begun.start), *begun.segments), closed=False))
    notes.append(f"{name}: there is no room for a lead-in, and it is left out.")
    return path


def _one_cut_each(outlines: Sequence[Contour]) -> list[list[Contour]]:
    """Outlines without what an earlier one cuts already: straight stretches on a common line."""
    lines = [(n, s) for n, outline in enumerate(outlines) for s in outline if isinstance(s, Line)]
    tree = shapely.STRtree([shapely.LineString((s.start, s.end)) for _, s in lines])
    found: list[list[Contour]] = []
    for number, outline in enumerate(outlines):
        kept: list[tuple[Segment, bool]] = []
        for segment in outline:
            if not isinstance(segment, Line) or segment.length < _LEAST:
                kept.append((segment, True))
                continue
            near = tree.query(shapely.LineString((segment.start, segment.end)), predicate="dwithin", distance=ON_ONE_LINE)
            spans = [
                span for k in near.tolist() if lines[k][0] < number and (span := _shared(segment, lines[k][1])) is not None
            ]
            shares = [t for span in spans for t in span]
            for piece in divided([segment], [shares]):
                middle = nearest_share(segment, piece.at(0.5))
                kept.append((piece, not any(a < middle < b for a, b in spans)))
        found.append(_runs(kept))
    return found


def _shared(line: Line, other: Line) -> tuple[float, float] | None:
    """The shares of a line between which another runs along it, None where it does not."""
    ux, uy = line.heading(0)
    rows = []
    for x, y in (other.start, other.end):
        dx, dy = x - line.start[0], y - line.start[1]
        if abs(dx * uy - dy * ux) > ON_ONE_LINE:
            return None
        rows.append((dx * ux + dy * uy) / line.length)
    low, high = max(min(rows), 0.0), min(max(rows), 1.0)
    return (low, high) if (high - low) * line.length > ON_ONE_LINE else None


def _runs(pieces: Sequence[tuple[Segment, bool]]) -> list[Contour]:
    """What is kept of a closed contour: the whole, or runs between what is not."""
    if all(kept for _, kept in pieces):
        return [Contour(tuple(piece for piece, _ in pieces))]
    first = next(n for n, (_, kept) in enumerate(pieces) if not kept)
    rows = [*pieces[first:], *pieces[:first]]
    found: list[Contour] = []
    run: list[Segment] = []
    for piece, kept in (*rows, (rows[0][0], False)):
        if kept:
            run.append(piece)
        elif run:
            found.append(Contour(tuple(run), closed=False))
            run = []
    return found
