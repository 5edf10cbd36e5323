"""The command line's use cases: straight from a file to a result, run in a process of their own."""

from __future__ import annotations

import os
import sys
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import date
from fractions import Fraction
from pathlib import Path
from typing import Any

from skalto.core.artwork import EdgeClass
from skalto.core.checks.verdict import Report
from skalto.core.errors import InputError
from skalto.core.geometry import Box
from skalto.core.job import JobDocument
from skalto.core.packs import disagreements, file_names
from skalto.core.paper import FrameStyle, Orientation
from skalto.core.progress import Progress
from skalto.core.projection.methods import HiddenLines
from skalto.core.projection.view import ProjectionSpec, tolerance_for
from skalto.core.quantities import Scale
from skalto.core.recipes import OWN, PLAIN, against_joining, shared_recipe
from skalto.core.scene.choices import SceneSpec
from skalto.core.scene.field import FieldSpec
from skalto.core.scene.solid import Solid
from skalto.core.sheets.annotations import PartsList
from skalto.core.sheets.arranging import GAP, Layout, choose_format, refuse_unfit, room_for_views
from skalto.core.sheets.compose import compose
from skalto.core.sheets.content import ProjectionContent
from skalto.core.sheets.laying import family_cells, overall_sizes
from skalto.core.sheets.page import SheetContext, ViewLines
from skalto.core.sheets.referring import SourceFacts
from skalto.core.sheets.sheet import Arrangement, SheetSpec, ViewSpec
from skalto.core.sources.models.features import part_edges
from skalto.core.sources.models.model import Model, hidden_by_patterns
from skalto.core.sources.models.parts import items
from skalto.core.sources.reading import read_drawing, read_model
from skalto.core.viewpoint import Viewpoint, parse_viewpoint
from skalto.services.context import ContextSpec
from skalto.services.jobfile import JobFile, read_job_file
from skalto.services.lines import shade_spec
from skalto.services.options import ExportOptions, margins_of, title_of
from skalto.services.output_options import OutputOptions, recipe_named
from skalto.services.proofing import described, sheet_fields
from skalto.services.results.drawings import drawn_excerpt, facts_of_drawing
from skalto.services.results.lines import watched_model, with_shade
from skalto.services.results.scenes import solid_from
from skalto.services.writing import write_and_check, write_for, write_joined
from skalto.settings import environment_settings

DIMENSION_ROOM = 22.0
"""What overall sizes take below and at the left of views, mm."""
ONLY_PDF = "A 3D model goes into a PDF alone: name a file that ends in .pdf, or use skalto u3d."
_ASIDE = 0.45
"""The share of a sheet's width that a 3D field takes beside views."""
BALLOON_ROOM = 40.0
"""What balloons take between and about views, mm."""


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


def read_file(path: Path, report: Progress, name: str = "") -> Model:
    """A model file; *name* is what it is read under where the file is called otherwise."""
    return read_model(path, name or path.name, report, environment_settings().size_limit)


def tree_of(path: str, report: Progress) -> dict[str, Any]:
    """The component tree of a model file, as ``skalto tree --json`` prints it. :raises InputError: for a bad file."""
    with quiet():
        model = read_file(Path(path), report)
    return model.tree.report()


def check_file(path: str, recipe: str, password: str, report: Progress) -> dict[str, Any]:
    """Measure a finished PDF, and hold it against a recipe by its name or file, '' for none.

    :returns: the report as plain data and as JSON, and whether it holds. :raises InputError: for a bad file or recipe.
    """
    from skalto.core.checks.report import check_pdf
    from skalto.services.output_options import recipe_named

    found = check_pdf(Path(path).read_bytes(), recipe_named(recipe) if recipe else None, password=password)
    return {"report": found.model_dump(mode="json"), "json": found.model_dump_json(), "holds": found.holds}


def _classes(text: str) -> tuple[EdgeClass, ...]:
    words = [word.strip() for word in text.split("+")]
    known = {
        "visible": (EdgeClass.VISIBLE, EdgeClass.OUTLINE, EdgeClass.WIRE),
        "hidden": (EdgeClass.HIDDEN,),
        "smooth": (EdgeClass.SMOOTH,),
    }
    if not words or any(word not in known for word in words):
        raise InputError(f"“{text}” is not a choice of lines: write visible, or visible+hidden.")
    return tuple(c for word in words for c in known[word])


