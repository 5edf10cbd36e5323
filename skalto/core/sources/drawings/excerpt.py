"""An excerpt of a drawing: which part of it, at what size, with which layers, as lines for a sheet."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace

from pydantic import BaseModel, ConfigDict, Field, model_validator

from skalto.core.artwork import Artwork
from skalto.core.artwork.crop_to_box import crop
from skalto.core.errors import InputError
from skalto.core.geometry import Box, Similarity
from skalto.core.sources.drawings.retexting import retexted
from skalto.core.typed import Text


class LayerStyle(BaseModel):
    """A colour (``#rrggbb``) and a width, mm, that a layer's strokes have in an excerpt instead of their own."""

    model_config = ConfigDict(frozen=True)

    colour: Text | None = Field(default=None, pattern=r"^#[0-9a-fA-F]{6}$")
    width: float | None = Field(default=None, ge=0, le=10)


class Excerpt(BaseModel):
    """What a view shows of a drawing: the *space* of the file (empty for the drawing itself, else a saved page), the mm of its
    *unit*, the *region*, (x0, y0, x1, y1) mm in the drawing turned by *angle* degrees (None for everything drawn), the layers
    that are *off*, and *styles* by layer. A page of a PDF is placed as it is where nothing changes it, unless its *strokes* are
    wanted; *texts* are other words for some of its texts, by their keys."""

    model_config = ConfigDict(frozen=True)

    space: Text = ""
    unit: float = Field(default=1.0, gt=0)
    region: Box | None = None
    angle: float = Field(default=0.0, ge=-360, le=360)
    off: frozenset[Text] = frozenset()
    styles: dict[Text, LayerStyle] = {}
    strokes: bool = False
    texts: dict[Text, Text] = {}

    @model_validator(mode="after")
    def _some(self) -> Excerpt:
        if self.region is not None and (self.region[2] <= self.region[0] or self.region[3] <= self.region[1]):
            raise ValueError("A region needs a width and a height: pick two corners apart.")
        return self

    def covers(self, place: tuple[float, float]) -> bool:
        """Whether a point of the drawing, in its units, lies in the region."""
        if self.region is None:
            return True
        turn = math.radians(self.angle)
        x, y = place[0] * self.unit, place[1] * self.unit
        u, v = x * math.cos(turn) - y * math.sin(turn), x * math.sin(turn) + y * math.cos(turn)
        return self.region[0] <= u <= self.region[2] and self.region[1] <= v <= self.region[3]

    def shifted(self, dx: float, dy: float) -> Excerpt:
        """The same part of the sheet, the drawing moved within it by so many mm of the drawing."""
        if self.region is None:
            raise InputError("A drawing view of everything drawn has nothing to shift: pick an area first.")
        x0, y0, x1, y1 = self.region
        return self.model_copy(update={"region": (x0 - dx, y0 - dy, x1 - dx, y1 - dy)})


def excerpt_artwork(artwork: Artwork, excerpt: Excerpt) -> Artwork:
    """The excerpt's lines in mm of the drawing, turned, cut to the region, without the layers that are off.

    :raises InputError: when nothing is left.
    """
    written = retexted(artwork, excerpt.texts)
    kept = Artwork(tuple(item for item in written if item.tags.layer not in excerpt.off))
    placed = kept.placed(Similarity(excerpt.unit, turn=math.radians(excerpt.angle)))
    if excerpt.region is not None:
        placed = crop(placed, excerpt.region)
    if not len(placed):
        raise InputError("This drawing view shows nothing: pick another area, or switch layers on.")
    return styled(placed, excerpt.styles)


def styled(artwork: Artwork, styles: Mapping[str, LayerStyle]) -> Artwork:
    """An artwork with colours and widths by layer."""
    if not styles:
        return artwork
    items = []
    for item in artwork:
        style = styles.get(item.tags.layer)
        if style is not None:
            tags = item.tags
            if style.colour is not None:
                c = style.colour
                tags = replace(tags, colour=(int(c[1:3], 16), int(c[3:5], 16), int(c[5:7], 16)))
            if style.width is not None:
                tags = replace(tags, width=style.width)
            item = replace(item, tags=tags)
        items.append(item)
    return Artwork(tuple(items))
