"""A pen set at work: the pen, and the rule, that draws each stroke."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field, replace
from fnmatch import fnmatchcase

from skalto.core.artwork import Areas, Artwork, Fills, Item, Raster, Tags, Text
from skalto.core.colour import BLACK, LIGHT, Colour, luminance, parse_colour
from skalto.core.pens.pen import HAIRLINE, LINE_TYPES, Caps, Joins, Pen, screened
from skalto.core.pens.sets import AS_DRAWN as LINE_AS_DRAWN
from skalto.core.pens.sets import OWN, PenRule, PenSet
from skalto.core.pens.shipped import AS_DRAWN, DEFAULT

Naming = Callable[[str], tuple[str, ...]]
"""Gives the names that a component goes by, its own and those of what it is in."""


def _unnamed(component: str) -> tuple[str, ...]:
    return (component,)


def drawn(tags: Tags) -> Pen:
    """How a stroke is drawn that no rule speaks of: as its class is, with what a drawing says of its own width, colour and
    line type."""
    pen = AS_DRAWN[tags.edge_class]
    if tags.width is None and tags.colour is None and not tags.dashes:
        return pen
    width = pen.width if tags.width is None else max(tags.width, HAIRLINE)
    # a dot is half a width long (ISO 128-2, from memory), or as long as its own ends make it
    least = 0.0 if tags.ends in (Caps.ROUND, Caps.SQUARE) else 0.5
    dashes = tuple(max(length / width, least) for length in tags.dashes) or pen.dashes
    ends, joins = (Caps.FLAT, Joins.MITRE) if any(dashes) else (pen.caps, pen.joins)
    ends, joins = Caps(tags.ends or ends), Joins(tags.joins or joins)
    return Pen(width, dashes, ends, joins, tags.colour or pen.colour)


def _fits(pattern: str, name: str) -> bool:
    return fnmatchcase(name.casefold(), pattern.casefold())


@dataclass(frozen=True, eq=False)
class Pens:
    """A pen set for strokes of one view, at *scale* (paper : model), or of the sheet itself, at 1; all widths shrink by the
    *reduction* of the whole page."""

    pens: PenSet = DEFAULT
    scale: float = 1.0
    naming: Naming = _unnamed
    reduction: float = 1.0
    _known: dict[Tags, tuple[int | None, Pen]] = field(default_factory=dict)

    def rule(self, tags: Tags) -> int | None:
        """The number of the rule that draws a stroke, from the top, or None where none fits."""
        return self._of(tags)[0]

    def pen(self, tags: Tags) -> Pen:
        """The pen that draws a stroke, or whose colour fills an area or a text."""
        return self._of(tags)[1]

    def keeps_dashes(self, tags: Tags) -> bool:
        """Whether a stroke is dashed as its drawing has it, in lengths that grow with the view."""
        number = self.rule(tags)
        return bool(tags.dashes) and (number is None or self.pens.rules[number].line_type == LINE_AS_DRAWN)

    def phase(self, tags: Tags) -> float:
        """How far on in its dashes a stroke begins, mm."""
        return tags.phase if tags.phase and self.keeps_dashes(tags) else 0.0

    def _of(self, tags: Tags) -> tuple[int | None, Pen]:
        if tags not in self._known:
            number = next((n for n, rule in enumerate(self.pens.rules) if self._holds(rule, tags)), None)
            self._known[tags] = number, self._made(tags, None if number is None else self.pens.rules[number])
        return self._known[tags]

    def _holds(self, rule: PenRule, tags: Tags) -> bool:
        if rule.classes and tags.edge_class not in rule.classes:
            return False
        if rule.layer and not _fits(rule.layer, tags.layer):
            return False
        if rule.colour and parse_colour(rule.colour) != (tags.colour or BLACK):
            return False
        if rule.wider is not None and (tags.width is None or tags.width < rule.wider - 1e-9):
            return False
        if rule.narrower is not None and (tags.width is None or tags.width > rule.narrower + 1e-9):
            return False
        return not rule.component or any(_fits(rule.component, name) for name in self.naming(tags.component))

    def _made(self, tags: Tags, rule: PenRule | None) -> Pen:
        plain = pen = drawn(tags)
        if rule is not None:
            width = rule.width or pen.width
            dashes = pen.dashes
            if rule.line_type == OWN:
                dashes = rule.dashes
            elif rule.line_type != LINE_AS_DRAWN:
                dashes = LINE_TYPES[rule.line_type]
            elif tags.dashes:
                # a drawing's dashes are lengths of their own: another width leaves them as long
                dashes = tuple(length * pen.width / width for length in pen.dashes)
            colour = pen.colour if rule.ink == "source" else parse_colour(rule.ink)
            ends, joins = rule.caps or pen.caps, rule.joins or pen.joins
            pen = Pen(width, dashes, ends, joins, screened(colour, rule.tint))
        width = self.pens.all_widths or pen.width
        if self.pens.scaled:
            width *= self.scale
        width *= self.reduction
        if width != pen.width:
            lengths = tags.dashes and (rule is None or rule.line_type == LINE_AS_DRAWN)
            dashes = tuple(d * pen.width / width for d in pen.dashes) if lengths else pen.dashes
            pen = replace(pen, width=width, dashes=dashes)
        if self.pens.darken and luminance(pen.colour) >= LIGHT and (rule is None or rule.tint == 100):
            pen = replace(pen, colour=BLACK)
        return plain if pen == plain else pen

    def arranged(self, artwork: Artwork) -> Artwork:
        """The artwork in drawing order: as it is, or rule by rule, what the topmost rule draws last."""
        if self.pens.order != "by rule":
            return artwork
        last = len(self.pens.rules)

        def rank(item: Item) -> int:
            if isinstance(item, Raster):
                return 0
            number = self.rule(item.tags)
            return 1 + (last - number if number is not None else 0)

        rows = sorted(artwork.items, key=rank)
        # strokes of several rules no longer share one drawing order
        return Artwork(tuple(rows))

    def tally(self, artworks: Iterable[Artwork]) -> Tally:
        """What each rule draws in some artworks."""
        counts = [0] * len(self.pens.rules)
        rest = 0
        light: dict[Colour, int] = {}
        for item in (item for artwork in artworks for item in artwork):
            if isinstance(item, Raster) or (isinstance(item, Text) and item.ghost):
                continue
            number, pen = self._of(item.tags)
            if number is None:
                rest += len(item)
            else:
                counts[number] += len(item)
            if luminance(pen.colour) >= LIGHT and not isinstance(item, Fills | Areas):
                light[pen.colour] = light.get(pen.colour, 0) + len(item)
        return Tally(tuple(counts), rest, light)


@dataclass(frozen=True)
class Tally:
    """How many strokes and texts each rule draws, how many none, and how many come out too light, by their colour."""

    rules: tuple[int, ...]
    rest: int
    light: dict[Colour, int]
