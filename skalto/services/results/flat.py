"""Flat patterns of a model's components, made where they are not there."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import replace
from typing import Any

import numpy as np
import orjson
import shapely

from skalto.core.errors import InputError
from skalto.core.geometry.contour import Contour
from skalto.core.geometry.profile import Operation
from skalto.core.geometry.svg_paths import svg_path
from skalto.core.lengths import ReferenceLength
from skalto.core.pages.page import ViewLines
from skalto.core.progress import Progress, silent
from skalto.core.sheet_metal.choices import FlatSpec
from skalto.core.sheet_metal.facts import facts_of, pattern_artwork
from skalto.core.sheet_metal.folding import Strip
from skalto.core.sheet_metal.pattern import FlatPattern, NoSheet, SheetKind
from skalto.core.sources.models.model import ModelTree, ShapeFacts
from skalto.core.sources.models.parts import Item, items
from skalto.services.results.models import kept_model
from skalto.services.stored import keys
from skalto.services.stored.context import load_tree
from skalto.services.stored.profiles import KeptProfile
from skalto.store.blobs import Blobs

_CIRCLES = 12
"""So many holes, the largest, a pattern is judged by."""


def flat_pattern(store: Blobs, source: str, spec: FlatSpec) -> FlatPattern:
    """A component's flat pattern. :raises InputError: when it has none, saying why, or is not there."""
    from skalto.core.sheet_metal.unfolding import unfolded

    number, name, facts = _leaf(store, source, spec.component)
    shape = kept_model(store, source).shapes[number]
    try:
        return unfolded(shape, spec.choices, name, facts.material, facts.density)
    except NoSheet as error:
        raise InputError(f"{name} has no flat pattern ({error.kind.value}): {error.reason}") from None


def _leaf(store: Blobs, source: str, path: str) -> tuple[int, str, ShapeFacts]:
    """The number of a component's shape, its name and what is known of its part. :raises InputError: when it is not there."""
    tree = load_tree(store, source)
    component = next((own for own in tree.leaves() if own.path == path), None)
    if component is None or component.shape is None:
        raise InputError(f"The model has no component {path} any more: choose another.")
    return component.shape, component.name, tree.shapes[component.shape]


def flat_lines(store: Blobs, source: str, spec: FlatSpec) -> ViewLines:
    """A flat pattern as the lines of a view, with the lengths that it is judged by."""
    made = flat_pattern(store, source, spec)
    artwork = pattern_artwork(made, spec.component)
    return ViewLines(artwork, tuple(_lengths(made, spec.component)), flat=facts_of(made))


def _lengths(made: FlatPattern, component: str) -> Sequence[ReferenceLength]:
    width, height = made.box
    found = [
        ReferenceLength(kind="width", value=width, component=component),
        ReferenceLength(kind="height", value=height, component=component),
    ]
    round_: list[tuple[Contour, tuple[tuple[float, float], float]]] = [
        (own, circle) for own in made.openings if (circle := own.as_circle) is not None
    ]
    round_.sort(key=lambda row: -row[1][1])
    for _, (centre, radius) in round_[:_CIRCLES]:
        found.append(ReferenceLength(kind="diameter", value=2 * radius, centre=centre, component=component))
    return found


def sheet_parts(store: Blobs, source: str, report: Progress = silent) -> list[dict[str, Any]]:
    """The parts of a model, each with what it is to whoever bends and cuts, and of one with a flat pattern what is known of
    it."""
    tree = load_tree(store, source)
    leaves = {leaf.path: leaf for leaf in tree.leaves()}
    found = items(tree, {})
    rows: list[dict[str, Any]] = []
    for number, item in enumerate(found):
        report(number / len(found), f"Unfolding {item.name}")
        leaf = leaves[item.components[0]]
        assert leaf.shape is not None, "leaves have shapes"
        row = {
            "component": leaf.path, "components": item.components, "name": item.name, "quantity": item.quantity,
            "material": item.material, "bought": item.bought, "place": None, "facts": None,
        }  # fmt: skip
        rows.append(row | _looked_at(store, source, tree, leaf.shape, item))
    return rows


MANY = 12
"""Of so many parts a second worker helps to look at a model."""


def look_from_the_end(store: Blobs, source: str, report: Progress = silent) -> None:
    """Look at the parts of a model from the last one on, until one is met that another worker has looked at."""
    tree = load_tree(store, source)
    leaves = {leaf.path: leaf for leaf in tree.leaves()}
    found = items(tree, {})
    if len(found) < MANY:
        return
    for number, item in enumerate(reversed(found)):
        shape = leaves[item.components[0]].shape
        assert shape is not None, "leaves have shapes"
        if store.exists(_look_key(source, tree, shape, item)):
            return
        report(number / len(found), f"Unfolding {item.name}")
        _looked_at(store, source, tree, shape, item)


def _look_key(source: str, tree: ModelTree, shape: int, item: Item) -> str:
    """What was seen of a part is kept under what it is, so that a newer revision of a model is looked at where it is new."""
    content = tree.shapes[shape].content
    return f"part-looks/{keys.digest(keys.VERSION, content or (source, shape), item.name, item.material, item.density)}.json"


