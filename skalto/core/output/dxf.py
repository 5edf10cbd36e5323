"""Artwork to DXF R2010 in millimetres: true circles, arcs and ellipses, bulges, splines, text, layers, line widths."""

from __future__ import annotations

import io
import itertools
import math
from typing import Any

import ezdxf
import numpy as np
from ezdxf.colors import float2transparency
from ezdxf.lldxf.const import VALID_DXF_LINEWEIGHTS

from skalto.core.artwork import Areas, Beziers, Contours, EdgeClass, Ellipses, Fills, Item, Lines, Polylines, Raster, Text
from skalto.core.artwork.area_polygons import filled_alike
from skalto.core.artwork.joining import contour_of
from skalto.core.geometry import Array
from skalto.core.geometry.contour import Arc, Cubic
from skalto.core.lettering import FACES
from skalto.core.output.drawing import draw
from skalto.core.output.flat import Flat
from skalto.core.output.pdf.ink import Ink
from skalto.core.pens import Pens
from skalto.core.pens.pen import HAIRLINE

_MM = 4
"""$INSUNITS: millimetres (DXF reference)."""

CUT, ENGRAVE = "cut", "engrave"
"""Layers of a cutter's file, one for each operation."""

OPERATIONS = (EdgeClass.CUT, EdgeClass.SCORE, EdgeClass.ENGRAVE)
_JOINED = 1e-9


def _weight(width: float) -> int:
    """The nearest line weight that DXF knows, hundredths of a millimetre."""
    return int(min(VALID_DXF_LINEWEIGHTS, key=lambda w: abs(w - width * 100)))


