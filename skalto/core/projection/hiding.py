"""Which stretches of chords triangles hide, compiled: all in view axes (x right, y up, z toward the viewer)."""

from __future__ import annotations

import math
from concurrent.futures import ThreadPoolExecutor

import numba
import numpy as np
from numpy.typing import NDArray

from skalto.core.cores import cores
from skalto.core.geometry import Array
from skalto.core.projection.depth import front_depth

Ints = NDArray[np.int64]

ON = 1e-8
"""A place so near to the side of a triangle, mm, lies on it, and in the triangle."""
DEPTH, WHOLE = 3, 4
"""What ends a hidden stretch, beside the sides 0 to 2 of the triangle: it goes through it, or the chord ends."""
_CHUNKS = 64
_NOWHERE = -1e30
_CONTACT, _LEAST_LEAN = 1e-5, 1e-3
"""What lies nearer to a face, mm, touches it; where the face leans less to the viewer than this, more does not count."""
_STEEP = 0.02
"""How much higher a triangle, mm, may come to lie beyond its corners by :data:`ON`."""
_MOST_CELLS = 4_000_000


@numba.njit(cache=True)  # type: ignore[untyped-decorator]
def _rows_of(low, high, origin, size, count):  # type: ignore[no-untyped-def]
    """The first and last cell of a stretch, within the grid."""
    first, last = math.floor((low - origin) / size), math.floor((high - origin) / size)
    return max(0, min(count - 1, first)), max(0, min(count - 1, last))


@numba.njit(cache=True, nogil=True)  # type: ignore[untyped-decorator]
def _placed(triangles, first, last, origin, size, columns, rows, start, lists):  # type: ignore[no-untyped-def]
    """Count the triangles from *first* to *last* of each cell (where *lists* is empty), or write them down: a row of cells
    takes those that the triangle reaches in it, since a long sliver is far smaller than its box."""
    fill = len(lists) > 0
    for t in range(first, last):
        y0 = min(triangles[t, 0, 1], triangles[t, 1, 1], triangles[t, 2, 1])
        y1 = max(triangles[t, 0, 1], triangles[t, 1, 1], triangles[t, 2, 1])
        j0, j1 = _rows_of(y0 - ON, y1 + ON, origin[1], size, rows)
        for j in range(j0, j1 + 1):
            low, high = origin[1] + j * size - ON, origin[1] + (j + 1) * size + ON
            x0, x1 = np.inf, -np.inf
            for k in range(3):
                ax, ay = triangles[t, k, 0], triangles[t, k, 1]
                bx, by = triangles[t, (k + 1) % 3, 0], triangles[t, (k + 1) % 3, 1]
                if max(ay, by) < low or min(ay, by) > high:
                    continue
                s0, s1 = 0.0, 1.0
                if abs(by - ay) > 1e-300:
                    a, b = (low - ay) / (by - ay), (high - ay) / (by - ay)
                    s0, s1 = max(0.0, min(a, b)), min(1.0, max(a, b))
                p, q = ax + (bx - ax) * s0, ax + (bx - ax) * s1
                x0, x1 = min(x0, p, q), max(x1, p, q)
            if x0 > x1:
                continue
            i0, i1 = _rows_of(x0 - ON, x1 + ON, origin[0], size, columns)
            for i in range(i0, i1 + 1):
                cell = j * columns + i
                if fill:
                    lists[start[cell]] = t
                start[cell] += 1


