"""Colours: as numbers where they are worked with, as text where they are written down."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

Colour = tuple[int, int, int]
"""Red, green and blue, 0 to 255."""
HexColour = Annotated[str, Field(pattern=r"^#[0-9a-f]{6}$")]
"""The same as ``#rrggbb``."""
BLACK: Colour = (0, 0, 0)
_WEIGHTS = (0.2126, 0.7152, 0.0722)
LIGHT = 0.75
"""From this relative luminance on, a colour on white paper is too light to be relied on: its contrast with the paper is less
than 1.3 : 1 (WCAG 2.2, relative luminance and contrast ratio; the limit is ours)."""


def luminance(colour: Colour) -> float:
    """Relative luminance, 0 for black to 1 for white (WCAG 2.2, from memory: sRGB linearised, weights of ITU-R BT.709)."""
    linear = [v / 12.92 if v <= 0.04045 else ((v + 0.055) / 1.055) ** 2.4 for v in (c / 255 for c in colour)]
    return sum(w * v for w, v in zip(_WEIGHTS, linear, strict=True))


def parse_colour(text: str) -> Colour:
    """``#rrggbb`` as numbers.

    >>> parse_colour("#1f6f5c")
    (31, 111, 92)
    """
    return int(text[1:3], 16), int(text[3:5], 16), int(text[5:7], 16)


def format_colour(colour: Colour) -> str:
    """A colour as ``#rrggbb``."""
    return "#{:02x}{:02x}{:02x}".format(*colour)
