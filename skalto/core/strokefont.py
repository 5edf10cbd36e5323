"""Single-stroke lettering, for drawings whose text was meant for a pen: every letter is a set of polylines.

The strokes are those that A. V. Hershey drew for the US National Bureau of Standards in 1967 (``fonts/hershey.json``, with its
notice beside it); accents, which his set lacks, are drawn over its letters here.
"""

from __future__ import annotations

import unicodedata
from functools import cache
from typing import Any

import numpy as np
import orjson

from skalto.core.geometry import Array
from skalto.core.lettering import FOLDER

SETS = ("rowmans", "rowmand", "rowmant", "timesi", "gothicger", "scripts", "greeks")
"""The sets that are asked for: simplex, duplex and triplex roman, italic, black letter, script, Greek."""

_CAPITALS = 21.0
"""The height of a capital in the sets' own units."""

_BASE = 9.0

_RING = [(np.cos(t) * 0.1, 1.2 + np.sin(t) * 0.1) for t in np.linspace(0, 2 * np.pi, 13)]
_ACCENTS: dict[str, list[list[tuple[float, float]]]] = {
    "\u0308": [[(-0.14, 1.14), (-0.14, 1.2)], [(0.14, 1.14), (0.14, 1.2)]],
    "\u030a": [_RING],
    "\u0301": [[(-0.05, 1.1), (0.12, 1.28)]],
    "\u0300": [[(0.05, 1.1), (-0.12, 1.28)]],
    "\u0302": [[(-0.13, 1.1), (0.0, 1.25), (0.13, 1.1)]],
    "\u030c": [[(-0.13, 1.25), (0.0, 1.1), (0.13, 1.25)]],
    "\u0303": [[(-0.16, 1.13), (-0.06, 1.21), (0.06, 1.13), (0.16, 1.21)]],
    "\u0304": [[(-0.14, 1.17), (0.14, 1.17)]],
    "\u0327": [[(0.02, 0.0), (0.08, -0.1), (-0.02, -0.2), (-0.12, -0.17)]],
}
"""Accents over a capital, in heights of a capital, about the middle of their letter; lower by a third over small letters."""

_SMALL = 1 / 3
_TALL = frozenset("bdfhklit")
_CIRCLE = np.array([(np.cos(t), np.sin(t)) for t in np.linspace(0, 2 * np.pi, 25)])

Strokes = tuple[Array, ...]


@cache
def _sets() -> dict[str, dict[str, dict[str, Any]]]:
    """For each set and character: how far it reaches to the left, how wide it is, and its polylines, y down."""
    sets: dict[str, dict[str, dict[str, Any]]] = orjson.loads((FOLDER / "hershey.json").read_bytes())
    return sets


def _special(character: str) -> tuple[Strokes, float] | None:
    """Signs of drawings that the sets lack: degree, plus-minus, diameter, micro, times, dotless i."""
    ring = _CIRCLE * 0.5 + (0.5, 0.5)
    if character == "°":
        return (_CIRCLE * 0.15 + (0.25, 0.85),), 0.5
    if character == "±":
        bars = ((0.1, 0.55), (0.8, 0.55)), ((0.45, 0.9), (0.45, 0.2)), ((0.1, 0.0), (0.8, 0.0))
        return tuple(np.array(bar) for bar in bars), 0.9
    if character in "⌀Øø∅":
        return (ring * 0.9 + (0.1, 0.05), np.array(((0.1, -0.05), (1.0, 1.05)))), 1.1
    if character in "²³":
        digit = glyph(SETS[0], "23"["²³".index(character)])
        assert digit is not None
        return tuple(line * 0.55 + np.array((0.0, 0.5)) for line in digit[0]), digit[1] * 0.55
    if character == "µ":
        return (np.array(((0.1, -0.3), (0.1, 0.66), (0.1, 0.1), (0.3, 0.0), (0.55, 0.15), (0.55, 0.66), (0.6, 0.0))),), 0.7
    if character == "×":
        return (np.array(((0.1, 0.1), (0.7, 0.7))), np.array(((0.1, 0.7), (0.7, 0.1)))), 0.8
    return None


@cache
def glyph(name: str, character: str) -> tuple[Strokes, float] | None:
    """The strokes (k, 2) of a character and how far it advances, in heights of a capital; None where there are none."""
    known = _sets()[name].get(character)
    if known is not None:
        left = np.array((known["left"], 0.0))
        strokes = tuple((np.array(s, float) - left) * (1, -1) / _CAPITALS + (0, _BASE / _CAPITALS) for s in known["strokes"])
        return strokes, known["width"] / _CAPITALS
    special = _special(character)
    if special is not None:
        return special
    decomposed = unicodedata.normalize("NFD", character)
    base, marks = decomposed[0], decomposed[1:]
    if not marks or any(mark not in _ACCENTS for mark in marks):
        return None
    letter = glyph(name, base)
    if letter is None:
        return None
    strokes, advance = letter
    down = 0.0 if base.isupper() or base in _TALL - {"i"} else _SMALL - 0.05
    if base == "i":
        # the dot gives way to the accent
        strokes = tuple(s for s in strokes if s[:, 1].min() < 0.7)
    for mark in marks:
        drop = 0.0 if mark == "\u0327" else down
        strokes += tuple(np.array(line) + np.array((advance / 2, -drop)) for line in _ACCENTS[mark])
    return strokes, advance


def can_draw(text: str, name: str = SETS[0]) -> bool:
    """Whether a set has strokes for every character."""
    return all(glyph(name, character) is not None for character in text)


def length(text: str, name: str = SETS[0]) -> float:
    """How long a text is, in heights of a capital; characters without strokes take the room of an x."""
    return sum((glyph(name, c) or glyph(name, "x") or ((), 0.0))[1] for c in text)


def strokes(text: str, name: str = SETS[0]) -> list[Array]:
    """A text's polylines (k, 2), in heights of a capital, its baseline along x from the origin."""
    found: list[Array] = []
    at = 0.0
    for character in text:
        letter = glyph(name, character)
        if letter is None:
            continue
        found += [line + np.array((at, 0.0)) for line in letter[0]]
        at += letter[1]
    return found
