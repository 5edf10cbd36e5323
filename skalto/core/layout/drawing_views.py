"""Drawing views on sheets: putting them there, regions and shifts, pages saved in a file."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence

import numpy as np

from skalto.core.errors import InputError
from skalto.core.geometry import Box
from skalto.core.layout.arrangement import fitting_limit, free_place, room_for_views
from skalto.core.paper import FORMATS, FrameStyle, Orientation
from skalto.core.quantities import FULL_SIZE, Scale, format_mm, largest_preferred, ratio_near
from skalto.core.sheets.content import DrawingContent
from skalto.core.sheets.finished_page import FinishedPage
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.drawings.drawing import DrawingFacts, SavedExcerpt, SpaceFacts
from skalto.core.sources.drawings.excerpt import Excerpt

Corner = tuple[float, float]


def whole_box(space: SpaceFacts, unit: float, angle: float = 0.0) -> Box:
    """A box about everything drawn in a space, mm of the drawing, turned. :raises InputError: when nothing is drawn."""
    box = space.box or space.declared
    if box is None:
        raise InputError(f"{space.label} draws nothing.")
    x0, y0, x1, y1 = (v * unit for v in box)
    cos, sin = math.cos(math.radians(angle)), math.sin(math.radians(angle))
    corners = np.array([(x * cos - y * sin, x * sin + y * cos) for x in (x0, x1) for y in (y0, y1)])
    (a, b), (c, d) = corners.min(axis=0).tolist(), corners.max(axis=0).tolist()
    return a, b, c, d


INCH_UNITS = ("in", "ft")


def default_format(unit: str) -> tuple[str, FrameStyle]:
    """The format and frame that a new sheet of a drawing in a *unit* has: an inch drawing goes on an inch sheet."""
    return ("ANSI-B", FrameStyle.ASME) if unit in INCH_UNITS else ("A3", FrameStyle.ISO)


def first_sheet(sheet_id: str, name: str, unit: str) -> SheetSpec:
    """A new sheet for a drawing in a unit."""
    paper, frame = default_format(unit)
    return SheetSpec(id=sheet_id, name=name, format=paper, frame=frame)


def region_of(excerpt: Excerpt, facts: DrawingFacts) -> Box:
    """The rectangle of the drawing that an excerpt covers, mm."""
    return excerpt.region or whole_box(facts.space(excerpt.space), excerpt.unit, excerpt.angle)


def middle_of(box: Box) -> Corner:
    return (box[0] + box[2]) / 2, (box[1] + box[3]) / 2


def new_excerpt(
    view_id: str, source: str, name: str, facts: DrawingFacts, excerpt: Excerpt, sheet: SheetSpec, taken: Sequence[Box]
) -> tuple[ViewSpec, Scale]:
    """A view of an excerpt in free space near the middle of a sheet, and the scale that the sheet then has.

    On an empty sheet it has the scale that the drawing was made at, where the file says so, else 1:1 if that fits, else the
    largest scale of ISO 5455 that does; on another the sheet's, or where that does not fit one of its own.
    """
    box = region_of(excerpt, facts)
    size = np.array((box[2] - box[0], box[3] - box[1]))
    within = room_for_views(sheet)
    limit = fitting_limit(size, within)
    scale = sheet.scale
    empty = not sheet.views
    drawn = natural_scale(facts, excerpt)
    if drawn is not None:
        scale = drawn
    elif empty or scale > limit * (1 + 1e-9):
        scale = FULL_SIZE if limit >= 1 - 1e-9 else largest_preferred(limit * (1 + 1e-9))
    view = ViewSpec(
        id=view_id,
        source=source,
        name=name,
        scale=scale,
        overrides=frozenset() if empty or scale == sheet.scale else frozenset({"scale"}),
        anchor=middle_of(box),
        place=free_place(size * float(scale), taken, within),
        centres=False,
        content=DrawingContent(excerpt=excerpt),
    )
    return view, scale if empty else sheet.scale


def natural_scale(facts: DrawingFacts, excerpt: Excerpt) -> Scale | None:
    """The scale at which a page of a PDF was drawn, to the nearest ratio of whole numbers; None for other drawings."""
    if facts.kind != "pdf":
        return None
    return ratio_near(1 / excerpt.unit)


def refitted(view: ViewSpec, excerpt: Excerpt, facts: DrawingFacts) -> ViewSpec:
    """A view whose excerpt has changed; what of the drawing it shows stays where it lies on the sheet."""
    before, after = view.anchor, middle_of(region_of(excerpt, facts))
    if view.excerpt is not None and (view.excerpt.angle != excerpt.angle or view.excerpt.space != excerpt.space):
        return view.showing(excerpt=excerpt).model_copy(update={"anchor": after})
    turn = math.radians(view.rotation)
    step = np.array((after[0] - before[0], after[1] - before[1])) * float(view.scale)
    x = view.place[0] + step[0] * math.cos(turn) - step[1] * math.sin(turn)
    y = view.place[1] + step[0] * math.sin(turn) + step[1] * math.cos(turn)
    return view.showing(excerpt=excerpt).model_copy(update={"anchor": after, "place": (float(x), float(y))})


def shifted(view: ViewSpec, dx: float, dy: float, facts: DrawingFacts) -> ViewSpec:
    """The drawing moved by so many mm of its own inside the excerpt, whose edge stays where it is on the sheet.

    :raises InputError: for a view that is no excerpt.
    """
    if view.excerpt is None:
        raise InputError("Only a drawing view can be shifted: move the view instead.")
    excerpt = view.excerpt
    if excerpt.region is None:
        excerpt = excerpt.model_copy(update={"region": region_of(excerpt, facts)})
    x, y = view.anchor
    return view.showing(excerpt=excerpt.shifted(dx, dy)).model_copy(update={"anchor": (x - dx, y - dy)})


def rescaled_unit(view: ViewSpec, unit: float) -> ViewSpec:
    """An excerpt whose drawing turns out to be in another *unit*, mm: it shows the same part, at the scale that it has."""
    assert view.excerpt is not None
    factor = unit / view.excerpt.unit
    region = view.excerpt.region
    moved = None if region is None else tuple(v * factor for v in region)
    excerpt = view.excerpt.model_copy(update={"unit": unit, "region": moved})
    anchor = (view.anchor[0] * factor, view.anchor[1] * factor)
    return view.showing(excerpt=excerpt).model_copy(update={"anchor": anchor})


def saved_scale(excerpt: SavedExcerpt, unit: float) -> Scale:
    """The scale of a saved page's excerpt, paper : drawing, as a ratio of whole numbers where one is within a millionth."""
    return ratio_near(excerpt.scale / unit)


