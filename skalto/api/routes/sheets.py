"""The routes of the desk: families, sections, dimensions, and what is written on a sheet."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Response

from skalto.api.routes.jobs import _job
from skalto.api.schemas import (
    PROBLEMS,
    AlignRequest,
    BalloonView,
    CellView,
    DetailRequest,
    DimensionRequest,
    DimensionView,
    EdgeView,
    FitRequest,
    JobView,
    NoticeView,
    Placed,
    PlaceRequest,
    PullView,
    ScalesView,
    SectionRequest,
    ShadeView,
    ViewWriting,
    WritingView,
)
from skalto.api.using import use
from skalto.core.annotation.title_block import COMPUTED
from skalto.core.errors import InputError
from skalto.core.geometry import Array
from skalto.core.layout.arrangement import room_for_views
from skalto.core.pages.page import PlacedView
from skalto.core.sources.models.parts import Item
from skalto.core.typed import Text
from skalto.services.use_cases.desk import Desk, SheetWriting
from skalto.store import jobs as store
from skalto.store.states import states_now

router = APIRouter(prefix="/api", responses=PROBLEMS, tags=["sheets and views"])


Here = Annotated[Desk, Depends(use(Desk))]


def _point(values: Array) -> tuple[float, float]:
    x, y = values.tolist()
    return x, y


def _view(placed: PlacedView, writing: SheetWriting) -> ViewWriting:
    dimensions = tuple(
        DimensionView(
            id=d.id,
            text=d.text,
            value=d.value,
            corners=tuple(_point(c) for c in d.corners),
            along=_point(d.along),
            normal=_point(d.normal),
            centre=None if d.centre is None else _point(d.centre),
        )
        for d in placed.dimensions
    )
    region = None if placed.region is None else tuple(_point(corner) for corner in placed.region)
    marks = writing.marks[placed.spec.id]
    return ViewWriting(place=placed.spec.place, box=placed.box, region=region, marks=marks, dimensions=dimensions)


@router.get("/jobs/{job_id}/sheets/{sheet}/writing")
def sheet_writing(job_id: int, sheet: Text, desk: Here) -> WritingView:
    """What is on a sheet beside its views' own lines, and what its maker should know."""
    found = desk.writing(job_id, sheet)
    spec = store.get_job(job_id).document.sheet(sheet)
    # a state that somebody set is not typed over
    known = (*COMPUTED, *(("status",) if f"sheet:{sheet}" in states_now(job_id) else ()))
    return WritingView(
        frame=found.frame,
        frame_box=spec.frame_box(),
        room=room_for_views(spec),
        views={placed.spec.id: _view(placed, found) for placed in found.page.views},
        cells=tuple(
            CellView(
                key=c.key,
                label=c.label,
                box=c.box,
                value=c.value,
                typed=c.key not in known,
            )
            for c in found.written.cells
        ),
        balloons=tuple(BalloonView(item=b.item, place=b.place, target=b.target) for b in found.written.balloons),
        notices=tuple(NoticeView.model_validate(t, from_attributes=True) for t in found.page.notices),
        pending=found.pending,
    )


@router.post("/jobs/{job_id}/sheets/{sheet}/views/{view}/pull", status_code=201)
def pull_view(job_id: int, sheet: Text, view: Text, wish: PlaceRequest, desk: Here) -> Placed:
    """Pull a view away from another: straight for a projected one, on a diagonal for a pictorial one."""
    job, new = desk.pull(job_id, sheet, view, wish.place)
    return Placed(job=_job(job), sheet=sheet, view=new)


@router.get("/jobs/{job_id}/sheets/{sheet}/views/{view}/pulls")
def possible_pulls(job_id: int, sheet: Text, view: Text, desk: Here) -> list[PullView]:
    """What views could be pulled from a view, a side each."""
    return [PullView(name=p.name, toward=p.toward, straight=p.straight, box=p.box) for p in desk.pulls(job_id, sheet, view)]


@router.post("/jobs/{job_id}/sheets/{sheet}/views/{view}/section", status_code=201)
def cut_section(job_id: int, sheet: Text, view: Text, wish: SectionRequest, desk: Here) -> Placed:
    """Cut a view by a plane."""
    job, new = desk.section(job_id, sheet, view, wish.start, wish.end)
    return Placed(job=_job(job), sheet=sheet, view=new)


