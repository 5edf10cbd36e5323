"""Hidden lines from facets, with exact ends: triangles say what hides what, the true curves and surfaces where it begins."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any
from weakref import WeakKeyDictionary

import numba
import numpy as np

from skalto.core.artwork import EdgeClass
from skalto.core.geometry import Array
from skalto.core.projection.cutting import Shown
from skalto.core.projection.facets import Facets, Flags, Ints, Surface, facets_of, is_closed
from skalto.core.projection.hiding import DEPTH, WHOLE
from skalto.core.projection.passing import Body
from skalto.core.projection.solving import (
    Rows,
    behind_contour,
    crossed,
    on_surface,
    pierced,
    pierced_patch,
    turned_away,
)
from skalto.core.projection.stage import Chords, Curves
from skalto.core.projection.staging import Triangles
from skalto.core.projection.strokes import ORDER, Strokes
from skalto.core.projection.turning import EdgeOn
from skalto.core.sources.models.model import Model

CHORD_SHARE = 5e-4
"""Largest distance of a triangle from its face, as a share of the part's diagonal."""
OPEN_SHARE = 1e-4
"""The same for a part that is not closed."""
LEAST_CHORD = 1e-5
TURN = 0.25
"""Largest turn between neighbouring triangles, radians."""
OWN_BAND = 1e-7
_GAP = 1e-7
"""Strokes shorter than this, mm, are none."""
_LEAST = 1e-6
"""Hidden stretches that lie nearer than this, mm, are one, and shorter ones are none."""
_CONTACT = 1e-5
_ON_FACE = 1e-6
"""A curve whose end is nearer to a face than this, mm, begins or ends on it."""
_NEARER = 0.5
"""Of two ends the second is taken where it lies nearer than this share of how far off the first is."""
_SAMPLES = 9
_GRAZING = 3.0
"""How far an end that grazes moves, in roots of the facets' distance from the face times a triangle's size."""
_HIDDEN, _SMOOTH, _VISIBLE = (ORDER.index(c) for c in (EdgeClass.HIDDEN, EdgeClass.SMOOTH, EdgeClass.VISIBLE))

_kept: WeakKeyDictionary[Model, dict[int, Facets]] = WeakKeyDictionary()


def _faceted(shape: Any, size: float) -> Facets:
    # of faces that do not hang together, only a depth tells which hides which
    share = CHORD_SHARE if is_closed(shape) else OPEN_SHARE
    return facets_of(shape, max(size * share, LEAST_CHORD), TURN)


def facets_kept(model: Model) -> dict[int, Facets]:
    """The facets of a model's shapes, so far as they are made, by the shapes' numbers."""
    return _kept.setdefault(model, {})


def own_facets(model: Model, number: int) -> Facets:
    """The facets of one of a model's shapes, made now or before."""
    kept = facets_kept(model)
    if number not in kept:
        facts = model.tree.shapes[number]
        kept[number] = _faceted(model.shapes[number], float(np.linalg.norm(np.subtract(facts.high, facts.low))))
    return kept[number]


def bodies_of(model: Model, shown: Shown, numbers: Sequence[int]) -> list[Body]:
    """Shown components that have faces, as facets: of the model's own shapes kept, of what was cut made anew."""
    bodies: list[Body] = []
    for n in numbers:
        component, placed = shown.components[n], shown.shapes[n]
        assert component.shape is not None
        own, facts = model.shapes[component.shape], model.tree.shapes[component.shape]
        if placed.IsPartner(own):
            bodies.append((n, own_facets(model, component.shape), component.matrix()))
            continue
        size = float(np.linalg.norm(np.subtract(facts.high, facts.low)))
        bodies.append((n, _faceted(placed, size), np.eye(4)))
    return bodies


@dataclass(frozen=True, eq=False)
class Runs:
    """Hidden runs of curves: whose, from and to which parameter, the chord at each end, the triangle there and what it does."""

    curve: Ints
    span: Array
    chord: Ints
    triangle: Ints
    ending: Ints


