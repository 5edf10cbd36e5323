"""A job as written down, and the edits that a person makes to it. An edit gives a new document; the old one stays."""

from __future__ import annotations

from typing import Annotated, Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from skalto.core.artwork import Array
from skalto.core.errors import InputError
from skalto.core.models.parts import PartFacts
from skalto.core.sheets import families
from skalto.core.sheets.reformatting import FollowFormat, reformatted
from skalto.core.sheets.sheet import Arrangement, Millimetres, SheetSpec, ViewSpec
from skalto.core.viewpoint import Vector, make_viewpoint


class SourceRef(BaseModel):
    """A file brought in: the hash of its content, and the name that it came under."""

    model_config = ConfigDict(frozen=True)

    id: str
    name: str
    size: int
    earlier: tuple[str, ...] = ()
    """The hashes of its earlier revisions, the last replaced last."""
    news: str = ""
    """What the last revision brought, in words."""


class SavedViewpoint(BaseModel):
    """A direction of looking that a person keeps under a name."""

    model_config = ConfigDict(frozen=True)

    id: str
    name: str = Field(min_length=1, max_length=60)
    look: Vector
    up: Vector


class JobDocument(BaseModel):
    """All that a person has decided in a job."""

    model_config = ConfigDict(frozen=True)

    name: str = Field(min_length=1, max_length=120)
    sources: tuple[SourceRef, ...] = ()
    sheets: tuple[SheetSpec, ...] = ()
    viewpoints: tuple[SavedViewpoint, ...] = ()
    title: dict[str, str] = {}
    parts: dict[str, PartFacts] = {}
    colours: dict[str, str] = {}

    def sheet(self, sheet_id: str) -> SheetSpec:
        """:raises InputError: when there is no such sheet."""
        for sheet in self.sheets:
            if sheet.id == sheet_id:
                return sheet
        raise InputError("This sheet is no longer in the job: choose another.")

    def source(self, source_id: str) -> SourceRef:
        """:raises InputError: when there is no such source."""
        for source in self.sources:
            if source.id == source_id:
                return source
        raise InputError("This source is no longer in the job: bring it in again.")

    def with_sheet(self, sheet: SheetSpec) -> JobDocument:
        """The same job with one sheet replaced by its new self."""
        return self.model_copy(update={"sheets": tuple(sheet if s.id == sheet.id else s for s in self.sheets)})


