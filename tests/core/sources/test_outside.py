"""No file makes Skalto open another: files that name others are read under strace, C code included."""

from __future__ import annotations

import base64
import json
import os
import re
import struct
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

import ezdxf
import pikepdf
import pytest
from pikepdf import Dictionary, Name
from PIL import Image

from skalto.core.sources.reading import read_model

CORNERS = struct.pack("<12f", 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1)
FACES = struct.pack("<12H", 0, 1, 2, 0, 1, 3, 0, 2, 3, 1, 2, 3)
WAYS = (
    "{lure}{end}",
    "file://{lure}{end}",
    "lure{end}",
    "../lure{end}",
    "\\\\\\\\127.0.0.1\\\\lure{end}",
    "http://127.0.0.1:9/lure{end}",
)


def named(folder: Path, end: str) -> list[str]:
    """The lure by every kind of address."""
    return [way.format(lure=folder / "lure", end=end) for way in WAYS]


def dxf(folder: Path) -> Path:
    document = ezdxf.new("R2010")
    space = document.modelspace()
    space.add_line((0, 0), (5, 5))
    for number, address in enumerate(named(folder, ".png")):
        space.add_image(document.add_image_def(filename=address, size_in_pixel=(8, 8)), (0, 0), (10, 10))
        document.add_xref_def(address.replace(".png", ".dxf"), f"X{number}")
        space.add_blockref(f"X{number}", (0, 0))
        underlay = document.add_underlay_def(filename=address.replace(".png", ".pdf"), fmt="pdf")
        space.add_underlay(underlay, (0, 0, 0))
        document.styles.add(f"S{number}", font=address.replace(".png", ".ttf"))
        space.add_text("text", dxfattribs={"style": f"S{number}", "height": 2})
        document.styles.add_shx(address.replace(".png", ".shx"))
    document.saveas(folder / "named.dxf")
    return folder / "named.dxf"


def svg(folder: Path) -> Path:
    text = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="10mm" height="10mm">'
    for address in named(folder, ".png"):
        text += f'<image xlink:href="{address}" width="5" height="5"/><use xlink:href="{address}#a"/>'
        text += f"<style>@import url({address}); @font-face{{font-family:x;src:url({address})}}</style>"
        text += f'<path d="M0 0L5 5" stroke="black" fill="url({address}#g)" style="marker-end:url({address}#m)"/>'
    (folder / "named.svg").write_text(text + "</svg>")
    return folder / "named.svg"


def declared(folder: Path) -> Path:
    head = f'<?xml version="1.0"?><!DOCTYPE svg SYSTEM "{folder}/lure.dtd" [<!ENTITY x SYSTEM "file://{folder}/lure.png">]>'
    (folder / "declared.svg").write_text(f'{head}<svg xmlns="http://www.w3.org/2000/svg"><text>&x;</text></svg>')
    return folder / "declared.svg"


def pdf(folder: Path) -> Path:
    made = pikepdf.new()
    made.add_blank_page(page_size=(200, 200))
    page = made.pages[0]
    content = made.make_stream(b"0 0 m 100 100 l S /P Do")
    form = made.make_stream(b"", Type=Name.XObject, Subtype=Name.Form, BBox=[0, 0, 9, 9], F=f"{folder}/lure.png")
    picture = Dictionary(Type=Name.Filespec, F=f"{folder}/lure.png", UF=f"{folder}/lure.png")
    form.Ref = Dictionary(F=picture, Page=0)
    page.Contents, page.Resources = content, Dictionary(XObject=Dictionary(P=form))
    made.Root.OpenAction = Dictionary(S=Name.Launch, F=picture)
    made.save(folder / "named.pdf")
    return folder / "named.pdf"


