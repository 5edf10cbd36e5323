"""Dimensions: what they measure in the model, and how they are drawn (ISO 129-1, or in ASME manner).

The value is the model's, never the paper's: it comes from the three-dimensional edges, the drawing only from where they fall.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from skalto.core.artwork import Array, Similarity
from skalto.core.errors import InputError
from skalto.core.lettering import length
from skalto.core.models.features import PartEdges, placed_edges
from skalto.core.models.model import Component, ModelTree
from skalto.core.projection.reference import ReferenceLength
from skalto.core.quantities import format_mm
from skalto.core.sheets.annotations import Dimension, DimensionKind, Ref
from skalto.core.sheets.pencil import ARROW_LENGTH, Pencil, Point

LETTERING = 3.5
"""Height of figures, mm (ISO 3098)."""

GAP, OVERSHOOT, ABOVE = 1.0, 2.0, 0.9
"""Extension lines begin this far from the edge and reach this far past the dimension line; figures stand this far above
it; mm (ISO 129-1, from memory)."""

_SAME = 1e-6


@dataclass(eq=False)
class SourceFacts:
    """What is known of a source without its geometry: the tree, and every part's straight and circular edges."""

    tree: ModelTree
    edges: Sequence[PartEdges]
    _placed: dict[str, PartEdges] = field(default_factory=dict)

    @cached_property
    def leaves(self) -> dict[str, Component]:
        return {leaf.path: leaf for leaf in self.tree.leaves()}

    def of(self, path: str) -> PartEdges | None:
        """A component's edges in the model's axes; None when there is no such component."""
        if path not in self._placed:
            leaf = self.leaves.get(path)
            if leaf is None or leaf.shape is None:
                return None
            self._placed[path] = placed_edges(self.edges[leaf.shape], leaf)
        return self._placed[path]


def resolve(ref: Ref, facts: SourceFacts) -> Array | None:
    """Where the edge of a reference is now: (6,) both ends of a line or (7,) a circle; None when it is lost.

    It is found by its geometry, else by its number if it is still the same kind of edge, else as the nearest of its
    kind and size in the component.
    """
    own = facts.of(ref.component)
    if own is None:
        return None
    wanted = np.array(ref.geometry)
    rows, numbers = (own.lines, own.line_edges) if ref.kind == "line" else (own.circles[:, :7], own.circle_edges)
    if not len(rows):
        return None
    off = np.abs(rows - wanted).max(axis=1)
    if ref.kind == "line":
        off = np.minimum(off, np.abs(rows[:, [3, 4, 5, 0, 1, 2]] - wanted).max(axis=1))
    nearest = int(np.argmin(off))
    if off[nearest] <= _SAME:
        return _oriented(rows[nearest], wanted, ref.kind)
    alike = _alike(rows, wanted, ref.kind)
    same_number = np.flatnonzero((numbers == ref.edge) & alike)
    if len(same_number):
        return _oriented(rows[same_number[0]], wanted, ref.kind)
    if alike.any():
        chosen = np.flatnonzero(alike)
        middle = (rows[chosen, :3] + rows[chosen, 3:6]) / 2 if ref.kind == "line" else rows[chosen, :3]
        at = (wanted[:3] + wanted[3:6]) / 2 if ref.kind == "line" else wanted[:3]
        return _oriented(rows[chosen[int(np.argmin(np.linalg.norm(middle - at, axis=1)))]], wanted, ref.kind)
    return None


def _alike(rows: Array, wanted: Array, kind: str) -> NDArray[np.bool_]:
    """Which edges are of the kind that is wanted: parallel lines, or circles of one axis direction and radius."""
    if kind == "line":
        d, w = rows[:, 3:6] - rows[:, :3], wanted[3:6] - wanted[:3]
        size = np.linalg.norm(d, axis=1) * np.linalg.norm(w)
        return np.asarray(np.abs(np.abs(d @ w) - size) <= 1e-9 * np.maximum(size, 1e-12))
    return np.asarray((np.abs(rows[:, 6] - wanted[6]) <= _SAME) & (np.abs(rows[:, 3:6] @ wanted[3:6]) > 1 - 1e-9))


