"""The register of drawings: what it says of sheets, how they are found, proofs and issues of many, tables."""

from __future__ import annotations

import csv
import io
import zipfile
from pathlib import Path
from typing import Any

import openpyxl
import pikepdf
import pytest
from pdfminer.high_level import extract_text

from skalto.core.release.drawings import COLUMNS
from skalto.store.blobs import content_hash
from tests.api.test_api import bring_in, new_job, wait_for
from tests.api.test_cutting import refused
from tests.api.test_issues import answered, edit, ended, file_of, pack, send, sheet_of
from tests.conftest import Running

AT = "/api/drawing-register"
WORDS = "drawn for the register"
"""What the sheets of these jobs have in their titles: other tests' jobs are on the same server."""


@pytest.fixture(scope="module")
def two_jobs(running: Running, plate_step: Path) -> tuple[int, int]:
    """A job with two sheets, one of them empty, and another with one sheet that says what it is."""
    client, made = running.client, []
    for name in ("Rail seat", "Bench leg"):
        job = new_job(running, name)
        sheet = sheet_of(client, job, "Top", "A4", bring_in(running, job, plate_step), "top")
        edit(client, job, kind="set_title", sheet=sheet, fields={"title": f"{name} {WORDS}", "revision": "A"})
        made.append(job)
    edit(client, made[0], kind="add_sheet", sheet={"id": "blank", "name": "Blank", "title": {"title": f"Nothing {WORDS}"}})
    return made[0], made[1]


def looked_for(running: Running, **wanted: Any) -> list[dict[str, Any]]:
    found = running.client.get(AT, params={"text": WORDS, **wanted}).json()
    assert found["count"] == len(found["rows"])
    rows: list[dict[str, Any]] = found["rows"]
    return rows


def one(running: Running, job: int, sheet: str = "top") -> dict[str, Any]:
    return next(row for row in looked_for(running, job=job) if row["sheet"] == sheet)


def test_sheets_of_all_jobs_are_found_and_sorted(running: Running, two_jobs: tuple[int, int]) -> None:
    first, second = two_jobs
    rows = looked_for(running)
    assert [(row["job"], row["sheet"]) for row in rows] == [(first, "top"), (first, "blank"), (second, "top")]
    assert rows[2]["about"] | {"number": ""} == {
        "name": "Top", "mark": "", "number": "", "title": f"Bench leg {WORDS}", "revision": "A", "format": "A4",
        "scale": "1:1", "empty": False,
    }  # fmt: skip
    assert rows[1]["about"]["empty"]
    assert [row["about"]["title"][:5] for row in looked_for(running, by="title")] == ["Bench", "Nothi", "Rail "]
    assert [row["about"]["title"][:5] for row in looked_for(running, by="title", down=True)] == ["Rail ", "Nothi", "Bench"]
    assert [row["sheet"] for row in looked_for(running, text=f"{WORDS} LEG")] == ["top"]
    assert looked_for(running, text=f"{WORDS} nowhere") == []
    page = running.client.get(AT, params={"text": WORDS, "begin": 1, "count": 1}).json()
    assert (page["count"], [row["sheet"] for row in page["rows"]]) == (3, ["blank"])
    number = rows[2]["job_number"]
    keys = running.client.get(f"{AT}/keys", params={"text": WORDS, "job": second}).json()
    assert keys == [{"job": second, "sheet": "top", "called": f"{number} Top"}]
    assert running.client.get(AT, params={"by": "colour"}).status_code == 422


def test_proofs_issues_states_and_what_has_changed_since(running: Running, two_jobs: tuple[int, int]) -> None:
    client, (job, other) = running.client, two_jobs
    assert {row["sheet"] for row in looked_for(running, standing="never proofed")} == {"top", "blank"}
    refused(client.post(f"{AT}/proofs", json={"drawings": [{"job": job, "sheet": "blank"}]}), "None of these sheets shows")
    both: list[dict[str, Any]] = [{"job": job, "sheet": "top"}, {"job": other, "sheet": "top"}]
    asked = [*both, {"job": job, "sheet": "blank"}]
    told = ["Blank: empty, without a proof."]
    assert client.post(f"{AT}/proofs", json={"drawings": asked}).json() == {"left": 2, "failed": told}
    wait_for(lambda: client.get(f"{AT}/proofs").json()["left"] == 0, 120)
    assert client.get(f"{AT}/proofs").json()["failed"] == told
    for own in both:
        assert client.get(f"/api/jobs/{own['job']}/sheets/top/proof").json()["ready"]
        assert one(running, own["job"])["changed_since_proof"] is False
    # all jobs' chosen sheets go out, an issue for each job
    wish = {"purpose": "for approval", "note": "from the register"}
    refused(client.post(f"{AT}/issues", json={"drawings": [*both, {"job": job, "sheet": "blank"}], "wish": wish}), "is empty")
    begun = client.post(f"{AT}/issues", json={"drawings": both, "wish": wish}).json()["issues"]
    assert len(begun) == 2
    sent = [ended(client, issue) for issue in begun]
    assert {issue["job"] for issue in sent} == {job, other}
    assert [issue["state"] for issue in sent] == ["done", "done"]
    row = one(running, job)
    assert (row["issue"], row["purpose"], row["changed_since_issue"]) == (begun[0], "for approval", False)
    # a change shows; taking it back shows, too
    edit(client, job, kind="set_title", sheet="top", fields={"supplementary": "again"})
    row = one(running, job)
    assert (row["changed_since_proof"], row["changed_since_issue"]) == (True, True)
    assert [row["job"] for row in looked_for(running, standing="changed since issue")] == [job]
    client.post(f"/api/jobs/{job}/undo").raise_for_status()
    assert one(running, job)["changed_since_issue"] is False
    # the last state of a sheet is its state
    for state in ("in review", "released"):
        client.post(f"/api/jobs/{other}/states", json={"subjects": ["sheet:top"], "state": state}).raise_for_status()
    assert one(running, other)["state"] == "released"
    assert [row["job"] for row in looked_for(running, state="released")] == [other]


