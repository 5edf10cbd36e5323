"""What an edit does to a job. The job that was stays as it is."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from pydantic import ValidationError

from skalto.core.edits import (
    AddField,
    AddNote,
    AddSheet,
    AddSheets,
    AddSource,
    AddView,
    ChangeDimension,
    ChangeExcerpt,
    ChangeField,
    ChangeFieldView,
    ChangeNote,
    ChangeSheet,
    ChangeView,
    ChangeViews,
    DuplicateSheet,
    Edit,
    KeepPack,
    KeepPens,
    MoveField,
    MoveSheet,
    MoveView,
    MoveViews,
    PasteViews,
    Rearrange,
    Reformat,
    RemoveDimension,
    RemoveField,
    RemoveNote,
    RemovePack,
    RemovePens,
    RemoveSheet,
    RemoveSource,
    RemoveView,
    RemoveViewpoint,
    RenameJob,
    ReplaceText,
    SaveViewpoint,
    SetColour,
    SetPart,
    SetTitle,
    SetUnit,
    ShiftExcerpt,
    StyleLayer,
    SwitchLayers,
)  # fmt: skip
from skalto.core.errors import InputError, NotThere
from skalto.core.geometry import Array
from skalto.core.job import JobDocument, first_sentence, users_of
from skalto.core.pens import DEFAULT, SHIPPED
from skalto.core.sheets import excerpting, families
from skalto.core.sheets.field import FieldSpec
from skalto.core.sheets.reformatting import reformatted
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.drawings.drawing import DrawingFacts
from skalto.core.viewpoint import make_viewpoint

_SHEET_FIELDS = {
    "name", "format", "orientation", "frame", "margins", "furniture", "clean", "scale", "notes", "parts_list", "pens", "recipe",
}  # fmt: skip
_VIEW_FIELDS = {
    "name", "look", "up", "scale", "anchor", "place", "hidden", "classes", "turn", "own", "viewpoint", "section", "detail",
    "shaded", "shade_dpi", "centres", "axes", "dimensions", "holes", "hidden_lines",
}  # fmt: skip


_NOTE_FIELDS = {"text", "place", "height", "angle", "view", "target"}
_DIMENSION_FIELDS = {"prefix", "suffix", "tolerance", "decimals", "offset", "along", "angle", "was"}


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


def _without(items: tuple[Any, ...], item_id: str) -> tuple[Any, ...]:
    return tuple(item for item in items if item.id != item_id)


def _view(sheet: SheetSpec, view_id: str) -> ViewSpec:
    try:
        return sheet.view(view_id)
    except KeyError:
        raise NotThere("This view is no longer on the sheet: choose another.") from None


def _apply_source(job: JobDocument, edit: AddSource | RemoveSource) -> JobDocument:
    if isinstance(edit, AddSource):
        return job.model_copy(update={"sources": (*_without(job.sources, edit.source.id), edit.source)})
    used = [
        sheet.name
        for sheet in job.sheets
        if edit.source in {*(view.source for view in sheet.views), *(field.source for field in sheet.fields)}
    ]
    if used:
        raise InputError(f"{job.source(edit.source).name} is shown on {', '.join(used)}: take what shows it off first.")
    return job.model_copy(update={"sources": _without(job.sources, edit.source)})


Drawings = Callable[[str], DrawingFacts]
"""The facts of a drawing by its source's id."""


def _no_drawing(source: str) -> DrawingFacts:
    raise InputError("This drawing is not read yet: wait a moment.")


