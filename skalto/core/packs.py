"""Packs: ordered lists of sheets that go out together, and the names of their files."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator

from skalto.core.errors import InputError, NotThere
from skalto.core.fields import check_pattern, filled
from skalto.core.ids import ShortId
from skalto.core.job_section import JobSection
from skalto.core.recipes import Recipe
from skalto.core.sheets.sheet import SheetSpec
from skalto.core.typed import Line, Text

DEFAULT_PATTERN = "{number}_{revision}_{title}"
LONGEST = 120
_UNSAFE = re.compile(r'[<>:"/\\|?*\x00-\x1f]+')
_RESERVED = {"con", "prn", "aux", "nul", *(f"{port}{n}" for port in ("com", "lpt") for n in range(1, 10))}


PackFormat = Literal["PDF", "DXF", "SVG"]


class Pack(BaseModel):
    """An ordered list of sheets under a name, the *recipe* that writes them by its id, '' for each sheet's own, one file of
    all or one a sheet, the *pattern* of file names, and the *formats* that go out; a DXF or SVG file holds one sheet."""

    model_config = ConfigDict(frozen=True)

    id: ShortId
    name: Line = Field(min_length=1, max_length=80)
    sheets: tuple[Text, ...] = ()
    recipe: Text = ""
    files: Literal["one", "each"] = "one"
    pattern: Text = DEFAULT_PATTERN
    formats: tuple[PackFormat, ...] = ("PDF",)

    @field_validator("formats")
    @classmethod
    def _formats(cls, formats: tuple[PackFormat, ...]) -> tuple[PackFormat, ...]:
        if not formats:
            raise ValueError("A pack goes out in a format: choose one.")
        return tuple(dict.fromkeys(formats))

    @field_validator("pattern")
    @classmethod
    def _pattern(cls, pattern: str) -> str:
        if not pattern.strip():
            raise ValueError("A file needs a name: write a field such as {title}, or words.")
        return check_pattern(pattern)


class PackSection(JobSection):
    """Packs of the job's sheets."""

    packs: tuple[Pack, ...] = ()

    def pack(self, pack_id: str) -> Pack:
        """:raises InputError: when there is no such pack."""
        for pack in self.packs:
            if pack.id == pack_id:
                return pack
        raise NotThere("This pack is no longer in the job: choose another.")


def safe(name: str) -> str:
    """A file name that every system takes: no marks that name folders or drives, no name that a system keeps for itself
    (common practice), spaces as underscores, at most :data:`LONGEST` letters."""
    name = unicodedata.normalize("NFC", name)
    name = re.sub(r"\s+", "_", _UNSAFE.sub("-", name)).strip("._- ")[:LONGEST].strip("._- ")
    return f"{name}_" if name.casefold().split(".")[0] in _RESERVED else name or "sheet"


@dataclass(frozen=True)
class NamedFile:
    """A file to be: its name, and which sheets of the pack it holds, by their places."""

    name: str
    sheets: tuple[int, ...]


def shared_fields(fields: Sequence[Mapping[str, str]]) -> dict[str, str]:
    """The fields that have the same value for all sheets."""
    first = fields[0] if fields else {}
    return {key: value for key, value in first.items() if all(row.get(key) == value for row in fields)}


def file_names(pack: Pack, fields: Sequence[Mapping[str, str]], suffix: str) -> list[NamedFile]:
    """The files of a pack. *fields* are those of each sheet, in order.

    :raises InputError: when two sheets would have one name.
    """
    if pack.files == "one":
        # of one file for all, no sheet's own fields make sense but those that all share
        stem = filled(pack.pattern, shared_fields(fields) | ({"title": pack.name} if len(fields) != 1 else {}))
        return [NamedFile(safe(stem or pack.name) + suffix, tuple(range(len(fields))))]
    files = [NamedFile(safe(filled(pack.pattern, row)) + suffix, (number,)) for number, row in enumerate(fields)]
    taken: dict[str, list[str]] = {}
    for number, file in enumerate(files):
        taken.setdefault(file.name.casefold(), []).append(f"{number + 1} {fields[number].get('sheet', '')}".strip())
    for folded, sheets in taken.items():
        if len(sheets) > 1:
            name = next(file.name for file in files if file.name.casefold() == folded)
            raise InputError(
                f"Sheets {' and '.join(sheets)} would both be {name}: put {{number}} or {{title}} into the pattern."
            )
    return files


@dataclass(frozen=True)
class Disagreement:
    """What of a sheet is not as the recipe that sends it has it, or not as it was when it was looked at last."""

    sheet: str
    message: str


def disagreements(sheet: SheetSpec, recipe: Recipe, pens: str) -> list[Disagreement]:
    """Where a sheet and a recipe differ: the recipe that it was set up with, format, orientation, pens.

    :param pens: the name of the sheet's pens.
    """
    found = []
    paper = sheet.paper()
    if sheet.recipe and sheet.recipe != recipe.id:
        found.append("was set up with another recipe")
    if recipe.format and recipe.format != sheet.format:
        found.append(f"is {sheet.format}, the recipe is for {recipe.format}")
    lies = "landscape" if paper.width >= paper.height else "portrait"
    if (
        recipe.orientation is not None
        and recipe.orientation.value in ("landscape", "portrait")
        and recipe.orientation.value != lies
    ):
        found.append(f"is {lies}, the recipe is for {recipe.orientation.value}")
    if recipe.pens is not None and recipe.pens.name != pens:
        found.append(f"has the pens {pens}, the recipe draws with {recipe.pens.name}")
    if sheet.annotations_3d and recipe.file == "archive":
        found.append("has a 3D annotation, which an archive file may not hold")
    if sheet.annotations_3d and recipe.file == "cutter":
        found.append("has a 3D annotation, which a cutter's file leaves out")
    return [Disagreement(sheet.id, f"{sheet.name} {what}.") for what in found]
