"""A DXF file's entities as artwork: ezdxf resolves them, this keeps lines, arcs, ellipses, splines and text what they are."""

from __future__ import annotations

import math
import re
from collections import Counter
from collections.abc import Callable
from typing import Any

import numpy as np
from ezdxf.addons.drawing.config import BackgroundPolicy, Configuration, LinePolicy
from ezdxf.addons.drawing.frontend import UniversalFrontend
from ezdxf.addons.drawing.mtext_complex import ComplexMTextRenderer
from ezdxf.addons.drawing.properties import LayoutProperties, Properties, RenderContext
from ezdxf.colors import aci2rgb
from ezdxf.fonts.fonts import FontFace
from ezdxf.math import Vec2, Vec3
from ezdxf.path import from_vertices
from ezdxf.render.hatching import DenseHatchingLinesError, HatchBaseLine, hatch_paths
from ezdxf.tools import text_layout

from skalto.core.artwork import Areas, Artwork, Fills, Lines, Tags
from skalto.core.geometry import Box
from skalto.core.sources.drawings.collecting import OUT_OF_REACH, Collector
from skalto.core.sources.drawings.dxf.counting import MOST_HATCH, hatch_strokes
from skalto.core.sources.drawings.dxf.curves import spline_beziers
from skalto.core.sources.drawings.dxf.loading import readable
from skalto.core.sources.drawings.dxf.measure import ChosenFont, asked_for
from skalto.core.sources.drawings.dxf.pipeline import ArtworkPipeline, decoded
from skalto.core.sources.drawings.dxf.putting import PlainStrokes
from skalto.core.sources.drawings.faces import FontLog, choose

_STACKED = re.compile(r"\\S[^;]*")
_CARET = re.compile(r"\^(?! )")

PAPER = "#ffffff"
WHITE = (255, 255, 255)


class _ChosenMText(ComplexMTextRenderer):  # type: ignore[misc]
    """Formatted text, measured by what will draw it."""

    def get_font(self, ctx: Any) -> ChosenFont:
        return ChosenFont(choose(asked_for(ctx.font_face)), ctx.cap_height, ctx.width_factor)


