"""Jobs and their history: every change is a step; undo and redo move along them."""

from __future__ import annotations

import hashlib
import json
import uuid
from collections import OrderedDict
from collections.abc import Sequence
from contextlib import suppress
from contextvars import ContextVar
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any

from peewee import SqliteDatabase
from pydantic import ValidationError

from skalto.core.errors import InputError, Moved, NotThere, first_sentence
from skalto.core.job import JobDocument
from skalto.core.locks import refuse_locked
from skalto.store.keeping import link_sources
from skalto.store.migrations import migrate
from skalto.store.states import locked_of
from skalto.store.tables import Incoming, Job, OwnFormat, Proof, Step, aware, connected, database, now
from skalto.store.telling import tell

# A change locks the database from its first look: one that found it changed half-way could not go on.

person: ContextVar[str] = ContextVar("person", default="")
"""Whose browser asks for what is being done; '' for what nobody in particular does."""

KEPT_STEPS = 500
"""How far back undo reaches."""


@dataclass(frozen=True)
class StoredJob:
    """A job as it stands: what undo and redo would take back or do again, '' for nothing.

    *state* names the document by its content: a step's number comes again when another change follows an undo.
    *undo_other* and *redo_other* tell whether someone else did what would be taken back or done again. *problem* says why the
    document cannot be read, '' for one that can; what stands for it then is empty but for its name.
    """

    id: int
    number: str
    document: JobDocument
    undo: str
    redo: str
    changed: datetime
    step: int
    state: str
    undo_other: bool = False
    redo_other: bool = False
    problem: str = ""

    @property
    def source_ids(self) -> frozenset[str]:
        return frozenset(source.id for source in self.document.sources)


def _of_another(step: Any) -> bool:
    return bool(step is not None and step.person and person.get() and step.person != person.get())


def open_database(path: Path) -> None:
    """Open (or make) the database and bring it to the present shape."""
    path.parent.mkdir(parents=True, exist_ok=True)
    real = SqliteDatabase(
        str(path), pragmas={"journal_mode": "wal", "foreign_keys": 1, "busy_timeout": 5000, "secure_delete": 1}
    )
    database.initialize(real)
    with connected():
        migrate(database)


def _row(job_id: int) -> Any:
    row = Job.get_or_none(Job.id == job_id)
    if row is None:
        raise NotThere("There is no such job: it may have been deleted.")
    return row


_documents: OrderedDict[str, JobDocument] = OrderedDict()
_KEPT_DOCUMENTS = 64


def _document(text: str) -> JobDocument:
    """The document that a step keeps: whoever asks how work goes on asks often, and reading it takes longest."""
    return _documents.get(text) or _remember(text, JobDocument.model_validate_json(text))


def _remember(text: str, document: JobDocument) -> JobDocument:
    _documents[text] = document
    while len(_documents) > _KEPT_DOCUMENTS:
        with suppress(KeyError):
            # another thread may have been there first
            _documents.popitem(last=False)
    return document


def _state(document: str) -> str:
    return hashlib.sha256(document.encode()).hexdigest()[:20]


def _unreadable(row: Any, text: str, error: ValidationError) -> StoredJob:
    """A job whose document cannot be read."""
    try:
        name = str(json.loads(text)["name"])[:120] or row.number
    except (ValueError, LookupError, TypeError, RecursionError):
        name = f"Job {row.number}"
    problem = f"This job cannot be read: {first_sentence(error)}"
    empty = JobDocument(name=name)
    return StoredJob(row.id, row.number, empty, "", "", aware(row.changed), row.head, _state(text), problem=problem)


def _stored(row: Any) -> StoredJob:
    here = Step.get((Step.job == row) & (Step.number == row.head))
    later = Step.get_or_none((Step.job == row) & (Step.number == row.head + 1))
    earlier = Step.select().where((Step.job == row) & (Step.number < row.head)).exists()
    return StoredJob(
        row.id,
        row.number,
        _document(here.document),
        here.label if earlier else "",
        later.label if later else "",
        aware(row.changed),
        row.head,
        _state(here.document),
        bool(earlier) and _of_another(here),
        _of_another(later),
    )


