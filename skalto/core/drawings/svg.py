"""An SVG file to a drawing (SVG 1.1, W3C): shapes, paths, text and pictures with their transforms, strokes and fills."""

from __future__ import annotations

import io
import math
import re
from collections import Counter
from collections.abc import Callable
from pathlib import Path as FilePath
from typing import Any

import defusedxml.ElementTree as Safe
import numpy as np
import svgelements as svg
from defusedxml import DefusedXmlException

from skalto.core.artwork import EdgeClass, Tags
from skalto.core.drawings.collecting import Collector, Contour
from skalto.core.drawings.drawing import Drawing, DrawingFacts, LayerFacts, SpaceFacts
from skalto.core.drawings.faces import FontLog, choose
from skalto.core.errors import InputError
from skalto.core.quantities import parse_length

PX = 25.4 / 96
"""Millimetres of a CSS pixel (CSS Values 3, 5.2: 1/96 inch)."""

_PHYSICAL = re.compile(r"\s*([\d.]+(?:[eE][-+]?\d+)?)\s*(mm|cm|in|pt|pc)\s*", re.IGNORECASE)
_UNREAD = ("clip-path", "mask", "filter")
Progress = Callable[[float, str], None]
Point = tuple[float, float]


class _Reader:
    """Walks the tree and collects; *unit* drawing units a user unit, *height* user units from top to bottom."""

    def __init__(self, unit: float, height: float, stroke_unit: float) -> None:
        self.unit, self.height = unit, height
        self.stroke_unit = stroke_unit
        self.collector = Collector()
        self.fonts = FontLog()
        self.counts: Counter[str] = Counter()
        self.unread: Counter[str] = Counter()
        self.layers: dict[str, None] = {}

    def point(self, at: Any) -> Point:
        return float(at.x) * self.unit, (self.height - float(at.y)) * self.unit

    def walk(self, group: Any, layer: str, depth: int) -> None:
        for child in group:
            if isinstance(child, svg.Group | svg.Use):
                name = str(child.id) if depth == 0 and child.id else layer
                self.walk(child, name, depth + 1)
                continue
            self.layers.setdefault(layer)
            self.counts[layer] += 1
            values = getattr(child, "values", {}) or {}
            for word in _UNREAD:
                if values.get(word) not in (None, "none"):
                    self.unread[word] += 1
            if values.get("display") == "none" or values.get("visibility") == "hidden":
                self.unread["hidden element"] += 1
                continue
            self.element(child, layer, values)

    def element(self, child: Any, layer: str, values: dict[str, Any]) -> None:
        if isinstance(child, svg.Text):
            self.text(child, layer)
        elif isinstance(child, svg.Image):
            self.image(child, layer)
        elif isinstance(child, svg.Shape):
            self.shape(child, layer, values)

    def tags(self, layer: str, colour: Any, width: float | None = None, dashes: tuple[float, ...] = ()) -> Tags:
        rgb = None if colour is None or colour.value is None else (colour.red, colour.green, colour.blue)
        return Tags(EdgeClass.DRAWN, layer=layer, colour=rgb, width=width, dashes=dashes)

    def shape(self, child: Any, layer: str, values: dict[str, Any]) -> None:
        filled = child.fill is not None and child.fill.value is not None and child.fill.alpha != 0
        stroked = child.stroke is not None and child.stroke.value is not None and child.stroke.alpha != 0
        if child.fill is None and "fill" not in values:
            # black is the initial value of fill (SVG 1.1, 11.3)
            filled = not isinstance(child, svg.SimpleLine)
        path = abs(svg.Path(child))
        if filled:
            colour = child.fill if child.fill is not None and child.fill.value is not None else svg.Color("black")
            self.collector.area(self.tags(layer, colour), self.contours(path))
        if not stroked:
            return
        growth = math.sqrt(abs(child.transform.a * child.transform.d - child.transform.b * child.transform.c))
        # widths on paper are mm where the size is known, else CSS pixels
        width = float(child.stroke_width if child.stroke_width is not None else 1.0) * growth * self.stroke_unit
        dashes = _dashes(values.get("stroke-dasharray"), growth * self.unit)
        tags = self.tags(layer, child.stroke, round(width, 6), dashes)
        if isinstance(child, svg.Circle | svg.Ellipse):
            centre = child.transform.point_in_matrix_space((child.cx, child.cy))
            a = child.transform.point_in_matrix_space((child.cx + child.rx, child.cy))
            b = child.transform.point_in_matrix_space((child.cx, child.cy + child.ry))
            c = self.point(centre)
            ends = [self.point(a), self.point(b)]
            (ax, ay), (bx, by) = [(x - c[0], y - c[1]) for x, y in ends]
            self.collector.ellipse(tags, c, (ax, ay), (bx, by), 0.0, math.tau)
            return
        self.stroke(tags, path)

    def stroke(self, tags: Tags, path: Any) -> None:
        """Line runs as polylines, arcs as arcs, curves as chains."""
        run: list[Point] = []
        curves: list[list[Point]] = []

        def flush(closed: bool = False) -> None:
            if len(run) > 1:
                self.collector.polyline(tags, np.array(run), closed=closed)
            run.clear()
            if curves:
                self.collector.beziers(tags, np.array(curves))
            curves.clear()

        first: Point = (0.0, 0.0)
        whole = True
        for segment in path:
            if isinstance(segment, svg.Move):
                flush()
                first, whole = self.point(segment.end), True
                run.append(first)
            elif isinstance(segment, svg.Close):
                if whole and len(run) > 2:
                    if run[-1] == first:
                        run.pop()
                    flush(closed=True)
                elif run and segment.start is not None and self.point(segment.start) != first:
                    run.append(first)
                    flush()
                run[:] = [first]
            elif isinstance(segment, svg.Line):
                if curves:
                    flush()
                run[:] = run or [self.point(segment.start)]
                run.append(self.point(segment.end))
            else:
                whole = False
                if isinstance(segment, svg.Arc):
                    flush()
                    self.arc(tags, segment)
                else:
                    if len(run) > 1:
                        flush()
                    curves.append(self.cubic(segment))
                run[:] = [self.point(segment.end)] if isinstance(segment, svg.Arc) else []
        flush()

    def arc(self, tags: Tags, arc: Any) -> None:
        c, p, q = self.point(arc.center), self.point(arc.prx), self.point(arc.pry)
        a, b = (p[0] - c[0], p[1] - c[1]), (q[0] - c[0], q[1] - c[1])
        self.collector.ellipse(tags, c, a, b, float(arc.get_start_t()), float(arc.sweep))

    def cubic(self, segment: Any) -> list[Point]:
        start, end = self.point(segment.start), self.point(segment.end)
        if isinstance(segment, svg.CubicBezier):
            return [start, self.point(segment.control1), self.point(segment.control2), end]
        cx, cy = self.point(segment.control)
        a = (start[0] + (cx - start[0]) * 2 / 3, start[1] + (cy - start[1]) * 2 / 3)
        return [start, a, (end[0] + (cx - end[0]) * 2 / 3, end[1] + (cy - end[1]) * 2 / 3), end]

    def contours(self, path: Any) -> list[Contour]:
        found: list[Contour] = []
        for segment in path:
            if isinstance(segment, svg.Move):
                found.append(Contour())
                continue
            if not found or segment.start is None or segment.end is None:
                continue
            start, end = self.point(segment.start), self.point(segment.end)
            if isinstance(segment, svg.Line | svg.Close):
                if start != end:
                    found[-1].line(start, end)
            elif isinstance(segment, svg.Arc):
                for cubic in segment.as_cubic_curves():
                    found[-1].curve(*(self.point(p) for p in (cubic.start, cubic.control1, cubic.control2, cubic.end)))
            else:
                found[-1].curve(*self.cubic(segment))
        for contour in found:
            if contour.curves and contour.curves[-1][6:] != contour.curves[0][:2]:
                contour.line(contour.curves[-1][6:], contour.curves[0][:2])  # type: ignore[arg-type]
        return found

    def text(self, child: Any, layer: str) -> None:
        if not child.text:
            return
        size = float(child.font_size or 16.0)
        family = str(child.font_family or "sans-serif").split(",")[0].strip(" '\"")
        choice = choose(family)
        text = " ".join(str(child.text).split())
        self.fonts.note(family, text, layer)
        from skalto.core.lettering import FACES

        capital = size / FACES[choice.face].size if not choice.strokes else size * 0.7
        anchor = {"middle": 0.5, "end": 1.0}.get(str(child.anchor), 0.0)
        back = choice.length(text) * capital * anchor
        matrix = child.transform
        place = float(child.x or 0) + float(child.dx or 0) - back, float(child.y or 0) + float(child.dy or 0)
        origin, right, up = (
            self.point(matrix.point_in_matrix_space(p))
            for p in (place, (place[0] + capital, place[1]), (place[0], place[1] - capital))
        )
        along = right[0] - origin[0], right[1] - origin[1]
        upward = up[0] - origin[0], up[1] - origin[1]
        tags = self.tags(layer, child.fill if child.fill is not None and child.fill.value is not None else svg.Color("black"))
        if choice.strokes:
            self.collector.stroked_text(tags, text, origin, along, upward, choice.strokes)
        else:
            self.collector.text(tags, text, origin, along, upward, choice.face)

    def image(self, child: Any, layer: str) -> None:
        """Only pictures that the file carries in itself are taken; nothing is fetched."""
        if not str(child.url or "").startswith("data:"):
            self.unread["picture in a file of its own"] += 1
            return
        try:
            child.load()
            pixels = np.array(child.image.convert("RGBA"), np.uint8)
        except Exception:
            self.unread["picture that cannot be decoded"] += 1
            return
        matrix = child.transform
        w, h = child.image.size
        corner, across, upward = (self.point(matrix.point_in_matrix_space(p)) for p in ((0, h), (w, h), (0, 0)))
        c = np.array(corner)
        self.collector.raster(self.tags(layer, None), pixels, c, np.array(across) - c, np.array(upward) - c)


