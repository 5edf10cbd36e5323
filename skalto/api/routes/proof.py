"""The routes of the proof's tools: measuring, the stand-in printer, comparing, pictures; each a translation of one use case."""

from __future__ import annotations

import asyncio
import json
import time
from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Depends, Path, Response
from pydantic import BaseModel

from skalto.api.routes.output import attachment
from skalto.api.schemas import PROBLEMS
from skalto.api.using import use
from skalto.core.checks.points import SnapPoints
from skalto.core.checks.printing import Printed, Printer
from skalto.core.geometry import Box
from skalto.core.output.pixels import PictureRequest
from skalto.core.typed import Text
from skalto.jobs.queue import WorkState
from skalto.services.use_cases.looking import Looking

router = APIRouter(prefix="/api", responses=PROBLEMS, tags=["proof"])
_TILE_SECONDS = 15.0
_TYPES = {"png": "image/png", "jpeg": "image/jpeg", "tiff": "image/tiff"}


Here = Annotated[Looking, Depends(use(Looking))]


class PointsState(BaseModel):
    """What can be measured from, or how far the reading of it is."""

    points: SnapPoints | None
    work: WorkState | None


class PrintedState(BaseModel):
    """What came out of the stand-in printer, with the address of its picture, or how far the printing is."""

    printed: Printed | None
    picture: str
    work: WorkState | None


class ComparedState(BaseModel):
    """A proof over what was sent last: the overlay's address, boxes of what is gone and what came, mm, and what was sent."""

    ready: bool
    picture: str
    gone: tuple[Box, ...]
    came: tuple[Box, ...]
    issue: int
    revision: str
    purpose: str
    sent: datetime
    work: WorkState | None


class PictureAnswer(BaseModel):
    """A picture's size in pixels, and whether it is there."""

    width: int
    height: int
    ready: bool
    work: WorkState | None


@router.get("/jobs/{job_id}/sheets/{sheet}/proof/points", response_model=PointsState)
def proof_points(job_id: int, sheet: Text, looking: Here) -> Response:
    """What the measuring tool can hold on to in the sheet's file."""
    look = looking.points(job_id, sheet)
    if look.data is not None:
        return Response(b'{"points":' + look.data + b',"work":null}', media_type="application/json")
    return Response(PointsState(points=None, work=look.work).model_dump_json(), media_type="application/json")


@router.post("/jobs/{job_id}/sheets/{sheet}/proof/printed")
def print_proof(job_id: int, sheet: Text, printer: Printer, looking: Here) -> PrintedState:
    """The sheet's file as the stand-in printer prints it; ask again until it is there."""
    look, found = looking.printed(job_id, sheet, printer)
    return PrintedState(printed=found, picture=f"/api/{look.key}.png" if found else "", work=look.work)


@router.post("/jobs/{job_id}/sheets/{sheet}/proof/compared")
def compare_proof(job_id: int, sheet: Text, looking: Here) -> ComparedState:
    """The sheet's file over what was sent last; ask again until it is there."""
    look, sent = looking.compared(job_id, sheet)
    found = json.loads(look.data) if look.data is not None else {"gone": [], "came": []}
    return ComparedState(
        ready=look.data is not None,
        picture=f"/api/{look.key}.png" if look.data is not None else "",
        gone=tuple(tuple(box) for box in found["gone"]),
        came=tuple(tuple(box) for box in found["came"]),
        issue=sent.issue.id,
        revision=sent.issue.revision,
        purpose=sent.issue.purpose,
        sent=sent.issue.began,
        work=look.work,
    )


@router.post("/jobs/{job_id}/sheets/{sheet}/proof/picture/size")
def picture_size(job_id: int, sheet: Text, wish: PictureRequest, looking: Here) -> PictureAnswer:
    """How many pixels a picture would have."""
    width, height = looking.picture_size(job_id, sheet, wish)
    return PictureAnswer(width=width, height=height, ready=False, work=None)


@router.post("/jobs/{job_id}/sheets/{sheet}/proof/picture")
def make_picture(job_id: int, sheet: Text, wish: PictureRequest, looking: Here, whole: bool = False) -> PictureAnswer:
    """The sheet's file as a picture, or all sheets of the job; ask again until it is there."""
    width, height = looking.picture_size(job_id, sheet, wish)
    look = looking.picture(job_id, sheet, wish, whole)
    return PictureAnswer(width=width, height=height, ready=look.data is not None, work=look.work)


@router.get("/jobs/{job_id}/sheets/{sheet}/proof/picture/file", response_class=Response)
def picture_file(job_id: int, sheet: Text, wish: Text, looking: Here, whole: bool = False) -> Response:
    """A picture that was made, its wish as JSON."""
    chosen = PictureRequest.model_validate_json(wish)
    name, data = looking.picture_file(job_id, sheet, chosen, whole)
    kind = "application/zip" if name.endswith(".zip") else _TYPES[chosen.kind]
    return Response(data, media_type=kind, headers=attachment(name))


@router.get("/jobs/{job_id}/sheets/{sheet}/proof/tiles/{level}/{column}/{row}.png", response_class=Response)
async def proof_tile(
    job_id: int, sheet: Text, key: Text, level: Annotated[int, Path(ge=0, lt=8)], column: int, row: int, looking: Here
) -> Response:
    """A tile of a sheet's proof, for the screen, of the proof with this key; at level 0 the page is one tile. The answer waits
    until a worker has drawn it."""
    end = time.monotonic() + _TILE_SECONDS
    while True:
        look = await asyncio.to_thread(looking.tile, job_id, sheet, key, level, column, row)
        if look.data is not None:
            break
        if time.monotonic() > end:
            return Response(status_code=503, headers={"Retry-After": "2"})
        await asyncio.sleep(0.03)
    return await asyncio.to_thread(look_picture, look.key.removeprefix("looks/"), looking)


@router.get("/looks/{key}.png", response_class=Response)
def look_picture(key: Text, looking: Here) -> Response:
    headers = {"Cache-Control": "max-age=31536000, immutable"}
    return Response(looking.png(key), media_type="image/png", headers=headers)
