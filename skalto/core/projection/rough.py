"""A view's lines as chords of its triangles, to be looked at until the exact ones are there: a fraction of their time, and off
by no more than the triangles are."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any
from weakref import WeakKeyDictionary

import numpy as np

from skalto.core.artwork import Artwork, Polylines, Tags
from skalto.core.geometry import Array
from skalto.core.projection.contouring import upright_faces
from skalto.core.projection.cutting import Shown
from skalto.core.projection.faceted import is_kept
from skalto.core.projection.facets import Facets, Flags, Ints
from skalto.core.projection.facing import OWN_BAND, bodies_of, left_over, united
from skalto.core.projection.hiding import hidden_stretches
from skalto.core.projection.passing import Body
from skalto.core.projection.scene import Scene, scene_of
from skalto.core.projection.stage import EDGE_ON, OUTLINE
from skalto.core.projection.staging import edge_chords, faces_beside, front_triangles, leans_of
from skalto.core.projection.strokes import ORDER
from skalto.core.sources.models.model import Model

ROUGH_FROM = 20_000
"""Views of fewer triangles are exact at once."""
ROUGH_FROM_KEPT = 250_000
"""The same of a view in which only components were hidden or shown."""
_OTHER = 2
"""Chords stand for themselves here, not for lines and conics."""
_meeting: WeakKeyDictionary[Facets, tuple[Ints, Ints]] = WeakKeyDictionary()


def _inner_sides(facets: Facets) -> tuple[Ints, Ints]:
    """The sides within faces: both nodes (s, 2), and both triangles (s, 2)."""
    if facets not in _meeting:
        row, side = np.nonzero(facets.sides < 0)
        ends = np.stack((facets.triangles[row, side], facets.triangles[row, (side + 1) % 3]), axis=1)
        key = (ends.min(axis=1) << 32) + ends.max(axis=1)
        order = np.argsort(key, kind="stable")
        first = np.flatnonzero(np.diff(key[order]) == 0)
        _meeting[facets] = ends[order[first]], np.stack((row[order[first]], row[order[first + 1]]), axis=1)
    return _meeting[facets]


def _turning(bodies: Sequence[Body], scene: Scene, lean: Array) -> tuple[Array, Ints, Ints]:
    """Where faces turn away: ends (k, 2, 3), both triangles (k, 2) and the component (k,)."""
    ends, beside, part = [np.zeros((0, 2, 3))], [np.zeros((0, 2), np.int64)], [np.zeros(0, np.int64)]
    node = triangle = 0
    for number, facets, _ in bodies:
        nodes, sides = _inner_sides(facets)
        front = lean[triangle : triangle + len(facets.triangles)] > EDGE_ON
        rows = np.flatnonzero(front[sides[:, 0]] != front[sides[:, 1]])
        ends.append(scene.points[nodes[rows] + node])
        beside.append(sides[rows] + triangle)
        part.append(np.full(len(rows), number))
        node += len(facets.points)
        triangle += len(facets.triangles)
    return np.concatenate(ends), np.concatenate(beside), np.concatenate(part)


def takes_a_while(model: Model, shown: Shown, axes: Array) -> bool:
    """Whether the exact lines of a view are worth waiting for with rough ones, and these can be had: not of shapes with faces
    that have no triangles, nor of what is cut, where most of the time goes by before. Where components were hidden or shown
    and nothing else, they are there sooner."""
    if model.tree.kind == "mesh" or any(not p.IsPartner(model.shapes[c.shape]) for c, p in _placed(shown)):
        return False
    bodies = _bodies(model, shown)
    least = ROUGH_FROM_KEPT if is_kept(model, shown, axes) else ROUGH_FROM
    return all(own.whole for _, own, _ in bodies) and sum(len(own.triangles) for _, own, _ in bodies) >= least


def _placed(shown: Shown) -> list[tuple[Any, Any]]:
    return [(c, p) for c, p in zip(shown.components, shown.shapes, strict=True) if c.shape is not None]


def _bodies(model: Model, shown: Shown) -> list[Body]:
    from skalto.core.sources.models.kernel import faces

    return bodies_of(model, shown, [n for n, shape in enumerate(shown.shapes) if faces(shape)])


def rough_lines(model: Model, shown: Shown, axes: Array) -> Artwork:
    """What is seen of kernel shapes in a view, as runs of chords by class and component, in the view's plane, model mm.

    Hidden lines are left out, and those in which parts pass through one another; lines over one another are drawn each.
    """
    bodies = _bodies(model, shown)
    scene = scene_of(bodies, axes)
    if scene is None:
        return Artwork(())
    upright = upright_faces(scene)
    lean = leans_of(scene, upright)
    sides = lean[np.maximum(scene.beside, 0)] if len(lean) else np.zeros(scene.beside.shape)
    edges = edge_chords(scene, sides, upright)
    # a smooth edge of which one side is seen is where the part turns away
    side = np.where(scene.beside >= 0, lean[scene.beside], 0.0)
    turns = scene.smooth[scene.edge] & (scene.beside >= 0).all(axis=1) & ((side > EDGE_ON).sum(axis=1) == 1)
    rank = np.where(turns, OUTLINE, edges.rank[scene.edge])
    drawn = np.flatnonzero(rank >= 0)
    turn_ends, turn_sides, turn_part = _turning(bodies, scene, lean)
    ends = np.concatenate((scene.ends[drawn], turn_ends))
    count = len(turn_ends)
    beside = np.column_stack((turn_sides, turn_part, np.full((count, 2), -1)))
    rank = np.concatenate((rank[drawn], np.full(count, OUTLINE)))
    part = np.concatenate((scene.edge_part[scene.edge[drawn]], turn_part))
    # chords of one edge hang together
    edge = np.concatenate((scene.edge[drawn], -1 - np.arange(count)))
    hidden = np.concatenate((edges.hidden[drawn], np.zeros(count, bool)))
    spans = _hidden(scene, lean, ends, np.concatenate((edges.beside[drawn], beside)), hidden)
    seen = left_over(np.tile((0.0, 1.0), (len(ends), 1)), *spans, np.arange(len(ends)))
    return Artwork(tuple(_runs(np.column_stack((rank, part)), [c.path for c in shown.components], ends, edge, *seen)))


def _hidden(scene: Scene, lean: Array, ends: Array, beside: Ints, whole: Flags) -> tuple[Ints, Array]:
    """The stretches of chords that are hidden, in order and apart: whose, and from which share to which."""
    triangles = front_triangles(scene, lean)
    tried = np.flatnonzero(~whole)
    count = len(tried)
    curves = np.full(count, _OTHER), np.zeros(count, np.int64), np.tile((0.0, 1.0), (count, 1)), np.zeros((1, 3, 3))
    sides = faces_beside(scene, beside[tried], lean)
    rows, spans = hidden_stretches(
        ends[tried], beside[tried], sides, np.full(count, np.inf), curves, triangles.corners,
        triangles.name, triangles.face, triangles.part, triangles.band, OWN_BAND, (scene.surface, scene.form),
    )  # fmt: skip
    all_hidden = np.flatnonzero(whole)
    return united(
        np.concatenate((tried[rows[:, 0]], all_hidden)), np.concatenate((spans, np.tile((0.0, 1.0), (len(all_hidden), 1))))
    )


def _runs(tags: Ints, components: list[str], ends: Array, edge: Ints, chord: Ints, spans: Array) -> list[Polylines]:
    """Stretches (k, 2) of chords (k,) as polylines, those that hang together in one: an item for each rank and component,
    *tags* (n, 2)."""
    flat = ends[chord, :, :2]
    way = flat[:, 1] - flat[:, 0]
    begin, end = flat[:, 0] + way * spans[:, :1], flat[:, 0] + way * spans[:, 1:]
    on = np.zeros(len(chord), bool)
    on[1:] = (chord[1:] == chord[:-1] + 1) & (edge[chord[1:]] == edge[chord[:-1]]) & (spans[1:, 0] == 0) & (spans[:-1, 1] == 1)
    on[1:] &= (begin[1:] == end[:-1]).all(axis=1)
    own = tags[chord]
    order = np.lexsort((np.arange(len(chord)), own[:, 1], -own[:, 0]))
    own, begin, end = own[order], begin[order], end[order]
    fresh = ~on[order] | (np.diff(order, prepend=-2) != 1)
    first = np.flatnonzero(fresh)
    points = np.insert(end, first, begin[first], axis=0)
    # where each run and each item begins among the points
    starts = np.append(first + np.arange(len(first)), len(points))
    item = np.flatnonzero((np.diff(own[first], axis=0, prepend=-1) != 0).any(axis=1))
    found = []
    for low, high in zip(item.tolist(), [*item[1:].tolist(), len(first)], strict=True):
        rank, number = own[first[low]].tolist()
        run = starts[low : high + 1]
        at = points[run[0] : run[-1]]
        mark = Tags(ORDER[rank], components[number])
        found.append(Polylines(mark, at, np.zeros(len(at)), run - run[0], np.zeros(high - low, bool)))
    return found
