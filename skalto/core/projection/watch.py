"""The watch over hidden lines: what a view draws is tried by rays against the tessellated parts, whatever worked it out.

A seen stroke must part two faces, or a face and what lies further back, in what a viewer sees; where all of its surroundings
are one smooth face, it should not be seen. A sharp edge, or the contour of a curved face, from which a ray reaches the viewer
must have a stroke. Rays run through embree, in single precision about the model's middle. Whatever is nearer than the
tessellation can tell speaks for the drawing: the watch finds what is certainly wrong, not all that may be.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from pydantic import BaseModel, ConfigDict

from skalto.core.artwork import Artwork, Beziers, EdgeClass, Ellipses, Lines
from skalto.core.geometry import Array, Box
from skalto.core.geometry.grouping import groups_of, near_pairs, tree_of
from skalto.core.projection.cutting import Shown
from skalto.core.projection.rays import Flags, Ints, Sight, chord_of, stage_of
from skalto.core.sources.models.model import Model

SAMPLES = 6000
"""Places that are tried on the strokes of a view, and as many on the model's edges."""
SHARP = np.radians(20.0)
"""Faces that turn by more than this meet in an edge that must be drawn; flatter ones may be tangent within a file's
tolerance."""
STEEP = 12.0
"""Where the surface falls away faster than this, a contour may lie: nothing is said of it."""
AT_ONCE = 0.7
"""A contour falls by so much of its depth within some chords; a ball's by 0.8 at least, a slope by 0.4."""
ALONE = 2
"""A run of fewer places than this that lie by one another may be chance, and is left out."""
PLACES = 60
"""How many faults of a view are kept."""


class Fault(BaseModel):
    """A run of strokes or edges that is wrong: how long, mm of the model, and the box in the view's plane that it fills."""

    model_config = ConfigDict(frozen=True)

    kind: str
    """``unseen``: drawn as seen and hidden in truth; ``edge``: a sharp edge that is seen and not drawn; ``contour``: the same
    of a curved face's contour."""
    length: float
    box: Box
    edge_class: EdgeClass = EdgeClass.VISIBLE
    component: str = ""


class Watch(BaseModel):
    """What the rays say of a view: how many places were tried, the length of the seen strokes, mm of the model, and the faults,
    longest first. *tolerance* is how near the tessellation keeps to the faces, mm."""

    model_config = ConfigDict(frozen=True)

    samples: int = 0
    drawn: float = 0.0
    tolerance: float = 0.0
    faults: tuple[Fault, ...] = ()

    def of(self, classes: Collection[EdgeClass]) -> tuple[Fault, ...]:
        """The faults of a view that shows only these edge classes."""
        return tuple(fault for fault in self.faults if fault.edge_class in classes)


@dataclass(frozen=True, eq=False)
class _Samples:
    """Points on strokes: places (n, 2), unit directions (n, 2), the length each stands for (n,), and whose stroke it is
    (n,)."""

    places: Array
    ways: Array
    lengths: Array
    owner: Ints


def _on_curves(p: Array, share: Array) -> tuple[Array, Array]:
    s, u = share[:, None], 1 - share[:, None]
    at = u**3 * p[:, 0] + 3 * u * u * s * p[:, 1] + 3 * u * s * s * p[:, 2] + s**3 * p[:, 3]
    way = u * u * (p[:, 1] - p[:, 0]) + 2 * u * s * (p[:, 2] - p[:, 1]) + s * s * (p[:, 3] - p[:, 2])
    return at, way


def _sampled(item: Lines | Ellipses | Beziers, own: Array, step: float) -> tuple[Array, Array, Array]:
    count = np.clip(np.ceil(own / step), 1, 1e6).astype(np.int64)
    row = np.repeat(np.arange(len(own)), count)
    share = (np.arange(len(row)) - np.repeat(np.cumsum(count) - count, count) + 0.5) / count[row]
    if isinstance(item, Lines):
        a, b = item.points[row, 0], item.points[row, 1]
        at, way = a + (b - a) * share[:, None], b - a
    elif isinstance(item, Ellipses):
        t = item.start[row] + item.sweep[row] * share
        cos, sin = np.cos(t)[:, None], np.sin(t)[:, None]
        at = item.centre[row] + cos * item.major[row] + sin * item.minor[row]
        way = cos * item.minor[row] - sin * item.major[row]
    else:
        at, way = _on_curves(item.points[row], share)
    size = np.linalg.norm(way, axis=1)[:, None]
    return at, np.divide(way, size, out=np.zeros_like(way), where=size > 0), own[row] / count[row]


