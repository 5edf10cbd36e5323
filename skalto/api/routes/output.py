"""The routes of what goes out: proofs, recipes, packs and issues, each a translation of one use case."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import IO, Annotated
from urllib.parse import quote

from fastapi import APIRouter, Body, Depends, Query, Response
from fastapi.responses import FileResponse
from pydantic import BaseModel
from starlette.background import BackgroundTask

from skalto.api.schemas import PROBLEMS, ProofView
from skalto.api.using import use
from skalto.core.checks.verdict import Report
from skalto.core.fields import FIELDS
from skalto.core.formats import output_format
from skalto.core.packs import DEFAULT_PATTERN, safe
from skalto.core.recipes import SHIPPED_RECIPES, Recipe, recipe_to_json
from skalto.core.typed import Line, Text
from skalto.jobs.queue import WorkState
from skalto.services.output.sending import SendingProgress
from skalto.services.use_cases import recipes
from skalto.services.use_cases.issuing import PURPOSES, IssueRequest, IssueState, Issuing, as_csv, sources_of
from skalto.services.use_cases.proofing import Proofing, ProofState
from skalto.store import recipes as recipe_store

SmallFile = Annotated[bytes, Body(media_type="application/octet-stream", max_length=1_000_000)]
"""A file of settings, as the request's body."""

router = APIRouter(prefix="/api", responses=PROBLEMS, tags=["recipes, packs and issues"])


Proofs = Annotated[Proofing, Depends(use(Proofing))]
Issues = Annotated[Issuing, Depends(use(Issuing))]


def attachment(name: str) -> dict[str, str]:
    return {"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}"}


def archive(folder: Path, write: Callable[[IO[bytes]], str]) -> FileResponse:
    """What *write* writes and names, sent from the disk and taken away then; *folder* is where it lies meanwhile."""
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.NamedTemporaryFile(dir=folder, suffix=".zip", delete=False) as out:
        path = Path(out.name)
        try:
            name = write(out)
        except BaseException:
            path.unlink(missing_ok=True)
            raise
    return FileResponse(path, media_type="application/zip", headers=attachment(name), background=BackgroundTask(path.unlink))


# Proofs


def _proof(state: ProofState, name: str) -> ProofView:
    holds = None if state.report is None else state.report.holds
    return ProofView(key=state.key, ready=state.ready, holds=holds, work=state.work, report=state.report, file_name=name)


@router.get("/jobs/{job_id}/sheets/{sheet}/proof")
def get_proof(job_id: int, sheet: Text, proofing: Proofs) -> ProofView:
    return _proof(proofing.proof(job_id, sheet), proofing.file_name(job_id, sheet))


@router.post("/jobs/{job_id}/sheets/{sheet}/proof", status_code=202)
def make_proof(job_id: int, sheet: Text, proofing: Proofs) -> ProofView:
    """Write the sheet's file and measure it."""
    return _proof(proofing.make(job_id, sheet), proofing.file_name(job_id, sheet))


@router.get("/jobs/{job_id}/sheets/{sheet}/proof.pdf", response_class=Response)
def proof_file(
    job_id: int,
    sheet: Text,
    proofing: Proofs,
    alone: bool = False,
    key: Text = "",
    name: Annotated[Line, Query(max_length=200)] = "",
) -> Response:
    """The finished file; *alone* the page of it that the sheet lies on, where it lies on one; with a *key* that very file, or
    none (409) where it is no longer the sheet's; under a *name*, without its ending, where one was typed."""
    own, data = proofing.file(job_id, sheet, alone, key)
    name = f"{safe(name)}.pdf" if name.strip() else own
    return Response(data, media_type="application/pdf", headers=attachment(name))


class WholeState(BaseModel):
    """A job's sheets as one PDF: whether the file is there and what was measured in it, or how far the work is."""

    ready: bool
    key: str
    work: WorkState | None = None
    report: Report | None = None


def _work(progress: SendingProgress) -> WorkState:
    busy = next((page for page in progress.pages if page.state not in ("ready", "waiting")), None)
    text = f"{busy.name}: {busy.text}" if busy else "Joining the sheets"
    return WorkState(state="running", share=progress.share, text=text)


