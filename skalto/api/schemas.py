"""What goes over the wire."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import BaseModel, Field

from skalto.core.checks.report import Report
from skalto.core.job import JobDocument
from skalto.core.output.picture import Picture
from skalto.core.viewpoint import Vector
from skalto.jobs.queue import WorkState


class Problem(BaseModel):
    """Why a request was refused: one sentence that says what to do."""

    detail: str


class NewJob(BaseModel):
    name: str = Field(min_length=1, max_length=120)


class JobView(BaseModel):
    """A job as it stands; *undo* and *redo* say what they would do, '' for nothing."""

    id: int
    number: str
    document: JobDocument
    undo: str
    redo: str
    changed: datetime
    step: int


class IncomingView(BaseModel):
    id: int
    name: str
    size: int
    state: Literal["reading", "failed"]
    share: float
    text: str
    error: str


class PutOnSheet(BaseModel):
    """Which way to look at a source, and on which sheet to put the view; null for a new one."""

    source: str
    name: str
    look: Vector
    up: Vector
    sheet: str | None = None


class Placed(BaseModel):
    job: JobView
    sheet: str
    view: str


class PictureState(BaseModel):
    """A view's picture, or the work that makes it."""

    picture: Picture | None = None
    key: str | None = None
    work: WorkState | None = None


class ProofView(BaseModel):
    key: str
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


class PenView(BaseModel):
    edge_class: str
    width: float
    dashes: tuple[float, ...]


class Trade(BaseModel):
    """Facts of the trade that the page asks for instead of knowing them itself."""

    viewpoints: tuple[ViewpointView, ...]
    formats: tuple[FormatView, ...]
    pens: tuple[PenView, ...]
    scales: tuple[str, ...]
    frame_margins: tuple[float, float, float, float]
    endings: tuple[str, ...]
    size_limit: int


class Typed(BaseModel):
    """What a person typed into a field."""

    text: str


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
