"""A view's bodies set up for hidden lines: edges, the curves in which they pass through one another, contours, triangles."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial
from typing import Any

import numba
import numpy as np

from skalto.core.geometry import Array
from skalto.core.projection.contouring import UPRIGHT, Contours, upright_faces
from skalto.core.projection.facets import Curve, Flags, Ints, Surface
from skalto.core.projection.passing import Body, Passing
from skalto.core.projection.scene import Scene, scene_of
from skalto.core.projection.solving import Rows, numbered, on_surface
from skalto.core.projection.splines import Spline
from skalto.core.projection.stage import EDGE_ON, OUTLINE, SMOOTH, VISIBLE, Chords, Curves, Stage
from skalto.core.projection.turning import Contour, KernelEdge, turn_between

_LIFT = 2e-5
"""By how much nearer to the viewer, mm, curves are held in which parts pass through one another: the kernel has them to some
1e-7, and triangles of planes hide what lies 1e-6 behind them."""
_DOUBT = 0.1
"""A triangle whose unit normal leans by less than this may turn the other way than its face does at its side."""
_CLEAR = 0.02
"""A face that a curve of two parts lies on hides it where it is nearer by this share of the larger of both parts."""


@dataclass(frozen=True, eq=False)
class Triangles:
    """Triangles of a ``scene`` that face the viewer: ``corners`` (m, 3, 3), their names, which are their numbers there, faces,
    parts, how much nearer than a chord of another part each must be to hide it, and whether it is seen from behind; ``lean`` is
    how much each of the scene's triangles turns to the viewer."""

    scene: Scene
    corners: Array
    name: Ints
    face: Ints
    part: Ints
    band: Array
    turned: Flags
    lean: Array

    def uv(self, rows: Ints) -> Array:
        """The parameters (k, 2) of the middles of triangles (k,)."""
        return np.asarray(self.scene.uv[self.scene.triangles[self.name[rows]]].mean(axis=1))

    def curve_at(self, rows: Ints, side: Ints) -> Ints:
        """The curve that lies at a side (k,) of triangles (k,), −1 inside a face."""
        scene = self.scene
        side = np.where(self.turned[rows] & (side < 2), 1 - side, side)
        chord = scene.sides[self.name[rows], side]
        return np.where(chord >= 0, scene.edge[chord], -1) if len(scene.edge) else chord


@numba.njit(cache=True)  # type: ignore[untyped-decorator]
def _leans(points, triangles, lean):  # type: ignore[no-untyped-def]
    """Into *lean* the third component of the triangles' unit normals."""
    for t in range(len(triangles)):
        i, j, k = triangles[t, 0], triangles[t, 1], triangles[t, 2]
        ux, uy, uz = points[j, 0] - points[i, 0], points[j, 1] - points[i, 1], points[j, 2] - points[i, 2]
        vx, vy, vz = points[k, 0] - points[i, 0], points[k, 1] - points[i, 1], points[k, 2] - points[i, 2]
        x, y, z = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
        lean[t] = z / max(np.sqrt(x * x + y * y + z * z), 1e-300)


def leans_of(scene: Scene, upright: Flags) -> Array:
    """How much a scene's triangles turn to the viewer, (m,): the third component of their unit normals, nought in walls.

    :param upright: which faces are walls along the look, (f,)."""
    lean = np.empty(len(scene.triangles))
    _leans(scene.points, scene.triangles, lean)
    if upright.any():
        lean[upright[scene.face]] = 0.0
    return lean


def front_triangles(scene: Scene, lean: Array) -> Triangles:
    """The triangles of a scene that may hide something."""
    # open faces hide from both sides
    front, back = np.flatnonzero(lean > EDGE_ON), np.flatnonzero((lean < -EDGE_ON) & ~scene.closed[scene.face])
    rows = np.concatenate((front, back))
    face = scene.face[rows]
    return Triangles(
        scene, scene.points[np.concatenate((scene.triangles[front], scene.triangles[back][:, ::-1]))], rows, face,
        scene.part[rows], np.where(scene.surface[face] == Surface.PLANE, 1e-6, 3 * scene.off[face] / np.abs(lean[rows])),
        np.arange(len(rows)) >= len(front), lean,
    )  # fmt: skip


