"""What a sheet's pens draw: strokes by rule, and which rule drew the one under a point."""

from __future__ import annotations

import uuid
from dataclasses import dataclass

from skalto.core.artwork import Artwork, Tags
from skalto.core.colour import Colour
from skalto.core.errors import NotThere
from skalto.core.pages.page import Page
from skalto.core.pens import SHIPPED, Pen, Pens, PenSet, Tally, pens_from_json
from skalto.core.pens.picking import item_at
from skalto.core.sheets.sheet import SheetSpec
from skalto.services.use_cases.desk import Desk
from skalto.store import jobs as store

REACH = 3.0
"""How far from a stroke a point may be to mean it, mm on the sheet."""


@dataclass(frozen=True)
class PensOnSheet:
    """A sheet's pen set, what each rule draws there, the source's layers and colours there, and the views that are not drawn
    yet."""

    pens: PenSet
    tally: Tally
    pending: tuple[str, ...]
    layers: tuple[str, ...] = ()
    colours: tuple[Colour, ...] = ()


@dataclass(frozen=True)
class FoundStroke:
    """A stroke on a sheet: what is known of it, the rule that draws it (None for none), its pen, and its component's names."""

    tags: Tags
    rule: int | None
    pen: Pen


class Penning:
    """The use cases of pens, on top of a desk."""

    def __init__(self, desk: Desk) -> None:
        self.desk = desk

    def _page(self, job_id: int, sheet_id: str) -> tuple[SheetSpec, Page, tuple[str, ...], PenSet]:
        document = store.get_job(job_id).document
        sheet = document.sheet(sheet_id)
        found = self.desk.writing(job_id, sheet_id)
        return sheet, found.page, found.pending, document.pens_of(sheet)

    def on_sheet(self, job_id: int, sheet_id: str) -> PensOnSheet:
        """What draws what on a sheet."""
        _, page, pending, pens = self._page(job_id, sheet_id)
        parts: list[tuple[Artwork, Pens]] = [(artwork, at_work) for _, artwork, at_work in page.drawn()]
        tallies = [at_work.tally((artwork,)) for artwork, at_work in parts]
        rules = tuple(sum(column) for column in zip(*(t.rules for t in tallies), strict=True)) if pens.rules else ()
        light: dict[tuple[int, int, int], int] = {}
        for tally in tallies:
            for colour, count in tally.light.items():
                light[colour] = light.get(colour, 0) + count
        tags = [item.tags for artwork, _ in parts for item in artwork]
        layers = tuple(sorted({t.layer for t in tags if t.layer}, key=str.casefold))
        colours = tuple(sorted({t.colour for t in tags if t.colour}))
        return PensOnSheet(pens, Tally(rules, sum(t.rest for t in tallies), light), pending, layers, colours)

    def stroke_at(self, job_id: int, sheet_id: str, x: float, y: float, reach: float = REACH) -> FoundStroke | None:
        """The stroke nearest to a point of a sheet, mm; None when none is near."""
        _, page, _, _ = self._page(job_id, sheet_id)
        found = item_at([(artwork, pens) for _, artwork, pens in page.drawn()], (x, y), min(reach, 50.0))
        if found is None:
            return None
        item, pens = found
        return FoundStroke(item.tags, pens.rule(item.tags), pens.pen(item.tags))

    def read(self, job_id: int, data: bytes) -> PenSet:
        """A pen set from its file, under an id and a name that are free in the job. :raises InputError: for no pen set."""
        pens = pens_from_json(data)
        document = store.get_job(job_id).document
        taken = {own.name for own in document.pens}
        name, count = pens.name, 2
        while name in taken:
            name, count = f"{pens.name} {count}", count + 1
        return pens.model_copy(update={"id": uuid.uuid4().hex[:8], "name": name})

    def named(self, job_id: int, pens_id: str) -> PenSet:
        """:raises InputError: when there is no such set."""
        for pens in (*store.get_job(job_id).document.pens, *SHIPPED):
            if pens.id == pens_id:
                return pens
        raise NotThere("This pen set is no longer in the job: choose another.")
