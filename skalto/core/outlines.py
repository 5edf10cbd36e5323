"""Text as the outlines of its glyphs, for files whose readers have no fonts."""

from __future__ import annotations

from functools import cache, lru_cache
from typing import Any

import numpy as np
from fontTools.pens.basePen import BasePen
from fontTools.ttLib import TTFont
from numpy.typing import NDArray

from skalto.core.artwork import Areas, Artwork, Item, Text
from skalto.core.artwork.changing import Unchanged, changed
from skalto.core.geometry import Array
from skalto.core.lettering import FACES, glyph_runs


class _Outline(BasePen):  # type: ignore[misc]
    """Gathers a glyph's contours as cubic Béziers; quadratic ones are raised by the base class, exactly."""

    def __init__(self, glyphs: Any) -> None:
        super().__init__(glyphs)
        self.curves: list[Any] = []
        self.straight: list[bool] = []
        self.contour: list[int] = []
        self._number = -1
        self._start = (0.0, 0.0)

    def _add(self, curve: Any, straight: bool) -> None:
        self.curves.append(curve)
        self.straight.append(straight)
        self.contour.append(self._number)

    def _moveTo(self, point: Any) -> None:
        self._number += 1
        self._start = point

    def _lineTo(self, point: Any) -> None:
        here = np.array(self._getCurrentPoint(), float)
        step = (np.array(point) - here) / 3
        self._add([here, here + step, here + 2 * step, point], True)

    def _curveToOne(self, first: Any, second: Any, point: Any) -> None:
        self._add([self._getCurrentPoint(), first, second, point], False)

    def _closePath(self) -> None:
        if self._getCurrentPoint() != self._start:
            self._lineTo(self._start)


@cache
def _font(face: int) -> tuple[Any, Any]:
    font = TTFont(FACES[face].path, lazy=True)
    return font, font.getGlyphSet()


@lru_cache(maxsize=8192)
def glyph_outline(face: int, glyph: int) -> tuple[Array, NDArray[np.bool_], NDArray[np.int64]]:
    """A glyph's contours: curves (m, 4, 2) in font units, which are straight (m,), and each one's contour (m,)."""
    font, glyphs = _font(face)
    pen = _Outline(glyphs)
    glyphs[font.getGlyphName(glyph)].draw(pen)
    return np.array(pen.curves, float).reshape(-1, 4, 2), np.array(pen.straight, bool), np.array(pen.contour, np.int64)


def _areas(item: Text) -> Areas | None:
    curves, straight, contour, area = [], [], [], []
    contours = areas = 0
    rows = zip(item.texts, item.start, item.matrices(), strict=True)
    for text, start, matrix in rows:
        at = np.array(start, float)
        for run in glyph_runs(text, item.face):
            capitals = FACES[run.face].capitals
            for glyph, advance in zip(run.glyphs, run.advances, strict=True):
                own, lines, numbers = glyph_outline(run.face, glyph)
                if len(own):
                    curves.append(own / capitals @ matrix + at)
                    straight.append(lines)
                    contour.append(numbers + contours)
                    area.append(np.full(int(numbers[-1]) + 1, areas, np.int64))
                    contours += int(numbers[-1]) + 1
                    areas += 1
                at = at + matrix[0] * (advance / capitals)
    if not curves:
        return None
    return Areas(
        item.tags, np.concatenate(curves), np.concatenate(straight), np.concatenate(contour), np.concatenate(area), winding=True
    )


class _Outlined(Unchanged):
    """Text as the areas of its glyphs."""

    def texts(self, item: Text) -> list[Item]:
        areas = None if item.ghost else _areas(item)
        return [] if areas is None else [areas]


def outlined(artwork: Artwork) -> Artwork:
    """The same drawing with every text as the areas of its glyphs, a glyph an area; unseen text, which is there to be found, is
    left out."""
    return changed(artwork, _Outlined())