def _duplicate(sheet: SheetSpec, edit: DuplicateSheet, drawings: Drawings) -> SheetSpec:
    """The sheet under a new id, its views under ids that belong to it, its excerpts shifted where that is asked for."""
    ids = {view.id: f"{edit.new}.{number}" for number, view in enumerate(sheet.views)}
    views = tuple(
        view.model_copy(update={"id": ids[view.id], "parent": ids.get(view.parent) if view.parent else None})
        for view in sheet.views
    )
    if edit.shift is not None:
        dx, dy = edit.shift
        views = tuple(
            excerpting.shifted(v, dx, dy, drawings(v.source)) if v.excerpt is not None and not v.excerpt.space else v
            for v in views
        )
    notes = tuple(note.model_copy(update={"view": ids.get(note.view) if note.view else None}) for note in sheet.notes)
    listed = sheet.parts_list
    if listed is not None and listed.view in ids:
        listed = listed.model_copy(update={"view": ids[listed.view]})
    fields = tuple(own.model_copy(update={"id": f"{edit.new}.3d{n}"}) for n, own in enumerate(sheet.fields))
    name = edit.name.strip() or f"{sheet.name} (copy)"
    return sheet.model_copy(
        update={"id": edit.new, "name": name, "views": views, "fields": fields, "notes": notes, "parts_list": listed}
    )


SheetEdit = AddSheet | AddSheets | ChangeSheet | RemoveSheet | MoveSheet | DuplicateSheet | Rearrange | Reformat


def _apply_sheet(job: JobDocument, edit: SheetEdit, middle: families.Middle, drawings: Drawings) -> JobDocument:
    if isinstance(edit, AddSheet):
        return job.model_copy(update={"sheets": (*_without(job.sheets, edit.sheet.id), edit.sheet)})
    if isinstance(edit, AddSheets):
        known = [sheet.id for sheet in (*job.sheets, *edit.sheets)]
        if len(set(known)) < len(known):
            raise InputError("A sheet of this id is in the job already: add it once more.")
        return job.model_copy(update={"sheets": (*job.sheets, *edit.sheets)})
    sheet = job.sheet(edit.sheet)
    if isinstance(edit, RemoveSheet):
        packs = tuple(p.model_copy(update={"sheets": tuple(s for s in p.sheets if s != edit.sheet)}) for p in job.packs)
        return job.model_copy(update={"sheets": _without(job.sheets, edit.sheet), "packs": packs})
    if isinstance(edit, MoveSheet | DuplicateSheet):
        others = list(_without(job.sheets, edit.sheet)) if isinstance(edit, MoveSheet) else list(job.sheets)
        if isinstance(edit, MoveSheet):
            others.insert(min(edit.to, len(others)), sheet)
        else:
            others.insert(job.sheets.index(sheet) + 1, _duplicate(sheet, edit, drawings))
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


ViewEdit = AddView | ChangeView | ChangeViews | MoveView | MoveViews | RemoveView | PasteViews


def _pasted(job: JobDocument, sheet: SheetSpec, edit: PasteViews) -> SheetSpec:
    """The sheet with copies of views. A view pulled from another stays in its family where that is copied too, else it stands
    by itself; a section or a detail goes with what it is of.

    :raises InputError: for a section or a detail on a sheet without what it is of.
    """
    ids = {(own.sheet, own.view): own.new for own in edit.views}
    taken_ids = {view.id for other in job.sheets for view in other.views}
    if len(set(ids.values())) < len(edit.views) or taken_ids & set(ids.values()):
        raise InputError("A view of this id is on a sheet already: paste it once more.")
    scale = sheet.scale if sheet.views else _view(job.sheet(edit.views[0].sheet), edit.views[0].view).scale
    made: list[ViewSpec] = []
    for own in edit.views:
        view = _view(job.sheet(own.sheet), own.view)
        parent = ids.get((own.sheet, view.parent)) if view.parent else None
        if parent is None and (view.section or view.detail):
            if own.sheet != sheet.id:
                raise InputError(f"The {view.title} belongs to the view that it was made of: copy both.")
            parent = view.parent
        x, y = view.place
        fields: dict[str, Any] = {"id": own.new, "place": (x + edit.by[0], y + edit.by[1]), "parent": parent}
        if parent is None:
            fields |= {"pulled": None, "own": view.own - {"scale"} if view.scale == scale else view.own | {"scale"}}
        there = [*sheet.views, *made]
        taken = {mark.letter for other in there for mark in (other.section, other.detail) if mark is not None}
        for part in ("section", "detail"):
            mark = getattr(view, part)
            if mark is not None and mark.letter in taken:
                fields[part] = mark.model_copy(update={"letter": families.next_letter(there)})
        made.append(view.model_copy(update=fields))
    return sheet.model_copy(update={"scale": scale, "views": (*sheet.views, *made)})


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
    elif isinstance(edit, PasteViews):
        sheet = _pasted(job, sheet, edit)
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


