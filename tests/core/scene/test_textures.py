"""Pictures on parts: from glTF and OBJ into U3D, glTF, PDF and posters, and what is lost of them found."""

from __future__ import annotations

import io
import json
import struct
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import replace
from pathlib import Path
from zipfile import ZipFile

import numpy as np
import pytest
import trimesh
from PIL import Image

from skalto.core.checks.report import check_pdf
from skalto.core.checks.solids import fields_of_pdf
from skalto.core.errors import InputError
from skalto.core.output.glb import write_glb
from skalto.core.output.review import pack_review
from skalto.core.output.u3d.reader import read_u3d
from skalto.core.output.u3d.writer import write_u3d
from skalto.core.recipes import PLAIN
from skalto.core.scene.building import build_scene
from skalto.core.scene.choices import SceneSpec
from skalto.core.scene.meshing import Quality, merged, part_meshes, split
from skalto.core.scene.poster import camera_of, draw_view
from skalto.core.scene.scene import Scene
from skalto.core.scene.views import Lighting, PreparedView, RenderMode
from skalto.core.sources.models.bundle import pack_shapes, unpack
from skalto.core.sources.models.model import Model
from skalto.core.sources.reading import read_model
from tests.core.scene.solids import QUARTERS, pictured, pictured_scene, quarters
from tests.core.scene.test_solid_pdf import _with_u3d, pdf_of, solid_of, verdicts

BOX = trimesh.creation.box((0.01, 0.02, 0.03))


def glb_of(shape: trimesh.Trimesh, path: Path) -> Path:
    trimesh.Scene({"Sign": shape}).export(path)
    return path


def scene_of(model: Model, **said: object) -> Scene:
    return build_scene(model.tree, part_meshes(model, Quality.NORMAL), SceneSpec.model_validate(said))


def front(scene: Scene, view: dict[str, object]) -> list[tuple[int, ...]]:
    """What a view shows in the middle of its four quarters: above left and right, below left and right."""
    asked = PreparedView.model_validate({"id": "v", "name": "v", "lighting": Lighting.NONE, "up": (0, 0, 1)} | view)
    pixels = draw_view(scene, asked, camera_of(asked, scene, 2 / 3), 200, 300)
    return [tuple(int(v) for v in pixels[y, x, :3]) for y in (75, 225) for x in (50, 150)]


@pytest.fixture(scope="module")
def model(tmp_path_factory: pytest.TempPathFactory) -> Model:
    path = glb_of(pictured(BOX), tmp_path_factory.mktemp("glb") / "sign.glb")
    return read_model(path, "sign.glb")


def test_a_gltf_brings_its_picture_and_shows_its_mean_elsewhere(model: Model) -> None:
    (leaf,) = model.tree.leaves()
    assert leaf.colour == "#808040"  # the mean of the four
    scene = scene_of(model)
    ((name, data),) = scene.pictures.items()
    assert np.array_equal(np.asarray(Image.open(io.BytesIO(data))), np.asarray(quarters()))
    assert [m.picture for m in scene.nodes[0].materials] == [name]
    assert model.tree.shapes[0].laid == pytest.approx(6)  # each of six sides shows all of it once


@pytest.mark.parametrize("perspective", [False, True])
def test_a_poster_shows_it_upright(model: Model, perspective: bool) -> None:
    """On the side that looks along x a picture's right is y, and its up is z; glTF's own up (y) is z here."""
    scene = scene_of(model)
    # glTF's x stays x, its y is z, its z is −y: the side along glTF's z looks along −y, x to the right and z up
    seen = front(scene, {"look": (0, 1, 0), "perspective": perspective})
    assert seen == list(QUARTERS)
    plain = front(scene, {"look": (0, 1, 0), "mode": RenderMode.HIDDEN_WIREFRAME})
    assert set(plain) == {(255, 255, 255)}


def test_the_colour_of_its_material_falls_on_it_as_light(tmp_path: Path) -> None:
    """A factor is of light, the picture is coded for the screen: half the light of 255 is 188 there (IEC 61966-2-1)."""
    material = trimesh.visual.material.PBRMaterial(baseColorTexture=quarters(), baseColorFactor=[128, 255, 255, 255])
    scene = scene_of(read_model(glb_of(pictured(BOX, material), tmp_path / "a.glb"), "a.glb"))
    (data,) = scene.pictures.values()
    assert Image.open(io.BytesIO(data)).convert("RGB").getpixel((5, 5)) == (188, 0, 0)


