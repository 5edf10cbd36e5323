"""How dimensions are drawn: in ISO 129-1's manner, or in ASME's."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from skalto.core.annotation.dimension_values import Measured
from skalto.core.annotation.pencil import ARROW_LENGTH, Pencil
from skalto.core.geometry import Array
from skalto.core.ids import ShortId
from skalto.core.lettering import length
from skalto.core.quantities import format_mm
from skalto.core.sheets.annotations import Dimension, DimensionKind

LETTERING = 3.5
"""Height of figures, mm (ISO 3098)."""

GAP, OVERSHOOT, ABOVE = 1.0, 2.0, 0.9
"""Extension lines begin this far from the edge and reach this far past the dimension line; figures stand this far above
it; mm (ISO 129-1, from memory)."""


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

    id: ShortId
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
    d = measured.along
    first, last = (0, 1) if (measured.points[1] - measured.points[0]) @ d >= 0 else (1, 0)
    p, q = measured.points[first], measured.points[last]
    n = np.array((-d[1], d[0]))
    reach = (max if dimension.offset >= 0 else min)(float(p @ n), float(q @ n)) + dimension.offset
    a, b = p + n * (reach - p @ n), q + n * (reach - q @ n)
    for point, foot in ((measured.foot(first, n, reach), a), (measured.foot(last, n, reach), b)):
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
