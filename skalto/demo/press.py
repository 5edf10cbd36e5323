"""Ebba put together, and written as STEP with names, places and colours."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

from OCP.gp import gp_Trsf
from OCP.Interface import Interface_Static
from OCP.Quantity import Quantity_Color, Quantity_TOC_sRGB
from OCP.STEPCAFControl import STEPCAFControl_Writer
from OCP.STEPControl import STEPControl_AsIs
from OCP.TCollection import TCollection_ExtendedString, TCollection_HAsciiString
from OCP.TDataStd import TDataStd_Name
from OCP.TDocStd import TDocStd_Document
from OCP.TopLoc import TopLoc_Location
from OCP.XCAFDoc import XCAFDoc_ColorSurf, XCAFDoc_DocumentTool

from skalto.core.errors import InputError
from skalto.core.viewpoint import Vector
from skalto.demo import parts as p
from skalto.demo.solids import placement

STEEL, DARK, BRASS, GREEN, ZINC, WOOD, RUBBER = (
    "#9aa7ad", "#4b565c", "#c2a15a", "#3f8573", "#c9ced1", "#a8723f", "#3a3d3f",
)  # fmt: skip

_PARTS: dict[str, tuple[Callable[[], Any], str]] = {
    "Cheek, left": (p.cheek, GREEN),
    "Cheek, right": (p.cheek_right, GREEN),
    "Tie rod": (p.tie_rod, STEEL),
    "Foot bracket": (p.bracket, DARK),
    "Bed plate": (p.bed, STEEL),
    "Upper roller": (lambda: p.roller(0), ZINC),
    "Lower roller": (lambda: p.roller(48), ZINC),
    "Upper bearing block": (p.bearing_upper, BRASS),
    "Lower bearing block": (p.bearing_lower, BRASS),
    "Pressure screw": (p.pressure_screw, DARK),
    "Crosshead": (p.crosshead, STEEL),
    "Crank wheel": (p.crank_wheel, DARK),
    "Handle": (p.handle, WOOD),
    "Handle pin": (p.handle_pin, STEEL),
    "Ink tray": (p.ink_tray, ZINC),
    "Hex nut M12 (bought)": (lambda: p.hex_nut(12, 18, 10.8), ZINC),
    "Washer 12 (bought)": (lambda: p.washer(13, 24, 2.5), ZINC),
    "Hex screw M8x20 (bought)": (lambda: p.hex_bolt(8, 13, 5.3, 20), ZINC),
    "Cap screw M5x16 (bought)": (lambda: p.cap_screw(5, 8.5, 16), DARK),
    "Rubber foot (bought)": (p.foot, RUBBER),
}

STEEL_S235, STEEL_C45, SCREW_STEEL = ("Steel S235", 7.85), ("Steel C45", 7.85), ("Steel 8.8", 7.85)
BRASS_CUT, BEECH, NBR = ("Brass CuZn39Pb3", 8.47), ("Beech", 0.72), ("NBR rubber", 1.2)
"""Materials and densities, g/cm³ (handbook values, from memory)."""

_MATERIALS: dict[str, tuple[str, float]] = {
    "Upper roller": STEEL_C45, "Lower roller": STEEL_C45, "Tie rod": STEEL_C45, "Pressure screw": STEEL_C45,
    "Handle pin": STEEL_C45, "Upper bearing block": BRASS_CUT, "Lower bearing block": BRASS_CUT, "Handle": BEECH,
    "Rubber foot (bought)": NBR,
}  # fmt: skip

Place = tuple[tuple[float, float, float], tuple[str, float] | None]


class _Writer:
    """Builds an assembly's document from parts, each with its colour, and their materials."""

    def __init__(
        self, parts: Mapping[str, tuple[Callable[[], Any], str]] = _PARTS,
        materials: Mapping[str, tuple[str, float]] = _MATERIALS,
    ) -> None:  # fmt: skip
        self._parts, self._of = parts, materials
        self.document = TDocStd_Document(TCollection_ExtendedString("ebba"))
        self._shapes = XCAFDoc_DocumentTool.ShapeTool_s(self.document.Main())
        self._colours = XCAFDoc_DocumentTool.ColorTool_s(self.document.Main())
        self._materials = XCAFDoc_DocumentTool.MaterialTool_s(self.document.Main())
        self._labels: dict[str, Any] = {}

    def _name(self, label: Any, name: str) -> None:
        TDataStd_Name.Set_s(label, TCollection_ExtendedString(name))

    def part(self, name: str) -> Any:
        if name not in self._labels:
            make, colour = self._parts[name]
            label = self._shapes.AddShape(make(), False)
            self._name(label, name)
            rgb = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
            self._colours.SetColor(label, Quantity_Color(*rgb, Quantity_TOC_sRGB), XCAFDoc_ColorSurf)
            self._material(label, *self._of.get(name, SCREW_STEEL if "bought" in name else STEEL_S235))
            self._labels[name] = label
        return self._labels[name]

    def _material(self, label: Any, name: str, density: float) -> None:
        text = TCollection_HAsciiString
        self._materials.SetMaterial(
            label, text(name), text(""), density, text("density measure"), text("POSITIVE_RATIO_MEASURE")
        )

    def assembly(self, name: str) -> Any:
        label = self._shapes.NewShape()
        self._name(label, name)
        return label

    def add(self, parent: Any, label: Any, name: str, at: gp_Trsf | None = None) -> None:
        instance = self._shapes.AddComponent(parent, label, TopLoc_Location(at or gp_Trsf()))
        self._name(instance, name)

    def fill(self, assembly: Any, part: str, places: list[Place]) -> None:
        """Occurrences of a part, numbered where there are several."""
        for number, (by, turn) in enumerate(places, 1):
            self.add(assembly, self.part(part), part if len(places) == 1 else f"{part} {number}", placement(by, turn))

    def finish(self) -> None:
        self._shapes.UpdateAssemblies()


