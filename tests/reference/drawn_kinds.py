"""A small DXF drawing for every kind of entity that ezdxf resolves, each within 100 × 100 mm, made with ezdxf."""

from __future__ import annotations

import math
from collections.abc import Callable
from pathlib import Path
from typing import Any

import ezdxf
from ezdxf.enums import TextEntityAlignment
from ezdxf.math import Matrix44, Vec2
from ezdxf.render import forms, mleader

Build = Callable[[Any, Any, Path], None]
STYLE = {"style": "Sans"}


def _curves(doc: Any, msp: Any, folder: Path) -> None:
    msp.add_circle((30, 70), 20)
    msp.add_arc((70, 70), 20, 30, 250)
    msp.add_ellipse((30, 25), (22, 8), 0.4)
    msp.add_ellipse((70, 25), (0, 20), 0.5, 0.5, 4.0)


def _splines(doc: Any, msp: Any, folder: Path) -> None:
    msp.add_open_spline([(5, 10), (20, 60), (40, 0), (60, 50)])
    msp.add_open_spline([(5, 60), (15, 95), (35, 70)], degree=2)
    msp.add_open_spline([(45, 60), (55, 95), (65, 55), (75, 95), (90, 60), (95, 80)], degree=5)
    msp.add_rational_spline([(60, 5), (95, 5), (95, 40)], weights=[1, math.sqrt(0.5), 1], degree=2)
    msp.add_spline([(10, 40), (30, 45), (50, 35), (80, 48)])
    msp.add_spline([(70, 15), (90, 15), (85, 30), (72, 28), (70, 15)])


def _polylines(doc: Any, msp: Any, folder: Path) -> None:
    msp.add_lwpolyline([(5, 5, 0.0), (40, 5, 0.5), (40, 35, -0.3), (5, 35, 0.0)], format="xyb", close=True)
    msp.add_lwpolyline([(55, 5, 2, 2, 0.4), (95, 5, 2, 5, 0), (95, 35, 5, 0, 0)], format="xyseb")
    msp.add_polyline2d([(5, 50, 0.3), (40, 50, 0), (40, 80, 1.0)], format="xyb", close=True)
    msp.add_polyline3d([(55, 50, 3), (95, 55, 9), (60, 80, 1), (95, 90, 0)])


def _meshes(doc: Any, msp: Any, folder: Path) -> None:
    cube = forms.cube().scale_uniform(20)
    cube.render_mesh(msp, matrix=Matrix44.translate(25, 25, 0))
    turned = Matrix44.chain(Matrix44.xyz_rotate(0.4, 0.5, 0), Matrix44.translate(70, 30, 0))
    cube.render_polyface(msp, matrix=turned)
    mesh = msp.add_polymesh((4, 4))
    for m in range(4):
        for n in range(4):
            mesh.set_mesh_vertex((m, n), (10 + m * 12 + n * 3, 55 + n * 11, m * n))
    msp.add_3dface([(60, 60, 0), (95, 62, 4), (90, 95, 2), (62, 90, 1)])


def _solids(doc: Any, msp: Any, folder: Path) -> None:
    msp.add_solid([(5, 5), (40, 5), (5, 40), (40, 30)])
    msp.add_trace([(55, 5), (95, 10), (60, 40), (90, 45)])
    msp.add_solid([(5, 60), (40, 60), (22, 95)], {"color": 3})


def _hatches(doc: Any, msp: Any, folder: Path) -> None:
    solid = msp.add_hatch(color=1)
    solid.paths.add_polyline_path([(5, 5), (45, 5), (45, 45), (5, 45)], flags=1)
    solid.paths.add_polyline_path([(15, 15), (35, 15, 0.6), (35, 35), (15, 35)], flags=16)
    pattern = msp.add_hatch(color=5)
    pattern.set_pattern_fill("ANSI31", scale=2)
    edges = pattern.paths.add_edge_path()
    edges.add_arc((75, 25), 20, 0, 360)
    net = msp.add_hatch(color=7)
    net.set_pattern_fill("NET", scale=3)
    net.paths.add_polyline_path([(5, 55), (45, 60), (40, 95), (10, 90)])
    curved = msp.add_hatch(color=30)
    path = curved.paths.add_edge_path()
    path.add_line((60, 60), (90, 60))
    path.add_ellipse((75, 60), (15, 0), 0.8, 0, 180)


def _mpolygon(doc: Any, msp: Any, folder: Path) -> None:
    polygon = msp.add_mpolygon(color=1, fill_color=5)
    polygon.paths.add_polyline_path([(10, 10), (90, 10), (90, 90), (10, 90)])
    polygon.paths.add_polyline_path([(30, 30), (70, 30), (50, 70)])


