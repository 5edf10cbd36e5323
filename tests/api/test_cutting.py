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


def test_a_silhouette_and_a_face_of_what_is_no_plate(running: Running, held: tuple[int, str]) -> None:
    job, source = held
    parts = asked(running, f"/api/sources/{source}/flat-parts", "parts")["parts"]
    rod = next(own for own in parts if own["name"] == "Rod")
    ends = [face for face in rod["faces"] if face["seen_from"] in ("top", "bottom")]
    assert [round(face["area"], 3) for face in ends] == [50.265, 50.265]
    for choice, area in ({"seen_from": "front"}, 800.0), ({"face": ends[0]["number"]}, 50.2655):
        wish = {"components": rod["components"], "profiles": {rod["component"]: choice}}
        document, cut_list = made(running, job, source, **wish)
        (part,) = next(own for own in document["cut_lists"] if own["id"] == cut_list)["parts"]
        profiles = asked(running, f"/api/jobs/{job}/cut-lists/{cut_list}/profiles", "profiles")["profiles"]
        assert profiles[part["id"]]["area"] == pytest.approx(area, rel=1e-4)
        assert profiles[part["id"]]["notes"]
    bad = {"components": rod["components"], "profiles": {rod["component"]: {"seen_from": "inside"}}}
    answer = running.client.post(f"/api/jobs/{job}/cut-lists", json={"source": source, "plates": [PLATE]} | bad)
    assert "no standard view" in answer.text


def test_a_list_of_parts_says_what_is_cut_and_how_often(running: Running, held: tuple[int, str]) -> None:
    job, source = held
    asked(running, f"/api/sources/{source}/flat-parts", "parts")
    document, cut_list = made(running, job, source, components=[], copies=3, typed="Part;Quantity\nfoot;2\nSide;1\n")
    own = next(row for row in document["cut_lists"] if row["id"] == cut_list)
    assert {part["name"]: part["quantity"] for part in own["parts"]} == {"Foot": 6, "Side": 3}
    unsaid = {key: value for key, value in PLATE.items() if key != "thickness"}
    document, cut_list = made(running, job, source, components=[], typed="foot;2", plates=[unsaid])
    assert next(row for row in document["cut_lists"] if row["id"] == cut_list)["plates"][0]["thickness"] == 6
    for typed, words in ("Leg;1", "no flat part Leg"), ("Foot;many", "is no quantity"), ("Rod;1", "no flat plate"):
        wish = {"source": source, "plates": [PLATE], "components": [], "typed": typed}
        refused(running.client.post(f"/api/jobs/{job}/cut-lists", json=wish), words)


def test_equal_parts_are_listed_under_the_name_of_any(running: Running, tmp_path: Path) -> None:
    job = new_job(running, "Equal")
    source = bring_in(running, job, write_assembly({"Left": block(40, 30, 3), "Right": block(40, 30, 3)}, tmp_path / "e.step"))
    (both,) = asked(running, f"/api/sources/{source}/flat-parts", "parts")["parts"]
    assert both["quantity"] == 2
    document, _ = made(running, job, source, components=[], typed="Left;1\nRight;4", plates=[PLATE | {"thickness": 3}])
    assert [part["quantity"] for part in document["cut_lists"][0]["parts"]] == [5]


def test_parts_of_two_thicknesses_are_no_list(running: Running, tmp_path: Path) -> None:
    job = new_job(running, "Two")
    path = write_assembly({"Thin": block(40, 30, 3), "Thick": block(40, 30, 8)}, tmp_path / "two.step")
    source = bring_in(running, job, path)
    parts = asked(running, f"/api/sources/{source}/flat-parts", "parts")["parts"]
    every = [own["component"] for own in parts]
    for wish in {"components": every}, {"components": [], "typed": "Thin;1\nThick;2"}:
        answer = running.client.post(f"/api/jobs/{job}/cut-lists", json={"source": source, "plates": [PLATE]} | wish)
        refused(answer, "a plate has one thickness")


