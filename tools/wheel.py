"""Build one wheel with the page, the viewer and the fonts in it: ``python tools/wheel.py [FOLDER]``.

The page has to be built before (``make setup``); whoever installs the wheel needs no Node.
"""

from __future__ import annotations

import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
PAGE = ROOT / "web" / "dist"


def build(folder: Path) -> Path:
    """The wheel, in a folder. :raises SystemExit: when the page is not built."""
    for needed in (PAGE / "index.html", PAGE / "viewer"):
        if not needed.exists():
            raise SystemExit(f"{needed} is missing: run make setup first.")
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as name:
        stage, made = Path(name) / "stage", Path(name) / "made"
        shutil.copytree(ROOT / "skalto", stage / "skalto", ignore=shutil.ignore_patterns("__pycache__"))
        shutil.copytree(PAGE, stage / "skalto" / "page")
        for file in ("pyproject.toml", "README.md", "LICENSE"):
            shutil.copy(ROOT / file, stage / file)
        command = [
            sys.executable,
            "-m",
            "pip",
            "wheel",
            "--quiet",
            "--no-deps",
            "--no-build-isolation",
            "--wheel-dir",
            str(made),
        ]
        subprocess.run([*command, str(stage)], check=True)
        (wheel,) = made.glob("*.whl")
        return Path(shutil.move(wheel, folder / wheel.name))


if __name__ == "__main__":
    print(build(Path(sys.argv[1] if len(sys.argv) > 1 else "dist")))
