"""What is written in a DXF or SVG file, read from its plain text, against what was asked for: each text's words, face, place,
height, turn and width."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

from skalto.core.artwork import Text
from skalto.core.checks.flat_file import dxf_records
from skalto.core.checks.verdict import Check, Place
from skalto.core.lettering import FACES, glyph_runs
from skalto.core.output.flat import Flat
from skalto.core.typed import writable

OFF = 2e-3
"""A text may lie or be off by so much, mm: a hundredth of what its own outline is broad."""


@dataclass(frozen=True)
class Words:
    """A text as it stands in a file: its words, the name of its face, where its baseline starts, mm, y up, and the images of a
    capital's height along and above the baseline, mm, by which it is turned, stretched and slanted."""

    text: str
    face: str
    x: float
    y: float
    along: tuple[float, float]
    above: tuple[float, float]

    def off(self, other: Words) -> float:
        """The most by which the two differ in place or size, mm."""
        own = (self.x, self.y, *self.along, *self.above)
        return max(abs(a - b) for a, b in zip(own, (other.x, other.y, *other.along, *other.above), strict=True))

    @property
    def place(self) -> Place:
        high = math.hypot(*self.above)
        wide = math.hypot(*self.along) * 0.7 * len(self.text)
        return self.x - high, self.y - high, self.x + max(wide, high), self.y + 2 * high


def _items(flat: Flat) -> Iterator[Text]:
    for part in flat.parts:
        yield from (item for item in part.pens.arranged(part.artwork) if isinstance(item, Text) and not item.ghost)


def _asked(flat: Flat, runs: bool) -> list[Words]:
    """What is to be written: whole texts, or where a file has one of each face, in *runs* of them."""
    found = []
    for item in _items(flat):
        rows = zip(item.texts, item.start.tolist(), item.matrices().tolist(), strict=True)
        for text, (x, y), (along, above) in rows:
            if not runs:
                found.append(Words(text.strip(), FACES[item.face].name, x, y, (along[0], along[1]), (above[0], above[1])))
                continue
            for run in glyph_runs(text, item.face):
                face, on = FACES[run.face], sum(run.advances) / FACES[run.face].capitals
                found.append(Words(writable(run.text), face.name, x, y, (along[0], along[1]), (above[0], above[1])))
                x, y = x + along[0] * on, y + along[1] * on
    return found


def svg_words(data: bytes, height: float) -> list[Words]:
    """The texts of an SVG file whose sheet is so high, mm. A size is of the face's em; what is asked for is of its capitals."""
    from defusedxml.ElementTree import fromstring

    of_em = {face.name: face.size for face in FACES}
    found = []
    for own in fromstring(data).iter("{http://www.w3.org/2000/svg}text"):
        matrix = own.attrib.get("transform", "").strip().removeprefix("matrix(").removesuffix(")")
        numbers = [float(value) for value in matrix.replace(",", " ").split()]
        a, b, c, d, x, y = numbers if len(numbers) == 6 else (0.0,) * 6
        face = own.attrib.get("font-family", "")
        capital = float(own.attrib.get("font-size", 0)) / of_em.get(face, 1.0)
        text = "".join(own.itertext())
        found.append(Words(text, face, x, height - y, (a * capital, -b * capital), (-c * capital, d * capital)))
    return found


def dxf_words(data: bytes, height: float) -> list[Words]:
    """The texts of a DXF file (DXF reference, TEXT; flag 2 of group 71 runs to the left); *height* is not asked for."""
    found = []
    for kind, record in dxf_records(data):
        if kind != "TEXT":
            continue
        turn, lean = math.radians(record.number(50)), math.tan(math.radians(record.number(51)))
        capital, stretch = record.number(40), record.number(41, 1.0)
        if int(record.number(71)) & 2:
            stretch = -stretch
        cos, sin = math.cos(turn) * capital, math.sin(turn) * capital
        along, above = (cos * stretch, sin * stretch), (-sin + cos * lean, cos + sin * lean)
        text, face = record.first.get(1, "").replace("^ ", "^"), record.first.get(7, "")
        found.append(Words(text, face, record.number(10), record.number(20), along, above))
    return found


def text_checks(data: bytes, flat: Flat, read: Callable[[bytes, float], Sequence[Words]], runs: bool) -> list[Check]:
    """Each text of a file is one that was asked for, and each that was asked for is there; nothing where none is either.

    :param runs: whether a file has a text of its own for each run of one face.
    """
    asked: dict[tuple[str, str], list[Words]] = defaultdict(list)
    for own in _asked(flat, runs):
        asked[own.text, own.face].append(own)
    count, strange = 0, []
    for own in read(data, flat.height):
        there = asked.get((own.text, own.face), [])
        nearest = min(there, key=own.off, default=None)
        if nearest is not None and own.off(nearest) <= OFF:
            there.remove(nearest)
            count += 1
        else:
            strange.append(own)
    missing = [own for rows in asked.values() for own in rows]
    if not strange and not missing:
        reading = f"{count} {'text' if count == 1 else 'texts'}, each with its words, where it was asked for"
        return [Check(code="written", title="Written", verdict="holds", reading=reading)] if count else []
    told = [f"“{own.text[:40]}” at {own.x:.2f}, {own.y:.2f} is not asked for" for own in strange[:3]]
    told += [f"“{own.text[:40]}” is missing at {own.x:.2f}, {own.y:.2f}" for own in missing[:3]]
    rest = len(strange) + len(missing) - len(told)
    reading = "; ".join(told) + (f"; {rest} more" if rest else "")
    return [
        Check(code="written", title="Written", verdict="fails", reading=reading, page=1, place=(strange + missing)[0].place)
    ]
