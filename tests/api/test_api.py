"""The web service with its workers, as a page uses it."""

from __future__ import annotations

import io
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pikepdf
import pytest
from PIL import Image

from tests.conftest import Running
from tests.core.sources.bad_models import BAD


def wait_for(ask: Callable[[], Any], seconds: float = 60) -> Any:
    """Ask until there is an answer."""
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        found = ask()
        if found:
            return found
        time.sleep(0.1)
    raise AssertionError("it never came")


def new_job(running: Running, name: str = "Plates") -> int:
    answer = running.client.post("/api/jobs", json={"name": name})
    assert answer.status_code == 201
    return int(answer.json()["id"])


def bring_in(running: Running, job: int, path: Path) -> str:
    """Bring a file in and wait until it is a source; its id."""
    before = {s["id"] for s in running.client.get(f"/api/jobs/{job}").json()["document"]["sources"]}
    answer = running.client.post(f"/api/jobs/{job}/incoming", params={"name": path.name}, content=path.read_bytes())
    assert answer.status_code == 202, answer.text

    def arrived() -> str | None:
        sources = running.client.get(f"/api/jobs/{job}").json()["document"]["sources"]
        new = [s["id"] for s in sources if s["id"] not in before]
        return new[0] if new else None

    return str(wait_for(arrived))


def put_on(running: Running, job: int, source: str, name: str = "top", sheet: str | None = None) -> dict[str, Any]:
    look = {"top": [0, 0, -1], "front": [0, 1, 0]}[name]
    up = {"top": [0, 1, 0], "front": [0, 0, 1]}[name]
    wish = {"source": source, "name": name, "look": look, "up": up, "sheet": sheet}
    answer = running.client.post(f"/api/jobs/{job}/views", json=wish)
    assert answer.status_code == 201, answer.text
    placed: dict[str, Any] = answer.json()
    return placed


def edit(running: Running, job: int, **fields: Any) -> dict[str, Any]:
    answer = running.client.post(f"/api/jobs/{job}/edits", json=fields)
    assert answer.status_code == 200, answer.text
    changed: dict[str, Any] = answer.json()
    return changed


@pytest.fixture(scope="module")
def plate_job(running: Running, plate_step: Path) -> tuple[int, str]:
    job = new_job(running)
    return job, bring_in(running, job, plate_step)


def test_a_source_has_its_tree_and_scene(running: Running, plate_job: tuple[int, str]) -> None:
    tree = running.client.get(f"/api/sources/{plate_job[1]}/tree").json()
    assert tree["size"] == pytest.approx([120, 80, 10])
    scene = running.client.get(f"/api/sources/{plate_job[1]}/scene.glb")
    assert scene.content[:4] == b"glTF"


def test_from_view_to_measured_file(running: Running, plate_job: tuple[int, str]) -> None:
    job, source = plate_job
    placed = put_on(running, job, source)
    view = placed["job"]["document"]["sheets"][-1]["views"][0]
    assert view["scale"] == "1:1"  # it fits at 1:1, so 1:1 it is
    address = f"/api/jobs/{job}/sheets/{placed['sheet']}/views/{placed['view']}/picture"
    picture = wait_for(lambda: running.client.get(address).json()["picture"])
    visible = next(p for p in picture["paths"] if p["edge_class"] == "visible")
    assert visible["box"] == pytest.approx([-60, -40, 60, 40])
    assert visible["strokes"] == 7

    edit(
        running,
        job,
        kind="change_view",
        sheet=placed["sheet"],
        view=placed["view"],
        fields={"scale": "3:2", "place": [150, 120]},
    )
    proof = f"/api/jobs/{job}/sheets/{placed['sheet']}/proof"
    assert running.client.get(f"{proof}.pdf").status_code == 422
    running.client.post(proof)
    report = wait_for(lambda: running.client.get(proof).json()["report"])
    assert {r["expected_mm"] for r in report["pages"][0]["views"][0]["readings"]} == {180, 120, 45}
    assert running.client.get(proof).json()["holds"] is True
    file = running.client.get(f"{proof}.pdf")
    assert file.headers["content-type"] == "application/pdf"
    with pikepdf.open(io.BytesIO(file.content)) as pdf:
        assert str(pdf.pages[0].VP[0].Measure.R) == "3:2"
        box = [float(v) * 25.4 / 72 for v in pdf.pages[0].VP[0].BBox]
        assert box == pytest.approx([60, 60, 240, 180], abs=1e-3)
    # for the screen, in tiles; of this proof alone
    key = running.client.get(proof).json()["key"]
    tile = running.client.get(f"{proof}/tiles/1/1/0.png", params={"key": key})
    assert tile.status_code == 200, tile.text
    assert Image.open(io.BytesIO(tile.content)).size[0] == 1024
    assert "immutable" in tile.headers["cache-control"]
    assert running.client.get(f"{proof}/tiles/1/1/0.png", params={"key": "proofs/other"}).status_code == 404
    assert running.client.get(f"{proof}/tiles/1/2/0.png", params={"key": key}).status_code == 422
    assert running.client.get(f"{proof}/tiles/8/0/0.png", params={"key": key}).status_code == 422
    # a change makes the proof stale; taking it back finds the old file again
    edit(running, job, kind="change_sheet", sheet=placed["sheet"], fields={"frame": "none"})
    assert running.client.get(proof).json()["ready"] is False
    running.client.post(f"/api/jobs/{job}/undo")
    assert running.client.get(proof).json()["ready"] is True
    assert running.client.get(f"{proof}.pdf").content == file.content


