"""The pens of a job."""

from __future__ import annotations

from typing import Protocol

from skalto.core.job_section import JobSection
from skalto.core.pens.sets import PenSet
from skalto.core.pens.shipped import DEFAULT, SHIPPED


class _Drawn(Protocol):
    @property
    def pens(self) -> str: ...


class PenSection(JobSection):
    """Pen sets that were made for the job."""

    pens: tuple[PenSet, ...] = ()

    def pens_of(self, sheet: _Drawn) -> PenSet:
        """The pens that draw a sheet: a set of the job's, or one that ships."""
        return next((pens for pens in (*self.pens, *SHIPPED) if pens.id == sheet.pens), DEFAULT)
