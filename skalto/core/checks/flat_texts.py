"""What is written in a DXF or SVG file, read from its plain text, against what was asked for: each text's words, face, place,
height, turn and width."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Callable, Hashable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace

from skalto.core.checks.flat_file import dxf_paints, svg_texts
from skalto.core.checks.paint import ASPECTS, Paint
from skalto.core.checks.strokes import AskedText
from skalto.core.checks.verdict import Check, Place
from skalto.core.lettering import FACES, glyph_runs
from skalto.core.typed import writable

OFF = 2e-3
"""A text may lie or be off by so much, mm: a hundredth of what its own outline is broad."""


@dataclass(frozen=True)
class Words:
    """A text as it stands in a file: its words, the name of its face, where its baseline starts, mm, y up, and the images of a
    capital's height along and above the baseline, mm, by which it is turned, stretched and slanted; what else must be the same,
    the *gaps* between its glyphs, and how it is painted, where that is looked at."""

    text: str
    face: str
    x: float
    y: float
    along: tuple[float, float]
    above: tuple[float, float]
    more: Hashable = None
    gaps: tuple[float, ...] = ()
    paint: Paint | None = None

    def off(self, other: Words) -> float:
        """The most by which the two differ in place or size, mm."""
        own = (self.x, self.y, *self.along, *self.above)
        apart = max(abs(a - b) for a, b in zip(own, (other.x, other.y, *other.along, *other.above), strict=True))
        # gaps are in thousandths of the size of type
        return max((apart, *(abs(a - b) / 1000 for a, b in zip(self.gaps, other.gaps, strict=True))))

    @property
    def kind(self) -> Hashable:
        """What two texts that are the same have alike beside their place."""
        return self.text if self.more is None else None, self.face, self.more

    @property
    def place(self) -> Place:
        high = math.hypot(*self.above)
        wide = math.hypot(*self.along) * 0.7 * len(self.text)
        return self.x - high, self.y - high, self.x + max(wide, high), self.y + 2 * high


def _asked(texts: Sequence[AskedText], runs: bool) -> Iterator[Words]:
    """What is to be written: whole texts, or where a file has one of each face, in *runs* of them."""
    for asked in texts:
        item, paint = asked.item, replace(asked.paint, view=None, unseen=False)
        if item.ghost:
            continue
        rows = zip(item.texts, item.start.tolist(), item.height.tolist(), item.matrices().tolist(), strict=True)
        for text, (x, y), height, (along, above) in rows:
            sides = (along[0], along[1]), (above[0], above[1])
            if not runs:
                yield Words(text.strip(), FACES[item.face].name, x, y, *sides, paint=paint)
                continue
            for run in glyph_runs(text, item.face):
                face, on = FACES[run.face], sum(run.advances) / FACES[run.face].capitals
                yield Words(writable(run.text), face.name, x, y, *sides, None, (on * height * 1000,), paint)
                x, y = x + along[0] * on, y + along[1] * on


def svg_words(data: bytes, height: float) -> list[Words]:
    """The texts of an SVG file whose sheet is so high, mm. A size is of the face's em; what is asked for is of its capitals."""
    from defusedxml.ElementTree import fromstring

    of_em = {face.name: face.size for face in FACES}
    found = []
    for own, paint in svg_texts(fromstring(data)):
        matrix = own.attrib.get("transform", "").strip().removeprefix("matrix(").removesuffix(")")
        numbers = [float(value) for value in matrix.replace(",", " ").split()]
        a, b, c, d, x, y = numbers if len(numbers) == 6 else (0.0,) * 6
        face = own.attrib.get("font-family", "")
        capital = float(own.attrib.get("font-size", 0)) / of_em.get(face, 1.0)
        # how long it is set, which is compared as the gaps are
        gaps = (float(own.attrib.get("textLength", 0)) * 1000,)
        text = "".join(own.itertext())
        found.append(
            Words(text, face, x, height - y, (a * capital, -b * capital), (-c * capital, d * capital), None, gaps, paint)
        )
    return found


