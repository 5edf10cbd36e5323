"""What every edit is called on the undo button, and that edits of what is gone are refused in a sentence."""

from __future__ import annotations

from typing import Any, get_args

import pytest
from pydantic import TypeAdapter, ValidationError

from skalto.core.cutting.choices import PlacedProfile, Plate
from skalto.core.cutting.decorations import Decoration, LetteringContent
from skalto.core.cutting.section import ComponentOrigin, CutList, CutPart, CuttingContent
from skalto.core.edits import FEATURES, AnyEdit, Around, Edit, apply
from skalto.core.errors import InputError
from skalto.core.job import JobDocument
from skalto.core.layout.cutting_sheets import cutting_sheet
from skalto.core.packs import Pack
from skalto.core.pens import PenSet
from skalto.core.scene.annotation_3d import Annotation3d
from skalto.core.scene.kept import KeptMark
from skalto.core.sheets.annotations import Detail, Dimension, DimensionKind, Note, PartsList, Section
from skalto.core.sheets.content import DrawingContent, FlatContent, ProjectionContent
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.drawings.drawing import DrawingFacts, SpaceFacts
from skalto.core.sources.drawings.excerpt import Excerpt
from skalto.core.sources.models.parts import PartKind
from skalto.core.sources.section import SourceRef
from skalto.core.viewpoints import SavedViewpoint
from skalto.store.blobs import content_hash
from tests.core.drawn import as_section, enlarged


def sha(name: str) -> str:
    return content_hash(name.encode())


WIDTH = Dimension(id="w", kind=DimensionKind.WIDTH)
VIEW = ViewSpec(
    id="v", source=sha("src"), name="front", content=ProjectionContent(look=(0, 1, 0), up=(0, 0, 1)), dimensions=(WIDTH,)
)
CUT = as_section(VIEW, Section(letter="A", start=(0, 0), end=(0, 1))).model_copy(update={"id": "c", "parent": "v"})
LENS = enlarged(VIEW, Detail(letter="B", centre=(0, 0), radius=2)).model_copy(update={"id": "d", "parent": "v"})
FREE = VIEW.showing(look=(0, 0, -1), up=(0, 1, 0)).model_copy(update={"id": "f", "name": "top"})
EXCERPT = FREE.model_copy(
    update={
        "id": "e",
        "source": sha("plan"),
        "name": "ground",
        "content": DrawingContent(excerpt=Excerpt(region=(0, 0, 100, 50))),
    }
)
FLAT = FREE.model_copy(update={"id": "u", "name": "Tray", "content": FlatContent(component="Tray")})
BENT = SheetSpec(id="b", name="Bent", views=(FLAT,))
NOTE = Note(id="n", text="2 off", place=(20, 20), view="v", target=(1, 2))
BURR = KeptMark(kind="mark", id="m", name="Burr", at=(4, 5, 6))
FIELD = Annotation3d(id="3d", source=sha("solid"), name="Stand", place=(20, 30), size=(100, 80), kept=(BURR,))
SHEET = SheetSpec(id="s", name="Cheek", views=(VIEW, CUT, LENS, FREE), notes=(NOTE,), parts_list=PartsList(view="v"))
OLD = Decoration(id="old", content=LetteringContent(text="No. 7"))
SIDES = CutList(
    id="sides",
    name="Sides",
    parts=(CutPart(id="side", name="Side", origin=ComponentOrigin(source=sha("src"), component="Side"), decorations=(OLD,)),),
    plates=(Plate(width=600, height=400),),
)
LYING = PlacedProfile(id="one", part="side", x=10, y=10)
ON_PLATE = CuttingContent(cut_list="sides", placed=(LYING,))
JOB = JobDocument(
    name="Job",
    sources=(
        SourceRef(id=sha("src"), name="plate.step", size=10),
        SourceRef(id=sha("spare"), name="spare.step", size=10),
        SourceRef(id=sha("plan"), name="plan.dxf", size=10, drawing=True),
        SourceRef(id=sha("solid"), name="stand.step", size=10),
    ),
    sheets=(
        SHEET,
        SheetSpec(id="t", name="Tray"),
        SheetSpec(id="p", name="Plan", views=(EXCERPT,)),
        SheetSpec(id="r", name="Review", annotations_3d=(FIELD,)),
    ),
    viewpoints=(SavedViewpoint(id="p", name="Drive side", look=(-1, 2, -1), up=(0, 0, 1)),),
    pens=(PenSet(id="own", name="Override"),),
    packs=(Pack(id="old", name="Old", sheets=("s",)),),
)
DRAWING = DrawingFacts(kind="dxf", form="DXF R12", spaces=(SpaceFacts(name="", label="Drawing", box=(0, 0, 200, 100)),))
NEW_SHEET, NEW_VIEW = {"id": "u", "name": "Third"}, FREE.model_dump() | {"id": "w", "name": "rear"}
NEW_SOURCE = {"id": sha("new"), "name": "bed.step", "size": 5}
POINT = {"id": "q", "name": "From the bench", "look": [0, 1, -1], "up": [0, 0, 1]}