def list_jobs() -> list[StoredJob]:
    """All jobs, the last changed first; one that cannot be read is listed with its problem."""
    found = []
    # one look at all: a job that is deleted meanwhile is there with its history, or not at all
    with connected(), database.atomic():
        for row in Job.select().order_by(Job.changed.desc(), Job.id.desc()):
            try:
                found.append(_stored(row))
            except ValidationError as error:
                here = Step.get((Step.job == row) & (Step.number == row.head))
                found.append(_unreadable(row, here.document, error))
    return found


def get_job(job_id: int) -> StoredJob:
    """:raises InputError: when there is no such job, or it cannot be read."""
    with connected(), database.atomic():
        row = _row(job_id)
        try:
            return _stored(row)
        except ValidationError as error:
            raise InputError(f"This job cannot be read: {first_sentence(error)}") from None


def create_job(document: JobDocument, label: str = "new job") -> StoredJob:
    """Keep a new job; it takes the next number, which no job has had before."""
    with connected(), database.atomic("IMMEDIATE"):
        # the number is the id, which is never given again; until it is known, one that nobody has
        row = Job.create(number=f"new {uuid.uuid4().hex}")
        row.number = f"{row.id:04d}"
        row.save()
        Step.create(job=row, number=0, label=label, document=document.model_dump_json(), person=person.get())
        link_sources(row.id, (source.id for source in document.sources))
        made = _stored(row)
    tell("job", made.id)
    return made


def delete_job(job_id: int) -> None:
    """Delete a job with its history. :raises InputError: when there is none."""
    with connected(), database.atomic("IMMEDIATE"):
        _row(job_id).delete_instance()
    tell("job", job_id)


def _at(row: Any, step: int, state: str | None) -> None:
    """:raises Moved: when a job's head is no longer where someone saw it."""
    here = Step.get((Step.job == row) & (Step.number == row.head))
    if row.head != step or (state is not None and _state(here.document) != state):
        raise Moved(f"The job was changed meanwhile ({here.label}): look at it as it is now, then do it again.")


def add_step(job_id: int, document: JobDocument, label: str, after: StoredJob) -> StoredJob:
    """Make a document, made of the job as *after* has it, the present one; what had been undone is gone.

    :raises Moved: when the job is no longer as *after* has it; nothing is changed then.
    :raises InputError: when it changes what is released.
    """
    with connected(), database.atomic("IMMEDIATE"):
        row = _row(job_id)
        _at(row, after.step, after.state)
        refuse_locked(after.document, document, locked_of(job_id))
        Step.delete().where((Step.job == row) & (Step.number > row.head)).execute()
        row.head += 1
        row.changed = now()
        text = document.model_dump_json()
        _remember(text, document)
        Step.create(job=row, number=row.head, label=label, document=text, person=person.get())
        link_sources(job_id, (source.id for source in document.sources if source.id not in after.source_ids))
        Step.delete().where((Step.job == row) & (Step.number < row.head - KEPT_STEPS)).execute()
        row.save()
        made = _stored(row)
    tell("job", job_id)
    return made


