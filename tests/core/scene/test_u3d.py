"""U3D out and in again, and what the reader makes of files that are none (ECMA-363)."""

from __future__ import annotations

import struct
import time
import tracemalloc
from contextlib import suppress

import numpy as np
import pytest
import trimesh
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from skalto.core.errors import InputError
from skalto.core.output.u3d import blocks
from skalto.core.output.u3d.coder import decode_faces, encode_faces
from skalto.core.output.u3d.reader import read_u3d
from skalto.core.output.u3d.writer import write_u3d
from skalto.core.scene.meshing import MOST_CORNERS, split
from skalto.core.scene.scene import Node, Scene, SolidMesh
from tests.core.scene.bad_solids import corpus
from tests.core.scene.solids import RED, mesh_of, moved, small_scene


@pytest.fixture(scope="module")
def small() -> bytes:
    return write_u3d(small_scene())


@settings(max_examples=40, deadline=None)
@given(
    faces=st.integers(1, 60),
    positions=st.sampled_from((3, 4, 5, 255, 256, 16_382, 16_383, 70_000)),
    normals=st.sampled_from((0, 1, 2, 300, 16_383)),
    shadings=st.integers(1, 9),
    places=st.sampled_from((0, 1, 4, 16_382, 16_383)),
    seed=st.integers(0, 2**32 - 1),
)
def test_any_faces_come_back_as_they_went(
    faces: int, positions: int, normals: int, shadings: int, places: int, seed: int
) -> None:  # fmt: skip
    random = np.random.default_rng(seed)
    corners = random.integers(0, positions, (faces, 3))
    turns = random.integers(0, normals, (faces, 3)) if normals else np.zeros((faces, 3), np.int64)
    uvs = random.integers(0, places, (faces, 3)) if places else np.zeros((faces, 3), np.int64)
    shading = random.integers(0, shadings, faces)
    plain = random.bytes(int(random.integers(0, 40)))
    counts = (positions, normals, shadings, places)
    data = encode_faces(plain, corners, turns, uvs, shading, counts)
    assert data.startswith(plain)
    back = decode_faces(data, len(plain), faces, counts, [1 if places else 0] * shadings)
    for sent, came in zip((corners, turns, shading, uvs), back, strict=True):
        assert np.array_equal(sent, came)


def test_many_shadings_halve_their_counts_alike() -> None:
    """The dynamic context halves at a total of 0x1FFF: a mesh of 40 000 faces passes that several times."""
    shading = np.random.default_rng(1).integers(0, 5, 40_000)
    corners = np.zeros((40_000, 3), np.int64)
    data = encode_faces(b"", corners, corners, corners, shading, (3, 0, 5, 0))
    assert np.array_equal(decode_faces(data, 0, 40_000, (3, 0, 5, 0))[2], shading)


def test_a_scene_comes_back_node_by_node(small: bytes) -> None:
    scene, back = small_scene(), read_u3d(small)
    assert [n.name for n in back.nodes] == [n.name for n in scene.nodes]
    assert [n.parent for n in back.nodes] == [n.parent for n in scene.nodes]
    assert [n.materials for n in back.nodes] == [n.materials for n in scene.nodes]
    for sent, came in zip(scene.nodes, back.nodes, strict=True):
        assert np.abs(sent.matrix - came.matrix).max() < 1e-6
    for one, other in zip(scene.meshes, back.meshes, strict=True):
        assert np.array_equal(one.positions, other.positions)
        assert np.array_equal(one.corners, other.corners)
        assert np.array_equal(one.turns, other.turns)
        assert np.array_equal(one.shading, other.shading)
    assert write_u3d(scene) == small


def test_a_large_part_goes_in_pieces_and_comes_back_as_one() -> None:
    ball = mesh_of(trimesh.creation.icosphere(6, 50))
    pieces = split(ball)
    assert len(pieces) > 1
    assert all(len(p.positions) <= MOST_CORNERS and len(p.normals) <= MOST_CORNERS for p in pieces)
    assert sum(len(p.corners) for p in pieces) == len(ball.corners)
    node = Node("Ball", "", moved(1, 2, 3), tuple(range(len(pieces))), (RED,))
    back = read_u3d(write_u3d(Scene((node,), tuple(pieces))))
    assert [n.name for n in back.nodes] == ["Ball"]
    assert len(back.nodes[0].meshes) == len(pieces)
    assert sum(m.volume() for m in back.meshes) == pytest.approx(ball.volume(), rel=1e-5)


@pytest.mark.parametrize("count", [3, 17, 4_097, 8_200, 12_000, 16_382])
def test_indices_that_code_shorter_than_they_should_are_still_believed(count: int) -> None:
    """The coder shares its range out in whole numbers: the low values of many may take up to a bit less than log2 n."""
    points = np.random.default_rng(2).uniform(-1, 1, (count, 3)).astype(np.float32).astype(float)
    corners = np.tile(np.arange(3), (30_000, 1))
    mesh = SolidMesh(points, np.empty((0, 3)), corners, np.zeros_like(corners), np.zeros(30_000, np.int64))
    back = read_u3d(write_u3d(Scene((Node("a", "", np.eye(4), (0,), (RED,)),), (mesh,))))
    assert np.array_equal(back.meshes[0].corners, corners)


