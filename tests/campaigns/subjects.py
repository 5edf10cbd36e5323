"""Finished files with all that they were made from, so that they can be altered and measured again: the sheets of the demo in
each format, by several recipes."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from skalto.core.checks.flat import check_flat
from skalto.core.checks.report import check_pdf
from skalto.core.checks.strokes import as_beziers, asked_of
from skalto.core.checks.verdict import Report
from skalto.core.formats import stroke_format
from skalto.core.job import JobDocument
from skalto.core.output.flat import flat_page
from skalto.core.output.pdf.document import written
from skalto.core.output.pdf.metadata import Metadata
from skalto.core.pages.composition import compose
from skalto.core.pages.page import Page, ViewLines
from skalto.core.recipes import SHIPPED_RECIPES, Recipe
from skalto.services.output.plans import JobAtHand
from skalto.services.results.lines import sheet_lines
from skalto.services.results.scenes import solids_of
from skalto.store.blobs import Blobs
from tests.conftest import Running

META = Metadata("Made to be altered", created=datetime(2026, 1, 1, tzinfo=UTC))


@dataclass(frozen=True)
class Subject:
    """A finished file, and what measures it again."""

    name: str
    suffix: str
    data: bytes
    check: Callable[[bytes], Report]


def quiet(share: float, what: str) -> None:
    """Progress that nobody looks at."""


def of_page(
    name: str, page: Page, lines: Mapping[str, ViewLines], recipe: Recipe, suffixes: Sequence[str]
) -> Iterator[Subject]:
    """A page in each of some formats."""
    for suffix in suffixes:
        if suffix == ".pdf":
            made = written([page], META, recipe)
            asked = [asked_of(page, lines, recipe, as_beziers)]

            def check(data: bytes, made=made, asked=asked) -> Report:  # type: ignore[no-untyped-def]
                return check_pdf(data, recipe, made.twin, asked=asked)

            yield Subject(f"{name}, {recipe.id}", suffix, made.data, check)
            continue
        wanted, flat = stroke_format(suffix[1:]), flat_page(page, recipe)

        def check_strokes(data: bytes, wanted=wanted, flat=flat) -> Report:  # type: ignore[no-untyped-def]
            return check_flat(data, wanted.read_back(), flat, page, lines, recipe)

        yield Subject(f"{name}, {recipe.id}", suffix, wanted.write(flat), check_strokes)


def demo(folder: Path) -> list[JobDocument]:
    """The demo's jobs, made in a folder where they are not there yet."""
    running = Running(folder, "--demo")
    try:
        before, since = "", time.monotonic()
        end = since + 600
        while time.monotonic() < end and time.monotonic() - since < 20:
            # whole when nothing has been added to it for a while
            now = running.client.get("/api/jobs").text
            before, since = now, since if now == before else time.monotonic()
            time.sleep(1)
        return [JobDocument.model_validate(job["document"]) for job in running.client.get("/api/jobs").json()]
    finally:
        running.interrupt()


def of_job(store: Blobs, document: JobDocument, suffixes: Sequence[str], recipes: Sequence[Recipe] = ()) -> Iterator[Subject]:
    """All sheets of a job, by their own recipes or by others."""
    job = JobAtHand(document, "0001")
    for sheet in document.sheets:
        own = next((own for own in SHIPPED_RECIPES if own.id == sheet.recipe), SHIPPED_RECIPES[0])
        for recipe in recipes or (own,):
            plan = job.page(sheet, recipe)
            lines = sheet_lines(store, plan.sheet, plan.context, quiet)
            built = plan.context.built(store, (view.source for view in plan.sheet.views))
            solids = solids_of(store, plan.sheet, plan.context) if plan.sheet.annotations_3d else {}
            page = compose(plan.sheet, lines, built, solids)
            yield from of_page(sheet.name, page, lines, plan.recipe or recipe, suffixes)
