"""Pictures on meshes, as glTF and OBJ bring them: one for each mesh, small enough to send on."""

from __future__ import annotations

import io
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from skalto.core.sources.models.model import Texture

MOST_PIXELS = 2048
"""The longer side of a picture that goes on; a larger one is made smaller."""
_JPEG_QUALITY = 92


def texture_of(geometry: Any) -> tuple[Texture, str] | None:
    """What lies on a trimesh mesh, and its mean colour ``#rrggbb``; None without a picture or without a place on it."""
    visual = geometry.visual
    if visual.kind != "texture" or visual.uv is None:
        return None
    uv, faces = np.asarray(visual.uv, float), np.asarray(geometry.faces)
    material = visual.material
    base = getattr(material, "baseColorTexture", None)
    picture = base if base is not None else getattr(material, "image", None)
    if picture is None or uv.shape != (len(geometry.vertices), 2) or not np.isfinite(uv).all():
        return None
    try:
        shown = _coloured(picture, getattr(material, "baseColorFactor", None) if base is not None else None)
    except (OSError, ValueError, Image.DecompressionBombError):
        return None  # a picture that cannot be read leaves the part its colour
    mean = np.asarray(shown.resize((1, 1), Image.Resampling.BOX))[0, 0]
    return Texture(_file_of(shown), uv[faces]), "#" + "".join(f"{v:02x}" for v in mean)


def _coloured(picture: Image.Image, factor: Any) -> Image.Image:
    """The picture without what it is seen through, no larger than need be, times the material's colour: that is of light, and
    the picture of the screen (glTF 2.0, 3.9.2)."""
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
    picture.save(drawn, "PNG", optimize=True)
    picture.save(taken, "JPEG", quality=_JPEG_QUALITY, subsampling=0)
    return min(drawn.getvalue(), taken.getvalue(), key=len)
