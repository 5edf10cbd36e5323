"""Which edges of the model a view shows where, so that a dimension can be attached to them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from skalto.core.annotation.dimension_values import Frame
from skalto.core.annotation.edge_references import SourceFacts
from skalto.core.artwork import Artwork, Ellipses, Lines
from skalto.core.geometry import Array
from skalto.core.sheets.annotations import Ref

MOST = 6000
"""No more edges than this are offered, the longest first; more could not be told apart by the eye."""


@dataclass(frozen=True)
class Pickable:
    """An edge as it lies on the sheet: a line's (x0, y0, x1, y1), or a circle's (cx, cy, r)."""

    ref: Ref
    shape: Literal["line", "circle"]
    at: tuple[float, ...]


def _line_keys(points: Array) -> Array:
    """Direction and distance from the origin of the lines through segments (n, 2, 2), rounded: (n, 3)."""
    d = points[:, 1] - points[:, 0]
    size = np.linalg.norm(d, axis=1)
    d = np.divide(d, size[:, None], out=np.zeros_like(d), where=size[:, None] > 1e-9)
    flip = (d[:, 0] < -1e-6) | ((np.abs(d[:, 0]) <= 1e-6) & (d[:, 1] < 0))
    d[flip] *= -1
    off = d[:, 0] * points[:, 0, 1] - d[:, 1] * points[:, 0, 0]
    return np.round(np.column_stack((d * 1e3, off * 1e2)))


def _seen_lines(artwork: Artwork) -> set[tuple[float, ...]]:
    keys: set[tuple[float, ...]] = set()
    for item in artwork:
        if isinstance(item, Lines) and len(item):
            rows = _line_keys(item.points)
            # a line at the border of two roundings belongs to both
            for shift in (-1, 0, 1):
                keys |= set(map(tuple, rows + np.array((0, 0, shift))))
    return keys


def _seen_circles(artwork: Artwork) -> set[tuple[float, ...]]:
    keys: set[tuple[float, ...]] = set()
    for item in artwork:
        if isinstance(item, Ellipses):
            chosen = item.is_circle()
            keys |= set(map(tuple, np.round(np.column_stack((item.centre, item.radii()[:, 0]))[chosen], 2)))
    return keys


def pickable(frame: Frame, facts: SourceFacts, paths: Sequence[str], artwork: Artwork) -> list[Pickable]:
    """The straight and circular edges of components that the view draws.

    :param artwork: the view's own lines, in its plane. A line is taken as drawn when a stroke lies on it.
    """
    lines, circles = _seen_lines(artwork), _seen_circles(artwork)
    found: list[tuple[float, Pickable]] = []
    for path in paths:
        own = facts.of(path)
        if own is None:
            continue
        if len(own.lines):
            flat = own.lines.reshape(-1, 2, 3) @ frame.axes[:2].T
            sizes = np.linalg.norm(flat[:, 1] - flat[:, 0], axis=1)
            seen = np.array([tuple(row) in lines for row in _line_keys(flat)]) & (sizes > 1e-6)
            for n in np.flatnonzero(seen).tolist():
                ref = Ref(component=path, edge=int(own.line_edges[n]), kind="line", geometry=tuple(own.lines[n].tolist()))
                at = tuple(frame.by.points(flat[n]).ravel().tolist())
                found.append((float(sizes[n]), Pickable(ref, "line", at)))
        for n, row in enumerate(own.circles):
            ref = Ref(component=path, edge=int(own.circle_edges[n]), kind="circle", geometry=tuple(row[:7].tolist()))
            centre = frame.plane(row[:3])
            along = abs(float(row[3:6] @ frame.axes[2]))
            if along > 1 - 1e-9:
                if tuple(np.round((*centre, row[6]), 2)) in circles:
                    at = (*frame.by.points(centre).tolist(), float(row[6]) * frame.by.scale)
                    found.append((2 * float(row[6]), Pickable(ref, "circle", at)))
            elif along < 1e-9:
                across = np.cross(frame.axes[2], row[3:6])[None] * row[6]
                ends = np.concatenate((row[:3] - across, row[:3] + across)) @ frame.axes[:2].T
                if tuple(_line_keys(ends[None])[0]) in lines:
                    found.append((2 * float(row[6]), Pickable(ref, "line", tuple(frame.by.points(ends).ravel().tolist()))))
    # of edges that fall together the one nearest to the viewer
    nearest: dict[tuple[float, ...], tuple[float, float, Pickable]] = {}
    for size, pick in found:
        toward = float(np.array(pick.ref.geometry[:3]) @ frame.axes[2])
        corners = sorted((pick.at[:2], pick.at[2:])) if pick.shape == "line" else [pick.at]
        key = tuple(round(v, 2) for corner in corners for v in corner)
        if key not in nearest or toward > nearest[key][0] + 1e-9:
            nearest[key] = (toward, size, pick)
    return [pick for _, _, pick in sorted(nearest.values(), key=lambda row: -row[1])[:MOST]]
