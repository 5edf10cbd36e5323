"""Edits of 3D annotations."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

import numpy as np
from pydantic import model_validator

from skalto.core.earlier_words import by_todays_names
from skalto.core.edits.edit import UNGIVEN, Around, Edit, Patch, SheetEdit, exchanged, kept, replaced, without
from skalto.core.errors import InputError
from skalto.core.job import JobDocument
from skalto.core.lengths import Millimetres
from skalto.core.scene.annotation_3d import Annotation3d, Opening
from skalto.core.scene.choices import SceneChoices
from skalto.core.scene.kept import MOST, Kept
from skalto.core.scene.orienting import turned_kept, turned_view
from skalto.core.scene.turns import Turn, straightened
from skalto.core.scene.views import PreparedView
from skalto.core.sheets.sheet import SheetSpec
from skalto.core.typed import Text
from skalto.core.viewpoint import Vector

Step = tuple[Millimetres, Millimetres]


class _WithAnnotation(SheetEdit):
    """An edit that names or brings a 3D annotation, which was called a field before."""

    @model_validator(mode="before")
    @classmethod
    def _earlier(cls, data: Any) -> Any:
        return by_todays_names(data, {"field": "annotation"})


class AddAnnotation3d(_WithAnnotation):
    """Put a 3D annotation on a sheet."""

    kind: Literal["add_annotation_3d", "add_field"]
    annotation: Annotation3d

    def changed(self, sheet: SheetSpec, job: JobDocument, around: Around) -> SheetSpec:
        if job.source(self.annotation.source).drawing:
            raise InputError("A 3D annotation shows a model: choose one, or put the drawing on the sheet as a drawing view.")
        return sheet.model_copy(
            update={"annotations_3d": (*without(sheet.annotations_3d, self.annotation.id), self.annotation)}
        )

    def label(self, job: JobDocument) -> str:
        return f"add {self.annotation.title}"


class Annotation3dEdit(_WithAnnotation):
    """A change of one 3D annotation of a sheet."""

    annotation: Text

    def changed(self, sheet: SheetSpec, job: JobDocument, around: Around) -> SheetSpec:
        return sheet.model_copy(
            update={"annotations_3d": exchanged(sheet.annotations_3d, self.made(sheet.annotation_3d(self.annotation)))}
        )

    def made(self, annotation: Annotation3d) -> Annotation3d:
        """The annotation after it."""
        raise NotImplementedError

    def title(self, job: JobDocument) -> str:
        """What it is called."""
        return job.sheet(self.sheet).annotation_3d(self.annotation).title


class Annotation3dPatch(Patch):
    """Some of a 3D annotation: its own fields, or one side of its place or size by itself (x, y, width, height), so that two
    typed quickly both count."""

    words: ClassVar[dict[str, str]] = {
        "views": "views of", "choices": "contents of", "opening": "opening of", "size": "size of", "frame": "frame of",
        "width": "size of", "height": "size of", "x": "move", "y": "move",
    }  # fmt: skip

    name: Text = UNGIVEN
    place: Step = UNGIVEN
    size: Step = UNGIVEN
    frame: bool = UNGIVEN
    choices: SceneChoices = UNGIVEN
    views: tuple[PreparedView, ...] = UNGIVEN
    default: Text = UNGIVEN
    opening: Opening = UNGIVEN
    poster_dpi: int = UNGIVEN
    x: Millimetres = UNGIVEN
    y: Millimetres = UNGIVEN
    width: Millimetres = UNGIVEN
    height: Millimetres = UNGIVEN


class ChangeAnnotation3d(Annotation3dEdit):
    kind: Literal["change_annotation_3d", "change_field"]
    fields: Annotation3dPatch

    def made(self, annotation: Annotation3d) -> Annotation3d:
        given = self.fields.given()
        plain: dict[str, Any] = {key: value for key, value in given.items() if key not in ("x", "y", "width", "height")}
        for name, keys, old in (("place", ("x", "y"), annotation.place), ("size", ("width", "height"), annotation.size)):
            if any(key in given for key in keys):
                plain[name] = [given.get(key, value) for key, value in zip(keys, old, strict=True)]
        return replaced(annotation, plain)

    def label(self, job: JobDocument) -> str:
        return f"{self.fields.word} {self.title(job)}"


class MoveAnnotation3d(Annotation3dEdit):
    """Move a 3D annotation by so many mm, from wherever it is."""

    kind: Literal["move_annotation_3d", "move_field"]
    by: Step

    def made(self, annotation: Annotation3d) -> Annotation3d:
        return replaced(annotation, {"place": (annotation.place[0] + self.by[0], annotation.place[1] + self.by[1])})

    def label(self, job: JobDocument) -> str:
        return f"move {self.title(job)}"


class RemoveAnnotation3d(Annotation3dEdit):
    kind: Literal["remove_annotation_3d", "remove_field"]

    def changed(self, sheet: SheetSpec, job: JobDocument, around: Around) -> SheetSpec:
        return sheet.model_copy(
            update={"annotations_3d": without(sheet.annotations_3d, sheet.annotation_3d(self.annotation).id)}
        )

    def label(self, job: JobDocument) -> str:
        return f"remove {self.title(job)}"


class ChangePreparedView(Annotation3dEdit):
    """Keep a prepared view of a 3D annotation, or change the one of that id; others stay as they are."""

    kind: Literal["change_prepared_view", "change_field_view"]
    view: PreparedView

    def made(self, annotation: Annotation3d) -> Annotation3d:
        return replaced(annotation, {"views": [view.model_dump() for view in kept(annotation.views, self.view)]})

    def label(self, job: JobDocument) -> str:
        self.title(job)
        return f"prepared view {self.view.name}"


class TurnAnnotation3d(Annotation3dEdit):
    """Turn the model of a 3D annotation: by *turn*, a rotation by rows, from how it stands now. Cameras and sections that are
    its own, readings and marks go with it; views that look along an axis see what now lies there.

    *middle* is the middle of the model's box before the turn, *after* that after it, mm: planes are tilted about it.
    """

    kind: Literal["turn_annotation_3d"]
    turn: Turn
    middle: Vector = (0.0, 0.0, 0.0)
    after: Vector = (0.0, 0.0, 0.0)

    def made(self, annotation: Annotation3d) -> Annotation3d:
        turn, middle, after = (np.asarray(own, float) for own in (self.turn, self.middle, self.after))
        whole = straightened(turn @ np.asarray(annotation.choices.orientation, float))
        views = tuple(turned_view(view, turn, middle, after) for view in annotation.views)
        keeps = tuple(turned_kept(own, turn, middle, after) for own in annotation.kept)
        choices = annotation.choices.model_copy(update={"orientation": whole})
        return annotation.model_copy(update={"choices": choices, "views": views, "kept": keeps})

    def label(self, job: JobDocument) -> str:
        return f"turn {self.title(job)}"


class KeepInAnnotation3d(Annotation3dEdit):
    """Keep a camera, a section, a reading or a mark of a review, or change the one of that id."""

    kind: Literal["keep_in_annotation_3d"]
    item: Kept

    def made(self, annotation: Annotation3d) -> Annotation3d:
        if len(annotation.kept) >= MOST and all(own.id != self.item.id for own in annotation.kept):
            raise InputError(f"A 3D annotation keeps {MOST} cameras, sections, readings and marks: remove some first.")
        return annotation.model_copy(update={"kept": kept(annotation.kept, self.item)})

    def label(self, job: JobDocument) -> str:
        self.title(job)
        return f"keep {self.item.kind} {self.item.name}"


class ForgetInAnnotation3d(Annotation3dEdit):
    """Keep some of what a review kept no longer, by their ids; what is gone already is no error."""

    kind: Literal["forget_in_annotation_3d"]
    items: tuple[Text, ...]

    def made(self, annotation: Annotation3d) -> Annotation3d:
        return annotation.model_copy(update={"kept": tuple(own for own in annotation.kept if own.id not in self.items)})

    def label(self, job: JobDocument) -> str:
        names = [own.name for own in job.sheet(self.sheet).annotation_3d(self.annotation).kept if own.id in self.items]
        return f"remove {names[0]}" if len(names) == 1 else f"remove {len(names)} of what {self.title(job)} keeps"


EDITS: tuple[type[Edit], ...] = (
    AddAnnotation3d,
    ChangeAnnotation3d,
    MoveAnnotation3d,
    RemoveAnnotation3d,
    ChangePreparedView,
    TurnAnnotation3d,
    KeepInAnnotation3d,
    ForgetInAnnotation3d,
)
