"""Ebba's parts, each in its own axes, mm. Sizes that others need stand here by name."""

from __future__ import annotations

from typing import Any

import numpy as np

from skalto.demo.solids import block, cut, cylinder, fuse, mirrored, moved, plate, prism, turned

CHEEK_WIDTH, CHEEK_HEIGHT, CHEEK_THICKNESS = 220.0, 262.0, 8.0
LOWER_AXIS, UPPER_AXIS = 92.0, 164.0
"""Heights of the roller axes above the feet."""
BORE = 62.0
WINDOW = (50.0, 84.0)
TIE_RODS = ((-86.0, 40.0), (86.0, 40.0), (0.0, 236.0))
"""(y, z) of the tie rods."""
INNER_WIDTH = 284.0
"""Between the cheeks."""
ROLLER = 60.0
TRAY_SHEET = 1.5


def cheek() -> Any:
    """The left cheek: plate in yz, 8 thick in x from 0, with roller bore, sliding window, arch, feet and holes."""
    w, h = CHEEK_WIDTH / 2, CHEEK_HEIGHT
    outline = [(-w, 0.0, 8.0), (-52.0, 0.0, 8.0), (-52.0, 50.0, 28.0), (52.0, 50.0, 28.0), (52.0, 0.0, 8.0), (w, 0.0, 8.0),
               (w, 150.0, 40.0), (66.0, h, 46.0), (-66.0, h, 46.0), (-w, 150.0, 40.0)]  # fmt: skip
    flat = plate(outline, CHEEK_THICKNESS)  # type: ignore[arg-type]
    middle = UPPER_AXIS + 6
    window = moved(block(*WINDOW, 30.0, 5.0), (0, middle, -10))
    holes = [cylinder(BORE, 30, (0, LOWER_AXIS, -10)), window]
    holes += [cylinder(12.2, 30, (y, z, -10)) for y, z in TIE_RODS]
    holes += [cylinder(8.4, 30, (y, z, -10)) for y in (-97.0, -73.0, 73.0, 97.0) for z in (18.0,)]
    holes += [cylinder(16.2, 30, (88.0, 118.0, -10)), cylinder(6.6, 30, (-46.0, 205.0, -10))]
    # the outline was drawn in xy; stand it up so that its x is y and its y is z
    return moved(moved(cut(flat, *holes), turn=("x", 90)), turn=("z", 90))


def cheek_right() -> Any:
    """The right cheek: the left one's mirror image."""
    return mirrored(cheek())


def bed() -> Any:
    """The bed plate: 260 × 360 × 10 with a rebate and four stop holes, top at z = 0."""
    slab = moved(block(260, 360, 10, 6), (0, 0, -10))
    rebate = moved(block(230, 320, 4, 3), (0, 0, -2))
    holes = [cylinder(6.6, 30, (x, y, -20)) for x in (-120, 120) for y in (-170, 170)]
    return cut(slab, rebate, *holes)


def roller(drive: float) -> Any:
    """A roller along z, centred: Ø60 body, stepped shafts; *drive* mm more of Ø20 at the far end."""
    body, shoulder = 270.0 / 2, 6.0
    r = ROLLER / 2
    seat = body + shoulder + 28
    top = [(0.0, -seat), (15.0, -seat, 1.0), (15.0, -body - shoulder), (19.0, -body - shoulder), (19.0, -body),
           (r, -body, 2.0), (r, body, 2.0), (19.0, body), (19.0, body + shoulder), (15.0, body + shoulder)]  # fmt: skip
    if drive:
        top += [(15.0, seat), (10.0, seat), (10.0, seat + drive, 1.0), (0.0, seat + drive)]
    else:
        top += [(15.0, seat, 1.0), (0.0, seat)]
    return turned(top)  # type: ignore[arg-type]


def bearing_lower() -> Any:
    """A lower bearing block: a flange and a Ø61.8 spigot with a Ø30 bore, along z from 0."""
    flange = moved(block(76, 76, 8, 12), (0, 0, 0))
    holes = [cylinder(30.1, 60, (0, 0, -20))] + [cylinder(5.5, 40, (x, y, -10)) for x in (-30, 30) for y in (-30, 30)]
    return cut(fuse(flange, cylinder(61.8, 20, (0, 0, 0))), *holes)


def bearing_upper() -> Any:
    """An upper bearing block: slides in the cheek's window, with cheeks of its own, along z from 0."""
    core = block(49.8, 56, 26, 2)
    lip = block(62, 56, 6, 2)
    return cut(fuse(core, lip), cylinder(30.1, 60, (0, 0, -20)), moved(cylinder(16.2, 10), (0, 24, 13), ("x", -90)))


def pressure_screw() -> Any:
    """A pressure screw along z, tip at 0: Ø16 spindle, collar, and a Ø44 hand disc with six holes for a bar."""
    spindle = turned([(0, 0), (6, 0, 1), (6, 8), (8, 8), (8, 92), (13, 92, 1), (13, 98, 1), (8, 98), (8, 104), (0, 104)])
    disc = turned([(0, 104), (20, 104), (22, 106), (22, 114), (20, 116), (0, 116)])
    holes = [cylinder(5, 40, (float(14 * np.cos(a)), float(14 * np.sin(a)), 101)) for a in np.arange(6) * np.pi / 3]
    return cut(fuse(spindle, disc), *holes)


