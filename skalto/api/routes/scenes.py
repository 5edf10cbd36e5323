"""The routes of 3D annotations: putting them on sheets, their pictures, the review viewer's blocks, files of their own."""

from __future__ import annotations

import json
from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Response
from pydantic import BaseModel

from skalto.api.routes.jobs import _job
from skalto.api.routes.output import attachment
from skalto.api.schemas import PROBLEMS, JobView
from skalto.api.using import use
from skalto.core.scene.views import Cut
from skalto.core.typed import Text
from skalto.core.viewpoint import Vector
from skalto.jobs.queue import WorkState
from skalto.services.stored.annotations_3d import KINDS
from skalto.services.use_cases.desk import Desk
from skalto.services.use_cases.solids import Solids

router = APIRouter(prefix="/api", responses=PROBLEMS, tags=["3D"])


Here = Annotated[Solids, Depends(use(Solids))]


class Annotation3dRequest(BaseModel):
    """A model to put on a sheet in 3D; *sheet* null for a new one, *whole* for a page that is nothing but the model."""

    source: Text
    sheet: Text | None = None
    whole: bool = False


class PlacedAnnotation3d(BaseModel):
    job: JobView
    sheet: str
    field: str


class SceneFacts(BaseModel):
    """What goes into a file: triangles shown and kept, bytes, parts, the largest distance from the surface (mm), and which
    classes there are."""

    triangles: int
    distinct: int
    bytes: int
    parts: int
    chord: float
    classes: tuple[str, ...]


class Annotation3dState(BaseModel):
    """Addresses of its picture and of its block for the viewer, '' until they are there; what goes in; what is done."""

    poster: str = ""
    pack: str = ""
    facts: SceneFacts | None = None
    work: WorkState | None = None


class SolidsState(BaseModel):
    """The 3D annotations of a finished file: names, addresses of their blocks for the viewer, of each node the component and
    what it is made of, g/mm³, where that is known."""

    names: tuple[str, ...] = ()
    packs: tuple[str, ...] = ()
    paths: tuple[dict[str, str], ...] = ()
    densities: tuple[dict[str, float], ...] = ()
    work: WorkState | None = None


class FileState(BaseModel):
    """Whether a file of its own is there, how large it is, or what is being done."""

    ready: bool
    size: int = 0
    work: WorkState | None = None


@router.post("/jobs/{job_id}/fields")
def put_annotation_3d(job_id: int, wish: Annotation3dRequest, solids: Here) -> PlacedAnnotation3d:
    """Put a 3D annotation of a model on a sheet."""
    job, sheet, field = solids.put(job_id, wish.source, wish.sheet, wish.whole)
    return PlacedAnnotation3d(job=_job(job), sheet=sheet, field=field)


@router.get("/jobs/{job_id}/sheets/{sheet}/fields/{field}/poster")
def annotation_poster(job_id: int, sheet: Text, field: Text, solids: Here) -> Annotation3dState:
    """The picture of a 3D annotation; ask again until it is there."""
    look = solids.poster(job_id, sheet, field)
    poster = f"/api/{look.key}.png" if look.data is not None else ""
    return Annotation3dState(poster=poster, work=look.work, facts=_facts(solids, job_id, sheet, field))


def _facts(solids: Solids, job_id: int, sheet: str, field: str) -> SceneFacts | None:
    found = solids.facts(job_id, sheet, field)
    return None if found is None else SceneFacts.model_validate(found)


@router.get("/jobs/{job_id}/sheets/{sheet}/fields/{field}/review")
def review_annotation(job_id: int, sheet: Text, field: Text, solids: Here) -> Annotation3dState:
    """Its model for the viewer, from the source; ask again until it is there."""
    look = solids.review(job_id, sheet, field)
    pack = f"/api/{look.key}.pack" if look.data is not None else ""
    return Annotation3dState(pack=pack, work=look.work, facts=_facts(solids, job_id, sheet, field))


class Section3dRequest(BaseModel):
    """A cutting plane of a 3D annotation, and the middle of its model's box as it stands there, mm."""

    cut: Cut
    middle: Vector


class PlacedSection3d(BaseModel):
    job: JobView
    view: str


@router.post("/jobs/{job_id}/sheets/{sheet}/fields/{field}/section")
def section_of_annotation(
    job_id: int, sheet: Text, field: Text, wish: Section3dRequest, desk: Annotated[Desk, Depends(use(Desk))]
) -> PlacedSection3d:
    """Put a section view on the sheet where the model is cut in 3D, with the view that it is taken from where there is none."""
    job, view = desk.section_of_3d(job_id, sheet, field, wish.cut, wish.middle)
    return PlacedSection3d(job=_job(job), view=view)


@router.get("/jobs/{job_id}/sheets/{sheet}/proof/solids")
def proof_solids(job_id: int, sheet: Text, solids: Here) -> SolidsState:
    """The 3D annotations of the sheet's finished file, decoded from it; ask again until they are there."""
    look = solids.proof(job_id, sheet)
    if look.data is None:
        return SolidsState(work=look.work)
    names = tuple(json.loads(look.data)["fields"])
    packs = tuple(f"/api/{look.key}.{n}.pack" for n in range(len(names)))
    paths, densities = solids.paths(job_id, sheet), solids.densities(job_id, sheet)
    return SolidsState(names=names, packs=packs, paths=paths, densities=densities)


Suffix = Literal[".u3d", ".glb", ".html"]


@router.post("/jobs/{job_id}/sheets/{sheet}/proof/solids/{number}/file")
def make_solid_file(job_id: int, sheet: Text, number: int, suffix: Suffix, solids: Here) -> FileState:
    """A 3D annotation of the finished file as a file of its own; ask again until it is there."""
    look = solids.file(job_id, sheet, number, suffix)
    size = json.loads(look.data)["size"] if look.data is not None else 0
    return FileState(ready=look.data is not None, size=size, work=look.work)


@router.get("/jobs/{job_id}/sheets/{sheet}/proof/solids/{number}/file", response_class=Response)
def solid_file(job_id: int, sheet: Text, number: int, suffix: Suffix, solids: Here) -> Response:
    """The file that was made."""
    name, data = solids.written(job_id, sheet, number, suffix)
    return Response(data, media_type=KINDS[suffix], headers=attachment(name))


@router.get("/looks/{key}.pack", response_class=Response)
def look_pack(key: Text, solids: Here) -> Response:
    headers = {"Cache-Control": "max-age=31536000, immutable"}
    return Response(solids.pack(key), media_type="application/octet-stream", headers=headers)


@router.get("/posters/{key}.png", response_class=Response)
def poster_picture(key: Text, solids: Here) -> Response:
    headers = {"Cache-Control": "max-age=31536000, immutable"}
    return Response(solids.poster_picture(key), media_type="image/png", headers=headers)
