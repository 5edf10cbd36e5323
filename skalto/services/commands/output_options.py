"""How the command line was asked to put sheets out, as typed, and the recipe that comes of it."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from pydantic import BaseModel, ConfigDict

from skalto.core.errors import InputError
from skalto.core.pens import SHIPPED, PenSet, pens_from_json
from skalto.core.recipes import PLAIN, SHIPPED_RECIPES, Recipe, changed, recipe_from_json

_COLOURS = {"color": "colour", "colour": "colour", "gray": "grey", "grey": "grey", "black": "black"}


def _file(text: str, what: str) -> bytes:
    try:
        return Path(text).read_bytes()
    except OSError:
        raise InputError(f"There is no {what} {text}: check the name.") from None


def recipe_named(text: str, more: tuple[Recipe, ...] = ()) -> Recipe:
    """A recipe by its file, its id or its name. :raises InputError: when there is none."""
    if text.lower().endswith(".json"):
        return recipe_from_json(_file(text, "recipe file"))
    for recipe in (*more, *SHIPPED_RECIPES):
        if text.casefold() in (recipe.id.casefold(), recipe.name.casefold()):
            return recipe
    known = ", ".join(recipe.id for recipe in (*more, *SHIPPED_RECIPES))
    raise InputError(f"“{text}” is not a recipe: name a .json file, or one of {known}.")


def pens_named(text: str, more: tuple[PenSet, ...] = ()) -> PenSet:
    """A pen set by its file, its id or its name. :raises InputError: when there is none."""
    if text.lower().endswith(".json"):
        return pens_from_json(_file(text, "pen file"))
    for pens in (*more, *SHIPPED):
        if text.casefold() in (pens.id.casefold(), pens.name.casefold()):
            return pens
    known = ", ".join(pens.id for pens in (*more, *SHIPPED))
    raise InputError(f"“{text}” is not a pen set: name a .json file, or one of {known}.")


class OutputOptions(BaseModel):
    """What was asked of the output, as typed; '' and None where nothing was."""

    model_config = ConfigDict(frozen=True)

    recipe: str = ""
    pens: str = ""
    color: str = ""
    crossing: str = ""
    no_layers: bool = False
    text: str = ""
    dpi: int | None = None
    picture_dpi: int | None = None
    archive: bool = False

    def made(self, recipe: Recipe = PLAIN, recipes: tuple[Recipe, ...] = (), pens: tuple[PenSet, ...] = ()) -> Recipe:
        """The recipe with what was asked for.

        :param recipe: where none was named; :param recipes: and :param pens: that can be named beside those that ship.
        :raises InputError: for an unknown name, and for choices that do not go together.
        """
        if self.recipe:
            recipe = recipe_named(self.recipe, recipes)
        more: dict[str, Any] = {}
        if self.pens:
            more["pens"] = pens_named(self.pens, pens).model_dump()
        if self.color:
            if self.color.lower() not in _COLOURS:
                raise InputError(f"“{self.color}” is not a choice of colours: write color, gray or black.")
            more["colour"] = _COLOURS[self.color.lower()]
        if self.crossing:
            if self.crossing not in ("cover", "blend"):
                raise InputError(f"“{self.crossing}” is not a way to cross: write cover or blend.")
            more["crossing"] = self.crossing
        if self.no_layers:
            more["layers"] = "none"
        if self.text:
            if self.text not in ("text", "outlines"):
                raise InputError(f"“{self.text}” is not a way to write text: write text or outlines.")
            more["text"] = self.text
        if self.dpi is not None:
            more["dpi"] = self.dpi
            # pictures follow the line work down, unless they were asked for themselves
            more["picture_dpi"] = min(recipe.picture_dpi, self.dpi)
        if self.picture_dpi is not None:
            more["picture_dpi"] = self.picture_dpi
        if self.archive:
            more |= {"file": "archive", "viewports": False}
        return changed(recipe, **more) if more else recipe