@router.post("/jobs/{job_id}/whole", status_code=202)
def make_whole(job_id: int, proofing: Proofs) -> WholeState:
    """Write all sheets of a job, in order, to one PDF; ask again until it is ready."""
    key, progress = proofing.whole(job_id)
    report = proofing.whole_file(job_id)[2] if progress.done else None
    return WholeState(ready=progress.done, key=key, work=None if progress.done else _work(progress), report=report)


@router.get("/jobs/{job_id}/whole.pdf", response_class=Response)
def whole_file(job_id: int, proofing: Proofs) -> Response:
    """The finished file of all sheets."""
    name, data, _ = proofing.whole_file(job_id)
    return Response(data, media_type="application/pdf", headers=attachment(name))


# Recipes


class RecipeList(BaseModel):
    """The recipes that ship and those kept here; the fields that names may hold, and the usual purposes."""

    shipped: tuple[Recipe, ...]
    kept: tuple[Recipe, ...]
    fields: tuple[str, ...]
    pattern: str
    purposes: tuple[str, ...]


@router.get("/recipes")
def list_recipes() -> RecipeList:
    return RecipeList(
        shipped=SHIPPED_RECIPES,
        kept=tuple(recipe_store.kept_recipes()),
        fields=FIELDS,
        pattern=DEFAULT_PATTERN,
        purposes=PURPOSES,
    )


@router.put("/recipes")
def keep_recipe(recipe: Recipe) -> Recipe:
    """Keep a recipe, or the next version of one."""
    return recipes.keep(recipe)


@router.post("/recipes/try")
def try_recipe(recipe: Recipe) -> Recipe:
    """Whether choices go together; nothing is kept."""
    return recipe


@router.get("/recipes/{recipe}/versions")
def recipe_versions(recipe: Text) -> list[Recipe]:
    """All versions of a recipe, the newest first."""
    return recipe_store.versions_of(recipe)


@router.delete("/recipes/{recipe}", status_code=204)
def drop_recipe(recipe: Text) -> None:
    recipe_store.drop_recipe(recipe)


@router.post("/recipes/read")
def read_recipe(file: SmallFile) -> Recipe:
    """A recipe out of its file, under a name and an id of its own here; it is not kept yet."""
    return recipes.read(file)


@router.get("/recipes/{recipe}/file.json", response_class=Response)
def recipe_file(recipe: Text) -> Response:
    """A recipe as a file."""
    found = recipes.recipe_of(recipe)
    name = f"{found.name.replace('/', '-')}.recipe.json"
    return Response(recipe_to_json(found), media_type="application/json", headers=attachment(name))


# Issues


class SheetNotice(BaseModel):
    """What a sender should know of a sheet, by its id."""

    sheet: str
    message: str


class PreviewView(BaseModel):
    """What a sending would be: file names, what stands against it, what its sender should know."""

    names: tuple[str, ...]
    problems: tuple[str, ...]
    notices: tuple[SheetNotice, ...]
    sheets: int
    recipes: tuple[SheetNotice, ...] = ()


class FileView(BaseModel):
    id: int
    name: str
    hash: str
    size: int
    pages: int
    holds: bool


class PageProgressView(BaseModel):
    name: str
    state: str
    text: str
    share: float


class IssueView(BaseModel):
    """An issue: what it is, how far it is while it runs, and its files once it is done."""

    id: int
    job: int
    job_number: str
    job_name: str
    pack: str
    pack_id: str
    purpose: str
    revision: str
    note: str
    state: str
    error: str
    recipe: str
    recipe_version: int
    began: datetime
    ended: datetime | None
    files: tuple[FileView, ...]
    sheets: tuple[str, ...]
    sources: tuple[str, ...]
    share: float
    pages: tuple[PageProgressView, ...]