CASES: list[tuple[dict[str, Any], str]] = [
    ({"kind": "rename_job", "name": "Press"}, "rename job"),
    ({"kind": "add_source", "source": NEW_SOURCE}, "add bed.step"),
    ({"kind": "remove_source", "source": sha("spare")}, "remove spare.step"),
    ({"kind": "add_sheet", "sheet": NEW_SHEET}, "add Third"),
    ({"kind": "add_sheets", "sheets": [NEW_SHEET, {"id": "u2", "name": "Fourth"}]}, "add 2 sheets"),
    ({"kind": "paste_views", "sheet": "t", "views": [{"sheet": "s", "view": "f", "new": "x"}]}, "paste top view"),
    ({"kind": "change_sheet", "sheet": "s", "fields": {"name": "Plate"}}, "rename Cheek"),
    ({"kind": "change_sheet", "sheet": "s", "fields": {"clean": True}}, "clean Cheek"),
    ({"kind": "change_sheet", "sheet": "s", "fields": {"margins": [0, 0, 0, 0]}}, "margins of Cheek"),
    ({"kind": "remove_sheet", "sheet": "t"}, "remove Tray"),
    ({"kind": "move_sheet", "sheet": "t", "to": 0}, "reorder Tray"),
    ({"kind": "duplicate_sheet", "sheet": "s", "new": "x"}, "duplicate Cheek"),
    ({"kind": "rearrange", "sheet": "s", "arrangement": "third"}, "arrangement of Cheek"),
    ({"kind": "reformat", "sheet": "s", "format": "A2"}, "format of Cheek"),
    ({"kind": "add_view", "sheet": "s", "view": NEW_VIEW}, "add rear view"),
    ({"kind": "change_view", "sheet": "s", "view": "c", "fields": {"scale": "2:1"}}, "scale of section A–A"),
    ({"kind": "change_view", "sheet": "s", "view": "f", "fields": {"rotation": 30}}, "turn top view"),
    ({"kind": "change_view", "sheet": "s", "view": "f", "fields": {"turn": 30}}, "turn top view"),
    ({"kind": "change_views", "sheet": "s", "views": ["v", "f"], "fields": {"shaded": True}}, "shading of 2 views"),
    ({"kind": "move_view", "sheet": "s", "view": "d", "by": [1, 2]}, "move detail B"),
    ({"kind": "move_views", "sheet": "s", "moves": {"v": [1, 0], "f": [0, 1]}}, "move 2 views"),
    ({"kind": "remove_view", "sheet": "s", "view": "f"}, "remove top view"),
    (
        {"kind": "add_annotation_3d", "sheet": "t", "annotation": {"id": "g", "source": sha("src"), "name": "Plate"}},
        "add 3D annotation Plate",
    ),
    (
        {"kind": "change_annotation_3d", "sheet": "r", "annotation": "3d", "fields": {"width": 50, "y": 4}},
        "size of 3D annotation Stand",
    ),
    (
        {"kind": "change_annotation_3d", "sheet": "r", "annotation": "3d", "fields": {"opening": {"unit": "in"}}},
        "opening of 3D annotation Stand",
    ),
    ({"kind": "move_field", "sheet": "r", "field": "3d", "by": [5, -5]}, "move 3D annotation Stand"),
    (
        {"kind": "turn_annotation_3d", "sheet": "r", "annotation": "3d", "turn": [[0, -1, 0], [1, 0, 0], [0, 0, 1]]},
        "turn 3D annotation Stand",
    ),
    (
        {
            "kind": "keep_in_annotation_3d",
            "sheet": "r",
            "annotation": "3d",
            "item": {"kind": "mark", "id": "k", "name": "Look here", "at": [1, 2, 3]},
        },
        "keep mark Look here",
    ),
    (
        {"kind": "forget_in_annotation_3d", "sheet": "r", "annotation": "3d", "items": ["m"]},
        "remove Burr",
    ),
    ({"kind": "move_annotation_3d", "sheet": "r", "annotation": "3d", "by": [5, -5]}, "move 3D annotation Stand"),
    (
        {"kind": "change_prepared_view", "sheet": "r", "annotation": "3d", "view": {"id": "q", "name": "Behind"}},
        "prepared view Behind",
    ),
    ({"kind": "remove_annotation_3d", "sheet": "r", "annotation": "3d"}, "remove 3D annotation Stand"),
    ({"kind": "add_note", "sheet": "t", "note": {"id": "m", "text": "Deburr", "place": [9, 9]}}, "add a note on Tray"),
    ({"kind": "change_note", "sheet": "s", "note": "n", "fields": {"height": 5}}, "change a note on Cheek"),
    ({"kind": "remove_note", "sheet": "s", "note": "n"}, "remove a note on Cheek"),
    (
        {"kind": "change_dimension", "sheet": "s", "view": "v", "dimension": "w", "fields": {"tolerance": "H7"}},
        "change a dimension of front view",
    ),
    ({"kind": "remove_dimension", "sheet": "s", "view": "v", "dimension": "w"}, "remove a dimension of front view"),
    ({"kind": "save_viewpoint", "viewpoint": POINT}, "viewpoint From the bench"),
    ({"kind": "remove_viewpoint", "viewpoint": "p"}, "remove viewpoint"),
    ({"kind": "set_title", "sheet": "s", "fields": {"revision": "B"}}, "title block"),
    ({"kind": "set_part", "part": "Cheek", "facts": {"number": "EB-101"}}, "part"),
    ({"kind": "set_parts", "parts": {"Cheek": {"material": "S235"}, "Bed": {"material": "S235"}}}, "material of 2 parts"),
    ({"kind": "set_parts", "parts": {"Cheek": {"finish": "zinc", "thickness": "8"}}}, "properties of a part"),
    ({"kind": "set_release", "rules": "house"}, "release rules"),
    ({"kind": "set_release", "revisions": "numbers"}, "revisions by numbers"),
    ({"kind": "set_own_fields", "fields": [{"name": "Shelf"}]}, "fields of parts"),
    (
        {"kind": "set_series", "series": [{"kinds": [own.value for own in PartKind], "prefix": "EB-"}]},
        "series of marks",
    ),
    (
        {"kind": "change_excerpt", "sheet": "p", "view": "e", "fields": {"region": [10, 0, 60, 50]}},
        "region of drawing view ground",
    ),
    ({"kind": "switch_layers", "sheet": "p", "view": "e", "layers": ["WALLS"], "on": False}, "layers of drawing view ground"),
    (
        {"kind": "style_layer", "sheet": "p", "view": "e", "layer": "WALLS", "style": {"colour": "#102030", "width": 0.7}},
        "layers of drawing view ground",
    ),
    ({"kind": "replace_text", "sheet": "p", "view": "e", "key": "A@1.000,2.000", "text": "B"}, "a text of drawing view ground"),
    ({"kind": "shift_excerpt", "sheet": "p", "view": "e", "by": [0, -20]}, "shift drawing view ground"),
    ({"kind": "set_unit", "source": sha("plan"), "unit_mm": 25.4}, "unit of plan.dxf"),
    ({"kind": "set_job_unit", "unit": "in"}, "unit in"),
    ({"kind": "keep_pens", "pens": {"id": "q", "name": "Etching"}}, "pens Etching"),
    ({"kind": "remove_pens", "pens": "own"}, "remove pens"),
    ({"kind": "keep_pack", "pack": {"id": "k", "name": "For the shop", "sheets": ["t", "s"]}}, "pack For the shop"),
    ({"kind": "remove_pack", "pack": "old"}, "remove pack"),
    ({"kind": "set_colour", "component": "Press/Cheek", "colour": "#205040"}, "colour"),
]

