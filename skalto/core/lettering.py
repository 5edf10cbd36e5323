"""Lettering: the faces that ship, how long a text is, and which glyphs draw it.

Sheets are lettered in Routed Gothic, an open face of one line width (SIL Open Font License); what it has no glyph for is
drawn in DejaVu Sans. Heights are those of capitals (ISO 3098, from memory).
"""

from __future__ import annotations

import itertools
import unicodedata
from dataclasses import dataclass
from functools import cache, lru_cache
from pathlib import Path
from typing import Any

import numpy as np
import uharfbuzz as hb

from skalto.core.artwork import EdgeClass, Tags, Text
from skalto.core.geometry import Array

FOLDER = Path(__file__).resolve().parent.parent / "fonts"
HEIGHTS = (1.8, 2.5, 3.5, 5.0, 7.0, 10.0, 14.0, 20.0)
"""Heights of lettering, mm: ISO 3098, from memory."""


@dataclass(frozen=True)
class Face:
    """A shipped face: its file, its name, and its capitals' height and its units a em in font units."""

    name: str
    file: str
    capitals: float
    units: float

    @property
    def path(self) -> Path:
        return FOLDER / self.file

    @property
    def size(self) -> float:
        """The size of type, in heights of a capital."""
        return self.units / self.capitals


FACES = (
    Face("Routed Gothic", "RoutedGothic.ttf", 736, 1024),
    Face("DejaVu Sans", "DejaVuSans.ttf", 1493, 2048),
    Face("Liberation Sans", "LiberationSans.ttf", 1409, 2048),
    Face("Liberation Serif", "LiberationSerif.ttf", 1341, 2048),
    Face("Liberation Mono", "LiberationMono.ttf", 1349, 2048),
    Face("Droid Sans Fallback", "DroidSansFallback.ttf", 183, 256),
    Face("Liberation Sans Bold", "LiberationSansBold.ttf", 1409, 2048),
    Face("Liberation Serif Bold", "LiberationSerifBold.ttf", 1341, 2048),
    Face("Liberation Mono Bold", "LiberationMonoBold.ttf", 1349, 2048),
)
"""Capital heights from the files' own tables. A sheet's own lettering is in the first; drawings ask for others by number."""

_WIDE, _FAR_EAST = 1, 5
"""The faces of wide coverage, asked for what another lacks: Greek to Arabic, then Chinese, Japanese and Korean."""
NO_GLYPH = 0
"""The glyph that a face draws for what it has none for (OpenType, .notdef): an empty box."""


_DRAWN_AS = str.maketrans({"1": "\ue111"})
"""Routed Gothic's own one is a mere stroke and reads as a capital I; it has a flagged one beside it."""


@dataclass(frozen=True)
class GlyphRun:
    """Glyphs of one face, from left to right: ids, the characters that each stands for, and advances in font units. *text* is
    what they say, in reading order."""

    face: int
    glyphs: tuple[int, ...]
    characters: tuple[str, ...]
    advances: tuple[int, ...]
    text: str


@cache
def _font(face: int) -> Any:
    return hb.Font(hb.Face(FACES[face].path.read_bytes()))


def _has(face: int, character: str) -> bool:
    return bool(_font(face).get_nominal_glyph(ord(character)))


def _face_of(character: str, first: int) -> int:
    for number in (first, 0, _WIDE, _FAR_EAST):
        if _font(number).get_nominal_glyph(ord(character)):
            return number
    return _WIDE


_AS_ONE = {"\u0644\u0622": "\ufef5", "\u0644\u0623": "\ufef7", "\u0644\u0625": "\ufef9", "\u0644\u0627": "\ufefb"}
"""Two Arabic letters that one glyph draws, as the one character that Unicode has for them (and takes for the two): readers that
turn leftward text would turn the two about."""


def _shaped(face: int, text: str) -> GlyphRun:
    buffer = hb.Buffer()
    buffer.add_str(drawn_as(face, text))
    buffer.guess_segment_properties()
    # a ligature would hide letters from whoever searches the file
    hb.shape(_font(face), buffer, {"liga": False, "clig": False})
    infos, places = buffer.glyph_infos, buffer.glyph_positions
    # a glyph stands for what lies between its cluster and the next one, whichever way the glyphs run
    starts = sorted({info.cluster for info in infos})
    ends = dict(zip(starts, [*starts[1:], len(text)], strict=True))
    seen: set[int] = set()
    characters = []
    for info in infos:
        own = "" if info.cluster in seen else text[info.cluster : ends[info.cluster]]
        characters.append(_AS_ONE.get(own, own))
        seen.add(info.cluster)
    glyphs = tuple(info.codepoint for info in infos)
    return GlyphRun(face, glyphs, tuple(characters), tuple(p.x_advance for p in places), text)


