"""The press's nameplate and an ornament for it, as DXF drawings in millimetres."""

from __future__ import annotations

import math
from pathlib import Path

import ezdxf
from ezdxf.document import Drawing

WIDTH, HEIGHT, RADIUS, HOLE = 96.0, 40.0, 6.0, 3.4
"""The nameplate, its corners and the holes of its screws, mm."""
LEAVES, LEAF, HEART = 6, 9.0, 1.6
"""An ornament of so many leaves about a disc: their length and the disc's radius, mm."""


def _new() -> Drawing:
    document = ezdxf.new("R2018", setup=False)
    document.header["$INSUNITS"] = 4
    return document


def write_nameplate(path: Path) -> None:
    """The outline with round corners, and two holes."""
    document = _new()
    space = document.modelspace()
    bulge = math.tan(math.pi / 8)
    w, h, r = WIDTH, HEIGHT, RADIUS
    points = [
        (r, 0, 0), (w - r, 0, bulge), (w, r, 0), (w, h - r, bulge), (w - r, h, 0), (r, h, bulge), (0, h - r, 0), (0, r, bulge),
    ]  # fmt: skip
    space.add_lwpolyline(points, format="xyb", close=True)
    for x in (7.0, w - 7.0):
        space.add_circle((x, h / 2), HOLE / 2)
    document.saveas(path)


def write_ornament(path: Path) -> None:
    """Leaves of two arcs each about a disc, all filled."""
    document = _new()
    space = document.modelspace()
    for number in range(LEAVES):
        turn = 2 * math.pi * number / LEAVES
        ends = [(math.cos(turn) * r, math.sin(turn) * r) for r in (HEART + 0.8, HEART + 0.8 + LEAF)]
        leaf = space.add_hatch(color=7)
        leaf.paths.add_polyline_path([(*ends[0], 0.42), (*ends[1], 0.42)], is_closed=True)
    disc = space.add_hatch(color=7)
    disc.paths.add_edge_path().add_arc((0, 0), HEART, 0, 360)
    document.saveas(path)
