"""A view by facets that is kept: hiding a component or showing it again seeks only the lines that it touches."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from weakref import WeakKeyDictionary

import numpy as np

from skalto.core.geometry import Array
from skalto.core.geometry.grouping import GROWN, touched
from skalto.core.projection.cutting import Shown
from skalto.core.projection.facets import Flags, Ints
from skalto.core.projection.facing import OWN_BAND, bodies_of, draw, exact_ends, left_over, runs_of, united, without_smooth
from skalto.core.projection.hiding import hidden_stretches
from skalto.core.projection.passing import Body, passing_of
from skalto.core.projection.stage import Chords, Curves
from skalto.core.projection.staging import Triangles, faces_beside, staged_for
from skalto.core.projection.strokes import Strokes
from skalto.core.sources.models.model import Model

MOST = 2_000_000
"""Views of more triangles are not kept: 350 MB for these."""


@dataclass(eq=False)
class _Found:
    """What is hidden where some bodies are shown, (b,): stretches of chords as of
    :func:`~skalto.core.projection.hiding.hidden_stretches`, ``rows`` (n, 4) and ``spans`` (n, 2), with triangles by their
    numbers of all, and of each ``curve`` (r,) the runs with exact ends, ``runs`` (r, 2)."""

    shown: Flags
    rows: Ints
    spans: Array
    curve: Ints
    runs: Array


class FacetView:
    """Bodies as a view sees them, by the rows right, up, toward the viewer, *axes* (3, 3)."""

    def __init__(self, bodies: Sequence[Body], axes: Array) -> None:
        numbered = [(n, facets, matrix) for n, (_, facets, matrix) in enumerate(bodies)]
        self._staged = staged_for(numbered, passing_of(numbered), axes)
        self._found: _Found | None = None
        if self._staged is not None:
            curves, chords, triangles = self._staged
            self._parts = _parts_of(curves, chords, triangles)
            self._sides = faces_beside(triangles.scene, chords.beside, triangles.lean)

    @property
    def triangles(self) -> int:
        """How many triangles there are."""
        return 0 if self._staged is None else len(self._staged[2].scene.triangles)

    @property
    def finite(self) -> bool:
        """Whether all lines could be told: a surface that cannot be evaluated leaves some nowhere."""
        return self._staged is None or bool(np.isfinite(self._staged[1].ends).all())

    def strokes(self, names: Ints, tolerance: float) -> Strokes:
        """All edges by class, seen and unseen, in the view's plane.

        :param names: the number that each body's strokes bear, (b,), -1 where it is not shown. :param tolerance: mm in the
            model, for what is fitted.
        """
        strokes = Strokes()
        if self._staged is None or not (names >= 0).any():
            return strokes
        curves, chords, _ = self._staged
        shown = names >= 0
        if self._found is None or (self._found.shown != shown).any():
            self._found = self._hidden(shown, self._found)
        owner, spans = united(self._found.curve, self._found.runs)
        drawn = np.unique(chords.curve[self._on(shown)[chords.curve]])
        draw(curves, names, strokes, *left_over(curves.span, owner, spans, drawn), False)
        draw(curves, names, strokes, *without_smooth(curves, owner, spans), True)
        strokes.fit(tolerance)
        return strokes

    def _on(self, shown: Flags) -> Flags:
        """Which curves are there: a line in which two bodies pass through one another needs both, (n,)."""
        return np.asarray(shown[self._parts].all(axis=1))

    def _hidden(self, shown: Flags, before: _Found | None) -> _Found:
        assert self._staged is not None
        curves, chords, triangles = self._staged
        on = self._on(shown)
        tried = on[chords.curve]
        kept_rows, kept_spans = np.empty((0, 4), np.int64), np.empty((0, 2))
        kept_curve, kept_runs = np.empty(0, np.int64), np.empty((0, 2))
        if before is not None:
            changed = (shown != before.shown)[triangles.part]
            fresh = on & ~self._on(before.shown)
            tried &= fresh[chords.curve] | touched(_boxes(chords.ends), _boxes(triangles.corners[changed]))
            kept = (on[chords.curve] & ~tried)[before.rows[:, 0]]
            kept_rows, kept_spans = before.rows[kept], before.spans[kept]
            dirty = np.zeros(len(on), bool)
            dirty[chords.curve[tried]] = True
            kept = (on & ~dirty)[before.curve]
            kept_curve, kept_runs = before.curve[kept], before.runs[kept]
        else:
            dirty = on
        rows, spans = self._stretches(np.flatnonzero(tried & ~chords.hidden), np.flatnonzero(shown[triangles.part]))
        rows, spans = np.concatenate((kept_rows, rows)), np.concatenate((kept_spans, spans))
        again = dirty[chords.curve[rows[:, 0]]]
        whole = np.flatnonzero(chords.hidden & dirty[chords.curve])
        runs = runs_of(curves, chords, rows[again], spans[again], whole)
        exact = exact_ends(curves, chords, triangles, runs)
        return _Found(shown, rows, spans, np.concatenate((kept_curve, runs.curve)), np.concatenate((kept_runs, exact)))

    def _stretches(self, tried: Ints, hiding: Ints) -> tuple[Ints, Array]:
        """The stretches of chords *tried* that triangles *hiding* hide, all by their numbers."""
        assert self._staged is not None
        curves, chords, triangles = self._staged
        scene = triangles.scene
        if len(hiding) < len(triangles.corners) or len(tried) < len(chords.curve) // 2:
            near = _meeting(_boxes(triangles.corners[hiding]), _boxes(chords.ends[tried]))
            hiding = hiding[near]
            corners, name, face = triangles.corners[hiding], triangles.name[hiding], triangles.face[hiding]
            part, band = triangles.part[hiding], triangles.band[hiding]
        else:
            corners, name, face, part, band = (
                triangles.corners, triangles.name, triangles.face, triangles.part, triangles.band,
            )  # fmt: skip
        curve, beside = chords.curve[tried], chords.beside[tried]
        kind = np.where(curves.plain, curves.conic, 2)[curve]
        of_curves = kind, curve, chords.params[tried], curves.frame
        rows, spans = hidden_stretches(
            chords.ends[tried], beside, self._sides[tried], chords.clear[tried], of_curves, corners, name, face, part,
            band, OWN_BAND, (scene.surface, scene.form),
        )  # fmt: skip
        rows[:, 0] = tried[rows[:, 0]]
        for column in (1, 2):
            there = rows[:, column] >= 0
            rows[there, column] = hiding[rows[there, column]]
        return rows, spans


def _parts_of(curves: Curves, chords: Chords, triangles: Triangles) -> Ints:
    """The bodies that each curve is of, (n, 2), twice the same where it is of one."""
    scene = triangles.scene
    first = np.array(list(scene.first_face.values()), np.int64)
    part = np.array(list(scene.first_face), np.int64)
    found = np.stack((curves.part, curves.part), axis=1)
    crossing = np.flatnonzero((chords.beside[:, 3:] >= 0).all(axis=1))
    found[chords.curve[crossing]] = part[np.searchsorted(first, chords.beside[crossing, 3:], side="right") - 1]
    return found


def _boxes(points: Array) -> Array:
    """The boxes (n, 4) in the view's plane, left, bottom, right, top, of points (n, k, 3)."""
    found = np.empty((len(points), 4))
    flat = points[:, :, :2]
    found[:, :2] = found[:, 2:] = flat[:, 0]
    for n in range(1, flat.shape[1]):
        np.minimum(found[:, :2], flat[:, n], out=found[:, :2])
        np.maximum(found[:, 2:], flat[:, n], out=found[:, 2:])
    return found


