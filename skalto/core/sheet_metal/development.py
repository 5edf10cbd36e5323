"""Skins laid flat: planes move rigidly, bends become strips of their developed width, and what bounds a skin becomes
contours."""

from __future__ import annotations

import math
from collections import deque
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from skalto.core.geometry import TAU, Array
from skalto.core.geometry.contour import JOINED, ONE_CIRCLE, Contour
from skalto.core.geometry.curves import circle_through, fit_beziers
from skalto.core.geometry.segments import Arc, Cubic, Line, Segment
from skalto.core.geometry.stringing import strung
from skalto.core.geometry.values import Point
from skalto.core.sheet_metal.faces import Edge, SolidFaces
from skalto.core.sheet_metal.skins import A, B, Charts, Link, Region, Skins, local, place, sided

FITTED = 2e-4
"""How near, mm, Béziers keep to the curves that a bend makes of lines and arcs."""
_STRAIGHT = 1e-6
_CLOSED = 2e-2
"""A sheet that comes round to itself is off by less than this, mm, where it is only pierced."""


class ClosedOn(Exception):
    """The sheet comes round to itself at a *place*, (3,) mm: it would have to be slit."""

    def __init__(self, place: Array) -> None:
        super().__init__()
        self.place = place


@dataclass(eq=False)
class Developed:
    """Regions laid flat: their *charts*, and of each bend the neutral radius, mm."""

    skins: Skins
    charts: Charts
    neutral: dict[int, float]
    slit: set[frozenset[int]]

    def of(self, region: int, points: Array, face: int | None = None) -> Array:
        """Points (k, 3) of a region in the flat, (k, 2)."""
        return place(self.charts.at[region], self.skins.regions[region], points, self.neutral.get(region, 0.0), face)

    @property
    def regions(self) -> list[Region]:
        return [self.skins.regions[n] for n, _ in self.charts.order]


def laid_flat(
    skins: Skins, base: int, side: int, neutral: Callable[[Region], float], slit: Sequence[float] | None = None
) -> Developed:
    """Everything that hangs together with a face, laid flat about it.

    :param base: the number of the face that stays where it is. :param side: whether it is of side A or B.
    :param neutral: of a bend the radius, mm, by which its angles become lengths.
    :param slit: a place, mm, near which the sheet is slit along a bend's limit.
    :raises ClosedOn: when it comes round to itself.
    """
    first = skins.of_face[base]
    start = skins.regions[first]
    sided(start, skins.solid, base, side)
    radii: dict[int, float] = {}
    charts = Charts()
    if start.bend:
        radii[first] = neutral(start)
        at = skins.solid.samples(base)[0]
        out = start.tangent(at), start.axes[2]
        turn = 1.0 if start.outer_is_a else -1.0
        charts.at[first] = np.array((out[0] * turn, out[1])), at, np.zeros(2)
    else:
        charts.at[first] = start.axes[:2], start.origin, np.zeros(2)
    charts.order.append((first, None))
    apart = _slit(skins, slit)
    waiting = deque([first])
    while waiting:
        here = waiting.popleft()
        for link in skins.links[here]:
            if frozenset((here, link.there)) in apart:
                continue
            matrix, point, flat = local(charts.at[here], skins.regions[here], link.at, radii.get(here, 0.0))
            if link.there in charts.at:
                there = local(charts.at[link.there], skins.regions[link.there], link.at, radii.get(link.there, 0.0))
                way = link.way
                if np.linalg.norm(there[2] - flat) > _CLOSED or np.linalg.norm((there[0] - matrix) @ way) > 1e-4:
                    raise ClosedOn(link.at)
                continue
            region = skins.regions[link.there]
            own_side = A if link.face_here in skins.regions[here].faces[A] else B
            sided(region, skins.solid, link.face_there, own_side)
            if region.bend:
                if region.angle[1] - region.angle[0] > TAU - 0.05:
                    raise ClosedOn(link.at)
                radii[link.there] = neutral(region)
            else:
                matrix = _in_plane(matrix, link.way, region)
            charts.at[link.there] = matrix, point, flat
            charts.order.append((link.there, link))
            waiting.append(link.there)
    return Developed(skins, charts, radii, apart)


