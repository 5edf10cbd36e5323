"""A job as written down, and the edits that a person makes to it. An edit gives a new document; the old one stays."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from skalto.core.errors import InputError
from skalto.core.sheets.sheet import Millimetres, SheetSpec, ViewSpec


class SourceRef(BaseModel):
    """A file brought in: the hash of its content, and the name that it came under."""

    model_config = ConfigDict(frozen=True)

    id: str
    name: str
    size: int


class JobDocument(BaseModel):
    """All that a person has decided in a job."""

    model_config = ConfigDict(frozen=True)

    name: str = Field(min_length=1, max_length=120)
    sources: tuple[SourceRef, ...] = ()
    sheets: tuple[SheetSpec, ...] = ()

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


Edit = Annotated[
    RenameJob | AddSource | RemoveSource | AddSheet | ChangeSheet | RemoveSheet | AddView | ChangeView | MoveView | RemoveView,
    Field(discriminator="kind"),
]

_SHEET_FIELDS = {"name", "format", "orientation", "frame"}
_VIEW_FIELDS = {"name", "look", "up", "scale", "anchor", "place", "hidden", "classes"}
_WORDS = {
    "place": "move",
    "scale": "scale of",
    "hidden": "components of",
    "classes": "edges of",
    "look": "direction of",
    "format": "format of",
    "orientation": "turn",
    "frame": "frame of",
    "name": "rename",
}


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


def _apply_sheet(job: JobDocument, edit: AddSheet | ChangeSheet | RemoveSheet) -> JobDocument:
    if isinstance(edit, AddSheet):
        return job.model_copy(update={"sheets": (*_without(job.sheets, edit.sheet.id), edit.sheet)})
    sheet = job.sheet(edit.sheet)
    if isinstance(edit, RemoveSheet):
        return job.model_copy(update={"sheets": _without(job.sheets, edit.sheet)})
    return job.with_sheet(_changed(sheet, edit.fields, _SHEET_FIELDS))


def _sum(place: tuple[float, float], by: tuple[float, float]) -> tuple[float, float]:
    return round(place[0] + by[0], 6), round(place[1] + by[1], 6)


def _apply_view(job: JobDocument, edit: AddView | ChangeView | MoveView | RemoveView) -> JobDocument:
    sheet = job.sheet(edit.sheet)
    if isinstance(edit, AddView):
        job.source(edit.view.source)
        views = (*_without(sheet.views, edit.view.id), edit.view)
    elif isinstance(edit, RemoveView):
        views = _without(sheet.views, _view(sheet, edit.view).id)
    else:
        view = _view(sheet, edit.view)
        # nanometres: sums of tenths stay tenths
        fields = edit.fields if isinstance(edit, ChangeView) else {"place": _sum(view.place, edit.by)}
        changed = _changed(view, fields, _VIEW_FIELDS)
        views = tuple(changed if view.id == edit.view else view for view in sheet.views)
    return job.with_sheet(sheet.model_copy(update={"views": views}))


def apply(job: JobDocument, edit: Edit) -> JobDocument:
    """The job after an edit.

    :raises InputError: when the edit does not fit the job, with the sentence that says why.
    """
    if isinstance(edit, RenameJob):
        return _changed(job, {"name": edit.name.strip()}, {"name"})  # type: ignore[no-any-return]
    if isinstance(edit, AddSource | RemoveSource):
        return _apply_source(job, edit)
    if isinstance(edit, AddSheet | ChangeSheet | RemoveSheet):
        return _apply_sheet(job, edit)
    return _apply_view(job, edit)


def describe(job: JobDocument, edit: Edit) -> str:
    """What an edit does, for the undo button: few words, lower case."""
    if isinstance(edit, ChangeView | MoveView | RemoveView):
        sheet = job.sheet(edit.sheet)
        name = f"{_view(sheet, edit.view).name} view"
        if isinstance(edit, MoveView):
            return f"move {name}"
        return f"remove {name}" if isinstance(edit, RemoveView) else f"{_first_word(edit.fields)} {name}"
    if isinstance(edit, ChangeSheet | RemoveSheet):
        name = job.sheet(edit.sheet).name
        return f"remove {name}" if isinstance(edit, RemoveSheet) else f"{_first_word(edit.fields)} {name}"
    if isinstance(edit, AddView):
        return f"add {edit.view.name} view"
    if isinstance(edit, AddSheet):
        return f"add {edit.sheet.name}"
    if isinstance(edit, AddSource):
        return f"bring in {edit.source.name}"
    if isinstance(edit, RemoveSource):
        return f"remove {job.source(edit.source).name}"
    return "rename job"


def _first_word(fields: dict[str, Any]) -> str:
    # a change of scale may carry a move with it: the telling field comes first in the list of words
    names = [
        name
        for name in ("scale", "hidden", "classes", "look", "format", "orientation", "frame", "name", "place")
        if name in fields
    ]
    return _WORDS[names[0]] if names else "change"
