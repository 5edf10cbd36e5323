"""What the stand-in cutter makes of a finished file: courses of its head in the file's own order, and what it engraves."""

from __future__ import annotations

import math
import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from skalto.core.artwork import Artwork
from skalto.core.artwork.area_polygons import chords_of, polygons_of
from skalto.core.artwork.contour_items import bezier_curves
from skalto.core.artwork.filled import Areas, Fills, Raster, Text
from skalto.core.artwork.joining import in_pieces
from skalto.core.artwork.strokes import Beziers, Contours, Ellipses, Lines, Polylines, bulge_arcs
from skalto.core.cutter.machine import Machine
from skalto.core.errors import InputError
from skalto.core.geometry import Array
from skalto.core.geometry.chaining import chains_of, nodes_of
from skalto.core.geometry.profile import Operation
from skalto.core.geometry.segments import Arc
from skalto.core.outlines import outlined
from skalto.core.progress import Progress, silent
from skalto.core.sources.reading import read_drawing

MET = 2e-3
"""Strokes whose ends are nearer than this, mm, are one course; files round their numbers."""
THINNEST_DXF = 0.05
"""The thinnest line weight but none that DXF has, mm (DXF reference): a hairline cannot be thinner there."""
_CLIP = re.compile(rb"(?:^|\s)W\*?\s+n(?=\s|$)")


@dataclass(frozen=True, eq=False)
class Track:
    """A course of the head: what it does there, its points (n, 2), mm from the page's lower left, and whether it comes home."""

    operation: Operation
    points: Array
    closed: bool

    @property
    def length(self) -> float:
        return float(np.hypot(*np.diff(self.points, axis=0).T).sum())

    @property
    def gap(self) -> float:
        """How far its ends are apart, mm."""
        return math.dist(self.points[0], self.points[-1])


@dataclass(frozen=True, eq=False)
class MachineFile:
    """A page as a cutter takes it: its size, mm, None where the file has none; tracks in order; what is engraved as areas;
    *clips*, *pictures*; hairlines of colours that are no code, by colour; the scale that the file says its page shows."""

    name: str
    size: tuple[float, float] | None
    tracks: tuple[Track, ...]
    engraved: Any
    clips: int = 0
    pictures: int = 0
    unknown: Counter[str] = field(default_factory=Counter)
    scales: tuple[str, ...] = ()
    wide: int = 0
    pages: int = 1

    @property
    def cuts(self) -> list[Track]:
        return [own for own in self.tracks if own.operation is Operation.CUT]


def read_for_machine(path: Path, machine: Machine, name: str = "", page: int = 1, report: Progress = silent) -> MachineFile:
    """A finished PDF, DXF or SVG as the cutter takes it. :raises InputError: for a file that cannot be used, or has no such
    page."""
    called = name or path.name
    drawing = read_drawing(path, called, report)
    facts = drawing.facts
    unit = facts.unit_mm if facts.unit_mm else 1.0
    if facts.kind == "pdf":
        if not 1 <= page <= len(facts.spaces):
            raise InputError(f"{called} has {len(facts.spaces)} pages, and no page {page}.")
        space = facts.spaces[page - 1]
        size = space.paper
    else:
        space = facts.spaces[0]
        box = space.declared
        size = None if box is None else ((box[2] - box[0]) * unit, (box[3] - box[1]) * unit)
    artwork = drawing.spaces[space.name]
    if unit != 1.0 and facts.kind != "pdf":
        from skalto.core.geometry import Similarity

        artwork = artwork.placed(Similarity(unit))
    corner = (
        (0.0, 0.0) if space.declared is None or facts.kind == "pdf" else (space.declared[0] * unit, space.declared[1] * unit)
    )
    data = path.read_bytes()
    return _taken(
        called,
        facts.kind,
        artwork,
        machine,
        size,
        corner,
        _clips(data, facts.kind),
        _scales(data, facts.kind, page),
        len(facts.spaces),
    )


def _clips(data: bytes, kind: str) -> int:
    """How often a file clips."""
    if kind == "svg":
        return len(re.findall(rb"<clipPath[\s>]", data))
    if kind != "pdf":
        return 0
    import io

    import pikepdf

    found = 0
    with pikepdf.open(io.BytesIO(data)) as pdf:
        for page in pdf.pages:
            contents = page.obj.get("/Contents")
            streams = list(contents) if isinstance(contents, pikepdf.Array) else [contents] if contents is not None else []
            found += len(_CLIP.findall(b"\n".join(stream.read_bytes() for stream in streams)))
    return found


