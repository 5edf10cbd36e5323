"""The edits that a person makes to a job, as values, and what each is called on the undo button."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from skalto.core.colour import HexColour
from skalto.core.ids import ShortId
from skalto.core.job import JobDocument, SavedViewpoint, SourceRef
from skalto.core.packs import Pack
from skalto.core.pens import PenSet
from skalto.core.scene.views import PreparedView
from skalto.core.sheets.annotations import Note
from skalto.core.sheets.field import FieldSpec
from skalto.core.sheets.reformatting import FollowFormat
from skalto.core.sheets.sheet import Arrangement, Millimetres, SheetSpec, ViewSpec
from skalto.core.sources.drawings.excerpt import LayerStyle
from skalto.core.sources.models.parts import PartFacts


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


class CopiedView(BaseModel):
    """A view of a sheet, and the id that its copy has."""

    model_config = ConfigDict(frozen=True)

    sheet: str
    view: str
    new: ShortId


class PasteViews(_Edit):
    """Copies of views, of this sheet or of others of the job, moved by so many mm from where those are."""

    kind: Literal["paste_views"]
    sheet: str
    views: tuple[CopiedView, ...] = Field(min_length=1)
    by: tuple[Millimetres, Millimetres] = (0.0, 0.0)


class AddSheets(_Edit):
    """Several sheets at once, in order behind the others."""

    kind: Literal["add_sheets"]
    sheets: tuple[SheetSpec, ...] = Field(min_length=1)


class MoveSheet(_Edit):
    """Put a sheet at another place in the order."""

    kind: Literal["move_sheet"]
    sheet: str
    to: int = Field(ge=0)


class DuplicateSheet(_Edit):
    """A sheet once more, with all its views, behind itself; *new* is its id. With *shift*, its excerpts show their drawing
    moved by so many mm of it."""

    kind: Literal["duplicate_sheet"]
    sheet: str
    new: ShortId
    name: str = ""
    shift: tuple[float, float] | None = None


class ChangeExcerpt(_Edit):
    """Region, turn, layers or styles of an excerpt; what of the drawing it shows stays where it lies on the sheet."""

    kind: Literal["change_excerpt"]
    sheet: str
    view: str
    fields: dict[str, Any]


class SwitchLayers(_Edit):
    """Show or hide some of a drawing's layers in an excerpt; the others stay as they are."""

    kind: Literal["switch_layers"]
    sheet: str
    view: str
    layers: tuple[str, ...]
    on: bool


class StyleLayer(_Edit):
    """A colour and a width for one layer of an excerpt; without a style it is as the file has it."""

    kind: Literal["style_layer"]
    sheet: str
    view: str
    layer: str
    style: LayerStyle | None


class ReplaceText(_Edit):
    """Other words for a text of an excerpt's drawing, by its key; without them it is as the file has it."""

    kind: Literal["replace_text"]
    sheet: str
    view: str
    key: str = Field(max_length=4000)
    text: str | None = Field(max_length=2000)


class ShiftExcerpt(_Edit):
    """Move the drawing inside an excerpt by so many mm of the drawing; shifts that follow one another add up."""

    kind: Literal["shift_excerpt"]
    sheet: str
    view: str
    by: tuple[float, float]


class SetUnit(_Edit):
    """What a drawing's unit is, in mm."""

    kind: Literal["set_unit"]
    source: str
    unit_mm: float = Field(gt=1e-9, lt=1e9)


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


class AddField(_Edit):
    """Put a 3D field on a sheet."""

    kind: Literal["add_field"]
    sheet: str
    field: FieldSpec


class ChangeField(_Edit):
    """Change some of a 3D field: its own fields, or x, y, width and height by themselves."""

    kind: Literal["change_field"]
    sheet: str
    field: str
    fields: dict[str, Any]


class MoveField(_Edit):
    """Move a 3D field by so many mm, from wherever it is."""

    kind: Literal["move_field"]
    sheet: str
    field: str
    by: tuple[Millimetres, Millimetres]


class RemoveField(_Edit):
    kind: Literal["remove_field"]
    sheet: str
    field: str


class ChangeFieldView(_Edit):
    """Keep a prepared view of a 3D field, or change the one of that id; others that are changed meanwhile stay as they are."""

    kind: Literal["change_field_view"]
    sheet: str
    field: str
    view: PreparedView


class AddNote(_Edit):
    kind: Literal["add_note"]
    sheet: str
    note: Note


class ChangeNote(_Edit):
    kind: Literal["change_note"]
    sheet: str
    note: str
    fields: dict[str, Any]


class RemoveNote(_Edit):
    kind: Literal["remove_note"]
    sheet: str
    note: str


class ChangeDimension(_Edit):
    kind: Literal["change_dimension"]
    sheet: str
    view: str
    dimension: str
    fields: dict[str, Any]


class RemoveDimension(_Edit):
    kind: Literal["remove_dimension"]
    sheet: str
    view: str
    dimension: str


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
    colour: HexColour | None


class KeepPens(_Edit):
    """Keep a pen set in the job, or change the one of that id."""

    kind: Literal["keep_pens"]
    pens: PenSet


class RemovePens(_Edit):
    """Take a pen set out of the job; sheets that it drew are drawn with the first that ships."""

    kind: Literal["remove_pens"]
    pens: str


class KeepPack(_Edit):
    """Keep a pack in the job, or change the one of that id."""

    kind: Literal["keep_pack"]
    pack: Pack