NAMED = {"kind": "lettering", "text": "Ebba"}
NEW = {"id": "n", "content": NAMED}
MOVED = {"decoration": "old", "fields": {"x": 3}}
WITH_PLATE = JOB.model_copy(
    update={"sheets": (*JOB.sheets, cutting_sheet("k", "Sides, plate 1", SIDES, ON_PLATE), BENT), "cut_lists": (SIDES,)}
)
TALL = {"plates": [{"width": 300, "height": 500}]}
CUT_CASES: list[tuple[dict[str, Any], str]] = [
    ({"kind": "add_cut_list", "cut_list": {"id": "feet", "name": "Feet"}}, "add Feet"),
    (
        {"kind": "change_cut_list", "cut_list": "sides", "fields": TALL},
        "plates of Sides",
    ),
    ({"kind": "change_cut_list", "cut_list": "sides", "fields": {"choices": {"kerf": 0.2}}}, "cutting of Sides"),
    ({"kind": "remove_cut_list", "cut_list": "sides"}, "remove Sides"),
    ({"kind": "change_flat", "sheet": "b", "view": "u", "fields": {"limits": True}}, "bend limits of flat pattern Tray"),
    (
        {"kind": "lay_parts", "cut_list": "sides", "contents": [{"cut_list": "sides"}, ON_PLATE.model_dump()]},
        "arrange Sides",
    ),
    ({"kind": "change_profile", "sheet": "k", "profile": "one", "fields": {"x": 30}}, "move Side"),
    ({"kind": "change_profile", "sheet": "k", "profile": "one", "fields": {"pinned": True}}, "pin Side"),
    ({"kind": "remove_profile", "sheet": "k", "profile": "one"}, "take off Side"),
    (
        {"kind": "add_decoration", "sheet": "k", "part": "side", "decoration": {"id": "n", "content": NAMED}},
        "draw “Ebba” on Side",
    ),
    ({"kind": "add_decoration", "sheet": "k", "decoration": NEW}, "draw “Ebba” on Sides, plate 1"),
    (
        {"kind": "change_decoration", "sheet": "k", "part": "side", **MOVED},
        "move what is on Side",
    ),
    ({"kind": "remove_decoration", "sheet": "k", "part": "side", "decoration": "old"}, "take a decoration off Side"),
]


