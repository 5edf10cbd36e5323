"""What a view shows, set up for hidden lines: triangles that face the viewer, and curves with their chords, in view axes."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial
from typing import Any

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Curve

from skalto.core.artwork import TAU, Array, EdgeClass
from skalto.core.grouping import groups_of
from skalto.core.projection.facets import Curve, Facets, Flags, Ints, Surface, frame_of
from skalto.core.projection.passing import Body, Passing
from skalto.core.projection.placing import Faces, Placed
from skalto.core.projection.solving import Rows, numbered, on_surface, turned_away
from skalto.core.projection.splines import Table, spline_of_edge
from skalto.core.projection.strokes import ORDER
from skalto.core.projection.turning import Contour, EdgeOn, KernelEdge, Patches, bends_on, turn_between

EDGE_ON = 1e-6
"""A normal that leans toward the viewer by less than this is square to the look."""
_HALVINGS = 40
_NOT = np.zeros(1, bool)
_ARC = 0.15
"""The turn of a chord of a round contour, radians."""
_LIFT = 2e-5
"""By how much nearer to the viewer, mm, curves are held in which parts pass through one another: the kernel has them to some
1e-7, and triangles of planes hide what lies 1e-6 behind them."""
_CLEAR = 0.02
"""A face that a curve of two parts lies on hides it where it is nearer by this share of the largest part."""
_OUTLINE, _SMOOTH, _VISIBLE = (ORDER.index(c) for c in (EdgeClass.OUTLINE, EdgeClass.SMOOTH, EdgeClass.VISIBLE))


@dataclass(frozen=True, eq=False)
class Curves(Rows):
    """What may be drawn, ``span`` (n, 2) of the parameter, ``rank`` of the class where it is seen, and the ``part`` (n,)."""

    span: Array
    rank: Ints
    part: Ints
    contours: dict[int, list[int]]
    """The contours of each face that are neither line nor conic."""
    edges: list[Any]
    """The kernel's edge of each, None of contours."""
    faces: Faces

    @property
    def plain(self) -> Flags:
        """Which are lines and conics, (n,)."""
        return np.array([other is None for other in self.other], bool)


@dataclass(frozen=True, eq=False)
class Chords:
    """Chords of curves: ``ends`` (k, 2, 3) at ``params`` (k, 2) of ``curve`` (k,), what is ``beside`` (k, 5: two triangles, the
    part whose triangles are as true as the chord, two faces that only hide it where they are nearer by what is ``clear`` (k,),
    mm), and whether all is hidden (k,)."""

    ends: Array
    params: Array
    curve: Ints
    beside: Ints
    hidden: Flags
    clear: Array


@dataclass(frozen=True, eq=False)
class Triangles:
    """Triangles that face the viewer: ``corners`` (m, 3, 3), the parameters ``uv`` (m, 2) of their middles, their names, faces,
    parts, how much nearer than a chord of another part each must be to hide it, and the curve at each side, −1 inside a face,
    (m, 3). Faces are ``surface`` (f,) and ``form`` (f, 8), and triangles may be ``off`` (f,) from them, mm; ``face_of`` (t,)
    tells the face of any triangle by its name."""

    corners: Array
    uv: Array
    name: Ints
    face: Ints
    part: Ints
    band: Array
    sides: Ints
    surface: Ints
    form: Array
    face_of: Ints
    off: Array


def _stacked(rows: list[Array], *shape: int, kind: type = float) -> Array:
    return np.concatenate([np.empty((0, *shape), kind), *rows])


def _chained(own: Ints, pairs: Ints) -> list[int]:
    """The numbers *own*, which *pairs* (m, 2) join, in order: a closed one ends where it begins."""
    beside: dict[int, list[int]] = {int(n): [] for n in own}
    for a, b in pairs.tolist():
        if a in beside:
            beside[a].append(b)
            beside[b].append(a)
    at = next((n for n, others in beside.items() if len(others) == 1), int(own[0]))
    chain = [at]
    while beside[at]:
        after = beside[at].pop()
        beside[after].remove(at)
        chain.append(after)
        at = after
    return chain


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


