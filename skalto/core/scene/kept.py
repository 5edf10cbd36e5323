"""What a review keeps of a model under a name: cameras, sections, readings and marks, in the axes of the 3D annotation, mm."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator

from skalto.core.ids import ShortId
from skalto.core.scene.views import Camera, Cuts, finite
from skalto.core.typed import Line, Text, Words
from skalto.core.viewpoint import Vector

MOST = 400
"""How much a 3D annotation keeps."""

Measure = Literal["points", "edge", "diameter", "angle", "faces", "area", "volume", "mass", "gap"]


class _Named(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")

    id: ShortId
    name: str = Field(min_length=1, max_length=60)

    @field_validator("name")
    @classmethod
    def _name(cls, name: str) -> str:
        if not name.strip():
            raise ValueError("What is kept needs a name.")
        return name.strip()


class KeptCamera(_Named):
    """From where the model was looked at."""

    kind: Literal["camera"]
    camera: Camera


class KeptSection(_Named):
    """Where the model was cut."""

    kind: Literal["section"]
    cuts: Cuts = Field(min_length=1)


class KeptReading(_Named):
    """What was measured: *value* in mm, mm², mm³ or g, or degrees, between two places, of the nodes *parts*; *coarse* where a
    curved surface, known by its triangles alone, has a part in it."""

    kind: Literal["reading"]
    measure: Measure
    what: Line = Field(max_length=200)
    value: float = Field(allow_inf_nan=False)
    start: Vector
    end: Vector
    coarse: bool = False
    parts: tuple[Text, ...] = Field(default=(), max_length=4)

    @field_validator("start", "end")
    @classmethod
    def _numbers(cls, at: Vector) -> Vector:
        return finite(at)


class KeptMark(_Named):
    """Words at a place of the model, of a node *part* where it lies on one."""

    kind: Literal["mark"]
    at: Vector
    text: Words = Field(default="", max_length=500)
    part: Line = Field(default="", max_length=300)

    @field_validator("at")
    @classmethod
    def _numbers(cls, at: Vector) -> Vector:
        return finite(at)


Kept = Annotated[KeptCamera | KeptSection | KeptReading | KeptMark, Field(discriminator="kind")]
