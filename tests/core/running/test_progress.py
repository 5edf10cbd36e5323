"""How far a long step is, told from outside of the process that does it."""

from __future__ import annotations

import os
import pickle
import time
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from skalto.core.progress import Lasting, Pace, read_of
from skalto.jobs.child import Child


def long_read(path: str, report: object) -> str:
    """Read half of a file, wait, read the rest, wait: nothing is said meanwhile."""
    report(0.02, Lasting("Reading the file", 15.0, file=path, part=0.5))  # type: ignore[operator]
    with open(path, "rb", buffering=0) as file:
        file.read(500_000)
        time.sleep(0.8)
        file.read()
        time.sleep(0.4)
    report(0.3, Lasting("Building the shapes", 2.0, expected=0.5))  # type: ignore[operator]
    time.sleep(1.0)
    return "read"


def test_a_step_s_own_words_come_through_a_pipe() -> None:
    said = Lasting("Reading the file", 15.0, "/tmp/a.step", 0.5, 3.0)
    back = pickle.loads(pickle.dumps(said))
    assert back == "Reading the file"
    assert (back.grows, back.file, back.part, back.expected) == (15.0, "/tmp/a.step", 0.5, 3.0)


@given(st.lists(st.floats(0, 1e4), min_size=2, max_size=30), st.floats(0.01, 100))
def test_it_never_goes_back_and_never_seems_done(times: list[float], expected: float) -> None:
    pace = Pace(0.3, Lasting("Building the shapes", 2.0, expected=expected), os.getpid(), 0.0)
    shares = [pace.share(now) for now in sorted(times)]
    assert shares == sorted(shares)
    assert all(0.3 <= share <= 0.6 for share in shares)
    assert pace.share(expected) == pytest.approx(0.3 + 0.3 * 0.8)


def test_how_far_a_file_is_read_is_seen(tmp_path: Path) -> None:
    path = tmp_path / "long.step"
    path.write_bytes(b"x" * 1_000_000)
    assert read_of(str(path), os.getpid()) == 0
    with path.open("rb", buffering=0) as file:
        file.read(250_000)
        assert read_of(str(path), os.getpid()) == pytest.approx(0.25)
        file.read()
        assert read_of(str(path), os.getpid()) == 1
    assert read_of(str(path), os.getpid()) == 0
    assert read_of("/nowhere", 999_999_999) == 0


def test_a_child_that_cannot_speak_is_spoken_for(tmp_path: Path) -> None:
    path = tmp_path / "long.step"
    path.write_bytes(b"x" * 1_000_000)
    child, told = Child(), list[tuple[float, str]]()
    name = "tests.core.running.test_progress:long_read"
    try:
        done = child.run(name, {"path": str(path)}, lambda share, text: told.append((share, text)), lambda: False)
    finally:
        child.close()
    assert done == "read"
    shares = [share for share, _ in told]
    assert shares == sorted(shares)
    reading = [share for share, text in told if text == "Reading the file"]
    # half of the file is half of the first half
    assert any(share == pytest.approx(0.02 * (1 + 14 * 0.25), abs=0.005) for share in reading)
    assert reading[-1] > 0.02 * (1 + 14 * 0.5)
    building = [share for share, text in told if text == "Building the shapes"]
    assert 0.5 < building[-1] < 0.6
    assert len(building) > 4
