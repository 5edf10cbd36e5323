"""Have all that is compiled on first use compiled now, so that nobody waits for it: a small model out to PDF, and read."""

from __future__ import annotations

import subprocess
import sys
import tempfile
from pathlib import Path

import trimesh

SKALTO = Path(sys.executable).with_name("skalto")


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        model, sheet = Path(folder) / "prism.stl", Path(folder) / "prism.pdf"
        trimesh.creation.cylinder(10, 20, sections=12).export(model)
        for words in (["export", model, "--3d", "field", "--out", sheet], ["u3d", "--inspect", sheet]):
            subprocess.run([SKALTO, *words], check=True, stdout=subprocess.DEVNULL)


if __name__ == "__main__":
    main()
