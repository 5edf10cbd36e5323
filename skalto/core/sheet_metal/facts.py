"""What is known of a flat pattern, as plain data: for the page, tables, reports; and its lines as artwork."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from pydantic import BaseModel, ConfigDict

from skalto.core.artwork import Artwork, Beziers, EdgeClass, Ellipses, Item, Lines, Tags
from skalto.core.geometry.segments import Arc, Cubic, Line, Segment
from skalto.core.geometry.values import Point
from skalto.core.sheet_metal.feature_kinds import FeatureKind
from skalto.core.sheet_metal.pattern import Bend, FlatPattern, SheetKind

_CLASSES = {"up": EdgeClass.BEND_UP, "down": EdgeClass.BEND_DOWN}


class FeatureFacts(BaseModel):
    """A feature that is not cut through: what it is, the side that it is on, and its box, mm."""

    model_config = ConfigDict(frozen=True)

    kind: FeatureKind
    side: str
    box: tuple[float, float, float, float]


class PatternFacts(BaseModel):
    """A flat pattern without its contours, mm, mm², mm³, g; *width* and *height* as it lies, *holes* each x, y and diameter,
    *refolded* how far it is from the model folded up again, *stretches* of each bend's line that are on the sheet, and
    the largest *clear* circle between contours and bends, its centre and radius."""

    model_config = ConfigDict(frozen=True)

    name: str
    kind: SheetKind
    reason: str
    material: str = ""
    thickness: float
    width: float
    height: float
    smallest: tuple[float, float]
    area: float
    volume: float
    mass: float | None = None
    cut_length: float
    pierces: int
    bends: tuple[Bend, ...] = ()
    stretches: tuple[tuple[tuple[Point, Point], ...], ...] = ()
    holes: tuple[tuple[float, float, float], ...] = ()
    features: tuple[FeatureFacts, ...] = ()
    warnings: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()
    refolded: float = 0.0
    base: int = 0
    bases: tuple[tuple[int, float], ...] = ()
    rule: str = ""
    clear: tuple[float, float, float] = (0.0, 0.0, 0.0)


def facts_of(made: FlatPattern) -> PatternFacts:
    """What is known of a pattern."""
    width, height = made.box
    return PatternFacts(
        name=made.name, kind=made.kind, reason=made.reason, material=made.material, thickness=made.thickness, width=width,
        height=height, smallest=made.smallest_rectangle, area=made.area, volume=made.volume, mass=made.mass,
        cut_length=made.cut_length, pierces=made.pierces, bends=made.bends,
        stretches=tuple(tuple(made.bend_pieces(bend)) for bend in made.bends), holes=made.holes,
        features=tuple(FeatureFacts(kind=own.kind, side="ab"[own.side], box=own.outline.box) for own in made.features),
        warnings=made.warnings, notes=made.notes, refolded=made.refolded, base=made.base,
        bases=made.bases, rule=made.rule, clear=made.clear,
    )  # fmt: skip


def pattern_artwork(made: FlatPattern, component: str) -> Artwork:
    """A pattern's lines, mm: outline and openings as visible edges, bends and their limits in their own classes, what is sunk
    into side A as scored lines, what is formed or on side B as hidden edges."""
    items = _items(EdgeClass.VISIBLE, component, [s for own in (made.outline, *made.openings) for s in own])
    for edge_class, features in (
        (EdgeClass.SCORE, [own for own in made.features if own.side == 0]),
        (EdgeClass.HIDDEN, [own for own in made.features if own.side == 1]),
    ):
        items += _items(edge_class, component, [s for own in features for s in own.outline])
    for way, edge_class in _CLASSES.items():
        rows = [Line(*piece) for bend in made.bends if bend.direction == way for piece in made.bend_pieces(bend)]
        items += _items(edge_class, component, rows)
    limits = [Line(*p) for bend in made.bends for limit in bend.limits for p in made.bend_pieces(bend, limit)]
    return Artwork((*items, *_items(EdgeClass.BEND_LIMIT, component, limits)))


def _items(edge_class: EdgeClass, component: str, segments: Sequence[Segment]) -> list[Item]:
    tags = Tags(edge_class, component)
    lines = [(s.start, s.end) for s in segments if isinstance(s, Line)]
    arcs = [s for s in segments if isinstance(s, Arc)]
    cubics = [(s.start, s.first, s.second, s.end) for s in segments if isinstance(s, Cubic)]
    found: list[Item] = []
    if lines:
        found.append(Lines(tags, np.array(lines, float)))
    if arcs:
        # artwork's arcs run counter-clockwise
        arcs = [s if s.sweep > 0 else s.reversed() for s in arcs]
        centre = np.array([s.centre for s in arcs], float)
        major = np.array([s.start for s in arcs], float) - centre
        minor = np.stack((-major[:, 1], major[:, 0]), axis=1)
        sweep = np.array([s.sweep for s in arcs], float)
        found.append(Ellipses(tags, centre, major, minor, np.zeros(len(arcs)), sweep))
    if cubics:
        found.append(Beziers(tags, np.array(cubics, float)))
    return found


def sheet_edges(artwork: Artwork) -> tuple[np.ndarray, np.ndarray]:
    """Straight and circular edges of a pattern's lines, as if it lay at z = 0: lines (n, 6), both ends, and circles (m, 9),
    centre, axis, radius, swept angle, and 1 for whole circles, which are holes."""
    lines = [np.zeros((0, 6))]
    circles = [np.zeros((0, 9))]
    for item in artwork:
        if isinstance(item, Lines):
            flat = item.points
            zero = np.zeros(len(flat))
            lines.append(np.column_stack((flat[:, 0], zero, flat[:, 1], zero)))
        elif isinstance(item, Ellipses):
            count = len(item)
            whole = np.abs(item.sweep) > 2 * np.pi - 1e-9
            axis = np.tile((0.0, 0.0, 1.0), (count, 1))
            rows = (item.centre, np.zeros(count), axis, item.radii()[:, 0], np.abs(item.sweep), whole.astype(float))
            circles.append(np.column_stack(rows))
    return np.concatenate(lines), np.concatenate(circles)
