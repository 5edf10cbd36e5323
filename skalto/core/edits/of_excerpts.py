"""Edits of excerpts: what of a drawing shows, and how."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

from pydantic import Field

from skalto.core.edits.edit import UNGIVEN, Around, Edit, Patch, ViewEdit, at_origin, exchanged, view_on
from skalto.core.errors import InputError
from skalto.core.geometry import Box
from skalto.core.job import JobDocument
from skalto.core.layout import drawing_views, families
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.drawings.excerpt import Excerpt, LayerStyle
from skalto.core.typed import Text, Words


class ExcerptEdit(ViewEdit):
    """A change of a view that is an excerpt."""

    def changed(self, sheet: SheetSpec, job: JobDocument, around: Around) -> SheetSpec:
        view = view_on(sheet, self.view)
        if view.excerpt is None:
            raise InputError("This is not a drawing view.")
        made = self.cut(view, view.excerpt, around)
        return families.refreshed(sheet.with_views(exchanged(sheet.views, made)), at_origin)

    def cut(self, view: ViewSpec, excerpt: Excerpt, around: Around) -> ViewSpec:
        """The view after it."""
        raise NotImplementedError


def _with(view: ViewSpec, excerpt: Excerpt, **fields: Any) -> ViewSpec:
    return view.showing(excerpt=excerpt.model_copy(update=fields))


class ExcerptPatch(Patch):
    """Some fields of an excerpt."""

    words: ClassVar[dict[str, str]] = {"region": "region of", "angle": "turn"}

    region: Box | None = None
    angle: float = UNGIVEN
    space: Text = UNGIVEN
    strokes: bool = UNGIVEN


class ChangeExcerpt(ExcerptEdit):
    """Region, turn, layers or styles of an excerpt; what of the drawing it shows stays where it is on the sheet."""

    kind: Literal["change_excerpt"]
    fields: ExcerptPatch

    def cut(self, view: ViewSpec, excerpt: Excerpt, around: Around) -> ViewSpec:
        return drawing_views.refitted(view, self.fields.on(excerpt), around.drawings(view.source))

    def label(self, job: JobDocument) -> str:
        return f"{self.fields.word} {self.title(job)}"


class SwitchLayers(ExcerptEdit):
    """Show or hide some of a drawing's layers in an excerpt; the others stay as they are."""

    kind: Literal["switch_layers"]
    layers: tuple[Text, ...]
    on: bool

    def cut(self, view: ViewSpec, excerpt: Excerpt, around: Around) -> ViewSpec:
        named = frozenset(self.layers)
        return _with(view, excerpt, off=excerpt.off - named if self.on else excerpt.off | named)

    def label(self, job: JobDocument) -> str:
        return f"layers of {self.title(job)}"


class StyleLayer(ExcerptEdit):
    """A colour and a width for one layer of an excerpt; without a style it is as the file has it."""

    kind: Literal["style_layer"]
    layer: Text
    style: LayerStyle | None

    def cut(self, view: ViewSpec, excerpt: Excerpt, around: Around) -> ViewSpec:
        others = {layer: style for layer, style in excerpt.styles.items() if layer != self.layer}
        return _with(view, excerpt, styles=others | ({self.layer: self.style} if self.style else {}))

    def label(self, job: JobDocument) -> str:
        return f"layers of {self.title(job)}"


class ReplaceText(ExcerptEdit):
    """Other words for a text of an excerpt's drawing, by its key; without them it is as the file has it."""

    kind: Literal["replace_text"]
    key: Words = Field(max_length=4000)
    text: Words | None = Field(max_length=2000)

    def cut(self, view: ViewSpec, excerpt: Excerpt, around: Around) -> ViewSpec:
        texts = {key: text for key, text in excerpt.texts.items() if key != self.key}
        return _with(view, excerpt, texts=texts | ({self.key: self.text} if self.text is not None else {}))

    def label(self, job: JobDocument) -> str:
        return f"a text of {self.title(job)}"


class ShiftExcerpt(ExcerptEdit):
    """Move the drawing inside an excerpt by so many mm of the drawing; shifts that follow one another add up."""

    kind: Literal["shift_excerpt"]
    by: tuple[float, float]

    def cut(self, view: ViewSpec, excerpt: Excerpt, around: Around) -> ViewSpec:
        return drawing_views.shifted(view, *self.by, around.drawings(view.source))

    def label(self, job: JobDocument) -> str:
        return f"shift {self.title(job)}"


EDITS: tuple[type[Edit], ...] = (ChangeExcerpt, SwitchLayers, StyleLayer, ReplaceText, ShiftExcerpt)
