"""Sheets of parts by a template, parts as STEP of their own, what a part is by its shape, and what is told to have changed."""

from __future__ import annotations

import itertools
import math
from pathlib import Path

import numpy as np
import pytest
from OCP.TopAbs import TopAbs_FACE

from skalto.core.errors import InputError
from skalto.core.job import JobDocument
from skalto.core.layout.arrangement import room_for_views
from skalto.core.layout.part_sheets import laid_name, part_sheet
from skalto.core.locks import refuse_locked
from skalto.core.output.step_files import against_step, step_file
from skalto.core.quantities import FULL_SIZE, Scale
from skalto.core.release.recognising import is_turned
from skalto.core.release.register import ModelAtHand, register
from skalto.core.release.templates import SHIPPED_TEMPLATES, template_of
from skalto.core.sheets.content import ProjectionContent
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.shown_content import part_content, sheet_content
from skalto.core.sources.models import kernel
from skalto.core.sources.models.model import Model
from skalto.core.sources.models.parts import PartFacts
from skalto.core.sources.reading import read_model
from skalto.core.sources.section import SourceRef
from skalto.demo.solids import block, cut, cylinder, fuse, moved
from tests.core.modelled import write_assembly

FOUR = SHIPPED_TEMPLATES[0]
SOURCE = "a" * 64


def _read(path: Path) -> Model:
    return read_model(path, path.name)


def _stand(folder: Path, side: float = 60.0) -> Model:
    folder.mkdir(parents=True, exist_ok=True)
    plate = cut(block(100, side, 5), cylinder(20, 50, (0, 0, -10)))
    # askew in the assembly: its sheet shows it straight
    shaft = moved(fuse(cylinder(20, 120), cylinder(30, 12)), (0, 300, 0), ("y", 35))
    return _read(write_assembly({"Side": plate, "Shaft": shaft}, folder / "stand.step", "Stand"))


def _sheet(model: Model, key: str) -> SheetSpec:
    rows = register([ModelAtHand(SOURCE, "stand.step", model.tree)], {})
    row = next(row for row in rows if row.key == key)
    names = (f"v{n}" for n in itertools.count())
    return part_sheet("s", FOUR, row, model.tree, None, lambda: next(names))


def test_a_sheet_shows_its_part_alone_at_a_preferred_scale_within_the_frame(tmp_path: Path) -> None:
    model = _stand(tmp_path)
    sheet = _sheet(model, "Side")
    assert [view.name for view in sheet.views] == ["front", "top", "left", "iso"]
    assert {view.hidden for view in sheet.views} == {frozenset({"Stand/Shaft"})}
    # 100 and 60 beside one another, and 5 and 60 above one another, with 10 + 22 mm between, within A3
    x0, y0, x1, y1 = room_for_views(sheet)
    assert sheet.scale == FULL_SIZE
    for view in sheet.views:
        assert x0 < view.place[0] < x1
        assert y0 < view.place[1] < y1
    kinds = [dimension.kind.value for view in sheet.views for dimension in view.dimensions]
    assert sorted(kinds) == ["height", "height", "width"]
    assert sheet.made_for is not None
    assert (sheet.made_for.part, laid_name(sheet)) == ("Side", sheet.made_for.laid)
    moved_view = sheet.views[0].model_copy(update={"place": (1.0, 2.0)})
    assert laid_name(sheet.with_views((moved_view, *sheet.views[1:]))) != sheet.made_for.laid


def test_assemblies_are_drawn_with_all_their_parts(tmp_path: Path) -> None:
    sheet = _sheet(_stand(tmp_path), "Stand")
    assert {view.hidden for view in sheet.views} == {frozenset()}
    assert sheet.scale < FULL_SIZE


def test_what_fits_no_scale_is_told(tmp_path: Path) -> None:
    model = _read(write_assembly({"Rail": block(5e7, 10, 10)}, tmp_path / "rail.step", "Long"))
    with pytest.raises(InputError, match="does not fit the template's sheet"):
        _sheet(model, "Rail")


def test_any_sheet_with_views_of_a_model_is_a_template(tmp_path: Path) -> None:
    front = ViewSpec(id="v", source=SOURCE, name="front", content=ProjectionContent(look=(0, 1, 0), up=(0, 0, 1)))
    sheet = SheetSpec(id="s", name="Own", format="A4", views=(front,), title={"title": "Cheek", "owner": "Workshop"})
    made = template_of("own", "Own", sheet)
    assert (made.sheet.format, made.sheet.views, made.sheet.title) == ("A4", (), {"owner": "Workshop"})
    assert [view.look for view in made.views] == [(0, 1, 0)]
    with pytest.raises(InputError, match="has no view of a model"):
        template_of("own", "Own", SheetSpec(id="s", name="Empty"))


