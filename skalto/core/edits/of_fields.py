"""Edits of 3D fields."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

from skalto.core.edits.edit import UNGIVEN, Around, Edit, Patch, SheetEdit, exchanged, kept, replaced, without
from skalto.core.errors import InputError
from skalto.core.job import JobDocument
from skalto.core.lengths import Millimetres
from skalto.core.scene.choices import SceneChoices
from skalto.core.scene.field import FieldSpec, Opening
from skalto.core.scene.views import PreparedView
from skalto.core.sheets.sheet import SheetSpec

Step = tuple[Millimetres, Millimetres]


class AddField(SheetEdit):
    """Put a 3D field on a sheet."""

    kind: Literal["add_field"]
    field: FieldSpec

    def changed(self, sheet: SheetSpec, job: JobDocument, around: Around) -> SheetSpec:
        if job.source(self.field.source).drawing:
            raise InputError("A 3D field shows a model: choose one, or put the drawing on the sheet as a drawing view.")
        return sheet.model_copy(update={"fields": (*without(sheet.fields, self.field.id), self.field)})

    def label(self, job: JobDocument) -> str:
        return f"add {self.field.title}"


class FieldEdit(SheetEdit):
    """A change of one 3D field of a sheet."""

    field: str

    def changed(self, sheet: SheetSpec, job: JobDocument, around: Around) -> SheetSpec:
        return sheet.model_copy(update={"fields": exchanged(sheet.fields, self.made(sheet.field(self.field)))})

    def made(self, field: FieldSpec) -> FieldSpec:
        """The field after it."""
        raise NotImplementedError

    def title(self, job: JobDocument) -> str:
        """What the field is called."""
        return job.sheet(self.sheet).field(self.field).title


class FieldPatch(Patch):
    """Some of a 3D field: its own fields, or one side of its place or size by itself (x, y, width, height), so that two typed
    quickly both count."""

    words: ClassVar[dict[str, str]] = {
        "views": "views of", "choices": "contents of", "opening": "opening of", "size": "size of", "frame": "frame of",
        "width": "size of", "height": "size of", "x": "move", "y": "move",
    }  # fmt: skip

    name: str = UNGIVEN
    place: Step = UNGIVEN
    size: Step = UNGIVEN
    frame: bool = UNGIVEN
    choices: SceneChoices = UNGIVEN
    views: tuple[PreparedView, ...] = UNGIVEN
    default: str = UNGIVEN
    opening: Opening = UNGIVEN
    poster_dpi: int = UNGIVEN
    x: Millimetres = UNGIVEN
    y: Millimetres = UNGIVEN
    width: Millimetres = UNGIVEN
    height: Millimetres = UNGIVEN


class ChangeField(FieldEdit):
    kind: Literal["change_field"]
    fields: FieldPatch

    def made(self, field: FieldSpec) -> FieldSpec:
        given = self.fields.given()
        plain: dict[str, Any] = {key: value for key, value in given.items() if key not in ("x", "y", "width", "height")}
        for name, keys, old in (("place", ("x", "y"), field.place), ("size", ("width", "height"), field.size)):
            if any(key in given for key in keys):
                plain[name] = [given.get(key, value) for key, value in zip(keys, old, strict=True)]
        return replaced(field, plain)

    def label(self, job: JobDocument) -> str:
        return f"{self.fields.word} {self.title(job)}"


class MoveField(FieldEdit):
    """Move a 3D field by so many mm, from wherever it is."""

    kind: Literal["move_field"]
    by: Step

    def made(self, field: FieldSpec) -> FieldSpec:
        return replaced(field, {"place": (field.place[0] + self.by[0], field.place[1] + self.by[1])})

    def label(self, job: JobDocument) -> str:
        return f"move {self.title(job)}"


class RemoveField(FieldEdit):
    kind: Literal["remove_field"]

    def changed(self, sheet: SheetSpec, job: JobDocument, around: Around) -> SheetSpec:
        return sheet.model_copy(update={"fields": without(sheet.fields, sheet.field(self.field).id)})

    def label(self, job: JobDocument) -> str:
        return f"remove {self.title(job)}"


class ChangeFieldView(FieldEdit):
    """Keep a prepared view of a 3D field, or change the one of that id; others that are changed meanwhile stay as they are."""

    kind: Literal["change_field_view"]
    view: PreparedView

    def made(self, field: FieldSpec) -> FieldSpec:
        return replaced(field, {"views": [view.model_dump() for view in kept(field.views, self.view)]})

    def label(self, job: JobDocument) -> str:
        self.title(job)
        return f"prepared view {self.view.name}"


EDITS: tuple[type[Edit], ...] = (AddField, ChangeField, MoveField, RemoveField, ChangeFieldView)
