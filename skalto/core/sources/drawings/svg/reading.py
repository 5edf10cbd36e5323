"""An SVG file to a drawing (SVG 1.1, W3C): shapes, paths, text and pictures with their transforms, strokes and fills."""

from __future__ import annotations

from pathlib import Path as FilePath

from skalto.core.errors import InputError
from skalto.core.progress import Progress
from skalto.core.sources.drawings.drawing import Drawing, DrawingFacts, LayerFacts, SpaceFacts
from skalto.core.sources.drawings.svg.resolving import PX, parsed, resolve
from skalto.core.sources.drawings.svg.walking import Walker

_LEAST_UNIT = 1e-9
"""mm; a unit of a file is no smaller, nor its reciprocal larger."""


def read_svg(path: FilePath, name: str, progress: Progress) -> Drawing:
    """Read an SVG file. Sizes in mm where its width and height are physical, else in user units, for a person to say.

    :raises InputError: when it is not SVG, or draws nothing.
    """
    progress(0.1, "Reading the SVG file")
    root = parsed(path.read_bytes(), name)
    progress(0.3, "Resolving shapes")
    plain = resolve(root, name)
    progress(0.6, "Reading shapes")
    unit = plain.unit or (1.0, 1.0)
    if not all(_LEAST_UNIT < side < 1 / _LEAST_UNIT for side in unit):
        raise InputError(f"{name} has units of {min(unit):.3g} mm: its viewBox or its size is damaged. Save it again.")
    walker = Walker(plain, unit, (unit[0] * unit[1]) ** 0.5 if plain.unit else PX)
    try:
        artwork = walker.artwork()
    except OverflowError:
        raise InputError(f"{name} draws a place further away than any drawing reaches: it is damaged. Save it again.") from None
    box = artwork.bounds()
    if box is None:
        raise InputError(f"{name} draws nothing that can be brought in.")
    lost = [
        f"{count} × {what}: not applied, or left out." if ":" not in what else f"{count} × {what}."
        for what, count in walker.notices.most_common()
        if count
    ]
    heights = tuple(sorted(walker.collector.heights.items(), key=lambda row: -row[1])[:40])
    _, _, width, height = plain.box
    declared = (0.0, 0.0, width * unit[0], height * unit[1]) if width > 0 and height > 0 else None
    space = SpaceFacts(name="", label="Drawing", box=box, declared=declared, strokes=len(artwork), heights=heights)
    return Drawing(
        DrawingFacts(
            kind="svg",
            form="SVG",
            unit="mm" if plain.unit else "",
            unit_mm=1.0 if plain.unit else None,
            layers=tuple(LayerFacts(name=layer, count=count) for layer, count in walker.counts.items()),
            spaces=(space,),
            fonts=walker.log.facts(),
            lost=tuple(lost),
        ),
        {"": artwork},
    )
