"""A part of a drawing on a sheet, as the command line was asked for it."""

from __future__ import annotations

from fnmatch import fnmatchcase
from pathlib import Path

from skalto.core.errors import InputError
from skalto.core.geometry import Box
from skalto.core.layout.arrangement import Layout, choose_format, place_to_fit, refuse_unfit, room_for_views
from skalto.core.layout.drawing_views import default_format, middle_of, natural_scale, page_sheet, region_of, shifted
from skalto.core.paper import FrameStyle, Orientation
from skalto.core.quantities import Scale, parse_length
from skalto.core.sheets.content import DrawingContent
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.drawings.drawing import DrawingFacts, SpaceFacts
from skalto.core.sources.drawings.excerpt import Excerpt
from skalto.core.sources.said_unit import unit_said
from skalto.services.commands.memory import Workshop
from skalto.services.commands.options import ExportOptions, margins_of, title_of
from skalto.services.use_cases.drawings import unit_of

"""Units that a file without one may be said to be in, mm."""


def _said_unit(text: str) -> float | None:
    return unit_said(text) if text else None


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


def plain_unit(unit: float) -> str:
    """The unit of numbers that are typed of a drawing without one: inches or feet where it is drawn in them, else mm.

    :param unit: mm of a unit of the drawing.
    """
    return {25.4: "in", 304.8: "ft"}.get(round(unit, 6), "mm")


def _numbers(text: str, count: int, what: str, unit: str = "mm") -> list[float]:
    try:
        values = [float(parse_length(part, unit)) for part in text.split(",")]
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
    plain = plain_unit(unit)
    what = f"a region: write all, declared, page:NAME, or x0,y0,x1,y1 in {plain} of the drawing"
    x0, y0, x1, y1 = _numbers(text, 4, what, plain)
    if not space.name:
        ox, oy = (v * unit for v in origin)
        x0, y0, x1, y1 = x0 - ox, y0 - oy, x1 - ox, y1 - oy
    return min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1)


def sheet_of_drawing(bench: Workshop, path: Path, chosen: ExportOptions) -> tuple[str, SheetSpec]:
    """The id of a drawing that was read, and the sheet that a part of it is on.

    :raises InputError: for a bad file or option, and when the part does not fit and *force* is off.
    """
    chosen.refuse_for_drawings()
    title, margins = title_of(chosen.title), margins_of(chosen.margin)
    source = bench.read(path)
    facts = bench.facts(source).drawing
    assert facts is not None, "a drawing has facts"
    space, whole_page = _space_of(facts, chosen.page, chosen.region, path.name)
    said = _said_unit(chosen.units)
    off = _off(facts, chosen.layers_on, chosen.layers_off)
    unit = unit_of(facts, "" if whole_page else space.name, said, path.name)
    plain = plain_unit(unit)
    shift = _numbers(chosen.shift, 2, f"a shift: write dx,dy in {plain} of the drawing", plain) if chosen.shift else None
    if whole_page:
        sheet = page_sheet("0", source, facts, space, unit, off)
    else:
        sheet = _sheet(path, source, chosen, facts, space, unit, off, title, margins)
    if shift is not None:
        dx, dy = shift
        views = tuple(v if v.excerpt is None or v.excerpt.space else shifted(v, dx, dy, facts) for v in sheet.views)
        sheet = sheet.with_views(views)
    return source, sheet


def _sheet(
    path: Path, source: str, chosen: ExportOptions, facts: DrawingFacts, space: SpaceFacts, unit: float, off: frozenset[str],
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
        id="0", name=title.get("title") or path.stem, format=paper.name, orientation=way, frame=chosen.frame,
        margins=margins, title=title, clean=chosen.frame is FrameStyle.NONE,
    )  # fmt: skip
    within = room_for_views(sheet)
    room = (within[2] - within[0], within[3] - within[1])
    scale = fixed or layout.largest_scale(room)
    if not chosen.force:
        refuse_unfit(layout.size(scale), room, place_to_fit(sheet))
    view = ViewSpec(
        id="0", source=source, name=space.label, scale=scale, anchor=middle_of(box),
        place=((within[0] + within[2]) / 2, (within[1] + within[3]) / 2), centres=False,
        content=DrawingContent(excerpt=excerpt),
    )  # fmt: skip
    return sheet.model_copy(update={"views": (view,), "scale": scale})