@numba.njit(cache=True)  # type: ignore[untyped-decorator]
def _within(px, py, pz, qx, qy, qz, plane, out):  # type: ignore[no-untyped-def]
    """The stretch of the chord from p to q over a triangle: *out* takes begin and end, and how far it lies behind at both; what
    ends it at both, −1 for nowhere."""
    begin, end, at_begin, at_end = 0.0, 1.0, WHOLE, WHOLE
    for k in range(3):
        ax, ay, dx, dy = plane[4 * k], plane[4 * k + 1], plane[4 * k + 2], plane[4 * k + 3]
        s0 = dx * (py - ay) - dy * (px - ax) + ON
        s1 = dx * (qy - ay) - dy * (qx - ax) + ON
        if s0 < 0.0 and s1 < 0.0:
            return -1, -1
        if s0 < 0.0:
            t = s0 / (s0 - s1)
            if t > begin:
                begin, at_begin = t, k
        elif s1 < 0.0:
            t = s0 / (s0 - s1)
            if t < end:
                end, at_end = t, k
        if begin >= end:
            return -1, -1
    ax, ay = plane[0], plane[1]
    d0 = plane[12] + plane[13] * (px - ax) + plane[14] * (py - ay) - pz
    d1 = plane[12] + plane[13] * (qx - ax) + plane[14] * (qy - ay) - qz
    out[0], out[1] = begin, end
    out[2], out[3] = d0 + (d1 - d0) * begin, d0 + (d1 - d0) * end
    return at_begin, at_end


@numba.njit(cache=True, nogil=True)  # type: ignore[untyped-decorator]
def _behind(at_begin, at_end, out):  # type: ignore[no-untyped-def]
    """What of a stretch lies behind, by how far its ends do."""
    begin, end, at0, at1 = out[0], out[1], out[2], out[3]
    if at0 <= 0.0 and at1 <= 0.0:
        return -1, -1
    if at0 < 0.0:
        out[0], at_begin = begin + (end - begin) * at0 / (at0 - at1), DEPTH
    elif at1 < 0.0:
        out[1], at_end = begin + (end - begin) * at0 / (at0 - at1), DEPTH
    if out[0] >= out[1]:
        return -1, -1
    return at_begin, at_end


@numba.njit(cache=True, nogil=True)  # type: ignore[untyped-decorator]
def _true_depth(share, p, q, conic, frame, span, plane, surface, form, band, corner, normal, toward):  # type: ignore[no-untyped-def]
    """How far a line or conic lies behind a curved face at a *share* of its chord, by the curve and the face themselves; by the
    triangle where the face cannot be told there."""
    if conic:
        t = span[0] + (span[1] - span[0]) * share
        cos, sin = math.cos(t), math.sin(t)
        x = frame[0, 0] + frame[1, 0] * cos + frame[2, 0] * sin
        y = frame[0, 1] + frame[1, 1] * cos + frame[2, 1] * sin
        z = frame[0, 2] + frame[1, 2] * cos + frame[2, 2] * sin
    else:
        x, y, z = p[0] + (q[0] - p[0]) * share, p[1] + (q[1] - p[1]) * share, p[2] + (q[2] - p[2]) * share
    guess = plane[12] + plane[13] * (x - plane[0]) + plane[14] * (y - plane[1])
    true = front_depth(surface, form, x, y, guess, corner, normal, 2 * band, toward)
    if math.isnan(true):
        return guess - z - band
    return true - z - _CONTACT / max(toward[2], _LEAST_LEAN)


@numba.njit(cache=True, nogil=True)  # type: ignore[untyped-decorator]
def _truly_behind(at_begin, at_end, p, q, conic, frame, span, plane, surface, form, band, out):  # type: ignore[no-untyped-def]
    """As :func:`_behind`, by the curve and the face themselves."""
    corner, normal, toward = np.empty(3), np.empty(3), np.empty(3)
    corner[0], corner[1], corner[2] = plane[0], plane[1], plane[12]
    normal[0], normal[1], normal[2] = -plane[13], -plane[14], 1.0
    begin, end = out[0], out[1]
    out[2] = _true_depth(begin, p, q, conic, frame, span, plane, surface, form, band, corner, normal, toward)
    out[3] = _true_depth(end, p, q, conic, frame, span, plane, surface, form, band, corner, normal, toward)
    if out[2] <= 0.0 and out[3] <= 0.0:
        middle = (begin + end) / 2
        at = _true_depth(middle, p, q, conic, frame, span, plane, surface, form, band, corner, normal, toward)
        if at <= 0.0:
            return -1, -1
        # it dips into the face
        out[0] = begin + (middle - begin) * out[2] / (out[2] - at)
        out[1] = middle + (end - middle) * at / (at - out[3])
        return DEPTH, DEPTH
    return _behind(at_begin, at_end, out)


