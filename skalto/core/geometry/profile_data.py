"""Profiles as plain data, to keep and to send: every number as it is."""

from __future__ import annotations

from typing import Any

from skalto.core.geometry.contour import Contour
from skalto.core.geometry.profile import Mark, Operation, Profile
from skalto.core.geometry.segments import Arc, Cubic, Line, Segment


def contour_data(contour: Contour) -> dict[str, Any]:
    """A contour: whether it is closed, where it starts, and its segments, each by a letter and numbers that end with its
    end."""
    rows: list[list[Any]] = []
    for segment in contour:
        if isinstance(segment, Line):
            rows.append(["L", *segment.start, *segment.end])
        elif isinstance(segment, Arc):
            rows.append(["A", *segment.start, *segment.centre, segment.sweep, *segment.end])
        else:
            rows.append(["C", *segment.start, *segment.first, *segment.second, *segment.end])
    return {"closed": contour.closed, "segments": rows}


def _segment(row: list[Any]) -> Segment:
    kind, x, y, *rest = row
    if kind == "L":
        return Line((x, y), (rest[0], rest[1]))
    if kind == "A":
        return Arc((x, y), (rest[3], rest[4]), (rest[0], rest[1]), rest[2])
    return Cubic((x, y), (rest[0], rest[1]), (rest[2], rest[3]), (rest[4], rest[5]))


def contour_from(data: dict[str, Any]) -> Contour:
    """What :func:`contour_data` gave."""
    return Contour(tuple(_segment(row) for row in data["segments"]), bool(data["closed"]))


def profile_data(profile: Profile) -> dict[str, Any]:
    """A profile with all that is known of it."""
    return {
        "name": profile.name, "material": profile.material, "thickness": profile.thickness,
        "outline": contour_data(profile.outline), "openings": [contour_data(own) for own in profile.openings],
        "marks": [{"operation": own.operation.value, **contour_data(own.course)} for own in profile.marks],
    }  # fmt: skip


def profile_from(data: dict[str, Any]) -> Profile:
    """What :func:`profile_data` gave."""
    return Profile(
        contour_from(data["outline"]), tuple(contour_from(own) for own in data["openings"]),
        tuple(Mark(contour_from(own), Operation(own["operation"])) for own in data["marks"]),
        data["name"], data["material"], data["thickness"],
    )  # fmt: skip
