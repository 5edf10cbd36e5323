"""What falls out of a plate: the plate without what the beam took, and each piece held against the part that it should be."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from pydantic import BaseModel, ConfigDict

from skalto.core.cutter.tracks import Track
from skalto.core.cutting.cut_paths import PlacedPart

PIECE_LIMIT_UM = 20.0
"""What a piece may be off its part before it fails, µm."""
_ROUND = 12
_FINE = 5e-4
_STEP = 0.05
"""So far apart, mm, are the places where the cut beside a part that hangs is measured."""
_SPECK = 1e-3
"""Pieces smaller than this, mm², are dust."""


class PieceReading(BaseModel):
    """A piece that fell out, or hangs by its tabs and is not cut along *uncut_mm*: the *part* that it is, '' for waste; its
    area, mm², box, mm; how far it is off, µm; how far inner corners, which keep the beam's radius, are off beside that, µm."""

    model_config = ConfigDict(frozen=True)

    part: str = ""
    name: str = ""
    area: float
    box: tuple[float, float, float, float]
    deviation_um: float | None = None
    corner_um: float = 0.0
    uncut_mm: float = 0.0


@dataclass(frozen=True, eq=False)
class Fallen:
    """The pieces as polygons, the *rest*, what stays of the plate, and what the beam *swept*, lines where it has no width."""

    pieces: tuple[Any, ...]
    rest: Any
    swept: Any


def fallen(plate: Any, cuts: Sequence[Track], kerf: float) -> Fallen:
    """Cut a plate: what the beam sweeps is gone; what does not hang on the plate's edge falls."""
    if not cuts:
        return Fallen((), plate, shapely.Polygon())
    lines = [shapely.LineString(own.points) for own in cuts]
    if kerf > 0:
        swept = shapely.union_all(shapely.buffer(lines, kerf / 2, quad_segs=_ROUND))
        parts = shapely.get_parts(plate.difference(swept)).tolist()
    else:
        swept = shapely.union_all(lines)
        edges = shapely.union_all([swept, plate.boundary])
        parts = [
            own for own in shapely.get_parts(shapely.polygonize([edges])).tolist() if plate.covers(own.representative_point())
        ]
        parts = [part for part in parts if part.geom_type == "Polygon"]
    edge = plate.exterior if plate.geom_type == "Polygon" else plate.boundary
    shapely.prepare(edge)
    parts = [own for own in parts if own.geom_type == "Polygon" and own.area > _SPECK]
    held = [own for own in parts if shapely.dwithin(edge, own, 1e-9)]
    free = [own for own in parts if not shapely.dwithin(edge, own, 1e-9)]
    return Fallen(tuple(free), shapely.union_all(held), swept)


def off_by(piece: Any, part: Any) -> float:
    """The largest distance between the outlines of two areas, mm: from the corners of each to the other."""
    a, b = piece.boundary, part.boundary
    shapely.prepare(a)
    shapely.prepare(b)
    one = shapely.distance(b, shapely.points(shapely.get_coordinates(_dense(a))))
    other = shapely.distance(a, shapely.points(shapely.get_coordinates(_dense(b))))
    return float(max(one.max(initial=0.0), other.max(initial=0.0)))


def _dense(line: Any) -> Any:
    """With more points on long straight stretches, so that none is far from a corner of its own."""
    return shapely.segmentize(line, max(line.length / 400, 0.5))


def reachable(part: Any, kerf: float) -> Any:
    """What a round beam can make of a part: its inner corners keep the beam's radius."""
    if kerf <= 0:
        return part
    return part.buffer(kerf / 2, quad_segs=_ROUND * 2, join_style="mitre", mitre_limit=10).buffer(
        -kerf / 2, quad_segs=_ROUND * 2
    )


def _openings(area: Any) -> int:
    return sum(len(own.interiors) for own in shapely.get_parts(area).tolist() if own.geom_type == "Polygon")


def matched(pieces: Sequence[Any], parts: Sequence[PlacedPart], kerf: float) -> tuple[list[PieceReading], list[str], list[str]]:
    """Pieces with the parts that they are; parts that are *missing*; parts that are *merged* with others or with the plate."""
    wanted = [(part, part.profile.polygon(_FINE)) for part in parts]
    tree = shapely.STRtree([own for _, own in wanted])
    owner: dict[int, int] = {}
    hosts: dict[int, list[int]] = {}
    for number, piece in enumerate(pieces):
        for k in tree.query(piece, predicate="intersects").tolist():
            common = piece.intersection(wanted[k][1]).area
            if common > 0.5 * wanted[k][1].area:
                hosts.setdefault(number, []).append(k)
    for number, rows in hosts.items():
        if len(rows) == 1:
            owner[rows[0]] = number
    readings = []
    taken = {number: k for k, number in owner.items()}
    for number, piece in enumerate(pieces):
        k = taken.get(number)
        if k is None:
            readings.append(PieceReading(area=piece.area, box=piece.bounds))
            continue
        part, area = wanted[k]
        best = reachable(area, kerf)
        if _openings(best) != _openings(area):
            # an opening that no beam of this width can make is not there, which is no matter of a radius
            best = area
        readings.append(
            PieceReading(
                part=part.id, name=part.name, area=piece.area, box=piece.bounds, deviation_um=off_by(piece, best) * 1000,
                corner_um=off_by(best, area) * 1000,
            )
        )  # fmt: skip
    merged = [wanted[k][0].id for rows in hosts.values() if len(rows) > 1 for k in rows]
    missing = [part.id for n, (part, _) in enumerate(wanted) if n not in owner and part.id not in merged]
    return readings, missing, merged


def hanging(part: PlacedPart, swept: Any, kerf: float) -> PieceReading:
    """A part that tabs hold in the plate: how far the cut beside it is off where there is one, how deep the beam went into
    it, and along how much of its contours, mm, there is no cut."""
    area = part.profile.polygon(_FINE)
    best = reachable(area, kerf)
    edge = swept.boundary if kerf > 0 else swept
    shapely.prepare(edge)
    points = shapely.get_coordinates(shapely.segmentize(best.boundary, _STEP))
    off = shapely.distance(edge, shapely.points(points))
    cut = off <= PIECE_LIMIT_UM / 1000
    steps = np.hypot(*np.diff(points, axis=0).T)
    # a step from one contour to the next is none
    uncut = float(steps[~cut[1:] & ~cut[:-1] & (steps <= 2 * _STEP)].sum())
    # beside a tab the beam ends round: what is within its width of one tells nothing of how the cut lies
    near = np.convolve(~cut, np.ones(2 * max(1, round(kerf / _STEP)) + 1), "same") > 0
    inside = swept.intersection(best)
    depth = (
        shapely.distance(best.boundary, shapely.points(shapely.get_coordinates(_dense(inside))))
        if not inside.is_empty
        else np.zeros(1)
    )
    deepest = float(depth.max(initial=0.0))
    worst = max(float(off[~near].max(initial=0.0)), deepest if inside.area or kerf == 0 else 0.0)
    return PieceReading(
        part=part.id, name=part.name, area=area.area, box=area.bounds, deviation_um=worst * 1000,
        corner_um=off_by(best, area) * 1000, uncut_mm=uncut,
    )  # fmt: skip