def _in_plane(matrix: Array, way: Array, region: Region) -> Array:
    """The map of a flat, exact in its own plane: turns do not add up their rounding."""
    normal = region.axes[2]
    along = way - (way @ normal) * normal
    along /= np.linalg.norm(along)
    flat_along = matrix @ along
    flat_along /= np.linalg.norm(flat_along)
    across = np.cross(normal, along)
    # seen on side A a plane is not mirrored
    flat_across = np.array((-flat_along[1], flat_along[0]))
    found: Array = np.outer(flat_along, along) + np.outer(flat_across, across)
    return found


def _slit(skins: Skins, place_: Sequence[float] | None) -> set[frozenset[int]]:
    if place_ is None:
        return set()
    at = np.array(place_, float)
    links = [link for own in skins.links.values() for link in own]
    if not links:
        return set()

    def apart(link: Link) -> float:
        ends = skins.solid.edges[link.edge].points[[0, -1]]
        along = np.clip((at - link.at) @ link.way, *sorted((ends - link.at) @ link.way))
        return float(np.linalg.norm(at - link.at - along * link.way))

    nearest = min(links, key=apart)
    return {frozenset((nearest.here, nearest.there))}


@dataclass(frozen=True, eq=False)
class Piece:
    """A stretch of a skin's boundary in the flat: its *segments*, the *region* and *edge* that it came from, and the face
    beyond."""

    segments: tuple[Segment, ...]
    region: int
    edge: int
    beyond: int


def boundary(flat: Developed, side: int) -> list[Piece]:
    """What bounds a side of the sheet, developed."""
    solid = flat.skins.solid
    own_side: dict[int, tuple[int, int]] = {}
    bare: set[int] = set()
    for region in flat.regions:
        for s in (A, B):
            for face in region.faces[s]:
                own_side[face] = region.number, s
        if region.bend and not region.faces[side]:
            bare.add(region.number)
    joined = _joined_by(flat)
    found = []
    for region in flat.regions:
        shown = side if region.faces[side] else 1 - side
        for face in region.faces[shown]:
            for number in solid.faces[face].edges:
                edge = solid.edges[number]
                other = next((n for n in edge.faces if n != face), None)
                if other is None:
                    continue
                beside = own_side.get(other)
                if beside is not None and beside[1] == shown:
                    pair = frozenset((region.number, beside[0]))
                    if len(pair) == 1 or (number in joined.get(pair, ())):
                        continue
                    if any({frozenset((region.number, b)), frozenset((beside[0], b))} <= joined.keys() for b in bare):
                        continue
                found.append(Piece(segments_of(flat, region, face, edge), region.number, number, other))
    return found


def _joined_by(flat: Developed) -> dict[frozenset[int], set[int]]:
    """The edges along which placed regions go over into one another."""
    found: dict[frozenset[int], set[int]] = {}
    for links in flat.skins.links.values():
        for link in links:
            pair = frozenset((link.here, link.there))
            if pair not in flat.slit:
                found.setdefault(pair, set()).add(link.edge)
    return found


def _point(row: Array) -> Point:
    return float(row[0]), float(row[1])


def segments_of(flat: Developed, region: Region, face: int, edge: Edge) -> tuple[Segment, ...]:
    """An edge of a face in the flat."""
    points = flat.of(region.number, edge.points, face)
    start, end = _point(points[0]), _point(points[-1])
    if edge.is_line and not region.bend:
        return (Line(start, end),)
    if edge.is_circle and not region.bend:
        circle = edge.curve.Circle()
        centre3, axis = circle.Location(), circle.Axis().Direction()
        centre = flat.of(region.number, np.array(((centre3.X(), centre3.Y(), centre3.Z()),)))[0]
        way = math.copysign(1, float(np.array((axis.X(), axis.Y(), axis.Z())) @ region.axes[2]))
        if abs(edge.high - edge.low) >= TAU - 1e-9:
            end = start
        return (Arc(start, end, _point(centre), way * (edge.high - edge.low)),)
    straight = _straight(points)
    if straight:
        return (Line(start, end),)
    return _fitted(flat, region, face, edge, points)


