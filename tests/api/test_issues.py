"""Packs sent out over the web: order, names, the register, files kept byte for byte, restarts, calling off, trying again."""

from __future__ import annotations

import csv
import hashlib
import io
import sqlite3
import time
from pathlib import Path
from typing import Any

import ezdxf
import httpx
import pikepdf
import pytest
from pdfminer.high_level import extract_text

from tests.api.test_api import bring_in, new_job
from tests.conftest import Running

PATIENCE = 120


def sheet_of(client: httpx.Client, job: int, name: str, format_: str, source: str, view: str) -> str:
    """A sheet of a format with one view; its id."""
    sheet = name.lower().replace(" ", "-")
    edit(client, job, kind="add_sheet", sheet={"id": sheet, "name": name, "format": format_, "title": {"revision": "A"}})
    looks = {"front": ([0, 1, 0], [0, 0, 1]), "top": ([0, 0, -1], [0, 1, 0]), "left": ([1, 0, 0], [0, 0, 1])}
    look, up = looks[view]
    wish = {"source": source, "name": view, "look": look, "up": up, "sheet": sheet}
    client.post(f"/api/jobs/{job}/views", json=wish).raise_for_status()
    return sheet


def edit(client: httpx.Client, job: int, **fields: Any) -> dict[str, Any]:
    answer = client.post(f"/api/jobs/{job}/edits", json=fields)
    assert answer.status_code == 200, answer.text
    found: dict[str, Any] = answer.json()
    return found


def pack(client: httpx.Client, job: int, sheets: list[str], **more: Any) -> str:
    edit(client, job, kind="keep_pack", pack={"id": "shop", "name": "For the shop", "sheets": sheets, **more})
    return "shop"


def send(client: httpx.Client, job: int, **wish: Any) -> int:
    answer = client.post(f"/api/jobs/{job}/issues", json={"pack": "shop", **wish})
    assert answer.status_code == 202, answer.text
    return int(answer.json()["id"])


def ended(client: httpx.Client, issue: int) -> dict[str, Any]:
    until = time.monotonic() + PATIENCE
    while time.monotonic() < until:
        found: dict[str, Any] = client.get(f"/api/issues/{issue}").json()
        if found["state"] != "running":
            return found
        assert 0 <= found["share"] <= 1
        time.sleep(0.1)
    raise AssertionError(f"issue {issue} has not ended: {found}")


def answered(client: httpx.Client, issue: int) -> dict[str, Any]:
    """An issue once it has ended; one that asks, since rays find strokes of the press wrong, is issued all the same."""
    found = ended(client, issue)
    if found["state"] == "asking":
        assert "Hidden lines" in found["error"]
        found = client.post(f"/api/issues/{issue}/accept").json()
    return found


def file_of(client: httpx.Client, issue: dict[str, Any], number: int = 0) -> bytes:
    return client.get(f"/api/issues/{issue['id']}/files/{issue['files'][number]['id']}").content


@pytest.fixture(scope="module")
def job(running: Running, plate_step: Path) -> tuple[int, list[str]]:
    """A job of three sheets in different formats."""
    number = new_job(running)
    source = bring_in(running, number, plate_step)
    client = running.client
    rows = (("Cheek", "A3", "top"), ("Bed plate", "A4", "front"), ("Blank", "ANSI-B", "left"))
    return number, [sheet_of(client, number, name, format_, source, view) for name, format_, view in rows]


