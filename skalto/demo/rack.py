"""The workshop's sheet metal: an ink tray with hems, a bracket of the drying rack, a guard of the press, as one STEP file."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any

from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
from OCP.gp import gp_Ax1, gp_Ax2, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec

from skalto.demo.folded import Flat, Step, Turn, folded
from skalto.demo.press import ZINC, write_parts
from skalto.demo.solids import cut, fuse

NAME = "Drying rack.step"
SHEET = 1.5
"""All of it is zinc-coated steel of this thickness, mm."""
TRAY, BRACKET, GUARD = "Ink tray, hemmed", "Rack bracket", "Roller guard"
MATERIAL = ("Steel DX51D", 7.85)

Place = tuple[float, float, float]


def _rod(at: Place, along: Place, diameter: float, length: float = 40.0) -> Any:
    return BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(*at), gp_Dir(*along)), diameter / 2, length).Shape()


def _box(low: Place, high: Place) -> Any:
    return BRepPrimAPI_MakeBox(gp_Pnt(*low), gp_Pnt(*high)).Shape()


def _placed(shape: Any, by: Place, turn: float = 0.0, axis: Place = (0, 1, 0)) -> Any:
    change = gp_Trsf()
    change.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(*axis)), math.radians(turn))
    moved = gp_Trsf()
    moved.SetTranslation(gp_Vec(*by))
    return BRepBuilderAPI_Transform(shape, moved.Multiplied(change), True).Shape()


def hemmed_tray() -> Any:
    """A tray with a flat floor of 160 × 90, walls on both long sides with open hems along their edges, walls at its ends, and
    reliefs at its corners."""
    wall: list[Step] = [Turn(90, 2), Flat(20), Turn(180, 0.8), Flat(8)]
    floor, depth = 90.0, 160.0
    side: list[Step] = [Flat(floor / 2), *wall]
    half = folded(side, SHEET, depth)
    other = _mirrored(half)
    ends = folded([Turn(90, 2), Flat(18)], SHEET, floor - 6)
    far = _placed(ends, (floor / 2 - 3, 0, depth), -90)
    near = _mirrored(_placed(ends, (floor / 2 - 3, 0, depth), -90), (0, 0, depth / 2), (0, 0, 1))
    made = fuse(half, other)
    for own in (far, near):
        made = fuse(made, own)
    corners = [_box((x - 4, -2, z - 4), (x + 4, SHEET + 3, z + 4)) for x in (-46, 46) for z in (-1, depth + 1)]
    return cut(made, *corners, *(_rod((x, -5, z), (0, 1, 0), 5) for x in (-30, 30) for z in (25, depth - 25)))


def _mirrored(shape: Any, at: Place = (0, 0, 0), normal: Place = (1, 0, 0)) -> Any:
    change = gp_Trsf()
    change.SetMirror(gp_Ax2(gp_Pnt(*at), gp_Dir(*normal)))
    return BRepBuilderAPI_Transform(shape, change, True).Shape()


def rack_bracket() -> Any:
    """An angle of 60 × 45, 80 wide, with a gusset flange; a hole near its bend, and one through it for the wire."""
    angle = folded([Flat(55), Turn(90, 2), Flat(40)], SHEET, 80)
    bend = (55.0, SHEET + 2.0)
    near = _rod((48, -5, 20), (0, 1, 0), 6, 12)
    through = _rod((bend[0], bend[1], 40), (1, -1, 0), 3, 12)
    slots = [_box((12, -5, z - 2.6), (30, 8, z + 2.6)) for z in (16, 64)]
    screw = [_rod((50, 30, z), (1, 0, 0), 5.5) for z in (18, 62)]
    return cut(angle, near, through, *slots, *screw)


def roller_guard() -> Any:
    """A guard over the rollers: rolled to R60, with two feet turned out and three holes in each."""
    steps: list[Step] = [Flat(18), Turn(-90, 2), Flat(30), Turn(120, 60), Flat(24), Turn(-30, 2), Flat(18)]
    guard = folded(steps, SHEET, 140)
    return cut(guard, *(_rod((9, -5, z), (0, 1, 0), 5.5, 12) for z in (20, 70, 120)))


def write_rack(path: Path) -> None:
    """The three parts side by side."""
    write_parts(
        path, "Drying rack",
        {
            TRAY: (hemmed_tray(), ZINC, MATERIAL, (0.0, 0.0, 0.0)),
            BRACKET: (rack_bracket(), ZINC, MATERIAL, (120.0, 0.0, 0.0)),
            GUARD: (roller_guard(), ZINC, MATERIAL, (260.0, 0.0, 0.0)),
        },
    )  # fmt: skip
