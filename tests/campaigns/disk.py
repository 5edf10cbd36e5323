"""A disk that is full, that cannot be written, that is slow; a database that a backup holds; a clock that jumps.

``python -m tests.campaigns.disk`` mounts a small tmpfs, and so needs to be root. Nothing that was acknowledged is lost, what is
there can be read all the time, every refusal says what to do, and all goes on once there is room again.
"""

from __future__ import annotations

import contextlib
import sqlite3
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from tests.api.test_api import bring_in, new_job, wait_for
from tests.conftest import Running, plate_with_holes, write_step

FULL = "The disk is full: make room on it, and try again. What is there is unharmed."
UNWRITABLE = "The data folder cannot be written: give this user the right to, and try again."
HELD = "The database is held by something else, a backup perhaps: try again in a moment."
FAKETIME = Path("/usr/lib/x86_64-linux-gnu/faketime/libfaketime.so.1")


@contextlib.contextmanager
def small_disk(folder: Path, megabytes: int = 60) -> Iterator[Path]:
    """A disk of so many MB in a folder."""
    folder.mkdir(parents=True)
    subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={megabytes}m", "tmpfs", str(folder)], check=True)
    try:
        yield folder
    finally:
        subprocess.run(["umount", "-l", str(folder)], check=False)


def fill(folder: Path) -> Path:
    """Leave no room on a disk."""
    ballast = folder / "ballast"
    with ballast.open("wb", buffering=0) as file, contextlib.suppress(OSError):
        while True:
            file.write(bytes(4096))
    return ballast


class Drafter:
    """A job with a source on a sheet, and what someone does with it."""

    def __init__(self, server: Running, folder: Path) -> None:
        self.server, self.folder = server, folder
        self.job = new_job(server)
        self.source = bring_in(server, self.job, write_step(plate_with_holes(), folder / "plate.step"))
        wish = {"source": self.source, "name": "front", "look": [0, 1, 0], "up": [0, 0, 1], "sheet": None}
        self.sheet = server.client.post(f"/api/jobs/{self.job}/views", json=wish).json()["sheet"]
        self.number = 0

    def rename(self) -> Any:
        self.number += 1
        edit = {"kind": "rename_job", "name": f"Name {self.number} " + "x" * 100}
        return self.server.client.post(f"/api/jobs/{self.job}/edits", json=edit)

    def upload(self) -> Any:
        data = (self.folder / "plate.step").read_bytes() + f"\n/* {time.monotonic()} */\n".encode()
        return self.server.client.post(f"/api/jobs/{self.job}/incoming", params={"name": "plate.step"}, content=data)

    def reads(self) -> None:
        """What is there can be read."""
        own = f"/api/sources/{self.source}"
        for address in ("/api/jobs", f"/api/jobs/{self.job}", f"{own}/tree", f"{own}/scene.glb"):
            assert self.server.client.get(address).status_code == 200, address

    def proof(self) -> bool:
        address = f"/api/jobs/{self.job}/sheets/{self.sheet}/proof"
        self.server.client.post(address)
        return bool(wait_for(lambda: self.server.client.get(address).json()["ready"], 60))

    def well(self) -> None:
        """All goes on."""
        assert self.rename().status_code == 200
        assert self.upload().status_code == 202
        wait_for(lambda: not self.server.client.get(f"/api/jobs/{self.job}/incoming").json(), 60)
        assert self.proof()


def leftovers(data: Path) -> list[Path]:
    return [*data.rglob("*.part"), *(data / "coming").glob("*")]


def full_disk(folder: Path) -> None:
    with small_disk(folder / "disk") as disk:
        server = Running(disk / "data", SKALTO_WORKERS="1")
        try:
            drafter = Drafter(server, folder)
            ballast = fill(disk)
            answers = [drafter.upload() for _ in range(3)]
            told = {(a.status_code, a.json().get("detail")) for a in answers}
            assert told == {(507, FULL)}, told
            edits = [drafter.rename() for _ in range(30)]
            assert {a.status_code for a in edits} <= {200, 507}, [a.text for a in edits]
            assert all(a.json()["detail"] == FULL for a in edits if a.status_code == 507)
            name = server.client.get(f"/api/jobs/{drafter.job}").json()["document"]["name"]
            kept = [n for n, a in enumerate(edits, 1) if a.status_code == 200]
            assert not kept or name.startswith(f"Name {kept[-1]} ")
            drafter.reads()
            # a proof cannot be written, and says why
            address = f"/api/jobs/{drafter.job}/sheets/{drafter.sheet}/proof"
            server.client.post(address)
            time.sleep(4)
            drafter.reads()
            assert leftovers(disk / "data") == []
            ballast.unlink()
            drafter.well()
        finally:
            server.interrupt()
        with contextlib.closing(sqlite3.connect(disk / "data" / "skalto.db")) as plain:
            assert plain.execute("PRAGMA integrity_check").fetchone() == ("ok",)