def test_a_colour_that_was_given_covers_it(model: Model) -> None:
    (leaf,) = model.tree.leaves()
    scene = scene_of(model, colours={leaf.path: "#123456"})
    assert not scene.pictures
    assert [(m.colour, m.picture) for m in scene.nodes[0].materials] == [("#123456", "")]


def test_an_obj_in_an_archive_brings_it(tmp_path: Path) -> None:
    shape = pictured(BOX)
    shape.visual = trimesh.visual.TextureVisuals(uv=shape.visual.uv, image=quarters())
    text, files = trimesh.exchange.obj.export_obj(shape, return_texture=True, mtl_name="sign.mtl")
    path = tmp_path / "sign.zip"
    with ZipFile(path, "w") as archive:
        archive.writestr("sign.obj", text)
        for name, data in files.items():
            archive.writestr(name, data)
    model = read_model(path, "sign.zip")
    scene = scene_of(model)
    assert len(scene.pictures) == 1
    # an OBJ is taken as it is: its x and z are ours, and its side along −y shows z to the right and x up
    right = front(scene, {"look": (-1, 0, 0)})
    assert right == list(QUARTERS)


def moved_on(path: Path, told: dict[str, object], names: Sequence[str | None] = (), **base: object) -> Path:
    """A glTF whose first picture is moved on its part; what its materials are called."""
    data = path.read_bytes()
    length = int.from_bytes(data[12:16], "little")
    document = json.loads(data[20 : 20 + length])
    document["extensionsUsed"] = ["KHR_texture_transform"]
    texture = document["materials"][0]["pbrMetallicRoughness"]["baseColorTexture"]
    for row, name in zip(document["materials"], names, strict=False):
        row.pop("name", None)
        row |= {} if name is None else {"name": name}
    texture |= base | {"extensions": {"KHR_texture_transform": told}}
    text = json.dumps(document).encode()
    text += b" " * (-len(text) % 4)
    rest = data[20 + length :]
    path.write_bytes(b"glTF" + struct.pack("<IIII", 2, 20 + len(text) + len(rest), len(text), 0x4E4F534A) + text + rest)
    return path


@pytest.mark.parametrize(
    ("told", "seen"),
    [
        ({"offset": [0.5, 0]}, (1, 0, 3, 2)),
        # places turned counter-clockwise turn the picture clockwise: it is about its upper left corner, and repeats
        ({"rotation": np.pi / 2}, (2, 0, 3, 1)),
        ({"offset": [0.25, 0.25], "scale": [0.25, 0.25]}, (0, 0, 0, 0)),
    ],
)
def test_a_picture_that_is_moved_on_its_part(tmp_path: Path, told: dict[str, object], seen: tuple[int, ...]) -> None:
    path = moved_on(glb_of(pictured(BOX), tmp_path / "a.glb"), told)
    assert front(scene_of(read_model(path, "a.glb")), {"look": (0, 1, 0)}) == [QUARTERS[n] for n in seen]


@pytest.mark.parametrize("names", [(None, None), ("same", "same"), ("", "b")])
def test_each_material_s_picture_is_moved_by_itself(tmp_path: Path, names: tuple[str | None, ...]) -> None:
    """Two materials that no name tells apart: the one's picture is moved by half, the other's is not."""
    plain = trimesh.visual.material.PBRMaterial(baseColorTexture=quarters(32), baseColorFactor=[255] * 4)
    path = tmp_path / "a.glb"
    trimesh.Scene({"Moved": pictured(BOX), "Still": pictured(BOX, plain)}).export(path)
    moved_on(path, {"offset": [0.5, 0]}, names=names)
    model = read_model(path, "a.glb")
    for name, seen in (("Moved", (1, 0, 3, 2)), ("Still", (0, 1, 2, 3))):
        other = next(leaf.path for leaf in model.tree.leaves() if leaf.name != name)
        scene = scene_of(model, choices={"hidden": [other]})
        assert front(scene, {"look": (0, 1, 0)}) == [QUARTERS[n] for n in seen], name


def test_places_of_another_set_are_not_taken_for_the_first(tmp_path: Path) -> None:
    path = moved_on(glb_of(pictured(BOX), tmp_path / "a.glb"), {}, texCoord=1)
    assert not scene_of(read_model(path, "a.glb")).pictures


