"""A view's lines for the desk: SVG path data by edge class, in the view's plane, y down."""

from __future__ import annotations

import numpy as np
import orjson
from pydantic import BaseModel, ConfigDict

from skalto.core.artwork import Array, Artwork, Ellipses, Lines


class PicturePath(BaseModel):
    """All strokes of one edge class: path data and the box of the strokes (x0, y0, x1, y1), y up."""

    model_config = ConfigDict(frozen=True)

    edge_class: str
    d: str
    box: tuple[float, float, float, float]
    strokes: int


class Picture(BaseModel):
    """A view for the screen, model mm."""

    model_config = ConfigDict(frozen=True)

    paths: tuple[PicturePath, ...]


def _text(values: Array) -> str:
    return orjson.dumps(np.round(values, 4) + 0.0, option=orjson.OPT_SERIALIZE_NUMPY).decode()


def _lines(points: Array) -> str:
    text = _text(np.ascontiguousarray(points))[3:-3]
    return "M" + text.replace("]],[[", "M").replace("],[", "L")


def _ellipses(item: Ellipses) -> str:
    # an arc of a whole turn would be none: all go in two halves
    halves = item.at(item.start[:, None] + item.sweep[:, None] * np.array((0.0, 0.5, 1.0))) * np.array((1.0, -1.0))
    turns = -np.degrees(np.arctan2(item.major[:, 1], item.major[:, 0]))
    out = []
    for (rx, ry), turn, (p, q, r) in zip(item.radii().tolist(), turns.tolist(), halves.tolist(), strict=True):
        axes = f"A{rx:.4f} {ry:.4f} {turn:.4f} 0 0 "
        out.append(f"M{p[0]:.4f} {p[1]:.4f}{axes}{q[0]:.4f} {q[1]:.4f}{axes}{r[0]:.4f} {r[1]:.4f}")
    return "".join(out)


def _path(item: object) -> str:
    if isinstance(item, Lines):
        return _lines(item.points * np.array((1.0, -1.0)))
    if isinstance(item, Ellipses):
        return _ellipses(item)
    points = item.points * np.array((1.0, -1.0))  # type: ignore[attr-defined]
    return "".join(
        f"M{a[0]:.4f} {a[1]:.4f}C{b[0]:.4f} {b[1]:.4f} {c[0]:.4f} {c[1]:.4f} {d[0]:.4f} {d[1]:.4f}" for a, b, c, d in points
    )


def to_picture(artwork: Artwork) -> Picture:
    """The strokes of each edge class as one path."""
    paths = []
    for edge_class in dict.fromkeys(item.tags.edge_class for item in artwork):
        own = artwork.only((edge_class,))
        box = own.bounds()
        if box is not None:
            d = "".join(_path(item) for item in own if len(item))
            paths.append(PicturePath(edge_class=edge_class.value, d=d, box=box, strokes=len(own)))
    return Picture(paths=tuple(paths))
