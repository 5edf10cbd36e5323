"""A prepared view of a scene as a picture: for readers that show no 3D, for print, and for the desk."""

from __future__ import annotations

import io
import math
from collections.abc import Mapping, Sequence
from itertools import pairwise
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from skalto.core.geometry import Array
from skalto.core.quantities import MM_PER_INCH
from skalto.core.scene.features import features_of
from skalto.core.scene.meshing import merged
from skalto.core.scene.scene import Node, Scene, SolidMesh
from skalto.core.scene.views import Camera, Cut, Lighting, PreparedView, RenderMode, fitted
from skalto.core.sources.models.model import laid_on

_T = TypeVar("_T")
MOST_PIXELS = 24_000_000
"""Pixels of a poster, twice oversampled ones not counted."""
CAP = 0.74
"""A cut face shows its part's colour, so much of it: darker than what is lit beside it (the viewer has half of the light)."""
_SEEN_THROUGH = 0.35
PLAIN = (RenderMode.ILLUSTRATION, RenderMode.HIDDEN_WIREFRAME)
"""Modes that draw faces in the colour of the background."""
BARE = (RenderMode.WIREFRAME, RenderMode.BOXES)
"""Modes that draw no faces; a box is drawn as the part's own edges here."""
EDGED = tuple(mode for mode in RenderMode if mode not in (RenderMode.SOLID, RenderMode.TRANSPARENT))
_INK = 38
"""How dark an edge is."""
_HATCHED = 128
"""The covers from this one on stand for hatches until these are drawn."""
_HATCHES = ((1, 1, 2.4), (1, -1, 2.4), (1, 1, 3.7), (1, -1, 3.7), (1, 1, 1.6), (1, -1, 1.6))
"""Which way a hatch runs, and how far apart its lines are, mm: what lies beside another differs from it (ISO 128-50)."""
_BETWEEN = 0.28
"""Between the lines of a hatch, so much of the colour is left."""
_LIGHTS: dict[Lighting, tuple[float, tuple[float, float, float], tuple[float, float, float]]] = {
    # ambient, where the lamp is (right, up, toward the viewer), its colour
    Lighting.WHITE: (0.45, (0.4, 0.7, 1.0), (1.0, 1.0, 1.0)),
    Lighting.DAY: (0.5, (-0.5, 1.0, 0.7), (1.0, 0.98, 0.92)),
    Lighting.NIGHT: (0.18, (-0.5, 1.0, 0.7), (0.75, 0.8, 1.0)),
    Lighting.HARD: (0.2, (-0.9, 0.9, 0.6), (1.0, 1.0, 1.0)),
    Lighting.PRIMARY: (0.35, (0.4, 0.7, 1.0), (1.0, 0.95, 0.8)),
    Lighting.BLUE: (0.4, (0.4, 0.7, 1.0), (0.8, 0.88, 1.0)),
    Lighting.RED: (0.4, (0.4, 0.7, 1.0), (1.0, 0.85, 0.8)),
    Lighting.CUBE: (0.4, (0.6, 0.6, 0.6), (1.0, 1.0, 1.0)),
    Lighting.CAD: (0.42, (-0.4, 0.5, 1.0), (1.0, 1.0, 1.0)),
    Lighting.HEADLAMP: (0.3, (0.0, 0.0, 1.0), (1.0, 1.0, 1.0)),
    Lighting.NONE: (1.0, (0.0, 0.0, 1.0), (1.0, 1.0, 1.0)),
}


def camera_of(view: PreparedView, scene: Scene, aspect: float) -> Camera:
    """The camera of a view: its own, or one that takes in all that it shows."""
    if view.camera is not None:
        return view.camera
    hidden = hidden_nodes(scene, view)
    boxes = scene.boxes()
    shown = [box for name, box in boxes.items() if name not in hidden] or list(boxes.values())
    return fitted(view.look, view.up, corners_of(shown), aspect, view.perspective)


def corners_of(boxes: Sequence[tuple[Array, Array]]) -> Array:
    """The corners of boxes, (8 n, 3)."""
    return np.array([[box[(n >> k) & 1][k] for k in range(3)] for box in boxes for n in range(8)])


def nodes_of(scene: Scene, paths: frozenset[str] | Mapping[str, float]) -> list[Node]:
    """The nodes that stand for components, or lie beneath one of them."""
    names = [node.name for node in scene.nodes if scene.paths.get(node.name, "") in paths and node.name in scene.paths]
    return list(scene.beneath(names))


