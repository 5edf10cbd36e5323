"""Artwork: everything that can be drawn on a sheet, in millimetres, x right, y up, origin at the lower left.

It keeps what things are: a line stays a line and an arc an arc until an output has no such thing. Strokes of one
kind and one set of tags are held in arrays, never as an object a stroke.
"""

from __future__ import annotations

import json
import math
from collections.abc import Iterable, Iterator
from dataclasses import asdict, dataclass, field, fields, replace
from enum import StrEnum
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
TAU = 2.0 * np.pi


class EdgeClass(StrEnum):
    """What a stroke is (ISO 128-2 and ISO 128-3 speak of the same kinds of edge)."""

    VISIBLE = "visible"
    OUTLINE = "outline"
    SMOOTH = "smooth"
    HIDDEN = "hidden"
    FRAME = "frame"
    HATCHING = "hatching"
    CENTRE = "centre line"
    CUTTING = "cutting plane"
    CUTTING_END = "cutting plane end"
    DIMENSION = "dimension"
    TABLE = "table"
    TEXT = "text"


@dataclass(frozen=True)
class Tags:
    """What is known of a stroke beside its shape."""

    edge_class: EdgeClass
    component: str = ""
    layer: str = ""
    colour: tuple[int, int, int] | None = None
    pen: str | None = None


@dataclass(frozen=True)
class Similarity:
    """A placement that keeps shapes: scale first, then turn by *turn* radians, then move by (dx, dy) mm."""

    scale: float = 1.0
    dx: float = 0.0
    dy: float = 0.0
    turn: float = 0.0

    def vectors(self, xy: Array) -> Array:
        """Scale and turn directions, shape (…, 2)."""
        if not self.turn:
            return xy * self.scale
        cos, sin = math.cos(self.turn) * self.scale, math.sin(self.turn) * self.scale
        turned: Array = np.stack((xy[..., 0] * cos - xy[..., 1] * sin, xy[..., 0] * sin + xy[..., 1] * cos), axis=-1)
        return turned

    def points(self, xy: Array) -> Array:
        """Move points, shape (…, 2)."""
        moved: Array = self.vectors(xy) + np.array((self.dx, self.dy))
        return moved

    def back(self, xy: Array) -> Array:
        """Where points (…, 2) came from."""
        return Similarity(1 / self.scale, turn=-self.turn).vectors(np.asarray(xy, float) - np.array((self.dx, self.dy)))


@dataclass(frozen=True, eq=False)
class Lines:
    """Straight segments: *points* of shape (n, 2, 2)."""

    tags: Tags
    points: Array
    kind: ClassVar[str] = "lines"

    def placed(self, by: Similarity) -> Lines:
        return replace(self, points=by.points(self.points))

    def bounds(self) -> Array:
        """Lowest and highest corner of each, shape (n, 2, 2)."""
        return np.stack((self.points.min(axis=1), self.points.max(axis=1)), axis=1)

    def __len__(self) -> int:
        return len(self.points)


@dataclass(frozen=True, eq=False)
class Ellipses:
    """Elliptical arcs, c + a·cos t + b·sin t for t from start to start + sweep.

    *centre* (n, 2), *major* a (n, 2), *minor* b (n, 2) square to it, *start* and *sweep* (n,) in radians, the sweep
    positive; a whole ellipse sweeps exactly 2π. A circular arc is one whose axes are equally long: see :meth:`is_circle`.
    """

    tags: Tags
    centre: Array
    major: Array
    minor: Array
    start: Array
    sweep: Array
    kind: ClassVar[str] = "ellipses"

    def placed(self, by: Similarity) -> Ellipses:
        return replace(self, centre=by.points(self.centre), major=by.vectors(self.major), minor=by.vectors(self.minor))

    def radii(self) -> Array:
        """Half axes, shape (n, 2)."""
        return np.stack((np.linalg.norm(self.major, axis=1), np.linalg.norm(self.minor, axis=1)), axis=1)

    def is_circle(self) -> NDArray[np.bool_]:
        """Which are circular, to a ten millionth of the radius or a nanometre, shape (n,)."""
        radii = self.radii()
        return np.abs(radii[:, 0] - radii[:, 1]) <= np.maximum(1e-7 * radii[:, 0], 1e-6)

    def is_whole(self) -> NDArray[np.bool_]:
        """Which close on themselves, shape (n,)."""
        return self.sweep >= TAU - 1e-12

    def at(self, t: Array) -> Array:
        """Points at parameters of shape (n, k): shape (n, k, 2)."""
        return self.centre[:, None] + np.cos(t)[..., None] * self.major[:, None] + np.sin(t)[..., None] * self.minor[:, None]

    def bounds(self) -> Array:
        """Exact: ends, and the extremes of each coordinate that lie within the sweep, shape (n, 2, 2)."""
        ends = self.at(np.stack((self.start, self.start + self.sweep), axis=1))
        low, high = ends.min(axis=1), ends.max(axis=1)
        for axis in (0, 1):
            peak = np.arctan2(self.minor[:, axis], self.major[:, axis])
            reach = np.hypot(self.major[:, axis], self.minor[:, axis])
            for angle, sign in ((peak, 1.0), (peak + np.pi, -1.0)):
                inside = np.mod(angle - self.start, TAU) <= self.sweep + 1e-12
                value = self.centre[:, axis] + sign * reach
                low[:, axis] = np.where(inside, np.minimum(low[:, axis], value), low[:, axis])
                high[:, axis] = np.where(inside, np.maximum(high[:, axis], value), high[:, axis])
        return np.stack((low, high), axis=1)

    def __len__(self) -> int:
        return len(self.centre)


