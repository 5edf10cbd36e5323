"""Lengths of a drawing by which a finished file can be judged."""

from __future__ import annotations

from skalto.core.artwork import Artwork, Beziers, Ellipses, Lines, Polylines
from skalto.core.lengths import ReferenceLength


def strokes_only(artwork: Artwork) -> Artwork:
    """What a file's vectors are measured by: strokes, not text, fills or pictures."""
    return Artwork(tuple(item for item in artwork if isinstance(item, Lines | Ellipses | Beziers | Polylines)))


def excerpt_lengths(artwork: Artwork) -> tuple[ReferenceLength, ...]:
    """Lengths of the drawing by which a file can be judged: how wide and high its strokes are, and its largest whole circle."""
    box = strokes_only(artwork).bounds()
    if box is None:
        return ()
    found = [
        ReferenceLength(kind="width", value=box[2] - box[0]),
        ReferenceLength(kind="height", value=box[3] - box[1]),
    ]
    best: tuple[float, tuple[float, float]] | None = None
    for item in artwork:
        if isinstance(item, Ellipses):
            whole = item.is_whole() & item.is_circle()
            for (x, y), radius in zip(item.centre[whole].tolist(), item.radii()[whole, 0].tolist(), strict=True):
                if best is None or radius > best[0]:
                    best = radius, (x, y)
    if best is not None and best[0] > 0:
        found.append(ReferenceLength(kind="diameter", value=2 * best[0], centre=best[1]))
    return tuple(length for length in found if length.value > 0)
