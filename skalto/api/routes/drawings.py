"""The routes of drawings: what a file holds, its unit or scale, excerpts and saved pages on sheets, and artwork files."""

from __future__ import annotations

import base64
from typing import Annotated
from urllib.parse import quote

from fastapi import APIRouter, Depends, Response
from pydantic import BaseModel, Field

from skalto.api.routes.jobs import _job, picture_state
from skalto.api.schemas import PROBLEMS, JobView, PictureState, Placed
from skalto.api.using import use
from skalto.core.formats import stroke_format
from skalto.core.geometry import Box
from skalto.core.sources.drawings.drawing import DrawingFacts
from skalto.core.typed import Line, Text
from skalto.jobs.queue import WorkState
from skalto.services.use_cases.drawings import Drawings
from skalto.store import jobs as store

router = APIRouter(prefix="/api", responses=PROBLEMS, tags=["drawings"])


class UnitView(BaseModel):
    """A unit that a drawing may be in, its mm, and how wide and high the drawing would be, mm."""

    name: str
    mm: float
    width: float
    height: float


class DrawingView(BaseModel):
    """What a drawing holds, the mm of its unit in this job (None while nobody has said it), and the candidates."""

    facts: DrawingFacts
    unit_mm: float | None
    candidates: tuple[UnitView, ...]


class ExcerptRequest(BaseModel):
    """An excerpt for a sheet, a new one without *sheet*; *region* in mm of the drawing, None for everything; the layers that
    are *off*, None for those that the file would not print."""

    source: Text
    sheet: Text | None = None
    space: Text = ""
    region: Box | None = None
    declared: bool = False
    off: frozenset[Text] | None = None
    name: Line = Field(default="", max_length=60)


class PageRequest(BaseModel):
    """A saved page for a sheet of its own; the layers that are *off* as in :class:`ExcerptRequest`."""

    source: Text
    space: Text
    off: frozenset[Text] | None = None


class PagesRequest(BaseModel):
    """All pages of a drawing as sheets, without the layers that are *off*."""

    source: Text
    off: frozenset[Text] | None = None


class PlacedPages(BaseModel):
    """The job, and the sheets that were made."""

    job: JobView
    sheets: tuple[str, ...]


class ExcerptText(BaseModel):
    """A text of a drawing by its key, and the words that stand in its place in an excerpt, where there are some."""

    key: str
    text: str
    anew: str | None = None


class PreviewState(BaseModel):
    """A small picture (PNG, base64), or how far the work is that makes it."""

    png: str | None
    work: WorkState | None = None


class MeasuredRequest(BaseModel):
    """Two points apart on a drawing by *measured* of its units, which really are *length_mm*."""

    measured: float = Field(gt=0)
    length_mm: float = Field(gt=0)


class MeasuredAnswer(BaseModel):
    """The job, the nearest standard scale of a page, and the mm that a unit of the drawing was measured to be."""

    job: JobView
    nearest: str
    unit_mm: float


class DrawingPoints(BaseModel):
    """Ends of strokes and centres of circles and arcs, in the drawing's units."""

    ends: list[tuple[float, float]]
    centres: list[tuple[float, float]]


class FinishedPageRequest(BaseModel):
    """A page of a PDF to lie a sheet on."""

    source: Text
    space: Text = ""


class ArtworkState(BaseModel):
    """A DXF or SVG file: whether it is there, or how far the work is."""

    ready: bool
    key: str
    work: WorkState | None = None


Here = Annotated[Drawings, Depends(use(Drawings))]


@router.get("/jobs/{job_id}/sources/{source}/drawing")
def drawing_facts(job_id: int, source: Text, drawings: Here) -> DrawingView:
    """Layers, pages, fonts and what was lost of a drawing."""
    facts, unit = drawings.facts(job_id, source)
    rows = tuple(
        UnitView(name=name, mm=mm, width=width, height=height) for name, mm, (width, height) in drawings.candidates(source)
    )
    return DrawingView(facts=facts, unit_mm=unit, candidates=rows)


@router.get("/sources/{source}/drawing/picture", response_model=PictureState)
def drawing_picture(source: Text, drawings: Here, space: Text = "", again: bool = False) -> Response:
    """One picture of a drawing, in its own units; while it is being made, how far that is."""
    return picture_state(drawings.picture(source, space, again))


@router.get("/sources/{source}/drawing/preview")
def drawing_preview(source: Text, drawings: Here, space: Text = "") -> PreviewState:
    """A page of a drawing as a small picture; while it is being made, how far that is."""
    png, work = drawings.preview(source, space)
    return PreviewState(png=None if png is None else base64.b64encode(png).decode(), work=work)


