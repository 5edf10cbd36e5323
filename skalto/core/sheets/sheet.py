"""A sheet and its views as they are written down in a job; all values frozen."""

from __future__ import annotations

from collections import Counter
from enum import StrEnum
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator, model_validator

from skalto.core.artwork import EdgeClass
from skalto.core.errors import InputError, NotThere
from skalto.core.ids import ShortId
from skalto.core.lengths import Millimetres
from skalto.core.paper import Format, FrameStyle, Margins, Orientation, frame_rectangle, parse_format
from skalto.core.projection.methods import HiddenLines
from skalto.core.projection.view import ProjectionSpec, tolerance_for
from skalto.core.quantities import FULL_SIZE, Scale
from skalto.core.scene.field import FieldSpec
from skalto.core.sheets.annotations import Detail, Dimension, HoleTable, ModelPoint, Note, PartsList, Section
from skalto.core.sources.drawings.excerpt import Excerpt
from skalto.core.viewpoint import Vector, make_viewpoint

SELECTABLE = (EdgeClass.VISIBLE, EdgeClass.OUTLINE, EdgeClass.WIRE, EdgeClass.SMOOTH, EdgeClass.HIDDEN)
"""The edge classes that a view may show."""

Own = Literal["scale", "components", "place"]
__all__ = ["Arrangement", "Furniture", "Millimetres", "SheetSpec", "ViewSpec"]


class Arrangement(StrEnum):
    """How views lie about their parent (ISO 5456-2): what is seen from the left lies at the right, or at the left."""

    FIRST = "first"
    THIRD = "third"


class Furniture(StrEnum):
    """What a sheet carries beside its views."""

    CENTRING = "centring marks"
    GRID = "grid references"
    TITLE = "title block"
    RULE = "print-control bar"


class ViewSpec(BaseModel):
    """A view: which source, looked at from where, at what scale, where on the sheet, and what of it shows.

    *anchor* is a point of the view's plane, model mm; *place* is where it lies on the sheet, mm. It is the middle of the
    whole model, so that hiding a part or changing the scale moves nothing about. *parent* is the view that it was pulled
    from, toward *pulled*, a direction on the sheet; what it has of its *own* it does not take from there. *turn* is in
    degrees, counter-clockwise; *depth* how far along the look a section's plane lies, model mm. A view of a drawing is an
    *excerpt* of it, seen from above; its plane is the drawing's.
    """

    model_config = ConfigDict(frozen=True)

    id: ShortId
    source: ShortId
    name: str
    look: Vector
    up: Vector
    scale: Scale = FULL_SIZE
    anchor: ModelPoint = (0.0, 0.0)
    place: tuple[Millimetres, Millimetres] = (0.0, 0.0)
    turn: float = Field(default=0.0, ge=-360, le=360)
    hidden: frozenset[str] = frozenset()
    classes: tuple[EdgeClass, ...] = (EdgeClass.VISIBLE, EdgeClass.OUTLINE, EdgeClass.WIRE)
    own: frozenset[Own] = frozenset()
    parent: str | None = None
    pulled: tuple[float, float] | None = None
    viewpoint: str | None = None
    section: Section | None = None
    depth: float | None = None
    detail: Detail | None = None
    shaded: bool = False
    shade_dpi: int = Field(default=300, ge=36, le=1200)
    centres: bool = True
    axes: bool = False
    dimensions: tuple[Dimension, ...] = ()
    holes: HoleTable | None = None
    excerpt: Excerpt | None = None
    hidden_lines: HiddenLines = HiddenLines.FACETS

    @field_validator("classes")
    @classmethod
    def _classes(cls, classes: tuple[EdgeClass, ...]) -> tuple[EdgeClass, ...]:
        return tuple(c for c in SELECTABLE if c in classes)

    @model_validator(mode="after")
    def _direction(self) -> ViewSpec:
        try:
            make_viewpoint(self.name, self.look, self.up)
        except InputError as error:
            raise ValueError(str(error)) from None
        return self

    @property
    def title(self) -> str:
        """The view's name in words."""
        if self.section and not self.detail:
            return f"section {self.section.letter}–{self.section.letter}"
        if self.excerpt and not self.detail:
            return f"excerpt {self.name}"
        if self.detail:
            return f"detail {self.detail.letter}"
        if self.name.lower().startswith("dir:"):
            return f"view along {', '.join(f'{v:.3g}' for v in self.look)}"
        return f"{self.name} view"

    @property
    def label(self) -> str:
        """What it is called in the file: a section or detail by its letters, any other by its name."""
        return self.title if self.section or self.detail else self.name

    @property
    def is_aligned(self) -> bool:
        """Whether it stays in line with its parent: pulled straight, not on a diagonal."""
        if not self.parent or self.pulled is None or self.detail or "place" in self.own:
            return False
        return self.section is not None or 0.0 in (round(self.pulled[0], 9), round(self.pulled[1], 9))

    def projection(self) -> ProjectionSpec:
        """The part of the view that decides its lines; where it lies and which classes show do not."""
        if self.excerpt is not None:
            # a drawing's curves are its own: they do not depend on the scale
            return ProjectionSpec(look=self.look, up=self.up, excerpt=self.excerpt)
        depth, uncut = None, frozenset[str]()
        if self.section is not None:
            depth, uncut = self.depth, self.section.uncut
        return ProjectionSpec(
            look=self.look, up=self.up, hidden=self.hidden, tolerance=tolerance_for(self.scale), cut=depth, uncut=uncut,
            hidden_lines=self.hidden_lines,
        )  # fmt: skip


