"""Which dimension is meant by edges that were picked and a place for the figure, and by a figure that was dragged."""

from __future__ import annotations

import math

import numpy as np

from skalto.core.annotation.dimension_values import Frame, Measured, measure
from skalto.core.annotation.edge_references import SourceFacts, resolve
from skalto.core.errors import InputError
from skalto.core.geometry import Array, Point
from skalto.core.sheets.annotations import Dimension, DimensionKind, Ref


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
    trial = Dimension(id="trial", kind=DimensionKind.ALIGNED, first=first, second=second)
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