def _gltf(folder: Path, buffers: list[dict[str, Any]]) -> dict[str, Any]:
    images = [{"uri": address} for address in named(folder, ".png")]
    return {
        "asset": {"version": "2.0"},
        "buffers": buffers,
        "bufferViews": [{"buffer": 0, "byteLength": 48}, {"buffer": 0, "byteOffset": 48, "byteLength": 24}],
        "accessors": [
            {"bufferView": 0, "componentType": 5126, "count": 4, "type": "VEC3", "min": [0, 0, 0], "max": [1, 1, 1]},
            {"bufferView": 1, "componentType": 5123, "count": 12, "type": "SCALAR"},
        ],
        "images": images,
        "textures": [{"source": n} for n in range(len(images))],
        "materials": [{"pbrMetallicRoughness": {"baseColorTexture": {"index": n}}} for n in range(len(images))],
        "meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "indices": 1, "material": 0}]}],
        "nodes": [{"mesh": 0}],
        "scenes": [{"nodes": [0]}],
        "scene": 0,
    }


def gltf(folder: Path) -> Path:
    own = "data:application/octet-stream;base64," + base64.b64encode(CORNERS + FACES).decode()
    (folder / "named.gltf").write_text(json.dumps(_gltf(folder, [{"byteLength": 72, "uri": own}])))
    return folder / "named.gltf"


def gltf_elsewhere(folder: Path) -> Path:
    (folder / "elsewhere.gltf").write_text(json.dumps(_gltf(folder, [{"byteLength": 72, "uri": f"{folder}/lure.bin"}])))
    return folder / "elsewhere.gltf"


def glb(folder: Path) -> Path:
    also = [{"byteLength": 72, "uri": address} for address in named(folder, ".bin")]
    text = json.dumps(_gltf(folder, [{"byteLength": 72}, *also])).encode()
    text += b" " * (-len(text) % 4)
    data = CORNERS + FACES
    parts = struct.pack("<II", len(text), 0x4E4F534A) + text + struct.pack("<II", len(data), 0x004E4942) + data
    (folder / "named.glb").write_bytes(b"glTF" + struct.pack("<II", 2, 12 + len(parts)) + parts)
    return folder / "named.glb"


def obj(folder: Path) -> Path:
    text = "".join(f"mtllib {address}\n" for address in named(folder, ".mtl"))
    (folder / "named.obj").write_text(
        text + "usemtl a\nv 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 0 1\nf 1 2 3\nf 1 2 4\nf 1 3 4\nf 2 3 4\n"
    )
    return folder / "named.obj"


def ply(folder: Path) -> Path:
    head = "".join(f"comment TextureFile {address}\n" for address in named(folder, ".png"))
    text = f"ply\nformat ascii 1.0\n{head}element vertex 4\nproperty float x\nproperty float y\nproperty float z\n"
    text += "element face 4\nproperty list uchar int vertex_indices\nend_header\n"
    (folder / "named.ply").write_text(text + "0 0 0\n1 0 0\n0 1 0\n0 0 1\n3 0 1 2\n3 0 1 3\n3 0 2 3\n3 1 2 3\n")
    return folder / "named.ply"


def step(folder: Path, plate: Path) -> Path:
    """The plate, with a component whose geometry another file holds (ISO 10303-214: document_file, applied_external_ref)."""
    text = plate.read_text()
    first = max(int(number) for number in re.findall(r"^#(\d+)", text, re.M)) + 1
    product = re.search(r"#(\d+) = PRODUCT_DEFINITION\(", text)
    assert product is not None
    rows = []
    for n, address in enumerate([*named(folder, ".stp"), f"{folder}/lure.step"]):
        at = first + 10 * n
        rows.append(
            f"#{at}=DOCUMENT_FILE('{address}','',$,#{at + 1},'',$);\n#{at + 1}=DOCUMENT_TYPE('');\n"
            f"#{at + 2}=CHARACTERIZED_OBJECT('{address}','');\n"
            f"#{at + 3}=APPLIED_DOCUMENT_REFERENCE(#{at},'',(#{product[1]}));\n"
            f"#{at + 4}=ROLE_ASSOCIATION(#{at + 5},#{at + 3});\n#{at + 5}=OBJECT_ROLE('mandatory',$);\n"
            f"#{at + 6}=DOCUMENT_REPRESENTATION_TYPE('digital',#{at});\n"
            f"#{at + 7}=EXTERNALLY_DEFINED_ITEM(IDENTIFIER('{address}'),#{at + 8});\n"
            f"#{at + 8}=EXTERNAL_SOURCE(IDENTIFIER('{address}'));\n"
            f"#{at + 9}=APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT('{address}',#{at + 5},#{at + 8},(#{at}));\n"
        )
    head, tail = text.rsplit("ENDSEC;", 1)
    (folder / "named.step").write_text(head + "".join(rows) + "ENDSEC;" + tail)
    return folder / "named.step"


