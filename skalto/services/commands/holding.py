"""The command line's use case that holds a finished file against the job that it was made from."""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import UTC, date, datetime
from pathlib import Path
from typing import Any

from skalto.core.errors import InputError
from skalto.core.formats import DocumentFormat, StrokeFormat, output_format
from skalto.core.job import JobDocument
from skalto.core.output.pdf.metadata import Metadata, Passwords
from skalto.core.progress import Progress
from skalto.core.recipes import PLAIN, Recipe
from skalto.core.sheets.sheet import SheetSpec
from skalto.services.commands.exporting import read_sources
from skalto.services.commands.memory import workshop
from skalto.services.commands.output_options import recipe_named
from skalto.services.output.plans import JobAtHand
from skalto.services.stored.jobfile import read_job_file

_CREATED = re.compile(rb"/CreationDate\s*\(D:(\d{4})(\d{2})(\d{2})")


def hold_against(path: str, job: str, sheet: str, recipe: str, dated: str, password: str, report: Progress) -> dict[str, Any]:
    """A finished PDF, DXF or SVG against the sheets of a job file: as the proof does when it is written.

    :param sheet: its name, '' for all of them. :param recipe: by name or file, '' for the sheets' own. :param dated: the day in
        its title block, ISO 8601, '' for the day that a PDF was made on, or today.
    :returns: the report as plain data and as JSON, whether it holds, and what was held against what, a sentence.
    :raises InputError: for a bad file, an unknown sheet, or a file that is not of so many sheets.
    """
    from skalto.services.results.writing import measured, measured_flat

    data = Path(path).read_bytes()
    file = read_job_file(Path(job))
    wanted = output_format(path)
    sheets = _sheets(file.document, sheet, Path(job).name)
    if isinstance(wanted, StrokeFormat) and len(sheets) > 1:
        raise InputError(f"A {wanted.name} file holds one sheet: name it by --sheet, of {_names(sheets)}.")
    if not isinstance(wanted, StrokeFormat | DocumentFormat):
        raise InputError("A picture cannot be held against a job: name a PDF, DXF or SVG file.")
    recipes = [_recipe(recipe or own.recipe, file.document) for own in sheets]
    at_hand = JobAtHand(file.document, file.number, on=_day(dated, data))
    with workshop(report) as bench:
        read_sources(bench, Path(job), file, sheets)
        plans = [at_hand.page(own, by, n) for n, (own, by) in enumerate(zip(sheets, recipes, strict=True), 1)]
        recipes = [plan.recipe or by for plan, by in zip(plans, recipes, strict=True)]
        made = [bench.composed(plan, by) for plan, by in zip(plans, recipes, strict=True)]
        pages = [page for page, _, _ in made]
        lines = {key: own for _, rows, _ in made for key, own in rows.items()}
        machines = [context.machine for _, _, context in made]
        if isinstance(wanted, StrokeFormat):
            found = measured_flat(data, pages[0], lines, wanted, recipes[0], machine=machines[0])
        else:
            twin = None
            if any(own.file == "archive" or not own.viewports for own in recipes):
                from skalto.core.output.pdf.document import written

                # what an archive is measured by is not in it
                twin = written(pages, Metadata(""), recipes[0]).twin
            found = measured(data, pages, machines, lines, recipes, twin, Passwords(open=password) if password else None)
    held = f"Held against {_names(sheets)} of {Path(job).name}: all that the proof looks at."
    return {"report": found.model_dump(mode="json"), "json": found.model_dump_json(), "holds": found.holds, "held": held}


def _names(sheets: Sequence[SheetSpec]) -> str:
    return ", ".join(f"“{own.name}”" for own in sheets)


def _sheets(document: JobDocument, name: str, job: str) -> list[SheetSpec]:
    there = [own for own in document.sheets if not own.is_empty]
    chosen = [own for own in there if not name or name.casefold() in (own.name.casefold(), own.id.casefold())]
    if not chosen:
        raise InputError(f"{job} has no sheet “{name}”; it has {_names(there) or 'none'}.")
    if name and len(chosen) > 1:
        raise InputError(f"{job} has {len(chosen)} sheets “{name}”: name one by its id, {', '.join(own.id for own in chosen)}.")
    onto = [own for own in chosen if own.onto is not None]
    if onto:
        raise InputError(f"{_names(onto)} lies on a finished page, whose file it is in: name another sheet by --sheet.")
    return chosen


def _recipe(name: str, document: JobDocument) -> Recipe:
    return recipe_named(name, document.recipes) if name else PLAIN


def _day(text: str, data: bytes) -> date:
    if text:
        try:
            return date.fromisoformat(text)
        except ValueError:
            raise InputError(f"“{text}” is no day: write it as 2026-12-02.") from None
    found = _CREATED.search(data)
    try:
        return date(*(int(own) for own in found.groups())) if found else datetime.now(UTC).date()
    except ValueError:
        return datetime.now(UTC).date()
