"""The routes of pens, each a translation of one use case."""

from __future__ import annotations

from typing import Annotated
from urllib.parse import quote

from fastapi import APIRouter, Body, Depends, Response
from pydantic import BaseModel

from skalto.api.schemas import PROBLEMS
from skalto.api.using import use
from skalto.core.artwork import EdgeClass
from skalto.core.colour import format_colour
from skalto.core.pens import HAIRLINE, LINE_TYPES, SHIPPED, WIDTHS, PenSet, pens_to_json
from skalto.core.typed import Text
from skalto.services.use_cases.penning import Penning

SmallFile = Annotated[bytes, Body(media_type="application/octet-stream", max_length=1_000_000)]
"""A file of settings, as the request's body."""

router = APIRouter(prefix="/api", responses=PROBLEMS, tags=["pens"])


Here = Annotated[Penning, Depends(use(Penning))]


class PenFacts(BaseModel):
    """The sets that ship, the widths of ISO 128-2, the cutter's hairline, the line types in multiples of the width, and what
    people call the edge classes."""

    shipped: tuple[PenSet, ...]
    widths: tuple[float, ...]
    hairline: float
    line_types: dict[str, tuple[float, ...]]
    classes: dict[EdgeClass, str]


class LightColour(BaseModel):
    colour: str
    strokes: int


class PensView(BaseModel):
    """A sheet's pen set, how many strokes each rule draws and how many none, what comes out too light, and which layers and
    colours its sources have."""

    pens: PenSet
    rules: tuple[int, ...]
    rest: int
    light: tuple[LightColour, ...]
    pending: tuple[str, ...]
    layers: tuple[str, ...]
    colours: tuple[str, ...]


class SheetPoint(BaseModel):
    """A point on a sheet, mm, and how far about it to look."""

    x: float
    y: float
    reach: float = 3.0


class StrokeView(BaseModel):
    """A stroke: what it is, its layer, component and source colour and width, the rule that draws it, and its pen."""

    edge_class: str
    layer: str
    component: str
    source_colour: str | None
    source_width: float | None
    rule: int | None
    width: float
    colour: str


@router.get("/pens")
def pen_facts() -> PenFacts:
    return PenFacts(
        shipped=SHIPPED, widths=WIDTHS, hairline=HAIRLINE, line_types=LINE_TYPES, classes={own: own.label for own in EdgeClass}
    )


@router.get("/jobs/{job_id}/sheets/{sheet}/pens")
def sheet_pens(job_id: int, sheet: Text, penning: Here) -> PensView:
    """What draws what on a sheet."""
    found = penning.on_sheet(job_id, sheet)
    light = tuple(LightColour(colour=format_colour(c), strokes=n) for c, n in found.tally.light.items())
    return PensView(
        pens=found.pens,
        rules=found.tally.rules,
        rest=found.tally.rest,
        light=light,
        pending=found.pending,
        layers=found.layers,
        colours=tuple(format_colour(colour) for colour in found.colours),
    )


@router.post("/jobs/{job_id}/sheets/{sheet}/pens/at")
def stroke_at(job_id: int, sheet: Text, point: SheetPoint, penning: Here) -> StrokeView | None:
    """The stroke under a point, and the rule that draws it; null when there is none."""
    found = penning.stroke_at(job_id, sheet, point.x, point.y, point.reach)
    if found is None:
        return None
    tags = found.tags
    return StrokeView(
        edge_class=tags.edge_class.value,
        layer=tags.layer,
        component=tags.component,
        source_colour=None if tags.colour is None else format_colour(tags.colour),
        source_width=tags.width,
        rule=found.rule,
        width=found.pen.width,
        colour=format_colour(found.pen.colour),
    )


@router.post("/jobs/{job_id}/pens/read")
def read_pens(job_id: int, file: SmallFile, penning: Here) -> PenSet:
    """A pen set out of its file, under a name and an id of its own here; it is not kept yet."""
    return penning.read(job_id, file)


@router.get("/jobs/{job_id}/pens/{pens}/file.json", response_class=Response)
def pens_file(job_id: int, pens: Text, penning: Here) -> Response:
    """A pen set as a file."""
    found = penning.named(job_id, pens)
    name = f"{found.name.replace('/', '-')}.pens.json"
    headers = {"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}"}
    return Response(pens_to_json(found), media_type="application/json", headers=headers)