class RemovePack(_Edit):
    kind: Literal["remove_pack"]
    pack: str


Edit = Annotated[
    RenameJob
    | AddSource
    | RemoveSource
    | AddSheet
    | AddSheets
    | ChangeSheet
    | RemoveSheet
    | MoveSheet
    | DuplicateSheet
    | ChangeExcerpt
    | SwitchLayers
    | StyleLayer
    | ReplaceText
    | ShiftExcerpt
    | SetUnit
    | Rearrange
    | Reformat
    | AddView
    | ChangeView
    | ChangeViews
    | MoveView
    | MoveViews
    | RemoveView
    | PasteViews
    | AddField
    | ChangeField
    | MoveField
    | RemoveField
    | ChangeFieldView
    | AddNote
    | ChangeNote
    | RemoveNote
    | ChangeDimension
    | RemoveDimension
    | SaveViewpoint
    | RemoveViewpoint
    | SetTitle
    | SetPart
    | SetColour
    | KeepPens
    | RemovePens
    | KeepPack
    | RemovePack,
    Field(discriminator="kind"),
]

_WORDS = {
    "region": "region of",
    "angle": "turn",
    "scale": "scale of",
    "dimensions": "dimensions of",
    "hidden": "components of",
    "hidden_lines": "hidden lines of",
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
    "pens": "pens of",
    "recipe": "recipe of",
    "format": "format of",
    "orientation": "turn",
    "frame": "frame of",
    "margins": "margins of",
    "furniture": "furniture of",
    "name": "rename",
    "place": "move",
}
"""What a change is called, the more telling field first: a change of scale may carry a move with it."""


def describe(job: JobDocument, edit: Edit) -> str:
    """What an edit does, for the undo button: few words, lower case."""
    if isinstance(edit, ChangeExcerpt | ShiftExcerpt | SwitchLayers | StyleLayer | ReplaceText):
        words = {
            "shift_excerpt": "shift",
            "switch_layers": "layers of",
            "style_layer": "layers of",
            "replace_text": "a text of",
        }
        what = words.get(edit.kind, "")
        if isinstance(edit, ChangeExcerpt):
            what = _first_word(edit.fields)
        return f"{what} {job.sheet(edit.sheet).view(edit.view).title}"
    if isinstance(edit, ChangeView | MoveView | RemoveView):
        name = job.sheet(edit.sheet).view(edit.view).title
        if isinstance(edit, MoveView):
            return f"move {name}"
        return f"remove {name}" if isinstance(edit, RemoveView) else f"{_first_word(edit.fields)} {name}"
    if isinstance(edit, AddField):
        return f"add {edit.field.title}"
    if isinstance(edit, ChangeField | MoveField | RemoveField | ChangeFieldView):
        return _describe_field(job, edit)
    if isinstance(edit, AddNote | ChangeNote | RemoveNote):
        return f"{edit.kind.split('_')[0]} a note on {job.sheet(edit.sheet).name}"
    if isinstance(edit, ChangeDimension | RemoveDimension):
        return f"{edit.kind.split('_')[0]} a dimension of {job.sheet(edit.sheet).view(edit.view).title}"
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


def _describe_field(job: JobDocument, edit: ChangeField | MoveField | RemoveField | ChangeFieldView) -> str:
    title = job.sheet(edit.sheet).field(edit.field).title
    if isinstance(edit, ChangeFieldView):
        return f"prepared view {edit.view.name}"
    if isinstance(edit, ChangeField):
        words = {"views": "views of", "choices": "contents of", "opening": "opening of", "size": "size of", "frame": "frame of",
                 "width": "size of", "height": "size of", "x": "move", "y": "move"}  # fmt: skip
        return f"{next((word for name, word in words.items() if name in edit.fields), 'change')} {title}"
    return f"{edit.kind.split('_')[0]} {title}"


def _describe_other(job: JobDocument, edit: Any) -> str:
    if isinstance(edit, AddView):
        return f"add {edit.view.title}"
    if isinstance(edit, PasteViews):
        first = edit.views[0]
        return (
            f"paste {job.sheet(first.sheet).view(first.view).title}"
            if len(edit.views) == 1
            else f"paste {len(edit.views)} views"
        )
    if isinstance(edit, AddSheets):
        return f"add {edit.sheets[0].name}" if len(edit.sheets) == 1 else f"add {len(edit.sheets)} sheets"
    if isinstance(edit, AddSheet):
        return f"add {edit.sheet.name}"
    if isinstance(edit, AddSource):
        return f"bring in {edit.source.name}"
    if isinstance(edit, RemoveSource):
        return f"remove {job.source(edit.source).name}"
    if isinstance(edit, SetUnit):
        return f"unit of {job.source(edit.source).name}"
    if isinstance(edit, SaveViewpoint):
        return f"viewpoint {edit.viewpoint.name}"
    if isinstance(edit, KeepPens | KeepPack):
        return f"pens {edit.pens.name}" if isinstance(edit, KeepPens) else f"pack {edit.pack.name}"
    words = {
        "remove_pens": "remove pens",
        "remove_pack": "remove pack",
        "remove_viewpoint": "remove viewpoint",
        "set_title": "title block",
        "set_part": "part",
        "set_colour": "colour",
    }
    return words.get(edit.kind, "rename job")


def _first_word(fields: dict[str, Any]) -> str:
    return next((word for name, word in _WORDS.items() if name in fields), "change")
