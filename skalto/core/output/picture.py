"""A view's lines for the desk: SVG path data by edge class, in the view's plane, y down."""

from __future__ import annotations

import numpy as np
import orjson
from pydantic import BaseModel, ConfigDict

from skalto.core.artwork import Array, Artwork, Beziers, EdgeClass, Ellipses, Fills, Lines, Text
from skalto.core.lettering import FACES, drawn_as, glyph_runs


class PicturePath(BaseModel):
    """All strokes of one edge class: path data and the box of the strokes (x0, y0, x1, y1), y up."""

    model_config = ConfigDict(frozen=True)

    edge_class: str
    d: str
    box: tuple[float, float, float, float]
    strokes: int


class PictureText(BaseModel):
    """A run of text: where its baseline starts (y up), the size of type in mm, its angle in degrees, the face by number;
    *drawn* are the characters whose glyphs draw it."""

    model_config = ConfigDict(frozen=True)

    text: str
    drawn: str
    x: float
    y: float
    size: float
    angle: float
    face: int


class Picture(BaseModel):
    """A view (model mm) or what is written on a sheet (mm) for the screen; *fills* is the path data of filled polygons."""

    model_config = ConfigDict(frozen=True)

    paths: tuple[PicturePath, ...]
    texts: tuple[PictureText, ...] = ()
    fills: str = ""


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
    if not isinstance(item, Beziers):
        return ""
    points = item.points * np.array((1.0, -1.0))
    return "".join(
        f"M{a[0]:.4f} {a[1]:.4f}C{b[0]:.4f} {b[1]:.4f} {c[0]:.4f} {c[1]:.4f} {d[0]:.4f} {d[1]:.4f}" for a, b, c, d in points
    )


def _texts(item: Text) -> list[PictureText]:
    found = []
    for text, (x, y), height, angle in zip(item.texts, item.start, item.height, item.angle, strict=True):
        for run in glyph_runs(text):
            face = FACES[run.face]
            size = round(float(height * face.size), 4)
            place = {"x": round(float(x), 4), "y": round(float(y), 4)}
            degrees = round(float(np.degrees(angle)), 4)
            words = "".join(run.characters)
            found.append(
                PictureText(text=words, drawn=drawn_as(run.face, words), size=size, angle=degrees, face=run.face, **place)
            )
            on = sum(run.advances) / face.capitals * height
            x, y = x + np.cos(angle) * on, y + np.sin(angle) * on
    return found


def to_picture(artwork: Artwork) -> Picture:
    """The strokes of each edge class as one path, texts and fills."""
    by_class: dict[EdgeClass, list[Lines | Ellipses | Beziers]] = {}
    texts: list[PictureText] = []
    fills: list[str] = []
    for item in artwork:
        if isinstance(item, Text):
            texts += _texts(item)
        elif isinstance(item, Fills):
            for polygon in item.points * np.array((1.0, -1.0)):
                fills.append("M" + "L".join(f"{x:.4f} {y:.4f}" for x, y in polygon) + "Z")
        elif isinstance(item, Lines | Ellipses | Beziers) and len(item):
            by_class.setdefault(item.tags.edge_class, []).append(item)
    paths = []
    for edge_class, own in by_class.items():
        box = Artwork(tuple(own)).bounds()
        assert box is not None
        d = "".join(_path(item) for item in own)
        paths.append(PicturePath(edge_class=edge_class.value, d=d, box=box, strokes=sum(len(item) for item in own)))
    return Picture(paths=tuple(paths), texts=tuple(texts), fills="".join(fills))
