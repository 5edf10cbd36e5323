"""Letters of an SVG file, laid out by its normaliser and found again as letters.

The normaliser draws text as outlines, and outlines cannot be searched. So it is given faces of our own making, as wide as the
ones that Skalto letters with, whose every glyph is two triangles: one says where the letter stands and how large it is, the
other which letter it is and of which font.
"""

from __future__ import annotations

import io
import math
import re
import unicodedata
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any
from xml.etree.ElementTree import Element

from fontTools.fontBuilder import FontBuilder
from fontTools.pens.ttGlyphPen import TTGlyphPen
from fontTools.ttLib import TTFont, newTable
from fontTools.ttLib.tables._k_e_r_n import KernTable_format_0

from skalto.core.geometry import Point
from skalto.core.lettering import FACES
from skalto.core.sources.drawings.faces import Choice, choose
from skalto.core.sources.drawings.svg.styling import font_parts

_SIDE = 1000
"""The legs of a letter's first triangle, in units of the face."""
_CHECK = 3000
_BASE = 1000
_FAMILY = re.compile(r"font-family\s*:\s*([^;}]+)")
_SHORT = re.compile(r"(?<![-\w])font\s*:\s*([^;}]+)")
GENERIC = {"serif": "serif", "sans-serif": "sans-serif", "monospace": "monospace", "cursive": "serif", "fantasy": "sans-serif"}
PLAIN = "sans-serif"
"""What text is set in that asks for no font."""
_MOST_PAIRED = 120
MOST = 60
"""So many font names are told from one another, fewer where there are very many letters."""
MOST_GLYPHS = 20000


@dataclass(frozen=True)
class Font:
    """A font as the file asks for it: a family, heavy or not, leaning or not."""

    asked: str
    bold: bool = False
    lean: bool = False

    @property
    def label(self) -> str:
        return self.asked + (" bold" if self.bold else "") + (" italic" if self.lean else "")

    @property
    def choice(self) -> Choice:
        """What draws it."""
        return choose(self.label)


@dataclass(frozen=True)
class Letter:
    """A letter where it stands: its *font* by number, the start of its baseline, and what a capital's height becomes along and
    above the baseline."""

    text: str
    font: int
    start: Point
    along: Point
    up: Point


@dataclass(frozen=True)
class Fonts:
    """The fonts that a file asks for, and the faces that stand for them at the normaliser."""

    fonts: tuple[Font, ...] = ()
    files: dict[str, bytes] = field(default_factory=dict)

    def decode(self, corners: Sequence[Sequence[Point]]) -> list[Letter] | None:
        """The letters that the closed contours of one path are; None where they are not letters."""
        if not self.fonts or not corners or len(corners) % 2:
            return None
        found = []
        for frame, sign in zip(corners[::2], corners[1::2], strict=True):
            letter = self._letter(frame, sign) if len(frame) == 3 and len(sign) == 3 else None
            if letter is None:
                return None
            found.append(letter)
        return found

    def _letter(self, frame: Sequence[Point], sign: Sequence[Point]) -> Letter | None:
        (ox, oy), (ax, ay), (bx, by) = frame
        ax, ay, bx, by = (ax - ox) / _SIDE, (ay - oy) / _SIDE, (bx - ox) / _SIDE, (by - oy) / _SIDE
        area = ax * by - ay * bx
        if area == 0:
            return None
        read = []
        for x, y in sign:
            dx, dy = x - ox, y - oy
            u, v = (dx * by - dy * bx) / area, (ax * dy - ay * dx) / area
            if abs(u - round(u)) > 0.2 or abs(v - round(v)) > 0.2:
                return None
            read.append((round(u), round(v)))
        (low, high), (number, check), (end, last) = read
        number -= _CHECK
        if check != _CHECK or (end, last) != (_CHECK, 2 * _CHECK) or not 0 <= number < len(self.fonts):
            return None
        code = high * _BASE + low
        if not 0 <= low < _BASE or not 0 < code < 0x110000:
            return None
        capital = FACES[self.fonts[number].choice.face].capitals
        return Letter(chr(code), number, (ox, oy), (ax * capital, ay * capital), (bx * capital, by * capital))


