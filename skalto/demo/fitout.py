"""The second demo job: the workshop's fit-out from its DXF drawing, a sheet a storey, whose walls register exactly."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from pathlib import Path

from skalto.core.applying import apply
from skalto.core.drawings.excerpt import Excerpt
from skalto.core.edits import DuplicateSheet
from skalto.core.job import JobDocument, SourceRef
from skalto.core.sheets.annotations import Note
from skalto.core.sheets.excerpting import LOOK, UP, middle_of
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.demo.workshop import REGIONS, SPACING
from skalto.services import keys
from skalto.services.studio import Studio, short_id
from skalto.store import jobs as store
from skalto.store.blobs import content_hash

NAME = "Workshop fit-out.dxf"
PLACE = (210.0, 172.0)
"""Where the middle of a storey lies on its sheet, mm."""

Run = Callable[[tuple[str, dict[str, object]]], None]


def ground_sheet(source: str, hidden: frozenset[str]) -> SheetSpec:
    """The ground floor at 1:50 on A3."""
    view = ViewSpec(
        id=short_id(), source=source, name="ground floor", look=LOOK, up=UP, scale="1:50", anchor=middle_of(REGIONS[0]),
        place=PLACE, centres=False, excerpt=Excerpt(region=REGIONS[0], off=hidden),
    )  # fmt: skip
    return SheetSpec(
        id=short_id(), name="Ground floor", format="A3", scale="1:50", views=(view,),
        title={"number": "VE-201", "type": "Fit-out plan", "revision": "A"},
        notes=(Note(id=short_id(), text="Doors and benches as built.\nCheck sizes on site.", place=(30, 45), height=3.5),),
    )  # fmt: skip


def make_fit_out(studio: Studio, run: Run, title: dict[str, str]) -> None:
    """Write the drawing, read it, lay out the ground floor, and make the upper floor of it by duplicating and shifting."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "plan.dxf"
        run(("skalto.demo.workshop:write_for_job", {"path": str(path)}))
        data = path.read_bytes()
    source = content_hash(data)
    studio.blobs.put(keys.file_key(source), data)
    of: dict[str, object] = {"blobs": studio.settings.blob_url, "source": source}
    run(("skalto.services.tasks:read_source", {**of, "name": NAME, "limit": studio.settings.size_limit}))
    facts = studio.drawing(source)
    ground = ground_sheet(source, facts.hidden_layers())
    reference = SourceRef(id=source, name=NAME, size=len(data), drawing=True)
    document = JobDocument(name="Workshop fit-out", sources=(reference,), sheets=(ground,), title=title)
    again = DuplicateSheet(
        kind="duplicate_sheet", sheet=ground.id, new=short_id(), name="Upper floor", shift=(0.0, -SPACING)
    )  # fmt: skip
    document = apply(document, again, drawings=studio.drawing)
    upper = document.sheets[1]
    view = upper.views[0].model_copy(update={"name": "upper floor"})
    document = document.with_sheet(
        upper.model_copy(update={"views": (view,), "title": {**ground.title, "number": "VE-202"}})
    )  # fmt: skip
    for sheet in document.sheets:
        for own in sheet.views:
            spec = own.projection().model_dump_json()
            run(("skalto.services.tasks:project_view", {**of, "spec": spec}))
    store.create_job(document, "demo job")
