# ruff: noqa: E501
"""A page for every kind of thing that a PDF page may paint (ISO 32000-1), each of 100 × 100 mm, by its operators in mm."""

from __future__ import annotations

import io
from collections.abc import Callable
from typing import Any

import pikepdf
from fontTools.ttLib import TTFont
from pikepdf import Array, Dictionary, Name, Pdf

from skalto.core.lettering import FACES

MM = 72 / 25.4
Resources = Callable[[Pdf], dict[str, Any]]


def _form(pdf: Pdf, content: str, box: tuple[float, ...] = (0, 0, 100, 100), **more: Any) -> Any:
    form = pdf.make_stream(content.encode())
    form.Type, form.Subtype = Name.XObject, Name.Form
    form.BBox = Array(list(box))
    for key, value in more.items():
        form[f"/{key}"] = value
    return form


def _function(pdf: Pdf, a: list[float], b: list[float]) -> Any:
    return Dictionary(FunctionType=2, Domain=Array([0, 1]), C0=Array(a), C1=Array(b), N=1)


def _axial(pdf: Pdf) -> dict[str, Any]:
    shading = Dictionary(
        ShadingType=2,
        ColorSpace=Name.DeviceRGB,
        Coords=Array([10, 0, 90, 0]),
        Function=_function(pdf, [1, 0, 0], [0, 0, 1]),
        Extend=Array([True, True]),
    )
    pattern = Dictionary(Type=Name.Pattern, PatternType=2, Shading=shading, Matrix=Array([MM, 0, 0, MM, 0, 0]))
    return {"Shading": Dictionary(S=shading), "Pattern": Dictionary(P=pattern)}


def _radial(pdf: Pdf) -> dict[str, Any]:
    shading = Dictionary(
        ShadingType=3,
        ColorSpace=Name.DeviceRGB,
        Coords=Array([50, 50, 5, 50, 50, 40]),
        Function=_function(pdf, [1, 1, 0], [0, 0.5, 0]),
    )
    return {"Shading": Dictionary(S=shading)}


def _tiles(pdf: Pdf) -> dict[str, Any]:
    tile = pdf.make_stream(b"1 w 0 0 m 8 8 l S")
    for key, value in {
        "Type": Name.Pattern,
        "PatternType": 1,
        "PaintType": 1,
        "TilingType": 1,
        "BBox": Array([0, 0, 8, 8]),
        "XStep": 8,
        "YStep": 8,
        "Resources": Dictionary(),
        "Matrix": Array([MM, 0, 0, MM, 0, 0]),
    }.items():
        tile[f"/{key}"] = value
    return {"Pattern": Dictionary(P=tile)}


def _states(pdf: Pdf) -> dict[str, Any]:
    return {
        "ExtGState": Dictionary(
            H=Dictionary(CA=0.5, ca=0.5), M=Dictionary(BM=Name.Multiply), W=Dictionary(LW=3, LC=1, D=Array([Array([6, 4]), 0]))
        )
    }


def _mask(pdf: Pdf) -> dict[str, Any]:
    shading = Dictionary(
        ShadingType=2, ColorSpace=Name.DeviceGray, Coords=Array([0, 0, 100, 0]), Function=_function(pdf, [0], [1])
    )
    group = _form(
        pdf,
        "/S sh",
        Resources=Dictionary(Shading=Dictionary(S=shading)),
        Group=Dictionary(S=Name.Transparency, CS=Name.DeviceGray),
    )
    return {"ExtGState": Dictionary(K=Dictionary(SMask=Dictionary(S=Name.Luminosity, G=group)))}


def _forms(pdf: Pdf) -> dict[str, Any]:
    inner = _form(pdf, "2 2 16 16 re S 0 0 m 40 20 l S", (0, 0, 20, 20))
    outer = _form(
        pdf,
        "1 0 0 RG 2 w q 1 0 0 1 5 5 cm /I Do Q q .8 .6 -.6 .8 60 10 cm /I Do Q",
        Resources=Dictionary(XObject=Dictionary(I=inner)),
        Matrix=Array([1, 0, 0, 1, 5, 30]),
    )
    return {"XObject": Dictionary(F=outer)}


