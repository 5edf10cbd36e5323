"""Which shipped face draws the text of a font that a drawing asks for, and what was replaced."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field
from functools import lru_cache
from pathlib import PurePosixPath

from skalto.core import lettering, strokefont
from skalto.core.lettering import FACES
from skalto.core.sources.drawings.drawing import FontFacts

_SERIF = ("times", "serif", "roman", "garamond", "georgia", "cambria", "palatino", "bookman", "century", "minion")
_MONO = ("cour", "mono", "consol", "cousine", "fixed", "typewriter")
_STROKED = {
    "romand": "rowmand",
    "romant": "rowmant",
    "romanc": "rowmand",
    "complex": "rowmand",
    "italic": "timesi",
    "italicc": "timesi",
    "italict": "timesi",
    "gothice": "gothicger",
    "gothicg": "gothicger",
    "gothici": "gothicger",
    "scripts": "scripts",
    "scriptc": "scripts",
    "greeks": "greeks",
    "greekc": "greeks",
}
"""Single-stroke fonts by the names that old files have for them; any other is drawn in the simplex roman."""

_BOLD = {2: 6, 3: 7, 4: 8}
"""The bold face beside each that stands in for others."""

_HEAVY, _LEANING = ("bold", "black", "heavy", "semibd"), ("italic", "oblique", "kursiv")
LEAN = 0.2126
"""The tangent of twelve degrees, by which italics lean."""

_FILES = {"bd": (True, False), "i": (False, True), "bi": (True, True), "z": (True, True)}
"""How the files of a family's bold and leaning members end, after its name."""

_PLAIN = {"txt", "simplex", "romans", "monotxt", "isocp", "isocp2", "isocp3", "isoct", "isoct2", "isoct3", "standard"}


@dataclass(frozen=True)
class Choice:
    """What draws a font: the number of a face, or a set of strokes by name; whether it stands in for another; and whether its
    letters are to *lean*, since no leaning face ships."""

    face: int
    strokes: str = ""
    replaced: bool = False
    lean: bool = False

    @property
    def name(self) -> str:
        """In words."""
        name = f"single strokes ({self.strokes})" if self.strokes else FACES[self.face].name
        return f"{name}, leaning" if self.lean else name

    def upward(self, along: tuple[float, float], up: tuple[float, float]) -> tuple[float, float]:
        """What a capital's height becomes, from that of upright letters and its width along the baseline."""
        return (up[0] + along[0] * LEAN, up[1] + along[1] * LEAN) if self.lean else up

    def length(self, text: str) -> float:
        """How long a text is, in heights of a capital."""
        return strokefont.length(text, self.strokes) if self.strokes else lettering.length(text, 1.0, self.face)


def _plain(name: str) -> str:
    return "".join(c for c in name.lower() if c.isalnum())


@lru_cache(maxsize=512)
def choose(asked: str) -> Choice:
    """What draws a font of this file name or family: a shipped face by its name, for another outline font the one that is like
    it (the sans has the widths of the commonest), for an old single-stroke font strokes."""
    suffix = PurePosixPath(asked.replace("\\", "/")).suffix.lower()
    stem = _plain(asked.replace("\\", "/").rsplit("/", 1)[-1].removesuffix(suffix) if suffix in _SUFFIXES else asked)
    if suffix in (".shx", ".shp") or (suffix not in _SUFFIXES and (stem in _PLAIN or stem in _STROKED or not stem)):
        return Choice(0, _STROKED.get(stem, strokefont.SETS[0]), replaced=bool(stem) and stem not in _PLAIN | set(_STROKED))
    for number, face in enumerate(FACES):
        if stem.removesuffix("regular") == _plain(face.name):
            return Choice(number)
    bold, lean = any(word in stem for word in _HEAVY), any(word in stem for word in _LEANING)
    for family in _FAMILIES:
        bold, lean = _FILES.get(stem.removeprefix(family) if stem.startswith(family) else "", (bold, lean))
    number = 4 if any(word in stem for word in _MONO) else 3 if any(w in stem for w in _SERIF) and "sans" not in stem else 2
    return Choice(_BOLD[number] if bold else number, replaced=True, lean=lean)


_FAMILIES = ("arial", "times", "cour", "calibri", "verdana", "tahoma", "georgia", "consola", "cambria")
_SUFFIXES = (".ttf", ".otf", ".ttc", ".shx", ".shp", ".pfb", ".woff")


@dataclass
class FontLog:
    """Which fonts were asked for, on which layers, and by what they were drawn."""

    texts: Counter[str] = field(default_factory=Counter)
    samples: dict[str, str] = field(default_factory=dict)
    layers: dict[str, dict[str, None]] = field(default_factory=dict)

    def note(self, asked: str, text: str, layer: str) -> None:
        self.texts[asked] += 1
        self.samples.setdefault(asked, text[:40])
        self.layers.setdefault(asked, {})[layer] = None

    def facts(self) -> tuple[FontFacts, ...]:
        """Most used first."""
        found = []
        for asked, count in self.texts.most_common():
            choice = choose(asked)
            layers = tuple(self.layers[asked])[:12]
            found.append(
                FontFacts(
                    asked=asked or "no name",
                    used=choice.name,
                    replaced=choice.replaced,
                    texts=count,
                    sample=self.samples[asked],
                    layers=layers,
                )
            )
        return tuple(found)
