"""Remnants: plates with an outline of their own, and holes in them, out of a drawing."""

from __future__ import annotations

from collections.abc import Sequence

from skalto.core.cutting.choices import Plate
from skalto.core.errors import InputError
from skalto.core.geometry.profile import Profile

CHORD = 0.05
"""How near, mm, the corners of a remnant keep to its outline."""


def remnant_of(plate: Plate, parts: Sequence[Profile], name: str) -> Plate:
    """A plate with the outline of the largest part of a drawing, moved to its lower left corner, and its openings as holes.

    :raises InputError: where the drawing has no closed outline, or its edge margin leaves nothing of it.
    """
    if not parts:
        raise InputError(f"{name} has no closed outline: a remnant needs one.")
    own = max(parts, key=lambda part: part.outline.area)
    x0, y0, x1, y1 = own.box
    rings = tuple(
        tuple((round(x - x0, 4), round(y - y0, 4)) for x, y in contour.chords(CHORD)) for contour in own.contours
    )  # fmt: skip
    if 2 * plate.edge >= min(x1 - x0, y1 - y0):
        raise InputError(f"An edge margin of {plate.edge:g} mm leaves nothing of {name}: make it smaller first.")
    fields = {"width": round(x1 - x0, 4), "height": round(y1 - y0, 4), "remnant": rings}
    return Plate.model_validate(plate.model_dump() | fields)
