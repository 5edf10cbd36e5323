"""Edits of views: which way they look, at what scale, where they are."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from skalto.core.artwork import EdgeClass
from skalto.core.earlier_words import by_todays_names
from skalto.core.edits.edit import UNGIVEN, Around, Edit, Middle, Patch, SheetEdit, ViewEdit, replaced, view_on, without
from skalto.core.errors import InputError
from skalto.core.ids import ShortId
from skalto.core.job import JobDocument
from skalto.core.layout import families
from skalto.core.lengths import Millimetres
from skalto.core.projection.methods import HiddenLines
from skalto.core.quantities import Scale
from skalto.core.sheets.annotations import Detail, Dimension, HoleTable, ModelPoint, Section
from skalto.core.sheets.content import OF_MODEL, DetailContent, SectionContent
from skalto.core.sheets.sheet import EARLIER, Override, SheetSpec, ViewSpec
from skalto.core.typed import Text
from skalto.core.viewpoint import Vector, make_viewpoint

Step = tuple[Millimetres, Millimetres]


class AddView(SheetEdit):
    kind: Literal["add_view"]
    view: ViewSpec

    def changed(self, sheet: SheetSpec, job: JobDocument, around: Around) -> SheetSpec:
        job.source(self.view.source)
        return families.refreshed(sheet.with_views((*without(sheet.views, self.view.id), self.view)), around.middle)

    def label(self, job: JobDocument) -> str:
        return f"add {self.view.title}"


class ViewPatch(Patch):
    """Some fields of a view."""

    words: ClassVar[dict[str, str]] = {
        "scale": "scale of", "dimensions": "dimensions of", "hidden": "components of", "hidden_lines": "hidden lines of",
        "classes": "edges of", "look": "direction of", "section": "cutting plane of", "detail": "circle of",
        "holes": "hole table of", "shaded": "shading of", "shade_dpi": "shading of", "centres": "centre marks of",
        "axes": "axes of", "rotation": "turn", "overrides": "set apart", "name": "rename", "place": "move",
    }  # fmt: skip

    name: Text = UNGIVEN
    look: Vector = UNGIVEN
    up: Vector = UNGIVEN
    scale: Scale = UNGIVEN
    anchor: ModelPoint = UNGIVEN
    place: Step = UNGIVEN
    hidden: frozenset[Text] = UNGIVEN
    classes: tuple[EdgeClass, ...] = UNGIVEN
    rotation: float = UNGIVEN
    overrides: frozenset[Override] = UNGIVEN
    viewpoint: Text | None = None
    section: Section = UNGIVEN
    detail: Detail = UNGIVEN
    shaded: bool = UNGIVEN
    shade_dpi: int = UNGIVEN
    centres: bool = UNGIVEN
    axes: bool = UNGIVEN
    dimensions: tuple[Dimension, ...] = UNGIVEN
    holes: HoleTable | None = None
    hidden_lines: HiddenLines = UNGIVEN

    @model_validator(mode="before")
    @classmethod
    def _earlier(cls, data: Any) -> Any:
        return by_todays_names(data, EARLIER)


def turned_to(view: ViewSpec, fields: dict[str, Any], middle: Middle) -> ViewSpec:
    """A view with some fields changed. One that is to look another way keeps the middle of what it shows where it is, and
    stands by itself; one that gets a scale or components of its own no longer takes them from its parent."""
    fields = _looking(view, fields, middle)
    content = {name: fields[name] for name in CONTENT if name in fields}
    apart = {own for name, own in (("scale", "scale"), ("hidden", "components")) if name in fields}
    if apart and "overrides" not in fields:
        fields = fields | {"overrides": sorted(view.overrides | apart)}
    rest = {name: value for name, value in fields.items() if name not in CONTENT}
    changed = replaced(view, rest | ({"content": _content(view, content)} if content else {}))
    if {"look", "up"} & set(fields) and view.parent is not None:
        # pulled views look as they were pulled: one that looks otherwise stands by itself
        changed = changed.model_copy(
            update={"parent": None, "projected": None, "overrides": changed.overrides | {"scale", "components"}}
        )
    return changed


CONTENT = (*OF_MODEL, "section", "detail")
"""The fields of a patch that are of what a view shows."""


_WORDS = {
    "look": "direction", "up": "direction", "hidden": "components", "hidden_lines": "hidden lines", "shaded": "shading",
    "shade_dpi": "shading", "section": "cutting plane", "detail": "circle",
}  # fmt: skip


def _content(view: ViewSpec, fields: dict[str, Any]) -> dict[str, Any]:
    """A view's content as plain data, with some fields replaced. :raises InputError: for one that it does not have."""
    plain: dict[str, Any] = view.content.model_dump()
    whole = plain["of"] if view.detail is not None else plain
    for name, value in fields.items():
        if name == "detail" and view.detail is not None:
            plain["circle"] = value
        elif name == "section" and view.section is not None:
            whole["plane"] = value
        elif name in OF_MODEL and view.of_model:
            whole[name] = value
        else:
            raise InputError(f"The {view.title} has no {_WORDS[name]}: choose another view.")
    return plain


