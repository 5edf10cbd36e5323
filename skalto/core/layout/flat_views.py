"""Flat patterns put on sheets."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from skalto.core.geometry import Box
from skalto.core.layout.arrangement import fitting_limit, free_place, room_for_views
from skalto.core.quantities import FULL_SIZE, Scale, largest_preferred
from skalto.core.sheet_metal.facts import PatternFacts
from skalto.core.sheets.content import FlatContent
from skalto.core.sheets.sheet import SheetSpec, ViewSpec

_FORMATS = ("A4", "A3", "A2", "A1", "A0")
_BESIDE = 160.0
"""The room that a table of bends takes beside a view, mm."""


def new_flat(
    view_id: str, source: str, content: FlatContent, facts: PatternFacts, sheet: SheetSpec, taken: Sequence[Box]
) -> tuple[ViewSpec, Scale]:
    """A flat pattern for a sheet in free space, and the scale that the sheet then has: on an empty sheet 1:1 where it fits,
    else the largest scale of ISO 5455 that does."""
    size = np.array((facts.width, facts.height))
    within = room_for_views(sheet)
    limit = fitting_limit(size, within)
    scale, empty = sheet.scale, not sheet.views
    if empty or scale > limit:
        scale = FULL_SIZE if limit >= 1 else largest_preferred(float(limit))
    view = ViewSpec(
        id=view_id, source=source, name=facts.name, content=content, scale=scale,
        overrides=frozenset() if empty or scale == sheet.scale else frozenset({"scale"}),
        anchor=(facts.width / 2, facts.height / 2), place=free_place(size * float(scale), taken, within),
    )  # fmt: skip
    return view, scale if empty else sheet.scale


def first_flat_sheet(sheet_id: str, name: str, facts: PatternFacts) -> SheetSpec:
    """A sheet for a pattern: of the smallest format on which it fits 1:1 with its table beside it, else A0."""
    found = SheetSpec(id=sheet_id, name=name, format=_FORMATS[-1])
    for own in _FORMATS:
        sheet = SheetSpec(id=sheet_id, name=name, format=own)
        x0, y0, x1, y1 = room_for_views(sheet)
        if facts.width + (_BESIDE if facts.bends else 0) <= x1 - x0 and facts.height <= y1 - y0:
            return sheet
    return found
