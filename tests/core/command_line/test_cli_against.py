"""A finished file held against the job that it is of, by the command line: as the proof does when it is written."""

from __future__ import annotations

import random
import shutil
from pathlib import Path

import pytest

from skalto.core.job import JobDocument
from skalto.core.recipes import SHIPPED_RECIPES
from skalto.core.sheets.content import ProjectionContent
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.section import SourceRef
from skalto.services.stored.jobfile import JobFile, SourceFile
from skalto.store.blobs import content_hash
from tests.campaigns.fooled import WAYS
from tests.conftest import Ran


def job_of(folder: Path, plate_step: Path, *names: str, recipe: str = "") -> Path:
    """A job of a sheet for each name, its source beside it."""
    folder.mkdir()
    shutil.copy(plate_step, folder / "plate.step")
    source = content_hash(plate_step.read_bytes())
    content = ProjectionContent(look=(0, 0, -1), up=(0, 1, 0))
    sheets = tuple(
        SheetSpec(
            id=f"s{n}", name=name, recipe=recipe,
            views=(ViewSpec(id=f"v{n}", source=source, name="Top", content=content, place=(100 + 20 * n, 100)),),
        )
        for n, name in enumerate(names)
    )  # fmt: skip
    document = JobDocument(name="Plate", sources=(SourceRef(id=source, name="plate.step", size=1),), sheets=sheets)
    path = folder / "Plate.skalto.json"
    file = JobFile(document=document, sources=(SourceFile(id=source, name="plate.step", file="plate.step"),))
    path.write_text(file.model_dump_json())
    return path


@pytest.fixture
def one(tmp_path: Path, plate_step: Path) -> Path:
    return job_of(tmp_path / "one", plate_step, "One")


@pytest.fixture
def both(tmp_path: Path, plate_step: Path) -> Path:
    return job_of(tmp_path / "both", plate_step, "One", "Two")


@pytest.mark.parametrize("suffix", [".pdf", ".dxf", ".svg"])
def test_a_right_file_holds_and_one_that_was_altered_does_not(suffix: str, one: Path, skalto_here: Ran, tmp_path: Path) -> None:
    out = tmp_path / f"out{suffix}"
    assert skalto_here("job", "export", one, "--out", out)[0] == 0
    status, said, told = skalto_here("check", out, "--against", one)
    assert (status, told) == (0, "")
    assert said.startswith("Held against “One” of Plate.skalto.json: all that the proof looks at.")
    alter, harmful, _ = WAYS[suffix]
    for kind in ("a stroke moved", "a text moved", "a stroke dropped"):
        altered = tmp_path / f"altered{suffix}"
        altered.write_bytes(alter(out.read_bytes(), harmful[kind], random.Random(5)) or b"")
        assert skalto_here("check", altered, "--against", one)[0] == 1, kind


def test_all_sheets_of_a_job_are_one_file(both: Path, one: Path, skalto_here: Ran, tmp_path: Path) -> None:
    out = tmp_path / "out.pdf"
    assert skalto_here("job", "export", both, "--out", out)[0] == 0
    assert skalto_here("check", out, "--against", both)[0] == 0
    # of one sheet it is not
    status, said, _ = skalto_here("check", out, "--against", one)
    assert (status, "2 pages for the 1" in said) == (1, True)
    status, said, _ = skalto_here("check", out, "--against", both, "--sheet", "two")
    assert (status, "2 pages for the 1" in said) == (1, True)


def test_an_archive_is_measured_by_what_is_not_in_it(plate_step: Path, skalto_here: Ran, tmp_path: Path) -> None:
    assert any(own.id == "archive" for own in SHIPPED_RECIPES)
    job, out = job_of(tmp_path / "job", plate_step, "One", recipe="archive"), tmp_path / "out.pdf"
    assert skalto_here("job", "export", job, "--out", out)[0] == 0
    assert skalto_here("check", out, "--against", job)[0] == 0


def test_the_day_in_the_title_block(one: Path, skalto_here: Ran, tmp_path: Path) -> None:
    out = tmp_path / "out.svg"
    assert skalto_here("job", "export", one, "--out", out)[0] == 0
    status, said, _ = skalto_here("check", out, "--against", one, "--dated", "2026-01-31")
    assert (status, "2026-01-31" in said) == (1, True)
    status, _, told = skalto_here("check", out, "--against", one, "--dated", "31.1.2026")
    assert (status, "is no day" in told) == (2, True)


def test_what_cannot_be_held_against_anything_is_told(both: Path, skalto_here: Ran, tmp_path: Path) -> None:
    svg, png = tmp_path / "out.svg", tmp_path / "out.png"
    svg.write_text("<svg/>")
    png.write_bytes(b"")
    for arguments, sentence in (
        ((svg,), "name the job that it is of by --against"),
        ((svg, "--against", both), "holds one sheet: name it by --sheet, of “One”, “Two”"),
        ((svg, "--against", both, "--sheet", "Three"), "has no sheet “Three”; it has “One”, “Two”"),
        ((png, "--against", both), "A picture cannot be held against a job"),
        ((svg, "--sheet", "One"), "go with --against"),
    ):
        status, _, told = skalto_here("check", *arguments)
        assert (status, sentence in told) == (2, True), (arguments, told)
    # what is no sheet at all fails by what it lacks
    assert skalto_here("check", svg, "--against", both, "--sheet", "one")[0] == 1