def _scales(data: bytes, kind: str, page: int) -> tuple[str, ...]:
    """The scales, other than full size, that a PDF's measurement viewports say its page has (ISO 32000-1, 12.9)."""
    if kind != "pdf":
        return ()
    import io

    import pikepdf

    found = []
    with pikepdf.open(io.BytesIO(data)) as pdf:
        own = pdf.pages[page - 1].obj
        user_unit = float(own.get("/UserUnit", 1))
        for viewport in own.get("/VP", ()):
            measure = viewport.get("/Measure")
            rows = measure.get("/X") if measure is not None else None
            if not rows or str(rows[0].get("/U", "")) != "mm":
                continue
            factor = float(rows[0].get("/C", 1)) * 72 / 25.4 / user_unit
            if abs(factor - 1) > 1e-4:
                found.append(f"1:{factor:g}" if factor > 1 else f"{1 / factor:g}:1")
    return tuple(dict.fromkeys(found))


def _colour(rgb: tuple[int, int, int] | None) -> str:
    return "#{:02x}{:02x}{:02x}".format(*(rgb or (0, 0, 0)))


def _of_layer(layer: str, machine: Machine) -> Operation | None:
    return next((own for code, own in machine.codes.rows if code.layer.casefold() == layer.casefold()), None)


def _of_colour(colour: str, machine: Machine) -> Operation | None:
    return next((own for code, own in machine.codes.rows if _near(code.colour, colour)), None)


def _near(a: str, b: str) -> bool:
    return all(abs(int(a[k : k + 2], 16) - int(b[k : k + 2], 16)) <= 2 for k in (1, 3, 5))


def _taken(
    name: str, kind: str, artwork: Artwork, machine: Machine, size: tuple[float, float] | None, corner: tuple[float, float],
    clips: int,
    scales: tuple[str, ...], pages: int,
) -> MachineFile:  # fmt: skip
    pieces: list[tuple[Array, NDArray[np.int64], int, Operation]] = []
    engraved: list[Any] = []
    unknown: Counter[str] = Counter()
    pictures = wide = before = 0
    hairline = max(machine.follows, THINNEST_DXF) if kind == "dxf" else machine.follows
    for item in artwork:
        colour = _colour(item.tags.colour)
        if isinstance(item, Raster | Text | Areas | Fills):
            pictures += isinstance(item, Raster)
            engraved += filled(Artwork((item,)))
        elif isinstance(item, Lines | Ellipses | Beziers | Polylines):
            width = item.tags.width if item.tags.width is not None else 0.0
            curves, straight, owner = _in_pieces(item)
            if not len(curves):
                continue
            operation = _of_layer(item.tags.layer, machine) if kind == "dxf" else None
            # a layer says what its lines are for, however wide they are drawn
            thin = operation is not None or width <= hairline
            operation = operation or _of_colour(colour, machine)
            if not thin or operation in (None, Operation.ENGRAVE):
                wide += len(curves)
                if thin and operation is None:
                    unknown[colour] += len(item)
                engraved.append(_stroke_area(curves, straight, max(width, machine.follows)))
                continue
            places = item.order[owner] if item.order is not None else before + owner
            pieces.append((curves, np.asarray(places, np.int64), len(curves), operation))
            before = int(places.max()) + 1
        elif isinstance(item, Contours):
            raise TypeError("readers give no contours")
    tracks = _tracks(pieces, np.array(corner))
    area = shapely.union_all([own for own in engraved if own is not None and not own.is_empty])
    if corner != (0.0, 0.0):
        area = shapely.transform(area, lambda points: points - np.array(corner))
    return MachineFile(name, size, tracks, area, clips, pictures, unknown, scales, wide, pages)


def _in_pieces(item: Lines | Ellipses | Beziers | Polylines) -> tuple[Array, NDArray[np.bool_], NDArray[np.int64]]:
    """An item's strokes as Béziers (m, 4, 2) in the order in which they are drawn and the way that they run, which of them are
    straight, and the number of each one's stroke."""
    if not isinstance(item, Polylines):
        own = in_pieces(item)
        return own.curves, own.straight, own.owner
    start, end, bulge, run = item.segments()
    straight = np.abs(bulge) <= 1e-12
    step = (end - start)[straight] / 3
    made = [np.stack((start[straight], start[straight] + step, end[straight] - step, end[straight]), axis=1)]
    place, kinds = [np.flatnonzero(straight)], [np.ones(int(straight.sum()), bool)]
    for number in np.flatnonzero(~straight).tolist():
        centre, _, _, _, sweep = (v[0] for v in bulge_arcs(*(v[number : number + 1] for v in (start, end, bulge))))
        (cx, cy), (x0, y0), (x1, y1) = centre.tolist(), start[number].tolist(), end[number].tolist()
        arc = Arc((x0, y0), (x1, y1), (cx, cy), math.copysign(float(sweep), bulge[number]))
        curves = bezier_curves(arc)
        made.append(curves)
        place.append(np.full(len(curves), number))
        kinds.append(np.zeros(len(curves), bool))
    at = np.concatenate(place)
    order = np.argsort(at, kind="stable")
    return np.concatenate(made)[order], np.concatenate(kinds)[order], run[at[order]]