def hidden_nodes(scene: Scene, view: PreparedView) -> frozenset[str]:
    """The names of the nodes that a view hides."""
    return frozenset(node.name for node in nodes_of(scene, view.hidden))


def by_node(scene: Scene, given: Mapping[str, _T]) -> dict[str, _T]:
    """What is said of components, by the names of their nodes: the nearest component above decides."""
    found: dict[str, _T] = {}
    for node in scene.nodes:
        path = scene.paths.get(node.name)
        if path is not None and path in given:
            found[node.name] = given[path]
        elif node.parent in found:
            found[node.name] = found[node.parent]
    return found


def _turned(mesh: SolidMesh, world: Array) -> Array:
    """A placed mesh's corners with their normals and their places on a picture behind them (n, 3, 8), counter-clockwise as
    they are seen from outside."""
    turning = world[:3, :3]
    points = (mesh.positions @ turning.T + world[:3, 3])[mesh.corners]
    normals = (mesh.normals @ turning.T)[mesh.turns] if len(mesh.normals) else np.zeros_like(points)
    places = mesh.uv[mesh.uvs] if len(mesh.uv) else np.zeros((*points.shape[:2], 2))
    all_of_it = np.concatenate((points, normals, places), axis=2)
    return all_of_it[:, ::-1] if np.linalg.det(turning) < 0 else all_of_it


def _clipped(points: Array, place: Array, normal: Array) -> tuple[Array, NDArray[np.int64]]:
    """Triangles (n, 3, 3 or more), the first three of each corner its place, without what lies beyond a plane; the second
    array tells which each came from."""
    away = (points[..., :3] - place) @ normal
    beyond = away > 0
    count = beyond.sum(axis=1)
    kept = [points[count == 0]]
    origin = [np.flatnonzero(count == 0)]
    for many in (1, 2):
        rows = np.flatnonzero(count == many)
        if not len(rows):
            continue
        # turn each triangle so that the corner that stands alone comes first
        alone = np.argmax(beyond[rows] == (many == 1), axis=1)
        order = (alone[:, None] + np.arange(3)) % 3
        corners = np.take_along_axis(points[rows], order[..., None], axis=1)
        height = np.take_along_axis(away[rows], order, axis=1)
        first = height[:, 0] / (height[:, 0] - height[:, 1])
        last = height[:, 0] / (height[:, 0] - height[:, 2])
        a = corners[:, 0] + (corners[:, 1] - corners[:, 0]) * first[:, None]
        b = corners[:, 0] + (corners[:, 2] - corners[:, 0]) * last[:, None]
        if many == 2:
            kept.append(np.stack((corners[:, 0], a, b), axis=1))
            origin.append(rows)
        else:
            kept.append(np.stack((a, corners[:, 1], corners[:, 2]), axis=1))
            kept.append(np.stack((a, corners[:, 2], b), axis=1))
            origin += [rows, rows]
    return np.concatenate(kept), np.concatenate(origin)


def _projected(camera: Camera, points: Array, columns: int, rows: int) -> Array:
    """Triangles (n, 3, 3) in pixels, the third coordinate growing toward the viewer; those behind a camera are left out by
    being nothing."""
    seen = (points - camera.position) @ camera.axes().T
    shorter = min(columns, rows) / 2
    flat = np.empty_like(seen)
    if camera.perspective:
        near = camera.distance * 1e-3
        behind = (seen[..., 2] < near).any(axis=1)
        depth = np.maximum(seen[..., 2], near)
        by = shorter / math.tan(math.radians(camera.span) / 2)
        flat[..., 0], flat[..., 1] = seen[..., 0] / depth * by, seen[..., 1] / depth * by
        flat[..., 2] = 1 / depth  # which is linear on the picture
        flat[behind] = 0.0
    else:
        by = shorter / (camera.span / 2)
        flat[..., 0], flat[..., 1] = seen[..., 0] * by, seen[..., 1] * by
        flat[..., 2] = -seen[..., 2]
    flat[..., 0] += columns / 2
    flat[..., 1] = rows / 2 - flat[..., 1]
    return flat


