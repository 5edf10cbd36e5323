"""kill -9 at random moments, more of them while something is being written: of the server, the workers, a process, or all.

``python -m tests.campaigns.kills [--count 1000] [--data FOLDER] [--seed N]``. Edits, uploads, proofs and issues are under way
all the time, and jobs are made and deleted. After each kill: the database is whole, no edit that was acknowledged is lost, no
job that was deleted is back and none has an id or number that was given before, no half file stands under a final
name; at the end all issues have ended, no process is left, and no temporary file.
"""

from __future__ import annotations

import argparse
import contextlib
import hashlib
import os
import random
import sqlite3
import tempfile
import threading
import time
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
import psutil

from tests.conftest import Running, plate_with_holes, write_step

VICTIMS = {"server": 3, "workers": 2, "process": 6, "all": 3}
"""Who is killed how often: workers take seconds to be back, and where they never get to work there is nothing to lose."""


def _slowly(data: bytes) -> Iterator[bytes]:
    """A file as a slow line brings it: some tenths of a second."""
    for at in range(0, len(data), 4096):
        yield data[at : at + 4096]
        time.sleep(0.04)


class Drafter(threading.Thread):
    """Someone at work on a job of their own, who remembers what was acknowledged."""

    def __init__(self, campaign: Campaign, number: int) -> None:
        super().__init__(daemon=True)
        self.campaign, self.number = campaign, number
        self.chance = random.Random(f"{campaign.seed} {number}")
        self.job = 0
        self.sheet: str | None = None
        self.acknowledged = 0
        self.source = ""
        self.done: Counter[str] = Counter()

    def run(self) -> None:
        while not self.campaign.over.is_set():
            if not self.campaign.open.wait(0.2):
                continue
            try:
                with httpx.Client(base_url=self.campaign.address, timeout=20) as client:
                    while not self.campaign.over.is_set():
                        self._act(client)
            except (httpx.TransportError, KeyError, ValueError):
                time.sleep(0.05)

    def _act(self, client: httpx.Client) -> None:
        if not self.job:
            self.job = int(client.post("/api/jobs", json={"name": "0"}).raise_for_status().json()["id"])
        wish = self.chance.random()
        at = f"/api/jobs/{self.job}"
        if self.sheet is None and self.done["uploads"]:
            self._sheet(client, at)
        if wish < 0.55:
            name = str(self.acknowledged + 1)
            answer = client.post(f"{at}/edits", json={"kind": "rename_job", "name": name})
            if answer.status_code == 200:
                self.acknowledged += 1
                self.done["edits"] += 1
        elif wish < 0.7:
            if sum(row["state"] == "reading" for row in client.get(f"{at}/incoming").json()) > 3:
                return time.sleep(0.05)  # nobody brings in more and more of what does not come
            data = self.campaign.plate + f"\n/* {self.number} {self.chance.random()} */\n".encode()
            answer = client.post(f"{at}/incoming", params={"name": "plate.step"}, content=_slowly(data))
            self.done["uploads"] += answer.status_code == 202
        elif self.sheet is not None and wish < 0.93:
            begun = client.post(f"{at}/sheets/{self.sheet}/proof")
            self.done["proofs"] += begun.is_success
        elif self.sheet is not None:
            if any(issue["state"] == "running" for issue in client.get("/api/issues", params={"job": self.job}).json()):
                return time.sleep(0.05)
            client.post(f"{at}/edits", json={"kind": "keep_pack", "pack": {"id": "p", "name": "P", "sheets": [self.sheet]}})
            answer = client.post(f"{at}/issues", json={"pack": "p", "purpose": "review", "revision": "A"})
            self.done["issues"] += answer.status_code in (200, 201, 202)
        time.sleep(self.chance.random() * 0.05)

    def _sheet(self, client: httpx.Client, at: str) -> None:
        sources = client.get(at).json()["document"]["sources"]
        if sources:
            wish = {"source": sources[0]["id"], "name": "front", "look": [0, 1, 0], "up": [0, 0, 1], "sheet": None}
            answer = client.post(f"{at}/views", json=wish)
            if answer.status_code == 201:
                self.sheet = answer.json()["sheet"]


