"""Composing: views, what is written on them, frame and tables to one page of artwork in sheet millimetres."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from skalto.core.artwork import Artwork, EdgeClass, Raster, Tags
from skalto.core.artwork.crop_to_circle import clip_to_circle
from skalto.core.geometry import Array, Box, Similarity
from skalto.core.pens import DEFAULT, Pens, PenSet
from skalto.core.projection.cutting import CutFace
from skalto.core.projection.reference import ReferenceLength
from skalto.core.projection.watch import Watch
from skalto.core.quantities import Scale
from skalto.core.scene.solid import Solid
from skalto.core.sheets.dimensioning import DrawnDimension
from skalto.core.sheets.measuring import Frame
from skalto.core.sheets.referring import SourceFacts
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sheets.title import TitleContext
from skalto.core.sources.drawings.lengths import strokes_only
from skalto.core.sources.models.parts import PartFacts
from skalto.core.viewpoint import make_viewpoint


@dataclass(frozen=True, eq=False)
class ViewLines:
    """A projected view: its artwork in the view's plane, model mm, lengths of the model to judge it by, cut faces, for a shaded
    one its picture with the box that it fills in the plane, what rays say of its hidden lines, where they were asked, and for
    an excerpt of a PDF its page alone, as a file, empty where it cannot be had."""

    artwork: Artwork
    lengths: tuple[ReferenceLength, ...]
    faces: tuple[CutFace, ...] = ()
    pixels: NDArray[np.uint8] | None = None
    pixel_box: Box | None = None
    watch: Watch | None = None
    original: bytes | None = None


@dataclass(frozen=True, eq=False)
class SheetContext:
    """What a sheet is composed from beside itself: facts of its sources by id, what people said of parts, the job's fields for
    the title block, and the sheet's pens."""

    sources: Mapping[str, SourceFacts] = field(default_factory=dict)
    parts: Mapping[str, PartFacts] = field(default_factory=dict)
    title: TitleContext = field(default_factory=TitleContext)
    pens: PenSet = DEFAULT


@dataclass(frozen=True, eq=False)
class PlacedView:
    """A view on a page: artwork in sheet mm, the box of its lines, its scale, and where the plane's origin went.

    *marks* is what is written on it: dimensions, centre lines, hatching, captions. *region* is the part of the sheet that an
    excerpt takes, (4, 2), whether anything is drawn to its edge or not. *original* is the page of a PDF that it shows, alone.
    """

    spec: ViewSpec
    artwork: Artwork
    box: Box | None
    scale: Scale
    placement: Similarity
    lengths: tuple[ReferenceLength, ...]
    marks: Artwork = field(default_factory=Artwork)
    dimensions: tuple[DrawnDimension, ...] = ()
    region: Array | None = None
    original: bytes | None = None


@dataclass(frozen=True)
class Told:
    """Something that a sheet's maker should know: a *code*, a sentence with the figure, and the view that it is about."""

    code: str
    message: str
    view: str | None = None
    level: str = "warning"


@dataclass(frozen=True, eq=False)
class Page:
    """One page to be written: size in mm, what lies under the views, the views in drawing order, the frame and tables; *inside*
    is where its views belong, within the frame."""

    name: str
    width: Fraction
    height: Fraction
    frame: Artwork
    views: tuple[PlacedView, ...]
    under: Artwork = field(default_factory=Artwork)
    told: tuple[Told, ...] = ()
    pens: PenSet = DEFAULT
    sources: Mapping[str, SourceFacts] = field(default_factory=dict)
    inside: Box | None = None
    solids: tuple[Solid, ...] = ()

    def drawn(self, pens: PenSet | None = None) -> Iterator[tuple[PlacedView | None, Artwork, Pens]]:
        """All that is drawn, in drawing order, with the pens that draw it: the view whose own lines it is, or None.

        :param pens: instead of the sheet's own.
        """
        own = Pens(pens or self.pens)
        yield None, self.under, own
        for view in self.views:
            facts = self.sources.get(view.spec.source)
            yield view, view.artwork, Pens(own.pens, float(view.scale), facts.naming if facts else _nameless)
            yield None, view.marks, own
        yield None, self.frame, own


def _nameless(component: str) -> tuple[str, ...]:
    return (component,)


def placement(view: ViewSpec) -> Similarity:
    """From the view's plane (model mm) to the sheet (mm)."""
    turning = Similarity(float(view.scale), turn=math.radians(view.turn))
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
    if EdgeClass.VISIBLE not in view.classes and view.excerpt is None:
        return ()
    if view.detail is not None:
        inside = [
            length
            for length in lengths
            if length.centre is not None
            and math.dist(length.centre, view.detail.centre) + length.value / 2 <= view.detail.radius
        ]
        return tuple(inside)
    whole = view.excerpt is not None or (EdgeClass.OUTLINE in view.classes and (EdgeClass.WIRE in view.classes or not wires))
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
    """The lines that a view shows: of a model the chosen edge classes, of a drawing all of the excerpt."""
    return lines.artwork if view.excerpt is not None else lines.artwork.only(view.classes)


def frame_of(view: ViewSpec, lines: ViewLines) -> Frame:
    """How a view lies, for what is drawn on it."""
    axes = make_viewpoint(view.name, view.look, view.up).axes()
    seen = seen_of(view, lines)
    # the sizes of a drawing are those of its strokes; letters reach over them
    box = strokes_only(seen).bounds() if view.excerpt is not None else seen.bounds()
    return Frame(axes, placement(view), box, lines.lengths, seen)


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
    """The page of a sheet; *lines* holds each view's projection by view id, *solids* what goes into its 3D fields. Views and
    fields without theirs are left out."""
    from skalto.core.sheets.annotating import annotate

    paper = sheet.paper()
    views = tuple(place_view(view, lines[view.id]) for view in sheet.views if view.id in lines)
    under = Artwork()
    for view in sheet.views:
        if view.id in lines:
            under += raster_of(view, lines[view.id])
    context = context or SheetContext()
    page = Page(sheet.name, paper.width, paper.height, Artwork(), views, under, pens=context.pens, sources=context.sources)
    ready = tuple(solids[own.id] for own in sheet.fields if own.id in solids)
    page = replace(page, inside=sheet.frame_box(), solids=ready)
    return annotate(page, sheet, lines, context)