class _Sheet:
    def __init__(self, flat: Flat) -> None:
        self.ink = Ink(flat.colour)
        self.document: Any = ezdxf.new("R2010")
        self.document.units = _MM
        self.document.header["$MEASUREMENT"] = 1
        self.document.header["$LTSCALE"] = 1.0
        self.space = self.document.modelspace()
        self.space.reset_limits((0, 0), (flat.width, flat.height))
        self.space.reset_extents((0, 0, 0), (flat.width, flat.height, 0))
        self._types: dict[tuple[float, ...], str] = {}
        self.for_cutter = flat.contours
        self.pens = Pens()

    def take_up(self, pens: Pens) -> None:
        self.pens = pens

    def _layer(self, item: Item, width: float) -> str:
        """An item's layer: its own, or its edge class; in a cutter's file one for each operation."""
        if not self.for_cutter or (item.tags.edge_class in OPERATIONS and item.tags.layer):
            return _layer_name(item.tags.layer or item.tags.edge_class.value)
        return CUT if isinstance(item, Contours) and width <= HAIRLINE * 1.01 else ENGRAVE

    def _line_type(self, dashes: tuple[float, ...]) -> str:
        if not dashes:
            return "CONTINUOUS"
        key = tuple(round(d, 6) for d in dashes)
        if key not in self._types:
            name = f"DASHED_{len(self._types) + 1}"
            pattern = [sum(key), *(d if n % 2 == 0 else -d for n, d in enumerate(key))]
            self.document.linetypes.add(name, pattern)
            self._types[key] = name
        return self._types[key]

    def attributes(self, item: Item) -> dict[str, Any]:
        """Layer, colour, width and line type of an item's strokes; its layer is made where it is new."""
        pen = self.pens.pen(item.tags)
        name = self._layer(item, pen.width)
        colour = ezdxf.colors.rgb2int(self.ink.seen(pen.colour))
        if name not in self.document.layers:
            self.document.layers.add(name, true_color=colour, lineweight=_weight(pen.width))
        found: dict[str, Any] = {"layer": name}
        layer = self.document.layers.get(name)
        if colour != layer.dxf.get("true_color"):
            found["true_color"] = colour
        if _weight(pen.width) != layer.dxf.lineweight:
            found["lineweight"] = _weight(pen.width)
        if item.tags.opacity < 1:
            found["transparency"] = float2transparency(1 - item.tags.opacity)
        dashes = tuple(d * pen.width for d in pen.dashes)
        if dashes:
            found["linetype"] = self._line_type(dashes)
        return found

    def lines(self, item: Lines) -> None:
        with_ = self.attributes(item)
        for a, b in item.points.tolist():
            self.space.add_line(a, b, with_)

    def polylines(self, item: Polylines) -> None:
        with_ = self.attributes(item)
        for number, closed in enumerate(item.closed.tolist()):
            run = item.run(number)
            rows = np.column_stack((item.points[run], item.bulge[run])).tolist()
            self.space.add_lwpolyline(rows, format="xyb", close=closed, dxfattribs=with_)

    def fills(self, item: Fills) -> None:
        with_ = self.attributes(item)
        for polygon in item.points.tolist():
            self._hatch(with_).paths.add_polyline_path(polygon, is_closed=True)

    def raster(self, item: Raster) -> None:
        """DXF keeps pictures of pixels in files of their own: they are left out, and the sheet says so."""

    def ellipses(self, item: Ellipses) -> None:
        with_ = self.attributes(item)
        radii, circle, whole = item.radii().tolist(), item.is_circle().tolist(), item.is_whole().tolist()
        for n, (centre, major, minor) in enumerate(
            zip(item.centre.tolist(), item.major.tolist(), item.minor.tolist(), strict=True)
        ):
            start, end = float(item.start[n]), float(item.start[n] + item.sweep[n])
            if circle[n] and whole[n]:
                self.space.add_circle(centre, radii[n][0], with_)
            elif circle[n]:
                turn = math.degrees(math.atan2(major[1], major[0]))
                angles = turn + math.degrees(start), turn + math.degrees(end)
                self.space.add_arc(centre, radii[n][0], *angles, dxfattribs=with_)
            else:
                if radii[n][1] > radii[n][0]:
                    # DXF wants the longer axis first
                    major, start, end = minor, start - math.pi / 2, end - math.pi / 2
                ratio = min(radii[n]) / max(radii[n])
                ends = (0.0, math.tau) if whole[n] else (start % math.tau, end % math.tau)
                self.space.add_ellipse(centre, major, ratio, *ends, dxfattribs=with_)

    def beziers(self, item: Beziers) -> None:
        with_ = self.attributes(item)
        joined = np.abs(item.points[1:, 0] - item.points[:-1, 3]).max(axis=1) <= _JOINED
        for chain in np.split(item.points, np.flatnonzero(~joined) + 1):
            self.space.add_spline(dxfattribs=with_).apply_construction_tool(_spline(chain))

    def contours(self, item: Contours) -> None:
        """Each as one entity: a circle, a polyline with its arcs as bulges, or where there are other curves a spline."""
        with_ = self.attributes(item)
        for n, (begin, end) in enumerate(itertools.pairwise(item.first.tolist())):
            contour = contour_of(item, n)
            whole = contour.as_circle
            if whole is not None:
                self.space.add_circle(*whole, with_)
            elif any(isinstance(segment, Cubic) for segment in contour):
                spline = self.space.add_spline(dxfattribs=with_)
                spline.apply_construction_tool(_spline(item.curves[begin:end]))
                spline.closed = contour.closed
            else:
                points = [(*s.start, math.tan(s.sweep / 4) if isinstance(s, Arc) else 0.0) for s in contour]
                if not contour.closed:
                    points.append((*contour.end, 0.0))
                self.space.add_lwpolyline(points, format="xyb", close=contour.closed, dxfattribs=with_)

    def group(self, view: int, entities: list[Any], unseen: bool) -> None:
        """What is a view's own, as a group of that description, so that it can be picked, and measured, together."""
        if entities:
            group = self.document.groups.new(
                f"VIEW_{view}{'_UNSEEN' if unseen else ''}", description=f"view {view}{' unseen' if unseen else ''}"
            )
            group.extend(entities)

    def texts(self, item: Text) -> None:
        if item.ghost:
            # what is seen stands beside it as strokes
            return
        with_ = self.attributes(item)
        face = FACES[item.face]
        if face.name not in self.document.styles:
            self.document.styles.add(face.name, font=face.file)
        stretch = item.stretch if item.stretch is not None else np.ones(len(item))
        slant = item.slant if item.slant is not None else np.zeros(len(item))
        for n, text in enumerate(item.texts):
            # a caret stands before what makes a control character of it: before a space it is itself (DXF reference)
            own = {"style": face.name, "rotation": math.degrees(item.angle[n]), "width": abs(float(stretch[n])) or 1.0}
            if abs(slant[n]) > 1e-6:
                own["oblique"] = math.degrees(slant[n])
            if stretch[n] < 0:
                own["text_generation_flag"] = 2
            entity = self.space.add_text(text.replace("^", "^ "), height=float(item.height[n]), dxfattribs=with_ | own)
            entity.set_placement(item.start[n].tolist())

    def _hatch(self, with_: dict[str, Any]) -> Any:
        plain = {name: value for name, value in with_.items() if name != "linetype"}
        hatch = self.space.add_hatch(dxfattribs=plain)
        if "true_color" not in plain:
            hatch.dxf.color = 256
        return hatch

    def areas(self, item: Areas) -> None:
        # a hatch is filled by the even-odd rule
        item = filled_alike(item)
        with_ = self.attributes(item)
        for number in range(len(item)):
            hatch = self._hatch(with_)
            for contour in np.flatnonzero(item.area == number):
                rows = item.contour == contour
                if item.straight[rows].all():
                    hatch.paths.add_polyline_path(item.curves[rows, 0].tolist(), is_closed=True)
                    continue
                edges = hatch.paths.add_edge_path()
                for curve, straight in zip(item.curves[rows], item.straight[rows], strict=True):
                    if straight:
                        edges.add_line(curve[0].tolist(), curve[3].tolist())
                    else:
                        edges.add_spline(control_points=curve.tolist(), degree=3, knot_values=[0, 0, 0, 0, 1, 1, 1, 1])