_HALF = p.INNER_WIDTH / 2
_OUTSIDE = _HALF + p.CHEEK_THICKNESS
_X: tuple[str, float] = ("y", 90)
_X_BACK: tuple[str, float] = ("y", -90)


def _frame(w: _Writer) -> Any:
    frame = w.assembly("Frame")
    w.fill(frame, "Cheek, left", [((-_OUTSIDE, 0, 0), None)])
    w.fill(frame, "Cheek, right", [((_OUTSIDE, 0, 0), None)])
    w.fill(frame, "Tie rod", [((0, y, z), _X) for y, z in p.TIE_RODS])
    ends = [(side, y, z) for y, z in p.TIE_RODS for side in (-1, 1)]
    w.fill(frame, "Washer 12 (bought)", [((s * _OUTSIDE, y, z), _X if s > 0 else _X_BACK) for s, y, z in ends])
    w.fill(frame, "Hex nut M12 (bought)", [((s * (_OUTSIDE + 2.5), y, z), _X if s > 0 else _X_BACK) for s, y, z in ends])
    w.fill(frame, "Foot bracket", [((s * _HALF, y, 0), None if s < 0 else ("z", 180)) for s in (-1, 1) for y in (-85, 85)])
    screws: list[Place] = [((s * _OUTSIDE, y, 18), _X if s > 0 else _X_BACK) for s in (-1, 1) for y in (-97, -73, 73, 97)]
    w.fill(frame, "Hex screw M8x20 (bought)", screws)
    w.fill(frame, "Rubber foot (bought)", [((s * (_HALF - 26), y, 0), None) for s in (-1, 1) for y in (-85, 85)])
    return frame


