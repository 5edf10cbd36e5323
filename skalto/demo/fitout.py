"""The second demo job: the workshop's fit-out from its DXF drawing, a sheet a storey, whose walls register exactly."""

from __future__ import annotations

from skalto.core.edits import Around, apply
from skalto.core.edits.of_sheets import DuplicateSheet
from skalto.core.job import JobDocument
from skalto.core.layout.drawing_views import middle_of
from skalto.core.quantities import Scale
from skalto.core.sheets.annotations import Note
from skalto.core.sheets.content import DrawingContent
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.drawings.excerpt import Excerpt
from skalto.core.sources.section import SourceRef
from skalto.demo.workshop import REGIONS, SPACING
from skalto.services.use_cases.studio import Studio, short_id

NAME = "Workshop fit-out.dxf"
PLACE = (210.0, 172.0)
"""Where the middle of a storey lies on its sheet, mm."""


def ground_sheet(source: str, hidden: frozenset[str]) -> SheetSpec:
    """The ground floor at 1:50 on A3."""
    view = ViewSpec(
        id=short_id(), source=source, name="ground floor", scale=Scale(1, 50), anchor=middle_of(REGIONS[0]),
        place=PLACE, centres=False, content=DrawingContent(excerpt=Excerpt(region=REGIONS[0], off=hidden)),
    )  # fmt: skip
    return SheetSpec(
        id=short_id(), name="Ground floor", format="A3", scale=Scale(1, 50), views=(view,),
        title={"number": "VE-201", "type": "Fit-out plan", "revision": "A"},
        notes=(Note(id=short_id(), text="Doors and benches as built.\nCheck sizes on site.", place=(30, 45), height=3.5),),
    )  # fmt: skip


def fit_out(studio: Studio, plan: SourceRef, title: dict[str, str]) -> JobDocument:
    """The job of the rooms: the ground floor laid out, the upper floor made of it by duplicating and shifting."""
    ground = ground_sheet(plan.id, studio.drawing(plan.id).hidden_layers())
    document = JobDocument(name="Workshop fit-out", sources=(plan,), sheets=(ground,), title=title)
    again = DuplicateSheet(
        kind="duplicate_sheet", sheet=ground.id, new=short_id(), name="Upper floor", shift=(0.0, -SPACING)
    )  # fmt: skip
    document = apply(document, again, Around(drawings=studio.drawing))
    upper = document.sheets[1]
    view = upper.views[0].model_copy(update={"name": "upper floor"})
    return document.with_sheet(
        upper.model_copy(update={"views": (view,), "title": {**ground.title, "number": "VE-202"}})
    )  # fmt: skip