class SheetSpec(BaseModel):
    """A sheet: its format by name or size, how it lies, its frame, what it carries, its views and 3D fields.

    *pens* names the pen set that draws it, *recipe* the recipe that it was set up with, '' for none.
    *scale* is the one that views take unless they have their own. *margins* are left, bottom, right, top, mm; None for
    those of the frame's standard. A *clean* sheet shows the parts' edges alone.
    """

    model_config = ConfigDict(frozen=True)

    id: ShortId
    name: str
    format: str = "A3"
    orientation: Orientation = Orientation.LANDSCAPE
    frame: FrameStyle = FrameStyle.ISO
    margins: Margins | None = None
    furniture: frozenset[Furniture] = frozenset({Furniture.CENTRING, Furniture.GRID, Furniture.TITLE})
    clean: bool = False
    arrangement: Arrangement = Arrangement.FIRST
    scale: Scale = FULL_SIZE
    title: dict[str, str] = {}
    pens: str = "shop-1"
    recipe: str = ""
    views: tuple[ViewSpec, ...] = ()
    fields: tuple[FieldSpec, ...] = ()
    notes: tuple[Note, ...] = ()
    parts_list: PartsList | None = None

    @model_validator(mode="before")
    @classmethod
    def _before_sheet_scales(cls, data: Any) -> Any:
        """Sheets written down before there was a sheet scale: the one that most views have; the others have their own."""
        if not isinstance(data, dict) or "scale" in data or not data.get("views"):
            return data
        views = [v.model_dump() if isinstance(v, ViewSpec) else dict(v) for v in data["views"]]
        scale = Counter(view.get("scale", "1:1") for view in views).most_common(1)[0][0]
        for view in views:
            if view.get("scale", "1:1") != scale:
                view["own"] = sorted({*view.get("own", ()), "scale"})
        return data | {"scale": scale, "views": views}

    @field_validator("format")
    @classmethod
    def _format(cls, text: str) -> str:
        try:
            return parse_format(text).name
        except InputError as error:
            raise ValueError(str(error)) from None

    def paper(self) -> Format:
        """The format as it lies."""
        return parse_format(self.format).turned(self.orientation)

    def frame_box(self) -> tuple[float, float, float, float] | None:
        """The frame line, (x0, y0, x1, y1) mm, or None without one."""
        paper = self.paper()
        if self.clean:
            return None
        return frame_rectangle(float(paper.width), float(paper.height), self.frame, self.margins)

    def view(self, view_id: str) -> ViewSpec:
        """:raises KeyError: when the sheet has no such view."""
        for view in self.views:
            if view.id == view_id:
                return view
        raise KeyError(view_id)

    def field(self, field_id: str) -> FieldSpec:
        """:raises InputError: when the sheet has no such 3D field."""
        for field in self.fields:
            if field.id == field_id:
                return field
        raise NotThere("This 3D field is no longer on the sheet: choose another.")

    @property
    def is_empty(self) -> bool:
        """Whether it shows nothing: neither a view nor a 3D field."""
        return not self.views and not self.fields

    def children(self, view_id: str) -> tuple[ViewSpec, ...]:
        """The views pulled from a view."""
        return tuple(view for view in self.views if view.parent == view_id)

    def with_views(self, views: tuple[ViewSpec, ...]) -> SheetSpec:
        return self.model_copy(update={"views": views})