def _strokes(artwork: Artwork) -> list[tuple[Lines | Ellipses | Beziers, Array]]:
    """The seen strokes with the length of each."""
    found: list[tuple[Lines | Ellipses | Beziers, Array]] = []
    for item in artwork:
        if item.tags.edge_class is EdgeClass.HIDDEN or not len(item):
            continue
        if isinstance(item, Lines):
            found.append((item, np.linalg.norm(item.points[:, 1] - item.points[:, 0], axis=1)))
        elif isinstance(item, Ellipses):
            found.append((item, item.radii().max(axis=1) * item.sweep))
        elif isinstance(item, Beziers):
            found.append((item, np.linalg.norm(np.diff(item.points, axis=1), axis=-1).sum(axis=1)))
    return found


def _along(strokes: Sequence[tuple[Lines | Ellipses | Beziers, Array]], step: float) -> _Samples:
    rows = [_sampled(item, own, step) for item, own in strokes]
    owner = [np.full(len(at), n) for n, (at, _, _) in enumerate(rows)]
    return _Samples(
        np.concatenate([np.empty((0, 2)), *(r[0] for r in rows)]), np.concatenate([np.empty((0, 2)), *(r[1] for r in rows)]),
        np.concatenate([np.empty(0), *(r[2] for r in rows)]), np.concatenate([np.empty(0, np.int64), *owner]),
    )  # fmt: skip


def _inside_one_face(seen: Sight, samples: _Samples, chord: float) -> Flags:
    """Which places of strokes lie in the midst of one smooth face, as far as a viewer sees it: no edge can be there."""
    places = samples.places - seen.origin[:2]
    square = np.column_stack((-samples.ways[:, 1], samples.ways[:, 0]))
    middle, near = seen.first(places)
    wrong = middle >= 0
    # the nearest for what just shows through, as narrow as a hair
    for reach in (0.4 * chord, chord, 3 * chord, 8 * chord):
        rows = np.flatnonzero(wrong)
        sides = []
        for sign in (1.0, -1.0):
            hit, depth = seen.first(places[rows] + sign * reach * square[rows])
            own = middle[rows]
            same = (hit >= 0) & (seen.face[hit] == seen.face[own])
            # triangles of one face that turn little, and no fall between them
            turn = (seen.normals[hit] * seen.normals[own]).sum(axis=1)
            same &= (turn > np.cos(SHARP)) & (np.abs(depth - near[rows]) < STEEP * reach)
            sides.append(same)
        wrong[rows] &= sides[0] & sides[1]
    return wrong


def _fall(inner: Array, outer: Array) -> Array:
    """How far the surface falls from one place to the next, without end where nothing lies at the second."""
    there = np.isfinite(inner)
    return np.subtract(inner, outer, out=np.zeros(len(inner)), where=there)


def _missing(
    seen: Sight, tree: Any | None, starts: Array, ends: Array, outward: Array, chord: float, contour: bool, most: int
) -> tuple[Array, Array]:
    """Places (n, 2) and lengths (n,) of edges from *starts* to *ends* (m, 3) that are seen and have no stroke near; at most so
    many are tried."""
    length = np.linalg.norm((ends - starts)[:, :2], axis=1)
    total = float(length.sum())
    if total <= 0:
        return np.empty((0, 2)), np.empty(0)
    count = min(most, max(len(length), 200))
    along = (np.arange(count) + 0.5) * total / count
    before = np.concatenate(([0.0], np.cumsum(length)))
    row = np.clip(np.searchsorted(before, along, side="right") - 1, 0, len(length) - 1)
    share = np.clip((along - before[row]) / np.maximum(length[row], 1e-12), 0, 1)[:, None]
    at = starts[row] + (ends[row] - starts[row]) * share
    out = outward[row]
    rows = np.arange(count)
    for reach in (3 * chord, 8 * chord, 20 * chord):
        rows = rows[seen.free(at[rows] + reach * out[rows])]
    if contour:
        # a true contour has its own face at one side and what lies further back, or nothing, at the other
        flat = out[rows, :2] / np.maximum(np.linalg.norm(out[rows, :2], axis=1), 1e-12)[:, None]
        _, inner = seen.first(at[rows, :2] - 6 * chord * flat)
        _, outer = seen.first(at[rows, :2] + 6 * chord * flat)
        fall = _fall(inner, outer)
        off = np.abs(np.where(np.isfinite(inner), inner, 0.0) - at[rows, 2])
        keep = (fall > 60 * chord) & (off < np.maximum(0.5 * fall, 200 * chord))
        rows, flat, fall = rows[keep], flat[keep], fall[keep]
        # and falls at once: a wall that leans is steep all over, and its triangles turn to and fro
        _, inner = seen.first(at[rows, :2] - 2.5 * chord * flat)
        _, outer = seen.first(at[rows, :2] + 2.5 * chord * flat)
        rows = rows[(_fall(inner, outer) > AT_ONCE * fall) | np.isinf(fall)]
    if tree is not None and len(rows):
        near, _ = tree.query(at[rows, :2], distance_upper_bound=12 * chord)
        rows = rows[~np.isfinite(near)]
    return at[rows, :2], np.full(len(rows), total / count)


