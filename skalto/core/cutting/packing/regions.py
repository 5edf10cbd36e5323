"""Where a piece may lie beside others: the plane's points at which it overlaps nothing (no-fit polygons; Minkowski sums by
pyclipper)."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import pyclipper
import shapely

from skalto.core.cutting.packing.pieces import Laying, Placed, grown, simpler
from skalto.core.geometry import Array

UNITS = 10000
"""Whole numbers to a millimetre."""
Path = list[tuple[int, int]]
Turned = tuple[str, float, bool]
"""A piece, how it is turned, and whether it is turned over."""
_NONZERO = pyclipper.PFT_NONZERO
_SLIVER = 1_000_000
_LEAST = 4
"""Areas smaller than this, in squares of the unit, are none."""


def _paths(area: Any) -> list[Path]:
    """The rings of a polygon, the outer one counter-clockwise, in whole numbers."""
    found: list[Path] = []
    for part in shapely.get_parts(area).tolist():
        if part.geom_type != "Polygon" or part.is_empty:
            continue
        part = shapely.orient_polygons(part) if hasattr(shapely, "orient_polygons") else part.normalize()
        for ring, outer in ((part.exterior, True), *((own, False) for own in part.interiors)):
            path = [(int(x), int(y)) for x, y in np.round(np.asarray(ring.coords)[:-1] * UNITS).tolist()]
            if pyclipper.Orientation(path) != outer:
                path.reverse()
            found.append(path)
    return found


def _sound(paths: Sequence[Path]) -> list[Path]:
    """Paths without those that enclose nothing, which pyclipper refuses together with all that come with them."""
    return [path for path in paths if len(path) > 2 and abs(pyclipper.Area(path)) >= _LEAST]


def _united(paths: Sequence[Path]) -> list[Path]:
    sound = _sound(paths)
    if not sound:
        return []
    clipper = pyclipper.Pyclipper()
    clipper.AddPaths(sound, pyclipper.PT_SUBJECT, True)
    found: list[Path] = clipper.Execute(pyclipper.CT_UNION, _NONZERO, _NONZERO)
    return found


def _without(paths: list[Path], hole: Sequence[Path]) -> list[Path]:
    subject, clip = _sound(paths), _sound(hole)
    if not subject or not clip:
        return subject
    clipper = pyclipper.Pyclipper()
    clipper.AddPaths(subject, pyclipper.PT_SUBJECT, True)
    clipper.AddPaths(clip, pyclipper.PT_CLIP, True)
    found: list[Path] = clipper.Execute(pyclipper.CT_DIFFERENCE, _NONZERO, _NONZERO)
    return found


def _moved(paths: Sequence[Path], x: int, y: int) -> list[Path]:
    return [[(px + x, py + y) for px, py in path] for path in paths]


class Shapes:
    """The pieces of a laying, grown by half the gap and made simpler, turned as they are asked for, and what each keeps free of
    each other."""

    def __init__(self, laying: Laying, tolerance: float = 3e-3) -> None:
        self.laying = laying
        self.grown: dict[str, Any] = {}
        for piece in laying.pieces:
            x0, y0, x1, y1 = piece.area.bounds
            by = max(0.02, tolerance * max(x1 - x0, y1 - y0))
            self.grown[piece.key] = simpler(grown(piece.area, laying.gap / 2), by)
        self._turned: dict[Turned, Any] = {}
        self._paths: dict[Turned, list[Path]] = {}
        self._barred: dict[tuple[Turned, Turned], list[Path]] = {}
        self._plates: dict[tuple[int, Turned], list[Path]] = {}

    def area(self, turned: Turned) -> Any:
        """A piece's grown area about its own origin."""
        if turned not in self._turned:
            key, turn, flipped = turned
            self._turned[turned] = Placed(key, 0, 0.0, 0.0, turn, flipped).of(self.grown[key])
        return self._turned[turned]

    def paths(self, turned: Turned) -> list[Path]:
        if turned not in self._paths:
            self._paths[turned] = _paths(self.area(turned))
        return self._paths[turned]

    def size(self, turned: Turned) -> tuple[float, float, float, float]:
        bounds: tuple[float, float, float, float] = self.area(turned).bounds
        return bounds

    def barred(self, there: Turned, moving: Turned) -> list[Path]:
        """Where the origin of *moving* cannot be beside *there*, whose origin is at (0, 0)."""
        if (there, moving) not in self._barred:
            self._barred[there, moving] = self._sum(self.paths(there), self.paths(moving)[0])
        return self._barred[there, moving]

    def _sum(self, still: list[Path], moving: Path) -> list[Path]:
        pattern = [(-x, -y) for x, y in moving]
        swept: list[Path] = []
        for path in still:
            swept += pyclipper.MinkowskiSum(pattern, path, True)
        x, y = moving[0]
        # what the edges sweep, and one place of each inside the other
        inside = _moved(still, -x, -y)
        ax, ay = still[0][0]
        about = [[(px + ax, py + ay) for px, py in pattern]]
        if not pyclipper.Orientation(about[0]):
            about[0].reverse()
        found = _united([*_united(swept), *_united(inside), *about])
        # whole numbers leave slivers between what the edges sweep
        return [path for path in found if pyclipper.Orientation(path) or abs(pyclipper.Area(path)) > _SLIVER]

    def within(self, blank: int, moving: Turned) -> list[Path]:
        """Where the origin of a piece may be on an empty plate."""
        if (blank, moving) not in self._plates:
            area = self.laying.usable(blank)
            self._plates[blank, moving] = self._within(area, moving, self.laying.blanks[blank].is_rectangle)
        return self._plates[blank, moving]

    def _within(self, area: Any, moving: Turned, plain: bool) -> list[Path]:
        if area.is_empty:
            return []
        x0, y0, x1, y1 = area.bounds
        a0, b0, a1, b1 = self.size(moving)
        if (x1 - x0) < (a1 - a0) - 1e-9 or (y1 - y0) < (b1 - b0) - 1e-9:
            return []
        if plain:
            # a hair of room where it fits exactly, so that there is an area at all
            low_x, low_y = round((x0 - a0) * UNITS), round((y0 - b0) * UNITS)
            high_x, high_y = max(round((x1 - a1) * UNITS), low_x + 1), max(round((y1 - b1) * UNITS), low_y + 1)
            return [[(low_x, low_y), (high_x, low_y), (high_x, high_y), (low_x, high_y)]]
        outside = shapely.box(x0 - 10, y0 - 10, x1 + 10, y1 + 10).difference(area)
        frame = shapely.box(x0 - a0, y0 - b0, x1 - a1, y1 - b1)
        free = _paths(frame)
        moving_path = self.paths(moving)[0]
        for part in shapely.get_parts(outside).tolist():
            if part.geom_type == "Polygon" and part.area > 1e-9:
                free = _without(free, self._sum(_paths(part), moving_path))
        return free


