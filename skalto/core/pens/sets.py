"""Pen sets: rules from top to bottom that say which pen draws what."""

from __future__ import annotations

import json
import re
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator, model_validator

from skalto.core.artwork import EdgeClass
from skalto.core.earlier_words import by_todays_names
from skalto.core.errors import InputError, what_is_wrong
from skalto.core.ids import ShortId
from skalto.core.pens.pen import LINE_TYPES, Caps, Joins
from skalto.core.typed import Line, Text

AS_DRAWN = "as drawn"
OWN = "own"
KIND = "skalto.pens"
"""What a pen set's file says that it is."""

_COLOUR = re.compile(r"#[0-9a-f]{6}")
Width = Annotated[float, Field(gt=0, le=20)]


def _colour(text: str) -> str:
    text = text.strip().lower()
    if text and not _COLOUR.fullmatch(text):
        raise ValueError(f"“{text}” is not a colour: write it as #rrggbb.")
    return text


class PenRule(BaseModel):
    """What a rule takes hold of, and what it makes of it. Every condition that is left empty holds for all.

    *layer* and *component* are names with ``*`` and ``?`` for any letters; *colour* is the source's. *wider* and *narrower*
    bound the source's own line width, mm: from *wider* on and up to *narrower*, both inclusive. Of what is made, *width* is in
    mm, None for as it was drawn; *ink* is ``source`` or a colour; *line_type* is a name of ISO 128-2, ``as drawn``, or ``own``
    with *dashes* in multiples of the width; *tint* is how much of the ink is laid down, per cent.
    """

    model_config = ConfigDict(frozen=True)

    name: Line = Field(default="", max_length=80)
    layer: Text = ""
    colour: Text = ""
    classes: tuple[EdgeClass, ...] = ()
    component: Text = ""
    wider: float | None = Field(default=None, ge=0)
    narrower: float | None = Field(default=None, ge=0)
    width: Width | None = None
    ink: Text = "source"
    line_type: Text = AS_DRAWN
    dashes: tuple[Annotated[float, Field(ge=0, le=1000)], ...] = ()
    tint: int = Field(default=100, ge=0, le=100)
    caps: Caps | None = None
    joins: Joins | None = None

    @model_validator(mode="before")
    @classmethod
    def _earlier(cls, data: Any) -> Any:
        return by_todays_names(data, {"screening": "tint", "ends": "caps"})

    @field_validator("colour")
    @classmethod
    def _source_colour(cls, text: str) -> str:
        return _colour(text)

    @field_validator("ink")
    @classmethod
    def _ink(cls, text: str) -> str:
        return text if text == "source" else (_colour(text) or "source")

    @model_validator(mode="after")
    def _line_type(self) -> PenRule:
        if self.line_type not in (AS_DRAWN, OWN, *LINE_TYPES):
            raise ValueError(f"“{self.line_type}” is not a line type: choose one of {', '.join(LINE_TYPES)}.")
        if self.line_type == OWN and (not self.dashes or len(self.dashes) % 2 or sum(self.dashes) <= 0):
            raise ValueError(
                "A line type of your own is dashes and gaps in turn: write an even number of lengths, such as 12, 3."
            )
        return self


class PenSet(BaseModel):
    """A name and rules; the first rule that fits a stroke draws it, and what none fits is drawn as it is.

    *all_widths* is one width for all strokes, mm, whatever their rules say. Widths *scaled* grow and shrink with their view:
    at 1:2 they are half as wide. *crossing* is what shows where strokes lie over one another: the later covers, or their
    colours are multiplied. In the *order* ``by rule`` what an upper rule draws lies over what a lower one draws. *darken*
    draws in black what would be too light to see on paper.
    """

    model_config = ConfigDict(frozen=True)

    id: ShortId
    name: Line = Field(min_length=1, max_length=60)
    rules: tuple[PenRule, ...] = ()
    all_widths: Width | None = None
    scaled: bool = False
    crossing: Literal["cover", "blend"] = "cover"
    order: Literal["as drawn", "by rule"] = "as drawn"
    darken: bool = False


class PenFile(BaseModel):
    """A pen set as a file of its own."""

    kind: Literal["skalto.pens"] = "skalto.pens"
    version: Literal[1] = 1
    pens: PenSet


def pens_to_json(pens: PenSet) -> bytes:
    return (PenFile(pens=pens).model_dump_json(indent=2) + "\n").encode()


def pens_from_json(data: bytes) -> PenSet:
    """:raises InputError: when it is no pen set, saying where it is wrong."""
    try:
        plain = json.loads(data)
    except ValueError:
        raise InputError("This file is not JSON: choose a pen set that was saved here.") from None
    if not isinstance(plain, dict) or plain.get("kind") != KIND:
        raise InputError("This file is not a pen set: choose one that was saved here.")
    try:
        return PenFile.model_validate(plain).pens
    except ValidationError as error:
        raise InputError(f"This pen set cannot be used: {what_is_wrong(error)}") from None
