"""From parts to released files: a sheet for each part, rules, the queue, the outbox, its manifest, and what changes by a
change."""

from __future__ import annotations

import csv
import io
import json
import math
import zipfile
from pathlib import Path
from typing import Any

import ezdxf
import pypdfium2 as pdfium
import pytest

from skalto.core.checks.report import check_pdf
from skalto.core.release.manifest import read_manifest
from skalto.core.sources.reading import read_model
from skalto.demo.folded import Flat, Turn, folded
from skalto.demo.solids import block, cut, cylinder, fuse, moved
from skalto.store.blobs import content_hash
from tests.api.test_api import bring_in, new_job, wait_for
from tests.api.test_cutting import refused
from tests.api.test_issues import edit
from tests.api.test_register import rows
from tests.conftest import Running
from tests.core.modelled import write_assembly


def _write(folder: Path, side: float) -> Path:
    plate = cut(block(100, side, 5), cylinder(20, 50, (0, 0, -10)))
    parts = {
        "Side": plate,
        "Angle": moved(folded([Flat(50), Turn(90, 2), Flat(30)], 2, 100), (200, 0, 0)),
        "Shaft": moved(fuse(cylinder(20, 120), cylinder(30, 12)), (0, 200, 0)),
        "Washer (bought)": moved(cut(cylinder(24, 2), cylinder(13, 20, (0, 0, -5))), (0, -200, 0)),
    }
    return write_assembly(parts, folder / "stand.step", "Stand")


RULES = {
    "id": "house", "name": "House rules",
    "files": [
        {"of": ["sheet"], "file": "PDF", "name": "{mark}_{name}_{revision}", "folder": "drawings"},
        {"of": ["plate", "bent sheet"], "file": "flat-pattern DXF", "name": "{mark}_{thickness}", "folder": "flat/{kind}"},
        {"of": ["plate", "bent sheet", "turned"], "file": "STEP", "name": "{mark}_{name}", "folder": "models/{assemblies}"},
        {"of": ["bent sheet"], "file": "glTF", "only_if": {"field": "Show"}},
        {"of": ["job"], "file": "parts list CSV", "name": "{job} parts"},
    ],
}  # fmt: skip


@pytest.fixture(scope="module")
def held(running: Running, tmp_path_factory: pytest.TempPathFactory) -> int:
    """A job with marks, and a sheet for each made part."""
    client = running.client
    job = new_job(running, "Stand")
    bring_in(running, job, _write(tmp_path_factory.mktemp("stand"), 60))
    rows(running, job)
    edit(client, job, kind="set_own_fields", fields=[{"name": "Show", "kind": "yes/no"}])
    client.post(f"/api/jobs/{job}/marks", json={})
    made = client.post(f"/api/jobs/{job}/part-sheets", json={"template": "part", "parts": ["Side", "Angle", "Shaft"]}).json()
    assert (len(made["new"]), made["anew"], made["left"]) == (3, [], [])
    assert client.put("/api/release-rules", json=RULES).json()["version"] == 1
    return job


def ended(running: Running, release: int, seconds: float = 120) -> dict[str, Any]:
    def state() -> Any:
        found = running.client.get(f"/api/releases/{release}").json()
        return found if found["state"] not in ("running", "paused") else None

    found: dict[str, Any] = wait_for(state, seconds)
    return found


def released(running: Running, job: int, **wish: Any) -> dict[str, Any]:
    answer = running.client.post(f"/api/jobs/{job}/releases", json={"rules": "house", **wish})
    assert answer.status_code == 201, answer.text
    found = ended(running, answer.json()["id"])
    assert found["state"] == "done", found["error"]
    return found


def _files(running: Running, release: int) -> dict[str, dict[str, Any]]:
    found = running.client.get(f"/api/releases/{release}/files").json()
    assert found["count"] == len(found["files"])
    return {file["path"]: file for file in found["files"]}