def test_what_is_not_there_is_told(running: Running, two_jobs: tuple[int, int]) -> None:
    client = running.client
    gone: list[dict[str, Any]] = [{"job": two_jobs[0], "sheet": "nowhere"}]
    asked: list[tuple[str, dict[str, Any]]] = [("proofs", {}), ("issues", {"wish": {}})]
    for address, more in asked:
        for drawings in (gone, [{"job": 99_999, "sheet": "top"}]):
            assert client.post(f"{AT}/{address}", json={"drawings": drawings, **more}).status_code == 404
        assert client.post(f"{AT}/{address}", json={"drawings": [], **more}).status_code == 422


def test_a_job_that_goes_while_its_proofs_are_made_keeps_nobody_waiting(running: Running, plate_step: Path) -> None:
    client, made = running.client, []
    for name in ("Stays", "Goes"):
        job = new_job(running, name)
        sheet_of(client, job, "Top", "A4", bring_in(running, job, plate_step), "top")
        edit(client, job, kind="set_title", sheet="top", fields={"title": name})
        made.append(job)
    client.post(f"{AT}/proofs", json={"drawings": [{"job": job, "sheet": "top"} for job in reversed(made)]})
    client.delete(f"/api/jobs/{made[1]}").raise_for_status()
    wait_for(lambda: client.get(f"{AT}/proofs").json()["left"] == 0, 120)
    assert client.get(f"/api/jobs/{made[0]}/sheets/top/proof").json()["ready"]
    found = client.get(AT, params={"text": "top"}).json()["rows"]
    assert made[1] not in {row["job"] for row in found}


def test_tables_out_are_what_other_readers_read(running: Running, two_jobs: tuple[int, int]) -> None:
    client = running.client
    edit(client, two_jobs[0], kind="set_title", sheet="top", fields={"number": "=1+1"})
    rows = looked_for(running, by="title")
    told = client.get(f"{AT}.csv", params={"text": WORDS, "by": "title"})
    table = list(csv.DictReader(io.StringIO(told.text)))
    assert tuple(table[0]) == COLUMNS
    assert [row["title"] for row in table] == [row["about"]["title"] for row in rows]
    assert "'=1+1" in [row["number"] for row in table]
    book = openpyxl.load_workbook(io.BytesIO(client.get(f"{AT}.xlsx", params={"text": WORDS, "by": "title"}).content))
    heading, *cells = book["Drawings"].iter_rows(values_only=True)
    assert heading == COLUMNS
    assert [line[COLUMNS.index("title")] for line in cells] == [row["title"] for row in table]
    # what looks like a formula is a text
    formula = next(cell for line in book["Drawings"].iter_rows() for cell in line if cell.value == "=1+1")
    assert formula.data_type != "f"
    client.post(f"/api/jobs/{two_jobs[0]}/undo").raise_for_status()


def test_a_cover_sheet_lists_the_drawings_of_its_pack(running: Running, two_jobs: tuple[int, int]) -> None:
    client, (job, _) = running.client, two_jobs
    edit(client, job, kind="add_sheet", sheet={"id": "cover", "name": "Cover", "format": "A4"})
    pack(client, job, ["cover", "top"])
    edit(client, job, kind="change_sheet", sheet="cover", fields={"drawings_table": {"pack": "shop"}})
    issue = answered(client, send(client, job))
    assert issue["state"] == "done", issue["error"]
    with pikepdf.open(io.BytesIO(file_of(client, issue))) as pdf:
        assert len(pdf.pages) == 2
    words = extract_text(io.BytesIO(file_of(client, issue)), page_numbers=[0])
    assert "Drawing number" in words
    assert f"Rail seat {WORDS}"[:24] in words
    # all but itself where no pack is named; a pack that goes takes its table along
    edit(client, job, kind="remove_pack", pack="shop")
    document = client.get(f"/api/jobs/{job}").json()["document"]
    assert next(own for own in document["sheets"] if own["id"] == "cover")["drawings_table"] is None
    fields = {"drawings_table": {"pack": "nowhere"}}
    refused(client.post(f"/api/jobs/{job}/edits", json={"kind": "change_sheet", "sheet": "cover", "fields": fields}), "pack")


def test_an_issue_comes_as_one_archive(running: Running, two_jobs: tuple[int, int]) -> None:
    client, (_, job) = running.client, two_jobs
    pack(client, job, ["top"], formats=["PDF", "SVG"])
    issue = answered(client, send(client, job))
    answer = client.get(f"/api/issues/{issue['id']}/files.zip")
    assert ".zip" in answer.headers["Content-Disposition"]
    with zipfile.ZipFile(io.BytesIO(answer.content)) as archive:
        assert archive.testzip() is None
        assert {name: content_hash(archive.read(name)) for name in archive.namelist()} == {
            file["name"]: file["hash"] for file in issue["files"]
        }
    assert len(issue["files"]) == 2