@router.post("/jobs/{job_id}/sheets/{sheet}/views/{view}/detail", status_code=201)
def draw_detail(job_id: int, sheet: Text, view: Text, wish: DetailRequest, desk: Here) -> Placed:
    """Show a circle of a view larger."""
    job, new = desk.detail(job_id, sheet, view, wish.centre, wish.radius)
    return Placed(job=_job(job), sheet=sheet, view=new)


@router.get("/jobs/{job_id}/sheets/{sheet}/views/{view}/edges")
def view_edges(job_id: int, sheet: Text, view: Text, desk: Here) -> list[EdgeView] | None:
    """The edges of a view that a dimension can be attached to; null while the view is not drawn yet."""
    found = desk.pickable(job_id, sheet, view)
    return None if found is None else [EdgeView(ref=p.ref, shape=p.shape, at=p.at) for p in found]


@router.post("/jobs/{job_id}/sheets/{sheet}/views/{view}/dimensions", status_code=201)
def add_dimension(job_id: int, sheet: Text, view: Text, wish: DimensionRequest, desk: Here) -> JobView:
    """Attach a dimension to what was picked."""
    return _job(desk.dimension(job_id, sheet, view, wish.first, wish.second, wish.at, wish.kind)[0])


@router.post("/jobs/{job_id}/sheets/{sheet}/views/{view}/dimensions/{dimension}/shift")
def shift_dimension(job_id: int, sheet: Text, view: Text, dimension: Text, wish: PlaceRequest, desk: Here) -> JobView:
    """Move a dimension's figure by so many mm."""
    return _job(desk.shift_dimension(job_id, sheet, view, dimension, wish.place))


@router.post("/jobs/{job_id}/sheets/{sheet}/views/{view}/overall", status_code=201)
def add_overall(job_id: int, sheet: Text, view: Text, desk: Here) -> JobView:
    """Width and height over all."""
    return _job(desk.overall(job_id, sheet, view))


@router.get("/jobs/{job_id}/sheets/{sheet}/views/{view}/scales")
def view_scales(job_id: int, sheet: Text, view: Text, desk: Here) -> ScalesView | None:
    """The scales that fit a view on its sheet, and its size in the model; null while the view is not drawn yet."""
    found = desk.scales(job_id, sheet, view)
    if found is None:
        return None
    preferred, largest, (width, height) = found
    return ScalesView(preferred=preferred, largest=largest, width=width, height=height)


@router.get("/jobs/{job_id}/sheets/{sheet}/views/{view}/shade")
def view_shade(job_id: int, sheet: Text, view: Text, desk: Here) -> ShadeView:
    """The shaded picture of a view; without an address it is being made."""
    found = desk.shade(job_id, sheet, view)
    if found is None:
        return ShadeView()
    return ShadeView(url=f"/api/jobs/{job_id}/sheets/{sheet}/views/{view}/shade.png", box=found[1])


@router.get("/jobs/{job_id}/sheets/{sheet}/views/{view}/shade.png", response_class=Response)
def shade_picture(job_id: int, sheet: Text, view: Text, desk: Here) -> Response:
    """The picture itself, once it is there."""
    found = desk.shade(job_id, sheet, view)
    if found is None:
        raise InputError("This picture is still being made: wait a moment.")
    return Response(found[0], media_type="image/png", headers={"Cache-Control": "no-cache"})


@router.post("/jobs/{job_id}/sheets/{sheet}/fit")
def fit_sheet(job_id: int, sheet: Text, wish: FitRequest, desk: Here) -> JobView:
    """Cut a sheet to its contents."""
    return _job(desk.fit(job_id, sheet, wish.margin))


@router.post("/jobs/{job_id}/sheets/{sheet}/align")
def align_views(job_id: int, sheet: Text, wish: AlignRequest, desk: Here) -> JobView:
    """Line several views up, or spread them evenly."""
    return _job(desk.align(job_id, sheet, wish.views, wish.how))


@router.get("/jobs/{job_id}/sources/{source}/items")
def source_items(job_id: int, source: Text, desk: Here) -> list[Item]:
    """The parts of a source: equal ones together, with class, material and mass."""
    return desk.items(job_id, source)