def a_reading_that_had_no_room(folder: Path) -> None:
    """A file that came in and could not be read for want of room is read again, or put away."""
    with small_disk(folder / "disk", 24) as disk:
        server = Running(disk / "data", SKALTO_WORKERS="1")
        try:
            drafter = Drafter(server, folder)
            spare = disk / "spare"
            spare.write_bytes(bytes(400_000))
            ballast = fill(disk)
            spare.unlink()
            assert drafter.upload().status_code == 202
            at = f"/api/jobs/{drafter.job}/incoming"
            time.sleep(5)
            drafter.reads()
            ballast.unlink()
            # how it ended can be written down now: it was read, or it says why it was not
            wait_for(lambda: all(r["state"] == "failed" for r in server.client.get(at).json()), 60)
            for row in server.client.get(at).json():
                assert row["error"] == FULL, row
                assert server.client.post(f"{at}/{row['id']}/again").status_code == 204
            wait_for(lambda: not server.client.get(at).json(), 60)
            assert len(server.client.get(f"/api/jobs/{drafter.job}").json()["document"]["sources"]) == 2
        finally:
            server.interrupt()


def unwritable_disk(folder: Path) -> None:
    """A server that cannot write does not start, and says why."""
    with small_disk(folder / "disk") as disk:
        (disk / "data").mkdir()
        subprocess.run(["mount", "-o", "remount,ro", str(disk)], check=True)
        command = [str(Path(sys.executable).parent / "skalto"), "serve", "--data", str(disk / "data"), "--port", "8497"]
        ended = subprocess.run(command, capture_output=True, text=True, timeout=60, check=False)
        assert ended.returncode == 2
        assert "cannot be written" in ended.stderr
        assert ended.stderr.count("\n") == 1


def held_database(folder: Path) -> None:
    server = Running(folder / "data", SKALTO_WORKERS="1")
    try:
        drafter = Drafter(server, folder)
        with contextlib.closing(sqlite3.connect(folder / "data" / "skalto.db", isolation_level=None)) as backup:
            backup.execute("BEGIN EXCLUSIVE")
            answer = drafter.rename()
            assert (answer.status_code, answer.json()["detail"]) == (503, HELD)
            drafter.reads()
            backup.execute("COMMIT")
        assert drafter.rename().status_code == 200
    finally:
        server.interrupt()


def jumping_clock(folder: Path) -> None:
    """A day ahead and two back, while work is under way."""
    now = folder / "clock"
    now.write_text("+0")
    fake = {"LD_PRELOAD": str(FAKETIME), "FAKETIME_TIMESTAMP_FILE": str(now), "FAKETIME_NO_CACHE": "1"}
    server = Running(folder / "data", SKALTO_WORKERS="1", SKALTO_LOST_SECONDS="3", DONT_FAKE_MONOTONIC="1", **fake)  # type: ignore[arg-type]
    try:
        drafter = Drafter(server, folder)
        for jump in ("+1d", "-1d", "+400d", "+0"):
            now.write_text(jump)
            drafter.well()
            issues = server.client.get("/api/jobs").json()
            assert issues[0]["id"] == drafter.job
    finally:
        server.interrupt()


def slow_disk(folder: Path) -> None:
    """Every write that is waited for takes a tenth of a second longer."""
    server = Running(folder / "data", SKALTO_WORKERS="1")
    inject = "inject=fsync,fdatasync:delay_enter=100000"
    command = ["strace", "-f", "-qq", "-o", "/dev/null", "-e", "trace=fsync,fdatasync", "-e", inject]
    slow = subprocess.Popen([*command, "-p", str(server.process.pid)], stderr=subprocess.DEVNULL)
    try:
        time.sleep(1)
        drafter = Drafter(server, folder)
        for _ in range(5):
            drafter.well()
    finally:
        slow.terminate()
        slow.wait()
        server.interrupt()


TRIALS = (full_disk, a_reading_that_had_no_room, unwritable_disk, held_database, jumping_clock, slow_disk)


def main() -> None:
    failed = 0
    for trial in TRIALS:
        with tempfile.TemporaryDirectory() as folder:
            began = time.monotonic()
            try:
                trial(Path(folder))
                print(f"{trial.__name__}: holds, {time.monotonic() - began:.0f} s", flush=True)
            except AssertionError as error:
                failed += 1
                print(f"{trial.__name__}: FAILS: {str(error)[:600]}", flush=True)
    raise SystemExit(1 if failed else 0)


if __name__ == "__main__":
    main()
