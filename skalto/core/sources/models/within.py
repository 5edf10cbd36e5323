"""What a mesh file of an archive names, found in the archive alone."""

from __future__ import annotations

import json
from pathlib import Path


class Within:
    """Finds files that a mesh names, in the folder that its archive was unpacked into, and nowhere else."""

    def __init__(self, folder: Path, main: Path) -> None:
        self._root, self._at = folder.resolve(), main.parent

    def has(self, name: str) -> bool:
        """Whether a file is in the folder."""
        try:
            self.get(name)
        except FileNotFoundError:
            return False
        return True

    def get(self, name: str) -> bytes:
        """:raises FileNotFoundError: for a file that is not in the folder."""
        target = (self._at / name.replace("\\", "/")).resolve()
        if not target.is_relative_to(self._root) or not target.is_file():
            raise FileNotFoundError(name)
        return target.read_bytes()


def lacking(path: Path, folder: Path) -> str:
    """The first buffer or list of materials that a mesh file names and the folder does not have; '' for none."""
    within = Within(folder, path)
    names: list[str] = []
    if path.suffix.lower() == ".gltf":
        try:
            document = json.loads(path.read_bytes())
        except (ValueError, RecursionError):
            return ""
        buffers = document.get("buffers", []) if isinstance(document, dict) else []
        names = [str(own.get("uri", "data:")) for own in buffers if isinstance(own, dict)]
    for name in names:
        if not name.startswith("data:") and not within.has(name):
            return name
    return ""