def _straight(points: Array) -> bool:
    size = float(np.linalg.norm(points[-1] - points[0]))
    if size < 1e-9:
        return False
    unit = (points[-1] - points[0]) / size
    beside = (points - points[0]) @ np.array((-unit[1], unit[0]))
    return bool(np.abs(beside).max() <= _STRAIGHT)


def _fitted(flat: Developed, region: Region, face: int, edge: Edge, points: Array) -> tuple[Segment, ...]:
    if not region.bend:
        round_ = circle_through(points, _STRAIGHT)
        if round_ is not None:
            return (_arc(points, _point(round_[0])),)

    def course(t: Array) -> tuple[Array, Array]:
        at, slope = edge.at(t)
        own = flat.of(region.number, at, face)
        matrix, origin, _ = flat.charts.at[region.number]
        if not region.bend:
            return own, slope @ matrix.T
        across, along = matrix @ region.tangent(origin), matrix @ region.axes[2]
        beside = (at - region.origin) @ region.axes.T
        size = beside[:, 0] ** 2 + beside[:, 1] ** 2
        moved = slope @ region.axes.T
        turning = (beside[:, 0] * moved[:, 1] - beside[:, 1] * moved[:, 0]) / size
        return own, np.outer(turning * flat.neutral[region.number], across) + np.outer(moved[:, 2], along)

    from OCP.GeomAbs import GeomAbs_C2
    from OCP.TColStd import TColStd_Array1OfReal

    count = edge.curve.NbIntervals(GeomAbs_C2)
    breaks = TColStd_Array1OfReal(1, count + 1)
    edge.curve.Intervals(breaks, GeomAbs_C2)
    at = np.array([breaks.Value(n) for n in range(1, count + 2)])
    if edge.is_circle:
        at = np.linspace(edge.low, edge.high, max(2, math.ceil((edge.high - edge.low) / (TAU / 4)) + 1))
    rows = fit_beziers(course, at, FITTED)
    return tuple(Cubic(*(_point(p) for p in row)) for row in rows)


def _arc(points: Array, centre: Point) -> Arc:
    beside = points - np.array(centre)
    turns = np.unwrap(np.arctan2(beside[:, 1], beside[:, 0]))
    start, end = _point(points[0]), _point(points[-1])
    sweep = float(turns[-1] - turns[0])
    if abs(abs(sweep) - TAU) < 1e-6:
        end, sweep = start, math.copysign(TAU, sweep)
    return Arc(start, end, centre, sweep)


@dataclass(frozen=True, eq=False)
class Bound:
    """A closed contour of a side, the faces beyond it, whether it runs on a bend, and the flat that all of it is on, if any."""

    contour: Contour
    beyond: frozenset[int]
    bent: bool = False
    flat: int | None = None


def bounds(flat: Developed, side: int, solid: SolidFaces) -> list[Bound]:
    """The closed contours of a side.

    :raises ValueError: when they do not close, with the number of open ends.
    """
    pieces = boundary(flat, side)
    bends = {region.number for region in flat.regions if region.bend}
    made: list[Bound] = []
    loose: list[Piece] = []
    for chain in _chained(pieces, solid):
        segments = [segment for piece in chain for segment in piece.segments]
        if math.dist(segments[-1].end, segments[0].start) <= 10 * JOINED:
            made.append(_bound(segments, chain, bends))
        else:
            loose += chain
    if loose:
        found = strung([segment for piece in loose for segment in piece.segments], gap=10 * JOINED)
        if found.open:
            raise ValueError(len(found.open))
        made += [_bound(own.segments, loose, bends) for own in found.closed]
    return made


def _bound(segments: Sequence[Segment], pieces: Sequence[Piece], bends: set[int]) -> Bound:
    regions = {own.region for own in pieces}
    alone = next(iter(regions)) if len(regions) == 1 and not regions & bends else None
    return Bound(tidied(segments), frozenset(own.beyond for own in pieces), bool(regions & bends), alone)


