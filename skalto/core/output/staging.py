"""A page as a recipe wants it: layers left out or made of edge classes, text as outlines, strokes as contours."""

from __future__ import annotations

from collections.abc import Hashable, Iterator
from dataclasses import replace
from functools import partial

from skalto.core.artwork import Artwork, EdgeClass, Item, Tags
from skalto.core.artwork.joining import joined
from skalto.core.outlines import outlined
from skalto.core.pages.page import Page, PlacedView
from skalto.core.pens import Pens
from skalto.core.recipes import Recipe, named


def layer_of(item: Item, recipe: Recipe) -> str:
    """The layer that an item is on in the file: its own, or where edge classes are layers its class; '' for none."""
    if item.tags.layer or recipe.layers != "source and edge classes" or not recipe.writes_layers:
        return item.tags.layer
    return item.tags.edge_class.value


def on_layers(artwork: Artwork, recipe: Recipe) -> Artwork:
    """The artwork with each item on its layer in the file, without what is left out, nor what would start hidden in a file
    without layers."""
    items: list[Item] = []
    out = recipe.left_out if recipe.writes_layers else recipe.left_out + recipe.start_hidden
    for item in artwork:
        layer = layer_of(item, recipe)
        # what is left out is named as it is on the desk, whether the file has layers or not
        if out and named(out, layer or item.tags.edge_class.value):
            continue
        items.append(item if layer == item.tags.layer else replace(item, tags=replace(item.tags, layer=layer)))
    return Artwork(tuple(items))


def _kind(pens: Pens, tags: Tags) -> Hashable:
    """What is joined: strokes of one pen, hidden edges with hidden ones, for these are marked in the file."""
    return pens.pen(tags), tags.edge_class is EdgeClass.HIDDEN, tags.opacity


def staged(page: Page, recipe: Recipe, contours: bool = True) -> Iterator[tuple[PlacedView | None, Artwork, Pens]]:
    """All that is drawn of a page, in drawing order, with the pens that draw it: as :meth:`Page.drawn`, by a recipe.

    :param contours: whether strokes are joined where the recipe is a cutter's.
    """
    for view, artwork, pens in page.drawn(recipe.pens):
        made = on_layers(artwork, recipe)
        if recipe.text == "outlines":
            made = outlined(made)
        if contours and recipe.file == "cutter":
            made = joined(made, partial(_kind, pens), recipe.writes_layers)
        yield view, made, pens
