"""A page of a finished PDF that a sheet goes onto: the sheet's file is that file, with what the sheet shows added to it."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict, Field

from skalto.core.ids import ShortId


class FinishedPage(BaseModel):
    """Which page, from 1, of which source; how many *signatures* the file has, which what is added comes after."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    source: ShortId
    page: int = Field(ge=1)
    signatures: int = Field(default=0, ge=0)
