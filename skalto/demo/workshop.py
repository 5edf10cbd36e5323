"""The rooms of the print workshop as a DXF drawing: two storeys one above the other, so far apart that they register exactly.

Millimetres; the ground floor stands at the origin, the upper floor :data:`SPACING` above it on the drawing.
"""

from __future__ import annotations

from typing import Any

import ezdxf
from ezdxf.enums import TextEntityAlignment

WIDTH, DEPTH = 16_000.0, 8_000.0
"""The house, outside, mm."""

SPACING = 12_000.0
"""From a point of the ground floor to the same point of the upper floor, as drawn, mm."""

WALL, PARTITION = 300.0, 120.0
SCALE = 50
"""Texts and dimensions are made to be read at 1:50."""

ROOM_TEXT, SMALL_TEXT = 3.5 * SCALE, 2.5 * SCALE
LAYERS = (
    ("WALLS", 7, 50, "CONTINUOUS"),
    ("WALLS HATCH", 254, 13, "CONTINUOUS"),
    ("PARTITIONS", 7, 35, "CONTINUOUS"),
    ("DOORS", 32, 25, "CONTINUOUS"),
    ("WINDOWS", 150, 25, "CONTINUOUS"),
    ("BENCHES", 96, 25, "CONTINUOUS"),
    ("MACHINES", 22, 35, "CONTINUOUS"),
    ("PIPES", 140, 25, "DASHED"),
    ("GRID", 8, 18, "CENTER"),
    ("ROOM NAMES", 7, 25, "CONTINUOUS"),
    ("TEXT", 7, 18, "CONTINUOUS"),
    ("DIMENSIONS", 7, 18, "CONTINUOUS"),
    ("REMARKS", 1, 25, "CONTINUOUS"),
)
"""Name, colour number, line width in hundredths of a millimetre, line type."""

GROUND = (
    ("Press room", (0.0, 0.0, 9_000.0, 8_000.0)),
    ("Composing room", (9_000.0, 3_500.0, 16_000.0, 8_000.0)),
    ("Paper store", (9_000.0, 0.0, 13_000.0, 3_500.0)),
    ("Wash-up", (13_000.0, 0.0, 16_000.0, 3_500.0)),
)
UPPER = (
    ("Bindery", (0.0, 0.0, 6_500.0, 8_000.0)),
    ("Drying loft", (6_500.0, 0.0, 11_500.0, 8_000.0)),
    ("Office", (11_500.0, 3_500.0, 16_000.0, 8_000.0)),
    ("Kitchen", (11_500.0, 0.0, 16_000.0, 3_500.0)),
)
REGIONS = ((-1_000.0, -1_500.0, 17_000.0, 9_500.0), (-1_000.0, 10_500.0, 17_000.0, 21_500.0))
"""What a sheet of each storey shows, mm of the drawing."""


