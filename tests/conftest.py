"""Models for the tests, made with the kernel; a running Skalto for those that need one."""

from __future__ import annotations

import importlib
import os
import re
import signal
import socket
import subprocess
import sys
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest
from OCP.Interface import Interface_Static
from OCP.STEPControl import STEPControl_AsIs, STEPControl_Writer

from skalto.demo.solids import block, cut, cylinder

SAMPLES = Path("/usr/share/opencascade/data")
"""The sample models of Debian's occt-misc package."""


def write_step(shape: Any, path: Path, unit: str = "MM") -> Path:
    """Write one shape as STEP in a unit; the shape's numbers are mm."""
    writer = STEPControl_Writer()
    Interface_Static.SetCVal_s("write.step.unit", unit)
    writer.Transfer(shape, STEPControl_AsIs)
    writer.Write(str(path))
    Interface_Static.SetCVal_s("write.step.unit", "MM")
    return path


def plate_with_holes() -> Any:
    """A plate 120 × 80 × 10 with holes Ø30 at (−30, 0), Ø12 and Ø6.5, centred on the origin, z from 0."""
    holes = [cylinder(30, 40, (-30, 0, -10)), cylinder(12, 40, (25, 15, -10)), cylinder(6.5, 40, (40, -20, -10))]
    return cut(block(120, 80, 10), *holes)


@pytest.fixture(scope="session")
def plate_step(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return write_step(plate_with_holes(), tmp_path_factory.mktemp("plate") / "plate.step")


@pytest.fixture(scope="session")
def press_step(tmp_path_factory: pytest.TempPathFactory) -> Path:
    from skalto.demo.press import write_press

    path = tmp_path_factory.mktemp("press") / "Ebba.step"
    write_press(path)
    return path


@pytest.fixture(scope="session")
def skalto() -> Callable[..., subprocess.CompletedProcess[str]]:
    """Runs the command line as a person would."""

    def run(*arguments: str | Path) -> subprocess.CompletedProcess[str]:
        command = [str(Path(sys.executable).parent / "skalto"), *map(str, arguments)]
        return subprocess.run(command, capture_output=True, text=True, timeout=180, check=False)

    return run


Ran = Callable[..., tuple[int, str, str]]


@pytest.fixture
def skalto_here(monkeypatch: pytest.MonkeyPatch, capfd: pytest.CaptureFixture[str]) -> Ran:
    """The command line itself, its work in this process: status, what it printed, what it complained of. Starting one anew for
    each takes most of the time."""
    from skalto import cli

    def here(function: str, arguments: dict[str, Any], kind: str = "writing") -> Any:
        module, name = function.split(":")
        return getattr(importlib.import_module(module), name)(**arguments, report=lambda share, text: None)

    def go(*arguments: str | Path) -> tuple[int, str, str]:
        monkeypatch.setattr(cli, "_run", here)
        monkeypatch.setattr("sys.argv", ["skalto", *map(str, arguments)])
        capfd.readouterr()
        status = 0
        try:
            cli.main()
        except SystemExit as left:
            status = int(left.code or 0)
        out = capfd.readouterr()
        return status, out.out, out.err

    return go


@pytest.fixture
def skalto_quick(skalto_here: Ran) -> Callable[..., subprocess.CompletedProcess[str]]:
    """The same, with answers as a process gives them."""

    def run(*arguments: str | Path) -> subprocess.CompletedProcess[str]:
        status, out, told = skalto_here(*arguments)
        return subprocess.CompletedProcess([*map(str, arguments)], status, out, told)

    return run


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


class Running:
    """A Skalto that was started for the tests."""

    def __init__(self, data: Path, *options: str, port: int | None = None, **environment: str) -> None:
        self.data = data
        self.port = port or _free_port()
        self.address = f"http://127.0.0.1:{self.port}"
        command = [
            str(Path(sys.executable).parent / "skalto"),
            "serve",
            "--data",
            str(data),
            "--port",
            str(self.port),
            *options,
        ]
        surroundings = os.environ | {"SKALTO_SIZE_LIMIT_MB": "20"} | environment
        self.log = data / "server.log"
        data.mkdir(parents=True, exist_ok=True)
        with self.log.open("w") as log:
            self.process = subprocess.Popen(
                command, stdout=subprocess.PIPE, stderr=log, text=True, env=surroundings, start_new_session=True
            )
        assert self.process.stdout is not None
        self.said = ""
        """What it printed at its start."""

        for line in self.process.stdout:
            self.said += line
            if re.search(r"Skalto is at", line):
                break
        self.client = httpx.Client(base_url=self.address, timeout=60)

    def kill(self) -> None:
        """As when the machine loses its power."""
        self.client.close()
        self.process.kill()
        self.process.wait(20)

    def interrupt(self) -> int:
        """Ctrl-C, as a terminal sends it; the exit status."""
        self.client.close()
        if self.process.poll() is None:
            os.killpg(self.process.pid, signal.SIGINT)
        return self.process.wait(20)


@pytest.fixture(scope="session")
def running(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Running]:
    started = Running(tmp_path_factory.mktemp("data"))
    yield started
    started.interrupt()
