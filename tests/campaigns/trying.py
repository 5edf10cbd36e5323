"""Trying one file: read and exported in a process with limits, as the workers do it; what came of it."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from skalto.core.errors import InputError
from skalto.jobs.child import Child, WorkFailed
from skalto.jobs.limits import KINDS, Limit

SECONDS, MEGABYTES = 20.0, 1500.0
"""What a small damaged file may take at most."""

MODELS = (".step", ".stp", ".igs", ".iges", ".brep", ".stl", ".obj", ".ply", ".gltf", ".glb")
DRAWINGS = (".dxf", ".svg", ".pdf")


def read_and_write(path: str, out: str, report: Callable[[float, str], None]) -> str:
    """Read a file of any kind that Skalto takes, and write what comes of it. :raises InputError: when it cannot be used."""
    file = Path(path)
    suffix = file.suffix.lower()
    if suffix in MODELS or suffix in DRAWINGS:
        return _exported(file, out, suffix in DRAWINGS, report)
    if suffix == ".u3d":
        from skalto.services.commands.reading import inspect_scene

        return str(len(inspect_scene(path, report)))
    if suffix == ".zip":
        from skalto.services.stored.jobfile import unpack_job

        return unpack_job(file, 10_000_000, lambda source, kept: None).document.name
    if suffix == ".recipe":
        from skalto.core.recipes import recipe_from_json, recipe_to_json

        return str(len(recipe_to_json(recipe_from_json(file.read_bytes()))))
    if suffix == ".pens":
        from skalto.core.pens import pens_from_json, pens_to_json

        return str(len(pens_to_json(pens_from_json(file.read_bytes()))))
    raise AssertionError(suffix)


def _exported(file: Path, out: str, drawing: bool, report: Callable[[float, str], None]) -> str:
    from skalto.services.commands.exporting import export_file

    nothing: dict[str, Any] = dict.fromkeys(("recipe", "pens", "color", "crossing", "text"), "")
    options: dict[str, Any] = {
        "views": ["front"], "scale": "largest", "paper": "A3", "orientation": "auto", "show": [], "hide": [],
        "lines": "visible", "frame": "none", "arrangement": "", "title": [], "dims": "none", "parts_list": False,
        "margin": "", "force": True, "region": "", "units": "mm" if drawing else "", "page": None, "layers_on": [],
        "layers_off": [], "shift": "",
        "output": nothing | {"no_layers": False, "dpi": None, "picture_dpi": None, "archive": False},
        "solid": {"where": "", "quality": "", "classes": ""},
    }  # fmt: skip
    done = export_file(str(file), out, options, True, report)
    return "holds" if done["holds"] else "does not hold"


@dataclass(frozen=True)
class Outcome:
    """What came of a file: *kind* is written, refused, over time, over memory, broken (our own code stumbled) or crashed (the
    process died)."""

    kind: str
    said: str
    seconds: float
    megabytes: float


class Tried(Child):
    """A worker's process that remembers the most memory that it was seen to hold."""

    def __init__(self, seconds: float = SECONDS, megabytes: float = MEGABYTES) -> None:
        super().__init__("skalto.services.running.loaded", {kind: Limit(seconds, megabytes) for kind in KINDS})
        self.most = 0

    def _taken(self) -> int:
        taken = super()._taken()
        self.most = max(self.most, taken)
        return taken

    def file(self, path: Path, out: Path) -> Outcome:
        """Try a file; never raises."""
        self.most = 0
        begun = time.monotonic()
        try:
            said = self.run(
                "tests.campaigns.trying:read_and_write", {"path": str(path), "out": str(out)}, lambda s, t: None, lambda: False
            )
            kind = "written"
        except InputError as error:
            said = str(error)
            over = "over time" if "seconds and was stopped" in said else "over memory" if "of memory and was" in said else ""
            kind = over or "refused"
        except WorkFailed as error:
            said = str(error)
            kind = "broken" if "Traceback" in said else "crashed"
        return Outcome(kind, said, time.monotonic() - begun, self.most / 1e6)