def _dashes(text: Any, growth: float) -> tuple[float, ...]:
    if text in (None, "none", ""):
        return ()
    try:
        values = [float(v) * growth for v in re.split(r"[\s,]+", str(text).strip().replace("px", ""))]
    except ValueError:
        return ()
    # an odd list is said twice (SVG 1.1, 11.4)
    values = values * 2 if len(values) % 2 else values
    return tuple(values) if sum(values) > 0 and min(values) >= 0 else ()


def _user_size(root: Any) -> tuple[float, float, float | None]:
    """Width and height in user units, and the mm of a user unit, None where nothing physical says it.

    The root is rewritten so that its shapes are read in user units as they stand (SVG 1.1, 7.7, 7.8).
    """
    mm = [_millimetres(root.get(side, "")) for side in ("width", "height")]
    box = [float(v) for v in re.split(r"[\s,]+", root.get("viewBox", "").strip()) if v]
    if len(box) == 4 and box[2] > 0 and box[3] > 0:
        width, height = box[2], box[3]
        scales = [size / side for size, side in zip(mm, (width, height), strict=True) if size]
        unit = min(scales) if scales else None
    else:
        width, height = (s / PX if s else _plain(root.get(side)) for s, side in zip(mm, ("width", "height"), strict=True))
        unit = PX if any(mm) else None
    root.set("width", repr(width or 100.0))
    root.set("height", repr(height or 100.0))
    return width, height, unit