class _Layer:
    """Triangles on their way to a picture: pixels and depth of one opacity."""

    def __init__(self, rows: int, columns: int) -> None:
        self.pixels = np.zeros((rows, columns, 4), np.uint8)
        self.depth = np.full((rows, columns), -np.inf)

    def draw(self, flat: Array, colours: Array, cover: int = 255) -> None:
        from skalto.core.projection.raster import fill  # compiled: takes half a second to load

        fill(flat, np.clip(colours * 255, 0, 255).astype(np.uint8), self.depth, self.pixels, cover)

    def line(self, ends: Array) -> None:
        """Dark lines between projected places (n, 2, 3), where nothing lies before them."""
        from skalto.core.projection.raster import stroke

        stroke(ends, self.depth, self.pixels, _INK)

    def hatch(self, dpi: float) -> None:
        """Lines across what was drawn with a cover that stands for a hatch; it covers as all else after that."""
        for number, (x, y, apart) in enumerate(_HATCHES):
            rows, columns = np.nonzero(self.pixels[..., 3] == _HATCHED + number)
            # rows run down, and there are two of them for each of the picture's
            step = 2 * dpi / MM_PER_INCH * apart * math.sqrt(2)
            between = np.mod(x * columns - y * rows, step) >= step / 4
            bright = self.pixels[rows[between], columns[between], :3] * _BETWEEN + 255 * (1 - _BETWEEN)
            self.pixels[rows[between], columns[between], :3] = bright.astype(np.uint8)
            self.pixels[rows, columns, 3] = 255

    def draw_picture(self, flat: Array, light: Array, places: Array, picture: NDArray[np.uint8], perspective: bool) -> None:
        """Triangles that a picture lies on, (n, 3, 2), times the light on their corners (n, 3, 3)."""
        from skalto.core.projection.raster import fill_picture

        # what is even on the triangle is so on the picture only where it is divided by the distance
        shares = flat[..., 2] if perspective else np.ones(flat.shape[:2])
        picture = _as_fine(picture, flat, places)
        fill_picture(flat, light, places, np.ascontiguousarray(shares), picture, self.depth, self.pixels)


def _covers(mesh: SolidMesh, node: Node, given: float | None) -> Array:
    """How much each triangle covers, 0 to 1."""
    table = np.array([given if given is not None else m.opacity for m in node.materials] or [1.0])
    return np.asarray(table[np.minimum(mesh.shading, len(table) - 1)])


def _colours(scene: Scene, node: Node, mesh: int) -> Array:
    shading = scene.meshes[mesh].shading
    table = np.array([[int(m.colour[i : i + 2], 16) / 255 for i in (1, 3, 5)] for m in node.materials] or [[0.7, 0.7, 0.7]])
    return table[np.minimum(shading, len(table) - 1)]


