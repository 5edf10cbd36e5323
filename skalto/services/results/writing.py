"""Composed sheets to files of any kind, measured: PDF of many, DXF and SVG of one sheet or one view."""

from __future__ import annotations

import io
from collections.abc import Mapping, Sequence
from dataclasses import replace

import orjson
import pikepdf

from skalto.core.checks.beside import with_checks, with_page_checks
from skalto.core.checks.cut_pieces import cut_checks, of_plates, sheet_cut_checks
from skalto.core.checks.onto import onto_checks
from skalto.core.checks.report import check_pdf
from skalto.core.checks.strokes import as_beziers, asked_of, redrawn_checks
from skalto.core.checks.verdict import Check, Report
from skalto.core.cutter.machine import Machine
from skalto.core.formats import StrokeFormat
from skalto.core.output.flat import flat_page, flat_view
from skalto.core.output.pdf.document import Written, written
from skalto.core.output.pdf.metadata import Metadata, Passwords
from skalto.core.output.pdf.onto import put_onto
from skalto.core.pages.composition import compose
from skalto.core.pages.page import Page, SheetContext, ViewLines
from skalto.core.paper import parse_format
from skalto.core.progress import Progress
from skalto.core.recipes import PLAIN, Recipe, shared_recipe
from skalto.core.scene.solid import Solid
from skalto.core.sheets.sheet import SheetSpec
from skalto.services.stored import keys
from skalto.store.blobs import Blobs


def write_and_check(
    sheets: Sequence[tuple[SheetSpec, SheetContext]],
    lines: Mapping[str, ViewLines],
    metadata: Metadata,
    report: Progress,
    recipe: Recipe = PLAIN,
    passwords: Passwords | None = None,
    solids: Mapping[str, Solid] = {},
) -> tuple[Written, Report]:
    """Compose, write as PDF by a recipe, and measure what was written; what the sheets lack is among the checks."""
    small = parse_format(recipe.reduced_to) if recipe.reduced_to else None
    pages = [compose(sheet, lines, replace(context, reduced_to=small), solids) for sheet, context in sheets]
    made = written(pages, metadata, recipe, passwords)
    report(0.9, "Measuring the file")
    machines = [context.machine for _, context in sheets]
    return made, measured(made.data, pages, machines, lines, [recipe] * len(pages), made.twin, passwords)


def measured(
    data: bytes,
    pages: Sequence[Page],
    machines: Sequence[Machine],
    lines: Mapping[str, ViewLines],
    recipes: Sequence[Recipe],
    twin: bytes | None = None,
    passwords: Passwords | None = None,
) -> Report:
    """A finished PDF against the pages that it is to show, each by its recipe, with what these lack; *machines* are the cutters
    that they are for.

    :param twin: as :func:`skalto.core.checks.report.check_pdf` has it.
    """
    recipe = shared_recipe(recipes)
    asked = [asked_of(page, lines, own, as_beziers) for page, own in zip(pages, recipes, strict=True)]
    checked = check_pdf(data, recipe, twin, passwords.open if passwords else "", asked)
    plain = (passwords and twin) or data
    checked = with_checks(of_plates(checked, pages), cut_checks(plain, ".pdf", pages))
    if recipe.file == "cutter":
        checked = with_checks(checked, sheet_cut_checks(plain, ".pdf", pages, machines))
    return with_page_checks(checked, pages, lines, recipe)


def write_flat(
    page: Page,
    lines: Mapping[str, ViewLines],
    wanted: StrokeFormat,
    recipe: Recipe,
    view: str | None = None,
    machine: Machine = Machine(),
) -> tuple[bytes, Report]:
    """A page, or one view of it, in a format of strokes, and what was measured in it; *machine* is the cutter it is for."""
    flat = flat_page(page, recipe) if view is None else flat_view(page, view, recipe)
    data = wanted.write(flat)
    return data, measured_flat(data, page, lines, wanted, recipe, view, machine)


