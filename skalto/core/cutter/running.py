"""A file run in the stand-in cutter: the time that it takes, the way of the head, the pieces that fall out, and refusals."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from pydantic import BaseModel, ConfigDict

from skalto.core.cutter.machine import ChartRow, Machine
from skalto.core.cutter.motion import Motion, rest_to_rest, times_along
from skalto.core.cutter.overlap import over_one_another
from skalto.core.cutter.pieces import (
    PIECE_LIMIT_UM,
    PieceReading,
    fallen,
    hanging,
    matched,
)
from skalto.core.cutter.tracks import MET, MachineFile, Track
from skalto.core.cutting.cut_paths import PlacedPart
from skalto.core.geometry import Array
from skalto.core.geometry.profile import Operation

_INSIDE = 0.01


class Seconds(BaseModel):
    """How long a file takes, s, by what the head does."""

    model_config = ConfigDict(frozen=True)

    cut: float = 0.0
    score: float = 0.0
    engrave: float = 0.0
    moves: float = 0.0
    pierces: float = 0.0

    @property
    def total(self) -> float:
        return self.cut + self.score + self.engrave + self.moves + self.pierces


class CutterReport(BaseModel):
    """What the stand-in cutter has to say of a file: *refusals*, for which it does not start or which spoil the work,
    *notices*, and what came of it."""

    model_config = ConfigDict(frozen=True)

    file: str
    material: str
    thickness: float
    kerf: float
    size: tuple[float, float] | None
    cut_length: float
    score_length: float
    engraved_area: float
    pierces: int
    seconds: Seconds
    pieces: tuple[PieceReading, ...]
    refusals: tuple[str, ...] = ()
    notices: tuple[str, ...] = ()

    @property
    def holds(self) -> bool:
        return not self.refusals


@dataclass(frozen=True, eq=False)
class Film:
    """The way of the head: when, s, it is where, (n, 2) mm from the page's lower left, and what it does from there on, 0 for a
    move, 1 cut, 2 score, 3 engrave, 4 for what a row passes over."""

    times: Array
    points: Array
    doing: np.ndarray


@dataclass(frozen=True, eq=False)
class Run:
    """A run: the report, the film, the pieces as areas, what is left of the plate, and what is engraved, as an area."""

    report: CutterReport
    film: Film
    pieces: tuple[Any, ...]
    rest: Any
    engraved: Any


_DOING = {Operation.CUT: 1, Operation.SCORE: 2, Operation.ENGRAVE: 3}


def run(
    file: MachineFile, machine: Machine, row: ChartRow, parts: Sequence[PlacedPart] | None = None, kerf: float | None = None,
    plate: Any = None, held: Mapping[str, float] = {}, told: str = "",
) -> Run:  # fmt: skip
    """Run a file.

    :param parts: the parts that should fall out, where they lie on the page; None where nobody knows. :param kerf: instead
    of the chart's, mm. :param plate: instead of the whole page. :param held: parts that tabs may hold, and along how much of
    its contours, mm, each may stay uncut for it. :param told: what is known of the run already.
    """
    kerf = row.kerf if kerf is None else kerf
    size = file.size or _reach(file)
    plate = plate if plate is not None else shapely.box(0, 0, *size)
    refusals, notices = _refusals(file, machine, size)
    notices += [told] if told else []
    cuts = file.cuts
    if not held:
        refusals += _open_contours(cuts, kerf)
    made = fallen(plate, cuts, kerf)
    film, seconds = _film(file, machine, row)
    readings: list[PieceReading]
    if parts is None:
        readings = [PieceReading(area=own.area, box=own.bounds) for own in made.pieces]
    else:
        readings, missing, merged = matched(made.pieces, parts, kerf)
        readings += [hanging(part, made.swept, kerf) for part in parts if part.id in missing and part.id in held]
        refusals += _against_parts(readings, [own for own in missing if own not in held], merged, parts)
        refusals += [
            f"{own.name} is not cut along {own.uncut_mm:.2f} mm; its tabs take {held[own.part]:.2f} mm."
            for own in readings
            if own.part in held and own.uncut_mm > held[own.part]
        ]
    refusals += _too_soon(file.tracks)
    if cuts and not made.pieces:
        notices.append("Nothing falls out: no cut comes back to where it began.")
    report = CutterReport(
        file=file.name, material=row.material, thickness=row.thickness, kerf=kerf, size=file.size,
        cut_length=sum(own.length for own in cuts),
        score_length=sum(own.length for own in file.tracks if own.operation is Operation.SCORE),
        engraved_area=float(file.engraved.area), pierces=len(cuts), seconds=seconds, pieces=tuple(readings),
        refusals=tuple(refusals), notices=tuple(notices),
    )  # fmt: skip
    return Run(report, film, made.pieces, made.rest, file.engraved)


def _reach(file: MachineFile) -> tuple[float, float]:
    """How far a file without a size reaches, mm."""
    points = [own.points for own in file.tracks]
    if not points:
        return 1.0, 1.0
    high = np.concatenate(points).max(axis=0)
    return max(float(high[0]), 1.0), max(float(high[1]), 1.0)


def _refusals(file: MachineFile, machine: Machine, size: tuple[float, float]) -> tuple[list[str], list[str]]:
    refusals: list[str] = []
    notices: list[str] = []
    if size[0] > machine.width + 1e-6 or size[1] > machine.height + 1e-6:
        bed = f"{machine.width:g} × {machine.height:g} mm"
        refusals.append(
            f"The page of {size[0]:.4g} × {size[1]:.4g} mm is larger than the bed of {bed}: turn it, or cut it in parts."
        )
    cuts = file.cuts
    if not cuts:
        why = (
            f"all {file.wide} lines are wider than {machine.follows:g} mm, or of a colour that is no cut"
            if file.wide
            else "it has no line"
        )
        if file.pictures and not file.wide:
            why = "it has pictures where lines were meant"
        refusals.append(f"Nothing is cut, in no time: {why}.")
    if file.clips:
        what = "1 clip path" if file.clips == 1 else f"{file.clips} clip paths"
        refusals.append(
            f"The file has {what}: the head follows what they hide, too. Take them out, with the groups that they are in."
        )
    if file.pictures:
        notices.append(f"{file.pictures} pictures are engraved.")
    for scale in file.scales:
        refusals.append(f"The page shows a view at {scale}: what is cut from it is not full size.")
    for colour, count in file.unknown.items():
        notices.append(f"{count} hairlines of colour {colour} are no code, and are engraved.")
    twice, _ = over_one_another([own.points for own in cuts])
    if twice:
        refusals.append(f"{twice:.2f} mm are cut twice: take out the doubled lines.")
    out = [own for own in cuts if own.points.min() < -_INSIDE or (own.points.max(axis=0) > np.array(size) + _INSIDE).any()]
    if out:
        what = "A cut runs" if len(out) == 1 else f"{len(out)} cuts run"
        refusals.append(f"{what} off the plate.")
    return refusals, notices


def _open_contours(cuts: Sequence[Track], kerf: float) -> list[str]:
    """Cuts that lead nowhere: both of their ends are free. One that ends on a cut, its own or another, is a lead-in, or one cut
    for two parts."""
    lines = [shapely.LineString(own.points) for own in cuts]
    tree = shapely.STRtree(lines)
    reach = max(kerf / 2, MET)
    loose = []
    for number, own in enumerate(cuts):
        if own.closed:
            continue
        ends = [shapely.Point(own.points[0]), shapely.Point(own.points[-1])]
        # of its own course what is about the end itself does not count
        rest = [shapely.LineString(rows) if len(rows) > 1 else None for rows in (own.points[1:], own.points[:-1])]
        met = [
            any(k != number for k in tree.query(end, predicate="dwithin", distance=reach).tolist())
            or (course is not None and len(own.points) > 3 and course.distance(end) <= reach)
            for end, course in zip(ends, (rest[0], rest[1]), strict=True)
        ]
        if not any(met):
            loose.append(own)
    if not loose:
        return []
    widest = max(own.gap for own in loose)
    what = "1 cut contour is" if len(loose) == 1 else f"{len(loose)} of {len(cuts)} cut contours are"
    return [f"{what} open, the widest gap is {widest:.3f} mm."]


def _against_parts(
    readings: Sequence[PieceReading], missing: Sequence[str], merged: Sequence[str], parts: Sequence[PlacedPart]
) -> list[str]:
    names = {part.id: part.name for part in parts}
    found = []
    for own in readings:
        if own.deviation_um is not None and own.deviation_um > PIECE_LIMIT_UM:
            found.append(f"{own.name} comes out {own.deviation_um:.0f} µm off: {PIECE_LIMIT_UM:g} µm are allowed.")
    if merged:
        found.append(f"{_listed(merged, names)} come out as one piece.")
    if missing:
        found.append(f"{_listed(missing, names)} {'does' if len(missing) == 1 else 'do'} not fall out.")
    return found


def _listed(ids: Sequence[str], names: Mapping[str, str]) -> str:
    """Parts by name, with how many of each where there are several."""
    counts = Counter(names[own] for own in ids)
    return ", ".join(name if count == 1 else f"{count} × {name}" for name, count in counts.items())


def _too_soon(tracks: Sequence[Track]) -> list[str]:
    """Pieces that have fallen before all that is to be done on them is done."""
    rings = [
        (n, shapely.Polygon(own.points))
        for n, own in enumerate(tracks)
        if own.operation is Operation.CUT and own.closed and len(own.points) > 3
    ]
    if not rings:
        return []
    areas = [own if own.is_valid else own.buffer(0) for _, own in rings]
    tree = shapely.STRtree(areas)
    late = set()
    for number, track in enumerate(tracks):
        place = shapely.Point(track.points[len(track.points) // 2])
        for k in tree.query(place, predicate="within").tolist():
            own, area = rings[k][0], areas[k]
            if own < number and area.contains(place) and not shapely.dwithin(area.exterior, place, 1e-6):
                late.add(own)
    if not late:
        return []
    what = "1 piece falls" if len(late) == 1 else f"{len(late)} pieces fall"
    return [f"{what} out before all in it is cut: openings come before the outline that holds them."]


def _film(file: MachineFile, machine: Machine, row: ChartRow) -> tuple[Film, Seconds]:
    motion = Motion(machine.acceleration, machine.deviation)
    width, height = file.size or _reach(file)
    here = np.array((width if machine.corner.endswith("right") else 0.0, height if machine.corner.startswith("top") else 0.0))
    spent = {Operation.CUT: 0.0, Operation.SCORE: 0.0}
    moves = pierces = 0.0
    times: list[Array] = [np.zeros(1)]
    points: list[Array] = [here[None]]
    doing: list[np.ndarray] = []
    clock = 0.0
    engrave, clock, here = _rows(file, row, machine, times, points, doing, here)
    for track in file.tracks:
        speed = row.cut if track.operation is Operation.CUT else row.score
        away = float(np.hypot(*(track.points[0] - here)))
        if away > 1e-9:
            taken = float(rest_to_rest(away, machine.rapid, machine.acceleration))
            clock, moves = clock + taken, moves + taken
            times.append(np.array([clock]))
            points.append(track.points[:1])
            doing.append(np.zeros(1, int))
        passes = row.passes if track.operation is Operation.CUT else 1
        along = times_along(track.points, speed, motion)
        pause = machine.pierce if track.operation is Operation.CUT else 0.0
        pierces += pause * passes
        times.append(clock + pause * passes + along[1:] * passes)
        points.append(track.points[1:])
        doing.append(np.full(len(along) - 1, _DOING[track.operation]))
        taken = float(along[-1]) * passes
        spent[track.operation] += taken
        clock += taken + pause * passes
        here = track.points[-1]
    film = Film(np.concatenate(times), np.concatenate(points), np.concatenate([*doing, np.zeros(1, int)]))
    seconds = Seconds(cut=spent[Operation.CUT], score=spent[Operation.SCORE], engrave=engrave, moves=moves, pierces=pierces)
    return film, seconds


_MOST_ROWS = 4000
_APART = 5.0
"""What is engraved further apart than this, mm, is engraved one after the other, not in the same rows."""


def _rows(
    file: MachineFile,
    row: ChartRow,
    machine: Machine,
    times: list[Array],
    points: list[Array],
    doing: list[np.ndarray],
    here: Array,
) -> tuple[float, float, Array]:
    """Engrave by rows, from the top down, there and back, one group of areas after the other: how long it takes, the time then,
    and where the head is."""
    if file.engraved.is_empty:
        return 0.0, 0.0, here
    parts = shapely.get_parts(file.engraved)
    around = shapely.get_parts(
        shapely.union_all(shapely.box(*(shapely.bounds(parts) + _APART / 2 * np.array((-1, -1, 1, 1))).T))
    )
    owner = shapely.STRtree(around).query(shapely.point_on_surface(parts), predicate="within")
    groups = [shapely.union_all(parts[owner[0][owner[1] == k]]) for k in np.unique(owner[1]).tolist()]
    groups.sort(key=lambda own: (-round(own.bounds[3], 1), own.bounds[0]))
    clock = 0.0
    turn = 2 * row.engrave / machine.row_acceleration
    for area in groups:
        x0, y0, x1, y1 = area.bounds
        count = max(1, int((y1 - y0) * row.dpi / 25.4))
        shown = min(count, max(1, _MOST_ROWS // len(groups)))
        stretch = count / shown
        ys = y1 - (np.arange(shown) + 0.5) * (y1 - y0) / shown
        shapely.prepare(area)
        lines = shapely.linestrings([[(x0 - 1, y), (x1 + 1, y)] for y in ys.tolist()])
        worked, owner_row = shapely.get_parts(shapely.intersection(lines, area), return_index=True)
        ends = shapely.bounds(worked)[:, (0, 2)]
        long = ends[:, 1] > ends[:, 0]
        ends, owner_row = ends[long], owner_row[long]
        for number, k in enumerate(np.unique(owner_row).tolist()):
            spans = np.sort(ends[owner_row == k], axis=0)
            # the head runs on over what is not engraved, and back in the next row
            xs = spans.ravel() if number % 2 == 0 else spans.ravel()[::-1]
            begin = clock + turn * stretch
            at = begin + np.abs(xs - xs[0]) / row.engrave * stretch
            clock = float(at[-1])
            times.append(at)
            points.append(np.stack((xs, np.full(len(xs), ys[k])), axis=1))
            doing.append(np.concatenate(([0], np.tile((3, 4), len(spans))[:-1])))
    return clock, clock, points[-1][-1] if len(points) > 1 else here