EXPECTED = {
    "drawings/S001_Side.pdf", "drawings/S002_Angle.pdf", "drawings/P001_Shaft.pdf", "flat/plate/S001_5.dxf",
    "flat/bent_sheet/S002_2.dxf", "models/A001/S001_Side.step", "models/A001/S002_Angle.step", "models/A001/P001_Shaft.step",
    "Stand_parts.csv",
}  # fmt: skip


def test_a_sheet_for_each_part_is_made_once(running: Running, held: int) -> None:
    client = running.client
    job = client.get(f"/api/jobs/{held}").json()["document"]
    by_name = {sheet["name"]: sheet for sheet in job["sheets"]}
    assert list(by_name) == ["S001 Side", "S002 Angle", "P001 Shaft"]
    assert by_name["P001 Shaft"]["title"] == {"title": "Shaft", "number": "P001"}
    assert [view["content"]["kind"] for view in by_name["P001 Shaft"]["views"]] == ["projection"] * 4
    assert [view["content"]["kind"] for view in by_name["S002 Angle"]["views"]][-1] == "flat"
    again = client.post(f"/api/jobs/{held}/part-sheets", json={"template": "part", "parts": ["Side", "Shaft"]}).json()
    assert (again["new"], again["anew"]) == ([], [])
    assert again["left"] == ["S001 Side: nothing has changed", "P001 Shaft: nothing has changed"]
    refused(
        client.post(f"/api/jobs/{held}/part-sheets", json={"template": "part", "parts": ["None"]}), "no longer in the models"
    )


def test_a_preview_tells_all_files_and_what_stands_against_them(running: Running, held: int) -> None:
    client = running.client
    found = client.post(f"/api/jobs/{held}/release-preview", json={"rules": "house"}).json()
    assert {file["path"] for file in found["files"]} == EXPECTED
    assert found["against"] == []
    clash = {**RULES, "id": "clash", "name": "Clash", "files": [{"of": ["plate", "turned"], "file": "STEP", "name": "part"}]}
    client.put("/api/release-rules", json=clash)
    found = client.post(f"/api/jobs/{held}/release-preview", json={"rules": "clash"}).json()
    assert "part.step would be written for Side (STEP) and Shaft (STEP)" in found["against"][0]
    refused(client.post(f"/api/jobs/{held}/releases", json={"rules": "clash"}), "would be written for")
    odd = {**clash, "files": [{"of": ["plate"], "file": "STEP", "name": "{colour}"}]}
    client.put("/api/release-rules", json=odd)
    found = client.post(f"/api/jobs/{held}/release-preview", json={"rules": "clash"}).json()
    assert "“{colour}” is no property" in found["against"][0]
    answer = client.put("/api/release-rules", json={**clash, "files": [{"of": ["turned"], "file": "flat-pattern DXF"}]})
    refused(answer, "No flat-pattern DXF is made of a turned")
    client.delete("/api/release-rules/clash")


