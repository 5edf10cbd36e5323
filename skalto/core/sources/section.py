"""The sources of a job: files brought in."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from skalto.core.errors import NotThere
from skalto.core.ids import ContentId
from skalto.core.job_section import JobSection
from skalto.core.typed import Text

JobUnit = Literal["", "mm", "in"]


class SourceRef(BaseModel):
    """A file brought in: the hash of its content, and the name that it came under."""

    model_config = ConfigDict(frozen=True)

    id: ContentId
    name: Text
    size: int
    earlier: tuple[ContentId, ...] = ()
    """The hashes of its earlier revisions, the last replaced last."""
    news: Text = ""
    """What the last revision brought, in words."""
    drawing: bool = False
    """Whether it is a 2D drawing, not a model."""
    unit_mm: float | None = Field(default=None, gt=0)
    """Millimetres of a drawing's unit as a person said it; None for what the file says."""
    read_as: Text = ""
    """The name that it was read under, where that is another: components without a name of their own are called after it."""

    @property
    def named(self) -> str:
        """The name to read it under, so that its components are called as they were."""
        return self.read_as or self.name


class SourceSection(JobSection):
    """The sources of the job, in the order in which they came."""

    sources: tuple[SourceRef, ...] = ()
    unit: JobUnit = ""
    """In which unit lengths are shown and bare numbers are read, '' until a first source has come."""

    def source(self, source_id: str) -> SourceRef:
        """:raises InputError: when there is no such source."""
        for source in self.sources:
            if source.id == source_id:
                return source
        raise NotThere("This source is no longer in the job: add it again.")