def _viewpoints(texts: Sequence[str]) -> list[Viewpoint]:
    """Viewpoints as typed: one an option, or several names between commas."""
    found = []
    for text in texts:
        # a direction has commas of its own
        parts = [text] if text.strip().lower().startswith("dir:") else text.split(",")
        found += [parse_viewpoint(part) for part in parts]
    return found


def _projected(
    model: Model, viewpoints: Sequence[Viewpoint], hidden: frozenset[str], scale: Fraction, way: HiddenLines
) -> list[ViewLines]:
    tolerance = tolerance_for(scale)
    specs = [ProjectionSpec(look=v.look, up=v.up, hidden=hidden, tolerance=tolerance, hidden_lines=way) for v in viewpoints]
    return [watched_model(model, spec) for spec in specs]


def _boxes(lines: Sequence[ViewLines], classes: Sequence[EdgeClass], names: Sequence[str]) -> list[Box]:
    boxes = []
    for own, name in zip(lines, names, strict=True):
        box = own.artwork.only(classes).bounds()
        if box is None:
            raise InputError(f"The {name} view shows no line: show more components or more edges.")
        boxes.append(box)
    return boxes


def _inset(box: Box, left: float, bottom: float, right: float, top: float) -> Box:
    return box[0] + left, box[1] + bottom, box[2] - right, box[3] - top