def draw_view(
    scene: Scene, view: PreparedView, camera: Camera, columns: int, rows: int, dpi: float = 96
) -> NDArray[np.uint8]:  # fmt: skip
    """A view's picture, (rows, columns, 4); the background covers all.

    Cut faces are filled or hatched where the view says so: what is seen of a part from within lies behind its cut face.

    :param dpi: how fine it is, for the lines of a hatch.
    """
    big_columns, big_rows = columns * 2, rows * 2
    solid = _Layer(big_rows, big_columns)
    faint: dict[float, _Layer] = {}
    hidden, own, modes = hidden_nodes(scene, view), by_node(scene, view.faded), by_node(scene, view.drawn)
    ambient, lamp, tint = _LIGHTS[view.lighting]
    axes = camera.axes()
    toward = np.asarray(lamp) / np.linalg.norm(lamp) @ np.array([axes[0], axes[1], -axes[2]])
    box = scene.box()
    middle = (box[0] + box[1]) / 2 if box else np.zeros(3)
    pictures = {name: pixels_of(data) for name, data in scene.pictures.items()}
    filled, hatched = (any(cut.filled and (every or cut.hatched) for cut in view.cuts) for every in (True, False))
    worlds, lines = scene.worlds(), []
    for part, node in enumerate(node for node in scene.nodes if node.meshes):
        world, mode = worlds[node.name], modes.get(node.name, view.mode)
        if node.name in hidden:
            continue
        if mode in EDGED and (node.name in modes or mode in BARE):
            lines.append(_edge_lines(scene, node, world, view.cuts, middle))
        if mode in BARE:
            continue
        for number in node.meshes:
            mesh = scene.meshes[number]
            points = _turned(mesh, world)
            picture = _picture(node, pictures) if len(mesh.uv) and mode not in PLAIN else None
            colours = _colours(scene, node, number)
            covers = _covers(mesh, node, own.get(node.name))
            if mode in (RenderMode.TRANSPARENT, RenderMode.TRANSPARENT_EDGES):
                covers = np.minimum(covers, _SEEN_THROUGH)
            parts = [(points[covers == cover], colours[covers == cover], float(cover)) for cover in np.unique(covers)]
            for cut in view.cuts:
                parts = [piece for part in parts for piece in _cut(*part, cut, middle)]
            for triangles, paint, cover in parts:
                if not len(triangles):
                    continue
                layer = solid if cover >= 1 else faint.setdefault(round(cover, 3), _Layer(big_rows, big_columns))
                # on a picture falls light as on what is white
                shown = paint if picture is None else np.ones_like(paint)
                plain = view.background if mode in PLAIN else ""
                flat, lit, within = _lit(triangles, shown, camera, toward, (ambient, tint), plain, (big_columns, big_rows))
                if filled:
                    cap = np.repeat(paint[within][:, None] * CAP, 3, axis=1)
                    layer.draw(flat[within], cap, _HATCHED + part % len(_HATCHES) if hatched and cover >= 1 else 255)
                    flat, lit, triangles = flat[~within], lit[~within], triangles[~within]
                if picture is None:
                    layer.draw(flat, lit)
                else:
                    layer.draw_picture(flat, lit, np.ascontiguousarray(triangles[..., 6:]), picture, camera.perspective)
    solid.hatch(dpi)
    for ends in lines:
        solid.line(_projected(camera, ends, big_columns, big_rows))
    return _laid(solid, faint, view, rows, columns)