@dataclass(frozen=True, eq=False)
class Beziers:
    """Cubic Bézier curves: *points* of shape (n, 4, 2)."""

    tags: Tags
    points: Array
    kind: ClassVar[str] = "beziers"

    def placed(self, by: Similarity) -> Beziers:
        return replace(self, points=by.points(self.points))

    def bounds(self) -> Array:
        """Exact, from the roots of the derivative, shape (n, 2, 2)."""
        return bezier_bounds(self.points)

    def __len__(self) -> int:
        return len(self.points)


@dataclass(frozen=True, eq=False)
class Text:
    """Runs of text: each its *texts*, where its baseline starts (n, 2), the height of its capitals (n,) mm, its angle (n,)
    in radians and its length (n,) mm, as :mod:`skalto.core.lettering` measures it."""

    tags: Tags
    texts: tuple[str, ...]
    start: Array
    height: Array
    angle: Array
    length: Array
    kind: ClassVar[str] = "text"

    def placed(self, by: Similarity) -> Text:
        return replace(
            self,
            start=by.points(self.start),
            height=self.height * by.scale,
            angle=self.angle + by.turn,
            length=self.length * by.scale,
        )

    def corners(self) -> Array:
        """The box of each run's capitals, shape (n, 4, 2)."""
        along = np.stack((np.cos(self.angle), np.sin(self.angle)), axis=1)
        up = np.stack((-along[:, 1], along[:, 0]), axis=1) * self.height[:, None]
        end = self.start + along * self.length[:, None]
        return np.stack((self.start, end, end + up, self.start + up), axis=1)

    def bounds(self) -> Array:
        corners = self.corners()
        return np.stack((corners.min(axis=1), corners.max(axis=1)), axis=1)

    def __len__(self) -> int:
        return len(self.texts)


@dataclass(frozen=True, eq=False)
class Fills:
    """Filled polygons of as many corners each: *points* of shape (n, k, 2)."""

    tags: Tags
    points: Array
    kind: ClassVar[str] = "fills"

    def placed(self, by: Similarity) -> Fills:
        return replace(self, points=by.points(self.points))

    def bounds(self) -> Array:
        return np.stack((self.points.min(axis=1), self.points.max(axis=1)), axis=1)

    def __len__(self) -> int:
        return len(self.points)


@dataclass(frozen=True, eq=False)
class Raster:
    """A picture: *pixels* (rows, columns, 4) red, green, blue and cover of 0 to 255, the first row on top; its lower left
    *corner* (2,) and the vectors *across* and *upward* that span it, (2,) each, mm."""

    tags: Tags
    pixels: NDArray[np.uint8]
    corner: Array
    across: Array
    upward: Array
    kind: ClassVar[str] = "raster"

    def placed(self, by: Similarity) -> Raster:
        return replace(self, corner=by.points(self.corner), across=by.vectors(self.across), upward=by.vectors(self.upward))

    def bounds(self) -> Array:
        corners = self.corner + np.array((0 * self.across, self.across, self.upward, self.across + self.upward))
        return np.stack((corners.min(axis=0), corners.max(axis=0)))[None]

    def __len__(self) -> int:
        return 1


Item = Lines | Ellipses | Beziers | Text | Fills | Raster
Stroked = Lines | Ellipses | Beziers
_KINDS: dict[str, type[Lines] | type[Ellipses] | type[Beziers]] = {k.kind: k for k in (Lines, Ellipses, Beziers)}


