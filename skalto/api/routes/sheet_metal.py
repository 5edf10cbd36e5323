"""The routes of sheet metal: parts recognised, flat patterns, sheets and DXF of them."""

from __future__ import annotations

from typing import Annotated, Any

import orjson
from fastapi import APIRouter, Depends, Response
from pydantic import BaseModel, Field

from skalto.api.routes.jobs import _job
from skalto.api.routes.output import attachment
from skalto.api.schemas import PROBLEMS, Placed
from skalto.api.using import use
from skalto.core.sheet_metal.allowances import EXAMPLE_TABLE, BendRule, table_as_csv, table_from_csv
from skalto.core.sheet_metal.choices import FlatSpec, UnfoldChoices
from skalto.core.sheet_metal.facts import PatternFacts
from skalto.core.sheet_metal.feature_kinds import FeatureKind
from skalto.core.sheet_metal.flat_writing import FlatWriting
from skalto.core.sheet_metal.pattern import SheetKind
from skalto.core.typed import Line, Text, Words
from skalto.jobs.queue import WorkState
from skalto.services.use_cases.looking import Look
from skalto.services.use_cases.recipes import recipe_of
from skalto.services.use_cases.sheet_metal import SheetMetal

router = APIRouter(prefix="/api", responses=PROBLEMS, tags=["sheet metal"])
Here = Annotated[SheetMetal, Depends(use(SheetMetal))]


class SheetPart(BaseModel):
    """A part of a model: the *components* that are it, what it is to whoever bends and cuts, why, the *place* that the reason
    is about, mm in the part's own axes, and of one with a flat pattern what is known of it."""

    component: str
    components: tuple[str, ...]
    name: str
    quantity: int
    material: str
    bought: bool
    kind: SheetKind
    reason: str
    place: tuple[float, float, float] | None = None
    facts: PatternFacts | None = None


class SheetParts(BaseModel):
    """The parts of a model, None until they are looked at."""

    parts: tuple[SheetPart, ...] | None = None
    work: WorkState | None = None


class PartEdge(BaseModel):
    """An edge of a part: *points* along it, mm in the part's own axes, and whether the sheet may be *slit* there."""

    points: tuple[tuple[float, float, float], ...]
    slit: bool


class PartEdges(BaseModel):
    """The edges of a part, None until they are read."""

    edges: tuple[PartEdge, ...] | None = None
    work: WorkState | None = None


class PartPictures(BaseModel):
    """Small pictures of the parts of a model, paths of SVG in a box of 56 × 40, y down, by the component; None until they are
    drawn."""

    pictures: dict[str, str] | None = None
    work: WorkState | None = None


class PatternStrip(BaseModel):
    """A flat or a bend of a pattern as a fold takes it: its *areas*, each of an outline and its holes; the strip that it hangs
    on, -1 for none; where it begins, along its line and across it; of a bend by how many mm it turns one radian, 0 for a flat,
    side A's radius, mm, whether it turns to side A, and the bend's number."""

    parent: int
    start: tuple[float, float]
    along: tuple[float, float]
    across: tuple[float, float]
    neutral: float
    radius: float
    up: bool
    bend: int
    areas: tuple[tuple[tuple[tuple[float, float], ...], ...], ...]


class PatternFeature(BaseModel):
    kind: FeatureKind
    side: str
    path: str


class PatternPicture(BaseModel):
    """A flat pattern as paths of SVG, mm, y up: what is cut, the line of each bend, features; what is known of it; its
    strips."""

    cut: str
    bends: tuple[str, ...]
    features: tuple[PatternFeature, ...]
    facts: PatternFacts
    strips: tuple[PatternStrip, ...]


class PatternState(BaseModel):
    """A flat pattern, None until it is made."""

    pattern: PatternPicture | None = None
    work: WorkState | None = None


class FlatRequest(BaseModel):
    """A flat pattern for a sheet, a new one without *sheet*."""

    source: Text
    component: Text
    sheet: Text | None = None
    choices: UnfoldChoices = UnfoldChoices()


class FlatFileRequest(BaseModel):
    """A flat pattern to be written as DXF, by the *recipe* of an id, '' for as it ships; of side B mirrored."""

    spec: FlatSpec
    recipe: Text = ""
    side_b: bool = False


def _plain(look: Look) -> Any:
    return None if look.data is None else orjson.loads(look.data)


@router.get("/sources/{source}/sheet-metal")
def sheet_parts(source: Text, metal: Here) -> SheetParts:
    """The parts of a model, each with what it is to whoever bends and cuts."""
    look = metal.parts(source)
    return SheetParts.model_validate({"parts": _plain(look), "work": look.work})


@router.get("/sources/{source}/part-pictures")
def part_pictures(source: Text, metal: Here) -> PartPictures:
    """A small picture of each part of a model, by the first component that is it."""
    look = metal.pictures(source)
    return PartPictures.model_validate({"pictures": _plain(look), "work": look.work})


@router.get("/sources/{source}/part-edges")
def part_edges(source: Text, component: Text, metal: Here) -> PartEdges:
    """The edges of a component's part, to be shown where it has no flat pattern, and to choose where it is slit."""
    look = metal.edges(source, component)
    return PartEdges.model_validate({"edges": _plain(look), "work": look.work})


@router.post("/sources/{source}/flat-pattern")
def flat_pattern(source: Text, spec: FlatSpec, metal: Here) -> PatternState:
    """A component unfolded as asked."""
    look = metal.pattern(source, spec)
    return PatternState.model_validate({"pattern": _plain(look), "work": look.work})


@router.post("/sources/{source}/flat-pattern.dxf", response_class=Response, responses={202: {"model": WorkState}})
def flat_pattern_dxf(source: Text, asked: FlatFileRequest, metal: Here) -> Response:
    """A component's flat pattern as DXF, read again before it is handed on; 202 with how far it is until it is there."""
    recipe = recipe_of(asked.recipe) if asked.recipe else None
    look, data = metal.dxf(source, asked.spec, recipe, asked.side_b)
    if look.data is None:
        return Response(look.work.model_dump_json() if look.work else "{}", 202, media_type="application/json")
    return Response(data, media_type="image/vnd.dxf", headers=attachment(orjson.loads(look.data)["name"]))


@router.post("/jobs/{job_id}/flat-patterns")
def put_flat_pattern(job_id: int, asked: FlatRequest, metal: Here) -> Placed:
    """Put a flat pattern on a sheet."""
    job, sheet, view = metal.put(job_id, asked.source, asked.component, asked.sheet, asked.choices)
    return Placed(job=_job(job), sheet=sheet, view=view)


@router.get("/flat-writing")
def shipped_flat_writing() -> FlatWriting:
    """How flat patterns are written as DXF where no recipe says otherwise."""
    return FlatWriting()


class TableText(BaseModel):
    """A bend table as CSV, and what it is called."""

    text: Words = Field(max_length=1_000_000)
    name: Line = Field(default="", max_length=80)


@router.post("/bend-tables")
def read_bend_table(asked: TableText) -> BendRule:
    """A bend table out of CSV."""
    return table_from_csv(asked.text, asked.name)


@router.post("/bend-tables.csv", response_class=Response)
def write_bend_table(rule: BendRule) -> Response:
    """A bend table as CSV."""
    return Response(table_as_csv(rule), media_type="text/csv", headers=attachment(f"{rule.name or 'bends'}.csv"))


@router.get("/bend-tables/example")
def example_bend_table() -> BendRule:
    """The bend table that ships as an example; it stands for no machine."""
    return EXAMPLE_TABLE
