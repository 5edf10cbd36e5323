"""Decorations: lettering and excerpts of drawings on a part that is cut, or on the plate itself, scored or engraved."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator

from skalto.core.ids import ShortId
from skalto.core.lengths import Millimetres
from skalto.core.lettering import missing
from skalto.core.sources.drawings.excerpt import Excerpt
from skalto.core.typed import Words

Letters = Literal["outlines", "single strokes"]
"""How letters are drawn: as the areas of their glyphs, or each of strokes for a pen."""
Way = Literal["score", "engrave"]
"""What is done along a decoration; what is cut through belongs to the contours."""


class LetteringContent(BaseModel):
    """A line of text, its capitals *height* mm high."""

    model_config = ConfigDict(frozen=True)

    kind: Literal["lettering"] = "lettering"
    text: Words = Field(min_length=1, max_length=200)
    height: float = Field(default=5.0, ge=0.5, le=500)
    letters: Letters = "outlines"

    @field_validator("text")
    @classmethod
    def _drawn(cls, text: str) -> str:
        line = " ".join(text.split())
        if not line:
            raise ValueError("Lettering has letters: type some.")
        if lacking := missing(line.replace(" ", "")):
            raise ValueError(f"No shipped font has “{lacking}”: write it otherwise.")
        return line


class ExcerptContent(BaseModel):
    """A part of a 2D drawing with its pictures, *scale* times as large."""

    model_config = ConfigDict(frozen=True)

    kind: Literal["drawing"] = "drawing"
    source: ShortId
    excerpt: Excerpt = Excerpt()
    scale: float = Field(default=1.0, gt=0, le=1000)


DecorationContent = Annotated[LetteringContent | ExcerptContent, Field(discriminator="kind")]


class Decoration(BaseModel):
    """What is drawn on a part, or on a plate, and what is done along it: its middle at (*x*, *y*), mm, in the axes of the
    part's profile, or of the plate, turned by *turn* degrees about it."""

    model_config = ConfigDict(frozen=True)

    id: ShortId
    content: DecorationContent
    operation: Way = "engrave"
    x: Millimetres = 0.0
    y: Millimetres = 0.0
    turn: float = Field(default=0.0, ge=-360, le=360)

    @property
    def name(self) -> str:
        """What messages call it."""
        return f"“{self.content.text}”" if isinstance(self.content, LetteringContent) else "the decoration"

    @property
    def sources(self) -> frozenset[str]:
        """The drawing that it shows a part of."""
        return frozenset((self.content.source,)) if isinstance(self.content, ExcerptContent) else frozenset()