def corners_of(paths: Sequence[Path]) -> Array:
    """All corners of an area, mm, (n, 2)."""
    rows = [np.array(path, float) for path in paths if path]
    return np.concatenate(rows) / UNITS if rows else np.empty((0, 2))


class Plate:
    """A plate with pieces on it, and where others may still lie; what was asked once is kept up with each piece that is
    added."""

    def __init__(self, shapes: Shapes, blank: int) -> None:
        self.shapes, self.blank = shapes, blank
        self.on: list[tuple[Turned, int, int]] = []
        self._free: dict[Turned, list[Path]] = {}

    def free(self, moving: Turned) -> list[Path]:
        """Where the origin of a piece may be."""
        if moving not in self._free:
            area = self.shapes.within(self.blank, moving)
            for there, x, y in self.on:
                area = _without(area, _moved(self.shapes.barred(there, moving), x, y))
            self._free[moving] = area
        return self._free[moving]

    def add(self, own: Turned, x: float, y: float, wanted: Sequence[Turned] = ()) -> None:
        """Lay a piece. :param wanted: what will still be asked for; the rest is forgotten."""
        place = round(x * UNITS), round(y * UNITS)
        self.on.append((own, *place))
        kept = set(wanted)
        for moving in list(self._free):
            if kept and moving not in kept:
                del self._free[moving]
                continue
            area = self._free[moving]
            if area:
                self._free[moving] = _without(area, _moved(self.shapes.barred(own, moving), *place))
