"""Recipes: those that ship, and those that people keep, shared by all jobs."""

from __future__ import annotations

import uuid

from skalto.core.errors import InputError, NotThere
from skalto.core.recipes import PLAIN, SHIPPED_RECIPES, Recipe, recipe_from_json
from skalto.store import recipes as store


def all_recipes() -> list[Recipe]:
    """Shipped ones first, then those kept here, by name."""
    return [*SHIPPED_RECIPES, *store.kept_recipes()]


def recipe_of(recipe_id: str) -> Recipe:
    """A recipe by its id; '' is the plain one. :raises InputError: when there is none."""
    if not recipe_id:
        return PLAIN
    for recipe in all_recipes():
        if recipe.id == recipe_id:
            return recipe
    raise NotThere("This recipe is no longer kept: choose another.")


def keep(recipe: Recipe) -> Recipe:
    """Keep a recipe, or the next version of one. :raises InputError: for one that ships, or a name that is taken."""
    if any(own.id == recipe.id for own in SHIPPED_RECIPES):
        raise InputError(f"{recipe.name} ships and stays as it is: duplicate it, and change the copy.")
    if any(own.name.casefold() == recipe.name.casefold() for own in SHIPPED_RECIPES):
        raise InputError(f"There is a recipe {recipe.name} already: choose another name.")
    return store.keep_recipe(recipe)


def read(data: bytes) -> Recipe:
    """A recipe out of its file, under an id and a name that are free here. :raises InputError: when it is none."""
    recipe = recipe_from_json(data)
    taken = {own.name.casefold() for own in all_recipes()}
    name, count = recipe.name, 2
    while name.casefold() in taken:
        name, count = f"{recipe.name} {count}", count + 1
    return recipe.model_copy(update={"id": uuid.uuid4().hex[:8], "name": name, "version": 1})
