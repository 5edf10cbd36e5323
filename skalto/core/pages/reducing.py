"""A page reduced to fit a smaller format. It says so itself: what is reduced never passes as true scale."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

from skalto.core.annotation.pencil import Pencil
from skalto.core.artwork import Artwork
from skalto.core.geometry import Box, Similarity
from skalto.core.pages.page import Page, PlacedView
from skalto.core.paper import Format, Orientation
from skalto.core.quantities import Scale
from skalto.core.scene.solid import Solid
from skalto.core.sheets.sheet import Furniture, SheetSpec


def reduction(sheet: SheetSpec, to: Format) -> tuple[Format, Fraction] | None:
    """The format as it lies under a sheet, and the factor at which the whole sheet fits it; None where it fits as it is, and
    for a plate, which is cut at its size or not at all."""
    paper = sheet.paper()
    lies = Orientation.LANDSCAPE if paper.width >= paper.height else Orientation.PORTRAIT
    to = to.turned(lies)
    factor = min(Fraction(to.width) / Fraction(paper.width), Fraction(to.height) / Fraction(paper.height))
    return None if factor >= 1 or sheet.cutting is not None else (to, factor)


def reduction_note(page: Page, sheet: SheetSpec, to: Format, factor: Fraction) -> Artwork:
    """What the page of a sheet says at its lower left that is about to be reduced, whether it has a title block or not; 2.5 mm
    high once it is small, above the print-control bar where there is one."""
    small = float(factor)
    pencil = Pencil()
    scales = ", ".join(dict.fromkeys(f"{view.scale}" for view in page.views))
    was = f"{scales} at {sheet.format}" if scales else f"drawn at {sheet.format}"
    text = f"Reduced to {to.name}, {small * 100:.4g} % of {was}: not to scale, do not measure"
    x, y, _, _ = sheet.frame_box() or (2.0, 0.0, 0.0, 0.0)
    bar = 14.0 if Furniture.RULE in sheet.furniture and not sheet.clean else 0.0
    pencil.text(text, (x + 3.0, y + bar + 1.5 / small), 2.5 / small)
    return pencil.artwork()


def reduced(page: Page, to: Format, factor: Fraction) -> Page:
    """A page at a factor, in the middle of a format: views, what is written, widths of lines."""
    by = Similarity(float(factor), float((to.width - page.width * factor) / 2), float((to.height - page.height * factor) / 2))
    return replace(
        page,
        width=to.width,
        height=to.height,
        frame=page.frame.placed(by),
        under=page.under.placed(by),
        views=tuple(_view(view, by, factor) for view in page.views),
        inside=_box(page.inside, by),
        solids=tuple(_solid(solid, by) for solid in page.solids),
        reduced_to=to.name,
        reduction=factor,
    )


def _box(box: Box | None, by: Similarity) -> Box | None:
    if box is None:
        return None
    x0, y0, x1, y1 = (own * by.scale for own in box)
    return x0 + by.dx, y0 + by.dy, x1 + by.dx, y1 + by.dy


def _view(view: PlacedView, by: Similarity, factor: Fraction) -> PlacedView:
    scale, old = Scale(view.scale * factor), view.placement
    x, y = (own * by.scale for own in view.spec.place)
    place = (x + by.dx, y + by.dy)
    return replace(
        view,
        spec=view.spec.model_copy(update={"scale": scale, "place": place}),
        artwork=view.artwork.placed(by),
        box=_box(view.box, by),
        scale=scale,
        placement=Similarity(old.scale * by.scale, old.dx * by.scale + by.dx, old.dy * by.scale + by.dy, old.turn),
        marks=view.marks.placed(by),
        dimensions=(),
        region=None if view.region is None else by.points(view.region),
    )


def _solid(solid: Solid, by: Similarity) -> Solid:
    box = {"box": _box(solid.spec.box, by)}
    return replace(solid, spec=solid.spec.model_copy(update=box), facts=solid.facts.model_copy(update=box))
