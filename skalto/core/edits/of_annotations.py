"""Edits of what is written on sheets: notes and dimensions."""

from __future__ import annotations

from typing import Literal

from skalto.core.edits.edit import UNGIVEN, Around, Edit, Patch, SheetEdit, ViewEdit, among, exchanged, view_on, without
from skalto.core.job import JobDocument
from skalto.core.lengths import Millimetres
from skalto.core.sheets.annotations import Dimension, ModelPoint, Note, Point
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.typed import Text


class AddNote(SheetEdit):
    kind: Literal["add_note"]
    note: Note

    def changed(self, sheet: SheetSpec, job: JobDocument, around: Around) -> SheetSpec:
        return sheet.model_copy(update={"notes": (*without(sheet.notes, self.note.id), self.note)})

    def label(self, job: JobDocument) -> str:
        return f"add a note on {job.sheet(self.sheet).name}"


class NotePatch(Patch):
    """Some fields of a note."""

    text: Text = UNGIVEN
    place: Point = UNGIVEN
    height: float = UNGIVEN
    angle: float = UNGIVEN
    view: Text | None = None
    target: ModelPoint | None = None


class ChangeNote(SheetEdit):
    kind: Literal["change_note"]
    note: Text
    fields: NotePatch

    def changed(self, sheet: SheetSpec, job: JobDocument, around: Around) -> SheetSpec:
        note: Note = among(sheet.notes, self.note, "note")
        return sheet.model_copy(update={"notes": exchanged(sheet.notes, self.fields.on(note))})

    def label(self, job: JobDocument) -> str:
        return f"change a note on {job.sheet(self.sheet).name}"


class RemoveNote(SheetEdit):
    kind: Literal["remove_note"]
    note: Text

    def changed(self, sheet: SheetSpec, job: JobDocument, around: Around) -> SheetSpec:
        among(sheet.notes, self.note, "note")
        return sheet.model_copy(update={"notes": without(sheet.notes, self.note)})

    def label(self, job: JobDocument) -> str:
        return f"remove a note on {job.sheet(self.sheet).name}"


class DimensionPatch(Patch):
    """Some fields of a dimension."""

    prefix: Text = UNGIVEN
    suffix: Text = UNGIVEN
    tolerance: Text = UNGIVEN
    decimals: int = UNGIVEN
    offset: Millimetres = UNGIVEN
    along: Millimetres = UNGIVEN
    angle: float = UNGIVEN
    was: float | None = None


def _with_dimensions(sheet: SheetSpec, view: ViewSpec, dimensions: tuple[object, ...]) -> SheetSpec:
    return sheet.with_views(exchanged(sheet.views, view.model_copy(update={"dimensions": dimensions})))


class ChangeDimension(ViewEdit):
    kind: Literal["change_dimension"]
    dimension: Text
    fields: DimensionPatch

    def changed(self, sheet: SheetSpec, job: JobDocument, around: Around) -> SheetSpec:
        view = view_on(sheet, self.view)
        dimension: Dimension = among(view.dimensions, self.dimension, "dimension")
        return _with_dimensions(sheet, view, exchanged(view.dimensions, self.fields.on(dimension)))

    def label(self, job: JobDocument) -> str:
        return f"change a dimension of {self.title(job)}"


class RemoveDimension(ViewEdit):
    kind: Literal["remove_dimension"]
    dimension: Text

    def changed(self, sheet: SheetSpec, job: JobDocument, around: Around) -> SheetSpec:
        view = view_on(sheet, self.view)
        among(view.dimensions, self.dimension, "dimension")
        return _with_dimensions(sheet, view, without(view.dimensions, self.dimension))

    def label(self, job: JobDocument) -> str:
        return f"remove a dimension of {self.title(job)}"


EDITS: tuple[type[Edit], ...] = (AddNote, ChangeNote, RemoveNote, ChangeDimension, RemoveDimension)
