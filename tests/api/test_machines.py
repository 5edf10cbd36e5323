"""More than one machine: a server that works nothing itself, workers that share only its queue and its blobs."""

from __future__ import annotations

import contextlib
import threading
import time
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest

from skalto.demo.solids import block, cut, cylinder, moved
from skalto.jobs.queue import Queue
from skalto.services.running.locking import lock
from skalto.store.blobs import content_hash
from tests.api.test_api import bring_in, new_job, wait_for
from tests.conftest import Running
from tests.core.modelled import write_assembly
from tests.machines import Machine, redis_server, s3_server

pytestmark = pytest.mark.long

WAYS = ("front", "left", "iso")


@pytest.fixture
def elsewhere(tmp_path: Path) -> Iterator[dict[str, str]]:
    """What leads a process to the queue and the blobs."""
    with contextlib.ExitStack() as stack:
        redis = stack.enter_context(redis_server(tmp_path))
        blobs = stack.enter_context(s3_server())
        yield {"SKALTO_REDIS": redis, "SKALTO_LOST_SECONDS": "3", **blobs}


def views(client: httpx.Client, job: int, source: str) -> dict[str, bytes]:
    """The lines of three views, each from its own piece of work."""
    trade = {v["name"]: v for v in client.get("/api/trade").json()["viewpoints"]}
    placed = {}
    for name in WAYS:
        wish: dict[str, Any] = {
            "source": source,
            "name": name,
            "look": trade[name]["look"],
            "up": trade[name]["up"],
            "sheet": None,
        }
        placed[name] = client.post(f"/api/jobs/{job}/views", json=wish).json()
    addresses = {name: f"/api/jobs/{job}/sheets/{at['sheet']}/views/{at['view']}/picture" for name, at in placed.items()}
    for address in addresses.values():
        client.get(address)
    done: dict[str, bytes] = {}

    def all_there() -> bool:
        for name, address in addresses.items():
            if name not in done:
                found = client.get(address)
                state = found.json()
                assert (state["work"] or {}).get("state") not in ("failed", "cancelled"), state
                if state["picture"]:
                    done[name] = found.content
        return len(done) == len(WAYS)

    wait_for(all_there, 120)
    return done


def test_three_workers_one_killed_in_mid_work(
    elsewhere: dict[str, str], tmp_path: Path, press_step: Path, running: Running
) -> None:
    here = Running(tmp_path / "server", SKALTO_WORKERS="0", **elsewhere)  # type: ignore[arg-type]
    machines = [Machine(tmp_path / f"worker {n}.log", **elsewhere) for n in range(3)]  # type: ignore[arg-type]
    try:
        for machine in machines:
            wait_for(lambda machine=machine: "Working" in machine.said(), 60)
        job = new_job(here)
        source = bring_in(here, job, press_step)
        # nothing of it lies in the server's own folder
        assert not (tmp_path / "server" / "blobs").exists()
        # the one that draws first is killed while it does
        queue = Queue(None, elsewhere["SKALTO_REDIS"])
        threading.Thread(target=_kill_when_busy, args=(queue, machines)).start()
        found = views(here.client, job, source)
        assert machines[-1].process.poll() is not None
        alone = views(running.client, other := new_job(running), bring_in(running, other, press_step))
        assert found == alone
    finally:
        for machine in machines:
            if machine.process.poll() is None:
                assert machine.stop() == 0, machine.said()
        here.interrupt()


def _kill_when_busy(queue: Queue, machines: list[Machine]) -> None:
    """Kill a machine that has something in hand; it is put last."""
    while True:
        for key in queue.board.keys("hold:"):
            holder = (queue.board.get(f"hold:{key}") or b"").decode().partition(" ")[0]
            for machine in machines:
                if f"-{machine.process.pid}-" in holder:
                    machine.kill()
                    machines.remove(machine)
                    machines.append(machine)
                    return
        time.sleep(0.02)


