"""Colours as a file has them: as they are, in greys, or in black alone, each in its own colour space (ISO 32000-1, 8.6)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from skalto.core.colour import BLACK, Colour
from skalto.core.output.pdf.paths import number
from skalto.core.recipes import ColourMode

WHITE = 252
"""What has no channel below this is paper, and stays so when all else turns black."""

_LUMA = (0.299, 0.587, 0.114)
"""Weights of a grey (ITU-R BT.601, from memory)."""


def grey_of(colour: Colour) -> int:
    """A colour's grey, 0 to 255."""
    return round(sum(w * v for w, v in zip(_LUMA, colour, strict=True)))


@dataclass(frozen=True)
class Ink:
    """How colours are written. *spoken* begins each page by naming its colour, for readers that take none for granted."""

    mode: ColourMode = "colour"
    spoken: bool = False

    def seen(self, colour: Colour) -> Colour:
        """A colour as it comes out."""
        if self.mode == "colour":
            return colour
        if self.mode == "grey":
            grey = grey_of(colour)
            return grey, grey, grey
        return colour if min(colour) >= WHITE else BLACK

    def _operands(self, colour: Colour) -> tuple[bytes, bool]:
        if self.mode == "colour":
            return b" ".join(number(v / 255) for v in colour), True
        return number(self.seen(colour)[0] / 255), False

    def beginning(self) -> bytes:
        """What a page begins with."""
        return self.stroke(BLACK) + b"\n" + self.fill(BLACK) + b"\n" if self.spoken else b""

    def stroke(self, colour: Colour) -> bytes:
        """The operator that sets the colour of strokes (8.6.8)."""
        values, rgb = self._operands(colour)
        return values + (b" RG" if rgb else b" G")

    def fill(self, colour: Colour) -> bytes:
        """The operator that sets the colour of what is filled."""
        values, rgb = self._operands(colour)
        return values + (b" rg" if rgb else b" g")

    def pixels(self, pixels: NDArray[np.uint8]) -> Image.Image:
        """Red, green and blue (rows, columns, 3) as they come out: the same, greys, or black dots on white.

        Dots are spread by error diffusion (Floyd and Steinberg 1976, as Pillow does it).
        """
        picture = Image.fromarray(np.ascontiguousarray(pixels), "RGB")
        return {"colour": picture, "grey": picture.convert("L"), "black": picture.convert("1")}[self.mode]
