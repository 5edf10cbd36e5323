"""Proofs: a sheet's finished file as it is now, and all sheets of a job as one."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import UTC, datetime

from skalto.core.checks.verdict import Report
from skalto.core.errors import InputError, Moved
from skalto.core.packs import safe
from skalto.core.recipes import Recipe
from skalto.core.sheets.sheet import SheetSpec
from skalto.core.shown_content import sheet_content
from skalto.jobs.queue import WorkState
from skalto.services.output.plans import JobAtHand
from skalto.services.output.sending import PagePlan, Sender, SendingPlan, SendingProgress
from skalto.services.stored import keys
from skalto.services.use_cases.recipes import recipe_of
from skalto.services.use_cases.studio import Studio
from skalto.store import jobs as store
from skalto.store.cutter import kept_machine
from skalto.store.jobs import StoredJob
from skalto.store.states import states_now


@dataclass(frozen=True)
class ProofState:
    """A sheet's finished file: *key* of what it is or would be now; whether it is there; how far the work is."""

    key: str
    ready: bool
    work: WorkState | None
    report: Report | None


def at_hand(job: StoredJob) -> JobAtHand:
    """A job that is kept here, for planning."""
    states = {subject: own.state for subject, own in states_now(job.id).items()}
    return JobAtHand(job.document, job.number, machine=kept_machine(), states=states)


class Proofing:
    """The use cases of the proof, on top of a studio."""

    def __init__(self, studio: Studio) -> None:
        self.studio = studio
        self.sender = Sender(studio.blobs, studio.queue, studio.read_anew)

    def _plan(self, job_id: int, sheet_id: str) -> tuple[StoredJob, SheetSpec, Recipe, PagePlan]:
        job = store.get_job(job_id)
        sheet = job.document.sheet(sheet_id)
        recipe = recipe_of(sheet.recipe)
        return job, sheet, recipe, at_hand(job).page(sheet, recipe)

    def proof(self, job_id: int, sheet_id: str) -> ProofState:
        """The state of a sheet's finished file as the sheet is now."""
        _, _, recipe, plan = self._plan(job_id, sheet_id)
        key = plan.key(recipe)
        ready = self._made(key)
        if ready is not None:
            return ready
        work = self.studio.queue.state(key)
        if work is not None and work.state == "done":
            # it became ready in between; whoever asks would take it for a file that nobody makes
            ready, work = self._made(key), None
            if ready is not None:
                return ready
        if work is None and store.latest_proofs(job_id, [sheet_id]).get(sheet_id) == key:
            work = self._go_on(plan, recipe)
        return ProofState(key, False, work, None)

    def _made(self, key: str) -> ProofState | None:
        """The state of a file that is there; None where it is not."""
        if not self.studio.blobs.exists(f"{key}.json"):
            return None
        return ProofState(key, True, None, Report.model_validate_json(self.studio.blobs.get(f"{key}.json")))

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
        job, sheet, recipe, plan = self._plan(job_id, sheet_id)
        if sheet.is_empty:
            raise InputError(f"{sheet.name} is empty: put a view or a 3D annotation on it first.")
        key = plan.key(recipe)
        if store.latest_proofs(job_id, [sheet_id]).get(sheet_id) != key:
            store.add_proof(job_id, sheet_id, key, sheet_content(job.document, sheet, job.number, {}))

    def make(self, job_id: int, sheet_id: str) -> ProofState:
        """Write and measure a sheet's file, unless that has been done. :raises InputError: for a sheet without a view."""
        self.begin(job_id, sheet_id)
        _, sheet, recipe, plan = self._plan(job_id, sheet_id)
        state = self.proof(job_id, sheet_id)
        if state.ready or (state.work is not None and state.work.state in ("queued", "running")):
            return state
        # what failed or was cancelled is tried once more, since it is asked for
        for key in (state.key, *(keys.view_key(v.source, v.lines()) for v in sheet.views)):
            known = self.studio.queue.state(key)
            if known is not None and known.state in ("failed", "cancelled"):
                self.studio.queue.forget(key)
        return replace(state, work=self._go_on(plan, recipe))

    def file_name(self, job_id: int, sheet_id: str) -> str:
        """What a sheet's file is called where nobody calls it otherwise, without its ending."""
        job = store.get_job(job_id).document
        return safe(f"{job.name} {job.sheet(sheet_id).name}")

    def file(self, job_id: int, sheet_id: str, alone: bool = False, key: str = "") -> tuple[str, bytes]:
        """File name and bytes of a sheet's finished file as the sheet is now; *alone* the page that it lies on without the
        others of its file.

        :param key: of the file that was looked at, where one was. :raises InputError: when it is not made yet.
        :raises Moved: when the sheet would be another file by now.
        """
        job, sheet, _, _ = self._plan(job_id, sheet_id)
        state = self.proof(job_id, sheet_id)
        if key and key != state.key:
            raise Moved("The sheet, its recipe, its pens or the cutter were changed since this proof: make it again.")
        if not state.ready:
            raise InputError("The file of this sheet is not made yet: make the proof first.")
        page = f"{state.key}.page.pdf"
        blob = page if alone and self.studio.blobs.exists(page) else f"{state.key}.pdf"
        return safe(f"{job.document.name} {sheet.name}") + ".pdf", self.studio.blobs.get(blob)

    # All sheets as one

    def _whole(self, job_id: int) -> SendingPlan:
        job = store.get_job(job_id)
        sheets = [sheet for sheet in job.document.sheets if not sheet.is_empty]
        if not sheets:
            raise InputError(f"{job.document.name} has no sheet with a view: put a view on one first.")
        recipes = [recipe_of(sheet.recipe) for sheet in sheets]
        return at_hand(job).whole(sheets, recipes)

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