def bezier_at(points: Array, t: Array) -> Array:
    """Cubic Béziers (n, 4, 2) at parameters (k,) or (n, k): points of shape (n, k, 2)."""
    t = np.broadcast_to(t, (len(points), np.shape(t)[-1]))[..., None]
    s = 1.0 - t
    p0, p1, p2, p3 = (points[:, None, i] for i in range(4))
    result: Array = s**3 * p0 + 3 * s * s * t * p1 + 3 * s * t * t * p2 + t**3 * p3
    return result


def bezier_bounds(points: Array) -> Array:
    """Exact bounds of cubic Béziers (n, 4, 2): lowest and highest corner, shape (n, 2, 2)."""
    d0, d1, d2 = (points[:, i + 1] - points[:, i] for i in range(3))
    a, b, c = d0 - 2 * d1 + d2, 2 * (d1 - d0), d0
    with np.errstate(divide="ignore", invalid="ignore"):
        root = np.sqrt(b * b - 4 * a * c)
        q = -0.5 * (b + np.where(b >= 0, root, -root))
        roots = np.stack((q / a, c / q), axis=1)
    roots = np.where(np.isfinite(roots) & (roots > 0) & (roots < 1), roots, 0.0)
    candidates = [points[:, 0], points[:, 3]]
    for r in (roots[:, 0], roots[:, 1]):
        s = 1.0 - r
        candidates.append(
            s**3 * points[:, 0] + 3 * s * s * r * points[:, 1] + 3 * s * r * r * points[:, 2] + r**3 * points[:, 3]
        )
    stack = np.stack(candidates, axis=1)
    return np.stack((stack.min(axis=1), stack.max(axis=1)), axis=1)


@dataclass(frozen=True, eq=False)
class Artwork:
    """A drawing: its items in drawing order."""

    items: tuple[Item, ...] = field(default_factory=tuple)

    def __iter__(self) -> Iterator[Item]:
        return iter(self.items)

    def __len__(self) -> int:
        return sum(len(item) for item in self.items)

    def __add__(self, other: Artwork) -> Artwork:
        return Artwork(self.items + other.items)

    def placed(self, by: Similarity) -> Artwork:
        """The same drawing scaled and moved."""
        return Artwork(tuple(item.placed(by) for item in self.items))

    def only(self, classes: Iterable[EdgeClass]) -> Artwork:
        """What belongs to these edge classes."""
        wanted = frozenset(classes)
        return Artwork(tuple(item for item in self.items if item.tags.edge_class in wanted))

    def bounds(self) -> tuple[float, float, float, float] | None:
        """(x0, y0, x1, y1) of all strokes' centre lines, or None when nothing is drawn."""
        boxes = [item.bounds() for item in self.items if len(item)]
        if not boxes:
            return None
        stack = np.concatenate(boxes)
        (x0, y0), (x1, y1) = stack[:, 0].min(axis=0), stack[:, 1].max(axis=0)
        return float(x0), float(y0), float(x1), float(y1)

    def to_bytes(self) -> bytes:
        """For keeping strokes (lines, ellipses, Béziers): the length of a JSON heading (8 bytes, low end first), the heading,
        the numbers as they are.

        Read with :meth:`from_bytes`.
        """
        heads, blocks = [], []
        for item in self.items:
            arrays = {f.name: np.ascontiguousarray(getattr(item, f.name), "<f8") for f in fields(item) if f.name != "tags"}
            shapes = {name: array.shape for name, array in arrays.items()}
            heads.append({"kind": item.kind, "tags": asdict(item.tags), "arrays": shapes})
            blocks += [array.tobytes() for array in arrays.values()]
        heading = json.dumps(heads).encode()
        heading += b" " * (-len(heading) % 8)
        return b"".join((len(heading).to_bytes(8, "little"), heading, *blocks))

    @classmethod
    def from_bytes(cls, data: bytes) -> Artwork:
        """What :meth:`to_bytes` wrote."""
        start = 8 + int.from_bytes(data[:8], "little")
        numbers = np.frombuffer(data, "<f8", offset=start)
        items: list[Item] = []
        at = 0
        for head in json.loads(data[8:start]):
            tags = head["tags"]
            colour = tuple(tags["colour"]) if tags["colour"] else None
            made = Tags(EdgeClass(tags["edge_class"]), tags["component"], tags["layer"], colour, tags["pen"])
            arrays = {}
            for name, shape in head["arrays"].items():
                size = math.prod(shape)
                arrays[name] = numbers[at : at + size].reshape(shape)
                at += size
            items.append(_KINDS[head["kind"]](made, **arrays))
        return cls(tuple(items))
