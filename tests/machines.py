"""Servers that stand in for other machines: Redis from Debian, an S3 store by moto, and workers as processes of their own."""

from __future__ import annotations

import os
import shutil
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def _answers(port: int) -> None:
    for _ in range(400):
        with socket.socket() as probe:
            if probe.connect_ex(("127.0.0.1", port)) == 0:
                return
        time.sleep(0.05)
    raise AssertionError(f"nothing answers at port {port}")


@contextmanager
def redis_server(folder: Path) -> Iterator[str]:
    """A Redis that keeps nothing; its address."""
    port = free_port()
    command = [shutil.which("redis-server") or "/usr/bin/redis-server", "--port", str(port), "--save", "", "--dir", str(folder)]
    server = subprocess.Popen(command, stdout=subprocess.DEVNULL)
    try:
        _answers(port)
        yield f"redis://127.0.0.1:{port}/0"
    finally:
        server.terminate()
        server.wait()


@contextmanager
def s3_server() -> Iterator[dict[str, str]]:
    """A store with S3's interface and an empty bucket, as the environment that leads to it."""
    port = free_port()
    command = [str(Path(sys.executable).parent / "moto_server"), "-H", "127.0.0.1", "-p", str(port)]
    server = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    try:
        _answers(port)
        httpx.put(f"http://127.0.0.1:{port}/skalto").raise_for_status()
        yield {
            "AWS_ENDPOINT_URL": f"http://127.0.0.1:{port}",
            "AWS_ACCESS_KEY_ID": "key",
            "AWS_SECRET_ACCESS_KEY": "secret",
            "AWS_DEFAULT_REGION": "us-east-1",
            "SKALTO_BLOBS": "s3://skalto/blobs",
        }
    finally:
        server.terminate()
        server.wait()


class Machine:
    """A worker on a machine of its own, as far as it can tell; with one *core* alone, if it is named."""

    def __init__(self, log: Path, workers: int = 1, core: int | None = None, **environment: str) -> None:
        command = [str(Path(sys.executable).parent / "skalto"), "work", "--workers", str(workers)]
        if core is not None:
            command = ["taskset", "--cpu-list", str(core), *command]
        self.log = log
        with log.open("w") as out:
            self.process = subprocess.Popen(
                command, stdout=out, stderr=out, env=os.environ | environment, cwd=log.parent, start_new_session=True
            )

    def said(self) -> str:
        return self.log.read_text()

    def kill(self) -> None:
        """As when the machine loses its power: the worker and all that it started."""
        os.killpg(self.process.pid, 9)
        self.process.wait()

    def stop(self) -> int:
        self.process.terminate()
        return self.process.wait(20)
