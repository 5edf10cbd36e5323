"""A page, or one view of it, as a single artwork for outputs that have no views: DXF and SVG."""

from __future__ import annotations

from dataclasses import dataclass

from skalto.core.artwork import Artwork, Similarity
from skalto.core.errors import InputError
from skalto.core.sheets.compose import Page


@dataclass(frozen=True, eq=False)
class Flat:
    """A name, the size in mm, and all that is drawn."""

    name: str
    width: float
    height: float
    artwork: Artwork


def flat_page(page: Page) -> Flat:
    """All of a page, in drawing order."""
    artwork = page.under
    for view in page.views:
        artwork = artwork + view.artwork + view.marks
    return Flat(page.name, float(page.width), float(page.height), artwork + page.frame)


def flat_view(page: Page, view_id: str) -> Flat:
    """One view alone with what is written on it, at its scale on the sheet, its lower left at the origin.

    :raises InputError: when the page has no such view, or it draws nothing.
    """
    for view in page.views:
        if view.spec.id == view_id:
            artwork = view.artwork + view.marks
            box = artwork.bounds()
            if box is None:
                break
            x0, y0, x1, y1 = box
            return Flat(view.spec.title, x1 - x0, y1 - y0, artwork.placed(Similarity(dx=-x0, dy=-y0)))
    raise InputError("This view draws nothing: show more of it.")