def dxf_words(data: bytes, height: float) -> list[Words]:
    """The texts of a DXF file (DXF reference, TEXT; flag 2 of group 71 runs to the left); *height* is not asked for."""
    found = []
    for kind, record, paint in dxf_paints(data):
        if kind != "TEXT":
            continue
        turn, lean = math.radians(record.number(50)), math.tan(math.radians(record.number(51)))
        capital, stretch = record.number(40), record.number(41, 1.0)
        if int(record.number(71)) & 2:
            stretch = -stretch
        cos, sin = math.cos(turn) * capital, math.sin(turn) * capital
        along, above = (cos * stretch, sin * stretch), (-sin + cos * lean, cos + sin * lean)
        text, face = record.first.get(1, "").replace("^ ", "^"), record.first.get(7, "")
        found.append(Words(text, face, record.number(10), record.number(20), along, above, paint=paint))
    return found


def text_checks(
    data: bytes, height: float, texts: Sequence[AskedText], read: Callable[[bytes, float], Sequence[Words]], runs: bool
) -> list[Check]:
    """Each text of a file is one that was asked for, and each that was asked for is there; nothing where none is either.

    :param height: of the sheet, mm. :param runs: whether a file has a text of its own for each run of one face.
    """
    return words_checks(read(data, height), _asked(texts, runs), 1)


class _Places:
    """Texts by what they are, and by the cell in which they begin, so that of many alike only those near are compared."""

    def __init__(self, texts: Iterable[Words]) -> None:
        self.cells: dict[tuple[Hashable, int, int], list[Words]] = defaultdict(list)
        for own in texts:
            self.cells[own.kind, *self._cell(own)].append(own)

    @staticmethod
    def _cell(own: Words) -> tuple[int, int]:
        return math.floor(own.x / 5), math.floor(own.y / 5)

    def take(self, own: Words) -> Words | None:
        """The text nearest to one that is the same, taken out; None where none is near enough."""
        x, y = self._cell(own)
        near = [
            (own.off(other), n, cell)
            for cell in ((own.kind, x + i, y + j) for i in (-1, 0, 1) for j in (-1, 0, 1))
            for n, other in enumerate(self.cells.get(cell, ()))
        ]
        if not near:
            return None
        off, n, cell = min(near, key=lambda row: row[0])
        return self.cells[cell].pop(n) if off <= OFF else None

    def left(self) -> list[Words]:
        return [own for rows in self.cells.values() for own in rows]


def words_checks(found: Iterable[Words], asked: Iterable[Words], page: int) -> list[Check]:
    """The texts of page *page* that were found against those that were asked for; nothing where there are none of either."""
    places = _Places(asked)
    count, strange = 0, []
    otherwise: dict[str, list[Words]] = defaultdict(list)
    for own in found:
        wanted = places.take(own)
        if wanted is None:
            strange.append(own)
            continue
        count += 1
        if own.paint is not None and wanted.paint is not None:
            for what in own.paint.other_than(wanted.paint):
                otherwise[what].append(own)
    missing = places.left()
    checks = [
        Check(
            code=f"written-{what}", title=f"{ASPECTS[what][0]} of texts", verdict="fails", page=page, place=rows[0].place,
            reading=f"{_texts(len(rows))}, the first “{rows[0].text[:40]}”: {ASPECTS[what][1]}",
        )
        for what, rows in otherwise.items()
    ]  # fmt: skip
    if not strange and not missing:
        reading = f"{_texts(count)}, each with its words, where it was asked for"
        told_ = Check(code="written", title="Written", verdict="holds", reading=reading, page=page)
        return [told_, *checks] if count else []
    told = [f"“{own.text[:40]}” at {own.x:.2f}, {own.y:.2f} is not asked for" for own in strange[:3]]
    told += [f"“{own.text[:40]}” is missing at {own.x:.2f}, {own.y:.2f}" for own in missing[:3]]
    rest = len(strange) + len(missing) - len(told)
    reading = "; ".join(told) + (f"; {rest} more" if rest else "")
    place = (strange + missing)[0].place
    return [Check(code="written", title="Written", verdict="fails", reading=reading, page=page, place=place), *checks]


def _texts(count: int) -> str:
    return "1 text" if count == 1 else f"{count} texts"
