"""The reference U3D runtime, as the PyPI package vtk-u3dexporter carries it: loads a file, and tells what it found.

The runtime may crash and does so in its destructors, so it runs in a process of its own. It reads for a tenth of a second by
the clock and leaves the rest for later, which never comes here: its clock (Debian: faketime) all but stands.
"""

from __future__ import annotations

import ctypes
import glob
import os
import re
import subprocess
import sys
import tempfile
from dataclasses import dataclass, field
from importlib.util import find_spec
from pathlib import Path
from typing import Any


@dataclass
class Found:
    """A node as the runtime has it: its kind, its world matrix column by column, faces, bounding sphere in its own axes."""

    name: str
    kind: str
    matrix: list[float] = field(default_factory=list)
    sphere: list[float] = field(default_factory=list)
    faces: int = 0


def _load(path: str, report: str, again: str) -> None:
    origin = find_spec("vtkmodules.vtkU3DExporter")
    assert origin is not None
    folder = os.path.dirname(str(origin.origin))
    os.environ["U3D_LIBDIR"] = folder
    os.chdir(folder)
    ctypes.CDLL(os.path.join(folder, "libIFXCore.so"), mode=ctypes.RTLD_GLOBAL)
    library = ctypes.CDLL(os.path.join(folder, "libIDTF.so"), mode=ctypes.RTLD_GLOBAL)
    pointer = ctypes.c_void_p

    def call(name: str, *arguments: Any, types: tuple[Any, ...] = (), result: Any = ctypes.c_uint32) -> Any:
        function = getattr(library, name)
        function.restype, function.argtypes = result, list(types)
        return function(*arguments)

    scene = ctypes.create_string_buffer(65536)
    tools = "_ZN8U3D_IDTF14SceneUtilities"
    codes = [call("IFXCOMInitialize")]
    call(f"{tools}C1Ev", scene, types=(pointer,), result=None)
    codes.append(call(f"{tools}15InitializeSceneEjd", scene, 0, 1.0, types=(pointer, ctypes.c_uint32, ctypes.c_double)))
    codes.append(call(f"{tools}11LoadU3DFileEPKw", scene, path, types=(pointer, ctypes.c_wchar_p)))
    codes.append(call(f"{tools}14WriteDebugInfoEPKc", scene, report.encode(), types=(pointer, ctypes.c_char_p)))
    if again:
        types = (pointer, ctypes.c_wchar_p, ctypes.c_uint32)
        codes.append(call(f"{tools}16WriteSceneToFileEPKwj", scene, again, 0xFFFFFFFF, types=types))
    os._exit(0 if not any(codes) else 1)


_NUMBER = r"[-+0-9.einf]+"


def parse(text: str) -> tuple[dict[str, Found], list[str]]:
    """Nodes by name, and the names of materials."""
    nodes: dict[str, Found] = {}
    node: Found | None = None
    for line in text.split("Light Palette")[0].splitlines():
        if match := re.search(r"Entry (\d+):.*Name: (.*?),\s*NodeType:\s+(\w+)", line):
            node = Found(match[2], match[3])
            nodes[node.name] = node
        elif node is None:
            continue
        elif line.strip().startswith("(") and (values := re.findall(rf"\d+:\s+({_NUMBER})", line)):
            node.matrix += [float(v) for v in values]
        elif match := re.search(rf"Bounding Sphere at ({_NUMBER}), ({_NUMBER}), ({_NUMBER}), radius ({_NUMBER})", line):
            node.sphere = [float(v) for v in match.groups()]
        elif match := re.search(r"Faces - Allocated:\s+\d+, Max: (\d+)", line):
            node.faces += int(match[1])
    tail = text.split("Material Palette")[-1] if "Material Palette" in text else ""
    nodes.pop("", None)
    return nodes, re.findall(r"Entry \d+:.*Name: (.*?)\s*$", tail, re.MULTILINE)


def loaded(data: bytes) -> tuple[dict[str, Found], list[str]]:
    """What the runtime makes of a file. :raises AssertionError: when it refuses it."""
    with tempfile.TemporaryDirectory() as folder:
        report = _run(Path(folder), data)
        assert report.exists(), "the runtime wrote no report"
        return parse(report.read_text(errors="replace"))


def rewritten(data: bytes) -> bytes:
    """A file that the runtime read and wrote anew, in its own way. :raises AssertionError: when it refuses it."""
    with tempfile.TemporaryDirectory() as folder:
        again = Path(folder) / "again.u3d"
        _run(Path(folder), data, str(again))
        return again.read_bytes()


def _run(folder: Path, data: bytes, again: str = "") -> Path:
    path, report = folder / "model.u3d", folder / "scene"
    path.write_bytes(data)
    (slow,) = glob.glob("/usr/lib/*/faketime/libfaketime.so.1")
    clock = {"LD_PRELOAD": slow, "FAKETIME": "+0 x0.001", "FAKETIME_DONT_FAKE_MONOTONIC": "1"}
    command = [sys.executable, __file__, str(path), str(report), again]
    run = subprocess.run(command, capture_output=True, check=False, env=os.environ | clock)
    assert run.returncode == 0, run.stderr.decode()[-400:]
    return Path(f"{report}.DebugInfo.txt")


if __name__ == "__main__":
    _load(sys.argv[1], sys.argv[2], sys.argv[3])
