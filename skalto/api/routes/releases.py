"""The routes of release: template sheets, rules, states, releases and their files."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Query, Response
from fastapi.responses import FileResponse
from pydantic import BaseModel, Field

from skalto.api.routes.jobs import _job
from skalto.api.routes.output import archive, attachment
from skalto.api.schemas import PROBLEMS, JobView
from skalto.api.using import use
from skalto.core.packs import safe
from skalto.core.release.manifest import ManifestFile
from skalto.core.release.rules import ReleaseRules, rules_to_json
from skalto.core.release.states import State
from skalto.core.release.templates import TemplateSheet
from skalto.core.typed import Line, Text, Words
from skalto.jobs.queue import WorkState
from skalto.services.use_cases.releasing import RULES as KEPT_RULES
from skalto.services.use_cases.releasing import ReleaseWish, Releasing, all_rules, keep_rules, read_rules, rules_of
from skalto.services.use_cases.templates import TEMPLATES, Templates, all_templates
from skalto.store import releases as store
from skalto.store import states as states_store
from skalto.store.releases import StoredRelease, StoredReleaseFile

router = APIRouter(prefix="/api", responses=PROBLEMS, tags=["release"])
Here = Annotated[Releasing, Depends(use(Releasing))]
OfTemplates = Annotated[Templates, Depends(use(Templates))]


class TemplateName(BaseModel):
    name: Line = Field(min_length=1, max_length=60)


class SheetsWish(BaseModel):
    """For which parts, by their keys, sheets are made, after which template; with *hands_once* a part and its opposite hand
    have one."""

    template: Text
    parts: tuple[Text, ...] = Field(min_length=1, max_length=5000)
    hands_once: bool = False


class SheetsMade(BaseModel):
    """The job, the ids of sheets that are new and of those laid out anew, and what was left, with the reason."""

    job: JobView
    new: tuple[str, ...]
    anew: tuple[str, ...]
    left: tuple[str, ...]


class WishedRelease(BaseModel):
    """What is to be released: by which rules; which *subjects* (``part:…``, ``sheet:…``, ``pack:…``, ``job:job``), None for
    all; everything, or only what has changed since the last; *accepted*: although what looks like sheet has no flat pattern."""

    rules: Text
    subjects: tuple[Text, ...] | None = None
    everything: bool = False
    note: Words = Field(default="", max_length=2000)
    accepted: bool = False


class PreviewFile(BaseModel):
    """A file that would be: its path, what it is, of what, and whether it is as the last release left it."""

    path: str
    kind: str
    called: str
    kept: bool


class ReleasePreview(BaseModel):
    """What a release would make: files by their paths, what stands against it, what holds it until it is accepted, what its
    sender should know; whether parts want marks; *work* while the models are still looked at, which says what kind their
    parts are."""

    files: tuple[PreviewFile, ...]
    against: tuple[str, ...]
    held: tuple[str, ...]
    notices: tuple[str, ...]
    marks_wanted: bool = False
    work: WorkState | None = None


class ReleaseView(BaseModel):
    """A release as it stands; *counts* says how many files are in which state, *left* about how many seconds it takes yet."""

    id: int
    job: int
    job_number: str
    job_name: str
    rules: str
    rules_version: int
    outbox: str
    person: str
    note: str
    state: Literal["running", "paused", "done", "failed", "cancelled"]
    error: str
    began: datetime
    ended: datetime | None
    counts: dict[str, int]
    left: float | None = None


class ReleaseFileView(BaseModel):
    """A file of a release: *about* is its line of the manifest."""

    id: int
    path: str
    kind: str
    called: str
    state: Literal["waiting", "working", "made", "kept", "failed", "cancelled"]
    priority: int
    share: float
    text: str
    error: str
    log: str
    about: ManifestFile


class ReleaseFiles(BaseModel):
    """A page of a release's files, and how many there are in all that were asked for."""

    files: tuple[ReleaseFileView, ...]
    count: int


class StateWish(BaseModel):
    """Parts and sheets (``part:…``, ``sheet:…``) to bring into a state; *rules* release what comes to be released."""

    subjects: tuple[Text, ...] = Field(min_length=1, max_length=5000)
    state: State
    note: Words = Field(default="", max_length=2000)
    rules: Text = ""


