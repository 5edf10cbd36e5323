"""What a mesh file of an archive names, found in the archive alone."""

from __future__ import annotations

import json
import re
from pathlib import Path

from skalto.core.sources.models.elsewhere import materials_named

_PICTURES = re.compile(rb"^[ \t]*map_Kd[ \t]+(\S.*)$", re.MULTILINE | re.IGNORECASE)


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
        """A file by its way from the model, or by its name alone where the way is that of another machine and one file in the
        folder is called so.

        :raises FileNotFoundError: for a file that is not in the folder.
        """
        way = name.replace("\\", "/")
        target = (self._at / way).resolve()
        if target.is_relative_to(self._root) and target.is_file():
            return target.read_bytes()
        wanted = way.rpartition("/")[2].lower()
        same = [path for path in self._root.rglob("*") if path.name.lower() == wanted and path.is_file()]
        if len(same) != 1 or not same[0].resolve().is_relative_to(self._root):
            raise FileNotFoundError(name)
        return same[0].read_bytes()


def pictures_lacking(path: Path, folder: Path) -> list[str]:
    """The pictures that an OBJ file's materials name and the folder does not have, as they are written."""
    within = Within(folder, path)
    found: list[str] = []
    for row in materials_named(path.read_bytes()):
        try:
            materials = within.get(row.decode("utf-8", "replace"))
        except FileNotFoundError:
            continue
        names = [name.rstrip().decode("utf-8", "replace") for name in _PICTURES.findall(materials)]
        found += [name for name in names if not within.has(name)]
    return found


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