def _oriented(row: Array, wanted: Array, kind: str) -> Array:
    """A line's ends in the order in which the reference has them."""
    if kind == "line" and (row[3:6] - row[:3]) @ (wanted[3:6] - wanted[:3]) < 0:
        return row[[3, 4, 5, 0, 1, 2]]
    return row


@dataclass(frozen=True, eq=False)
class Measured:
    """What a dimension says and hangs on: *value* mm or degrees, points on the sheet, and the direction in which it is
    measured there; for an angle *points* are the apex and a point on each side."""

    value: float
    points: tuple[Array, ...]
    along: Array
    sign: str = ""
    radius: float = 0.0


@dataclass(frozen=True, eq=False)
class Frame:
    """How a view lies: its axes in the model (3, 3) and where its plane goes on the sheet."""

    axes: Array
    by: Similarity
    box: tuple[float, float, float, float] | None = None
    lengths: tuple[ReferenceLength, ...] = ()

    def plane(self, point: Array) -> Array:
        return np.asarray(self.axes[:2] @ point)

    def sheet(self, point: Array) -> Array:
        """A model point on the sheet."""
        return self.by.points(self.plane(point))

    def direction(self, vector: Sequence[float] | Array) -> Array:
        """A direction of the plane as it lies on the sheet, of length 1."""
        turned = Similarity(turn=self.by.turn).vectors(np.array(vector, float))
        return np.asarray(turned / np.linalg.norm(turned))


def measure(dimension: Dimension, frame: Frame, facts: SourceFacts) -> Measured | None:
    """The value and the points of a dimension in a view; None when what it was attached to is no longer there."""
    if dimension.kind in (DimensionKind.WIDTH, DimensionKind.HEIGHT):
        return _overall(dimension.kind, frame)
    if dimension.first is None:
        return None
    first = resolve(dimension.first, facts)
    second = resolve(dimension.second, facts) if dimension.second else None
    if first is None or (dimension.second and second is None):
        return None
    if dimension.kind in (DimensionKind.DIAMETER, DimensionKind.RADIUS):
        return _round(dimension.kind, first, frame) if dimension.first.kind == "circle" else None
    if dimension.kind is DimensionKind.ANGLE:
        return None if second is None else _angle(first, second, dimension.angle, frame)
    return _linear(dimension, first, second, frame)


def _overall(kind: DimensionKind, frame: Frame) -> Measured | None:
    value = next((length.value for length in frame.lengths if length.kind == kind.value), None)
    if value is None or frame.box is None:
        return None
    x0, y0, x1, y1 = frame.box
    across = kind is DimensionKind.WIDTH
    a, b = ((x0, y0), (x1, y0)) if across else ((x0, y0), (x0, y1))
    return Measured(
        value, (frame.by.points(np.array(a)), frame.by.points(np.array(b))), frame.direction((1, 0) if across else (0, 1))
    )


def _round(kind: DimensionKind, circle: Array, frame: Frame) -> Measured | None:
    if abs(abs(circle[3:6] @ frame.axes[2]) - 1) > 1e-9:
        return None
    sign, times = ("Ø", 2) if kind is DimensionKind.DIAMETER else ("R", 1)
    return Measured(
        times * float(circle[6]), (frame.sheet(circle[:3]),), np.array((1.0, 0.0)), sign, float(circle[6]) * frame.by.scale
    )


def _ends(ref: Ref, row: Array, frame: Frame) -> tuple[Array, ...]:
    """The model points that a reference stands for: one, or both ends of a line or of a circle seen edge-on."""
    if ref.kind == "line":
        ends = (row[:3], row[3:6])
        return ends if ref.end is None else (ends[ref.end],)
    axis = row[3:6]
    if ref.end is None and abs(axis @ frame.axes[2]) < 1e-9:
        across = np.cross(frame.axes[2], axis)
        return row[:3] - across * row[6], row[:3] + across * row[6]
    return (row[:3],)


