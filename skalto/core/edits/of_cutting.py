"""Edits of cutting: cutting lists, what lies on their sheets, and parts moved by hand."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field

from skalto.core.cutting.choices import CutChoices, PlacedProfile, Plate
from skalto.core.cutting.decorations import Decoration, DecorationContent, Way
from skalto.core.cutting.section import CutList, CutPart, CuttingContent
from skalto.core.edits.edit import UNGIVEN, Around, Edit, Patch, SheetEdit, among, exchanged, without
from skalto.core.errors import InputError
from skalto.core.job import JobDocument
from skalto.core.layout.cutting_sheets import laid_out, sized
from skalto.core.lengths import Millimetres
from skalto.core.sheets.sheet import SheetSpec
from skalto.core.typed import Text


class AddCutList(Edit):
    """A new cutting list."""

    kind: Literal["add_cut_list"]
    cut_list: CutList

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        if any(own.id == self.cut_list.id for own in job.cut_lists):
            raise InputError("A cutting list of this id is in the job already: add it once more.")
        return job.model_copy(update={"cut_lists": (*job.cut_lists, self.cut_list)})

    def label(self, job: JobDocument) -> str:
        return f"add {self.cut_list.name}"


class CutListPatch(Patch):
    """Some fields of a cutting list."""

    words: ClassVar[dict[str, str]] = {
        "parts": "parts of", "plates": "plates of", "choices": "cutting of", "name": "rename",
    }  # fmt: skip

    name: Text = UNGIVEN
    parts: tuple[CutPart, ...] = UNGIVEN
    plates: tuple[Plate, ...] = UNGIVEN
    choices: CutChoices = UNGIVEN


class ChangeCutList(Edit):
    """Change a cutting list; its sheets take the size of their plates."""

    kind: Literal["change_cut_list"]
    cut_list: Text
    fields: CutListPatch

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        new = self.fields.on(job.cut_list(self.cut_list))
        used = [s.cutting.plate for s in job.sheets if s.cutting is not None and s.cutting.cut_list == new.id]
        if used and max(used) >= len(new.plates):
            raise InputError("A plate that parts lie on cannot be taken away: arrange the parts anew first.")
        job = job.model_copy(update={"cut_lists": exchanged(job.cut_lists, new)})
        return job.model_copy(update={"sheets": tuple(sized(sheet, new) for sheet in job.sheets)})

    def label(self, job: JobDocument) -> str:
        return f"{self.fields.word} {job.cut_list(self.cut_list).name}"


def _untabled(sheet: SheetSpec, cut_list: str) -> SheetSpec:
    """A sheet without a table of the plates of a list."""
    table = sheet.plates_table
    return sheet.model_copy(update={"plates_table": None}) if table and table.cut_list == cut_list else sheet


class RemoveCutList(Edit):
    """Take a cutting list and its sheets out of the job."""

    kind: Literal["remove_cut_list"]
    cut_list: Text

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        own = job.cut_list(self.cut_list)
        gone = {s.id for s in job.sheets if s.cutting is not None and s.cutting.cut_list == own.id}
        packed = [pack.name for pack in job.packs if gone & set(pack.sheets)]
        if packed:
            raise InputError(f"A plate of {own.name} is in {packed[0]}: remove it from the pack first.")
        sheets = tuple(_untabled(sheet, own.id) for sheet in job.sheets if sheet.id not in gone)
        return job.model_copy(update={"cut_lists": without(job.cut_lists, own.id), "sheets": sheets})

    def label(self, job: JobDocument) -> str:
        return f"remove {job.cut_list(self.cut_list).name}"


class LayParts(Edit):
    """Put an arrangement on the sheets of a cutting list, a sheet a plate: those that are there are laid anew, more are added,
    what is too many goes."""

    kind: Literal["lay_parts"]
    cut_list: Text
    contents: tuple[CuttingContent, ...] = Field(max_length=1000)

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        own = job.cut_list(self.cut_list)
        for content in self.contents:
            if content.cut_list != own.id or content.plate >= len(own.plates):
                raise InputError(f"This arrangement is not one of {own.name}: arrange its parts anew.")
            for placed in content.placed:
                own.part(placed.part)
        return job.model_copy(update={"sheets": laid_out(job.sheets, own, self.contents)})

    def label(self, job: JobDocument) -> str:
        return f"arrange {job.cut_list(self.cut_list).name}"


class ProfilePatch(Patch):
    """Some fields of a part on a plate."""

    words: ClassVar[dict[str, str]] = {"x": "move", "y": "move", "turn": "turn", "flipped": "turn over", "pinned": "pin"}

    x: Millimetres = UNGIVEN
    y: Millimetres = UNGIVEN
    turn: float = UNGIVEN
    flipped: bool = UNGIVEN
    pinned: bool = UNGIVEN


class _ProfileEdit(SheetEdit):
    """A change of one part on a plate."""

    profile: Text

    def content(self, sheet: SheetSpec) -> CuttingContent:
        """:raises InputError: when the sheet is no plate."""
        if sheet.cutting is None:
            raise InputError(f"{sheet.name} is no plate: choose a cutting sheet.")
        return sheet.cutting

    def placed(self, sheet: SheetSpec) -> PlacedProfile:
        own: PlacedProfile = among(self.content(sheet).placed, self.profile, "part")
        return own

    def name(self, job: JobDocument) -> str:
        """What the part is called."""
        sheet = job.sheet(self.sheet)
        return job.cut_list(self.content(sheet).cut_list).part(self.placed(sheet).part).name

    def with_placed(self, sheet: SheetSpec, placed: tuple[PlacedProfile, ...]) -> SheetSpec:
        return sheet.model_copy(update={"cutting": self.content(sheet).model_copy(update={"placed": placed})})


class ChangeProfile(_ProfileEdit):
    """Move, turn, turn over or pin a part on its plate."""

    kind: Literal["change_profile"]
    fields: ProfilePatch

    def changed(self, sheet: SheetSpec, job: JobDocument, around: Around) -> SheetSpec:
        new = self.fields.on(self.placed(sheet))
        return self.with_placed(sheet, exchanged(self.content(sheet).placed, new))

    def label(self, job: JobDocument) -> str:
        return f"{self.fields.word} {self.name(job)}"


class RemoveProfile(_ProfileEdit):
    """Take a part off its plate."""

    kind: Literal["remove_profile"]

    def changed(self, sheet: SheetSpec, job: JobDocument, around: Around) -> SheetSpec:
        self.placed(sheet)
        return self.with_placed(sheet, without(self.content(sheet).placed, self.profile))

    def label(self, job: JobDocument) -> str:
        return f"take off {self.name(job)}"


class _DecorationEdit(Edit):
    """A change of what is drawn on a *part* of the list of a plate, on each of them, or without one on the plate itself."""

    sheet: Text
    part: Text = ""

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        sheet = job.sheet(self.sheet)
        if sheet.cutting is None:
            raise InputError(f"{sheet.name} is no plate: choose a cutting sheet.")
        if not self.part:
            content = sheet.cutting.model_copy(update={"decorations": self.changed(sheet.cutting.decorations)})
            return job.with_sheet(sheet.model_copy(update={"cutting": content}))
        cut_list = job.cut_list(sheet.cutting.cut_list)
        part = cut_list.part(self.part)
        new = part.model_copy(update={"decorations": self.changed(part.decorations)})
        parts = exchanged(cut_list.parts, new)
        return job.model_copy(update={"cut_lists": exchanged(job.cut_lists, cut_list.model_copy(update={"parts": parts}))})

    def changed(self, decorations: tuple[Decoration, ...]) -> tuple[Decoration, ...]:
        """The decorations after it."""
        raise NotImplementedError

    def name(self, job: JobDocument) -> str:
        """What is drawn on."""
        sheet = job.sheet(self.sheet)
        return job.cut_list(sheet.cutting.cut_list).part(self.part).name if self.part and sheet.cutting else sheet.name


class AddDecoration(_DecorationEdit):
    """Draw something on a part, or on a plate."""

    kind: Literal["add_decoration"]
    decoration: Decoration

    def changed(self, decorations: tuple[Decoration, ...]) -> tuple[Decoration, ...]:
        if any(own.id == self.decoration.id for own in decorations):
            raise InputError("A decoration of this id is there already: add it once more.")
        return (*decorations, self.decoration)

    def label(self, job: JobDocument) -> str:
        return f"draw {self.decoration.name} on {self.name(job)}"


class DecorationPatch(Patch):
    """Some fields of a decoration."""

    words: ClassVar[dict[str, str]] = {
        "content": "change", "operation": "engrave or score", "turn": "turn", "x": "move", "y": "move",
    }  # fmt: skip

    content: DecorationContent = UNGIVEN
    operation: Way = UNGIVEN
    x: Millimetres = UNGIVEN
    y: Millimetres = UNGIVEN
    turn: float = UNGIVEN


class ChangeDecoration(_DecorationEdit):
    """Move, turn or change a decoration."""

    kind: Literal["change_decoration"]
    decoration: Text
    fields: DecorationPatch

    def changed(self, decorations: tuple[Decoration, ...]) -> tuple[Decoration, ...]:
        return exchanged(decorations, self.fields.on(among(decorations, self.decoration, "decoration")))

    def label(self, job: JobDocument) -> str:
        return f"{self.fields.word} what is on {self.name(job)}"


class RemoveDecoration(_DecorationEdit):
    """Take a decoration off its part, or its plate."""

    kind: Literal["remove_decoration"]
    decoration: Text

    def changed(self, decorations: tuple[Decoration, ...]) -> tuple[Decoration, ...]:
        among(decorations, self.decoration, "decoration")
        return without(decorations, self.decoration)

    def label(self, job: JobDocument) -> str:
        return f"take a decoration off {self.name(job)}"


EDITS = (
    AddCutList, ChangeCutList, RemoveCutList, LayParts, ChangeProfile, RemoveProfile, AddDecoration, ChangeDecoration,
    RemoveDecoration,
)  # fmt: skip
