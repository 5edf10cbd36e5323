"""Edits of a job: each gives a new document, or a sentence."""

import pytest
from pydantic import TypeAdapter, ValidationError

from skalto.core.edits import AnyEdit, Edit, apply
from skalto.core.errors import InputError
from skalto.core.job import JobDocument
from skalto.core.sheets.annotations import Section
from skalto.core.sheets.content import ProjectionContent
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.section import SourceRef
from skalto.core.viewpoint import parse_viewpoint
from skalto.store.blobs import content_hash
from tests.core.drawn import as_section


def sha(name: str) -> str:
    return content_hash(name.encode())


VIEW = ViewSpec(id="v", source=sha("src"), name="front", content=ProjectionContent(look=(0, 1, 0), up=(0, 0, 1)))
JOB = JobDocument(
    name="Job",
    sources=(SourceRef(id=sha("src"), name="plate.step", size=10),),
    sheets=(SheetSpec(id="s", name="Sheet 1", views=(VIEW,)), SheetSpec(id="t", name="Sheet 2")),
)


def edit(**fields: object) -> Edit:
    return TypeAdapter(AnyEdit).validate_python(fields)


def test_changing_a_view_changes_it_alone() -> None:
    made = edit(kind="change_view", sheet="s", view="v", fields={"scale": "2:1", "place": [10, 20.5]})
    changed = apply(JOB, made)
    assert str(changed.sheet("s").view("v").scale) == "2:1"
    assert changed.sheet("s").view("v").place == (10, 20.5)
    assert str(JOB.sheet("s").view("v").scale) == "1:1"
    assert changed.sheet("t") is JOB.sheet("t")
    assert made.label(JOB) == "scale of front view"


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"scale": "big"}, "is not a scale"),
        ({"look": [0, 0, 0]}, "direction needs"),
        ({"look": [0, 0, 1], "up": [0, 0, 1]}, "choose another up"),
        ({"place": [1e9, 0]}, "less than or equal"),
        ({"id": "w"}, "Extra inputs are not permitted"),
        ({"classes": ["gold"]}, "Input should be"),
    ],
)
def test_what_does_not_fit_is_refused(fields: dict[str, object], words: str) -> None:
    with pytest.raises((InputError, ValidationError), match=words):
        apply(JOB, edit(kind="change_view", sheet="s", view="v", fields=fields))


def test_moves_add_up() -> None:
    moved = JOB
    for _ in range(3):
        moved = apply(moved, edit(kind="move_view", sheet="s", view="v", by=[0.1, -1]))
    assert moved.sheet("s").view("v").place == (0.3, -3)
    assert edit(kind="move_view", sheet="s", view="v", by=[1, 0]).label(JOB) == "move front view"


def test_sheets_come_and_go() -> None:
    more = apply(JOB, edit(kind="add_sheet", sheet={"id": "u", "name": "Label", "format": "90x60"}))
    assert [s.name for s in more.sheets] == ["Sheet 1", "Sheet 2", "Label"]
    paper = more.sheet("u").paper()
    assert (paper.width, paper.height) == (90, 60)
    fewer = apply(more, edit(kind="remove_sheet", sheet="s"))
    assert [s.id for s in fewer.sheets] == ["t", "u"]
    turned = apply(JOB, edit(kind="change_sheet", sheet="s", fields={"orientation": "portrait", "format": "a4"}))
    assert (turned.sheet("s").paper().width, turned.sheet("s").format) == (210, "A4")
    with pytest.raises(InputError, match="is not a sheet format"):
        apply(JOB, edit(kind="change_sheet", sheet="s", fields={"format": "B17"}))


def test_a_source_in_use_stays() -> None:
    with pytest.raises(InputError, match=r"plate.step is shown on Sheet 1"):
        apply(JOB, edit(kind="remove_source", source=sha("src")))
    without = apply(JOB, edit(kind="remove_view", sheet="s", view="v"))
    assert apply(without, edit(kind="remove_source", source=sha("src"))).sources == ()


def test_what_is_gone_says_so() -> None:
    for gone in (
        edit(kind="change_view", sheet="s", view="w", fields={}),
        edit(kind="remove_sheet", sheet="x"),
        edit(kind="add_view", sheet="s", view=VIEW.model_copy(update={"id": "n", "source": "other"}).model_dump()),
    ):
        with pytest.raises(InputError, match="no longer"):
            apply(JOB, gone)
    with pytest.raises(InputError, match="name"):
        apply(JOB, edit(kind="rename_job", name="   "))


