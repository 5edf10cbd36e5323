"""The sheets of a job as registers and tables list them."""

from __future__ import annotations

from collections.abc import Sequence

from skalto.core.annotation.title_block import TitleContext, field_values
from skalto.core.job import JobDocument
from skalto.core.sheets.listed import ListedDrawing
from skalto.core.sheets.sheet import SheetSpec
from skalto.core.sources.models.parts import PartFacts


def listed(document: JobDocument, number: str, place: int) -> ListedDrawing:
    """The sheet at a *place* of a job, from 0. *number* is the job's."""
    sheet = document.sheets[place]
    said = field_values(sheet, TitleContext(document.title, document.name, number, place + 1, len(document.sheets)))
    part = document.parts.get(sheet.made_for.part, PartFacts()) if sheet.made_for else PartFacts()
    return ListedDrawing(
        name=sheet.name, mark=part.mark, number=said["number"], title=said["title"], revision=said["revision"],
        format=sheet.format, scale=said["scale"], empty=sheet.is_empty,
    )  # fmt: skip


def tabled(document: JobDocument, number: str, sheet: SheetSpec) -> tuple[ListedDrawing, ...]:
    """The rows of the table of drawings that a sheet carries: the sheets of its pack, in order, or all but itself."""
    table = sheet.drawings_table
    if table is None:
        return ()
    places = {own.id: place for place, own in enumerate(document.sheets)}
    chosen: Sequence[str] = document.pack(table.pack).sheets if table.pack else [*places]
    return tuple(listed(document, number, places[own]) for own in chosen if own in places and own != sheet.id)
