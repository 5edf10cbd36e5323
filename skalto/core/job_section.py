"""Sections of the job document: the part of it that a feature owns, with what is asked of it."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict


class JobSection(BaseModel):
    """Fields of the job document, all of them with a default, so that a job of before the feature opens. A feature writes its
    section where its values are; :class:`skalto.core.job.JobDocument` is made of all of them."""

    model_config = ConfigDict(frozen=True, extra="forbid")
