"""A DXF file to a drawing."""

from __future__ import annotations

import math
from collections import Counter
from pathlib import Path
from typing import Any

from ezdxf.lldxf.const import DXFError

from skalto.core.artwork import Artwork
from skalto.core.errors import InputError
from skalto.core.geometry import Box
from skalto.core.progress import Progress
from skalto.core.sources.drawings.collecting import Collector
from skalto.core.sources.drawings.drawing import UNITS, Drawing, DrawingFacts, LayerFacts, SpaceFacts
from skalto.core.sources.drawings.dxf.counting import MOST_STROKES, BlockCounts
from skalto.core.sources.drawings.dxf.frontend import context_of, draw_space
from skalto.core.sources.drawings.dxf.loading import RELEASES, STUMBLES, load, readable
from skalto.core.sources.drawings.dxf.pages import excerpts_of, paper_of, shows, within
from skalto.core.sources.drawings.dxf.plain import Plain
from skalto.core.sources.drawings.dxf.putting import PlainStrokes
from skalto.core.sources.drawings.faces import FontLog

_INSUNITS = {1: "in", 2: "ft", 4: "mm", 5: "cm", 6: "m"}
"""$INSUNITS (DXF reference, HEADER): the values that a drawing on paper may have."""


def _layers(document: Any, plain: PlainStrokes | None) -> tuple[list[LayerFacts], dict[str, str]]:
    counts: Counter[str] = Counter()
    written: dict[str, str] = {}
    for layout in document.layouts:
        for entity in layout:
            name = readable(entity.dxf.get("layer", "0"))
            counts[name.lower()] += 1
            written.setdefault(name.lower(), name)
    for name, count in plain.layers() if plain else ():
        counts[name.lower()] += count
        written.setdefault(name.lower(), name)
    found = []
    for layer in document.layers:
        red, green, blue = layer.rgb if layer.rgb is not None else _aci(layer.color)
        weight = layer.dxf.get("lineweight", -3)
        found.append(
            LayerFacts(
                name=readable(layer.dxf.name),
                colour=f"#{red:02x}{green:02x}{blue:02x}",
                width=weight / 100 if weight >= 0 else 0.25,
                on=layer.is_on(),
                frozen=layer.is_frozen(),
                # what dimensions are hung on is never printed (DXF reference)
                printed=bool(layer.dxf.get("plot", 1)) and layer.dxf.name.casefold() != "defpoints",
                count=counts.pop(readable(layer.dxf.name).lower(), 0),
            )
        )
    # a file may use a layer that it does not list
    found += [
        LayerFacts(name=written[name], count=count, printed=name != "defpoints") for name, count in sorted(counts.items())
    ]
    return found, {layer.name.lower(): layer.name for layer in found}


def _aci(number: int) -> tuple[int, int, int]:
    from ezdxf.colors import aci2rgb

    # seven is black on white paper
    return (0, 0, 0) if not 0 < number < 256 or number == 7 else tuple(aci2rgb(number))  # type: ignore[return-value]


def _declared(document: Any) -> Box | None:
    """The area that the file names as the drawing's limits, where these are more than a default that nobody set."""
    header = document.header
    low, high = header.get("$LIMMIN", (0, 0)), header.get("$LIMMAX", (0, 0))
    box = (float(low[0]), float(low[1]), float(high[0]), float(high[1]))
    # what a new file has in its header (DXF reference: 12 x 9 or 420 x 297)
    if (
        not all(map(math.isfinite, box))
        or box[2] <= box[0]
        or box[3] <= box[1]
        or box in ((0.0, 0.0, 12.0, 9.0), (0.0, 0.0, 420.0, 297.0))
    ):
        return None
    return box


def _dimension_scales(document: Any) -> tuple[tuple[float, int], ...]:
    scales: Counter[float] = Counter()
    for dimension in document.modelspace().query("DIMENSION"):
        try:
            scales[round(float(dimension.override().get("dimscale", 1.0)), 6)] += 1
        except (KeyError, ValueError, AttributeError, TypeError):
            continue
    return tuple(scales.most_common(6))


def _space(name: str, label: str, collector: Collector, artwork: Artwork, box: Box | None, **more: Any) -> SpaceFacts:
    """*box* is that of what shows; where nothing does, that of all."""
    heights = tuple(sorted(collector.heights.items(), key=lambda row: -row[1])[:40])
    return SpaceFacts(name=name, label=label, box=box or artwork.bounds(), strokes=len(artwork), heights=heights, **more)


