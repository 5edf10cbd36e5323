"""Models of several files: archives with what they name, packed STEP; and archives that mean no good."""

from __future__ import annotations

import gzip
import io
import json
import re
import zipfile
from pathlib import Path

import numpy as np
import pytest
import trimesh
from OCP.Interface import Interface_Static
from OCP.STEPCAFControl import STEPCAFControl_Writer
from OCP.STEPControl import STEPControl_AsIs
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TopLoc import TopLoc_Location

from skalto.core.errors import InputError
from skalto.core.sources.models import packed
from skalto.core.sources.reading import read_model
from skalto.demo.solids import block, cylinder, moved
from tests.core.modelled import _assembly, write_assembly


def zipped(path: Path, **files: bytes) -> Path:
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return path


@pytest.fixture(scope="module")
def stand(tmp_path_factory: pytest.TempPathFactory) -> Path:
    parts = {"Side": block(20, 30, 4), "Peg": moved(cylinder(8, 30), (50, 0, 0))}
    return write_assembly(parts, tmp_path_factory.mktemp("stand") / "stand.step", "Stand")


def volume(path: Path) -> float:
    return sum(shape.volume for shape in read_model(path, path.name).tree.shapes)


@pytest.mark.parametrize("name", ["stand.stpz", "stand.step.gz", "stand.zip"])
def test_packed_step_is_the_same_model(name: str, stand: Path, tmp_path: Path) -> None:
    data, path = stand.read_bytes(), tmp_path / name
    if name.endswith("zip"):
        zipped(path, **{"folder/stand.step": data, "folder/readme.txt": b"hello", "__MACOSX/._stand.step": b"x"})
    else:
        path.write_bytes(gzip.compress(data))
    tree = read_model(path, name).tree
    plain = read_model(stand, stand.name).tree
    assert [leaf.name for leaf in tree.leaves()] == [leaf.name for leaf in plain.leaves()]
    assert [shape.content for shape in tree.shapes] == [shape.content for shape in plain.shapes]
    assert tree.kind == "step"


def _in_several_files(folder: Path) -> list[Path]:
    """An assembly whose parts are files of their own, as the kernel's writer makes them."""
    document, tool, top = _assembly("Stand")
    for part, shape in (("Side", block(20, 30, 4)), ("Peg", cylinder(8, 30))):
        label = tool.AddShape(shape, False)
        TDataStd_Name.Set_s(label, TCollection_ExtendedString(part))
        tool.AddComponent(top, label, TopLoc_Location())
    tool.UpdateAssemblies()
    writer = STEPCAFControl_Writer()
    Interface_Static.SetCVal_s("write.step.unit", "MM")
    assert writer.Transfer(document, STEPControl_AsIs, f"{folder}/")
    writer.Write(str(folder / "main.step"))
    return sorted(folder.iterdir())


def test_an_assembly_finds_its_parts_in_the_archive_and_nowhere_else(tmp_path: Path) -> None:
    folder = tmp_path / "several"
    folder.mkdir()
    files = _in_several_files(folder)
    assert len(files) == 3
    whole = zipped(tmp_path / "whole.zip", **{path.name: path.read_bytes() for path in files})
    tree = read_model(whole, whole.name).tree
    assert sum(shape.volume for shape in tree.shapes) == pytest.approx(20 * 30 * 4 + np.pi * 16 * 30, rel=1e-6)
    assert tree.lost == ()
    # one part is not there: what is, is read, and what is not is told, though it lies beside the archive on the disk
    part = next(path for path in files if path.name != "main.step")
    partly = zipped(tmp_path / "several" / "partly.zip", **{path.name: path.read_bytes() for path in files if path != part})
    tree = read_model(partly, partly.name).tree
    assert [leaf.part for leaf in tree.leaves()] == ["Side"]
    assert "Peg.stp, which is not in the archive" in " ".join(tree.lost)


@pytest.mark.parametrize("way", ["'{path}'", "/* by a comment */ '{path}'", "'../{name}'", "'file://{path}'"])
def test_nothing_outside_the_archive_is_followed(way: str, tmp_path: Path) -> None:
    folder = tmp_path / "several"
    folder.mkdir()
    files = _in_several_files(folder)
    peg = next(path for path in files if path.name == "Peg.stp")
    lure = tmp_path / "lure.stp"
    lure.write_bytes(peg.read_bytes())
    main = (folder / "main.step").read_bytes()
    told = way.format(path=lure, name="lure.stp").encode()
    changed = re.sub(rb"DOCUMENT_FILE\(\s*'[^']*Peg\.stp'", lambda found: b"DOCUMENT_FILE(" + told, main)
    assert changed != main
    path = zipped(tmp_path / "lured.zip", **{"main.step": changed, "Side.stp": (folder / "Side.stp").read_bytes()})
    assert [leaf.part for leaf in read_model(path, path.name).tree.leaves()] == ["Side"]


