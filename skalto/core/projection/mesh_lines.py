"""Hidden lines of triangle meshes, exact: every feature edge is cut at the borders of the triangles before it.

A mesh has no edges of its own; an edge is where two triangles meet at more than :data:`CREASE`, where a surface ends, and,
as outline, where a triangle that faces the viewer meets one that does not. Where bodies pass through one another there is one
too.
"""

from __future__ import annotations

from collections.abc import Sequence

import numba
import numpy as np
from numpy.typing import NDArray

from skalto.core.artwork import EdgeClass
from skalto.core.geometry import Array
from skalto.core.projection.mesh_passing import bodies_of, passing_lines
from skalto.core.projection.single import subtract, unite
from skalto.core.projection.strokes import ORDER, Strokes
from skalto.core.sources.models.model import Mesh

CREASE = np.radians(30.0)
"""Two triangles that turn by more than this meet at an edge (common practice, no source)."""

_EDGE_ON = 2e-4
"""Triangles whose normal has no more than this toward the viewer hide nothing: they are seen as lines."""

Ints = NDArray[np.int64]


def edges_of(faces: Ints) -> tuple[Ints, Ints]:
    """Distinct edges (k, 2) of triangles (m, 3), and for each the first two faces that share it, −1 for none; a third
    face makes the second −2."""
    pairs = np.sort(faces[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1)
    edges, inverse, counts = np.unique(pairs, axis=0, return_inverse=True, return_counts=True)
    order = np.argsort(inverse.ravel(), kind="stable")
    starts = np.concatenate(([0], np.cumsum(counts)[:-1]))
    owner = order // 3
    first = owner[starts]
    second = np.where(counts > 1, owner[np.minimum(starts + 1, len(owner) - 1)], -1)
    return edges, np.stack((first, np.where(counts > 2, -2, second)), axis=1)


def _normals(points: Array, faces: Ints) -> Array:
    a, b, c = (points[faces[:, i]] for i in range(3))
    normal = np.cross(b - a, c - a)
    length = np.linalg.norm(normal, axis=1)[:, None]
    unit: Array = np.divide(normal, length, out=np.zeros_like(normal), where=length > 0)
    return unit


def _feature_edges(points: Array, faces: Ints) -> tuple[Ints, Ints, NDArray[np.bool_]]:
    """Edges to draw (k, 2), their faces (k, 2), and which are mere outlines; *points* in view axes."""
    edges, sides = edges_of(faces)
    normals = _normals(points, faces)
    both = sides[:, 1] >= 0
    n0, n1 = normals[sides[:, 0]], normals[np.maximum(sides[:, 1], 0)]
    crease = ~both | ((n0 * n1).sum(axis=1) < np.cos(CREASE))
    outline = both & ((n0[:, 2] > 1e-9) != (n1[:, 2] > 1e-9))
    keep = crease | outline
    return edges[keep], sides[keep], ~crease[keep]


@numba.njit(cache=True)  # type: ignore[untyped-decorator]
def _bin(triangles, low, cell, nx, ny):  # type: ignore[no-untyped-def]
    """Triangles (n, 3, 3) by the grid cells that their boxes touch: (starts, members)."""
    counts = np.zeros(nx * ny + 1, np.int64)
    for fill in range(2):
        if fill == 1:
            for i in range(nx * ny):
                counts[i + 1] += counts[i]
            starts = counts.copy()
            members = np.empty(counts[nx * ny], np.int64)
        for t in range(len(triangles)):
            x0 = min(triangles[t, 0, 0], triangles[t, 1, 0], triangles[t, 2, 0])
            x1 = max(triangles[t, 0, 0], triangles[t, 1, 0], triangles[t, 2, 0])
            y0 = min(triangles[t, 0, 1], triangles[t, 1, 1], triangles[t, 2, 1])
            y1 = max(triangles[t, 0, 1], triangles[t, 1, 1], triangles[t, 2, 1])
            for i in range(max(0, int((x0 - low[0]) / cell)), min(nx - 1, int((x1 - low[0]) / cell)) + 1):
                for j in range(max(0, int((y0 - low[1]) / cell)), min(ny - 1, int((y1 - low[1]) / cell)) + 1):
                    if fill == 0:
                        counts[i * ny + j + 1] += 1
                    else:
                        members[starts[i * ny + j]] = t
                        starts[i * ny + j] += 1
    return counts, members


@numba.njit(cache=True)  # type: ignore[untyped-decorator]
def _covered(a, b, tri, area, reach, depth):  # type: ignore[no-untyped-def]
    """The part (t0, t1) of the segment a→b that lies behind a triangle; t0 ≥ t1 for none."""
    t0, t1 = 0.0, 1.0
    sign = 1.0 if area > 0 else -1.0
    for k in range(3):
        px, py = tri[k, 0], tri[k, 1]
        qx, qy = tri[(k + 1) % 3, 0], tri[(k + 1) % 3, 1]
        dx, dy = qx - px, qy - py
        length = np.sqrt(dx * dx + dy * dy)
        ea = sign * (dx * (a[1] - py) - dy * (a[0] - px)) + reach * length
        eb = sign * (dx * (b[1] - py) - dy * (b[0] - px)) + reach * length
        if ea <= 0 and eb <= 0:
            return 1.0, 0.0
        if ea < 0:
            t0 = max(t0, ea / (ea - eb))
        elif eb < 0:
            t1 = min(t1, ea / (ea - eb))
    # how far the triangle's plane lies before the segment, at both ends
    ux, uy, uz = tri[1, 0] - tri[0, 0], tri[1, 1] - tri[0, 1], tri[1, 2] - tri[0, 2]
    vx, vy, vz = tri[2, 0] - tri[0, 0], tri[2, 1] - tri[0, 1], tri[2, 2] - tri[0, 2]
    gx, gy = -(uy * vz - uz * vy) / area, -(uz * vx - ux * vz) / area
    da = tri[0, 2] + gx * (a[0] - tri[0, 0]) + gy * (a[1] - tri[0, 1]) - a[2] - depth
    db = tri[0, 2] + gx * (b[0] - tri[0, 0]) + gy * (b[1] - tri[0, 1]) - b[2] - depth
    if da <= 0 and db <= 0:
        return 1.0, 0.0
    if da < 0:
        t0 = max(t0, da / (da - db))
    elif db < 0:
        t1 = min(t1, da / (da - db))
    return t0, t1


@numba.njit(cache=True)  # type: ignore[untyped-decorator]
def _hidden(segments, sides, triangles, areas, starts, members, low, cell, nx, ny, reach, depth):  # type: ignore[no-untyped-def]
    """Hidden parts of segments (n, 2, 3) as rows (segment, t0, t1), not yet united."""
    rows = np.empty((1024, 3))
    used = 0
    seen = np.full(len(triangles), -1, np.int64)
    for s in range(len(segments)):
        a, b = segments[s, 0], segments[s, 1]
        i0 = max(0, min(nx - 1, int((min(a[0], b[0]) - reach - low[0]) / cell)))
        i1 = max(0, min(nx - 1, int((max(a[0], b[0]) + reach - low[0]) / cell)))
        for i in range(i0, i1 + 1):
            # the stretch of the segment within this column of cells
            y0, y1 = min(a[1], b[1]), max(a[1], b[1])
            if abs(b[0] - a[0]) > 1e-12 and i1 > i0:
                xa, xb = low[0] + i * cell, low[0] + (i + 1) * cell
                ta = min(1.0, max(0.0, (xa - a[0]) / (b[0] - a[0])))
                tb = min(1.0, max(0.0, (xb - a[0]) / (b[0] - a[0])))
                ya, yb = a[1] + ta * (b[1] - a[1]), a[1] + tb * (b[1] - a[1])
                y0, y1 = min(ya, yb), max(ya, yb)
            j0 = max(0, min(ny - 1, int((y0 - reach - low[1]) / cell)))
            j1 = max(0, min(ny - 1, int((y1 + reach - low[1]) / cell)))
            for j in range(j0, j1 + 1):
                for m in range(starts[i * ny + j], starts[i * ny + j + 1]):
                    t = members[m]
                    if seen[t] == s or t == sides[s, 0] or t == sides[s, 1] or areas[t] == 0.0:
                        continue
                    seen[t] = s
                    t0, t1 = _covered(a, b, triangles[t], areas[t], reach, depth)
                    if t1 - t0 > 1e-9:
                        if used == len(rows):
                            more = np.empty((2 * used, 3))
                            more[:used] = rows
                            rows = more
                        rows[used, 0], rows[used, 1], rows[used, 2] = s, t0, t1
                        used += 1
    return rows[:used]


def _split(lengths: Array, rows: Array, least: float) -> tuple[Array, Array]:
    """Seen and unseen parts (segment, t0, t1) of segments from their hidden rows.

    Where a hidden edge runs into the corner of what hides it, its last bit lies within the depth that counts as touching:
    seen bits shorter than *least* beside a hidden part are hidden with it.
    """
    seen: list[tuple[int, float, float]] = []
    unseen: list[tuple[int, float, float]] = []
    rows = rows[np.lexsort((rows[:, 1], rows[:, 0]))]
    bounds = np.searchsorted(rows[:, 0], np.arange(len(lengths) + 1))
    for s, length in enumerate(lengths.tolist()):
        short = least / max(length, least)
        hidden = unite([(t0, t1) for _, t0, t1 in rows[bounds[s] : bounds[s + 1]].tolist()], short)
        if not hidden:
            seen.append((s, 0.0, 1.0))
            continue
        if hidden[0][0] <= short:
            hidden[0] = (0.0, hidden[0][1])
        if hidden[-1][1] >= 1.0 - short:
            hidden[-1] = (hidden[-1][0], 1.0)
        unseen += [(s, a, b) for a, b in hidden]
        seen += [(s, a, b) for a, b in subtract((0.0, 1.0), hidden, 0.0)]
    return np.array(seen).reshape(-1, 3), np.array(unseen).reshape(-1, 3)


def mesh_strokes(meshes: Sequence[tuple[Mesh, Array]], axes: Array) -> Strokes:
    """All edges of placed meshes by class, seen and unseen, in the view's plane; component n is mesh n.

    :param axes: rows right, up, toward the viewer, (3, 3).
    """
    triangles, segments, sides, outline, owner, body = [], [], [], [], [], []
    base = bodies = 0
    for number, (mesh, matrix) in enumerate(meshes):
        points = (mesh.vertices @ matrix[:3, :3].T + matrix[:3, 3]) @ axes.T
        edges, faces, mere = _feature_edges(points, mesh.faces)
        triangles.append(points[mesh.faces])
        segments.append(points[edges])
        sides.append(np.where(faces >= 0, faces + base, -1))
        outline.append(mere)
        owner.append(np.full(len(edges), number))
        body.append(bodies_of(mesh.faces) + bodies)
        bodies = int(body[-1].max(initial=bodies - 1)) + 1
        base += len(mesh.faces)
    all_triangles = np.concatenate(triangles)
    crossing, between = passing_lines(all_triangles, np.concatenate(body))
    mesh_of = np.repeat(np.arange(len(meshes)), [len(own) for own in triangles])
    segments.append(crossing)
    sides.append(between)
    outline.append(np.zeros(len(crossing), bool))
    owner.append(mesh_of[between[:, 0]])
    all_segments = np.concatenate(segments)
    low, high = all_triangles.min(axis=(0, 1)), all_triangles.max(axis=(0, 1))
    size = float(np.max(high - low))
    side = max(1, int(np.sqrt(len(all_triangles))))
    cell = max(float(max(high[0] - low[0], high[1] - low[1])) / side, 1e-9)
    nx, ny = int((high[0] - low[0]) / cell) + 1, int((high[1] - low[1]) / cell) + 1
    a, b, c = (all_triangles[:, i] for i in range(3))
    cross = np.cross(b - a, c - a)
    area = np.where(np.abs(cross[:, 2]) > _EDGE_ON * np.linalg.norm(cross, axis=1), cross[:, 2], 0.0)
    starts, members = _bin(all_triangles, low[:2], cell, nx, ny)
    rows = _hidden(
        all_segments, np.concatenate(sides), all_triangles, area, starts, members,
        low[:2], cell, nx, ny, 1e-9 * size, 5e-6 * size,
    )  # fmt: skip
    lengths = np.linalg.norm(all_segments[:, 1, :2] - all_segments[:, 0, :2], axis=1)
    seen, unseen = _split(lengths, rows, 1e-4 * size)
    return _to_strokes(all_segments, np.concatenate(outline), np.concatenate(owner), seen, unseen)


def _to_strokes(segments: Array, outline: NDArray[np.bool_], owner: Ints, seen: Array, unseen: Array) -> Strokes:
    strokes = Strokes()
    visible, contour, hidden = (ORDER.index(c) for c in (EdgeClass.VISIBLE, EdgeClass.OUTLINE, EdgeClass.HIDDEN))
    for rows, is_seen in ((seen, True), (unseen, False)):
        if not len(rows):
            continue
        index = rows[:, 0].astype(int)
        a, b = segments[index, 0, :2], segments[index, 1, :2]
        ends = np.concatenate((a + rows[:, 1:2] * (b - a), a + rows[:, 2:3] * (b - a)), axis=1)
        ranks = np.where(outline[index], contour, visible) if is_seen else np.full(len(rows), hidden)
        strokes.lines += [tuple(row) for row in ends.tolist()]
        strokes.line_tags += list(zip(ranks.tolist(), owner[index].tolist(), strict=True))
    return strokes