def _among(items: tuple[Any, ...], item_id: str, what: str) -> Any:
    for item in items:
        if item.id == item_id:
            return item
    raise NotThere(f"This {what} is no longer there: choose another.")


def _replaced(items: tuple[Any, ...], new: Any) -> tuple[Any, ...]:
    return tuple(new if item.id == new.id else item for item in items)


def _apply_note(job: JobDocument, edit: AddNote | ChangeNote | RemoveNote) -> JobDocument:
    sheet = job.sheet(edit.sheet)
    if isinstance(edit, AddNote):
        notes: tuple[Any, ...] = (*_without(sheet.notes, edit.note.id), edit.note)
    else:
        note = _among(sheet.notes, edit.note, "note")
        if isinstance(edit, RemoveNote):
            notes = _without(sheet.notes, note.id)
        else:
            notes = _replaced(sheet.notes, _changed(note, edit.fields, _NOTE_FIELDS))
    return job.with_sheet(sheet.model_copy(update={"notes": notes}))


def _apply_dimension(job: JobDocument, edit: ChangeDimension | RemoveDimension) -> JobDocument:
    sheet = job.sheet(edit.sheet)
    view = _view(sheet, edit.view)
    dimension = _among(view.dimensions, edit.dimension, "dimension")
    if isinstance(edit, RemoveDimension):
        dimensions = _without(view.dimensions, dimension.id)
    else:
        dimensions = _replaced(view.dimensions, _changed(dimension, edit.fields, _DIMENSION_FIELDS))
    changed = view.model_copy(update={"dimensions": dimensions})
    return job.with_sheet(sheet.with_views(_replaced(sheet.views, changed)))


_SOLID_FIELDS = {"name", "place", "size", "frame", "choices", "views", "default", "opening", "poster_dpi"}

FieldEdit = AddField | ChangeField | MoveField | RemoveField | ChangeFieldView


def _sides(field: FieldSpec, fields: dict[str, Any]) -> dict[str, Any]:
    """One side of a field's place or size is changed by itself (x, y, width, height), so that two typed quickly both count."""
    plain = {key: value for key, value in fields.items() if key not in ("x", "y", "width", "height")}
    for name, keys, old in (("place", ("x", "y"), field.place), ("size", ("width", "height"), field.size)):
        if any(key in fields for key in keys):
            plain[name] = [fields.get(key, value) for key, value in zip(keys, old, strict=True)]
    return plain


def _apply_field(job: JobDocument, edit: FieldEdit) -> JobDocument:
    sheet = job.sheet(edit.sheet)
    if isinstance(edit, AddField):
        if job.source(edit.field.source).drawing:
            raise InputError("A 3D field shows a model: choose one, or put the drawing on as an excerpt.")
        fields: tuple[Any, ...] = (*_without(sheet.fields, edit.field.id), edit.field)
        return job.with_sheet(sheet.model_copy(update={"fields": fields}))
    field = sheet.field(edit.field)
    if isinstance(edit, RemoveField):
        return job.with_sheet(sheet.model_copy(update={"fields": _without(sheet.fields, field.id)}))
    if isinstance(edit, MoveField):
        place = (field.place[0] + edit.by[0], field.place[1] + edit.by[1])
        field = _changed(field, {"place": place}, {"place"})
    elif isinstance(edit, ChangeFieldView):
        field = _changed(field, {"views": [v.model_dump() for v in _kept(field.views, edit.view)]}, {"views"})
    else:
        field = _changed(field, _sides(field, edit.fields), _SOLID_FIELDS)
    return job.with_sheet(sheet.model_copy(update={"fields": _replaced(sheet.fields, field)}))


