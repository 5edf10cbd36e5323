"""A drawing as it was brought in: its artwork, and what is known of it beside that."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from pydantic import BaseModel, ConfigDict

from skalto.core.artwork import Artwork
from skalto.core.geometry import Box, Similarity
from skalto.core.locating import local_origin
from skalto.core.quantities import MM_PER_INCH

Kind = Literal["dxf", "svg", "pdf"]

UNITS: dict[str, float] = {
    "mm": 1.0,
    "cm": 10.0,
    "m": 1000.0,
    "in": float(MM_PER_INCH),
    "ft": float(MM_PER_INCH * 12),
}
"""Units that a drawing may be in, and their millimetres."""


class LayerFacts(BaseModel):
    """A layer: colour (``#rrggbb``), line width in mm, whether the file has it *on*, *frozen* or not *printed*, and how many
    entities lie on it."""

    model_config = ConfigDict(frozen=True)

    name: str
    colour: str = "#000000"
    width: float = 0.25
    on: bool = True
    frozen: bool = False
    printed: bool = True
    count: int = 0

    @property
    def shown(self) -> bool:
        """Whether the file would print it."""
        return self.on and not self.frozen and self.printed

    @property
    def state(self) -> str:
        """In words."""
        words = [("on" if self.on else "off"), *(["frozen"] if self.frozen else []), *([] if self.printed else ["not printed"])]
        return ", ".join(words)


class SavedExcerpt(BaseModel):
    """What a saved page shows of the drawing: the region of it, (x0, y0, x1, y1) in its units after turning by *angle* degrees,
    the scale paper mm : drawing unit, where the region's middle lies on the page, mm, and layers hidden there."""

    model_config = ConfigDict(frozen=True)

    region: Box
    scale: float
    place: tuple[float, float]
    angle: float = 0.0
    hidden: tuple[str, ...] = ()


class SpaceFacts(BaseModel):
    """One picture in a file: the drawing itself (*name* empty), or a page saved in it.

    *box* is about everything drawn and *declared* the area that the file names, in the drawing's units; a page has its size
    in mm, and *unit* mm of paper for each of its units; *scale* is the one that it was drawn at, where the file says so.
    """

    model_config = ConfigDict(frozen=True)

    name: str
    label: str
    box: Box | None = None
    declared: Box | None = None
    paper: tuple[float, float] | None = None
    unit: float = 1.0
    scale: str = ""
    excerpts: tuple[SavedExcerpt, ...] = ()
    strokes: int = 0
    heights: tuple[tuple[float, int], ...] = ()
    """Heights of text, in the drawing's units, and how many texts have each."""


class FontFacts(BaseModel):
    """A font that the file asks for: what draws it, whether that is a *replacement*, how many texts, and one of them."""

    model_config = ConfigDict(frozen=True)

    asked: str
    used: str
    replaced: bool
    texts: int
    sample: str = ""
    layers: tuple[str, ...] = ()


class DrawingFacts(BaseModel):
    """All of a drawing but its strokes. *unit* is what the file says, empty where it does not, and *unit_mm* its millimetres;
    *lost* is what could not be brought in."""

    model_config = ConfigDict(frozen=True)

    kind: Kind
    form: str
    unit: str = ""
    unit_mm: float | None = None
    layers: tuple[LayerFacts, ...] = ()
    spaces: tuple[SpaceFacts, ...] = ()
    fonts: tuple[FontFacts, ...] = ()
    dimension_scales: tuple[tuple[float, int], ...] = ()
    origin: tuple[float, float] = (0.0, 0.0)
    """The point of the file, in its units, from which coordinates count here: what lies far out is kept about a local
    origin."""
    lost: tuple[str, ...] = ()

    def space(self, name: str) -> SpaceFacts:
        """:raises KeyError: when the drawing has no such page."""
        for space in self.spaces:
            if space.name == name:
                return space
        raise KeyError(name)

    def beyond_strokes(self) -> tuple[str, ...]:
        """What the strokes of a PDF's pages cannot carry; a page placed as it is keeps it."""
        return tuple(line for line in self.lost if self.kind == "pdf" and re.match(r"\d+ × ", line))

    def notes(self, as_it_is: bool = False) -> list[str]:
        """What did not come as it was, in sentences; *as_it_is* where pages are placed so and nothing is drawn anew."""
        kept = set(self.beyond_strokes()) if as_it_is else set()
        fonts = [] if as_it_is else [font for font in self.fonts if font.replaced]
        told = [line for line in self.lost if line not in kept]
        return told + [f"font {font.asked} is drawn by {font.used} ({font.texts} texts)." for font in fonts]

    def hidden_layers(self) -> frozenset[str]:
        """The layers that the file would not print."""
        return frozenset(layer.name for layer in self.layers if not layer.shown)


@dataclass(frozen=True, eq=False)
class Drawing:
    """A drawing with its artwork by space, in the drawing's own units."""

    facts: DrawingFacts
    spaces: Mapping[str, Artwork]

    def localised(self) -> Drawing:
        """The same about a local origin where the drawing itself lies far out, so that single precision, which screens draw
        with, still shows it. Saved pages stay where they are: what they show of the drawing moves along."""
        box = self.facts.spaces[0].box if self.facts.spaces and self.facts.spaces[0].name == "" else None
        if box is None or self.facts.kind == "pdf":
            return self
        x, y = local_origin(box[:2], box[2:])
        if not x and not y:
            return self

        def moved(own: Box) -> Box:
            return own[0] - x, own[1] - y, own[2] - x, own[3] - y

        artwork = self.spaces[""].placed(Similarity(dx=-x, dy=-y))
        spaces = []
        for space in self.facts.spaces:
            changes: dict[str, object] = {}
            if space.name == "":
                declared = None if space.declared is None else moved(space.declared)
                changes = {"box": moved(box), "declared": declared}
            changes["excerpts"] = tuple(
                own.model_copy(update={"region": _turned_back(own.region, own.angle, x, y)}) for own in space.excerpts
            )
            spaces.append(space.model_copy(update=changes))
        facts = self.facts.model_copy(update={"spaces": tuple(spaces), "origin": (x, y)})
        return Drawing(facts, {**self.spaces, "": artwork})


def _turned_back(region: Box, angle: float, x: float, y: float) -> Box:
    """A region of the drawing turned by *angle* degrees, after the drawing has moved by (-x, -y)."""
    turn = math.radians(angle)
    dx, dy = x * math.cos(turn) - y * math.sin(turn), x * math.sin(turn) + y * math.cos(turn)
    return region[0] - dx, region[1] - dy, region[2] - dx, region[3] - dy
