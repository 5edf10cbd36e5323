"""Proofs: a sheet's finished file as it is now, and all sheets of a job as one."""

from __future__ import annotations

from dataclasses import asdict, dataclass, replace
from datetime import UTC, datetime

from skalto.core.checks.verdict import Report
from skalto.core.errors import InputError
from skalto.core.job import JobDocument
from skalto.core.output.pdf.metadata import Metadata
from skalto.core.packs import safe, shared_fields
from skalto.core.recipes import Recipe, against_joining, shared_recipe, words_of
from skalto.core.sheets.sheet import SheetSpec
from skalto.jobs.queue import WorkState
from skalto.services import keys
from skalto.services.recipes import recipe_of
from skalto.services.sending import FilePlan, PagePlan, Sender, SendingPlan, SendingProgress
from skalto.services.studio import Studio
from skalto.store import jobs as store
from skalto.store.jobs import StoredJob


@dataclass(frozen=True)
class ProofState:
    """A sheet's finished file: *key* of what it is or would be now; whether it is there; how far the work is."""

    key: str
    ready: bool
    work: WorkState | None
    report: Report | None


def fields_of(job: StoredJob, sheet: SheetSpec, number: int, title: dict[str, str], pack: str, purpose: str) -> dict[str, str]:
    """What may stand in braces in names and titles, of one sheet. *number* is its place among those that are sent."""
    return sheet_fields(job.document, job.number, sheet, number, title, pack, purpose)


def sheet_fields(
    job: JobDocument, job_number: str, sheet: SheetSpec, number: int, title: dict[str, str], pack: str, purpose: str
) -> dict[str, str]:
    """The same, of a job that need not be kept here."""
    return {
        "job": job.name,
        "job_number": job_number,
        "pack": pack,
        "number": f"{number:02d}",
        "sheet": sheet.name,
        "title": title.get("title") or sheet.name,
        "revision": title.get("revision", ""),
        "purpose": purpose,
        "format": sheet.format,
        "date": datetime.now(UTC).date().isoformat(),
    }


def described(
    recipe: Recipe,
    job: JobDocument,
    job_number: str,
    sheet: SheetSpec,
    title: str,
    pack: str = "",
    number: int = 1,
    alone: bool = True,
) -> Metadata:
    """What a file says of itself that is written now: of one sheet, or where that is not *alone* of several that it begins."""
    own = job.title | sheet.title
    fields = sheet_fields(job, job_number, sheet, number, own, pack, "")
    if not alone:
        fields |= {"title": title}
    return Metadata.of(words_of(recipe, fields, title, own.get("creator", "")), datetime.now(UTC))


