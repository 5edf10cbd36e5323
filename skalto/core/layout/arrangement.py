"""Where a new view goes and at what scale; what fits on a sheet."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from skalto.core.errors import InputError
from skalto.core.geometry import Array, Box
from skalto.core.paper import (
    FORMATS,
    NO_MARGINS,
    Format,
    FrameStyle,
    Margins,
    Orientation,
    frame_rectangle,
    parse_format,
    within_margins,
)
from skalto.core.quantities import FULL_SIZE, Scale, format_mm, largest_preferred
from skalto.core.sheets.content import ProjectionContent
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.models.building import turned_box
from skalto.core.sources.models.model import ModelTree, covered
from skalto.core.viewpoint import Viewpoint

GAP = 10.0
"""Between views that are laid side by side, mm."""
FIT = 1e-6
"""What sticks out by less than this, mm, fits."""


def usable(width: float, height: float, frame: FrameStyle, margins: Margins | None = None) -> Box:
    """The part of a sheet that views may take: within the frame or the margins, or all of it."""
    whole = (0.0, 0.0, width, height)
    if frame is FrameStyle.NONE:
        return within_margins(width, height, margins or NO_MARGINS) or whole
    return frame_rectangle(width, height, frame, margins) or whole


def room_for_views(sheet: SheetSpec, items: int = 0) -> Box:
    """The same, clear of the title block and of a parts list of so many items on it: above them or left of them,
    whichever is larger."""
    from skalto.core.annotation.furniture import title_box
    from skalto.core.annotation.parts_table import parts_list_box

    paper = sheet.paper()
    x0, y0, x1, y1 = usable(float(paper.width), float(paper.height), sheet.frame, sheet.margins)
    found = title_box(sheet)
    if found is None:
        return x0, y0, x1, y1
    left, _, right, top = found[1]
    if items and sheet.parts_list is not None:
        box = parts_list_box(sheet.parts_list, items, (right, top))
        left, top = min(left, box[0]), box[3]
    above, beside = (x0, top, x1, y1), (x0, y0, left, y1)
    return max(above, beside, key=lambda b: (b[2] - b[0]) * (b[3] - b[1]))


def projected_box(tree: ModelTree, axes: Array) -> tuple[Array, Array]:
    """Middle and size (2,) of the model's box as seen along *axes*; no part reaches beyond it."""
    corners = np.array([[x, y, z] for x in (-0.5, 0.5) for y in (-0.5, 0.5) for z in (-0.5, 0.5)]) * np.array(tree.size)
    flat = corners @ axes[:2].T
    return axes[:2] @ np.array(tree.middle()), np.asarray(np.ptp(flat, axis=0))


def shown_box(tree: ModelTree, hidden: frozenset[str]) -> tuple[Array, Array] | None:
    """Lowest and highest corner, (3,) each, of a box about the components that are not hidden; None when all are."""
    boxes = []
    for leaf in tree.leaves():
        if leaf.shape is not None and not covered(leaf.path, hidden):
            facts = tree.shapes[leaf.shape]
            boxes.append(turned_box(np.array(facts.low), np.array(facts.high), leaf.matrix()))
    if not boxes:
        return None
    return np.min([b[0] for b in boxes], axis=0), np.max([b[1] for b in boxes], axis=0)


def free_place(size: Array, taken: Sequence[Box], within: Box) -> tuple[float, float]:
    """The place nearest the middle where a box lies free of others; the middle when there is none."""
    x0, y0, x1, y1 = within
    middle = np.array(((x0 + x1) / 2, (y0 + y1) / 2))
    half = size / 2
    xs, ys = np.linspace(x0 + half[0], x1 - half[0], 41), np.linspace(y0 + half[1], y1 - half[1], 31)
    if xs[0] > xs[-1] or ys[0] > ys[-1]:
        return float(middle[0]), float(middle[1])
    spots = np.array([(x, y) for x in xs for y in ys])
    spots = spots[np.argsort(np.linalg.norm(spots - middle, axis=1), kind="stable")]
    spots = np.vstack((middle, spots))
    for x, y in spots:
        clear = all(
            x - half[0] >= b[2] + GAP / 2
            or x + half[0] <= b[0] - GAP / 2
            or y - half[1] >= b[3] + GAP / 2
            or y + half[1] <= b[1] - GAP / 2
            for b in taken
        )
        if clear:
            return round(float(x), 1), round(float(y), 1)
    return float(middle[0]), float(middle[1])


