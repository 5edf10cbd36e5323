"""Pens over the web: what rules draw on a sheet, which one drew a stroke, pen sets as files, and the file that comes of it."""

from __future__ import annotations

from typing import Any

import pypdfium2 as pdfium
import pytest

from skalto.core.checks.vectors import read_page
from skalto.demo.solids import block, cylinder
from tests.api.test_api import bring_in, new_job, wait_for
from tests.api.test_issues import edit, sheet_of
from tests.conftest import Running
from tests.core.modelled import write_assembly


@pytest.fixture(scope="module")
def stand(running: Running, tmp_path_factory: pytest.TempPathFactory) -> tuple[int, str]:
    """A base with a post on it, seen from the front: the job and the sheet."""
    parts = {"Base": block(80, 60, 10), "Post": cylinder(20, 50, (0, 0, 10))}
    path = write_assembly(parts, tmp_path_factory.mktemp("stand") / "stand.step")
    job = new_job(running)
    return job, sheet_of(running.client, job, "Stand", "A4", bring_in(running, job, path), "front")


def pens_of(running: Running, job: int, sheet: str) -> dict[str, Any]:
    def there() -> dict[str, Any] | None:
        found: dict[str, Any] = running.client.get(f"/api/jobs/{job}/sheets/{sheet}/pens").json()
        view = running.client.get(f"/api/jobs/{job}").json()["document"]["sheets"][0]["views"][0]["id"]
        running.client.get(f"/api/jobs/{job}/sheets/{sheet}/views/{view}/picture")
        return found if not found["pending"] else None

    return wait_for(there)  # type: ignore[no-any-return]


def test_a_rule_for_a_component_draws_it_on_the_desk_and_in_the_file(running: Running, stand: tuple[int, str]) -> None:
    client, (job, sheet) = running.client, stand
    before = pens_of(running, job, sheet)
    assert before["pens"]["id"] == "shop-1"
    rules = [{"name": "The post", "component": "Post*", "width": 1.4, "ink": "#b3261e"}, *before["pens"]["rules"]]
    edit(client, job, kind="keep_pens", pens={"id": "own", "name": "Post in red", "rules": rules})
    edit(client, job, kind="change_sheet", sheet=sheet, fields={"pens": "own"})
    found = pens_of(running, job, sheet)
    # what the new rule draws, the rule beneath it no longer does
    assert found["rules"][0] > 0
    assert found["rules"][1] == before["rules"][0] - found["rules"][0] > 0
    view = client.get(f"/api/jobs/{job}").json()["document"]["sheets"][0]["views"][0]["id"]
    picture = wait_for(lambda: client.get(f"/api/jobs/{job}/sheets/{sheet}/views/{view}/picture").json()["picture"])
    pens = [path["pen"] for path in picture["paths"]]
    assert {(p["width"], p["colour"]) for p in pens if p["rule"] == 0} == {(1.4, "#b3261e")}
    assert {(p["width"], p["colour"]) for p in pens if p["rule"] == 1} == {(0.5, "#000000")}
    # the file has it too, and the stroke under a point tells its rule
    client.post(f"/api/jobs/{job}/sheets/{sheet}/proof").raise_for_status()
    wait_for(lambda: client.get(f"/api/jobs/{job}/sheets/{sheet}/proof").json()["ready"])
    document = pdfium.PdfDocument(client.get(f"/api/jobs/{job}/sheets/{sheet}/proof.pdf").content)
    paths = read_page(document, 0).paths
    wide = paths.rows(abs(paths.width - 1.4) < 1e-3)
    low, high = wide.bounds()
    # the post alone: 20 wide and 50 high
    assert (high - low).tolist() == pytest.approx([20, 50], abs=1e-3)
    del paths, wide
    document.close()
    spot = {"x": float(low[0]), "y": float(low[1] + high[1]) / 2, "reach": 1.0}
    stroke = client.post(f"/api/jobs/{job}/sheets/{sheet}/pens/at", json=spot).json()
    assert (stroke["rule"], stroke["width"], stroke["component"].split("/")[-1]) == (0, 1.4, "Post")
    assert client.post(f"/api/jobs/{job}/sheets/{sheet}/pens/at", json={"x": 1, "y": 1}).json() is None


def test_pen_sets_go_out_and_come_in_as_files(running: Running, stand: tuple[int, str]) -> None:
    client, (job, _) = running.client, stand
    data = client.get(f"/api/jobs/{job}/pens/review/file.json").content
    read = client.post(f"/api/jobs/{job}/pens/read", content=data).json()
    assert read["name"] == "Review in colour"
    assert read["id"] != "review"
    answer = client.post(f"/api/jobs/{job}/pens/read", content=b"{}")
    assert (answer.status_code, "not a pen set" in answer.json()["detail"]) == (422, True)
    answer = client.post(f"/api/jobs/{job}/edits", json={"kind": "keep_pens", "pens": read | {"id": "review"}})
    assert "ships and stays as it is" in answer.json()["detail"]
    facts = client.get("/api/pens").json()
    assert facts["widths"] == [0.13, 0.18, 0.25, 0.35, 0.5, 0.7, 1, 1.4, 2]
    assert len(facts["line_types"]) == 15


def test_a_set_that_is_taken_away_leaves_its_sheets_to_the_first_that_ships(running: Running, stand: tuple[int, str]) -> None:
    client, (job, _) = running.client, stand
    edit(client, job, kind="remove_pens", pens="own")
    assert client.get(f"/api/jobs/{job}").json()["document"]["sheets"][0]["pens"] == "shop-1"
    client.post(f"/api/jobs/{job}/undo").raise_for_status()
    assert client.get(f"/api/jobs/{job}").json()["document"]["sheets"][0]["pens"] == "own"
