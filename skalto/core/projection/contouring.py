"""Contours of curved faces: where their normals turn from the viewer, as curves with their ends exact."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numba
import numpy as np

from skalto.core.geometry import TAU, Array
from skalto.core.geometry.grouping import groups_of
from skalto.core.projection.facets import Flags, Ints, Surface
from skalto.core.projection.scene import Scene
from skalto.core.projection.solving import turned_away
from skalto.core.projection.stage import EDGE_ON, OUTLINE, Curves, Stage
from skalto.core.projection.turning import Contour, EdgeOn, bends_on

_HALVINGS = 40
_NOT = np.zeros(1, bool)
_STRAIGHT = 1e-3
"""The sine of an angle, under which what runs through a cone's tip is one line."""
_LEFT_OUT = 3
_TRIED = np.linspace(0, 1, 9)
"""Where a chord of a contour is tried."""
UPRIGHT = 1e-3
"""A face whose normals all lean toward the viewer or away by less than this may be a wall along the look."""
_LEANS_OVER = 5e-3
"""By how much such a wall may lean over in all, mm."""
_ARC = 0.15
"""The turn of a chord of a round contour, radians."""


@numba.njit(cache=True)  # type: ignore[untyped-decorator]
def _chains(pairs, members, begin, out, out_begin):  # type: ignore[no-untyped-def]
    """Of each run the numbers *members*, from its *begin* on, in the order in which *pairs* (m, 2) join them, into *out* from
    *out_begin* on: a closed one ends where it begins. No number is in more than two pairs."""
    beside = np.full((members.max() + 1, 2), -1)
    for n in range(len(pairs)):
        for own, other in ((pairs[n, 0], pairs[n, 1]), (pairs[n, 1], pairs[n, 0])):
            if own < len(beside):
                beside[own, 0 if beside[own, 0] < 0 else 1] = other
    end = 0
    for run in range(len(begin)):
        last = begin[run + 1] if run + 1 < len(begin) else len(members)
        at = members[begin[run]]
        for n in range(begin[run], last):
            if beside[members[n], 1] < 0:
                at = members[n]
                break
        out_begin[run] = end
        out[end] = at
        end += 1
        # a damaged mesh may have more than two
        while end < len(out) and (beside[at, 0] >= 0 or beside[at, 1] >= 0):
            side = 0 if beside[at, 0] >= 0 else 1
            after = beside[at, side]
            beside[at, side] = -1
            beside[after, 0 if beside[after, 0] == at else 1] = -1
            out[end] = after
            end += 1
            at = after
    return end


def _away(points: Array, outward: Array, form: Array) -> Array:
    """How far the ways out of the part lead away from the axes of cylinders and cones, at points near their faces, (k, 3)."""
    points, axis = points - form[:, :3], form[:, 3:6]
    points -= (points * axis).sum(axis=1)[:, None] * axis
    return np.asarray((outward * points).sum(axis=1))


def _outside(points: Array, middle: Array, normals: Array, first: Ints) -> Array:
    """Chords (k, 2, 3) from points *first* (k,) to the next, moved out of the part (*normals* at the points) by as much as a
    contour's *middle* (k, 3) lies beyond its chord: what is beside it in the part does not hide it then."""
    last = first + 1
    beyond = np.maximum(((middle - (points[first] + points[last]) / 2) * normals[first]).sum(axis=1), 0.0)
    before, behind = np.zeros(len(points)), np.zeros(len(points))
    before[last], behind[first] = beyond, beyond
    moved = points + normals * np.maximum(before, behind)[:, None]
    return np.stack((moved[first], moved[last]), axis=1)


@dataclass(eq=False)
class _End:
    """Where a contour ends: at the first or the last of its places (0, −1), where that is about, and on which curve, −1 for
    none, the kernel's edge, between two of its parameters."""

    place: int
    at: Array
    curve: int
    edge: Any
    low: float
    high: float


@dataclass(eq=False)
class _Run:
    """A contour as the triangles tell it: its part, face, what that is, places (k, 3) and parameters (k, 2) on the sides of
    triangles, in order where it is neither line nor circle, the way out of the part at the first, and its ends."""

    part: int
    face: int
    surface: int
    form: Array
    at: Array
    uv: Array
    outward: Array
    ends: list[_End]
    patch: int = -1