_EXCERPT_FIELDS = {"region", "angle", "space", "strokes"}

ExcerptEdit = ChangeExcerpt | ShiftExcerpt | SwitchLayers | StyleLayer | ReplaceText


def _excerpted(view: ViewSpec, fields: dict[str, Any]) -> ViewSpec:
    assert view.excerpt is not None
    return view.model_copy(update={"excerpt": view.excerpt.model_copy(update=fields)})


def _apply_excerpt(job: JobDocument, edit: ExcerptEdit, drawings: Drawings) -> JobDocument:
    sheet = job.sheet(edit.sheet)
    view = _view(sheet, edit.view)
    if view.excerpt is None:
        raise InputError("This view is no excerpt of a drawing.")
    if isinstance(edit, SwitchLayers):
        named = frozenset(edit.layers)
        changed = _excerpted(view, {"off": view.excerpt.off - named if edit.on else view.excerpt.off | named})
    elif isinstance(edit, StyleLayer):
        others = {layer: style for layer, style in view.excerpt.styles.items() if layer != edit.layer}
        changed = _excerpted(view, {"styles": others | ({edit.layer: edit.style} if edit.style else {})})
    elif isinstance(edit, ReplaceText):
        texts = {key: text for key, text in view.excerpt.texts.items() if key != edit.key}
        changed = _excerpted(view, {"texts": texts | ({edit.key: edit.text} if edit.text is not None else {})})
    elif isinstance(edit, ShiftExcerpt):
        changed = excerpting.shifted(view, *edit.by, drawings(view.source))
    else:
        excerpt = _changed(view.excerpt, edit.fields, _EXCERPT_FIELDS)
        changed = excerpting.refitted(view, excerpt, drawings(view.source))
    return job.with_sheet(families.refreshed(sheet.with_views(_replaced(sheet.views, changed)), _at_origin))


def _in_units(view: ViewSpec, kind: str) -> bool:
    """Whether an excerpt is measured in its drawing's unit: a page saved in a DXF file is in millimetres of paper."""
    return view.excerpt is not None and not (kind == "dxf" and view.excerpt.space)


def _apply_unit(job: JobDocument, edit: SetUnit, drawings: Drawings) -> JobDocument:
    """Excerpts of the drawing show the same part of it, at the scale that they have."""
    source = job.source(edit.source)
    if not source.drawing:
        raise InputError("Only a drawing's unit can be said: a model's file has its own.")
    kind = drawings(source.id).kind
    sources = tuple(s.model_copy(update={"unit_mm": edit.unit_mm}) if s.id == source.id else s for s in job.sources)
    job = job.model_copy(update={"sources": sources})
    for sheet in job.sheets:
        views = tuple(
            excerpting.rescaled_unit(v, edit.unit_mm) if v.source == source.id and _in_units(v, kind) else v
            for v in sheet.views
        )
        job = job.with_sheet(sheet.with_views(views))
    return job


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


def _kept(items: tuple[Any, ...], new: Any) -> tuple[Any, ...]:
    """With a new item at the end, or in the place of the one of its id."""
    return _replaced(items, new) if any(item.id == new.id for item in items) else (*items, new)