def edit(fields: dict[str, Any]) -> Edit:
    return TypeAdapter(AnyEdit).validate_python(fields)


EVERY = [(JOB, *case) for case in CASES] + [(WITH_PLATE, *case) for case in CUT_CASES]


@pytest.mark.parametrize(("job", "fields", "words"), EVERY, ids=[f"{case[1]['kind']}-{n}" for n, case in enumerate(EVERY)])
def test_every_edit_has_a_name_and_an_effect(job: JobDocument, fields: dict[str, Any], words: str) -> None:
    made = edit(fields)
    before = job.model_dump_json()
    assert made.label(job) == words
    changed = apply(job, made, Around(drawings=lambda source: DRAWING))
    assert changed != job
    # the document that undo goes back to is as it was, and the new one can be kept
    assert job.model_dump_json() == before
    assert JobDocument.model_validate_json(changed.model_dump_json()) == changed


def test_no_edit_was_forgotten() -> None:
    kinds = {get_args(edit.model_fields["kind"].annotation)[0] for feature in FEATURES for edit in feature.EDITS}
    assert kinds <= {fields["kind"] for fields, _ in (*CASES, *CUT_CASES)}


def test_several_edits_are_one_step() -> None:
    rows = [
        {"kind": "change_sheet", "sheet": "s", "fields": {"scale": "1:5"}},
        {"kind": "rename_job", "name": "Other"},
        {"kind": "remove_view", "sheet": "s", "view": "v"},
    ]
    made = edit({"kind": "together", "edits": rows})
    assert made.label(JOB) == "scale of Cheek and 2 more"
    changed = apply(JOB, made)
    assert (changed.name, str(changed.sheet("s").scale)) == ("Other", "1:5")
    assert "v" not in {view.id for view in changed.sheet("s").views}
    # all or nothing
    with pytest.raises(InputError, match="no longer on the sheet"):
        apply(JOB, edit({"kind": "together", "edits": [*rows, rows[-1]]}))
    with pytest.raises(ValidationError):
        edit({"kind": "together", "edits": []})
    with pytest.raises(ValidationError):
        edit({"kind": "together", "edits": [{"kind": "together", "edits": rows}]})