def _tracks(pieces: Sequence[tuple[Array, NDArray[np.int64], int, Operation]], corner: Array) -> tuple[Track, ...]:
    """Pieces in the file's order, strung where one begins at the end of the one before."""
    if not pieces:
        return ()
    kinds = [Operation.CUT, Operation.SCORE]
    curves = np.concatenate([own for own, _, _, _ in pieces]) - corner
    places = np.concatenate([own for _, own, _, _ in pieces])
    which = np.concatenate([np.full(count, kinds.index(operation)) for _, _, count, operation in pieces])
    order = np.argsort(places, kind="stable")
    curves, which = _in_sequence(curves[order], places[order]), which[order]
    apart = np.hypot(*(curves[1:, 0] - curves[:-1, 3]).T) > MET
    breaks = np.flatnonzero(apart | (which[1:] != which[:-1])) + 1
    found: list[Track] = []
    for rows in np.split(np.arange(len(curves)), breaks):
        found += _split_home(curves[rows], kinds[int(which[rows[0]])])
    return tuple(found)


def _in_sequence(curves: Array, places: NDArray[np.int64]) -> Array:
    """Pieces (n, 4, 2) in the file's order, turned about where they run against the course that they are on: readers give some
    arcs the other way round. Those of one path, which share their place in that order, are put end to end."""
    found = curves.copy()
    for rows in np.split(np.arange(len(curves)), np.flatnonzero(np.diff(places)) + 1):
        own = curves[rows]
        if len(rows) < 2 or not (np.hypot(*(own[1:, 0] - own[:-1, 3]).T) > MET).any():
            continue
        at = rows[0]
        for chain, _ in chains_of(nodes_of(own)):
            back = sum(way for _, way in chain) * 2 > len(chain)
            for number, way in reversed(chain) if back else chain:
                found[at] = own[number][::-1] if way != back else own[number]
                at += 1
    # a stroke of several pieces is turned about as a whole
    breaks = np.flatnonzero((np.diff(places) != 0) | (np.hypot(*(found[1:, 0] - found[:-1, 3]).T) > MET)) + 1
    runs = np.split(np.arange(len(found)), breaks)
    ends = [[found[rows[0], 0].tolist(), found[rows[-1], 3].tolist()] for rows in runs]
    for number in _turned_about(ends):
        rows = runs[number]
        found[rows] = found[rows][::-1, ::-1]
    return found


def _turned_about(ends: list[list[list[float]]]) -> set[int]:
    """Which strokes, by their *ends*, run against the course that they are on."""
    turned: set[int] = set()

    def turn(number: int) -> None:
        ends[number].reverse()
        turned.symmetric_difference_update((number,))

    begins = True
    for number in range(1, len(ends)):
        last, here = ends[number - 1], ends[number]
        at_start, at_end = (min(math.dist(own, end) for end in here) for own in last)
        if begins and at_start <= MET < at_end:
            # the first of a course, which nothing comes before to tell its way
            turn(number - 1)
        if math.dist(here[0], last[1]) <= MET:
            begins = False
        elif math.dist(here[1], last[1]) <= MET:
            turn(number)
            begins = False
        else:
            begins = True
    return turned


def _split_home(curves: Array, operation: Operation) -> list[Track]:
    """A run of curves as tracks: one that comes home ends there, even where the next begins at the same point."""
    found, begin = [], 0
    for number in range(len(curves)):
        home = np.hypot(*(curves[number, 3] - curves[begin, 0])) <= MET
        if home or number == len(curves) - 1:
            points = chords_of(curves[begin : number + 1])
            if len(points) > 1:
                found.append(Track(operation, points, bool(home)))
            begin = number + 1
    return found


def filled(artwork: Artwork) -> list[Any]:
    """What is filled, as areas: seen text, areas, polygons, and pictures by their boxes."""
    found: list[Any] = []
    for item in outlined(artwork):
        if isinstance(item, Raster):
            found.append(_raster_area(item))
        elif isinstance(item, Areas):
            found += polygons_of(item)
        elif isinstance(item, Fills):
            found.append(shapely.union_all(shapely.polygons(item.points)))
    return found


def _stroke_area(curves: Array, straight: NDArray[np.bool_], width: float) -> Any:
    rows = [chords_of(curve[None]) for curve in curves]
    lines = [shapely.LineString(own) for own in rows if len(own) > 1]
    return shapely.union_all(shapely.buffer(lines, width / 2, quad_segs=2)) if lines else None


def _raster_area(item: Raster) -> Any:
    corner, across, upward = item.corner, item.across, item.upward
    return shapely.Polygon([corner, corner + across, corner + across + upward, corner + upward])