def test_a_second_view_finds_its_own_place(running: Running, plate_job: tuple[int, str]) -> None:
    job, source = plate_job
    first = put_on(running, job, source)
    second = put_on(running, job, source, "front", first["sheet"])
    views = next(s for s in second["job"]["document"]["sheets"] if s["id"] == first["sheet"])["views"]
    (x0, y0), (x1, y1) = (v["place"] for v in views)
    assert abs(x1 - x0) >= 120 or abs(y1 - y0) >= 45


def test_a_view_that_looks_another_way_stays_where_it_is(running: Running, plate_job: tuple[int, str]) -> None:
    job, source = plate_job
    placed = put_on(running, job, source)
    views = f"/api/jobs/{job}/sheets/{placed['sheet']}/views/{placed['view']}/picture"
    fields = {"name": "front", "look": [0, 1, 0], "up": [0, 0, 1]}
    changed = edit(running, job, kind="change_view", sheet=placed["sheet"], view=placed["view"], fields=fields)
    view = next(s for s in changed["document"]["sheets"] if s["id"] == placed["sheet"])["views"][0]
    assert view["anchor"] == pytest.approx([0, 5])  # the middle of a plate from z = 0 to 10
    boxes = wait_for(lambda: running.client.get(views).json()["picture"])["paths"]
    assert next(p for p in boxes if p["edge_class"] == "visible")["box"] == pytest.approx([-60, 0, 60, 10])


@pytest.mark.long
def test_a_view_can_be_called_off_and_drawn_after_all(running: Running, press_step: Path) -> None:
    job = new_job(running)
    placed = put_on(running, job, bring_in(running, job, press_step), "front")
    address = f"/api/jobs/{job}/sheets/{placed['sheet']}/views/{placed['view']}/picture"
    key = running.client.get(address).json()["key"]
    running.client.delete(f"/api/work/{key}")
    wait_for(lambda: running.client.get(address).json()["work"]["state"] == "cancelled")
    assert running.client.get(address).json()["work"]["state"] == "cancelled"  # it stays so until asked for
    running.client.get(address, params={"again": True})
    assert wait_for(lambda: running.client.get(address).json()["picture"])["paths"]


def test_undo_and_redo_of_each_change(running: Running) -> None:
    job = new_job(running, "First name")
    assert running.client.post(f"/api/jobs/{job}/undo").json()["detail"] == "There is nothing to undo."
    edit(running, job, kind="rename_job", name="Second name")
    undone = running.client.post(f"/api/jobs/{job}/undo").json()
    assert (undone["document"]["name"], undone["redo"]) == ("First name", "rename job")
    assert running.client.post(f"/api/jobs/{job}/redo").json()["document"]["name"] == "Second name"
    same = edit(running, job, kind="rename_job", name="Second name")
    assert same["step"] == 1  # nothing changed, so nothing to undo


@pytest.mark.parametrize("kind", BAD)
def test_a_bad_file_gets_its_sentence_and_leaves_the_job_alone(
    kind: str, running: Running, plate_step: Path, tmp_path: Path
) -> None:
    make, words = BAD[kind]
    path = make(tmp_path, plate_step)
    job = new_job(running, kind)
    answer = running.client.post(f"/api/jobs/{job}/incoming", params={"name": path.name}, content=path.read_bytes())
    if answer.status_code == 422:
        told = answer.json()["detail"]
    else:
        rows = wait_for(lambda: [r for r in running.client.get(f"/api/jobs/{job}/incoming").json() if r["state"] == "failed"])
        told = rows[0]["error"]
        running.client.delete(f"/api/jobs/{job}/incoming/{rows[0]['id']}")
        assert running.client.get(f"/api/jobs/{job}/incoming").json() == []
    assert any(word in told for word in words.split("|"))
    assert running.client.get(f"/api/jobs/{job}").json()["document"]["sources"] == []