def _chained(pieces: Sequence[Piece], solid: SolidFaces) -> list[list[Piece]]:
    """Pieces end to end, from vertex to vertex of the solid; where a vertex has more than two, by their places in the flat."""
    ends: dict[tuple[int, int, int], list[tuple[int, int]]] = {}

    def key(n: int, which: int) -> tuple[int, int, int]:
        piece = pieces[n]
        vertex = solid.edges[piece.edge].vertices[which]
        x, y = piece.segments[-1].end if which else piece.segments[0].start
        return vertex, round(x * 50), round(y * 50)

    for n in range(len(pieces)):
        for which in (0, 1):
            vertex, x, y = key(n, which)
            near = next((own for i in (0, -1, 1) for j in (0, -1, 1) if (own := (vertex, x + i, y + j)) in ends), None)
            ends.setdefault(near or (vertex, x, y), []).append((n, which))
    partner: dict[tuple[int, int], tuple[int, int]] = {}
    for rows in ends.values():
        if len(rows) == 2:
            partner[rows[0]], partner[rows[1]] = rows[1], rows[0]
    used: set[int] = set()
    found = []
    starts = [(n, w) for n in range(len(pieces)) for w in (0, 1) if (n, w) not in partner] + [
        (n, 0) for n in range(len(pieces))
    ]
    for n, which in starts:
        if n in used:
            continue
        chain: list[Piece] = []
        at: tuple[int, int] | None = (n, which)
        while at is not None and at[0] not in used:
            number, begin = at
            used.add(number)
            piece = pieces[number]
            back = tuple(segment.reversed() for segment in reversed(piece.segments))
            chain.append(piece if begin == 0 else replace(piece, segments=back))
            at = partner.get((number, 1 - begin))
        found.append(chain)
    return found


def tidied(segments: Sequence[Segment]) -> Contour:
    """A closed contour whose ends meet to the last bit, without segments of no length; lines in line with one another are one
    line, and arcs of one circle one arc."""
    rows = [own for own in segments if own.length > 1e-7]
    merged: list[Segment] = []
    for own in rows:
        last = merged[-1] if merged else None
        together = _together(last, own) if last is not None else None
        if together is not None:
            merged[-1] = together
        else:
            merged.append(own)
    while len(merged) > 1:
        together = _together(merged[-1], merged[0])
        if together is None:
            break
        merged = [together, *merged[1:-1]]
    if len(merged) == 1:
        return Contour((_whole(merged[0]),))
    made: list[Segment] = []
    for n, own in enumerate(merged):
        start = made[-1].end if made else own.start
        end = made[0].start if n == len(merged) - 1 else own.end
        made.append(_ended(own, start, end))
    return Contour(tuple(made))


def _whole(own: Segment) -> Segment:
    if isinstance(own, Arc):
        return Arc(own.start, own.start, own.centre, math.copysign(TAU, own.sweep))
    return own


def _ended(own: Segment, start: Point, end: Point) -> Segment:
    if isinstance(own, Line):
        return Line(start, end)
    if isinstance(own, Arc):
        return Arc(start, end, own.centre, own.sweep)
    return Cubic(start, own.first, own.second, end)


def _together(one: Segment, other: Segment) -> Segment | None:
    """Two segments as one line or arc, where they are that."""
    if isinstance(one, Line) and isinstance(other, Line):
        ax, ay = one.end[0] - one.start[0], one.end[1] - one.start[1]
        bx, by = other.end[0] - other.start[0], other.end[1] - other.start[1]
        reach = math.hypot(ax + bx, ay + by)
        if reach > 0 and ax * bx + ay * by > 0 and abs(ax * by - ay * bx) / reach <= 1e-6:
            return Line(one.start, other.end)
        return None
    if (
        isinstance(one, Arc) and isinstance(other, Arc)
        and math.dist(one.centre, other.centre) <= 10 * ONE_CIRCLE
        and abs(one.radius - other.radius) <= 10 * ONE_CIRCLE
        and one.sweep * other.sweep > 0
        and abs(one.sweep + other.sweep) <= TAU + 1e-6
    ):  # fmt: skip
        return Arc(one.start, other.end, one.centre, one.sweep + other.sweep)
    return None
