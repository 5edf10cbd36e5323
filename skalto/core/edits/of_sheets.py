"""Edits of sheets: their order, their format, what they carry."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field

from skalto.core.cutting.section import CuttingContent
from skalto.core.edits.edit import UNGIVEN, Around, Drawings, Edit, Patch, SheetEdit, replaced, without
from skalto.core.errors import InputError
from skalto.core.ids import ShortId
from skalto.core.job import JobDocument
from skalto.core.layout import drawing_views, families
from skalto.core.layout.format_change import FollowFormat, reformatted
from skalto.core.paper import FrameStyle, Margins, Orientation
from skalto.core.quantities import Scale
from skalto.core.sheets.annotations import Note, PartsList, PlatesTable
from skalto.core.sheets.listed import DrawingsTable
from skalto.core.sheets.sheet import Arrangement, Furniture, SheetSpec
from skalto.core.typed import Text


class AddSheet(Edit):
    kind: Literal["add_sheet"]
    sheet: SheetSpec

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        return job.model_copy(update={"sheets": (*without(job.sheets, self.sheet.id), self.sheet)})

    def label(self, job: JobDocument) -> str:
        return f"add {self.sheet.name}"


class AddSheets(Edit):
    """Several sheets at once, in order behind the others."""

    kind: Literal["add_sheets"]
    sheets: tuple[SheetSpec, ...] = Field(min_length=1)

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        known = [sheet.id for sheet in (*job.sheets, *self.sheets)]
        if len(set(known)) < len(known):
            raise InputError("A sheet of this id is in the job already: add it once more.")
        return job.model_copy(update={"sheets": (*job.sheets, *self.sheets)})

    def label(self, job: JobDocument) -> str:
        return f"add {self.sheets[0].name}" if len(self.sheets) == 1 else f"add {len(self.sheets)} sheets"


class SheetPatch(Patch):
    """Some fields of a sheet."""

    words: ClassVar[dict[str, str]] = {
        "scale": "scale of", "notes": "notes on", "parts_list": "parts list on", "plates_table": "table of plates on",
        "drawings_table": "table of drawings on",
        "clean": "clean", "pens": "pens of",
        "recipe": "recipe of", "format": "format of", "orientation": "turn", "frame": "frame of", "margins": "margins of",
        "furniture": "furniture of", "name": "rename",
    }  # fmt: skip

    name: Text = UNGIVEN
    format: Text = UNGIVEN
    orientation: Orientation = UNGIVEN
    frame: FrameStyle = UNGIVEN
    margins: Margins | None = None
    furniture: frozenset[Furniture] = UNGIVEN
    clean: bool = UNGIVEN
    scale: Scale = UNGIVEN
    notes: tuple[Note, ...] = UNGIVEN
    parts_list: PartsList | None = None
    plates_table: PlatesTable | None = None
    drawings_table: DrawingsTable | None = None
    pens: Text = UNGIVEN
    recipe: Text = UNGIVEN


class ChangeSheet(SheetEdit):
    kind: Literal["change_sheet"]
    fields: SheetPatch

    def changed(self, sheet: SheetSpec, job: JobDocument, around: Around) -> SheetSpec:
        return families.refreshed(self.fields.on(sheet), around.middle)

    def label(self, job: JobDocument) -> str:
        return f"{self.fields.word} {job.sheet(self.sheet).name}"


class RemoveSheet(Edit):
    kind: Literal["remove_sheet"]
    sheet: Text

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        job.sheet(self.sheet)
        packs = tuple(p.model_copy(update={"sheets": tuple(s for s in p.sheets if s != self.sheet)}) for p in job.packs)
        return job.model_copy(update={"sheets": without(job.sheets, self.sheet), "packs": packs})

    def label(self, job: JobDocument) -> str:
        return f"remove {job.sheet(self.sheet).name}"


class MoveSheet(Edit):
    """Put a sheet at another place in the order."""

    kind: Literal["move_sheet"]
    sheet: Text
    to: int = Field(ge=0)

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        sheet = job.sheet(self.sheet)
        others = list(without(job.sheets, self.sheet))
        others.insert(min(self.to, len(others)), sheet)
        return job.model_copy(update={"sheets": tuple(others)})

    def label(self, job: JobDocument) -> str:
        return f"reorder {job.sheet(self.sheet).name}"


class DuplicateSheet(Edit):
    """A sheet once more, with all its views, behind itself; *new* is its id. With *shift*, its excerpts show their drawing
    moved by so many mm of it."""

    kind: Literal["duplicate_sheet"]
    sheet: Text
    new: ShortId
    name: Text = ""
    shift: tuple[float, float] | None = None

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        sheet = job.sheet(self.sheet)
        sheets = list(job.sheets)
        sheets.insert(job.sheets.index(sheet) + 1, self._copy(sheet, around.drawings))
        return job.model_copy(update={"sheets": tuple(sheets)})

    def _copy(self, sheet: SheetSpec, drawings: Drawings) -> SheetSpec:
        """The sheet under a new id, its views under ids that belong to it."""
        ids = {view.id: f"{self.new}.{number}" for number, view in enumerate(sheet.views)}
        views = tuple(
            view.model_copy(update={"id": ids[view.id], "parent": ids.get(view.parent) if view.parent else None})
            for view in sheet.views
        )
        if self.shift is not None:
            dx, dy = self.shift
            views = tuple(
                drawing_views.shifted(v, dx, dy, drawings(v.source)) if v.excerpt is not None and not v.excerpt.space else v
                for v in views
            )
        notes = tuple(note.model_copy(update={"view": ids.get(note.view) if note.view else None}) for note in sheet.notes)
        listed = sheet.parts_list
        if listed is not None and listed.view in ids:
            listed = listed.model_copy(update={"view": ids[listed.view]})
        fields = tuple(own.model_copy(update={"id": f"{self.new}.3d{n}"}) for n, own in enumerate(sheet.annotations_3d))
        name = self.name.strip() or f"{sheet.name} (copy)"
        return sheet.model_copy(
            update={
                "id": self.new,
                "name": name,
                "views": views,
                "annotations_3d": fields,
                "notes": notes,
                "parts_list": listed,
                "cutting": _copied(sheet.cutting, self.new),
            }
        )

    def label(self, job: JobDocument) -> str:
        return f"duplicate {job.sheet(self.sheet).name}"


def _copied(content: CuttingContent | None, sheet: str) -> CuttingContent | None:
    """What lies on a plate, for another sheet; what is drawn on the plate itself has ids of its own there."""
    if content is None:
        return None
    drawn = tuple(own.model_copy(update={"id": f"{sheet}.d{n}"}) for n, own in enumerate(content.decorations))
    return content.model_copy(update={"decorations": drawn})


class Rearrange(SheetEdit):
    """Change a sheet to first- or third-angle arrangement."""

    kind: Literal["rearrange"]
    arrangement: Arrangement

    def changed(self, sheet: SheetSpec, job: JobDocument, around: Around) -> SheetSpec:
        return families.rearranged(sheet, self.arrangement, around.middle)

    def label(self, job: JobDocument) -> str:
        return f"arrangement of {job.sheet(self.sheet).name}"


class Reformat(SheetEdit):
    """Give a sheet another format, and say what its views do: keep their place, move with the middle, or change scale."""

    kind: Literal["reformat"]
    format: Text
    orientation: Text | None = None
    views: FollowFormat = FollowFormat.KEEP

    def changed(self, sheet: SheetSpec, job: JobDocument, around: Around) -> SheetSpec:
        fields = {"format": self.format} | ({"orientation": self.orientation} if self.orientation else {})
        return families.refreshed(reformatted(sheet, replaced(sheet, fields), self.views), around.middle)

    def label(self, job: JobDocument) -> str:
        return f"format of {job.sheet(self.sheet).name}"


EDITS = (AddSheet, AddSheets, ChangeSheet, RemoveSheet, MoveSheet, DuplicateSheet, Rearrange, Reformat)