def _group(pdf: Pdf) -> dict[str, Any]:
    group = _form(pdf, "1 0 0 rg 10 10 50 50 re f", Group=Dictionary(S=Name.Transparency, I=True))
    return {"XObject": Dictionary(F=group), **_states(pdf)}


def _image(pdf: Pdf, data: bytes, width: int, height: int, **more: Any) -> Any:
    image = pdf.make_stream(data)
    image.Type, image.Subtype, image.Width, image.Height = Name.XObject, Name.Image, width, height
    for key, value in more.items():
        image[f"/{key}"] = value
    return image


def _pictures(pdf: Pdf) -> dict[str, Any]:
    pixels = bytes(v for row in range(4) for column in range(4) for v in (60 * row, 60 * column, 90))
    colours = _image(pdf, pixels, 4, 4, BitsPerComponent=8, ColorSpace=Name.DeviceRGB)
    stencil = _image(pdf, bytes((0b10100000, 0b01000000, 0b10100000)), 3, 3, BitsPerComponent=1, ImageMask=True)
    cover = _image(pdf, bytes(range(0, 256, 16)), 4, 4, BitsPerComponent=8, ColorSpace=Name.DeviceGray)
    covered = _image(pdf, pixels, 4, 4, BitsPerComponent=8, ColorSpace=Name.DeviceRGB, SMask=cover)
    palette = Array([Name.Indexed, Name.DeviceRGB, 1, pikepdf.String(bytes((255, 0, 0, 0, 0, 255)))])
    indexed = _image(pdf, bytes((0b10000000, 0b01000000)), 2, 2, BitsPerComponent=1, ColorSpace=palette)
    return {"XObject": Dictionary(P=colours, S=stencil, C=covered, N=indexed)}


def _fonts(pdf: Pdf) -> dict[str, Any]:
    return {"Font": Dictionary({f"/{key}": _font(pdf, face) for key, face in (("F", 2), ("B", 6), ("T", 3), ("C", 4))})}


def _font(pdf: Pdf, number: int) -> Any:
    """A face that ships, whole, as a simple font (9.6.3)."""
    face = FACES[number]
    font = TTFont(face.path, lazy=True)
    names, widths = font.getBestCmap(), font["hmtx"]
    name = Name("/" + face.name.replace(" ", ""))
    program = pdf.make_stream(face.path.read_bytes())
    descriptor = Dictionary(
        Type=Name.FontDescriptor, FontName=name, Flags=32, ItalicAngle=0, StemV=80, Ascent=900, Descent=-200, CapHeight=700,
        FontBBox=Array([-200, -300, 1200, 1000]), FontFile2=program,
    )  # fmt: skip
    rows = Array([round(widths[names[code]][0] * 1000 / face.units, 3) for code in range(32, 127)])
    return Dictionary(
        Type=Name.Font, Subtype=Name.TrueType, BaseFont=name, FirstChar=32, LastChar=126, Widths=rows,
        Encoding=Name.WinAnsiEncoding, FontDescriptor=pdf.make_indirect(descriptor),
    )  # fmt: skip


def _layer(pdf: Pdf) -> dict[str, Any]:
    group = pdf.make_indirect(Dictionary(Type=Name.OCG, Name=pikepdf.String("Walls")))
    pdf.Root.OCProperties = Dictionary(OCGs=Array([group]), D=Dictionary(Order=Array([group]), ON=Array([group])))
    return {"Properties": Dictionary(L=group)}


def _spaces(pdf: Pdf) -> dict[str, Any]:
    spot = Array([Name.Separation, Name("/Signal"), Name.DeviceRGB, _function(pdf, [1, 1, 1], [1, 0.4, 0])])
    return {"ColorSpace": Dictionary(S=spot, G=Array([Name.CalRGB, Dictionary(WhitePoint=Array([0.95, 1, 1.09]))]))}


CIRCLE = "80 50 m 80 66.57 66.57 80 50 80 c 33.43 80 20 66.57 20 50 c 20 33.43 33.43 20 50 20 c 66.57 20 80 33.43 80 50 c h "