class _Stage:
    """Parts one after the other, the largest of a *size*, mm."""

    def __init__(self, size: float) -> None:
        self.size = size
        self.curves: dict[str, list[Any]] = {k: [] for k in ("conic", "frame", "span", "rank", "part", "other", "edge")}
        self.chords: dict[str, list[Any]] = {k: [] for k in ("ends", "params", "curve", "beside", "hidden", "clear")}
        self.triangles: dict[str, list[Any]] = {
            k: [] for k in ("corners", "uv", "name", "face", "part", "band", "sides", "surface", "form", "face_of", "off")
        }
        self.names = self.faces = self.count = 0
        self.contours: dict[int, list[int]] = {}
        self.first_face: dict[int, int] = {}
        self.found: list[_Run] = []
        self.all_faces, self.table = Faces(), Table()
        self.patches = self.all_faces.patches

    def add_curves(
        self,
        conic: Flags,
        frame: Array,
        span: Array,
        rank: Ints,
        part: int | Ints,
        other: list[Any],
        edges: list[Any] | None = None,
    ) -> Ints:
        """Their numbers; *edges* are the kernel's, of what are edges."""
        for key, value in (("conic", conic), ("frame", frame), ("span", span), ("rank", rank)):
            self.curves[key].append(value)
        self.curves["part"].append(np.full(len(conic), part))
        self.curves["other"] += other
        self.curves["edge"] += edges if edges is not None else [None] * len(other)
        numbers = np.arange(self.count, self.count + len(conic))
        self.count += len(conic)
        return numbers

    def add_chords(self, ends: Array, params: Array, curve: Ints, beside: Ints, hidden: Flags, clear: float = np.inf) -> None:
        own = ("ends", ends), ("params", params), ("curve", curve), ("beside", beside), ("hidden", hidden)
        for key, value in (*own, ("clear", np.full(len(ends), clear))):
            self.chords[key].append(value)

    def add(self, part: int, facets: Facets, turn: Array, move: Array) -> None:
        """A placed part: *turn* (3, 3) and *move* (3,) lead from its own axes to the view's."""
        mirrored = bool(np.linalg.det(turn) < 0)
        points = facets.points @ turn.T + move
        size = float(np.cbrt(abs(np.linalg.det(turn))))
        normals = facets.normals @ turn.T / size
        corners = points[facets.triangles]
        if mirrored:
            corners = corners[:, ::-1]
        flat = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        lean = flat[:, 2] / np.maximum(np.linalg.norm(flat, axis=1), 1e-300)
        names = np.arange(len(corners)) + self.names
        form = facets.form.copy()
        form[:, :3] = form[:, :3] @ turn.T + move
        form[:, 3:6] = form[:, 3:6] @ turn.T / size
        form[:, 6:] *= np.where((facets.surface == Surface.CONE)[:, None], 1.0, size)
        self.faces = self.first_face[part] = self.all_faces.add(Placed(facets, form, turn, move))
        numbers = self._edges(part, facets, turn, move, normals, lean)
        self._contours(part, facets, points, normals, numbers, form)
        self._triangles(part, facets, corners, lean, names, numbers, mirrored)
        self.triangles["face_of"].append(facets.face + self.faces)
        self.triangles["off"].append(np.full(len(facets.surface), facets.chord * size))
        self.triangles["surface"].append(facets.surface)
        self.triangles["form"].append(form)
        self.names += len(corners)

    def _triangles(
        self, part: int, facets: Facets, corners: Array, lean: Array, names: Ints, numbers: Ints, mirrored: bool
    ) -> None:
        sides = facets.sides[:, [1, 0, 2]] if mirrored else facets.sides
        sides = np.where(sides >= 0, numbers[facets.edge[sides]], -1) if len(facets.edge) else sides
        # open faces hide from both sides
        back = (lean < -EDGE_ON) & ~facets.closed[facets.face]
        for chosen, turned in ((lean > EDGE_ON, False), (back, True)):
            rows = np.flatnonzero(chosen)
            own = self.triangles
            own["corners"].append(corners[rows][:, ::-1] if turned else corners[rows])
            own["sides"].append(sides[rows][:, [1, 0, 2]] if turned else sides[rows])
            own["uv"].append(facets.uv[facets.triangles[rows]].mean(axis=1))
            own["name"].append(names[rows])
            own["face"].append(facets.face[rows] + self.faces)
            own["part"].append(np.full(len(rows), part))
            plain = facets.surface[facets.face[rows]] == Surface.PLANE
            own["band"].append(np.where(plain, 1e-6, 3 * facets.chord / np.abs(lean[rows])))

    def _edges(self, part: int, facets: Facets, turn: Array, move: Array, normals: Array, lean: Array) -> Ints:
        count = len(facets.curve)
        frame = facets.frame @ turn.T
        frame[:, 0] += move
        span = np.zeros((count, 2))
        if len(facets.edge):
            first = np.searchsorted(facets.edge, np.arange(count), side="left")
            last = np.searchsorted(facets.edge, np.arange(count), side="right") - 1
            there = last >= first
            span[there] = np.column_stack((facets.params[first[there], 0], facets.params[last[there], 1]))
        across = (facets.across @ turn.T)[..., 2]
        steep = np.ones(count, bool)
        np.logical_and.at(steep, facets.edge, (np.abs(across) < EDGE_ON).all(axis=1))
        rank = np.where(facets.smooth, np.where(facets.seam, -1, np.where(steep, _OUTLINE, _SMOOTH)), _VISIBLE)
        other: list[Any] = [None] * count
        for n in np.flatnonzero(facets.curve == Curve.OTHER).tolist():
            spline = facets.edge_spline(n)
            thread = self.table.add(spline, turn, move) if spline is not None else -1
            other[n] = KernelEdge(facets.kernel[n], turn, move, thread)
        numbers = self.add_curves(facets.curve == Curve.CONIC, frame, span, rank, part, other, facets.kernel)
        beside = facets.beside
        there = beside >= 0
        side_lean = np.where(there, lean[beside], -1.0) if len(lean) else np.where(there, 0.0, -1.0)
        shut: Flags = np.logical_and(facets.closed[facets.face[beside]], there) if len(lean) else there
        hidden = np.asarray((side_lean < EDGE_ON).all(axis=1) & shut.any(axis=1) & (shut | ~there).all(axis=1))
        # faces that are not sewn together have edges that lie side by side, each with chords of its own
        true = np.where(there.all(axis=1), part, -1)
        names = np.column_stack((np.where(there, beside + self.names, -1), true, np.full((len(beside), 2), -1)))
        ends = facets.ends @ turn.T + move
        drawn = rank[facets.edge] >= 0
        self.add_chords(ends[drawn], facets.params[drawn], numbers[facets.edge[drawn]], names[drawn], hidden[drawn])
        return numbers

    def add_passing(self, passing: Sequence[Passing], axes: Array) -> None:
        """Curves in which parts pass through one another. Where one of both faces turns away, its part hides them."""
        crossings = [(own, crossing) for own in passing for crossing in own.crossings]
        if not crossings:
            return
        edges, kinds, frames, others = [], [], [], list[KernelEdge | Contour | None]()
        for own, crossing in crossings:
            turn, move = axes @ own.matrix[:3, :3], axes @ own.matrix[:3, 3]
            kind, frame = frame_of(BRepAdaptor_Curve(crossing.edge))
            frame = frame @ turn.T
            frame[0] += move
            spline = spline_of_edge(crossing.edge) if kind == Curve.OTHER else None
            thread = self.table.add(spline, turn, move) if spline is not None else -1
            others.append(KernelEdge(crossing.edge, turn, move, thread) if kind == Curve.OTHER else None)
            edges.append(crossing.edge)
            kinds.append(kind == Curve.CONIC)
            frames.append(frame)
        curves = Rows(np.array(kinds), np.array(frames), others, *numbered(others), self.table, self.patches)
        which = np.repeat(np.arange(len(crossings)), [len(crossing.t) for _, crossing in crossings])
        t = np.concatenate([crossing.t for _, crossing in crossings])
        faces = np.array(
            [[self.first_face[n] + f for n, f in zip(own.components, c.faces, strict=True)] for own, c in crossings], np.int64
        )
        near = [np.concatenate([crossing.uv[side] for _, crossing in crossings]) for side in (0, 1)]
        own_faces = [_CrossedFaces(self.all_faces, curves, faces[:, side]) for side in (0, 1)]
        base, turning = np.arange(len(t)), []
        for side in (0, 1):
            lean = own_faces[side].lean(which, t, near[side])
            rows = np.flatnonzero(((lean[1:] > 0) != (lean[:-1] > 0)) & (which[1:] == which[:-1]))
            if len(rows):
                at = turn_between(partial(own_faces[side].lean, which[rows], near=near[side][rows]), t[rows], t[rows + 1])
                turning.append((rows[np.isfinite(at)], at[np.isfinite(at)]))
        base = np.concatenate((base, *(rows for rows, _ in turning)))
        t = np.concatenate((t, *(at for _, at in turning)))
        order = np.lexsort((t, which[base]))
        base, t = base[order], t[order]
        owner = which[base]
        same = np.flatnonzero((owner[1:] == owner[:-1]) & (t[1:] > t[:-1]))
        middle = (t[same] + t[same + 1]) / 2
        hidden = np.zeros(len(same), bool)
        for side in (0, 1):
            lean = own_faces[side].lean(owner[same], middle, near[side][base[same]])
            hidden |= own_faces[side].closed[owner[same]] & (lean < 0)
        span = np.array([[crossing.t[0], crossing.t[-1]] for _, crossing in crossings])
        parts = np.array([own.components[0] for own, _ in crossings], np.int64)
        numbers = self.add_curves(curves.conic, curves.frame, span, np.full(len(span), _VISIBLE), parts, others, edges)
        points = curves.pick(owner).at(t)[0] + np.array((0.0, 0.0, _LIFT))
        self.add_chords(
            np.stack((points[same], points[same + 1]), axis=1), np.stack((t[same], t[same + 1]), axis=1), numbers[owner[same]],
            np.column_stack((np.full((len(same), 3), -1), faces[owner[same]])), hidden, _CLEAR * self.size,
        )  # fmt: skip

    def _contours(self, part: int, facets: Facets, points: Array, normals: Array, numbers: Ints, form: Array) -> None:
        """The contours of curved faces: where their normals turn from the viewer."""
        toward = normals[:, 2] > 1e-9
        seen = toward[facets.triangles]
        mixed = np.flatnonzero(seen.any(axis=1) & ~seen.all(axis=1) & (facets.surface[facets.face] != Surface.PLANE))
        if not len(mixed):
            return
        corners = facets.triangles[mixed]
        after = np.roll(corners, -1, axis=1)
        cuts = toward[corners] != toward[after]
        rows, places = np.nonzero(cuts)
        a, b = corners[rows, places], after[rows, places]
        key = (np.minimum(a, b) << 32) + np.maximum(a, b)
        distinct, first, node, met = np.unique(key, return_index=True, return_inverse=True, return_counts=True)
        pairs = node.reshape(-1, 2)  # each mixed triangle is cut at two of its sides
        run = groups_of(pairs, len(distinct))
        fa, fb = normals[a, 2], normals[b, 2]
        share = np.clip(fa / np.where(fa == fb, 1.0, fa - fb), 0, 1)[:, None]
        at = (points[a] + (points[b] - points[a]) * share)[first]
        uv = (facets.uv[a] + (facets.uv[b] - facets.uv[a]) * share)[first]
        chord = facets.sides[mixed][rows, places][first]
        face = facets.face[mixed][rows][first]
        outward = (normals[a] + (normals[b] - normals[a]) * share)[first]
        order = np.argsort(run, kind="stable")
        for own in np.split(order, np.flatnonzero(np.diff(run[order])) + 1):
            number = int(face[own[0]])
            surface = int(facets.surface[number])
            if surface in (Surface.TORUS, Surface.OTHER):
                own = np.array(_chained(own, pairs))
                ends = [int(own[0]), int(own[-1])] if own[0] != own[-1] else []
            else:
                ends = own[met[own] == 1].tolist()
            run_ = _Run(part, number + self.faces, surface, form[number], at[own], uv[own], outward[own[0]], [])
            if surface in (Surface.TORUS, Surface.OTHER):
                run_.patch = self.all_faces.patch(run_.face)
            for end in ends:
                on = int(chord[end])
                edge = int(facets.edge[on])
                run_.ends.append(
                    _End(
                        0 if end == ends[0] else -1, at[end], int(numbers[edge]) if on >= 0 else -1, facets.kernel[edge],
                        float(facets.params[on, 0]), float(facets.params[on, 1]),
                    )
                )  # fmt: skip
            self.found.append(run_)

    def finish(self) -> None:
        """Make curves of the contours that were found: their ends first, all at once."""
        if not self.found:
            return
        ends = [(run, end) for run in self.found for end in run.ends if end.curve >= 0 and run.surface != Surface.OTHER]
        curves = self.all_curves()
        rows = curves.pick(np.array([end.curve for _, end in ends], np.int64))
        t = np.array([(end.low + end.high) / 2 for _, end in ends])
        reach = np.array([abs(end.high - end.low) for _, end in ends])
        surface = np.array([run.surface for run, _ in ends], np.int64)
        if ends:
            exact = turned_away(rows, t, reach, surface, np.array([run.form for run, _ in ends]))
            points, _ = rows.at(exact)
            for n in np.flatnonzero(np.isfinite(exact)).tolist():
                ends[n][1].at = points[n]
        level = [run for run in self.found if run.surface == Surface.TORUS and abs(float(run.form[5])) < EDGE_ON]
        traced = [run for run in self.found if run.patch >= 0 and run not in level]
        for run in level:
            self._level_ring(run)
        for run in self.found:
            if run.surface == Surface.SPHERE:
                self._round(run)
            elif run.patch < 0 and len(run.ends) == 2:
                self._straight(run)
        if traced:
            self._traced(traced)

    def _traced(self, runs: list[_Run]) -> None:
        """Contours that are neither line nor conic, through the places that were found on the sides of triangles."""
        count = [len(run.uv) for run in runs]
        patch = np.repeat([run.patch for run in runs], count)
        uv = np.concatenate([run.uv for run in runs])
        reach = [_spacing(run.at) for run in runs]
        places = np.split(self.patches.turn_to(patch, uv, np.concatenate(reach))[0], np.cumsum(count)[:-1])
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
        for run, own, end in pairs:
            if run.surface == Surface.TORUS:
                own[end.place] = _on_ring(self.patches, run.patch, end.at, run.uv[end.place])
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
            own_number = self.add_curves(_NOT, np.zeros((1, 3, 3)), span, np.array([_OUTLINE]), run.part, [contour])
            numbers.append(int(own_number[0]))
            self.contours.setdefault(run.face, []).append(int(own_number[0]))
        self.add_chords(
            _outside(points, middle, normals, same), np.stack((t[same], t[same + 1]), axis=1),
            np.array(numbers, np.int64)[owner[same]], np.full((len(same), 5), -1), bend > 0,
        )  # fmt: skip

    def _level_ring(self, run: _Run) -> None:
        """The contour of a torus whose axis is square to the look: parts of four circles, which meet at right angles."""
        centre, x, y, z, major, minor = self.patches.ring(run.patch)
        uv = run.uv.copy()
        for end in run.ends:
            uv[end.place] = _on_ring(self.patches, run.patch, end.at, run.uv[end.place])
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
                places = np.array([_on_ring(self.patches, run.patch, point, np.zeros(2)) for point in points])
                return self.patches.normals(np.full(len(points), run.patch), places)

            self._arc(run, frame, low, high, bool(bend[0] > 0), -1, out)

    def _straight(self, run: _Run) -> None:
        base, axis = run.form[:3], run.form[3:6]
        middle = run.at.mean(axis=0) - base
        convex = float(run.outward @ (middle - (middle @ axis) * axis)) > 0
        ends = np.array([end.at for end in run.ends])
        frame = np.stack((ends[0], ends[1] - ends[0], np.zeros(3)))[None]
        number = self.add_curves(_NOT, frame, np.array([[0.0, 1.0]]), np.array([_OUTLINE]), run.part, [None])
        beside = np.array([[-1, -1, -1, run.face, -1]])
        self.add_chords(ends[None], np.array([[0.0, 1.0]]), number, beside, np.array([not convex]))

    def _round(self, run: _Run) -> None:
        """The contour of a sphere, a circle in the view's plane through its middle."""
        middle, radius = run.form[:3], float(run.form[6])
        angles = np.arctan2(run.at[:, 1] - middle[1], run.at[:, 0] - middle[0])
        convex = float((run.at[0] - middle) @ run.outward) > 0
        if len(run.ends) == 2:
            low, high = (float(np.arctan2(end.at[1] - middle[1], end.at[0] - middle[0])) for end in run.ends)
            # from the one end on the way on which the others lie
            inner = np.mod(angles - low, TAU)
            sweep = (high - low) % TAU
            if (inner > sweep + 1e-6).sum() > len(angles) / 2:
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
        number = self.add_curves(~_NOT, frame[None], span, np.array([_OUTLINE]), run.part, [None])
        count = int(np.ceil((high - low) / _ARC)) + 1
        t = np.linspace(low, high, 2 * count + 1)
        points = frame[0] + np.cos(t)[:, None] * frame[1] + np.sin(t)[:, None] * frame[2]
        ends, middle, t = points[::2], points[1::2], t[::2]
        beside = np.tile((-1, -1, -1, face, -1), (count, 1))
        self.add_chords(
            _outside(ends, middle, outward(ends), np.arange(count)), np.stack((t[:-1], t[1:]), axis=1),
            np.repeat(number, count), beside, np.full(count, hidden),
        )  # fmt: skip

    def all_curves(self) -> Curves:
        c = self.curves
        thread, trace = numbered(c["other"])
        return Curves(
            conic=_stacked(c["conic"], kind=bool).astype(bool), frame=_stacked(c["frame"], 3, 3), other=c["other"],
            span=_stacked(c["span"], 2), rank=_stacked(c["rank"], kind=int).astype(np.int64),
            part=_stacked(c["part"], kind=int).astype(np.int64), contours=self.contours, edges=c["edge"], faces=self.all_faces,
            thread=thread, trace=trace, table=self.table, patches=self.patches,
        )  # fmt: skip


