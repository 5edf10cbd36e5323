"""Lettering: the faces that ship, how long a text is, and which glyphs draw it.

Sheets are lettered in Routed Gothic, an open face of one line width (SIL Open Font License); what it has no glyph for is
drawn in DejaVu Sans. Heights are those of capitals (ISO 3098, from memory).
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from functools import cache, lru_cache
from pathlib import Path
from typing import Any

import numpy as np
import uharfbuzz as hb

from skalto.core.artwork import Array, EdgeClass, Tags, Text

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
)
"""Capital heights from the files' own tables. A sheet's own lettering is in the first; drawings ask for others by number."""

_WIDE = 1
"""The face of widest coverage, asked for what another lacks."""


_DRAWN_AS = str.maketrans({"1": "\ue111"})
"""Routed Gothic's own one is a mere stroke and reads as a capital I; it has a flagged one beside it."""


@dataclass(frozen=True)
class GlyphRun:
    """Glyphs of one face: ids, the characters that each stands for, and advances in font units."""

    face: int
    glyphs: tuple[int, ...]
    characters: tuple[str, ...]
    advances: tuple[int, ...]


@cache
def _font(face: int) -> Any:
    return hb.Font(hb.Face(FACES[face].path.read_bytes()))


def _face_of(character: str, first: int) -> int:
    for number in (first, 0, _WIDE):
        if _font(number).get_nominal_glyph(ord(character)):
            return number
    return _WIDE


def _shaped(face: int, text: str) -> GlyphRun:
    buffer = hb.Buffer()
    buffer.add_str(drawn_as(face, text))
    buffer.guess_segment_properties()
    # a ligature would hide letters from whoever searches the file
    hb.shape(_font(face), buffer, {"liga": False, "clig": False})
    infos, places = buffer.glyph_infos, buffer.glyph_positions
    starts = [info.cluster for info in infos] + [len(text)]
    characters = tuple(text[a:b] for a, b in itertools.pairwise(starts))
    return GlyphRun(face, tuple(i.codepoint for i in infos), characters, tuple(p.x_advance for p in places))


def drawn_as(face: int, text: str) -> str:
    """The characters whose glyphs draw a text in a face."""
    return text.translate(_DRAWN_AS) if face == 0 else text


@lru_cache(maxsize=65536)
def glyph_runs(text: str, first: int = 0) -> tuple[GlyphRun, ...]:
    """A text (left to right) as runs of glyphs, each in the face *first*, or in another that has them."""
    runs: list[tuple[int, str]] = []
    for character in text:
        face = _face_of(character, first)
        if runs and runs[-1][0] == face:
            runs[-1] = (face, runs[-1][1] + character)
        else:
            runs.append((face, character))
    return tuple(_shaped(face, piece) for face, piece in runs)


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