class Proofing:
    """The use cases of the proof, on top of a studio."""

    def __init__(self, studio: Studio) -> None:
        self.studio = studio
        self.sender = Sender(studio.blobs, studio.queue)

    def page(
        self,
        job: StoredJob,
        sheet: SheetSpec,
        recipe: Recipe,
        number: int = 1,
        revision: str = "",
        pack: str = "",
        purpose: str = "",
    ) -> PagePlan:
        """What a sheet's page is made from, as the job is now. A *revision* goes into the title block."""
        context = self.studio.context(job, sheet)
        if revision:
            sheet = sheet.model_copy(update={"title": sheet.title | {"revision": revision}})
        title = job.document.title | sheet.title
        fields = fields_of(job, sheet, number, title, pack, purpose)
        words = words_of(recipe, fields, f"{job.document.name}, {sheet.name}", title.get("creator", ""))
        return PagePlan(sheet=sheet, context=context, recipe=recipe, **asdict(words))

    def _plan(self, job_id: int, sheet_id: str) -> tuple[StoredJob, SheetSpec, Recipe, PagePlan]:
        job = store.get_job(job_id)
        sheet = job.document.sheet(sheet_id)
        recipe = recipe_of(sheet.recipe)
        return job, sheet, recipe, self.page(job, sheet, recipe)

    def proof(self, job_id: int, sheet_id: str) -> ProofState:
        """The state of a sheet's finished file as the sheet is now."""
        _, _, recipe, plan = self._plan(job_id, sheet_id)
        key = plan.key(recipe)
        if self.studio.blobs.exists(f"{key}.json"):
            return ProofState(key, True, None, Report.model_validate_json(self.studio.blobs.get(f"{key}.json")))
        work = self.studio.queue.state(key)
        if work is None and store.latest_proofs(job_id, [sheet_id]).get(sheet_id) == key:
            work = self._go_on(plan, recipe)
        return ProofState(key, False, work, None)

    def _go_on(self, plan: PagePlan, recipe: Recipe) -> WorkState:
        """The next step toward a file that is wanted: its views first, on as many workers as there are, then the file."""
        made = self.sender.page(plan, recipe, datetime.now(UTC))
        if made.state == "failed":
            return WorkState(state="failed", error=made.text)
        if made.state == "cancelled":
            return WorkState(state="cancelled")
        return WorkState(state="running", share=made.share, text=made.text)

    def begin(self, job_id: int, sheet_id: str) -> None:
        """Note that a sheet's file is wanted. :raises InputError: for a sheet without a view."""
        _, sheet, recipe, plan = self._plan(job_id, sheet_id)
        if sheet.is_empty:
            raise InputError(f"{sheet.name} is empty: put a view or a 3D field on it first.")
        key = plan.key(recipe)
        if store.latest_proofs(job_id, [sheet_id]).get(sheet_id) != key:
            store.add_proof(job_id, sheet_id, key)

    def make(self, job_id: int, sheet_id: str) -> ProofState:
        """Write and measure a sheet's file, unless that has been done. :raises InputError: for a sheet without a view."""
        self.begin(job_id, sheet_id)
        _, sheet, recipe, plan = self._plan(job_id, sheet_id)
        state = self.proof(job_id, sheet_id)
        if state.ready or (state.work is not None and state.work.state in ("queued", "running")):
            return state
        # what failed or was called off is tried once more, since it is asked for
        for key in (state.key, *(keys.view_key(v.source, v.lines()) for v in sheet.views)):
            known = self.studio.queue.state(key)
            if known is not None and known.state in ("failed", "cancelled"):
                self.studio.queue.forget(key)
        return replace(state, work=self._go_on(plan, recipe))

    def file(self, job_id: int, sheet_id: str) -> tuple[str, bytes]:
        """File name and bytes of a sheet's finished file as the sheet is now. :raises InputError: when it is not made yet."""
        job, sheet, _, _ = self._plan(job_id, sheet_id)
        state = self.proof(job_id, sheet_id)
        if not state.ready:
            raise InputError("The file of this sheet is not made yet: make the proof first.")
        return safe(f"{job.document.name} {sheet.name}") + ".pdf", self.studio.blobs.get(f"{state.key}.pdf")

    # All sheets as one

    def _whole(self, job_id: int) -> SendingPlan:
        job = store.get_job(job_id)
        sheets = [sheet for sheet in job.document.sheets if not sheet.is_empty]
        if not sheets:
            raise InputError(f"{job.document.name} has no sheet with a view: put a view on one first.")
        recipes = [recipe_of(sheet.recipe) for sheet in sheets]
        for problem in against_joining([sheet.name for sheet in sheets], recipes):
            raise InputError(problem)
        recipe = shared_recipe(recipes)
        pages = tuple(self.page(job, s, own, number) for number, (s, own) in enumerate(zip(sheets, recipes, strict=True), 1))
        files = (FilePlan(name=safe(job.document.name) + ".pdf", pages=tuple(range(len(pages)))),)
        fields = shared_fields([fields_of(job, s, n, job.document.title | s.title, "", "") for n, s in enumerate(sheets, 1)])
        title = words_of(recipe, fields | {"title": job.document.name}, job.document.name, "").title
        return SendingPlan(pages=pages, files=files, recipe=recipe, title=title, created=datetime.now(UTC))

    def whole(self, job_id: int) -> tuple[str, SendingProgress]:
        """All sheets of a job that have a view, in order, as one PDF, each by its own recipe: its key, and how far.

        :raises InputError: for a job without such a sheet, and when the writing failed.
        """
        plan = self._whole(job_id)
        made = self.sender.advance(plan)
        if made.error or made.cancelled:
            self.sender.try_again(plan)
            if made.error:
                raise InputError(made.error)
        return self.sender.file_key(plan, 0), made

    def whole_file(self, job_id: int) -> tuple[str, bytes, Report]:
        """File name, bytes and report of a job's one PDF. :raises InputError: when it is not made yet."""
        plan = self._whole(job_id)
        key = self.sender.file_key(plan, 0)
        if not self.studio.blobs.exists(f"{key}.json"):
            raise InputError("This file is not made yet: ask for it first.")
        report = Report.model_validate_json(self.studio.blobs.get(f"{key}.json"))
        return plan.files[0].name, self.studio.blobs.get(f"{key}.pdf"), report
