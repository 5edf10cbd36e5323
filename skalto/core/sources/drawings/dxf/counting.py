"""How much a DXF file would draw, counted before any of it is drawn."""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import Any

from ezdxf.render.hatching import HatchBaseLine

MOST_STROKES = 3_000_000
"""The most entities that are drawn of one file, blocks counted as often as they are inserted."""

MOST_HATCH = 200_000
"""The most strokes of one hatch; a finer one is filled."""


def hatch_strokes(baselines: Iterable[HatchBaseLine], paths: Iterable[Any]) -> float:
    """About how many strokes a hatch has: lines across the boundary's box, times the dashes of each."""
    points = [point for path in paths for point in path.control_vertices()]
    if not points:
        return 0.0
    xs, ys = [p.x for p in points], [p.y for p in points]
    across = math.hypot(max(xs) - min(xs), max(ys) - min(ys))
    total = 0.0
    for line in baselines:
        lines = across / max(abs(line.normal_distance), 1e-12)
        period = sum(abs(dash) for dash in line.line_pattern)
        total += lines * (max(1.0, across / period * len(line.line_pattern)) if period > 0 else 1.0)
    return total


class BlockCounts:
    """How many entities each block of a file draws, with all that it inserts."""

    def __init__(self, document: Any) -> None:
        self._blocks = document.blocks
        self._known: dict[str, float] = {}
        self._open: set[str] = set()

    def of(self, entities: Iterable[Any]) -> float:
        """Of a layout or a block."""
        return sum(self._entity(entity) for entity in entities)

    def _entity(self, entity: Any) -> float:
        if entity.dxftype() != "INSERT":
            return 1.0
        rows = max(1, int(entity.dxf.get("row_count", 1) or 1)) * max(1, int(entity.dxf.get("column_count", 1) or 1))
        return rows * (1.0 + self._block(str(entity.dxf.get("name", ""))))

    def _block(self, name: str) -> float:
        key = name.casefold()
        if key in self._known:
            return self._known[key]
        # a block within itself is drawn nowhere
        block = self._blocks.get(name) if key not in self._open else None
        if block is None:
            return 0.0
        self._open.add(key)
        try:
            found = self.of(block)
        except RecursionError:
            found = math.inf
        self._open.discard(key)
        self._known[key] = found
        return found

    def largest(self, entities: Iterable[Any]) -> str:
        """The block that draws the most of some entities."""
        inserts = [entity for entity in entities if entity.dxftype() == "INSERT"]
        return str(max(inserts, key=self._entity).dxf.get("name", "")) if inserts else ""
