"""The parts register as a page uses it: rows, marks that stay over a revision, tables in and out."""

from __future__ import annotations

import csv
import io
from pathlib import Path
from typing import Any

import pytest

from skalto.demo.solids import block, cut, cylinder, fuse, mirrored, moved
from tests.api.test_api import bring_in, new_job, wait_for
from tests.api.test_cutting import refused
from tests.api.test_issues import edit, sheet_of
from tests.conftest import Running
from tests.core.modelled import write_assembly


def _write(folder: Path, side: float, name: str = "stand.step") -> Path:
    plate = cut(block(100, side, 5), cylinder(20, 50, (0, 0, -10)))
    parts = {
        "Side": plate,
        "Side, other": moved(plate, (0, 0, 80)),
        "Shaft": moved(fuse(cylinder(20, 120), cylinder(30, 12)), (200, 0, 0)),
        "Lump": moved(block(20, 20, 20), (0, 200, 0)),
    }
    return write_assembly(parts, folder / name, "Stand")


@pytest.fixture(scope="module")
def held(running: Running, tmp_path_factory: pytest.TempPathFactory) -> tuple[int, str]:
    job = new_job(running, "Stand")
    return job, bring_in(running, job, _write(tmp_path_factory.mktemp("stand"), 60))


def rows(running: Running, job: int) -> dict[str, dict[str, Any]]:
    """The register's rows by name, once the models are looked through."""

    def looked() -> Any:
        found = running.client.get(f"/api/jobs/{job}/parts").json()
        return found["rows"] if found["work"] is None else None

    return {row["name"]: row for row in wait_for(looked)}


def test_rows_have_kinds_and_quantities(running: Running, held: tuple[int, str]) -> None:
    found = rows(running, held[0])
    assert {name: (row["kind"], row["quantity"]) for name, row in found.items()} == {
        "Stand": ("assembly", 1), "Side": ("plate", 2), "Shaft": ("turned", 1), "Lump": ("part", 1),
    }  # fmt: skip
    assert found["Side"]["thickness"] == 5


def test_marks_are_given_stay_and_are_asked_for_after_a_change(running: Running, held: tuple[int, str], tmp_path: Path) -> None:
    job, source = held
    client = running.client
    rows(running, job)
    first = client.post(f"/api/jobs/{job}/numbering", json={}).json()
    assert first["marks"] == {"Stand": "A001", "Side": "S001", "Shaft": "P001", "Lump": "P002"}
    assert all(row["mark"] == "" for row in rows(running, job).values())
    document = client.post(f"/api/jobs/{job}/marks", json={}).json()["document"]
    assert {name: facts["mark"] for name, facts in document["parts"].items()} == first["marks"]
    # parts lists and balloons have them
    items = client.get(f"/api/jobs/{job}/sources/{source}/items").json()
    assert {item["name"]: item["mark"] for item in items} == {"Side": "S001", "Shaft": "P001", "Lump": "P002"}
    # a newer revision, with a larger plate
    newer = _write(tmp_path, 61)
    came = client.post(f"/api/jobs/{job}/incoming", params={"name": newer.name, "replaces": source}, content=newer.read_bytes())
    assert came.status_code == 202, came.text
    wait_for(lambda: client.get(f"/api/jobs/{job}").json()["document"]["sources"][0]["id"] != source)
    rows(running, job)
    asked = client.post(f"/api/jobs/{job}/numbering", json={}).json()
    assert [row["mark"] for row in asked["changed"]] == ["A001", "S001"]
    refused(client.post(f"/api/jobs/{job}/numbering", json={"keep": ["S001"], "renew": ["S001"]}), "say one")
    answer = {"keep": ["A001"], "renew": ["S001"]}
    client.post(f"/api/jobs/{job}/marks", json=answer)
    assert {name: row["mark"] for name, row in rows(running, job).items()} == first["marks"] | {"Side": "S002"}
    again = client.post(f"/api/jobs/{job}/numbering", json={}).json()
    assert (again["new"], again["changed"], again["gone"]) == ([], [], [])
    client.post(f"/api/jobs/{job}/undo")


def test_the_table_goes_out_is_changed_and_comes_in(running: Running, held: tuple[int, str]) -> None:
    job, _ = held
    client = running.client
    rows(running, job)
    edit(client, job, kind="set_own_fields", fields=[{"name": "Coat", "kind": "yes/no"}])
    answer = client.get(f"/api/jobs/{job}/parts.csv")
    table = list(csv.DictReader(io.StringIO(answer.text)))
    assert [row["part"] for row in table] == ["Stand", "Side", "Shaft", "Lump"]
    for row in table:
        row["material"] = "S235"
        row["Coat"] = "yes" if row["part"] == "Side" else ""
    out = io.StringIO()
    writer = csv.DictWriter(out, list(table[0]))
    writer.writeheader()
    writer.writerows(table)
    taken = client.post(f"/api/jobs/{job}/parts.csv", json={"text": out.getvalue()}).json()
    assert taken["parts"] == 4
    found = rows(running, job)
    assert (found["Side"]["fields"], found["Lump"]["material"]) == ({"Coat": "yes"}, "S235")
    # one step back and it was never said
    client.post(f"/api/jobs/{job}/undo")
    assert rows(running, job)["Lump"]["material"] == ""
    refused(client.post(f"/api/jobs/{job}/parts.csv", json={"text": "part,Coat\nSide,perhaps\n"}), "neither yes nor no")