def closer(run: GlyphRun) -> tuple[int, ...]:
    """By how many font units each glyph of a run stands closer to the next than its own width says."""
    font = _font(run.face)
    return tuple(font.get_glyph_h_advance(glyph) - own for glyph, own in zip(run.glyphs, run.advances, strict=True))


def drawn_as(face: int, text: str) -> str:
    """The characters whose glyphs draw a text in a face."""
    return text.translate(_DRAWN_AS) if face == 0 else text


@lru_cache(maxsize=65536)
def glyph_runs(text: str, first: int = 0) -> tuple[GlyphRun, ...]:
    """A text as runs of glyphs from left to right, each in the face *first*, or in another that has them."""
    runs: list[tuple[int, str]] = []
    for piece in directed(text):
        begin = len(runs)
        for character in piece.text:
            face = _face_of(character, first)
            if piece.leftward and character.isspace() and len(runs) > begin and _has(runs[-1][0], character):
                # words of one stretch stay together, so that they are read on as one
                face = runs[-1][0]
            if len(runs) > begin and runs[-1][0] == face:
                runs[-1] = (face, runs[-1][1] + character)
            else:
                runs.append((face, character))
        if piece.leftward:
            runs[begin:] = reversed(runs[begin:])
    return tuple(_shaped(face, piece) for face, piece in runs)


@dataclass(frozen=True)
class Directed:
    """A stretch of a text that runs one way."""

    text: str
    leftward: bool


def directed(text: str) -> list[Directed]:
    """A text's stretches of one direction, in the order in which they stand from left to right.

    The rules of Unicode Standard Annex 9 as far as one line without embeddings needs them (from memory): what has no direction
    of its own goes with its neighbours where these agree, else with the paragraph, whose direction is that of the first letter.
    """
    strong = [_DIRECTIONS.get(unicodedata.bidirectional(c)) for c in text]
    if True not in strong:
        return [Directed(text, False)] if text else []
    base = next(way for way in strong if way is not None)
    # figures run rightward; the marks between them go with them
    ways: list[bool | None] = list(strong)
    for n, c in enumerate(text):
        if unicodedata.bidirectional(c) in ("EN", "AN"):
            ways[n] = False
    filled = list(ways)
    n = 0
    while n < len(ways):
        if ways[n] is None:
            end = n
            while end < len(ways) and ways[end] is None:
                end += 1
            before, after = (ways[n - 1] if n else base), (ways[end] if end < len(ways) else base)
            filled[n:end] = [before if before == after else base] * (end - n)
            n = end
        else:
            n += 1
    pieces = [
        Directed("".join(c for c, _ in own), bool(way))
        for way, own in itertools.groupby(zip(text, filled, strict=True), key=lambda pair: pair[1])
    ]
    return pieces[::-1] if base else pieces


_DIRECTIONS = {"L": False, "R": True, "AL": True}
"""Bidirectional classes that decide: whether what is of them runs leftward."""


def length(text: str, height: float, face: int = 0) -> float:
    """How long a text is, mm, at a height of its capitals, mm."""
    return sum(sum(run.advances) / FACES[run.face].capitals for run in glyph_runs(text, face)) * height


def missing(text: str) -> str:
    """The characters of a text that no shipped face has."""
    return "".join(c for c in text if not any(_font(n).get_nominal_glyph(ord(c)) for n in range(len(FACES))))


def lettered(texts: list[tuple[str, tuple[float, float], float, float, float]], edge_class: EdgeClass = EdgeClass.TEXT) -> Text:
    """Texts set in place, each (text, place, height, angle, share of its length that lies before the place)."""
    start, lengths = [], []
    for text, (x, y), height, angle, share in texts:
        own = length(text, height)
        lengths.append(own)
        start.append((x - np.cos(angle) * own * share, y - np.sin(angle) * own * share))
    heights: Array = np.array([t[2] for t in texts], float)
    return Text(
        Tags(edge_class),
        tuple(t[0] for t in texts),
        np.array(start, float).reshape(-1, 2),
        heights,
        np.array([t[3] for t in texts], float),
        np.array(lengths, float),
    )