def _looking(view: ViewSpec, fields: dict[str, Any], middle: Middle) -> dict[str, Any]:
    if not {"look", "up"} & set(fields):
        return fields
    if view.section or view.detail:
        raise InputError("A section or a detail looks as its parent has it: change the parent, or the cutting plane.")
    axes = make_viewpoint("", fields.get("look", view.look), fields.get("up", view.up)).axes()
    more: dict[str, Any] = {} if "viewpoint" in fields else {"viewpoint": None}
    if "anchor" not in fields:
        x, y = (axes[:2] @ middle(view)).tolist()
        more["anchor"] = (x, y)
    return fields | more


class ChangeView(ViewEdit):
    kind: Literal["change_view"]
    fields: ViewPatch

    def changed(self, sheet: SheetSpec, job: JobDocument, around: Around) -> SheetSpec:
        return _changed(sheet, (self.view,), self.fields, around)

    def label(self, job: JobDocument) -> str:
        return f"{self.fields.word} {self.title(job)}"


class ChangeViews(SheetEdit):
    """The same change to several views of a sheet."""

    kind: Literal["change_views"]
    views: tuple[Text, ...]
    fields: ViewPatch

    def changed(self, sheet: SheetSpec, job: JobDocument, around: Around) -> SheetSpec:
        return _changed(sheet, self.views, self.fields, around)

    def label(self, job: JobDocument) -> str:
        return f"{self.fields.word} {len(self.views)} views"


def _changed(sheet: SheetSpec, chosen: tuple[str, ...], fields: ViewPatch, around: Around) -> SheetSpec:
    changed = {view_id: turned_to(view_on(sheet, view_id), fields.given(), around.middle) for view_id in chosen}
    views = tuple(changed.get(view.id, view) for view in sheet.views)
    return families.refreshed(sheet.with_views(views), around.middle)


class MoveView(ViewEdit):
    """Move a view by so many mm, from wherever it is: moves that follow one another quickly add up."""

    kind: Literal["move_view"]
    by: Step

    def changed(self, sheet: SheetSpec, job: JobDocument, around: Around) -> SheetSpec:
        view_on(sheet, self.view)
        return families.moved(sheet, {self.view: self.by})

    def label(self, job: JobDocument) -> str:
        return f"move {self.title(job)}"


class MoveViews(SheetEdit):
    """Move several views at once, each by so many mm."""

    kind: Literal["move_views"]
    moves: dict[Text, Step]

    def changed(self, sheet: SheetSpec, job: JobDocument, around: Around) -> SheetSpec:
        for view_id in self.moves:
            view_on(sheet, view_id)
        return families.moved(sheet, self.moves)

    def label(self, job: JobDocument) -> str:
        return f"move {len(self.moves)} views"


