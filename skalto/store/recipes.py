"""Recipes that people keep, shared by all jobs; every version stays."""

from __future__ import annotations

from peewee import fn

from skalto.core.errors import InputError
from skalto.core.recipes import Recipe
from skalto.store.tables import RecipeVersion, connected, database
from skalto.store.telling import tell


def kept_recipes() -> list[Recipe]:
    """The newest version of each recipe, by name."""
    with connected():
        newest = RecipeVersion.select(fn.MAX(RecipeVersion.id)).group_by(RecipeVersion.recipe)
        rows = RecipeVersion.select().where(RecipeVersion.id.in_(newest) & ~RecipeVersion.gone)
        found = [Recipe.model_validate_json(row.document) for row in rows]
    return sorted(found, key=lambda recipe: recipe.name.casefold())


def versions_of(recipe_id: str) -> list[Recipe]:
    """All versions of a recipe, the newest first."""
    with connected():
        rows = RecipeVersion.select().where(RecipeVersion.recipe == recipe_id).order_by(RecipeVersion.version.desc())
        return [Recipe.model_validate_json(row.document) for row in rows]


def keep_recipe(recipe: Recipe) -> Recipe:
    """Keep a recipe as the next version of its id; with that version's number. What has not changed is not a version.

    :raises InputError: when another recipe has its name.
    """
    with connected(), database.atomic("IMMEDIATE"):
        others = [other for other in kept_recipes() if other.id != recipe.id]
        if any(other.name.casefold() == recipe.name.casefold() for other in others):
            raise InputError(f"There is a recipe {recipe.name} already: choose another name.")
        last = RecipeVersion.select().where(RecipeVersion.recipe == recipe.id).order_by(RecipeVersion.version.desc()).first()
        number = 1 if last is None else last.version + 1
        if last is not None and not last.gone:
            before = Recipe.model_validate_json(last.document)
            if before.model_copy(update={"version": recipe.version}) == recipe:
                return before
        kept = recipe.model_copy(update={"version": number})
        RecipeVersion.create(recipe=kept.id, version=number, document=kept.model_dump_json())
    tell("settings", 0)
    return kept


def drop_recipe(recipe_id: str) -> None:
    """Take a recipe off the list; its versions stay for the issues that it sent."""
    with connected():
        RecipeVersion.update(gone=True).where(RecipeVersion.recipe == recipe_id).execute()
    tell("settings", 0)
