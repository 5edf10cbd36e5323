"""What a sheet or a part shows, as a short name that stays when its source is written anew and nothing of it has changed."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import Any

import numpy as np

from skalto.core.job import JobDocument
from skalto.core.listing import tabled
from skalto.core.plain import ordered, short_name
from skalto.core.sheets.sheet import NOT_SHOWN, SheetSpec
from skalto.core.sources.models.model import Component, ModelTree, covered


def sheet_content(document: JobDocument, sheet: SheetSpec, number: str, trees: Mapping[str, ModelTree]) -> str:
    """A short name for all that decides a sheet's page but the day, how many sheets the job has, and its recipe.

    :param number: the job's. :param trees: of the models, by source; a source without one goes by its own name.
    """
    plain = ordered(sheet.model_dump(exclude={"made_for": True, "recipe": True} | NOT_SHOWN))
    told: list[Any] = []
    parts: set[str] = set()
    for view, row in zip(sheet.views, plain["views"], strict=True):
        tree = trees.get(view.source)
        if tree is None:
            continue
        row["source"] = ""
        for dimension in row["dimensions"]:
            # what it was before is told on the desk alone
            dimension["was"] = None
        if view.flat is not None:
            shown = [leaf for leaf in tree.leaves() if leaf.path == view.flat.component]
            row["content"].pop("component", None)
        else:
            shown = [leaf for leaf in tree.leaves() if not covered(leaf.path, view.hidden)]
            _without(row["content"], "hidden")
        told.append(_seen(tree, shown, document.colours))
        parts |= {leaf.part for leaf in shown}
    for field, row in zip(sheet.annotations_3d, plain["annotations_3d"], strict=True):
        tree = trees.get(field.source)
        if tree is None:
            continue
        row["source"] = ""
        shown = [leaf for leaf in tree.leaves() if not covered(leaf.path, field.choices.hidden)]
        row["choices"].pop("hidden", None)
        told.append(_seen(tree, shown, document.colours))
        parts |= {leaf.part for leaf in shown}
    facts = {key: own.model_dump() for key, own in document.parts.items() if _named(key) in parts}
    lists = [own.model_dump() for own in document.cut_lists] if sheet.cutting or sheet.plates_table else []
    places = [own.id for own in document.sheets]
    if sheet.drawings_table is not None:
        lists += [own.model_dump() for own in tabled(document, number, sheet)]
    # how many sheets there are is no part of it: one more would make all that are released anew, under the same revision
    title = (document.title, document.name, number, places.index(sheet.id) + 1)
    return short_name(plain, told, facts, title, document.pens_of(sheet).model_dump(), lists)


def part_content(tree: ModelTree, component: Component) -> str:
    """A short name for what a part or an assembly is, in its own axes."""
    back = np.linalg.inv(component.matrix())
    rows = [
        (leaf.name, tree.shapes[leaf.shape].content, _steps(back @ leaf.matrix()), leaf.colour)
        for leaf in component.walk()
        if leaf.shape is not None
    ]
    return short_name(rows)


def _seen(tree: ModelTree, shown: Collection[Component], colours: Mapping[str, str]) -> list[Any]:
    return [
        (
            tree.shapes[leaf.shape].content, _steps(leaf.matrix()), colours.get(leaf.path, leaf.colour), leaf.opacity,
            sorted(tree.shapes[leaf.shape].face_colours.items()), leaf.name,
        )
        for leaf in shown
        if leaf.shape is not None
    ]  # fmt: skip


def _steps(matrix: Any) -> list[int]:
    """A placement, to a hundredth of a micrometre: whoever writes it again rounds it otherwise."""
    found: list[int] = np.floor(matrix[:3] * 1e5 + 0.3137).astype(np.int64).ravel().tolist()
    return found


def _named(key: str) -> str:
    """The name of a part in its model, by its key."""
    return key.split("@")[0].split(" #")[0]


def _without(content: dict[str, Any], name: str) -> None:
    content.pop(name, None)
    if isinstance(content.get("of"), dict):
        content["of"].pop(name, None)
