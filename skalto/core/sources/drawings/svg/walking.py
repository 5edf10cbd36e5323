"""A plain SVG tree to what it draws: matrices, clips, opacity, strokes and fills (SVG 1.1, 7, 11, 14)."""

from __future__ import annotations

import base64
import binascii
import io
import math
import re
from collections import Counter
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any
from xml.etree.ElementTree import Element

import numpy as np
import shapely
from numpy.typing import NDArray
from PIL import Image

from skalto.core import strokefont
from skalto.core.artwork import Artwork, EdgeClass, Tags
from skalto.core.artwork.crop_to_outline import clip as within
from skalto.core.colour import Colour
from skalto.core.geometry import Box
from skalto.core.sources.drawings.collecting import Collector
from skalto.core.sources.drawings.faces import FontLog
from skalto.core.sources.drawings.outlines import outline_of
from skalto.core.sources.drawings.svg.letters import Fonts, runs
from skalto.core.sources.drawings.svg.paths import Matrix, Path, Sub, outline, path_of, times
from skalto.core.sources.drawings.svg.resolving import XLINK, Plain, local, picture
from skalto.core.sources.drawings.svg.sandbox import SandboxError

_ENDS = {"butt": "flat", "round": "round", "square": "square"}
_JOINS = {"miter": "mitre", "miter-clip": "mitre", "arcs": "mitre", "round": "round", "bevel": "bevel"}
_FINE, _LEAST, _MOST = 12, 300, 2400
"""Pixels a millimetre of what becomes a picture, and how many along its longer side at least and at most."""
NO_LAYER = "drawing"
_EVEN = 1.001


@dataclass(frozen=True)
class Here:
    """What holds at a place of the tree: the matrix to the drawing, in the drawing's units, and to the file's own; how much
    covers, and the layer."""

    matrix: Matrix
    own: Matrix = (1.0, 0.0, 0.0, 1.0, 0.0, 0.0)
    opacity: float = 1.0
    layer: str = NO_LAYER