def test_a_picture_of_another_machine_s_way_is_found_and_one_that_lacks_is_told(tmp_path: Path) -> None:
    text = b"mtllib sign.mtl\nusemtl a\nv 0 0 0\nv 9 0 0\nv 0 9 0\nvt 0 0\nvt 1 0\nvt 0 1\nf 1/1 2/2 3/3\n"
    picture = io.BytesIO()
    quarters().save(picture, "PNG")
    path = tmp_path / "sign.zip"
    for there in (True, False):
        with ZipFile(path, "w") as archive:
            archive.writestr("parts/sign.obj", text)
            archive.writestr("parts/sign.mtl", b"newmtl a\nKd 1 1 1\nmap_Kd C:\\work\\Sign.png\n")
            if there:
                archive.writestr("pictures/sign.png", picture.getvalue())
        model = read_model(path, "sign.zip")
        assert bool(scene_of(model).pictures) is there
        assert any("Sign.png" in told for told in model.tree.lost) is not there


@pytest.mark.parametrize(
    ("old", "new"),
    [
        (b"IDAT", b"IDAX"),
        (b"IHDR", b"IHDX"),
        (b'"baseColorTexture":{"index":0}', b'"baseColorTexture":{"index":true}'),
        (b'"baseColorTexture":{"index":0}', b'"baseColorTexture":[0]           '),
    ],
)
def test_a_damaged_picture_ends_in_a_sentence_or_a_plain_part(tmp_path: Path, old: bytes, new: bytes) -> None:
    path = glb_of(pictured(BOX), tmp_path / "a.glb")
    data = path.read_bytes()
    changed = data.replace(old, new)
    # what was longer or shorter takes its place from the padding behind the JSON
    length = int.from_bytes(data[12:16], "little") + len(changed) - len(data)
    path.write_bytes(changed[:8] + len(changed).to_bytes(4, "little") + length.to_bytes(4, "little") + changed[16:])
    assert old in data
    with suppress(InputError):
        assert not scene_of(read_model(path, "a.glb")).pictures


def test_what_is_no_picture_leaves_the_part_its_colour(tmp_path: Path) -> None:
    scene = trimesh.Scene({"Sign": pictured(BOX)})
    files = trimesh.exchange.gltf.export_gltf(scene)
    document = json.loads(files["model.gltf"])
    # the picture's bytes are nothing that can be opened
    picture = document["bufferViews"][document["images"][0]["bufferView"]]["buffer"]
    name = document["buffers"][picture]["uri"]
    files[name] = b"\0" * len(files[name])
    path = tmp_path / "sign.zip"
    with ZipFile(path, "w") as archive:
        for own, data in files.items():
            archive.writestr(own, data)
    assert not scene_of(read_model(path, "sign.zip")).pictures


@pytest.mark.parametrize("mode", ["RGB", "RGBA", "P", "LA", "1", "I;16", "CMYK", "L"])
def test_pictures_of_every_kind(tmp_path: Path, mode: str) -> None:
    """Half black and half white, as PNG, or as JPEG for the colours of print: grey is their mean."""
    halves = np.repeat(np.array((0, 255), np.uint8), 32)[None].repeat(64, axis=0)
    picture = Image.fromarray(halves.astype(np.uint16) * 257) if mode == "I;16" else Image.fromarray(halves).convert(mode)
    out = io.BytesIO()
    picture.save(out, "JPEG" if mode == "CMYK" else "PNG")
    text = b"mtllib a.mtl\nusemtl a\nv 0 0 0\nv 9 0 0\nv 0 9 0\nvt 0 0\nvt 1 0\nvt 0 1\nf 1/1 2/2 3/3\n"
    with ZipFile(tmp_path / "a.zip", "w") as archive:
        archive.writestr("a.obj", text)
        archive.writestr("a.mtl", b"newmtl a\nKd 1 1 1\nmap_Kd a.picture\n")
        archive.writestr("a.picture", out.getvalue())
    (leaf,) = read_model(tmp_path / "a.zip", "a.zip").tree.leaves()
    assert [int(leaf.colour[k : k + 2], 16) for k in (1, 3, 5)] == pytest.approx([128] * 3, abs=2)


def test_a_very_large_picture_is_made_smaller(tmp_path: Path) -> None:
    material = trimesh.visual.material.PBRMaterial(baseColorTexture=quarters(4096), baseColorFactor=[255] * 4)
    scene = scene_of(read_model(glb_of(pictured(BOX, material), tmp_path / "a.glb"), "a.glb"))
    (data,) = scene.pictures.values()
    assert max(Image.open(io.BytesIO(data)).size) == 2048


def test_a_model_is_kept_with_it(model: Model) -> None:
    back = unpack(model.tree, pack_shapes(model))
    assert scene_of(back).pictures == scene_of(model).pictures
    assert np.array_equal(back.shapes[0].texture.at, model.shapes[0].texture.at)