def test_files_are_made_once_and_a_change_makes_only_its_own(running: Running, held: int, tmp_path: Path) -> None:
    client = running.client
    first = released(running, held)
    files = _files(running, first["id"])
    assert set(files) == EXPECTED
    assert first["counts"] == {"made": len(EXPECTED)}
    outbox = Path(first["outbox"])
    manifest = read_manifest((outbox / "manifest.json").read_bytes())
    assert {line.file: line.sha256 for line in manifest.files} == {
        path: content_hash((outbox / path).read_bytes()) for path in EXPECTED
    }
    # each kind of file by a reader that did not write it
    assert check_pdf((outbox / "drawings/S002_Angle.pdf").read_bytes()).holds
    document = ezdxf.readfile(outbox / "flat/bent_sheet/S002_2.dxf")
    outline = next(own for own in document.modelspace() if own.dxf.layer == "outline")
    points = [(p[0], p[1]) for p in outline.get_points()]
    assert max(y for _, y in points) == pytest.approx(80 + math.pi / 2 * (2 + 0.44 * 2), abs=1e-6)
    model = read_model(outbox / "models/A001/P001_Shaft.step", "shaft.step")
    assert [leaf.part for leaf in model.tree.leaves()] == ["P001 Shaft"]
    volume = math.pi * (10**2 * 120 + (15**2 - 10**2) * 12)
    assert model.tree.shapes[0].volume == pytest.approx(volume, rel=1e-9)
    line = next(own for own in manifest.files if own.file == "flat/plate/S001_5.dxf")
    assert (line.mark, line.thickness, line.pierces, line.checks) == ("S001", 5, 2, "pass")
    assert line.cut_length == pytest.approx(2 * 160 + 20 * math.pi)
    table = list(csv.DictReader(io.StringIO((outbox / "manifest.csv").read_text())))
    assert [row["file"] for row in table] == sorted(EXPECTED)

    # nothing changed: nothing is made
    second = released(running, held)
    assert second["counts"] == {"kept": len(EXPECTED)}

    # another width of one part: its files, and the list, alone
    source = client.get(f"/api/jobs/{held}").json()["document"]["sources"][0]["id"]
    newer = _write(tmp_path, 61)
    client.post(f"/api/jobs/{held}/incoming", params={"name": newer.name, "replaces": source}, content=newer.read_bytes())
    wait_for(lambda: client.get(f"/api/jobs/{held}").json()["document"]["sources"][0]["id"] != source)
    rows(running, held)
    client.post(f"/api/jobs/{held}/marks", json={"keep": ["S001", "A001"]})
    made = client.post(f"/api/jobs/{held}/part-sheets", json={"template": "part", "parts": ["Side", "Angle", "Shaft"]}).json()
    assert (len(made["anew"]), made["new"]) == (1, []), made["left"]
    third = released(running, held)
    states = {path: file["state"] for path, file in _files(running, third["id"]).items()}
    changed = {path for path, state in states.items() if state == "made"}
    assert changed == {"drawings/S001_Side.pdf", "flat/plate/S001_5.dxf", "models/A001/S001_Side.step"}
    # the earlier ones were moved aside
    aside = sorted(path.relative_to(outbox).as_posix() for path in outbox.glob("earlier/**/*") if path.is_file())
    assert [path.split("/", 2)[2] for path in aside] == sorted(changed)

    # as one archive, which the manifest in it is true of
    answer = client.get(f"/api/releases/{third['id']}/files.zip")
    archive = zipfile.ZipFile(io.BytesIO(answer.content))
    assert archive.testzip() is None
    inside = json.loads(archive.read("manifest.json"))
    assert {row["file"] for row in inside["files"]} == EXPECTED
    assert {row["file"]: row["sha256"] for row in inside["files"]} == {
        path: content_hash(archive.read(path)) for path in EXPECTED
    }
    # what is no longer what was released is not handed on as such
    (outbox / "Stand_parts.csv").write_text("other")
    refused(client.get(f"/api/releases/{third['id']}/files.zip"), "no longer what was released")
    fourth = released(running, held)
    assert fourth["counts"] == {"kept": len(EXPECTED) - 1, "made": 1}


def test_other_rules_leave_the_files_of_these_alone(running: Running, held: int) -> None:
    client = running.client
    other = {"id": "list", "name": "List", "files": [{"of": ["job"], "file": "parts list CSV", "name": "another list"}]}
    client.put("/api/release-rules", json=other)
    begun = client.post(f"/api/jobs/{held}/releases", json={"rules": "list"}).json()
    made = ended(running, begun["id"])
    manifest = read_manifest((Path(made["outbox"]) / "manifest.json").read_bytes())
    assert {line.file for line in manifest.files} == EXPECTED | {"another_list.csv"}
    # of the same rules what is no longer made is moved aside
    client.put("/api/release-rules", json={**other, "files": [{**other["files"][0], "name": "third"}]})
    made = ended(running, client.post(f"/api/jobs/{held}/releases", json={"rules": "list"}).json()["id"])
    manifest = read_manifest((Path(made["outbox"]) / "manifest.json").read_bytes())
    assert {line.file for line in manifest.files} == EXPECTED | {"third.csv"}
    assert not (Path(made["outbox"]) / "another_list.csv").exists()
    # what somebody took out of the outbox is not told of any more
    (Path(made["outbox"]) / "third.csv").unlink()