def test_opposite_hands_are_drawn_once_and_numbers_come_out_of_names(running: Running, tmp_path: Path) -> None:
    client = running.client
    body = cut(fuse(block(40, 30, 4), moved(block(4, 30, 20), (18, 0, 0))), cylinder(5, 20, (-10, 8, -5)))
    parts = {"EB-0001 Ear": body, "EB-0002 Ear": moved(mirrored(body), (0, 100, 0))}
    job = new_job(running, "Hands")
    bring_in(running, job, write_assembly(parts, tmp_path / "hands.step", "Ears"))
    rows(running, job)
    found = client.post(f"/api/jobs/{job}/numbers-in-names", json={"pattern": "EB-####"}).json()["parts"]
    assert found["EB-0002 Ear"] == {"number": "EB-0002", "name": "Ear"}
    taken = client.post(f"/api/jobs/{job}/numbers", json={"pattern": "EB-####"}).json()
    assert taken["parts"] == 2
    again = client.post(f"/api/jobs/{job}/numbers", json={"pattern": "EB-####"}).json()
    assert again["parts"] == 0, "what has a number keeps it"
    assert client.post(f"/api/jobs/{job}/numbers", json={"pattern": "EB"}).status_code == 422
    client.post(f"/api/jobs/{job}/marks", json={})
    by_key = {row["key"]: row for row in client.get(f"/api/jobs/{job}/parts").json()["rows"]}
    ear = by_key["EB-0002 Ear"]
    assert (ear["number"], ear["name"], ear["opposite"]) == ("EB-0002", "Ear", "EB-0001 Ear")
    wish = {"template": "part", "parts": ["EB-0001 Ear", "EB-0002 Ear"], "hands_once": True}
    made = client.post(f"/api/jobs/{job}/part-sheets", json=wish).json()
    assert len(made["new"]) == 1
    other, first = ear["mark"], by_key["EB-0001 Ear"]["mark"]
    assert made["left"] == [f"{other} is the opposite hand of {first}, and drawn with it."]
    sheet = made["job"]["document"]["sheets"][-1]
    assert sheet["title"]["title"] == f"Ear; {other} opposite hand"
    # without that wish each has its own, and the first is made anew once both are wanted on it
    each = client.post(f"/api/jobs/{job}/part-sheets", json={**wish, "hands_once": False}).json()
    assert (len(each["new"]), len(each["anew"])) == (1, 0)
    source = by_key["EB-0001 Ear"]["source"]
    pictures = wait_for(lambda: client.get(f"/api/sources/{source}/part-pictures").json()["pictures"])
    assert set(pictures) == {row["component"] for row in by_key.values() if row["kind"] != "assembly"}
    assert all(path.startswith("M") for path in pictures.values())


def test_a_model_in_the_wrong_unit_is_put_right_in_its_place(running: Running, plate_step: Path) -> None:
    client = running.client
    job = new_job(running, "Inches")
    source = bring_in(running, job, plate_step)
    sheet = sheet_of(client, job, "S", "A3", source, "top")
    size = client.get(f"/api/sources/{source}/tree").json()["size"]
    assert client.post(f"/api/jobs/{job}/sources/{source}/unit", json={"unit": "in"}).status_code == 202
    ref = wait_for(lambda: next((own for own in _sources(client, job) if own["id"] != source), None))
    assert ref["earlier"] == [source]
    tree = client.get(f"/api/sources/{ref['id']}/tree").json()
    assert tree["size"] == pytest.approx([v * 25.4 for v in size])
    assert tree["said_unit"] == 25.4
    # views show it where they showed the other
    assert client.get(f"/api/jobs/{job}").json()["document"]["sheets"][0]["views"][0]["source"] == ref["id"]
    assert sheet
    # said again it is told, what is none too, and it is taken back
    refused(client.post(f"/api/jobs/{job}/sources/{ref['id']}/unit", json={"unit": "25.4mm"}), "in that unit already")
    refused(client.post(f"/api/jobs/{job}/sources/{ref['id']}/unit", json={"unit": "furlong"}), "is not a unit")
    client.post(f"/api/jobs/{job}/sources/{ref['id']}/unit", json={"unit": "mm"}).raise_for_status()
    assert wait_for(lambda: _sources(client, job)[0]["id"] == source)


def _sources(client: Any, job: int) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = client.get(f"/api/jobs/{job}").json()["document"]["sources"]
    return found