def test_one_file_in_the_pack_s_order_with_bookmarks_and_a_place_in_the_register(
    running: Running, job: tuple[int, list[str]]
) -> None:
    client, (number, sheets) = running.client, job
    pack(client, number, [sheets[2], sheets[0], sheets[1]], pattern="{pack}_{revision}_{purpose}")
    preview = client.post(f"/api/jobs/{number}/issues/preview", json={"pack": "shop", "revision": "C"}).json()
    assert preview["names"] == ["For_the_shop_C_for_information.pdf"]
    assert preview["problems"] == []
    assert {"sheet": sheets[0], "message": "Cheek has not been proofed."} in preview["notices"]
    found = ended(client, send(client, number, purpose="for manufacture", revision="C", note="cut first"))
    assert (found["state"], found["error"]) == ("done", "")
    assert found["sheets"] == ["Blank", "Cheek", "Bed plate"]
    data = file_of(client, found)
    assert hashlib.sha256(data).hexdigest() == found["files"][0]["hash"]
    assert file_of(client, found) == data
    with pikepdf.open(io.BytesIO(data)) as pdf:
        sizes = [[round(float(v) / 72 * 25.4) for v in page.MediaBox[2:]] for page in pdf.pages]
        assert sizes == [[432, 279], [420, 297], [297, 210]]
        with pdf.open_outline() as outline:
            assert [item.title for item in outline.root] == ["Blank", "Cheek", "Bed plate"]
    # the revision of the issue stands in every title block that has one
    texts = extract_text(io.BytesIO(data)).split("\f")
    assert "C" in texts[1].split()
    report = client.get(f"/api/issues/{found['id']}/files/{found['files'][0]['id']}/report").json()
    assert len(report["pages"]) == 3
    assert all(reading["holds"] for page in report["pages"] for view in page["views"] for reading in view["readings"])
    rows = list(
        csv.DictReader(io.StringIO(client.get("/api/issues/register.csv", params={"text": "cut first"}).text.lstrip("\ufeff")))
    )
    assert len(rows) == 1
    assert (rows[0]["purpose"], rows[0]["revision"], rows[0]["note"]) == ("for manufacture", "C", "cut first")
    assert rows[0]["sha-256"] == found["files"][0]["hash"]
    assert rows[0]["sources"] == found["sources"][0]
    assert client.get("/api/issues", params={"text": "cut first manufacture"}).json()[0]["id"] == found["id"]
    assert client.get("/api/issues", params={"text": "cut last"}).json() == []
    assert client.get("/api/issues", params={"text": "cut first", "purpose": "for review"}).json() == []


def test_one_file_a_sheet_under_names_from_a_pattern(running: Running, job: tuple[int, list[str]]) -> None:
    client, (number, sheets) = running.client, job
    pack(client, number, sheets, files="each", pattern="{number}_{revision}_{title}")
    found = ended(client, send(client, number))
    assert [file["name"] for file in found["files"]] == ["01_A_Cheek.pdf", "02_A_Bed_plate.pdf", "03_A_Blank.pdf"]
    for place in range(3):
        with pikepdf.open(io.BytesIO(file_of(client, found, place))) as pdf:
            assert len(pdf.pages) == 1
    # two sheets under one name are refused before anything is sent
    pack(client, number, sheets, files="each", pattern="{revision}")
    answer = client.post(f"/api/jobs/{number}/issues", json={"pack": "shop"})
    assert answer.status_code == 422
    assert "would both be A.pdf" in answer.json()["detail"]


def test_a_pack_goes_out_in_several_formats_each_measured(running: Running, job: tuple[int, list[str]]) -> None:
    number, sheets = job
    chosen = pack(running.client, number, sheets[:2], pattern="{number}_{sheet}", formats=["PDF", "DXF", "SVG"])
    names = running.client.post(f"/api/jobs/{number}/issues/preview", json={"pack": chosen}).json()["names"]
    issue = answered(running.client, send(running.client, number))
    assert issue["state"] == "done", issue
    made = {file["name"]: file for file in issue["files"]}
    assert list(made) == names
    assert [name.rsplit(".", 1)[1] for name in names] == ["pdf", "dxf", "dxf", "svg", "svg"]
    for place, file in enumerate(issue["files"]):
        answer = running.client.get(f"/api/issues/{issue['id']}/files/{file['id']}")
        assert hashlib.sha256(answer.content).hexdigest() == file["hash"]
        kind = {"pdf": b"%PDF", "dxf": b"SECTION", "svg": b"<svg"}[file["name"].rsplit(".", 1)[1]]
        assert kind in answer.content[:2000], place
        report = running.client.get(f"/api/issues/{issue['id']}/files/{file['id']}/report").json()
        assert report["checks"]
    dxf = ezdxf.read(io.StringIO(file_of(running.client, issue, 1).decode()))
    assert len(dxf.modelspace()) > 10
    # what locks a file is for PDF alone
    locked = running.client.post(f"/api/jobs/{number}/issues", json={"pack": chosen, "open_password": "x"})
    assert locked.status_code == 422
    assert "Only a PDF can be locked" in locked.text
    no_format = {"id": "shop", "name": "For the shop", "sheets": sheets, "formats": []}
    answer = running.client.post(f"/api/jobs/{number}/edits", json={"kind": "keep_pack", "pack": no_format})
    assert "choose one" in answer.text


