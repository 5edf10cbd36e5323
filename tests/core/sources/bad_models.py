"""Files that cannot be used, each with the words that its sentence must hold."""

from __future__ import annotations

import json
import struct
from collections.abc import Callable
from pathlib import Path

import trimesh

Make = Callable[[Path, Path], Path]


def _write(name: str, data: bytes) -> Make:
    def make(folder: Path, good: Path) -> Path:
        path = folder / name
        path.write_bytes(data)
        return path

    return make


def _cut_step(folder: Path, good: Path) -> Path:
    data = good.read_bytes()
    path = folder / "cut.step"
    path.write_bytes(data[: len(data) * 2 // 3])
    return path


def _without_solids(folder: Path, good: Path) -> Path:
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
    from OCP.gp import gp_Pnt

    from tests.conftest import write_step

    return write_step(BRepBuilderAPI_MakeVertex(gp_Pnt(1, 2, 3)).Vertex(), folder / "point.step")


def _broken_step(folder: Path, good: Path) -> Path:
    path = folder / "broken.step"
    path.write_bytes(
        good.read_bytes().replace(b"ADVANCED_FACE", b"ADVANCED_FAKE").replace(b"MANIFOLD_SOLID_BREP", b"NOTHING_AT_ALL")
    )
    return path


def _cut_stl(folder: Path, good: Path) -> Path:
    data = trimesh.creation.box((1, 1, 1)).export(file_type="stl")
    path = folder / "cut.stl"
    path.write_bytes(data[:-100])
    return path


def _cut_glb(folder: Path, good: Path) -> Path:
    data = trimesh.creation.box((1, 1, 1)).export(file_type="glb")
    path = folder / "cut.glb"
    path.write_bytes(data[:-40])
    return path


def _cut_ply(folder: Path, good: Path) -> Path:
    data = trimesh.creation.box((1, 1, 1)).export(file_type="ply")
    path = folder / "cut.ply"
    path.write_bytes(data[: len(data) // 2])
    return path


_APART = json.dumps({"asset": {"version": "2.0"}, "buffers": [{"uri": "far.bin", "byteLength": 12}]}).encode()

BAD: dict[str, tuple[Make, str]] = {
    "no model at all": (_write("letter.docx", b"PK\3\4 a letter"), "not a file that can be read"),
    "no ending": (_write("drawing", b"ISO-10303-21;"), "not a file that can be read"),
    "empty": (_write("empty.step", b""), "is empty"),
    "not STEP": (_write("notes.step", b"These are notes, not a model.\n" * 20), "not a STEP file"),
    "STEP cut short": (_cut_step, "cut short"),
    "STEP without solids": (_without_solids, "no solids, surfaces or curves"),
    "STEP that breaks its rules": (_broken_step, "no solids, surfaces or curves"),
    "STEP of nothing": (
        _write("bare.step", b"ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\nENDSEC;\nEND-ISO-10303-21;\n"),
        "cannot be read|no solids",
    ),
    "not IGES": (_write("notes.igs", b"not an exchange file\n" * 40), "not an IGES file"),
    "IGES cut short": (
        _write("cut.iges", (b" " * 72 + b"S0000001\n") + (b"1H,,1H;,".ljust(72) + b"G0000001\n")),
        "cut short",
    ),
    "not BREP": (_write("notes.brep", b"no shape in here"), "not a BREP file"),
    "BREP cut short": (
        _write("cut.brep", b"DBRep_DrawableShape\n\nCASCADE Topology V1, (c) Matra-Datavision\nLoc"),
        "cut short|no solids",
    ),
    "STL cut short": (_cut_stl, "cut short"),
    "text STL cut short": (_write("cut.stl", b"solid part\n facet normal 0 0 1\n  outer loop\n"), "cut short"),
    "STL of nonsense": (_write("noise.stl", b"\x07" * 80 + struct.pack("<I", 1) + b"\0" * 900), "not an STL file"),
    "glb cut short": (_cut_glb, "cut short"),
    "not glb": (_write("notes.glb", b"not a scene, whatever it says"), "not a binary glTF"),
    "glTF in pieces": (_write("apart.gltf", _APART), "another file"),
    "not PLY": (_write("notes.ply", b"plain words"), "not a PLY file|cannot be read"),
    "PLY cut short": (_cut_ply, "cut short|cannot be read"),
    "OBJ without faces": (_write("points.obj", b"v 0 0 0\nv 1 0 0\nv 0 1 0\n"), "no surface|cannot be read"),
}