def test_a_property_says_whether_a_file_is_made(running: Running, held: int) -> None:
    client = running.client
    edit(client, held, kind="set_parts", parts={"Angle": {"Show": "yes"}})
    found = client.post(f"/api/jobs/{held}/release-preview", json={"rules": "house", "subjects": ["part:Angle"]}).json()
    assert {file["path"] for file in found["files"]} == {
        "flat/bent_sheet/S002_2.dxf",
        "models/A001/S002_Angle.step",
        "S002_Angle.glb",
    }
    made = released(running, held, subjects=["part:Angle"])
    outbox = Path(made["outbox"])
    assert (outbox / "S002_Angle.glb").read_bytes()[:4] == b"glTF"
    # a part of the job leaves the rest of the manifest as it is
    manifest = read_manifest((outbox / "manifest.json").read_bytes())
    assert {line.file for line in manifest.files} == EXPECTED | {"S002_Angle.glb"}
    client.post(f"/api/jobs/{held}/undo")


def _status(running: Running, job: int, sheet: str) -> tuple[str, bool]:
    """What the title block says of a sheet's status, and whether it is typed."""
    found = running.client.get(f"/api/jobs/{job}/sheets/{sheet}/writing").json()
    cell = next(own for own in found["cells"] if own["key"] == "status")
    return cell["value"], cell["typed"]


def test_what_is_released_is_locked_until_its_next_revision(running: Running, held: int) -> None:
    client = running.client
    document = client.get(f"/api/jobs/{held}").json()["document"]
    sheet = next(own for own in document["sheets"] if own["name"] == "P001 Shaft")
    subjects = [f"sheet:{sheet['id']}", "part:Shaft"]
    assert _status(running, held, sheet["id"]) == ("", True)
    client.post(f"/api/jobs/{held}/states", json={"subjects": subjects, "state": "in review", "note": "look at the shoulder"})
    assert _status(running, held, sheet["id"]) == ("in review", False)
    answer = client.post(f"/api/jobs/{held}/states", json={"subjects": subjects, "state": "released", "rules": "house"})
    release = ended(running, answer.json()["release"]["id"])
    assert (release["state"], sorted(_files(running, release["id"]))) == (
        "done", ["drawings/P001_Shaft_A.pdf", "models/A001/P001_Shaft.step"],
    )  # fmt: skip
    line = next(f["about"] for path, f in _files(running, release["id"]).items() if path.endswith(".pdf"))
    assert (line["revision"], line["state"]) == ("A", "released")
    # the title block of the released file says so, and the register of drawings knows which file it is
    pages = pdfium.PdfDocument((Path(release["outbox"]) / "drawings/P001_Shaft_A.pdf").read_bytes())
    assert "released" in pages[0].get_textpage().get_text_range()
    assert "in review" not in pages[0].get_textpage().get_text_range()
    listed = client.get("/api/drawing-register", params={"job": held}).json()["rows"]
    row = next(own for own in listed if own["sheet"] == sheet["id"])
    assert (row["release"], row["released_file"], row["released_revision"]) == (release["id"], "drawings/P001_Shaft_A.pdf", "A")
    table = client.get("/api/drawing-register.csv", params={"job": held, "text": "P001_Shaft_A"}).text
    assert next(iter(csv.DictReader(io.StringIO(table))))["released file"] == "drawings/P001_Shaft_A.pdf"
    change = {"kind": "change_sheet", "sheet": sheet["id"], "fields": {"scale": "1:10"}}
    refused(client.post(f"/api/jobs/{held}/edits", json=change), "P001 Shaft is released at revision A and locked")
    part = {"kind": "set_parts", "parts": {"Shaft": {"material": "C45"}}}
    refused(client.post(f"/api/jobs/{held}/edits", json=part), "Shaft is released at revision A and locked")
    # undo does not get around it
    refused(client.post(f"/api/jobs/{held}/undo"), "locked")
    back = {"subjects": subjects, "state": "in work"}
    refused(client.post(f"/api/jobs/{held}/states", json=back), "begin its next revision")
    after = client.post(f"/api/jobs/{held}/revisions", json={"subjects": subjects, "note": "a longer shaft"}).json()
    revised = next(own for own in after["document"]["sheets"] if own["id"] == sheet["id"])
    assert _status(running, held, sheet["id"]) == ("in work", False)
    assert (revised["title"]["revision"], after["document"]["parts"]["Shaft"]["revision"]) == ("B", "B")
    assert client.post(f"/api/jobs/{held}/edits", json=part).status_code == 200
    log = client.get(f"/api/jobs/{held}/states/log").json()
    assert [(row["state"], row["revision"]) for row in log if row["subject"] == "part:Shaft"] == [
        ("in work", "B"), ("released", "A"), ("in review", ""),
    ]  # fmt: skip
    refused(client.post(f"/api/jobs/{held}/revisions", json={"subjects": ["part:Angle"]}), "not released")