def test_a_patch_says_only_what_is_given() -> None:
    schema = TypeAdapter(AnyEdit).json_schema()
    for name in ("SheetPatch", "ViewPatch", "Annotation3dPatch", "ExcerptPatch", "NotePatch", "DimensionPatch"):
        own = schema["$defs"][name]
        assert "required" not in own
        assert not any("default" in field for field in own["properties"].values())


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"kind": "change_sheet", "sheet": "gone", "fields": {"name": "X"}}, "sheet is no longer in the job"),
        ({"kind": "move_view", "sheet": "s", "view": "gone", "by": [1, 0]}, "view is no longer on the sheet"),
        ({"kind": "move_views", "sheet": "s", "moves": {"v": [1, 0], "gone": [1, 0]}}, "view is no longer on the sheet"),
        ({"kind": "add_view", "sheet": "s", "view": NEW_VIEW | {"source": "gone"}}, "source is no longer in the job"),
        ({"kind": "remove_source", "source": sha("src")}, "plate.step is shown on Cheek: take what shows it off first"),
        ({"kind": "change_sheet", "sheet": "s", "fields": {"format": "A11"}}, "A11"),
        ({"kind": "reformat", "sheet": "s", "format": "0x60mm"}, "side of 0 mm cannot be made"),
        ({"kind": "change_view", "sheet": "s", "view": "c", "fields": {"look": [1, 0, 0]}}, "looks as its parent has it"),
        ({"kind": "rename_job", "name": "  "}, "name"),
        ({"kind": "shift_excerpt", "sheet": "s", "view": "f", "by": [0, 1]}, "not a drawing view"),
        ({"kind": "change_excerpt", "sheet": "p", "view": "e", "fields": {"region": [0, 0, 0, 5]}}, "pick two corners apart"),
        ({"kind": "set_unit", "source": sha("src"), "unit_mm": 1}, "Only a drawing's unit can be said"),
        ({"kind": "remove_source", "source": sha("solid")}, "stand.step is shown on Review"),
        ({"kind": "add_annotation_3d", "sheet": "t", "annotation": {"id": "g", "source": sha("plan")}}, "shows a model"),
        (
            {"kind": "move_annotation_3d", "sheet": "r", "annotation": "gone", "by": [1, 1]},
            "3D annotation is no longer on the sheet",
        ),
        ({"kind": "change_annotation_3d", "sheet": "r", "annotation": "3d", "fields": {"width": 2}}, "10 mm or more"),
        (
            {"kind": "change_prepared_view", "sheet": "r", "annotation": "3d", "view": {"id": "q", "name": "front"}},
            "give one another name",
        ),
        ({"kind": "remove_note", "sheet": "s", "note": "gone"}, "note is no longer there"),
        ({"kind": "change_note", "sheet": "s", "note": "n", "fields": {"text": ""}}, "text"),
        ({"kind": "change_note", "sheet": "s", "note": "n", "fields": {"height": 900}}, "height"),
        ({"kind": "remove_dimension", "sheet": "s", "view": "v", "dimension": "gone"}, "dimension is no longer there"),
        (
            {"kind": "change_dimension", "sheet": "s", "view": "v", "dimension": "w", "fields": {"tolerance": "tight"}},
            "“tight” is not a tolerance",
        ),
    ],
)
def test_what_cannot_be_done_says_why(fields: dict[str, Any], words: str) -> None:
    with pytest.raises(InputError, match=words):
        apply(JOB, edit(fields), Around(drawings=lambda source: DRAWING))


@pytest.mark.parametrize(
    "fields",
    [
        {"kind": "paint_it"},
        {"kind": "move_view", "sheet": "s", "view": "v", "by": [1]},
        {"kind": "move_view", "sheet": "s", "view": "v", "by": [float("nan"), 0]},
        {"kind": "move_sheet", "sheet": "s", "to": -1},
        {"kind": "set_colour", "component": "a", "colour": "green"},
        {"kind": "rename_job", "name": "X", "also": 1},
        {"kind": "change_view", "sheet": "s", "view": "v", "fields": {"id": "w"}},
        {"kind": "change_sheet", "sheet": "s", "fields": {"views": []}},
        {"kind": "change_sheet", "sheet": "s", "fields": {"scale": "big"}},
        {"kind": "change_annotation_3d", "sheet": "r", "annotation": "3d", "fields": {"source": sha("src")}},
    ],
)
def test_what_is_no_edit_is_refused(fields: dict[str, Any]) -> None:
    with pytest.raises(ValidationError):
        edit(fields)


