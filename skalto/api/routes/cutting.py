"""The routes of cutting: flat parts, cutting lists, arrangements, plates, and the stand-in cutter."""

from __future__ import annotations

from typing import Annotated, Any, Literal

import orjson
from fastapi import APIRouter, Depends, Query, Response
from pydantic import BaseModel, Field

from skalto.api.routes.jobs import _job
from skalto.api.routes.output import attachment
from skalto.api.schemas import PROBLEMS, JobView
from skalto.api.using import use
from skalto.core.cutter.machine import Machine
from skalto.core.cutter.running import CutterReport
from skalto.core.cutting.choices import CutChoices, Plate
from skalto.core.cutting.drawn_as import DrawnAs
from skalto.core.cutting.section import CuttingContent
from skalto.core.typed import Line, Text, Words
from skalto.jobs.queue import WorkState
from skalto.services.use_cases.cutting import Cutting, ProfileChoice
from skalto.services.use_cases.looking import Look

router = APIRouter(prefix="/api", responses=PROBLEMS, tags=["cutting"])
Here = Annotated[Cutting, Depends(use(Cutting))]


class FlatFace(BaseModel):
    """A flat face of a part: its number, area, mm², and the standard view that looks straight at it, '' for none."""

    number: int
    area: float
    seen_from: str


class FlatPart(BaseModel):
    """A part of a model: the *components* that are it, its thickness, mm, where it is a flat plate, and *why_not* where not,
    with its largest flat faces, and of a bent sheet how thick it is unfolded."""

    component: str
    components: tuple[str, ...]
    name: str
    quantity: int
    material: str
    bought: bool
    thickness: float
    why_not: str
    faces: tuple[FlatFace, ...] = ()
    unfolds: float = 0.0


class FlatParts(BaseModel):
    """The parts of a model, None until they are looked at."""

    parts: tuple[FlatPart, ...] | None = None
    work: WorkState | None = None


class NewCutList(BaseModel):
    """What is to be cut: components of a model, or all closed contours of a drawing, *copies* of it all; on which plates,
    how. Of components that are no flat plates *profiles* says what of them is cut; a *typed* list of parts and quantities, CSV,
    stands for the components and their count; *drawn_as* says what a drawing's layers and colours stand for."""

    source: Text
    components: tuple[Text, ...] | None = None
    profiles: dict[Text, ProfileChoice] = {}
    typed: Words = Field(default="", max_length=200_000)
    copies: int = Field(default=1, ge=1, le=1000)
    drawn_as: DrawnAs = DrawnAs()
    name: Line = Field(default="", max_length=80)
    plates: tuple[Plate, ...] = Field(min_length=1)
    choices: CutChoices = CutChoices()


class MadeCutList(BaseModel):
    """The job with its new list, the list's id, and what is to be known of it."""

    job: JobView
    cut_list: str
    notes: tuple[str, ...] = ()


class ProfileMark(BaseModel):
    operation: Literal["score", "engrave", "bend up", "bend down", "bend limit"]
    path: str


class DecorationPicture(BaseModel):
    """A decoration as paths of SVG, mm, y up: strokes, filled areas, and the boxes of pictures; its own box, and notes."""

    id: str
    operation: Literal["score", "engrave"]
    strokes: str
    areas: str
    pictures: str
    box: tuple[float, float, float, float] | None
    notes: tuple[str, ...]


class ProfilePicture(BaseModel):
    """A profile as paths of SVG, mm, y up: what is cut and the marks; its box, area, mm², thickness, faults and notes, and what
    is drawn on it."""

    cut: str
    marks: tuple[ProfileMark, ...]
    box: tuple[float, float, float, float]
    area: float
    thickness: float
    material: str
    faults: tuple[str, ...]
    notes: tuple[str, ...]
    decorations: tuple[DecorationPicture, ...] = ()


class Profiles(BaseModel):
    """Profiles by part, None until they are made, and what is drawn on the plates themselves."""

    profiles: dict[str, ProfilePicture] | None = None
    on_plates: tuple[DecorationPicture, ...] = ()
    work: WorkState | None = None


class LeftOver(BaseModel):
    part: str
    name: str
    count: int
    why: str


class ArrangementState(BaseModel):
    """The best arrangement so far, a content a plate, None until there is one; *last* when there is no better to come,
    *timed* where the time ended it. *yields*, the *bounds* that none can pass, and the largest *free* rectangle, mm, a plate
    each."""

    contents: tuple[CuttingContent, ...] | None = None
    left: tuple[LeftOver, ...] = ()
    yields: tuple[float, ...] = ()
    bounds: tuple[float, ...] = ()
    free: tuple[tuple[float, float, float, float] | None, ...] = ()
    summary: str = ""
    steps: int = 0
    last: bool = False
    timed: bool = False
    work: WorkState | None = None


class PlateNotice(BaseModel):
    code: str
    message: str
    level: str


class PlateOfChart(BaseModel):
    """What the cutter's chart has for a plate."""

    material: str
    thickness: float
    kerf: float


class PlateFigures(BaseModel):
    """A plate as it lies: the share that becomes parts, the *bound* that none can pass, cutting length, mm, pierces, mass of
    the parts, g, its price, what the cutter's chart has for it, whether its codes are not the cutter's, what is wrong; *ready*
    once all profiles are there."""

    yield_: float = Field(alias="yield")
    bound: float
    cut_mm: float
    pierces: int
    grams: float | None
    price: float | None
    chart: PlateOfChart | None
    other_codes: bool
    notices: tuple[PlateNotice, ...]
    ready: bool


class RunReport(CutterReport):
    """What the stand-in cutter says, whether it passes, and the whole time, s."""

    passes: bool = Field(alias="holds")
    total: float


