"""Every benchmark still runs: once, doing little. What it measures then means nothing."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import pytest

from bench.__main__ import NAMES

ROOT = Path(__file__).parents[2]


def small(name: str) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "bench", "--small", name]
    return subprocess.run(command, capture_output=True, text=True, cwd=ROOT, timeout=300)


SOON = ("writing",)
"""What starts neither a server nor a browser, and is soon done."""


@pytest.mark.parametrize("name", [pytest.param(n, marks=() if n in SOON else pytest.mark.long) for n in NAMES])
def test_it_runs(name: str) -> None:
    done = small(name)
    assert done.returncode == 0, done.stderr
    assert len(done.stdout.splitlines()) >= 2


def test_one_that_is_broken_is_seen() -> None:
    assert small("of_nothing").returncode != 0
