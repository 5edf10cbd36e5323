"""The use cases of template sheets: kept, and a sheet made for each part."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass

from skalto.core.errors import InputError, NotThere
from skalto.core.job import JobDocument
from skalto.core.layout.part_sheets import laid_name, part_sheet, titled
from skalto.core.release.register import PartRow
from skalto.core.release.templates import SHIPPED_TEMPLATES, TemplateSheet, template_of
from skalto.core.sheets.sheet import SheetSpec
from skalto.services.use_cases.register import PartsRegister
from skalto.services.use_cases.studio import short_id
from skalto.store import jobs as store
from skalto.store.jobs import StoredJob
from skalto.store.shared import SharedStore

TEMPLATES = SharedStore("template", TemplateSheet, "template sheet")


def all_templates() -> list[TemplateSheet]:
    """Shipped ones first, then those kept here, by name."""
    return [*SHIPPED_TEMPLATES, *TEMPLATES.kept()]


def template_named(template_id: str) -> TemplateSheet:
    """:raises NotThere: when there is none."""
    for own in all_templates():
        if own.id == template_id:
            return own
    raise NotThere("This template sheet is no longer kept: choose another.")


@dataclass(frozen=True)
class MadeSheets:
    """What making sheets for parts came to: the job, the ids of sheets that are new, of those laid out anew, and what was
    left as it is, with the reason."""

    job: StoredJob
    new: tuple[str, ...]
    anew: tuple[str, ...]
    left: tuple[str, ...]


class Templates:
    """Template sheets, and sheets made by them."""

    def __init__(self, register: PartsRegister) -> None:
        self.register = register
        self.studio = register.studio

    def save(self, job_id: int, sheet_id: str, name: str) -> TemplateSheet:
        """Save a sheet as a template, or as the next version of the one of that name. :raises InputError: when no view of it
        looks at a model."""
        sheet = store.get_job(job_id).document.sheet(sheet_id)
        known = next((own for own in all_templates() if own.name.casefold() == name.strip().casefold()), None)
        if known is not None and known in SHIPPED_TEMPLATES:
            raise InputError(f"{known.name} ships and stays as it is: choose another name.")
        return TEMPLATES.keep(template_of(known.id if known else uuid.uuid4().hex[:8], name.strip(), sheet))

    def make(self, job_id: int, template_id: str, keys: Sequence[str], hands_once: bool = False) -> MadeSheets:
        """A sheet for each of some parts, by their keys, in one step: new ones, and anew those of parts that have changed.
        Sheets that were changed by hand are left.

        :param hands_once: whether a part and its opposite hand have one sheet, whose title names both.
        :raises InputError: while the models are still looked at, and for a part that is not there.
        """
        template = template_named(template_id)
        job = store.get_job(job_id)
        found = self.register.of(job.document)
        if found.work is not None and found.work.state in ("queued", "running"):
            raise InputError("The parts are still looked at, which says what kind they are: wait a moment.")
        rows = {key: row for row in found.rows for key in row.keys}
        wanted = list(dict.fromkeys(rows[key].key for key in keys if key in rows))
        missing = next((key for key in keys if key not in rows), None)
        if missing is not None:
            raise NotThere(f"{missing} is no longer in the models: choose other parts.")
        before = {own.made_for.part: own for own in job.document.sheets if own.made_for is not None}
        new: dict[str, SheetSpec] = {}
        anew: dict[str, SheetSpec] = {}
        left: list[str] = []
        for key in wanted:
            row = rows[key]
            drawn = rows.get(row.opposite) if hands_once else None
            if drawn is not None and (drawn.key in wanted or any(own in before for own in drawn.keys)):
                left.append(f"{row.mark or row.name} is the opposite hand of {drawn.mark or drawn.name}, and drawn with it.")
                continue
            hands = [own for own in found.rows if hands_once and own.opposite == row.key]
            known = next((before[own] for own in row.keys if own in before), None)
            if known is None:
                made = self._laid(template, row, short_id(), hands)
                new[made.id] = made
            elif why := _as_it_is(known, row, template, hands):
                left.append(f"{known.name}: {why}")
            else:
                anew[known.id] = self._laid(template, row, known.id, hands)
        if not new and not anew:
            return MadeSheets(job, (), (), tuple(left))

        def with_sheets(document: JobDocument) -> JobDocument:
            sheets = tuple(anew.get(own.id, own) for own in document.sheets)
            return document.model_copy(update={"sheets": (*sheets, *new.values())})

        count = len(new) + len(anew)
        job = self.studio.change(job_id, f"sheets of {count} parts" if count > 1 else "sheet of a part", with_sheets, job)
        return MadeSheets(job, tuple(new), tuple(anew), tuple(left))

    def _laid(self, template: TemplateSheet, row: PartRow, sheet_id: str, hands: Sequence[PartRow]) -> SheetSpec:
        tree = self.studio.facts(row.source).tree
        flat = self.register.flats(row.source).get((row.source, row.component))
        return part_sheet(sheet_id, template, row, tree, flat, short_id, [own.mark or own.name for own in hands])


def _as_it_is(sheet: SheetSpec, row: PartRow, template: TemplateSheet, hands: Sequence[PartRow]) -> str:
    """Why a sheet that was made for a part is not made anew, '' where it is."""
    origin = sheet.made_for
    assert origin is not None, "it was made for the part"
    if laid_name(sheet) != origin.laid:
        return "it was changed by hand, and stays as it is"
    content = row.identity.content or row.identity.children
    if hands and sheet.title.get("title", "") != titled(row, [own.mark or own.name for own in hands]):
        return ""
    if (origin.content, origin.template, origin.version) == (content, template.id, template.version):
        return "nothing has changed"
    return ""
