"""Gradient fills of a DXF file as pictures: no stroke or plain area says what they show (DXF reference, HATCH, codes 450 to
470)."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw

from skalto.core.geometry import Array, bezier_at
from skalto.core.sources.drawings.collecting import Contour

_SIDE = 512
"""Pixels along the longer side: a gradient has no detail of its own but its border."""
_FINER = 4
"""How many times finer the border is drawn before it is brought down."""


def _rgb(colour: str | None) -> Array:
    text = colour or "#000000"
    return np.array([int(text[n : n + 2], 16) for n in (1, 3, 5)], float)


def _shares(name: str, u: Array, v: Array, centred: float) -> Array:
    """How much of the second colour a place has; *u* and *v* run from -1 to 1 along and across the gradient."""
    inverted = name.startswith("INV")
    name = name.removeprefix("INV")
    if name == "LINEAR":
        # off centre it begins at one side, in the middle it comes half way
        share = (u + 1) / 2 if not centred else np.clip((u + 1) / 2, 0, 1)
    elif name == "CYLINDER":
        share = 1 - np.abs(u)
    elif name in ("SPHERICAL", "HEMISPHERICAL"):
        offset = 0.0 if name == "SPHERICAL" else 0.5
        share = 1 - np.hypot(u, v + offset) / math.sqrt(2)
    elif name == "CURVED":
        share = np.clip((v + 1) / 2 + 0.25 * (1 - u**2), 0, 1)
    else:
        share = (u + 1) / 2
    share = np.clip(share, 0, 1)
    return 1 - share if inverted else share


def gradient_picture(
    contours: Sequence[Contour], filling: Any, colour: str
) -> tuple[NDArray[np.uint8], Array, Array, Array] | None:
    """Pixels, corner, and the vectors across and upward of a gradient within contours (even-odd); None where they are empty.

    :param filling: what ezdxf resolved of the fill. :param colour: the entity's own, whose last two figures are its opacity.
    """
    steps = np.linspace(0, 1, 17)[:-1]
    chains = [bezier_at(np.array(c.curves).reshape(-1, 4, 2), steps).reshape(-1, 2) for c in contours if c.curves]
    if not chains:
        return None
    points = np.concatenate(chains)
    low, high = points.min(axis=0), points.max(axis=0)
    size = high - low
    if size.min() <= 0:
        return None
    columns, rows = (max(2, round(float(side / size.max()) * _SIDE)) for side in size)
    mask = np.zeros((rows * _FINER, columns * _FINER), bool)
    for chain in chains:
        own = Image.new("1", (columns * _FINER, rows * _FINER))
        at = (chain - low) / size * (columns * _FINER, rows * _FINER)
        at[:, 1] = rows * _FINER - at[:, 1]
        ImageDraw.Draw(own).polygon([tuple(p) for p in at.tolist()], fill=1)
        mask ^= np.asarray(own, bool)
    cover = mask.reshape(rows, _FINER, columns, _FINER).mean(axis=(1, 3))
    x, y = np.meshgrid((np.arange(columns) + 0.5) / columns * 2 - 1, 1 - (np.arange(rows) + 0.5) / rows * 2)
    angle = math.radians(filling.angle)
    reach = abs(math.cos(angle)) + abs(math.sin(angle))
    u, v = (x * math.cos(angle) + y * math.sin(angle)) / reach, (y * math.cos(angle) - x * math.sin(angle)) / reach
    share = _shares(str(filling.name), u, v, float(filling.gradient_centered or 0.0))[..., None]
    pixels = np.empty((rows, columns, 4), np.uint8)
    pixels[..., :3] = np.round(_rgb(filling.gradient_color1) * (1 - share) + _rgb(filling.gradient_color2) * share)
    opacity = int(colour[7:9], 16) if len(colour) == 9 else 255
    pixels[..., 3] = np.round(cover * opacity)
    return pixels, low, np.array((size[0], 0.0)), np.array((0.0, size[1]))