def measured_flat(
    data: bytes,
    page: Page,
    lines: Mapping[str, ViewLines],
    wanted: StrokeFormat,
    recipe: Recipe,
    view: str | None = None,
    machine: Machine = Machine(),
) -> Report:
    """A finished file of strokes against the page, or the view of it, that it is to show."""
    from skalto.core.checks.flat import check_flat

    flat = flat_page(page, recipe) if view is None else flat_view(page, view, recipe)
    checked = check_flat(data, wanted.read_back(), flat, page, lines, recipe, view)
    checked = with_checks(of_plates(checked, [page]), redrawn_checks(_in_strokes(page, wanted.name, view), 1))
    checked = with_checks(checked, cut_checks(data, wanted.suffix, [page] if view is None else []))
    if recipe.file == "cutter":
        checked = with_checks(checked, sheet_cut_checks(data, wanted.suffix, [page], [machine]))
    return checked


def _in_strokes(page: Page, name: str, view: str | None) -> list[tuple[str, str, tuple[str, ...]]]:
    """The pages of PDFs on a page that goes out in a format that has none, as :func:`redrawn_checks` wants them."""
    rows = []
    for own in page.views:
        facts = page.sources.get(own.spec.source)
        if own.original is not None and view in (None, own.spec.id) and facts is not None and facts.drawing is not None:
            rows.append((own.spec.label, f"{name} holds no pages", facts.drawing.beyond_strokes()))
    return rows


def write_one(
    sheet: SheetSpec,
    context: SheetContext,
    lines: Mapping[str, ViewLines],
    wanted: StrokeFormat,
    view: str | None = None,
    recipe: Recipe = PLAIN,
) -> tuple[bytes, Report]:
    """A sheet, or one view of it, in a format of strokes, and what was measured in it."""
    page = compose(sheet, lines, context)
    data, checked = write_flat(page, lines, wanted, recipe, view, context.machine)
    shown = page if view is None else replace(page, views=tuple(v for v in page.views if v.spec.id == view), notices=())
    return data, with_page_checks(checked, [shown], lines, recipe)


def onto_finished(store: Blobs, sheet: SheetSpec, made: Written, checked: Report) -> tuple[Written, Report]:
    """A written sheet on the finished page that it lies on: the whole of that page's file with it, and what was measured in
    the sheet and in the whole.

    :raises InputError: when nothing can be added to the file.
    """
    assert sheet.onto is not None
    before, number = store.get(keys.file_key(sheet.onto.source)), sheet.onto.page
    shows = sheet.views or sheet.notes or sheet.parts_list or sheet.plates_table or sheet.drawings_table or sheet.cutting
    framed = any(own.frame for own in sheet.annotations_3d)
    data = put_onto(before, number, made.data, (0.0, 0.0), bool(shows) or framed)
    # of the sheet it is the only page, whichever it is in the file
    found = [check if check.page is None else _of_the_sheet(check) for check in onto_checks(before, data, number)]
    if sheet.onto.signatures:
        count = "1 signature" if sheet.onto.signatures == 1 else f"{sheet.onto.signatures} signatures"
        told = f"{count} before what was added: readers say that the file was changed since"
        found.append(Check(code="onto-signed", title="Signatures", verdict="mend", reading=told, limit="none"))
    return replace(made, data=data, twin=None), with_checks(checked, found)


def _of_the_sheet(check: Check) -> Check:
    """A check of the only page of a sheet's own file."""
    return check.model_copy(update={"page": 1})


def page_alone(data: bytes, number: int) -> bytes:
    """A page of a PDF, from 1, as a file of its own, with its form fields and layers as they are, for whoever looks at it."""
    out = io.BytesIO()
    with pikepdf.open(io.BytesIO(data)) as whole, pikepdf.new() as one:
        one.add_pages_from(whole, [number - 1], outlines="ignore")
        one.save(out)
    return out.getvalue()


def keep_written(store: Blobs, key: str, made: Written, checked: Report) -> None:
    """Put a written file into the store, its report last: where that is, all is."""
    store.put(f"{key}.pdf", made.data)
    store.put(f"{key}.glyphs", orjson.dumps(made.glyphs, option=orjson.OPT_NON_STR_KEYS))
    if made.twin is not None:
        store.put(f"{key}.twin", made.twin)
    store.put(f"{key}.json", checked.model_dump_json().encode())