class Walker:
    """Walks a plain tree and collects; *stroke_unit* is mm on paper of a unit of the file's, *unit* the drawing's units."""

    def __init__(self, plain: Plain, unit: tuple[float, float], stroke_unit: float) -> None:
        self.plain = plain
        self.fonts: Fonts = plain.fonts
        self.stroke_unit = stroke_unit
        self.grown = math.sqrt(unit[0] * unit[1])
        self.collector = Collector()
        self.log = FontLog()
        self.counts: Counter[str] = Counter()
        self.notices = plain.notices
        left, top, _, height = plain.box
        self.base: Matrix = (unit[0], 0.0, 0.0, -unit[1], -left * unit[0], (top + height) * unit[1])
        self.known = {node.get("id", ""): node for node in plain.root.iter() if node.get("id")}
        self.definitions = next((node for node in plain.root if local(node) == "defs"), Element("defs"))

    def artwork(self) -> Artwork:
        """Everything drawn."""
        here = Here(self.base)
        for node in self.plain.root:
            name = node.get("id", "")
            self.node(node, replace(here, layer=name) if name in self.plain.layers else here)
        return self.collector.artwork()

    def node(self, node: Element, here: Here) -> None:
        """An element and what is in it."""
        kind = local(node)
        if kind == "g":
            self.group(node, here)
        elif kind == "path":
            self.path(node, here)
        elif kind == "image":
            self.image(node, here)

    def group(self, node: Element, here: Here) -> None:
        """A group: moved, thinned, clipped."""
        own = _matrix(node.get("transform"))
        here = replace(
            here,
            matrix=times(here.matrix, own),
            own=times(here.own, own),
            opacity=here.opacity * float(node.get("opacity", "1")),
        )
        for word in ("mask", "filter"):
            self.notices[word] += word in node.attrib
        self.notices["way of blending colours"] += "mix-blend-mode" in node.get("style", "") and "normal" not in node.get(
            "style", ""
        )
        outline_ = self.clip(node, here)
        if outline_ is None or self.within(node, here.matrix, outline_):
            for child in node:
                self.node(child, here)
            return
        outer, self.collector = self.collector, Collector(self.collector.placed)
        for child in node:
            self.node(child, here)
        inner, self.collector = self.collector, outer
        if not outline_.is_empty:
            outer.take(within(inner.artwork(), outline_))
            outer.placed = inner.placed
            outer.heights.update(inner.heights)

    def clip(self, node: Element, here: Here) -> Any:
        """The outline that clips a group, a shapely polygon; None where nothing does."""
        clipping = self.known.get(_target(node.get("clip-path")))
        if clipping is None:
            return None
        matrix = here.matrix
        if clipping.get("clipPathUnits") == "objectBoundingBox":
            sizes = np.array([path_of(part.get("d", ""), at).box() for part, at in _paths(node, (1, 0, 0, 1, 0, 0))])
            if not len(sizes):
                return shapely.Polygon()
            (x0, y0), (x1, y1) = sizes[:, :2].min(axis=0).tolist(), sizes[:, 2:].max(axis=0).tolist()
            matrix = times(matrix, (x1 - x0, 0.0, 0.0, y1 - y0, x0, y0))
        matrix = times(matrix, _matrix(clipping.get("transform")))
        outlines = []
        for part, at in _paths(clipping, matrix):
            contours = [sub.contour() for sub in path_of(part.get("d", ""), at).subpaths]
            outlines.append(outline_of(contours, part.get("clip-rule", "nonzero") == "nonzero"))
        shape = shapely.union_all(outlines)
        further = self.clip(clipping, here)
        return shape if further is None else shape.intersection(further)

    def within(self, node: Element, matrix: Matrix, shape: Any) -> bool:
        """Whether everything in a group lies in an outline, so that nothing need be cut."""
        boxes = [path_of(part.get("d", ""), at).box() for part, at in _paths(node, matrix)]
        return all(local(part) != "image" for part in node.iter()) and bool(
            shapely.covers(shape, shapely.box(*np.array(boxes, float).reshape(-1, 4).T)).all()
        )

    # paths

    def path(self, node: Element, here: Here) -> None:
        """Letters, or an area, a stroke, or both."""
        if node.get("visibility", "visible") != "visible":
            return
        own = _matrix(node.get("transform"))
        here = replace(here, matrix=times(here.matrix, own), own=times(here.own, own))
        path = path_of(node.get("d", ""), here.matrix)
        letters = self.fonts.decode(path.triangles()) if self.fonts.fonts else None
        if letters is not None:
            self.letters(node, here, path)
            return
        self.counts[here.layer] += 1
        parts = [self.area, self.stroke]
        for draw in reversed(parts) if node.get("paint-order", "").startswith("stroke") else parts:
            draw(node, here, path)

    def colour(self, paint: str | None, *, stand_in: bool) -> Colour | None:
        """A plain colour; for a gradient the mean of its stops where something must *stand in*."""
        if paint is None or paint == "none":
            return None
        target = self.known.get(_target(paint))
        if target is None:
            return _rgb(paint)
        stops = [_rgb(stop.get("stop-color", "#000000")) for stop in target if local(stop) == "stop"]
        if not stand_in:
            return None
        mean = np.array(stops or [(0, 0, 0)], float).mean(axis=0).round().astype(int).tolist()
        return mean[0], mean[1], mean[2]

    def tags(self, here: Here, colour: Colour | None, opacity: str | None, **more: object) -> Tags:
        cover = round(here.opacity * float(opacity or 1.0), 4)
        return Tags(EdgeClass.DRAWN, layer=here.layer, colour=colour, opacity=cover, **more)  # type: ignore[arg-type]

    def area(self, node: Element, here: Here, path: Path) -> None:
        paint = node.get("fill", "#000000")
        if paint == "none" or not any(sub.curves for sub in path.subpaths):
            return
        colour = self.colour(paint, stand_in=False)
        if colour is None:
            self.painted(node, here, path)
            return
        tags = self.tags(here, colour, node.get("fill-opacity"))
        contours = [sub.contour() for sub in path.subpaths if not sub.flat]
        self.collector.area(tags, contours, winding=node.get("fill-rule", "nonzero") == "nonzero")

    def painted(self, node: Element, here: Here, path: Path) -> None:
        """An area that a gradient or a pattern fills becomes a picture."""
        own = path_of(node.get("d", ""), here.own).box()
        wide, high = own[2] - own[0], own[3] - own[1]
        if wide <= 0 or high <= 0:
            return
        shown_wide = wide * self.stroke_unit * _FINE
        columns = round(min(max(shown_wide, _LEAST, _LEAST * wide / high), _MOST, _MOST * wide / high))
        shown = Element(
            node.tag, {**node.attrib, "stroke": "none", "transform": "matrix({})".format(" ".join(map(repr, here.own)))}
        )
        try:
            data = picture(self.definitions, shown, (own[0], own[1], wide, high), max(columns, 1))
            pixels = np.array(Image.open(io.BytesIO(data)).convert("RGBA"), np.uint8)
        except (SandboxError, OSError, ValueError):
            self.notices["area filled with a pattern or gradient: left empty"] += 1
            return
        kind = "gradient" if "Gradient" in local(self.known[_target(node.get("fill"))]) else "pattern"
        self.notices[f"area filled with a {kind}: as a picture"] += 1
        self.raster(here, pixels, self.base, own)

    def stroke(self, node: Element, here: Here, path: Path) -> None:
        paint = node.get("stroke", "none")
        if paint == "none":
            return
        colour = self.colour(paint, stand_in=True)
        self.notices["stroke with a gradient or pattern: in one colour"] += paint.startswith("url(")
        a, b, c, d, _, _ = here.matrix
        growth = math.sqrt(abs(a * d - b * c))
        # widths on paper are mm where the size is known, else CSS pixels
        width = float(node.get("stroke-width", "1")) * growth / self.grown * self.stroke_unit
        dashes = tuple(float(v) * growth for v in re.split(r"[\s,]+", node.get("stroke-dasharray", "").strip()) if v)
        dashes = dashes * 2 if len(dashes) % 2 else dashes
        tags = self.tags(
            here,
            colour,
            node.get("stroke-opacity"),
            width=round(width, 6),
            dashes=dashes if sum(dashes) > 0 else (),
            ends=_ENDS.get(node.get("stroke-linecap", "butt"), "flat"),
            joins=_JOINS.get(node.get("stroke-linejoin", "miter"), "mitre"),
            phase=float(node.get("stroke-dashoffset", "0")) * growth if dashes else 0.0,
        )
        large, small = np.linalg.svd(np.array(((a, c), (b, d))), compute_uv=False)
        if large <= small * _EVEN or not small:
            for sub in path.subpaths:
                sub.stroke(self.collector, tags)
            return
        for sub in path.subpaths:
            self.uneven(sub, tags, here.matrix)

    def uneven(self, sub: Sub, tags: Tags, matrix: Matrix) -> None:
        """A stroke under a matrix that widens one way more than another: each straight piece has a width of its own."""
        a, b, c, d, _, _ = matrix
        if any(len(piece) == 4 for piece in sub.curves):
            self.notices["curved stroke of uneven width: in its mean width"] += 1
            sub.stroke(self.collector, tags)
            return
        area = abs(a * d - b * c)
        corners = [sub.start, *sub.curves, *([sub.start] if sub.closed else [])]
        for (x0, y0), (x1, y1) in pairwise(corners):  # type: ignore[misc]
            # a unit along the piece, in the user's space
            u, v = (d * (x1 - x0) - c * (y1 - y0)), (a * (y1 - y0) - b * (x1 - x0))
            long, own = math.hypot(x1 - x0, y1 - y0), math.hypot(u, v) / area
            if own:
                wider = area / (long / own) / math.sqrt(area)
                self.collector.line(replace(tags, width=round((tags.width or 0.0) * wider, 6)), x0, y0, x1, y1)

    # letters

    def letters(self, node: Element, here: Here, path: Path) -> None:
        """The letters of one stretch of text."""
        letters = self.fonts.decode(path.triangles()) or []
        filled = node.get("fill", "#000000") != "none"
        colour = self.colour(node.get("fill", "#000000") if filled else node.get("stroke"), stand_in=True)
        self.notices["text whose outline alone is drawn: filled"] += not filled
        tags = self.tags(here, colour, node.get("fill-opacity"))
        for run in runs(letters, self.fonts):
            font = self.fonts.fonts[run.font]
            choice = font.choice
            if not run.text.strip():
                continue
            self.counts[here.layer] += 1
            self.log.note(font.label, run.text, here.layer)
            along = run.along[0] * run.stretch, run.along[1] * run.stretch
            up = choice.upward(along, run.up)
            if choice.strokes and strokefont.can_draw(run.text, choice.strokes):
                self.collector.stroked_text(tags, run.text, run.start, along, up, choice.strokes)
            else:
                self.collector.text(tags, run.text, run.start, along, up, choice.face)

    # pictures

    def image(self, node: Element, here: Here) -> None:
        """A picture that the file carries in itself."""
        data = _data(node.get(f"{{{XLINK}}}href", node.get("href", "")))
        try:
            decoded = Image.open(io.BytesIO(data or b""))
            pixels = np.array(decoded.convert("RGBA"), np.uint8)
        except (OSError, ValueError, Image.DecompressionBombError):
            self.notices["picture that cannot be decoded"] += 1
            return
        self.counts[here.layer] += 1
        matrix = times(here.matrix, _matrix(node.get("transform")))
        x, y, w, h = (float(node.get(name, "0")) for name in ("x", "y", "width", "height"))
        columns, rows = decoded.size
        fitting = node.get("preserveAspectRatio", "xMidYMid").split()
        if fitting[0] == "none":
            self.raster(here, pixels, matrix, (x, y, x + w, y + h))
            return
        by = max(w / columns, h / rows) if "slice" in fitting else min(w / columns, h / rows)
        aside = {"Min": 0.0, "Mid": 0.5, "Max": 1.0}
        left = x + (w - columns * by) * aside.get(fitting[0][1:4], 0.5)
        top = y + (h - rows * by) * aside.get(fitting[0][5:8], 0.5)
        if "slice" in fitting:
            u, v = left + (np.arange(columns) + 0.5) * by, top + (np.arange(rows) + 0.5) * by
            seen = ((v >= y) & (v <= y + h))[:, None] & ((u >= x) & (u <= x + w))[None]
            pixels[~seen, 3] = 0
        self.raster(here, pixels, matrix, (left, top, left + columns * by, top + rows * by))

    def raster(self, here: Here, pixels: NDArray[np.uint8], matrix: Matrix, box: Box) -> None:
        x0, y0, x1, y1 = box
        corner, across, upward = (np.array(outline(matrix, p)) for p in ((x0, y1), (x1, y1), (x0, y0)))
        self.collector.raster(self.tags(here, None, None), pixels, corner, across - corner, upward - corner)