def runs_of(curves: Curves, chords: Chords, rows: Ints, spans: Array, whole: Ints) -> Runs:
    """Stretches of chords, and chords that are hidden *whole*, joined over the chords of a curve."""
    chord = np.concatenate((rows[:, 0], whole))
    share = np.concatenate((spans, np.tile((0.0, 1.0), (len(whole), 1))))
    triangle = np.concatenate((rows[:, 1:3], np.full((len(whole), 2), -1)))
    ending = np.concatenate((np.stack((rows[:, 3] // 8, rows[:, 3] % 8), axis=1), np.full((len(whole), 2), WHOLE)))
    size = np.linalg.norm(chords.ends[chord, 1] - chords.ends[chord, 0], axis=1)
    kept = size * (share[:, 1] - share[:, 0]) > _LEAST
    chord, share, triangle, ending, size = chord[kept], share[kept], triangle[kept], ending[kept], size[kept]
    low, high = chords.params[chord, 0], chords.params[chord, 1]
    span = low[:, None] + (high - low)[:, None] * share
    curve = chords.curve[chord]
    order = np.lexsort((span[:, 0], curve))
    chord, triangle, ending, span, curve = chord[order], triangle[order], ending[order], span[order], curve[order]
    if not len(curve):
        return Runs(curve, span, np.empty((0, 2), np.int64), triangle, ending)
    gap = _LEAST * (np.abs(high - low) / np.maximum(size, 1e-9))[order]
    first = np.concatenate(([True], (curve[1:] != curve[:-1]) | (span[1:, 0] - span[:-1, 1] > gap[1:])))
    begin = np.flatnonzero(first)
    end = np.concatenate((begin[1:], [len(first)])) - 1
    return Runs(
        curve[begin], np.stack((span[begin, 0], span[end, 1]), axis=1), np.stack((chord[begin], chord[end]), axis=1),
        np.stack((triangle[begin, 0], triangle[end, 1]), axis=1), np.stack((ending[begin, 0], ending[end, 1]), axis=1),
    )  # fmt: skip


def exact_ends(curves: Curves, chords: Chords, triangles: Triangles, runs: Runs) -> Array:
    """The spans of the runs with their ends moved to where they truly are."""
    spans = runs.span.copy()
    for end in (0, 1):
        curve, t = runs.curve, spans[:, end]
        limit = curves.span[curve, end]
        # the curve's own end needs no search
        moving = np.abs(t - limit) > 1e-12 * (1 + np.abs(limit))
        rows = np.flatnonzero(moving)
        if not len(rows):
            continue
        found = _searched(curves, chords, triangles, runs, rows, end)
        inside = np.isfinite(found)
        spans[rows[inside], end] = found[inside]
    # ends that passed one another found other places than they sought
    near = 1e-9 * (1 + np.abs(spans[:, 0]))
    crossed_over = spans[:, 1] < spans[:, 0] - near
    spans[crossed_over] = runs.span[crossed_over]
    # ends that met found the one place where a face turns away: there it begins or ends, and goes on at the other end
    met = ~crossed_over & (spans[:, 1] <= spans[:, 0] + near) & (runs.span[:, 1] > runs.span[:, 0] + near)
    before, behind = met & (spans[:, 0] <= runs.span[:, 0]), met & (spans[:, 1] >= runs.span[:, 1])
    spans[before, 1], spans[behind, 0] = runs.span[before, 1], runs.span[behind, 0]
    low, high = curves.span[runs.curve, 0], curves.span[runs.curve, 1]
    return np.clip(spans, low[:, None], high[:, None])


def _searched(curves: Curves, chords: Chords, triangles: Triangles, runs: Runs, rows: Ints, end: int) -> Array:
    """The true parameter of one end of some runs, NaN where none was found."""
    curve, t = runs.curve[rows], runs.span[rows, end]
    own = curves.pick(curve)
    triangle, ending = runs.triangle[rows, end], runs.ending[rows, end]
    point, way = own.at(t)
    speed = np.maximum(np.linalg.norm(way, axis=1), 1e-9)
    there = triangle >= 0
    row = np.where(there, triangle, 0)
    corners = triangles.corners[row]
    size = np.linalg.norm(corners - np.roll(corners, 1, axis=1), axis=2).max(axis=1)
    wide = np.where(there, np.minimum(1.5 * size, 50.0), 0.0) / speed
    # a triangle's side lies as near to the true contour or edge as the triangle to its face: only a grazing end moves farther
    off = triangles.scene.off[triangles.face[row]]
    close = np.minimum(wide, (_GRAZING * np.sqrt(off * size) + 8 * off) / speed)
    chord = runs.chord[rows, end]
    wide = np.maximum(wide, 1.5 * np.abs(chords.params[chord, 1] - chords.params[chord, 0]) * (~there))
    surface, form = triangles.scene.surface[triangles.face[row]], triangles.scene.form[triangles.face[row]]
    found = np.full(len(rows), np.nan)

    def put(chosen: Flags, search: Any, *more: Any, reach: Array = close) -> None:
        at = np.flatnonzero(chosen & ~np.isfinite(found))
        if len(at):
            found[at] = search(own.pick(at), t[at], reach[at], *(m.pick(at) if isinstance(m, Rows) else m[at] for m in more))

    # through a face, or where it touches one and that turns away
    distance, _ = on_surface(surface, form, point)
    known = surface != Surface.OTHER
    curved = there & known & (surface != Surface.PLANE)
    on_it = curved & (np.abs(distance) < _CONTACT)
    put(on_it, turned_away, surface, form, reach=wide)
    middle, normal = corners.mean(axis=1), np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    put(there & known & (ending == DEPTH) & ~on_it, pierced, surface, form, middle, normal)
    # or begins on it
    limit = curves.span[curve, end]
    on_face = np.abs(on_surface(surface, form, own.at(limit)[0])[0]) < _ON_FACE
    nearer = ~(np.abs(found - t) < np.abs(limit - t)) & (np.abs(limit - t) <= close)
    own_end = there & known & (ending == DEPTH) & on_face & nearer
    found[own_end] = limit[own_end]
    patches = curves.faces.patches
    beside = triangles.scene.face[np.maximum(chords.beside[chord, :2], 0)]
    own_face = there & ((chords.beside[chord, :2] >= 0) & (beside == triangles.face[row][:, None])).any(axis=1)

    def turned_on(at: Ints, face: Ints, reach: Array) -> None:
        asked = []
        for n, number in zip(at.tolist(), face.tolist(), strict=True):
            low, high = (np.clip(t[n] + sign * reach[n], *curves.span[curve[n]]) for sign in (-1, 1))
            asked.append(EdgeOn(curves.faces.patch(number), curves.edges[curve[n]], float(low), float(high)))
        found[at] = patches.ends_on(asked)[1]

    own_turns = np.flatnonzero(own_face & ~known)
    turned_on(own_turns, triangles.face[row[own_turns]], close)
    through = np.flatnonzero(there & ~known & ~own_face & (ending == DEPTH))
    if len(through):
        patch = np.array([curves.faces.patch(face) for face in triangles.face[row[through]].tolist()], np.int64)
        found[through] = pierced_patch(
            own.pick(through), t[through], close[through], patches, patch, triangles.uv(row[through]), normal[through]
        )
    # at the side of a triangle: behind the edge that lies there, or the contour of its face
    side = np.where(there & (ending < DEPTH), triangles.curve_at(row, np.minimum(ending, 2)), -2)
    edge = np.maximum(side, 0)
    smooth = curves.rank[edge] != _VISIBLE
    contour = (side == -1) | ((side >= 0) & smooth)
    # a chord went through a triangle near the contour, and the curve does not go through the face
    contour |= there & (ending == DEPTH) & (surface != Surface.PLANE) & ~np.isfinite(found)
    put(contour, behind_contour, surface, form)
    # a contour that is neither line nor conic: the nearest of its face
    traced = np.full(len(rows), -1)
    start = np.zeros(len(rows))
    at = np.flatnonzero(contour & ~np.isfinite(found))
    traced[at], start[at] = _nearest_contours(curves, chords, triangles.face[row[at]], point[at])
    put(traced >= 0, crossed, curves.pick(np.maximum(traced, 0)), start)
    # what lies on a ring may go behind another side of it, and turn away or come out of it elsewhere
    through_it = (ending == DEPTH) & (np.abs(found - t) * speed > 8 * off)
    at = np.flatnonzero((on_it | through_it) & curved & (surface == Surface.TORUS))
    traced[at], start[at] = _nearest_contours(curves, chords, triangles.face[row[at]], point[at])
    at = at[traced[at] >= 0]
    if len(at):
        behind = crossed(own.pick(at), t[at], close[at], curves.pick(traced[at]), start[at])
        nearer = ~(np.abs(behind - t[at]) >= _NEARER * np.abs(found[at] - t[at])) & np.isfinite(behind)
        found[at[nearer]] = behind[nearer]
    plain = curves.plain
    straight = plain[edge] & ~curves.conic[edge] & plain[curve] & ~curves.conic[curve]
    others = curves.pick(edge)
    start = _nearest(curves.conic[edge], curves.frame[edge], point)
    at = np.flatnonzero((side >= 0) & ~plain[edge] & (curves.rank[edge] >= 0))
    start[at] = _nearest_chords(chords, edge[at], point[at])[1]
    put((side >= 0) & ~straight & (curves.rank[edge] >= 0), crossed, others, start)
    # where the faces beside it turn away
    turning = ~there
    for place in (0, 1):
        name = chords.beside[chord, place]
        face = triangles.scene.face[np.maximum(name, 0)]
        own_surface, own_form = triangles.scene.surface[face], triangles.scene.form[face]
        turns = (name >= 0) & (own_surface != Surface.PLANE) & (own_surface != Surface.OTHER)
        put(turning & turns, turned_away, own_surface, own_form, reach=wide)
        rest = np.flatnonzero(turning & (name >= 0) & (own_surface == Surface.OTHER) & ~np.isfinite(found))
        turned_on(rest, face[rest], wide)
    # where a curve is slow the reach of its parameter leads too far
    moved = np.linalg.norm(own.at(np.where(np.isfinite(found), found, t))[0] - point, axis=1)
    found[moved > 2 * np.maximum(wide, close) * speed] = np.nan
    return found


@numba.njit(cache=True)  # type: ignore[untyped-decorator]
def _near_chords(ends, params, begin, end, points, away, t):  # type: ignore[no-untyped-def]
    for n in range(len(points)):
        x, y = points[n, 0], points[n, 1]
        away[n] = np.inf
        for k in range(begin[n], end[n]):
            ax, ay = ends[k, 0, 0], ends[k, 0, 1]
            dx, dy = ends[k, 1, 0] - ax, ends[k, 1, 1] - ay
            share = ((x - ax) * dx + (y - ay) * dy) / max(dx * dx + dy * dy, 1e-30)
            share = min(1.0, max(0.0, share))
            off = np.sqrt((ax + dx * share - x) ** 2 + (ay + dy * share - y) ** 2)
            if off < away[n]:
                away[n], t[n] = off, params[k, 0] + (params[k, 1] - params[k, 0]) * share


def _nearest_chords(chords: Chords, curve: Ints, points: Array) -> tuple[Array, Array]:
    """How near the chords of curves (k,) pass to points (k, 3) in the view, mm (k,), and the curves' parameters there."""
    begin, end = np.searchsorted(chords.curve, curve), np.searchsorted(chords.curve, curve + 1)
    away, t = np.empty(len(curve)), np.zeros(len(curve))
    _near_chords(chords.ends, chords.params, begin, end, points, away, t)
    return away, t


def _nearest_contours(curves: Curves, chords: Chords, face: Ints, points: Array) -> tuple[Ints, Array]:
    """The contours of faces (k,) that pass nearest to points (k, 3) in the view, −1 for none, and their parameters there."""
    own = [curves.contours.get(number, []) for number in face.tolist()]
    row = np.repeat(np.arange(len(own)), [len(numbers) for numbers in own])
    number = np.array([number for numbers in own for number in numbers], np.int64)
    away, t = _nearest_chords(chords, number, points[row])
    order = np.lexsort((away, row))
    first = order[np.flatnonzero(np.diff(row[order], prepend=-1))]
    found, at = np.full(len(own), -1), np.zeros(len(own))
    found[row[first]], at[row[first]] = number[first], t[first]
    return found, at


def _nearest(conic: Flags, frame: Array, point: Array) -> Array:
    """A parameter of curves (n,) near to where they pass points (n, 3) in the view."""
    away = (point - frame[:, 0])[:, :2]
    a, b = frame[:, 1, :2], frame[:, 2, :2]
    line = (away * a).sum(axis=1) / np.maximum((a * a).sum(axis=1), 1e-30)
    det = a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]
    det = np.where(np.abs(det) < 1e-30, 1e-30, det)
    x = (away[:, 0] * b[:, 1] - away[:, 1] * b[:, 0]) / det
    y = (a[:, 0] * away[:, 1] - a[:, 1] * away[:, 0]) / det
    return np.asarray(np.where(conic, np.arctan2(y, x), line))


def united(curve: Ints, spans: Array) -> tuple[Ints, Array]:
    """Spans (k, 2) of curves (k,), in order and apart: exact ends may have come to lie one beyond another."""
    kept = np.flatnonzero(spans[:, 1] > spans[:, 0])
    order = kept[np.lexsort((spans[kept, 0], curve[kept]))]
    curve, spans = curve[order], spans[order]
    # how far a curve is hidden by all that begin before: the rank of an end takes the place of the end
    rank = np.empty(len(spans), np.int64)
    by_end = np.argsort(spans[:, 1], kind="stable")
    rank[by_end] = np.arange(len(spans))
    first = np.diff(curve, prepend=-1) != 0
    lifted = rank + np.cumsum(first) * len(spans)
    far = spans[by_end[np.maximum.accumulate(lifted) - np.cumsum(first) * len(spans)], 1] if len(spans) else spans[:, 1]
    begins = first.copy()
    begins[1:] |= spans[1:, 0] > far[:-1]
    begin = np.flatnonzero(begins)
    end = np.append(begin[1:], len(spans))[: len(begin)] - 1
    return curve[begin], np.stack((spans[begin, 0], far[end]), axis=1)


def left_over(whole: Array, hidden: Ints, spans: Array, drawn: Ints) -> tuple[Ints, Array]:
    """What *spans* (k, 2) of the *hidden* curves (k,), in order, leave of all that are *drawn*: their numbers and spans.

    :param whole: from where to where every curve runs, (n, 2).
    """
    low, high = whole[drawn, 0], whole[drawn, 1]
    owner = np.concatenate((drawn, hidden, drawn))
    # before the first, between two, behind the last
    begin = np.concatenate((low, spans[:, 1], np.full(len(drawn), np.nan)))
    end = np.concatenate((np.full(len(drawn), np.nan), spans[:, 0], high))
    rank = np.concatenate((np.full(len(drawn), -1), np.arange(len(hidden)), np.full(len(drawn), len(hidden))))
    sort = np.lexsort((rank, owner))
    owner, begin, end = owner[sort], begin[sort], end[sort]
    kept = (owner[1:] == owner[:-1]) & (end[1:] > begin[:-1])
    return owner[1:][kept], np.stack((begin[:-1][kept], end[1:][kept]), axis=1)


def without_smooth(curves: Curves, owner: Ints, spans: Array) -> tuple[Ints, Array]:
    """Hidden stretches but those of smooth edges, which say nothing that a drafter would draw dashed."""
    kept = curves.rank[owner] != _SMOOTH
    return owner[kept], spans[kept]


def draw(curves: Curves, names: Ints, strokes: Strokes, owner: Ints, spans: Array, hidden: bool) -> None:
    """Put stretches (k, 2) of curves (k,) into strokes, under the *names* of their bodies."""
    own = curves.pick(owner)
    point, way = own.at(spans[:, 0])
    far, _ = own.at(spans[:, 1])
    plain, conic = curves.plain[owner], curves.conic[owner]
    length = np.where(plain, np.abs(spans[:, 1] - spans[:, 0]) * np.linalg.norm(way, axis=1), np.inf)
    rank, name = np.where(hidden, _HIDDEN, curves.rank[owner]), names[curves.part[owner]]
    line = np.flatnonzero(plain & ~conic & (length > _GAP))
    strokes.lines += [tuple(row) for row in np.column_stack((point[line, :2], far[line, :2])).tolist()]
    strokes.line_tags += list(zip(rank[line].tolist(), name[line].tolist(), strict=True))
    for n in np.flatnonzero(plain & conic & (length > _GAP)).tolist():
        c, a, b = (tuple(v) for v in curves.frame[owner[n], :, :2].tolist())
        strokes.conic((int(rank[n]), int(name[n])), c, a, b, float(spans[n, 0]), float(spans[n, 1]))
    rest = np.flatnonzero(~plain & (spans[:, 1] - spans[:, 0] > 1e-9))
    share = np.linspace(0, 1, _SAMPLES)
    t = spans[rest, :1] + (spans[rest, 1:] - spans[rest, :1]) * share
    flat = own.pick(np.repeat(rest, _SAMPLES)).at(t.ravel())[0][:, :2].reshape(-1, _SAMPLES, 2)
    for n, through in zip(rest.tolist(), flat, strict=True):
        other = curves.other[owner[n]]
        assert other is not None
        tag = int(rank[n]), int(name[n])
        other.draw(strokes, tag, float(spans[n, 0]), float(spans[n, 1]), through)