def test_sheets_are_put_in_order_and_doubled() -> None:
    moved = apply(JOB, edit(kind="move_sheet", sheet="t", to=0))
    assert [s.id for s in moved.sheets] == ["t", "s"]
    section = VIEW.model_copy(update={"id": "w", "parent": "v", "projected": (1.0, 0.0)})
    job = JOB.with_sheet(JOB.sheet("s").with_views((VIEW, section)))
    doubled = apply(job, edit(kind="duplicate_sheet", sheet="s", new="n"))
    assert [s.name for s in doubled.sheets] == ["Sheet 1", "Sheet 1 (copy)", "Sheet 2"]
    first, second = doubled.sheet("n").views
    assert second.parent == first.id != "v"
    # what is changed on the copy leaves the first alone
    changed = apply(doubled, edit(kind="change_view", sheet="n", view=first.id, fields={"scale": "5:1"}))
    assert str(changed.sheet("s").view("v").scale) == "1:1"
    assert {str(v.scale) for v in changed.sheet("n").views} == {"5:1"}


def test_viewpoints_turn_the_views_that_use_them() -> None:
    saved = {"id": "p", "name": "Drive side", "look": [-1, 2, -1], "up": [0, 0, 1]}
    job = apply(JOB, edit(kind="save_viewpoint", viewpoint=saved))
    used = {"look": [-1, 2, -1], "up": [0, 0, 1], "name": "Drive side", "viewpoint": "p"}
    job = apply(job, edit(kind="change_view", sheet="s", view="v", fields=used))
    turned = apply(job, edit(kind="save_viewpoint", viewpoint=saved | {"look": [0, 1, -1]}))
    assert turned.sheet("s").view("v").look == (0, 1, -1)
    with pytest.raises(InputError, match="used on Sheet 1"):
        apply(job, edit(kind="remove_viewpoint", viewpoint="p"))
    # a view that is turned by hand no longer follows
    free = apply(job, edit(kind="change_view", sheet="s", view="v", fields={"look": [0, 1, 0]}))
    assert free.sheet("s").view("v").viewpoint is None
    assert apply(free, edit(kind="remove_viewpoint", viewpoint="p")).viewpoints == ()


def test_a_parent_that_goes_takes_its_sections_and_frees_its_members() -> None:
    member = VIEW.model_copy(update={"id": "m", "parent": "v", "projected": (0.0, -1.0)})
    cut = as_section(VIEW, Section(letter="A", start=(0, 0), end=(0, 1))).model_copy(update={"id": "c", "parent": "v"})
    job = JOB.with_sheet(JOB.sheet("s").with_views((VIEW, member, cut)))
    after = apply(job, edit(kind="remove_view", sheet="s", view="v")).sheet("s")
    assert [v.id for v in after.views] == ["m"]
    assert after.views[0].parent is None


def test_several_views_change_at_once() -> None:
    other = VIEW.model_copy(update={"id": "w"})
    job = JOB.with_sheet(JOB.sheet("s").with_views((VIEW, other)))
    made = edit(kind="change_views", sheet="s", views=["v", "w"], fields={"hidden": ["a"]})
    assert [v.hidden for v in apply(job, made).sheet("s").views] == [{"a"}, {"a"}]
    assert made.label(job) == "components of 2 views"


def test_title_parts_and_colours_are_kept_and_taken_back() -> None:
    job = apply(JOB, edit(kind="set_title", fields={"owner": "Verkstan"}))
    job = apply(job, edit(kind="set_title", sheet="s", fields={"revision": "B"}))
    assert (job.title, job.sheet("s").title) == ({"owner": "Verkstan"}, {"revision": "B"})
    assert apply(job, edit(kind="set_title", fields={"owner": ""})).title == {}
    job = apply(job, edit(kind="set_part", part="Plate", facts={"density": 7.85}))
    assert job.parts["Plate"].density == 7.85
    job = apply(job, edit(kind="set_colour", component="a/b", colour="#112233"))
    assert job.colours == {"a/b": "#112233"}
    assert apply(job, edit(kind="set_colour", component="a/b", colour=None)).colours == {}


def test_a_sheet_from_before_sheet_scales_takes_its_views_scale() -> None:
    old = {
        "id": "s",
        "name": "Old",
        "views": [VIEW.model_dump() | {"scale": s, "id": f"v{n}"} for n, s in enumerate(("1:2", "1:2", "1:1"))],
    }
    for own in old["views"]:
        del own["overrides"]  # type: ignore[attr-defined]
    sheet = SheetSpec.model_validate(old)
    assert str(sheet.scale) == "1:2"
    assert [sorted(v.overrides) for v in sheet.views] == [[], [], ["scale"]]


def test_a_document_survives_being_kept() -> None:
    assert JobDocument.model_validate_json(JOB.model_dump_json()) == JOB


def test_a_view_along_a_typed_direction_is_called_by_it() -> None:
    made = parse_viewpoint("dir:-0.9523,1.192,-0.985;up:0,0,1")
    view = VIEW.showing(look=made.look, up=made.up).model_copy(update={"name": made.name})
    assert view.title == "view along -0.952, 1.19, -0.985"
    assert view.model_copy(update={"name": "iso"}).title == "iso view"
