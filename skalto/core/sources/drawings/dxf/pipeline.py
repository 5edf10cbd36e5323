"""The end of ezdxf's drawing pipeline: resolved primitives into a collector, nothing approximated that need not be."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Any

import numpy as np
from ezdxf.addons.drawing.config import Configuration
from ezdxf.addons.drawing.pipeline import AbstractPipeline, prepare_string_for_rendering
from ezdxf.addons.drawing.properties import Properties
from ezdxf.fonts.fonts import FontFace
from ezdxf.math import Matrix44, Vec3
from ezdxf.npshapes import NumpyPath2d, NumpyPoints2d
from ezdxf.path import Command, Path
from ezdxf.tools.clipping_portal import ClippingPortal

from skalto.core import strokefont
from skalto.core.artwork import EdgeClass, Tags
from skalto.core.sources.drawings.collecting import Collector, Contour
from skalto.core.sources.drawings.dxf.gradients import gradient_picture
from skalto.core.sources.drawings.dxf.loading import readable
from skalto.core.sources.drawings.dxf.measure import TextMeasure, asked_for
from skalto.core.sources.drawings.faces import FontLog, choose

_HAIR = 0.011
"""Line weights below this, mm, mean the thinnest line there is."""

_FLATTENING = 1e-4


class ArtworkPipeline(AbstractPipeline):  # type: ignore[misc]
    """The end of ezdxf's pipeline: resolved primitives into a collector."""

    text_engine = TextMeasure()
    default_font_face = FontFace(filename="txt.shx")

    def __init__(self, collector: Collector, fonts: FontLog) -> None:
        self.collector, self.fonts = collector, fonts
        self.clipping = ClippingPortal()
        self.forced_layer: str | None = None
        self._tags: dict[tuple[Any, ...], Tags] = {}
        self._entity = 0
        self._last: tuple[Any, ...] | None = None

    # what AbstractPipeline asks for and this has no use of

    def set_draw_entities_callback(self, callback: Any) -> None:
        self.draw_entities = callback

    def set_config(self, config: Configuration) -> None:
        self.config = config

    def set_current_entity_handle(self, handle: str) -> None:
        pass

    def set_background(self, color: str) -> None:
        pass

    def enter_entity(self, entity: Any, properties: Properties) -> None:
        pass

    def exit_entity(self, entity: Any) -> None:
        self.end_text()

    def finalize(self) -> None:
        self.end_text()

    def draw_viewport(self, vp: Any, layout_ctx: Any, bbox_cache: Any = None) -> None:
        """Pages are composed as sheets: their excerpts are views of their own."""

    def push_clipping_shape(self, shape: Any, transform: Matrix44 | None) -> None:
        self.clipping.push(shape, transform)

    def pop_clipping_shape(self) -> None:
        self.clipping.pop()

    # tags

    def tags(self, properties: Properties, solid: bool = False) -> Tags:
        """A stroke's tags from what ezdxf resolved; *solid* without its line type."""
        pattern = () if solid else tuple(properties.linetype_pattern)
        layer = readable(self.forced_layer if self.forced_layer is not None else properties.layer)
        colour_ = properties.color
        key = (layer, colour_, properties.lineweight, pattern, properties.linetype_scale)
        found = self._tags.get(key)
        if found is None:
            dashes = tuple(d * properties.linetype_scale for d in pattern[: len(pattern) // 2 * 2])
            width = 0.0 if properties.lineweight < _HAIR else properties.lineweight
            rgb = properties.color[1:7]
            colour = int(rgb[0:2], 16), int(rgb[2:4], 16), int(rgb[4:6], 16)
            # the last two figures, where there are some, say how much it covers
            opacity = int(colour_[7:9], 16) / 255 if len(colour_) == 9 else 1.0
            found = Tags(
                EdgeClass.DRAWN, layer=layer, colour=colour, width=width, dashes=dashes if sum(dashes) > 0 else (),
                opacity=round(opacity, 3),
            )  # fmt: skip
            self._tags[key] = found
        return found

    # primitives

    def draw_point(self, pos: Any, properties: Properties) -> None:
        point = Vec3(pos)
        if not self.clipping.is_active or self.clipping.clip_point(point.vec2) is not None:
            self.collector.line(self.tags(properties, solid=True), point.x, point.y, point.x, point.y)

    def draw_line(self, start: Any, end: Any, properties: Properties) -> None:
        a, b = Vec3(start), Vec3(end)
        tags = self.tags(properties)
        if not self.clipping.is_active:
            self.collector.line(tags, a.x, a.y, b.x, b.y)
            return
        for p, q in self.clipping.clip_line(a.vec2, b.vec2):
            self.collector.line(tags, p.x, p.y, q.x, q.y)

    def draw_solid_lines(self, lines: Iterable[tuple[Any, Any]], properties: Properties) -> None:
        tags = self.tags(properties, solid=True)
        for start, end in lines:
            a, b = Vec3(start), Vec3(end)
            pairs = self.clipping.clip_line(a.vec2, b.vec2) if self.clipping.is_active else ((a, b),)
            for p, q in pairs:
                self.collector.line(tags, p.x, p.y, q.x, q.y)

    def draw_path(self, path: Path, properties: Properties) -> None:
        if not len(path):
            return
        tags = self.tags(properties)
        if self.clipping.is_active:
            for clipped in self.clipping.clip_paths([NumpyPath2d(path)], _sagitta(path)):
                self._path(tags, clipped.to_path())
            return
        self._path(tags, path)

    def _path(self, tags: Tags, path: Path) -> None:
        for part in path.sub_paths() if path.has_sub_paths else (path,):
            straight: list[tuple[float, float]] = [(part.start.x, part.start.y)]
            curves: list[list[tuple[float, float]]] = []

            def flush_lines(straight: list[tuple[float, float]] = straight) -> None:
                if len(straight) > 1:
                    closed = len(straight) > 3 and straight[0] == straight[-1]
                    self.collector.polyline(tags, np.array(straight[:-1] if closed else straight), closed=closed)

            def flush_curves(curves: list[list[tuple[float, float]]] = curves) -> None:
                if curves:
                    self.collector.beziers(tags, np.array(curves))

            here = (part.start.x, part.start.y)
            for command in part.commands():
                end = (command.end.x, command.end.y)
                if command.type == Command.LINE_TO:
                    flush_curves()
                    curves.clear()
                    straight.append(end)
                else:
                    flush_lines()
                    straight[:] = [end]
                    curves.append(_cubic(here, command))
                here = end
            flush_lines()
            flush_curves()

    def _contours(self, path: Path) -> list[Contour]:
        found = []
        for part in path.sub_paths() if path.has_sub_paths else (path,):
            contour = Contour()
            here = first = (part.start.x, part.start.y)
            for command in part.commands():
                end = (command.end.x, command.end.y)
                if command.type == Command.LINE_TO:
                    if end != here:
                        contour.line(here, end)
                else:
                    a, b, c, d = _cubic(here, command)
                    contour.curve(a, b, c, d)
                here = end
            if here != first:
                contour.line(here, first)
            found.append(contour)
        return found

    def draw_filled_paths(self, paths: Iterable[Path], properties: Properties) -> None:
        wanted = list(paths)
        filling = properties.filling
        if filling is not None and filling.type == filling.GRADIENT and not self.clipping.is_active:
            contours = [c for path in wanted if len(path) for c in self._contours(path)]
            gradient = gradient_picture(contours, filling, properties.color)
            if gradient is not None:
                self.end_text()
                self.collector.raster(self.tags(properties, solid=True), *gradient)
                return
        if self.clipping.is_active:
            flat = [NumpyPath2d(path) for path in wanted]
            sagitta = min((_sagitta(path) for path in wanted if len(path)), default=_FLATTENING)
            wanted = [path.to_path() for path in self.clipping.clip_filled_paths(flat, sagitta)]
        self.collector.area(
            self.tags(properties, solid=True), [c for path in wanted if len(path) for c in self._contours(path)]
        )

    def draw_filled_polygon(self, points: Iterable[Any], properties: Properties) -> None:
        polygons = [[(p.x, p.y) for p in map(Vec3, points)]]
        if self.clipping.is_active:
            shapes = self.clipping.clip_polygon(NumpyPoints2d(Vec3(x, y).vec2 for x, y in polygons[0]))
            polygons = [[(p.x, p.y) for p in shape.vertices()] for shape in shapes]
        for polygon in polygons:
            if len(polygon) > 2:
                self.collector.area(self.tags(properties, solid=True), [Contour.polygon(polygon)])

    # text

    def draw_text(
        self, text: str, transform: Matrix44, properties: Properties, cap_height: float, dxftype: str = "TEXT"
    ) -> None:
        if not text.strip():
            return
        text = prepare_string_for_rendering(decoded(text), dxftype)
        origin = transform.transform(Vec3(0, 0, 0))
        if self.clipping.is_active and self.clipping.clip_point(origin.vec2) is None:
            return
        ex, ey = transform.transform_direction(Vec3(1, 0, 0)), transform.transform_direction(Vec3(0, 1, 0))
        row = (self.tags(properties, solid=True), asked_for(properties.font), cap_height, ex, ey)
        if self._last is not None:
            # words that follow one another on one line are one text, as they were written
            last_row, last_text, last_origin = self._last
            if last_row == row:
                unit = choose(row[1]).length(last_text) * cap_height
                gap = (origin - (last_origin + ex * unit)).magnitude / max(ex.magnitude, 1e-12)
                aside = abs((origin - last_origin).dot(Vec3(-ex.y, ex.x))) / max(ex.magnitude**2, 1e-12)
                ahead = (origin - last_origin).dot(ex) > 0
                space = choose(row[1]).length(" ") * cap_height
                if ahead and aside < 1e-6 * cap_height and abs(gap - space) < 0.05 * space:
                    self._last = (row, f"{last_text} {text}", last_origin)
                    return
            self.end_text()
        self._last = (row, text, origin)

    def end_text(self) -> None:
        """Put down the text that is waiting for more of its line."""
        if self._last is None:
            return
        (tags, asked, height, ex, ey), text, origin = self._last
        self._last = None
        self.fonts.note(asked, text, tags.layer)
        choice = choose(asked)
        start, along, up = (origin.x, origin.y), (ex.x * height, ex.y * height), (ey.x * height, ey.y * height)
        up = choice.upward(along, up)
        if choice.strokes and strokefont.can_draw(text, choice.strokes):
            self.collector.stroked_text(tags, text, start, along, up, choice.strokes)
            return
        self.collector.text(tags, text, start, along, up, choice.face)

    def draw_image(self, image_data: Any, properties: Properties) -> None:
        self.end_text()
        pixels = np.ascontiguousarray(image_data.image[..., :4], np.uint8)
        rows, columns = pixels.shape[:2]
        to = image_data.transform
        corner = to.transform(Vec3(0, 0, 0))
        across = to.transform_direction(Vec3(columns, 0, 0))
        upward = to.transform_direction(Vec3(0, rows, 0))
        place = [np.array((v.x, v.y)) for v in (corner, across, upward)]
        self.collector.raster(self.tags(properties, solid=True), pixels, *place)


def decoded(text: str) -> str:
    """Codes for letters that files write in place of them: ``%%nnn``, a letter's number, and ``\\U+nnnn`` (DXF reference)."""

    def numbered(match: re.Match[str]) -> str:
        return bytes((int(match[1]),)).decode("cp1252", errors="replace") if 32 <= int(match[1]) < 256 else match[0]

    text = re.sub(r"%%(\d{3})", numbered, text)
    return readable(text)


def _cubic(here: tuple[float, float], command: Any) -> list[tuple[float, float]]:
    end = (command.end.x, command.end.y)
    if command.type == Command.CURVE4_TO:
        return [here, (command.ctrl1.x, command.ctrl1.y), (command.ctrl2.x, command.ctrl2.y), end]
    cx, cy = command.ctrl.x, command.ctrl.y
    a = (here[0] + (cx - here[0]) * 2 / 3, here[1] + (cy - here[1]) * 2 / 3)
    b = (end[0] + (cx - end[0]) * 2 / 3, end[1] + (cy - end[1]) * 2 / 3)
    return [here, a, b, end]


def _sagitta(path: Path) -> float:
    """How finely a path that is clipped by a block's own border is flattened: a ten-thousandth of its size."""
    points = path.control_vertices()
    xs, ys = [float(p.x) for p in points], [float(p.y) for p in points]
    return max(max(max(xs) - min(xs), max(ys) - min(ys)) * _FLATTENING, 1e-9)