class ArtworkFrontend(UniversalFrontend):  # type: ignore[misc]
    """ezdxf's front end, with curves, bulges and text kept what they are."""

    def __init__(self, ctx: RenderContext, pipeline: ArtworkPipeline, frozen: frozenset[str]) -> None:
        # a wide polyline's arcs in 256 pieces: off by less than 2e-5 of the radius
        config = Configuration(
            line_policy=LinePolicy.SOLID,
            background_policy=BackgroundPolicy.WHITE,
            circle_approximation_count=512,
            infinite_line_length=1e6,
        )
        self.skipped: Counter[str] = Counter()
        self.frozen = frozen
        self.endless: list[tuple[Any, Any, bool, Any]] = []
        """Lines without an end: a point, a direction, whether they run both ways, and their tags."""
        self.notices: Counter[str] = Counter()
        self._inside: list[str] = []
        super().__init__(ctx, pipeline, config)
        # a helix carries its own spline (DXF reference, HELIX)
        self._dispatch["HELIX"] = self.draw_curve_entity

    def log_message(self, message: str) -> None:
        pass

    def skip_entity(self, entity: Any, msg: str) -> None:
        if msg != "invisible":
            self.skipped[f"{entity.dxftype()}: {msg}"] += 1

    def draw_entity(self, entity: Any, properties: Properties) -> None:
        try:
            super().draw_entity(entity, properties)
        except (ArithmeticError, ValueError, TypeError, KeyError, AttributeError, IndexError, AssertionError) as error:
            self.skipped[f"{entity.dxftype()}: {type(error).__name__.removesuffix('Error').lower()} error in its data"] += 1

    def draw_line_entity(self, entity: Any, properties: Properties) -> None:
        kind = entity.dxftype()
        if kind == "LINE" or self.pipeline.clipping.is_active:
            super().draw_line_entity(entity, properties)
            return
        # how far they go is for what else is drawn to say
        self.endless.append((entity.dxf.start, entity.dxf.unit_vector, kind == "XLINE", self.pipeline.tags(properties)))

    def draw_text_entity(self, entity: Any, properties: Properties) -> None:
        # a definition of an attribute is no text of the drawing: the values stand with the inserts
        if entity.dxftype() == "ATTDEF":
            return
        super().draw_text_entity(entity, properties)

    def draw_mtext_entity(self, entity: Any, properties: Properties) -> None:
        text = decoded(entity.text)
        # a stacked fraction's own caret, which would be taken for a control code (DXF reference, MTEXT, \\S)
        text = _STACKED.sub(lambda found: _CARET.sub("^ ", found[0], count=1), text)
        if text != entity.text:
            entity = entity.copy()
            entity.text = text
        super().draw_mtext_entity(entity, properties)

    def draw_ole2frame_entity(self, entity: Any, properties: Properties) -> None:
        self.notices["OLE object: what another program put in is left out"] += 1

    def draw_image_entity(self, entity: Any, properties: Properties) -> None:
        # files beside a drawing are not opened: its frame stands in its place
        self.pipeline.draw_path(from_vertices(entity.boundary_path_wcs(), close=True), properties)

    def draw_composite_entity(self, entity: Any, properties: Properties) -> None:
        layer = readable(properties.layer)
        if entity.dxftype() == "INSERT":
            block = entity.block()
            if block is not None and (block.block.dxf.flags & 4 or block.block.dxf.get("xref_path", "")):
                name = block.block.dxf.get("xref_path", "") or entity.dxf.name
                self.notices[f"other drawing that this one refers to, left out: {readable(name)}"] += 1
                return
            own = str(entity.dxf.name).casefold()
            if own in self._inside:
                self.notices[f"block that is within itself, left out: {readable(entity.dxf.name)}"] += 1
                return
            self._inside.append(own)
            try:
                self._draw_composite(entity, properties, layer)
            finally:
                self._inside.pop()
            return
        self._draw_composite(entity, properties, layer)

    def _draw_composite(self, entity: Any, properties: Properties, layer: str) -> None:
        if entity.dxftype() == "INSERT" and layer in self.frozen and self.pipeline.forced_layer is None:
            # what a frozen layer inserts is hidden with it, whatever layers it has of its own
            self.pipeline.forced_layer = layer
            try:
                super().draw_composite_entity(entity, properties)
            finally:
                self.pipeline.forced_layer = None
            return
        super().draw_composite_entity(entity, properties)

    def draw_hatch_pattern(self, polygon: Any, paths: list[Any], properties: Properties) -> None:
        if polygon.pattern is None or not polygon.pattern.lines:
            return
        # moved off the boundary's corners by the same share of the spacing every time: the same file gives the same lines
        mean = sum(line.offset.magnitude for line in polygon.pattern.lines) / len(polygon.pattern.lines)
        aside = Vec2(0.000618, 0.000382) * mean
        baselines = [
            HatchBaseLine(line.base_point + aside, Vec2.from_deg_angle(line.angle), line.offset, line.dash_length_items)
            for line in polygon.pattern.lines
        ]
        if hatch_strokes(baselines, paths) > MOST_HATCH:
            self.notices["hatch too fine to be drawn line by line: filled"] += 1
            raise DenseHatchingLinesError
        ocs, elevation = polygon.ocs(), polygon.dxf.elevation.z
        properties.linetype_pattern = ()
        lines = []
        for baseline in baselines:
            for line in hatch_paths(baseline, paths):
                for start, end in baseline.pattern_renderer(line.distance).render(line.start, line.end):
                    ends = (Vec3(start.x, start.y, elevation), Vec3(end.x, end.y, elevation))
                    lines.append(tuple(ocs.points_to_wcs(ends)) if ocs.transform else ends)
        self.pipeline.draw_solid_lines(lines, properties)

    def draw_complex_mtext(self, mtext: Any, properties: Properties) -> None:
        renderer = _ChosenMText(self.ctx, self.pipeline, properties)
        align = text_layout.LayoutAlignment(mtext.dxf.attachment_point)
        engine = renderer.layout_engine(mtext)
        engine.place(align=align)
        engine.render(mtext.ucs().matrix)

    def draw_curve_entity(self, entity: Any, properties: Properties) -> None:
        if self.pipeline.clipping.is_active:
            super().draw_curve_entity(entity, properties)
            return
        dxf, kind = entity.dxf, entity.dxftype()
        collector, tags = self.pipeline.collector, self.pipeline.tags(properties)
        if kind in ("CIRCLE", "ARC"):
            centre, a, b = _axes(entity, dxf.center, dxf.radius)
            start = math.radians(dxf.start_angle) if kind == "ARC" else 0.0
            sweep = math.radians((dxf.end_angle - dxf.start_angle) % 360 or 360) if kind == "ARC" else math.tau
            collector.ellipse(tags, centre, a, b, start, sweep)
        elif kind == "ELLIPSE":
            major, minor = dxf.major_axis, entity.minor_axis
            sweep = (dxf.end_param - dxf.start_param) % math.tau
            if sweep < 1e-12:
                sweep = math.tau
            centre = (dxf.center.x, dxf.center.y)
            collector.ellipse(tags, centre, (major.x, major.y), (minor.x, minor.y), dxf.start_param, sweep)
        else:
            collector.beziers(tags, spline_beziers(entity))

    def draw_polyline_entity(self, entity: Any, properties: Properties) -> None:
        light = entity.dxftype() == "LWPOLYLINE"
        plain = light or entity.is_2d_polyline
        if self.pipeline.clipping.is_active or not plain or entity.has_width:
            super().draw_polyline_entity(entity, properties)
            if light and entity.has_width and not self.pipeline.clipping.is_active:
                self._thin_segments(entity, properties)
            return
        extrusion = entity.dxf.extrusion
        if extrusion.x or extrusion.y:
            super().draw_polyline_entity(entity, properties)
            return
        if light:
            # numpy rows: x, y, start width, end width, bulge
            rows = np.array(entity.lwpoints.values, float).reshape(-1, 5)[:, [0, 1, 4]]
            closed = bool(entity.closed)
        else:
            rows = np.array([(*v.dxf.location.vec2, v.dxf.bulge) for v in entity.vertices if not v.dxf.flags & 16], float)
            rows, closed = rows.reshape(-1, 3), bool(entity.is_closed)
        if not len(rows):
            return
        mirrored = extrusion.z < 0
        points = rows[:, :2] * np.array((-1.0 if mirrored else 1.0, 1.0))
        bulge = -rows[:, 2] if mirrored else rows[:, 2]
        self.pipeline.collector.polyline(
            self.pipeline.tags(properties), points, bulge if np.abs(bulge).max() > 0 else None, closed
        )

    def _thin_segments(self, entity: Any, properties: Properties) -> None:
        """The segments of a wide polyline that have no width themselves: plain lines and arcs."""
        rows = np.array(entity.lwpoints.values, float).reshape(-1, 5)
        mirrored = -1.0 if entity.dxf.extrusion.z < 0 else 1.0
        points = rows[:, :2] * (mirrored, 1.0)
        count = len(rows) if entity.closed else len(rows) - 1
        for n in range(count):
            if rows[n, 2] or rows[n, 3] or entity.dxf.get("const_width", 0):
                continue
            ends = points[[n, (n + 1) % len(rows)]]
            bulge = np.array((rows[n, 4] * mirrored, 0.0)) if rows[n, 4] else None
            self.pipeline.collector.polyline(self.pipeline.tags(properties), ends, bulge)


