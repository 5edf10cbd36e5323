"""A sheet and its views as they are written down in a job; all values frozen."""

from __future__ import annotations

from collections import Counter
from enum import StrEnum
from typing import Any, Literal, Self

from pydantic import BaseModel, ConfigDict, Field, field_validator, model_validator

from skalto.core.artwork import EdgeClass
from skalto.core.cutting.section import CuttingContent
from skalto.core.earlier_words import by_todays_names
from skalto.core.errors import InputError, NotThere
from skalto.core.geometry import Array
from skalto.core.ids import ShortId
from skalto.core.job_section import JobSection
from skalto.core.lengths import Millimetres
from skalto.core.paper import Format, FrameStyle, Margins, Orientation, frame_rectangle, parse_format
from skalto.core.projection.view import LinesSpec
from skalto.core.quantities import FULL_SIZE, Scale
from skalto.core.scene.annotation_3d import Annotation3d
from skalto.core.sheets.annotations import Detail, Dimension, HoleTable, ModelPoint, Note, PartsList, PlatesTable, Section
from skalto.core.sheets.content import (
    FLAT,
    Content,
    DetailContent,
    DrawingContent,
    FlatContent,
    ProjectionContent,
    SectionContent,
    content_of,
)
from skalto.core.sheets.finished_page import FinishedPage
from skalto.core.sheets.listed import DrawingsTable
from skalto.core.sources.drawings.excerpt import Excerpt
from skalto.core.typed import Text
from skalto.core.viewpoint import Vector, make_viewpoint

SELECTABLE = (EdgeClass.VISIBLE, EdgeClass.OUTLINE, EdgeClass.WIRE, EdgeClass.SMOOTH, EdgeClass.HIDDEN)
"""The edge classes that a view may show."""

Override = Literal["scale", "components", "place"]
NOT_SHOWN: dict[str, Any] = {"annotations_3d": {"__all__": {"kept"}}}
"""What of a sheet shows on no page: left out of what names its files."""
__all__ = ["NOT_SHOWN", "Arrangement", "Furniture", "Millimetres", "SheetSpec", "ViewSpec"]


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


EARLIER = {"turn": "rotation", "own": "overrides", "pulled": "projected"}


class ViewSpec(BaseModel):
    """A view: which source, what of it and how (its *content*), at what scale, where on the sheet, and what is written on it.

    *anchor* is a point of the view's plane, model mm; *place* is where it lies on the sheet, mm. It is the middle of the
    whole model, so that hiding a part or changing the scale moves nothing about. *parent* is the view that it was pulled
    from, toward *pulled*, a direction on the sheet; what it has of its *own* it does not take from there. *turn* is in
    degrees, counter-clockwise.
    """

    model_config = ConfigDict(frozen=True)

    id: ShortId
    source: ShortId
    name: Text
    content: Content
    scale: Scale = FULL_SIZE
    anchor: ModelPoint = (0.0, 0.0)
    place: tuple[Millimetres, Millimetres] = (0.0, 0.0)
    rotation: float = Field(default=0.0, ge=-360, le=360)
    classes: tuple[EdgeClass, ...] = (EdgeClass.VISIBLE, EdgeClass.OUTLINE, EdgeClass.WIRE)
    overrides: frozenset[Override] = frozenset()
    parent: Text | None = None
    projected: tuple[float, float] | None = None
    viewpoint: Text | None = None
    centres: bool = True
    axes: bool = False
    dimensions: tuple[Dimension, ...] = ()
    holes: HoleTable | None = None

    @model_validator(mode="before")
    @classmethod
    def _before_contents(cls, data: Any) -> Any:
        """Views written down before there were kinds of content: all fields in one row, most of them without meaning."""
        data = by_todays_names(data, EARLIER)
        if not isinstance(data, dict) or "content" in data:
            return data
        return {name: value for name, value in data.items() if name not in FLAT} | {"content": content_of(data)}

    @field_validator("classes")
    @classmethod
    def _classes(cls, classes: tuple[EdgeClass, ...]) -> tuple[EdgeClass, ...]:
        return tuple(c for c in SELECTABLE if c in classes)

    @property
    def whole(self) -> ProjectionContent | SectionContent | DrawingContent | FlatContent:
        """Its content; of a detail what it is a detail of."""
        return self.content.of if isinstance(self.content, DetailContent) else self.content

    @property
    def look(self) -> Vector:
        return self.whole.look

    @property
    def up(self) -> Vector:
        return self.whole.up

    @property
    def hidden(self) -> frozenset[str]:
        """The components that do not show, by their paths."""
        return self.whole.hidden

    @property
    def shaded(self) -> bool:
        return self.whole.shaded

    @property
    def section(self) -> Section | None:
        """The cutting plane, of a detail that of its parent; None where nothing is cut."""
        return self.whole.plane if isinstance(self.whole, SectionContent) else None

    @property
    def detail(self) -> Detail | None:
        """The circle of a detail."""
        return self.content.circle if isinstance(self.content, DetailContent) else None

    @property
    def excerpt(self) -> Excerpt | None:
        """What is shown of a drawing; None for a model."""
        return self.whole.excerpt if isinstance(self.whole, DrawingContent) else None

    @property
    def flat(self) -> FlatContent | None:
        """What is shown unfolded; None for anything else."""
        return self.whole if isinstance(self.whole, FlatContent) else None

    @property
    def of_model(self) -> bool:
        """Whether it looks at a model: neither a drawing nor a flat pattern is."""
        return not isinstance(self.whole, DrawingContent | FlatContent)

    @property
    def title(self) -> str:
        """The view's name in words."""
        return self.content.title(self.name)

    @property
    def label(self) -> str:
        """What it is called in the file: a section or detail by its letters, any other by its name."""
        return self.title if self.content.letter else self.name

    @property
    def is_aligned(self) -> bool:
        """Whether it stays in line with its parent: pulled straight, not on a diagonal."""
        if not self.parent or self.projected is None or self.detail or "place" in self.overrides:
            return False
        return self.section is not None or 0.0 in (round(self.projected[0], 9), round(self.projected[1], 9))

    def axes_of_plane(self) -> Array:
        """Right, up and toward the eye of its plane, in the model: (3, 3), a row each."""
        return make_viewpoint(self.name, self.look, self.up).axes()

    def lines(self) -> LinesSpec:
        """The part of the view that decides its lines; where it lies and which classes show do not."""
        return self.content.lines(self.scale)

    def showing(self, **fields: Any) -> ViewSpec:
        """The view with some fields of its content replaced, of a detail of what it is a detail of."""
        whole = self.whole.model_copy(update=fields)
        content = self.content.model_copy(update={"of": whole}) if isinstance(self.content, DetailContent) else whole
        return self.model_copy(update={"content": content})


