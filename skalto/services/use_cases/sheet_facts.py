"""What follows from a job as it is written down, so that a page need not work it out a second time."""

from __future__ import annotations

from functools import lru_cache

from pydantic import BaseModel

from skalto.core.job import JobDocument
from skalto.services.stored.keys import view_key
from skalto.store.jobs import StoredJob


class ViewFacts(BaseModel):
    """Of a view: its *title* in words, its *label* (a section or a detail by its letters), and the key of its *lines*, which
    changes when they do."""

    title: str
    label: str
    lines: str


class SheetFacts(BaseModel):
    """Of a sheet: its *paper* as it lies, width and height in mm, the *frame* line (x0, y0, x1, y1) mm, None without one, and
    its views by their ids."""

    paper: tuple[float, float]
    frame: tuple[float, float, float, float] | None
    views: dict[str, ViewFacts]


class _Named:
    """A document under the name of its content, so that what follows from it is kept."""

    def __init__(self, state: str, document: JobDocument) -> None:
        self.state, self.document = state, document

    def __hash__(self) -> int:
        return hash(self.state)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Named) and other.state == self.state


@lru_cache(256)
def _facts(named: _Named) -> dict[str, SheetFacts]:
    found = {}
    for sheet in named.document.sheets:
        paper = sheet.paper()
        views = {
            view.id: ViewFacts(title=view.title, label=view.label, lines=view_key(view.source, view.lines()))
            for view in sheet.views
        }
        found[sheet.id] = SheetFacts(paper=(float(paper.width), float(paper.height)), frame=sheet.frame_box(), views=views)
    return found


def sheet_facts(job: StoredJob) -> dict[str, SheetFacts]:
    """What follows from each sheet of a job, by its id."""
    return _facts(_Named(job.state, job.document))