class _Plan:
    """Draws one storey from its lower left corner on."""

    def __init__(self, space: Any, up: float) -> None:
        self.space, self.up = space, up

    def at(self, x: float, y: float) -> tuple[float, float]:
        return x, y + self.up

    def line(self, layer: str, *ends: tuple[float, float]) -> None:
        self.space.add_lwpolyline([self.at(*p) for p in ends], dxfattribs={"layer": layer})

    def box(self, layer: str, x0: float, y0: float, x1: float, y1: float) -> list[tuple[float, float]]:
        corners = [self.at(*p) for p in ((x0, y0), (x1, y0), (x1, y1), (x0, y1))]
        self.space.add_lwpolyline(corners, close=True, dxfattribs={"layer": layer})
        return corners

    def text(
        self, text: str, x: float, y: float, height: float = SMALL_TEXT, layer: str = "TEXT", style: str = "Plain"
    ) -> None:
        entity = self.space.add_text(text, height=height, dxfattribs={"layer": layer, "style": style})
        entity.set_placement(self.at(x, y), align=TextEntityAlignment.MIDDLE_CENTER)

    def shell(self, rooms: tuple[tuple[str, tuple[float, float, float, float]], ...]) -> None:
        """Outer walls with their hatch, partitions between the rooms, the rooms' names and floor areas."""
        outer = self.box("WALLS", 0, 0, WIDTH, DEPTH)
        inner = self.box("WALLS", WALL, WALL, WIDTH - WALL, DEPTH - WALL)
        hatch = self.space.add_hatch(color=256, dxfattribs={"layer": "WALLS HATCH"})
        hatch.paths.add_polyline_path(outer, is_closed=True, flags=1)
        hatch.paths.add_polyline_path(inner, is_closed=True, flags=0)
        for name, (x0, y0, x1, y1) in rooms:
            if x0 > 0:
                low = max(y0 - PARTITION / 2, WALL)
                high = y1 - PARTITION / 2 if y1 < DEPTH else DEPTH - WALL
                self.box("PARTITIONS", x0 - PARTITION / 2, low, x0 + PARTITION / 2, high)
            if y0 > 0:
                low, high = max(x0, WALL) + PARTITION / 2, min(x1, WIDTH - WALL)
                self.box("PARTITIONS", low, y0 - PARTITION / 2, high, y0 + PARTITION / 2)
            middle = (x0 + x1) / 2, (y0 + y1) / 2
            self.text(name, middle[0], middle[1] + 120, ROOM_TEXT, "ROOM NAMES", "Rooms")
            area = (x1 - x0 - WALL) * (y1 - y0 - WALL) / 1e6
            self.text(f"{area:.1f} m²", middle[0], middle[1] - 180)

    def windows(self, along: tuple[float, ...]) -> None:
        for x in along:
            for y in (0.0, DEPTH - WALL):
                self.box("WINDOWS", x, y, x + 1_400, y + WALL)
                self.line("WINDOWS", (x, y + WALL / 2), (x + 1_400, y + WALL / 2))

    def door(self, name: str, x: float, y: float, angle: float = 0.0, left: bool = True) -> None:
        """A door with its number as an attribute of the block."""
        scale = {"xscale": 1.0 if left else -1.0, "rotation": angle, "layer": "DOORS"}
        insert = self.space.add_blockref("DOOR", self.at(x, y), dxfattribs=scale)
        attribute = insert.add_attrib("NUMBER", name, dxfattribs={"layer": "TEXT", "height": SMALL_TEXT, "style": "Plain"})
        inside = (x + 130, y + 280) if angle == 0 else (x + 180, y - 420)
        attribute.set_placement(self.at(*inside), align=TextEntityAlignment.LEFT)

    def bench(self, name: str, x: float, y: float, long: float, deep: float) -> None:
        self.box("BENCHES", x, y, x + long, y + deep)
        self.line("BENCHES", (x, y + 80), (x + long, y + 80))
        self.text(name, x + long / 2, y + deep / 2)

    def grid(self, names: str, ways: tuple[float, ...]) -> None:
        for name, x in zip(names, ways, strict=True):
            self.space.add_line(self.at(x, -700), self.at(x, DEPTH + 500), {"layer": "GRID"})
            self.space.add_circle(self.at(x, DEPTH + 750), 250, {"layer": "GRID", "linetype": "CONTINUOUS"})
            self.text(name, x, DEPTH + 750)

    def size(self, x0: float, x1: float, y: float) -> None:
        dimension = self.space.add_linear_dim(
            base=self.at(x0, y), p1=self.at(x0, 0), p2=self.at(x1, 0), dimstyle="Fit-out", dxfattribs={"layer": "DIMENSIONS"}
        )
        dimension.render()

    def upright(self, y0: float, y1: float, x: float) -> None:
        dimension = self.space.add_linear_dim(
            base=self.at(x, y0), p1=self.at(0, y0), p2=self.at(0, y1), angle=90, dimstyle="Fit-out",
            dxfattribs={"layer": "DIMENSIONS"},
        )  # fmt: skip
        dimension.render()


def _tables(document: Any) -> None:
    for name, colour, weight, line_type in LAYERS:
        document.layers.add(name, color=colour, lineweight=weight, linetype=line_type)
    document.layers.get("REMARKS").off()
    document.layers.add("VIEWPORTS", color=8, plot=False)
    document.styles.add("Plain", font="txt.shx")
    document.styles.add("Rooms", font="RoutedGothic.ttf")
    style = document.dimstyles.duplicate_entry("EZDXF", "Fit-out")
    style.dxf.dimtxsty, style.dxf.dimscale, style.dxf.dimtxt, style.dxf.dimasz = "Plain", SCALE, 2.5, 2.5
    style.dxf.dimexo, style.dxf.dimexe, style.dxf.dimgap, style.dxf.dimdec, style.dxf.dimlfac = 1.0, 1.5, 0.8, 0, 1.0
    style.dxf.dimblk = ""
    block = document.blocks.new("DOOR")
    block.add_line((0, 0), (0, 900), {"layer": "0"})
    block.add_arc((0, 0), 900, 0, 90, dxfattribs={"layer": "0"})


