"""Sinks: what takes artwork, kind by kind. A kind that a sink does not know is an error of types, never a silent loss."""

from __future__ import annotations

from typing import Protocol, TypeVar, assert_never

from skalto.core.artwork.drawing import Item
from skalto.core.artwork.filled import Areas, Fills, Raster, Text
from skalto.core.artwork.strokes import Beziers, Contours, Ellipses, Lines, Polylines

Made = TypeVar("Made", covariant=True)


class ArtworkSink(Protocol[Made]):
    """Takes each kind of artwork by a method of its own, and gives what it makes of it."""

    def lines(self, item: Lines) -> Made: ...

    def ellipses(self, item: Ellipses) -> Made: ...

    def beziers(self, item: Beziers) -> Made: ...

    def polylines(self, item: Polylines) -> Made: ...

    def contours(self, item: Contours) -> Made: ...

    def texts(self, item: Text) -> Made: ...

    def fills(self, item: Fills) -> Made: ...

    def areas(self, item: Areas) -> Made: ...

    def raster(self, item: Raster) -> Made: ...


def give(item: Item, sink: ArtworkSink[Made]) -> Made:
    """What a sink makes of an item."""
    match item:
        case Lines():
            return sink.lines(item)
        case Ellipses():
            return sink.ellipses(item)
        case Beziers():
            return sink.beziers(item)
        case Polylines():
            return sink.polylines(item)
        case Contours():
            return sink.contours(item)
        case Text():
            return sink.texts(item)
        case Fills():
            return sink.fills(item)
        case Areas():
            return sink.areas(item)
        case Raster():
            return sink.raster(item)
        case _:
            assert_never(item)
