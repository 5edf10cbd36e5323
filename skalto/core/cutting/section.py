"""Cutting lists of a job: what is to be cut, from which plates, how; and what lies on a cutting sheet."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from skalto.core.cutting.choices import CutChoices, PlacedProfile, Plate, Turning
from skalto.core.cutting.decorations import Decoration
from skalto.core.errors import NotThere
from skalto.core.ids import ShortId
from skalto.core.job_section import JobSection
from skalto.core.sheet_metal.choices import UnfoldChoices
from skalto.core.typed import Line, Text
from skalto.core.viewpoint import Vector


class ComponentOrigin(BaseModel):
    """A component of a model, by its path: a flat plate, or what it covers seen from where *silhouette* points, in its own
    axes, or its *face* of that number, or what it is *unfolded*, its *bends* scored or not marked."""

    model_config = ConfigDict(frozen=True)

    kind: Literal["component"] = "component"
    source: ShortId
    component: Text
    silhouette: Vector | None = None
    face: int | None = Field(default=None, ge=0)
    unfolded: UnfoldChoices | None = None
    bends: bool = False


class ContoursOrigin(BaseModel):
    """The *number*th part, from 0, of a drawing's closed contours, a unit of it being *unit* mm; gaps up to *close* mm are
    closed; layers by pattern, or colours as #rrggbb, that are scored or engraved rather than cut, and such as are left *out*.
    With *plate* the outermost contour is the plate that parts are cut from, and no part."""

    model_config = ConfigDict(frozen=True)

    kind: Literal["contours"] = "contours"
    source: ShortId
    space: Text = ""
    unit: float = Field(default=1.0, gt=0)
    number: int = Field(default=0, ge=0)
    close: float = Field(default=0.0, ge=0, le=100)
    score: tuple[Text, ...] = ()
    engrave: tuple[Text, ...] = ()
    out: tuple[Text, ...] = ()
    plate: bool = False


Origin = Annotated[ComponentOrigin | ContoursOrigin, Field(discriminator="kind")]
"""Where a part's profile comes from."""


class CutPart(BaseModel):
    """A part to cut, *quantity* times; how it may be turned where that is not as the list says; the *decorations* on each."""

    model_config = ConfigDict(frozen=True)

    id: ShortId
    name: Line = Field(min_length=1, max_length=120)
    origin: Origin
    quantity: int = Field(default=1, ge=0, le=10_000)
    turning: Turning | None = None
    flips: bool | None = None
    decorations: tuple[Decoration, ...] = ()


class CutList(BaseModel):
    """What is cut together: parts, the plates that there are, in the order in which they are used, and the choices."""

    model_config = ConfigDict(frozen=True)

    id: ShortId
    name: Line = Field(min_length=1, max_length=80)
    parts: tuple[CutPart, ...] = ()
    plates: tuple[Plate, ...] = ()
    choices: CutChoices = CutChoices()

    @property
    def sources(self) -> frozenset[str]:
        """The sources of its parts and of what is drawn on them."""
        drawn = (own.sources for part in self.parts for own in part.decorations)
        return frozenset(part.origin.source for part in self.parts).union(*drawn)

    def part(self, part_id: str) -> CutPart:
        """:raises NotThere: when the list has no such part."""
        for part in self.parts:
            if part.id == part_id:
                return part
        raise NotThere("This part is no longer on the cutting list: choose another.")


class CuttingContent(BaseModel):
    """What lies on a cutting sheet: its cutting list, which of the list's plates it is, the parts where they lie, and the
    decorations on the plate itself."""

    model_config = ConfigDict(frozen=True)

    cut_list: ShortId
    plate: int = Field(default=0, ge=0)
    placed: tuple[PlacedProfile, ...] = ()
    decorations: tuple[Decoration, ...] = ()

    @property
    def sources(self) -> frozenset[str]:
        """The drawings that are shown on the plate itself."""
        return frozenset[str]().union(*(own.sources for own in self.decorations))


class CuttingSection(JobSection):
    """The cutting lists of the job."""

    cut_lists: tuple[CutList, ...] = ()

    def cut_list(self, list_id: str) -> CutList:
        """:raises NotThere: when there is no such list."""
        for own in self.cut_lists:
            if own.id == list_id:
                return own
        raise NotThere("This cutting list is no longer in the job: choose another.")