class PartOrigin(BaseModel):
    """For which *part* a sheet was made, by its key in the job, after which *version* of which *template*; what the part was
    then (its *content*), and how the sheet was *laid* out."""

    model_config = ConfigDict(frozen=True)

    part: Text
    template: Text
    version: int
    content: Text
    laid: Text


class SheetSpec(BaseModel):
    """A sheet: its format by name or size, how it lies, its frame, what it carries, its views and 3D annotations.

    *pens* names the pen set that draws it, *recipe* the recipe that it was set up with, '' for none.
    *scale* is the one that views take unless they have their own. *margins* are left, bottom, right, top, mm; None for
    those of the frame's standard. A *clean* sheet shows the parts' edges alone. *cutting* is what lies on it where it is a
    plate; *made_for* is what it was made for by a template; *onto* a page of a finished PDF that it goes onto.
    """

    model_config = ConfigDict(frozen=True)

    id: ShortId
    name: Text
    format: Text = "A3"
    orientation: Orientation = Orientation.LANDSCAPE
    frame: FrameStyle = FrameStyle.ISO
    margins: Margins | None = None
    furniture: frozenset[Furniture] = frozenset({Furniture.CENTRING, Furniture.GRID, Furniture.TITLE})
    clean: bool = False
    arrangement: Arrangement = Arrangement.FIRST
    scale: Scale = FULL_SIZE
    title: dict[Text, Text] = {}
    pens: Text = "shop-1"
    recipe: Text = ""
    views: tuple[ViewSpec, ...] = ()
    annotations_3d: tuple[Annotation3d, ...] = ()
    notes: tuple[Note, ...] = ()
    parts_list: PartsList | None = None
    plates_table: PlatesTable | None = None
    drawings_table: DrawingsTable | None = None
    cutting: CuttingContent | None = None
    made_for: PartOrigin | None = None
    onto: FinishedPage | None = None

    @model_validator(mode="before")
    @classmethod
    def _before_sheet_scales(cls, data: Any) -> Any:
        """Sheets written down before there was a sheet scale: the one that most views have; the others have their own."""
        data = by_todays_names(data, {"fields": "annotations_3d"})
        if not isinstance(data, dict) or "scale" in data or not data.get("views"):
            return data
        views = [v.model_dump() if isinstance(v, ViewSpec) else dict(v) for v in data["views"]]
        scale = Counter(view.get("scale", "1:1") for view in views).most_common(1)[0][0]
        for view in views:
            if view.get("scale", "1:1") != scale:
                view["overrides"] = sorted({*view.get("overrides", view.get("own", ())), "scale"})
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

    def annotation_3d(self, annotation_id: str) -> Annotation3d:
        """:raises InputError: when the sheet has no such 3D annotation."""
        for annotation in self.annotations_3d:
            if annotation.id == annotation_id:
                return annotation
        raise NotThere("This 3D annotation is no longer on the sheet: choose another.")

    @property
    def is_empty(self) -> bool:
        """Whether it shows nothing: neither a view, nor a 3D annotation, nor a part to cut, nor a table of its own."""
        tables = self.plates_table or self.drawings_table
        return not (self.views or self.annotations_3d or tables or (self.cutting and self.cutting.placed))

    @property
    def shown_sources(self) -> frozenset[str]:
        """The sources of its views, its 3D annotations and its finished page; those of parts to cut are on the cutting list."""
        page = () if self.onto is None else (self.onto.source,)
        return frozenset({*(view.source for view in self.views), *(own.source for own in self.annotations_3d), *page})

    def children(self, view_id: str) -> tuple[ViewSpec, ...]:
        """The views pulled from a view."""
        return tuple(view for view in self.views if view.parent == view_id)

    def with_views(self, views: tuple[ViewSpec, ...]) -> SheetSpec:
        return self.model_copy(update={"views": views})


class SheetSection(JobSection):
    """The sheets of the job, in order."""

    sheets: tuple[SheetSpec, ...] = ()

    def sheet(self, sheet_id: str) -> SheetSpec:
        """:raises InputError: when there is no such sheet."""
        for sheet in self.sheets:
            if sheet.id == sheet_id:
                return sheet
        raise NotThere("This sheet is no longer in the job: choose another.")

    def with_sheet(self, sheet: SheetSpec) -> Self:
        """The same job with one sheet replaced by its new self."""
        return self.model_copy(update={"sheets": tuple(sheet if s.id == sheet.id else s for s in self.sheets)})
