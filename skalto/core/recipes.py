"""Recipes: choices for output that are kept under a name."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from fnmatch import fnmatchcase
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator, model_validator

from skalto.core.errors import InputError, what_is_wrong
from skalto.core.fields import check_pattern, filled
from skalto.core.ids import ShortId
from skalto.core.job_section import JobSection
from skalto.core.paper import Orientation, parse_format
from skalto.core.pens import PenSet
from skalto.core.sheet_metal.flat_writing import FlatWriting
from skalto.core.typed import Line, Text

ColourMode = Literal["colour", "grey", "black"]
LayerMode = Literal["source", "source and edge classes", "none"]
FileKind = Literal["plain", "archive", "smallest", "cutter"]
Crossing = Literal["cover", "blend"]
KIND = "skalto.recipe"
LINE_DPI = 600
"""What line work is usually put out at (common practice)."""

PRINTABLE_WIDTH = 0.13
"""The narrowest line of ISO 128-2, mm (from memory): thinner ones are told of."""

Dpi = Annotated[int, Field(ge=36, le=2400)]
Patterns = tuple[Annotated[Line, Field(min_length=1, max_length=120)], ...]


class Recipe(BaseModel):
    """How sheets go out.

    *format* and *orientation* are those that the sheets are expected to have, '' and None for any; *pens* draw instead of each
    sheet's own, where there are some. A sheet that is larger than *reduced_to*, a format, goes out as PDF reduced to fit it,
    and says so; '' for none: each at its true scale. Layers are named by patterns with ``*`` and ``?``: those *left_out* are
    not drawn at all, those *start_hidden* are in the file but switched off, those *locked* cannot be switched, and
    *layer_order* lists which come first. *viewports* let a reader's ruler read model lengths. *dpi* is the resolution of line
    work: what is drawn as pixels is drawn at it, and *picture_dpi* is the most that pictures and gradients keep, never more.
    *title* to *keywords* may hold fields in braces. *least_width*, mm, *words* and *size_limit*, MB, are what the finished file
    is checked for. *flat* is how flat patterns are written as DXF, None for as they ship.
    """

    model_config = ConfigDict(frozen=True)

    id: ShortId
    name: Line = Field(min_length=1, max_length=60)
    version: int = Field(default=1, ge=1)
    format: Text = ""
    reduced_to: Text = ""
    orientation: Orientation | None = None
    pens: PenSet | None = None
    crossing: Crossing | None = None
    colour: ColourMode = "colour"
    layers: LayerMode = "source"
    left_out: Patterns = ()
    start_hidden: Patterns = ()
    locked: Patterns = ()
    layer_order: Patterns = ()
    viewports: bool = True
    text: Literal["text", "outlines"] = "text"
    dpi: Dpi = LINE_DPI
    picture_dpi: Dpi = 300
    compression: Literal["lossless", "jpeg"] = "lossless"
    quality: int = Field(default=85, ge=20, le=100)
    file: FileKind = "plain"
    title: Line = Field(default="", max_length=200)
    author: Line = Field(default="", max_length=200)
    subject: Line = Field(default="", max_length=200)
    keywords: Line = Field(default="", max_length=200)
    least_width: float = Field(default=PRINTABLE_WIDTH, ge=0, le=5)
    words: Patterns = ()
    size_limit: float | None = Field(default=None, gt=0)
    flat: FlatWriting | None = None

    @property
    def writes_layers(self) -> bool:
        """Whether the file has layers to switch. An archive has none: what it shows is not to depend on a switch."""
        return self.layers != "none" and self.file != "archive"

    @field_validator("title", "author", "subject", "keywords")
    @classmethod
    def _words(cls, pattern: str) -> str:
        return check_pattern(pattern)

    @field_validator("format", "reduced_to")
    @classmethod
    def _format(cls, text: str) -> str:
        try:
            return parse_format(text).name if text.strip() else ""
        except InputError as error:
            raise ValueError(str(error)) from None

    @model_validator(mode="after")
    def _size(self) -> Recipe:
        if self.reduced_to and self.file == "cutter":
            raise ValueError("A cutter cuts what the file says: its files are never reduced. Choose another kind of file.")
        return self

    @model_validator(mode="after")
    def _resolutions(self) -> Recipe:
        if self.picture_dpi > self.dpi:
            raise ValueError(
                f"Pictures and gradients at {self.picture_dpi} dpi would be finer than the line work at {self.dpi} dpi, which "
                f"nobody sees in print: give them {self.dpi} dpi or less, or raise the line work first."
            )
        return self


@dataclass(frozen=True)
class Words:
    """What a file says of itself in words."""

    title: str
    author: str
    subject: str
    keywords: str


def words_of(recipe: Recipe, fields: Mapping[str, str], title: str, author: str) -> Words:
    """The words that a recipe gives a file, its fields filled in; *title* and *author* where it gives none."""
    return Words(
        filled(recipe.title, fields) or title,
        filled(recipe.author, fields) or author,
        filled(recipe.subject, fields),
        filled(recipe.keywords, fields),
    )


def named(patterns: Patterns, name: str) -> bool:
    """Whether a layer's name fits one of some patterns, whatever its case."""
    return any(fnmatchcase(name.casefold(), pattern.casefold()) for pattern in patterns)