def move_head(job_id: int, by: int, step: int | None = None, anyway: bool = False) -> StoredJob:
    """Undo (−1) or redo (+1).

    :param step: where the head was seen, if it was. :param anyway: whether what someone else did is taken back, too.
    :raises InputError: when there is nothing to take back or do again, or what is released would be changed.
    :raises Moved: when the head is not at *step*, or it would be someone else's step.
    """
    with connected(), database.atomic("IMMEDIATE"):
        row = _row(job_id)
        if step is not None:
            _at(row, step, None)
        there = Step.get_or_none((Step.job == row) & (Step.number == row.head + by))
        if there is None:
            raise InputError("There is nothing to undo." if by < 0 else "There is nothing to redo.")
        moved = Step.get((Step.job == row) & (Step.number == row.head)) if by < 0 else there
        if not anyway and _of_another(moved):
            raise Moved(f"Someone else did this ({moved.label}): look at it as it is now, then ask for it once more.")
        refuse_locked(_stored(row).document, JobDocument.model_validate_json(there.document), locked_of(job_id))
        row.head += by
        row.changed = now()
        row.save()
        made = _stored(row)
    tell("job", job_id)
    return made


@dataclass(frozen=True)
class IncomingFile:
    id: int
    job: int
    source: str
    name: str
    size: int
    state: str
    error: str
    replaces: str = ""
    person: str = ""


def _incoming(row: Any) -> IncomingFile:
    return IncomingFile(row.id, row.job_id, row.source, row.name, row.size, row.state, row.error, row.replaces, row.person)


def add_incoming(job_id: int, source: str, name: str, size: int, replaces: str = "") -> IncomingFile:
    with connected():
        fields = {"source": source, "name": name, "size": size, "replaces": replaces, "person": person.get()}
        made = _incoming(Incoming.create(job=_row(job_id), **fields))
    tell("incoming", job_id)
    return made


def incoming_of(job_id: int) -> list[IncomingFile]:
    with connected():
        return [_incoming(row) for row in Incoming.select().where(Incoming.job == job_id).order_by(Incoming.id)]


def all_reading() -> list[IncomingFile]:
    """Files of all jobs that are being read."""
    with connected():
        return [_incoming(row) for row in Incoming.select().where(Incoming.state == "reading").order_by(Incoming.id)]


def fail_incoming(incoming_id: int, state: str, error: str) -> None:
    with connected():
        row: Any = Incoming.get_or_none(Incoming.id == incoming_id)
        Incoming.update(state=state, error=error).where(Incoming.id == incoming_id).execute()
    if row is not None:
        tell("incoming", row.job_id)


def read_again(incoming_id: int) -> None:
    """Set a file that could not be read back to being read."""
    with connected():
        row: Any = Incoming.get_or_none(Incoming.id == incoming_id)
        Incoming.update(state="reading", error="").where(Incoming.id == incoming_id).execute()
    if row is not None:
        tell("incoming", row.job_id)


def remove_incoming(incoming_id: int) -> None:
    with connected():
        row: Any = Incoming.get_or_none(Incoming.id == incoming_id)
        Incoming.delete().where(Incoming.id == incoming_id).execute()
    if row is not None:
        tell("incoming", row.job_id)


def add_proof(job_id: int, sheet: str, key: str, content: str) -> None:
    """Note a finished file of a sheet as its latest, and what the sheet showed."""
    with connected():
        Proof.create(job=_row(job_id), sheet=sheet, key=key, content=content)


def latest_proofs(job_id: int, sheets: Sequence[str]) -> dict[str, str]:
    """The key of the latest proof of each sheet that has one."""
    with connected():
        rows = Proof.select().where((Proof.job == job_id) & (Proof.sheet.in_([*sheets]))).order_by(Proof.id)
        return {row.sheet: row.key for row in rows}


def own_formats() -> dict[str, str]:
    """Formats that people keep, size by name."""
    with connected():
        return {row.name: row.size for row in OwnFormat.select().order_by(OwnFormat.name)}


def keep_format(name: str, size: str) -> None:
    """Keep a format under a name, or change the one of that name."""
    with connected():
        OwnFormat.insert(name=name, size=size).on_conflict(conflict_target=[OwnFormat.name], update={"size": size}).execute()
    tell("settings", 0)


def drop_format(name: str) -> None:
    with connected():
        OwnFormat.delete().where(OwnFormat.name == name).execute()
    tell("settings", 0)
