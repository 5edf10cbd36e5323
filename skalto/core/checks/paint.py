"""What makes a stroke, an area or a text seen beside where it is: colour, dashes, ends, how much it covers, its layer."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from skalto.core.colour import BLACK, Colour

Ints = NDArray[np.int64]
DASH_LIMIT = 2e-3
"""What a dash, a gap, or where they begin may be off, mm."""
OPACITY_LIMIT = 2e-3


@dataclass(frozen=True)
class Paint:
    """How something is painted. *dashes* and *phase* in mm; *ends* and *joins* as :class:`skalto.core.pens.Caps` and
    ``Joins`` have
    them, '' for what has none; *rule* is ``nonzero`` or ``evenodd`` for an area; *view* is the number of the view whose own
    it is, None for all else, and *unseen* what is marked as a hidden edge of it."""

    colour: Colour = BLACK
    dashes: tuple[float, ...] = ()
    phase: float = 0.0
    ends: str = ""
    joins: str = ""
    opacity: float = 1.0
    multiplied: bool = False
    layer: str = ""
    view: int | None = None
    unseen: bool = False
    rule: str = ""

    def other_than(self, asked: Paint) -> Iterator[str]:
        """In what it is not as asked for, by the names of :data:`ASPECTS`."""
        if self.colour != asked.colour:
            yield "colour"
        if self._dashes_off(asked) > DASH_LIMIT:
            yield "dashes"
        if self.ends != asked.ends:
            yield "ends"
        if self.joins != asked.joins:
            yield "corners"
        if abs(self.opacity - asked.opacity) > OPACITY_LIMIT or self.multiplied is not asked.multiplied:
            yield "opacity"
        if self.layer != asked.layer:
            yield "layer"
        if self.view != asked.view or self.unseen is not asked.unseen:
            yield "view"
        if self.rule != asked.rule:
            yield "rule"

    def _dashes_off(self, other: Paint) -> float:
        """By how much the dashes are off, mm."""
        if not any(self.dashes) and not any(other.dashes):
            return 0.0
        if len(self.dashes) != len(other.dashes):
            return float("inf")
        rows = zip((*self.dashes, self.phase), (*other.dashes, other.phase), strict=True)
        return max(abs(a - b) for a, b in rows)


ASPECTS: dict[str, tuple[str, str]] = {
    "colour": ("Colours", "of another colour than their pen"),
    "dashes": ("Dashes", "with other dashes than their pen"),
    "ends": ("Line ends", "ending otherwise than their pen"),
    "corners": ("Corners", "with other corners than their pen"),
    "opacity": ("Opacity", "covering more or less than asked for"),
    "layer": ("Layers", "on another layer than asked for"),
    "view": ("Views", "marked as another view's, or as seen where it is hidden"),
    "rule": ("Filling", "filled by another rule"),
}
"""What of a paint can be another: the title of its check, and what is said of what has it."""


@dataclass(frozen=True, eq=False)
class Paints:
    """The paints of many pieces: *of* (n,) numbers in *kinds*."""

    of: Ints
    kinds: Sequence[Paint]

    @staticmethod
    def all_of(paint: Paint, count: int) -> Paints:
        return Paints(np.zeros(count, np.int64), (paint,))

    def rows(self, chosen: NDArray[np.bool_] | Ints) -> Paints:
        return Paints(self.of[chosen], self.kinds)

    def against(self, asked: Paints) -> Otherness:
        return Otherness(self, asked)


def joined_paints(parts: Sequence[Paints]) -> Paints:
    numbers: dict[Paint, int] = {}
    rows = []
    for part in parts:
        table = np.array([numbers.setdefault(own, len(numbers)) for own in part.kinds], np.int64)
        rows.append(table[part.of] if len(part.of) else part.of)
    return Paints(np.concatenate([np.zeros(0, np.int64), *rows]), tuple(numbers))


class Otherness:
    """In what kinds found differ from kinds asked for."""

    def __init__(self, found: Paints, asked: Paints) -> None:
        self.found, self.asked = found, asked

    @cached_property
    def bits(self) -> Ints:
        """A bit for each of :data:`ASPECTS` that is another, (kinds found, kinds asked)."""
        places = {name: 1 << n for n, name in enumerate(ASPECTS)}
        rows = [
            [sum(places[name] for name in own.other_than(wanted)) for wanted in self.asked.kinds] for own in self.found.kinds
        ]
        return np.array(rows, np.int64).reshape(len(self.found.kinds), len(self.asked.kinds))

    def between(self, found: Ints, asked: Ints) -> Ints:
        """Bits for rows found (…) and asked (…)."""
        bits: Ints = self.bits[self.found.of[found], self.asked.of[asked]]
        return bits
