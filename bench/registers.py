"""The register of drawings with ten thousand sheets, and a release of ten thousand files: how long a page of each takes,
against reading the rows alone out of the database."""

from __future__ import annotations

import sqlite3
import time
from pathlib import Path
from tempfile import TemporaryDirectory

import httpx

from bench.clock import told
from bench.served import served, until
from bench.size import sized

JOBS, SHEETS = sized(100, 3), sized(100, 5)
OPEN = 1.0
"""Seconds that are promised."""


def _fill(folder: Path) -> None:
    """So many jobs with so many sheets each, and a release with as many files."""
    from skalto.core.job import JobDocument
    from skalto.core.release.manifest import ManifestFile
    from skalto.core.release.rules import SHIPPED_RULES
    from skalto.core.sheets.sheet import SheetSpec
    from skalto.store.jobs import create_job, open_database
    from skalto.store.tables import Release, ReleaseFile, database

    open_database(folder / "skalto.db")
    sheets = tuple(SheetSpec(id=f"s{n}", name=f"Sheet {n}", title={"title": f"Side {n}"}) for n in range(SHEETS))
    for n in range(JOBS):
        create_job(JobDocument(name=f"Press {n}", sheets=sheets))
    with database.atomic():
        rules = SHIPPED_RULES[0].model_dump_json()
        release = Release.create(
            job=1, job_number="0001", job_name="Press 0", rules=rules, outbox=str(folder / "out"), state="done"
        )
        for n in range(JOBS * SHEETS):
            path = f"drawings/{n % 100:02d}/S{n:05d}.pdf"
            about = ManifestFile(file=path, sha256="", size=9, kind="PDF", part="Side").model_dump_json()
            ReleaseFile.create(release=release, path=path, kind="PDF", called=f"Side {n}", work="{}", about=about, state="made")
    database.close()


def _asked(client: httpx.Client, address: str, **wanted: str | int) -> float:
    """The median of five times, seconds."""
    times = []
    for _ in range(5):
        begun = time.perf_counter()
        client.get(address, params=wanted).raise_for_status()
        times.append(time.perf_counter() - begun)
    return sorted(times)[2]


def run() -> None:
    with TemporaryDirectory() as place:
        data = Path(place) / "data"
        data.mkdir()
        _fill(data)
        begun = time.perf_counter()
        with sqlite3.connect(data / "skalto.db") as plain:
            plain.execute("SELECT document FROM step").fetchall()
        alone = time.perf_counter() - begun
        with served(data, 1) as client:
            count = JOBS * SHEETS
            until(lambda: client.get("/api/drawing-register").json()["count"] == count, 120)
            drawings = _asked(client, "/api/drawing-register", count=200)
            found = _asked(client, "/api/drawing-register", count=200, text="side 7", by="title")
            files = _asked(client, "/api/releases/1/files", count=100, begin=count // 2)
            named = _asked(client, "/api/releases/1/files", count=100, text="S0007")
    for what, seconds in (
        (f"{count} drawings, the first page", drawings),
        ("the same, searched and sorted", found),
        (f"a page of the {count} files of a release", files),
        ("the same, searched", named),
    ):
        told(what, seconds, alone, f"<= {OPEN:g} s", seconds <= OPEN)


if __name__ == "__main__":
    run()