@numba.njit(cache=True, nogil=True)  # type: ignore[untyped-decorator]
def _of_chunk(  # type: ignore[no-untyped-def]
    chunk,
    chords,
    beside,
    sides,
    clear,
    kind,
    curve,
    spans,
    frames,
    surface,
    form,
    part,
    planes,
    bands,
    own_band,
    owner,
    face,
    grid,
    cells,
    start,
    lists,
    capacity,
    found,
    ends,
):
    """One chunk of the chords: *found* (capacity, 4) takes chord, triangle at begin and end, what ends it as 8·begin + end,
    and *ends* (capacity, 2) the shares; how many there are, more than *capacity* where it did not do."""
    origin_x, origin_y, size = grid
    columns, rows = cells
    stamp = np.full(len(planes), -1, np.int64)
    local = np.empty((64, 2))
    marks = np.empty((64, 3), np.int64)
    out = np.empty(2)
    n = 0
    size_of_chunk = len(chords) // _CHUNKS + 1
    for c in range(chunk * size_of_chunk, min((chunk + 1) * size_of_chunk, len(chords))):
        p, q = chords[c, 0], chords[c, 1]
        px, py, pz, qx, qy, qz = p[0], p[1], p[2], q[0], q[1], q[2]
        lowest = min(pz, qz) - _STEEP
        held, whole = 0, False
        j0, j1 = _rows_of(min(p[1], q[1]) - ON, max(p[1], q[1]) + ON, origin_y, size, rows)
        for j in range(j0, j1 + 1):
            if whole:
                break
            s0, s1 = 0.0, 1.0
            if abs(q[1] - p[1]) > 1e-300:
                a = (origin_y + j * size - ON - p[1]) / (q[1] - p[1])
                b = (origin_y + (j + 1) * size + ON - p[1]) / (q[1] - p[1])
                s0, s1 = max(0.0, min(a, b)), min(1.0, max(a, b))
                if s0 > s1:
                    continue
            x, y = p[0] + (q[0] - p[0]) * s0, p[0] + (q[0] - p[0]) * s1
            i0, i1 = _rows_of(min(x, y) - ON, max(x, y) + ON, origin_x, size, columns)
            for i in range(i0, i1 + 1):
                if whole:
                    break
                cell = j * columns + i
                for m in range(start[cell], start[cell + 1]):
                    t = lists[m]
                    # the nearest come first: the rest lie behind the chord
                    if planes[t, 15] < lowest:
                        break
                    if stamp[t] == c:
                        continue
                    stamp[t] = c
                    if owner[t] == beside[c, 0] or owner[t] == beside[c, 1]:
                        continue
                    own = part[t] == beside[c, 2]
                    # the face of an edge bulges beyond its triangles, which do not hide it where the face turns away
                    bulges = face[t] == sides[c, 0] or face[t] == sides[c, 1]
                    band = own_band if own and not bulges else bands[t]
                    if face[t] == beside[c, 3] or face[t] == beside[c, 4]:
                        band, own = clear[c], True
                        if band == math.inf:
                            continue
                    plane = planes[t]
                    at_begin, at_end = _within(px, py, pz, qx, qy, qz, plane, out)
                    if at_begin < 0:
                        continue
                    if min(out[2], out[3]) <= band:
                        deepest = max(out[2], out[3])
                        curved = surface[face[t]]
                        if own or curved < 1 or curved > 4 or kind[c] > 1 or deepest < -band:
                            out[2], out[3] = out[2] - band, out[3] - band
                            at_begin, at_end = _behind(at_begin, at_end, out)
                        else:
                            at_begin, at_end = _truly_behind(
                                at_begin, at_end, p, q, kind[c] == 1, frames[curve[c]], spans[c], plane, curved, form[face[t]],
                                band, out,
                            )  # fmt: skip
                        if at_begin < 0:
                            continue
                    if held == len(local):
                        wider, more = np.empty((2 * held, 2)), np.empty((2 * held, 3), np.int64)
                        wider[:held], more[:held] = local, marks
                        local, marks = wider, more
                    local[held, 0], local[held, 1] = out[0], out[1]
                    marks[held, 0], marks[held, 1], marks[held, 2] = t, at_begin, at_end
                    held += 1
                    if out[0] <= 0.0 and out[1] >= 1.0:
                        whole = True
                        break
        if held == 0:
            continue
        if whole:
            if n < capacity:
                found[n, 0], found[n, 1], found[n, 2] = c, marks[held - 1, 0], marks[held - 1, 0]
                found[n, 3] = 8 * WHOLE + WHOLE
                ends[n, 0], ends[n, 1] = 0.0, 1.0
            n += 1
            continue
        order = np.argsort(local[:held, 0])
        reach = math.sqrt((q[0] - p[0]) ** 2 + (q[1] - p[1]) ** 2)
        gap = 2e-7 / max(reach, 1e-9)
        k = 0
        while k < held:
            first = order[k]
            last = first
            k += 1
            while k < held and local[order[k], 0] <= local[last, 1] + gap:
                if local[order[k], 1] > local[last, 1]:
                    last = order[k]
                k += 1
            if n < capacity:
                found[n, 0], found[n, 1], found[n, 2] = c, marks[first, 0], marks[last, 0]
                found[n, 3] = 8 * marks[first, 1] + marks[last, 2]
                ends[n, 0], ends[n, 1] = local[first, 0], local[last, 1]
            n += 1
    return n


