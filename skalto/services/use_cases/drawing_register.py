"""The use cases of the register of drawings: the sheets of all jobs, proofed and issued many at once."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Sequence
from dataclasses import dataclass

import orjson
from pydantic import BaseModel, Field

from skalto.core.errors import InputError, NotThere
from skalto.core.job import JobDocument
from skalto.core.listing import listed
from skalto.core.packs import DEFAULT_PATTERN, Pack
from skalto.core.release.drawings import DrawingRow, DrawingsWanted, found
from skalto.core.shown_content import sheet_content
from skalto.core.typed import Line, Text, Words
from skalto.services.stored import keys
from skalto.services.use_cases.issuing import IssueRequest, Issuing
from skalto.services.use_cases.proofing import Proofing
from skalto.store import drawings, jobs
from skalto.store.issues import StoredIssue

_PACK = "register"
_LIST_SECONDS = 3.0
_log = logging.getLogger(__name__)


class DrawingKey(BaseModel, frozen=True):
    """A sheet of a job."""

    job: int
    sheet: Text


class DrawingsIssue(BaseModel):
    """How drawings are issued: an issue for each job, of one file or one a sheet, for a purpose, at a revision ('' for the
    sheets' own), by a recipe ('' for each sheet's own)."""

    purpose: Line = Field(default="for information", min_length=1, max_length=60)
    revision: Line = Field(default="", max_length=12)
    note: Words = Field(default="", max_length=2000)
    recipe: Text = ""
    each: bool = False


@dataclass(frozen=True)
class Proofed:
    """How far the proofs are that were asked for: how many are under way, and why some cannot be made."""

    left: int
    failed: tuple[str, ...]


def _lines(document: JobDocument, number: str) -> list[tuple[str, str, str]]:
    found = []
    for place, sheet in enumerate(document.sheets):
        said = {"job_name": document.name, "about": listed(document, number, place).model_dump()}
        found.append((sheet.id, sheet_content(document, sheet, number, {}), orjson.dumps(said).decode()))
    return found


class DrawingRegister:
    """The register of drawings."""

    def __init__(self, proofing: Proofing, issuing: Issuing) -> None:
        self.proofing, self.issuing = proofing, issuing
        self._listing = threading.Lock()
        self._proofing = threading.Lock()
        self._wanted: dict[DrawingKey, str] = {}
        self._failed: list[str] = []
        self._listed = 0.0

    def rows(self, wanted: DrawingsWanted) -> list[DrawingRow]:
        """The drawings that are looked for, sorted."""
        self._bring_up()
        return found(drawings.drawing_rows(), wanted)

    def _bring_up(self) -> None:
        with self._listing:
            self._listed = time.monotonic()
            drawings.bring_up(_lines, f"{keys.VERSION}.1")

    def proof(self, chosen: Sequence[DrawingKey]) -> None:
        """Have proofs made of some drawings, one after another; those that show nothing are told, and left out.

        :raises InputError: when none of them shows anything.
        """
        documents = {own: jobs.get_job(own).document for own in {key.job for key in chosen}}
        sheets = {key: documents[key.job].sheet(key.sheet) for key in chosen}
        shown = [key for key, sheet in sheets.items() if not sheet.is_empty]
        empty = [sheet.name for sheet in sheets.values() if sheet.is_empty]
        told = [f"{', '.join(empty[:5])}{' …' if len(empty) > 5 else ''}: empty, without a proof."] if empty else []
        if not shown:
            raise InputError("None of these sheets shows anything: put a view or a 3D annotation on one first.")
        with self._proofing:
            if not self._wanted:
                self._failed.clear()
            self._failed += told
            self._wanted |= dict.fromkeys(shown, "")

    def proofed(self) -> Proofed:
        """How far the proofs are that were asked for."""
        return Proofed(len(self._wanted), tuple(self._failed))

    def advance_all(self) -> None:
        """Bring the proofs forward that were asked for; one that cannot be made keeps no other waiting.
        What has changed is listed anew meanwhile, so that nobody waits for it."""
        if time.monotonic() - self._listed > _LIST_SECONDS:
            self._bring_up()
        for key, begun in list(self._wanted.items())[:4]:
            try:
                state = self.proofing.proof(key.job, key.sheet) if begun else self.proofing.make(key.job, key.sheet)
                self._wanted[key] = state.key
                error = state.work.error if state.work is not None and state.work.state == "failed" else ""
                ended = state.ready or state.work is None or state.work.state in ("failed", "cancelled")
            except NotThere:
                error, ended = "", True
            except Exception as problem:
                _log.exception("the proof of %s broke off", key)
                error = str(problem) if isinstance(problem, InputError) else "It broke off unexpectedly: try it again."
                ended = True
            if error:
                self._failed.append(f"{self._called(key)}: {error}")
            if ended:
                with self._proofing:
                    self._wanted.pop(key, None)

    def _called(self, key: DrawingKey) -> str:
        try:
            return jobs.get_job(key.job).document.sheet(key.sheet).name
        except NotThere:
            return "A sheet that is gone"

    def issue(self, chosen: Sequence[DrawingKey], wish: DrawingsIssue) -> list[StoredIssue]:
        """Begin an issue of the chosen drawings of each job. :raises InputError: when something stands against one of them;
        nothing is issued then."""
        by_job: dict[int, list[str]] = {}
        for key in chosen:
            by_job.setdefault(key.job, []).append(key.sheet)
        request = IssueRequest(pack=_PACK, **wish.model_dump(exclude={"each"}))
        whole = []
        for job_id, sheets in by_job.items():
            job = jobs.get_job(job_id)
            for sheet_id in sheets:
                job.document.sheet(sheet_id)
            order = tuple(sheet.id for sheet in job.document.sheets if sheet.id in sheets)
            name = job.document.sheet(order[0]).name if len(order) == 1 else f"{len(order)} drawings"
            pack = Pack(id=_PACK, name=name[:80], sheets=order, pattern="{job}_{revision}_{title}")
            if wish.each:
                pack = pack.model_copy(update={"files": "each", "pattern": DEFAULT_PATTERN})
            self.issuing.refuse(job, pack, request)
            whole.append((job, pack))
        return [self.issuing.begin_pack(job, pack, request) for job, pack in whole]
