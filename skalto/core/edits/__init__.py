"""All edits of a job. A feature that has edits of its own adds its module to :data:`FEATURES`, and nothing else."""

from __future__ import annotations

from functools import reduce
from operator import or_
from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import Field

from skalto.core.edits import (
    of_annotations,
    of_annotations_3d,
    of_cutting,
    of_excerpts,
    of_job,
    of_output,
    of_release,
    of_sheet_metal,
    of_sheets,
    of_sources,
    of_views,
)
from skalto.core.edits.edit import Around, Edit
from skalto.core.errors import InputError
from skalto.core.job import JobDocument
from skalto.core.scene.annotation_3d import Annotation3d
from skalto.core.sheets.sheet import ViewSpec

FEATURES = (
    of_job,
    of_sources,
    of_sheets,
    of_views,
    of_excerpts,
    of_annotations_3d,
    of_annotations,
    of_cutting,
    of_sheet_metal,
    of_release,
    of_output,
)

if TYPE_CHECKING:
    Single = Edit
    AnyEdit = Edit
else:
    Single = Annotated[reduce(or_, (edit for feature in FEATURES for edit in feature.EDITS)), Field(discriminator="kind")]


class Together(Edit):
    """Several edits, one after the other, as one step."""

    kind: Literal["together"]
    edits: tuple[Single, ...] = Field(min_length=1, max_length=1000)

    @property
    def singles(self) -> tuple[Edit, ...]:
        return self.edits

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        for edit in self.edits:
            job = edit.apply(job, around)
        return job

    def label(self, job: JobDocument) -> str:
        first = self.edits[0].label(job)
        return first if len(self.edits) == 1 else f"{first} and {len(self.edits) - 1} more"


if not TYPE_CHECKING:
    AnyEdit = Annotated[Single | Together, Field(discriminator="kind")]


def apply(job: JobDocument, edit: Edit, around: Around | None = None) -> JobDocument:
    """The job after an edit. :raises InputError: when the edit does not fit the job, with the sentence that says why."""
    return _only_its_own(edit.apply(job, around or Around()))


def _only_its_own(job: JobDocument) -> JobDocument:
    """The job, if all that its sheets show is among its sources. :raises InputError: when something is not."""
    known = {source.id for source in job.sources}
    for sheet in job.sheets:
        every: tuple[ViewSpec | Annotation3d, ...] = (*sheet.views, *sheet.annotations_3d)
        for shown in every:
            if shown.source not in known:
                raise InputError(f"{shown.name} on {sheet.name} shows a source that is not in the job: add it first.")
        if sheet.plates_table is not None:
            job.cut_list(sheet.plates_table.cut_list)
        if sheet.drawings_table is not None and sheet.drawings_table.pack:
            job.pack(sheet.drawings_table.pack)
        if sheet.cutting is not None:
            job.cut_list(sheet.cutting.cut_list)
            if sheet.cutting.sources - known:
                raise InputError(f"A decoration on {sheet.name} shows a source that is not in the job: add it first.")
    for own in job.cut_lists:
        for part in own.parts:
            if part.origin.source not in known:
                raise InputError(f"{part.name} of {own.name} is of a source that is not in the job: add it first.")
            if any(decoration.sources - known for decoration in part.decorations):
                raise InputError(f"A decoration of {part.name} shows a source that is not in the job: add it first.")
    return job


__all__ = ["AnyEdit", "Around", "Edit", "Together", "apply"]
