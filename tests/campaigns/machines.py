"""Forty sheets on one, two and three workers elsewhere, each on one core and doing one thing at a time: how the time
goes down with the cores.

``python -m tests.campaigns.machines [--sheets 40]``. Queue in Debian's Redis, blobs in a shared folder, the server works
nothing itself.
"""

from __future__ import annotations

import argparse
import math
import tempfile
import time
from pathlib import Path

from skalto.core.cores import cores
from skalto.demo.press import write_press
from tests.api.test_api import bring_in, new_job, wait_for
from tests.conftest import Running
from tests.machines import Machine, redis_server


def took(folder: Path, sheets: int, workers: int) -> float:
    """Seconds from the first sheet asked for to the last written, with so many workers."""
    folder.mkdir()
    with redis_server(folder) as redis:
        elsewhere = {"SKALTO_REDIS": redis, "SKALTO_BLOBS": str(folder / "shared")}
        host = Running(folder / "server", SKALTO_WORKERS="0", **elsewhere)  # type: ignore[arg-type]
        machines = [Machine(folder / f"{n}.log", core=n % cores(), **elsewhere) for n in range(workers)]  # type: ignore[arg-type]
        try:
            press = folder / "Ebba.step"
            write_press(press)
            job = new_job(host)
            source = bring_in(host, job, press)
            addresses = []
            for number in range(sheets):
                angle = math.tau * number / sheets
                wish = {
                    "source": source,
                    "name": f"{number}",
                    "look": [math.cos(angle), math.sin(angle), -0.5],
                    "up": [0, 0, 1],
                }
                sheet = host.client.post(f"/api/jobs/{job}/views", json={**wish, "sheet": None}).json()["sheet"]
                addresses.append(f"/api/jobs/{job}/sheets/{sheet}/proof")
            began = time.monotonic()
            for address in addresses:
                host.client.post(address)
            for address in addresses:
                wait_for(lambda address=address: host.client.get(address).json()["ready"], 1800)
            return time.monotonic() - began
        finally:
            for machine in machines:
                machine.stop()
            host.interrupt()


def main() -> None:
    ask = argparse.ArgumentParser()
    ask.add_argument("--sheets", type=int, default=40)
    given = ask.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        first = 0.0
        for workers in (1, 2, 3):
            seconds = took(Path(folder) / str(workers), given.sheets, workers)
            first = first or seconds
            rate = given.sheets / seconds * 3600
            print(f"{workers} workers: {seconds:.0f} s, {first / seconds:.2f} times one, {rate:.0f} sheets an hour", flush=True)


if __name__ == "__main__":
    main()
