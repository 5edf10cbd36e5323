"""What views show, by kind; and jobs that were saved before there were kinds."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
from pydantic import TypeAdapter, ValidationError

from skalto.core.edits import AnyEdit, Edit, apply
from skalto.core.errors import InputError
from skalto.core.job import JobDocument
from skalto.core.projection.view import ExcerptSpec, ProjectionSpec
from skalto.core.quantities import Scale
from skalto.core.sheets.annotations import Detail, Section
from skalto.core.sheets.content import FLAT, DetailContent, DrawingContent, ProjectionContent, SectionContent
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.drawings.excerpt import Excerpt
from tests.core.drawn import as_section, enlarged

EDITS: TypeAdapter[Edit] = TypeAdapter(AnyEdit)
SAVED = Path(__file__).parents[1] / "saved"
FRONT = ViewSpec(id="v", source="s", name="front", content=ProjectionContent(look=(0, 1, 0), up=(0, 0, 1)))
PLAN = ViewSpec(id="p", source="d", name="ground floor", content=DrawingContent(excerpt=Excerpt(unit=10)))
CUT = as_section(FRONT, Section(letter="A", start=(0, 0), end=(0, 1), uncut=frozenset({"Pin"})))


@pytest.mark.parametrize("name", ["drawings-on-sheets", "fields-in-one-row"])
def test_jobs_saved_by_earlier_versions_open_with_all_that_they_had(name: str) -> None:
    """Documents of the demo jobs as earlier versions wrote them: all fields of a view in one row."""
    seen = set()
    for old in json.loads((SAVED / f"{name}.json").read_text()):
        job = JobDocument.model_validate(old)
        for was, sheet in zip(old["sheets"], job.sheets, strict=True):
            for row, view in zip(was["views"], sheet.views, strict=True):
                seen.add(view.content.kind)
                _is_as_it_was(row, view)
        kept = job.model_dump(mode="json")
        assert JobDocument.model_validate(kept) == job
        assert not any(set(view) & set(FLAT) for sheet in kept["sheets"] for view in sheet["views"])
    assert seen == {"projection", "section", "detail", "drawing"}


def _is_as_it_was(row: dict[str, Any], view: ViewSpec) -> None:
    for mark, own in (("section", view.section), ("detail", view.detail), ("excerpt", view.excerpt)):
        assert (own is None) == (row.get(mark) is None), mark
        if own is not None:
            assert {k: v for k, v in json.loads(own.model_dump_json()).items() if k in row[mark]}.keys() == row[mark].keys()
    assert list(view.look) == row["look"]
    assert list(view.up) == row["up"]
    assert sorted(view.hidden) == sorted(row["hidden"])
    if isinstance(view.content, SectionContent):
        assert view.content.depth == row["depth"]
    assert (str(view.scale), view.place, view.id) == (row["scale"], tuple(row["place"]), row["id"])
    assert view.shaded == row.get("shaded", False)


def test_each_kind_says_what_decides_its_lines_and_what_it_is_called() -> None:
    half = Scale(1, 2)
    detail = enlarged(CUT, Detail(letter="B", centre=(1, 2), radius=3))
    assert [view.title for view in (FRONT, CUT, detail, PLAN)] == [
        "front view", "section A–A", "detail B", "drawing view ground floor",
    ]  # fmt: skip
    assert [view.label for view in (FRONT, CUT, detail, PLAN)] == ["front", "section A–A", "detail B", "ground floor"]
    assert [view.content.dimensioned for view in (FRONT, CUT, detail, PLAN)] == ["edges", "edges", "edges", "extent"]
    cut = CUT.content.lines(half)
    assert isinstance(cut, ProjectionSpec)
    assert (cut.uncut, cut.look) == (frozenset({"Pin"}), (0, 1, 0))
    assert detail.content.lines(half) == cut
    assert PLAN.content.lines(half) == PLAN.content.lines(Scale(1, 1)) == ExcerptSpec(excerpt=Excerpt(unit=10))


def test_a_detail_follows_what_it_is_of_but_is_shaded_as_it_was() -> None:
    detail = enlarged(FRONT.showing(shaded=True), Detail(letter="B", centre=(1, 2), radius=3)).content
    assert isinstance(detail, DetailContent)
    followed = detail.taken_from(FRONT.showing(look=(1, 0, 0), hidden=frozenset({"Pin"})).whole)
    assert isinstance(followed.of, ProjectionContent)
    assert (followed.of.look, followed.of.hidden, followed.of.shaded) == ((1, 0, 0), frozenset({"Pin"}), True)


@pytest.mark.parametrize(
    ("view", "fields", "told"),
    [
        (PLAN, {"hidden": ["Pin"]}, "has no components"),
        (PLAN, {"shaded": True}, "has no shading"),
        (FRONT, {"section": {"letter": "A", "start": [0, 0], "end": [0, 1]}}, "has no cutting plane"),
        (CUT, {"detail": {"letter": "A", "centre": [0, 0], "radius": 1}}, "has no circle"),
        (FRONT, {"look": [0, 0, 1], "up": [0, 0, 2]}, "direction"),
    ],
)
def test_a_change_that_a_kind_does_not_have_is_refused(view: ViewSpec, fields: dict[str, Any], told: str) -> None:
    job = JobDocument(name="Job", sheets=(SheetSpec(id="s", name="One", views=(view,)),))
    with pytest.raises(InputError, match=told):
        apply(job, EDITS.validate_python({"kind": "change_view", "sheet": "s", "view": view.id, "fields": fields}))


def test_a_kind_that_is_not_known_is_refused() -> None:
    with pytest.raises(ValidationError, match="kind"):
        ViewSpec.model_validate({"id": "v", "source": "s", "name": "x", "content": {"kind": "hologram"}})
