"""Release rules: which files are made of what, by which recipe, under which names, in which folders."""

from __future__ import annotations

import json
from enum import StrEnum
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator

from skalto.core.errors import InputError, what_is_wrong
from skalto.core.fields import names_in
from skalto.core.ids import ShortId
from skalto.core.sources.models.parts import PartKind
from skalto.core.typed import Line, Text

KIND = "skalto.rules"


class FileKind(StrEnum):
    """What a file is."""

    PDF = "PDF"
    FLAT = "flat-pattern DXF"
    PROFILE = "profile DXF"
    STEP = "STEP"
    GLTF = "glTF"
    HTML = "HTML"
    PDF_3D = "3D PDF"
    LIST = "parts list CSV"

    @property
    def suffix(self) -> str:
        return _SUFFIXES[self]


_SUFFIXES = {
    FileKind.PDF: ".pdf", FileKind.FLAT: ".dxf", FileKind.PROFILE: ".dxf", FileKind.STEP: ".step", FileKind.GLTF: ".glb",
    FileKind.HTML: ".html", FileKind.PDF_3D: ".pdf", FileKind.LIST: ".csv",
}  # fmt: skip

Subject = Literal[
    "plate", "bent sheet", "rolled sheet", "turned", "profile", "part", "bought", "assembly", "sheet", "pack", "job"
]
"""What a file is made of: a part of a kind, a sheet, a pack of sheets, or all of the job."""

PARTS: frozenset[str] = frozenset(kind.value for kind in PartKind)
_SHEETS = frozenset({PartKind.PLATE.value, PartKind.BENT.value, PartKind.ROLLED.value})
_MADE_OF: dict[FileKind, frozenset[str]] = {
    FileKind.PDF: frozenset({"sheet", "pack"}),
    FileKind.FLAT: _SHEETS,
    FileKind.PROFILE: frozenset({PartKind.PLATE.value}),
    FileKind.STEP: PARTS,
    FileKind.GLTF: PARTS,
    FileKind.HTML: PARTS,
    FileKind.PDF_3D: PARTS,
    FileKind.LIST: frozenset({"job"}),
}


class OnlyIf(BaseModel):
    """A file is made only of what has a *value* in a *field*; '' for any value but no."""

    model_config = ConfigDict(frozen=True)

    field: Line = Field(min_length=1, max_length=40)
    value: Line = Field(default="", max_length=80)


class FileRule(BaseModel):
    """A kind of *file* that is made *of* some subjects, by the *recipe* of an id ('' for its own or the one that ships), *only
    if* a property says so; its *name* and its *folder* are patterns over the subject's properties, a slash parts folders."""

    model_config = ConfigDict(frozen=True)

    of: tuple[Subject, ...] = Field(min_length=1)
    file: FileKind
    recipe: Text = ""
    only_if: OnlyIf | None = None
    name: Line = Field(default="{mark}_{name}", min_length=1, max_length=200)
    folder: Line = Field(default="", max_length=200)

    @field_validator("of")
    @classmethod
    def _of(cls, of: tuple[Subject, ...]) -> tuple[Subject, ...]:
        return tuple(dict.fromkeys(of))

    @field_validator("name", "folder")
    @classmethod
    def _pattern(cls, pattern: str) -> str:
        rest = pattern
        for name in names_in(pattern):
            rest = rest.replace(f"{{{name}}}", "")
        if "{" in rest or "}" in rest:
            raise ValueError("A brace has no other half: write a property as {mark}.")
        if ".." in pattern.split("/"):
            raise ValueError("“..” leads out of the outbox: name folders in it.")
        return pattern.strip().strip("/")

    def fits(self) -> str:
        """Why it cannot be, '' where it can."""
        wrong = [own for own in self.of if own not in _MADE_OF[self.file]]
        if wrong:
            return f"No {self.file.value} is made of a {wrong[0]}: it is made of {', '.join(sorted(_MADE_OF[self.file]))}."
        return ""


class ReleaseRules(BaseModel):
    """Rules under a name: the *files* that are made, whether *bought* parts are in, and whether an earlier file of a name is
    *moved aside*, into the folder of that name, or replaced."""

    model_config = ConfigDict(frozen=True)

    id: ShortId
    name: Line = Field(min_length=1, max_length=60)
    version: int = Field(default=1, ge=1)
    files: tuple[FileRule, ...] = Field(min_length=1, max_length=60)
    bought: bool = False
    earlier: Literal["moved aside", "replaced"] = "moved aside"
    aside: Line = Field(default="earlier", min_length=1, max_length=60, pattern=r"^[^/\\:*?\"<>|.]+$")

    @field_validator("files")
    @classmethod
    def _fitting(cls, files: tuple[FileRule, ...]) -> tuple[FileRule, ...]:
        for rule in files:
            if wrong := rule.fits():
                raise ValueError(wrong)
        return files


class RulesFile(BaseModel):
    """Rules as a file of their own."""

    kind: Literal["skalto.rules"] = "skalto.rules"
    rules: ReleaseRules


def rules_to_json(rules: ReleaseRules) -> bytes:
    return (RulesFile(rules=rules).model_dump_json(indent=2) + "\n").encode()


def rules_from_json(data: bytes) -> ReleaseRules:
    """:raises InputError: when it is no file of rules, saying where it is wrong."""
    try:
        plain = json.loads(data)
    except ValueError:
        raise InputError("This file is not JSON: choose release rules that were saved here.") from None
    if not isinstance(plain, dict) or plain.get("kind") != KIND:
        raise InputError("This file has no release rules: choose one that was saved here.")
    try:
        return RulesFile.model_validate(plain).rules
    except ValidationError as error:
        raise InputError(f"These rules cannot be used: {what_is_wrong(error)}") from None


SHIPPED_RULES = (
    ReleaseRules(
        id="shop", name="For the shop",
        files=(
            FileRule(of=("sheet",), file=FileKind.PDF, name="{mark}_{sheet}_{revision}", folder="drawings"),
            FileRule(of=("plate", "bent sheet", "rolled sheet"), file=FileKind.FLAT, folder="flat patterns/{material}",
                     name="{mark}_{revision}_{material}_{thickness}"),
            FileRule(of=("plate", "bent sheet", "rolled sheet", "turned", "profile", "part"), file=FileKind.STEP,
                     name="{mark}_{name}_{revision}", folder="models"),
            FileRule(of=("job",), file=FileKind.LIST, name="{job}_parts"),
        ),
    ),
)  # fmt: skip
"""Rules of our own."""