def _blocks(doc: Any, msp: Any, folder: Path) -> None:
    inner = doc.blocks.new("INNER")
    inner.add_circle((0, 0), 4)
    inner.add_line((0, 0), (6, 0), {"color": 0})
    block = doc.blocks.new("PART", base_point=(2, 1))
    block.add_lwpolyline([(0, 0), (12, 0, 0, 0, 0.4), (12, 8), (0, 8)], close=True)
    block.add_blockref("INNER", (6, 4), {"xscale": 0.6, "yscale": 0.6})
    msp.add_blockref("PART", (10, 10))
    msp.add_blockref("PART", (40, 10), {"xscale": 2, "yscale": 1, "rotation": 30, "color": 1})
    msp.add_blockref("PART", (95, 15), {"xscale": -1.5, "yscale": 1.5})
    msp.add_blockref("PART", (10, 50), {"column_count": 3, "row_count": 2, "column_spacing": 22, "row_spacing": 18})
    msp.add_blockref("PART", (-90, 80), {"extrusion": (0, 0, -1)})


def _attributes(doc: Any, msp: Any, folder: Path) -> None:
    block = doc.blocks.new("TAG")
    block.add_circle((0, 0), 10)
    block.add_attdef("NO", (-4, -3), "?", height=6, dxfattribs=STYLE)
    for number, at in (("12", (25, 30)), ("7", (70, 60))):
        insert = msp.add_blockref("TAG", at)
        insert.add_auto_attribs({"NO": number})


def _texts(doc: Any, msp: Any, folder: Path) -> None:
    for n, align in enumerate((TextEntityAlignment.LEFT, TextEntityAlignment.MIDDLE_CENTER, TextEntityAlignment.TOP_RIGHT)):
        msp.add_text(f"Align {n}", height=6, dxfattribs=STYLE).set_placement((40, 90 - 12 * n), align=align)
    msp.add_text("Turned", height=7, rotation=35, dxfattribs=STYLE).set_placement((60, 55))
    msp.add_text("Wide", height=6, dxfattribs=STYLE | {"width": 1.8}).set_placement((5, 45))
    msp.add_text("Lean", height=6, dxfattribs=STYLE | {"oblique": 20}).set_placement((5, 33))
    msp.add_text("Mirror", height=6, dxfattribs=STYLE | {"text_generation_flag": 2}).set_placement((60, 22))
    msp.add_text("Fitted", height=6, dxfattribs=STYLE).set_placement((5, 10), (50, 10), align=TextEntityAlignment.FIT)
    msp.add_text("Aligned", height=6, dxfattribs=STYLE).set_placement((55, 5), (95, 12), align=TextEntityAlignment.ALIGNED)


def _formatted(doc: Any, msp: Any, folder: Path) -> None:
    plain = msp.add_mtext("One note on\\Ptwo lines", dxfattribs=STYLE | {"char_height": 6, "width": 60})
    plain.set_location((5, 95))
    rich = msp.add_mtext(
        "{\\H8;Large} and {\\C1;red} and {\\W1.5;wide}\\Pnext", dxfattribs=STYLE | {"char_height": 5, "width": 90}
    )
    rich.set_location((5, 60))
    turned = msp.add_mtext("Turned\\Pby 30", dxfattribs=STYLE | {"char_height": 6})
    turned.set_location((60, 20), rotation=30, attachment_point=5)


def _dimensions(doc: Any, msp: Any, folder: Path) -> None:
    over = {"dimtxsty": "Sans", "dimtxt": 4, "dimasz": 3, "dimexo": 1, "dimexe": 1.5, "dimblk": "", "dimdec": 0}
    msp.add_linear_dim(base=(0, 8), p1=(10, 20), p2=(60, 25), override=over).render()
    msp.add_aligned_dim(p1=(10, 30), p2=(55, 45), distance=8, override=over).render()
    msp.add_radius_dim((80, 70), radius=14, angle=45, override=over).render()
    msp.add_diameter_dim((75, 25), radius=14, angle=120, override=over).render()
    msp.add_angular_dim_2l(base=(28, 75), line1=((10, 60), (40, 60)), line2=((10, 60), (35, 85)), override=over).render()
    msp.add_ordinate_x_dim((85, 45), offset=(5, 8), origin=(0, 0), override=over).render()


def _leaders(doc: Any, msp: Any, folder: Path) -> None:
    msp.add_leader([(10, 10), (40, 40), (60, 40)], override={"dimasz": 4})
    builder = msp.add_multileader_mtext("Standard")
    builder.set_content("Bore", style="Sans", char_height=5)
    builder.add_leader_line(mleader.ConnectionSide.left, [Vec2(10, 70)])
    builder.build(insert=Vec2(50, 80))