def test_a_view_that_goes_lets_go_of_its_note_and_its_list() -> None:
    after = apply(JOB, edit({"kind": "remove_view", "sheet": "s", "view": "v"})).sheet("s")
    assert [view.id for view in after.views] == ["f"]
    assert (after.notes[0].text, after.notes[0].view, after.notes[0].target) == ("2 off", None, None)
    assert after.parts_list is None


def test_a_sheet_that_is_sent_to_the_end_or_beyond_is_last() -> None:
    after = apply(JOB, edit({"kind": "move_sheet", "sheet": "s", "to": 99}))
    assert [sheet.id for sheet in after.sheets] == ["t", "p", "r", "s"]


def test_a_copy_has_ids_of_its_own_and_keeps_what_belongs_together() -> None:
    after = apply(JOB, edit({"kind": "duplicate_sheet", "sheet": "s", "new": "x", "name": "Cheek, right"}))
    assert [sheet.name for sheet in after.sheets] == ["Cheek", "Cheek, right", "Tray", "Plan", "Review"]
    copy = after.sheet("x")
    assert not {view.id for view in copy.views} & {view.id for view in SHEET.views}
    ids = dict(zip((v.id for v in SHEET.views), (v.id for v in copy.views), strict=True))
    assert [view.parent for view in copy.views] == [ids.get(view.parent or "") for view in SHEET.views]
    assert copy.notes[0].view == ids["v"]
    assert copy.parts_list is not None
    assert copy.parts_list.view == ids["v"]


def test_a_sheet_with_3d_is_duplicated_and_reformatted_with_it() -> None:
    twice = apply(JOB, edit({"kind": "duplicate_sheet", "sheet": "r", "new": "x"}))
    (copy,) = twice.sheet("x").annotations_3d
    assert (copy.id, copy.size) == ("x.3d0", (100, 80))
    larger = apply(JOB, edit({"kind": "reformat", "sheet": "r", "format": "A1", "views": "rescale"})).sheet("r")
    (field,) = larger.annotations_3d
    assert field.size[0] / field.size[1] == pytest.approx(100 / 80)
    assert field.size[0] > 150
    narrow = apply(
        JOB, edit({"kind": "change_annotation_3d", "sheet": "r", "annotation": "3d", "fields": {"width": 50, "y": 4}})
    )
    assert narrow.sheet("r").annotation_3d("3d").size == (50, 80)
    assert narrow.sheet("r").annotation_3d("3d").place == (20, 4)


def pasted(sheet: str, *views: str, to: str = "t", by: tuple[float, float] = (0, 0)) -> SheetSpec:
    rows = [{"sheet": sheet, "view": view, "new": f"new-{view}"} for view in views]
    return apply(JOB, edit({"kind": "paste_views", "sheet": to, "views": rows, "by": by})).sheet(to)


def test_a_family_is_pasted_as_one_and_a_member_alone_stands_by_itself() -> None:
    family = pasted("s", "v", "c", "d", to="t")
    assert [(view.id, view.parent) for view in family.views] == [("new-v", None), ("new-c", "new-v"), ("new-d", "new-v")]
    beside = pasted("s", "v", to="s", by=(10, -10)).view("new-v")
    assert (beside.place, beside.dimensions) == ((10, -10), (WIDTH,))
    # on its own sheet a detail stays with what it is of, under a letter of its own
    lens = pasted("s", "d", to="s").view("new-d")
    assert lens.parent == "v"
    assert lens.detail is not None
    assert lens.detail.letter == "C"


def test_a_section_without_its_view_is_not_pasted_elsewhere() -> None:
    with pytest.raises(InputError, match="copy both"):
        pasted("s", "c", to="t")


def test_no_two_views_or_sheets_have_one_id() -> None:
    row = {"sheet": "s", "view": "f", "new": "e"}
    with pytest.raises(InputError, match="paste it once more"):
        apply(JOB, edit({"kind": "paste_views", "sheet": "t", "views": [row]}))
    with pytest.raises(InputError, match="paste it once more"):
        apply(JOB, edit({"kind": "paste_views", "sheet": "t", "views": [row | {"new": "x"}] * 2}))
    with pytest.raises(InputError, match="add it once more"):
        apply(JOB, edit({"kind": "add_sheets", "sheets": [{"id": "t", "name": "Again"}]}))


