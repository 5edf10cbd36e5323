"""Changes of an artwork, kind by kind."""

from __future__ import annotations

from skalto.core.artwork.drawing import Artwork, Item
from skalto.core.artwork.filled import Areas, Fills, Raster, Text
from skalto.core.artwork.sink import ArtworkSink, give
from skalto.core.artwork.strokes import Beziers, Contours, Ellipses, Lines, Polylines


class Unchanged:
    """A sink that gives each item back as it is: what changes one kind overrides the method of that kind."""

    def lines(self, item: Lines) -> list[Item]:
        return [item]

    def ellipses(self, item: Ellipses) -> list[Item]:
        return [item]

    def beziers(self, item: Beziers) -> list[Item]:
        return [item]

    def polylines(self, item: Polylines) -> list[Item]:
        return [item]

    def contours(self, item: Contours) -> list[Item]:
        return [item]

    def texts(self, item: Text) -> list[Item]:
        return [item]

    def fills(self, item: Fills) -> list[Item]:
        return [item]

    def areas(self, item: Areas) -> list[Item]:
        return [item]

    def raster(self, item: Raster) -> list[Item]:
        return [item]


def changed(artwork: Artwork, by: ArtworkSink[list[Item]]) -> Artwork:
    """The artwork with what a sink makes of each item, in their order; what draws nothing is left out."""
    return Artwork(tuple(part for item in artwork if len(item) for part in give(item, by) if len(part)))
