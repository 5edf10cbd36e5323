"""Edits of flat patterns: how they are unfolded, and what is written on them."""

from __future__ import annotations

from typing import ClassVar, Literal

from skalto.core.edits.edit import UNGIVEN, Around, Edit, Patch, ViewEdit, at_origin, exchanged, view_on
from skalto.core.errors import InputError
from skalto.core.job import JobDocument
from skalto.core.layout import families
from skalto.core.sheet_metal.choices import UnfoldChoices
from skalto.core.sheets.annotations import BendTable
from skalto.core.sheets.sheet import SheetSpec
from skalto.core.typed import Text


class FlatPatch(Patch):
    """Some fields of a flat pattern."""

    words: ClassVar[dict[str, str]] = {
        "choices": "unfolding of", "limits": "bend limits of", "note": "bend notes of", "grain": "grain of",
        "bends": "bend table of", "component": "part of",
    }  # fmt: skip

    component: Text = UNGIVEN
    choices: UnfoldChoices = UNGIVEN
    limits: bool = UNGIVEN
    note: bool = UNGIVEN
    grain: bool = UNGIVEN
    bends: BendTable | None = None


class ChangeFlat(ViewEdit):
    """How a flat pattern is unfolded, and what is written on it; its lower left stays where it is on the sheet."""

    kind: Literal["change_flat"]
    fields: FlatPatch

    def changed(self, sheet: SheetSpec, job: JobDocument, around: Around) -> SheetSpec:
        view = view_on(sheet, self.view)
        if view.flat is None:
            raise InputError("This is not a flat pattern: choose one.")
        made = view.showing(**dict(self.fields.on(view.flat)))
        return families.refreshed(sheet.with_views(exchanged(sheet.views, made)), at_origin)

    def label(self, job: JobDocument) -> str:
        return f"{self.fields.word} {self.title(job)}"


EDITS: tuple[type[Edit], ...] = (ChangeFlat,)