def _rollers(w: _Writer) -> tuple[Any, Any]:
    lower = w.assembly("Lower roller set")
    w.fill(lower, "Lower roller", [((0, 0, p.LOWER_AXIS), _X)])
    sides = ((-1, _X), (1, _X_BACK))
    w.fill(lower, "Lower bearing block", [((s * (_OUTSIDE + 8), 0, p.LOWER_AXIS), turn) for s, turn in sides])
    caps: list[Place] = [
        ((s * (_OUTSIDE + 8), y, p.LOWER_AXIS + z), _X if s > 0 else _X_BACK)
        for s in (-1, 1) for y in (-30, 30) for z in (-30, 30)
    ]  # fmt: skip
    w.fill(lower, "Cap screw M5x16 (bought)", caps)
    upper = w.assembly("Upper roller set")
    w.fill(upper, "Upper roller", [((0, 0, p.UPPER_AXIS), _X)])
    w.fill(upper, "Upper bearing block", [((s * (_OUTSIDE + 6), 0, p.UPPER_AXIS), turn) for s, turn in sides])
    return lower, upper


def _pressure(w: _Writer) -> Any:
    gear = w.assembly("Pressure gear")
    x, top = _OUTSIDE - 4, p.UPPER_AXIS + 28
    w.fill(gear, "Pressure screw", [((s * x, 0, top), None) for s in (-1, 1)])
    w.fill(gear, "Crosshead", [((s * x, 0, p.CHEEK_HEIGHT), None) for s in (-1, 1)])
    return gear


def _crank(w: _Writer) -> Any:
    crank = w.assembly("Crank")
    x = 270 / 2 + 6 + 28 + 24
    w.fill(crank, "Crank wheel", [((x, 0, p.LOWER_AXIS), ("y", 90))])
    w.fill(crank, "Handle pin", [((x, 89, p.LOWER_AXIS), ("y", 90))])
    w.fill(crank, "Handle", [((x + 9, 89, p.LOWER_AXIS), ("y", 90))])
    return crank


def _inking(w: _Writer) -> Any:
    inking = w.assembly("Inking")
    w.fill(inking, "Ink tray", [((0, -150, 20), None)])
    b = 90 / 2 + 14 - 6
    screws: list[Place] = [((x, -150 + y, 45.5), None) for x in (-95, 95) for y in (-b, b)]
    w.fill(inking, "Cap screw M5x16 (bought)", screws)
    return inking


def build() -> Any:
    """The press as a document of the kernel: feet on z = 0, rollers along x, the bed runs in y."""
    w = _Writer()
    press = w.assembly("Ebba press")
    w.add(press, _frame(w), "Frame")
    lower, upper = _rollers(w)
    w.add(press, lower, "Lower roller set")
    w.add(press, upper, "Upper roller set")
    w.fill(press, "Bed plate", [((0, 0, p.LOWER_AXIS + p.ROLLER / 2 + 10), None)])
    w.add(press, _pressure(w), "Pressure gear")
    w.add(press, _crank(w), "Crank")
    w.add(press, _inking(w), "Inking")
    w.finish()
    return w.document


def write_press(path: Path) -> None:
    """Write the press as a STEP AP214 file in mm. :raises InputError: when the file cannot be written."""
    _write(build(), path)


def write_parts(path: Path, name: str, parts: Mapping[str, tuple[Any, str, tuple[str, float], Vector]]) -> None:
    """Write an assembly of single parts, each a solid with its colour, material and density, g/cm³, and place, mm.

    :raises InputError: when the file cannot be written.
    """
    made = {called: ((lambda solid=row[0]: solid), row[1]) for called, row in parts.items()}
    w = _Writer(made, {called: row[2] for called, row in parts.items()})
    whole = w.assembly(name)
    for called, row in parts.items():
        w.fill(whole, called, [(row[3], None)])
    w.finish()
    _write(w.document, path)


def _write(document: Any, path: Path) -> None:
    writer = STEPCAFControl_Writer()
    writer.SetNameMode(True)
    writer.SetColorMode(True)
    writer.SetMaterialMode(True)
    Interface_Static.SetCVal_s("write.step.unit", "MM")
    if not writer.Transfer(document, STEPControl_AsIs) or int(writer.Write(str(path)).value) != 1:
        raise InputError(f"{path} cannot be written.")