def shown_extent(tree: ModelTree, axes: Array, hidden: frozenset[str]) -> tuple[Array, Array]:
    """Middle and size (2,) of what is not hidden, as seen along *axes*; no part of it reaches beyond."""
    around = shown_box(tree, hidden) if hidden else None
    if around is None:
        return projected_box(tree, axes)
    low, high = around
    half = np.abs(axes[:2]) @ ((high - low) / 2)
    return axes[:2] @ ((low + high) / 2), half * 2


def new_view(
    view_id: str,
    source: str,
    tree: ModelTree,
    viewpoint: Viewpoint,
    sheet: SheetSpec,
    taken: Sequence[Box],
    hidden: frozenset[str] = frozenset(),
) -> tuple[ViewSpec, Scale]:
    """A view for a sheet in free space near the middle, and the scale that the sheet then has; *hidden* are the components that
    it does not show.

    On an empty sheet it is 1:1 when that fits, else the largest scale of ISO 5455 that does, and the sheet takes it; on
    another it takes the sheet's, or when that does not fit one of its own.
    """
    middle, size = shown_extent(tree, viewpoint.axes(), hidden)
    within = room_for_views(sheet)
    limit = fitting_limit(size, within)
    scale = sheet.scale
    empty = not sheet.views
    if empty or scale > limit:
        scale = FULL_SIZE if limit >= 1 else largest_preferred(float(limit))
    view = ViewSpec(
        id=view_id,
        source=source,
        name=viewpoint.name,
        content=ProjectionContent(look=viewpoint.look, up=viewpoint.up, hidden=hidden),
        scale=scale,
        overrides=frozenset() if empty or scale == sheet.scale else frozenset({"scale"}),
        anchor=(float(middle[0]), float(middle[1])),
        place=free_place(size * float(scale), taken, within),
    )
    return view, scale if empty else sheet.scale


def fitting_limit(size: Array, within: Box) -> float:
    """The largest scale at which a size, model mm (2,), fits a box on the sheet; endless for a point."""
    room = (within[2] - within[0], within[3] - within[1])
    return float(min(r / s if s > 0 else np.inf for r, s in zip(room, size, strict=True)))


def offered_scales(size: Array, within: Box) -> tuple[str | None, str]:
    """The largest preferred scale that fits, None without one, and the largest at all: a ratio of the smallest whole
    numbers that is no more than a thousandth below the true limit."""
    limit = fitting_limit(size, within)
    try:
        preferred = str(largest_preferred(limit))
    except InputError:
        preferred = None
    if not np.isfinite(limit):
        return preferred, "1:1"
    for model in range(1, 1001):
        paper = int(limit * model + 1e-9)
        if paper >= 0.999 * limit * model and paper > 0:
            return preferred, str(Scale(paper, model))
    return preferred, str(Scale(1, int(np.ceil(1 / limit))))


