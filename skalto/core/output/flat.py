"""A page, or one view of it, as a single drawing for outputs that have no views: DXF and SVG."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from skalto.core.artwork import Artwork, Similarity
from skalto.core.errors import InputError
from skalto.core.output.staging import staged
from skalto.core.pens import Pens
from skalto.core.recipes import PLAIN, ColourMode, Recipe
from skalto.core.sheets.compose import Page


@dataclass(frozen=True, eq=False)
class Flat:
    """A name, the size in mm, and all that is drawn, in drawing order, each part with the pens that draw it; in which colours,
    and whether they are multiplied where they cross."""

    name: str
    width: float
    height: float
    parts: tuple[tuple[Artwork, Pens], ...]
    colour: ColourMode = "colour"
    blend: bool = False

    @cached_property
    def artwork(self) -> Artwork:
        """All of it as one."""
        return Artwork(tuple(item for artwork, _ in self.parts for item in artwork))


def _blends(page: Page, recipe: Recipe) -> bool:
    return (recipe.crossing or (recipe.pens or page.pens).crossing) == "blend"


def flat_page(page: Page, recipe: Recipe = PLAIN) -> Flat:
    """All of a page, in drawing order."""
    parts = tuple((artwork, pens) for _, artwork, pens in staged(page, recipe, contours=False))
    return Flat(page.name, float(page.width), float(page.height), parts, recipe.colour, _blends(page, recipe))


def flat_view(page: Page, view_id: str, recipe: Recipe = PLAIN) -> Flat:
    """One view alone with what is written on it, at its scale on the sheet, its lower left at the origin.

    :raises InputError: when the page has no such view, or it draws nothing.
    """
    rows = list(staged(page, recipe, contours=False))
    for number, (view, artwork, pens) in enumerate(rows):
        if view is not None and view.spec.id == view_id:
            # a view's marks follow it
            _, marks, plain = rows[number + 1]
            box = (artwork + marks).bounds()
            if box is None:
                break
            x0, y0, x1, y1 = box
            to = Similarity(dx=-x0, dy=-y0)
            parts = ((artwork.placed(to), pens), (marks.placed(to), plain))
            return Flat(view.spec.title, x1 - x0, y1 - y0, parts, recipe.colour, _blends(page, recipe))
    raise InputError("This view draws nothing: show more of it.")
