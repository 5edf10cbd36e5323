"""Pictures on meshes, as glTF and OBJ bring them: one for each mesh, small enough to send on."""

from __future__ import annotations

import hashlib
import io
import json
import struct
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from skalto.core.sources.models.elsewhere import json_of
from skalto.core.sources.models.model import Texture

MOST_PIXELS = 2048
"""The longer side of a picture that goes on; a larger one is made smaller."""
_JPEG_QUALITY = 92


Placing = NDArray[np.float64]
"""How glTF moves places on a picture (2, 3): applied to a place to the right and down."""


def numbered(data: bytes) -> tuple[bytes, dict[str, Placing | None]]:
    """A glTF file whose materials are named by their numbers, and by these how each one's picture is turned, scaled and moved
    (KHR_texture_transform, from memory); None where its places are of another set than the first.

    A file in which all pictures lie as they are stays as it is, and nothing is told of it.
    """
    document = json_of(data)
    told = document.get("materials")
    found: dict[str, Placing | None] = {}
    for number, row in enumerate(told if isinstance(told, list) else []):
        try:
            base = row.get("pbrMetallicRoughness", {}).get("baseColorTexture", {})
            moved = base.get("extensions", {}).get("KHR_texture_transform", {})
            found[str(number)] = _placing(moved) if not moved.get("texCoord", base.get("texCoord", 0)) else None
            row["name"] = str(number)  # own names may be missing, or be those of several
        except (AttributeError, TypeError, ValueError):
            continue
    if all(own is not None and np.array_equal(own, _placing({})) for own in found.values()):
        return data, {}
    text = json.dumps(document).encode()
    if data[:4] != b"glTF":
        return text, found
    rest = data[20 + int.from_bytes(data[12:16], "little") :]
    text += b" " * (-len(text) % 4)
    return data[:8] + struct.pack("<II", 20 + len(text) + len(rest), len(text)) + data[16:20] + text + rest, found


def _placing(told: dict[str, Any]) -> Placing:
    c, s = np.cos(float(told.get("rotation", 0))), np.sin(float(told.get("rotation", 0)))
    scale, offset = np.asarray(told.get("scale", (1, 1)), float), np.asarray(told.get("offset", (0, 0)), float)
    return np.column_stack((np.array(((c, s), (-s, c))) @ np.diag(scale), offset))


class Textures:
    """Takes pictures off meshes, each picture once.

    :param placed: as :func:`numbered` tells them.
    """

    def __init__(self, placed: dict[str, Placing | None]) -> None:
        self._placed = placed
        self._files: dict[bytes, tuple[bytes, str]] = {}

    def of(self, geometry: Any) -> tuple[Texture, str] | None:
        """What lies on a trimesh mesh, and its mean colour ``#rrggbb``; None without a picture or without a place on it."""
        visual = geometry.visual
        if visual.kind != "texture" or visual.uv is None:
            return None
        uv, faces = np.asarray(visual.uv, float), np.asarray(geometry.faces)
        material = visual.material
        base = getattr(material, "baseColorTexture", None)
        picture = base if base is not None else getattr(material, "image", None)
        if not isinstance(picture, Image.Image) or uv.shape != (len(geometry.vertices), 2) or not np.isfinite(uv).all():
            return None
        placing = self._placed.get(str(material.name), _placing({}))
        if placing is None:
            return None
        try:
            file, mean = self._file(picture, getattr(material, "baseColorFactor", None) if base is not None else None)
        except (OSError, ValueError, TypeError, IndexError, SyntaxError, Image.DecompressionBombError):
            return None  # a picture that cannot be read leaves the part its colour
        down = np.column_stack((uv[:, 0], 1 - uv[:, 1], np.ones(len(uv)))) @ placing.T
        return Texture(file, np.column_stack((down[:, 0], 1 - down[:, 1]))[faces]), mean

    def _file(self, picture: Image.Image, factor: Any) -> tuple[bytes, str]:
        """A picture's file, and its mean colour."""
        shown = _coloured(picture, factor)
        key = hashlib.sha256(shown.tobytes() + repr(shown.size).encode()).digest()
        if key not in self._files:
            mean = np.asarray(shown.resize((1, 1), Image.Resampling.BOX))[0, 0]
            self._files[key] = _file_of(shown), "#" + "".join(f"{v:02x}" for v in mean)
        return self._files[key]


def _coloured(picture: Image.Image, factor: Any) -> Image.Image:
    """The picture without what it is seen through, no larger than need be, times the material's colour: that is of light, and
    the picture of the screen (glTF 2.0, 3.9.2)."""
    if picture.mode.startswith("I"):  # grey of 16 bits, which the library would cut off at 255
        picture = Image.fromarray((np.asarray(picture) // 257).astype(np.uint8))
    shown = picture.convert("RGBA").convert("RGB")
    shown.thumbnail((MOST_PIXELS, MOST_PIXELS), Image.Resampling.LANCZOS)
    share = np.asarray([1.0, 1.0, 1.0] if factor is None else factor, float)[:3]
    if factor is not None and np.asarray(factor).dtype == np.uint8:
        share = share / 255
    if np.all(share >= 1.0):
        return shown
    levels = np.arange(256) / 255
    light = np.where(levels <= 0.04045, levels / 12.92, ((levels + 0.055) / 1.055) ** 2.4)[:, None] * np.clip(share, 0, 1)
    screen = np.where(light <= 0.0031308, light * 12.92, 1.055 * light ** (1 / 2.4) - 0.055)
    table: NDArray[np.uint8] = np.round(screen * 255).astype(np.uint8)
    return shown.point(table.T.ravel().tolist())


def _file_of(picture: Image.Image) -> bytes:
    """PNG or JPEG, whichever is smaller: the one for what is drawn, the other for what was photographed."""
    drawn, taken = io.BytesIO(), io.BytesIO()
    picture.save(drawn, "PNG", compress_level=7)
    picture.save(taken, "JPEG", quality=_JPEG_QUALITY, subsampling=0)
    return min(drawn.getvalue(), taken.getvalue(), key=len)