def _as_fine(picture: NDArray[np.uint8], flat: Array, places: Array) -> NDArray[np.uint8]:
    """A picture no finer than it is drawn, on the whole: what falls between two pixels would flicker."""
    high, wide = picture.shape[:2]
    drawn = laid_on(flat[..., :2])
    by = int(math.sqrt(laid_on(places) * high * wide / drawn)) if drawn > 0 else 1
    if by < 2:
        return picture
    size = max(1, wide // by), max(1, high // by)
    return np.ascontiguousarray(np.asarray(Image.fromarray(picture).resize(size, Image.Resampling.BOX)))


def pixels_of(picture: bytes) -> NDArray[np.uint8]:
    """A picture's pixels (rows, columns, 3)."""
    with Image.open(io.BytesIO(picture)) as opened:
        return np.ascontiguousarray(np.asarray(opened.convert("RGB")))


def _picture(node: Node, pictures: Mapping[str, NDArray[np.uint8]]) -> NDArray[np.uint8] | None:
    return pictures.get(node.materials[0].picture) if node.materials else None


def _edge_lines(scene: Scene, node: Node, world: Array, cuts: Sequence[Cut], middle: Array) -> Array:
    """The edges of a node's part as placed segments (n, 2, 3), without what cutting planes take away."""
    edges = features_of(merged([scene.meshes[number] for number in node.meshes])).edges
    rows = [pair for edge in edges for pair in pairwise(edge.points)]
    ends = np.array(rows).reshape(-1, 2, 3) @ world[:3, :3].T + world[:3, 3]
    for cut in cuts:
        away = (ends - cut.point(middle)) @ cut.normal()
        ends, away = ends[(away <= 0).any(axis=1)], away[(away <= 0).any(axis=1)]
        share = np.clip(away[:, 0] / np.where(away[:, 0] == away[:, 1], 1, away[:, 0] - away[:, 1]), 0, 1)[:, None]
        between = ends[:, 0] + (ends[:, 1] - ends[:, 0]) * share
        ends = np.where((away > 0)[..., None], between[:, None], ends)
    return ends


def _cut(points: Array, colours: Array, opacity: float, cut: Cut, middle: Array) -> list[tuple[Array, Array, float]]:
    place, normal = cut.point(middle), cut.normal()
    kept, origin = _clipped(points, place, normal)
    parts = [(kept, colours[origin], opacity)]
    if cut.ghost:
        gone, source = _clipped(points, place, -normal)
        parts.append((gone, colours[source], min(opacity, _SEEN_THROUGH / 2)))
    return parts


def _lit(
    corners: Array, colours: Array, camera: Camera, toward: Array, light: tuple[float, tuple[float, float, float]],
    plain: str, size: tuple[int, int],
) -> tuple[Array, Array, NDArray[np.bool_]]:  # fmt: skip
    """Triangles in pixels with the colours that their corners show (n, 3, 3), and which are seen from within; *corners* as
    :func:`_turned` has them. *plain* is the colour that they all show, whatever light falls on them; '' for none."""
    ambient, tint = light
    points, turns = corners[..., :3], corners[..., 3:6]
    normal = np.cross(points[:, 1] - points[:, 0], points[:, 2] - points[:, 0])
    length = np.linalg.norm(normal, axis=1)[:, None]
    normal = np.divide(normal, length, out=np.zeros_like(normal), where=length > 0)
    look = points.mean(axis=1) - camera.position if camera.perspective else np.broadcast_to(camera.axes()[2], normal.shape)
    within = np.einsum("ij,ij->i", normal, look) > 0
    # where no normal is known, or one that goes against its triangle, that is flat
    turns = np.where((np.einsum("ijk,ik->ij", turns, normal) > 0)[..., None], turns, normal[:, None])
    turns = turns / np.maximum(np.linalg.norm(turns, axis=2, keepdims=True), 1e-12)
    facing = np.where(within[:, None, None], -turns, turns)
    share = ambient + (1 - ambient) * np.maximum(facing @ toward, 0)
    colours = np.repeat(colours[:, None], 3, axis=1)
    if plain:
        shown = np.ones_like(colours) * np.array([int(plain[i : i + 2], 16) / 255 for i in (1, 3, 5)])
    else:
        # light adds up before the screen's curve (IEC 61966-2-1, nearly a power of 2.2)
        shown = colours * (share[..., None] * np.asarray(tint)) ** (1 / 2.2)
    return _projected(camera, points, *size), shown, within


def _laid(solid: _Layer, faint: dict[float, _Layer], view: PreparedView, rows: int, columns: int) -> NDArray[np.uint8]:
    """Background, what covers, and over it what is seen through, where it is nearer."""
    for cover, layer in faint.items():
        front = (layer.depth > solid.depth) & (layer.pixels[..., 3] > 0)
        under = solid.pixels[front]
        paper = np.array([int(view.background[i : i + 2], 16) for i in (1, 3, 5)])
        below = np.where(under[:, 3:] > 0, under[:, :3], paper)
        solid.pixels[front, :3] = (layer.pixels[front, :3] * cover + below * (1 - cover)).astype(np.uint8)
        solid.pixels[front, 3] = 255
    if view.mode in EDGED and view.mode not in BARE:
        _draw_edges(solid)
    from skalto.core.projection.raster import halve

    halved = np.empty((rows, columns, 4), np.uint8)
    halve(solid.pixels, halved)
    filled = halved[..., 3:].astype(float) / 255
    paper = np.array([int(view.background[i : i + 2], 16) for i in (1, 3, 5)], float)
    halved[..., :3] = (halved[..., :3] * filled + paper * (1 - filled)).astype(np.uint8)
    halved[..., 3] = 255
    return halved


def _draw_edges(layer: _Layer) -> None:
    """Dark lines where the picture's parts end: where what is drawn or its colour jumps."""
    pixels = layer.pixels.astype(np.int16)
    jump = np.zeros(pixels.shape[:2], bool)
    for axis in (0, 1):
        difference = np.abs(np.diff(pixels, axis=axis)).max(axis=-1) > 24
        if axis == 0:
            jump[:-1] |= difference
        else:
            jump[:, :-1] |= difference
    layer.pixels[jump, :3] = _INK
    layer.pixels[jump, 3] = 255


def to_png(pixels: NDArray[np.uint8]) -> bytes:
    out = io.BytesIO()
    Image.fromarray(pixels, "RGBA").save(out, "PNG", compress_level=4)
    return out.getvalue()


def poster_size(width: float, height: float, dpi: int) -> tuple[int, int]:
    """Columns and rows of a poster, mm, no more than :data:`MOST_PIXELS`."""
    columns, rows = width / 25.4 * dpi, height / 25.4 * dpi
    shrink = min(1.0, math.sqrt(MOST_PIXELS / (columns * rows)))
    return max(8, round(columns * shrink)), max(8, round(rows * shrink))
