"""A job as written down: all that a person has decided. Frozen; edits give a new one."""

from __future__ import annotations

from typing import Any

from pydantic import Field, model_validator

from skalto import __version__
from skalto.core.annotation.title_block import TitleSection
from skalto.core.cutting.section import CuttingSection
from skalto.core.packs import PackSection
from skalto.core.pens.section import PenSection
from skalto.core.recipes import RecipeSection
from skalto.core.release.section import RegisterSection
from skalto.core.sheets.sheet import SheetSection, SheetSpec
from skalto.core.sources.models.parts import PartSection
from skalto.core.sources.section import SourceSection
from skalto.core.typed import Line
from skalto.core.viewpoints import ViewpointSection

FORM = 3
"""The form of the document as this release writes it: one more with every field that is added, taken away or renamed. Form 1
had no number."""


class JobDocument(
    RecipeSection,
    PackSection,
    PenSection,
    PartSection,
    TitleSection,
    ViewpointSection,
    CuttingSection,
    RegisterSection,
    SheetSection,
    SourceSection,
):
    """All that a person has decided in a job: the sections of all features, and its name."""

    form: int = Field(default=FORM, ge=1)
    name: Line = Field(min_length=1, max_length=120)

    @model_validator(mode="before")
    @classmethod
    def _of_a_known_form(cls, data: Any) -> Any:
        """What a newer release wrote may hold what this one does not know, and would lose at the next change."""
        if not isinstance(data, dict):
            return data
        form = data.get("form", 1)
        if isinstance(form, int) and form > FORM:
            raise ValueError(
                f"“{str(data.get('name', ''))[:60]}” was written by a newer release, in form {form}; this release "
                f"({__version__}) reads up to form {FORM}: open it with the newer one."
            )
        return {**data, "form": FORM}

    def sources_of(self, sheet: SheetSpec) -> frozenset[str]:
        """All that a sheet is made from, by source."""
        found = sheet.shown_sources
        if sheet.cutting is not None:
            found |= sheet.cutting.sources | self.cut_list(sheet.cutting.cut_list).sources
        if sheet.plates_table is not None:
            found |= self.cut_list(sheet.plates_table.cut_list).sources
        return found


def users_of(job: JobDocument, viewpoint: str) -> list[str]:
    """The sheets on which a saved viewpoint is used."""
    return [sheet.name for sheet in job.sheets if any(view.viewpoint == viewpoint for view in sheet.views)]
