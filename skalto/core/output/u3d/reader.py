"""U3D files read back to a scene: those that :mod:`writer` makes, and refusal, in bounded time and memory, of what is none.

Every count is held against the bytes that are there before anything is made of it.
"""

from __future__ import annotations

import io
import math
import struct
import zlib
from dataclasses import dataclass, field, replace

import numpy as np
from PIL import Image

from skalto.core.errors import InputError
from skalto.core.geometry import Array
from skalto.core.output.u3d import blocks
from skalto.core.scene.scene import PIECE, Material, Node, Scene, SolidMesh

MOST_NODES = 100_000
"""Nodes that a scene may have: more would be no part tree that anybody reads."""
MOST_DEPTH = 200
MOST_SHADINGS = 256
"""Colours that a mesh may have: each face looks its own up among them, one by one."""
MOST_LAYERS = 8
"""Pictures that lie on a triangle, one over the other (9.6.1.1.3.1)."""
MOST_TRIANGLES = 20_000_000
MOST_PIXELS = 64_000_000


class Cursor:
    """Reads numbers and strings from bytes. :raises InputError: where they end too early."""

    def __init__(self, data: bytes | memoryview, what: str) -> None:
        self.data = memoryview(data)
        self.at = 0
        self.what = what

    def take(self, count: int) -> memoryview:
        if count < 0 or self.at + count > len(self.data):
            raise InputError(f"The U3D file is damaged: {self.what} ends too early. Export it again.")
        found = self.data[self.at : self.at + count]
        self.at += count
        return found

    def u32(self) -> int:
        return int(struct.unpack("<I", self.take(4))[0])

    def floats(self, count: int) -> list[float]:
        values = struct.unpack(f"<{count}f", self.take(4 * count))
        if not all(math.isfinite(v) for v in values):
            raise InputError(f"The U3D file is damaged: {self.what} holds what is not a number. Export it again.")
        return list(values)

    def text(self) -> str:
        (count,) = struct.unpack("<H", self.take(2))
        try:
            return bytes(self.take(count)).decode()
        except UnicodeDecodeError:
            raise InputError(f"The U3D file is damaged: a name in {self.what} is not UTF-8. Export it again.") from None

    def many(self, least: int, what: str, most: int) -> int:
        """A count of things of at least *least* bytes each. :raises InputError: when so many cannot be there."""
        count = self.u32()
        if count > most or count * least > len(self.data) - self.at:
            raise InputError(f"The U3D file is damaged: it names {count} {what}, more than it can hold. Export it again.")
        return count

    def to_four(self) -> None:
        self.at += -self.at % 4


def _blocks(data: memoryview, what: str) -> list[tuple[int, memoryview]]:
    """Blocks one after another: type and data of each."""
    cursor, found = Cursor(data, what), []
    while cursor.at < len(data):
        kind, size, meta = cursor.u32(), cursor.u32(), cursor.u32()
        found.append((kind, cursor.take(size)))
        cursor.to_four()
        cursor.take(meta)
        cursor.to_four()
        if len(found) > 8 * MOST_NODES:
            raise InputError("The U3D file has more blocks than any model needs: it is damaged. Export it again.")
    return found


@dataclass(frozen=True)
class _Declared:
    """A mesh as it is declared: counts of faces, positions, normals and places on a picture; and how many pictures each of its
    shadings has."""

    counts: tuple[int, int, int, int]
    layers: tuple[int, ...]


@dataclass
class _Found:
    """What the blocks say, by name."""

    nodes: dict[str, tuple[str, Array, str | None]] = field(default_factory=dict)
    shaders_of: dict[str, list[str]] = field(default_factory=dict)
    declared: dict[str, _Declared] = field(default_factory=dict)
    shaders: dict[str, tuple[str, str]] = field(default_factory=dict)
    materials: dict[str, tuple[Material, Material]] = field(default_factory=dict)
    pictures: dict[str, bytes] = field(default_factory=dict)
    meshes: dict[str, SolidMesh] = field(default_factory=dict)


def _node(found: _Found, kind: int, data: memoryview) -> None:
    cursor = Cursor(data, "a node")
    name = cursor.text()
    if cursor.many(66, "parents", 1) != 1:
        raise InputError(f"The U3D file is damaged: {name} has no place in the tree. Export it again.")
    parent = cursor.text()
    matrix = np.array(cursor.floats(16)).reshape(4, 4).T
    resource = cursor.text() if kind == blocks.MODEL_NODE else None
    if name in found.nodes or not name:
        raise InputError(f"The U3D file is damaged: two nodes are called “{name}”. Export it again.")
    if len(found.nodes) >= MOST_NODES:
        raise InputError(f"The U3D file has more than {MOST_NODES} nodes: send fewer components.")
    found.nodes[name] = parent, matrix, resource


def _shading(found: _Found, data: memoryview) -> None:
    cursor = Cursor(data, "a shading")
    name = cursor.text()
    cursor.take(8)
    shaders = []
    for _ in range(cursor.many(4, "colours", MOST_SHADINGS)):
        own = [cursor.text() for _ in range(cursor.many(2, "shaders", MOST_SHADINGS))]
        shaders.append(own[0] if own else "")
    found.shaders_of[name] = shaders