@router.get("/sources/{source}/drawing/points")
def drawing_points(source: Text, drawings: Here, space: Text = "") -> DrawingPoints:
    """What can be snapped to on one picture of a drawing."""
    ends, centres = drawings.points(source, space)
    return DrawingPoints(ends=ends.tolist(), centres=centres.tolist())


@router.post("/jobs/{job_id}/excerpts", status_code=201)
def put_excerpt(job_id: int, wish: ExcerptRequest, drawings: Here) -> Placed:
    """Put an excerpt of a drawing on a sheet."""
    region = wish.region
    if wish.declared:
        region = drawings.declared(job_id, wish.source, wish.space)
    job, sheet, view = drawings.put_excerpt(job_id, wish.source, wish.sheet, wish.space, region, wish.name, wish.off)
    return Placed(job=_job(job), sheet=sheet, view=view)


@router.post("/jobs/{job_id}/pages", status_code=201)
def put_page(job_id: int, wish: PageRequest, drawings: Here) -> Placed:
    """Make a sheet of a page saved in a drawing."""
    job, sheet = drawings.put_page(job_id, wish.source, wish.space, wish.off)
    views = store.get_job(job_id).document.sheet(sheet).views
    return Placed(job=_job(job), sheet=sheet, view=views[0].id if views else "")


class FinishedPageState(BaseModel):
    """A page of a finished PDF: its size as it is seen, mm; the address of its picture, '' until it is there; where upright
    and level lines lie on it that an area snaps to, mm from the lower left; how far the work is."""

    width: float = 0.0
    height: float = 0.0
    picture: str = ""
    xs: tuple[float, ...] = ()
    ys: tuple[float, ...] = ()
    work: WorkState | None = None


@router.post("/jobs/{job_id}/pages/as-it-is", status_code=201)
def put_finished_page(job_id: int, wish: FinishedPageRequest, drawings: Here) -> Placed:
    """Make a sheet that lies on a page of a PDF, which stays as it is to the last operator."""
    job, sheet = drawings.put_finished(job_id, wish.source, wish.space)
    return Placed(job=_job(job), sheet=sheet, view="")


@router.get("/sources/{source}/pages/{number}")
def finished_page(source: Text, number: int, drawings: Here) -> FinishedPageState:
    """A page of a PDF that a sheet lies on; ask again until it is there."""
    told, work = drawings.finished_page(source, number)
    if told is None:
        return FinishedPageState(work=work)
    return FinishedPageState(picture=f"/api/sources/{source}/pages/{number}/picture.png", **told)


@router.get("/sources/{source}/pages/{number}/picture.png", response_class=Response)
def finished_page_picture(source: Text, number: int, drawings: Here) -> Response:
    """The page as a picture."""
    headers = {"Cache-Control": "private, max-age=31536000, immutable"}
    return Response(drawings.finished_picture(source, number), media_type="image/png", headers=headers)


@router.post("/jobs/{job_id}/pages/all", status_code=201)
def put_pages(job_id: int, wish: PagesRequest, drawings: Here) -> PlacedPages:
    """Make sheets of all pages of a drawing, in order."""
    job, sheets = drawings.put_pages(job_id, wish.source, wish.off)
    return PlacedPages(job=_job(job), sheets=sheets)


@router.post("/jobs/{job_id}/sources/{source}/measured")
def say_length(job_id: int, source: Text, wish: MeasuredRequest, drawings: Here) -> MeasuredAnswer:
    """Say how long a distance on a drawing really is."""
    job, nearest, unit = drawings.set_scale(job_id, source, wish.measured, wish.length_mm)
    return MeasuredAnswer(job=_job(job), nearest=nearest, unit_mm=unit)


@router.get("/jobs/{job_id}/sheets/{sheet}/views/{view}/texts")
def excerpt_texts(job_id: int, sheet: Text, view: Text, drawings: Here) -> list[ExcerptText]:
    """The texts of an excerpt, those that were written anew first."""
    return [ExcerptText(key=own.key, text=own.text, anew=anew) for own, anew in drawings.texts(job_id, sheet, view)]


@router.post("/jobs/{job_id}/sheets/{sheet}/artwork", status_code=202)
def make_artwork(job_id: int, sheet: Text, suffix: Text, drawings: Here, view: Text = "") -> ArtworkState:
    """Write a sheet, or one view of it, as DXF or SVG; ask again until it is ready."""
    key, work = drawings.artwork(job_id, sheet, view, suffix)
    return ArtworkState(ready=work is None, key=key, work=work)


@router.get("/jobs/{job_id}/sheets/{sheet}/artwork", response_class=Response)
def artwork_file(job_id: int, sheet: Text, suffix: Text, drawings: Here, view: Text = "") -> Response:
    """The finished DXF or SVG file."""
    name, data = drawings.artwork_file(job_id, sheet, view, suffix)
    return Response(
        data,
        media_type=stroke_format(suffix).media_type,
        headers={"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}"},
    )
