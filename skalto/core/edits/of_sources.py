"""Edits of a job's sources."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from skalto.core.edits.edit import Around, Edit, without
from skalto.core.errors import InputError
from skalto.core.job import JobDocument
from skalto.core.layout import drawing_views
from skalto.core.sheets.sheet import ViewSpec
from skalto.core.sources.section import JobUnit, SourceRef
from skalto.core.typed import Text


class AddSource(Edit):
    """A file that was read; the *unit* that it is in is the job's where it is the first."""

    kind: Literal["add_source"]
    source: SourceRef
    unit: JobUnit = ""

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        unit = job.unit or self.unit
        return job.model_copy(update={"sources": (*without(job.sources, self.source.id), self.source), "unit": unit})

    def label(self, job: JobDocument) -> str:
        return f"add {self.source.name}"


class SetJobUnit(Edit):
    """In which unit the job shows lengths, and reads bare numbers."""

    kind: Literal["set_job_unit"]
    unit: JobUnit

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        return job.model_copy(update={"unit": self.unit})

    def label(self, job: JobDocument) -> str:
        return f"unit {self.unit}"


class RemoveSource(Edit):
    kind: Literal["remove_source"]
    source: Text

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        used = [
            sheet.name
            for sheet in job.sheets
            if self.source in sheet.shown_sources or (sheet.cutting is not None and self.source in sheet.cutting.sources)
        ]
        used += [own.name for own in job.cut_lists if self.source in own.sources]
        if used:
            raise InputError(f"{job.source(self.source).name} is shown on {', '.join(used)}: take what shows it off first.")
        return job.model_copy(update={"sources": without(job.sources, self.source)})

    def label(self, job: JobDocument) -> str:
        return f"remove {job.source(self.source).name}"


class SetUnit(Edit):
    """What a drawing's unit is, in mm; excerpts of it show the same part of it, at the scale that they have."""

    kind: Literal["set_unit"]
    source: Text
    unit_mm: float = Field(gt=1e-9, lt=1e9)

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        source = job.source(self.source)
        if not source.drawing:
            raise InputError("Only a drawing's unit can be said: a model's file has its own.")
        kind = around.drawings(source.id).kind
        sources = tuple(s.model_copy(update={"unit_mm": self.unit_mm}) if s.id == source.id else s for s in job.sources)
        job = job.model_copy(update={"sources": sources})
        for sheet in job.sheets:
            views = tuple(
                drawing_views.rescaled_unit(v, self.unit_mm) if v.source == source.id and _in_units(v, kind) else v
                for v in sheet.views
            )
            job = job.with_sheet(sheet.with_views(views))
        return job

    def label(self, job: JobDocument) -> str:
        return f"unit of {job.source(self.source).name}"


def _in_units(view: ViewSpec, kind: str) -> bool:
    """Whether an excerpt is measured in its drawing's unit: a page saved in a DXF file is in millimetres of paper."""
    return view.excerpt is not None and not (kind == "dxf" and view.excerpt.space)


EDITS = (AddSource, SetJobUnit, RemoveSource, SetUnit)
