"""The page's files as they are handed out, and the demo made while the server answers."""

from __future__ import annotations

import gzip
import re
import time
from pathlib import Path
from typing import Any

import httpx
import pytest

from skalto.settings import Settings
from tests.conftest import Running


def wait(ask: Any, seconds: float = 120) -> Any:
    end = time.monotonic() + seconds
    while not (found := ask()) and time.monotonic() < end:
        time.sleep(0.1)
    return found


def _scripts(running: Running) -> list[str]:
    """What the page's first file asks for."""
    page = httpx.get(f"{running.address}/").text
    return re.findall(r'(?:src|href)="(/assets/[^"]+\.(?:js|css))"', page)


def test_scripts_and_styles_come_packed_to_who_takes_that(running: Running) -> None:
    found = _scripts(running)
    assert {Path(name).suffix for name in found} == {".js", ".css"}
    for name in found:
        with httpx.Client(base_url=running.address) as client:
            packed = client.get(name, headers={"Accept-Encoding": "gzip, br"})
            plain = client.get(name, headers={"Accept-Encoding": "identity"})
        assert packed.headers["content-encoding"] == "gzip"
        assert "content-encoding" not in plain.headers
        assert packed.headers["vary"] == plain.headers["vary"] == "Accept-Encoding"
        assert "immutable" in packed.headers["cache-control"]
        assert packed.headers["content-type"] == plain.headers["content-type"]
        # httpx unpacks
        assert packed.content == plain.content
        assert int(packed.headers["content-length"]) < 0.5 * int(plain.headers["content-length"])


def test_the_packed_twin_is_no_file_of_the_page(running: Running) -> None:
    """Asked for by its own name it is what it is: bytes, unpacked by nobody."""
    name = _scripts(running)[0]
    twin = httpx.get(f"{running.address}{name}.gz")
    assert "content-encoding" not in twin.headers
    assert gzip.decompress(twin.content) == httpx.get(f"{running.address}{name}").content


@pytest.mark.parametrize("path", ["/assets/none.js", "/assets/../index.html", "/assets/%2e%2e/index.html", "/assets/"])
def test_what_is_not_there_is_said_not_to_be(path: str, running: Running) -> None:
    answer = httpx.get(f"{running.address}{path}", headers={"Accept-Encoding": "gzip"})
    # an address outside of the folder is the page's own, never a file beside it
    assert answer.status_code == 404 or answer.text.startswith("<!doctype html>")


def _plates_go_out(client: httpx.Client, job: int) -> None:
    """The press's flat parts and its nameplates, on plates of three thicknesses, as PDF and DXF: all pieces within 20 µm."""

    def placed() -> list[int]:
        sheets = client.get(f"/api/jobs/{job}").json()["document"]["sheets"]
        return [len(sheet["cutting"]["placed"]) for sheet in sheets]

    assert wait(lambda: placed() == [2, 1, 4]), placed()
    issue = client.post(f"/api/jobs/{job}/issues", json={"pack": "plates"}).json()["id"]
    assert wait(lambda: client.get(f"/api/issues/{issue}").json()["state"] != "running")
    done = client.get(f"/api/issues/{issue}").json()
    assert (done["state"], done["error"]) == ("done", "")
    assert [file["name"].rsplit(".", 1)[1] for file in done["files"]] == ["pdf"] * 3 + ["dxf"] * 3
    for file in done["files"]:
        checks = client.get(f"/api/issues/{issue}/files/{file['id']}/report").json()["checks"]
        own = {check["code"]: check for check in checks if check["code"].startswith("cut-")}
        assert own["cut-pieces"]["verdict"] == "holds"
        if "Nameplates" in file["name"]:
            assert "mm² engraved" in own["cut-marks"]["reading"]
            assert own["cut-marks"]["verdict"] == "holds"


@pytest.mark.long
def test_the_demo_is_made_while_the_server_is_used(tmp_path: Path) -> None:
    # ended while the workers are at it, it ends, and is made anew at the next start
    running = Running(tmp_path / "data", "--demo")
    assert running.process.stdout is not None
    assert running.process.stdout.readline().startswith("Making the demo jobs")
    time.sleep(1)
    assert running.interrupt() == 0
    running = Running(tmp_path / "data", "--demo")
    try:
        with httpx.Client(base_url=running.address, timeout=30) as client:
            assert "Making the demo" not in running.said
            assert client.get("/api/preparing").json() == {"text": "Building the press and drawing the rooms"}
            # nobody has to wait for it
            client.post("/api/jobs", json={"name": "My own"}).raise_for_status()
            assert wait(lambda: client.get("/api/preparing").json()["text"].startswith("Drawing the press"))
            jobs = {job["document"]["name"]: job for job in client.get("/api/jobs").json()}
            assert set(jobs) == {"My own", "Ebba press", "Ebba plates", "Drying rack", "Workshop fit-out"}
            rooms = jobs["Workshop fit-out"]
            sheet = rooms["document"]["sheets"][0]
            address = f"/api/jobs/{rooms['id']}/sheets/{sheet['id']}/views/{sheet['views'][0]['id']}/picture"
            assert wait(lambda: client.get(address).json()["picture"])
            _plates_go_out(client, jobs["Ebba plates"]["id"])
    finally:
        running.interrupt()
    # where there are jobs, none is made beside them
    running = Running(tmp_path / "data", "--demo")
    try:
        assert running.client.get("/api/preparing").json() == {"text": ""}
        assert {job["document"]["name"] for job in running.client.get("/api/jobs").json()} == set(jobs)
    finally:
        running.interrupt()


def _needed(assets: Path, name: str, known: set[str]) -> set[str]:
    """A script and all that it cannot run without."""
    if name not in known:
        known.add(name)
        for other in re.findall(r'(?:from|import)\s*"\./([^"]+\.js)"', (assets / name).read_text()):
            _needed(assets, other, known)
    return known


def test_little_is_fetched_before_the_desk_is_seen(running: Running) -> None:
    """Scripts and styles that the second stop cannot be shown without, packed: 250 kB at most."""
    assets = Settings().web / "assets"
    first = [name.removeprefix("/assets/") for name in _scripts(running)]
    known: set[str] = {name for name in first if name.endswith(".css")}
    for name in (*(name for name in first if name.endswith(".js")), *(own.name for own in assets.glob("SheetsStop-*.js"))):
        _needed(assets, name, known)
    assert len(known) > 3
    weight = sum((assets / f"{name}.gz").stat().st_size for name in known)
    assert 100_000 < weight <= 250_000, f"{weight} bytes"
    # what draws PDF pages and solids waits until it is wanted
    assert not any(name.startswith(("three", "ProofStop", "SourceStop", "Scene")) for name in known)
