"""Small whole files of every format that Skalto takes, to be damaged."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path
from typing import Any

import ezdxf
import trimesh

from skalto.core.job import JobDocument
from skalto.core.pens import SHIPPED, pens_to_json
from skalto.core.recipes import SHIPPED_RECIPES, recipe_to_json
from skalto.core.sheets.content import ProjectionContent
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.section import SourceRef
from skalto.store.blobs import content_hash
from tests.conftest import plate_with_holes, write_step
from tests.saved import packed_job

FORMATS = (
    "step", "iges", "brep", "stl", "obj", "ply", "gltf", "glb", "dxf", "svg", "pdf", "u3d", "zip", "recipe", "pens",
)  # fmt: skip

SVG = """<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"
width="120mm" height="80mm" viewBox="0 0 120 80">
<style>.a{stroke:#f00;fill:none;stroke-width:.3} .b{fill:url(#g)}</style>
<defs><linearGradient id="g"><stop offset="0" stop-color="#fff"/><stop offset="1" stop-color="#00f"/></linearGradient>
<symbol id="s" viewBox="0 0 10 10"><circle cx="5" cy="5" r="4" class="a"/></symbol>
<clipPath id="c"><rect x="10" y="10" width="50" height="30"/></clipPath>
<marker id="m" markerWidth="4" markerHeight="4" refX="2" refY="2"><path d="M0 0L4 2L0 4z"/></marker></defs>
<g transform="translate(5 5) rotate(10)" clip-path="url(#c)"><rect class="a" width="60" height="40" rx="3"/>
<path class="b" d="M10 10 C 20 20, 40 20, 50 10 S 80 0 90 10 A 5 8 30 0 1 95 20 Z"/>
<use xlink:href="#s" x="20" y="20" width="12" height="12"/></g>
<polyline class="a" points="0,0 10,10 20,5" marker-end="url(#m)"/>
<text x="10" y="60" font-size="4">Cheek <tspan dy="2">left</tspan></text><ellipse cx="80" cy="60" rx="12" ry="7" class="a"/>
<line x1="0" y1="79" x2="120" y2="79" class="a" stroke-dasharray="3 1"/></svg>"""


def _drawing(path: Path) -> None:
    document: Any = ezdxf.new("R2010", setup=True)
    document.units = 4
    document.layers.add("CUT", color=1)
    space = document.modelspace()
    block = document.blocks.new("BOLT")
    block.add_circle((0, 0), 3)
    block.add_attdef("SIZE", (0, 0), dxfattribs={"height": 2})
    space.add_line((0, 0), (100, 0), dxfattribs={"layer": "CUT"})
    space.add_lwpolyline([(0, 0, 0, 0, 0.5), (60, 0), (60, 40), (0, 40)], format="xyseb", close=True)
    space.add_circle((30, 20), 12)
    space.add_arc((30, 20), 16, 20, 140)
    space.add_ellipse((80, 20), (10, 5), 0.4)
    space.add_spline([(0, 60), (10, 70), (30, 65), (50, 80)])
    space.add_text("Cheek", dxfattribs={"height": 4}).set_placement((10, 50))
    space.add_mtext("Ink {\\H1.5x;tray}\\P\\S1/2;", dxfattribs={"char_height": 3, "insert": (60, 60)})
    hatch = space.add_hatch(color=3)
    hatch.set_pattern_fill("ANSI31", scale=0.5)
    hatch.paths.add_polyline_path([(0, 0), (20, 0), (20, 10)], is_closed=True)
    space.add_blockref("BOLT", (20, 20), dxfattribs={"xscale": 2, "row_count": 2, "column_count": 3, "row_spacing": 9})
    space.add_linear_dim(base=(0, -10), p1=(0, 0), p2=(60, 0)).render()
    space.add_leader([(0, 0), (10, 10), (20, 10)])
    document.layout("Layout1").add_viewport((100, 100), (150, 100), (30, 20), 80)
    document.saveas(path)


def make(format_: str, folder: Path) -> Path:
    """A whole file of a format in a folder."""
    path = folder / f"seed.{format_}"
    plate = folder / "plate.step"
    if format_ == "step":
        write_step(plate_with_holes(), path)
    elif format_ == "iges":
        from OCP.IGESControl import IGESControl_Writer

        writer = IGESControl_Writer("MM", 1)
        writer.AddShape(plate_with_holes())
        writer.ComputeModel()
        writer.Write(str(path))
    elif format_ == "brep":
        from OCP.BRepTools import BRepTools

        BRepTools.Write_s(plate_with_holes(), str(path))
    elif format_ in ("stl", "obj", "ply", "glb", "gltf"):
        _mesh(format_, path)
    elif format_ == "dxf":
        _drawing(path)
    elif format_ == "svg":
        path.write_text(SVG)
    elif format_ == "pdf":
        from tests.campaigns.trying import read_and_write

        (folder / "drawn.svg").write_text(SVG)
        read_and_write(str(folder / "drawn.svg"), str(path), lambda share, text: None)
    elif format_ == "u3d":
        from skalto.services.commands.scenes import write_scene

        write_step(plate_with_holes(), plate)
        options = {"where": "field", "quality": "draft", "classes": ""}
        write_scene(str(plate), str(path), options, False, lambda share, text: None)
    elif format_ == "zip":
        data = b"ISO-10303-21; a plate; END-ISO-10303-21;" * 40
        source = content_hash(data)
        view = ViewSpec(id="v", source=source, name="front", content=ProjectionContent(look=(0, 1, 0), up=(0, 0, 1)))
        sheet = SheetSpec(id="s", name="Plate", views=(view,))
        document = JobDocument(name="Ebba", sources=(SourceRef(id=source, name="plate.step", size=len(data)),), sheets=(sheet,))
        path.write_bytes(packed_job(document, "0042", {source: data})[1])
    elif format_ == "recipe":
        path.write_bytes(recipe_to_json(SHIPPED_RECIPES[2]))
    elif format_ == "pens":
        path.write_bytes(pens_to_json(SHIPPED[0]))
    else:
        raise AssertionError(format_)
    return path


def _mesh(format_: str, path: Path) -> None:
    scene = trimesh.Scene()
    scene.add_geometry(trimesh.creation.box((10, 20, 30)), node_name="Box", geom_name="Box")
    ball = trimesh.creation.icosphere(subdivisions=1, radius=5)
    scene.add_geometry(
        ball, node_name="Ball", geom_name="Ball", transform=trimesh.transformations.translation_matrix((20, 0, 0))
    )
    if format_ == "gltf":
        files = trimesh.exchange.gltf.export_gltf(scene, embed_buffers=True)
        path.write_bytes(files["model.gltf"])
    elif format_ == "glb":
        path.write_bytes(scene.export(file_type="glb"))
    else:
        path.write_bytes(_bytes(scene.to_mesh().export(file_type=format_)))


def _bytes(data: Any) -> bytes:
    return data.encode() if isinstance(data, str) else bytes(data)


def all_seeds() -> dict[str, bytes]:
    """A whole file of every format."""
    with tempfile.TemporaryDirectory() as folder:
        made = {format_: make(format_, Path(folder)).read_bytes() for format_ in FORMATS}
    json.loads(made["recipe"])
    return made
