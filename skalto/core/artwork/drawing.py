"""A drawing: items in drawing order, and how it is kept as bytes."""

from __future__ import annotations

import json
import math
from collections.abc import Iterable, Iterator
from dataclasses import asdict, dataclass, field, fields
from functools import cached_property
from typing import Any

import numpy as np

from skalto.core.artwork.filled import Areas, Fills, Raster, Text
from skalto.core.artwork.strokes import Beziers, Contours, Ellipses, Lines, Polylines
from skalto.core.artwork.tags import EdgeClass, Tags
from skalto.core.geometry import Similarity

Item = Lines | Ellipses | Beziers | Polylines | Contours | Text | Fills | Areas | Raster
Stroked = Lines | Ellipses | Beziers | Polylines
_KINDS: dict[str, type[Item]] = {k.kind: k for k in (Lines, Ellipses, Beziers, Polylines, Contours, Text, Fills, Areas, Raster)}


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
        return self._bounds

    @cached_property
    def _bounds(self) -> tuple[float, float, float, float] | None:
        boxes = [item.bounds() for item in self.items if len(item)]
        if not boxes:
            return None
        stack = np.concatenate(boxes)
        (x0, y0), (x1, y1) = stack[:, 0].min(axis=0), stack[:, 1].max(axis=0)
        return float(x0), float(y0), float(x1), float(y1)

    def to_bytes(self) -> bytes:
        """For keeping: the length of a JSON heading (8 bytes, low end first), the heading, the numbers as they are, each array
        filled up to eight bytes.

        Read with :meth:`from_bytes`.
        """
        heads, blocks = [], []
        for item in self.items:
            arrays, plain = {}, {}
            for f in fields(item):
                value = getattr(item, f.name)
                if isinstance(value, np.ndarray):
                    array = np.ascontiguousarray(value)
                    arrays[f.name] = [array.dtype.str, array.shape]
                    blocks.append(array.tobytes() + b"\0" * (-array.nbytes % 8))
                elif f.name != "tags" and value is not None:
                    plain[f.name] = value
            heads.append({"kind": item.kind, "tags": asdict(item.tags), "arrays": arrays, "plain": plain})
        heading = json.dumps(heads).encode()
        heading += b" " * (-len(heading) % 8)
        return b"".join((len(heading).to_bytes(8, "little"), heading, *blocks))

    @classmethod
    def from_bytes(cls, data: bytes) -> Artwork:
        """What :meth:`to_bytes` wrote."""
        at = 8 + int.from_bytes(data[:8], "little")
        items: list[Item] = []
        for head in json.loads(data[8:at]):
            tags = head["tags"]
            tags["under"] = EdgeClass(tags["under"]) if tags.get("under") else None
            tags["colour"] = tuple(tags["colour"]) if tags["colour"] else None
            tags["edge_class"], tags["dashes"] = EdgeClass(tags["edge_class"]), tuple(tags["dashes"])
            values: dict[str, Any] = {name: tuple(v) if isinstance(v, list) else v for name, v in head["plain"].items()}
            for name, (kind, shape) in head["arrays"].items():
                dtype, size = np.dtype(kind), math.prod(shape)
                values[name] = np.frombuffer(data, dtype, count=size, offset=at).reshape(shape)
                at += size * dtype.itemsize + -(size * dtype.itemsize) % 8
            items.append(_KINDS[head["kind"]](Tags(**tags), **values))
        return cls(tuple(items))
