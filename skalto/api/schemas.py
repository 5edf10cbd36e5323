"""What goes over the wire."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from pydantic import BaseModel, Field

from skalto.core.checks.verdict import Report
from skalto.core.job import JobDocument
from skalto.core.output.picture import Picture
from skalto.core.sheets.annotations import DimensionKind, Point, Ref
from skalto.core.typed import Line, Text
from skalto.core.viewpoint import Vector
from skalto.jobs.queue import WorkState
from skalto.services.use_cases.desk import Alignment
from skalto.services.use_cases.sheet_facts import SheetFacts


class Problem(BaseModel):
    """Why a request was refused: one sentence that says what to do."""

    detail: str


_REFUSALS: dict[int | str, str] = {
    404: "Not there, or not any more",
    409: "Changed by someone else meanwhile",
    413: "Too large",
    422: "What was given cannot be used",
    "default": "Not signed in (401), another site's page (403), an unknown name (421), too many tries (429), busy (503), no "
    "room on the disk (507)",
}

PROBLEMS: dict[int | str, dict[str, Any]] = {
    status: {"model": Problem, "description": text} for status, text in _REFUSALS.items()
}
"""What every route may refuse with."""


class NewJob(BaseModel):
    name: Line = Field(min_length=1, max_length=120)


class JobView(BaseModel):
    """A job as it stands; *sheets* is what follows from each of its sheets, by its id; *undo* and *redo* say what they would
    do, '' for nothing, *undo_other* and *redo_other* whether that was someone else's doing; *problem* why it cannot be read."""

    id: int
    number: str
    document: JobDocument
    sheets: dict[str, SheetFacts]
    undo: str
    redo: str
    changed: datetime
    step: int
    state: str
    undo_other: bool = False
    redo_other: bool = False
    problem: str = ""


class IncomingView(BaseModel):
    id: int
    name: str
    size: int
    state: Literal["reading", "failed"]
    share: float
    text: str
    error: str


class PutOnSheet(BaseModel):
    """Which way to look at a source, and on which sheet to put the view; null for a new one. With *components* it shows these
    alone, by their paths, or *each* in a view of its own."""

    source: Text
    name: Text
    look: Vector
    up: Vector
    sheet: Text | None = None
    components: tuple[Text, ...] = ()
    each: bool = False


class Placed(BaseModel):
    job: JobView
    sheet: str
    view: str


class PictureState(BaseModel):
    """A view's picture, or the work that makes it, and chords of its lines to be looked at until then."""

    picture: Picture | None = None
    rough: Picture | None = None
    key: str | None = None
    work: WorkState | None = None


class ProofView(BaseModel):
    """A sheet's finished file: its key, how far it is, what was measured in it, and what it is called, without its ending."""

    key: str
    file_name: str
    ready: bool
    holds: bool | None
    work: WorkState | None
    report: Report | None


class ViewpointView(BaseModel):
    name: str
    look: Vector
    up: Vector
    pictorial: bool


class FormatView(BaseModel):
    name: str
    width: float
    height: float


class Trade(BaseModel):
    """Facts of the trade that the page asks for instead of knowing them itself."""

    viewpoints: tuple[ViewpointView, ...]
    formats: tuple[FormatView, ...]
    scales: tuple[str, ...]
    architectural: tuple[str, ...]
    frame_margins: dict[str, tuple[float, float, float, float]]
    title_fields: dict[str, str]
    title_required: tuple[str, ...]
    endings: tuple[str, ...]
    size_limit: int
    signed_in: bool
    """Whether people sign in here, and so can sign out."""


class Typed(BaseModel):
    """What a person typed into a field."""

    text: Text


class ScaleAnswer(BaseModel):
    """A scale as ISO 5455 writes it, its value, and whether that standard prefers it."""

    scale: str
    value: float
    preferred: bool


class FormatAnswer(BaseModel):
    name: str
    width: float
    height: float


class LengthAnswer(BaseModel):
    mm: float


class OwnFormatRequest(BaseModel):
    """A sheet format to keep: the name to keep it under, and its size as typed."""

    name: Line = Field(min_length=1, max_length=40)
    size: Text


class PlaceRequest(BaseModel):
    """Where a view is pulled to, sheet mm."""

    place: Point


class PullView(BaseModel):
    """A view that another would give when pulled *toward* a side of the sheet, in line with it or free; its *box* about the
    place where it is put, mm."""

    name: str
    toward: Point
    straight: bool
    box: tuple[float, float, float, float]


class SectionRequest(BaseModel):
    """The trace of a cutting plane, sheet mm; it is looked at from the left of its direction."""

    start: Point
    end: Point


class DetailRequest(BaseModel):
    """The circle that a detail shows, sheet mm."""

    centre: Point
    radius: float


class DimensionRequest(BaseModel):
    """What a dimension is attached to, and where its figure goes, sheet mm; without a kind, what was meant is worked out."""

    first: Ref
    second: Ref | None = None
    at: Point
    kind: DimensionKind | None = None


class AlignRequest(BaseModel):
    views: tuple[Text, ...]
    how: Alignment


class FitRequest(BaseModel):
    """How far a sheet's edge is to lie from its contents, mm."""

    margin: float = Field(default=10.0, ge=0, le=1000)


class EdgeView(BaseModel):
    """An edge of a view that can be picked, sheet mm: a line's (x0, y0, x1, y1) or a circle's (cx, cy, r)."""

    ref: Ref
    shape: Literal["line", "circle"]
    at: tuple[float, ...]


class DimensionView(BaseModel):
    """A dimension as it is drawn: corners of its figure, and along what it can be shifted, sheet mm."""

    id: str
    text: str
    value: float
    corners: tuple[Point, ...]
    along: Point
    normal: Point
    centre: Point | None


class ViewWriting(BaseModel):
    """What is written on a view, drawn with the view at *place*, and its box with it, sheet mm; of an excerpt the corners of
    its *region*."""

    place: Point
    box: tuple[float, float, float, float] | None
    region: tuple[Point, ...] | None = None
    marks: Picture
    dimensions: tuple[DimensionView, ...]


class CellView(BaseModel):
    """A field of the title block; *typed* when a person may say what stands there."""

    key: str
    label: str
    box: tuple[float, float, float, float]
    value: str
    typed: bool


class BalloonView(BaseModel):
    item: int
    place: Point
    target: Point


class NoticeView(BaseModel):
    code: str
    message: str
    view: str | None
    level: Literal["error", "warning", "info"]


class WritingView(BaseModel):
    """All that is on a sheet beside its views' own lines, sheet mm."""

    frame: Picture
    frame_box: tuple[float, float, float, float] | None
    room: tuple[float, float, float, float]
    views: dict[str, ViewWriting]
    cells: tuple[CellView, ...]
    balloons: tuple[BalloonView, ...]
    notices: tuple[NoticeView, ...]
    pending: tuple[str, ...]


class ScalesView(BaseModel):
    """Scales that fit: the largest preferred, the largest at all; and what each preferred one makes of the view, mm."""

    preferred: str | None
    largest: str
    width: float
    height: float


class ShadeView(BaseModel):
    """Whether a view's shaded picture is there, under what address, and the box that it fills in the view's plane."""

    url: str | None = None
    box: tuple[float, float, float, float] | None = None
