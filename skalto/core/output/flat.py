"""A page, or one view of it, as a single drawing for outputs that have no views: DXF and SVG."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

from skalto.core.artwork import Artwork
from skalto.core.errors import InputError
from skalto.core.geometry import Similarity
from skalto.core.output.staging import staged
from skalto.core.pages.page import Page
from skalto.core.pens import Pens
from skalto.core.recipes import PLAIN, ColourMode, Recipe


@dataclass(frozen=True, eq=False)
class Part:
    """Some of what is drawn, the pens that draw it, and the number of the view whose own lines it is, None for all else."""

    artwork: Artwork
    pens: Pens
    view: int | None = None


@dataclass(frozen=True, eq=False)
class Flat:
    """A name, the size in mm, and all that is drawn, in drawing order; in which colours, and whether they are multiplied where
    they cross. *origin* is the point of the page that its lower left corner is, mm. *views* are what the views are called. With
    *contours* strokes are joined as a cutter wants them."""

    name: str
    width: float
    height: float
    parts: tuple[Part, ...]
    colour: ColourMode = "colour"
    blend: bool = False
    origin: tuple[float, float] = (0.0, 0.0)
    views: tuple[str, ...] = ()
    contours: bool = False

    @cached_property
    def artwork(self) -> Artwork:
        """All of it as one."""
        return Artwork(tuple(item for part in self.parts for item in part.artwork))


def _blends(page: Page, recipe: Recipe) -> bool:
    return (recipe.crossing or (recipe.pens or page.pens).crossing) == "blend"


def flat_page(page: Page, recipe: Recipe = PLAIN) -> Flat:
    """All of a page, in drawing order."""
    drawn = [view for view in page.views if view.box is not None]
    parts = []
    for view, artwork, pens in staged(page, recipe):
        number = next((n for n, other in enumerate(drawn) if other is view), None)
        parts.append(Part(artwork, pens, number))
    names = tuple(view.spec.label for view in drawn)
    return Flat(
        page.name, float(page.width), float(page.height), tuple(parts), recipe.colour, _blends(page, recipe), views=names,
        contours=recipe.file == "cutter",
    )  # fmt: skip


def only_view(page: Page, view_id: str) -> Page:
    """A page with one view alone and what is written on it.

    :raises InputError: when the page has no such view, or it draws nothing.
    """
    views = tuple(view for view in page.views if view.spec.id == view_id and view.box is not None)
    if not views or (views[0].artwork + views[0].marks).bounds() is None:
        raise InputError("This view draws nothing: show more of it.")
    return replace(page, views=views, frame=Artwork(), under=Artwork(), solids=())


def flat_view(page: Page, view_id: str, recipe: Recipe = PLAIN) -> Flat:
    """One view alone with what is written on it, at its scale on the sheet, its lower left at the origin.

    :raises InputError: when the page has no such view, or it draws nothing.
    """
    alone = only_view(page, view_id)
    flat = flat_page(alone, recipe)
    box = flat.artwork.bounds()
    if box is None:
        raise InputError("This view draws nothing: show more of it.")
    x0, y0, x1, y1 = box
    to = Similarity(dx=-x0, dy=-y0)
    parts = tuple(replace(part, artwork=part.artwork.placed(to)) for part in flat.parts)
    name = alone.views[0].spec.title
    return replace(flat, name=name, width=x1 - x0, height=y1 - y0, parts=parts, origin=(x0, y0))
