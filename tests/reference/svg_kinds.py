"""A small SVG drawing for every kind of thing that SVG 1.1 draws and a drafter's file may have, each of 100 × 100 mm."""

# ruff: noqa: E501
from __future__ import annotations

import base64
import io

from PIL import Image

STROKE = "fill='none' stroke='#000' stroke-width='1'"


def _picture() -> str:
    picture = Image.new("RGB", (4, 2), (255, 255, 255))
    for x in range(4):
        picture.putpixel((x, x % 2), (200, 30 * x, 40))
    out = io.BytesIO()
    picture.save(out, "PNG")
    return "data:image/png;base64," + base64.b64encode(out.getvalue()).decode()


_ARROW = "<marker id='m' markerWidth='4' markerHeight='4' refX='2' refY='2' orient='auto'><path d='M0 0L4 2L0 4z'/></marker>"
_SYMBOL = "<symbol id='s' viewBox='0 0 10 10'><circle cx='5' cy='5' r='4' fill='none' stroke='#c00'/><path d='M0 0L10 10' stroke='#000'/></symbol>"
_FACE = "font-family='Liberation Sans' font-size='12'"

KINDS: dict[str, str] = {
    "shapes": f"<g {STROKE}><rect x='5' y='5' width='30' height='20'/><circle cx='60' cy='20' r='15'/>"
    "<ellipse cx='30' cy='60' rx='25' ry='10'/><line x1='60' y1='50' x2='95' y2='90'/><polyline points='60,90 70,60 80,95'/>"
    "<polygon points='5,80 25,80 15,95'/></g>",
    "round rectangles": f"<g {STROKE}><rect x='5' y='5' width='40' height='30' rx='5'/><rect x='55' y='5' width='40' height='30' "
    "rx='5' ry='12'/><rect x='5' y='50' width='40' height='30' ry='40'/></g>",
    "every path command": f"<path {STROKE} d='M10 10h20v10H10zm30 0l20 10L80 10c5 5 5 15 0 20s-15 5 -20 0C50 40 40 50 30 40"
    "S20 60 10 50q10 10 20 5t20 0Q60 40 70 60T90 60A10 5 30 1 0 80 80a8 8 0 0 1 -30 5'/>",
    "matrices": f"<g {STROKE} transform='translate(50 50) rotate(30) skewX(10) scale(1.2 .8)'><rect x='-20' y='-20' width='40' "
    "height='40'/><g transform='matrix(.5 .2 -.1 .6 3 4)'><circle r='20'/></g></g>",
    "use": f"<defs><g id='a'><rect width='20' height='10' {STROKE}/></g></defs><use href='#a' x='10' y='10'/><use href='#a' "
    "transform='translate(50 50) rotate(45)'/>",
    "use hands its style down": "<defs><rect id='a' width='30' height='20'/></defs><use href='#a' x='10' y='10' fill='#c00'/>"
    "<use href='#a' x='50' y='10' fill='none' stroke='#00c' stroke-width='2'/><use href='#a' x='10' y='60'/>",
    "symbol with a view box": f"<defs>{_SYMBOL}</defs>"
    "<use href='#s' x='10' y='10' width='40' height='40'/><use href='#s' x='60' y='10' width='30' height='60'/>",
    "symbol that overflows": "<defs><symbol id='s' viewBox='0 0 10 10'><path d='M-10 5H30' stroke='#000'/></symbol></defs>"
    "<use href='#s' x='30' y='30' width='40' height='40'/>",
    "nested svg": f"<svg x='20' y='20' width='40' height='20' viewBox='0 0 100 100'><circle cx='50' cy='50' r='45' {STROKE}/></svg>"
    f"<svg x='50%' y='50%' width='50%' height='50%'><rect x='10%' y='10%' width='50%' height='80%' {STROKE}/></svg>",
    "nested svg, filled and aligned": "<svg x='5' y='5' width='40' height='20' viewBox='0 0 100 100' preserveAspectRatio='xMaxYMin "
    f"meet'><rect width='100' height='100' {STROKE}/></svg><svg x='5' y='50' width='40' height='20' viewBox='0 0 100 100' "
    f"preserveAspectRatio='xMidYMid slice'><circle cx='50' cy='50' r='40' {STROKE}/></svg><svg x='55' y='50' width='40' "
    f"height='20' viewBox='0 0 100 100' preserveAspectRatio='none'><circle cx='50' cy='50' r='40' {STROKE}/></svg>",
    "percentages": f"<g {STROKE}><rect x='10%' y='5%' width='30%' height='20%'/><circle cx='70%' cy='30%' r='15%'/>"
    "<line x1='0%' y1='100%' x2='100%' y2='50%' stroke-width='1%'/></g>",
    "lengths with units": f"<g {STROKE}><rect x='1cm' y='5mm' width='.5in' height='20pt'/><circle cx='60px' cy='4pc' r='10'/></g>",
    "switch": "<switch><g systemLanguage='xx'><rect width='90' height='90'/></g><g systemLanguage='en'><circle cx='50' cy='50' "
    "r='20'/></g><rect width='50' height='50'/></switch>",
    "fill rules": "<path d='M50 5L80 95L5 40H95L20 95z' fill='#444' transform='scale(.5)'/><path d='M50 5L80 95L5 40H95L20 95z' "
    "fill='#444' fill-rule='evenodd' transform='translate(50 50) scale(.5)'/>",
    "holes by direction": "<path d='M5 5H45V45H5zM15 15V35H35V15z'/><path d='M55 5H95V45H55zM65 15H85V35H65z'/>"
    "<path d='M5 55H45V95H5zM15 65H35V85H15z' fill-rule='evenodd'/>",
    "opacity": "<rect x='10' y='10' width='50' height='50' fill='#00f'/><rect x='30' y='30' width='50' height='50' fill='#f00' "
    "opacity='.5'/><g opacity='.5'><rect x='5' y='70' width='30' height='20' fill-opacity='.5' stroke='#000' stroke-width='2' "
    "stroke-opacity='.4' fill='#0a0'/></g>",
    "markers": f"<defs>{_ARROW}</defs><path d='M10 20H60L80 50' fill='none' stroke='#000' stroke-width='2' marker-end='url(#m)' "
    "marker-start='url(#m)' marker-mid='url(#m)'/>",
    "markers in user units": "<defs><marker id='m' markerUnits='userSpaceOnUse' markerWidth='10' markerHeight='10' refX='5' "
    "refY='5' viewBox='0 0 20 20' orient='45'><circle cx='10' cy='10' r='9' fill='none' stroke='#c00' stroke-width='2'/></marker>"
    "</defs><polyline points='15,15 50,50 85,30' fill='none' stroke='#000' marker-start='url(#m)' marker-end='url(#m)'/>",
    "linear gradient": "<defs><linearGradient id='g'><stop offset='0' stop-color='#f00'/><stop offset='1' stop-color='#00f'/>"
    "</linearGradient></defs><rect x='10' y='10' width='80' height='30' fill='url(#g)'/><path d='M10 90L50 50L90 90z' "
    "fill='url(#g)' stroke='#000'/>",
    "gradient in the user's space": "<defs><linearGradient id='g' gradientUnits='userSpaceOnUse' x1='10' y1='10' x2='50' y2='50' "
    "spreadMethod='reflect'><stop offset='.2' stop-color='#0a0'/><stop offset='1' stop-color='#fff'/></linearGradient></defs>"
    "<g transform='rotate(10 50 50)'><rect x='10' y='10' width='80' height='80' fill='url(#g)'/></g>",
    "radial gradient": "<defs><radialGradient id='g' fx='.3' fy='.3'><stop offset='0' stop-color='#fff'/><stop offset='1' "
    "stop-color='#333' stop-opacity='.5'/></radialGradient></defs><circle cx='50' cy='50' r='40' fill='url(#g)'/>",
    "gradient that takes from another": "<defs><linearGradient id='b'><stop offset='0' stop-color='#ff0'/><stop offset='1' "
    "stop-color='#808'/></linearGradient><linearGradient id='g' href='#b' x1='0' y1='0' x2='0' y2='1'/></defs>"
    "<rect x='10' y='10' width='80' height='80' rx='10' fill='url(#g)'/>",
    "pattern": "<defs><pattern id='p' width='8' height='8' patternUnits='userSpaceOnUse' patternTransform='rotate(45)'>"
    "<path d='M0 0V8' stroke='#000' stroke-width='2'/></pattern></defs><circle cx='50' cy='50' r='40' fill='url(#p)' "
    "stroke='#000'/>",
    "pattern by the box": "<defs><pattern id='p' width='.25' height='.25' viewBox='0 0 10 10'><circle cx='5' cy='5' r='3' "
    "fill='#c00'/></pattern></defs><rect x='10' y='20' width='80' height='60' fill='url(#p)'/>",
    "dashes": f"<g {STROKE}><path d='M5 10H95' stroke-dasharray='8 3 1 3'/><path d='M5 20H95' stroke-dasharray='5'/>"
    "<path d='M5 30H95' stroke-dasharray='4 2 1'/><path d='M5 50H95' stroke-width='4' stroke-dasharray='0 8' "
    "stroke-linecap='round'/></g>",
    "dashes that begin later": "<g fill='none' stroke='#000' stroke-width='3'><path d='M5 10H95' stroke-dasharray='8 4' "
    "stroke-dashoffset='5'/><path d='M5 30H95' stroke-dasharray='10 10 10' stroke-dashoffset='-4'/></g>",
    "widths under an uneven matrix": f"<g transform='scale(4 1)' {STROKE}><path d='M2 10H20M12 20V60' stroke-width='2'/><path "
    "d='M2 90L10 60'/></g>",
    "fonts in short": "<text x='10' y='30' style='font:bold 12px Liberation Sans'>Bold</text><text x='10' y='60' "
    "style='font: 10px/1.2 \"Liberation Mono\", monospace'>mono</text><style>.t{font:700 14px 'Liberation Serif'}</style>"
    "<text class='t' x='10' y='90'>Serif</text>",
    "ends": "<g stroke='#000' stroke-width='10'><path d='M20 20H80'/><path d='M20 50H80' stroke-linecap='round'/>"
    "<path d='M20 80H80' stroke-linecap='square'/></g>",
    "joins": "<g fill='none' stroke='#000' stroke-width='8'><path d='M10 40L25 10L40 40'/><path d='M55 40L70 10L85 40' "
    "stroke-linejoin='round'/><path d='M10 90L25 60L40 90' stroke-linejoin='bevel'/><rect x='60' y='60' width='25' "
    "height='25'/></g>",
    "widths under matrices": f"<g {STROKE}><path d='M10 10H30' transform='scale(2)'/><g transform='scale(.5)'><path "
    "d='M20 100H180' stroke-width='4'/></g></g>",
    "a style sheet": "<style>.a{fill:none;stroke:#c00} rect{stroke-width:2} #x{stroke:#00c!important} g>circle{fill:#0a0}</style>"
    "<rect class='a' x='10' y='10' width='30' height='30'/><rect id='x' class='a' x='60' y='10' width='30' height='30' "
    "style='stroke:#000'/><g><circle cx='50' cy='70' r='15'/></g>",
    "style over attribute": "<rect x='10' y='10' width='30' height='30' fill='#f00' style='fill:#00f'/><g fill='#0a0'>"
    "<rect x='50' y='10' width='30' height='30' fill='inherit'/></g><g style='color:#808'><rect x='10' y='60' width='30' "
    "height='30' fill='currentColor'/></g>",
    "names of colours": "<rect width='30' height='30' fill='tomato'/><rect x='35' width='30' height='30' "
    "fill='rgb(10%,50%,90%)'/><rect x='70' width='30' height='30' fill='#abc'/><rect y='40' width='30' height='30' "
    "fill='hsl(120,60%,40%)'/>",
    "hidden": "<rect width='40' height='40' display='none'/><rect x='50' width='40' height='40' visibility='hidden'/>"
    "<g visibility='hidden'><circle cx='50' cy='70' r='20' visibility='visible'/></g>",
    "clip by a rectangle": f"<defs><clipPath id='c'><rect x='20' y='30' width='50' height='40'/></clipPath></defs>"
    f"<g clip-path='url(#c)'><circle cx='40' cy='50' r='30' {STROKE}/><path d='M0 50H100M0 0L100 100' {STROKE}/>"
    "<rect x='60' y='60' width='40' height='40' fill='#c00'/></g>",
    "clip in shares of the box": "<defs><clipPath id='c' clipPathUnits='objectBoundingBox'><rect width='.5' height='.5'/>"
    "</clipPath></defs><g clip-path='url(#c)'><rect x='20' y='20' width='60' height='60' fill='#00c'/></g>",
    "clip by a circle": "<defs><clipPath id='c'><circle cx='50' cy='50' r='30'/></clipPath></defs><g clip-path='url(#c)'>"
    f"<rect x='10' y='40' width='80' height='20' fill='#c00'/><path d='M10 10L90 90M0 70H100' {STROKE}/></g>",
    "clip by several, and of a clip": "<defs><clipPath id='d'><rect x='10' y='10' width='60' height='80'/></clipPath><clipPath id='c' "
    "clip-path='url(#d)'><circle cx='40' cy='40' r='25'/><path d='M50 50h40v40h-40zm10 10h10v10h-10z' clip-rule='evenodd'/>"
    "</clipPath></defs><g clip-path='url(#c)'><rect width='100' height='100' fill='#fc0'/><circle cx='50' cy='50' r='30' "
    f"{STROKE}/><path d='M0 20C40 30 60 80 100 60' {STROKE}/></g>",
    "picture": f"<image x='10' y='10' width='40' height='20' href='{_picture()}' image-rendering='optimizeSpeed' "
    "style='image-rendering:pixelated'/>",
    "picture, filled and turned": f"<g transform='rotate(20 50 50)'><image x='20' y='20' width='40' height='40' "
    f"preserveAspectRatio='xMinYMid slice' href='{_picture()}' style='image-rendering:pixelated'/><rect x='20' y='20' "
    f"width='40' height='40' {STROKE}/></g>",
    "text": f"<text x='10' y='30' {_FACE}>Plate 12</text><text x='10' y='60' font-family='Liberation Mono' font-size='8'>mono"
    "</text><text x='10' y='80' font-family='Liberation Serif' font-size='10'>Serif</text>",
    "anchors": f"<path d='M50 0V100' stroke='#ccc'/><g {_FACE}><text x='50' y='30' text-anchor='middle'>middle</text>"
    "<text x='50' y='60' text-anchor='end'>at end</text><text x='50' y='90'>start</text></g>",
    "spans that shift": f"<text x='10' y='30' {_FACE}>A<tspan dy='5'>low</tspan><tspan dy='-5' dx='4'>on</tspan></text>"
    f"<text {_FACE}><tspan x='10' y='60'>one</tspan><tspan x='10' dy='1.2em'>two</tspan></text>",
    "bold": f"<text x='10' y='30' {_FACE} font-weight='bold'>Bold A</text><text x='10' y='60' {_FACE}>light <tspan "
    "font-weight='700'>heavy</tspan></text>",
    "letters placed one by one": f"<text x='10 25 40 55' y='30 35 40 45' {_FACE}>ABCD</text><text x='10' y='80' rotate='20' "
    f"{_FACE}>turned</text><text x='10' y='95' letter-spacing='3' {_FACE}>wide</text>",
    "text along a path": f"<defs><path id='p' d='M10 80C30 10 70 10 90 80'/></defs><text {_FACE}><textPath href='#p'>along a "
    "curve</textPath></text>",
    "text under a matrix": f"<text transform='translate(20 70) rotate(-30) scale(1.5 1)' {_FACE}>Turned</text>",
    "underlined": f"<text x='10' y='40' {_FACE} text-decoration='underline'>under</text>",
    "colours of text": f"<text x='10' y='40' {_FACE} fill='#c00'>red <tspan fill='#00c' fill-opacity='.5'>blue</tspan></text>",
}  # fmt: skip
"""By name, what stands between the tags of an svg element of 100 × 100 mm whose units are millimetres."""


def document(body: str) -> str:
    """A whole file."""
    return (
        "<svg xmlns='http://www.w3.org/2000/svg' xmlns:xlink='http://www.w3.org/1999/xlink' width='100mm' height='100mm' "
        f"viewBox='0 0 100 100'>{body}</svg>"
    )
