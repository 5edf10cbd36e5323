"""Issues: packs sent out, each with its files, checks, recipe and the hashes of its sources, kept for ever."""

from __future__ import annotations

import json
import logging
import threading
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass
from typing import IO, Any

from pydantic import BaseModel, ConfigDict, Field

from skalto.core.checks.verdict import Report
from skalto.core.errors import InputError, NotThere
from skalto.core.output.pdf.metadata import Passwords
from skalto.core.output.pdf.passwords import against_password
from skalto.core.packs import Disagreement, Pack, disagreements, safe
from skalto.core.recipes import PLAIN, Recipe, changed
from skalto.core.sheets.sheet import SheetSpec
from skalto.core.shown_content import sheet_content
from skalto.core.spreadsheets import csv_of
from skalto.core.typed import Line, Text, Words
from skalto.services.output.plans import Planned
from skalto.services.output.sending import Sender, SendingPlan, SendingProgress
from skalto.services.use_cases.proofing import Proofing, at_hand
from skalto.services.use_cases.recipes import all_recipes, recipe_of
from skalto.store import issues as store
from skalto.store import jobs
from skalto.store.blobs import content_hash
from skalto.store.issues import StoredFile, StoredIssue
from skalto.store.jobs import StoredJob

PURPOSES = ("for information", "for review", "for approval", "for quotation", "for manufacture", "for construction", "as built")
"""What a sheet is sent out for (common practice, no source)."""

_LOCKED = "locked"
_TOLD = 3
"""How many of the checks that fail are named."""
_KEPT_PLANS = 200
_log = logging.getLogger(__name__)
_OVERRIDES = frozenset(Recipe.model_fields) - {"id", "name", "version"}


class IssueRequest(BaseModel):
    """What is to be sent: a pack by its id, what for, the revision that goes into the title blocks ('' for the sheets' own), a
    note; choices that stand in for the recipe's this once; passwords."""

    model_config = ConfigDict(frozen=True)

    pack: Text
    purpose: Line = Field(default="for information", min_length=1, max_length=60)
    revision: Line = Field(default="", max_length=12)
    note: Words = Field(default="", max_length=2000)
    recipe: Text = ""
    choices: dict[Text, Any] = {}
    open_password: Line = Field(default="", max_length=127)
    change_password: Line = Field(default="", max_length=127)


@dataclass(frozen=True)
class Preview:
    """What a sending would be: the files' names, what stands against it, and what its sender should know."""

    names: tuple[str, ...]
    problems: tuple[str, ...]
    notices: tuple[Disagreement, ...]
    sheets: int
    recipes: tuple[Disagreement, ...] = ()
    """The name of the recipe that writes each sheet."""


@dataclass(frozen=True)
class IssueState:
    """An issue, and while it runs how far it is."""

    issue: StoredIssue
    progress: SendingProgress | None


def _planned(pack: Pack, wish: IssueRequest) -> Planned:
    return Planned(wish.revision, pack.name, wish.purpose)