class _Edit(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class RenameJob(_Edit):
    kind: Literal["rename_job"]
    name: str


class AddSource(_Edit):
    kind: Literal["add_source"]
    source: SourceRef


class RemoveSource(_Edit):
    kind: Literal["remove_source"]
    source: str


class AddSheet(_Edit):
    kind: Literal["add_sheet"]
    sheet: SheetSpec


class ChangeSheet(_Edit):
    kind: Literal["change_sheet"]
    sheet: str
    fields: dict[str, Any]


class RemoveSheet(_Edit):
    kind: Literal["remove_sheet"]
    sheet: str


class AddView(_Edit):
    kind: Literal["add_view"]
    sheet: str
    view: ViewSpec


class ChangeView(_Edit):
    kind: Literal["change_view"]
    sheet: str
    view: str
    fields: dict[str, Any]


class MoveView(_Edit):
    """Move a view by so many mm, from wherever it is: moves that follow one another quickly add up."""

    kind: Literal["move_view"]
    sheet: str
    view: str
    by: tuple[Millimetres, Millimetres]


class RemoveView(_Edit):
    kind: Literal["remove_view"]
    sheet: str
    view: str


class MoveViews(_Edit):
    """Move several views at once, each by so many mm."""

    kind: Literal["move_views"]
    sheet: str
    moves: dict[str, tuple[Millimetres, Millimetres]]


class ChangeViews(_Edit):
    """The same change to several views of a sheet."""

    kind: Literal["change_views"]
    sheet: str
    views: tuple[str, ...]
    fields: dict[str, Any]


class MoveSheet(_Edit):
    """Put a sheet at another place in the order."""

    kind: Literal["move_sheet"]
    sheet: str
    to: int = Field(ge=0)


class DuplicateSheet(_Edit):
    """A sheet once more, with all its views, behind itself; *new* is its id."""

    kind: Literal["duplicate_sheet"]
    sheet: str
    new: str
    name: str = ""


class Rearrange(_Edit):
    """Change a sheet to first- or third-angle arrangement."""

    kind: Literal["rearrange"]
    sheet: str
    arrangement: Arrangement


class Reformat(_Edit):
    """Give a sheet another format, and say what its views do: keep their place, move with the middle, or change scale."""

    kind: Literal["reformat"]
    sheet: str
    format: str
    orientation: str | None = None
    views: FollowFormat = FollowFormat.KEEP


class SaveViewpoint(_Edit):
    """Keep a viewpoint, or change the one of that id; views that use it turn with it."""

    kind: Literal["save_viewpoint"]
    viewpoint: SavedViewpoint


class RemoveViewpoint(_Edit):
    kind: Literal["remove_viewpoint"]
    viewpoint: str


class SetTitle(_Edit):
    """Fields of the title block: of one sheet, or without one of the whole job."""

    kind: Literal["set_title"]
    sheet: str | None = None
    fields: dict[str, Annotated[str, Field(max_length=200)]]


class SetPart(_Edit):
    """What is said of a part, by its name in the model."""

    kind: Literal["set_part"]
    part: str
    facts: PartFacts


class SetColour(_Edit):
    """The colour of a component in this job's drawings; None for the model's own."""

    kind: Literal["set_colour"]
    component: str
    colour: Annotated[str, Field(pattern=r"^#[0-9a-f]{6}$")] | None


Edit = Annotated[
    RenameJob
    | AddSource
    | RemoveSource
    | AddSheet
    | ChangeSheet
    | RemoveSheet
    | MoveSheet
    | DuplicateSheet
    | Rearrange
    | Reformat
    | AddView
    | ChangeView
    | ChangeViews
    | MoveView
    | MoveViews
    | RemoveView
    | SaveViewpoint
    | RemoveViewpoint
    | SetTitle
    | SetPart
    | SetColour,
    Field(discriminator="kind"),
]

_SHEET_FIELDS = {
    "name", "format", "orientation", "frame", "margins", "furniture", "clean", "scale", "notes", "parts_list"
}  # fmt: skip
_VIEW_FIELDS = {
    "name", "look", "up", "scale", "anchor", "place", "hidden", "classes", "turn", "own", "viewpoint", "section", "detail",
    "shaded", "shade_dpi", "centres", "axes", "dimensions", "holes",
}  # fmt: skip
_WORDS = {
    "scale": "scale of",
    "dimensions": "dimensions of",
    "hidden": "components of",
    "classes": "edges of",
    "look": "direction of",
    "section": "cutting plane of",
    "detail": "circle of",
    "holes": "hole table of",
    "shaded": "shading of",
    "shade_dpi": "shading of",
    "centres": "centre marks of",
    "axes": "axes of",
    "turn": "turn",
    "own": "set apart",
    "notes": "notes on",
    "parts_list": "parts list on",
    "clean": "clean",
    "format": "format of",
    "orientation": "turn",
    "frame": "frame of",
    "margins": "margins of",
    "furniture": "furniture of",
    "name": "rename",
    "place": "move",
}
"""What a change is called, the more telling field first: a change of scale may carry a move with it."""


def _at_origin(view: ViewSpec) -> Array:
    return np.zeros(3)


def _changed(value: Any, fields: dict[str, Any], allowed: set[str]) -> Any:
    """The value with fields replaced and validated anew.

    :raises InputError: for a field that cannot be changed or a value that does not fit.
    """
    strange = set(fields) - allowed
    if strange:
        raise InputError(f"{', '.join(sorted(strange))} cannot be changed.")
    try:
        return type(value).model_validate(value.model_dump() | fields)
    except ValidationError as error:
        raise InputError(first_sentence(error)) from None


def first_sentence(error: ValidationError) -> str:
    """What a validation found, as a sentence for the person."""
    first = error.errors()[0]
    message = str(first["msg"]).removeprefix("Value error, ")
    where = str(first["loc"][-1]) if first["loc"] else ""
    return message if message.startswith("“") or not where else f"{where}: {message}"


def _without(items: tuple[Any, ...], item_id: str) -> tuple[Any, ...]:
    return tuple(item for item in items if item.id != item_id)


def _view(sheet: SheetSpec, view_id: str) -> ViewSpec:
    try:
        return sheet.view(view_id)
    except KeyError:
        raise InputError("This view is no longer on the sheet: choose another.") from None


def _apply_source(job: JobDocument, edit: AddSource | RemoveSource) -> JobDocument:
    if isinstance(edit, AddSource):
        return job.model_copy(update={"sources": (*_without(job.sources, edit.source.id), edit.source)})
    used = [sheet.name for sheet in job.sheets if any(view.source == edit.source for view in sheet.views)]
    if used:
        raise InputError(f"{job.source(edit.source).name} is shown on {', '.join(used)}: take its views off first.")
    return job.model_copy(update={"sources": _without(job.sources, edit.source)})


def _duplicate(sheet: SheetSpec, edit: DuplicateSheet) -> SheetSpec:
    """The sheet under a new id, its views under ids that belong to it."""
    ids = {view.id: f"{edit.new}.{number}" for number, view in enumerate(sheet.views)}
    views = tuple(
        view.model_copy(update={"id": ids[view.id], "parent": ids.get(view.parent) if view.parent else None})
        for view in sheet.views
    )
    notes = tuple(note.model_copy(update={"view": ids.get(note.view) if note.view else None}) for note in sheet.notes)
    listed = sheet.parts_list
    if listed is not None and listed.view in ids:
        listed = listed.model_copy(update={"view": ids[listed.view]})
    name = edit.name.strip() or f"{sheet.name} (copy)"
    return sheet.model_copy(update={"id": edit.new, "name": name, "views": views, "notes": notes, "parts_list": listed})


SheetEdit = AddSheet | ChangeSheet | RemoveSheet | MoveSheet | DuplicateSheet | Rearrange | Reformat


def _apply_sheet(job: JobDocument, edit: SheetEdit, middle: families.Middle) -> JobDocument:
    if isinstance(edit, AddSheet):
        return job.model_copy(update={"sheets": (*_without(job.sheets, edit.sheet.id), edit.sheet)})
    sheet = job.sheet(edit.sheet)
    if isinstance(edit, RemoveSheet):
        return job.model_copy(update={"sheets": _without(job.sheets, edit.sheet)})
    if isinstance(edit, MoveSheet | DuplicateSheet):
        others = list(_without(job.sheets, edit.sheet)) if isinstance(edit, MoveSheet) else list(job.sheets)
        if isinstance(edit, MoveSheet):
            others.insert(min(edit.to, len(others)), sheet)
        else:
            others.insert(job.sheets.index(sheet) + 1, _duplicate(sheet, edit))
        return job.model_copy(update={"sheets": tuple(others)})
    if isinstance(edit, Rearrange):
        return job.with_sheet(families.rearranged(sheet, edit.arrangement, middle))
    if isinstance(edit, Reformat):
        fields = {"format": edit.format} | ({"orientation": edit.orientation} if edit.orientation else {})
        changed = _changed(sheet, fields, {"format", "orientation"})
        return job.with_sheet(families.refreshed(reformatted(sheet, changed, edit.views), middle))
    return job.with_sheet(families.refreshed(_changed(sheet, edit.fields, _SHEET_FIELDS), middle))


def _looking(view: ViewSpec, fields: dict[str, Any], middle: families.Middle) -> dict[str, Any]:
    """A view that is to look another way keeps the middle of what it shows where it lies, and stands by itself."""
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


def _change_view(view: ViewSpec, fields: dict[str, Any], middle: families.Middle) -> ViewSpec:
    fields = _looking(view, fields, middle)
    apart = {own for name, own in (("scale", "scale"), ("hidden", "components")) if name in fields}
    if apart and "own" not in fields:
        fields = fields | {"own": sorted(view.own | apart)}
    changed: ViewSpec = _changed(view, fields, _VIEW_FIELDS)
    if {"look", "up"} & set(fields) and view.parent is not None:
        # pulled views look as they were pulled: one that looks otherwise stands by itself
        changed = changed.model_copy(update={"parent": None, "pulled": None, "own": changed.own | {"scale", "components"}})
    return changed


ViewEdit = AddView | ChangeView | ChangeViews | MoveView | MoveViews | RemoveView


def _removed(sheet: SheetSpec, view: ViewSpec) -> SheetSpec:
    """The sheet without a view, nor its sections and details; other views pulled from it stand by themselves."""
    gone = {view.id}
    for child in sheet.children(view.id):
        if child.section or child.detail:
            gone |= {child.id, *families.descendants(sheet, child.id)}
    kept = []
    for other in sheet.views:
        if other.id in gone:
            continue
        free = {"parent": None, "pulled": None, "own": other.own | {"scale"}} if other.parent in gone else {}
        kept.append(other.model_copy(update=free))
    listed = sheet.parts_list if sheet.parts_list and sheet.parts_list.view not in gone else None
    notes = tuple(n.model_copy(update={"view": None, "target": None}) if n.view in gone else n for n in sheet.notes)
    return sheet.model_copy(update={"views": tuple(kept), "parts_list": listed, "notes": notes})


def _apply_view(job: JobDocument, edit: ViewEdit, middle: families.Middle) -> JobDocument:
    sheet = job.sheet(edit.sheet)
    if isinstance(edit, AddView):
        job.source(edit.view.source)
        sheet = sheet.with_views((*_without(sheet.views, edit.view.id), edit.view))
    elif isinstance(edit, RemoveView):
        sheet = _removed(sheet, _view(sheet, edit.view))
    elif isinstance(edit, MoveView | MoveViews):
        moves = edit.moves if isinstance(edit, MoveViews) else {edit.view: edit.by}
        for view_id in moves:
            _view(sheet, view_id)
        return job.with_sheet(families.moved(sheet, moves))
    else:
        chosen = edit.views if isinstance(edit, ChangeViews) else (edit.view,)
        changed = {view_id: _change_view(_view(sheet, view_id), edit.fields, middle) for view_id in chosen}
        sheet = sheet.with_views(tuple(changed.get(view.id, view) for view in sheet.views))
    return job.with_sheet(families.refreshed(sheet, middle))


def users_of(job: JobDocument, viewpoint: str) -> list[str]:
    """The sheets on which a saved viewpoint is used."""
    return [sheet.name for sheet in job.sheets if any(view.viewpoint == viewpoint for view in sheet.views)]


def _apply_viewpoint(job: JobDocument, edit: SaveViewpoint | RemoveViewpoint, middle: families.Middle) -> JobDocument:
    if isinstance(edit, RemoveViewpoint):
        used = users_of(job, edit.viewpoint)
        if used:
            raise InputError(f"This viewpoint is used on {', '.join(used)}: turn those views another way first.")
        return job.model_copy(update={"viewpoints": _without(job.viewpoints, edit.viewpoint)})
    new = edit.viewpoint
    make_viewpoint(new.name, new.look, new.up)
    known = {v.id for v in job.viewpoints}
    kept = tuple(new if v.id == new.id else v for v in job.viewpoints) + (() if new.id in known else (new,))
    job = job.model_copy(update={"viewpoints": kept})
    for sheet in job.sheets:
        users = [view for view in sheet.views if view.viewpoint == new.id]
        if users:
            fields = {"look": new.look, "up": new.up, "name": new.name, "viewpoint": new.id}
            changed = {view.id: _change_view(view, fields, middle) for view in users}
            views = tuple(changed.get(view.id, view) for view in sheet.views)
            job = job.with_sheet(families.refreshed(sheet.with_views(views), middle))
    return job


def _apply_title(job: JobDocument, edit: SetTitle) -> JobDocument:
    if edit.sheet is None:
        return job.model_copy(update={"title": {k: v for k, v in (job.title | edit.fields).items() if v}})
    sheet = job.sheet(edit.sheet)
    return job.with_sheet(sheet.model_copy(update={"title": {k: v for k, v in (sheet.title | edit.fields).items() if v}}))


def apply(job: JobDocument, edit: Edit, middle: families.Middle = _at_origin) -> JobDocument:
    """The job after an edit.

    :param middle: the middle, model mm (3,), of what a view shows.
    :raises InputError: when the edit does not fit the job, with the sentence that says why.
    """
    if isinstance(edit, RenameJob):
        return _changed(job, {"name": edit.name.strip()}, {"name"})  # type: ignore[no-any-return]
    if isinstance(edit, AddSource | RemoveSource):
        return _apply_source(job, edit)
    if isinstance(edit, SheetEdit):
        return _apply_sheet(job, edit, middle)
    if isinstance(edit, SaveViewpoint | RemoveViewpoint):
        return _apply_viewpoint(job, edit, middle)
    if isinstance(edit, SetTitle):
        return _apply_title(job, edit)
    if isinstance(edit, SetPart):
        return job.model_copy(update={"parts": job.parts | {edit.part: edit.facts}})
    if isinstance(edit, SetColour):
        others = {path: colour for path, colour in job.colours.items() if path != edit.component}
        return job.model_copy(update={"colours": others | ({edit.component: edit.colour} if edit.colour else {})})
    return _apply_view(job, edit, middle)


def describe(job: JobDocument, edit: Edit) -> str:
    """What an edit does, for the undo button: few words, lower case."""
    if isinstance(edit, ChangeView | MoveView | RemoveView):
        name = _view(job.sheet(edit.sheet), edit.view).title
        if isinstance(edit, MoveView):
            return f"move {name}"
        return f"remove {name}" if isinstance(edit, RemoveView) else f"{_first_word(edit.fields)} {name}"
    if isinstance(edit, MoveViews | ChangeViews):
        count = len(edit.moves if isinstance(edit, MoveViews) else edit.views)
        what = "move" if isinstance(edit, MoveViews) else _first_word(edit.fields)
        return f"{what} {count} views"
    if isinstance(edit, ChangeSheet | RemoveSheet | MoveSheet | DuplicateSheet | Rearrange | Reformat):
        name = job.sheet(edit.sheet).name
        if isinstance(edit, ChangeSheet):
            return f"{_first_word(edit.fields)} {name}"
        words = {
            "remove_sheet": "remove",
            "move_sheet": "reorder",
            "duplicate_sheet": "duplicate",
            "rearrange": "arrangement of",
        }
        return f"{words.get(edit.kind, 'format of')} {name}"
    return _describe_other(job, edit)


def _describe_other(job: JobDocument, edit: Any) -> str:
    if isinstance(edit, AddView):
        return f"add {edit.view.title}"
    if isinstance(edit, AddSheet):
        return f"add {edit.sheet.name}"
    if isinstance(edit, AddSource):
        return f"bring in {edit.source.name}"
    if isinstance(edit, RemoveSource):
        return f"remove {job.source(edit.source).name}"
    if isinstance(edit, SaveViewpoint):
        return f"viewpoint {edit.viewpoint.name}"
    words = {"remove_viewpoint": "remove viewpoint", "set_title": "title block", "set_part": "part", "set_colour": "colour"}
    return words.get(edit.kind, "rename job")


def _first_word(fields: dict[str, Any]) -> str:
    return next((word for name, word in _WORDS.items() if name in fields), "change")