def _ground(plan: _Plan) -> None:
    plan.shell(GROUND)
    plan.windows((1_500, 5_000, 11_000, 13_800))
    plan.door("D1", 7_300, WALL, 0)
    plan.door("D2", 9_060, 4_200, 270)
    plan.door("D3", 9_060, 2_400, 270)
    plan.door("D4", 13_060, 1_900, 270)
    plan.box("MACHINES", 2_000, 2_600, 3_100, 3_500)
    plan.text("Ebba", 2_550, 2_200)
    plan.space.add_circle(plan.at(2_550, 3_050), 320, {"layer": "MACHINES"})
    plan.space.add_circle(plan.at(2_550, 3_050), 60, {"layer": "MACHINES"})
    plan.bench("Inking", 600, 600, 2_400, 800)
    plan.bench("Make-ready", 600, 6_500, 3_600, 900)
    plan.bench("Type cabinets", 9_700, 7_000, 5_200, 700)
    plan.bench("Imposing stone", 11_300, 4_100, 1_800, 900)
    plan.bench("Sheets", 9_500, 400, 2_600, 800)
    plan.space.add_ellipse(plan.at(6_400, 5_300), (900, 0), 0.6, dxfattribs={"layer": "BENCHES"})
    plan.text("Proof table", 6_400, 5_300)
    plan.box("MACHINES", 14_400, 700, 15_400, 1_500)
    plan.text("Sink", 14_900, 1_100)
    pipe = ((15_370, 1_500), (15_550, 2_300), (15_560, 3_290), (14_600, 3_270), (12_000, 3_270), (9_700, 3_270))
    plan.space.add_open_spline([plan.at(x, y) for x, y in pipe], dxfattribs={"layer": "PIPES"})


def _upper(plan: _Plan) -> None:
    plan.shell(UPPER)
    plan.windows((1_500, 5_000, 8_300, 13_400))
    plan.door("D5", 6_560, 3_400, 270)
    plan.door("D6", 11_560, 5_000, 270)
    plan.door("D7", 11_560, 2_600, 270)
    plan.bench("Folding", 600, 6_400, 3_200, 900)
    plan.bench("Sewing", 600, 3_600, 900, 1_800)
    plan.bench("Nipping press", 3_800, 600, 1_400, 900)
    plan.bench("Desk", 13_000, 6_600, 2_200, 800)
    plan.bench("Counter", 12_800, 500, 2_600, 600)
    for y in (1_200.0, 2_300.0, 5_600.0, 6_700.0):
        plan.line("BENCHES", (7_000, y), (11_000, y))
    plan.text("Drying lines", 9_000, 6_150)
    plan.box("MACHINES", 9_400, 900, 10_900, 1_800)
    plan.text("Racks", 10_150, 1_350)


def _page(document: Any) -> None:
    """A saved page: the ground floor at 1:50 on A3."""
    page = document.layouts.new("Ground floor")
    page.page_setup(size=(420, 297), margins=(0, 0, 0, 0), units="mm")
    x0, y0, x1, y1 = REGIONS[0]
    size = ((x1 - x0) / SCALE, (y1 - y0) / SCALE)
    middle = ((x0 + x1) / 2, (y0 + y1) / 2)
    page.add_viewport(
        center=(20 + size[0] / 2, 287 - size[1] / 2), size=size, view_center_point=middle, view_height=y1 - y0, status=2,
        dxfattribs={"layer": "VIEWPORTS"},
    )  # fmt: skip
    page.add_lwpolyline([(10, 10), (410, 10), (410, 287), (10, 287)], close=True, dxfattribs={"layer": "0", "lineweight": 50})
    page.add_text("Verkstan, ground floor 1:50", height=5, dxfattribs={"style": "Rooms"}).set_placement((24, 22))


def write_workshop(path: str) -> None:
    """Write the fit-out drawing, DXF R2010, to *path*; the same every time but for the handles' time stamps."""
    document: Any = ezdxf.new("R2010", setup=True, units=ezdxf.units.MM)
    document.header["$LTSCALE"] = 8 * SCALE
    _tables(document)
    space = document.modelspace()
    space.reset_limits((REGIONS[0][0], REGIONS[0][1]), (REGIONS[1][2], REGIONS[1][3]))
    for draw, up, names, ways in (
        (_ground, 0.0, "ABC", (150.0, 9_000.0, 15_850.0)),
        (_upper, SPACING, "ABC", (150.0, 9_000.0, 15_850.0)),
    ):
        plan = _Plan(space, up)
        draw(plan)
        plan.grid(names, ways)
        plan.size(0, 9_000 if up == 0 else 6_500, -800)
        plan.size(9_000 if up == 0 else 6_500, WIDTH, -800)
        plan.upright(0, DEPTH, -600)
    remark = space.add_mtext(
        "{\\C1;Power for the press:} three phases, 16 A.\\PKeep {\\Oclear} of the stairs.",
        dxfattribs={"layer": "REMARKS", "char_height": SMALL_TEXT, "style": "Plain", "width": 3_000},
    )
    remark.set_location((4_200, 2_400))
    _page(document)
    document.saveas(path)


__all__ = ["REGIONS", "SPACING", "write_workshop"]