def faces_beside(scene: Scene, beside: Ints, lean: Array) -> Ints:
    """The faces (k, 2) of the triangles *beside* chords (k, 5), -1 of none and of those that turn away from the viewer for
    certain.

    :param lean: how much the scene's triangles turn to the viewer, (m,)."""
    own = beside[:, :2]
    if not len(scene.face):
        return np.full(own.shape, -1)
    row = np.maximum(own, 0)
    return np.where((own >= 0) & (lean[row] > -_DOUBT), scene.face[row], -1)


@dataclass(frozen=True, eq=False)
class EdgeChords:
    """Of a scene's edges the ``rank`` (e,) of the class where one is seen, -1 where it is not drawn, and whether the faces at
    its sides are edge-on; of their chords what is ``beside`` (k, 5), as in :class:`~skalto.core.projection.stage.Chords`, and
    whether these hide one whole (k,)."""

    rank: Ints
    beside: Ints
    hidden: Flags


def _side_leans(scene: Scene, lean: Array, upright: Flags) -> Array:
    """How much the faces beside chords turn to the viewer along these, (k, 2): a steep wall's triangles tell little of it.
    Where a face lies edge-on there, or goes on smoothly in the next, its triangle says on which side of the chord it is."""
    triangle = np.maximum(scene.beside, 0)
    if not len(scene.face):
        return np.zeros(triangle.shape)
    own = scene.sides[triangle] == np.arange(len(triangle))[:, None, None]
    at = own.argmax(axis=2)
    ends = [np.take_along_axis(scene.triangles[triangle], ((at + n) % 3)[..., None], axis=2)[..., 0] for n in (0, 1)]
    true = (scene.normals[ends[0], 2] + scene.normals[ends[1], 2]) / 2
    face = scene.face[triangle]
    known = own.any(axis=2) & (scene.surface[face] != Surface.PLANE) & ~upright[face]
    known &= (np.abs(true) > UPRIGHT) & ~scene.smooth[scene.edge][:, None]
    return np.where(known, true, lean[triangle])


def edge_chords(scene: Scene, sides: Array, upright: Flags) -> EdgeChords:
    """:param sides: how much what is beside each chord turns to the viewer, (k, 2).
    :param upright: which faces are walls along the look, (f,)."""
    steep = np.ones(len(scene.curve), bool)
    if len(scene.edge):
        most = np.full(len(scene.edge), EDGE_ON)
        if upright.any():
            most[(upright[scene.face[scene.beside]] & (scene.beside >= 0)).any(axis=1)] = UPRIGHT
        steep[scene.edge[(np.abs(scene.across) >= most[:, None]).any(axis=1)]] = False
    rank = np.where(scene.smooth, np.where(scene.seam, -1, np.where(steep, OUTLINE, SMOOTH)), VISIBLE)
    beside = scene.beside
    there = beside >= 0
    shut: Flags = np.logical_and(scene.closed[scene.face[beside]], there) if len(scene.face) else there
    side_lean = np.where(there, sides, -1.0)
    hidden: Flags = np.asarray((side_lean < EDGE_ON).all(axis=1) & shut.any(axis=1) & (shut | ~there).all(axis=1))
    # faces that are not sewn together have edges that lie side by side, each with chords of its own
    true = np.where(there.all(axis=1), scene.edge_part[scene.edge], -1)
    return EdgeChords(rank, np.column_stack((beside, true, np.full((len(beside), 2), -1))), hidden)


def _add_edges(stage: Stage, scene: Scene, lean: Array, upright: Flags) -> None:
    """Edges with their chords: the curves from nought on."""
    count = len(scene.curve)
    span = np.zeros((count, 2))
    if len(scene.edge):
        begin = np.flatnonzero(np.diff(scene.edge, prepend=-1))
        owner = scene.edge[begin]
        span[owner] = np.column_stack((scene.params[begin, 0], scene.params[np.append(begin[1:], len(scene.edge)) - 1, 1]))
    own = edge_chords(scene, _side_leans(scene, lean, upright), upright)
    other: list[Any] = [None] * count
    free = np.flatnonzero(scene.curve == Curve.OTHER)
    for n, body in zip(free.tolist(), (np.searchsorted(scene.first_edge, free, side="right") - 1).tolist(), strict=True):
        spline = scene.facets[body].edge_spline(n - int(scene.first_edge[body]))
        other[n] = _free_edge(stage, scene.kernel[n], spline, scene.turns[body], scene.moves[body])
    stage.add_curves(scene.curve == Curve.CONIC, scene.frame, span, own.rank, scene.edge_part, other, scene.kernel)
    drawn = own.rank[scene.edge] >= 0
    stage.add_chords(scene.ends[drawn], scene.params[drawn], scene.edge[drawn], own.beside[drawn], own.hidden[drawn])