KINDS: dict[str, tuple[str, Resources | None]] = {
    "lines and rectangles": ("1 w 10 10 m 90 30 l S 10 40 50 30 re S 70 50 m 90 50 l 80 80 l s", None),
    "curves": ("1 w 10 10 m 30 90 60 -40 90 60 c S 10 80 m 40 95 60 80 v S 60 95 m 80 60 95 95 y S", None),
    "a circle": ("1 w " + CIRCLE + "S", None),
    "widths and none": ("5 w 10 20 m 90 20 l S .2 w 10 40 m 90 40 l S", None),
    "ends": ("8 w 20 20 m 80 20 l S 1 J 20 50 m 80 50 l S 2 J 20 80 m 80 80 l S", None),
    "joins": ("8 w 10 10 m 30 40 l 50 10 l S 1 j 50 60 m 70 90 l 90 60 l S 2 j 10 60 m 25 90 l 40 60 l S", None),
    "dashes": (
        "1 w [8 3 1 3] 0 d 5 20 m 95 20 l S [5] 0 d 5 40 m 95 40 l S [6 2] 3 d 5 60 m 95 60 l S 1 J 4 w [0 8] 0 d 5 80 m 95 80 l S",
        None,
    ),
    "colours": ("3 w 1 0 0 RG 5 20 m 95 20 l S .5 G 5 40 m 95 40 l S 0 .5 0 rg 5 70 90 20 re f", None),
    "four inks": ("3 w 1 0 0 0 K 5 60 m 95 60 l S 0 1 1 0 k 5 70 90 20 re f 0 0 0 1 k 5 10 90 20 re f", None),
    "spot colour": ("/S cs 1 scn 10 10 40 40 re f /S CS .5 SCN 4 w 10 70 m 90 70 l S", _spaces),
    "matrices": ("q .7 .7 -.7 .7 50 10 cm 2 w 0 0 30 40 re S Q q 2 0 0 .5 10 80 cm 0 0 30 20 re f Q", None),
    "fill rules": (
        "q .5 0 0 .5 0 0 cm 50 5 m 80 95 l 5 40 l 95 40 l 20 95 l h f Q q .5 0 0 .5 50 50 cm 50 5 m 80 95 l 5 40 l 95 40 l 20 95 l h f* Q",
        None,
    ),
    "holes": ("10 10 80 80 re 30 30 40 40 re f* q 1 g 40 40 20 20 re f Q", None),
    "filled and stroked": (
        "3 w 1 1 0 rg 0 0 1 RG 10 10 30 30 re B 50 10 30 30 re 60 20 10 10 re B* 20 60 m 60 60 l 40 90 l b",
        None,
    ),
    "clip by a rectangle": ("q 20 30 50 40 re W n 2 w 0 50 m 100 50 l S 1 0 0 rg 60 60 40 40 re f Q 0 10 m 100 10 l S", None),
    "clip by a circle": ("q " + CIRCLE + "W n 1 w 0 0 m 100 100 l S 0 70 m 100 70 l S 0 1 0 rg 0 30 100 20 re f Q", None),
    "clip in a clip": ("q 10 10 60 80 re W n q " + CIRCLE + "W n 1 0 0 rg 0 0 100 100 re f Q 0 20 m 100 20 l S Q", None),
    "clip by the even-odd rule": ("q 10 10 80 80 re 30 30 40 40 re W* n 2 w 0 50 m 100 50 l S 0 0 m 100 100 l S Q", None),
    "clip along a turned rectangle": (
        "q 50 10 m 90 50 l 50 90 l 10 50 l h W n 1 w 0 30 m 100 30 l S 0 0 1 rg 0 60 100 10 re f Q",
        None,
    ),
    "forms in forms": ("1 w /F Do", _forms),
    "opacity": ("0 0 1 rg 10 10 50 50 re f /H gs 1 0 0 rg 30 30 50 50 re f 5 w 10 90 m 90 90 l S", _states),
    "a group with opacity": ("0 0 1 rg 30 30 50 50 re f /H gs /F Do", _group),
    "a state that sets a line": ("/W gs 10 50 m 90 50 l S", _states),
    "what comes later covers": ("6 w 1 0 0 RG 10 10 m 90 90 l S 0 0 1 RG 10 90 m 90 10 l S 1 g 45 45 10 10 re f", None),
    "pictures": ("q 40 0 0 40 5 5 cm /P Do Q q .8 0 0 rg 30 0 0 30 60 60 cm /S Do Q q 30 0 0 30 60 10 cm /N Do Q", _pictures),
    "a picture with a cover": ("0 1 0 rg 0 0 100 50 re f q 60 20 -20 60 30 10 cm /C Do Q", _pictures),
    "text": (
        "BT /F 10 Tf 10 20 Td (Plate 12) Tj /B 10 Tf 0 25 Td (Bold) Tj /T 10 Tf 0 20 Td (Serif) Tj /C 10 Tf 0 20 Td (Mono) Tj ET",
        _fonts,
    ),
    "text that is spaced and turned": (
        "BT /F 8 Tf 2 Tc 10 20 Td (wide) Tj 0 Tc .8 .6 -.6 .8 20 40 Tm (turned) Tj ET BT /F 8 Tf 150 Tz 10 80 Td (broad) Tj ET",
        _fonts,
    ),
    "text in a row": ("BT /F 8 Tf 10 50 Td [(Mo) -500 (gether) 200 (now)] TJ 5 Ts (up) Tj ET", _fonts),
    "layers": ("/OC /L BDC 10 10 50 50 re S EMC 60 60 30 30 re S", _layer),
    "inline picture": ("q 40 0 0 40 30 30 cm BI /W 2 /H 2 /BPC 8 /CS /G ID " + "\x00\x80\xc0\xff" + " EI Q", None),
    "empty paths and moves": ("10 10 m 50 50 m 1 w 90 50 l S 20 80 m n 20 90 m 80 90 l S", None),
    "lines without length": ("1 J 8 w 30 50 m 30 50 l S 70 50 m 70 50 l S", None),
    "an axial shading": ("/S sh", _axial),
    "an area with a gradient": ("/Pattern cs /P scn 10 30 80 40 re f 1 w 10 30 80 40 re S", _axial),
    "a radial shading": ("q 5 5 90 90 re W n /S sh Q 1 w 5 5 90 90 re S", _radial),
    "a pattern": ("/Pattern cs /P scn 10 20 80 60 re f 1 w 10 20 80 60 re S", _tiles),
    "a soft mask": ("q /K gs 1 0 0 rg 10 10 80 80 re f Q 1 w 10 10 80 80 re S", _mask),
    "blending": ("1 1 0 rg 10 10 50 50 re f /M gs 0 1 1 rg 30 30 50 50 re f", _states),
    "text as an outline": ("BT 1 Tr 0.3 w /B 30 Tf 5 40 Td (Ab) Tj ET", _fonts),
    "text that clips": ("q BT 7 Tr /B 40 Tf 5 40 Td (Ab) Tj ET 1 0 0 rg 0 50 100 50 re f Q 1 w 5 5 m 95 5 l S", _fonts),
}
"""By name, the operators of the page, whose units are mm, and what its resources hold."""

BEYOND_STROKES = frozenset(
    {
        "an axial shading",
        "an area with a gradient",
        "a radial shading",
        "a pattern",
        "a soft mask",
        "blending",
        "text as an outline",
        "text that clips",
        "spot colour",
    }
)
"""What strokes, plain areas and letters cannot carry."""


def page(kind: str) -> bytes:
    """A file of one page that paints a kind."""
    content, resources = KINDS[kind]
    pdf = Pdf.new()
    pdf.add_blank_page(page_size=(100 * MM, 100 * MM))
    own = pdf.pages[0]
    own.obj.Resources = Dictionary({f"/{name}": value for name, value in (resources(pdf) if resources else {}).items()})
    own.obj.Contents = pdf.make_stream(f"{MM} 0 0 {MM} 0 0 cm {content}".encode("latin-1"))
    out = io.BytesIO()
    pdf.save(out)
    return out.getvalue()
