"""Fifty at once on ten jobs: edits, proofs and exports together, while two cores export.

``python -m tests.campaigns.crowd [--clients 50] [--jobs 10] [--seconds 60]``. Every edit is there at the end, every file is
the same as one made alone, the web process stays within bounds, and 95 of 100 edits answer within 300 ms.
"""

from __future__ import annotations

import argparse
import hashlib
import random
import tempfile
import threading
import time
from collections import Counter
from pathlib import Path
from typing import Any

import httpx
import psutil

from tests.api.test_api import bring_in, new_job, wait_for
from tests.conftest import Running, plate_with_holes, write_step

EDIT_MS, MEMORY_MB = 300.0, 900.0
THINKS = 2.0
"""The most seconds that a client thinks between two acts."""


class Crowd:
    """So many clients, each of whom edits, proofs and exports in turn on one of the jobs."""

    def __init__(self, server: Running, jobs: int, folder: Path) -> None:
        self.server = server
        plate = write_step(plate_with_holes(), folder / "plate.step")
        self.sheets: dict[int, str] = {}
        for _ in range(jobs):
            job = new_job(server)
            source = bring_in(server, job, plate)
            wish = {"source": source, "name": "iso", "look": [-1, 1, -1], "up": [0, 0, 1], "sheet": None}
            self.sheets[job] = server.client.post(f"/api/jobs/{job}/views", json=wish).json()["sheet"]
        self.acknowledged: Counter[int] = Counter()
        self.took: list[float] = []
        self.files: dict[str, set[str]] = {}
        self.refused: Counter[str] = Counter()
        self.most = 0.0
        self._lock = threading.Lock()
        self._over = threading.Event()

    def run(self, clients: int, seconds: float) -> None:
        threads = [threading.Thread(target=self._client, args=(number,)) for number in range(clients)]
        for thread in threads:
            thread.start()
        end = time.monotonic() + seconds
        process = psutil.Process(self.server.process.pid)
        while time.monotonic() < end:
            self.most = max(self.most, process.memory_info().rss / 1e6)
            time.sleep(0.2)
        self._over.set()
        for thread in threads:
            thread.join()

    def _client(self, number: int) -> None:
        chance = random.Random(number)
        jobs = sorted(self.sheets)
        with httpx.Client(base_url=self.server.address, timeout=120) as client:
            while not self._over.is_set():
                job = jobs[number % len(jobs)]
                if chance.random() < 0.7:
                    self._edit(client, job, number, chance)
                else:
                    self._proof(client, job)
                time.sleep(chance.random() * THINKS)

    def _edit(self, client: httpx.Client, job: int, number: int, chance: random.Random) -> None:
        note = {"id": f"n{number}-{chance.randrange(10**9)}", "text": "2 off", "place": [chance.random() * 200, 20]}
        began = time.monotonic()
        answer = client.post(f"/api/jobs/{job}/edits", json={"kind": "add_note", "sheet": self.sheets[job], "note": note})
        took = (time.monotonic() - began) * 1000
        with self._lock:
            self.took.append(took)
            if answer.status_code == 200:
                self.acknowledged[job] += 1
            else:
                self.refused[f"{answer.status_code} {answer.text[:60]}"] += 1

    def _proof(self, client: httpx.Client, job: int) -> None:
        """Write the sheet as it stands and fetch the file; the same content has to give the same file, whoever asked."""
        address = f"/api/jobs/{job}/sheets/{self.sheets[job]}/proof"
        state = client.get(f"/api/jobs/{job}").json()["state"]
        client.post(address)
        for _ in range(60):
            if self._over.is_set():
                return
            found: dict[str, Any] = client.get(address).json()
            if found["ready"]:
                break
            time.sleep(1.0)
        file = client.get(f"{address}.pdf")
        if file.status_code == 200 and client.get(f"/api/jobs/{job}").json()["state"] == state:
            with self._lock:
                self.files.setdefault(f"{job} {state}", set()).add(hashlib.sha256(file.content).hexdigest())

    def lost(self) -> int:
        """Edits that were acknowledged and are not there."""
        missing = 0
        for job, sheet in self.sheets.items():
            document = self.server.client.get(f"/api/jobs/{job}").json()["document"]
            there = len(next(s for s in document["sheets"] if s["id"] == sheet)["notes"])
            missing += self.acknowledged[job] - there
        return missing

    def alone(self, other: Running) -> int:
        """Files of the last state of each job that differ from one made by a server with nobody else."""
        differ = 0
        for job, sheet in self.sheets.items():
            archive = self.server.client.get(f"/api/jobs/{job}/file.zip").content
            copy = other.client.post("/api/jobs/open", content=archive).json()["id"]
            made = []
            for server, number in ((self.server, job), (other, copy)):
                address = f"/api/jobs/{number}/sheets/{sheet}/proof"
                server.client.post(address)
                wait_for(lambda server=server, address=address: server.client.get(address).json()["ready"], 120)
                made.append(_strokes(server.client.get(f"{address}.pdf").content))
            differ += made[0] != made[1]
        return differ

    def p95(self) -> float:
        return sorted(self.took)[int(len(self.took) * 0.95)] if self.took else 0.0


def _strokes(data: bytes) -> list[bytes]:
    """The pages' content, without what names the job and the moment."""
    import io

    import pikepdf

    with pikepdf.open(io.BytesIO(data)) as pdf:
        return [b"".join(c.read_bytes() for c in _contents(page)) for page in pdf.pages]


def _contents(page: Any) -> list[Any]:
    found = page.Contents
    return list(found) if hasattr(found, "__iter__") and not hasattr(found, "read_bytes") else [found]


def main() -> None:
    ask = argparse.ArgumentParser()
    ask.add_argument("--clients", type=int, default=50)
    ask.add_argument("--jobs", type=int, default=10)
    ask.add_argument("--seconds", type=float, default=60)
    given = ask.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        server, other = Running(Path(folder) / "data"), Running(Path(folder) / "other")
        try:
            crowd = Crowd(server, given.jobs, Path(folder))
            crowd.run(given.clients, given.seconds)
            lost, differ = crowd.lost(), crowd.alone(other)
            torn = [key for key, found in crowd.files.items() if len(found) > 1]
        finally:
            server.interrupt()
            other.interrupt()
    print(f"{sum(crowd.acknowledged.values())} edits acknowledged, {lost} lost; refused {dict(crowd.refused)}")
    print(
        f"p95 of an edit {crowd.p95():.0f} ms (limit {EDIT_MS:.0f}), median {sorted(crowd.took)[len(crowd.took) // 2]:.0f} ms"
    )
    print(f"{len(crowd.files)} states written to files, {len(torn)} in two ways; {differ} of {given.jobs} not as made alone")
    print(f"the web process held {crowd.most:.0f} MB at most (limit {MEMORY_MB:.0f})")
    raise SystemExit(1 if lost or torn or differ or crowd.p95() > EDIT_MS or crowd.most > MEMORY_MB else 0)


if __name__ == "__main__":
    main()
