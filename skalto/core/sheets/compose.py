"""Composing: views and frame to one page of artwork in sheet millimetres."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from skalto.core.artwork import Artwork, EdgeClass, Lines, Similarity, Tags
from skalto.core.paper import frame_rectangle
from skalto.core.pens import SHOP_DRAWING
from skalto.core.projection.reference import ReferenceLength
from skalto.core.sheets.sheet import SheetSpec, ViewSpec

Box = tuple[float, float, float, float]


@dataclass(frozen=True, eq=False)
class ViewLines:
    """A projected view: its artwork in the view's plane, model mm, and lengths of the model to judge it by."""

    artwork: Artwork
    lengths: tuple[ReferenceLength, ...]


@dataclass(frozen=True, eq=False)
class PlacedView:
    """A view on a page: artwork in sheet mm, the box of its lines, its scale, and where the plane's origin went."""

    spec: ViewSpec
    artwork: Artwork
    box: Box | None
    scale: Fraction
    placement: Similarity
    lengths: tuple[ReferenceLength, ...]


@dataclass(frozen=True, eq=False)
class Page:
    """One page to be written: size in mm, the frame's artwork, and the views in drawing order."""

    name: str
    width: Fraction
    height: Fraction
    frame: Artwork
    views: tuple[PlacedView, ...]


def placement(view: ViewSpec) -> Similarity:
    """From the view's plane (model mm) to the sheet (mm)."""
    scale = float(view.ratio)
    return Similarity(scale, view.place[0] - view.anchor[0] * scale, view.place[1] - view.anchor[1] * scale)


def excess(box: Box, width: float, height: float) -> dict[str, float]:
    """By how many mm a box leaves the sheet, by side; only the sides where it does."""
    over = {"left": -box[0], "bottom": -box[1], "right": box[2] - width, "top": box[3] - height}
    return {side: by for side, by in over.items() if by > 1e-6}


def _readable(lengths: tuple[ReferenceLength, ...], classes: tuple[EdgeClass, ...]) -> tuple[ReferenceLength, ...]:
    """The lengths whose edges are drawn: extents need outlines and visible edges, a circle visible edges."""
    if EdgeClass.VISIBLE not in classes:
        return ()
    whole = EdgeClass.OUTLINE in classes
    return tuple(length for length in lengths if whole or length.kind == "diameter")


def place_view(view: ViewSpec, lines: ViewLines) -> PlacedView:
    """Put a projected view at its scale and place, with the classes that it shows."""
    by = placement(view)
    artwork = lines.artwork.only(view.classes).placed(by)
    return PlacedView(view, artwork, artwork.bounds(), view.ratio, by, _readable(lines.lengths, view.classes))


def compose(sheet: SheetSpec, lines: Mapping[str, ViewLines]) -> Page:
    """The page of a sheet; *lines* holds each view's projection by view id."""
    paper = sheet.paper()
    frame = frame_rectangle(float(paper.width), float(paper.height), sheet.frame)
    items: tuple[Lines, ...] = ()
    if frame:
        x0, y0, x1, y1 = frame
        corners = np.array(((x0, y0), (x1, y0), (x1, y1), (x0, y1), (x0, y0)))
        # corners square: each side reaches half a width past its end
        half = SHOP_DRAWING[EdgeClass.FRAME].width / 2
        sides = np.stack((corners[:-1], corners[1:]), axis=1)
        reach = np.sign(sides[:, 1] - sides[:, 0]) * half
        sides = np.stack((sides[:, 0] - reach, sides[:, 1] + reach), axis=1)
        items = (Lines(Tags(EdgeClass.FRAME), sides),)
    views = tuple(place_view(view, lines[view.id]) for view in sheet.views)
    return Page(sheet.name, paper.width, paper.height, Artwork(items), views)