def test_a_worker_that_does_not_fit_is_refused_in_a_sentence(tmp_path: Path, plate_step: Path) -> None:
    """Queue in Redis, blobs in a shared folder; the one that fits works."""

    def told(**environment: str) -> tuple[int, str]:
        machine = Machine(tmp_path / "log", **environment)  # type: ignore[arg-type]
        return machine.process.wait(60), machine.said().strip()

    with redis_server(tmp_path) as redis:
        shared = {"SKALTO_REDIS": redis, "SKALTO_BLOBS": str(tmp_path / "shared")}
        assert told(SKALTO_REDIS=redis, SKALTO_BLOBS="") == (
            2, "SKALTO_BLOBS names no blob store: a worker alone leaves its results where the server finds them."
        )  # fmt: skip
        assert told(SKALTO_REDIS="", SKALTO_BLOBS="x")[0] == 2
        status, words = told(SKALTO_REDIS="redis://127.0.0.1:1/0", SKALTO_BLOBS=str(tmp_path / "shared"))
        assert (status, "Redis does not answer" in words) == (2, True)
        here = Running(tmp_path / "server", SKALTO_WORKERS="0", **shared)  # type: ignore[arg-type]
        try:
            status, words = told(**shared | {"SKALTO_BLOBS": str(tmp_path / "another")})
            assert (status, "is not the store that the server keeps its blobs in" in words) == (2, True)
            status, words = told(**shared | {"SKALTO_BLOBS": "nothing://x"})
            assert (status, words.count("\n")) == (2, 0)
            queue = Queue(None, redis)
            served = queue.served()
            assert served is not None
            machine = Machine(tmp_path / "log", **shared)  # type: ignore[arg-type]
            bring_in(here, new_job(here), plate_step)
            assert (tmp_path / "shared" / "files").is_dir()
            queue.board.put("serves", b'{"release": "0.0.9-abc", "store": "%s"}' % served["store"].encode())
            # one that runs leaves too, once the server is of another release
            assert machine.process.wait(30) == 2
            assert "The server runs Skalto 0.0.9-abc, and this worker is" in machine.said()
            status, words = told(**shared)
            assert (status, "bring both to one release" in words) == (2, True)
        finally:
            here.interrupt()


def test_one_server_at_a_time(tmp_path: Path, skalto: Any) -> None:
    first = Running(tmp_path, SKALTO_WORKERS="0")
    try:
        second = skalto("serve", "--data", tmp_path, "--port", "8499")
        assert second.returncode == 2
        assert f"is in use by the Skalto at http://127.0.0.1:{first.port}, process {first.process.pid}" in second.stderr
    finally:
        first.kill()
    # killed as it was, it holds nothing
    lock(tmp_path, "another").close()


def test_a_release_is_shared_by_three_workers(elsewhere: dict[str, str], tmp_path: Path) -> None:
    """The files of a release by three worker processes elsewhere, one of them killed in mid-work: each file once, as it should
    be."""
    here = Running(tmp_path / "server", SKALTO_WORKERS="0", **elsewhere)  # type: ignore[arg-type]
    machines = [Machine(tmp_path / f"worker {n}.log", **elsewhere) for n in range(3)]  # type: ignore[arg-type]
    client = here.client
    try:
        for machine in machines:
            wait_for(lambda machine=machine: "Working" in machine.said(), 60)
        plate = cut(block(100, 60, 5), cylinder(20, 50, (0, 0, -10)))
        parts = {f"Plate {n}": moved(cut(plate, cylinder(6 + n, 50, (30, 10, -10))), (0, 0, 20 * n)) for n in range(6)}
        job = new_job(here, "Shared")
        bring_in(here, job, write_assembly(parts, tmp_path / "shared.step", "Shared"))
        wait_for(lambda: client.get(f"/api/jobs/{job}/parts").json()["work"] is None, 120)
        client.post(f"/api/jobs/{job}/marks", json={}).raise_for_status()
        made = client.post(f"/api/jobs/{job}/part-sheets", json={"template": "part", "parts": list(parts)}).json()
        assert len(made["new"]) == 6
        queue = Queue(None, elsewhere["SKALTO_REDIS"])
        threading.Thread(target=_kill_when_busy, args=(queue, machines)).start()
        begun = client.post(f"/api/jobs/{job}/releases", json={"rules": "shop"}).json()["id"]

        def ended() -> Any:
            found = client.get(f"/api/releases/{begun}").json()
            return found if found["state"] not in ("running", "paused") else None

        found = wait_for(ended, 240)
        assert found["state"] == "done", found["error"]
        assert machines[-1].process.poll() is not None
        files = client.get(f"/api/releases/{begun}/files").json()["files"]
        # a PDF, a DXF and a STEP of each, and the list
        assert Counter(Path(file["path"]).suffix for file in files) == {".pdf": 6, ".dxf": 6, ".step": 6, ".csv": 1}
        outbox = Path(found["outbox"])
        for file in files:
            assert content_hash((outbox / file["path"]).read_bytes()) == file["about"]["sha256"]
    finally:
        for machine in machines:
            if machine.process.poll() is None:
                assert machine.stop() == 0, machine.said()
        here.interrupt()
