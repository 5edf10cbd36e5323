"""What a model file names outside of itself. None of it is opened, by the kernel either; it is told as left out."""

from __future__ import annotations

import json
import re
import struct
from collections.abc import Callable
from pathlib import Path
from typing import Any

_DOCUMENT = re.compile(rb"\bDOCUMENT_FILE(?=\s*\()")
TAKEN = b"SKALTO_NOT_READ"
_DOCUMENT_NAME = re.compile(rb"\bDOCUMENT_FILE\s*\(\s*'([^']*)'")
_MATERIALS = re.compile(rb"^[ \t]*mtllib[ \t]+(\S.*)$", re.MULTILINE)
_SHOWN = 3


def alone(path: Path) -> bytes | None:
    """A STEP file that the kernel would follow into others, without what leads there; None where nothing does.

    Its documents (ISO 10303-41, document_file) get a name that the kernel knows nothing of: it looks for files under theirs.
    """
    data = path.read_bytes()
    if b"DOCUMENT_FILE" not in data:
        return None
    return _DOCUMENT.sub(TAKEN, data)


def materials_named(data: bytes) -> list[bytes]:
    """The lists of materials that an OBJ file names, as they are written."""
    return [name.rstrip() for name in _MATERIALS.findall(data)]


def left_out(path: Path, kind: str, there: Callable[[str], bool] = lambda name: False) -> tuple[str, ...]:
    """What a file refers to and is not opened, each in one sentence; of a mesh but for what is *there* beside it."""
    if kind == "step":
        data = path.read_bytes()
        if b"DOCUMENT_FILE" not in data:
            return ()
        found = _DOCUMENT_NAME.findall(data)
        return _told("The file refers to {}, which is not opened: parts in it are missing.", found)
    if kind == "obj":
        found = [name for name in materials_named(path.read_bytes()) if not there(name.decode("utf-8", "replace"))]
        return _told("Its materials are in {}, which is not opened: parts have no colours.", found)
    if kind in ("gltf", "glb"):
        images = json_of(path.read_bytes()).get("images")
        names = (
            [str(row.get("uri", "data:")).encode() for row in images if isinstance(row, dict)]
            if isinstance(images, list)
            else []
        )
        outside = [name for name in names if not name.startswith(b"data:") and not there(name.decode("utf-8", "replace"))]
        return _told("The picture {} is a file of its own, which is not opened: it is left out.", outside)
    return ()


def json_of(data: bytes) -> dict[str, Any]:
    """What a glTF file says of itself; nothing for one that cannot be read."""
    if data[:4] == b"glTF":
        (length,) = struct.unpack("<I", data[12:16].ljust(4, b"\0"))
        data = data[20 : 20 + length]
    try:
        found = json.loads(data)
    except (ValueError, RecursionError):
        return {}
    return found if isinstance(found, dict) else {}


def _told(sentence: str, names: list[bytes]) -> tuple[str, ...]:
    """The same of names as they are written, by the last part of each."""
    plain = [name.decode("utf-8", "replace").replace("\\", "/").rpartition("/")[2] for name in names]
    return told_lost(sentence, plain)


def told_lost(sentence: str, names: list[str]) -> tuple[str, ...]:
    """One sentence for each of the first, and one for how many more there are."""
    known = list(dict.fromkeys(name[:80] or "another file" for name in names))
    told = [sentence.format(name) for name in known[:_SHOWN]]
    if len(known) > _SHOWN:
        told.append(f"And so with {len(known) - _SHOWN} more files.")
    return tuple(told)