class RemoveView(ViewEdit):
    kind: Literal["remove_view"]

    def changed(self, sheet: SheetSpec, job: JobDocument, around: Around) -> SheetSpec:
        """The sheet without a view, nor its sections and details; other views pulled from it stand by themselves."""
        view = view_on(sheet, self.view)
        gone = {view.id}
        for child in sheet.children(view.id):
            if child.section or child.detail:
                gone |= {child.id, *families.descendants(sheet, child.id)}
        kept = []
        for other in sheet.views:
            if other.id in gone:
                continue
            free = {"parent": None, "projected": None, "overrides": other.overrides | {"scale"}} if other.parent in gone else {}
            kept.append(other.model_copy(update=free))
        listed = sheet.parts_list if sheet.parts_list and sheet.parts_list.view not in gone else None
        notes = tuple(n.model_copy(update={"view": None, "target": None}) if n.view in gone else n for n in sheet.notes)
        left = sheet.model_copy(update={"views": tuple(kept), "parts_list": listed, "notes": notes})
        return families.refreshed(left, around.middle)

    def label(self, job: JobDocument) -> str:
        return f"remove {self.title(job)}"


class CopiedView(BaseModel):
    """A view of a sheet, and the id that its copy has."""

    model_config = ConfigDict(frozen=True)

    sheet: Text
    view: Text
    new: ShortId


class PasteViews(SheetEdit):
    """Copies of views, of this sheet or of others of the job, moved by so many mm from where those are."""

    kind: Literal["paste_views"]
    views: tuple[CopiedView, ...] = Field(min_length=1)
    by: Step = (0.0, 0.0)

    def changed(self, sheet: SheetSpec, job: JobDocument, around: Around) -> SheetSpec:
        """The sheet with copies of views. A view pulled from another stays in its family where that is copied too, else it
        stands by itself; a section or a detail goes with what it is of.

        :raises InputError: for a section or a detail on a sheet without what it is of.
        """
        ids = {(own.sheet, own.view): own.new for own in self.views}
        taken_ids = {view.id for other in job.sheets for view in other.views}
        if len(set(ids.values())) < len(self.views) or taken_ids & set(ids.values()):
            raise InputError("A view of this id is on a sheet already: paste it once more.")
        scale = sheet.scale if sheet.views else view_on(job.sheet(self.views[0].sheet), self.views[0].view).scale
        made: list[ViewSpec] = []
        for own in self.views:
            view = view_on(job.sheet(own.sheet), own.view)
            parent = ids.get((own.sheet, view.parent)) if view.parent else None
            if parent is None and (view.section or view.detail):
                if own.sheet != sheet.id:
                    raise InputError(f"The {view.title} belongs to the view that it was made of: copy both.")
                parent = view.parent
            x, y = view.place
            fields: dict[str, Any] = {"id": own.new, "place": (x + self.by[0], y + self.by[1]), "parent": parent}
            if parent is None:
                fields |= {
                    "projected": None,
                    "overrides": view.overrides - {"scale"} if view.scale == scale else view.overrides | {"scale"},
                }
            there = [*sheet.views, *made]
            taken = {other.content.letter for other in there}
            copied = view.model_copy(update=fields)
            if isinstance(view.content, SectionContent | DetailContent) and view.content.letter in taken:
                copied = copied.model_copy(update={"content": view.content.lettered(families.next_letter(there))})
            made.append(copied)
        pasted = sheet.model_copy(update={"scale": scale, "views": (*sheet.views, *made)})
        return families.refreshed(pasted, around.middle)

    def label(self, job: JobDocument) -> str:
        first = self.views[0]
        if len(self.views) > 1:
            return f"paste {len(self.views)} views"
        return f"paste {view_on(job.sheet(first.sheet), first.view).title}"


EDITS: tuple[type[Edit], ...] = (AddView, ChangeView, ChangeViews, MoveView, MoveViews, RemoveView, PasteViews)
