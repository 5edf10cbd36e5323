"""A pencil for what is drawn on a sheet by rule: lines, circles, arrows and lettering gather and become artwork."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from skalto.core.artwork import Artwork, EdgeClass, Ellipses, Fills, Item, Lines, Tags
from skalto.core.geometry import TAU, Array, Point
from skalto.core.lettering import lettered

Place = Sequence[float] | Array
"""A point or a direction, as two numbers."""
ARROW_LENGTH, ARROW_HALF = 3.0, 0.5
"""A filled arrowhead, mm: as long as the lettering is high, about 20° (ISO 129-1, from memory, allows 15° to 30°)."""


class Pencil:
    """Gathers strokes in sheet millimetres."""

    def __init__(self) -> None:
        self._lines: dict[EdgeClass, list[tuple[float, ...]]] = {}
        self._circles: dict[EdgeClass, list[tuple[float, ...]]] = {}
        self._fills: dict[EdgeClass, dict[int, list[Array]]] = {}
        self._texts: dict[EdgeClass, list[tuple[str, Point, float, float, float]]] = {}

    def line(self, a: Place, b: Place, edge_class: EdgeClass = EdgeClass.DIMENSION) -> None:
        if math.dist(a, b) > 1e-6:
            self._lines.setdefault(edge_class, []).append((float(a[0]), float(a[1]), float(b[0]), float(b[1])))

    def path(self, points: Sequence[Place], edge_class: EdgeClass = EdgeClass.DIMENSION, closed: bool = False) -> None:
        for a, b in pairwise([*points, points[0]] if closed else points):
            self.line(a, b, edge_class)

    def rectangle(self, x0: float, y0: float, x1: float, y1: float, edge_class: EdgeClass) -> None:
        self.path(((x0, y0), (x1, y0), (x1, y1), (x0, y1)), edge_class, closed=True)

    def arc(
        self,
        centre: Place,
        radius: float,
        start: float = 0.0,
        sweep: float = TAU,
        edge_class: EdgeClass = EdgeClass.DIMENSION,
    ) -> None:
        """A circular arc, angles in radians."""
        self._circles.setdefault(edge_class, []).append((float(centre[0]), float(centre[1]), radius, start, sweep))

    def polygon(self, points: Array, edge_class: EdgeClass = EdgeClass.DIMENSION) -> None:
        self._fills.setdefault(edge_class, {}).setdefault(len(points), []).append(np.asarray(points, float))

    def arrow(self, tip: Place, direction: Place, edge_class: EdgeClass = EdgeClass.DIMENSION, size: float = 1.0) -> None:
        """A filled arrowhead at *tip* that points along *direction*."""
        d = np.array(direction, float) / np.hypot(*direction)
        n = np.array((-d[1], d[0]))
        base = np.array(tip, float) - d * ARROW_LENGTH * size
        self.polygon(np.array((tip, base + n * ARROW_HALF * size, base - n * ARROW_HALF * size)), edge_class)

    def text(
        self, text: str, place: Place, height: float, angle: float = 0.0, share: float = 0.0,
        edge_class: EdgeClass = EdgeClass.TEXT,
    ) -> None:  # fmt: skip
        """A line of text whose baseline passes *place*; *share* of its length lies before it (0.5: centred)."""
        if text.strip():
            self._texts.setdefault(edge_class, []).append((text, (float(place[0]), float(place[1])), height, angle, share))

    def artwork(self) -> Artwork:
        items: list[Item] = []
        for edge_class, rows in self._lines.items():
            items.append(Lines(Tags(edge_class), np.array(rows).reshape(-1, 2, 2)))
        for edge_class, rows in self._circles.items():
            data = np.array(rows)
            zero = np.zeros(len(data))
            major, minor = np.stack((data[:, 2], zero), axis=1), np.stack((zero, data[:, 2]), axis=1)
            items.append(Ellipses(Tags(edge_class), data[:, :2], major, minor, data[:, 3], data[:, 4]))
        for edge_class, by_size in self._fills.items():
            items += [Fills(Tags(edge_class), np.stack(polygons)) for polygons in by_size.values()]
        items += [lettered(texts, edge_class) for edge_class, texts in self._texts.items()]
        return Artwork(tuple(items))
