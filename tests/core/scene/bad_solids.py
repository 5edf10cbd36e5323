"""A corpus of U3D files that are none, each with what the refusal has to speak of: cut short, false, huge, in a ring."""

from __future__ import annotations

import struct
from collections.abc import Iterator

import numpy as np

from skalto.core.output.u3d import blocks
from skalto.core.output.u3d.writer import write_u3d
from skalto.core.scene.scene import Node, Scene
from tests.core.scene.solids import RED, small_scene


def file_of(*made: bytes, size: int | None = None) -> bytes:
    """A file of blocks behind a good heading."""
    body = b"".join(made)
    head = struct.pack("<hhIIQI", 0, 0, 0, 0, 36 + len(body) if size is None else size, blocks.UTF8)
    return blocks.block(blocks.FILE_HEADER, head) + body


def chain(name: bytes, kind: int, *modifiers: bytes, count: int | None = None) -> bytes:
    head = blocks.padded(struct.pack("<H", len(name)) + name + blocks.u32(kind, 0))
    return blocks.block(
        blocks.MODIFIER_CHAIN, head + blocks.u32(len(modifiers) if count is None else count) + b"".join(modifiers)
    )


def group(name: bytes, parent: bytes = b"", parents: int = 1, matrix: bytes | None = None) -> bytes:
    own = struct.pack("<H", len(name)) + name + blocks.u32(parents) + struct.pack("<H", len(parent)) + parent
    own += blocks.f32(*np.eye(4).ravel().tolist()) if matrix is None else matrix
    return chain(name, 0, blocks.block(blocks.GROUP_NODE, own))


def mesh(faces: int, positions: int, normals: int, data: bytes, shadings: int = 1, declared: int | None = None) -> bytes:
    """A mesh's declaration and its continuation, its numbers as they are said."""
    name = blocks.text("mesh 0")
    said = name + blocks.u32(0, 1 if not normals else 0, declared or faces, positions, normals, 0, 0, 0, shadings)
    said += blocks.u32(*([0, 0, 0] * min(shadings, 8))) + bytes(64)
    own = name + blocks.u32(0, faces, positions, normals, 0, 0, 0) + data
    return chain(b"mesh 0", 1, blocks.block(blocks.MESH_DECLARATION, said)) + blocks.block(blocks.MESH_CONTINUATION, own)


def _named(*pairs: tuple[str, str]) -> bytes:
    nodes = tuple(Node(name, parent, np.eye(4), (0,), (RED,)) for name, parent in pairs)
    return write_u3d(Scene(nodes, small_scene().meshes[:1]))


def corpus() -> Iterator[tuple[str, bytes, str]]:
    """Name, bytes, and a word of the refusal."""
    good = write_u3d(small_scene())
    corners = np.zeros(9, "<f4").tobytes()
    nan = blocks.f32(*([float("nan")] * 16))
    yield "nothing", b"", "heading"
    yield "another kind of file", b"solid cube\nendsolid\n" * 9, "heading"
    yield "a heading alone", file_of(), "no model"
    yield "cut in the heading", good[:30], "heading"
    yield "cut in a node", good[:200], "cut short"
    yield "cut in the faces", good[:-40], "cut short"
    yield "shorter than it says, and says so", good[:24] + struct.pack("<Q", len(good) - 40) + good[32:-40], "ends too early"
    yield "longer than any file", file_of(group(b"a"), size=2**63), "cut short"
    yield "a block longer than the file", file_of(blocks.u32(blocks.MODIFIER_CHAIN, 2**32 - 1, 0)), "ends too early"
    yield "metadata longer than the file", file_of(blocks.u32(blocks.MODIFIER_CHAIN, 0, 2**32 - 1)), "ends too early"
    yield "a name longer than its block", file_of(blocks.block(blocks.MODIFIER_CHAIN, b"\xff\xffab")), "ends too early"
    yield "a name that is not text", file_of(group(b"\xff\xfe\xfd")), "UTF-8"
    yield "a chain of four milliard modifiers", file_of(chain(b"a", 0, count=2**32 - 1)), "more than it can hold"
    yield "a node with four milliard parents", file_of(group(b"a", parents=2**32 - 1)), "more than it can hold"
    yield "a node nowhere", file_of(group(b"a", parents=0)), "no place in the tree"
    yield "a place that is not a number", file_of(group(b"a", matrix=nan)), "not a number"
    yield "faces without end", file_of(mesh(2**32 - 1, 3, 0, corners + bytes(99))), "more than it can hold"
    yield "points without end", file_of(mesh(1, 2**32 - 1, 0, corners + bytes(99))), "more points"
    yield "normals without end", file_of(mesh(1, 3, 2**32 - 1, corners + bytes(99))), "more points"
    yield "faces of one point, in no bits", file_of(mesh(10**6, 1, 0, bytes(12) + bytes(64))), "more than it can hold"
    yield "faces of no point", file_of(mesh(5, 0, 0, bytes(64))), "more than it can hold"
    yield "not as it was declared", file_of(mesh(1, 3, 0, corners + bytes(32), declared=2)), "declared"
    yield "never declared", file_of(blocks.block(blocks.MESH_CONTINUATION, blocks.text("x") + bytes(80))), "declared"
    yield (
        "points that are not numbers",
        file_of(mesh(1, 3, 0, blocks.f32(*([float("inf")] * 9)) + bytes(32))),
        "without a place",
    )
    yield "colours without end", file_of(mesh(1, 3, 0, corners + bytes(32), shadings=2**31)), "more than it can hold"
    yield "a colour that is not there", file_of(mesh(4, 3, 0, corners + b"\x7f" * 64)), "points at nothing"
    yield "a node that shows nothing there", good.replace(b"mesh 1", b"mesh 7", 1), "which is not there"
    yield "a ring of one", _named(("a", "a")), "ring"
    yield "a ring of two", _named(("a", "b"), ("b", "a")), "ring"
    yield "a ring beside a tree", _named(("root", ""), ("a", "b"), ("b", "c"), ("c", "a")), "ring"
    yield "an orphan", _named(("a", "nobody")), "not there"
    yield "twins", _named(("a", ""), ("a", "")), "two nodes"
    yield "a tower", _named(*((f"n{k}", f"n{k - 1}" if k else "") for k in range(400))), "deep|ring"
