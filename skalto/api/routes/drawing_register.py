"""The routes of the register of drawings."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Query, Response
from pydantic import BaseModel, Field

from skalto.api.routes.output import attachment
from skalto.api.schemas import PROBLEMS
from skalto.api.using import use
from skalto.core.release.drawings import DrawingRow, DrawingsWanted, drawings_csv, drawings_xlsx
from skalto.services.use_cases.drawing_register import DrawingKey, DrawingRegister, DrawingsIssue

router = APIRouter(prefix="/api/drawing-register", responses=PROBLEMS, tags=["register of drawings"])
Here = Annotated[DrawingRegister, Depends(use(DrawingRegister))]
Wanted = Annotated[DrawingsWanted, Query()]
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


class PageWanted(DrawingsWanted):
    """A page of what is looked for."""

    begin: int = Field(default=0, ge=0)
    count: int = Field(default=200, ge=1, le=1000)


class DrawingRows(BaseModel):
    """A page of the register, and how many rows there are in all that were looked for."""

    rows: tuple[DrawingRow, ...]
    count: int


class ChosenDrawings(BaseModel):
    """Some sheets of any jobs."""

    drawings: tuple[DrawingKey, ...] = Field(min_length=1, max_length=10_000)


class NamedDrawing(DrawingKey, frozen=True):
    """A sheet of a job, and what it is called."""

    called: str


class DrawingsToIssue(ChosenDrawings):
    """Some sheets, and how they are issued."""

    wish: DrawingsIssue


class ProofsWanted(BaseModel):
    """How far the proofs are that were asked for here: how many are under way, and why some cannot be made."""

    left: int
    failed: tuple[str, ...]


class BegunIssues(BaseModel):
    """The issues that were begun, by their numbers: one for each job."""

    issues: tuple[int, ...]


@router.get("")
def drawing_register(wanted: Annotated[PageWanted, Query()], register: Here) -> DrawingRows:
    """Sheets of all jobs, a page of them."""
    rows = register.rows(wanted)
    return DrawingRows(rows=tuple(rows[wanted.begin : wanted.begin + wanted.count]), count=len(rows))


@router.get("/keys")
def drawing_keys(wanted: Wanted, register: Here) -> list[NamedDrawing]:
    """All that are looked for, by job and sheet, and what they are called."""
    rows = register.rows(wanted)
    return [NamedDrawing(job=row.job, sheet=row.sheet, called=f"{row.job_number} {row.about.name}") for row in rows]


@router.get(".csv", response_class=Response)
def drawings_as_csv(wanted: Wanted, register: Here) -> Response:
    """The register as CSV."""
    told = drawings_csv(register.rows(wanted))
    return Response(told, media_type="text/csv; charset=utf-8", headers=attachment("drawings.csv"))


@router.get(".xlsx", response_class=Response)
def drawings_as_workbook(wanted: Wanted, register: Here) -> Response:
    """The register as a workbook."""
    return Response(drawings_xlsx(register.rows(wanted)), media_type=XLSX, headers=attachment("drawings.xlsx"))


def _proofs(register: DrawingRegister) -> ProofsWanted:
    made = register.proofed()
    return ProofsWanted(left=made.left, failed=made.failed)


@router.get("/proofs")
def proofs_wanted(register: Here) -> ProofsWanted:
    """How far the proofs are that were asked for here."""
    return _proofs(register)


@router.post("/proofs")
def proof_drawings(chosen: ChosenDrawings, register: Here) -> ProofsWanted:
    """Have proofs made of some drawings; they go on by themselves."""
    register.proof(chosen.drawings)
    return _proofs(register)


@router.post("/issues", status_code=201)
def issue_drawings(asked: DrawingsToIssue, register: Here) -> BegunIssues:
    """Begin an issue of some drawings, one for each job."""
    return BegunIssues(issues=tuple(issue.id for issue in register.issue(asked.drawings, asked.wish)))