def _layer_name(name: str) -> str:
    """A name that DXF allows for a layer (DXF reference: none of <>/\\":;?*|=`)."""
    return "".join("_" if c in '<>/\\":;?*|=`' else c for c in name)[:255] or "0"


def _spline(chain: Array) -> Any:
    """A chain of cubic Béziers (k, 4, 2) as one B-spline, whose inner knots are threefold."""
    from ezdxf.math import BSpline, Vec3

    points = [Vec3(*p) for p in chain[0]] + [Vec3(*p) for piece in chain[1:] for p in piece[1:]]
    knots = [0.0] * 4 + [float(k) for k in range(1, len(chain)) for _ in range(3)] + [float(len(chain))] * 4
    return BSpline(points, order=4, knots=knots)


def write_dxf(flat: Flat) -> bytes:
    """A DXF file of a page or a view, the lower left corner at the origin. Pictures of pixels, which DXF keeps in files of
    their own, are left out."""
    sheet = _Sheet(flat)
    for part in flat.parts:
        seen: list[Any] = []
        unseen: list[Any] = []
        before = len(sheet.space)
        for item, _ in draw(part.artwork, part.pens, sheet):
            (unseen if item.tags.edge_class is EdgeClass.HIDDEN else seen).extend(sheet.space[before:])
            before = len(sheet.space)
        if part.view is not None and not flat.contours:
            sheet.group(part.view, seen, False)
            sheet.group(part.view, unseen, True)
    stream = io.StringIO()
    sheet.document.write(stream)
    return stream.getvalue().encode(sheet.document.output_encoding, errors="dxfreplace")
