"""``skalto parts`` and ``skalto marks``: the parts of a model, the marks of a job file."""

from __future__ import annotations

import csv
import json
import subprocess
from collections.abc import Callable
from pathlib import Path

from skalto.core.job import JobDocument
from skalto.core.release.section import MarkSeries
from skalto.core.sources.models.parts import PartFacts, PartKind
from skalto.core.sources.section import SourceRef
from skalto.services.stored.jobfile import JobFile, SourceFile
from skalto.store.blobs import content_hash

Run = Callable[..., subprocess.CompletedProcess[str]]


def test_the_parts_of_a_model(skalto: Run, press_step: Path, tmp_path: Path) -> None:
    table = tmp_path / "parts.csv"
    done = skalto("parts", press_step, "--csv", table, "--json")
    assert done.returncode == 0, done.stderr
    found = {row["name"]: row for row in json.loads(done.stdout)["parts"]}
    assert (found["Cheek, left"]["kind"], found["Cheek, left"]["quantity"]) == ("plate", 2)
    assert found["Tie rod"]["kind"] == "turned"
    assert found["Ink tray"]["kind"] == "bent sheet"
    assert sum(row["quantity"] for row in found.values() if row["kind"] != "assembly") == 60
    rows = {row["part"]: row for row in csv.DictReader(table.open())}
    assert rows["Cheek, left"]["thickness"] == "8"
    plain = skalto("parts", press_step)
    assert "2 x Cheek, left: plate" in plain.stdout


def test_a_drawing_has_no_parts(skalto: Run, tmp_path: Path) -> None:
    path = tmp_path / "plan.dxf"
    path.write_text("0\nEOF\n")
    done = skalto("parts", path)
    assert (done.returncode, "which has no parts" in done.stderr) == (2, True)


def test_the_marks_of_a_job_file(skalto: Run, press_step: Path, tmp_path: Path) -> None:
    data = press_step.read_bytes()
    (tmp_path / "sources").mkdir()
    (tmp_path / "sources" / "Ebba.step").write_bytes(data)
    source = content_hash(data)
    series = (MarkSeries(kinds=tuple(PartKind), prefix="EB-", start=101, digits=1),)
    document = JobDocument(
        name="Ebba", sources=(SourceRef(id=source, name="Ebba.step", size=len(data)),), series=series,
        parts={"Tie rod": PartFacts(material="C45")},
    )  # fmt: skip
    file = JobFile(document=document, sources=(SourceFile(id=source, name="Ebba.step", file="sources/Ebba.step"),))
    path = tmp_path / "Ebba.skalto.json"
    path.write_text(file.model_dump_json())
    done = skalto("marks", path, "--json")
    assert done.returncode == 0, done.stderr
    found = json.loads(done.stdout)
    assert found["new"] == [f"EB-{101 + n}" for n in range(len(found["parts"]))]
    assert (found["kept"], found["changed"], found["gone"]) == ([], [], [])
    assert len({row["mark"] for row in found["parts"]}) == len(found["parts"])
    empty = tmp_path / "none.skalto.json"
    empty.write_text(JobFile(document=JobDocument(name="None"), sources=()).model_dump_json())
    done = skalto("marks", empty)
    assert (done.returncode, "has no model" in done.stderr) == (2, True)
