"""How a part is unfolded, as written down in a job."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from skalto.core.sheet_metal.allowances import BendRule
from skalto.core.typed import Text
from skalto.core.viewpoint import Vector


class PracticeLimits(BaseModel):
    """What is warned of (common practice, no source): an opening nearer to a bend's line than the inner radius and *opening*
    times the thickness; a flange shorter than the radius and *flange* times the thickness; an inner radius under *radius*
    times the thickness; a round hole smaller than *hole* times the thickness; and a bend that ends in the sheet without a
    *relief*."""

    model_config = ConfigDict(frozen=True)

    opening: float = Field(default=2.0, ge=0)
    flange: float = Field(default=3.5, ge=0)
    radius: float = Field(default=1.0, ge=0)
    hole: float = Field(default=1.0, ge=0)
    relief: bool = True


class UnfoldChoices(BaseModel):
    """How a part is unfolded: by which *rule*, what is *typed* for one bend (by its number), which face stays where it is, by
    its number in the part, which *side* is up (A is the one that most bends go to), where a closed sheet is slit, mm in the
    part's own axes, by what the pattern is turned from how it would lie, degrees, and which *limits* of common practice are
    warned of."""

    model_config = ConfigDict(frozen=True)

    rule: BendRule = BendRule()
    typed: dict[int, BendRule] = {}
    base: int | None = Field(default=None, ge=0)
    side: Literal["a", "b"] = "a"
    slit: Vector | None = None
    turn: float = Field(default=0.0, ge=-360, le=360)
    limits: PracticeLimits = PracticeLimits()


class FlatSpec(BaseModel):
    """What decides the lines of a flat pattern: a *component* of a model, by its path, and how it is unfolded."""

    model_config = ConfigDict(frozen=True)

    kind: Literal["flat"] = "flat"
    component: Text
    choices: UnfoldChoices = UnfoldChoices()