def export_file(path: str, out: str, options: dict[str, Any], report: Progress) -> dict[str, Any]:
    """Read a model, lay its views on one sheet, write the PDF, measure it; the report as plain data.

    :raises InputError: for a bad file or option, and when the views do not fit and *force* is off.
    """
    chosen = ExportOptions.model_validate(options)
    viewpoints, classes = _viewpoints(chosen.views), _classes(chosen.lines)
    title, margins = title_of(chosen.title), margins_of(chosen.margin)
    chosen.refuse_for_models()
    fixed = None if chosen.scale.strip().lower() == "largest" else Scale.parse(chosen.scale or "1:1")
    if chosen.arrangement not in ("", "first", "third"):
        raise InputError(f"“{chosen.arrangement}” is not an arrangement: write first or third.")
    if chosen.dims not in ("overall", "none"):
        raise InputError(f"“{chosen.dims}” is not a choice of dimensions: write overall or none.")
    arrangement = Arrangement(chosen.arrangement or "first")
    recipe = chosen.output.made()
    chosen.solid.asked()
    if chosen.solid.where and Path(out).suffix.lower() != ".pdf":
        raise InputError(ONLY_PDF)
    choose_format(chosen.paper or "A3", chosen.orientation, Layout.row([(0, 0, 1, 1)]), chosen.frame, fixed)
    with quiet():
        model = read_file(Path(path), report)
        if model.tree.kind == "mesh" and chosen.hidden_lines is HiddenLines.KERNEL:
            raise InputError("--hidden-lines kernel is for solids: a mesh has a way of its own, without the kernel.")
        hidden = hidden_by_patterns(model.tree, chosen.show, chosen.hide)
        lines = _projected(model, viewpoints, hidden, fixed or Fraction(1), chosen.hidden_lines)
        boxes = _boxes(lines, classes, [v.name for v in viewpoints])
        gap = GAP + DIMENSION_ROOM * (chosen.dims == "overall") + BALLOON_ROOM * chosen.parts_list
        cells, _parents = family_cells(viewpoints, arrangement) if chosen.arrangement else ([], [])
        layout = Layout.of(boxes, cells, gap) if cells else Layout.row(boxes, gap)
        # views and a model side by side want width
        lies = "landscape" if chosen.solid.where and chosen.orientation == "auto" else chosen.orientation
        paper = choose_format(chosen.paper or "A3", lies, layout, chosen.frame, fixed, margins)
        way = Orientation.LANDSCAPE if paper.width > paper.height else Orientation.PORTRAIT
        sheet = SheetSpec(
            id="0", name=title.get("title") or Path(path).stem, format=paper.name, orientation=way,
            frame=chosen.frame,
            margins=margins, arrangement=arrangement, title=title,
            parts_list=PartsList(view="0") if chosen.parts_list else None,
        )  # fmt: skip
        shown = list(model.shown(hidden))
        count = len(items(model.tree, {}, shown)) if chosen.parts_list else 0
        within = room_for_views(sheet, count)
        edge = DIMENSION_ROOM * (chosen.dims == "overall") + BALLOON_ROOM / 2 * chosen.parts_list
        within = _inset(within, edge, edge, edge * chosen.parts_list, edge * chosen.parts_list)
        fields: tuple[FieldSpec, ...] = ()
        if chosen.solid.where:
            # the model at the right, the views at its left
            aside = (within[2] - within[0]) * _ASIDE
            place, size = (within[2] - aside, within[1] + 2), (aside - 2, within[3] - within[1] - 4)
            choices = chosen.solid.choices(hidden)
            fields = (FieldSpec(id="3d", source="0", name=sheet.name[:60], place=place, size=size, choices=choices),)
            within = _inset(within, 0, 0, aside + GAP, 0)
        room = (within[2] - within[0], within[3] - within[1])
        scale = fixed or layout.largest_scale(room)
        if not chosen.force:
            where = f"the sheet {paper.name}" if chosen.frame is FrameStyle.NONE else f"the frame of the sheet {paper.name}"
            refuse_unfit(layout.size(scale), room, where)
        if tolerance_for(scale) < tolerance_for(fixed or Fraction(1)):
            lines = _projected(model, viewpoints, hidden, scale, chosen.hidden_lines)
        dimensions = overall_sizes(viewpoints) if chosen.dims == "overall" else [()] * len(viewpoints)
        views = tuple(
            ViewSpec(
                id=str(number), source="0", name=viewpoint.name,
                content=ProjectionContent(look=viewpoint.look, up=viewpoint.up, hidden=hidden),
                scale=scale, anchor=((box[0] + box[2]) / 2, (box[1] + box[3]) / 2), place=place,
                classes=classes, dimensions=dimensions[number],
                centres=chosen.frame is not FrameStyle.NONE or chosen.dims != "none",
            )
            for number, (viewpoint, box, place) in enumerate(zip(viewpoints, boxes, layout.places(scale, within), strict=True))
        )  # fmt: skip
        if chosen.frame is FrameStyle.NONE and chosen.dims == "none" and not chosen.parts_list:
            # nothing was asked for but the part
            sheet = sheet.model_copy(update={"clean": True})
        sheet = sheet.model_copy(update={"views": views, "fields": fields, "scale": scale})
        by_id = {view.id: own for view, own in zip(views, lines, strict=True)}
        facts = {"0": SourceFacts(model.tree, part_edges(model))}
        context = ContextSpec(job_name="", today=date.today()).with_facts(facts)
        metadata = described(recipe, JobDocument(name=sheet.name), "", sheet, sheet.name)
        solids = {f.id: solid_from(model, path, f, SceneSpec(choices=f.choices)) for f in fields}
        data, checked = write_for(out, [(sheet, context)], by_id, metadata, report, recipe, solids)
    write_file(out, data)
    known = {finding.message for finding in checked.findings}
    told = [
        f"{t.level}: {t.message}"
        for t in compose(sheet, by_id, context, solids).told
        if not any(t.message.rstrip(".") in message for message in known)
    ] + [f"warning: {sentence}" for sentence in model.tree.lost]
    return checked.model_dump(mode="json") | {
        "holds": checked.holds, "scale": str(scale), "format": paper.name, "told": told,
    }  # fmt: skip


def write_file(out: str, data: bytes) -> None:
    try:
        Path(out).write_bytes(data)
    except OSError as error:
        raise InputError(f"{out} cannot be written: {error.strerror or error}.") from None


