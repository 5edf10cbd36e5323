"""What a check tells of a file: readings, findings and verdicts, as records that every place can pass on."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, field_validator

from skalto.core.recipes import PRINTABLE_WIDTH

Verdict = Literal["holds", "mend", "fails", "told"]
"""What became of a check: it passes, warns or fails; *told* is what was read and is held against nothing."""
Place = tuple[float, float, float, float]
OF_DRAWINGS = ("open", "widths", "no-known-scale")
"""What is asked of drawings for a cutter and not of plates: marks are open and of widths of their own, and pieces tell the
scale."""


class Check(BaseModel):
    """One thing that was looked at in the file: what was read, what it is held against, and where on the page, mm."""

    model_config = ConfigDict(frozen=True)

    code: str
    title: str
    verdict: Verdict
    reading: str
    limit: str = ""
    page: int | None = None
    place: Place | None = None


class Reading(BaseModel):
    """One length of a view: *expected* and *measured* on paper, mm, and what it is of the model, mm."""

    model_config = ConfigDict(frozen=True)

    kind: str
    model_mm: float
    expected_mm: float
    measured_mm: float | None
    deviation_um: float | None
    holds: bool
    place: tuple[float, float, float, float] | None = None


class ViewCheck(BaseModel):
    """A view: the reading that is furthest off stands first; *viewport_scale* is what a reader's ruler would use."""

    model_config = ConfigDict(frozen=True)

    name: str
    scale: str
    expected_mm: float | None
    measured_mm: float | None
    deviation_um: float | None
    viewport_scale: float | None
    readings: tuple[Reading, ...] = ()


class PageCheck(BaseModel):
    model_config = ConfigDict(frozen=True)

    width_mm: float
    height_mm: float
    min_line_width_mm: float | None
    max_line_width_mm: float | None
    views: tuple[ViewCheck, ...]
    least_width_mm: float = PRINTABLE_WIDTH
    thinnest_place: tuple[float, float, float, float] | None = None


class Finding(BaseModel):
    model_config = ConfigDict(frozen=True)

    level: Literal["error", "warning", "info"]
    code: str
    message: str
    page: int | None = None
    place: tuple[float, float, float, float] | None = None


class Report(BaseModel):
    """All readings of a file; *checks* are the same in one list, with what a recipe asks for."""

    model_config = ConfigDict(frozen=True)

    pages: tuple[PageCheck, ...]
    findings: tuple[Finding, ...]
    checks: tuple[Check, ...] = ()

    @field_validator("checks", "findings")
    @classmethod
    def _once(cls, rows: tuple[Any, ...]) -> tuple[Any, ...]:
        """What two readers of a file say alike counts once."""
        return tuple(dict.fromkeys(rows))

    @property
    def holds(self) -> bool:
        """Whether nothing is in error."""
        return not any(f.level == "error" for f in self.findings)