class Issuing:
    """The use cases of packs and issues, on top of proofing."""

    def __init__(self, proofing: Proofing) -> None:
        self.proofing = proofing
        self.sender = Sender(proofing.studio.blobs, proofing.studio.queue, proofing.studio.read_anew)
        self._plans: dict[int, SendingPlan] = {}
        self._progress: dict[int, SendingProgress] = {}
        self._advancing = threading.Lock()

    # Before

    def _recipes(self, job: StoredJob, pack: Pack, wish: IssueRequest) -> list[Recipe]:
        """The recipe of each sheet: the pack's, or where it has none the sheet's own."""
        strange = set(wish.choices) - _OVERRIDES
        if strange:
            raise InputError(f"{', '.join(sorted(strange))} is no choice of a recipe.")
        chosen = wish.recipe or pack.recipe
        recipes = [recipe_of(chosen or sheet.recipe) for sheet in at_hand(job).sheets_of(pack)]
        return [changed(recipe, **wish.choices) for recipe in recipes] if wish.choices else recipes

    def preview(self, job_id: int, wish: IssueRequest) -> Preview:
        """What would be sent, and what stands against it. :raises InputError: when there is no such pack or recipe."""
        job = jobs.get_job(job_id)
        pack = job.document.pack(wish.pack)
        recipes = self._recipes(job, pack, wish)
        sheets = at_hand(job).sheets_of(pack)
        names, problems = self._against(job, pack, wish, recipes)
        notices = [
            d
            for sheet, recipe in zip(sheets, recipes, strict=True)
            for d in disagreements(sheet, recipe, job.document.pens_of(sheet).name)
        ]
        notices += self._stale(job, [sheet for sheet in sheets if not sheet.is_empty])
        by = tuple(Disagreement(sheet.id, recipe.name) for sheet, recipe in zip(sheets, recipes, strict=True))
        return Preview(names, tuple(problems), tuple(notices), len(sheets), by)

    def _against(
        self, job: StoredJob, pack: Pack, wish: IssueRequest, recipes: Sequence[Recipe]
    ) -> tuple[tuple[str, ...], list[str]]:
        """The files' names, and what stands against the sending."""
        names, problems = at_hand(job).against(pack, recipes, _planned(pack, wish))
        if any(recipe.file == "archive" for recipe in recipes) and (wish.open_password or wish.change_password):
            problems.append("An archive file may not be locked: leave the passwords empty, or choose a plain file.")
        problems += [why for word in (wish.open_password, wish.change_password) if (why := against_password(word))]
        if pack.formats != ("PDF",) and (wish.open_password or wish.change_password):
            problems.append("Only a PDF can be locked: leave the passwords empty, or send this pack as PDF alone.")
        return names, problems

    def _stale(self, job: StoredJob, sheets: list[SheetSpec]) -> list[Disagreement]:
        """Sheets that are not as they were when they were last looked at, and those whose source is being replaced."""
        notices = []
        latest = jobs.latest_proofs(job.id, [sheet.id for sheet in sheets])
        arriving = {row.replaces for row in jobs.incoming_of(job.id) if row.replaces and row.state == "reading"}
        known = {recipe.id: recipe for recipe in all_recipes()} | {"": PLAIN}
        for sheet in sheets:
            recipe = known.get(sheet.recipe, PLAIN)
            key = at_hand(job).page(sheet, recipe).key(recipe)
            if sheet.id not in latest:
                notices.append(Disagreement(sheet.id, f"{sheet.name} has not been proofed."))
            elif latest[sheet.id] != key:
                notices.append(Disagreement(sheet.id, f"{sheet.name} has changed since its proof."))
            if arriving & job.document.sources_of(sheet):
                message = f"A newer revision of a source of {sheet.name} is being read: wait for it."
                notices.append(Disagreement(sheet.id, message))
        return notices

    def begin(self, job_id: int, wish: IssueRequest) -> StoredIssue:
        """Begin an issue; it goes on by itself. :raises InputError: when something stands against it."""
        job = jobs.get_job(job_id)
        return self.begin_pack(job, job.document.pack(wish.pack), wish)

    def refuse(self, job: StoredJob, pack: Pack, wish: IssueRequest) -> None:
        """:raises InputError: when something stands against an issue of a pack."""
        _, problems = self._against(job, pack, wish, self._recipes(job, pack, wish))
        if problems:
            raise InputError(problems[0])

    def begin_pack(self, job: StoredJob, pack: Pack, wish: IssueRequest) -> StoredIssue:
        """Begin an issue of a pack that need not be kept with its job. :raises InputError: when something stands against it."""
        self.refuse(job, pack, wish)
        recipes = self._recipes(job, pack, wish)
        secret = bool(wish.open_password or wish.change_password)
        plan = at_hand(job).pack(pack, recipes, _planned(pack, wish), _LOCKED if secret else "")
        # what was cancelled before is asked for anew
        self.sender.try_again(plan)
        shown = {sheet.id: sheet_content(job.document, sheet, job.number, {}) for sheet in at_hand(job).sheets_of(pack)}
        issue = store.add_issue(
            shown,
            job=job.id, job_number=job.number, job_name=job.document.name, pack=pack.name, pack_id=pack.id,
            purpose=wish.purpose, revision=wish.revision, note=wish.note, plan=plan.model_dump_json(),
            secret=json.dumps([wish.open_password, wish.change_password]) if secret else "",
        )  # fmt: skip
        self.advance(issue)
        return issue

    # Under way

    def plan(self, issue: StoredIssue) -> SendingPlan:
        if issue.id not in self._plans:
            plan = SendingPlan.model_validate_json(issue.plan)
            if plan.apart:
                # what is locked is not to be found under what it was made from
                plan = plan.model_copy(update={"apart": f"issues/{issue.id}/{_LOCKED}"})
            self._plans[issue.id] = plan
            while len(self._plans) > _KEPT_PLANS:
                self._plans.pop(next(iter(self._plans)))
        return self._plans[issue.id]

    def advance(self, issue: StoredIssue) -> SendingProgress:
        """Bring an issue as far forward as it can be now; note its end."""
        with self._advancing:
            plan = self.plan(issue)
            passwords = Passwords(*json.loads(issue.secret)) if issue.secret else None
            made = self._progress[issue.id] = self.sender.advance(plan, passwords)
            if made.error:
                store.end_issue(issue.id, "failed", made.error)
            elif made.cancelled:
                store.end_issue(issue.id, "cancelled")
            elif made.done:
                failing = self._failing([key for key in made.files if key])
                if failing:
                    store.end_issue(issue.id, "asking", failing)
                else:
                    self._finish(issue, plan, made)
            return made

    def _failing(self, made: Sequence[str]) -> str:
        """What fails in finished files, in a sentence or two; '' where all checks pass."""
        blobs = self.proofing.studio.blobs
        reports = [Report.model_validate_json(blobs.get(f"{key}.json")) for key in made]
        wrong = [finding.message for report in reports for finding in report.findings if finding.level == "error"]
        if not wrong:
            return ""
        count = "1 check fails" if len(wrong) == 1 else f"{len(wrong)} checks fail"
        return f"{count}. " + " ".join(wrong[:_TOLD]) + (" …" if len(wrong) > _TOLD else "")

    def _finish(self, issue: StoredIssue, plan: SendingPlan, made: SendingProgress) -> None:
        files = [self._kept(issue, plan, n, key) for n, key in enumerate(made.files) if key]
        store.end_issue(issue.id, "done", issue.error, files)
        self._plans.pop(issue.id, None)
        self._progress.pop(issue.id, None)

    def accept(self, issue_id: int) -> None:
        """Issue files although a check fails; the register says so. :raises InputError: when nothing was asked."""
        with self._advancing:
            issue = store.get_issue(issue_id)
            if issue.state != "asking":
                raise InputError("This issue does not wait for an answer: it has ended, or is under way.")
            plan = self.plan(issue)
            passwords = Passwords(*json.loads(issue.secret)) if issue.secret else None
            made = self.sender.advance(plan, passwords)
            if not made.done:
                raise NotThere("The files of this issue are no longer kept: cancel it, and issue the pack again.")
            self._finish(issue, plan, made)

    def _kept(self, issue: StoredIssue, plan: SendingPlan, number: int, key: str) -> dict[str, Any]:
        """Put a finished file where the issue keeps it, for ever."""
        blobs, suffix = self.proofing.studio.blobs, plan.files[number].suffix
        data, report = blobs.get(f"{key}{suffix}"), blobs.get(f"{key}.json")
        own = f"issues/{issue.id}/{number}"
        blobs.put(f"{own}{suffix}", data)
        blobs.put(f"{own}.json", report)
        return {
            "name": plan.files[number].name,
            "key": own,
            "hash": content_hash(data),
            "size": len(data),
            "pages": len(plan.files[number].pages),
            "holds": Report.model_validate_json(report).holds,
        }

    def advance_all(self) -> None:
        """Bring all issues forward that are under way; those that a restart interrupted go on where they were."""
        for issue in reversed(store.list_issues(state="running")):
            try:
                self.advance(issue)
            except Exception as error:
                # one that cannot go on does not keep the others waiting
                _log.exception("issue %s broke off", issue.id)
                message = str(error) if isinstance(error, InputError) else "The sending broke off unexpectedly: try it again."
                store.end_issue(issue.id, "failed", message)

    def state(self, issue_id: int) -> IssueState:
        """:raises InputError: when there is no such issue."""
        issue = store.get_issue(issue_id)
        return IssueState(issue, self._progress.get(issue_id) if issue.state == "running" else None)

    def cancel(self, issue_id: int) -> None:
        """Call an issue off. :raises InputError: when it has ended."""
        issue = store.get_issue(issue_id)
        if issue.state not in ("running", "asking"):
            raise InputError("This issue has ended: it cannot be cancelled.")
        store.end_issue(issue_id, "cancelled")
        # what another issue waits for goes on
        others = [self.plan(other) for other in store.list_issues(state="running")]
        needed = {key for plan in others for key in self.sender.keys_of(plan)}
        self.sender.call_off(self.plan(issue), needed)

    def retry(self, issue_id: int) -> None:
        """Try an issue again that failed or was cancelled. :raises InputError: when it did not, or its passwords are gone."""
        issue = store.get_issue(issue_id)
        if self.plan(issue).apart and not issue.secret:
            raise InputError(
                "The passwords of this issue were forgotten when it ended: issue the pack anew, with its passwords."
            )
        self.sender.try_again(self.plan(issue))
        store.resume_issue(issue_id)
        self.advance(store.get_issue(issue_id))

    # After

    def file(self, issue_id: int, file_id: int) -> tuple[StoredFile, bytes]:
        """A file of an issue as it was sent. :raises InputError: when there is none, or it is no longer what it was."""
        for file in store.get_issue(issue_id).files:
            if file.id == file_id:
                data = self.proofing.studio.blobs.get(f"{file.key}{file.suffix}")
                if content_hash(data) != file.hash:
                    raise InputError(f"{file.name} is no longer what was sent: the data folder has been changed.")
                return file, data
        raise InputError("This issue has no such file.")

    def pack_zip(self, issue_id: int, out: IO[bytes]) -> str:
        """Write all files of an issue, as they were sent, as one archive; what it is called.

        :raises InputError: when it has none, or one is no longer what was sent.
        """
        issue = store.get_issue(issue_id)
        if not issue.files:
            raise InputError("This issue has no files: it is under way, or it failed.")
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
            for file in issue.files:
                archive.writestr(file.name, self.file(issue_id, file.id)[1])
        revision = f" {issue.revision}" if issue.revision else ""
        return safe(f"{issue.job_number} {issue.pack}{revision} issue {issue.id}") + ".zip"

    def report(self, issue_id: int, file_id: int) -> Report:
        """What was measured in a file of an issue."""
        file, _ = self.file(issue_id, file_id)
        return Report.model_validate_json(self.proofing.studio.blobs.get(f"{file.key}.json"))

    def register(self, text: str = "", purpose: str = "", job: int | None = None) -> list[StoredIssue]:
        """Issues, the newest first, that have all words of a text in what the register shows of them."""
        words = text.casefold().split()
        found = []
        for issue in store.list_issues(job):
            names = " ".join(file.name for file in issue.files)
            said = (issue.job_number, issue.job_name, issue.pack, issue.purpose, issue.revision, issue.note, issue.state)
            shown = " ".join((*said, names)).casefold()
            if all(word in shown for word in words) and (not purpose or issue.purpose == purpose):
                found.append(issue)
        return found