def _declaration(found: _Found, data: memoryview) -> None:
    cursor = Cursor(data, "a mesh declaration")
    name = cursor.text()
    cursor.take(8)
    faces, positions, normals = cursor.u32(), cursor.u32(), cursor.u32()
    cursor.take(8)
    uv = cursor.u32()
    layers = []
    for _ in range(cursor.many(12, "shadings", MOST_SHADINGS)):
        cursor.u32()
        layers.append(cursor.many(4, "pictures", MOST_LAYERS))
        cursor.take(4 * layers[-1] + 4)
    found.declared[name] = _Declared((faces, positions, normals, uv), tuple(layers))


def _chain(found: _Found, data: memoryview) -> None:
    cursor = Cursor(data, "a modifier chain")
    cursor.text()
    cursor.u32()
    attributes = cursor.u32()
    cursor.take((16 if attributes & 1 else 0) + (24 if attributes & 2 else 0))
    cursor.to_four()
    count = cursor.many(12, "modifiers", 64)
    for kind, own in _blocks(data[cursor.at :], "a modifier chain")[:count]:
        if kind in (blocks.GROUP_NODE, blocks.MODEL_NODE):
            _node(found, kind, own)
        elif kind == blocks.SHADING_MODIFIER:
            _shading(found, own)
        elif kind == blocks.MESH_DECLARATION:
            _declaration(found, own)
        elif kind == blocks.TEXTURE_CONTINUATION:
            _picture(found, own)


def _material(found: _Found, data: memoryview) -> None:
    cursor = Cursor(data, "a material")
    name = cursor.text()
    cursor.u32()
    values = cursor.floats(14)
    opacity = round(min(max(values[13], 0.0), 1.0), 6)
    # beneath a picture the colour is white, and what is seen without light tells the mean
    plain, mean = _colour_of(values[3:6]), _colour_of([v / blocks.AMBIENT for v in values[:3]])
    found.materials[name] = Material(plain, opacity), Material(mean, opacity)


def _colour_of(values: list[float]) -> str:
    return "#" + "".join(f"{round(min(max(v, 0.0), 1.0) * 255):02x}" for v in values)


def _shader(found: _Found, data: memoryview) -> None:
    cursor = Cursor(data, "a shader")
    name = cursor.text()
    cursor.take(20)
    layers = cursor.u32()
    cursor.take(4)
    material = cursor.text()
    found.shaders[name] = material, cursor.text() if layers & 1 else ""


def _picture(found: _Found, data: memoryview) -> None:
    cursor = Cursor(data, "a picture")
    name = cursor.text()
    if cursor.u32() != 0:
        return
    picture = bytes(data[cursor.at :])
    try:
        with Image.open(io.BytesIO(picture), formats=("PNG", "JPEG")) as opened:
            if opened.width * opened.height > MOST_PIXELS:
                raise InputError(
                    f"The U3D file has a picture of more than {MOST_PIXELS // 10**6} million pixels: send a smaller one."
                )
            opened.load()
    except (OSError, ValueError, SyntaxError, EOFError, struct.error, zlib.error, Image.DecompressionBombError):
        raise InputError(f"The U3D file is damaged: {name} cannot be read. Export it again.") from None
    found.pictures[name] = picture


def _enough(size: int, faces: int, counts: tuple[int, ...]) -> bool:
    """Whether so many faces can be in so many bytes: each index takes 32 bits, or about log2 n; up to a bit less where the
    coder's whole numbers share its range out unevenly, which they do for many values."""

    def bits(n: int) -> float:
        return 32.0 if n >= blocks.STATIC_LIMIT else 0.9 * math.log2(max(n, 1))

    return faces * 3 * sum(bits(n) for n in counts) <= 8 * size + 64


def _mesh(found: _Found, data: memoryview, total: int) -> int:
    cursor = Cursor(data, "a mesh")
    name = cursor.text()
    cursor.u32()
    faces, positions, normals = cursor.u32(), cursor.u32(), cursor.u32()
    cursor.take(8)
    uv = cursor.u32()
    declared = found.declared.get(name)
    if declared is None or declared.counts != (faces, positions, normals, uv):
        raise InputError(f"The U3D file is damaged: {name} is not as it was declared. Export it again.")
    if (positions + normals) * 12 + uv * 16 > len(data) - cursor.at:
        raise InputError(f"The U3D file is damaged: {name} names more points than it can hold. Export it again.")
    points = np.frombuffer(cursor.take(positions * 12), "<f4").reshape(-1, 3).astype(np.float64)
    turns = np.frombuffer(cursor.take(normals * 12), "<f4").reshape(-1, 3).astype(np.float64)
    spots = np.frombuffer(cursor.take(uv * 16), "<f4").reshape(-1, 4)[:, :2].astype(np.float64)
    if not all(np.isfinite(own).all() for own in (points, turns, spots)):
        raise InputError(f"The U3D file is damaged: {name} holds points without a place. Export it again.")
    # three different corners: a smaller mesh would take no bytes, however many faces it named
    if faces and (positions < 3 or not _enough(len(data) - cursor.at, faces, (positions, normals))):
        raise InputError(f"The U3D file is damaged: {name} names {faces} faces, more than it can hold. Export it again.")
    if total + faces > MOST_TRIANGLES:
        raise InputError(f"The 3D model has more than {MOST_TRIANGLES // 10**6} million triangles: choose a coarser quality.")
    if any(declared.layers) and not uv:
        raise InputError(f"The U3D file is damaged: {name} has a picture, and no place on it. Export it again.")
    from skalto.core.output.u3d.coder import decode_faces  # compiled: takes half a second to load

    counts = positions, normals, max(len(declared.layers), 1), uv
    corners, normal, shading, uvs = decode_faces(bytes(data), cursor.at, faces, counts, declared.layers)
    mesh = SolidMesh(points, turns, corners, normal, shading)
    found.meshes[name] = replace(mesh, uv=spots, uvs=uvs) if uv else mesh
    return total + faces


