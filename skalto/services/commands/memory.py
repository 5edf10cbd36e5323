"""A job that is nowhere kept: built from files, written by the same work as the browser's, in a store in memory."""

from __future__ import annotations

import os
import sys
import tempfile
import uuid
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

from skalto.core.checks.verdict import Report
from skalto.core.errors import InputError
from skalto.core.formats import FORMATS, DocumentFormat, PixelFormat, StrokeFormat, output_format
from skalto.core.output.pdf.metadata import Passwords
from skalto.core.progress import Progress
from skalto.core.sources.formats import is_drawing
from skalto.core.sources.said_unit import unit_said, with_unit
from skalto.services.output.plans import JobAtHand
from skalto.services.output.sending import FilePlan, PagePlan, SendingPlan
from skalto.services.stored import keys
from skalto.services.stored.context import load_facts
from skalto.services.tasks.writing import WriteArtwork, join_sheets, write_artwork, write_sheet
from skalto.settings import environment_settings
from skalto.store.blobs import Blobs, content_hash

if TYPE_CHECKING:
    from skalto.core.annotation.edge_references import SourceFacts
    from skalto.core.pages.page import Notice, Page, SheetContext, ViewLines
    from skalto.core.recipes import Recipe


@contextmanager
def quiet() -> Iterator[None]:
    """Keep what libraries print by themselves off standard output."""
    sys.stdout.flush()
    kept, nowhere = os.dup(1), os.open(os.devnull, os.O_WRONLY)
    os.dup2(nowhere, 1)
    try:
        yield
    finally:
        os.dup2(kept, 1)
        os.close(kept)
        os.close(nowhere)


