"""Edits of a job as a whole: its name, its title fields, what is said of parts, its viewpoints."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from skalto.core.colour import HexColour
from skalto.core.edits.edit import Around, Edit, kept, replaced, without
from skalto.core.edits.of_views import turned_to
from skalto.core.errors import InputError
from skalto.core.job import JobDocument, users_of
from skalto.core.layout import families
from skalto.core.sources.models.parts import PartFacts
from skalto.core.typed import Line, Text
from skalto.core.viewpoint import make_viewpoint
from skalto.core.viewpoints import SavedViewpoint


class RenameJob(Edit):
    kind: Literal["rename_job"]
    name: Line = Field(min_length=1, max_length=120)

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        return replaced(job, {"name": self.name.strip()})

    def label(self, job: JobDocument) -> str:
        return "rename job"


class SetTitle(Edit):
    """Fields of the title block: of one sheet, or without one of the whole job."""

    kind: Literal["set_title"]
    sheet: Text | None = None
    fields: dict[Text, Annotated[Line, Field(max_length=200)]]

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        if self.sheet is None:
            return job.model_copy(update={"title": self._over(job.title)})
        sheet = job.sheet(self.sheet)
        return job.with_sheet(sheet.model_copy(update={"title": self._over(sheet.title)}))

    def _over(self, title: dict[str, str]) -> dict[str, str]:
        return {field: text for field, text in (title | self.fields).items() if text}

    def label(self, job: JobDocument) -> str:
        return "title block"


class SetPart(Edit):
    """What is said of a part, by its name in the model."""

    kind: Literal["set_part"]
    part: Text
    facts: PartFacts

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        return job.model_copy(update={"parts": job.parts | {self.part: self.facts}})

    def label(self, job: JobDocument) -> str:
        return "part"


class SetColour(Edit):
    """The colour of a component in this job's drawings; None for the model's own."""

    kind: Literal["set_colour"]
    component: Text
    colour: HexColour | None

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        others = {path: colour for path, colour in job.colours.items() if path != self.component}
        return job.model_copy(update={"colours": others | ({self.component: self.colour} if self.colour else {})})

    def label(self, job: JobDocument) -> str:
        return "colour"


class SaveViewpoint(Edit):
    """Keep a viewpoint, or change the one of that id; views that use it turn with it."""

    kind: Literal["save_viewpoint"]
    viewpoint: SavedViewpoint

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        new = self.viewpoint
        make_viewpoint(new.name, new.look, new.up)
        job = job.model_copy(update={"viewpoints": kept(job.viewpoints, new)})
        for sheet in job.sheets:
            users = [view for view in sheet.views if view.viewpoint == new.id]
            if users:
                fields = {"look": new.look, "up": new.up, "name": new.name, "viewpoint": new.id}
                changed = {view.id: turned_to(view, fields, around.middle) for view in users}
                views = tuple(changed.get(view.id, view) for view in sheet.views)
                job = job.with_sheet(families.refreshed(sheet.with_views(views), around.middle))
        return job

    def label(self, job: JobDocument) -> str:
        return f"viewpoint {self.viewpoint.name}"


class RemoveViewpoint(Edit):
    kind: Literal["remove_viewpoint"]
    viewpoint: Text

    def apply(self, job: JobDocument, around: Around) -> JobDocument:
        used = users_of(job, self.viewpoint)
        if used:
            raise InputError(f"This viewpoint is used on {', '.join(used)}: turn those views another way first.")
        return job.model_copy(update={"viewpoints": without(job.viewpoints, self.viewpoint)})

    def label(self, job: JobDocument) -> str:
        return "remove viewpoint"


EDITS = (RenameJob, SetTitle, SetPart, SetColour, SaveViewpoint, RemoveViewpoint)
