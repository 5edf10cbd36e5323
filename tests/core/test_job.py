"""Edits of a job: each gives a new document, or a sentence."""

import pytest
from pydantic import TypeAdapter

from skalto.core.errors import InputError
from skalto.core.job import Edit, JobDocument, SourceRef, apply, describe
from skalto.core.sheets.sheet import SheetSpec, ViewSpec

VIEW = ViewSpec(id="v", source="src", name="front", look=(0, 1, 0), up=(0, 0, 1))
JOB = JobDocument(
    name="Job",
    sources=(SourceRef(id="src", name="plate.step", size=10),),
    sheets=(SheetSpec(id="s", name="Sheet 1", views=(VIEW,)), SheetSpec(id="t", name="Sheet 2")),
)


def edit(**fields: object) -> Edit:
    return TypeAdapter(Edit).validate_python(fields)


def test_changing_a_view_changes_it_alone() -> None:
    made = edit(kind="change_view", sheet="s", view="v", fields={"scale": "2:1", "place": [10, 20.5]})
    changed = apply(JOB, made)
    assert changed.sheet("s").view("v").scale == "2:1"
    assert changed.sheet("s").view("v").place == (10, 20.5)
    assert JOB.sheet("s").view("v").scale == "1:1"
    assert changed.sheet("t") is JOB.sheet("t")
    assert describe(JOB, made) == "scale of front view"


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"scale": "big"}, "is not a scale"),
        ({"look": [0, 0, 0]}, "direction needs"),
        ({"look": [0, 0, 1], "up": [0, 0, 1]}, "choose another up"),
        ({"place": [1e9, 0]}, "less than or equal"),
        ({"id": "w"}, "cannot be changed"),
        ({"classes": ["gold"]}, "Input should be"),
    ],
)
def test_what_does_not_fit_is_refused(fields: dict[str, object], words: str) -> None:
    with pytest.raises(InputError, match=words):
        apply(JOB, edit(kind="change_view", sheet="s", view="v", fields=fields))


def test_moves_add_up() -> None:
    moved = JOB
    for _ in range(3):
        moved = apply(moved, edit(kind="move_view", sheet="s", view="v", by=[0.1, -1]))
    assert moved.sheet("s").view("v").place == (0.3, -3)
    assert describe(JOB, edit(kind="move_view", sheet="s", view="v", by=[1, 0])) == "move front view"


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
        apply(JOB, edit(kind="remove_source", source="src"))
    without = apply(JOB, edit(kind="remove_view", sheet="s", view="v"))
    assert apply(without, edit(kind="remove_source", source="src")).sources == ()


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


def test_a_document_survives_being_kept() -> None:
    assert JobDocument.model_validate_json(JOB.model_dump_json()) == JOB
