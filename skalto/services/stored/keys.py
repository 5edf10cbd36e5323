"""Where results are kept: each under a key of what it was made from, so that nothing is made twice."""

from __future__ import annotations

import hashlib
import json
from typing import TYPE_CHECKING, Any

from pydantic import BaseModel

from skalto.core.pens import DEFAULT, PenSet
from skalto.core.plain import ordered
from skalto.core.sheets.sheet import NOT_SHOWN, SheetSpec

if TYPE_CHECKING:
    from skalto.core.projection.view import LinesSpec, ShadeSpec
    from skalto.core.recipes import Recipe
    from skalto.core.scene.annotation_3d import Annotation3d
    from skalto.core.scene.choices import SceneSpec

VERSION = 22
"""Counts up when the same inputs give other results than before."""


def digest(*parts: object) -> str:
    """A short name for a set of inputs."""
    text = json.dumps([VERSION, *parts], sort_keys=True, separators=(",", ":"))
    return hashlib.sha256(text.encode()).hexdigest()[:40]


def file_key(source: str) -> str:
    """The file itself, under the hash of its content."""
    return f"files/{source}"


def model_key(source: str, part: str) -> str:
    """A part of a model that was read: ``tree.json``, ``shapes.bin``, ``scene.glb``."""
    return f"models/v{VERSION}/{source}/{part}"


def facets_key(source: str) -> str:
    """What hidden lines need of a model whatever the view."""
    return model_key(source, "facets.bin")


def view_key(source: str, spec: LinesSpec) -> str:
    """The lines of a view."""
    return f"views/{digest(source, _lines(spec))}"


def penned_key(source: str, spec: LinesSpec, pens: PenSet, scale: float) -> str:
    """The picture of a view as a pen set draws it: the view's own key for the set that all begin with."""
    key = view_key(source, spec)
    if pens == DEFAULT:
        return key
    return f"{key}.{digest(pens.model_dump(mode='json', exclude={'id', 'name'}), scale if pens.scaled else 1.0)}"


def _lines(spec: LinesSpec) -> dict[str, Any]:
    plain: dict[str, Any] = ordered(spec.model_dump())
    return plain


def shade_key(source: str, spec: ShadeSpec) -> str:
    """The shaded picture of a view."""
    plain = spec.model_dump(mode="json") | {"view": _lines(spec.view)}
    return f"shades/{digest(source, plain)}"


def scene_key(source: str, spec: SceneSpec) -> str:
    """A model as a scene: its U3D, and what is known of it beside."""
    return f"scenes/{digest(source, ordered(spec.model_dump(mode='json')))}"


def poster_key(source: str, spec: SceneSpec, field: Annotation3d) -> str:
    """The picture of a 3D annotation: what it shows when no reader turns it."""
    view = ordered(field.opens_with.model_dump(mode="json", exclude={"id", "name"}))
    return f"posters/{digest(scene_key(source, spec), view, list(field.inner_size), field.poster_dpi)}"


def proof_key(sheet: SheetSpec, title: str, context: BaseModel, recipe: Recipe) -> str:
    """The finished file of a sheet."""
    parts = (ordered(sheet.model_dump(exclude=NOT_SHOWN)), title, ordered(context.model_dump()), _chosen(recipe))
    return f"proofs/{digest(*parts)}"


def artwork_key(sheet: SheetSpec, view: str, suffix: str, context: BaseModel, recipe: Recipe) -> str:
    """A sheet, or one view of it, as a file without pages, or as pixels."""
    shown = ordered(sheet.model_dump(exclude=NOT_SHOWN))
    return f"artwork/{digest(shown, view, suffix, ordered(context.model_dump()), _chosen(recipe))}"


def joined_key(parts: list[str], title: str, recipe: Recipe) -> str:
    """Finished files of a sheet each, by their keys, as one file."""
    return f"joined/{digest(parts, title, _chosen(recipe))}"


def _chosen(recipe: Recipe) -> Any:
    """What of a recipe decides a file: not what it is called."""
    return ordered(recipe.model_dump(mode="json", exclude={"id", "name", "version", "format", "orientation"}))


def preview_key(source: str, space: str) -> str:
    """The preview of a page, a PNG."""
    return model_key(source, f"preview-{digest(space)}.png")


def profile_key(origin: BaseModel) -> str:
    """The profile of a part to cut."""
    return f"profiles/{digest(ordered(origin.model_dump(mode='json')))}"


def excerpt_key(content: BaseModel) -> str:
    """What a decoration shows of a drawing."""
    return f"excerpts/{digest(ordered(content.model_dump(mode='json')))}"


def plates_key(source: str) -> str:
    """Which shapes of a model are flat plates."""
    return model_key(source, "plates-2.json")


def plain(value: BaseModel) -> Any:
    """A value as plain data, sets in order, to make a key of."""
    return ordered(value.model_dump(mode="json"))