class RevisionWish(BaseModel):
    """Released parts and sheets whose next revision begins."""

    subjects: tuple[Text, ...] = Field(min_length=1, max_length=5000)
    note: Words = Field(default="", max_length=2000)


class StateLine(BaseModel):
    """A line of the log of states."""

    subject: str
    state: State
    revision: str
    person: str
    note: str
    made: datetime


class StateSet(BaseModel):
    """The release that came of it, None where none did."""

    release: ReleaseView | None = None


def _release(row: StoredRelease) -> ReleaseView:
    rules = ReleaseRules.model_validate_json(row.rules)
    fields = {name: getattr(row, name) for name in ReleaseView.model_fields if hasattr(row, name)}
    left = None
    if row.state == "running":
        made, wait = row.counts.get("made", 0), sum(row.counts.get(name, 0) for name in store.OPEN)
        gone = (datetime.now(row.began.tzinfo) - row.began).total_seconds()
        left = gone / made * wait if made else None
    return ReleaseView.model_validate(fields | {"rules": rules.name, "rules_version": rules.version, "left": left})


def _file(row: StoredReleaseFile) -> ReleaseFileView:
    fields = {name: getattr(row, name) for name in ReleaseFileView.model_fields if name != "about"}
    return ReleaseFileView.model_validate(fields | {"about": ManifestFile.model_validate_json(row.about)})


def _wish(asked: WishedRelease) -> ReleaseWish:
    return ReleaseWish(asked.rules, asked.subjects, asked.everything, asked.note, asked.accepted)


@router.get("/templates")
def template_sheets() -> list[TemplateSheet]:
    """Template sheets: shipped ones first, then those kept here."""
    return all_templates()


@router.post("/jobs/{job_id}/sheets/{sheet}/template")
def save_template(job_id: int, sheet: Text, wish: TemplateName, templates: OfTemplates) -> TemplateSheet:
    """Save a sheet as a template; of a name that is kept already, as its next version."""
    return templates.save(job_id, sheet, wish.name)


@router.delete("/templates/{template}", status_code=204)
def remove_template(template: Text) -> None:
    """Take a template away; sheets made by it stay."""
    TEMPLATES.remove(template)


@router.post("/jobs/{job_id}/part-sheets")
def make_part_sheets(job_id: int, wish: SheetsWish, templates: OfTemplates) -> SheetsMade:
    """Make a sheet for each of some parts, in one step."""
    made = templates.make(job_id, wish.template, wish.parts, wish.hands_once)
    return SheetsMade(job=_job(made.job), new=made.new, anew=made.anew, left=made.left)


@router.get("/release-rules")
def release_rules() -> list[ReleaseRules]:
    """Release rules: shipped ones first, then those kept here."""
    return all_rules()


@router.put("/release-rules")
def keep_release_rules(rules: ReleaseRules) -> ReleaseRules:
    """Keep rules, or their next version."""
    return keep_rules(rules)


@router.delete("/release-rules/{rules}", status_code=204)
def remove_release_rules(rules: Text) -> None:
    """Take rules away; releases that went by them stay."""
    KEPT_RULES.remove(rules)


class RulesText(BaseModel):
    """Rules as a file, its text."""

    text: Words = Field(max_length=1_000_000)


@router.post("/release-rules/read")
def read_release_rules(file: RulesText) -> ReleaseRules:
    """Rules out of a file, under a name that is free; not kept yet."""
    return read_rules(file.text.encode())


@router.get("/release-rules/{rules}.json", response_class=Response)
def release_rules_file(rules: Text) -> Response:
    """Rules as a file of their own."""
    found = rules_of(rules)
    return Response(rules_to_json(found), media_type="application/json", headers=attachment(f"{safe(found.name)}.json"))