def _paths(node: Element, matrix: Matrix) -> list[tuple[Element, Matrix]]:
    """The paths in an element, each with its matrix."""
    found = []
    for child in node:
        at = times(matrix, _matrix(child.get("transform")))
        if local(child) == "path":
            found.append((child, at))
        else:
            found += _paths(child, at)
    return found


def _matrix(text: str | None) -> Matrix:
    numbers = [float(v) for v in re.findall(r"[-+]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][-+]?\d+)?", text or "")]
    return (*numbers,) if len(numbers) == 6 else (1.0, 0.0, 0.0, 1.0, 0.0, 0.0)  # type: ignore[return-value]


def _target(text: str | None) -> str:
    match = re.match(r"\s*url\(\s*['\"]?#([^'\")]+)", text or "")
    return match[1] if match else ""


def _rgb(text: str) -> Colour:
    digits = text.strip().lstrip("#")
    if not re.fullmatch(r"[0-9a-fA-F]{6}", digits):
        return 0, 0, 0
    return int(digits[:2], 16), int(digits[2:4], 16), int(digits[4:], 16)


def _data(link: str) -> bytes | None:
    head, _, body = link.partition(",")
    if not head.startswith("data:"):
        return None
    try:
        return base64.b64decode(re.sub(r"\s+", "", body)) if head.endswith("base64") else None
    except (binascii.Error, ValueError):
        return None