def _linear(dimension: Dimension, first: Array, second: Array | None, frame: Frame) -> Measured | None:
    assert dimension.first is not None
    a = _ends(dimension.first, first, frame)
    sign = "Ø" if dimension.first.kind == "circle" and len(a) == 2 and second is None else ""
    if second is None:
        if len(a) < 2:
            return None
        p, q = a[0], a[1]
    else:
        assert dimension.second is not None
        b = (second[:3],) if dimension.second.kind == "circle" else _ends(dimension.second, second, frame)
        if dimension.first.kind == "circle":
            a = (first[:3],)
        p, q = _nearest(a, b)
    dp = frame.plane(q) - frame.plane(p)
    if dimension.kind is DimensionKind.HORIZONTAL:
        value, along = abs(float(dp[0])), frame.direction((1, 0))
    elif dimension.kind is DimensionKind.VERTICAL:
        value, along = abs(float(dp[1])), frame.direction((0, 1))
    else:
        if np.hypot(*dp) < 1e-9:
            return None
        # true length: what is foreshortened on the sheet is not in the model
        value, along = float(np.linalg.norm(q - p)), frame.direction(dp)
    return Measured(value, (frame.sheet(p), frame.sheet(q)), along, sign)


def _nearest(a: tuple[Array, ...], b: tuple[Array, ...]) -> tuple[Array, Array]:
    """The points between which a distance is meant: of a line and a point, or of two parallel lines, the square one."""
    if len(a) == 1 and len(b) == 1:
        return a[0], b[0]
    if len(a) == 2:
        point = b[0]
        along = (a[1] - a[0]) / np.linalg.norm(a[1] - a[0])
        return a[0] + along * ((point - a[0]) @ along), point
    point = a[0]
    along = (b[1] - b[0]) / np.linalg.norm(b[1] - b[0])
    return point, b[0] + along * ((point - b[0]) @ along)


def _angle(first: Array, second: Array, toward: float, frame: Frame) -> Measured | None:
    """The angle between two lines in the quadrant whose middle points *toward* (degrees)."""
    if len(first) != 6 or len(second) != 6:
        return None
    p, u = frame.sheet(first[:3]), frame.sheet(first[3:6]) - frame.sheet(first[:3])
    q, v = frame.sheet(second[:3]), frame.sheet(second[3:6]) - frame.sheet(second[:3])
    cross = u[0] * v[1] - u[1] * v[0]
    if abs(cross) < 1e-9 * np.hypot(*u) * np.hypot(*v):
        return None
    apex = p + u * (((q - p)[0] * v[1] - (q - p)[1] * v[0]) / cross)
    u, v = u / np.hypot(*u), v / np.hypot(*v)
    wanted = np.array((math.cos(math.radians(toward)), math.sin(math.radians(toward))))
    su, sv = max(
        ((i, j) for i in (1, -1) for j in (1, -1)),
        key=lambda s: float((s[0] * u + s[1] * v) @ wanted / np.hypot(*(s[0] * u + s[1] * v))),
    )
    d1, d2 = first[3:6] - first[:3], second[3:6] - second[:3]
    cosine = su * sv * (d1 @ d2) / (np.linalg.norm(d1) * np.linalg.norm(d2))
    return Measured(math.degrees(math.acos(max(-1.0, min(1.0, float(cosine))))), (apex, apex + su * u, apex + sv * v), wanted)


def figure(dimension: Dimension, measured: Measured) -> str:
    """What stands on the dimension line but for stacked tolerances."""
    unit = "°" if dimension.kind is DimensionKind.ANGLE else ""
    text = f"{dimension.prefix}{measured.sign}{format_mm(measured.value, dimension.decimals)}{unit}"
    if dimension.tolerance and "/" not in dimension.tolerance:
        text += ("" if dimension.tolerance[0] == "±" else " ") + dimension.tolerance
    return text + dimension.suffix


def _stacked(dimension: Dimension) -> tuple[str, str] | None:
    if "/" not in dimension.tolerance:
        return None
    upper, lower = (part.strip() for part in dimension.tolerance.split("/", 1))
    return (upper if upper[0] in "+-" else f"+{upper}"), (lower if lower[0] in "+-" else f"-{lower}")


