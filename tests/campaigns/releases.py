"""kill -9 in the middle of releases: nothing is lost, and nothing is there twice.

``python -m tests.campaigns.releases [--count 200] [--data FOLDER] [--seed N]``. Each time all files are made anew, and the
server, its workers, or all of it are killed at a random moment; the server is started again, and the release has to come to
its end by itself. Then every planned file is in the outbox, whole, as the manifest has it; each earlier one was moved aside
once; nothing half written is left.
"""

from __future__ import annotations

import argparse
import contextlib
import random
import tempfile
import time
from collections import Counter
from pathlib import Path
from typing import Any

import psutil

from skalto.core.release.manifest import read_manifest
from skalto.demo.solids import block, cut, cylinder, fuse, moved
from skalto.store.blobs import content_hash
from tests.api.test_api import bring_in, new_job, wait_for
from tests.conftest import Running
from tests.core.modelled import write_assembly

RULES = {
    "id": "kills", "name": "Kills",
    "files": [
        {"of": ["sheet"], "file": "PDF", "name": "{mark}", "folder": "drawings"},
        {"of": ["plate"], "file": "flat-pattern DXF", "name": "{mark}"},
        {"of": ["plate", "turned"], "file": "STEP", "name": "{mark}", "folder": "models"},
        {"of": ["job"], "file": "parts list CSV", "name": "parts"},
    ],
}  # fmt: skip


class Releases:
    """A server with a job that is released over and over, and someone who kills."""

    def __init__(self, data: Path, seed: int = 0) -> None:
        self.data = data
        self.chance = random.Random(seed)
        self.killed: Counter[str] = Counter()
        self.server = self._start()
        self.job = self._job()
        self.kept = 0

    def _start(self, port: int | None = None) -> Running:
        return Running(self.data, port=port, SKALTO_WORKERS="2", SKALTO_LOST_SECONDS="3")

    def _job(self) -> int:
        plate = cut(block(100, 60, 5), cylinder(20, 50, (0, 0, -10)))
        shaft = fuse(cylinder(20, 120), cylinder(30, 12))
        parts = {
            "Side": plate,
            "Shaft": moved(shaft, (200, 0, 0)),
            "Pin": moved(fuse(cylinder(8, 50), cylinder(12, 4)), (0, 200, 0)),
        }
        job = new_job(self.server, "Kills")
        with tempfile.TemporaryDirectory() as folder:
            bring_in(self.server, job, write_assembly(parts, Path(folder) / "stand.step", "Stand"))
        client = self.server.client
        wait_for(lambda: client.get(f"/api/jobs/{job}/parts").json()["work"] is None)
        client.post(f"/api/jobs/{job}/marks", json={}).raise_for_status()
        client.post(f"/api/jobs/{job}/part-sheets", json={"template": "part", "parts": list(parts)}).raise_for_status()
        client.put("/api/release-rules", json=RULES).raise_for_status()
        return job

    def once(self) -> None:
        """A release, a kill in the middle of it, and the checks."""
        self.kept += 1
        said = {key: {"material": f"S{self.kept}"} for key in ("Side", "Shaft", "Pin")}
        edit = {"kind": "set_parts", "parts": said}
        self.server.client.post(f"/api/jobs/{self.job}/edits", json=edit).raise_for_status()
        wish = {"rules": "kills", "everything": True}
        release = self.server.client.post(f"/api/jobs/{self.job}/releases", json=wish).raise_for_status().json()
        time.sleep(self.chance.random() * 1.2)
        victim = self.chance.choice(("all", "server", "workers"))
        self.killed[victim] += 1
        self._kill(victim)
        if victim != "workers":
            self.server = self._start(self.server.port)

        def ended() -> Any:
            found = self.server.client.get(f"/api/releases/{release['id']}").json()
            return found if found["state"] not in ("running", "paused") else None

        try:
            found = wait_for(ended, 120)
        except AssertionError:
            files = self.server.client.get(f"/api/releases/{release['id']}/files").json()["files"]
            left = [(file["path"], file["state"], file["text"], file["log"]) for file in files if file["state"] != "made"]
            tree = psutil.Process(self.server.process.pid).children(recursive=True)
            alive = [" ".join(process.cmdline())[-60:] for process in tree]
            raise AssertionError(f"{victim} was killed, and what is left does not end: {left}; alive: {alive}") from None
        assert found["state"] == "done", found["error"]
        self._check(found)

    def _kill(self, victim: str) -> None:
        tree = psutil.Process(self.server.process.pid).children(recursive=True)
        if victim in ("all", "workers"):
            for process in tree:
                with contextlib.suppress(psutil.Error):
                    process.kill()
        if victim in ("all", "server"):
            self.server.kill()

    def _check(self, release: dict[str, Any]) -> None:
        outbox = Path(release["outbox"])
        files = self.server.client.get(f"/api/releases/{release['id']}/files").json()["files"]
        assert {file["state"] for file in files} == {"made"}
        manifest = read_manifest((outbox / "manifest.json").read_bytes())
        assert sorted(line.file for line in manifest.files) == sorted(file["path"] for file in files)
        for line in manifest.files:
            assert content_hash((outbox / line.file).read_bytes()) == line.sha256, line.file
        there = {path.relative_to(outbox).as_posix() for path in outbox.rglob("*") if path.is_file()}
        assert not [path for path in there if path.endswith(".part")]
        aside = Counter(path.split("/", 2)[1] for path in there if path.startswith("earlier/"))
        assert all(count <= len(files) for count in aside.values()), aside
        twice = [path for path in there if path.startswith("earlier/") and path.rsplit(".", 1)[0].endswith("-2")]
        assert not twice, "moved aside twice"
        kept = there - {path for path in there if path.startswith("earlier/")}
        assert kept == {line.file for line in manifest.files} | {"manifest.json", "manifest.csv"}

    def end(self) -> dict[str, int]:
        self.server.interrupt()
        return dict(self.killed)


def run(count: int, data: Path, seed: int = 0) -> dict[str, int]:
    """So many kills; how often who was killed."""
    made = Releases(data, seed)
    for number in range(count):
        made.once()
        if number % 10 == 9:
            print(f"{number + 1} kills", flush=True)
    return made.end()


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--count", type=int, default=200)
    parser.add_argument("--data", type=Path)
    parser.add_argument("--seed", type=int, default=0)
    asked = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        print(run(asked.count, asked.data or Path(folder) / "data", asked.seed))


if __name__ == "__main__":
    main()
