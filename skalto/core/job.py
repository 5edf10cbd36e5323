"""A job as written down: all that a person has decided. Frozen; edits give a new one."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from skalto.core.errors import NotThere
from skalto.core.ids import ContentId, ShortId
from skalto.core.packs import Pack
from skalto.core.pens import DEFAULT, SHIPPED, PenSet
from skalto.core.recipes import Recipe
from skalto.core.sheets.sheet import SheetSpec
from skalto.core.sources.models.parts import PartFacts
from skalto.core.viewpoint import Vector


class SourceRef(BaseModel):
    """A file brought in: the hash of its content, and the name that it came under."""

    model_config = ConfigDict(frozen=True)

    id: ContentId
    name: str
    size: int
    earlier: tuple[ContentId, ...] = ()
    """The hashes of its earlier revisions, the last replaced last."""
    news: str = ""
    """What the last revision brought, in words."""
    drawing: bool = False
    """Whether it is a 2D drawing, not a model."""
    unit_mm: float | None = Field(default=None, gt=0)
    """Millimetres of a drawing's unit as a person said it; None for what the file says."""
    read_as: str = ""
    """The name that it was read under, where that is another: components without a name of their own are called after it."""

    @property
    def named(self) -> str:
        """The name to read it under, so that its components are called as they were."""
        return self.read_as or self.name


class SavedViewpoint(BaseModel):
    """A direction of looking that a person keeps under a name."""

    model_config = ConfigDict(frozen=True)

    id: ShortId
    name: str = Field(min_length=1, max_length=60)
    look: Vector
    up: Vector


class JobDocument(BaseModel):
    """All that a person has decided in a job."""

    model_config = ConfigDict(frozen=True)

    name: str = Field(min_length=1, max_length=120)
    sources: tuple[SourceRef, ...] = ()
    sheets: tuple[SheetSpec, ...] = ()
    viewpoints: tuple[SavedViewpoint, ...] = ()
    title: dict[str, str] = {}
    parts: dict[str, PartFacts] = {}
    colours: dict[str, str] = {}
    pens: tuple[PenSet, ...] = ()
    packs: tuple[Pack, ...] = ()
    recipes: tuple[Recipe, ...] = ()
    """Recipes that travel with a saved job; while it is here, recipes are shared by all jobs."""

    def pens_of(self, sheet: SheetSpec) -> PenSet:
        """The pens that draw a sheet: a set of the job's, or one that ships."""
        return next((pens for pens in (*self.pens, *SHIPPED) if pens.id == sheet.pens), DEFAULT)

    def pack(self, pack_id: str) -> Pack:
        """:raises InputError: when there is no such pack."""
        for pack in self.packs:
            if pack.id == pack_id:
                return pack
        raise NotThere("This pack is no longer in the job: choose another.")

    def sheet(self, sheet_id: str) -> SheetSpec:
        """:raises InputError: when there is no such sheet."""
        for sheet in self.sheets:
            if sheet.id == sheet_id:
                return sheet
        raise NotThere("This sheet is no longer in the job: choose another.")

    def source(self, source_id: str) -> SourceRef:
        """:raises InputError: when there is no such source."""
        for source in self.sources:
            if source.id == source_id:
                return source
        raise NotThere("This source is no longer in the job: add it again.")

    def with_sheet(self, sheet: SheetSpec) -> JobDocument:
        """The same job with one sheet replaced by its new self."""
        return self.model_copy(update={"sheets": tuple(sheet if s.id == sheet.id else s for s in self.sheets)})


def first_sentence(error: ValidationError) -> str:
    """What a validation found, as a sentence for the person."""
    first = error.errors()[0]
    message = str(first["msg"]).removeprefix("Value error, ")
    where = str(first["loc"][-1]) if first["loc"] else ""
    return message if message.startswith("“") or not where else f"{where}: {message}"


def users_of(job: JobDocument, viewpoint: str) -> list[str]:
    """The sheets on which a saved viewpoint is used."""
    return [sheet.name for sheet in job.sheets if any(view.viewpoint == viewpoint for view in sheet.views)]