def _in_cells(
    triangles: Array, low: Array, size: float, columns: int, rows: int, pool: ThreadPoolExecutor
) -> tuple[Ints, Ints]:
    """Where in the lists each cell begins, (cells + 1,), and the lists of the triangles in the cells, in order."""
    shares = np.linspace(0, len(triangles), cores() + 1).astype(int).tolist()
    counts = np.zeros((len(shares) - 1, columns * rows), np.int64)
    nothing = np.empty(0, np.int64)

    def place(share: int, start: Ints, lists: Ints) -> None:
        _placed(triangles, shares[share], shares[share + 1], low, size, columns, rows, start, lists)

    list(pool.map(lambda share: place(share, counts[share], nothing), range(len(counts))))
    start = np.concatenate((np.zeros(1, np.int64), np.cumsum(counts.sum(axis=0))))
    lists = np.empty(int(start[-1]), np.int64)
    begin = start[:-1] + np.cumsum(counts, axis=0) - counts
    list(pool.map(lambda share: place(share, begin[share], lists), range(len(counts))))
    return start, lists


@numba.njit(cache=True)  # type: ignore[untyped-decorator]
def _planes(triangles, top, low, high):  # type: ignore[no-untyped-def]
    """What all reach, into *low* and *high* (2,); of each triangle (16,): corner and direction of each side in the view, the
    depth at the first corner and how it changes with x and y, and the *top*. One that is a line in the view lies far behind."""
    planes = np.zeros((len(triangles), 16))
    low[:], high[:] = np.inf, -np.inf
    for t in range(len(triangles)):
        a, b, c = triangles[t, 0], triangles[t, 1], triangles[t, 2]
        ux, uy, uz, vx, vy, vz = b[0] - a[0], b[1] - a[1], b[2] - a[2], c[0] - a[0], c[1] - a[1], c[2] - a[2]
        nx, ny, nz = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
        line = nz == 0.0
        for k in range(3):
            p, q = triangles[t, k], triangles[t, (k + 1) % 3]
            dx, dy = q[0] - p[0], q[1] - p[1]
            size = math.sqrt(dx * dx + dy * dy)
            planes[t, 4 * k], planes[t, 4 * k + 1] = p[0], p[1]
            for axis in range(2):
                low[axis], high[axis] = min(low[axis], p[axis]), max(high[axis], p[axis])
            if size < 1e-12:
                line = True
            else:
                planes[t, 4 * k + 2], planes[t, 4 * k + 3] = dx / size, dy / size
        if line:
            planes[t, 12] = _NOWHERE
        else:
            planes[t, 12] = a[2]
            planes[t, 13], planes[t, 14] = -nx / nz, -ny / nz
        planes[t, 15] = top[t]
    return planes