def _axes(entity: Any, centre: Any, radius: float) -> tuple[tuple[float, float], tuple[float, float], tuple[float, float]]:
    """Centre and two half diameters of a circle that lies in its own coordinate system."""
    ocs = entity.ocs()
    if not ocs.transform:
        return (centre.x, centre.y), (radius, 0.0), (0.0, radius)
    c, ux, uy = ocs.to_wcs(centre), ocs.ux * radius, ocs.uy * radius
    return (c.x, c.y), (ux.x, ux.y), (uy.x, uy.y)


class CachedContext(RenderContext):  # type: ignore[misc]
    """ezdxf's context, which remembers what it resolved for strokes with the same attributes in the same block reference."""

    _SAME = ("layer", "color", "true_color", "linetype", "ltscale", "lineweight", "transparency", "invisible")
    _STROKES = frozenset(("LINE", "CIRCLE", "ARC", "ELLIPSE", "SPLINE", "HELIX", "LWPOLYLINE", "TEXT", "POINT"))

    def __init__(self, doc: Any) -> None:
        self._known: dict[tuple[Any, ...], tuple[Properties, Any]] = {}
        super().__init__(doc)

    def resolve_all(self, entity: Any) -> Properties:
        if entity.dxftype() not in self._STROKES:
            return super().resolve_all(entity)
        around, own = self.current_block_reference_properties, entity.dxf.__dict__
        # a text that names no style has one all the same, and a line has none
        style = own.get("style", "standard") if entity.dxftype() == "TEXT" else None
        key = (id(around), id(self.current_layout_properties), style, *(own.get(name) for name in self._SAME))
        found = self._known.get(key)
        if found is None:
            # what the key points at is kept, so that its number is not given to another
            found = self._known[key] = (super().resolve_all(entity), (around, self.current_layout_properties))
        return found[0]


