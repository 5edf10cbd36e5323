"""``skalto release``: from a job file to files with a manifest, again after a change, and the bad cases, each with its
sentence."""

from __future__ import annotations

import itertools
import json
import subprocess
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from skalto.core.job import JobDocument
from skalto.core.layout.part_sheets import part_sheet
from skalto.core.release.manifest import read_manifest
from skalto.core.release.marks import numbered
from skalto.core.release.register import ModelAtHand, register
from skalto.core.release.rules import FileKind, FileRule, OnlyIf, ReleaseRules, rules_to_json
from skalto.core.release.section import SHIPPED_SERIES, OwnField
from skalto.core.release.templates import SHIPPED_TEMPLATES
from skalto.core.sources.models.parts import PartFacts
from skalto.core.sources.reading import read_model
from skalto.core.sources.section import SourceRef
from skalto.demo.solids import block, cut, cylinder, fuse, moved
from skalto.services.stored.jobfile import JobFile, SourceFile
from skalto.store.blobs import content_hash
from tests.core.modelled import write_assembly

Run = Callable[..., subprocess.CompletedProcess[str]]
RULES = ReleaseRules(
    id="two", name="Two kinds",
    files=(
        FileRule(of=("sheet",), file=FileKind.PDF, name="{mark}", folder="drawings"),
        FileRule(of=("plate",), file=FileKind.PROFILE, name="{mark}", only_if=OnlyIf(field="Cut here", value="yes")),
        FileRule(of=("plate", "turned"), file=FileKind.STEP, name="{mark}", folder="models"),
    ),
)  # fmt: skip


def _job(folder: Path, side: float) -> Path:
    """A job file with marks and a sheet of the shaft."""
    folder.mkdir(parents=True, exist_ok=True)
    plate = cut(block(100, side, 5), cylinder(20, 50, (0, 0, -10)))
    shaft = moved(fuse(cylinder(20, 120), cylinder(30, 12)), (0, 200, 0))
    model = write_assembly({"Side": plate, "Shaft": shaft}, folder / "stand.step", "Stand")
    source = content_hash(model.read_bytes())
    tree = read_model(model, model.name).tree
    rows = register([ModelAtHand(source, model.name, tree)], {})
    marks = numbered(rows, (), SHIPPED_SERIES).marks
    parts = {key: PartFacts(mark=mark) for key, mark in marks.items()}
    parts["Side"] = parts["Side"].model_copy(update={"fields": {"Cut here": "yes"}})
    row = next(row for row in register([ModelAtHand(source, model.name, tree)], parts) if row.key == "Shaft")
    names = (f"v{n}" for n in itertools.count())
    document = JobDocument(
        name="Stand", sources=(SourceRef(id=source, name=model.name, size=10),), parts=parts,
        own_fields=(OwnField(name="Cut here", kind="yes/no"),),
        sheets=(part_sheet("s", SHIPPED_TEMPLATES[0], row, tree, None, lambda: next(names)),),
    )  # fmt: skip
    file = JobFile(document=document, sources=(SourceFile(id=source, name=model.name, file=model.name),))
    path = folder / "Stand.skalto.json"
    path.write_text(file.model_dump_json())
    return path


@pytest.fixture(scope="module")
def rules(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("rules") / "two.json"
    path.write_bytes(rules_to_json(RULES))
    return path


def _released(skalto: Run, *arguments: Any) -> dict[str, Any]:
    done = skalto("release", *arguments, "--json")
    assert done.returncode == 0, done.stdout + done.stderr
    found: dict[str, Any] = json.loads(done.stdout)
    return found


@pytest.mark.long
def test_a_job_file_is_released_and_only_changes_are_made_again(skalto: Run, rules: Path, tmp_path: Path) -> None:
    out = tmp_path / "out"
    first = _released(skalto, _job(tmp_path / "first", 60), "--rules", rules, "--out", out)
    # a part that nothing was found of by looking at it has the mark of its kind: the register gave it without looking
    assert sorted(row["file"] for row in first["files"]) == [
        "P001.dxf", "drawings/P002.pdf", "models/P001.step", "models/P002.step",
    ]  # fmt: skip
    assert (first["made"], first["failed"], first["holds"]) == (4, 0, True)
    manifest = read_manifest((out / "manifest.json").read_bytes())
    assert {own.file: own.sha256 for own in manifest.files} == {
        row["file"]: content_hash((out / row["file"]).read_bytes()) for row in first["files"]
    }
    newer = _job(tmp_path / "second", 61)
    second = _released(skalto, newer, "--rules", rules, "--out", out, "--changed-since", out)
    assert {row["file"]: row["state"] for row in second["files"]} == {
        "P001.dxf": "made", "drawings/P002.pdf": "kept", "models/P001.step": "made", "models/P002.step": "kept",
    }  # fmt: skip
    # into another folder goes what has changed alone
    other = tmp_path / "other"
    third = _released(skalto, newer, "--rules", rules, "--out", other, "--changed-since", out, "--only", "P00?")
    assert (third["made"], third["kept"]) == (0, 4)
    assert sorted(path.name for path in other.iterdir()) == ["manifest.csv", "manifest.json"]
    # some of them made again, into the same folder: the manifest still has all
    some = _released(skalto, newer, "--rules", rules, "--out", out, "--changed-since", out, "--only", "Side")
    assert (some["made"], some["kept"]) == (0, 2)
    assert len(read_manifest((out / "manifest.json").read_bytes()).files) == 4
    only = _released(skalto, newer, "--rules", rules, "--out", other, "--only", "Side")
    assert sorted(row["file"] for row in only["files"]) == ["P001.dxf", "models/P001.step"]


@pytest.mark.long
def test_a_pattern_that_names_nothing_is_told(skalto: Run, tmp_path: Path) -> None:
    done = skalto("release", _job(tmp_path / "job", 60), "--out", tmp_path / "out", "--only", "Nobody")
    assert (done.returncode, "“Nobody” names no part and no sheet" in done.stderr) == (2, True)


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        (("--rules", "none"), "“none” are no release rules"),
        (("--rules", "none.json"), "There is no file none.json"),
        (("--changed-since", "nowhere"), "nowhere has no manifest.json"),
    ],
)
def test_what_cannot_be_is_told(arguments: tuple[str, ...], said: str, skalto_quick: Run, tmp_path: Path) -> None:
    done = skalto_quick("release", _job(tmp_path / "job", 60), "--out", tmp_path / "out", *arguments)
    assert done.returncode == 2
    assert said in done.stderr
    assert len(done.stderr.strip().splitlines()) == 1