@dataclass(frozen=True, eq=False)
class DrawnDimension:
    """A dimension on the sheet: its figure, the box of the figure's corners (4, 2), and along what it can be shifted:
    *normal* moves its line away, *along* its figure; *centre* is where a leader turns about."""

    id: str
    text: str
    value: float
    corners: Array
    along: Array
    normal: Array
    centre: Array | None


def _upright(angle: float) -> float:
    """The angle at which a text along a line is read from below or from the right."""
    angle = math.remainder(angle, 2 * math.pi)
    if angle > math.pi / 2 - 1e-9 + 1e-6:
        angle -= math.pi
    elif angle <= -math.pi / 2 + 1e-6:
        angle += math.pi
    return angle


def _write(pencil: Pencil, dimension: Dimension, text: str, middle: Array, angle: float, height: float = LETTERING) -> Array:
    """The figure centred at the middle of its baseline; its corners."""
    stacked = _stacked(dimension)
    small = height * 0.7
    extra = max((length(t, small) for t in stacked), default=0.0) + 0.6 if stacked else 0.0
    total = length(text, height) + extra
    d = np.array((math.cos(angle), math.sin(angle)))
    n = np.array((-d[1], d[0]))
    start = middle - d * total / 2
    pencil.text(text, start, height, angle)
    if stacked:
        at = start + d * (total - extra + 0.6)
        pencil.text(stacked[0], at + n * height * 0.62, small, angle)
        pencil.text(stacked[1], at - n * height * 0.3, small, angle)
    return np.array((start, start + d * total, start + d * total + n * height, start + n * height))


def draw(pencil: Pencil, dimension: Dimension, measured: Measured, asme: bool = False) -> DrawnDimension:
    """Draw a dimension in ISO 129-1's manner (figures over their line) or ASME's (level figures that break it)."""
    text = figure(dimension, measured)
    if dimension.kind in (DimensionKind.DIAMETER, DimensionKind.RADIUS):
        corners, normal, centre = _draw_leader(pencil, dimension, measured, text)
    elif dimension.kind is DimensionKind.ANGLE:
        corners, normal, centre = _draw_angle(pencil, dimension, measured, text)
    else:
        corners, normal = _draw_linear(pencil, dimension, measured, text, asme)
        centre = None
    return DrawnDimension(dimension.id, text, measured.value, corners, measured.along, normal, centre)


def _draw_linear(pencil: Pencil, dimension: Dimension, measured: Measured, text: str, asme: bool) -> tuple[Array, Array]:
    p, q = measured.points
    d = measured.along
    if (q - p) @ d < 0:
        p, q = q, p
    n = np.array((-d[1], d[0]))
    reach = (max if dimension.offset >= 0 else min)(float(p @ n), float(q @ n)) + dimension.offset
    a, b = p + n * (reach - p @ n), q + n * (reach - q @ n)
    for point, foot in ((p, a), (q, b)):
        away = foot - point
        size = float(np.hypot(*away))
        if size > GAP:
            unit = away / size
            pencil.line(point + unit * GAP, foot + unit * OVERSHOOT)
    room = float(np.hypot(*(b - a)))
    angle = 0.0 if asme else _upright(math.atan2(d[1], d[0]))
    height = LETTERING
    own = length(text, height) + (
        length(max(_stacked(dimension) or ("",), key=len), height * 0.7) + 0.6 if _stacked(dimension) else 0
    )
    inside = room >= 2 * ARROW_LENGTH + 2
    # level figures on an upright line take their height of it
    taken = own * abs(float(d[0])) + height * abs(float(d[1])) if asme else own
    fits = taken + (2 * ARROW_LENGTH + 2 if asme else 1.0) <= room
    middle = (a + b) / 2 + d * dimension.along
    up = np.array((-math.sin(angle), math.cos(angle)))
    if not fits and not dimension.along:
        # beside the extension line, on the line drawn on
        middle = b + d * (taken / 2 + ARROW_LENGTH * 2 + 1)
    shifted = abs(float((middle - (a + b) / 2) @ d)) > room / 2
    if asme:
        half = taken / 2 + 1.0
        baseline = middle - np.array((0.0, height / 2))
        if shifted:
            pencil.line(a, b)
            beyond = 1.0 if (middle - a) @ d > 0 else -1.0
            pencil.line(b if beyond > 0 else a, middle - d * half * beyond)
        else:
            pencil.line(a, middle - d * half)
            pencil.line(middle + d * half, b)
    else:
        baseline = middle + up * ABOVE
        end = b if not shifted else middle + np.sign((middle - a) @ d) * d * own / 2
        pencil.line(a, b)
        if shifted:
            pencil.line(b if (middle - a) @ d > 0 else a, end)
    if inside:
        pencil.arrow(a, -d)
        pencil.arrow(b, d)
    else:
        for foot, way in ((a, d), (b, -d)):
            pencil.arrow(foot, way)
            pencil.line(foot, foot - way * 2 * ARROW_LENGTH)
    return _write(pencil, dimension, text, baseline, angle), n


