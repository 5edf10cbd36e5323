"""Edits of the parts register: what is said of many parts at once, the house's own fields, the series of marks."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from skalto.core.edits.edit import Around, Edit, replaced
from skalto.core.errors import InputError
from skalto.core.job import JobDocument
from skalto.core.release.section import MarkSeries, OwnField
from skalto.core.release.states import RevisionWay
from skalto.core.release.table import with_values
from skalto.core.sources.models.parts import PartFacts, PartKind
from skalto.core.typed import Line, Text

Values = dict[Annotated[Line, Field(max_length=40)], Annotated[Line, Field(max_length=200)]]


class SetParts(Edit):
    """Properties and fields of parts as they are typed, by key: '' is as the model has it again."""

    kind: Literal["set_parts"]
    parts: dict[Text, Values] = Field(min_length=1)

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        made = {key: with_values(job.parts.get(key, PartFacts()), values, job.own_fields) for key, values in self.parts.items()}
        return job.model_copy(update={"parts": job.parts | made})

    def label(self, job: JobDocument) -> str:
        names = sorted({name for values in self.parts.values() for name in values})
        what = names[0] if len(names) == 1 else "properties"
        return f"{what} of {len(self.parts)} parts" if len(self.parts) > 1 else f"{what} of a part"


class SetOwnFields(Edit):
    """The house's own fields of parts. What was said under one that is no longer there is kept, and not shown."""

    kind: Literal["set_own_fields"]
    fields: tuple[OwnField, ...] = Field(max_length=60)

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        names = [own.name.casefold() for own in self.fields]
        twice = next((own.name for own in self.fields if names.count(own.name.casefold()) > 1), None)
        if twice is not None:
            raise InputError(f"Two fields are called {twice}: give each a name of its own.")
        return replaced(job, {"own_fields": [own.model_dump() for own in self.fields]})

    def label(self, job: JobDocument) -> str:
        return "fields of parts"


class SetSeries(Edit):
    """The series that marks are given from; every kind of part is in one of them. Marks that were given stay."""

    kind: Literal["set_series"]
    series: tuple[MarkSeries, ...] = Field(min_length=1, max_length=20)

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        for kind in PartKind:
            count = sum(kind in own.kinds for own in self.series)
            if count != 1:
                raise InputError(f"{kind.value.capitalize()} is in {count or 'no'} series: put it into one.")
        prefixes = [own.prefix for own in self.series]
        twice = next((prefix for prefix in prefixes if prefixes.count(prefix) > 1), None)
        if twice is not None:
            raise InputError(f"Two series begin with “{twice}”: their marks would be the same. Give each a prefix of its own.")
        return replaced(job, {"series": [own.model_dump() for own in self.series]})

    def label(self, job: JobDocument) -> str:
        return "series of marks"


class SetRelease(Edit):
    """How this job is released: by which *rules*, by their id, and whether revisions count by letters or numbers; what is not
    given stays."""

    kind: Literal["set_release"]
    rules: Line | None = Field(default=None, max_length=64)
    revisions: RevisionWay | None = None

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        given = {"rules": self.rules, "revisions": self.revisions}
        return job.model_copy(update={name: value for name, value in given.items() if value is not None})

    def label(self, job: JobDocument) -> str:
        return "release rules" if self.revisions is None else f"revisions by {self.revisions}"


EDITS: tuple[type[Edit], ...] = (SetParts, SetOwnFields, SetSeries, SetRelease)