def _meeting(boxes: Array, others: Array) -> Ints:
    """Which *boxes* meet the one box around all *others*."""
    if not len(others):
        return np.empty(0, np.int64)
    low, high = others[:, :2].min(axis=0) - GROWN, others[:, 2:].max(axis=0) + GROWN
    return np.flatnonzero((boxes[:, 2:] >= low).all(axis=1) & (boxes[:, :2] <= high).all(axis=1))


@dataclass(frozen=True, eq=False)
class _Kept:
    """The last view of a model that was not cut: its axes, and the bodies' numbers by their components' paths."""

    axes: Array
    bodies: dict[str, int]
    view: FacetView


_kept: WeakKeyDictionary[Model, _Kept] = WeakKeyDictionary()


def _last(model: Model, shown: Shown, axes: Array) -> _Kept | None:
    """The view of a model that is kept, where it has these axes and all that is shown."""
    last = _kept.get(model)
    if last is None or (last.axes != axes).any():
        return None
    return last if all(component.path in last.bodies for component in shown.components) else None


def is_kept(model: Model, shown: Shown, axes: Array) -> bool:
    """Whether only components were hidden or shown since the last view of a model: its lines are there in a fraction of the
    time."""
    return _last(model, shown, axes) is not None


def forget(model: Model) -> None:
    """Drop the view of a model that is kept."""
    _kept.pop(model, None)


def shown_strokes(
    model: Model, shown: Shown, numbers: Sequence[int], axes: Array, tolerance: float, cut: bool
) -> Strokes | None:
    """All edges of shown components, those with these *numbers*, by class, seen and unseen, in the view's plane; None where
    not every face has triangles, or lines of it come to lie nowhere.

    :param axes: rows right, up, toward the viewer, (3, 3). :param tolerance: mm in the model, for what is fitted.
    :param cut: whether the shapes are cut, and so not the model's own.
    """
    last = None if cut else _last(model, shown, axes)
    if last is not None:
        names = np.full(len(last.bodies), -1)
        for number, component in enumerate(shown.components):
            names[last.bodies[component.path]] = number
        return last.view.strokes(names, tolerance)
    bodies = bodies_of(model, shown, numbers)
    if not all(facets.whole for _, facets, _ in bodies):
        return None
    if not cut:
        forget(model)
    view = FacetView(bodies, axes)
    if not view.finite:
        return None
    strokes = view.strokes(np.array(numbers, np.int64), tolerance)
    if not cut and len(numbers) == len(shown.components) and view.triangles <= MOST:
        _kept[model] = _Kept(axes, {shown.components[number].path: n for n, number in enumerate(numbers)}, view)
    return strokes


def facet_strokes(bodies: Sequence[Body], axes: Array, tolerance: float) -> Strokes:
    """The same of any bodies, not kept."""
    return FacetView(bodies, axes).strokes(np.array([number for number, _, _ in bodies], np.int64), tolerance)
