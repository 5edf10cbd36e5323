"""The routes, each a translation of one use case."""

from __future__ import annotations

import asyncio
import os
import tempfile
from dataclasses import fields
from typing import Annotated, Any
from urllib.parse import quote

from fastapi import APIRouter, Depends, Query, Request, Response
from fastapi.responses import FileResponse
from pydantic import BaseModel, Field
from starlette.background import BackgroundTask
from starlette.concurrency import run_in_threadpool

from skalto.api.receiving import FILE_BODY, received
from skalto.api.schemas import (
    PROBLEMS,
    FormatAnswer,
    FormatView,
    IncomingView,
    JobView,
    LengthAnswer,
    NewJob,
    OwnFormatRequest,
    PictureState,
    Placed,
    PutOnSheet,
    ScaleAnswer,
    Trade,
    Typed,
    ViewpointView,
)
from skalto.api.using import use
from skalto.core.annotation.title_block import LABELS, REQUIRED
from skalto.core.edits import AnyEdit
from skalto.core.edits.of_sources import AddSource
from skalto.core.errors import InputError, NotThere, raise_if_full
from skalto.core.lettering import FACES
from skalto.core.paper import FORMATS, FRAME_MARGINS, parse_format
from skalto.core.quantities import ARCHITECTURAL_SCALES, PREFERRED_SCALES, Scale, parse_length
from skalto.core.sources.formats import SUFFIXES
from skalto.core.sources.models.model import ModelTree
from skalto.core.sources.said_unit import unit_said
from skalto.core.typed import Line, Text
from skalto.core.viewpoint import PICTORIAL, STANDARD, make_viewpoint, parse_viewpoint
from skalto.jobs.queue import WorkState
from skalto.services.use_cases.sheet_facts import sheet_facts
from skalto.services.use_cases.studio import Awaited, Studio
from skalto.store import jobs as store
from skalto.store.jobs import StoredJob
from skalto.store.keeping import has_source

router = APIRouter(prefix="/api", responses=PROBLEMS, tags=["jobs and sources"])
_LOOK_SECONDS = 0.1


Here = Annotated[Studio, Depends(use(Studio))]


_OF_JOB = tuple(field.name for field in fields(StoredJob))


def _job(job: StoredJob) -> JobView:
    return JobView(**{field: getattr(job, field) for field in _OF_JOB}, sheets=sheet_facts(job))


@router.get("/trade")
def trade(studio: Here) -> Trade:
    """Formats, scales and viewpoints."""
    return Trade(
        viewpoints=tuple(
            ViewpointView(name=v.name, look=v.look, up=v.up, pictorial=v.name in PICTORIAL) for v in STANDARD.values()
        ),
        formats=tuple(FormatView(name=f.name, width=float(f.width), height=float(f.height)) for f in FORMATS.values()),
        scales=tuple(str(s) for s in PREFERRED_SCALES),
        architectural=ARCHITECTURAL_SCALES,
        frame_margins={style.value: margins for style, margins in FRAME_MARGINS.items()},
        title_fields=LABELS,
        title_required=REQUIRED,
        endings=SUFFIXES,
        size_limit=studio.settings.size_limit,
        signed_in=bool(studio.settings.token),
    )


@router.get("/preparing")
def preparing(studio: Here) -> Typed:
    """What the server does by itself for its beginning; no text when nothing."""
    return Typed(text=studio.preparing)


@router.post("/read/scale")
def read_scale(question: Typed) -> ScaleAnswer:
    """What a typed scale means."""
    scale = Scale.parse(question.text)
    return ScaleAnswer(scale=str(scale), value=float(scale), preferred=scale.is_preferred)


@router.post("/read/format")
def read_format(question: Typed) -> FormatAnswer:
    """What a typed sheet format means."""
    own = {name.lower(): size for name, size in store.own_formats().items()}
    found = parse_format(own.get(question.text.strip().lower(), question.text))
    return FormatAnswer(name=found.name, width=float(found.width), height=float(found.height))


@router.post("/read/viewpoint")
def read_viewpoint(question: Typed) -> ViewpointView:
    """What a typed direction means: a standard name, or ``dir:x,y,z;up:x,y,z``."""
    found = parse_viewpoint(question.text)
    return ViewpointView(name=found.name, look=found.look, up=found.up, pictorial=found.name in PICTORIAL)


