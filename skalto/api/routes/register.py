"""The routes of the parts register: rows, marks, tables."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Response
from pydantic import BaseModel, Field

from skalto.api.routes.jobs import _job
from skalto.api.routes.output import attachment
from skalto.api.schemas import PROBLEMS, JobView
from skalto.api.using import use
from skalto.core.packs import safe
from skalto.core.release.marks import Numbering
from skalto.core.release.register import PartRow
from skalto.core.typed import Line, Text, Words
from skalto.jobs.queue import WorkState
from skalto.services.use_cases.register import PartsRegister
from skalto.store import jobs as store

router = APIRouter(prefix="/api", responses=PROBLEMS, tags=["parts register"])
Here = Annotated[PartsRegister, Depends(use(PartsRegister))]


class RegisterRows(BaseModel):
    """The rows of a job's parts register; *work* is how far the looking at its models is, None once kinds are known."""

    rows: tuple[PartRow, ...]
    work: WorkState | None = None


class ChangedPart(BaseModel):
    """A part that was another when it got its mark."""

    key: str
    name: str
    mark: str


class NumberingView(BaseModel):
    """What a numbering would come to: the marks of parts by their keys; keys of what is new; what changed and is asked; the
    marks that would be dropped."""

    marks: dict[str, str]
    new: tuple[str, ...]
    kept: int
    changed: tuple[ChangedPart, ...]
    gone: tuple[str, ...]


class NumberingAnswer(BaseModel):
    """Of what changed: the marks that stay, and those in whose place new ones are given."""

    keep: tuple[Text, ...] = ()
    renew: tuple[Text, ...] = ()


class PartsTable(BaseModel):
    """A table as CSV, as it is pasted out of a spreadsheet or read from a file."""

    text: Words = Field(max_length=5_000_000)


class NumberPattern(BaseModel):
    """How numbers look that stand in the names of parts: # is a digit, @ a letter."""

    pattern: Line = Field(min_length=1, max_length=40)


class NumbersInNames(BaseModel):
    """What a pattern finds: number and what is left of the name, by the keys of parts."""

    parts: dict[str, dict[str, str]]


class TableTaken(BaseModel):
    """The job, and of how many parts the table said something."""

    job: JobView
    parts: int


def _view(made: Numbering) -> NumberingView:
    return NumberingView(
        marks=made.marks,
        new=tuple(row.key for row in made.new),
        kept=len(made.kept),
        changed=tuple(ChangedPart(key=own.row.key, name=own.row.name, mark=own.mark) for own in made.changed),
        gone=tuple(own.mark for own in made.gone),
    )


@router.get("/jobs/{job_id}/parts")
def parts_register(job_id: int, parts: Here) -> RegisterRows:
    """The parts register of a job."""
    found = parts.rows(job_id)
    return RegisterRows(rows=tuple(found.rows), work=found.work)


@router.post("/jobs/{job_id}/numbering")
def preview_numbering(job_id: int, answer: NumberingAnswer, parts: Here) -> NumberingView:
    """What numbering the parts would come to, with what is answered; nothing is changed."""
    return _view(parts.numbering(job_id, answer.keep, answer.renew))


@router.post("/jobs/{job_id}/numbers-in-names")
def numbers_in_names(job_id: int, asked: NumberPattern, parts: Here) -> NumbersInNames:
    """The numbers that stand in the names of parts; nothing is changed."""
    return NumbersInNames(parts=parts.numbers_in_names(job_id, asked.pattern))


@router.post("/jobs/{job_id}/numbers")
def take_numbers(job_id: int, asked: NumberPattern, parts: Here) -> TableTaken:
    """Take the numbers out of the names of parts."""
    job, count = parts.take_numbers(job_id, asked.pattern)
    return TableTaken(job=_job(job), parts=count)


@router.post("/jobs/{job_id}/marks")
def give_marks(job_id: int, answer: NumberingAnswer, parts: Here) -> JobView:
    """Number the parts."""
    return _job(parts.give_marks(job_id, answer.keep, answer.renew))


@router.get("/jobs/{job_id}/parts.csv", response_class=Response)
def parts_table(job_id: int, parts: Here) -> Response:
    """The parts register as CSV."""
    name = safe(f"{store.get_job(job_id).document.name} parts")
    return Response(parts.table(job_id), media_type="text/csv; charset=utf-8", headers=attachment(f"{name}.csv"))


@router.post("/jobs/{job_id}/parts.csv")
def read_parts_table(job_id: int, table: PartsTable, parts: Here) -> TableTaken:
    """Take a table of parts in."""
    job, count = parts.read_table(job_id, table.text)
    return TableTaken(job=_job(job), parts=count)