def test_a_part_and_an_assembly_as_step_of_their_own(tmp_path: Path) -> None:
    model = _stand(tmp_path)
    leaf = next(own for own in model.tree.leaves() if own.part == "Shaft")
    volume = math.pi * (10**2 * 120 + (15**2 - 10**2) * 12)
    data = step_file(model, leaf, "P-7 Shaft, “long”")
    (tmp_path / "shaft.step").write_bytes(data)
    again = _read(tmp_path / "shaft.step")
    assert again.tree.shapes[0].volume == pytest.approx(volume, rel=1e-9)
    assert [own.part for own in again.tree.leaves()] == ["P-7 Shaft, “long”"]
    assert against_step(data, volume, "P-7 Shaft, “long”") == ""
    # a check that can fail
    assert "mm³" in against_step(data, volume * 1.001, "P-7 Shaft, “long”")
    assert "not called" in against_step(data, volume, "Another")
    assert against_step(b"ISO", volume, "x") == "The STEP file cannot be read again."
    whole = step_file(model, model.tree.components[0], "Stand")
    (tmp_path / "whole.step").write_bytes(whole)
    tree = _read(tmp_path / "whole.step").tree
    assert [own.path for own in tree.walk()] == ["Stand", "Stand/Side", "Stand/Shaft"]
    assert np.allclose(tree.size, model.tree.size)


@pytest.mark.parametrize(
    ("shape", "turned"),
    [
        (fuse(cylinder(20, 120), cylinder(30, 12)), True),
        (cut(fuse(cylinder(20, 120), cylinder(30, 12)), block(4, 40, 30)), True),
        (fuse(cylinder(20, 120), block(60, 10, 10)), False),
        (block(20, 20, 20), False),
        (kernel.sub_shapes(cylinder(20, 120), TopAbs_FACE)[0], False),
        (cut(block(40, 40, 40), cylinder(20, 90, (0, 0, -10))), False),
    ],
)
def test_what_is_made_on_a_lathe(shape: object, turned: bool) -> None:
    assert is_turned(shape) is turned


def test_what_a_change_of_one_part_changes(tmp_path: Path) -> None:
    before, after = _stand(tmp_path / "a"), _stand(tmp_path / "b", 61)

    def contents(model: Model, parts: dict[str, PartFacts]) -> dict[str, str]:
        """Of both parts, of their sheets, and of a sheet of the whole."""
        tree = model.tree
        sheets = tuple(_sheet(model, key).model_copy(update={"id": key}) for key in ("Side", "Shaft", "Stand"))
        document = JobDocument(
            name="Stand", sources=(SourceRef(id=SOURCE, name="stand.step", size=1),), sheets=sheets, parts=parts
        )  # fmt: skip
        found = {f"sheet {own.id}": sheet_content(document, own, "", {SOURCE: tree}) for own in sheets}
        return found | {leaf.part: part_content(tree, leaf) for leaf in tree.leaves()}

    first = contents(before, {})
    assert contents(_stand(tmp_path / "c"), {}) == first
    second = contents(after, {})
    assert {name for name in first if first[name] != second[name]} == {"Side", "sheet Side", "sheet Stand"}
    # what is said of a part changes the sheets that show it
    third = contents(before, {"Shaft": PartFacts(material="C45")})
    assert {name for name in first if first[name] != third[name]} == {"sheet Shaft", "sheet Stand"}
    # one sheet more changes none of those that are there; one before it changes its number
    tree = before.tree
    one, two, three = (_sheet(before, key).model_copy(update={"id": key}) for key in ("Side", "Shaft", "Stand"))
    few = JobDocument(name="Stand", sources=(SourceRef(id=SOURCE, name="stand.step", size=1),), sheets=(one, two))
    many = few.model_copy(update={"sheets": (one, two, three)})
    moved = few.model_copy(update={"sheets": (three, one, two)})
    told = [sheet_content(own, two, "", {SOURCE: tree}) for own in (few, many, moved)]
    assert told[0] == told[1] != told[2]


def test_what_is_released_is_not_changed() -> None:
    view = ViewSpec(id="v", source=SOURCE, name="front", content=ProjectionContent(look=(0, 1, 0), up=(0, 0, 1)))
    sheet = SheetSpec(id="s", name="Cheek", views=(view,))
    job = JobDocument(name="Job", sheets=(sheet, SheetSpec(id="t", name="Tray")), parts={"Cheek": PartFacts(number="1")})
    locked = {"sheet:s": "A", "part:Cheek": ""}
    other = job.with_sheet(SheetSpec(id="t", name="Other"))
    refuse_locked(job, other, locked)
    newer = sheet.with_views((view.model_copy(update={"source": "b" * 64}),))
    refuse_locked(job, job.with_sheet(newer), locked)
    for changed in (
        job.with_sheet(sheet.model_copy(update={"scale": Scale(1, 2)})),
        job.model_copy(update={"sheets": job.sheets[1:]}),
    ):
        with pytest.raises(InputError, match="Cheek is released at revision A and locked"):
            refuse_locked(job, changed, locked)
    with pytest.raises(InputError, match="Cheek is released and locked"):
        refuse_locked(job, job.model_copy(update={"parts": {}}), {"part:Cheek": ""})