def _edges(seen: Sight) -> tuple[tuple[Array, Array, Array], tuple[Array, Array, Array]]:
    """Sharp edges and contours of curved faces, each as starts, ends and the ways out of the part, (m, 3) each."""
    a, b = seen.normals[seen.sides[:, 0]], seen.normals[seen.sides[:, 1]]
    one_face = seen.face[seen.sides[:, 0]] == seen.face[seen.sides[:, 1]]
    rows = np.flatnonzero(np.maximum(a[:, 2], b[:, 2]) > 0)
    rows = rows[~one_face[rows] | ((a[rows, 2] > 1e-6) != (b[rows, 2] > 1e-6))]
    a, b, one_face = a[rows], b[rows], one_face[rows]
    turn = np.clip((a * b).sum(axis=1), -1, 1)
    out = a + b
    size = np.linalg.norm(out, axis=1)
    out = out / np.maximum(size, 1e-9)[:, None]
    sharp = (turn < np.cos(SHARP)) & (size > 0.2) & (np.maximum(a[:, 2], b[:, 2]) > 0.05) & ~one_face
    round_ = (turn >= np.cos(SHARP)) & one_face

    def of(chosen: Flags) -> tuple[Array, Array, Array]:
        return seen.edges[rows[chosen], 0], seen.edges[rows[chosen], 1], out[chosen]

    return of(sharp), of(round_)


def _faults(kind: str, edge_class: EdgeClass, places: Array, lengths: Array, gap: float, owners: Sequence[str]) -> list[Fault]:
    """Places (n, 2) that lie nearer than *gap* to one another as runs; those by themselves may be chance."""
    if not len(places):
        return []
    labels = groups_of(near_pairs(places, gap), len(places))
    found = []
    for label in range(int(labels.max()) + 1):
        own = labels == label
        if own.sum() < ALONE:
            continue
        (x0, y0), (x1, y1) = places[own].min(axis=0).tolist(), places[own].max(axis=0).tolist()
        component = owners[int(np.argmax(own))] if owners else ""
        found.append(
            Fault(
                kind=kind, length=float(lengths[own].sum()), box=(x0, y0, x1, y1), edge_class=edge_class, component=component
            )
        )  # fmt: skip
    return found


def watch(model: Model, shown: Shown, axes: Array, artwork: Artwork, cut: bool = False, count: int = SAMPLES) -> Watch:
    """Try a view's lines by rays.

    :param axes: rows right, up, toward the viewer, (3, 3). :param artwork: the lines in the view's plane, model mm.
    :param cut: whether the shapes are cut, and so not the model's own. :param count: how many places are tried.
    """
    chord = chord_of(shown, model)
    stage = stage_of(model, shown, cut, chord)
    if stage is None:
        return Watch(tolerance=chord)
    seen, strokes = Sight(stage, axes), _strokes(artwork)
    drawn = sum(float(own.sum()) for _, own in strokes)
    samples = _along(strokes, max(drawn / count, 1e-6))
    wrong = _inside_one_face(seen, samples, chord)
    faults: list[Fault] = []
    for edge_class in EdgeClass:
        own = np.array([item.tags.edge_class is edge_class for item, _ in strokes], bool)[samples.owner] & wrong
        owners = [strokes[n][0].tags.component for n in samples.owner[own].tolist()]
        gap = 2.5 * max(float(samples.lengths.max(initial=0.0)), 20 * chord)
        faults += _faults("unseen", edge_class, samples.places[own], samples.lengths[own], gap, owners)
    dense = _along(strokes, max(4 * chord, drawn / 200_000))
    tree = tree_of(dense.places - seen.origin[:2]) if len(dense.places) else None
    sharp, contours = _edges(seen)
    for kind, edge_class, edges in (("edge", EdgeClass.VISIBLE, sharp), ("contour", EdgeClass.OUTLINE, contours)):
        places, lengths = _missing(seen, tree, *edges, chord, kind == "contour", count)
        gap = 2.5 * max(float(lengths.max(initial=0.0)), 20 * chord)
        faults += _faults(kind, edge_class, places + seen.origin[:2], lengths, gap, [])
    longest = sorted(faults, key=lambda fault: -fault.length)[:PLACES]
    return Watch(samples=len(samples.places), drawn=drawn, tolerance=chord, faults=tuple(longest))
