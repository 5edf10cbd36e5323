"""A sheet as registers and tables of drawings list it."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict

from skalto.core.geometry import Point
from skalto.core.typed import Text


class ListedDrawing(BaseModel):
    """What a sheet says of itself: its *name*, the *mark* of the part that it was made for, and what its title block states.
    An *empty* one shows nothing."""

    model_config = ConfigDict(frozen=True)

    name: str
    mark: str
    number: str
    title: str
    revision: str
    format: str
    scale: str
    empty: bool = False


class DrawingsTable(BaseModel):
    """The drawings of a *pack* in its order, or with '' all others of the job: where the table's upper left corner lies (None:
    within the frame)."""

    model_config = ConfigDict(frozen=True)

    pack: Text = ""
    place: Point | None = None