class _CrossedFaces:
    """The faces (n,) that curves lie on, each in one."""

    def __init__(self, faces: Faces, curves: Rows, numbers: Ints) -> None:
        self._curves, self._patches = curves, faces.patches
        lies = [faces.lie(number) for number in numbers.tolist()]
        self.closed = np.array([own.closed for own in lies], bool)
        self._surface = np.array([own.surface for own in lies], np.int64)
        self._form = np.array([own.form for own in lies]).reshape(-1, 8)
        self._sign = np.array([own.sign for own in lies])
        free = self._surface == Surface.OTHER
        self._patch = np.array([faces.patch(n) if f else -1 for n, f in zip(numbers.tolist(), free, strict=True)], np.int64)

    def lean(self, which: Ints, t: Array, near: Array) -> Array:
        """How much faces turn to the viewer where the curves *which* (k,) have parameters t (k,), *near* (k, 2) theirs."""
        points, _ = self._curves.pick(which).at(t)
        found = on_surface(self._surface[which], self._form[which], points)[1][:, 2] * self._sign[which]
        free = np.flatnonzero(self._patch[which] >= 0)
        if len(free):
            patch = self._patch[which][free]
            found[free] = self._patches.normals(patch, self._patches.nearest(patch, points[free], near[free])[0])[:, 2]
        return np.asarray(found)


