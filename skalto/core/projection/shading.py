"""A shaded picture of what a view shows, to lie beneath its lines: parallel light, parallel projection, no lines of its own."""

from __future__ import annotations

import io

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from pydantic import BaseModel, ConfigDict

from skalto.core.geometry import Array
from skalto.core.projection.view import ShadeSpec, shown_in
from skalto.core.sources.models.model import Component, Mesh, Model, nearest
from skalto.core.sources.models.patches import face_patches

LIGHT = np.array((-0.35, 0.55, 0.76)) / np.linalg.norm((-0.35, 0.55, 0.76))
"""Toward the light in the view's axes: over the left shoulder, as shading by hand has it (common practice, no source)."""
AMBIENT = 0.62
CHORD_PIXELS = 0.35
TURN = 0.12
"""Largest turn between neighbouring triangles, radians: less than the eye tells apart."""
MOST_PIXELS = 40_000_000


class ShadedPicture(BaseModel):
    """Where the picture lies in the view's plane: (x0, y0, x1, y1), model mm."""

    model_config = ConfigDict(frozen=True)

    box: tuple[float, float, float, float]


def _triangles(model: Model, component: Component, shape: object, chord: float, own: str | None) -> tuple[Array, Array]:
    """Triangles (n, 3, 3) of a placed shape and their colours (n, 3), 0 to 1."""
    if isinstance(shape, Mesh):
        points = shape.vertices[shape.faces]
        if shape.colours is not None and own is None and len(shape.colours) == len(points):
            return points, shape.colours / 255.0
        return points, np.tile(_rgb(own or component.colour), (len(points), 1))
    facts = model.tree.shapes[component.shape or 0]
    patches = face_patches(shape, chord, TURN)
    cut = len(patches) != facts.faces
    triangles, colours = [], []
    for number, (points, corners) in enumerate(patches):
        if len(corners):
            triangles.append(points[corners])
            colour = own or (None if cut else facts.face_colours.get(number)) or component.colour
            colours.append(np.tile(_rgb(colour), (len(corners), 1)))
    if not triangles:
        return np.empty((0, 3, 3)), np.empty((0, 3))
    return np.concatenate(triangles), np.concatenate(colours)


def _rgb(colour: str) -> Array:
    return np.array([int(colour[i : i + 2], 16) for i in (1, 3, 5)]) / 255.0


def shade(model: Model, spec: ShadeSpec) -> tuple[bytes, ShadedPicture]:
    """The picture as PNG, twice oversampled, and where it lies. :raises InputError: when nothing is shown."""
    shown = shown_in(model, spec.view)
    axes = spec.view.axes()
    chord = CHORD_PIXELS / spec.dots
    parts = [
        _triangles(model, component, shape, chord, nearest(component.path, spec.colours))
        for component, shape in zip(shown.components, shown.shapes, strict=True)
    ]
    points = np.concatenate([p for p, _ in parts]) @ axes.T
    colours = np.concatenate([c for _, c in parts])
    low, high = points[..., :2].reshape(-1, 2).min(axis=0), points[..., :2].reshape(-1, 2).max(axis=0)
    dots = spec.dots * 2
    size = high - low
    dots = min(dots, float(np.sqrt(MOST_PIXELS / max(size[0] * size[1], 1e-9))))
    columns, rows = (max(2, 2 * int(np.ceil(v * dots / 2))) for v in size)
    normal = np.cross(points[:, 1] - points[:, 0], points[:, 2] - points[:, 0])
    length = np.linalg.norm(normal, axis=1)[:, None]
    normal = np.divide(normal, length, out=np.zeros_like(normal), where=length > 0)
    normal[normal[:, 2] < 0] *= -1
    light = AMBIENT + (1 - AMBIENT) * np.maximum(normal @ LIGHT, 0)
    shown_colours = np.clip(colours * light[:, None] * 255, 0, 255).astype(np.uint8)
    flat = np.empty_like(points)
    flat[..., 0] = (points[..., 0] - low[0]) * dots
    flat[..., 1] = rows - (points[..., 1] - low[1]) * dots
    flat[..., 2] = points[..., 2]
    from skalto.core.projection.raster import fill, halve  # compiled: takes half a second to load

    pixels = np.zeros((rows, columns, 4), np.uint8)
    fill(flat, np.repeat(shown_colours[:, None], 3, axis=1), np.full((rows, columns), -np.inf), pixels)
    halved = np.empty((rows // 2, columns // 2, 4), np.uint8)
    halve(pixels, halved)
    out = io.BytesIO()
    Image.fromarray(halved, "RGBA").save(out, "PNG", compress_level=4)
    box = (float(low[0]), float(low[1]), float(low[0]) + columns / dots, float(low[1]) + rows / dots)
    return out.getvalue(), ShadedPicture(box=box)


def unpack_picture(data: bytes) -> NDArray[np.uint8]:
    """The pixels of a PNG, (rows, columns, 4)."""
    with Image.open(io.BytesIO(data)) as image:
        return np.asarray(image.convert("RGBA"))