def sources_of(plan: SendingPlan) -> list[str]:
    """The SHA-256 of each source that an issue was made from."""
    found: set[str] = set()
    for page in plan.pages:
        found |= page.sheet.shown_sources
        if page.sheet.cutting is not None:
            found |= page.sheet.cutting.sources
        if page.context.cut_list is not None:
            found |= page.context.cut_list.sources
        if page.context.plates is not None:
            found |= page.context.plates.cut_list.sources
    return sorted(found)


COLUMNS = (
    "issue", "date", "job number", "job", "pack", "purpose", "revision", "note", "state", "recipe", "recipe version", "file",
    "pages", "bytes", "sha-256", "checks", "sources",
)  # fmt: skip


def as_csv(rows: list[tuple[StoredIssue, SendingPlan]]) -> str:
    """The register as CSV (RFC 4180), a row a file; an issue without files has one row."""
    lines: list[tuple[object, ...]] = [COLUMNS]
    for issue, plan in rows:
        recipe = plan.recipe
        first = (
            issue.id,
            issue.began.isoformat(timespec="seconds"),
            issue.job_number,
            issue.job_name,
            issue.pack,
            issue.purpose,
        )
        rest = (issue.revision, issue.note, issue.state, recipe.name, recipe.version)
        sources = " ".join(sources_of(plan))
        files: list[tuple[object, ...]] = [
            (f.name, f.pages, f.size, f.hash, "pass" if f.holds else "fail") for f in issue.files
        ]
        for row in files or [("", "", "", "", "")]:
            lines.append((*first, *rest, *row, sources))
    return csv_of(lines)
