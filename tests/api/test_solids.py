"""3D annotations as a page uses them: put on sheets, their pictures, what goes in, the finished file's model."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from skalto.core.checks.solids import fields_of_pdf
from skalto.core.output.u3d.reader import read_u3d
from tests.api.test_api import bring_in, new_job, put_on, wait_for
from tests.api.test_issues import edit, ended, file_of, send
from tests.conftest import Running


@pytest.fixture(scope="module")
def held(running: Running, plate_step: Path) -> tuple[int, str]:
    job = new_job(running, "Solids")
    return job, bring_in(running, job, plate_step)


def asked(running: Running, address: str, ready: str) -> dict[str, Any]:
    """Ask until what is wanted is there."""

    def once() -> dict[str, Any] | None:
        answer = running.client.get(address)
        assert answer.status_code == 200, answer.text
        found: dict[str, Any] = answer.json()
        return found if found[ready] else None

    got: dict[str, Any] = wait_for(once)
    return got


def put_annotation_3d(running: Running, job: int, source: str, **wish: Any) -> tuple[str, str, dict[str, Any]]:
    answer = running.client.post(f"/api/jobs/{job}/fields", json={"source": source, **wish})
    assert answer.status_code == 200, answer.text
    placed = answer.json()
    sheet = next(s for s in placed["job"]["document"]["sheets"] if s["id"] == placed["sheet"])
    return placed["sheet"], placed["field"], next(f for f in sheet["annotations_3d"] if f["id"] == placed["field"])


def header(pack: bytes) -> dict[str, Any]:
    found: dict[str, Any] = json.loads(pack[4 : 4 + int.from_bytes(pack[:4], "little")])
    return found


def test_a_page_of_its_own_is_proofed_reviewed_and_handed_on(running: Running, held: tuple[int, str]) -> None:
    job, source = held
    sheet, field, spec = put_annotation_3d(running, job, source, whole=True)
    assert spec["place"] == [0, 0]
    assert spec["size"] == [297, 210]
    base = f"/api/jobs/{job}/sheets/{sheet}"
    poster = asked(running, f"{base}/fields/{field}/poster", "poster")
    assert running.client.get(poster["poster"]).content[:4] == b"\x89PNG"
    assert poster["facts"]["parts"] == 1
    assert poster["facts"]["triangles"] == poster["facts"]["distinct"] > 50
    pack = asked(running, f"{base}/fields/{field}/review", "pack")["pack"]
    told = header(running.client.get(pack).content)
    assert sorted({e["diameter"] for e in told["meshes"][0]["edges"] if "diameter" in e}) == pytest.approx(
        [6.5, 12, 30], abs=1e-4
    )
    assert told["views"] == []

    assert running.client.post(f"{base}/proof").status_code in (200, 202)
    proof = asked(running, f"{base}/proof", "ready")
    assert proof["holds"]
    solids = asked(running, f"{base}/proof/solids", "packs")
    assert solids["paths"] == [{"plate": "plate"}]
    decoded = header(running.client.get(solids["packs"][0]).content)
    assert decoded["views"][0]["name"] == "Overview"
    assert decoded["tolerance"] > 0

    def made(suffix: str) -> bytes:
        def once() -> bool:
            answer = running.client.post(f"{base}/proof/solids/0/file", params={"suffix": suffix})
            assert answer.status_code == 200, answer.text
            return bool(answer.json()["ready"])

        wait_for(once)
        return running.client.get(f"{base}/proof/solids/0/file", params={"suffix": suffix}).content

    assert len(read_u3d(made(".u3d")).nodes) == 1
    assert made(".glb")[:4] == b"glTF"
    page = made(".html")
    assert b"application/octet-stream" in page
    assert b"http://" not in page.split(b"<script type")[0]
    refused = running.client.post(f"{base}/proof/solids/7/file", params={"suffix": ".u3d"})
    for _ in range(100):
        if refused.status_code == 422:
            break
        refused = running.client.post(f"{base}/proof/solids/7/file", params={"suffix": ".u3d"})
    assert "no 3D annotation" in refused.json()["detail"]


def test_a_field_beside_a_view_goes_out_with_a_pack(running: Running, held: tuple[int, str]) -> None:
    job, source = held
    sheet = put_on(running, job, source)["sheet"]
    _, field, spec = put_annotation_3d(running, job, source, sheet=sheet)
    assert spec["frame"]
    change = {"kind": "change_field", "sheet": sheet, "field": field}
    edit(running.client, job, **change, fields={"width": 90, "name": "The plate"})
    document = edit(running.client, job, **change, fields={"height": 60})["document"]
    own = next(s for s in document["sheets"] if s["id"] == sheet)["annotations_3d"][0]
    assert own["size"] == [90, 60]
    edit(running.client, job, kind="keep_pack", pack={"id": "shop", "name": "For the shop", "sheets": [sheet]})
    found = ended(running.client, send(running.client, job))
    assert found["state"] == "done"
    (solid,) = fields_of_pdf(file_of(running.client, found))
    assert solid.box[2] - solid.box[0] == pytest.approx(89, abs=1e-3)


def test_what_cannot_be_is_refused_in_a_sentence(running: Running, held: tuple[int, str]) -> None:
    job, source = held
    nobody = running.client.post(f"/api/jobs/{job}/fields", json={"source": "nobody"})
    assert nobody.status_code == 404
    assert "no longer in the job" in nobody.json()["detail"]
    sheet, field, _ = put_annotation_3d(running, job, source, whole=True)
    edit(running.client, job, kind="change_field", sheet=sheet, field=field, fields={"choices": {"left_out": ["Made parts"]}})

    def failed() -> str | None:
        answer = running.client.get(f"/api/jobs/{job}/sheets/{sheet}/fields/{field}/poster")
        return str(answer.json()["detail"]) if answer.status_code == 422 else None

    assert "Nothing is left" in wait_for(failed)
    taken = running.client.post(f"/api/jobs/{job}/edits", json={"kind": "remove_source", "source": source})
    assert taken.status_code == 422
    assert "take what shows it off first" in taken.json()["detail"]