@dataclass(frozen=True, eq=False)
class Layout:
    """Views in columns and rows: each view's cell (column, row; rows upward), and the size of every column and row, model mm.

    *gap* mm lie between cells.
    """

    cells: tuple[tuple[int, int], ...]
    columns: dict[int, float]
    rows: dict[int, float]
    gap: float = GAP

    @classmethod
    def of(cls, boxes: Sequence[Box], cells: Sequence[tuple[int, int]], gap: float = GAP) -> Layout:
        """For views with these boxes, model mm."""
        columns: dict[int, float] = {}
        rows: dict[int, float] = {}
        for box, (column, row) in zip(boxes, cells, strict=True):
            columns[column] = max(columns.get(column, 0.0), box[2] - box[0])
            rows[row] = max(rows.get(row, 0.0), box[3] - box[1])
        return cls(tuple(cells), columns, rows, gap)

    @classmethod
    def row(cls, boxes: Sequence[Box], gap: float = GAP) -> Layout:
        """Side by side."""
        return cls.of(boxes, [(n, 0) for n in range(len(boxes))], gap)

    def size(self, scale: Fraction) -> tuple[float, float]:
        """Width and height on paper, mm."""
        width = sum(self.columns.values()) * float(scale) + self.gap * (len(self.columns) - 1)
        return width, sum(self.rows.values()) * float(scale) + self.gap * (len(self.rows) - 1)

    def places(self, scale: Fraction, within: Box) -> list[tuple[float, float]]:
        """The middle of every view, the whole centred in *within*."""
        width, height = self.size(scale)
        xs = _middles(self.columns, scale, (within[0] + within[2] - width) / 2, self.gap)
        ys = _middles(self.rows, scale, (within[1] + within[3] - height) / 2, self.gap)
        return [(xs[column], ys[row]) for column, row in self.cells]

    def largest_scale(self, room: tuple[float, float]) -> Scale:
        """The largest scale of ISO 5455 at which all of it fits a room, mm. :raises InputError: when none is small enough."""
        free = (room[0] - self.gap * (len(self.columns) - 1), room[1] - self.gap * (len(self.rows) - 1))
        sizes = (sum(self.columns.values()), sum(self.rows.values()))
        limits = [r / s for r, s in zip(free, sizes, strict=True) if s > 0]
        return largest_preferred(min(limits, default=1.0) + 1e-12)


def _middles(sizes: dict[int, float], scale: Fraction, start: float, gap: float) -> dict[int, float]:
    found = {}
    for number in sorted(sizes):
        own = sizes[number] * float(scale)
        found[number] = start + own / 2
        start += own + gap
    return found


def choose_format(
    text: str, orientation: str, layout: Layout, frame: FrameStyle, scale: Fraction | None, margins: Margins | None = None
) -> Format:
    """The format as it is to lie. ``auto`` turns a named one the way that the views want; a typed size lies as typed."""
    paper = parse_format(text)
    if orientation != "auto":
        return paper.turned(Orientation(orientation))
    if paper.name not in FORMATS or paper.width > paper.height:
        return paper  # as typed, or one whose name says that it lies wide
    best = None
    for way in (Orientation.PORTRAIT, Orientation.LANDSCAPE):
        turned = paper.turned(way)
        x0, y0, x1, y1 = usable(float(turned.width), float(turned.height), frame, margins)
        width, height = layout.size(scale or Fraction(1))
        limit = min((x1 - x0) / max(width, 1e-9), (y1 - y0) / max(height, 1e-9))
        if best is None or limit > best[0] * (1 + 1e-9):
            best = (limit, turned)
    assert best is not None
    return best[1]


def place_to_fit(sheet: SheetSpec) -> str:
    """What views have to fit, in words."""
    name = sheet.paper().name
    return f"the sheet {name}" if sheet.frame is FrameStyle.NONE else f"the frame of the sheet {name}"


def refuse_unfit(size: tuple[float, float], room: tuple[float, float], where: str) -> None:
    """:raises InputError: when *size* is over *room*, with the excess in mm."""
    over = [(size[0] - room[0], "wide"), (size[1] - room[1], "high")]
    sides = [(format_mm(by, 2), way, format_mm(by / 2, 2)) for by, way in over if by > FIT]
    told = " and ".join(f"{by} mm too {way} ({half} mm at each side)" for by, way, half in sides)
    if told:
        raise InputError(
            f"The views take {format_mm(size[0], 2)} x {format_mm(size[1], 2)} mm and do not fit {where}: {told}. "
            "Take a smaller scale or a larger sheet, or force it."
        )
