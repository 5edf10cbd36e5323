"""Tasks that write files and measure them."""

from __future__ import annotations

import orjson

from skalto.core.formats import stroke_format
from skalto.core.output.pdf.metadata import Metadata, Passwords
from skalto.core.progress import Progress
from skalto.core.recipes import Recipe
from skalto.core.sheets.sheet import SheetSpec
from skalto.jobs.task import TaskArgument, task
from skalto.services.stored import keys
from skalto.services.stored.context import ContextSpec
from skalto.store.blobs import Blobs


class WriteSheet(TaskArgument):
    """A sheet, what shows on it beside it, the recipe, and the words that describe the file."""

    sheet: SheetSpec
    context: ContextSpec
    recipe: Recipe
    metadata: Metadata

    @property
    def key(self) -> str:
        of = self.metadata
        words = f"{of.title}\0{of.author}\0{of.subject}\0{of.keywords}"
        return keys.proof_key(self.sheet, words, self.context, self.recipe)


class WriteArtwork(TaskArgument):
    """A sheet, or one view of it where one is named, in a format of strokes by its name."""

    sheet: SheetSpec
    context: ContextSpec
    recipe: Recipe
    format: str
    view: str = ""

    @property
    def key(self) -> str:
        return keys.artwork_key(self.sheet, self.view, self.format.lower(), self.context, self.recipe)


class JoinSheets(TaskArgument):
    """Finished sheets in order, each by its key and name, the recipe and the words of the file, what locks it, and the key that
    it is kept under."""

    parts: tuple[tuple[str, str], ...]
    recipe: Recipe
    metadata: Metadata
    passwords: Passwords
    under: str

    @property
    def key(self) -> str:
        return self.under


def make_profiles(store: Blobs, context: ContextSpec, report: Progress) -> None:
    """Make what a cutting sheet's parts and decorations are, where they are not there."""
    lists = [own.cut_list for own in (context, context.plates) if own is not None and own.cut_list is not None]
    if lists:
        from skalto.services.results.profiles import make_excerpts, make_profiles

        report(0.76, "Making the profiles")
        make_profiles(store, (part for own in lists for part in own.parts))
        make_excerpts(store, context.all_decorations)


@task(WriteSheet, "writing")
def write_sheet(asked: WriteSheet, blobs: str, report: Progress) -> None:
    """A sheet as a finished PDF; beside it the check's report, the glyphs that it uses, and its twin where it has one."""
    from skalto.services.results.lines import sheet_lines
    from skalto.services.results.writing import keep_written, onto_finished, page_alone, write_and_check

    store = Blobs(blobs)
    lines = sheet_lines(store, asked.sheet, asked.context, report)
    make_profiles(store, asked.context, report)
    report(0.78, "Writing the file")
    built = asked.context.built(store, (view.source for view in asked.sheet.views))
    solids = {}
    if asked.sheet.annotations_3d:
        from skalto.services.results.scenes import solids_of

        report(0.8, "Making the 3D model")
        solids = solids_of(store, asked.sheet, asked.context)
    made, checked = write_and_check([(asked.sheet, built)], lines, asked.metadata, report, asked.recipe, solids=solids)
    if asked.sheet.onto is not None:
        report(0.95, "Adding it to the finished page")
        made, checked = onto_finished(store, asked.sheet, made, checked)
        store.put(f"{asked.key}.page.pdf", page_alone(made.data, asked.sheet.onto.page))
    keep_written(store, asked.key, made, checked)


@task(WriteArtwork, "writing")
def write_artwork(asked: WriteArtwork, blobs: str, report: Progress) -> None:
    """A sheet, or one view of it, in a format of strokes, the check's report beside it."""
    from skalto.services.results.lines import sheet_lines
    from skalto.services.results.writing import write_one

    store, wanted = Blobs(blobs), stroke_format(asked.format)
    lines = sheet_lines(store, asked.sheet, asked.context, report)
    make_profiles(store, asked.context, report)
    report(0.78, "Writing the file")
    built = asked.context.built(store, (view.source for view in asked.sheet.views))
    data, checked = write_one(asked.sheet, built, lines, wanted, asked.view or None, asked.recipe)
    store.put(f"{asked.key}{wanted.suffix}", data)
    store.put(f"{asked.key}.json", checked.model_dump_json().encode())


@task(JoinSheets, "writing")
def join_sheets(asked: JoinSheets, blobs: str, report: Progress) -> None:
    """Finished sheets, in order, as one PDF, the check's report beside it."""
    from skalto.core.checks.joined import Measured, check_joined
    from skalto.core.checks.verdict import Report
    from skalto.core.output.pdf.joining import Part, join

    store = Blobs(blobs)

    def part(key: str, name: str) -> Part:
        glyphs = {
            int(face): {int(glyph): text for glyph, text in used.items()}
            for face, used in orjson.loads(store.get(f"{key}.glyphs")).items()
        }
        try:
            data = store.get(f"{key}.twin")
        except KeyError:
            data = store.get(f"{key}.pdf")
        return Part(data, glyphs, name)

    report(0.1, "Joining the sheets")
    made = join([part(key, name) for key, name in asked.parts], asked.metadata, asked.recipe, asked.passwords)
    report(0.5, "Measuring the file")
    measured = [
        Measured(store.get(f"{key}.pdf"), Report.model_validate_json(store.get(f"{key}.json"))) for key, _ in asked.parts
    ]
    checked = check_joined(made.data, measured, asked.recipe, asked.passwords.open)
    store.put(f"{asked.key}.pdf", made.data)
    store.put(f"{asked.key}.json", checked.model_dump_json().encode())
