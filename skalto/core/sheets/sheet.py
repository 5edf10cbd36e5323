"""A sheet and its views as they are written down in a job; all values frozen."""

from __future__ import annotations

from fractions import Fraction
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, field_validator, model_validator

from skalto.core.artwork import EdgeClass
from skalto.core.errors import InputError
from skalto.core.paper import Format, FrameStyle, Orientation, parse_format
from skalto.core.projection.view import ProjectionSpec, tolerance_for
from skalto.core.quantities import format_scale, parse_scale
from skalto.core.viewpoint import Vector, make_viewpoint

SELECTABLE = (EdgeClass.VISIBLE, EdgeClass.OUTLINE, EdgeClass.SMOOTH, EdgeClass.HIDDEN)
"""The edge classes that a view may show."""

Millimetres = Annotated[float, Field(ge=-100_000, le=100_000, allow_inf_nan=False)]


class ViewSpec(BaseModel):
    """A view: which source, looked at from where, at what scale, where on the sheet, and what of it shows.

    *anchor* is a point of the view's plane, model mm; *place* is where it lies on the sheet, mm. It is the middle of the
    whole model, so that hiding a part or changing the scale moves nothing about.
    """

    model_config = ConfigDict(frozen=True)

    id: str
    source: str
    name: str
    look: Vector
    up: Vector
    scale: str = "1:1"
    anchor: tuple[Millimetres, Millimetres] = (0.0, 0.0)
    place: tuple[Millimetres, Millimetres] = (0.0, 0.0)
    hidden: frozenset[str] = frozenset()
    classes: tuple[EdgeClass, ...] = (EdgeClass.VISIBLE, EdgeClass.OUTLINE)

    @field_validator("scale")
    @classmethod
    def _scale(cls, text: str) -> str:
        try:
            return format_scale(parse_scale(text))
        except InputError as error:
            raise ValueError(str(error)) from None

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
    def ratio(self) -> Fraction:
        """The scale, paper : model, exact."""
        return parse_scale(self.scale)

    def projection(self) -> ProjectionSpec:
        """The part of the view that decides its lines; where it lies and which classes show do not."""
        return ProjectionSpec(look=self.look, up=self.up, hidden=self.hidden, tolerance=tolerance_for(self.ratio))


class SheetSpec(BaseModel):
    """A sheet: its format by name or size, how it lies, its frame and its views."""

    model_config = ConfigDict(frozen=True)

    id: str
    name: str
    format: str = "A3"
    orientation: Orientation = Orientation.LANDSCAPE
    frame: FrameStyle = FrameStyle.ISO
    views: tuple[ViewSpec, ...] = ()

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

    def view(self, view_id: str) -> ViewSpec:
        """:raises KeyError: when the sheet has no such view."""
        for view in self.views:
            if view.id == view_id:
                return view
        raise KeyError(view_id)
