"""What goes into a 3D model, and how its tree is made; frozen values, as a job writes them down."""

from __future__ import annotations

from enum import StrEnum
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator

from skalto.core.scene.meshing import Quality
from skalto.core.scene.turns import UPRIGHT, Turn
from skalto.core.sources.models.parts import PartFacts
from skalto.core.typed import Line, Text

Names = Literal["names", "items"]


class Grouping(StrEnum):
    """What the top of the 3D tree is: the assembly as it is, or classes that a reader can switch as a whole."""

    ASSEMBLY = "assembly"
    KIND = "class"
    MATERIAL = "material"
    COLOUR = "colour"


class NamedGroup(BaseModel):
    """A class of one's own: the components whose path or part name a pattern names (globs, without regard to case)."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    name: Line = Field(min_length=1, max_length=60)
    patterns: tuple[Text, ...] = Field(min_length=1)

    @field_validator("name")
    @classmethod
    def _name(cls, name: str) -> str:
        return name.strip()


class SceneChoices(BaseModel):
    """What a person chooses of a 3D model: *hidden* components and classes *left_out* do not go in; *opacity* by component;
    *orientation* is how the model is turned from its own axes."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    quality: Quality = Quality.NORMAL
    grouping: Grouping = Grouping.ASSEMBLY
    groups: tuple[NamedGroup, ...] = ()
    left_out: tuple[Text, ...] = ()
    hidden: frozenset[Text] = frozenset()
    names: Names = "names"
    opacity: dict[Text, float] = {}
    orientation: Turn = UPRIGHT

    @field_validator("opacity")
    @classmethod
    def _opacity(cls, opacity: dict[str, float]) -> dict[str, float]:
        if any(not 0 < v <= 1 for v in opacity.values()):
            raise ValueError("An opacity is more than 0 and at most 1; hide what is not to be seen.")
        return opacity


class SceneSpec(BaseModel):
    """What decides a scene: the choices, and what the job says of parts and colours."""

    model_config = ConfigDict(frozen=True)

    choices: SceneChoices = SceneChoices()
    parts: dict[str, PartFacts] = {}
    colours: dict[str, str] = {}
