"""Composing: views, what is written on them, frame and tables to one page of artwork in sheet millimetres."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from skalto.core.artwork import Artwork, EdgeClass, Raster, Tags
from skalto.core.geometry import Box
from skalto.core.pages.cut_pages import cut_page
from skalto.core.pages.page import Page, SheetContext, ViewLines
from skalto.core.pages.page_annotations import annotate
from skalto.core.pages.placed_views import place_view, placement
from skalto.core.pages.reducing import reduced, reduction, reduction_note
from skalto.core.scene.solid import Solid
from skalto.core.sheets.sheet import SheetSpec, ViewSpec


def raster_of(view: ViewSpec, lines: ViewLines) -> Artwork:
    """The shaded picture of a view, where it has one."""
    if not view.shaded or lines.pixels is None or lines.pixel_box is None:
        return Artwork()
    x0, y0, x1, y1 = lines.pixel_box
    pixels = lines.pixels
    if view.detail is not None:
        pixels = _masked(pixels, lines.pixel_box, view.detail.centre, view.detail.radius)
    raster = Raster(Tags(EdgeClass.VISIBLE), pixels, np.array((x0, y0)), np.array((x1 - x0, 0.0)), np.array((0.0, y1 - y0)))
    return Artwork((raster,)).placed(placement(view))


def _masked(pixels: NDArray[np.uint8], box: Box, centre: tuple[float, float], radius: float) -> NDArray[np.uint8]:
    rows, columns = pixels.shape[:2]
    x = np.linspace(box[0], box[2], columns)[None]
    y = np.linspace(box[3], box[1], rows)[:, None]
    masked = pixels.copy()
    masked[np.hypot(x - centre[0], y - centre[1]) > radius, 3] = 0
    return masked


def compose(
    sheet: SheetSpec, lines: Mapping[str, ViewLines], context: SheetContext | None = None, solids: Mapping[str, Solid] = {}
) -> Page:
    """The page of a sheet; *lines* holds each view's projection by view id, *solids* what goes into its 3D annotations. Views
    and annotations without theirs are left out."""
    paper = sheet.paper()
    views = tuple(place_view(view, lines[view.id]) for view in sheet.views if view.id in lines)
    under = Artwork()
    for view in sheet.views:
        if view.id in lines:
            under += raster_of(view, lines[view.id])
    context = context or SheetContext()
    page = Page(sheet.name, paper.width, paper.height, Artwork(), views, under, pens=context.pens, sources=context.sources)
    ready = tuple(solids[own.id] for own in sheet.annotations_3d if own.id in solids)
    page = replace(page, inside=sheet.frame_box(), solids=ready)
    page = annotate(page, sheet, lines, context)
    small = reduction(sheet, context.reduced_to) if context.reduced_to is not None else None
    if small is not None:
        page = replace(page, frame=page.frame + reduction_note(page, sheet, *small))
        return reduced(page, *small)
    if sheet.cutting is None or context.cut_list is None:
        return page
    cut = cut_page(sheet.cutting, context.cut_list, context.profiles, context.excerpts)
    return replace(page, cut=replace(cut, machine=context.machine), notices=(*page.notices, *cut.notices))