def test_choices_for_one_sending_leave_the_recipe_as_it_is(running: Running, job: tuple[int, list[str]]) -> None:
    client, (number, sheets) = running.client, job
    pack(client, number, sheets[:2])
    choices = {"colour": "grey", "text": "outlines", "author": "{job} {revision}", "title": "{job} - {title}"}
    found = ended(client, send(client, number, choices=choices))
    data = file_of(client, found)
    assert "Cheek" not in extract_text(io.BytesIO(data))
    with pikepdf.open(io.BytesIO(data)) as pdf:
        assert str(pdf.docinfo["/Author"]).endswith(" A")
        # of a file of several sheets the title is the pack's name
        assert str(pdf.docinfo["/Title"]).endswith(" - For the shop")
    assert client.get("/api/recipes").json()["shipped"][0]["colour"] == "colour"
    answer = client.post(f"/api/jobs/{number}/issues", json={"pack": "shop", "choices": {"picture_dpi": 900}})
    assert "finer than the line work" in answer.json()["detail"]
    answer = client.post(f"/api/jobs/{number}/issues", json={"pack": "shop", "choices": {"wings": 2}})
    assert "no choice of a recipe" in answer.json()["detail"]


def test_a_locked_file_needs_its_password_and_keeps_no_copy_of_it(running: Running, job: tuple[int, list[str]]) -> None:
    client, (number, sheets) = running.client, job
    pack(client, number, sheets[:2])
    found = ended(client, send(client, number, open_password="ink", change_password="roller"))
    data = file_of(client, found)
    with pytest.raises(pikepdf.PasswordError):
        pikepdf.open(io.BytesIO(data))
    with pikepdf.open(io.BytesIO(data), password="ink") as pdf:
        assert len(pdf.pages) == 2
    assert found["files"][0]["holds"]
    with sqlite3.connect(running.data / "skalto.db") as plain:
        assert plain.execute("SELECT secret FROM issue WHERE id = ?", (found["id"],)).fetchone() == ("",)
    # one that was cancelled has no passwords any more, and is not sent without them
    pack(client, number, sheets)
    issue = send(client, number, open_password="ink", note="never mind", choices={"dpi": 700})
    if client.post(f"/api/issues/{issue}/cancel").status_code == 204:
        answer = client.post(f"/api/issues/{issue}/retry")
        assert (answer.status_code, "passwords of this issue were forgotten" in answer.json()["detail"]) == (422, True)
    odd = client.post(f"/api/jobs/{number}/issues", json={"pack": "shop", "open_password": "ink\ue000"})
    assert (odd.status_code, "U+E000" in odd.text) == (422, True)
    answer = client.post(f"/api/jobs/{number}/issues", json={"pack": "shop", "recipe": "archive", "open_password": "x"})
    assert "may not be locked" in answer.json()["detail"]


def test_recipes_are_kept_in_versions_for_all_jobs(running: Running) -> None:
    client = running.client
    plain = client.get("/api/recipes").json()["shipped"][0]
    mine = plain | {"id": "mine", "name": "Bench print", "colour": "black"}
    assert client.put("/api/recipes", json=mine).json()["version"] == 1
    assert client.put("/api/recipes", json=mine).json()["version"] == 1
    assert client.put("/api/recipes", json=mine | {"dpi": 1200}).json()["version"] == 2
    assert [r["dpi"] for r in client.get("/api/recipes/mine/versions").json()] == [1200, 600]
    assert [r["version"] for r in client.get("/api/recipes").json()["kept"] if r["id"] == "mine"] == [2]
    answer = client.put("/api/recipes", json=plain | {"colour": "grey"})
    assert "stays as it is" in answer.json()["detail"]
    answer = client.put("/api/recipes", json=mine | {"id": "other"})
    assert "already" in answer.json()["detail"]
    data = client.get("/api/recipes/mine/file.json").content
    read = client.post("/api/recipes/read", content=data).json()
    assert (read["name"], read["colour"], read["version"]) == ("Bench print 2", "black", 1)
    assert client.delete("/api/recipes/mine").status_code == 204
    assert all(r["id"] != "mine" for r in client.get("/api/recipes").json()["kept"])
    assert len(client.get("/api/recipes/mine/versions").json()) == 2


