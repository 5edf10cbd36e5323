"""Lengths as they are written down: on paper, in a model, and those that a view is judged by."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

Millimetres = Annotated[float, Field(ge=-100_000, le=100_000, allow_inf_nan=False)]
ModelMillimetres = Annotated[float, Field(ge=-1e11, le=1e11, allow_inf_nan=False)]
"""A coordinate of what is drawn, in its own mm: a site's may be as far out as the earth is large."""


Kind = Literal["width", "height", "diameter"]


class ReferenceLength(BaseModel):
    """One length of the model as seen in a view: *value* mm; for a diameter the centre in the view's plane, mm."""

    model_config = ConfigDict(frozen=True)

    kind: Kind
    value: float
    centre: tuple[float, float] | None = None
    component: str = ""