def fonts_of(root: Element) -> Fonts:
    """The faces for all text of a file, none where it has none."""
    texts = [node for node in root.iter() if node.tag.rsplit("}", 1)[-1] == "text"]
    if not texts:
        return Fonts()
    letters = sorted({c for node in texts for part in node.itertext() for c in part if c.isprintable()} | {" "})
    words = _declared(root)
    names = dict.fromkeys([*GENERIC, *(n for text in words for n in _families(text))])
    heavy = any(re.search(r"bold|[6-9]00", text) for text in _weights(root))
    leaning = any(re.search(r"italic|oblique", text) for text in _weights(root))
    fonts = [
        Font(name, bold, lean)
        for name in list(names)[: max(min(MOST, MOST_GLYPHS // len(letters)), len(GENERIC))]
        for bold in ((False, True) if heavy else (False,))
        for lean in ((False, True) if leaning else (False,))
    ]
    files = {f"{number}.ttf": _face(font, number, "".join(letters)) for number, font in enumerate(fonts)}
    return Fonts(tuple(fonts), files)


def _declared(root: Element) -> list[str]:
    """Everything that may name font families."""
    found = []
    for node in root.iter():
        if "font-family" in node.attrib:
            found.append(node.attrib["font-family"])
        text = node.get("style", "")
        found += _FAMILY.findall(text)
        found += [font_parts(short).get("font-family", short) for short in _SHORT.findall(text)]
    return found


def _weights(root: Element) -> Iterable[str]:
    for node in root.iter():
        for name in ("font-weight", "font-style", "font", "style"):
            if name in node.attrib:
                yield node.attrib[name]


def _families(text: str) -> list[str]:
    names = [name.replace("!important", "").strip(" \t\r\n'\"") for name in text.split(",")]
    return [name for name in names if name and len(name) < 80]


@lru_cache(maxsize=16)
def _measures(face: int) -> dict[str, Any]:
    with TTFont(FACES[face].path, lazy=True) as font:
        low, post = font["OS/2"], font["post"]
        return {
            "ascent": font["hhea"].ascent,
            "descent": font["hhea"].descent,
            "sxHeight": getattr(low, "sxHeight", 0) or int(FACES[face].capitals * 0.72),
            "strike": (low.yStrikeoutPosition, low.yStrikeoutSize),
            "under": (post.underlinePosition, post.underlineThickness),
        }


def _face(font: Font, number: int, letters: str) -> bytes:
    choice = font.choice
    face = FACES[choice.face]
    measures = _measures(choice.face)
    names = [f"u{ord(c):06X}" for c in letters]
    builder = FontBuilder(int(face.units), isTTF=True)
    builder.setupGlyphOrder([".notdef", *names])
    builder.setupCharacterMap({ord(c): name for c, name in zip(letters, names, strict=True)})
    glyphs = {".notdef": TTGlyphPen(None).glyph()}
    widths = {".notdef": (int(face.units / 2), 0)}
    for c, name in zip(letters, names, strict=True):
        glyphs[name] = _glyph(ord(c), number)
        mark = unicodedata.combining(c) != 0
        widths[name] = (0 if mark else max(round(choice.length(c) * face.capitals), 0), 0)
    builder.setupGlyf(glyphs)
    builder.setupHorizontalMetrics(widths)
    builder.setupHorizontalHeader(ascent=measures["ascent"], descent=measures["descent"])
    family = {"familyName": font.asked, "styleName": "Regular", "psName": f"F{number}"}
    builder.setupNameTable(family)
    strike, under = measures["strike"], measures["under"]
    builder.setupOS2(
        usWeightClass=700 if font.bold else 400,
        fsSelection=(1 if font.lean else 0) | (32 if font.bold else 0) | (0 if font.bold or font.lean else 64),
        sTypoAscender=measures["ascent"],
        sTypoDescender=measures["descent"],
        usWinAscent=measures["ascent"],
        usWinDescent=-measures["descent"],
        sxHeight=measures["sxHeight"],
        sCapHeight=int(face.capitals),
        yStrikeoutPosition=strike[0],
        yStrikeoutSize=strike[1],
    )
    builder.setupPost(underlinePosition=under[0], underlineThickness=under[1])
    if len(letters) <= _MOST_PAIRED:
        _kern(builder.font, choice, letters, face.capitals)
    builder.font["head"].macStyle = (1 if font.bold else 0) | (2 if font.lean else 0)
    out = io.BytesIO()
    builder.save(out)
    return out.getvalue()


def _kern(font: TTFont, choice: Choice, letters: str, capitals: float) -> None:
    """Pairs of letters stand as close as the face itself sets them."""
    alone = {c: choice.length(c) for c in letters}
    pairs = {}
    for a in letters:
        for b in letters:
            closer = round((choice.length(a + b) - alone[a] - alone[b]) * capitals)
            if closer and not unicodedata.combining(b):
                pairs[f"u{ord(a):06X}", f"u{ord(b):06X}"] = closer
    if not pairs or choice.strokes:
        return
    table = newTable("kern")
    table.version = 0
    subtable = KernTable_format_0(apple=False)
    subtable.coverage, subtable.kernTable = 1, pairs
    table.kernTables = [subtable]
    font["kern"] = table


def _glyph(code: int, number: int) -> Any:
    pen = TTGlyphPen(None)
    sign = ((code % _BASE, code // _BASE), (_CHECK + number, _CHECK), (_CHECK, 2 * _CHECK))
    for corners in (((0, 0), (_SIDE, 0), (0, _SIDE)), sign):
        pen.moveTo(corners[0])
        pen.lineTo(corners[1])
        pen.lineTo(corners[2])
        pen.closePath()
    return pen.glyph()


@dataclass(frozen=True)
class Run:
    """Letters that stand on one line as their font sets them: *stretch* times as wide."""

    text: str
    font: int
    start: Point
    along: Point
    up: Point
    stretch: float


def runs(letters: list[Letter], fonts: Fonts) -> list[Run]:
    """Letters put together to lines, or to single letters where they stand further apart, or closer, than a font sets them."""
    found: list[Run] = []
    line: list[Letter] = []
    way: bool | None = None
    for letter in letters:
        # each stretch of one direction is placed by itself, where it stands
        own = way if letter.text.isspace() else _leftward(letter)
        if line and (own != way or not _follows(line[-1], letter, fonts)):
            found += _together(line, fonts)
            line = []
        line.append(letter)
        way = own
    return found + (_together(line, fonts) if line else [])


def _follows(before: Letter, letter: Letter, fonts: Fonts) -> bool:
    size = math.hypot(*before.along)
    if letter.font != before.font or math.dist(before.along, letter.along) + math.dist(before.up, letter.up) > 1e-5 * size:
        return False
    choice = fonts.fonts[before.font].choice
    own = choice.length(before.text + letter.text) - choice.length(letter.text)
    x, y = before.start[0] + before.along[0] * own, before.start[1] + before.along[1] * own
    return math.dist((x, y), letter.start) <= 0.02 * size


def _together(line: list[Letter], fonts: Fonts) -> list[Run]:
    choice = fonts.fonts[line[0].font].choice
    text = "".join(letter.text for letter in _readable(line))
    first, last = line[0], line[-1]
    size = math.hypot(*first.along)
    wide = math.dist(first.start, last.start) / size + choice.length(last.text) if size else 0.0
    own = choice.length(text)
    stretch = wide / own if own > 0 and len(line) > 1 else 1.0
    return [Run(text, first.font, first.start, first.along, first.up, stretch)]


def _leftward(letter: Letter) -> bool:
    return unicodedata.bidirectional(letter.text) in ("R", "AL", "NSM")


def _readable(line: list[Letter]) -> list[Letter]:
    """Letters of one direction, given from left to right, in the order in which they are read."""
    return line[::-1] if any(_leftward(letter) for letter in line) else line