def test_what_no_rule_makes_a_file_of_is_released_all_the_same(running: Running, held: int) -> None:
    client = running.client
    wish = {"subjects": ["part:Stand"], "state": "released", "rules": "house"}
    assert client.post(f"/api/jobs/{held}/states", json=wish).json() == {"release": None}
    states = {row["subject"]: row["state"] for row in client.get(f"/api/jobs/{held}/states").json()}
    assert states["part:Stand"] == "released"
    # what stands against the files stands against the state
    clash = {**RULES, "id": "clash", "name": "Clash", "files": [{"of": ["plate", "turned"], "file": "STEP", "name": "part"}]}
    client.put("/api/release-rules", json=clash)
    wish = {"subjects": ["part:Side", "part:Shaft"], "state": "released", "rules": "clash"}
    refused(client.post(f"/api/jobs/{held}/states", json=wish), "would be written for")
    assert "part:Side" not in {row["subject"] for row in client.get(f"/api/jobs/{held}/states").json()}


def test_a_release_is_paused_goes_on_and_is_called_off(running: Running, held: int) -> None:
    client = running.client
    begun = client.post(f"/api/jobs/{held}/releases", json={"rules": "house", "everything": True}).json()
    client.post(f"/api/releases/{begun['id']}/pause")
    refused(client.post(f"/api/releases/{begun['id']}/pause"), "not under way")
    refused(client.get(f"/api/releases/{begun['id']}/files.zip"), "under way")
    waiting = client.get(f"/api/releases/{begun['id']}/files", params={"state": "waiting"}).json()["files"]
    if waiting:
        client.post(f"/api/releases/{begun['id']}/files/{waiting[-1]['id']}/first")
        again = client.get(f"/api/releases/{begun['id']}/files", params={"state": "waiting"}).json()["files"]
        assert again[0]["id"] == waiting[-1]["id"]
    client.post(f"/api/releases/{begun['id']}/resume")
    assert ended(running, begun["id"])["state"] == "done"
    refused(client.post(f"/api/releases/{begun['id']}/cancel"), "has ended")
    refused(client.post(f"/api/releases/{begun['id']}/retry"), "nothing to try again")
    # drawings that are not made yet: what is there already is released at once
    edit(client, held, kind="set_title", sheet=None, fields={"approval": "B. Own"})
    other = client.post(f"/api/jobs/{held}/releases", json={"rules": "house", "everything": True}).json()
    client.post(f"/api/releases/{other['id']}/cancel")
    assert client.get(f"/api/releases/{other['id']}").json()["state"] == "cancelled"
    client.post(f"/api/releases/{other['id']}/retry")
    assert ended(running, other["id"])["state"] == "done"
