"""What a view shows, by kind: a projection, a section, a part of a drawing, a flat pattern, or a detail of any.

A view places its content on the sheet. The content says what decides its lines, what it is called, and what of it can be
dimensioned, so that a further kind is one class here and one maker of lines in ``services/results/lines.py``.
"""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Mapping
from typing import Annotated, Any, ClassVar, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from skalto.core.errors import InputError
from skalto.core.projection.methods import HiddenLines
from skalto.core.projection.view import ExcerptSpec, LinesSpec, ProjectionSpec, tolerance_for
from skalto.core.quantities import Scale
from skalto.core.sheet_metal.choices import FlatSpec, UnfoldChoices
from skalto.core.sheets.annotations import BendTable, Detail, Section
from skalto.core.sources.drawings.excerpt import Excerpt
from skalto.core.typed import Text
from skalto.core.viewpoint import Vector, make_viewpoint

DRAWN_LOOK: Vector = (0.0, 0.0, -1.0)
DRAWN_UP: Vector = (0.0, 1.0, 0.0)
"""A drawing is seen from above: its plane is x to the right, y up."""
Dimensioned = Literal["edges", "extent"]
"""What dimensions can be attached to: a model's edges, or no more than the width and height of what is shown."""


class _Content(BaseModel):
    """What every kind of content answers."""

    model_config = ConfigDict(frozen=True)

    @property
    def letter(self) -> str:
        """The letter that it is called by instead of the view's name, '' for none."""
        return ""

    @property
    @abstractmethod
    def dimensioned(self) -> Dimensioned: ...

    @abstractmethod
    def title(self, name: str) -> str:
        """In words, of a view that is called *name*."""

    @abstractmethod
    def lines(self, scale: Scale) -> LinesSpec:
        """What decides its lines at a scale."""


class _OfModel(_Content):
    """Seen from somewhere: along *look* with *up* upright, without the *hidden* components, as lines or *shaded*."""

    look: Vector
    up: Vector
    hidden: frozenset[Text] = frozenset()
    hidden_lines: HiddenLines = HiddenLines.FACETS
    shaded: bool = False
    shade_dpi: int = Field(default=300, ge=36, le=1200)

    @model_validator(mode="after")
    def _direction(self) -> _OfModel:
        try:
            make_viewpoint("", self.look, self.up)
        except InputError as error:
            raise ValueError(str(error)) from None
        return self

    @property
    def dimensioned(self) -> Dimensioned:
        return "edges"

    def lines(self, scale: Scale) -> ProjectionSpec:
        return ProjectionSpec(
            look=self.look, up=self.up, hidden=self.hidden, tolerance=tolerance_for(scale), hidden_lines=self.hidden_lines
        )  # fmt: skip


class ProjectionContent(_OfModel):
    """A model seen along a direction (ISO 5456-2)."""

    kind: Literal["projection"] = "projection"

    def title(self, name: str) -> str:
        if name.lower().startswith("dir:"):
            return f"view along {', '.join(f'{v:.3g}' for v in self.look)}"
        return f"{name} view"


class SectionContent(_OfModel):
    """A section (ISO 128-3): what lies behind the *plane*, which is *depth* mm along the look."""

    kind: Literal["section"] = "section"
    plane: Section
    depth: float | None = None

    @property
    def letter(self) -> str:
        return self.plane.letter

    def lettered(self, letter: str) -> SectionContent:
        return self.model_copy(update={"plane": self.plane.model_copy(update={"letter": letter})})

    def title(self, name: str) -> str:
        return f"section {self.plane.letter}–{self.plane.letter}"

    def lines(self, scale: Scale) -> ProjectionSpec:
        return super().lines(scale).model_copy(update={"cut": self.depth, "uncut": self.plane.uncut})


