"""Plain strokes put back in their place among what the library draws."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from ezdxf.addons.drawing.properties import Properties, RenderContext
from numpy.typing import NDArray

from skalto.core import strokefont
from skalto.core.artwork import Polylines, Tags
from skalto.core.geometry import Array
from skalto.core.sources.drawings.collecting import Collector
from skalto.core.sources.drawings.dxf.loading import readable
from skalto.core.sources.drawings.dxf.measure import asked_for
from skalto.core.sources.drawings.dxf.pipeline import ArtworkPipeline
from skalto.core.sources.drawings.dxf.plain import ARC, CIRCLE, LINE, POLYLINE, TEXT, Plain, Strokes
from skalto.core.sources.drawings.faces import choose


@dataclass(frozen=True)
class _Look:
    """What strokes and texts of one look are drawn with: tags, those without a line type, and the font that was asked for."""

    tags: Tags
    solid: Tags
    asked: str


class PlainStrokes:
    """The plain strokes of a document's model, with what the library makes of the look of each."""

    def __init__(self, plain: Plain, document: Any) -> None:
        """Takes the examples of each look off the model again."""
        self._plain = plain
        space = document.modelspace()
        self._examples = list(space)[len(space) - plain.looks :]
        for example in self._examples:
            space.unlink_entity(example)
        self._looks: list[_Look | None] = []
        self._places = np.zeros(plain.count, np.int64)
        self._done = self._put_down = 0

    def layers(self) -> Iterator[tuple[str, int]]:
        """Layers as they are written, and how many strokes each has."""
        for example, count in zip(self._examples, self._plain.of_look().tolist(), strict=True):
            yield readable(example.dxf.get("layer", "0")), count

    def before(self, number: int, ctx: RenderContext, pipeline: ArtworkPipeline) -> None:
        """Draw what comes before the model's entity of that number."""
        self._up_to(self._plain.before[number], ctx, pipeline)

    def last(self, ctx: RenderContext, pipeline: ArtworkPipeline) -> None:
        """Draw what is left."""
        self._up_to(self._plain.count, ctx, pipeline)

    def _up_to(self, end: int, ctx: RenderContext, pipeline: ArtworkPipeline) -> None:
        """Keep their places; they are put down together, when something comes that covers what was drawn before."""
        begin, self._done = self._done, end
        if end <= begin:
            return
        if not self._looks:
            # at once, and not within a block on a frozen layer, whose strokes take that layer
            self._looks = [_look_of(ctx.resolve_all(example), pipeline) for example in self._examples]
        collector = pipeline.collector
        self._note(begin, end, pipeline)
        # two each: a text's strokes, and the letters beneath them that are searched
        self._places[begin:end] = 2 * np.arange(end - begin) + collector.places(2 * (end - begin)) + 1
        collector.waiting = lambda: self._put(collector)

    def _note(self, begin: int, end: int, pipeline: ArtworkPipeline) -> None:
        """Which fonts are asked for, as soon as they are."""
        for strokes in self._plain.strokes:
            if strokes.kind == TEXT:
                for row in range(*strokes.between(begin, end)):
                    look = self._looks[int(strokes.look[row])]
                    if look is not None and (text := strokes.texts[row]).strip():
                        pipeline.fonts.note(look.asked, text, look.solid.layer)

    def _put(self, collector: Collector) -> None:
        begin, end = self._put_down, self._done
        self._put_down = end
        for strokes in self._plain.strokes:
            a, b = strokes.between(begin, end)
            if b == a:
                continue
            order = a + np.argsort(strokes.look[a:b], kind="stable")
            looks, starts = np.unique(strokes.look[order], return_index=True)
            for number, rows in zip(looks.tolist(), np.split(order, starts[1:]), strict=True):
                look = self._looks[number]
                if look is None:
                    continue
                places = self._places[strokes.place[rows]]
                if strokes.kind == TEXT:
                    _put_texts(collector, look, strokes, rows, places)
                else:
                    _put(collector, look.tags, strokes, rows, places)


def _look_of(properties: Properties, pipeline: ArtworkPipeline) -> _Look | None:
    if not properties.is_visible:
        return None
    return _Look(pipeline.tags(properties), pipeline.tags(properties, solid=True), asked_for(properties.font))


def _put(collector: Collector, tags: Tags, strokes: Strokes, rows: NDArray[np.int64], places: NDArray[np.int64]) -> None:
    if strokes.kind == LINE:
        collector.lines(tags, places, strokes.values[rows])
        return
    if strokes.kind in (CIRCLE, ARC):
        collector.arcs(tags, places, strokes.values[rows])
        return
    assert strokes.starts is not None
    begins, ends = strokes.starts[rows].tolist(), strokes.starts[rows + 1].tolist()
    chains = [strokes.values[a:b] for a, b in zip(begins, ends, strict=True)]
    if strokes.kind == POLYLINE:
        assert strokes.closed is not None
        starts = np.r_[0, np.cumsum([len(own) for own in chains])].astype(np.int64)
        values = np.concatenate(chains)
        collector.chains(tags, Polylines(tags, values[:, :2], values[:, 2], starts, strokes.closed[rows], places))
    else:
        collector.curves(tags, places.tolist(), chains)


def _put_texts(collector: Collector, look: _Look, strokes: Strokes, rows: NDArray[np.int64], places: NDArray[np.int64]) -> None:
    """Texts of one look, from their lower left: width factor along the baseline, turned by their angle."""
    tags, choice = look.solid, choose(look.asked)
    x, y, height, wide, angle = strokes.values[rows].T
    cos, sin = np.cos(np.radians(angle)), np.sin(np.radians(angle))
    along, up = np.stack((cos, sin), axis=1) * (height * wide)[:, None], np.stack((-sin, cos), axis=1) * height[:, None]
    texts = [strokes.texts[row] for row in rows.tolist()]
    drawn: list[int] = []
    for n, text in enumerate(texts):
        if not text.strip():
            continue
        if choice.strokes and strokefont.can_draw(text, choice.strokes):
            drawn.append(n)
            continue
        own = (float(along[n, 0]), float(along[n, 1]))
        upward = choice.upward(own, (float(up[n, 0]), float(up[n, 1])))
        collector.text_at(int(places[n]), tags, text, (float(x[n]), float(y[n])), own, upward, choice.face)
    if drawn:
        frames: Array = np.column_stack((x, y, along, up))[drawn]
        collector.stroked_texts(tags, places[drawn], [texts[n] for n in drawn], frames, choice.strokes)
