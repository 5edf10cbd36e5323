"""Cutting as a page uses it: flat parts, a cutting list, arranged, moved by hand into a fault, proved, issued."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any

import pikepdf
import pytest

from skalto.core.cutter.machine import CHART, Machine
from skalto.core.cutter.running import run
from skalto.core.cutter.tracks import read_for_machine
from skalto.demo.solids import block, cut, cylinder
from tests.api.test_api import bring_in, new_job, wait_for
from tests.api.test_issues import edit
from tests.api.test_solids import asked
from tests.conftest import Running
from tests.core.drawn import dxf
from tests.core.modelled import write_assembly

PLATE = {"width": 300, "height": 200, "edge": 5, "thickness": 6, "material": "Plywood", "density": 0.7, "price": 12}
CHOICES = {"gap": 2, "kerf": 0.15}


@pytest.fixture(scope="module")
def held(running: Running, tmp_path_factory: pytest.TempPathFactory) -> tuple[int, str]:
    folder = tmp_path_factory.mktemp("cutting")
    wide = cut(block(120, 80, 6), cylinder(20, 20, (30, 0, -5)))
    path = write_assembly({"Side": wide, "Foot": block(40, 30, 6), "Rod": cylinder(8, 100)}, folder / "parts.step")
    job = new_job(running, "Cutting")
    return job, bring_in(running, job, path)


def made(running: Running, job: int, source: str, **wish: Any) -> tuple[dict[str, Any], str]:
    answer = running.client.post(
        f"/api/jobs/{job}/cut-lists", json={"source": source, "plates": [PLATE], "choices": CHOICES} | wish
    )  # fmt: skip
    assert answer.status_code == 200, answer.text
    found = answer.json()
    return found["job"]["document"], found["cut_list"]


def arranged(running: Running, job: int, cut_list: str, seconds: float = 1) -> dict[str, Any]:
    def once() -> dict[str, Any] | None:
        answer = running.client.post(f"/api/jobs/{job}/cut-lists/{cut_list}/arrangement", params={"seconds": seconds})
        assert answer.status_code == 200, answer.text
        found: dict[str, Any] = answer.json()
        return found if found["last"] else None

    got: dict[str, Any] = wait_for(once)
    return got


def refused(answer: Any, words: str) -> None:
    assert answer.status_code in (404, 422), answer.text
    assert words in answer.json()["detail"]


def test_from_components_to_a_proven_plate(running: Running, held: tuple[int, str], tmp_path: Path) -> None:
    job, source = held
    client = running.client
    parts = asked(running, f"/api/sources/{source}/flat-parts", "parts")["parts"]
    assert {own["name"]: round(own["thickness"], 6) for own in parts if not own["why_not"]} == {"Side": 6, "Foot": 6}
    assert "mm across" in next(own["why_not"] for own in parts if own["name"] == "Rod")
    chosen = [own["component"] for own in parts if not own["why_not"]]
    document, cut_list = made(running, job, source, components=chosen, copies=2, name="Feet and sides")
    (own,) = document["cut_lists"]
    assert [part["quantity"] for part in own["parts"]] == [2, 2]

    profiles = asked(running, f"/api/jobs/{job}/cut-lists/{cut_list}/profiles", "profiles")["profiles"]
    assert all(own["cut"].startswith("M") and own["faults"] == [] for own in profiles.values())
    assert set(profiles) == {part["id"] for part in own["parts"]}
    best = arranged(running, job, cut_list)
    assert best["left"] == []
    assert 0 < best["yields"][0] < best["bounds"][0]
    edit(client, job, kind="lay_parts", cut_list=cut_list, contents=best["contents"])
    document = client.get(f"/api/jobs/{job}").json()["document"]
    sheet = next(own for own in document["sheets"] if own["cutting"])
    assert (sheet["format"], sheet["frame"]) == ("300x200mm", "none")
    base = f"/api/jobs/{job}/sheets/{sheet['id']}"
    figures = client.get(f"{base}/plate").json()
    assert figures["ready"]
    assert figures["pierces"] == 6
    assert figures["price"] == 12
    area = 2 * (120 * 80 - 314.159 + 40 * 30)
    assert figures["yield"] == pytest.approx(area / 60000, rel=1e-4)
    assert figures["grams"] == pytest.approx(area * 6 * 0.7 / 1000, rel=1e-4)
    assert figures["notices"] == []
    assert figures["bound"] == pytest.approx(best["bounds"][0], abs=2e-3)

    assert client.post(f"{base}/proof").status_code in (200, 202)
    proof = asked(running, f"{base}/proof", "ready")
    assert proof["holds"], proof
    pieces = next(own for own in proof["report"]["checks"] if own["code"] == "cut-pieces")
    assert pieces["reading"].startswith("4 of 4 fall out")
    film = asked(running, f"{base}/cutter-run", "report")
    assert film["report"]["holds"]
    assert film["times"][-1] == pytest.approx(film["report"]["total"], abs=1e-3)
    assert len(film["times"]) == len(film["points"]) == len(film["doing"])
    assert {1} <= set(film["doing"])

    # a part is dragged onto another: told at once, and the proof fails; undone, it holds again
    first, second = sheet["cutting"]["placed"][:2]
    edit(client, job, kind="change_profile", sheet=sheet["id"], profile=first["id"], fields={"pinned": True})
    moved = {"x": second["x"] + 3, "y": second["y"] + 3, "turn": second["turn"]}
    edit(client, job, kind="change_profile", sheet=sheet["id"], profile=first["id"], fields=moved)
    told = client.get(f"{base}/plate").json()["notices"]
    assert any(own["code"] == "cut-overlap" and own["level"] == "error" for own in told)
    client.post(f"{base}/proof")
    bad = asked(running, f"{base}/proof", "ready")
    assert not bad["holds"]
    assert {"cut-pieces", "sheet-cut-overlap"} <= {own["code"] for own in bad["report"]["checks"] if own["verdict"] == "fails"}
    assert client.post(f"/api/jobs/{job}/undo").status_code == 200
    assert client.get(f"{base}/plate").json()["notices"] == []
    # what is pinned stays when the rest is arranged anew
    again = arranged(running, job, cut_list, 2)
    kept = [own for content in again["contents"] for own in content["placed"] if own["pinned"]]
    assert [(own["x"], own["y"], own["id"]) for own in kept] == [(first["x"], first["y"], first["id"])]

    # the file itself, in a machine of one's own
    assert client.post(f"{base}/proof").status_code in (200, 202)
    asked(running, f"{base}/proof", "ready")
    data = client.get(f"{base}/proof.pdf")
    assert data.status_code == 200, data.text
    with pikepdf.open(io.BytesIO(data.content)) as pdf:
        assert float(pdf.pages[0].mediabox[2]) / 72 * 25.4 == pytest.approx(300, abs=1e-4)
    path = tmp_path / "plate.pdf"
    path.write_bytes(data.content)
    report = run(read_for_machine(path, Machine()), Machine(), CHART[0], None, 0.15).report
    assert report.refusals == ()
    assert len([own for own in report.pieces if own.area > 1000]) == 4


def test_from_a_drawing(running: Running, tmp_path: Path) -> None:
    def draw(document: Any, space: Any) -> None:
        space.add_lwpolyline([(0, 0), (80, 0), (80, 50), (0, 50)], close=True)
        space.add_circle((30, 25), 10)
        space.add_circle((30, 25), 5)

    job = new_job(running, "Drawn parts")
    source = bring_in(running, job, dxf(tmp_path / "drawn.dxf", draw))
    document, _ = made(running, job, source, copies=3)
    assert [(part["quantity"], part["origin"]["number"]) for part in document["cut_lists"][0]["parts"]] == [(3, 0), (3, 1)]
    refused(running.client.get(f"/api/sources/{source}/flat-parts"), "contours, not components")
    # the source cannot go while something is cut from it
    answer = running.client.post(f"/api/jobs/{job}/edits", json={"kind": "remove_source", "source": source})
    refused(answer, "take what shows it off first")


def test_what_cannot_be_cut_is_told(running: Running, held: tuple[int, str], tmp_path: Path) -> None:
    job, source = held
    client = running.client

    def ask(**wish: Any) -> Any:
        return client.post(
            f"/api/jobs/{job}/cut-lists", json={"source": source, "plates": [PLATE], "components": ["Side"]} | wish
        )

    asked(running, f"/api/sources/{source}/flat-parts", "parts")
    refused(ask(components=[]), "No component is chosen")
    refused(ask(components=["Nothing"]), "no component Nothing")
    refused(ask(plates=[]), "")
    rod = next(own for own in asked(running, f"/api/sources/{source}/flat-parts", "parts")["parts"] if own["name"] == "Rod")
    refused(ask(components=[rod["component"]]), "Rod is no flat plate")
    side = next(own for own in asked(running, f"/api/sources/{source}/flat-parts", "parts")["parts"] if own["name"] == "Side")
    _, thin = made(running, job, source, components=[side["component"]], plates=[PLATE | {"thickness": 3}], name="Thin")

    def once() -> Any:
        answer = client.post(f"/api/jobs/{job}/cut-lists/{thin}/arrangement", params={"seconds": 1})
        return answer if answer.status_code == 422 else None

    refused(wait_for(once), "is 6 mm thick, the plate 3 mm")
    refused(client.get(f"/api/jobs/{job}/sheets/nothing/plate"), "no longer in the job")
    refused(client.delete(f"/api/jobs/{job}/cut-lists/nothing/arrangement"), "no longer in the job")
    # the same parts on another list are its own
    document, again = made(running, job, source, components=[side["component"]], name="Again")
    own = next(own for own in document["cut_lists"] if own["id"] == again)
    known = asked(running, f"/api/jobs/{job}/cut-lists/{again}/profiles", "profiles")["profiles"]
    assert set(known) == {part["id"] for part in own["parts"]}
    assert edit(client, job, kind="remove_cut_list", cut_list=again)
    assert edit(client, job, kind="remove_cut_list", cut_list=thin)