def _millimetres(text: str) -> float | None:
    """A physical length in mm; None for any other."""
    match = _PHYSICAL.fullmatch(text)
    if match is None:
        return None
    number, unit = match[1], match[2].lower()
    # a pica has twelve points
    return float(parse_length(f"{float(number):.12f}{'pt' if unit == 'pc' else unit}")) * (12 if unit == "pc" else 1)


def _plain(text: str | None) -> float:
    try:
        return float((text or "0").replace("px", ""))
    except ValueError:
        return 0.0


def read_svg(path: FilePath, name: str, progress: Progress) -> Drawing:
    """Read an SVG file. Sizes in mm where its width and height are physical, else in user units, for a person to say.

    :raises InputError: when it is not SVG, or draws nothing.
    """
    progress(0.1, "Reading the SVG file")
    data = path.read_bytes()
    try:
        root = Safe.fromstring(data)
    except DefusedXmlException:
        raise InputError(f"{name} declares entities, which may fetch or swell: save it as plain SVG.") from None
    except Safe.ParseError as error:
        raise InputError(f"{name} is not well-formed XML (line {error.position[0]}): export the drawing again.") from None
    if root.tag.rsplit("}", 1)[-1] != "svg":
        raise InputError(f"{name} is XML, but not SVG: export the drawing as SVG.")
    width, height, unit = _user_size(root)
    physical = unit is not None
    progress(0.4, "Resolving shapes")
    try:
        tree = svg.SVG.parse(io.BytesIO(Safe.tostring(root)), reify=False, ppi=96.0)
    except (ValueError, TypeError, KeyError, IndexError, AttributeError, ZeroDivisionError):
        raise InputError(f"{name} has shapes that cannot be read: export the drawing again.") from None
    reader = _Reader(unit or 1.0, height, unit or PX)
    reader.walk(tree, "drawing", 0)
    artwork = reader.collector.artwork()
    box = artwork.bounds()
    if box is None:
        raise InputError(f"{name} draws nothing that can be brought in.")
    lost = [f"{count} × {what}: not applied, or left out." for what, count in reader.unread.most_common()]
    heights = tuple(sorted(reader.collector.heights.items(), key=lambda row: -row[1])[:40])
    per = reader.unit
    declared = (0.0, 0.0, width * per, height * per) if width > 0 and height > 0 else None
    space = SpaceFacts(name="", label="Drawing", box=box, declared=declared, strokes=len(artwork), heights=heights)
    return Drawing(
        DrawingFacts(
            kind="svg",
            form="SVG",
            unit="mm" if physical else "",
            unit_mm=1.0 if physical else None,
            layers=tuple(LayerFacts(name=layer, count=reader.counts[layer]) for layer in reader.layers),
            spaces=(space,),
            fonts=reader.fonts.facts(),
            lost=tuple(lost),
        ),
        {"": artwork},
    )
