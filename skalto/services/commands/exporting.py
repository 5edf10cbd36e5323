"""The command line's use cases that write sheets: views of a model, a part of a drawing, all sheets of a job, a pack."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

from skalto.core.checks.verdict import Report
from skalto.core.errors import InputError
from skalto.core.job import JobDocument
from skalto.core.packs import disagreements
from skalto.core.progress import Progress
from skalto.core.recipes import PLAIN, Recipe, onto_finished_page
from skalto.core.sheets.sheet import SheetSpec
from skalto.core.sources.formats import is_drawing
from skalto.core.sources.section import SourceRef
from skalto.services.commands.files_out import FilesOut
from skalto.services.commands.memory import Workshop, notice_lines, workshop
from skalto.services.commands.onto_page import Onto
from skalto.services.commands.options import ExportOptions
from skalto.services.commands.output_options import OutputOptions, recipe_named
from skalto.services.output.plans import JobAtHand, Planned
from skalto.services.stored.jobfile import JobFile, read_job_file


def export_file(path: str, out: str, options: dict[str, Any], overwrite: bool, report: Progress) -> dict[str, Any]:
    """Views of a model, or a part of a drawing, on one sheet, written and measured; the report as plain data.

    :param overwrite: whether a file that is there may be replaced.

    :raises InputError: for a bad file or option, and when what is to be shown does not fit and *force* is off.
    """
    chosen = ExportOptions.model_validate(options)
    recipe = chosen.output.made()
    onto = Onto.read(chosen.onto, chosen.at) if chosen.onto else None
    if onto is not None:
        if not out.lower().endswith(".pdf"):
            raise InputError("With --onto a PDF is written: name a .pdf file.")
        chosen, recipe = onto.sheet(chosen, is_drawing(path)), onto_finished_page(recipe)
    elif chosen.at:
        raise InputError("--at is the area on another PDF's page: name that by --onto.")
    files = FilesOut(overwrite, [path, *([onto.path] if onto is not None else [])])
    files.check(out)
    if not chosen.views:
        chosen = chosen.model_copy(update={"views": ("front",)})
    file = Path(path)
    with workshop(report) as bench:
        if is_drawing(file.name):
            from skalto.services.commands.drawing_sheets import sheet_of_drawing

            source, sheet = sheet_of_drawing(bench, file, chosen)
        else:
            from skalto.services.commands.model_sheets import sheet_of_model

            source, sheet = sheet_of_model(bench, file, out, chosen)
        ref = SourceRef(id=source, name=file.name, size=file.stat().st_size, drawing=is_drawing(file.name))
        job = JobAtHand(JobDocument(name=sheet.name, sources=(ref,), sheets=(sheet,)), named=False)
        plan = job.whole([sheet], [recipe])
        data, checked = bench.write_as(out, plan)
        notices = notice_lines(bench, job, plan.pages, checked, named=False)
        if onto is not None:
            data, checked = onto.put(data, sheet, checked, chosen.force)
        files.add(out, data)
        notices += [f"info: {line}" for line in files.write()]
    scale = str(sheet.scale) if sheet.views else "3D"
    return _report(checked) | {"scale": scale, "format": sheet.paper().name, "notices": notices}


def _report(checked: Report) -> dict[str, Any]:
    return checked.model_dump(mode="json") | {"holds": checked.holds}


def read_sources(bench: Workshop, path: Path, file: JobFile, sheets: Sequence[SheetSpec]) -> None:
    """Read what some sheets need. :raises InputError: for a source that is missing or has changed."""
    found = file.found(path)
    wanted = {source for sheet in sheets for source in file.document.sources_of(sheet)}
    for source, place in found.items():
        if source in wanted:
            # they may be called otherwise on disk: components are named after the file that they came in
            bench.read(place, file.document.source(source).named, source)


def _recipe(job: JobDocument, asked: OutputOptions, name: str) -> Recipe:
    return asked.made(recipe_named(name, job.recipes) if name else PLAIN, job.recipes, job.pens)


def export_job(path: str, out: str, output: dict[str, Any], overwrite: bool, report: Progress) -> dict[str, Any]:
    """All sheets of a job file, in order, as one file, measured; the report as plain data.

    :param overwrite: whether a file that is there may be replaced.

    :raises InputError: for a bad job file or option, a source that is missing or has changed, and a job without a sheet.
    """
    file = read_job_file(Path(path))
    job, asked = file.document, OutputOptions.model_validate(output)
    sheets = [sheet for sheet in job.sheets if not sheet.is_empty]
    recipes = [_recipe(job, asked, sheet.recipe) for sheet in sheets]
    if not sheets:
        raise InputError(f"{Path(path).name} has no sheet with a view: put a view on one first.")
    at_hand = JobAtHand(job, file.number)
    plan = at_hand.whole(sheets, recipes)
    files = FilesOut(overwrite, [path, *file.found(Path(path)).values()])
    files.check(out)
    with workshop(report) as bench:
        read_sources(bench, Path(path), file, sheets)
        data, checked = bench.write_as(out, plan)
        files.add(out, data)
        notices = notice_lines(bench, at_hand, plan.pages, checked, named=True)
        notices += [f"info: {line}" for line in files.write()]
    return _report(checked) | {"sheets": len(plan.pages), "notices": notices}


def send_pack(path: str, pack: str, out: str, output: dict[str, Any], overwrite: bool, report: Progress) -> dict[str, Any]:
    """The sheets of a pack of a job file: one PDF where *out* ends so, else the pack's files in that folder; what was written
    and measured as plain data.

    :param overwrite: whether files that are there may be replaced.

    :raises InputError: for an unknown pack, one without sheets, empty sheets, and files of one name.
    """
    file = read_job_file(Path(path))
    job, asked = file.document, OutputOptions.model_validate(output)
    chosen = next((p for p in job.packs if pack.casefold() in (p.id.casefold(), p.name.casefold())), None)
    if chosen is None:
        known = ", ".join(p.name for p in job.packs) or "none: make one in the application"
        raise InputError(f"{Path(path).name} has no pack “{pack}”; it has {known}.")
    single = out.lower().endswith(".pdf")
    if single:
        chosen = chosen.model_copy(update={"files": "one", "formats": ("PDF",)})
    at_hand = JobAtHand(job, file.number)
    sheets = at_hand.sheets_of(chosen)
    recipes = [_recipe(job, asked, chosen.recipe or sheet.recipe) for sheet in sheets]
    sent = Planned(pack=chosen.name)
    _, problems = at_hand.against(chosen, recipes, sent)
    if problems:
        raise InputError(problems[0])
    plan = at_hand.pack(chosen, recipes, sent)
    files = FilesOut(overwrite, [path, *file.found(Path(path)).values()])
    targets = [Path(out) if single else Path(out) / planned.name for planned in plan.files]
    for target in targets:
        files.check(target)
    rows: list[dict[str, Any]] = []
    more: list[str] = []
    with workshop(report) as bench:
        read_sources(bench, Path(path), file, sheets)
        for target, planned, (data, checked) in zip(targets, plan.files, bench.write(plan), strict=True):
            files.add(target, data)
            rows.append({"file": str(target), **_report(checked)})
            more += notice_lines(bench, at_hand, [plan.pages[n] for n in planned.pages], checked, named=True)
    if not single:
        Path(out).mkdir(parents=True, exist_ok=True)
    notices = files.write()
    for sheet, recipe in zip(sheets, recipes, strict=True):
        notices.append(f"{sheet.name} is written by the recipe {recipe.name}.")
        notices += [d.message for d in disagreements(sheet, recipe, job.pens_of(sheet).name)]
    notices += [line.partition(": ")[2] for line in dict.fromkeys(more)]
    return {"pack": chosen.name, "files": rows, "holds": all(row["holds"] for row in rows), "notices": notices}
