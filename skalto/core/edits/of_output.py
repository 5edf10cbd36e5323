"""Edits of what decides output: pen sets and packs."""

from __future__ import annotations

from typing import Literal

from skalto.core.edits.edit import Around, Edit, kept, without
from skalto.core.errors import InputError
from skalto.core.job import JobDocument
from skalto.core.packs import Pack
from skalto.core.pens import DEFAULT, SHIPPED, PenSet
from skalto.core.sheets.sheet import SheetSpec
from skalto.core.typed import Text


class KeepPens(Edit):
    """Keep a pen set in the job, or change the one of that id."""

    kind: Literal["keep_pens"]
    pens: PenSet

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        if any(pens.id == self.pens.id for pens in SHIPPED):
            raise InputError(f"{self.pens.name} ships and stays as it is: duplicate it, and change the copy.")
        if any(pens.name == self.pens.name and pens.id != self.pens.id for pens in (*job.pens, *SHIPPED)):
            raise InputError(f"There is a pen set {self.pens.name} already: choose another name.")
        return job.model_copy(update={"pens": kept(job.pens, self.pens)})

    def label(self, job: JobDocument) -> str:
        return f"pens {self.pens.name}"


class RemovePens(Edit):
    """Take a pen set out of the job; sheets that it drew are drawn with the first that ships."""

    kind: Literal["remove_pens"]
    pens: Text

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        sheets = tuple(s.model_copy(update={"pens": DEFAULT.id}) if s.pens == self.pens else s for s in job.sheets)
        return job.model_copy(update={"pens": without(job.pens, self.pens), "sheets": sheets})

    def label(self, job: JobDocument) -> str:
        return "remove pens"


class KeepPack(Edit):
    """Keep a pack in the job, or change the one of that id."""

    kind: Literal["keep_pack"]
    pack: Pack

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        for sheet in self.pack.sheets:
            job.sheet(sheet)
        if len(set(self.pack.sheets)) < len(self.pack.sheets):
            raise InputError("A sheet stands in this pack twice: leave one out.")
        if any(pack.name == self.pack.name and pack.id != self.pack.id for pack in job.packs):
            raise InputError(f"There is a pack {self.pack.name} already: choose another name.")
        return job.model_copy(update={"packs": kept(job.packs, self.pack)})

    def label(self, job: JobDocument) -> str:
        return f"pack {self.pack.name}"


class RemovePack(Edit):
    kind: Literal["remove_pack"]
    pack: Text

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        def untabled(sheet: SheetSpec) -> SheetSpec:
            table = sheet.drawings_table
            return sheet.model_copy(update={"drawings_table": None}) if table and table.pack == self.pack else sheet

        sheets = tuple(untabled(sheet) for sheet in job.sheets)
        return job.model_copy(update={"packs": without(job.packs, self.pack), "sheets": sheets})

    def label(self, job: JobDocument) -> str:
        return "remove pack"


EDITS = (KeepPens, RemovePens, KeepPack, RemovePack)