def test_drawings_on_parts_and_on_the_plate(running: Running, held: tuple[int, str], tmp_path: Path) -> None:
    job, source = held
    client = running.client
    asked(running, f"/api/sources/{source}/flat-parts", "parts")
    document, cut_list = made(running, job, source, components=_side(running, source))
    part = next(own for own in document["cut_lists"] if own["id"] == cut_list)["parts"][0]["id"]
    asked(running, f"/api/jobs/{job}/cut-lists/{cut_list}/profiles", "profiles")
    content = {"cut_list": cut_list, "placed": [{"id": "1", "part": part, "x": 10, "y": 10}]}
    edit(client, job, kind="lay_parts", cut_list=cut_list, contents=[content])
    sheet = f"{cut_list}-1"
    art = bring_in(running, job, dxf(tmp_path / "art.dxf", lambda _, space: space.add_circle((0, 0), 100)))
    for where in part, "":
        answer = client.post(f"/api/jobs/{job}/sheets/{sheet}/decorations", json={"source": art, "part": where})
        assert answer.status_code == 200, answer.text
    document = client.get(f"/api/jobs/{job}").json()["document"]
    (on_part,) = next(own for own in document["cut_lists"] if own["id"] == cut_list)["parts"][0]["decorations"]
    # a circle of 200 mm has no room on 120 × 80 mm, but on the plate of 300 × 200 it has
    assert (on_part["x"], on_part["y"], on_part["content"]["scale"]) == (60, 40, 0.28)
    (on_plate,) = next(own for own in document["sheets"] if own["id"] == sheet)["cutting"]["decorations"]
    assert (on_plate["x"], on_plate["y"], on_plate["content"]["scale"]) == (150, 100, 1)
    found = asked(running, f"/api/jobs/{job}/cut-lists/{cut_list}/profiles", "profiles")
    assert found["profiles"][part]["decorations"][0]["strokes"].startswith("M")
    assert found["on_plates"][0]["box"] == pytest.approx([50, 0, 250, 200], abs=1e-6)
    # what the plate shows can be taken out of the job no more
    refused(client.post(f"/api/jobs/{job}/edits", json={"kind": "remove_source", "source": art}), "is shown on")
    refused(client.post(f"/api/jobs/{job}/sheets/{sheet}/decorations", json={"source": source}), "drawing")


def _side(running: Running, source: str) -> list[str]:
    parts = asked(running, f"/api/sources/{source}/flat-parts", "parts")["parts"]
    return [own["component"] for own in parts if own["name"] == "Side"]


def test_the_cutters_settings_are_kept_and_new_lists_take_its_codes(running: Running, held: tuple[int, str]) -> None:
    job, source = held
    client = running.client
    shipped = client.get("/api/cutter/shipped").json()
    assert client.get("/api/cutter").json() == shipped
    try:
        own = shipped | {"width": 400.0, "height": 300.0}
        own["codes"] = shipped["codes"] | {"cut": {"layer": "through", "colour": "#ff0000", "width": 0.01}}
        assert client.put("/api/cutter", json=own).status_code == 200
        assert client.get("/api/cutter").json()["width"] == 400
        asked(running, f"/api/sources/{source}/flat-parts", "parts")
        document, cut_list = made(running, job, source, components=_side(running, source))
        choices = next(row for row in document["cut_lists"] if row["id"] == cut_list)["choices"]
        assert choices["codes"]["cut"]["layer"] == "through"
        refused(client.put("/api/cutter", json=shipped | {"chart": []}), "chart is empty")
        assert client.put("/api/cutter", json=shipped | {"width": -1}).status_code == 422
    finally:
        client.put("/api/cutter", json=shipped)


def test_a_remnant_out_of_a_drawing(running: Running, held: tuple[int, str], tmp_path: Path) -> None:
    job, source = held
    asked(running, f"/api/sources/{source}/flat-parts", "parts")
    _, cut_list = made(running, job, source, components=_side(running, source))
    corner = [(0, 0), (250, 0), (250, 100), (140, 100), (140, 180), (0, 180)]
    rest = bring_in(running, job, dxf(tmp_path / "rest.dxf", lambda _, space: space.add_lwpolyline(corner, close=True)))
    where = f"/api/jobs/{job}/cut-lists/{cut_list}/plates"
    answer = running.client.put(f"{where}/0/remnant", json={"source": rest})
    assert answer.status_code == 200, answer.text
    (plate,) = next(own for own in answer.json()["document"]["cut_lists"] if own["id"] == cut_list)["plates"]
    assert (plate["width"], plate["height"], len(plate["remnant"][0])) == (250, 180, 6)
    best = arranged(running, job, cut_list)
    assert best["left"] == []
    refused(running.client.put(f"{where}/7/remnant", json={"source": rest}), "no such plate")
    answer = running.client.put(f"{where}/0/remnant", json={})
    assert next(own for own in answer.json()["document"]["cut_lists"] if own["id"] == cut_list)["plates"][0]["remnant"] == []