def _free_edge(stage: Stage, edge: Any, spline: Spline | None, turn: Array, move: Array) -> KernelEdge:
    """An edge that is neither line nor conic."""
    return KernelEdge(edge, turn, move, spline, stage.table.add(spline, turn, move) if spline is not None else -1)


def _add_passing(stage: Stage, scene: Scene, passing: Sequence[Passing], axes: Array) -> None:
    """Curves in which parts pass through one another. Where one of both faces turns away, its part hides them."""
    crossings = [(own, crossing) for own in passing for crossing in own.crossings]
    if not crossings:
        return
    frames, others = [], list[KernelEdge | Contour | None]()
    edges = [crossing.edge for _, crossing in crossings]
    for own, crossing in crossings:
        turn, move = axes @ own.matrix[:3, :3], axes @ own.matrix[:3, 3]
        frame = crossing.frame @ turn.T
        frame[0] += move
        frames.append(frame)
        others.append(_free_edge(stage, crossing.edge, crossing.spline, turn, move) if crossing.kind == Curve.OTHER else None)
    kinds = np.array([crossing.kind == Curve.CONIC for _, crossing in crossings])
    curves = Rows(kinds, np.array(frames), others, *numbered(others), stage.table, stage.patches)
    which = np.repeat(np.arange(len(crossings)), [len(crossing.t) for _, crossing in crossings])
    t = np.concatenate([crossing.t for _, crossing in crossings])
    faces = np.array(
        [[scene.first_face[n] + f for n, f in zip(own.components, c.faces, strict=True)] for own, c in crossings], np.int64
    )
    near = [np.concatenate([crossing.uv[side] for _, crossing in crossings]) for side in (0, 1)]
    own_faces = [_CrossedFaces(scene, curves, faces[:, side]) for side in (0, 1)]
    reach = [float(np.linalg.norm(np.ptp(own.points, axis=0))) if len(own.points) else 0.0 for own in scene.facets]
    reach_of = dict(zip(scene.first_face, reach, strict=True))
    size = np.array([max(reach_of[n] for n in own.components) for own, _ in crossings])
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
    numbers = stage.add_curves(curves.conic, curves.frame, span, np.full(len(span), VISIBLE), parts, others, edges)
    points = curves.pick(owner).at(t)[0] + np.array((0.0, 0.0, _LIFT))
    stage.add_chords(
        np.stack((points[same], points[same + 1]), axis=1), np.stack((t[same], t[same + 1]), axis=1), numbers[owner[same]],
        np.column_stack((np.full((len(same), 3), -1), faces[owner[same]])), hidden, _CLEAR * size[owner[same]],
    )  # fmt: skip


class _CrossedFaces:
    """The faces (n,) that curves lie on, each in one."""

    def __init__(self, scene: Scene, curves: Rows, numbers: Ints) -> None:
        faces = scene.faces
        self._curves, self._patches = curves, faces.patches
        self.closed, self._surface, self._form = scene.closed[numbers], scene.surface[numbers], scene.form[numbers]
        # whether the surface's own normal leads out of the part
        node = scene.triangles[np.searchsorted(scene.face, numbers), 0]
        own = on_surface(self._surface, self._form, scene.points[node])[1]
        self._sign = np.where((own * scene.normals[node]).sum(axis=1) > 0, 1.0, -1.0)
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


def staged_for(parts: Sequence[Body], passing: Sequence[Passing], axes: Array) -> tuple[Curves, Chords, Triangles] | None:
    """Parts (number, facets, 4 × 4 placement) as a view sees them, with the curves in which they pass through one another; None
    of none.

    :param axes: rows right, up, toward the viewer, (3, 3).
    """
    scene = scene_of(parts, axes)
    if scene is None:
        return None
    upright = upright_faces(scene)
    lean = leans_of(scene, upright)
    stage = Stage(scene.faces)
    _add_edges(stage, scene, lean, upright)
    _add_passing(stage, scene, passing, axes)
    Contours(stage, scene, upright).add()
    return stage.all_curves(), stage.all_chords(), front_triangles(scene, lean)