@router.post("/jobs/{job_id}/release-preview")
def preview_release(job_id: int, asked: WishedRelease, releasing: Here) -> ReleasePreview:
    """What a release would make; nothing is made."""
    found = releasing.preview(job_id, _wish(asked))
    files = tuple(
        PreviewFile(path=own.path, kind=own.file.value, called=own.called, kept=own.path in found.kept)
        for own in sorted(found.plan.files, key=lambda own: own.path)
    )
    return ReleasePreview(
        files=files,
        against=found.plan.against,
        held=found.plan.held,
        notices=found.plan.notices,
        marks_wanted=found.plan.marks_wanted,
        work=found.work,
    )


@router.post("/jobs/{job_id}/releases", status_code=201)
def begin_release(job_id: int, asked: WishedRelease, releasing: Here) -> ReleaseView:
    """Begin a release; it goes on by itself."""
    return _release(releasing.begin(job_id, _wish(asked)))


@router.get("/releases")
def list_releases(job: int | None = None) -> list[ReleaseView]:
    """Releases, the newest first."""
    return [_release(row) for row in store.list_releases(job)]


@router.get("/releases/{release}")
def one_release(release: int) -> ReleaseView:
    """A release as it stands."""
    return _release(store.get_release(release))


@router.get("/releases/{release}/files")
def release_files(
    release: int, state: Text = "", text: Text = "", begin: Annotated[int, Query(ge=0)] = 0,
    count: Annotated[int, Query(ge=1, le=1000)] = 200,
) -> ReleaseFiles:  # fmt: skip
    """Files of a release, a page of them."""
    wanted = [state] if state else []
    rows = store.files_of(release, wanted, begin, count, text)
    return ReleaseFiles(files=tuple(_file(row) for row in rows), count=store.count_files(release, wanted, text))


Act = Literal["pause", "resume", "cancel", "retry"]


@router.post("/releases/{release}/{act}")
def act_on_release(release: int, act: Act, releasing: Here) -> ReleaseView:
    """Pause a release, go on with it, call it off, or try again what failed."""
    {"pause": releasing.pause, "resume": releasing.resume, "cancel": releasing.cancel, "retry": releasing.retry}[act](release)
    return _release(store.get_release(release))


@router.post("/releases/{release}/files/{file}/{act}")
def act_on_file(release: int, file: int, act: Literal["retry", "first"], releasing: Here) -> ReleaseView:
    """Try a file again that failed, or have one made first that waits."""
    {"retry": releasing.retry, "first": releasing.first}[act](release, file)
    return _release(store.get_release(release))


@router.get("/releases/{release}/files/{file}/content", response_class=Response)
def release_file(release: int, file: int, releasing: Here) -> Response:
    """A file of a release as it lies in the outbox."""
    name, data = releasing.file(release, file)
    return Response(data, media_type="application/octet-stream", headers=attachment(name))


@router.get("/releases/{release}/files.zip", response_class=FileResponse)
def release_zip(release: int, releasing: Here) -> FileResponse:
    """All files of a release with its manifest, as one archive."""
    return archive(releasing.studio.settings.coming, lambda out: releasing.pack_zip(release, out))


def _line(row: states_store.StoredState) -> StateLine:
    return StateLine.model_validate({name: getattr(row, name) for name in StateLine.model_fields})


@router.get("/jobs/{job_id}/states")
def states_of_job(job_id: int, releasing: Here) -> list[StateLine]:
    """The state in which each part and sheet of a job is; what has none is in work."""
    return [_line(row) for row in releasing.states(job_id).values()]


@router.get("/jobs/{job_id}/states/log")
def log_of_states(job_id: int) -> list[StateLine]:
    """The log of a job's states, the newest first."""
    return [_line(row) for row in reversed(states_store.states_of(job_id))]


@router.post("/jobs/{job_id}/states")
def set_states(job_id: int, wish: StateWish, releasing: Here) -> StateSet:
    """Bring parts and sheets into a state."""
    made = releasing.set_state(job_id, wish.subjects, wish.state, wish.note, wish.rules)
    return StateSet(release=_release(made) if made is not None else None)


@router.post("/jobs/{job_id}/revisions")
def begin_revision(job_id: int, wish: RevisionWish, releasing: Here) -> JobView:
    """Begin the next revision of released parts and sheets."""
    return _job(releasing.next_revision(job_id, wish.subjects, wish.note))
