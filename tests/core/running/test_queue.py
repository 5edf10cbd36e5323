"""Work in a process of its own: results, refusals, crashes, calling off."""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from huey.consumer import Consumer

from skalto.core.errors import Cancelled, InputError
from skalto.jobs.child import Child, WorkFailed
from skalto.jobs.queue import Queue
from skalto.jobs.task import TaskArgument, task

HERE = "tests.core.running.test_queue"


def good(text: str, report: Callable[[float, str], None]) -> str:
    report(0.5, "half")
    return text.upper()


def refused(report: Callable[[float, str], None]) -> None:
    raise InputError("This cannot be used: take another.")


def crashing(report: Callable[[float, str], None]) -> None:
    os._exit(7)


def endless(report: Callable[[float, str], None]) -> None:
    report(0.1, "on and on")
    time.sleep(60)


def broken(report: Callable[[float, str], None]) -> None:
    raise ZeroDivisionError


class Asked(TaskArgument):
    under: str
    text: str = ""

    @property
    def key(self) -> str:
        return self.under


@task(Asked, "looking")
def good_task(asked: Asked, blobs: str, report: Callable[[float, str], None]) -> None:
    good(asked.text, report)


@task(Asked, "looking")
def refused_task(asked: Asked, blobs: str, report: Callable[[float, str], None]) -> None:
    refused(report)


@task(Asked, "looking")
def crashing_task(asked: Asked, blobs: str, report: Callable[[float, str], None]) -> None:
    crashing(report)


@task(Asked, "looking")
def endless_task(asked: Asked, blobs: str, report: Callable[[float, str], None]) -> None:
    endless(report)


@pytest.fixture(scope="module")
def child() -> Iterator[Child]:
    made = Child()
    yield made
    made.close()


def test_the_result_comes_back_and_progress_before_it(child: Child) -> None:
    told: list[tuple[float, str]] = []
    assert child.run(f"{HERE}:good", {"text": "abc"}, lambda s, t: told.append((s, t)), lambda: False) == "ABC"
    assert told == [(0.5, "half")]


def test_failures_leave_the_next_work_unharmed(child: Child) -> None:
    quiet = (lambda s, t: None, lambda: False)
    with pytest.raises(InputError, match="take another"):
        child.run(f"{HERE}:refused", {}, *quiet)
    with pytest.raises(WorkFailed, match="ZeroDivisionError"):
        child.run(f"{HERE}:broken", {}, *quiet)
    with pytest.raises(WorkFailed, match="stopped unexpectedly"):
        child.run(f"{HERE}:crashing", {}, *quiet)
    assert child.run(f"{HERE}:good", {"text": "x"}, *quiet) == "X"


def test_calling_off_ends_it_at_once(child: Child) -> None:
    begun = time.monotonic()
    with pytest.raises(Cancelled):
        child.run(f"{HERE}:endless", {}, lambda s, t: None, lambda: time.monotonic() - begun > 0.5)
    assert time.monotonic() - begun < 20


@pytest.fixture
def queue(tmp_path: Path) -> Iterator[Queue]:
    made = Queue(tmp_path)
    consumer = Consumer(made.huey, workers=1, periodic=False, initial_delay=0.02, max_delay=0.1)
    consumer.start()
    yield made
    consumer.stop(graceful=False)
    made.close()


def _wait(queue: Queue, key: str, *states: str) -> str:
    for _ in range(400):
        state = queue.state(key)
        if state is not None and state.state in states:
            return state.state
        time.sleep(0.05)
    raise AssertionError(f"{key} is {queue.state(key)}")


def test_states_of_queued_work(queue: Queue) -> None:
    queue.submit(good_task, Asked(under="a", text="a"))
    queue.submit(refused_task, Asked(under="b"))
    queue.submit(crashing_task, Asked(under="c"))
    assert _wait(queue, "a", "done", "failed") == "done"
    assert _wait(queue, "b", "done", "failed") == "failed"
    assert queue.state("b").error == "This cannot be used: take another."  # type: ignore[union-attr]
    assert _wait(queue, "c", "done", "failed") == "failed"
    assert "broke off" in queue.state("c").error  # type: ignore[union-attr]


def test_running_and_waiting_work_can_be_called_off(queue: Queue) -> None:
    queue.submit(endless_task, Asked(under="long"))
    queue.submit(good_task, Asked(under="waiting", text="w"))
    assert _wait(queue, "long", "running") == "running"
    assert queue.submit(endless_task, Asked(under="long")).state == "running"  # the same work, not twice
    queue.cancel("waiting")
    assert queue.state("waiting").state == "cancelled"  # type: ignore[union-attr]
    queue.cancel("long")
    assert _wait(queue, "long", "cancelled") == "cancelled"
    time.sleep(0.5)
    assert queue.state("waiting").state == "cancelled"  # type: ignore[union-attr]
    queue.submit(good_task, Asked(under="long", text="again"))
    assert _wait(queue, "long", "done") == "done"


def test_nothing_runs_on_after_the_queue_closes(queue: Queue) -> None:
    queue.submit(endless_task, Asked(under="long"))
    _wait(queue, "long", "running")
    closer = threading.Thread(target=queue.close)
    closer.start()
    closer.join(10)
    assert not closer.is_alive()


@task(Asked, "reading")
def reading_task(asked: Asked, blobs: str, report: Callable[[float, str], None]) -> None:
    good(asked.text, report)


def test_a_file_that_was_just_added_goes_before_what_waits(tmp_path: Path) -> None:
    made = Queue(tmp_path)
    for number in range(5):
        made.submit(good_task, Asked(under=f"look/{number}"))
    made.submit(reading_task, Asked(under="read/one"))
    taken = [made.huey.dequeue().args[0] for _ in range(6)]
    assert taken[0] == "read/one"
    assert sorted(taken[1:]) == [f"look/{number}" for number in range(5)]
    made.close()