def _looked_at(store: Blobs, source: str, tree: ModelTree, shape: int, item: Item) -> dict[str, Any]:
    """What a part is: its kind, the reason, its flat pattern's facts."""
    from skalto.core.release.recognising import kind_of
    from skalto.core.sheet_metal.unfolding import unfolded

    key = _look_key(source, tree, shape, item)
    with suppress(KeyError):
        kept: dict[str, Any] = orjson.loads(store.get(key))
        return kept
    body = kept_model(store, source).shapes[shape]
    seen: dict[str, Any]
    try:
        made = unfolded(body, None, item.name, item.material, item.density)
        seen = {"kind": made.kind.value, "reason": made.reason, "facts": facts_of(made).model_dump(mode="json")}
        own = kind_of(body, made.kind, made.thickness)
    except NoSheet as error:
        seen = {"kind": error.kind.value, "reason": error.reason, "place": error.place}
        own = kind_of(body, error.kind, 0.0, error.reason)
    seen["found"] = own.model_dump(mode="json")
    store.put(key, orjson.dumps(seen))
    return seen


def flat_profile(store: Blobs, source: str, spec: FlatSpec, bends: bool) -> KeptProfile:
    """A component's flat pattern as what is cut from a plate; its bend lines are scored where that is wanted.

    :raises InputError: when it has none, saying why.
    """
    made = flat_pattern(store, source, spec)
    profile = made.profile
    marks = tuple(
        replace(own, operation=Operation.SCORE) if own.operation in _BENDS else own
        for own in profile.marks
        if bends or own.operation not in _BENDS
    )
    return KeptProfile(replace(profile, marks=marks), (*made.notes, *made.warnings))


def part_edges(store: Blobs, source: str, component: str) -> list[dict[str, Any]]:
    """The edges of a component's part, mm in its own axes, each with whether it may be slit there.

    :raises InputError: when it is not there.
    """
    from skalto.core.sheet_metal.part_edges import edges_of_part

    shape = kept_model(store, source).shapes[_leaf(store, source, component)[0]]
    return [{"points": own.points.round(4).tolist(), "slit": own.slit} for own in edges_of_part(shape)]


_BENDS = (Operation.BEND_UP, Operation.BEND_DOWN)


def picture_of_pattern(made: FlatPattern) -> dict[str, Any]:
    """A pattern for the page: paths of SVG, mm, y up, what is known of it, and its regions as a fold takes them."""
    assert made.folded is not None, "a pattern is folded back when it is made"
    return {
        "cut": " ".join(svg_path(own) for own in (made.outline, *made.openings)),
        "bends": [
            " ".join(f"M{a[0]:.4f} {a[1]:.4f}L{b[0]:.4f} {b[1]:.4f}" for a, b in made.bend_pieces(bend)) for bend in made.bends
        ],
        "features": [{"kind": own.kind.value, "side": "ab"[own.side], "path": svg_path(own.outline)} for own in made.features],
        "facts": facts_of(made).model_dump(mode="json"),
        "strips": [_strip(made, strip) for strip in made.folded.strips],
    }  # fmt: skip


def _strip(made: FlatPattern, strip: Strip) -> dict[str, Any]:
    """A region of the pattern where it lies, with how it is bent."""
    by = made.placement
    start = by.points(strip.start)
    rings = [
        [by.points(np.array(ring.coords)[:-1, :2]).round(4).tolist() for ring in (part.exterior, *part.interiors)]
        for part in shapely.get_parts(shapely.simplify(strip.area, 5e-3))
        if part.geom_type == "Polygon"
    ]
    return {
        "parent": strip.parent, "start": start.tolist(), "along": by.vectors(strip.along).tolist(),
        "across": by.vectors(strip.across).tolist(), "neutral": strip.neutral, "radius": strip.radius, "up": strip.up,
        "bend": strip.bend,
        "areas": rings,
    }  # fmt: skip


def unfolded_thickness(store: Blobs, source: str, shape: int) -> float:
    """How thick a shape of a model is where it is a bent or rolled sheet, mm; 0 where it is none."""
    from skalto.core.sheet_metal.unfolding import unfolded

    try:
        made = unfolded(kept_model(store, source).shapes[shape])
    except NoSheet:
        return 0.0
    return made.thickness if made.kind in (SheetKind.BENT, SheetKind.ROLLED) else 0.0


PICTURED = 1500
"""So many parts of a model get pictures, the first; a list of more is read by its names."""


def part_pictures(store: Blobs, source: str, report: Progress = silent) -> dict[str, str]:
    """Small pictures of a model's parts, paths of SVG by the first component that is one."""
    from skalto.core.projection.part_picture import part_picture

    tree = load_tree(store, source)
    leaves = {leaf.path: leaf for leaf in tree.leaves()}
    found = items(tree, {})[:PICTURED]
    pictures = {}
    for number, item in enumerate(found):
        report(number / len(found), f"Drawing {item.name}")
        leaf = leaves[item.components[0]]
        pictures[leaf.path] = part_picture(kept_model(store, source), leaf)
    return pictures