def _format_named(width: float, height: float) -> tuple[str, Orientation]:
    """The standard format of a size, mm, to half a millimetre; else the size itself."""
    way = Orientation.LANDSCAPE if width > height else Orientation.PORTRAIT
    for name, known in FORMATS.items():
        a, b = sorted((float(known.width), float(known.height)))
        low, high = sorted((width, height))
        if abs(a - low) < 0.5 and abs(b - high) < 0.5:
            return name, way
    return f"{format_mm(width)}x{format_mm(height)}mm", way


def _bare(
    sheet_id: str, space: SpaceFacts, paper: tuple[str, Orientation], scale: Scale, views: tuple[ViewSpec, ...]
) -> SheetSpec:
    """A sheet of a page of a file: nothing on it but what the file has there."""
    return SheetSpec(
        id=sheet_id,
        name=space.label,
        format=paper[0],
        orientation=paper[1],
        frame=FrameStyle.NONE,
        furniture=frozenset(),
        clean=True,
        scale=scale,
        views=views,
    )


def finished_sheet(sheet_id: str, name: str, page: FinishedPage, size: tuple[float, float]) -> SheetSpec:
    """A sheet as large as a finished page, nothing on it: it lies on the page.

    :param size: of the page as it is seen, mm; the sheet is a thousandth of a millimetre smaller at most, never larger.
    """
    width, height = (math.floor(side * 1000) / 1000 for side in size)
    way = Orientation.LANDSCAPE if width > height else Orientation.PORTRAIT
    return SheetSpec(
        id=sheet_id, name=name[:120], format=f"{width:.3f}x{height:.3f}mm", orientation=way, frame=FrameStyle.NONE,
        furniture=frozenset(), onto=page,
    )  # fmt: skip


def page_sheet(
    sheet_id: str, source: str, facts: DrawingFacts, space: SpaceFacts, unit: float, hidden: frozenset[str]
) -> SheetSpec:
    """A page saved in a file as a sheet: its paper, its excerpts at their scales, and what is drawn on the page itself.

    :param unit: mm of the drawing's unit. :raises InputError: when the page has no paper size.
    """
    if space.paper is None or min(space.paper) <= 0:
        raise InputError(f"The page {space.label} has no paper size: put the drawing on a sheet of your own.")
    name, way = _format_named(*space.paper)
    views = []
    for number, saved in enumerate(space.excerpts):
        region: Box = tuple(v * unit for v in saved.region)  # type: ignore[assignment]
        excerpt = Excerpt(unit=unit, region=region, angle=saved.angle % 360, off=hidden | frozenset(saved.hidden))
        views.append(
            ViewSpec(
                id=f"{sheet_id}.{number}",
                source=source,
                name=f"{space.label} {number + 1}" if len(space.excerpts) > 1 else space.label,
                scale=saved_scale(saved, unit),
                anchor=middle_of(region),
                place=saved.place,
                centres=False,
                content=DrawingContent(excerpt=excerpt),
            )
        )
    if space.strokes and space.declared is not None:
        paper: Box = tuple(v * space.unit for v in space.declared)  # type: ignore[assignment]
        views.append(
            ViewSpec(
                id=f"{sheet_id}.page",
                source=source,
                name=f"{space.label} itself",
                anchor=middle_of(paper),
                place=(space.paper[0] / 2, space.paper[1] / 2),
                centres=False,
                content=DrawingContent(excerpt=Excerpt(space=space.name, unit=space.unit, region=paper, off=hidden)),
            )
        )
    scales = Counter(view.scale for view in views if view.excerpt is not None and not view.excerpt.space)
    scale = scales.most_common(1)[0][0] if scales else FULL_SIZE
    views = [v.model_copy(update={"overrides": frozenset({"scale"} if v.scale != scale else ())}) for v in views]
    return _bare(sheet_id, space, (name, way), scale, tuple(views))


def whole_page_sheet(sheet_id: str, source: str, space: SpaceFacts, unit: float, hidden: frozenset[str]) -> SheetSpec:
    """A page of a PDF as a sheet of its own size, the page on it whole, as large as it is.

    :param unit: the mm that a mm of the page stands for. :raises InputError: when the page has no size.
    """
    if space.paper is None or min(space.paper) <= 0:
        raise InputError(f"{space.label} has no size.")
    name, way = _format_named(*space.paper)
    width, height = space.paper
    region: Box = (0.0, 0.0, width * unit, height * unit)
    scale = ratio_near(1 / unit)
    view = ViewSpec(
        id=f"{sheet_id}.page",
        source=source,
        name=space.label,
        scale=scale,
        anchor=middle_of(region),
        place=(width / 2, height / 2),
        centres=False,
        content=DrawingContent(excerpt=Excerpt(space=space.name, unit=unit, region=region, off=hidden)),
    )
    return _bare(sheet_id, space, (name, way), scale, (view,))
