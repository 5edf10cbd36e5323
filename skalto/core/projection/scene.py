"""The facets of all parts of a view as one, in view axes (x right, y up, z toward the viewer), mm."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import chain
from typing import Any

import numpy as np

from skalto.core.geometry import Array
from skalto.core.projection.facets import Facets, Flags, Ints, Surface
from skalto.core.projection.passing import Body
from skalto.core.projection.placing import Faces, Placed


@dataclass(frozen=True, eq=False)
class Scene:
    """As :class:`~skalto.core.projection.facets.Facets`, and what counts in these goes on from part to part: n nodes, m
    triangles, f faces, k chords, e edges. Triangles of mirrored parts are turned, so that their fronts are outside.

    ``part`` (m,) and ``edge_part`` (e,) tell the component; triangles may be ``off`` (f,) from their faces, mm; ``across``
    (k, 2) is how much the face beside a chord leans toward the viewer at both ends. Of each body there are its ``facets``,
    ``turns`` (b, 3, 3) and ``moves`` (b, 3), which lead from its own axes, and its ``first_edge`` (b,); ``first_face`` is by
    the component's number.
    """

    points: Array
    normals: Array
    uv: Array
    triangles: Ints
    face: Ints
    sides: Ints
    part: Ints
    surface: Ints
    form: Array
    closed: Flags
    off: Array
    ends: Array
    across: Array
    params: Array
    edge: Ints
    beside: Ints
    curve: Ints
    frame: Array
    smooth: Flags
    seam: Flags
    edge_part: Ints
    kernel: list[Any]
    facets: list[Facets]
    turns: Array
    moves: Array
    first_edge: Ints
    first_face: dict[int, int]
    faces: Faces


def _beyond(numbers: Sequence[Ints], counts: Ints, base: Ints) -> Ints:
    """Numbers of many, each counted on from its *base*; −1 stays."""
    flat = np.concatenate(numbers)
    more = np.repeat(base, counts)
    more = more.reshape(-1, *(1,) * (flat.ndim - 1))
    return np.where(flat < 0, -1, flat + more)


def scene_of(bodies: Sequence[Body], axes: Array) -> Scene | None:
    """Bodies (number, facets, 4 × 4 placement) by the rows right, up, toward the viewer, *axes* (3, 3); None of none."""
    if not bodies:
        return None
    numbers = np.array([number for number, _, _ in bodies], np.int64)
    facets = [own for _, own, _ in bodies]
    matrices = np.array([matrix for _, _, matrix in bodies])
    turns, moves = axes @ matrices[:, :3, :3], matrices[:, :3, 3] @ axes.T
    det = np.linalg.det(turns)
    sizes, mirrored = np.cbrt(np.abs(det)), det < 0
    many = {
        name: np.array([len(getattr(own, name)) for own in facets], np.int64)
        for name in ("points", "triangles", "surface", "ends", "curve")
    }
    base = {name: np.cumsum(count) - count for name, count in many.items()}
    # each part by its own turn
    turned = [turn.T for turn in turns]
    points = np.concatenate([own.points @ turn for own, turn in zip(facets, turned, strict=True)])
    points += np.repeat(moves, many["points"], axis=0)
    normals = np.concatenate([own.normals @ turn for own, turn in zip(facets, turned, strict=True)])
    normals /= np.repeat(sizes, many["points"])[:, None]
    ends = np.concatenate([own.ends.reshape(-1, 3) @ turn for own, turn in zip(facets, turned, strict=True)])
    ends += np.repeat(moves, 2 * many["ends"], axis=0)
    across = np.concatenate([own.across @ turn[:, 2] for own, turn in zip(facets, turned, strict=True)])
    frame = np.concatenate([own.frame.reshape(-1, 3) @ turn for own, turn in zip(facets, turned, strict=True)])
    frame = frame.reshape(-1, 3, 3)
    frame[:, 0] += np.repeat(moves, many["curve"], axis=0)
    form = np.concatenate([own.form for own in facets])
    size = np.repeat(sizes, many["surface"])
    turn_of_face = np.repeat(turns, many["surface"], axis=0)
    form[:, :3] = np.einsum("fij,fj->fi", turn_of_face, form[:, :3]) + np.repeat(moves, many["surface"], axis=0)
    form[:, 3:6] = np.einsum("fij,fj->fi", turn_of_face, form[:, 3:6]) / size[:, None]
    surface = np.concatenate([own.surface for own in facets])
    form[:, 6:] *= np.where(surface == Surface.CONE, 1.0, size)[:, None]
    triangles = _beyond([own.triangles for own in facets], many["triangles"], base["points"])
    sides = _beyond([own.sides for own in facets], many["triangles"], base["ends"])
    flipped = np.repeat(mirrored, many["triangles"])
    if flipped.any():
        triangles[flipped], sides[flipped] = triangles[flipped][:, ::-1], sides[flipped][:, [1, 0, 2]]
    faces = Faces()
    for own, begin, count, turn, move in zip(
        facets, base["surface"].tolist(), many["surface"].tolist(), turns, moves, strict=True
    ):
        faces.add(Placed(own, form[begin : begin + count], turn, move))
    return Scene(
        points=points, normals=normals, uv=np.concatenate([own.uv for own in facets]), triangles=triangles,
        face=_beyond([own.face for own in facets], many["triangles"], base["surface"]), sides=sides,
        part=np.repeat(numbers, many["triangles"]), surface=surface, form=form,
        closed=np.concatenate([own.closed for own in facets]),
        off=np.repeat(np.array([own.chord for own in facets]) * sizes, many["surface"]), ends=ends.reshape(-1, 2, 3),
        across=across, params=np.concatenate([own.params for own in facets]),
        edge=_beyond([own.edge for own in facets], many["ends"], base["curve"]),
        beside=_beyond([own.beside for own in facets], many["ends"], base["triangles"]),
        curve=np.concatenate([own.curve for own in facets]), frame=frame,
        smooth=np.concatenate([own.smooth for own in facets]), seam=np.concatenate([own.seam for own in facets]),
        edge_part=np.repeat(numbers, many["curve"]), kernel=list(chain.from_iterable(own.kernel for own in facets)),
        facets=facets, turns=turns, moves=moves, first_edge=base["curve"],
        first_face=dict(zip(numbers.tolist(), base["surface"].tolist(), strict=True)), faces=faces,
    )  # fmt: skip
