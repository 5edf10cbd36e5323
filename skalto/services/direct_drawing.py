"""The command line's use cases for drawings: their layers, and an excerpt on a sheet, straight from a file."""

from __future__ import annotations

from datetime import date
from fnmatch import fnmatchcase
from pathlib import Path
from typing import Any

from skalto.core.errors import InputError
from skalto.core.geometry import Box
from skalto.core.job import JobDocument
from skalto.core.paper import FrameStyle, Orientation
from skalto.core.progress import Progress
from skalto.core.quantities import Scale, parse_length
from skalto.core.sheets.arranging import Layout, choose_format, refuse_unfit, room_for_views
from skalto.core.sheets.content import DrawingContent
from skalto.core.sheets.excerpting import default_format, middle_of, natural_scale, page_sheet, region_of, shifted
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.drawings.drawing import UNITS, DrawingFacts, SpaceFacts
from skalto.core.sources.drawings.excerpt import Excerpt
from skalto.core.sources.reading import read_drawing
from skalto.services.context import ContextSpec
from skalto.services.drawings import unit_of
from skalto.services.options import ExportOptions, margins_of, title_of
from skalto.services.proofing import described
from skalto.services.results.drawings import drawn_excerpt, facts_of_drawing
from skalto.services.writing import write_for
from skalto.settings import environment_settings

WRITTEN_UNITS = {**UNITS, "pt": 25.4 / 72, "px": 25.4 / 96}
"""Units that a file without one may be said to be in, mm."""


def layers_of(path: str, report: Progress) -> list[dict[str, Any]]:
    """The layers of a drawing, as ``skalto layers --json`` prints them. :raises InputError: for a bad file."""
    drawing = read_drawing(Path(path), Path(path).name, report, environment_settings().size_limit)
    return [
        {"name": row.name, "colour": row.colour, "width": row.width, "state": row.state, "count": row.count}
        for row in drawing.facts.layers
    ]


def _said_unit(text: str) -> float | None:
    if not text:
        return None
    if text.strip().lower() in WRITTEN_UNITS:
        return WRITTEN_UNITS[text.strip().lower()]
    try:
        unit = float(parse_length(text))
    except InputError:
        unit = 0.0
    if unit <= 0:
        raise InputError(f"“{text}” is not a unit: write one of {', '.join(WRITTEN_UNITS)}, or its length, such as 2.54mm.")
    return unit


def _off(facts: DrawingFacts, on: tuple[str, ...], off: tuple[str, ...]) -> frozenset[str]:
    """The layers that do not show: those that the file would not print, but for what is switched by pattern."""

    def matches(name: str, patterns: tuple[str, ...]) -> bool:
        return any(fnmatchcase(name.lower(), pattern.lower()) for pattern in patterns)

    for pattern in (*on, *off):
        if not any(matches(layer.name, (pattern,)) for layer in facts.layers):
            known = ", ".join(layer.name for layer in facts.layers[:12])
            raise InputError(f"No layer matches “{pattern}”: the layers are {known}.")
    hidden = {layer.name for layer in facts.layers if not layer.shown and not matches(layer.name, on)}
    return frozenset(hidden | {layer.name for layer in facts.layers if matches(layer.name, off)})


def _numbers(text: str, count: int, what: str) -> list[float]:
    try:
        values = [float(parse_length(part)) for part in text.split(",")]
    except InputError:
        values = []
    if len(values) != count:
        raise InputError(f"“{text}” is not {what}.")
    return values


def _space_of(facts: DrawingFacts, page: int | None, region: str, name: str) -> tuple[SpaceFacts, bool]:
    """Which picture of the file is meant, and whether it is to come as the sheet that it is."""
    if region.lower().startswith("page:"):
        wanted = region[5:].strip()
        for space in facts.spaces[1:] if facts.kind == "dxf" else facts.spaces:
            if space.label.lower() == wanted.lower():
                return space, facts.kind == "dxf"
        known = ", ".join(s.label for s in (facts.spaces[1:] if facts.kind == "dxf" else facts.spaces)) or "none"
        raise InputError(f"{name} has no page “{wanted}”: its pages are {known}.")
    if page is not None:
        if facts.kind != "pdf":
            raise InputError("--page counts the pages of a PDF: of a DXF file take --region page:NAME.")
        if not 1 <= page <= len(facts.spaces):
            raise InputError(f"{name} has {len(facts.spaces)} pages, and no page {page}.")
        return facts.spaces[page - 1], False
    return facts.spaces[0], False


def _region(text: str, space: SpaceFacts, unit: float, origin: tuple[float, float]) -> Box | None:
    """What --region asks for, mm of the drawing from its local *origin* on; None for everything."""
    text = text.strip().lower()
    if text in ("", "all") or text.startswith("page:"):
        return None
    if text == "declared":
        if space.declared is None:
            raise InputError("The file declares no area: take all, or four numbers x0,y0,x1,y1.")
        x0, y0, x1, y1 = (v * unit for v in space.declared)
        return x0, y0, x1, y1
    x0, y0, x1, y1 = _numbers(text, 4, "a region: write all, declared, page:NAME, or x0,y0,x1,y1 in mm of the drawing")
    if not space.name:
        ox, oy = (v * unit for v in origin)
        x0, y0, x1, y1 = x0 - ox, y0 - oy, x1 - ox, y1 - oy
    return min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1)


