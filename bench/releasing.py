"""A release of a hundred parts (40 bent, 40 plates, 20 others): a PDF, a DXF where it is a sheet, and a STEP of each, made by
two workers from cold, against reading their model alone; then once more with nothing changed."""

from __future__ import annotations

import random
import time
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import httpx

from bench.clock import told
from bench.served import served, until
from bench.sheet_metal import _part
from bench.size import sized

BENT, PLATES, OTHERS = sized(40, 2), sized(40, 2), sized(20, 1)
ALL, AGAIN = 180.0, 5.0
"""Seconds that are promised."""

SHEETS = ["plate", "bent sheet", "rolled sheet"]
RULES = {
    "id": "bench", "name": "Bench",
    "files": [
        {"of": ["sheet"], "file": "PDF", "name": "{mark}", "folder": "drawings"},
        {"of": SHEETS, "file": "flat-pattern DXF", "name": "{mark}", "folder": "flat"},
        {"of": [*SHEETS, "turned", "profile", "part"], "file": "STEP", "name": "{mark}", "folder": "models"},
    ],
}  # fmt: skip


def _model(path: Path) -> None:
    """An assembly of all the parts, each another one."""
    from skalto.demo.press import write_parts
    from skalto.demo.solids import block, cut, cylinder, fuse

    chance = random.Random(3)
    parts: dict[str, tuple[Any, str, tuple[str, float], tuple[float, float, float]]] = {}
    steel = ("Steel S235", 7.85)

    def add(name: str, shape: Any) -> None:
        number = len(parts)
        parts[name] = (shape, "#8899aa", steel, (400.0 * (number % 10), 400.0 * (number // 10), 0.0))

    for n in range(BENT):
        add(f"Bent {n}", _part(n))
    for n in range(PLATES):
        plate = block(120 + n, 80, chance.choice((3, 5, 8)))
        for hole in range(8):
            plate = cut(plate, cylinder(4 + hole, 40, (-45 + 12 * hole, chance.uniform(-30, 30), -10)))
        add(f"Plate {n}", plate)
    for n in range(OTHERS):
        add(f"Shaft {n}", fuse(cylinder(20, 100 + n), cylinder(30 + n, 15)))
    write_parts(path, "Hundred", parts)


def _job(client: httpx.Client, path: Path) -> tuple[int, float]:
    """A job with the model in it, its parts numbered, and a sheet for each; how long reading took, seconds."""
    job = client.post("/api/jobs", json={"name": "Hundred"}).json()["id"]
    begun = time.perf_counter()
    client.post(f"/api/jobs/{job}/incoming", params={"name": path.name}, content=path.read_bytes())
    until(lambda: client.get(f"/api/jobs/{job}").json()["document"]["sources"], 600)
    reading = time.perf_counter() - begun
    # a page asks every 3 s
    until(lambda: client.get(f"/api/jobs/{job}/parts").json()["work"] is None, 600, 1.0)
    rows = client.post(f"/api/jobs/{job}/marks", json={}).json()["document"]["parts"]
    keys = [key for key in rows if key != "Hundred"]
    client.post(f"/api/jobs/{job}/part-sheets", json={"template": "part", "parts": keys}).raise_for_status()
    client.put("/api/release-rules", json=RULES).raise_for_status()
    return job, reading


def _released(client: httpx.Client, job: int) -> tuple[float, dict[str, int]]:
    """How long a release takes, seconds, and how many files are in which state."""
    begun = time.perf_counter()
    release = client.post(f"/api/jobs/{job}/releases", json={"rules": "bench"}, timeout=120).json()["id"]
    found: dict[str, Any] = {}

    def ended() -> bool:
        found.update(client.get(f"/api/releases/{release}").json())
        assert found["state"] in ("running", "done"), found["error"]
        return bool(found["state"] == "done")

    until(ended, 1800, 0.5)
    return time.perf_counter() - begun, found["counts"]


def run() -> None:
    with TemporaryDirectory() as folder:
        path = Path(folder) / "hundred.step"
        _model(path)
        with served(Path(folder) / "data", 2) as client:
            begun = time.perf_counter()
            job, reading = _job(client, path)
            ready = time.perf_counter() - begun
            whole, counts = _released(client, job)
            again, kept = _released(client, job)
    count = counts["made"]
    assert kept == {"kept": count}, kept
    told(
        f"{count} files from cold, reading and looking at the parts with it",
        ready + whole,
        reading,
        f"<= {ALL:g} s",
        ready + whole <= ALL,
    )
    told("nothing changed", again, reading, f"<= {AGAIN:g} s", again <= AGAIN)


if __name__ == "__main__":
    run()