def _countable(document: Any, name: str, plain: int) -> None:
    """:raises InputError: when so much would be drawn that nobody could wait for it."""
    counts = BlockCounts(document)
    for layout in document.layouts:
        count = counts.of(layout) + (plain if layout.is_modelspace else 0)
        if count > MOST_STROKES:
            much = f"{count:,.0f}".replace(",", " ") if count < 1e12 else "more than a million million"
            raise InputError(
                f"{name} would draw {much} entities, most of them by block {readable(counts.largest(layout))}: save it "
                f"without, or with at most {MOST_STROKES // 1_000_000} million."
            )


def read_dxf(path: Path, name: str, progress: Progress) -> Drawing:
    """Read a DXF file. :raises InputError: when it cannot be used or draws nothing."""
    progress(0.02, "Reading the DXF file")
    document, lost, plain = load(path, name)
    try:
        return _resolved(document, lost, name, progress, plain)
    except (DXFError, *STUMBLES):
        # tables and layouts that contradict one another; what is wrong in an entity is told and left out
        raise InputError(f"{name} is damaged where its tables and layouts stand: export the drawing again.") from None


def _resolved(document: Any, lost: list[str], name: str, progress: Progress, taken: Plain | None = None) -> Drawing:
    progress(0.5, "Resolving entities")
    plain = PlainStrokes(taken, document) if taken else None
    layers, names = _layers(document, plain)
    frozen = frozenset(layer.name for layer in layers if layer.frozen)
    _countable(document, name, taken.count if taken else 0)
    fonts = FontLog()
    skipped: Counter[str] = Counter()
    ctx = context_of(document)

    collector = Collector()
    step = lambda share: progress(0.5 + 0.45 * share, "Resolving entities")  # noqa: E731
    unshown = frozenset(layer.name for layer in layers if not layer.shown)
    left_out, box = draw_space(ctx, document.modelspace(), collector, fonts, frozen, step, unshown, plain)
    skipped += left_out
    artwork, strays = within(collector.artwork(), box)
    if strays:
        lost.append(f"{strays} × points and masks outside of the drawing: left out.")
    spaces = {"": artwork}
    facts = [_space("", "Drawing", collector, artwork, box, declared=_declared(document))]
    for layout in document.layouts:
        if layout.is_modelspace:
            continue
        unit, size, corner = paper_of(layout)
        excerpts = tuple(own for own in excerpts_of(layout, unit, corner, names) if shows(artwork, own))
        own = Collector()
        left_out, page_box = draw_space(ctx, layout, own, fonts, frozen, unshown=unshown)
        skipped += left_out
        drawn = own.artwork()
        if not excerpts and not len(drawn):
            continue
        paper = (corner[0], corner[1], corner[0] + size[0] / unit, corner[1] + size[1] / unit)
        more = {"paper": size, "unit": unit, "excerpts": excerpts, "declared": paper}
        page = readable(layout.name)
        facts.append(_space(page, page, own, drawn, page_box, **more))
        spaces[page] = drawn
    if not any(len(drawn) for drawn in spaces.values()):
        raise InputError(f"{name} draws nothing: every layer and page in it is empty.")
    lost += [f"{count} × {what}." for what, count in skipped.most_common(20)]
    lost += _pictures(document)
    unit_name = _INSUNITS.get(document.units, "")
    return Drawing(
        DrawingFacts(
            kind="dxf",
            form=f"DXF {RELEASES.get(document.dxfversion, document.dxfversion)}",
            unit=unit_name,
            unit_mm=UNITS.get(unit_name),
            layers=tuple(layers),
            spaces=tuple(facts),
            fonts=fonts.facts(),
            dimension_scales=_dimension_scales(document),
            lost=tuple(dict.fromkeys(lost)),
        ),
        spaces,
    )


def _pictures(document: Any) -> list[str]:
    """Pictures that the file names and does not hold, and line types of which only the dashes are drawn."""
    found = []
    for image in document.query("IMAGE"):
        definition = image.image_def
        if definition is not None:
            name = str(definition.dxf.filename).replace("\\", "/").rpartition("/")[2]
            found.append(f"The picture {name} is a file of its own, which is not opened: its frame is drawn.")
    used = {
        entity.dxf.linetype.casefold()
        for entity in document.entitydb.values()
        if entity.is_alive and entity.dxf.hasattr("linetype")
    }
    for line_type in document.linetypes:
        if line_type.dxf.name.casefold() in used and line_type.pattern_tags.is_complex_type():
            found.append(f"Line type {readable(line_type.dxf.name)}: drawn with its dashes, without the text or shapes in it.")
    return found