class RecipeFile(BaseModel):
    """A recipe as a file of its own."""

    kind: Literal["skalto.recipe"] = "skalto.recipe"
    recipe: Recipe


def recipe_to_json(recipe: Recipe) -> bytes:
    return (RecipeFile(recipe=recipe).model_dump_json(indent=2) + "\n").encode()


def recipe_from_json(data: bytes) -> Recipe:
    """:raises InputError: when it is no recipe, saying where it is wrong."""
    try:
        plain = json.loads(data)
    except ValueError:
        raise InputError("This file is not JSON: choose a recipe that was saved here.") from None
    if not isinstance(plain, dict) or plain.get("kind") != KIND:
        raise InputError("This file is not a recipe: choose one that was saved here.")
    try:
        return RecipeFile.model_validate(plain).recipe
    except ValidationError as error:
        raise InputError(f"This recipe cannot be used: {what_is_wrong(error)}") from None


def changed(recipe: Recipe, **values: object) -> Recipe:
    """The recipe with other choices. :raises InputError: when they do not go together."""
    try:
        return Recipe.model_validate(recipe.model_dump() | values)
    except ValidationError as error:
        raise InputError(what_is_wrong(error)) from None


_HAIRLINE_SET = "hairline"


def _shipped() -> tuple[Recipe, ...]:
    from skalto.core.pens import SHIPPED

    hairline = next(pens for pens in SHIPPED if pens.id == _HAIRLINE_SET)
    return (
        Recipe(id="shop", name="Shop drawing"),
        Recipe(id="grey", name="Review print, greyscale", colour="grey", picture_dpi=200, compression="jpeg"),
        Recipe(id="cutter", name="Cutter", file="cutter", pens=hairline, layers="none", text="outlines", least_width=0),
        Recipe(id="archive", name="Archive (PDF/A-2b)", file="archive", viewports=False),
        Recipe(id="reduced-a3", name="Reduced to A3, for reading", reduced_to="A3", least_width=0.05),
        Recipe(id="small", name="Smallest file", file="smallest", picture_dpi=150, compression="jpeg", quality=70),
    )


SHIPPED_RECIPES = _shipped()
PLAIN = SHIPPED_RECIPES[0]
"""What goes when nothing is chosen."""
OWN = PLAIN.model_copy(update={"id": "own", "name": "each sheet's own"})
"""How a file is put together whose sheets are written by several recipes."""


def shared_recipe(recipes: Sequence[Recipe]) -> Recipe:
    """The recipe that some sheets share, or :data:`OWN` where they differ."""
    return recipes[0] if recipes and all(recipe == recipes[0] for recipe in recipes) else OWN


def against_joining(names: Sequence[str], recipes: Sequence[Recipe]) -> list[str]:
    """Why sheets of these recipes cannot be one file: an archive cannot hold what is none."""
    archives = [name for name, recipe in zip(names, recipes, strict=True) if recipe.file == "archive"]
    if not archives or len(archives) == len(names):
        return []
    whose = ", ".join(archives)
    return [
        f"{whose} would be archived and the other sheets not, which one file cannot be: write one file per sheet, or choose "
        "one recipe for the pack."
    ]


def onto_finished_page(recipe: Recipe) -> Recipe:
    """A recipe as it goes onto a finished page: layers would be those of the other file, and the page is as large as it is.

    :raises InputError: for one that writes files of a kind of its own.
    """
    if recipe.file != "plain":
        raise InputError(f"{recipe.name} writes files of a kind of its own: put it onto the page by a plain recipe.")
    return recipe.model_copy(update={"layers": "none", "reduced_to": ""})


class RecipeSection(JobSection):
    """Recipes that travel with a saved job; while it is here, recipes are shared by all jobs."""

    recipes: tuple[Recipe, ...] = ()