def _spacing(at: Array) -> Array:
    """How far each of places (k, 3) in order is from the farther of its neighbours, (k,)."""
    step = np.concatenate(([0.0], np.linalg.norm(np.diff(at, axis=0), axis=1), [0.0]))
    return np.asarray(np.maximum(step[1:], step[:-1]))


def _on_ring(patches: Patches, patch: int, point: Array, near: Array) -> Array:
    """The parameters (2,) of a point on a torus, on the turn of those *near*."""
    centre, x, y, z, major, _ = patches.ring(patch)
    away = point - centre
    u = float(np.arctan2(away @ y, away @ x))
    out = np.cos(u) * x + np.sin(u) * y
    v = float(np.arctan2(away @ z, away @ out - major))
    turns = np.round((near - np.array((u, v))) / TAU)
    return np.asarray(np.array((u, v)) + turns * TAU)


def staged_for(parts: Sequence[Body], passing: Sequence[Passing], axes: Array) -> tuple[Curves, Chords, Triangles]:
    """Parts (number, facets, 4 × 4 placement) as a view sees them, with the curves in which they pass through one another.

    :param axes: rows right, up, toward the viewer, (3, 3).
    """
    spans = [np.ptp(facets.points @ matrix[:3, :3].T, axis=0) for _, facets, matrix in parts if len(facets.points)]
    stage = _Stage(max((float(np.linalg.norm(span)) for span in spans), default=1.0))
    for part, facets, matrix in parts:
        stage.add(part, facets, axes @ matrix[:3, :3], axes @ matrix[:3, 3])
    stage.add_passing(passing, axes)
    stage.finish()
    k, t = stage.chords, stage.triangles
    return (
        stage.all_curves(),
        Chords(
            _stacked(k["ends"], 2, 3), _stacked(k["params"], 2), _stacked(k["curve"], kind=int).astype(np.int64),
            _stacked(k["beside"], 5, kind=int).astype(np.int64), _stacked(k["hidden"], kind=bool).astype(bool),
            _stacked(k["clear"]),
        ),
        Triangles(
            _stacked(t["corners"], 3, 3), _stacked(t["uv"], 2), _stacked(t["name"], kind=int).astype(np.int64),
            _stacked(t["face"], kind=int).astype(np.int64), _stacked(t["part"], kind=int).astype(np.int64),
            _stacked(t["band"]), _stacked(t["sides"], 3, kind=int).astype(np.int64),
            _stacked(t["surface"], kind=int).astype(np.int64), _stacked(t["form"], 8),
            _stacked(t["face_of"], kind=int).astype(np.int64), _stacked(t["off"]),
        ),
    )  # fmt: skip