@router.post("/read/length")
def read_length(question: Typed) -> LengthAnswer:
    """What a typed length means."""
    return LengthAnswer(mm=float(parse_length(question.text)))


@router.get("/jobs")
def list_jobs(studio: Here) -> list[JobView]:
    return [_job(job) for job in store.list_jobs()]


@router.post("/jobs", status_code=201)
def create_job(new: NewJob, studio: Here) -> JobView:
    return _job(studio.create_job(new.name))


@router.post("/jobs/open", status_code=201, openapi_extra=FILE_BODY)
async def open_job(request: Request, studio: Here) -> JobView:
    """Open a job that was saved as an archive: it becomes a new job here."""
    limit = 4 * studio.settings.size_limit
    async with received(request, studio.settings.coming, "The archive", limit) as file:
        key = await run_in_threadpool(studio.begin_opening, file)
    while True:
        job = await run_in_threadpool(studio.opened, key)
        if job is not None:
            return _job(job)
        if await request.is_disconnected():
            studio.queue.cancel(key)
            raise InputError("The opening was cancelled.")
        await asyncio.sleep(_LOOK_SECONDS)


@router.get("/jobs/{job_id}/file.zip", response_class=FileResponse)
def save_job(job_id: int, studio: Here) -> FileResponse:
    """The job with its sources as one archive: a job file and the files beside it."""
    studio.settings.coming.mkdir(parents=True, exist_ok=True)
    handle, path = tempfile.mkstemp(dir=studio.settings.coming, suffix=".zip")
    try:
        with os.fdopen(handle, "wb") as out:
            name = studio.save_job(job_id, out)
    except BaseException as error:
        os.unlink(path)
        if isinstance(error, OSError):
            raise_if_full(error)
        raise
    headers = {"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}"}
    return FileResponse(path, media_type="application/zip", headers=headers, background=BackgroundTask(os.unlink, path))


@router.get("/fonts/{number}", response_class=Response)
def font(number: int) -> Response:
    """A face that sheets are lettered in, as TrueType."""
    if not 0 <= number < len(FACES):
        raise NotThere("There is no such face.")
    headers = {"Cache-Control": "max-age=31536000, immutable"}
    return Response(FACES[number].path.read_bytes(), media_type="font/ttf", headers=headers)


@router.get("/formats/own")
def own_formats() -> dict[str, str]:
    """Sheet formats that people here keep, size by name."""
    return store.own_formats()


@router.put("/formats/own", status_code=204)
def keep_format(wish: OwnFormatRequest) -> None:
    """Keep a format under a name."""
    if wish.name.strip().upper().replace(" ", "-") in FORMATS:
        raise InputError(f"{wish.name} is a standard's format already: choose another name.")
    store.keep_format(wish.name.strip(), parse_format(wish.size).name)


@router.delete("/formats/own", status_code=204)
def drop_format(name: Text) -> None:
    store.drop_format(name)


@router.get("/jobs/{job_id}")
def get_job(job_id: int) -> JobView:
    return _job(store.get_job(job_id))


@router.delete("/jobs/{job_id}", status_code=204)
def delete_job(job_id: int) -> None:
    store.delete_job(job_id)


@router.post("/jobs/{job_id}/edits")
def edit_job(job_id: int, edit: AnyEdit, studio: Here) -> JobView:
    """Change the job; every change, and all that is made together, is a step that can be undone."""
    for own in edit.singles:
        if isinstance(own, AddSource) and not has_source(own.source.id):
            raise InputError(f"The file of {own.source.name} is not kept here: add it.")
    return _job(studio.edit(job_id, edit))


Seen = Annotated[int | None, Query(ge=0, description="The step at which the asker saw the job")]
Anyway = Annotated[bool, Query(description="Also what someone else did")]


@router.post("/jobs/{job_id}/undo")
def undo(job_id: int, step: Seen = None, anyway: Anyway = False) -> JobView:
    """Take the last step back, if the job is as the asker saw it, and the step the asker's own."""
    return _job(store.move_head(job_id, -1, step, anyway))


@router.post("/jobs/{job_id}/redo")
def redo(job_id: int, step: Seen = None, anyway: Anyway = False) -> JobView:
    """Do the step again that was taken back, under the same conditions."""
    return _job(store.move_head(job_id, 1, step, anyway))