def _ordered(found: _Found) -> list[str]:
    """Node names, parents first, else as they stand. :raises InputError: for a parent that is not there, and for a ring."""
    depth: dict[str, int] = {"": 0}
    for name in found.nodes:
        chain: list[str] = []
        at = name
        while at not in depth:
            if at not in found.nodes:
                raise InputError(f"The U3D file is damaged: {chain[-1]} hangs on {at}, which is not there. Export it again.")
            chain.append(at)
            at = found.nodes[at][0]
            if len(chain) > MOST_DEPTH or at in chain:
                raise InputError(f"The U3D file is damaged: its nodes hang on each other in a ring ({name}). Export it again.")
        for step, own in enumerate(reversed(chain), 1):
            depth[own] = depth[at] + step
        if depth[name] > MOST_DEPTH:
            raise InputError(f"The U3D file nests its nodes more than {MOST_DEPTH} deep: it is damaged. Export it again.")
    places = {name: n for n, name in enumerate(found.nodes)}
    done: dict[str, None] = {}

    def add(name: str) -> None:
        parent = found.nodes[name][0]
        if parent and parent not in done:
            add(parent)
        done[name] = None

    for name in places:
        if name not in done:
            add(name)
    return list(done)


def _scene(found: _Found) -> Scene:
    numbers = {name: n for n, name in enumerate(found.meshes)}
    nodes: dict[str, Node] = {}
    for name in _ordered(found):
        parent, matrix, resource = found.nodes[name]
        meshes: tuple[int, ...] = ()
        if resource is not None:
            if resource not in numbers:
                raise InputError(f"The U3D file is damaged: {name} shows {resource}, which is not there. Export it again.")
            meshes = (numbers[resource],)
        materials = tuple(_material_of(found, shader) for shader in found.shaders_of.get(name, []))
        whole, mark, number = name.rpartition(PIECE)
        above = nodes.get(parent)
        if mark and number.isdigit() and whole == parent and above is not None and np.array_equal(matrix, np.eye(4)):
            # a piece of a part that was too large for one mesh
            own = materials if len(materials) > len(above.materials) else above.materials
            nodes[parent] = Node(parent, above.parent, above.matrix, above.meshes + meshes, own)
            continue
        nodes[name] = Node(name, parent, matrix, meshes, materials)
    return Scene(tuple(nodes.values()), tuple(found.meshes.values()), pictures=found.pictures)


def _material_of(found: _Found, shader: str) -> Material:
    name, picture = found.shaders.get(shader, ("", ""))
    plain, mean = found.materials.get(name, (Material("#b8bcc0"), Material("#b8bcc0")))
    return replace(mean, picture=picture if picture in found.pictures else "") if picture else plain


def read_u3d(data: bytes) -> Scene:
    """The scene of a U3D file.

    :raises InputError: for a file that is cut short or damaged, with what is wrong; in time and memory that its size bounds.
    """
    if len(data) < 36 or struct.unpack("<I", data[:4])[0] != blocks.FILE_HEADER:
        raise InputError("This is not a U3D file: its heading is not there.")
    (size,) = struct.unpack("<Q", data[24:32]) if len(data) >= 32 else (0,)
    if size > len(data):
        raise InputError(f"The U3D file is cut short: it names {size} bytes and has {len(data)}. Export it again.")
    found, total = _Found(), 0
    for kind, own in _blocks(memoryview(data)[:size] if size else memoryview(data), "the file"):
        if kind == blocks.MODIFIER_CHAIN:
            _chain(found, own)
        elif kind == blocks.LIT_SHADER:
            _shader(found, own)
        elif kind == blocks.MATERIAL:
            _material(found, own)
        elif kind == blocks.TEXTURE_CONTINUATION:
            _picture(found, own)
        elif kind == blocks.MESH_CONTINUATION:
            total = _mesh(found, own, total)
    if not found.nodes or not found.meshes:
        raise InputError("The U3D file holds no model: it is empty, or of another kind. Export it again.")
    return _scene(found)