def test_an_empty_sheet_takes_the_scale_of_what_is_pasted_and_another_keeps_its_own() -> None:
    job = apply(JOB, edit({"kind": "change_sheet", "sheet": "s", "fields": {"scale": "1:5"}}))
    rows = [{"sheet": "s", "view": "f", "new": "x"}]
    empty = apply(job, edit({"kind": "paste_views", "sheet": "t", "views": rows})).sheet("t")
    assert (str(empty.scale), str(empty.view("x").scale), empty.view("x").overrides) == ("1:5", "1:5", frozenset())
    other = apply(job, edit({"kind": "paste_views", "sheet": "p", "views": rows})).sheet("p")
    assert (str(other.scale), str(other.view("x").scale), other.view("x").overrides) == ("1:1", "1:5", {"scale"})


def test_decorations_stay_on_their_plate_and_name_what_they_show() -> None:
    drawn = {"kind": "drawing", "source": sha("src")}
    on_plate = {"kind": "add_decoration", "sheet": "k", "decoration": {"id": "n", "content": drawn}}
    job = apply(WITH_PLATE, edit(on_plate))
    lay = {"kind": "lay_parts", "cut_list": "sides", "contents": [{"cut_list": "sides"}]}
    content = apply(job, edit(lay)).sheet("k").cutting
    assert content is not None
    assert [own.id for own in content.decorations] == ["n"]
    assert sha("src") in job.sources_of(job.sheet("k"))
    copied = apply(job, edit({"kind": "duplicate_sheet", "sheet": "k", "new": "x"})).sheet("x").cutting
    assert copied is not None
    assert [own.id for own in copied.decorations] == ["x.d0"]
    unknown = {"id": "m", "content": drawn | {"source": "elsewhere"}}
    for fields, words in (
        ({"kind": "add_decoration", "sheet": "k", "decoration": unknown}, "not in the job"),
        ({"kind": "add_decoration", "sheet": "k", "part": "side", "decoration": unknown}, "not in the job"),
        ({"kind": "add_decoration", "sheet": "k", "decoration": {"id": "n", "content": NAMED}}, "there already"),
        ({"kind": "add_decoration", "sheet": "t", "decoration": {"id": "n", "content": NAMED}}, "is no plate"),
        ({"kind": "remove_decoration", "sheet": "k", "decoration": "old"}, "no longer there"),
        ({"kind": "remove_source", "source": sha("src")}, "is shown on"),
    ):
        with pytest.raises(InputError, match=words):
            apply(job, edit(fields))


def test_sheets_of_a_cutting_list_follow_their_plates() -> None:
    wider = apply(WITH_PLATE, edit({"kind": "change_cut_list", "cut_list": "sides", "fields": TALL}))
    assert (wider.sheet("k").format, wider.sheet("k").orientation) == ("300x500mm", "portrait")
    lay = {"kind": "lay_parts", "cut_list": "sides"}
    two = apply(WITH_PLATE, edit(lay | {"contents": [ON_PLATE.model_dump(), {"cut_list": "sides"}]}))
    assert [sheet.name for sheet in two.sheets if sheet.cutting] == ["Sides, plate 1", "Sides, plate 2"]
    one = apply(two, edit(lay | {"contents": [ON_PLATE.model_dump()]}))
    assert [sheet.id for sheet in one.sheets] == [sheet.id for sheet in WITH_PLATE.sheets]
    for fields, words in (
        ({"kind": "change_cut_list", "cut_list": "sides", "fields": {"plates": []}}, "cannot be taken away"),
        (lay | {"contents": [{"cut_list": "other"}]}, "is not one of Sides"),
        ({"kind": "change_profile", "sheet": "t", "profile": "one", "fields": {"x": 1}}, "is no plate"),
        ({"kind": "change_profile", "sheet": "k", "profile": "two", "fields": {"x": 1}}, "no longer there"),
        ({"kind": "remove_source", "source": sha("src")}, "is shown on"),
    ):
        with pytest.raises(InputError, match=words):
            apply(WITH_PLATE, edit(fields))