def export_drawing(path: str, out: str, options: dict[str, Any], report: Progress) -> dict[str, Any]:
    """Read a drawing, put an excerpt of it on a sheet, write the file, measure it; the report as plain data.

    :raises InputError: for a bad file or option, and when the excerpt does not fit and *force* is off.
    """
    chosen = ExportOptions.model_validate(options)
    chosen.refuse_for_drawings()
    name = Path(path).name
    title, margins = title_of(chosen.title), margins_of(chosen.margin)
    shift = _numbers(chosen.shift, 2, "a shift: write dx,dy in mm of the drawing") if chosen.shift else None
    recipe = chosen.output.made()
    drawing = read_drawing(Path(path), name, report, environment_settings().size_limit)
    facts = drawing.facts
    space, whole_page = _space_of(facts, chosen.page, chosen.region, name)
    said = _said_unit(chosen.units)
    off = _off(facts, chosen.layers_on, chosen.layers_off)
    if whole_page:
        unit = unit_of(facts, "", said, name)
        sheet = page_sheet("0", "0", facts, space, unit, off)
    else:
        unit = unit_of(facts, space.name, said, name)
        sheet = _sheet(path, chosen, facts, space, unit, off, title, margins)
    if shift is not None:
        dx, dy = shift
        views = tuple(v if v.excerpt is None or v.excerpt.space else shifted(v, dx, dy, facts) for v in sheet.views)
        sheet = sheet.with_views(views)
    lines = {view.id: drawn_excerpt(drawing, Path(path), view.excerpt) for view in sheet.views if view.excerpt}
    context = ContextSpec(today=date.today()).with_facts({"0": facts_of_drawing(facts)})
    metadata = described(recipe, JobDocument(name=sheet.name), "", sheet, sheet.name)
    data, checked = write_for(out, [(sheet, context)], lines, metadata, report, recipe)
    try:
        Path(out).write_bytes(data)
    except OSError as error:
        raise InputError(f"{out} cannot be written: {error.strerror or error}.") from None
    told = _told(sheet, context, lines)
    codes = {check.code for check in checked.checks}
    told += [f"info: {line}" for line in facts.notes("page-placed" in codes and "page-strokes" not in codes)]
    return checked.model_dump(mode="json") | {
        "holds": checked.holds,
        "scale": str(sheet.scale),
        "format": sheet.paper().name,
        "told": told,
    }


def _told(sheet: SheetSpec, context: Any, lines: Any) -> list[str]:
    from skalto.core.sheets.compose import compose

    return [f"{told.level}: {told.message}" for told in compose(sheet, lines, context).told if told.code != "title-empty"]


def _sheet(
    path: str, chosen: ExportOptions, facts: DrawingFacts, space: SpaceFacts, unit: float, off: frozenset[str],
    title: dict[str, str], margins: tuple[float, float, float, float] | None,
) -> SheetSpec:  # fmt: skip
    """A sheet with one excerpt in the middle of it."""
    excerpt = Excerpt(space=space.name, unit=unit, region=_region(chosen.region, space, unit, facts.origin), off=off)
    box = region_of(excerpt, facts)
    fixed = None if chosen.scale.strip().lower() == "largest" else Scale.parse(chosen.scale or "1:1")
    drawn = natural_scale(facts, excerpt)
    if not chosen.scale and drawn is not None:
        # a page that says its scale comes at it
        fixed = drawn
    layout = Layout.row([box])
    paper = choose_format(
        chosen.paper or default_format(facts.unit)[0], chosen.orientation, layout, chosen.frame, fixed, margins
    )
    way = Orientation.LANDSCAPE if paper.width > paper.height else Orientation.PORTRAIT
    sheet = SheetSpec(
        id="0", name=title.get("title") or Path(path).stem, format=paper.name, orientation=way, frame=chosen.frame,
        margins=margins, title=title, clean=chosen.frame is FrameStyle.NONE,
    )  # fmt: skip
    within = room_for_views(sheet)
    room = (within[2] - within[0], within[3] - within[1])
    scale = fixed or layout.largest_scale(room)
    if not chosen.force:
        where = f"the sheet {paper.name}" if chosen.frame is FrameStyle.NONE else f"the frame of the sheet {paper.name}"
        refuse_unfit(layout.size(scale), room, where)
    view = ViewSpec(
        id="0", source="0", name=space.label, scale=scale, anchor=middle_of(box),
        place=((within[0] + within[2]) / 2, (within[1] + within[3]) / 2), centres=False,
        content=DrawingContent(excerpt=excerpt),
    )  # fmt: skip
    return sheet.model_copy(update={"views": (view,), "scale": scale})