def _draw_leader(pencil: Pencil, dimension: Dimension, measured: Measured, text: str) -> tuple[Array, Array, Array]:
    centre = measured.points[0]
    angle = math.radians(dimension.angle)
    way = np.array((math.cos(angle), math.sin(angle)))
    rim = centre + way * measured.radius
    elbow = centre + way * max(dimension.offset, measured.radius + 2.0)
    side = 1.0 if way[0] >= 0 else -1.0
    own = length(text, LETTERING) + 1.0
    pencil.line(rim, elbow)
    pencil.line(elbow, elbow + np.array((side * own, 0.0)))
    pencil.arrow(rim, -way)
    corners = _write(pencil, dimension, text, elbow + np.array((side * own / 2, ABOVE)), 0.0)
    return corners, way, centre


def _draw_angle(pencil: Pencil, dimension: Dimension, measured: Measured, text: str) -> tuple[Array, Array, Array]:
    apex, a, b = measured.points
    radius = max(abs(dimension.offset), 6.0)
    first, second = (math.atan2(*(v - apex)[::-1]) for v in (a, b))
    sweep = math.remainder(second - first, 2 * math.pi)
    start = first if sweep > 0 else second
    sweep = abs(sweep)
    pencil.arc(apex, radius, start % (2 * math.pi), sweep)
    for end, turn in ((start, -1.0), (start + sweep, 1.0)):
        tip = apex + radius * np.array((math.cos(end), math.sin(end)))
        pencil.line(apex, tip + 2.0 * np.array((math.cos(end), math.sin(end))))
        pencil.arrow(tip, turn * np.array((-math.sin(end), math.cos(end))))
    middle = start + sweep / 2
    way = np.array((math.cos(middle), math.sin(middle)))
    half = length(text, LETTERING) / 2
    corners = _write(
        pencil, dimension, text, apex + way * (radius + 1.5 + half * abs(way[0])) - np.array((0.0, LETTERING / 2)), 0.0
    )
    return corners, way, apex


def choose(
    frame: Frame, facts: SourceFacts, dimension_id: str, first: Ref, second: Ref | None, at: Point, kind: DimensionKind | None
) -> Dimension:
    """The dimension that is meant by what was picked and by where its figure was put, sheet mm.

    Without a *kind*: a circle gives its diameter, an arc its radius, lines that are not parallel their angle, else a
    distance: across or upright when the figure lies above, below or beside, along the edge otherwise.

    :raises InputError: when these edges have no such dimension in this view.
    """
    place = np.array(at, float)
    if kind is None:
        kind = _kind_meant(frame, facts, first, second, place)
    trial = Dimension(id=dimension_id, kind=kind, first=first, second=second)
    if kind is DimensionKind.ANGLE:
        measured = measure(trial, frame, facts)
        if measured is None:
            raise InputError("These two lines are parallel: take the distance between them instead.")
        return _turned(trial, place - measured.points[0])
    measured = measure(trial, frame, facts)
    if measured is None:
        raise InputError("These edges have no such length in this view: pick two points, a line, or a circle seen square.")
    if kind in (DimensionKind.DIAMETER, DimensionKind.RADIUS):
        return _turned(trial, place - measured.points[0])
    if measured.value < 1e-9:
        raise InputError("That length is nothing in this direction: put the figure to the other side, or pick other points.")
    d = measured.along
    n = np.array((-d[1], d[0]))
    reaches = [float(p @ n) for p in measured.points]
    high, low, here = max(reaches), min(reaches), float(place @ n)
    offset = here - high if here >= (high + low) / 2 else here - low
    return trial.model_copy(update={"offset": round(offset, 3)})


