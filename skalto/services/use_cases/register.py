"""The use cases of the parts register: its rows, marks, and tables in and out."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

import orjson

from skalto.core.edits.of_release import SetParts
from skalto.core.errors import InputError
from skalto.core.job import JobDocument
from skalto.core.release.marks import Numbering, numbered
from skalto.core.release.numbers_in_names import numbers_of
from skalto.core.release.register import PartRow
from skalto.core.release.table import as_table, from_table
from skalto.core.sheet_metal.facts import PatternFacts
from skalto.jobs.queue import WorkState
from skalto.services.results.register import model_at_hand, rows_of, with_marks
from skalto.services.use_cases.looking import Looking
from skalto.store import jobs as store
from skalto.store.jobs import StoredJob


@dataclass(frozen=True)
class Registered:
    """The register of a job; *work* is how far the looking at its models is, None once kinds and thicknesses are known."""

    rows: list[PartRow]
    work: WorkState | None


class PartsRegister:
    """The parts register of a job."""

    def __init__(self, looking: Looking) -> None:
        self.looking = looking
        self.studio = looking.studio

    def rows(self, job_id: int) -> Registered:
        """The rows of a job's register."""
        return self.of(store.get_job(job_id).document)

    def of(self, document: JobDocument) -> Registered:
        """The register of a job's document; models that are not read yet are left out."""
        models, work = [], None
        for source in document.sources:
            if source.drawing:
                continue
            looked = b"[]"
            try:
                look = self.looking.sheet_parts(source.id)
                work, looked = work or look.work, look.data or b"[]"
            except InputError as error:
                # a model that cannot be looked through has rows all the same
                work = work or WorkState(state="failed", error=str(error))
            try:
                models.append(model_at_hand(self.studio.blobs, source.id, source.name, orjson.loads(looked)))
            except KeyError:
                continue
        return Registered(rows_of(document, models), work)

    def flats(self, source: str) -> dict[tuple[str, str], PatternFacts]:
        """What is known of the flat patterns of a model that was looked through, by source and component."""
        try:
            look = self.looking.sheet_parts(source)
        except InputError:
            return {}
        rows = orjson.loads(look.data) if look.data is not None else []
        return {
            (source, path): PatternFacts.model_validate(row["facts"])
            for row in rows
            if row["facts"] is not None
            for path in row["components"]
        }

    def numbering(self, job_id: int, keep: Collection[str] = (), renew: Collection[str] = ()) -> Numbering:
        """What a numbering would come to. :raises InputError: while the models are still looked at."""
        return self._numbered(store.get_job(job_id).document, keep, renew)

    def give_marks(self, job_id: int, keep: Collection[str] = (), renew: Collection[str] = ()) -> StoredJob:
        """Number the parts of a job, in one step. :raises InputError: while the models are still looked at."""
        return self.studio.change(job_id, "give marks", lambda d: with_marks(d, self._numbered(d, keep, renew)))

    def _numbered(self, document: JobDocument, keep: Collection[str], renew: Collection[str]) -> Numbering:
        found = self.of(document)
        if found.work is not None and found.work.state in ("queued", "running"):
            raise InputError("The parts are still looked at, which says what kind they are: wait a moment.")
        return numbered(found.rows, document.given_marks, document.series, keep, renew)

    def numbers_in_names(self, job_id: int, pattern: str) -> dict[str, dict[str, str]]:
        """The numbers that a pattern finds in names, to be said of parts by their keys. :raises InputError: for a bad one."""
        return numbers_of(pattern, self.of(store.get_job(job_id).document).rows)

    def take_numbers(self, job_id: int, pattern: str) -> tuple[StoredJob, int]:
        """Take numbers out of names, in one step: the job, and out of how many. :raises InputError: for a bad pattern."""
        told = self.numbers_in_names(job_id, pattern)
        return (self.studio.edit(job_id, SetParts(kind="set_parts", parts=told)) if told else store.get_job(job_id)), len(told)

    def table(self, job_id: int) -> str:
        """The register as CSV."""
        document = store.get_job(job_id).document
        return as_table(self.of(document).rows, document.own_fields)

    def read_table(self, job_id: int, text: str) -> tuple[StoredJob, int]:
        """Take a table in, in one step: the job, and of how many parts something was said.

        :raises InputError: when it does not fit; nothing is changed then.
        """
        document = store.get_job(job_id).document
        told = from_table(text, self.of(document).rows, document.own_fields)
        if not told:
            return store.get_job(job_id), 0
        return self.studio.edit(job_id, SetParts(kind="set_parts", parts=told)), len(told)
