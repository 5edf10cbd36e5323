"""A 3D annotation: the part of a sheet in which a reader finds the model itself, to turn and cut (ISO 32000-1, 13.6)."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from skalto.core.geometry import Box
from skalto.core.ids import ShortId
from skalto.core.lengths import Millimetres
from skalto.core.scene.choices import SceneChoices
from skalto.core.scene.kept import MOST, Kept
from skalto.core.scene.views import PreparedView, standard_views
from skalto.core.typed import Line, Text

FRAME_ROOM = 0.5
"""Between the middle of a frame line and the model's picture, mm."""
LEAST = 10.0
"""A field is no smaller than this, mm."""


class Opening(BaseModel):
    """How the model comes alive in a reader: at once with its page or on a click, whether it goes when its page is left, what
    the reader shows about it, and in which unit it measures."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    start: Literal["click", "page"] = "click"
    leave: bool = True
    tools: bool = True
    tree: bool = False
    unit: Literal["mm", "in"] = "mm"


class Annotation3d(BaseModel):
    """A 3D annotation: which source, where on the sheet (*place* is its lower left corner) and how large, mm; with a *frame*
    line about it or without; what goes in, the prepared views in order, which of them it opens with, and how; what a review of
    it has *kept*, which does not go into a PDF."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    id: ShortId
    source: ShortId
    name: Line = Field(default="3D model", min_length=1, max_length=60)
    place: tuple[Millimetres, Millimetres] = (20.0, 20.0)
    size: tuple[Millimetres, Millimetres] = (120.0, 90.0)
    frame: bool = True
    choices: SceneChoices = SceneChoices()
    views: tuple[PreparedView, ...] = Field(default=standard_views(), min_length=1, max_length=60)
    default: Text = ""
    opening: Opening = Opening()
    poster_dpi: int = Field(default=200, ge=36, le=1200)
    kept: tuple[Kept, ...] = Field(default=(), max_length=MOST)

    @model_validator(mode="after")
    def _whole(self) -> Annotation3d:
        if min(self.size) < LEAST or max(self.size) > 20_000:
            raise ValueError(f"A 3D annotation is {LEAST:g} mm or more each way, and at most 20 m.")
        ids = [view.id for view in self.views]
        names = [view.name.casefold() for view in self.views]
        if len(set(ids)) < len(ids):
            raise ValueError("Two prepared views have the same id.")
        if len(set(names)) < len(names):
            twice = next(view.name for view in self.views if names.count(view.name.casefold()) > 1)
            raise ValueError(f"Two prepared views are called {twice}: give one another name.")
        if len({own.id for own in self.kept}) < len(self.kept):
            raise ValueError("Two things that are kept have the same id.")
        return self

    @property
    def box(self) -> Box:
        """(x0, y0, x1, y1) on the sheet, mm."""
        (x, y), (w, h) = self.place, self.size
        return x, y, x + w, y + h

    @property
    def inner(self) -> Box:
        """What the model itself takes: within the frame line, where there is one."""
        by = FRAME_ROOM if self.frame else 0.0
        x0, y0, x1, y1 = self.box
        return x0 + by, y0 + by, x1 - by, y1 - by

    @property
    def inner_size(self) -> tuple[float, float]:
        x0, y0, x1, y1 = self.inner
        return x1 - x0, y1 - y0

    @property
    def aspect(self) -> float:
        """Width : height of the picture."""
        width, height = self.inner_size
        return width / height

    @property
    def opens_with(self) -> PreparedView:
        """The view that it opens with: the chosen one, or the first."""
        return next((view for view in self.views if view.id == self.default), self.views[0])

    @property
    def title(self) -> str:
        """In words."""
        return f"3D annotation {self.name}"
