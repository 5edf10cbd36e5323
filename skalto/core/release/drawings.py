"""The register of drawings: a row for each sheet of all jobs, found, sorted, and as a table."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterable, Sequence
from datetime import datetime
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from skalto.core.release.states import State
from skalto.core.sheets.listed import ListedDrawing
from skalto.core.spreadsheets import csv_of, natural

SortedBy = Literal[
    "job", "name", "mark", "number", "title", "revision", "format", "scale", "state", "proofed", "issued", "released"
]
Standing = Literal["", "never proofed", "changed since proof", "never issued", "changed since issue", "never released"]


class DrawingRow(BaseModel):
    """A sheet of a job: what it says of itself, its *state*, when it was last proofed and issued, by which *issue* and what
    for, and whether it has changed since, None where that is not known; the last *release* that it was in, which file of the
    outbox it became, at which revision."""

    model_config = ConfigDict(frozen=True)

    job: int
    job_number: str
    job_name: str
    sheet: str
    about: ListedDrawing
    state: State = State.IN_WORK
    proofed: datetime | None = None
    changed_since_proof: bool | None = None
    issued: datetime | None = None
    issue: int | None = None
    purpose: str = ""
    issued_revision: str = ""
    changed_since_issue: bool | None = None
    release: int | None = None
    released: datetime | None = None
    released_file: str = ""
    released_revision: str = ""


class DrawingsWanted(BaseModel):
    """Which drawings are looked for: all words of *text* in what the register shows of them; of one *job*, in one *state*, or
    that stand in one way to their proof or issue; how they are sorted."""

    model_config = ConfigDict(frozen=True)

    text: str = Field(default="", max_length=200)
    job: int | None = None
    state: State | None = None
    standing: Standing = ""
    by: SortedBy = "job"
    down: bool = False


_STANDING: dict[str, Callable[[DrawingRow], bool]] = {
    "": lambda row: True,
    "never proofed": lambda row: row.proofed is None,
    "changed since proof": lambda row: bool(row.changed_since_proof),
    "never issued": lambda row: row.issued is None,
    "changed since issue": lambda row: bool(row.changed_since_issue),
    "never released": lambda row: row.release is None,
}


def _shown(row: DrawingRow) -> str:
    about = row.about
    told = (
        row.job_number, row.job_name, about.name, about.mark, about.number, about.title, about.revision, about.format,
        about.scale, row.state, row.purpose, row.released_file,
    )  # fmt: skip
    return " ".join(told).casefold()


def found(rows: Iterable[DrawingRow], wanted: DrawingsWanted) -> list[DrawingRow]:
    """The rows that are looked for, sorted; those that say nothing there come last, whichever way it goes."""
    words = wanted.text.casefold().split()
    stands = _STANDING[wanted.standing]
    kept = [
        row
        for row in rows
        if (wanted.job is None or row.job == wanted.job)
        and (wanted.state is None or row.state == wanted.state)
        and stands(row)
        and (not words or all(word in _shown(row) for word in words))
    ]
    if wanted.by == "job":
        # the sheets of a job stay in their order
        return sorted(kept, key=lambda row: row.job_number, reverse=wanted.down)
    if wanted.by in ("proofed", "issued", "released"):
        moments = {(row.job, row.sheet): getattr(row, wanted.by) for row in kept}
        dated = [row for row in kept if moments[row.job, row.sheet] is not None]
        dated.sort(key=lambda row: moments[row.job, row.sheet], reverse=wanted.down)
        return dated + [row for row in kept if moments[row.job, row.sheet] is None]

    def said(row: DrawingRow) -> str:
        return str(row.state) if wanted.by == "state" else str(getattr(row.about, wanted.by))

    told = sorted((row for row in kept if said(row)), key=lambda row: natural(said(row)), reverse=wanted.down)
    return told + [row for row in kept if not said(row)]


COLUMNS = (
    "job number", "job", "sheet", "mark", "number", "title", "revision", "format", "scale", "state", "last proof",
    "changed since proof", "last issue", "issued at", "purpose", "issued revision", "changed since issue", "released at",
    "released revision", "released file",
)  # fmt: skip
_CELL = 32_000
"""So many letters a cell of a workbook holds, and some more (ECMA-376, from memory)."""
_SAID = {None: "", True: "yes", False: "no"}


def _cells(row: DrawingRow) -> tuple[str | int | datetime | None, ...]:
    about = row.about
    return (
        row.job_number, row.job_name, about.name, about.mark, about.number, about.title, about.revision, about.format,
        about.scale, row.state.value, row.proofed, _SAID[row.changed_since_proof], row.issue, row.issued, row.purpose,
        row.issued_revision, _SAID[row.changed_since_issue], row.released, row.released_revision, row.released_file,
    )  # fmt: skip


def drawings_csv(rows: Sequence[DrawingRow]) -> str:
    """The register as CSV (RFC 4180); moments as RFC 3339 has them."""
    told = (
        [cell.isoformat(timespec="seconds") if isinstance(cell, datetime) else cell for cell in _cells(row)] for row in rows
    )
    return csv_of((COLUMNS, *told))


def drawings_xlsx(rows: Sequence[DrawingRow]) -> bytes:
    """The register as a workbook (ISO/IEC 29500): one sheet, its heading fixed and filtered; moments in UTC."""
    import xlsxwriter

    out = io.BytesIO()
    # texts stay texts, whatever they look like
    kept = {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False, "strings_to_numbers": False}
    with xlsxwriter.Workbook(out, kept | {"remove_timezone": True}) as book:
        page = book.add_worksheet("Drawings")
        bold, day = book.add_format({"bold": True}), book.add_format({"num_format": "yyyy-mm-dd hh:mm"})
        page.write_row(0, 0, COLUMNS, bold)
        for line, row in enumerate(rows, 1):
            for column, cell in enumerate(_cells(row)):
                if isinstance(cell, datetime):
                    page.write_datetime(line, column, cell.replace(tzinfo=None, microsecond=0), day)
                elif isinstance(cell, int):
                    page.write_number(line, column, cell)
                elif cell:
                    page.write_string(line, column, str(cell)[:_CELL])
        page.freeze_panes(1, 0)
        page.autofilter(0, 0, max(1, len(rows)), len(COLUMNS) - 1)
        page.set_column(0, len(COLUMNS) - 1, 16)
    return out.getvalue()