def _gltf() -> dict[str, bytes]:
    scene = trimesh.Scene({"Box": trimesh.creation.box((2, 3, 4))})
    return {name: bytes(data) for name, data in trimesh.exchange.gltf.export_gltf(scene).items()}


def test_a_gltf_with_its_buffers(tmp_path: Path) -> None:
    files = _gltf()
    assert any(name.endswith(".bin") for name in files)
    path = zipped(tmp_path / "box.zip", **{f"box/{name}": data for name, data in files.items()})
    # glTF is in metres: a box of 2 × 3 × 4 m
    assert volume(path) == pytest.approx(24 * 1000**3)
    lacking = zipped(tmp_path / "lacking.zip", **{n: data for n, data in files.items() if not n.endswith(".bin")})
    with pytest.raises(InputError, match="not in the archive: pack it too"):
        read_model(lacking, lacking.name)
    document = json.loads(files["model.gltf"])
    outside = tmp_path / "outside.bin"
    outside.write_bytes(next(data for name, data in files.items() if name.endswith(".bin")))
    document["buffers"][0]["uri"] = "../outside.bin"
    lured = zipped(tmp_path / "lured.zip", **{"model.gltf": json.dumps(document).encode()})
    with pytest.raises(InputError, match="not in the archive"):
        read_model(lured, lured.name)


def test_an_obj_has_the_colours_of_its_materials(tmp_path: Path) -> None:
    obj = b"mtllib box.mtl\no Box\nv 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 0 1\nusemtl red\nf 1 3 2\nf 1 2 4\nf 1 4 3\nf 2 3 4\n"
    mtl = b"newmtl red\nKd 1.0 0.0 0.0\n"
    path = zipped(tmp_path / "box.zip", **{"box.obj": obj, "box.mtl": mtl})
    (leaf,) = read_model(path, path.name).tree.leaves()
    assert leaf.colour == "#ff0000"
    assert read_model(path, path.name).tree.lost == ()
    alone = zipped(tmp_path / "alone.zip", **{"box.obj": obj})
    assert "box.mtl" in " ".join(read_model(alone, alone.name).tree.lost)


def test_archives_that_cannot_be_read_are_told_in_a_sentence(
    stand: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    data = stand.read_bytes()
    two = zipped(tmp_path / "two.zip", **{"one.step": data, "two.step": data})
    with pytest.raises(InputError, match=r"several models: one\.step, two\.step"):
        read_model(two, "two.zip")
    for name, content, words in (
        ("none.zip", zipped(tmp_path / "none.zip", **{"a.txt": b"x"}).read_bytes(), "holds no model"),
        ("cut.zip", two.read_bytes()[:900], "no whole ZIP"),
        ("cut.stpz", gzip.compress(data)[:900], "cut short"),
        ("plain.stpz", data, "not packed"),
        ("other.gz", gzip.compress(b"hello"), "not a STEP file"),
    ):
        (tmp_path / name).write_bytes(content)
        with pytest.raises(InputError, match=words):
            read_model(tmp_path / name, name)
    # nothing leaves the folder that it is unpacked into
    lure = zipped(tmp_path / "lure.zip", **{"../out.step": data, "/abs.step": data, "in.step": data})
    assert len(read_model(lure, "lure.zip").tree.leaves()) == 2
    assert not (tmp_path.parent / "out.step").exists()
    # a few kilobytes that unpack to a gigabyte
    monkeypatch.setattr(packed, "MOST_BYTES", 1_000_000)
    bomb = io.BytesIO()
    with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("bomb.step", b"\0" * 5_000_000)
    (tmp_path / "bomb.zip").write_bytes(bomb.getvalue())
    (tmp_path / "bomb.stpz").write_bytes(gzip.compress(b"\0" * 5_000_000))
    for name in ("bomb.zip", "bomb.stpz"):
        with pytest.raises(InputError, match="unpacks to more than"):
            read_model(tmp_path / name, name)
