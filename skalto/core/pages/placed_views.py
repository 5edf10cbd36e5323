"""Views put in their places on a sheet."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from skalto.core.annotation.dimension_values import Frame
from skalto.core.annotation.edge_references import SourceFacts, flat_facts
from skalto.core.artwork import Artwork, EdgeClass
from skalto.core.artwork.crop_to_circle import clip_to_circle
from skalto.core.geometry import Box, Similarity
from skalto.core.lengths import ReferenceLength
from skalto.core.pages.page import PlacedView, ViewLines
from skalto.core.sheets.sheet import ViewSpec
from skalto.core.sources.drawings.lengths import strokes_only


def placement(view: ViewSpec) -> Similarity:
    """From the view's plane (model mm) to the sheet (mm)."""
    turning = Similarity(float(view.scale), turn=math.radians(view.rotation))
    x, y = (np.array(view.place) - turning.points(np.array(view.anchor))).tolist()
    return replace(turning, dx=x, dy=y)


def excess(box: Box, within: Box) -> dict[str, float]:
    """By how many mm a box leaves another, by side; only the sides where it does."""
    over = {"left": within[0] - box[0], "bottom": within[1] - box[1], "right": box[2] - within[2], "top": box[3] - within[3]}
    return {side: by for side, by in over.items() if by > 1e-6}


def _readable(view: ViewSpec, lines: ViewLines) -> tuple[ReferenceLength, ...]:
    """The lengths whose edges are drawn: extents need outlines and visible edges, a circle visible edges."""
    lengths = lines.lengths
    wires = any(item.tags.edge_class is EdgeClass.WIRE for item in lines.artwork)
    if EdgeClass.VISIBLE not in view.classes and view.of_model:
        return ()
    if view.detail is not None:
        inside = [
            length
            for length in lengths
            if length.centre is not None
            and math.dist(length.centre, view.detail.centre) + length.value / 2 <= view.detail.radius
        ]
        return tuple(inside)
    whole = not view.of_model or (EdgeClass.OUTLINE in view.classes and (EdgeClass.WIRE in view.classes or not wires))
    return tuple(length for length in lengths if whole or length.kind == "diameter")


def place_view(view: ViewSpec, lines: ViewLines) -> PlacedView:
    """Put a projected view at its scale and place, with the classes that it shows."""
    by = placement(view)
    artwork = seen_of(view, lines)
    if view.detail is not None:
        artwork = clip_to_circle(artwork, view.detail.centre, view.detail.radius)
    artwork = artwork.placed(by)
    region = None
    if view.excerpt is not None and view.excerpt.region is not None and view.detail is None:
        x0, y0, x1, y1 = view.excerpt.region
        region = by.points(np.array(((x0, y0), (x1, y0), (x1, y1), (x0, y1))))
    return PlacedView(
        view, artwork, artwork.bounds(), view.scale, by, _readable(view, lines), region=region, original=lines.original
    )


def seen_of(view: ViewSpec, lines: ViewLines) -> Artwork:
    """The lines that a view shows: of a model the chosen edge classes, of a drawing all of the excerpt, of a flat pattern all
    but the limits of its bends, where these are not wanted."""
    if view.flat is not None and not view.flat.limits:
        return lines.artwork.only(tuple(own for own in EdgeClass if own is not EdgeClass.BEND_LIMIT))
    if not view.of_model:
        return lines.artwork
    # what lies under an edge of another class shows where that class does not
    return Artwork(tuple(item for item in lines.artwork.only(view.classes) if item.tags.under not in view.classes))


def facts_of_view(view: ViewSpec, lines: ViewLines, facts: SourceFacts) -> SourceFacts:
    """The edges that dimensions of a view are attached to: its source's, or of a flat pattern the pattern's own."""
    return facts if view.flat is None else flat_facts(facts, view.flat.component, lines.artwork)


def frame_of(view: ViewSpec, lines: ViewLines) -> Frame:
    """How a view lies, for what is drawn on it."""
    axes = view.axes_of_plane()
    seen = seen_of(view, lines)
    # the sizes of a drawing are those of its strokes; letters reach over them
    box = strokes_only(seen).bounds() if view.excerpt is not None else seen.bounds()
    return Frame(axes, placement(view), box, lines.lengths, seen)
