"""A printer, and a page as it comes out of it, as records that every place can pass on."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from skalto.core.errors import InputError
from skalto.core.geometry import Box
from skalto.core.typed import Text

Habit = Literal["reduce", "full size"]


class Printer(BaseModel):
    """A sheet of paper, mm, the margins that stay white, left, bottom, right, top, mm, and what it does with a page: reduce it
    to what it can print, or print it at 100 %."""

    model_config = ConfigDict(frozen=True)

    name: Text = "Stand-in printer"
    width: float = Field(default=210, gt=10, le=5000)
    height: float = Field(default=297, gt=10, le=5000)
    margins: tuple[float, float, float, float] = (5, 5, 5, 5)
    habit: Habit = "reduce"

    def printable(self) -> Box:
        """What it can print, (x0, y0, x1, y1), mm on the paper. :raises InputError: when the margins leave nothing."""
        left, bottom, right, top = self.margins
        if min(self.margins) < 0 or left + right >= self.width or bottom + top >= self.height:
            raise InputError("These margins leave nothing of the paper: give it smaller ones.")
        return left, bottom, self.width - right, self.height - top

    def for_page(self, width: float, height: float) -> Printer:
        """The same with the paper turned to lie as the page does; its margins turn with it."""
        if (self.width > self.height) == (width > height) or self.width == self.height or width == height:
            return self
        left, bottom, right, top = self.margins
        turned = {"width": self.height, "height": self.width, "margins": (bottom, right, top, left)}
        return self.model_copy(update=turned)


class PrintedView(BaseModel):
    """A view as printed: the scale that it should have and has, model mm a paper mm, and what of it is cut off, mm a side."""

    model_config = ConfigDict(frozen=True)

    name: str
    ratio: str
    true_ratio: str
    cut: dict[str, float]


class Printed(BaseModel):
    """A page as it comes out: the *factor* that it was drawn at, measured; where it lies, mm on the paper; what of the page is
    cut off, mm of paper a side; the views; *lost* is what of the drawing is not printed."""

    model_config = ConfigDict(frozen=True)

    printer: Printer
    factor: float
    measured: float | None
    place: Box
    printable: Box
    cut: dict[str, float]
    views: tuple[PrintedView, ...]
    lost: dict[str, float]
