"""Viewpoints that a person keeps in a job."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict, Field

from skalto.core.ids import ShortId
from skalto.core.job_section import JobSection
from skalto.core.typed import Line
from skalto.core.viewpoint import Vector


class SavedViewpoint(BaseModel):
    """A direction of looking that a person keeps under a name."""

    model_config = ConfigDict(frozen=True)

    id: ShortId
    name: Line = Field(min_length=1, max_length=60)
    look: Vector
    up: Vector


class ViewpointSection(JobSection):
    """Saved viewpoints of the job."""

    viewpoints: tuple[SavedViewpoint, ...] = ()
