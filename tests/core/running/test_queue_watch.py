"""What a queue promises when workers die, hang or run out: on SQLite, and on Redis with Debian's server."""

from __future__ import annotations

import importlib
import os
import pkgutil
import signal
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path

import psutil
import pytest
from huey.consumer import Consumer

from skalto import demo
from skalto.core.errors import InputError
from skalto.jobs.child import Child, Killed, sweep
from skalto.jobs.limits import DEFAULTS, Limit
from skalto.jobs.queue import NONE_THERE, Queue, WorkState
from skalto.jobs.task import Task, TaskArgument, task
from skalto.services import tasks
from tests.machines import redis_server

HERE = "tests.core.running.test_queue_watch"


def noted(path: str, seconds: float, report: Callable[[float, str], None]) -> None:
    """Leaves a line for every time that it is begun, and one when it ends."""
    with open(path, "a") as file:
        file.write("begun\n")
    report(0.5, "half")
    time.sleep(seconds)
    with open(path, "a") as file:
        file.write("ended\n")


def waiting(seconds: float, report: Callable[[float, str], None]) -> str:
    time.sleep(seconds)
    return "waited"


def greedy(megabytes: int, report: Callable[[float, str], None]) -> None:
    taken = []
    for _ in range(megabytes // 10):
        taken.append(bytearray(os.urandom(1)) * 10_000_000)
        time.sleep(0.02)
    time.sleep(30)


def endless(report: Callable[[float, str], None]) -> None:
    while True:
        report(0.1, "on and on")


def littering(path: str, report: Callable[[float, str], None]) -> str:
    folder = tempfile.mkdtemp()
    Path(folder, "left").write_bytes(b"left")
    Path(path).write_text(folder)
    return folder


def crashing_once(path: str, report: Callable[[float, str], None]) -> None:
    mark = Path(path)
    if not mark.exists():
        mark.write_text("once")
        os.kill(os.getpid(), signal.SIGKILL)


def segfaulting(path: str, report: Callable[[float, str], None]) -> None:
    with open(path, "a") as file:
        file.write("begun\n")
    os.kill(os.getpid(), signal.SIGSEGV)


class Piece(TaskArgument):
    path: str
    seconds: float = 0.0
    under: str = "k"

    @property
    def key(self) -> str:
        return self.under


@task(Piece, "looking")
def noting(asked: Piece, blobs: str, report: Callable[[float, str], None]) -> None:
    noted(asked.path, asked.seconds, report)


@task(Piece, "looking")
def crashing_once_task(asked: Piece, blobs: str, report: Callable[[float, str], None]) -> None:
    crashing_once(asked.path, report)


@task(Piece, "looking")
def segfaulting_task(asked: Piece, blobs: str, report: Callable[[float, str], None]) -> None:
    segfaulting(asked.path, report)


@pytest.fixture(scope="module")
def redis(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    with redis_server(tmp_path_factory.mktemp("redis")) as address:
        yield address


@pytest.fixture(params=["sqlite", "redis"])
def make(request: pytest.FixtureRequest, tmp_path: Path) -> Iterator[Callable[[], Queue]]:
    """Makes queues that all stand for other processes on the same board."""
    made: list[Queue] = []
    address = request.getfixturevalue("redis") if request.param == "redis" else ""

    def queue() -> Queue:
        made.append(Queue(None, address, lost=1.2) if address else Queue(tmp_path, lost=1.2))
        return made[-1]

    yield queue
    made[0].huey.flush()
    for one in made:
        one.close()


class Working:
    """A worker in threads of this process, that beats while it is told to."""

    def __init__(self, queue: Queue) -> None:
        self.queue = queue
        self.consumer = Consumer(queue.huey, workers=1, periodic=False, initial_delay=0.02, max_delay=0.05)
        self.beating = threading.Event()
        self.beating.set()
        self._on = True
        self.consumer.start()
        self._thread = threading.Thread(target=self._beat, daemon=True)
        self._thread.start()

    def _beat(self) -> None:
        while self._on:
            if self.beating.is_set():
                self.queue.beat()
                self.queue.attend()
            time.sleep(0.1)

    def stop(self) -> None:
        self._on = False
        self._thread.join()
        self.consumer.stop(graceful=False)
        self.queue.close()
        # one that waits at Redis would take the next test's work
        for _, thread in self.consumer.worker_threads:
            thread.join(3)


def wait(until: Callable[[], object], seconds: float = 20.0) -> None:
    end = time.monotonic() + seconds
    while not until():
        assert time.monotonic() < end, "waited in vain"
        time.sleep(0.05)


def ended(queue: Queue, key: str) -> Callable[[], bool]:
    def is_so() -> bool:
        state = queue.state(key)
        return state is not None and state.state not in ("queued", "running")

    return is_so


def lines(path: Path) -> list[str]:
    return path.read_text().split() if path.exists() else []


def test_what_a_lost_worker_had_is_taken_up_once(make: Callable[[], Queue], tmp_path: Path) -> None:
    """A worker that hangs: its beat stops, another takes its work, and what it says later counts for nothing."""
    server, note = make(), tmp_path / "note"
    first = Working(make())
    server.submit(noting, Piece(path=str(note), seconds=3))
    wait(lambda: lines(note) == ["begun"])
    first.beating.clear()
    second = Working(make())
    wait(ended(server, "k"))
    assert server.state("k") == WorkState(state="done", share=1.0)
    assert lines(note).count("begun") == 2
    first.stop()
    second.stop()
    assert server.state("k") == WorkState(state="done", share=1.0)
    assert [*server.board.keys("hold:"), *server.board.keys("task:"), *server.board.keys("start:")] == []


def test_work_that_loses_two_workers_is_told(make: Callable[[], Queue], tmp_path: Path) -> None:
    server = make()
    server.submit(noting, Piece(path=str(tmp_path / "note"), seconds=60))
    for _ in range(2):
        worker = Working(make())
        wait(lambda: server.board.keys("hold:") == ["k"])
        wait(lambda: server.state("k").share == 0.5)  # type: ignore[union-attr]
        worker._on = False
        worker.consumer.stop(graceful=False)
        server.lost(worker.queue.worker)
        worker.queue.close()
    state = server.state("k")
    assert state is not None
    assert (state.state, "was lost, and so was the next" in state.error) == ("failed", True)


def test_a_worker_that_leaves_hands_back_what_it_has(make: Callable[[], Queue], tmp_path: Path) -> None:
    """As often as need be: leaving is not being lost."""
    server, note = make(), tmp_path / "note"
    server.submit(noting, Piece(path=str(note), seconds=60))
    for count in (1, 2, 3):
        worker = Working(make())
        wait(lambda count=count: lines(note).count("begun") == count)  # type: ignore[misc]
        worker._on = False
        worker._thread.join()
        worker.consumer.stop_flag.set()
        worker.queue.rest()
        worker.queue.close()
        assert server.state("k").state == "queued"  # type: ignore[union-attr]


def test_a_message_that_got_lost_is_written_anew(make: Callable[[], Queue], tmp_path: Path) -> None:
    """A worker may die between taking a message and saying so."""
    server, note = make(), tmp_path / "note"
    server.submit(noting, Piece(path=str(note), seconds=0))
    assert server.huey.dequeue() is not None
    worker = Working(make())
    wait(ended(server, "k"))
    worker.stop()
    assert lines(note) == ["begun", "ended"]


def test_a_message_that_comes_twice_is_worked_once(make: Callable[[], Queue], tmp_path: Path) -> None:
    server, note = make(), tmp_path / "note"
    server.submit(noting, Piece(path=str(note), seconds=0.3))
    message = server.huey.dequeue()
    server.huey.enqueue(message)
    server.huey.enqueue(message)
    workers = [Working(make()), Working(make())]
    wait(ended(server, "k"))
    time.sleep(0.5)
    for worker in workers:
        worker.stop()
    assert lines(note) == ["begun", "ended"]


def test_what_waits_is_told_its_place(make: Callable[[], Queue], tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """In SQLite and in Redis: what is taken first is counted first, whenever it came."""
    monkeypatch.setattr("skalto.jobs.queue._PLACES_SECONDS", 0)
    monkeypatch.setattr("skalto.jobs.queue._PLACES", 6)
    server = make()
    for number in range(5):
        server.submit(noting, Piece(under=f"look-{number}", path=str(tmp_path / "note"), seconds=60))

    def place(name: str) -> str:
        return server.state(name).text.removeprefix("Waiting for a free worker")  # type: ignore[union-attr]

    assert [place(f"look-{number}") for number in range(5)] == [", as the next", *(f", {n} before it" for n in range(1, 5))]
    reading = replace(noting, kind="reading")
    server.submit(reading, Piece(under="read", path=str(tmp_path / "note"), seconds=60))
    assert place("read") == ", as the next"
    assert place("look-0") == ", 1 before it"
    server.submit(noting, Piece(under="last", path=str(tmp_path / "note"), seconds=60))
    assert place("last") == ", 6 or more before it"
    # what is taken is before nobody
    server.huey.dequeue()
    server.huey.dequeue()
    assert place("look-1") == ", as the next"
    assert place("last") == ", 4 before it"


def test_nobody_waits_for_a_free_worker_where_there_is_none(make: Callable[[], Queue], tmp_path: Path) -> None:
    server = make()
    server.attend()
    server.submit(noting, Piece(path=str(tmp_path / "note"), seconds=60))
    assert server.state("k") == WorkState(state="queued", text=NONE_THERE)
    worker = make()
    worker.beat()
    server.attend()
    assert server.state("k").text == "Waiting for a free worker, as the next"  # type: ignore[union-attr]
    time.sleep(1.3)
    server.attend()
    assert server.state("k").text == NONE_THERE  # type: ignore[union-attr]
    server.cancel("k")
    assert server.state("k").state == "cancelled"  # type: ignore[union-attr]


def test_a_start_empties_nothing_that_others_work_on(redis: str, tmp_path: Path) -> None:
    queue = Queue(None, redis)
    queue.submit(noting, Piece(path="x", seconds=0))
    queue.reset()
    assert queue.state("k") is not None
    queue.huey.flush()
    own = Queue(tmp_path)
    own.submit(noting, Piece(path="x", seconds=0))
    own.reset()
    assert own.state("k") is None


def test_a_queue_that_does_not_answer_is_told() -> None:
    with pytest.raises(InputError, match="Redis does not answer"):
        Queue(None, "redis://127.0.0.1:1/0")


def test_how_work_ended_is_written_down_when_there_is_room_again(
    make: Callable[[], Queue], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    server, worker = make(), Working(make())
    room, put = threading.Event(), worker.queue.board.put

    def full(key: str, value: bytes) -> None:
        if key == "work:k" and b'"done"' in value and not room.is_set():
            raise OSError("database or disk is full")
        put(key, value)

    monkeypatch.setattr(worker.queue.board, "put", full)
    server.submit(noting, Piece(path=str(tmp_path / "note"), seconds=0))
    wait(lambda: lines(tmp_path / "note") == ["begun", "ended"])
    time.sleep(0.5)
    assert server.state("k").state == "running"  # type: ignore[union-attr]
    room.set()
    wait(ended(server, "k"))
    worker.stop()
    assert server.state("k") == WorkState(state="done", share=1.0)


def test_work_that_could_not_even_be_begun_is_handed_back(
    make: Callable[[], Queue], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    server, worker = make(), Working(make())
    room, put = threading.Event(), worker.queue.board.put

    def full(key: str, value: bytes) -> None:
        if key.startswith(("work:", "hold:", "task:")) and not room.is_set():
            raise OSError("database or disk is full")
        put(key, value)

    monkeypatch.setattr(worker.queue.board, "put", full)
    server.submit(noting, Piece(path=str(tmp_path / "note"), seconds=0))
    time.sleep(0.5)
    assert lines(tmp_path / "note") == []
    room.set()
    wait(ended(server, "k"))
    worker.stop()
    assert lines(tmp_path / "note") == ["begun", "ended"]
    assert server.board.keys("hold:") == []


def test_work_called_off_as_it_begins_is_in_nobody_s_hand(make: Callable[[], Queue], tmp_path: Path) -> None:
    server, worker = make(), make()
    server.submit(noting, Piece(path=str(tmp_path / "note"), seconds=0))
    write = worker._write

    def late(key: str, attempt: str, state: WorkState) -> bool:
        server.cancel("k")
        return write(key, attempt, state)

    worker._write = late  # type: ignore[method-assign]
    consumer = Working(worker)
    wait(lambda: server.state("k").state == "cancelled" and server.board.keys("start:") == [])  # type: ignore[union-attr]
    wait(lambda: server.board.keys("hold:") == [])
    consumer.stop()
    assert lines(tmp_path / "note") == []


QUIET = (lambda share, text: None, lambda: False)


@pytest.mark.long
def test_limits_of_time_and_memory_end_in_a_sentence_and_free_the_worker(tmp_path: Path) -> None:
    child = Child(limits={"looking": Limit(1.0, 400)})
    begun = time.monotonic()
    with pytest.raises(InputError, match="Making this picture took more than 1 seconds and was stopped: choose a lower"):
        child.run(f"{HERE}:endless", {}, *QUIET)
    assert time.monotonic() - begun < 15
    child = Child(limits={"looking": Limit(60, 400)})
    with pytest.raises(InputError, match=r"more than 0\.4 GB of memory and was stopped"):
        child.run(f"{HERE}:greedy", {"megabytes": 2000}, *QUIET)
    assert child.run(f"{HERE}:littering", {"path": str(tmp_path / "where")}, *QUIET)
    child.close()


def test_all_work_of_a_machine_together_has_a_limit() -> None:
    """Of two that work, the larger one is stopped, and the other goes on."""
    small, large = Child(), Child()
    small.together = large.together = 900.0
    told: list[str] = []

    def work() -> None:
        told.append(str(small.run(f"{HERE}:waiting", {"seconds": 6.0}, *QUIET)))

    beside = threading.Thread(target=work)
    beside.start()
    time.sleep(0.5)
    with pytest.raises(InputError, match="all work together took the memory"):
        large.run(f"{HERE}:greedy", {"megabytes": 3000}, *QUIET)
    beside.join(20)
    assert told == ["waited"]
    small.close()
    large.close()


def test_what_took_much_is_not_kept(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    from skalto.jobs import child as module

    kept = Child()
    kept.run(f"{HERE}:waiting", {"seconds": 0.0}, *QUIET)
    first = kept.pid
    kept.run(f"{HERE}:waiting", {"seconds": 0.0}, *QUIET)
    assert kept.pid == first is not None
    monkeypatch.setattr(module, "RENEWED", 1.0)
    kept.run(f"{HERE}:waiting", {"seconds": 0.0}, *QUIET)
    assert kept.pid is None
    kept.close()


def test_every_task_is_found_by_its_name_and_has_limits() -> None:
    found = 0
    for package in (tasks, demo):
        for info in pkgutil.iter_modules(package.__path__):
            if package is demo and info.name != "tasks":
                continue
            module = importlib.import_module(f"{package.__name__}.{info.name}")
            for name, own in vars(module).items():
                if isinstance(own, Task) and own.do.__module__ == module.__name__:
                    assert own.name == f"{module.__name__}:{name}"
                    assert own.kind in DEFAULTS
                    found += 1
    assert found > 15


@pytest.mark.parametrize("preload", ["", "json"])
def test_temporary_files_go_with_the_work_and_with_the_process(tmp_path: Path, preload: str) -> None:
    child, where = Child(preload), tmp_path / "where"
    left = Path(child.run(f"{HERE}:littering", {"path": str(where)}, *QUIET))
    assert not left.exists()
    folder = left.parent
    assert folder.is_dir()
    child.close()
    assert not folder.exists()


@pytest.mark.long
@pytest.mark.parametrize("preload", ["", "json"])
def test_a_killed_process_is_told_apart_from_a_crash(tmp_path: Path, preload: str) -> None:
    child, note = Child(preload), tmp_path / "note"
    with pytest.raises(Killed):
        child.run(f"{HERE}:crashing_once", {"path": str(note)}, *QUIET)
    child.run(f"{HERE}:crashing_once", {"path": str(note)}, *QUIET)
    with pytest.raises(Exception, match="stopped unexpectedly") as caught:
        child.run(f"{HERE}:segfaulting", {"path": str(note)}, *QUIET)
    assert not isinstance(caught.value, Killed)
    child.close()


def test_the_process_that_others_are_forked_from_may_be_killed(tmp_path: Path) -> None:
    child, where = Child("json"), str(tmp_path / "where")
    child.run(f"{HERE}:littering", {"path": where}, *QUIET)
    source = psutil.Process(child.pid).parent()
    assert source is not None
    assert source.pid != os.getpid()
    threading.Timer(0.5, source.kill).start()
    with pytest.raises(Killed):
        child.run(f"{HERE}:endless", {}, *QUIET)
    assert child.run(f"{HERE}:littering", {"path": where}, *QUIET)
    child.close()


def test_a_temporary_folder_with_a_long_name_is_no_hindrance(tmp_path: Path) -> None:
    """A socket's name has 107 characters at most, and processes are forked through one. Nothing is left behind."""
    long = tmp_path / ("n" * 120)
    long.mkdir()
    script = (
        "from skalto.jobs.child import Child\nchild = Child('json')\n"
        f"child.run('{HERE}:littering', {{'path': {str(tmp_path / 'where')!r}}}, lambda s, t: None, lambda: False)\n"
        "print(child.pid)\nchild.close()\n"
    )
    ran = subprocess.run([sys.executable, "-c", script], env=os.environ | {"TMPDIR": str(long)}, capture_output=True, text=True)
    assert (ran.returncode, ran.stderr) == (0, "")
    assert list(long.iterdir()) == []


def test_work_whose_process_was_killed_is_tried_once_more(tmp_path: Path) -> None:
    """The out-of-memory killer takes the largest process, not the guilty one. A crash of the kernel is not tried again."""
    server, worker = Queue(tmp_path / "data"), Working(Queue(tmp_path / "data"))
    once, crash = tmp_path / "once", tmp_path / "crash"
    server.submit(crashing_once_task, Piece(path=str(once), under="once"))
    server.submit(segfaulting_task, Piece(path=str(crash), under="crash"))
    wait(ended(server, "once"))
    wait(ended(server, "crash"))
    worker.stop()
    assert server.state("once") == WorkState(state="done", share=1.0)
    assert "broke off" in server.state("crash").error  # type: ignore[union-attr]
    assert lines(crash) == ["begun"]


def test_folders_of_processes_that_are_gone_are_swept(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(tempfile, "tempdir", str(tmp_path))
    gone = subprocess.Popen(["true"])
    gone.wait()
    for name in (f"skalto-work-{gone.pid}-abc", f"skalto-work-{os.getpid()}-abc", "skalto-work-x-abc", "another"):
        (tmp_path / name).mkdir()
        (tmp_path / name / "file").write_bytes(b"x")
    sweep()
    assert sorted(path.name for path in tmp_path.iterdir()) == sorted(
        [f"skalto-work-{os.getpid()}-abc", "skalto-work-x-abc", "another"]
    )
