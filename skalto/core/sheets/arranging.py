"""Where a new view goes and at what scale; what fits on a sheet."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

import numpy as np

from skalto.core.artwork import Array
from skalto.core.errors import InputError
from skalto.core.models.model import ModelTree
from skalto.core.paper import FORMATS, Format, FrameStyle, Orientation, frame_rectangle, parse_format
from skalto.core.quantities import format_mm, largest_preferred
from skalto.core.sheets.compose import Box
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.viewpoint import Viewpoint

GAP = 10.0
"""Between views that are laid side by side, mm."""
FIT = 1e-6
"""What sticks out by less than this, mm, fits."""


def usable(width: float, height: float, frame: FrameStyle) -> Box:
    """The part of a sheet that views may take: within the frame, or all of it."""
    return frame_rectangle(width, height, frame) or (0.0, 0.0, width, height)


def projected_box(tree: ModelTree, axes: Array) -> tuple[Array, Array]:
    """Middle and size (2,) of the model's box as seen along *axes*; no part reaches beyond it."""
    corners = np.array([[x, y, z] for x in (-0.5, 0.5) for y in (-0.5, 0.5) for z in (-0.5, 0.5)]) * np.array(tree.size)
    flat = corners @ axes[:2].T
    return axes[:2] @ np.array(tree.middle()), np.asarray(np.ptp(flat, axis=0))


def _free_place(size: Array, taken: Sequence[Box], within: Box) -> tuple[float, float]:
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


def new_view(
    view_id: str, source: str, tree: ModelTree, viewpoint: Viewpoint, sheet: SheetSpec, taken: Sequence[Box]
) -> ViewSpec:
    """A view for a sheet: 1:1 when that fits, else the largest scale of ISO 5455 that does; in free space, near the middle."""
    middle, size = projected_box(tree, viewpoint.axes())
    paper = sheet.paper()
    within = usable(float(paper.width), float(paper.height), sheet.frame)
    room = (within[2] - within[0], within[3] - within[1])
    limit = min(r / s if s > 0 else np.inf for r, s in zip(room, size, strict=True))
    scale = Fraction(1) if limit >= 1 else largest_preferred(float(limit))
    place = _free_place(size * float(scale), taken, within)
    return ViewSpec(
        id=view_id,
        source=source,
        name=viewpoint.name,
        look=viewpoint.look,
        up=viewpoint.up,
        scale=f"{scale.numerator}:{scale.denominator}",
        anchor=(float(middle[0]), float(middle[1])),
        place=place,
    )


def row_size(boxes: Sequence[Box], scale: Fraction) -> tuple[float, float]:
    """Width and height on paper of views side by side, each *box* in model mm."""
    width = sum((b[2] - b[0]) for b in boxes) * float(scale) + GAP * (len(boxes) - 1)
    return width, max(b[3] - b[1] for b in boxes) * float(scale)


def row_places(boxes: Sequence[Box], scale: Fraction, within: Box) -> list[tuple[float, float]]:
    """The middles of views that lie side by side, centred in *within*."""
    width, _ = row_size(boxes, scale)
    x, y = (within[0] + within[2] - width) / 2, (within[1] + within[3]) / 2
    places = []
    for box in boxes:
        own = (box[2] - box[0]) * float(scale)
        places.append((x + own / 2, y))
        x += own + GAP
    return places


def largest_scale(boxes: Sequence[Box], room: tuple[float, float]) -> Fraction:
    """The largest scale of ISO 5455 at which views side by side fit a room, mm.

    :raises InputError: when none is small enough.
    """
    free = room[0] - GAP * (len(boxes) - 1)
    width, height = sum(b[2] - b[0] for b in boxes), max(b[3] - b[1] for b in boxes)
    limits = [r / s for r, s in ((free, width), (room[1], height)) if s > 0]
    return largest_preferred(min(limits, default=1.0) + 1e-12)


def choose_format(text: str, orientation: str, boxes: Sequence[Box], frame: FrameStyle, scale: Fraction | None) -> Format:
    """The format as it is to lie. ``auto`` turns a named one the way that the views want; a typed size lies as typed."""
    paper = parse_format(text)
    if orientation != "auto":
        return paper.turned(Orientation(orientation))
    if paper.name not in FORMATS:
        return paper
    best = None
    for way in (Orientation.PORTRAIT, Orientation.LANDSCAPE):
        turned = paper.turned(way)
        x0, y0, x1, y1 = usable(float(turned.width), float(turned.height), frame)
        width, height = row_size(boxes, scale or Fraction(1))
        limit = min((x1 - x0) / max(width, 1e-9), (y1 - y0) / max(height, 1e-9))
        if best is None or limit > best[0] * (1 + 1e-9):
            best = (limit, turned)
    assert best is not None
    return best[1]


def refuse_unfit(size: tuple[float, float], room: tuple[float, float], where: str) -> None:
    """:raises InputError: when *size* is over *room*, with the excess in mm."""
    over = [(size[0] - room[0], "wide"), (size[1] - room[1], "high")]
    told = " and ".join(f"{format_mm(by, 2)} mm too {way}" for by, way in over if by > FIT)
    if told:
        raise InputError(
            f"The views take {format_mm(size[0], 2)} x {format_mm(size[1], 2)} mm and do not fit {where}: {told}. "
            "Take a smaller scale or a larger sheet, or force it."
        )