MAKERS: dict[str, Callable[[Path], Path]] = {
    "DXF": dxf, "SVG": svg, "SVG with entities": declared, "PDF": pdf, "glTF": gltf, "glTF, all elsewhere": gltf_elsewhere,
    "glb": glb, "OBJ": obj, "PLY": ply,
}  # fmt: skip


def test_nothing_outside_of_a_file_is_opened(tmp_path: Path, plate_step: Path) -> None:
    for end in (".png", ".dxf", ".pdf", ".ttf", ".shx", ".bin", ".mtl", ".stp", ".step", ".dtd"):
        (tmp_path / f"lure{end}").write_bytes(CORNERS + FACES)
    Image.new("RGB", (8, 8), (255, 0, 0)).save(tmp_path / "lure.png")
    (tmp_path / "lure.stp").write_bytes(plate_step.read_bytes())
    (tmp_path / "lure.step").write_bytes(plate_step.read_bytes())
    files = [make(tmp_path) for make in MAKERS.values()] + [step(tmp_path, plate_step)]
    log = tmp_path / "calls"
    script = (
        "import sys\nfrom tests.campaigns.trying import read_and_write\nfrom skalto.core.errors import InputError\n"
        "for path in sys.argv[2:]:\n    try: print(path, read_and_write(path, sys.argv[1], lambda s, t: None))\n"
        "    except InputError as error: print(path, error)\n"
    )
    ran = subprocess.run(
        ["strace", "-f", "-qq", "-e", "trace=%file,%network", "-s", "400", "-o", str(log), sys.executable, "-c", script,
         str(tmp_path / "out.pdf"), *map(str, files)],
        capture_output=True, text=True, cwd=tmp_path, env=os.environ | {"PYTHONPATH": str(Path.cwd())}, check=False,
    )  # fmt: skip
    assert ran.returncode == 0, ran.stderr[-2000:]
    calls = log.read_text(errors="replace").splitlines()
    # the files themselves are seen, so that strace saw at all
    for file in files:
        assert any(f'"{file}"' in call for call in calls), file
    assert [call for call in calls if "lure" in call] == [], ran.stdout
    # nothing goes out: no socket but those of the process's own family
    assert [call for call in calls if re.search(r"\b(connect|sendto)\(.*AF_INET", call)] == []


def test_what_was_left_out_is_told(tmp_path: Path, skalto_quick: Callable[..., subprocess.CompletedProcess[str]]) -> None:
    done = skalto_quick("export", dxf(tmp_path), "--out", tmp_path / "a.pdf", "--scale", "largest", "--force", "--units", "mm")
    assert "The picture lure.png is a file of its own, which is not opened: its frame is drawn." in done.stdout
    assert "other drawing that this one refers to, left out: " in done.stdout
    assert "is drawn by Liberation Sans" in done.stdout


@pytest.mark.parametrize(
    ("make", "words"),
    [
        (
            lambda folder, plate: step(folder, plate),
            "The file refers to lure.stp, which is not opened: parts in it are missing.",
        ),
        (lambda folder, plate: obj(folder), "Its materials are in lure.mtl, which is not opened: parts have no colours."),
        (lambda folder, plate: gltf(folder), "The picture lure.png is a file of its own, which is not opened: it is left out."),
    ],
    ids=["STEP", "OBJ", "glTF"],
)
def test_what_a_model_names_is_told(make: Callable[[Path, Path], Path], words: str, tmp_path: Path, plate_step: Path) -> None:
    path = make(tmp_path, plate_step)
    model = read_model(path, path.name)
    assert words in model.tree.lost
    assert len(model.tree.lost) < 5
    assert read_model(plate_step, "plate.step").tree.lost == ()
    assert not (tmp_path / "alone.step").exists()