class Workshop:
    """A store in memory, and the work that is done with it, in this process and at once."""

    def __init__(self, report: Progress) -> None:
        self.url = f"memory://skalto-{uuid.uuid4().hex}"
        self.blobs = Blobs(self.url)
        self.report = report

    def close(self) -> None:
        """Forget everything."""
        self.blobs.clear()

    def read(self, path: Path, name: str = "", source: str = "", units: str = "") -> str:
        """Read a model or a drawing, under *name* where it is called otherwise on disk: the id of the source.

        :param units: what a millimetre of a model's file is in truth, '' for a millimetre.
        :raises InputError: for a file that cannot be used.
        """
        from skalto.core.sources.reading import read_drawing, read_model
        from skalto.services.results.drawings import keep_drawing
        from skalto.services.results.models import keep_model

        limit, name = environment_settings().size_limit, name or path.name
        if is_drawing(name):
            drawing = read_drawing(path, name, self.report, limit)
            source = source or content_hash(path.read_bytes())
            self.blobs.put_file(keys.file_key(source), path)
            keep_drawing(self.blobs, source, drawing)
            return source
        if units:
            with tempfile.NamedTemporaryFile() as file:
                file.write(with_unit(path.read_bytes(), unit_said(units)))
                file.flush()
                return self.read(Path(file.name), name, source)
        model = read_model(path, name, self.report, limit)
        source = source or content_hash(path.read_bytes())
        keep_model(self.blobs, source, model, name, at_hand=True)
        return source

    def facts(self, source: str) -> SourceFacts:
        return load_facts(self.blobs, source)

    def write(self, plan: SendingPlan) -> list[tuple[bytes, Report]]:
        """The files of a plan, each with its report. :raises InputError: when something cannot be written."""
        written = [self._page(plan, page) for page in plan.pages]
        return [self._file(plan, file, written) for file in plan.files]

    def _page(self, plan: SendingPlan, page: PagePlan) -> str:
        asked = page.asked(plan.recipe, plan.created)
        if not self.blobs.exists(f"{asked.key}.json"):
            write_sheet.do(asked, self.url, self.report)
        return asked.key

    def _file(self, plan: SendingPlan, file: FilePlan, written: Sequence[str]) -> tuple[bytes, Report]:
        if file.strokes is not None:
            asked = plan.drawing(file)
            write_artwork.do(asked, self.url, self.report)
            return self.blobs.get(f"{asked.key}{file.suffix}"), self._report(asked.key)
        parts = [written[n] for n in file.pages]
        key = parts[0]
        if len(parts) > 1:
            key = keys.joined_key(parts, plan.title, plan.recipe_of(file))
            join_sheets.do(plan.joining(file, parts, key, Passwords()), self.url, self.report)
        return self.blobs.get(f"{key}.pdf"), self._report(key)

    def _report(self, key: str) -> Report:
        return Report.model_validate_json(self.blobs.get(f"{key}.json"))

    def write_as(self, out: str, plan: SendingPlan) -> tuple[bytes, Report]:
        """A plan of one file, in the format that a file's name asks for by its ending; a picture is drawn from the PDF that is
        measured, at the recipe's resolution.

        :raises InputError: for several sheets in a file that holds one.
        """
        wanted = output_format(out)
        if len(plan.pages) != 1 and not wanted.many_sheets:
            what = f"A {wanted.name} file holds one sheet, and these are {len(plan.pages)}"
            raise InputError(f"{what}: write a {' or '.join(known.name for known in FORMATS if known.many_sheets)} file.")
        if isinstance(wanted, StrokeFormat):
            page = plan.pages[0]
            asked = WriteArtwork(
                sheet=page.sheet, context=page.context, recipe=page.recipe or plan.recipe, format=wanted.name
            )  # fmt: skip
            write_artwork.do(asked, self.url, self.report)
            return self.blobs.get(f"{asked.key}{wanted.suffix}"), self._report(asked.key)
        data, checked = self.write(plan)[0]
        match wanted:
            case DocumentFormat():
                return data, checked
            case PixelFormat():
                from skalto.core.output.pixels import PictureRequest, draw_pages

                recipe = plan.recipe_of(plan.files[0])
                wish = PictureRequest(kind=wanted.kind, dpi=recipe.dpi, colour=recipe.colour, quality=recipe.quality)
                return draw_pages(data, wish)[0], checked

    def composed(self, page: PagePlan, recipe: Recipe | None = None) -> tuple[Page, dict[str, ViewLines], SheetContext]:
        """A page as it is to be, by a recipe where one is given; the lines of its views; and what else it was made from."""
        from dataclasses import replace

        from skalto.core.pages.composition import compose
        from skalto.core.paper import parse_format
        from skalto.services.results.lines import sheet_lines
        from skalto.services.results.scenes import solids_of
        from skalto.services.tasks.writing import make_profiles

        lines = sheet_lines(self.blobs, page.sheet, page.context, self.report)
        make_profiles(self.blobs, page.context, self.report)
        built = page.context.built(self.blobs, (view.source for view in page.sheet.views))
        if recipe is not None and recipe.reduced_to:
            built = replace(built, reduced_to=parse_format(recipe.reduced_to))
        solids = solids_of(self.blobs, page.sheet, page.context) if page.sheet.annotations_3d else {}
        return compose(page.sheet, lines, built, solids), lines, built

    def notices(self, page: PagePlan) -> tuple[Notice, ...]:
        """What is known of a page beside its file."""
        return self.composed(page)[0].notices


@contextmanager
def workshop(report: Progress) -> Iterator[Workshop]:
    """A store in memory for as long as it is needed; what libraries print stays off standard output."""
    made = Workshop(report)
    with quiet():
        try:
            yield made
        finally:
            made.close()


def notice_lines(bench: Workshop, job: JobAtHand, pages: Sequence[PagePlan], checked: Report, named: bool) -> list[str]:
    """What is known of pages and their sources and is not among the findings of their file already: a line each, *named* after
    the sheet or the source where there may be several."""
    known = {finding.message for finding in checked.findings}
    lines = []
    for page in pages:
        whose = f"{page.sheet.name}: " if named else ""
        for notice in bench.notices(page):
            if not any(notice.message.rstrip(".") in message for message in known):
                lines.append(f"{notice.level}: {whose}{notice.message}")
    codes = {check.code for check in checked.checks}
    as_it_is = "page-placed" in codes and "page-strokes" not in codes
    for source in dict.fromkeys(view.source for page in pages for view in page.sheet.views):
        facts = bench.facts(source)
        whose = f"{job.document.source(source).name}: " if named else ""
        if facts.drawing is not None:
            lines += [f"info: {whose}{line}" for line in facts.drawing.notes(as_it_is and facts.drawing.kind == "pdf")]
        elif not named:
            lines += [f"warning: {sentence}" for sentence in facts.tree.lost]
    return lines