def test_a_part_that_occurs_again_costs_next_to_nothing() -> None:
    mesh = mesh_of(trimesh.creation.cylinder(4, 25, sections=200))
    nodes = [Node(f"Pin {k}", "", moved(k, 0, 0), (0,), (RED,)) for k in range(50)]
    one, fifty = (len(write_u3d(Scene(tuple(nodes[:n]), (mesh,)))) for n in (1, 50))
    assert (fifty - one) / 49 < 300


def test_the_file_is_smaller_than_binary_stl() -> None:
    """50 bytes a triangle (StL format, 3D Systems 1989, from memory): at most six tenths of it with normals and all."""
    ball = trimesh.creation.icosphere(5, 50)
    normals = np.asarray(ball.vertex_normals)[ball.faces].reshape(-1, 3)
    from skalto.core.scene.meshing import welded

    mesh = welded(ball.vertices[ball.faces].reshape(-1, 3), normals, np.arange(3 * len(ball.faces)).reshape(-1, 3),
                  np.zeros(len(ball.faces), np.int64))  # fmt: skip
    pieces = split(mesh)
    node = Node("Ball", "", np.eye(4), tuple(range(len(pieces))), (RED,))
    assert len(write_u3d(Scene((node,), tuple(pieces)))) <= 0.6 * (84 + 50 * len(ball.faces))


def test_nothing_is_no_model() -> None:
    with pytest.raises(InputError, match="show at least one component"):
        write_u3d(Scene((), ()))
    for data in (b"", b"solid", b"\x55\x33\x44\x00", bytes(200)):
        with pytest.raises(InputError, match="not a U3D file"):
            read_u3d(data)


def test_a_file_cut_short_anywhere_is_refused(small: bytes) -> None:
    for end in range(0, len(small) - 1, max(1, len(small) // 150)):
        with pytest.raises(InputError):
            read_u3d(small[:end])
        # the same with a heading that says so
        if end >= 36:
            with pytest.raises(InputError):
                read_u3d(small[:24] + struct.pack("<Q", end) + small[32:end])


def _with(data: bytes, kind: int, at: int, value: int) -> bytes:
    """The file with a number changed *at* so many bytes behind the names of the first block of a kind."""
    start = data.index(struct.pack("<I", kind)) + 12
    (length,) = struct.unpack("<H", data[start : start + 2])
    place = start + 2 + length + at
    return data[:place] + struct.pack("<I", value) + data[place + 4 :]


@pytest.mark.parametrize("count", [0xFFFFFFFF, 0x7FFFFFFF, 10_000_000, 13])
@pytest.mark.parametrize("at", [4, 8, 12])
@pytest.mark.parametrize("kind", [blocks.MESH_CONTINUATION, blocks.MESH_DECLARATION])
def test_wrong_and_huge_counts_are_refused_in_time_and_room(small: bytes, kind: int, at: int, count: int) -> None:
    bad = _with(small, kind, at + (4 if kind == blocks.MESH_DECLARATION else 0), count)
    tracemalloc.start()
    began = time.monotonic()
    with pytest.raises(InputError):
        read_u3d(bad)
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert peak < 20e6
    assert time.monotonic() - began < 2


def _nodes(*pairs: tuple[str, str]) -> bytes:
    whole = small_scene()
    nodes = tuple(Node(name, parent, np.eye(4), (0,), (RED,)) for name, parent in pairs)
    return write_u3d(Scene(nodes, whole.meshes[:1]))


@pytest.mark.parametrize(("data", "told"), [pytest.param(data, told, id=name) for name, data, told in corpus()])
def test_the_corpus_is_refused_in_time_and_room(data: bytes, told: str) -> None:
    tracemalloc.start()
    began = time.monotonic()
    with pytest.raises(InputError, match=told) as refused:
        read_u3d(data)
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert str(refused.value).endswith(".")
    assert peak < 20e6
    assert time.monotonic() - began < 2


def test_children_before_their_parents_are_put_right() -> None:
    back = read_u3d(_nodes(("a", "b"), ("b", "")))
    assert [n.name for n in back.nodes] == ["b", "a"]


@settings(max_examples=250, deadline=2000, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.data())
def test_damage_ends_in_a_sentence_or_a_model(small: bytes, data: st.DataObject) -> None:
    """A fuzz over a good file: bytes changed, cut out, doubled. Nothing but a refusal, or a scene within the limits."""
    bad = bytearray(small)
    for _ in range(data.draw(st.integers(1, 6))):
        at = data.draw(st.integers(0, len(bad) - 1))
        match data.draw(st.sampled_from(("byte", "word", "cut", "again"))):
            case "byte":
                bad[at] = data.draw(st.integers(0, 255))
            case "word":
                bad[at : at + 4] = struct.pack("<I", data.draw(st.sampled_from((0, 1, 2**31, 2**32 - 1, 0xFFFFFF14, 65_535))))
            case "cut":
                del bad[at : at + data.draw(st.integers(1, 64))]
            case _:
                bad[at:at] = bad[at : at + data.draw(st.integers(1, 64))]
        if not bad:
            break
    with suppress(InputError):
        assert read_u3d(bytes(bad)).distinct() <= 8 * len(bad)


@settings(max_examples=100, deadline=2000)
@given(st.binary(max_size=600))
def test_any_bytes_behind_a_heading_end_in_a_sentence(tail: bytes) -> None:
    head = struct.pack("<hhIIQI", 0, 0, 0, 0, 36 + len(tail), 106)
    with pytest.raises(InputError):
        read_u3d(blocks.block(blocks.FILE_HEADER, head) + tail)
