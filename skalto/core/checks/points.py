"""What a measuring tool can hold on to, as records that every place can pass on."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict


class PageScale(BaseModel):
    """A measurement viewport: its name, its ratio as written, its box, mm, and how many mm of the model one of paper is."""

    model_config = ConfigDict(frozen=True)

    name: str
    ratio: str
    box: tuple[float, float, float, float]
    model: float


class SnapPoints(BaseModel):
    """Of a page, mm from its lower left: *ends* of strokes, *centres* of circles with radii, *strokes* as segments (curves in
    pieces), from which crossings come, and viewports; later ones lie on top. *beyond* is how many of these were left out, since
    there are too many for a page in a browser."""

    model_config = ConfigDict(frozen=True)

    ends: tuple[tuple[float, float], ...]
    centres: tuple[tuple[float, float, float], ...]
    strokes: tuple[tuple[float, float, float, float], ...]
    viewports: tuple[PageScale, ...]
    beyond: int = 0