def _apply_pens_or_pack(job: JobDocument, edit: KeepPens | RemovePens | KeepPack | RemovePack) -> JobDocument:
    if isinstance(edit, KeepPens):
        if any(pens.id == edit.pens.id for pens in SHIPPED):
            raise InputError(f"{edit.pens.name} ships and stays as it is: duplicate it, and change the copy.")
        if any(pens.name == edit.pens.name and pens.id != edit.pens.id for pens in (*job.pens, *SHIPPED)):
            raise InputError(f"There is a pen set {edit.pens.name} already: choose another name.")
        return job.model_copy(update={"pens": _kept(job.pens, edit.pens)})
    if isinstance(edit, RemovePens):
        sheets = tuple(s.model_copy(update={"pens": DEFAULT.id}) if s.pens == edit.pens else s for s in job.sheets)
        return job.model_copy(update={"pens": _without(job.pens, edit.pens), "sheets": sheets})
    if isinstance(edit, RemovePack):
        return job.model_copy(update={"packs": _without(job.packs, edit.pack)})
    for sheet in edit.pack.sheets:
        job.sheet(sheet)
    if len(set(edit.pack.sheets)) < len(edit.pack.sheets):
        raise InputError("A sheet stands in this pack twice: leave one out.")
    if any(pack.name == edit.pack.name and pack.id != edit.pack.id for pack in job.packs):
        raise InputError(f"There is a pack {edit.pack.name} already: choose another name.")
    return job.model_copy(update={"packs": _kept(job.packs, edit.pack)})


def _apply_title(job: JobDocument, edit: SetTitle) -> JobDocument:
    if edit.sheet is None:
        return job.model_copy(update={"title": {k: v for k, v in (job.title | edit.fields).items() if v}})
    sheet = job.sheet(edit.sheet)
    return job.with_sheet(sheet.model_copy(update={"title": {k: v for k, v in (sheet.title | edit.fields).items() if v}}))


def _only_its_own(job: JobDocument) -> JobDocument:
    """The job, if all that its sheets show is among its sources. :raises InputError: when something is not."""
    known = {source.id for source in job.sources}
    for sheet in job.sheets:
        every: tuple[ViewSpec | FieldSpec, ...] = (*sheet.views, *sheet.fields)
        for shown in every:
            if shown.source not in known:
                raise InputError(f"{shown.name} on {sheet.name} shows a source that is not in the job: bring it in first.")
    return job


def apply(job: JobDocument, edit: Edit, middle: families.Middle = _at_origin, drawings: Drawings = _no_drawing) -> JobDocument:
    """The job after an edit.

    :param middle: the middle, model mm (3,), of what a view shows. :param drawings: the facts of a drawing by its source's id.
    :raises InputError: when the edit does not fit the job, with the sentence that says why.
    """
    return _only_its_own(_applied(job, edit, middle, drawings))


def _applied(job: JobDocument, edit: Edit, middle: families.Middle, drawings: Drawings) -> JobDocument:
    if isinstance(edit, RenameJob):
        return _changed(job, {"name": edit.name.strip()}, {"name"})  # type: ignore[no-any-return]
    if isinstance(edit, AddSource | RemoveSource):
        return _apply_source(job, edit)
    if isinstance(edit, SheetEdit):
        return _apply_sheet(job, edit, middle, drawings)
    if isinstance(edit, ExcerptEdit):
        return _apply_excerpt(job, edit, drawings)
    if isinstance(edit, SetUnit):
        return _apply_unit(job, edit, drawings)
    if isinstance(edit, FieldEdit):
        return _apply_field(job, edit)
    if isinstance(edit, AddNote | ChangeNote | RemoveNote):
        return _apply_note(job, edit)
    if isinstance(edit, ChangeDimension | RemoveDimension):
        return _apply_dimension(job, edit)
    if isinstance(edit, SaveViewpoint | RemoveViewpoint):
        return _apply_viewpoint(job, edit, middle)
    if isinstance(edit, SetTitle):
        return _apply_title(job, edit)
    if isinstance(edit, KeepPens | RemovePens | KeepPack | RemovePack):
        return _apply_pens_or_pack(job, edit)
    if isinstance(edit, SetPart):
        return job.model_copy(update={"parts": job.parts | {edit.part: edit.facts}})
    if isinstance(edit, SetColour):
        others = {path: colour for path, colour in job.colours.items() if path != edit.component}
        return job.model_copy(update={"colours": others | ({edit.component: edit.colour} if edit.colour else {})})
    return _apply_view(job, edit, middle)