class CutterRun(BaseModel):
    """A run: the report; when, s, the head is at which *points*, mm, and what it does from there on (0 moves, 1 cuts, 2
    scores, 3 engraves, 4 passes over in a row); the pieces as rings."""

    report: RunReport | None = None
    times: tuple[float, ...] = ()
    points: tuple[tuple[float, float], ...] = ()
    doing: tuple[int, ...] = ()
    pieces: tuple[tuple[tuple[tuple[float, float], ...], ...], ...] = ()
    work: WorkState | None = None


def _plain(look: Look) -> Any:
    return None if look.data is None else orjson.loads(look.data)


@router.get("/cutter")
def cutter(cutting: Here) -> Machine:
    """The cutter's settings."""
    return cutting.machine()


@router.put("/cutter")
def keep_cutter(machine: Machine, cutting: Here) -> Machine:
    """Keep the cutter's settings, for all jobs."""
    return cutting.keep_machine(machine)


@router.get("/cutter/shipped")
def shipped_cutter() -> Machine:
    """The cutter's settings as they ship."""
    return Machine()


@router.get("/sources/{source}/flat-parts")
def flat_parts(source: Text, cutting: Here) -> FlatParts:
    """Which parts of a model are flat plates."""
    look = cutting.flat_parts(source)
    return FlatParts(parts=_plain(look), work=look.work)


@router.post("/jobs/{job_id}/cut-lists")
def make_cut_list(job_id: int, wish: NewCutList, cutting: Here) -> MadeCutList:
    """A cutting list of components of a model, or of a drawing's closed contours."""
    notes: tuple[str, ...] = ()
    if wish.components is None:
        job, made, notes = cutting.from_drawing(
            job_id, wish.source, wish.copies, wish.name, wish.drawn_as, wish.plates, wish.choices
        )
    else:
        job, made = cutting.from_components(
            job_id, wish.source, wish.components, wish.copies, wish.name, wish.plates, wish.choices, wish.profiles, wish.typed
        )  # fmt: skip
    return MadeCutList(job=_job(job), cut_list=made, notes=notes)


@router.get("/jobs/{job_id}/cut-lists/{cut_list}/profiles")
def profiles(job_id: int, cut_list: Text, cutting: Here) -> Profiles:
    """The profiles of a cutting list's parts."""
    found, on_plates, look = cutting.profiles(job_id, cut_list)
    return Profiles(profiles=found, on_plates=on_plates, work=look.work)


class RemnantOf(BaseModel):
    """The drawing whose outline a plate has, '' for a whole plate."""

    source: Text = ""


@router.put("/jobs/{job_id}/cut-lists/{cut_list}/plates/{plate}/remnant")
def set_remnant(job_id: int, cut_list: Text, plate: int, wish: RemnantOf, cutting: Here) -> JobView:
    """Give a plate the outline of a drawing, with the holes in it."""
    return _job(cutting.remnant(job_id, cut_list, plate, wish.source))


Seconds = Annotated[float, Query(gt=0, le=600)]


def _state(data: bytes | None, work: WorkState | None = None) -> ArrangementState:
    return ArrangementState(**(orjson.loads(data) if data else {}), work=work)


@router.post("/jobs/{job_id}/cut-lists/{cut_list}/arrangement")
def arrange(job_id: int, cut_list: Text, cutting: Here, seconds: Seconds = 20.0, seed: int = 1) -> ArrangementState:
    """Arrange the parts of a cutting list, or ask how far that is; pinned parts stay where they are."""
    look = cutting.arrange(job_id, cut_list, seconds, seed)
    return _state(look.data, look.work)


@router.delete("/jobs/{job_id}/cut-lists/{cut_list}/arrangement")
def stop_arranging(job_id: int, cut_list: Text, cutting: Here, seconds: Seconds = 20.0, seed: int = 1) -> ArrangementState:
    """Stop arranging: the best so far."""
    return _state(cutting.stop(job_id, cut_list, seconds, seed))


@router.get("/jobs/{job_id}/sheets/{sheet_id}/plate")
def plate(job_id: int, sheet_id: Text, cutting: Here) -> PlateFigures:
    """What a plate is worth as it lies, and what is wrong on it."""
    return PlateFigures.model_validate(cutting.plate(job_id, sheet_id))


@router.get("/jobs/{job_id}/cut-lists/{cut_list}/plates.csv", response_class=Response)
def table_of_plates(job_id: int, cut_list: Text, cutting: Here) -> Response:
    """What is cut from which plate, as CSV: each plate as a whole, then its parts; mm, mm² and g."""
    name, text = cutting.table(job_id, cut_list)
    return Response(("\ufeff" + text).encode(), media_type="text/csv", headers=attachment(name))


class DrawingToDraw(BaseModel):
    """A drawing, or what a drawing *view* of the job shows of it, and the *part* that it is drawn on, none for the plate
    itself."""

    source: Text
    view: Text = ""
    part: Text = ""


class Drawn(BaseModel):
    job: JobView
    decoration: str


@router.post("/jobs/{job_id}/sheets/{sheet_id}/decorations")
def draw_on(job_id: int, sheet_id: Text, wish: DrawingToDraw, cutting: Here) -> Drawn:
    """Engrave a drawing on a part of a plate, or on the plate itself."""
    job, made = cutting.draw_on(job_id, sheet_id, wish.part, wish.source, wish.view)
    return Drawn(job=_job(job), decoration=made)


@router.get("/jobs/{job_id}/sheets/{sheet_id}/cutter-run")
def cutter_run(job_id: int, sheet_id: Text, cutting: Here) -> CutterRun:
    """The plate's finished file in the stand-in cutter."""
    look = cutting.run(job_id, sheet_id)
    return CutterRun(**(_plain(look) or {}), work=look.work)
