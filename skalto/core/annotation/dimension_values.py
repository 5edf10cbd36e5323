"""What dimensions measure. The value is the model's, never the paper's: it comes from the three-dimensional edges, the drawing
only from where they fall."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from skalto.core.annotation.edge_references import SourceFacts, resolve
from skalto.core.artwork import Artwork, Beziers, Ellipses, Lines, Polylines
from skalto.core.geometry import Array, Similarity, bezier_at
from skalto.core.lengths import ReferenceLength
from skalto.core.sheets.annotations import Dimension, DimensionKind, Ref

_TOUCH = 1e-6
"""What lies this near to an extreme touches it, mm."""


@dataclass(frozen=True, eq=False)
class Measured:
    """What a dimension says and hangs on: *value* mm or degrees, points on the sheet, and the direction in which it is
    measured there; for an angle *points* are the apex and a point on each side. *spans* has for each point the ends
    (2, 2), on the sheet, of what it may slide along without changing the value, or None."""

    value: float
    points: tuple[Array, ...]
    along: Array
    sign: str = ""
    radius: float = 0.0
    spans: tuple[Array | None, ...] = ()

    def foot(self, number: int, normal: Array, reach: float) -> Array:
        """Where the extension line of a point begins whose dimension line lies *reach* along *normal*: as near to it as
        what is measured reaches."""
        point = self.points[number]
        span = self.spans[number] if number < len(self.spans) else None
        if span is None:
            return point
        low, high = sorted((span @ normal).tolist())
        return np.asarray(point + normal * (min(max(reach, low), high) - point @ normal))


@dataclass(frozen=True, eq=False)
class Frame:
    """How a view lies: its axes in the model (3, 3), where its plane goes on the sheet, and what is *seen* in the plane."""

    axes: Array
    by: Similarity
    box: tuple[float, float, float, float] | None = None
    lengths: tuple[ReferenceLength, ...] = ()
    seen: Artwork = field(default_factory=Artwork)

    def touching(self, axis: int, at: float) -> Array | None:
        """The ends (2, 2) of what is seen where a coordinate of the plane is *at*, an extreme of it; None without any."""
        found = []
        single = (part for item in self.seen for part in (item.parts() if isinstance(item, Polylines) else (item,)))
        for item in single:
            if not isinstance(item, Lines | Ellipses | Beziers) or not len(item):
                continue
            boxes = item.bounds()
            hit = np.abs(boxes[:, :, axis] - at).min(axis=1) <= _TOUCH
            if not hit.any():
                continue
            t = np.linspace(0.0, 1.0, 129)
            if isinstance(item, Lines):
                points = item.points[hit]
            elif isinstance(item, Ellipses):
                points = item.at(item.start[:, None] + item.sweep[:, None] * t)[hit]
            else:
                points = bezier_at(item.points[hit], t)
            off = np.abs(points[..., axis] - at)
            found.append(points[off <= off.min(axis=1, keepdims=True) + _TOUCH][:, 1 - axis])
        if not found:
            return None
        ends = np.full((2, 2), at)
        ends[:, 1 - axis] = min(f.min() for f in found), max(f.max() for f in found)
        return ends

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
    touched = [frame.touching(0 if across else 1, v) for v in ((x0, x1) if across else (y0, y1))]
    spans = tuple(None if ends is None else frame.by.points(ends) for ends in touched)
    points = (frame.by.points(np.array(a)), frame.by.points(np.array(b)))
    return Measured(value, points, frame.direction((1, 0) if across else (0, 1)), spans=spans)


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
    spans = tuple(_slides(ends, frame, along) for ends in ((a, b) if second is not None else ()))
    return Measured(value, (frame.sheet(p), frame.sheet(q)), along, sign, spans=spans)


def _slides(ends: tuple[Array, ...], frame: Frame, along: Array) -> Array | None:
    """Both ends of an edge on the sheet if it lies square to what is measured."""
    if len(ends) < 2:
        return None
    span = np.array([frame.sheet(end) for end in ends])
    way = span[1] - span[0]
    return span if abs(way @ along) <= 1e-9 * np.hypot(*way) else None


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
