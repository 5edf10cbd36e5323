"""Texts of a drawing written anew in an excerpt: in the place and the style that they have."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np

from skalto.core import lettering, strokefont
from skalto.core.artwork import Artwork, Item, Polylines, Text
from skalto.core.sources.drawings.collecting import Collector


@dataclass(frozen=True)
class Written:
    """A text of a drawing: its *key*, what it says, where it begins and how high its capitals are, in the drawing's units, and
    its layer."""

    key: str
    text: str
    place: tuple[float, float]
    height: float
    layer: str


def _key(text: str, x: float, y: float) -> str:
    return f"{text}@{x:.3f},{y:.3f}"


def texts_of(artwork: Artwork) -> Iterator[Written]:
    """The texts of an artwork in its own units, in drawing order."""
    for item in artwork:
        if isinstance(item, Text):
            for text, (x, y), height in zip(item.texts, item.start.tolist(), item.height.tolist(), strict=True):
                yield Written(_key(text, x, y), text, (x, y), height, item.tags.layer)


def retexted(artwork: Artwork, texts: Mapping[str, str]) -> Artwork:
    """The artwork with other words in place of some texts, by their keys; an empty one takes the text away. What is drawn in
    single strokes is drawn so again."""
    if not texts:
        return artwork
    items: list[Item] = []
    gone: set[int] = set()
    anew = Collector()
    for item in artwork:
        if not isinstance(item, Text):
            items.append(item)
            continue
        keys = [_key(text, x, y) for text, (x, y) in zip(item.texts, item.start.tolist(), strict=True)]
        chosen = np.array([key in texts for key in keys], bool)
        if not chosen.any():
            items.append(item)
            continue
        for number in np.flatnonzero(chosen).tolist():
            if item.ghost and item.order is not None:
                # the strokes that are seen stand one place before what is found
                gone.add(int(item.order[number]) - 1)
            _write(anew, item, number, texts[keys[number]])
        if not chosen.all():
            items.append(item.rows(~chosen))
    kept = [part for item in items if (part := _without(item, gone)) is not None]
    return Artwork((*kept, *anew.artwork().items))


def _write(to: Collector, item: Text, number: int, text: str) -> None:
    if not text.strip():
        return
    along, up = item.matrices()[number]
    start = (float(item.start[number, 0]), float(item.start[number, 1]))
    if not item.ghost:
        to.text(item.tags, text, start, (float(along[0]), float(along[1])), (float(up[0]), float(up[1])), item.face)
        return
    # what is found was made as long as what is seen: undone for the new words
    own, drawn = lettering.length(item.texts[number], 1.0), strokefont.length(item.texts[number])
    along = along * (own / drawn if own and drawn else 1.0)
    to.stroked_text(
        item.tags, text, start, (float(along[0]), float(along[1])), (float(up[0]), float(up[1])), strokefont.SETS[0]
    )


def _without(item: Item, gone: set[int]) -> Item | None:
    if not gone or not isinstance(item, Polylines) or item.order is None:
        return item
    keep = ~np.isin(item.order, list(gone))
    if keep.all():
        return item
    return item.rows(np.flatnonzero(keep)) if keep.any() else None