@dataclass(frozen=True, eq=False)
class _Cut:
    """Places (k,) at which sides of triangles that face the viewer in part change over: the number of the ``run`` of each,
    whether it is the ``last`` of a run at one end, where it is ``at`` (k, 3), its parameters ``uv`` (k, 2), the chord that the
    side is or −1, the triangle, and the way out of the part, (k, 3)."""

    run: Ints
    last: Flags
    at: Array
    uv: Array
    chord: Ints
    triangle: Ints
    outward: Array


def toward_of(scene: Scene) -> Flags:
    """Which nodes of a scene have a normal that leads to the viewer."""
    return np.asarray(scene.normals[:, 2] > 1e-9)


def _mixed(scene: Scene, toward: Flags) -> Ints:
    """Triangles of curved faces that a contour runs through."""
    seen = toward[scene.triangles].sum(axis=1)
    return np.flatnonzero((seen > 0) & (seen < 3) & (scene.surface[scene.face] != Surface.PLANE))


def upright_faces(scene: Scene) -> Flags:
    """Which curved faces of a scene are walls along the look, (f,): their normals turn to and fro by the noise of their making,
    and lean over less than what a pen can draw. Where such a wall ends is its outline; contours on it would be noise."""
    found = np.zeros(len(scene.surface), bool)
    mixed = _mixed(scene, toward_of(scene))
    lean = np.abs(scene.normals[scene.triangles[mixed], 2]).max(axis=1, initial=0.0)
    steep = np.ones(len(found), bool)
    steep[scene.face[mixed[lean > UPRIGHT]]] = False
    for face in np.unique(scene.face[mixed[steep[scene.face[mixed]]]]).tolist():
        low, high = np.searchsorted(scene.face, (face, face + 1))
        nodes = scene.triangles[low:high]
        lean = float(np.abs(scene.normals[nodes, 2]).max())
        found[face] = lean < UPRIGHT and lean * float(np.ptp(scene.points[nodes, 2])) < _LEANS_OVER
    return found