class _Lying(_Content):
    """What lies in a plane of its own, seen from above."""

    look: ClassVar[Vector] = DRAWN_LOOK
    up: ClassVar[Vector] = DRAWN_UP
    hidden: ClassVar[frozenset[str]] = frozenset()
    shaded: ClassVar[bool] = False


class DrawingContent(_Lying):
    """A part of a 2D drawing."""

    kind: Literal["drawing"] = "drawing"
    excerpt: Excerpt = Excerpt()

    @property
    def dimensioned(self) -> Dimensioned:
        return "extent"

    def title(self, name: str) -> str:
        return f"drawing view {name}"

    def lines(self, scale: Scale) -> ExcerptSpec:
        # a drawing's curves are its own: they do not depend on the scale
        return ExcerptSpec(excerpt=self.excerpt)


class FlatContent(_Lying):
    """A part of a model unfolded: the flat pattern of a *component*, by its path, with the *limits* of its bends drawn or not,
    a *note* at each bend line, an arrow along the *grain*, and the table of its *bends* (its upper left corner, sheet mm, or
    beside the view)."""

    kind: Literal["flat"] = "flat"
    component: Text
    choices: UnfoldChoices = UnfoldChoices()
    limits: bool = False
    note: bool = True
    grain: bool = False
    bends: BendTable | None = BendTable()

    @property
    def dimensioned(self) -> Dimensioned:
        return "edges"

    def title(self, name: str) -> str:
        return f"flat pattern {name}"

    def lines(self, scale: Scale) -> FlatSpec:
        # a pattern is exact in the model's mm: it does not depend on the scale
        return FlatSpec(component=self.component, choices=self.choices)


Whole = Annotated[ProjectionContent | SectionContent | DrawingContent | FlatContent, Field(discriminator="kind")]
"""Content that is not a part of another."""


class DetailContent(_Content):
    """A detail: a *circle* *of* another content, larger (ISO 128-3)."""

    kind: Literal["detail"] = "detail"
    circle: Detail
    of: Whole

    @property
    def letter(self) -> str:
        return self.circle.letter

    def lettered(self, letter: str) -> DetailContent:
        return self.model_copy(update={"circle": self.circle.model_copy(update={"letter": letter})})

    @property
    def dimensioned(self) -> Dimensioned:
        return self.of.dimensioned

    def title(self, name: str) -> str:
        return f"detail {self.circle.letter}"

    def taken_from(self, whole: Whole) -> DetailContent:
        """The same circle of another content, or of one that has changed; how it is drawn stays its own."""
        kept = {}
        if isinstance(self.of, _OfModel) and isinstance(whole, _OfModel):
            kept = {name: getattr(self.of, name) for name in ("hidden_lines", "shaded", "shade_dpi")}
        return self.model_copy(update={"of": whole.model_copy(update=kept)})

    def lines(self, scale: Scale) -> LinesSpec:
        return self.of.lines(scale)


Content = Annotated[
    ProjectionContent | SectionContent | DrawingContent | FlatContent | DetailContent, Field(discriminator="kind")
]
"""What a view shows, told apart by its ``kind``."""

OF_MODEL = ("look", "up", "hidden", "hidden_lines", "shaded", "shade_dpi")
FLAT = (*OF_MODEL, "section", "depth", "detail", "excerpt")
"""The names under which a view's content was written down while views had all fields in one row."""


def content_of(flat: Mapping[str, Any]) -> dict[str, Any]:
    """A content as plain data from the fields that views had in one row."""
    whole: dict[str, Any]
    if flat.get("excerpt") is not None:
        whole = {"kind": "drawing", "excerpt": flat["excerpt"]}
    else:
        whole = {name: flat[name] for name in OF_MODEL if name in flat}
        cut = flat.get("section") is not None
        whole |= {"kind": "section", "plane": flat["section"], "depth": flat.get("depth")} if cut else {"kind": "projection"}
    if flat.get("detail") is not None:
        return {"kind": "detail", "circle": flat["detail"], "of": whole}
    return whole
