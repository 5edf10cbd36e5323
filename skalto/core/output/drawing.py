"""Drawing: an artwork given to a sink in the order in which it is drawn, by the pens that draw it."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Protocol

from skalto.core.artwork import Artwork, Item
from skalto.core.artwork.sink import ArtworkSink, Made, give
from skalto.core.pens import Pens


class PennedSink(ArtworkSink[Made], Protocol[Made]):
    """A sink that draws with pens."""

    def take_up(self, pens: Pens) -> None:
        """Draw what follows with these pens."""


def draw(artwork: Artwork, pens: Pens, sink: PennedSink[Made]) -> Iterator[tuple[Item, Made]]:
    """Each item in drawing order with what a sink makes of it; what draws nothing is left out."""
    sink.take_up(pens)
    for item in pens.arranged(artwork):
        if len(item):
            yield item, give(item, sink)
