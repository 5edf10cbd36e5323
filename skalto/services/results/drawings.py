"""Drawings that were read: their pictures, their excerpts, and the pages of a PDF alone."""

from __future__ import annotations

from collections import OrderedDict

import numpy as np

from skalto.core.annotation.edge_references import SourceFacts
from skalto.core.artwork import Artwork
from skalto.core.errors import InputError
from skalto.core.geometry import Array
from skalto.core.pages.page import ViewLines
from skalto.core.projection.view import ExcerptSpec
from skalto.core.sources.drawings.drawing import Drawing, DrawingFacts
from skalto.core.sources.drawings.excerpt import Excerpt, excerpt_artwork
from skalto.core.sources.drawings.lengths import excerpt_lengths
from skalto.core.sources.drawings.original import page_alone
from skalto.core.sources.models.features import pack as pack_edges
from skalto.core.sources.models.model import ModelTree
from skalto.services.stored import keys
from skalto.services.stored.context import DRAWING, load_facts
from skalto.store.blobs import Blobs

_KEPT = 3
_spaces: OrderedDict[str, Artwork] = OrderedDict()


def picture_spec(space: str) -> ExcerptSpec:
    """What decides the lines of one picture of a drawing, whole, in its own units."""
    return ExcerptSpec(excerpt=Excerpt(space=space))


def keep_drawing(store: Blobs, source: str, drawing: Drawing) -> None:
    """Put a drawing that was read into the store, its facts last: where they are, all is."""
    for number, space in enumerate(drawing.facts.spaces):
        store.put(keys.model_key(source, f"space-{number}.art"), drawing.spaces[space.name].to_bytes())
    tree = facts_of_drawing(drawing.facts).tree
    store.put(keys.model_key(source, "edges.bin"), pack_edges([]))
    store.put(keys.model_key(source, "drawing.json"), drawing.facts.model_dump_json().encode())
    store.put(keys.model_key(source, "tree.json"), tree.model_dump_json().encode())


_MOST_OF_A_PAGE = 0.6
"""What takes more of a page is a frame or a ground, on which other things lie."""


def boxes_of_page(store: Blobs, source: str, number: int) -> Array:
    """The boxes (n, 4) of what a page of a PDF shows, from 1, mm from its lower left corner. :raises KeyError: where it was not
    read."""
    drawing = load_facts(store, source).drawing
    artwork = Artwork.from_bytes(store.get(keys.model_key(source, f"space-{number - 1}.art")))
    if drawing is None:
        raise KeyError(source)
    space = drawing.spaces[number - 1]
    unit, origin = space.unit, (space.declared or (0.0, 0.0))[:2]
    rows = [np.asarray(own.bounds(), float).reshape(-1, 4) for own in artwork if len(own)]
    boxes = (np.concatenate(rows) - (*origin, *origin)) * unit if rows else np.zeros((0, 4))
    boxes = boxes[np.isfinite(boxes).all(axis=1)]
    if not len(boxes):
        return boxes
    sizes = (boxes[:, 2:] - boxes[:, :2]).prod(axis=1)
    whole = (boxes[:, 2:].max(axis=0) - boxes[:, :2].min(axis=0)).prod()
    kept: Array = boxes[sizes < _MOST_OF_A_PAGE * whole] if whole > 0 else boxes
    return kept


def facts_of_drawing(facts: DrawingFacts) -> SourceFacts:
    """A drawing as a source: a tree without components, as large as the drawing in its own units."""
    box = facts.spaces[0].box or (0.0, 0.0, 0.0, 0.0)
    size = (box[2] - box[0], box[3] - box[1], 0.0)
    tree = ModelTree(unit=facts.unit, kind=DRAWING, low=(box[0], box[1], 0.0), size=size, solids=0, shapes=(), components=())
    return SourceFacts(tree, [], facts)


def load_space(store: Blobs, source: str, name: str) -> Artwork:
    """One picture of a drawing, kept in memory. :raises InputError: when the drawing has no such page, or
    is not read yet."""
    key = f"{store.url}#{source}#{name}"
    if key not in _spaces:
        try:
            facts = load_facts(store, source).drawing
        except KeyError:
            raise InputError("This drawing is not read yet: open it on the Source stop, then try again.") from None
        names = [space.name for space in facts.spaces] if facts else []
        if name not in names:
            raise InputError(f"The drawing has no page {name} any more: choose another.")
        _spaces[key] = Artwork.from_bytes(store.get(keys.model_key(source, f"space-{names.index(name)}.art")))
        while len(_spaces) > _KEPT:
            _spaces.popitem(last=False)
    _spaces.move_to_end(key)
    return _spaces[key]


def excerpt_lines(artwork: Artwork, excerpt: Excerpt) -> ViewLines:
    """An excerpt's lines with the lengths that it can be judged by. :raises InputError: when it shows nothing."""
    shown = excerpt_artwork(artwork, excerpt)
    return ViewLines(shown, excerpt_lengths(shown))


def _alone(data: bytes, number: int) -> bytes:
    """A page of a PDF alone; empty where it cannot be taken out, so that its strokes go out and say so."""
    try:
        return page_alone(data, number)
    except InputError:
        return b""


def page_number(facts: DrawingFacts, space: str) -> int | None:
    """The number, from 0, of the page of a PDF that a space is; None for other drawings."""
    names = [own.name for own in facts.spaces]
    return names.index(space) if facts.kind == "pdf" and space in names else None


def original_page(store: Blobs, source: str, space: str) -> bytes | None:
    """A page of a PDF alone, made once and kept, empty where it cannot be taken out; None for other drawings."""
    facts = load_facts(store, source).drawing
    number = None if facts is None else page_number(facts, space)
    if number is None:
        return None
    key = keys.model_key(source, f"page-{number}.pdf")
    try:
        return store.get(key)
    except KeyError:
        made = _alone(store.get(keys.file_key(source)), number)
    store.put(key, made)
    return made