def crosshead() -> Any:
    """The nut plate above a cheek's window that a pressure screw runs in."""
    return cut(block(60, 40, 14, 4), cylinder(16.1, 40, (0, 0, -10)))


def tie_rod() -> Any:
    """A tie rod along z: Ø18 between the cheeks, Ø12 through them, symmetric about 0."""
    half, end = INNER_WIDTH / 2, INNER_WIDTH / 2 + 28
    return turned([(0, -end), (6, -end, 1), (6, -half), (9, -half), (9, half), (6, half), (6, end, 1), (0, end)])


def crank_wheel() -> Any:
    """The crank wheel about z: Ø190 rim, five spokes, hub with a Ø20 bore, boss for the handle."""
    rim = turned([(83, -7, 4), (95, -7, 4), (95, 7, 4), (83, 7, 4)])
    hub = cylinder(44, 30, (0, 0, -15))
    spokes = []
    for k in range(5):
        angle = float(90 + 72 * k)
        spokes.append(moved(moved(block(14, 74, 8, 3), (0, 50, -4)), turn=("z", angle - 90)))
    boss = cylinder(26, 16, (0, 89, -8))
    return cut(fuse(rim, hub, *spokes, boss), cylinder(20, 60, (0, 0, -30)), cylinder(10, 60, (0, 89, -30)))


def handle() -> Any:
    """The turned grip along z from 0, with a Ø10.2 bore."""
    outline = [(5.1, 0), (10, 0, 2), (9, 12, 14), (14.5, 46, 30), (12, 84, 6), (5.1, 84)]
    return turned(outline)  # type: ignore[arg-type]


def handle_pin() -> Any:
    """The pin on which the grip turns: Ø10 along z, with a Ø16 head."""
    return turned([(0, -10), (5, -10, 0.8), (5, 86), (8, 86, 0.5), (8, 90, 1.5), (0, 90)])


def ink_tray() -> Any:
    """The ink tray: 1.5 mm sheet with four bends of 3 mm inner radius, 230 long in x, standing on its floor."""
    t, r, floor, wall, rim = TRAY_SHEET, 3.0, 90.0, 24.0, 14.0
    a, b = floor / 2, floor / 2 + rim
    outer, inner = r + t, r
    half = [(a, 0, outer), (a, wall, inner), (b, wall), (b, wall + t), (a - t, wall + t, outer), (a - t, t, inner)]
    outline = [*half, *((-x, *rest) for x, *rest in reversed(half))]
    folded = moved(plate(outline, 230), (0, 0, -115))  # type: ignore[arg-type]
    folded = moved(moved(folded, turn=("x", 90)), turn=("z", 90))
    holes = [cylinder(4.5, 20, (x, y, wall - 8)) for x in (-95, 95) for y in (-b + 6, b - 6)]
    return cut(folded, *holes)


def bracket() -> Any:
    """A foot bracket: angle 40 × 40 × 5, 60 long in y, heel at the origin, legs along +x and +z."""
    angle = plate([(0, 0), (40, 0, 2), (40, 5, 2), (5, 5, 5), (5, 40, 2), (0, 40, 2)], 60)
    angle = moved(moved(angle, (0, 0, -30)), turn=("x", 90))
    holes = [moved(cylinder(8.4, 20, (0, 0, -5)), (0, y, 18), ("y", 90)) for y in (-12, 12)]
    return cut(angle, *holes, cylinder(9, 20, (26, 0, -5)))


def hex_nut(size: float, across: float, height: float) -> Any:
    """A hexagon nut along z from 0."""
    return cut(prism(6, across, height), cylinder(size, height * 3, (0, 0, -height)))


def washer(inner: float, outer: float, thickness: float) -> Any:
    """A plain washer along z from 0."""
    return cut(cylinder(outer, thickness), cylinder(inner, thickness * 3, (0, 0, -thickness)))


def hex_bolt(size: float, across: float, head: float, length: float) -> Any:
    """A hexagon head screw: head from z = 0 up, shank down."""
    return fuse(prism(6, across, head), turned([(0, -length), (size / 2, -length, 0.8), (size / 2, 0.1), (0, 0.1)]))


def cap_screw(size: float, head: float, length: float) -> Any:
    """A cylinder head screw with a six-sided socket: head from z = 0 up, shank down."""
    body = turned([(0, -length), (size / 2, -length, 0.4), (size / 2, 0), (head / 2, 0), (head / 2, size, 0.6), (0, size)])
    return cut(body, moved(prism(6, size * 0.8, size), (0, 0, size * 0.45)))


def foot() -> Any:
    """A rubber foot along z, top at 0."""
    return turned([(0, -12), (13, -12, 2), (15, 0), (0, 0)])
