"""Profiles out of a drawing: closed contours, each outermost one a part, what is inside it its openings, and so on inward."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
import shapely

from skalto.core.artwork import Artwork
from skalto.core.artwork.drawing import Item
from skalto.core.artwork.filled import Areas, Text
from skalto.core.artwork.joining import joined, segments_of
from skalto.core.artwork.strokes import Beziers, Contours, Ellipses, Lines, Polylines
from skalto.core.artwork.tags import Tags
from skalto.core.geometry import Array, Point, Similarity
from skalto.core.geometry.contour import Contour
from skalto.core.geometry.profile import FINE, Mark, Operation, Profile, nested
from skalto.core.geometry.segments import Segment
from skalto.core.geometry.stringing import strung
from skalto.core.outlines import outlined

LEAST_AREA = 1e-6
"""What encloses less than this, mm², is no part and no opening."""

Says = Callable[[Tags], Operation | None]
"""From what is known of a stroke to what is done along it; None where it is left out."""


def all_cut(tags: Tags) -> Operation | None:
    """Everything is cut."""
    return Operation.CUT


@dataclass(frozen=True)
class OpenContour:
    """A contour that does not close: its ends, how far apart they are, and how far, mm, the nearest end of any is from each;
    how many lines come together where it ends on more than one other."""

    start: Point
    end: Point
    gap: float
    nearest: float
    branches: int

    def sentence(self) -> str:
        (x0, y0), (x1, y1) = self.start, self.end
        where = f"from ({x0:.2f}, {y0:.2f}) to ({x1:.2f}, {y1:.2f})"
        if self.branches:
            return f"The contour {where} is open: {self.branches} lines meet where it ends, and it may go on along any."
        how = (
            f"its ends are {self.gap:.3f} mm apart"
            if self.gap <= self.nearest
            else f"the nearest end is {self.nearest:.3f} mm off"
        )
        return f"The contour {where} is open: {how}."


@dataclass(frozen=True)
class DrawnParts:
    """What a drawing has to cut: *parts*, each with its lower left corner at the origin, *corners*, where that was in the
    drawing, mm; *open* contours, and sentences on what is left out; the *plate* that the outermost contour is, where it is
    one."""

    parts: tuple[Profile, ...]
    corners: tuple[Point, ...]
    open: tuple[OpenContour, ...] = ()
    notes: tuple[str, ...] = ()
    plate: Profile | None = None


def parts_of(artwork: Artwork, says: Says = all_cut, close: float = 0.0, name: str = "Part", plate: bool = False) -> DrawnParts:
    """The parts that a drawing's contours make. Lettering is engraved along its outlines, whatever else is done on its layer
    but scoring.

    :param close: gaps up to this, mm, are closed by a straight line. :param name: what parts are called, with a number.
    :param plate: whether the outermost contour is the plate, and what lies in it the parts.
    """
    cut, marked, left = _sorted(artwork, says)
    found = strung(_segments(cut), close)
    closed = [own for own in found.closed if abs(own.area) > LEAST_AREA]
    notes = _left_out(left)
    if len(closed) < len(found.closed):
        notes.append(f"{_count(len(found.closed) - len(closed), 'contour encloses', 'contours enclose')} nothing.")
    sheet = None
    if plate and closed:
        outermost = max(range(len(closed)), key=lambda n: abs(closed[n].area))
        sheet = Profile(closed[outermost], name=name)
        closed = [own for n, own in enumerate(closed) if n != outermost]
        beside_it = sum(sheet.outline.where(own.start).value != "inside" for own in closed)
        closed = [own for own in closed if sheet.outline.where(own.start).value == "inside"]
        if beside_it:
            notes.append(f"{_count(beside_it, 'contour lies', 'contours lie')} beside the plate: left out.")
    marks = [Mark(own, operation) for operation, items in marked.items() for own in courses(items)]
    parts, corners = [], []
    # as one reads: from the top down, then from the left
    groups = sorted(nested(closed), key=lambda row: (-round(closed[row[0]].box[3], 1), closed[row[0]].box[0]))
    for number, (outline, openings) in enumerate(groups, 1):
        called = name if len(groups) == 1 else f"{name} {number}"
        profile = Profile(closed[outline], tuple(closed[n] for n in openings), name=called)
        x0, y0, _, _ = profile.box
        own = tuple(mark for mark in marks if _is_on(mark, profile))
        parts.append(replace(profile, marks=own).placed(Similarity(dx=-x0, dy=-y0)))
        corners.append((x0, y0))
    beside = sum(not any(_is_on(mark, closed_profile) for closed_profile in _placed_back(parts, corners)) for mark in marks)
    if beside:
        notes.append(
            f"{_count(beside, 'line to score or engrave is', 'lines to score or engrave are')} on no part, and left out."
        )
    return DrawnParts(tuple(parts), tuple(corners), tuple(_open(found.open)), tuple(notes), sheet)


def _placed_back(parts: list[Profile], corners: list[Point]) -> list[Profile]:
    return [part.placed(Similarity(dx=x, dy=y)) for part, (x, y) in zip(parts, corners, strict=True)]


def _count(number: int, one: str, many: str) -> str:
    return f"{number} {one if number == 1 else many}"


def _lettered(artwork: Artwork) -> tuple[list[Item], list[Item], int]:
    """What draws letters with strokes of their own, and all else; of how many texts. Letters that strokes draw have their words
    beside them unseen: what lies where those stand, on the same layer and in the same colour, is theirs."""
    words = [item for item in artwork if isinstance(item, Text) and item.ghost and len(item)]
    if not words:
        return [], list(artwork), 0
    areas = shapely.polygons(np.concatenate([_grown(item) for item in words]))
    owner = [(item.tags.layer, item.tags.colour) for item in words for _ in range(len(item))]
    tree = shapely.STRtree(areas)
    letters: list[Item] = []
    rest: list[Item] = []
    for item in artwork:
        if not isinstance(item, Polylines) or not len(item):
            rest.append(item)
            continue
        low, high = np.moveaxis(item.bounds(), 1, 0)
        within = np.zeros(len(item), bool)
        strokes, texts = tree.query(shapely.box(*low.T, *high.T), predicate="covered_by")
        for stroke, text in zip(strokes.tolist(), texts.tolist(), strict=True):
            within[stroke] |= owner[text] == (item.tags.layer, item.tags.colour)
        # a hole beside a word is no letter: these are open runs, and circles, arcs and closed outlines are cut
        within &= ~item.closed
        letters += [item.rows(np.flatnonzero(within))] if within.any() else []
        rest += [item.rows(np.flatnonzero(~within))] if not within.all() else []
    return letters, rest, len(owner)


def _grown(item: Text) -> Array:
    """Where the letters of texts can reach, (n, 4, 2): below their line, over their capitals, and a little to the sides."""
    start, end, _, _ = np.moveaxis(item.corners(), 1, 0)
    along, up = item.matrices()[:, 0], item.matrices()[:, 1]
    side = 0.5 * along / np.maximum(np.linalg.norm(along, axis=1), 1e-12)[:, None] * item.height[:, None]
    low, high = -0.6 * up, 1.6 * up
    return np.stack((start - side + low, end + side + low, end + side + high, start - side + high), axis=1)


def _sorted(artwork: Artwork, says: Says) -> tuple[Artwork, dict[Operation, Artwork], Counter[str]]:
    """What is cut, what is marked by its operation, and how many of what kind are neither."""
    cut: list[Item] = []
    marked: dict[Operation, list[Item]] = {}
    left: Counter[str] = Counter()
    letters, rest, texts = _lettered(artwork)
    for item in letters:
        operation = says(item.tags)
        if operation is not None:
            marked.setdefault(Operation.SCORE if operation is Operation.SCORE else Operation.ENGRAVE, []).append(item)
    kept = sum(len(item) for item in rest if isinstance(item, Text) and item.ghost and says(item.tags) is not None)
    left["lettering"] += kept
    left["text"] += texts - kept
    for item in rest:
        operation = says(item.tags)
        if operation is None:
            if isinstance(item, Text) and not item.ghost:
                left["text"] += len(item)
            continue
        if isinstance(item, Text) and not item.ghost:
            letters = [row for own in outlined(Artwork((item,))) if isinstance(own, Areas) for row in outline(own)]
            if letters:
                marked.setdefault(Operation.SCORE if operation is Operation.SCORE else Operation.ENGRAVE, []).extend(letters)
                left["lettering"] += len(item)
                continue
        rows = outline(item) if isinstance(item, Areas) else [item]
        if not rows:
            continue
        if not isinstance(rows[0], Lines | Ellipses | Beziers | Polylines | Contours):
            # unseen text lies under strokes that draw it
            if not (isinstance(item, Text) and item.ghost):
                left[_KINDS.get(item.kind, item.kind)] += len(item)
            continue
        if operation is Operation.CUT:
            cut += rows
        else:
            marked.setdefault(operation, []).extend(rows)
    return Artwork(tuple(cut)), {operation: Artwork(tuple(items)) for operation, items in marked.items()}, left


_KINDS = {"text": "text", "fills": "arrowhead", "raster": "picture"}


def _left_out(left: Counter[str]) -> list[str]:
    told = [
        f"{_count(n, f'{kind} is', f'{kind}s are')} no line that can be cut, and left out."
        for kind, n in left.items()
        if kind not in ("lettering", "text")
    ]
    if left["lettering"]:
        told.append(f"{_count(left['lettering'], 'text is', 'texts are')} engraved along the letters.")
    if left["text"]:
        told.append(f"{_count(left['text'], 'text lies', 'texts lie')} on what is left out.")
    return told


def outline(item: Areas) -> list[Item]:
    """The outlines of filled areas as strokes."""
    lines = Lines(item.tags, item.curves[item.straight][:, (0, 3)])
    return [own for own in (lines, Beziers(item.tags, item.curves[~item.straight])) if len(own)]


def _segments(artwork: Artwork) -> list[Segment]:
    found: list[Segment] = []
    for item in joined(artwork, lambda tags: None, by_layer=False):
        if isinstance(item, Contours):
            for number in range(len(item.closed)):
                found += segments_of(item, number)
    return found


def courses(artwork: Artwork) -> list[Contour]:
    found = strung(_segments(artwork))
    return [*found.closed, *found.open]


def _is_on(mark: Mark, profile: Profile) -> bool:
    middle = mark.course.segments[len(mark.course.segments) // 2].at(0.5)
    return profile.outline.where(middle).value == "inside" and not any(
        opening.where(middle).value == "inside" for opening in profile.openings
    )


def _open(contours: tuple[Contour, ...]) -> list[OpenContour]:
    ends = [(n, point) for n, own in enumerate(contours) for point in (own.start, own.end)]
    tree = shapely.STRtree([shapely.Point(point) for _, point in ends])
    found = []
    for number, own in enumerate(contours):
        nearest, branches = math.inf, 0
        for row, point in enumerate((own.start, own.end)):
            here = shapely.Point(point)
            at = tree.query(here, predicate="dwithin", distance=FINE)
            if len(at) > 2:
                branches = max(branches, len(at))
            others = [k for k in tree.query_nearest(here, exclusive=True, all_matches=False).tolist() if k != 2 * number + row]
            nearest = min([nearest, *(math.dist(point, ends[k][1]) for k in others)])
        found.append(OpenContour(own.start, own.end, math.dist(own.start, own.end), float(np.float64(nearest)), branches))
    return found