class Leaver(Drafter):
    """Someone who makes jobs and deletes them: no id or number comes again, what is gone stays gone, and nobody edits in it."""

    def __init__(self, campaign: Campaign, number: int) -> None:
        super().__init__(campaign, number)
        self.highest = (0, 0)
        self.gone: list[int] = []
        self.faults: list[str] = []

    def _act(self, client: httpx.Client) -> None:
        made = client.post("/api/jobs", json={"name": "Short-lived"}).raise_for_status().json()
        now = (int(made["id"]), int("".join(letter for letter in made["number"] if letter.isdigit())))
        if now[0] <= self.highest[0] or now[1] <= self.highest[1]:
            self.faults.append(f"job {now} after {self.highest}")
        self.highest = now
        if client.delete(f"/api/jobs/{made['id']}").status_code == 204:
            self.gone.append(int(made["id"]))
            self.done["deleted"] += 1
        for job in self.chance.sample(self.gone, min(2, len(self.gone))):
            answer = client.post(f"/api/jobs/{job}/edits", json={"kind": "rename_job", "name": "Back"})
            if answer.status_code != 404:
                self.faults.append(f"an edit of job {job}, which was deleted: {answer.status_code}")
        time.sleep(self.chance.random() * 0.3)


class Campaign:
    """A server, drafters at work, and someone who kills."""

    def __init__(self, data: Path, seed: int = 0, drafters: int = 4) -> None:
        self.data, self.seed = data, seed
        self.chance = random.Random(seed)
        with tempfile.TemporaryDirectory() as folder:
            self.plate = write_step(plate_with_holes(), Path(folder) / "plate.step").read_bytes()
        self.over, self.open = threading.Event(), threading.Event()
        self.temporary = data.parent / "temporary"
        self.temporary.mkdir(parents=True, exist_ok=True)
        self.server = self._start()
        self.address = self.server.address
        self.open.set()
        self.leaver = Leaver(self, drafters)
        self.drafters = [*(Drafter(self, number) for number in range(drafters)), self.leaver]
        self.killed: Counter[str] = Counter()
        self.moments: Counter[str] = Counter()
        for drafter in self.drafters:
            drafter.start()

    def _start(self, port: int | None = None) -> Running:
        return Running(
            self.data, port=port, SKALTO_WORKERS="2", SKALTO_LOST_SECONDS="3", TMPDIR=str(self.temporary)
        )  # fmt: skip

    def kill(self, victim: str = "") -> None:
        """One kill, what follows from it, and the checks."""
        if not victim:
            victim = self.chance.choices(list(VICTIMS), list(VICTIMS.values()))[0]
            if self.chance.random() < 0.7:
                self._until_at_work()
        self.moments[self._wait_for_the_moment()] += 1
        self.killed[victim] += 1
        tree = self._tree()
        if victim == "process":
            children = [p for p in tree if "forkserver" in " ".join(_command(p))]
            if children:
                _kill(self.chance.choice(children))
            return
        if victim == "workers":
            for process in tree:
                if "skalto.jobs.consumer" in _command(process):
                    _kill(process)
            return
        self.open.clear()
        if victim == "all":
            for process in tree:
                _kill(process)
        self.server.kill()
        self.check()
        self.server = self._start(self.server.port)
        self.open.set()

    def _until_at_work(self, seconds: float = 10) -> None:
        """Wait until a process does a piece of work; not for ever, since there may be none."""
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            # the one that others are forked from, and one that was
            if sum("forkserver" in " ".join(_command(process)) for process in self._tree()) > 1:
                return
            time.sleep(0.1)

    def _wait_for_the_moment(self) -> str:
        """Any, or one in which a file is being written, or an issue is under way; which it was."""
        time.sleep(self.chance.random() * 0.8)
        wish = self.chance.random()
        if wish < 0.4:
            return "any"
        end = time.monotonic() + (1.5 if wish < 0.7 else 10)
        while time.monotonic() < end:
            if wish < 0.7:
                if any(self.data.rglob("*.part")) or any((self.data / "coming").glob("*")):
                    return "a file being written"
            elif self._issuing():
                return "an issue under way"
            time.sleep(0.005)
        return "any"

    def _issuing(self) -> bool:
        with contextlib.suppress(httpx.TransportError, ValueError):
            return any(issue["state"] == "running" for issue in self.server.client.get("/api/issues").json())
        return False

    def _tree(self) -> list[psutil.Process]:
        with contextlib.suppress(psutil.Error):
            return psutil.Process(self.server.process.pid).children(recursive=True)
        return []

    def check(self) -> None:
        """The database is whole, what was acknowledged is in it, and every file is what its name says."""
        with contextlib.closing(sqlite3.connect(self.data / "skalto.db")) as plain:
            assert plain.execute("PRAGMA integrity_check").fetchone() == ("ok",)
            assert plain.execute("PRAGMA foreign_key_check").fetchall() == []
            rows = plain.execute("SELECT id FROM job").fetchall()
            back = {row[0] for row in rows} & set(self.leaver.gone)
            assert not back, f"deleted jobs are back: {back}"
            assert not self.leaver.faults, self.leaver.faults
            for drafter in self.drafters:
                if drafter.job and drafter.acknowledged:
                    rows = plain.execute(
                        "SELECT document FROM step JOIN job ON job.id = job_id WHERE job.id = ? AND step.number <= job.head",
                        (drafter.job,),
                    ).fetchall()
                    wanted = f'"name":"{drafter.acknowledged}"'
                    assert any(wanted in row[0] for row in rows), f"edit {drafter.acknowledged} of job {drafter.job} is lost"
        for path in (self.data / "blobs" / "files").glob("*"):
            if path.suffix != ".part":
                assert hashlib.sha256(path.read_bytes()).hexdigest() == path.name, f"{path} is half a file"
        for path in (self.data / "blobs").rglob("*.pdf"):
            tail = path.read_bytes()[-1024:]
            assert b"%%EOF" in tail, f"{path} is half a file"

    def end(self, seconds: float = 120) -> dict[str, Any]:
        """Let all come to its end, which may take long, but not so many seconds without any; the figures."""
        self.over.set()
        for drafter in self.drafters:
            drafter.join(30)
        end, before = time.monotonic() + seconds, -1
        while True:
            running = [issue for issue in self.server.client.get("/api/issues").json() if issue["state"] == "running"]
            reading = [d for d in self.drafters if d.job and self._reads(d.job)]
            if not running and not reading:
                break
            if len(running) + len(reading) != before:
                end, before = time.monotonic() + seconds, len(running) + len(reading)
            assert time.monotonic() < end, f"{len(running)} issues and {len(reading)} jobs do not end"
            time.sleep(0.5)
        states = Counter(issue["state"] for issue in self.server.client.get("/api/issues").json())
        tree = self._tree()
        self.server.interrupt()
        time.sleep(3)
        self.check()
        left = [p for p in (*tree, *self._workers()) if p.is_running() and p.status() != psutil.STATUS_ZOMBIE]
        assert left == [], f"processes are left: {left}"
        files = [*self.data.rglob("*.part"), *(self.data / "coming").glob("*"), *self.temporary.glob("skalto-work-*")]
        # what the last kill left is swept at the next start
        if files:
            self.server = self._start()
            # one that is begun in the background takes no notice of Ctrl-C until it serves
            self.server.client.get("/api/jobs").raise_for_status()
            self.server.interrupt()
            time.sleep(1)
            files = [*self.data.rglob("*.part"), *(self.data / "coming").glob("*"), *self.temporary.glob("skalto-work-*")]
        assert files == [], f"files are left: {files}"
        done: Counter[str] = Counter()
        for drafter in self.drafters:
            done += drafter.done
        return {"kills": dict(self.killed), "moments": dict(self.moments), "acknowledged": dict(done), "issues": dict(states)}

    def _workers(self) -> list[psutil.Process]:
        """Worker processes of this data folder, whoever started them."""
        found = []
        for process in psutil.process_iter():
            with contextlib.suppress(psutil.Error):
                if str(self.data) in process.environ().get("SKALTO_WORKER", ""):
                    found.append(process)
        return found

    def _reads(self, job: int) -> bool:
        return any(row["state"] == "reading" for row in self.server.client.get(f"/api/jobs/{job}/incoming").json())


def _command(process: psutil.Process) -> list[str]:
    with contextlib.suppress(psutil.Error):
        return list(process.cmdline())
    return []


def _kill(process: psutil.Process) -> None:
    with contextlib.suppress(psutil.Error, ProcessLookupError):
        os.kill(process.pid, 9)


def main() -> None:
    ask = argparse.ArgumentParser()
    ask.add_argument("--count", type=int, default=1000)
    ask.add_argument("--seed", type=int, default=0)
    ask.add_argument("--data", type=Path)
    ask.add_argument(
        "--minutes", type=float, default=float("inf"), help="kill no longer than this; the end is looked at all the same"
    )
    given = ask.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        campaign = Campaign((given.data or Path(folder)) / "data", given.seed)
        until = time.monotonic() + 60 * given.minutes
        for number in range(given.count):
            if time.monotonic() > until:
                break
            campaign.kill()
            if number % 20 == 19:
                print(f"{number + 1} kills: {dict(campaign.killed)} in moments {dict(campaign.moments)}", flush=True)
        print(campaign.end(), flush=True)


if __name__ == "__main__":
    main()