def _picture(doc: Any, msp: Any, folder: Path) -> None:
    # a picture is a file of its own, which is not opened: both draw its frame
    definition = doc.add_image_def(filename="picture.png", size_in_pixel=(60, 40))
    image = msp.add_image(definition, insert=(15, 20), size_in_units=(60, 40), rotation=20)
    image.dxf.flags = 0


def _cover(doc: Any, msp: Any, folder: Path) -> None:
    msp.add_circle((50, 50), 40)
    msp.add_wipeout([(30, 30), (70, 70)])
    msp.add_line((35, 35), (65, 65), {"color": 1})


def _points(doc: Any, msp: Any, folder: Path) -> None:
    doc.header["$PDMODE"], doc.header["$PDSIZE"] = 35, 8
    for x in (20, 50, 80):
        msp.add_point((x, 40 + x / 4))


def _lines(doc: Any, msp: Any, folder: Path) -> None:
    for n, (kind, weight) in enumerate((("CONTINUOUS", 13), ("DASHED", 25), ("CENTER", 50), ("DASHDOT", 35), ("DOTTED2", 70))):
        msp.add_line((5, 10 + 12 * n), (95, 14 + 12 * n), {"linetype": kind, "lineweight": weight, "ltscale": 10})
    doc.layers.add("RED", color=1, linetype="DASHED", lineweight=50)
    msp.add_arc((50, 82), 14, 10, 200, dxfattribs={"layer": "RED", "ltscale": 6})
    msp.add_lwpolyline([(5, 75), (30, 90), (5, 95)], dxfattribs={"true_color": 0x2060C0, "lineweight": 100})


def _endless(doc: Any, msp: Any, folder: Path) -> None:
    # they go as far as what else is drawn
    msp.add_lwpolyline([(0.2, 0.2), (99.8, 0.2), (99.8, 99.8), (0.2, 99.8)], close=True)
    msp.add_circle((50, 50), 30)
    msp.add_ray((50, 50), (1, 0.5))
    msp.add_xline((50, 50), (0.3, 1))


def _tilted(doc: Any, msp: Any, folder: Path) -> None:
    msp.add_circle((-30, 30), 20, {"extrusion": (0, 0, -1)})
    msp.add_arc((-70, 30), 20, 0, 120, dxfattribs={"extrusion": (0, 0, -1)})
    msp.add_lwpolyline(
        [(-10, 60, 0.5), (-40, 60, 0), (-40, 90, 0)], format="xyb", close=True, dxfattribs={"extrusion": (0, 0, -1)}
    )
    msp.add_circle((20, 70), 20, {"extrusion": (1, 0, 1)})


def _clipped(doc: Any, msp: Any, folder: Path) -> None:
    from ezdxf import xclip

    block = doc.blocks.new("CUT")
    for n in range(10):
        block.add_line((0, n * 8), (80, n * 8 + 5))
    block.add_circle((40, 40), 30)
    insert = msp.add_blockref("CUT", (10, 10))
    xclip.XClip(insert).set_block_clipping_path([(15, 15), (65, 15), (65, 60), (15, 60)])


def _multiline(doc: Any, msp: Any, folder: Path) -> None:
    style = doc.mline_styles.new("Wall")
    style.elements.append(3.0, 1)
    style.elements.append(0.0, 5)
    style.elements.append(-3.0, 1)
    msp.add_mline([(10, 10), (90, 20), (80, 80), (20, 70)], dxfattribs={"style_name": "Wall"})


KINDS: dict[str, Build] = {
    "circles, arcs, ellipses": _curves,
    "splines": _splines,
    "polylines": _polylines,
    "meshes and faces": _meshes,
    "solids": _solids,
    "hatches": _hatches,
    "mpolygon": _mpolygon,
    "blocks": _blocks,
    "attributes": _attributes,
    "text": _texts,
    "formatted text": _formatted,
    "dimensions": _dimensions,
    "leaders": _leaders,
    "picture": _picture,
    "wipeout": _cover,
    "points": _points,
    "line types and widths": _lines,
    "rays": _endless,
    "tilted": _tilted,
    "clipped block": _clipped,
    "multiline": _multiline,
}


def build(kind: str, folder: Path, version: str = "R2010") -> Path:
    """The drawing of a kind as a DXF file."""
    doc: Any = ezdxf.new(version, setup=True, units=4)
    doc.styles.add("Sans", font="LiberationSans.ttf")
    KINDS[kind](doc, doc.modelspace(), folder)
    path = folder / "drawn.dxf"
    doc.saveas(path)
    return path