def _issue(found: IssueState, issuing: Issuing) -> IssueView:
    issue, progress = found.issue, found.progress
    plan = issuing.plan(issue)
    return IssueView(
        **{name: getattr(issue, name) for name in _PLAIN},
        recipe=plan.recipe.name,
        recipe_version=plan.recipe.version,
        files=tuple(
            FileView(id=f.id, name=f.name, hash=f.hash, size=f.size, pages=f.pages, holds=f.holds) for f in issue.files
        ),
        sheets=tuple(page.sheet.name for page in plan.pages),
        sources=tuple(sources_of(plan)),
        share=1.0 if issue.state == "done" else progress.share if progress else 0.0,
        pages=tuple(
            PageProgressView(name=p.name, state=p.state, text=p.text, share=p.share)
            for p in (progress.pages if progress else ())
        ),
    )


_PLAIN = (
    "id", "job", "job_number", "job_name", "pack", "pack_id", "purpose", "revision", "note", "state", "error", "began", "ended",
)  # fmt: skip


@router.post("/jobs/{job_id}/issues/preview")
def preview_issue(job_id: int, wish: IssueRequest, issuing: Issues) -> PreviewView:
    """What a sending would be, before it is begun."""
    return PreviewView.model_validate(issuing.preview(job_id, wish), from_attributes=True)


@router.post("/jobs/{job_id}/issues", status_code=202)
def begin_issue(job_id: int, wish: IssueRequest, issuing: Issues) -> IssueView:
    """Begin an issue; it goes on by itself, through restarts too."""
    issue = issuing.begin(job_id, wish)
    return _issue(issuing.state(issue.id), issuing)


@router.get("/issues")
def list_issues(issuing: Issues, text: Text = "", purpose: Text = "", job: int | None = None) -> list[IssueView]:
    """The register: all issues, the newest first."""
    return [_issue(issuing.state(issue.id), issuing) for issue in issuing.register(text, purpose, job)]


@router.get("/issues/register.csv", response_class=Response)
def register_file(issuing: Issues, text: Text = "", purpose: Text = "", job: int | None = None) -> Response:
    """The register, as filtered, as CSV."""
    rows = [(issue, issuing.plan(issue)) for issue in issuing.register(text, purpose, job)]
    data = as_csv(rows).encode("utf-8-sig")
    return Response(data, media_type="text/csv", headers=attachment("register.csv"))


@router.get("/issues/{issue}")
def get_issue(issue: int, issuing: Issues) -> IssueView:
    return _issue(issuing.state(issue), issuing)


@router.post("/issues/{issue}/cancel", status_code=204)
def cancel_issue(issue: int, issuing: Issues) -> None:
    """Call an issue off."""
    issuing.cancel(issue)


@router.post("/issues/{issue}/accept")
def accept_issue(issue: int, issuing: Issues) -> IssueView:
    """Issue files although a check fails; the register says so."""
    issuing.accept(issue)
    return _issue(issuing.state(issue), issuing)


@router.post("/issues/{issue}/retry", status_code=202)
def retry_issue(issue: int, issuing: Issues) -> IssueView:
    """Try again what failed or was cancelled."""
    issuing.retry(issue)
    return _issue(issuing.state(issue), issuing)


@router.get("/issues/{issue}/files.zip", response_class=FileResponse)
def issued_files(issue: int, issuing: Issues) -> FileResponse:
    """All files of an issue as they were sent, as one archive."""
    return archive(issuing.proofing.studio.settings.coming, lambda out: issuing.pack_zip(issue, out))


@router.get("/issues/{issue}/files/{file}", response_class=Response)
def issued_file(issue: int, file: int, issuing: Issues) -> Response:
    """A file as it was sent, byte for byte."""
    found, data = issuing.file(issue, file)
    return Response(data, media_type=output_format(found.name).media_type, headers=attachment(found.name))


@router.get("/issues/{issue}/files/{file}/look", response_class=Response)
def look_at_issued_file(issue: int, file: int, issuing: Issues) -> Response:
    """The same, for the browser's own reader."""
    found, data = issuing.file(issue, file)
    return Response(
        data,
        media_type=output_format(found.name).media_type,
        headers={"Content-Disposition": f"inline; filename*=UTF-8''{quote(found.name)}"},
    )


@router.get("/issues/{issue}/files/{file}/report")
def issued_report(issue: int, file: int, issuing: Issues) -> Report:
    """What was measured in a file that was sent."""
    return issuing.report(issue, file)