def context_of(doc: Any) -> RenderContext:
    """What resolves a file's properties, on white paper, every layer visible: which are off is for whoever draws to say."""
    ctx = CachedContext(doc)
    for layer in doc.layers:
        known = ctx.layers.get(layer.dxf.name.lower())
        # one that is off has its colour as a negative number (DXF reference, LAYER, code 62)
        if known is not None and layer.dxf.color < 0 and layer.rgb is None:
            red, green, blue = (0, 0, 0) if abs(layer.dxf.color) == 7 else aci2rgb(abs(layer.dxf.color))
            known.color = f"#{red:02x}{green:02x}{blue:02x}{known.color[7:9]}"
    for layer in ctx.layers.values():
        layer.is_visible = True
    for line_type in doc.linetypes:
        if line_type.pattern_tags.is_complex_type():
            lengths = [float(tag.value) for tag in line_type.pattern_tags.tags if tag.code == 49]
            ctx.line_pattern[line_type.dxf.name.upper()] = _alternating(lengths)
    for style in doc.styles:
        asked = style.dxf.font
        if not asked:
            asked = style.get_extended_font_data()[0]
        ctx.fonts[style.dxf.name.lower()] = FontFace(filename=readable(asked or "txt.shx"))
    return ctx


def _alternating(lengths: list[float]) -> tuple[float, ...]:
    """Dashes (nought and more) and gaps (less) of a line type as lengths that take turns, beginning with a dash."""
    found: list[float] = []
    for length in lengths:
        is_gap = length < 0
        if is_gap == (len(found) % 2 == 1):
            found.append(abs(length))
        elif found:
            # two of a kind in a row are one
            found[-1] += abs(length)
        else:
            found += [0.0, abs(length)]
    return tuple(found[: len(found) // 2 * 2])


def draw_space(
    ctx: RenderContext, layout: Any, collector: Collector, fonts: FontLog, frozen: frozenset[str],
    progress: Callable[[float], None] = lambda share: None, unshown: frozenset[str] = frozenset(),
    plain: PlainStrokes | None = None,
) -> tuple[Counter[str], Box | None]:  # fmt: skip
    """All of a layout into the collector; what was left out, by kind and reason, and the box of what shows: without layers that
    are *unshown*, what covers in the paper's colour, and points. *plain* are strokes of the layout that stand by themselves."""
    pipeline = ArtworkPipeline(collector, fonts)
    frontend = ArtworkFrontend(ctx, pipeline, frozen)
    paper = LayoutProperties.from_layout(layout)
    paper.set_colors(PAPER)
    total, done = max(len(layout), 1), 0

    def counted(entity: Any) -> bool:
        nonlocal done
        if plain is not None:
            plain.before(done, ctx, pipeline)
        done += 1
        if done % 2000 == 0:
            progress(done / total)
        return True

    frontend.draw_layout(layout, layout_properties=paper, filter_func=counted)
    pipeline.end_text()
    if plain is not None:
        plain.last(ctx, pipeline)
    box = shown_box(collector.artwork(), unshown)
    for point, way, both, tags in frontend.endless:
        _endless(collector, point, way, both, tags, box)
    if collector.unreached:
        frontend.notices[OUT_OF_REACH] += collector.unreached
    return frontend.skipped + frontend.notices, box


def shown_box(artwork: Artwork, unshown: frozenset[str]) -> Box | None:
    """The box of what a viewer sees of a drawing; None where nothing shows."""
    boxes = []
    for item in artwork:
        if item.tags.layer in unshown or not len(item):
            continue
        own = item.bounds()
        if isinstance(item, Areas | Fills) and item.tags.colour == WHITE:
            continue
        if isinstance(item, Lines):
            own = own[np.ptp(item.points, axis=1).max(axis=1) > 0]
        if len(own):
            boxes.append(own)
    if not boxes:
        return None
    rows = np.concatenate(boxes)
    (x0, y0), (x1, y1) = rows[:, 0].min(axis=0).tolist(), rows[:, 1].max(axis=0).tolist()
    return x0, y0, x1, y1


def _endless(collector: Collector, point: Any, way: Any, both: bool, tags: Tags, box: Box | None) -> None:
    """A line without an end, as far as what else is drawn reaches."""
    if box is None:
        return
    p, d = np.array((point.x, point.y)), np.array((way.x, way.y))
    low, high = np.array(box[:2]), np.array(box[2:])
    begin, end = (-np.inf if both else 0.0), np.inf
    for axis in (0, 1):
        if abs(d[axis]) < 1e-12:
            if not low[axis] <= p[axis] <= high[axis]:
                return
            continue
        a, b = sorted(((low[axis] - p[axis]) / d[axis], (high[axis] - p[axis]) / d[axis]))
        begin, end = max(begin, a), min(end, b)
    if end > begin:
        (x0, y0), (x1, y1) = (p + d * begin).tolist(), (p + d * end).tolist()
        collector.line(tags, x0, y0, x1, y1)
