"""What the maker of a sheet should know of its drawing views: lettering too small or at odd heights, dimensions made for
another scale, layers that are off."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from fractions import Fraction

from skalto.core.annotation.edge_references import SourceFacts
from skalto.core.artwork import Text
from skalto.core.lettering import HEIGHTS
from skalto.core.pages.page import Notice, PlacedView
from skalto.core.quantities import PREFERRED_SCALES, Scale, format_mm
from skalto.core.sheets.sheet import ViewSpec
from skalto.core.sources.drawings.drawing import DrawingFacts

_SAME_HEIGHT = 0.02
"""A text within this share of a height of ISO 3098 has that height."""


def notices_of_excerpts(views: Sequence[PlacedView], sources: Mapping[str, SourceFacts]) -> list[Notice]:
    """Texts too small or at odd heights, dimensions made for another scale, layers that do not show."""
    notices = []
    for placed in views:
        view = placed.spec
        facts = sources.get(view.source)
        if view.excerpt is None or view.detail is not None or facts is None or facts.drawing is None:
            # of a detail, its parent tells
            continue
        notices += _notices_of_text(placed)
        notices += _notices_of_dimensions(view, facts.drawing)
        notices += _notices_of_layers(view, facts.drawing)
    return notices


def _heights(placed: PlacedView) -> Counter[float]:
    """Heights of text on paper, mm, and how many texts have each."""
    counts: Counter[float] = Counter()
    for item in placed.artwork:
        if isinstance(item, Text):
            counts.update(round(float(h), 4) for h in item.height)
    return counts


def _notices_of_text(placed: PlacedView) -> list[Notice]:
    view, counts = placed.spec, _heights(placed)
    if not counts:
        return []
    least = HEIGHTS[0]
    small = {h: n for h, n in counts.items() if h < least * (1 - _SAME_HEIGHT)}
    notices = []
    if small:
        smallest = min(small)
        bigger = [s for s in reversed(PREFERRED_SCALES) if smallest / float(view.scale) * float(s) >= least * 0.98]
        mend = f"; {bigger[0]} makes all of it legible" if bigger else ""
        message = (
            f"{_texts(sum(small.values()))} of the {view.title} {_come(small)} out at {format_mm(smallest, 2)} mm, under "
            f"{format_mm(least, 1)} mm, the least height of ISO 3098{mend}."
        )
        notices.append(Notice("text-small", message, view.id))
    odd = {
        h: n for h, n in counts.items() if h not in small and min(abs(h / standard - 1) for standard in HEIGHTS) > _SAME_HEIGHT
    }
    if odd:
        common = max(odd, key=lambda h: odd[h])
        meant = _meant_for(common / float(view.scale))
        made = f"; they were made for {meant}" if meant else ""
        message = (
            f"{_texts(sum(odd.values()))} of the {view.title} {_come(odd)} out at {format_mm(common, 2)} mm, at no height of "
            f"ISO 3098{made}."
        )
        notices.append(Notice("text-odd", message, view.id, "info"))
    return notices


def _texts(count: int) -> str:
    return "1 text" if count == 1 else f"{count} texts"


def _come(counts: Mapping[float, int]) -> str:
    return "comes" if sum(counts.values()) == 1 else "come"


def _meant_for(height: float) -> str:
    """The usual scale at which a text of this height, mm of the drawing, has a usual height on paper."""
    for wanted in (2.5, 3.5, 5.0):
        for scale in PREFERRED_SCALES:
            if abs(height * float(scale) / wanted - 1) < _SAME_HEIGHT:
                return str(scale)
    return ""


def _notices_of_dimensions(view: ViewSpec, facts: DrawingFacts) -> list[Notice]:
    if view.excerpt is None or view.excerpt.space or not facts.dimension_scales:
        return []
    ratio = 1 / float(view.scale)
    other = [(scale, count) for scale, count in facts.dimension_scales if scale > 0 and abs(scale / ratio - 1) > 1e-3]
    if not other:
        return []
    scale, count = other[0]
    made = Scale(1 / Fraction(scale).limit_denominator(1000))
    what = "1 dimension was" if count == 1 else f"{count} dimensions were"
    return [Notice("dimension-scale", f"{what} made for {made}, and the {view.title} is at {view.scale}.", view.id, "info")]


def _notices_of_layers(view: ViewSpec, facts: DrawingFacts) -> list[Notice]:
    if view.excerpt is None or view.excerpt.space:
        return []
    off = [layer for layer in facts.layers if layer.name in view.excerpt.off and layer.count]
    if not off:
        return []
    names = ", ".join(layer.name for layer in off[:6]) + (f" and {len(off) - 6} more" if len(off) > 6 else "")
    count = sum(layer.count for layer in off)
    what = "1 entity does" if count == 1 else f"{count} entities do"
    return [Notice("layers-off", f"{what} not show in the {view.title}, on layers that are off: {names}.", view.id, "info")]