def _incoming(row: Any, work: WorkState | None) -> IncomingView:
    return IncomingView(
        id=row.id,
        name=row.name,
        size=row.size,
        state="failed" if row.state == "failed" else "reading",
        share=work.share if work else 0.0,
        text=work.text if work else "",
        error=row.error,
    )


@router.post("/jobs/{job_id}/incoming", status_code=202, openapi_extra=FILE_BODY)
async def bring_in(
    request: Request, job_id: int, studio: Here, name: Annotated[Line, Query(min_length=1, max_length=255)], replaces: Text = ""
) -> IncomingView:
    """Bring in a file, which is the request's body; it joins the job's sources once it has been read, in the place of the
    source *replaces*."""
    await run_in_threadpool(studio.fitting, job_id, name, replaces)
    async with received(request, studio.settings.coming, name, studio.settings.size_limit) as file:
        row = await run_in_threadpool(studio.bring_in, job_id, name, file, replaces)
    return _incoming(row, None)


class UnitSaid(BaseModel):
    """What a millimetre of a model's file is in truth: a unit by its name, such as in, or a length, such as 0.001mm."""

    unit: Line = Field(min_length=1, max_length=40)


@router.post("/jobs/{job_id}/sources/{source}/unit", status_code=202)
def say_unit(job_id: int, source: Text, said: UnitSaid, studio: Here) -> IncomingView:
    """Say in which unit a model was drawn: it is read anew, and takes its own place."""
    return _incoming(studio.say_unit(job_id, source, unit_said(said.unit)), None)


@router.get("/jobs/{job_id}/incoming")
def list_incoming(job_id: int, studio: Here) -> list[IncomingView]:
    return [_incoming(row, work) for row, work in studio.incoming(job_id)]


@router.delete("/jobs/{job_id}/incoming/{incoming_id}", status_code=204)
def dismiss_incoming(job_id: int, incoming_id: int, studio: Here) -> None:
    """Call off the reading of a file, or take a failed one off the list."""
    studio.dismiss(job_id, incoming_id)


@router.post("/jobs/{job_id}/incoming/{incoming_id}/again", status_code=204)
def read_incoming_again(job_id: int, incoming_id: int, studio: Here) -> None:
    """Read a file that could not be read once more: the disk may have had no room."""
    studio.read_again(job_id, incoming_id)


@router.get("/sources/{source}/tree")
def source_tree(source: Text, studio: Here) -> ModelTree:
    return studio.tree(source)


@router.get("/sources/{source}/scene.glb", response_class=Response)
def source_scene(source: Text, studio: Here) -> Response:
    """The model for the eye, as glTF 2.0."""
    headers = {"Cache-Control": "max-age=31536000, immutable"}
    return Response(studio.scene(source), media_type="model/gltf-binary", headers=headers)


@router.post("/jobs/{job_id}/views", status_code=201)
def put_on_sheet(job_id: int, wish: PutOnSheet, studio: Here) -> Placed:
    """Put a view of a source on a sheet."""
    viewpoint = make_viewpoint(wish.name, wish.look, wish.up)
    job, sheet, view = studio.put_on_sheet(job_id, wish.source, viewpoint, wish.sheet, wish.components, wish.each)
    return Placed(job=_job(job), sheet=sheet, view=view)


def picture_state(found: bytes | Awaited | None) -> Response:
    """A :class:`PictureState`, empty for what is not there any more. A picture that is there goes out as it was written: it
    may be many megabytes."""
    rough, picture, state = b"null", b"null", PictureState()
    if isinstance(found, bytes):
        picture = found
    elif found is not None:
        rough, state = found.rough or rough, PictureState(key=found.key, work=found.work)
    rest = state.model_dump_json(include={"key", "work"}).encode()[1:]
    return Response(b'{"picture":' + picture + b',"rough":' + rough + b"," + rest, media_type="application/json")


@router.get("/jobs/{job_id}/sheets/{sheet}/views/{view}/picture", response_model=PictureState)
def view_picture(job_id: int, sheet: Text, view: Text, studio: Here, again: bool = False) -> Response:
    """A view's lines for the desk; while they are being made, how far that is. *again* begins anew what was cancelled."""
    return picture_state(studio.picture(job_id, sheet, view, again))


@router.delete("/work/{key:path}", status_code=204)
def cancel_work(key: Text, studio: Here) -> None:
    """Call off work that is queued or running."""
    studio.queue.cancel(key)
