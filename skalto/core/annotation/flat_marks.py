"""What is written on a flat pattern: a note at each bend line, the table of bends, the arrow along the grain."""

from __future__ import annotations

import math

import numpy as np

from skalto.core.annotation.dimension_values import Frame
from skalto.core.annotation.parts_table import LETTERING, ROW, draw_table
from skalto.core.annotation.pencil import Pencil
from skalto.core.artwork import EdgeClass
from skalto.core.geometry import Box, Point
from skalto.core.quantities import format_mm
from skalto.core.sheet_metal.facts import PatternFacts
from skalto.core.sheet_metal.pattern import Bend, trimmed

_HEADINGS = ("Bend", "Way", "Angle", "Radius", "Length", "Allowance", "Deduction", "Distance")
_WIDTHS = (12.0, 14.0, 15.0, 15.0, 18.0, 21.0, 21.0, 27.0)
_BESIDE = 1.0


def bend_notes(pencil: Pencil, facts: PatternFacts, frame: Frame, numbered: bool) -> None:
    """A note at the longest stretch of each bend line, along it, to be read from below or from the right (ISO 129-1, from
    memory)."""
    for bend, stretches in zip(facts.bends, facts.stretches, strict=True):
        longest = max(stretches, key=lambda own: math.dist(*own), default=bend.line)
        a, b = frame.by.points(np.array(longest))
        along = b - a
        angle = math.atan2(along[1], along[0])
        if not -math.pi / 2 + 1e-6 < angle <= math.pi / 2 + 1e-6:
            angle += math.pi if angle <= 0 else -math.pi
        beside = np.array((-math.sin(angle), math.cos(angle))) * _BESIDE
        text = f"{bend.number}  {bend.note}" if numbered else bend.note
        pencil.text(text, (a + b) / 2 + beside, LETTERING, angle, 0.5)


def _row(bend: Bend) -> tuple[str, ...]:
    return (
        str(bend.number), bend.direction, f"{trimmed(bend.angle)}°", format_mm(bend.radius), format_mm(bend.length),
        format_mm(bend.allowance, 3), "–" if bend.deduction is None else format_mm(bend.deduction, 3),
        f"{format_mm(bend.distance)} {bend.datum}",
    )  # fmt: skip


def bend_table_box(facts: PatternFacts, corner: Point) -> Box:
    """The box of the table with its upper left at *corner*."""
    return corner[0], corner[1] - (len(facts.bends) + 1) * ROW, corner[0] + sum(_WIDTHS), corner[1]


def bend_table(pencil: Pencil, facts: PatternFacts, corner: Point) -> Box:
    """The table of bends with its upper left at *corner*: lengths in mm, distances from the pattern's left or lower edge; its
    box."""
    box = bend_table_box(facts, corner)
    draw_table(pencil, _WIDTHS, [_HEADINGS, *(_row(bend) for bend in facts.bends)], box, upward=False)
    return box


def grain_arrow(pencil: Pencil, facts: PatternFacts, frame: Frame) -> None:
    """An arrow both ways along the pattern's x, with its word, in the pattern's largest clear circle."""
    x, y, radius = facts.clear
    size = min(1.4 * radius, 30 / frame.by.scale)
    a, b = frame.by.points(np.array(((x - size / 2, y), (x + size / 2, y))))
    pencil.line(a, b, EdgeClass.DIMENSION)
    pencil.arrow(a, a - b)
    pencil.arrow(b, b - a)
    angle = math.atan2(b[1] - a[1], b[0] - a[0])
    beside = np.array((-math.sin(angle), math.cos(angle))) * _BESIDE
    pencil.text("grain", (a + b) / 2 + beside, LETTERING, angle, 0.5)
