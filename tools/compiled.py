"""Have all that is compiled on first use compiled now, so that nobody waits for it: small models out to PDF, and read."""

from __future__ import annotations

import subprocess
import sys
import tempfile
from pathlib import Path

import trimesh
from OCP.BRepTools import BRepTools

from skalto.core.sources.models.kernel import as_splines, compound
from skalto.demo.solids import block, cylinder, fuse, moved

SKALTO = Path(sys.executable).with_name("skalto")


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        model, sheet = Path(folder) / "prism.stl", Path(folder) / "prism.pdf"
        bar = trimesh.creation.box((4, 4, 40))
        trimesh.util.concatenate([trimesh.creation.cylinder(10, 20, sections=12), bar]).export(model)
        splines, parts = Path(folder) / "splines.brep", Path(folder) / "parts.brep"
        pin = moved(cylinder(6, 30, (0, 0, -10)), turn=("y", 20))
        BRepTools.Write_s(as_splines(fuse(block(30, 20, 10), pin)), str(splines))
        # bodies that pass through one another
        BRepTools.Write_s(compound([block(30, 20, 10), pin]), str(parts))
        drawn = Path(folder) / "drawn.pdf"
        calls: list[list[str | Path]] = [["export", model, "--3d", "field", "--out", sheet], ["u3d", "--inspect", sheet]]
        calls += [
            ["export", own, "--view", "front,iso", "--force", "--overwrite", "--out", drawn] for own in (splines, parts, model)
        ]
        for words in calls:
            subprocess.run([SKALTO, *words], check=True, stdout=subprocess.DEVNULL)


if __name__ == "__main__":
    main()
