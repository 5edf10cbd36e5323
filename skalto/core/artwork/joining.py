"""Strokes joined end to end into contours, each drawn once, as a cutter wants them."""

from __future__ import annotations

import math
from collections.abc import Callable, Hashable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from skalto.core.artwork.drawing import Artwork, Item, Stroked
from skalto.core.artwork.strokes import Beziers, Contours, Ellipses, Lines, Polylines
from skalto.core.artwork.tags import Tags
from skalto.core.geometry import Array
from skalto.core.geometry.chaining import Pieces, chains_of, cutting_order, drawn_once, nodes_of
from skalto.core.geometry.contour import ONE_CIRCLE, Arc, Contour, Cubic, Line, Segment
from skalto.core.geometry.curves import arc_beziers, arc_pieces

ARC_TOLERANCE = 4.8e-4
"""As a PDF's arcs have it, mm."""

_MOST = 1.5 * math.pi
"""The largest angle of one arc, so that its ends stay apart."""


def in_pieces(item: Stroked) -> Pieces:
    """An item's strokes in pieces, its arcs as Béziers within :data:`ARC_TOLERANCE`."""
    if isinstance(item, Polylines):
        return Pieces.together([in_pieces(part) for part in item.parts() if len(part)])
    if isinstance(item, Lines):
        a, b = item.points[:, 0], item.points[:, 1]
        return Pieces.plain(np.stack((a, a + (b - a) / 3, b - (b - a) / 3, b), axis=1), True)
    if isinstance(item, Beziers):
        return Pieces.plain(item.points, False)
    count = arc_pieces(item.radii().max(axis=1), item.sweep, ARC_TOLERANCE)
    circle = item.is_circle()
    # a piece runs counter-clockwise where its axes do
    way = np.sign(item.major[:, 0] * item.minor[:, 1] - item.major[:, 1] * item.minor[:, 0])
    parts = []
    for pieces in np.unique(count).tolist():
        rows = np.flatnonzero(count == pieces)
        made = arc_beziers(item.centre[rows], item.major[rows], item.minor[rows], item.start[rows], item.sweep[rows], pieces)
        bulge = np.where(circle[rows], way[rows] * np.tan(item.sweep[rows] / pieces / 4), 0.0)
        centre = np.where(circle[rows][:, None], item.centre[rows], np.nan)
        own = Pieces.plain(made.reshape(-1, 4, 2), False)
        parts.append(
            replace(
                own, owner=np.repeat(rows, pieces), bulge=np.repeat(bulge, pieces), centre=np.repeat(centre, pieces, axis=0)
            )
        )
    found = Pieces.together([])
    if parts:
        found = Pieces(*(np.concatenate([getattr(part, name) for part in parts]) for name in _FIELDS))
    return found


_FIELDS = ("curves", "straight", "owner", "bulge", "centre")


def pieces_of(item: Stroked) -> tuple[Array, NDArray[np.bool_], NDArray[np.int64]]:
    """Cubic Béziers of an item's strokes (m, 4, 2), which are straight, and the number of each one's stroke."""
    own = in_pieces(item)
    return own.curves, own.straight, own.owner


def _joined(tags: Tags, pieces: Pieces) -> Contours:
    pieces = pieces.rows(drawn_once(pieces.curves))
    runs, bulges, numbers, closed = [], [], [], []
    for chain, whole in chains_of(nodes_of(pieces.curves)):
        own = np.stack([pieces.curves[n][::-1] if back else pieces.curves[n] for n, back in chain])
        # what lies within a micrometre becomes one point
        own[1:, 0] = own[:-1, 3]
        if whole:
            own[-1, 3] = own[0, 0]
        runs.append(own)
        bulges.append(np.array([-pieces.bulge[n] if back else pieces.bulge[n] for n, back in chain]))
        numbers.append(np.array([n for n, _ in chain], np.int64))
        closed.append(whole)
    order = cutting_order(runs, closed)
    picked = np.concatenate([numbers[n] for n in order])
    first = np.cumsum([0, *(len(runs[n]) for n in order)])
    return Contours(
        tags, np.concatenate([runs[n] for n in order]), pieces.straight[picked], first.astype(np.int64),
        np.array([closed[n] for n in order], bool), np.concatenate([bulges[n] for n in order]), pieces.centre[picked],
    )  # fmt: skip


def joined(artwork: Artwork, kind: Callable[[Tags], Hashable], by_layer: bool = True) -> Artwork:
    """The same drawing with the strokes of each kind as contours in cutting order, whatever is drawn twice once; what is filled
    comes first.

    :param kind: what is joined with what: strokes of equal kinds, such as of one pen.
    :param by_layer: whether strokes of several layers stay apart.
    """
    groups: dict[object, tuple[Tags, list[Pieces]]] = {}
    rest: list[Item] = []
    for item in artwork:
        if not isinstance(item, Lines | Ellipses | Beziers | Polylines):
            rest.append(item)
            continue
        own = in_pieces(item)
        if len(own.curves):
            key = (kind(item.tags), item.tags.layer if by_layer else "")
            groups.setdefault(key, (item.tags, []))[1].append(own)
    contours = [_joined(tags, Pieces.together(parts)) for tags, parts in groups.values()]
    return Artwork((*rest, *contours))


def segments_of(item: Contours, number: int) -> tuple[Segment, ...]:
    """The segments of a contour, arcs that follow one another on one circle as one."""
    found: list[Segment] = []
    for n in range(int(item.first[number]), int(item.first[number + 1])):
        start, first, second, end = ((x, y) for x, y in item.curves[n].tolist())
        bulge = 0.0 if item.bulge is None else float(item.bulge[n])
        if item.straight[n]:
            found.append(Line(start, end))
        elif not bulge or item.centre is None:
            found.append(Cubic(start, first, second, end))
        else:
            x, y = item.centre[n].tolist()
            arc = Arc(start, end, (x, y), 4 * math.atan(bulge))
            last = found[-1] if found else None
            if isinstance(last, Arc) and _is_one(last, arc):
                found[-1] = Arc(last.start, end, last.centre, last.sweep + arc.sweep)
            else:
                found.append(arc)
    return tuple(found)


def _is_one(arc: Arc, following: Arc) -> bool:
    """Whether two arcs are of one circle and run the same way, and are together not too long for one."""
    on_one = math.dist(arc.centre, following.centre) <= ONE_CIRCLE
    return on_one and arc.sweep * following.sweep > 0 and abs(arc.sweep + following.sweep) < _MOST


def contour_of(item: Contours, number: int) -> Contour:
    """A contour of an artwork as exact geometry."""
    return Contour(segments_of(item, number), bool(item.closed[number]))