class Contours:
    """The contours of a scene, whose edges are the curves from nought on."""

    def __init__(self, stage: Stage, scene: Scene, upright: Flags) -> None:
        """:param upright: which faces (f,) are walls, and have none."""
        self.stage, self.scene, self.upright = stage, scene, upright
        self.patches = stage.patches

    def add(self) -> None:
        """Find them all and put them on the stage."""
        scene = self.scene
        toward = toward_of(scene)
        mixed = _mixed(scene, toward)
        mixed = mixed[~self.upright[scene.face[mixed]]]
        if not len(mixed):
            return
        corners = scene.triangles[mixed]
        after = np.roll(corners, -1, axis=1)
        rows, places = np.nonzero(toward[corners] != toward[after])
        a, b = corners[rows, places], after[rows, places]
        key = (np.minimum(a, b) << 32) + np.maximum(a, b)
        _, first, node, met = np.unique(key, return_index=True, return_inverse=True, return_counts=True)
        pairs = node.reshape(-1, 2)  # each mixed triangle is cut at two of its sides
        run = groups_of(pairs, len(first))
        rows, places, a, b = rows[first], places[first], a[first], b[first]
        fa, fb = scene.normals[a, 2], scene.normals[b, 2]
        share = np.clip(fa / np.where(fa == fb, 1.0, fa - fb), 0, 1)[:, None]
        cut = _Cut(
            run, met == 1, scene.points[a] + (scene.points[b] - scene.points[a]) * share,
            scene.uv[a] + (scene.uv[b] - scene.uv[a]) * share, scene.sides[mixed][rows, places], mixed[rows],
            scene.normals[a] + (scene.normals[b] - scene.normals[a]) * share,
        )  # fmt: skip
        curves = self.stage.all_curves()
        self._straight(cut, curves)
        self._bent(self._runs(cut, pairs), curves)

    def _straight(self, cut: _Cut, curves: Curves) -> None:
        """The contours of cylinders and cones, from edge to edge."""
        scene = self.scene
        order = np.argsort(cut.run, kind="stable")
        begin = np.flatnonzero(np.diff(cut.run[order], prepend=-1))
        face = scene.face[cut.triangle[order[begin]]]
        kind = scene.surface[face]
        chosen = ((kind == Surface.CYLINDER) | (kind == Surface.CONE)) & (np.bincount(cut.run, cut.last) == 2)
        if not chosen.any():
            return
        last = order[cut.last[order] & chosen[cut.run[order]]]
        ends = cut.at[last]
        form, surface = np.repeat(scene.form[face[chosen]], 2, axis=0), np.repeat(kind[chosen], 2)
        known = np.flatnonzero(cut.chord[last] >= 0)
        chord = cut.chord[last[known]]
        low, high = scene.params[chord].T
        rows = curves.pick(scene.edge[chord])
        exact = turned_away(rows, (low + high) / 2, np.abs(high - low), surface[known], form[known])
        there = np.isfinite(exact)
        ends[known[there]] = rows.at(exact)[0][there]
        ends, outward = ends.reshape(-1, 2, 3), cut.outward[last].reshape(-1, 2, 3)
        form, face, kind = form[::2], face[chosen], kind[chosen]
        parts = scene.part[cut.triangle[order[begin[chosen]]]]
        middle = (np.add.reduceat(cut.at[order], begin, axis=0) / np.diff(begin, append=len(order))[:, None])[chosen]
        convex = _away(middle, outward[:, 0], form) > 0
        # the contours of a cone run through its tip, where the triangles tell little of them
        chord = cut.chord[last].reshape(-1, 2)
        tip = (chord < 0) | scene.seam[scene.edge[chord]]
        from_tip = ends - form[:, None, :3]
        size = np.linalg.norm(from_tip, axis=2).prod(axis=1)
        bent = np.linalg.norm(np.cross(from_tip[:, 0], from_tip[:, 1]), axis=1) > _STRAIGHT * size
        from_tip_on = (kind == Surface.CONE) & (tip.any(axis=1) | bent)
        for n in np.flatnonzero(from_tip_on).tolist():
            from_tip_on[n] = self._has_tip(int(face[n]))
        single = np.flatnonzero(~from_tip_on)
        row, side = np.nonzero(from_tip_on[:, None] & ~tip)
        ends = np.concatenate((ends[single], np.stack((form[row, :3], ends[row, side]), axis=1)))
        convex = np.concatenate((convex[single], _away(ends[len(single) :, 1], outward[row, side], form[row]) > 0))
        own = np.concatenate((single, row))
        count = len(ends)
        frame = np.stack((ends[:, 0], ends[:, 1] - ends[:, 0], np.zeros((count, 3))), axis=1)
        span = np.tile((0.0, 1.0), (count, 1))
        numbers = self.stage.add_curves(np.zeros(count, bool), frame, span, np.full(count, OUTLINE), parts[own], [None] * count)
        beside = np.full((count, 5), -1)
        beside[:, 3] = face[own]
        self.stage.add_chords(ends, span, numbers, beside, ~convex)

    def _has_tip(self, face: int) -> bool:
        """Whether a cone's face reaches to its tip."""
        scene = self.scene
        low, high = np.searchsorted(scene.face, (face, face + 1))
        away = np.linalg.norm(scene.points[scene.triangles[low:high]] - scene.form[face, :3], axis=-1)
        return bool(away.min() <= 1e-6 * away.max())

    def _runs(self, cut: _Cut, pairs: Ints) -> list[_Run]:
        """The contours of all other faces."""
        scene = self.scene
        found: list[_Run] = []
        kind = scene.surface[scene.face[cut.triangle]]
        chosen = np.flatnonzero((kind != Surface.CYLINDER) & (kind != Surface.CONE))
        if not len(chosen):
            return found
        order = chosen[np.argsort(cut.run[chosen], kind="stable")]
        begin = np.flatnonzero(np.diff(cut.run[order], prepend=-1))
        chains, chain_begin = np.empty(len(order) + len(begin), np.int64), np.empty(len(begin), np.int64)
        end = _chains(pairs, order, begin, chains, chain_begin)
        for own, chain in zip(np.split(order, begin[1:]), np.split(chains[:end], chain_begin[1:]), strict=True):
            triangle = int(cut.triangle[own[0]])
            face = int(scene.face[triangle])
            surface = int(scene.surface[face])
            if surface == Surface.SPHERE:
                ends = own[cut.last[own]].tolist()
            else:
                own = chain
                ends = [int(own[0]), int(own[-1])] if own[0] != own[-1] else []
            part = int(scene.part[triangle])
            run = _Run(part, face, surface, scene.form[face], cut.at[own], cut.uv[own], cut.outward[own[0]], [])
            if surface != Surface.SPHERE:
                run.patch = self.stage.faces.patch(face)
            for end in ends:
                on = int(cut.chord[end])
                edge = int(scene.edge[on]) if on >= 0 else -1
                low, high = scene.params[on].tolist()
                kernel = scene.kernel[edge]
                run.ends.append(_End(0 if end == ends[0] else -1, cut.at[end], edge, kernel, low, high))
            found.append(run)
        return found

    def _bent(self, runs: list[_Run], curves: Curves) -> None:
        ends = [(run, end) for run in runs for end in run.ends if end.curve >= 0 and run.surface != Surface.OTHER]
        if ends:
            rows = curves.pick(np.array([end.curve for _, end in ends], np.int64))
            t = np.array([(end.low + end.high) / 2 for _, end in ends])
            reach = np.array([abs(end.high - end.low) for _, end in ends])
            surface = np.array([run.surface for run, _ in ends], np.int64)
            exact = turned_away(rows, t, reach, surface, np.array([run.form for run, _ in ends]))
            points, _ = rows.at(exact)
            for n in np.flatnonzero(np.isfinite(exact)).tolist():
                ends[n][1].at = points[n]
        traced = []
        for run in runs:
            if run.surface == Surface.SPHERE:
                self._round(run)
            elif run.surface == Surface.TORUS and abs(float(run.form[5])) < EDGE_ON:
                self._level_ring(run)
            else:
                traced.append(run)
        if traced:
            self._traced(traced)

    def _traced(self, runs: list[_Run]) -> None:
        """Contours that are neither line nor conic, through the places that were found on the sides of triangles."""
        count = [len(run.uv) for run in runs]
        patch = np.repeat([run.patch for run in runs], count)
        uv = np.concatenate([run.uv for run in runs])
        found, points, *_ = self.patches.turn_to(patch, uv, np.concatenate([_farther(run.at) for run in runs]))
        through = np.split(points, np.cumsum(count)[:-1])
        kept = [_in_order(own) for own in through]
        places = [own[rows] for own, rows in zip(np.split(found, np.cumsum(count)[:-1]), kept, strict=True)]
        # between two places the contour is hardly farther from their chord than it is long
        reach = [_spacing(own[rows]) for own, rows in zip(through, kept, strict=True)]
        count = [len(rows) for rows in kept]
        pairs = [(run, own, end) for run, own in zip(runs, places, strict=True) for end in run.ends]
        on_edges = [
            (own, end, EdgeOn(run.patch, end.edge, end.low, end.high, run.uv[end.place]))
            for run, own, end in pairs
            if run.surface != Surface.TORUS and end.curve >= 0
        ]
        exact, _ = self.patches.ends_on([asked for _, _, asked in on_edges])
        for (own, end, _), at in zip(on_edges, exact, strict=True):
            if np.isfinite(at[0]):
                own[end.place] = at
        on_rings = [(run, own, end) for run, own, end in pairs if run.surface == Surface.TORUS]
        for (_, own, end), at in zip(on_rings, self._on_rings([(run, end) for run, _, end in on_rings]), strict=True):
            own[end.place] = at
        self._tame([n for n, run in enumerate(runs) if run.surface != Surface.TORUS], runs, places, reach)
        contours = [Contour(self.patches, run.patch, own, far) for run, own, far in zip(runs, places, reach, strict=True)]
        # where a contour turns from what can be seen to what cannot, without an edge
        owner = np.repeat(np.arange(len(runs)), count)
        t = np.concatenate([np.arange(n, dtype=float) for n in count])
        numbers_of = np.array([contour.number for contour in contours], np.int64)
        _, bend, _ = bends_on(self.patches, numbers_of[owner], t)
        away = bend > 0
        changes = np.flatnonzero((away[1:] != away[:-1]) & (owner[1:] == owner[:-1]))
        low, high = t[changes].copy(), t[changes + 1].copy()
        for _ in range(_HALVINGS if len(changes) else 0):
            middle = (low + high) / 2
            as_before = (bends_on(self.patches, numbers_of[owner[changes]], middle)[1] > 0) == away[changes]
            low, high = np.where(as_before, middle, low), np.where(as_before, high, middle)
        t, owner = np.concatenate((t, (low + high) / 2)), np.concatenate((owner, owner[changes]))
        order = np.lexsort((t, owner))
        t, owner = t[order], owner[order]
        points, _, normals = bends_on(self.patches, numbers_of[owner], t)
        same = np.flatnonzero(owner[1:] == owner[:-1])
        middle, bend, _ = bends_on(self.patches, numbers_of[owner[same]], (t[same] + t[same + 1]) / 2)
        numbers = []
        for run, contour in zip(runs, contours, strict=True):
            span = np.array([[0.0, float(contour.last)]])
            own_number = self.stage.add_curves(_NOT, np.zeros((1, 3, 3)), span, np.array([OUTLINE]), run.part, [contour])
            numbers.append(int(own_number[0]))
            self.stage.contours.setdefault(run.face, []).append(int(own_number[0]))
        self.stage.add_chords(
            _outside(points, middle, normals, same), np.stack((t[same], t[same + 1]), axis=1),
            np.array(numbers, np.int64)[owner[same]], np.full((len(same), 5), -1), bend > 0,
        )  # fmt: skip

    def _tame(self, rows: list[int], runs: list[_Run], places: list[Array], reach: list[Array]) -> None:
        """Take away the *reach* of the chords of contours along which there is none to be found: where a surface waves more
        finely than its triangles, the search leads here and there from one place to the next. Such chords stay straight on
        the surface.

        :param rows: the contours that are looked at. :param places: parameters (k, 2) of each contour.
        """
        count = [len(places[n]) - 1 for n in rows]
        if not sum(count):
            return
        patch = np.repeat([runs[n].patch for n in rows], count)
        begin, end = np.concatenate([places[n][:-1] for n in rows]), np.concatenate([places[n][1:] for n in rows])
        far = np.concatenate([reach[n][:-1] for n in rows])
        at = np.array([self.patches.turn_to(patch, begin + (end - begin) * share, far)[1] for share in _TRIED])
        away, way = at - at[0], at[-1] - at[0]
        size = np.maximum((way * way).sum(axis=1), 1e-30)
        along = (away * way).sum(axis=2) / size
        off = np.linalg.norm(away - along[..., None] * way, axis=2).max(axis=0)
        wild = (np.diff(along, axis=0) <= 0).any(axis=0) | (off > np.sqrt(size) / 2)
        for n, own in zip(rows, np.split(wild, np.cumsum(count)[:-1]), strict=True):
            reach[n][:-1][own] = 0.0

    def _on_rings(self, ends: list[tuple[_Run, _End]]) -> Array:
        """The parameters (k, 2) of ends on their tori."""
        if not ends:
            return np.empty((0, 2))
        patch = np.array([run.patch for run, _ in ends], np.int64)
        near = np.array([run.uv[end.place] for run, end in ends])
        return self.patches.on_rings(patch, np.array([end.at for _, end in ends]), near)

    def _level_ring(self, run: _Run) -> None:
        """The contour of a torus whose axis is square to the look: parts of four circles, which meet at right angles."""
        centre, x, y, z, major, minor = self.patches.ring(run.patch)
        uv = run.uv.copy()
        for end, at in zip(run.ends, self._on_rings([(run, end) for end in run.ends]), strict=True):
            uv[end.place] = at
        lean = np.cos(uv[:, 0]) * x[2] + np.sin(uv[:, 0]) * y[2]
        flat = np.abs(np.cos(uv[:, 1])) <= np.abs(lean)
        turns = np.flatnonzero(flat[1:] != flat[:-1]) + 1
        around = float(np.arctan2(-x[2], y[2]))  # the turn at which the way out is square to the look
        for n, rows in enumerate(np.split(np.arange(len(uv)), turns)):
            own = int(flat[rows[0]])  # 1: along the ring, at its top or bottom; 0: around its tube
            along = uv[rows, 1 - own]
            low, high = float(along[0]), float(along[-1])
            # where it meets the next, at the place that both share
            base = around if own else np.pi / 2
            if n > 0:
                low = base + np.pi * round((low - base) / np.pi)
            if n < len(turns):
                high = base + np.pi * round((high - base) / np.pi)
            still = np.pi / 2 if own else around
            fixed = still + np.pi * round((float(uv[rows, own].mean()) - still) / np.pi)
            if own:
                frame = np.stack((centre + minor * np.sin(fixed) * z, major * x, major * y))
            else:
                out = np.cos(fixed) * x + np.sin(fixed) * y
                frame = np.stack((centre + major * out, minor * out, minor * z))
            low, high = min(low, high), max(low, high)
            middle = np.array(((low + high) / 2, fixed) if own else (fixed, (low + high) / 2))
            _, _, bend, _ = self.patches.turn_to(np.array([run.patch]), middle[None], np.array([np.inf]))

            def out(points: Array) -> Array:
                patch = np.full(len(points), run.patch)
                return self.patches.normals(patch, self.patches.on_rings(patch, points, np.zeros((len(points), 2))))

            self._arc(run, frame, low, high, bool(bend[0] > 0), -1, out)

    def _round(self, run: _Run) -> None:
        """The contour of a sphere, a circle in the view's plane through its middle."""
        middle, radius = run.form[:3], float(run.form[6])
        angles = np.arctan2(run.at[:, 1] - middle[1], run.at[:, 0] - middle[0])
        convex = float((run.at[0] - middle) @ run.outward) > 0
        if len(run.ends) == 2:
            low, high = (float(np.arctan2(end.at[1] - middle[1], end.at[0] - middle[0])) for end in run.ends)
            # from the one end on the way on which the others lie; at a pole many triangles meet, and say nothing of it
            inner = np.mod(angles - low, TAU)
            sweep = (high - low) % TAU
            beyond = (inner > sweep + 1e-6) & (inner < TAU - 1e-6)
            within = (inner > 1e-6) & (inner < sweep - 1e-6)
            if beyond.sum() > within.sum() or (not beyond.any() and not within.any() and sweep > np.pi):
                low, sweep = high, TAU - sweep
        else:
            low, sweep = 0.0, TAU
        frame = np.stack((middle, np.array((radius, 0, 0)), np.array((0, radius, 0))))
        self._arc(run, frame, low, low + sweep, not convex, run.face, lambda points: (points - middle) / radius)

    def _arc(
        self, run: _Run, frame: Array, low: float, high: float, hidden: bool, face: int, outward: Callable[[Array], Array]
    ) -> None:
        """A contour that is a conic from *low* to *high*, which the *face* never hides; *outward* gives the ways out of the
        part at points of it."""
        if high - low < 1e-9:
            return
        span = np.array([[low, high]])
        number = self.stage.add_curves(~_NOT, frame[None], span, np.array([OUTLINE]), run.part, [None])
        count = int(np.ceil((high - low) / _ARC)) + 1
        t = np.linspace(low, high, 2 * count + 1)
        points = frame[0] + np.cos(t)[:, None] * frame[1] + np.sin(t)[:, None] * frame[2]
        ends, middle, t = points[::2], points[1::2], t[::2]
        beside = np.tile((-1, -1, -1, face, -1), (count, 1))
        self.stage.add_chords(
            _outside(ends, middle, outward(ends), np.arange(count)), np.stack((t[:-1], t[1:]), axis=1),
            np.repeat(number, count), beside, np.full(count, hidden),
        )  # fmt: skip


def _in_order(points: Array) -> Ints:
    """Which of places (k, 3) along a contour follow one another: where triangles lie all but edge-on, some come to lie behind
    their neighbours, and a line through them would run to and fro. Where two contours are taken for one, it turns back for
    good: so only a few are left out in one place."""
    rows = np.arange(len(points))
    for _ in range(_LEFT_OUT):
        steps = np.diff(points[rows], axis=0)
        back = (steps[1:] * steps[:-1]).sum(axis=1) < 0
        # of neighbours the first
        back[1:] &= ~back[:-1]
        if not back.any():
            break
        rows = np.delete(rows, np.flatnonzero(back) + 1)
    return rows


def _spacing(at: Array) -> Array:
    """How far each of places (k, 3) in order is from the next, (k,)."""
    step = np.linalg.norm(np.diff(at, axis=0), axis=1)
    return np.append(step, step[-1:]) if len(step) else np.full(len(at), np.inf)


def _farther(at: Array) -> Array:
    """How far each of places (k, 3) in order is from the farther of its neighbours, (k,)."""
    step = np.concatenate(([0.0], np.linalg.norm(np.diff(at, axis=0), axis=1), [0.0]))
    return np.asarray(np.maximum(step[1:], step[:-1]))
