"""The demo's press from its model to released files: marks, a sheet for each made part by template, rules of its own, manifest;
and one part changed."""

from __future__ import annotations

import io
from pathlib import Path

import pikepdf
import pytest

from skalto.core.sources.reading import read_model
from skalto.store.blobs import content_hash
from tests.api.test_api import bring_in, new_job
from tests.api.test_issues import edit
from tests.api.test_register import rows
from tests.api.test_release import _files, ended
from tests.conftest import Running

RULES = {
    "id": "press", "name": "Press",
    "files": [
        {"of": ["sheet"], "file": "PDF", "name": "{mark}_{name}", "folder": "drawings"},
        {"of": ["plate", "bent sheet"], "file": "flat-pattern DXF", "name": "{mark}_{material}_{thickness}", "folder": "flat"},
        {"of": ["plate", "bent sheet", "turned", "profile", "part"], "file": "STEP", "name": "{mark}", "folder": "{kind}"},
        {"of": ["job"], "file": "parts list CSV", "name": "{job} parts"},
    ],
}  # fmt: skip


@pytest.mark.long
def test_the_press_is_released_and_a_change_of_one_part_makes_its_files_alone(
    running: Running, press_step: Path, tmp_path: Path
) -> None:
    client = running.client
    job = new_job(running, "Ebba, released")
    bring_in(running, job, press_step)
    own = rows(running, job)
    client.post(f"/api/jobs/{job}/marks", json={}).raise_for_status()
    own = rows(running, job)
    assert all(row["mark"] for row in own.values())
    assert len({row["mark"] for row in own.values()}) == len(own)
    made = [key for key, row in own.items() if row["kind"] not in ("bought", "assembly")]
    answer = client.post(f"/api/jobs/{job}/part-sheets", json={"template": "part", "parts": made}).json()
    assert (len(answer["new"]), answer["left"]) == (len(made), [])
    # one step back takes all of them, one forward brings them again
    assert client.post(f"/api/jobs/{job}/undo").json()["document"]["sheets"] == []
    assert len(client.post(f"/api/jobs/{job}/redo").json()["document"]["sheets"]) == len(made)
    client.put("/api/release-rules", json=RULES).raise_for_status()

    def release() -> dict[str, object]:
        begun = client.post(f"/api/jobs/{job}/releases", json={"rules": "press", "accepted": True})
        assert begun.status_code == 201, begun.text
        found = ended(running, begun.json()["id"], 400)
        assert found["state"] == "done", found["error"]
        return found

    first = release()
    files = _files(running, int(str(first["id"])))
    sheets = [key for key in made if own[key]["kind"] in ("plate", "bent sheet")]
    assert len(files) == 2 * len(made) + len(sheets) + 1
    for path, file in files.items():
        data = client.get(f"/api/releases/{first['id']}/files/{file['id']}/content").content
        assert content_hash(data) == file["about"]["sha256"]
        if path.endswith(".step"):
            target = tmp_path / "one.step"
            target.write_bytes(data)
            key = next(key for key, row in own.items() if row["mark"] == file["about"]["mark"])
            (shape,) = {leaf.shape for leaf in read_model(target, "one.step").tree.leaves()}
            assert shape is not None, key
        if path.endswith(".pdf"):
            with pikepdf.open(io.BytesIO(data)) as pdf:
                assert len(pdf.pages) == 1
    # one part is of another material: its sheet, its pattern under another name, its model and the list
    changed = sheets[0]
    edit(client, job, kind="set_parts", parts={changed: {"material": "Oak"}})
    second = release()
    again = {path: file for path, file in _files(running, int(str(second["id"]))).items() if file["state"] == "made"}
    mark = own[changed]["mark"]
    assert {Path(path).suffix for path in again} == {".pdf", ".dxf", ".step", ".csv"}
    assert all(file["about"]["mark"] == mark for path, file in again.items() if not path.endswith(".csv"))
    assert len(again) == 4