def test_what_stands_against_a_sending_is_told_before(running: Running, job: tuple[int, list[str]]) -> None:
    client, (number, sheets) = running.client, job
    edit(client, number, kind="add_sheet", sheet={"id": "empty", "name": "Empty"})
    pack(client, number, ["empty"])
    found = client.post(f"/api/jobs/{number}/issues/preview", json={"pack": "shop"}).json()
    assert found["problems"] == ["Empty is empty: put a view or a 3D annotation on it, or remove it from the pack."]
    assert client.post(f"/api/jobs/{number}/issues", json={"pack": "shop"}).status_code == 422
    pack(client, number, [])
    found = client.post(f"/api/jobs/{number}/issues/preview", json={"pack": "shop"}).json()
    assert found["problems"] == ["For the shop has no sheet: add one."]
    # sheets that are not as the recipe has them are named one by one
    pack(client, number, sheets)
    mine = client.get("/api/recipes").json()["shipped"][0] | {"id": "a4", "name": "A4 only", "format": "A4"}
    client.put("/api/recipes", json=mine)
    found = client.post(f"/api/jobs/{number}/issues/preview", json={"pack": "shop", "recipe": "a4"}).json()
    assert {"sheet": sheets[0], "message": "Cheek is A3, the recipe is for A4."} in found["notices"]
    assert not any(told["message"].startswith("Bed plate is") for told in found["notices"])
    edit(client, number, kind="remove_sheet", sheet="empty")


def test_an_issue_called_off_can_be_tried_again(running: Running, press_step: Path) -> None:
    client = running.client
    number = new_job(running)
    source = bring_in(running, number, press_step)
    sheet = sheet_of(client, number, "Press", "A2", source, "front")
    pack(client, number, [sheet])
    issue = send(client, number)
    assert client.post(f"/api/issues/{issue}/cancel").status_code == 204
    assert ended(client, issue)["state"] == "cancelled"
    assert client.post(f"/api/issues/{issue}/cancel").status_code == 422
    assert client.post(f"/api/issues/{issue}/retry").status_code == 202
    found = answered(client, issue)
    assert found["state"] == "done", found
    # a second sending of the same, with nothing changed, has nothing left to draw
    began = time.monotonic()
    again = answered(client, send(client, number))
    assert file_of(client, again) == file_of(client, found)
    assert time.monotonic() - began < 10


@pytest.mark.long
def test_one_called_off_neither_stops_the_other_nor_the_next(running: Running, press_step: Path) -> None:
    """Two issues of the same sheet wait for the same lines: calling one off leaves them to the other."""
    client = running.client
    number = new_job(running)
    # not the bytes of another test, whose lines are there
    changed = press_step.parent / "Ebba again.step"
    changed.write_bytes(press_step.read_bytes() + b"\n\n")
    sheet = sheet_of(client, number, "Press", "A2", bring_in(running, number, changed), "front")
    pack(client, number, [sheet])
    first, second = send(client, number, note="one"), send(client, number, note="two")
    assert client.post(f"/api/issues/{first}/cancel").status_code == 204
    assert answered(client, second)["state"] == "done"
    assert ended(client, first)["state"] == "cancelled"
    # and one that is sent anew after a calling off is sent
    edit(client, number, kind="change_sheet", sheet=sheet, fields={"name": "Press once more"})
    third = send(client, number)
    assert client.post(f"/api/issues/{third}/cancel").status_code == 204
    assert answered(client, send(client, number))["state"] == "done"
