"""What a job says of its parts register: the house's own fields, the series that marks are given from, and the marks that were
given."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator, model_validator

from skalto.core.job_section import JobSection
from skalto.core.release.states import RevisionWay
from skalto.core.sources.models.parts import PartKind
from skalto.core.typed import Line

FieldKind = Literal["text", "number", "yes/no", "choice"]
YES, NO = "yes", "no"
PROPERTIES = (
    "mark", "name", "description", "number", "revision", "material", "finish", "thickness", "kind", "quantity", "mass",
)  # fmt: skip
"""What every row of the register has."""


class OwnField(BaseModel):
    """A field of the house's own: its *name*, what it holds, the *choices* of one that is chosen, and whether parts that differ
    in it are other parts (*compared*)."""

    model_config = ConfigDict(frozen=True)

    name: Line = Field(min_length=1, max_length=40)
    kind: FieldKind = "text"
    choices: tuple[Annotated[Line, Field(min_length=1, max_length=80)], ...] = ()
    compared: bool = False

    @field_validator("name")
    @classmethod
    def _name(cls, name: str) -> str:
        name = name.strip()
        if set(name) & set("{}/\\"):
            raise ValueError("A field's name has no braces and no slashes: it stands in braces in file names.")
        if name.casefold() in (*PROPERTIES, "part", ""):
            raise ValueError(f"“{name}” is a property that every part has: choose another name.")
        return name

    @model_validator(mode="after")
    def _chosen(self) -> OwnField:
        if self.kind == "choice" and not self.choices:
            raise ValueError(f"The field {self.name} is one of some choices: give at least one.")
        return self

    def read(self, text: str) -> str:
        """What is typed, as it is kept; '' empties it. :raises ValueError: when it is not of the field's kind."""
        text = text.strip()
        if not text:
            return ""
        match self.kind:
            case "number":
                try:
                    return f"{float(text.replace(',', '.')):.10g}"
                except ValueError:
                    raise ValueError(f"“{text}” is no number for {self.name}: write one such as 2.5.") from None
            case "yes/no":
                known = {"yes": YES, "y": YES, "true": YES, "1": YES, "no": NO, "n": NO, "false": NO, "0": NO}
                if text.casefold() not in known:
                    raise ValueError(f"“{text}” is neither yes nor no for {self.name}.")
                return known[text.casefold()]
            case "choice":
                found = next((own for own in self.choices if own.casefold() == text.casefold()), None)
                if found is None:
                    raise ValueError(f"“{text}” is not a choice of {self.name}: choose {', '.join(self.choices)}.")
                return found
            case _:
                return text


class MarkSeries(BaseModel):
    """From which marks parts of some *kinds* are given: *prefix* and a number, from *start* in steps, of at least so many
    *digits*."""

    model_config = ConfigDict(frozen=True)

    kinds: tuple[PartKind, ...] = Field(min_length=1)
    prefix: Line = Field(default="", max_length=20)
    start: int = Field(default=1, ge=0, le=10**8)
    step: int = Field(default=1, ge=1, le=10**6)
    digits: int = Field(default=3, ge=1, le=9)

    @field_validator("prefix")
    @classmethod
    def _prefix(cls, prefix: str) -> str:
        prefix = prefix.strip()
        if prefix[-1:].isdigit():
            raise ValueError(f"The prefix {prefix} ends in a digit, which could not be told from the number: end it in a mark.")
        return prefix

    def mark(self, number: int) -> str:
        return f"{self.prefix}{number:0{self.digits}d}"


SHIPPED_SERIES = (
    MarkSeries(kinds=(PartKind.ASSEMBLY,), prefix="A"),
    MarkSeries(kinds=(PartKind.PLATE, PartKind.BENT, PartKind.ROLLED), prefix="S"),
    MarkSeries(kinds=(PartKind.TURNED, PartKind.PROFILE, PartKind.MADE), prefix="P"),
    MarkSeries(kinds=(PartKind.BOUGHT,), prefix="B"),
)
"""Series of our own; every kind is in one."""


class Identity(BaseModel):
    """What makes two parts equal: numbers that congruent shapes share, material, finish, and the compared fields of the
    house; of an assembly a name for its *children* and their places."""

    model_config = ConfigDict(frozen=True)

    faces: int = 0
    fingerprint: tuple[float, ...] = ()
    material: str = ""
    told: tuple[tuple[str, str], ...] = ()
    children: str = ""
    content: str = ""


class GivenMark(BaseModel):
    """A mark that was given: to the part of a *key*, which was what its identity says; *dropped* once that part is gone. A
    dropped mark is never given again."""

    model_config = ConfigDict(frozen=True)

    mark: str
    key: str
    kind: PartKind
    identity: Identity
    dropped: bool = False


class RegisterSection(JobSection):
    """The parts register."""

    own_fields: tuple[OwnField, ...] = ()
    series: tuple[MarkSeries, ...] = SHIPPED_SERIES
    given_marks: tuple[GivenMark, ...] = ()
    revisions: RevisionWay = "letters"
    rules: str = ""
    """The release rules that this job goes by, '' for those that ship."""

    def own_field(self, name: str) -> OwnField | None:
        return next((own for own in self.own_fields if own.name.casefold() == name.casefold()), None)