def _kind_meant(frame: Frame, facts: SourceFacts, first: Ref, second: Ref | None, place: Array) -> DimensionKind:
    row = resolve(first, facts)
    if row is None:
        raise InputError("This edge is no longer in the model: pick it anew.")
    if second is None and first.kind == "circle" and abs(row[3:6] @ frame.axes[2]) > 1 - 1e-9:
        own = facts.of(first.component)
        assert own is not None
        swept = own.circles[own.circle_edges == first.edge, 7]
        return DimensionKind.DIAMETER if not len(swept) or swept[0] > math.pi + 1e-6 else DimensionKind.RADIUS
    other = resolve(second, facts) if second else None
    whole = first.end is None and second is not None and second.end is None
    if whole and second is not None and first.kind == second.kind == "line" and other is not None:
        u, v = (frame.plane(r[3:6]) - frame.plane(r[:3]) for r in (row, other))
        if abs(u[0] * v[1] - u[1] * v[0]) > 1e-6 * np.hypot(*u) * np.hypot(*v):
            return DimensionKind.ANGLE
        return DimensionKind.ALIGNED
    trial = Dimension(id="", kind=DimensionKind.ALIGNED, first=first, second=second)
    measured = measure(trial, frame, facts)
    if measured is None:
        raise InputError("One point has no length: pick a second one.")
    across, upright = frame.direction((1, 0)), frame.direction((0, 1))
    if max(abs(measured.along @ across), abs(measured.along @ upright)) > 1 - 1e-9:
        return DimensionKind.ALIGNED
    xs, ys = [float(p @ across) for p in measured.points], [float(p @ upright) for p in measured.points]
    over, beside = not min(ys) <= place @ upright <= max(ys), not min(xs) <= place @ across <= max(xs)
    if over == beside:
        return DimensionKind.ALIGNED
    return DimensionKind.HORIZONTAL if over else DimensionKind.VERTICAL


def _turned(dimension: Dimension, away: Array) -> Dimension:
    """With its figure at a vector from its centre, mm."""
    angle = math.degrees(math.atan2(away[1], away[0]))
    return dimension.model_copy(update={"angle": round(angle, 3), "offset": round(float(np.hypot(*away)), 3)})


STILL = 2.0
"""A figure that is put within this of the middle of its line, mm, goes to the middle."""


def shifted(dimension: Dimension, measured: Measured, by: Point) -> Dimension:
    """The dimension with its figure moved by so many mm on the sheet: its line follows, its figure slides along."""
    move = np.array(by, float)
    if measured.radius or dimension.kind in (DimensionKind.DIAMETER, DimensionKind.RADIUS):
        angle = math.radians(dimension.angle)
        reach = max(dimension.offset, measured.radius + 2.0)
        away = np.array((math.cos(angle), math.sin(angle))) * reach + move
        return _turned(dimension, away)
    if dimension.kind is DimensionKind.ANGLE:
        way = measured.points[1] + measured.points[2] - 2 * measured.points[0]
        away = way / np.hypot(*way) * max(abs(dimension.offset), 6.0) + move
        return _turned(dimension, away)
    d = measured.along
    n = np.array((-d[1], d[0]))
    reaches = [float(p @ n) for p in measured.points]
    high, low = max(reaches), min(reaches)
    line = (high if dimension.offset >= 0 else low) + dimension.offset + float(move @ n)
    offset = line - high if line >= (high + low) / 2 else line - low
    along = dimension.along + float(move @ d)
    return dimension.model_copy(update={"offset": round(offset, 3), "along": 0.0 if abs(along) < STILL else round(along, 3)})
