"""A Skalto of its own for a benchmark, with a job to work on."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import httpx


@contextmanager
def served(data: Path, workers: int = 2, *options: str) -> Iterator[httpx.Client]:
    """A running application over *data*; a client of it."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    command = [str(Path(sys.executable).parent / "skalto"), "serve", "--data", str(data), "--port", str(port), *options]
    environment = os.environ | {"SKALTO_WORKERS": str(workers)}
    process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True, env=environment, start_new_session=True)
    assert process.stdout is not None
    for line in process.stdout:
        if "Skalto is at" in line:
            break
    try:
        with httpx.Client(base_url=f"http://127.0.0.1:{port}", timeout=60) as client:
            until(lambda: _listens(client))
            yield client
    finally:
        os.killpg(process.pid, signal.SIGTERM)
        process.wait(20)


def _listens(client: httpx.Client) -> bool:
    try:
        return client.get("/api/jobs").is_success
    except httpx.ConnectError:
        return False


def until(ask: Any, seconds: float = 300.0, step: float = 0.05) -> Any:
    """Ask until there is an answer."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        found = ask()
        if found:
            return found
        time.sleep(step)
    raise TimeoutError("it never came")


def job_with(client: httpx.Client, path: Path) -> tuple[int, str]:
    """A new job with a model: its id and the source's."""
    job = client.post("/api/jobs", json={"name": "bench"}).json()["id"]
    client.post(f"/api/jobs/{job}/incoming", params={"name": path.name}, content=path.read_bytes())
    sources = until(lambda: client.get(f"/api/jobs/{job}").json()["document"]["sources"], step=0.2)
    return job, sources[0]["id"]


def put(client: httpx.Client, job: int, source: str, viewpoint: Any, sheet: str | None) -> tuple[str, str]:
    """A view on a sheet: the sheet's id and the view's."""
    wish = {"source": source, "name": viewpoint.name, "look": viewpoint.look, "up": viewpoint.up, "sheet": sheet}
    placed = client.post(f"/api/jobs/{job}/views", json=wish).json()
    return placed["sheet"], placed["view"]


def drawn(client: httpx.Client, job: int, sheet: str, view: str) -> bool:
    """Whether a view's lines are there; asking for them has them made."""
    answer = client.get(f"/api/jobs/{job}/sheets/{sheet}/views/{view}/picture").json()
    return bool(answer.get("picture"))
