"""What a sheet is composed from beside itself, as plain data for a worker, and as facts once it is there."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Iterable
from dataclasses import replace
from datetime import date

from pydantic import BaseModel, ConfigDict

from skalto.core.annotation.edge_references import SourceFacts
from skalto.core.annotation.title_block import TitleContext
from skalto.core.cutter.machine import Machine
from skalto.core.cutting.decorations import Decoration
from skalto.core.cutting.section import CutList, CuttingContent
from skalto.core.job import JobDocument
from skalto.core.listing import tabled
from skalto.core.pages.page import NamedPlate, SheetContext
from skalto.core.pens import DEFAULT, PenSet
from skalto.core.sheets.listed import ListedDrawing
from skalto.core.sources.drawings.drawing import DrawingFacts
from skalto.core.sources.models.features import unpack
from skalto.core.sources.models.model import ModelTree
from skalto.core.sources.models.parts import PartFacts
from skalto.services.stored import keys
from skalto.services.stored.profiles import load_excerpts, load_profiles
from skalto.store.blobs import Blobs

_KEPT = 8
DRAWING = "drawing"
"""The kind of tree that a drawing has: one without components."""

_facts: OrderedDict[str, SourceFacts] = OrderedDict()


class PlatesSpec(BaseModel):
    """A cutting list with its plates in order, each under the name of its sheet."""

    model_config = ConfigDict(frozen=True)

    cut_list: CutList
    names: tuple[str, ...]
    contents: tuple[CuttingContent, ...]

    @property
    def decorations(self) -> tuple[Decoration, ...]:
        """On the plates and on the parts."""
        on_plates = (own for content in self.contents for own in content.decorations)
        return (*on_plates, *(own for part in self.cut_list.parts for own in part.decorations))

    def built(self, store: Blobs) -> tuple[NamedPlate, ...]:
        """The plates."""
        from skalto.core.pages.cut_pages import cut_page

        profiles = load_profiles(store, self.cut_list.parts)
        excerpts = load_excerpts(store, self.decorations)
        pages = (cut_page(content, self.cut_list, profiles, excerpts) for content in self.contents)
        return tuple(NamedPlate(name, page) for name, page in zip(self.names, pages, strict=True))


def plates_of(job: JobDocument, cut_list: str) -> PlatesSpec:
    """The plates of a cutting list of a job. :raises NotThere: when there is no such list."""
    sheets = [sheet for sheet in job.sheets if sheet.cutting is not None and sheet.cutting.cut_list == cut_list]
    contents = tuple(sheet.cutting for sheet in sheets if sheet.cutting is not None)
    return PlatesSpec(cut_list=job.cut_list(cut_list), names=tuple(sheet.name for sheet in sheets), contents=contents)


class ContextSpec(BaseModel):
    """The part of a job that shows on a sheet: title fields, which sheet of how many, the day, parts, colours, pens, and the
    cutting list of a cutting sheet with the decorations on the plate itself and the cutter that it is for; what its
    tables tell of plates and of drawings; the state that the sheet was brought into."""

    model_config = ConfigDict(frozen=True)

    title: dict[str, str] = {}
    job_name: str = ""
    job_number: str = ""
    number: int = 1
    count: int = 1
    today: date = date(2000, 1, 1)
    parts: dict[str, PartFacts] = {}
    colours: dict[str, str] = {}
    pens: PenSet = DEFAULT
    cut_list: CutList | None = None
    decorations: tuple[Decoration, ...] = ()
    machine: Machine | None = None
    plates: PlatesSpec | None = None
    drawings: tuple[ListedDrawing, ...] = ()
    state: str = ""

    @property
    def all_decorations(self) -> tuple[Decoration, ...]:
        """On the plate, on the parts of its list, and on the plates that a table lists."""
        on_parts = self.cut_list.parts if self.cut_list else ()
        listed = self.plates.decorations if self.plates else ()
        return (*self.decorations, *(own for part in on_parts for own in part.decorations), *listed)

    @classmethod
    def of(
        cls, job: JobDocument, number: str, sheet: str, today: date, machine: Machine | None = None, state: str = ""
    ) -> ContextSpec:
        """For a sheet of a job. *number* is the job's; *machine* the cutter that plates are for, the one that ships where none
        is given."""
        content = job.sheet(sheet).cutting
        place = [s.id for s in job.sheets].index(sheet) + 1
        return cls(
            title=job.title,
            job_name=job.name,
            job_number=number,
            number=place,
            count=len(job.sheets),
            today=today,
            parts=job.parts,
            colours=job.colours,
            pens=job.pens_of(job.sheet(sheet)),
            cut_list=_cut_list(job, sheet),
            decorations=content.decorations if content else (),
            machine=machine if content else None,
            plates=plates_of(job, table.cut_list) if (table := job.sheet(sheet).plates_table) else None,
            drawings=tabled(job, number, job.sheet(sheet)),
            state=state,
        )

    def built(self, store: Blobs, sources: Iterable[str]) -> SheetContext:
        """With the facts of the sources that were read; those that were not are left out."""
        facts = {}
        for source in set(sources):
            try:
                facts[source] = load_facts(store, source)
            except KeyError:
                continue
        profiles = load_profiles(store, self.cut_list.parts) if self.cut_list else {}
        plates = self.plates.built(store) if self.plates else ()
        excerpts = load_excerpts(store, self.all_decorations)
        return replace(self.with_facts(facts), profiles=profiles, excerpts=excerpts, plates=plates, drawings=self.drawings)

    def with_facts(self, facts: dict[str, SourceFacts]) -> SheetContext:
        title = TitleContext(self.title, self.job_name, self.job_number, self.number, self.count, self.today, state=self.state)
        return SheetContext(facts, self.parts, title, self.pens, self.cut_list, machine=self.machine or Machine())


def _cut_list(job: JobDocument, sheet: str) -> CutList | None:
    """The cutting list of a cutting sheet."""
    content = job.sheet(sheet).cutting
    return None if content is None else job.cut_list(content.cut_list)


def load_tree(store: Blobs, source: str) -> ModelTree:
    """The tree of a source that was read. :raises KeyError: when it was not."""
    return load_facts(store, source).tree


def load_facts(store: Blobs, source: str) -> SourceFacts:
    """The tree and the edges of a source that was read, kept in memory. :raises KeyError: when it was not."""
    key = f"{store.url}#{source}"
    if key not in _facts:
        tree = ModelTree.model_validate_json(store.get(keys.model_key(source, "tree.json")))
        drawing = None
        if tree.kind == DRAWING:
            drawing = DrawingFacts.model_validate_json(store.get(keys.model_key(source, "drawing.json")))
        _facts[key] = SourceFacts(tree, unpack(store.get(keys.model_key(source, "edges.bin"))), drawing)
        while len(_facts) > _KEPT:
            _facts.popitem(last=False)
    _facts.move_to_end(key)
    return _facts[key]