def hidden_stretches(
    chords: Array,
    beside: Ints,
    sides: Ints,
    clear: Array,
    curves: tuple[Ints, Ints, Array, Array],
    triangles: Array,
    owner: Ints,
    face: Ints,
    part: Ints,
    bands: Array,
    own_band: float,
    faces: tuple[Ints, Array],
) -> tuple[Ints, Array]:  # fmt: skip
    """The stretches of chords (k, 2, 3) that triangles (m, 3, 3), which turn their front to the viewer, hide.

    :param beside: (k, 5) the names of the two triangles beside each chord, which never hide it, its part, and two faces that
        hide it only where they are nearer by what is *clear* (k,), mm. :param sides: (k, 2) the faces of those of them
        that may face the viewer, else -1: others of these hide it as those of another part.
    :param owner: (m,) the triangles' names.
    :param face: (m,) their faces. :param part: (m,) their parts.
    :param curves: what each chord is of, (k,): 0 a line, 1 a conic, 2 another; the number of its curve, its parameters (k, 2);
        and the rows c, a, b of the curves, (n, 3, 3). :param faces: what each face is, (f,), and its form, (f, 8).
    :param bands: (m,) how much nearer than a chord of another part a triangle must be to hide it, mm; *own_band* the same for
        the rest of its own part. Lines and conics are told from curved faces of other parts as they truly are.
    :returns: rows (s, 4) of chord, triangle at the begin, at the end, what ends it as 8·begin + end (:data:`DEPTH`,
        :data:`WHOLE`, else the triangle's side), sorted by chord and place; and begin and end as shares of the chord, (s, 2).
    """
    nothing = np.empty((0, 4), np.int64), np.empty((0, 2))
    if not len(chords) or not len(triangles):
        return nothing
    # faces bulge beyond their triangles
    top = np.maximum(np.maximum(triangles[:, 0, 2], triangles[:, 1, 2]), triangles[:, 2, 2]) + bands
    nearest = np.argsort(-top, kind="stable")
    triangles, owner, face, part, bands = triangles[nearest], owner[nearest], face[nearest], part[nearest], bands[nearest]
    low, high = np.empty(2), np.empty(2)
    planes = _planes(triangles, top[nearest], low, high)
    spread = np.maximum(high - low, 1e-6)
    # about as many cells as triangles, square ones
    size = float(np.sqrt(spread[0] * spread[1] / min(len(triangles), _MOST_CELLS)))
    size = max(size, float(spread.max()) / 4000)
    columns, rows = (int(v) for v in np.floor(spread / size) + 1)

    def of_chunk(chunk: int, start: Ints, lists: Ints) -> tuple[Ints, Array]:
        capacity = 4 * len(chords) // _CHUNKS + 1024
        while True:
            found, ends = np.empty((capacity, 4), np.int64), np.empty((capacity, 2))
            count = _of_chunk(
                chunk, chords, beside, sides, clear, *curves, *faces, part, planes, bands, own_band, owner, face,
                (low[0], low[1], size), (columns, rows), start, lists, capacity, found, ends,
            )  # fmt: skip
            if count <= capacity:
                return found[:count], ends[:count]
            capacity = int(count)

    with ThreadPoolExecutor(cores()) as pool:
        start, lists = _in_cells(triangles, low, size, columns, rows, pool)
        parts = list(pool.map(lambda chunk: of_chunk(chunk, start, lists), range(_CHUNKS)))
    rows_, spans = np.concatenate([one for one, _ in parts]), np.concatenate([one for _, one in parts])
    rows_[:, 1:3] = nearest[rows_[:, 1:3]]
    return rows_, spans