@dataclass(frozen=True)
class _Loaded:
    """A job file with the facts of its sources, the lines of its views, and the models of its 3D fields."""

    file: JobFile
    facts: dict[str, SourceFacts]
    lines: dict[str, ViewLines]
    solids: dict[str, Solid]

    def page(self, sheet: SheetSpec) -> tuple[SheetSpec, SheetContext]:
        spec = ContextSpec.of(self.file.document, self.file.number, sheet.id, date.today())
        return sheet, spec.with_facts(self.facts)


def _loaded(path: Path, sheets: Sequence[SheetSpec], file: JobFile, report: Progress) -> _Loaded:
    """Read what some sheets need. :raises InputError: for a source that is missing or has changed."""
    job = file.document
    found = file.found(path)
    wanted = {view.source for sheet in sheets for view in sheet.views}
    wanted |= {field.source for sheet in sheets for field in sheet.fields}
    drawn = {s.id for s in job.sources if s.drawing} & wanted
    # a job file's sources may be called otherwise on disk: components are named after the file that they came in
    models = {
        source: read_file(file_, report, job.source(source).named)
        for source, file_ in found.items()
        if source in wanted - drawn
    }
    facts = {source: SourceFacts(model.tree, part_edges(model)) for source, model in models.items()}
    limit = environment_settings().size_limit
    drawings = {source: read_drawing(found[source], job.source(source).name, report, limit) for source in drawn}
    facts |= {source: facts_of_drawing(drawing.facts) for source, drawing in drawings.items()}
    lines: dict[str, ViewLines] = {}
    for sheet in sheets:
        for view in sheet.views:
            if view.excerpt is not None:
                lines[view.id] = drawn_excerpt(drawings[view.source], found[view.source], view.excerpt)
                continue
            spec = view.lines()
            assert isinstance(spec, ProjectionSpec)
            lines[view.id] = watched_model(models[view.source], spec)
            if view.shaded and not sheet.clean:
                from skalto.core.projection.shading import shade

                png, placed = shade(models[view.source], shade_spec(view, job.colours))
                lines[view.id] = with_shade(view, lines[view.id], png, placed.box)
    return _Loaded(file, facts, lines, _solids(sheets, models, job))


def _solids(sheets: Sequence[SheetSpec], models: dict[str, Model], job: JobDocument) -> dict[str, Solid]:
    """What goes into the sheets' 3D fields, by field. :raises InputError: when one has nothing left to show."""
    found = {}
    for field in (field for sheet in sheets for field in sheet.fields):
        spec = SceneSpec(choices=field.choices, parts=job.parts, colours=job.colours)
        found[field.id] = solid_from(models[field.source], field.source, field, spec)
    return found


def export_job(path: str, out: str, output: dict[str, Any], report: Progress) -> dict[str, Any]:
    """All sheets of a job file, in order, as one file, measured; the report as plain data.

    :raises InputError: for a bad job file or option, a source that is missing or has changed, and a job without a sheet.
    """
    file: JobFile = read_job_file(Path(path))
    job = file.document
    asked = OutputOptions.model_validate(output)
    sheets = [sheet for sheet in job.sheets if not sheet.is_empty]
    recipes = [
        asked.made(recipe_named(sheet.recipe, job.recipes) if sheet.recipe else PLAIN, job.recipes, job.pens)
        for sheet in sheets
    ]
    if not sheets:
        raise InputError(f"{Path(path).name} has no sheet with a view: put a view on one first.")
    with quiet():
        loaded = _loaded(Path(path), sheets, file, report)
        pages = [loaded.page(sheet) for sheet in sheets]
        recipe = shared_recipe(recipes)
        metadata = described(recipe, job, file.number, sheets[0], job.name, alone=len(sheets) == 1)
        if recipe is OWN and Path(out).suffix.lower() == ".pdf":
            for problem in against_joining([sheet.name for sheet in sheets], recipes):
                raise InputError(problem)
            data, checked = write_joined(pages, loaded.lines, metadata, report, recipes, loaded.solids)
        else:
            data, checked = write_for(out, pages, loaded.lines, metadata, report, recipe, loaded.solids)
    write_file(out, data)
    told = _told(loaded, pages, checked)
    return checked.model_dump(mode="json") | {"holds": checked.holds, "sheets": len(pages), "told": told}


