"""What hidden lines need of a model and no view decides, made once and kept as bytes: the facets of its shapes, and the curves
in which its components pass through one another."""

from __future__ import annotations

import io
from dataclasses import fields
from typing import Any

import numpy as np
import orjson

from skalto.core.geometry import Array
from skalto.core.projection.facets import Curve, Facets
from skalto.core.projection.facing import facets_kept, own_facets
from skalto.core.projection.passing import Crossing, crossings_kept, keep_crossings, passing_of
from skalto.core.projection.splines import spline_of_edge
from skalto.core.sources.models.kernel import faces, from_bytes, sub_shapes, to_bytes
from skalto.core.sources.models.model import Model

MOST = 1_500_000
"""Triangles of all shapes at most: they take some 130 bytes each."""
_ARRAYS = tuple(f.name for f in fields(Facets) if f.type in ("Array", "Ints", "Flags"))
"""What of facets is an array with a row for each of something."""


def make_ready(model: Model) -> bool:
    """Make both for all of a model of kernel shapes, so far as it is not made; False, and not all is made, where that would be
    more than is worth keeping."""
    triangles = 0
    for number, shape in enumerate(model.shapes):
        if faces(shape):
            triangles += len(own_facets(model, number).triangles)
            if triangles > MOST:
                return False
    leaves = [(n, c) for n, c in enumerate(model.tree.leaves()) if c.shape is not None and faces(model.shapes[c.shape])]
    passing_of([(n, own_facets(model, c.shape), c.matrix()) for n, c in leaves if c.shape is not None])
    return True


def pack_ready(model: Model) -> bytes:
    """What is made of a model."""
    kept = facets_kept(model)
    numbers = sorted(kept)
    of = {id(kept[n]): n for n in numbers}
    arrays: dict[str, Any] = {}
    for name in _ARRAYS:
        rows = [getattr(kept[n], name) for n in numbers]
        arrays[f"facets.{name}"] = np.concatenate(rows) if rows else np.zeros(0)
        arrays[f"count.{name}"] = np.array([len(own) for own in rows], np.int64)
    plain = [{"shape": n, "chord": kept[n].chord, "bodies": kept[n].bodies, "whole": kept[n].whole} for n in numbers]
    pairs, edges = [], []
    t, uv, frames = [np.zeros(0)], [np.zeros((2, 0, 2))], []
    for first, second, key, crossings in crossings_kept([kept[n] for n in numbers]):
        own = [(int(c.kind), c.faces, len(c.t)) for c in crossings]
        pairs.append((of[id(first)], of[id(second)], key, own))
        for c in crossings:
            edges.append(c.edge)
            t.append(c.t)
            uv.append(c.uv)
            frames.append(c.frame)
    arrays["t"], arrays["uv"] = np.concatenate(t), np.concatenate(uv, axis=1)
    arrays["frames"] = np.array(frames).reshape(-1, 3, 3)
    arrays["edges"] = np.frombuffer(to_bytes(edges), np.uint8)
    arrays["plain"] = np.frombuffer(orjson.dumps({"facets": plain, "pairs": pairs}), np.uint8)
    out = io.BytesIO()
    np.savez(out, **arrays)
    return out.getvalue()


def unpack_ready(model: Model, data: bytes) -> None:
    """Give a model, the same that they were made of, what :func:`pack_ready` wrote, where it has not its own."""
    with np.load(io.BytesIO(data)) as archive:
        arrays = {name: archive[name] for name in archive.files}
    plain = orjson.loads(arrays["plain"].tobytes())
    kept = facets_kept(model)
    begin = dict.fromkeys(_ARRAYS, 0)
    for row, own in enumerate(plain["facets"]):
        of: dict[str, Any] = {}
        for name in _ARRAYS:
            end = begin[name] + int(arrays[f"count.{name}"][row])
            of[name] = arrays[f"facets.{name}"][begin[name] : end]
            begin[name] = end
        if own["shape"] not in kept:
            kept[own["shape"]] = _facets(model.shapes[own["shape"]], of, own)
    edges = from_bytes(arrays["edges"].tobytes())
    at = number = 0
    for first, second, key, crossings in plain["pairs"]:
        found = []
        for kind, numbers, count in crossings:
            end = at + count
            t, uv = arrays["t"][at:end], arrays["uv"][:, at:end]
            found.append(_crossing(edges[number], Curve(kind), arrays["frames"][number], numbers, t, uv))
            at, number = end, number + 1
        keep_crossings(kept[first], kept[second], tuple(key), found)


def _facets(shape: Any, arrays: dict[str, Any], own: dict[str, Any]) -> Facets:
    from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE
    from OCP.TopoDS import TopoDS

    return Facets(
        **arrays, kernel=[TopoDS.Edge_s(edge) for edge in sub_shapes(shape, TopAbs_EDGE)],
        kernel_faces=[TopoDS.Face_s(face) for face in sub_shapes(shape, TopAbs_FACE)], chord=own["chord"],
        bodies=own["bodies"], whole=own["whole"],
    )  # fmt: skip


def _crossing(edge: Any, kind: Curve, frame: Array, numbers: list[int], t: Array, uv: Array) -> Crossing:
    from OCP.TopoDS import TopoDS

    edge = TopoDS.Edge_s(edge)
    spline = spline_of_edge(edge) if kind == Curve.OTHER else None
    return Crossing(edge, kind, frame, spline, (numbers[0], numbers[1]), t, uv)