def test_a_file_over_the_limit_is_refused(running: Running) -> None:
    job = new_job(running)
    answer = running.client.post(f"/api/jobs/{job}/incoming", params={"name": "large.stl"}, content=b"\0" * 21_000_000)
    assert answer.status_code == 413
    assert "over the limit of 20 MB" in answer.json()["detail"]


def test_reading_can_be_called_off(running: Running, press_step: Path) -> None:
    job = new_job(running)
    data = press_step.read_bytes() + b"\n"  # not the bytes that another test brought in
    row = running.client.post(f"/api/jobs/{job}/incoming", params={"name": "Ebba.step"}, content=data).json()
    running.client.delete(f"/api/jobs/{job}/incoming/{row['id']}")
    wait_for(lambda: running.client.get(f"/api/jobs/{job}/incoming").json() == [])
    assert running.client.get(f"/api/jobs/{job}").json()["document"]["sources"] == []


def test_typed_values_are_read_by_the_server(running: Running) -> None:
    read = lambda what, text: running.client.post(f"/api/read/{what}", json={"text": text})  # noqa: E731
    assert read("scale", '1/4"=1\'-0"').json() == {"scale": "1:48", "value": 1 / 48, "preferred": False}
    assert read("format", "11x17in").json()["width"] == pytest.approx(279.4)
    assert read("length", "1in").json()["mm"] == pytest.approx(25.4)
    assert read("scale", "one to two").json()["detail"].startswith("“one to two” is not a scale")


def test_what_is_not_there_is_told(running: Running) -> None:
    assert "no such job" in running.client.get("/api/jobs/99999").json()["detail"]
    assert running.client.get("/api/sources/nothing/tree").status_code == 404
    job = new_job(running)
    answer = running.client.post(f"/api/jobs/{job}/edits", json={"kind": "paint_it"})
    assert answer.status_code == 422
    assert isinstance(answer.json()["detail"], str)


def _processes() -> dict[int, int]:
    """Living processes, and the parent of each."""
    listing = subprocess.run(["ps", "-eo", "pid=,ppid=,stat="], capture_output=True, text=True, check=True).stdout
    rows = [line.split() for line in listing.splitlines()]
    return {int(pid): int(parent) for pid, parent, state in rows if not state.startswith("Z")}


def _beneath(root: int) -> set[int]:
    parents = _processes()
    found = {root}
    while more := {pid for pid, parent in parents.items() if parent in found} - found:
        found |= more
    return found


@pytest.mark.long
def test_interrupting_ends_all_that_was_started(tmp_path: Path, plate_step: Path) -> None:
    first = Running(tmp_path)
    bring_in(first, new_job(first), plate_step)
    started = _beneath(first.process.pid)
    assert len(started) >= 3  # web, workers, and the process that did the reading
    assert first.interrupt() == 0
    wait_for(lambda: not started & set(_processes()), 15)


def test_a_taken_port_is_told(running: Running, tmp_path: Path) -> None:
    command = [str(Path(sys.executable).parent / "skalto"), "serve", "--data", str(tmp_path), "--port", str(running.port)]
    run = subprocess.run(command, capture_output=True, text=True, timeout=60, check=False)
    assert run.returncode == 2
    assert f"Port {running.port} is taken" in run.stderr


@pytest.mark.long
def test_a_server_that_is_ended_leaves_no_temporary_folder(tmp_path: Path) -> None:
    # the name of a test's own folder is too long for a socket
    with tempfile.TemporaryDirectory() as temporary:
        started = Running(tmp_path, SKALTO_WORKERS="1", TMPDIR=temporary)
        try:
            wait_for(lambda: list(Path(temporary).glob("skalto-work-*")) != [], 60)
        finally:
            assert started.interrupt() == 0
        assert list(Path(temporary).glob("skalto-work-*")) == []


def test_several_edits_are_one_step_to_undo(running: Running) -> None:
    job = new_job(running, "Before")
    sheets = [{"kind": "add_sheet", "sheet": {"id": name, "name": name}} for name in ("a", "b")]
    made = edit(running, job, kind="together", edits=[{"kind": "rename_job", "name": "After"}, *sheets])
    assert (made["document"]["name"], len(made["document"]["sheets"])) == ("After", 2)
    assert made["undo"] == "rename job and 2 more"
    back = running.client.post(f"/api/jobs/{job}/undo", params={"step": made["step"]}).json()
    assert (back["document"]["name"], back["document"]["sheets"]) == ("Before", [])