def _told(loaded: _Loaded, pages: Sequence[tuple[SheetSpec, SheetContext]], checked: Report) -> list[str]:
    """What is known of sheets and their sources and is not among the findings of their file already."""
    known = {finding.message for finding in checked.findings}
    lines = []
    for sheet, context in pages:
        for told in compose(sheet, loaded.lines, context, loaded.solids).told:
            if not any(told.message.rstrip(".") in message for message in known):
                lines.append(f"{told.level}: {sheet.name}: {told.message}")
    codes = {check.code for check in checked.checks}
    as_it_is = "page-placed" in codes and "page-strokes" not in codes
    for source, facts in loaded.facts.items():
        name = loaded.file.document.source(source).name
        if facts.drawing is not None:
            lines += [f"info: {name}: {line}" for line in facts.drawing.notes(as_it_is and facts.drawing.kind == "pdf")]
    return lines


def send_pack(path: str, pack: str, out: str, output: dict[str, Any], report: Progress) -> dict[str, Any]:
    """The sheets of a pack of a job file: one PDF where *out* ends so, else the pack's files in that folder; what was written
    and measured as plain data.

    :raises InputError: for an unknown pack, one without sheets, empty sheets, and files of one name.
    """
    file = read_job_file(Path(path))
    job = file.document
    chosen = next((p for p in job.packs if pack.casefold() in (p.id.casefold(), p.name.casefold())), None)
    if chosen is None:
        known = ", ".join(p.name for p in job.packs) or "none: make one in the application"
        raise InputError(f"{Path(path).name} has no pack “{pack}”; it has {known}.")
    asked = OutputOptions.model_validate(output)
    sheets = [job.sheet(sheet) for sheet in chosen.sheets]
    recipes = [
        asked.made(recipe_named(name, job.recipes) if (name := chosen.recipe or sheet.recipe) else PLAIN, job.recipes, job.pens)
        for sheet in sheets
    ]
    if not sheets:
        raise InputError(f"{chosen.name} has no sheet: add one.")
    for sheet in sheets:
        if sheet.is_empty:
            raise InputError(f"{sheet.name} is empty: put a view or a 3D field on it, or leave it out.")
    single = out.lower().endswith(".pdf")
    fields = [
        sheet_fields(job, file.number, sheet, n, job.title | sheet.title, chosen.name, "") for n, sheet in enumerate(sheets, 1)
    ]
    files = file_names(chosen.model_copy(update={"files": "one"}) if single else chosen, fields, ".pdf")
    if any(len(named.sheets) > 1 for named in files):
        for problem in against_joining([sheet.name for sheet in sheets], recipes):
            raise InputError(problem)
    rows = []
    more: list[str] = []
    with quiet():
        loaded = _loaded(Path(path), sheets, file, report)
        for named in files:
            target = Path(out) if single else Path(out) / named.name
            first, alone = sheets[named.sheets[0]], len(named.sheets) == 1
            title = fields[named.sheets[0]]["title"] if alone else chosen.name
            own = [recipes[n] for n in named.sheets]
            recipe = shared_recipe(own)
            metadata = described(recipe, job, file.number, first, title, chosen.name, named.sheets[0] + 1, alone)
            pages = [loaded.page(sheets[n]) for n in named.sheets]
            if recipe is OWN:
                data, checked = write_joined(pages, loaded.lines, metadata, report, own, loaded.solids)
            else:
                made, checked = write_and_check(pages, loaded.lines, metadata, report, recipe, solids=loaded.solids)
                data = made.data
            if not single:
                Path(out).mkdir(parents=True, exist_ok=True)
            write_file(str(target), data)
            rows.append({"file": str(target), "holds": checked.holds, **checked.model_dump(mode="json")})
            more += _told(loaded, pages, checked)
    told = []
    for sheet, recipe in zip(sheets, recipes, strict=True):
        told.append(f"{sheet.name} is written by the recipe {recipe.name}.")
        told += [d.message for d in disagreements(sheet, recipe, job.pens_of(sheet).name)]
    told += [line.partition(": ")[2] for line in dict.fromkeys(more)]
    return {"pack": chosen.name, "files": rows, "holds": all(row["holds"] for row in rows), "told": told}