@pytest.mark.parametrize("suffix", ["PNG", "JPEG"])
def test_u3d_brings_it_back(suffix: str) -> None:
    scene = pictured_scene(suffix)
    back = read_u3d(write_u3d(scene))
    assert back.pictures == scene.pictures
    assert [n.materials for n in back.nodes] == [n.materials for n in scene.nodes]
    for sent, came in zip(scene.meshes, back.meshes, strict=True):
        assert np.allclose(sent.uv[sent.uvs], came.uv[came.uvs], atol=1e-7)


def test_gltf_brings_it_back_where_it_was(model: Model, tmp_path: Path) -> None:
    """By trimesh: at the middle of every triangle the same colour is seen."""
    path = tmp_path / "again.glb"
    path.write_bytes(write_glb(scene_of(model)))
    for file, scale in ((path, 1.0),):
        (again,) = trimesh.load_scene(file).dump()
        before = pictured(BOX)
        seen = {}
        for shape in (before, again):
            middle = np.asarray(shape.visual.uv)[shape.faces].mean(axis=1)
            colours = shape.visual.material.to_color(middle)
            seen[id(shape)] = {
                tuple(np.round(place * scale, 6) + 0.0): tuple(colour[:3])
                for place, colour in zip(shape.triangles_center, colours, strict=True)
            }
        assert seen[id(before)] == seen[id(again)]


def test_pieces_keep_their_places() -> None:
    """A part that is too large for one mesh, cut and put together again."""
    ball = trimesh.creation.uv_sphere(10, count=(200, 200))
    scene = pictured_scene()
    mesh = scene.meshes[0]
    fine = replace(
        mesh, positions=np.asarray(ball.vertices), corners=np.asarray(ball.faces, np.int64),
        shading=np.zeros(len(ball.faces), np.int64),
        normals=np.asarray(ball.vertex_normals), turns=np.asarray(ball.faces, np.int64),
        uv=np.asarray(ball.vertices[:, :2]), uvs=np.asarray(ball.faces, np.int64),
    )  # fmt: skip
    pieces = split(fine)
    assert len(pieces) > 1
    whole = merged(pieces)
    assert np.allclose(whole.uv[whole.uvs], whole.positions[whole.corners][..., :2], atol=1e-5)


def test_the_viewer_gets_it_as_it_is() -> None:
    scene = pictured_scene()
    pack = pack_review(scene, "Sign", [], {})
    size = int.from_bytes(pack[:4], "little")
    head = json.loads(pack[4 : 4 + size])
    at, count = head["pictures"]["picture 1"]
    assert pack[4 + size + at : 4 + size + at + count] == scene.pictures["picture 1"]
    assert [mesh["uv"][1] > 0 for mesh in head["meshes"]] == [True, False]


def test_the_check_finds_a_picture_that_is_lost_or_laid_otherwise(model: Model) -> None:
    whole = pdf_of(solid_of(model))
    assert verdicts(check_pdf(whole, PLAIN))["pictures"] == "holds"
    (found,) = fields_of_pdf(whole)
    scene = read_u3d(found.u3d)
    (name,) = scene.pictures
    other = io.BytesIO()
    quarters().rotate(90).save(other, "PNG")
    bare = tuple(replace(n, materials=tuple(replace(m, picture="") for m in n.materials)) for n in scene.nodes)
    pulled = tuple(replace(mesh, uv=mesh.uv * 0.5) for mesh in scene.meshes)
    for changed in (
        replace(scene, nodes=bare, pictures={}),
        replace(scene, pictures={name: other.getvalue()}),
        replace(scene, meshes=pulled),
    ):
        data = write_u3d(changed)
        assert verdicts(_with_u3d(whole, lambda _, data=data: data))["pictures"] == "fails"


@pytest.mark.parametrize("suffix", ["PNG", "JPEG"])
def test_a_picture_that_is_damaged_is_refused(suffix: str) -> None:
    scene = pictured_scene(suffix)
    (picture,) = scene.pictures.values()
    for bad in (picture[:40] + b"\0" * (len(picture) - 40), b"\0" * len(picture)):
        with pytest.raises(InputError, match="picture 1 cannot be read"):
            read_u3d(write_u3d(scene).replace(picture, bad))


def test_a_picture_without_a_place_on_it_is_refused() -> None:
    scene = pictured_scene()
    data = write_u3d(scene)
    lost = data.replace(b"\x04\0\0\0\x01\0\0\0\0\0\0\0\x01\0\0\0\x02", b"\0\0\0\0\x01\0\0\0\0\0\0\0\x01\0\0\0\x02")
    assert lost != data
    with pytest.raises(InputError, match="Export it again"):
        read_u3d(lost)
