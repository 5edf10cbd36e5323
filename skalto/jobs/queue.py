"""The queue: work under a key, its state where every process can read it.

What is written down for each key: ``work:`` how far it is, ``task:`` what to do, until it has ended, ``start:`` which worker
took which attempt, ``hold:`` who has it in hand, ``cancel:`` that it is to be called off. A worker that takes a message
must come first at its ``start:``, so that no attempt is made twice, whoever hands the message out again. Workers beat
(``beat:``); one whose beat stops has its work handed to another, once. All times are each process's own, from the last change
that it saw: clocks may jump or differ.
"""

from __future__ import annotations

import hashlib
import logging
import os
import socket
import threading
import time
import uuid
from collections.abc import Callable, Iterable, Mapping
from contextlib import suppress
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any, Literal

import orjson
from pydantic import BaseModel

from skalto import __version__
from skalto.core.errors import Cancelled, InputError
from skalto.jobs.board import Board
from skalto.jobs.child import Child, Killed, WorkFailed
from skalto.jobs.limits import Kind, Limit
from skalto.jobs.task import Argument, Task

State = Literal["queued", "running", "done", "failed", "cancelled"]
_log = logging.getLogger(__name__)

LOST_SECONDS = 20.0
"""A worker whose beat has not changed for so long is taken for lost, where nothing else is said."""

_FORGET_SECONDS = 60.0
_KEPT_SECONDS = 3600.0
_PLACES = 200
_PLACES_SECONDS = 0.5
WAITING = "Waiting for a free worker"
NONE_THERE = "No worker is running: the work waits until one is started (skalto work)"
STARTING = "The workers are being started"
_BROKE_OFF = "The work broke off unexpectedly: the file may be damaged. Try it again, or export it anew."
_LOST_TWICE = "The worker that did this was lost, and so was the next: try it again, with less at once."

PASSING = (_BROKE_OFF, _LOST_TWICE)
"""Reasons that are not in what was asked for: asked once more, it may go well."""


FIRST: dict[str, int] = {"reading": 30, "looking": 20, "readying": 10, "drawing": 10}
"""What is taken before other work that waits: a file that a person has just added, then what one looks at."""


class WorkState(BaseModel):
    """How far a piece of work is: *share* 0 to 1, what is being done, and for a failure the sentence that says why."""

    state: State
    share: float = 0.0
    text: str = ""
    error: str = ""


class _Written(WorkState):
    """The same as it is written down: *attempt* names the one try that it is of."""

    attempt: str = ""


@lru_cache(maxsize=1)
def release() -> str:
    """What names this release: its version and the bytes of its code. Workers of another give other results."""
    found = hashlib.sha256()
    root = Path(__file__).resolve().parent.parent
    for path in sorted(root.rglob("*.py")):
        found.update(str(path.relative_to(root)).encode() + path.read_bytes())
    return f"{__version__}-{found.hexdigest()[:12]}"


@dataclass
class _Sight:
    """A beat as it was last seen to change, on this process's own clock."""

    value: bytes
    at: float


@dataclass
class _Places:
    """How many pieces of work come before each of those that wait, by key, as it was when it was looked up."""

    of: dict[str, int]
    at: float


class Queue:
    """Hands work to whichever worker is free. One key is one piece of work: asking again while it runs changes nothing."""

    def __init__(
        self,
        data: Path | None,
        redis: str = "",
        preload: str = "",
        blobs: str = "",
        limits: Mapping[Kind, Limit] | None = None,
        lost: float = LOST_SECONDS,
    ) -> None:
        """:param preload: a module that workers' processes load at their start. :param blobs: where results are kept; workers
        without it keep them where the asker does. :param lost: seconds after which a worker that is silent is taken for lost.
        """
        self.board = Board(data, redis)
        self.huey = self.board.huey
        self.worker = f"{socket.gethostname()}-{os.getpid()}-{uuid.uuid4().hex[:8]}"
        """The name of this process, if it works."""

        self.lost_after = lost
        self.beats_every = min(2.0, lost / 10)

        self.absent = NONE_THERE
        """What is said of work that waits while there is no worker."""

        self._task = self.huey.task(name="work")(self._run)
        self._children = threading.local()
        self._all: list[Child] = []
        self._spare: list[Child] = []
        self._preload, self._blobs, self._limits = preload, blobs, limits
        self._beats: dict[str, _Sight] = {}
        self._strays: dict[str, tuple[str, float]] = {}
        self._ended: dict[str, float] = {}
        self._forgotten = time.monotonic()
        self._beaten = 0
        self._places: _Places | None = None
        self._attended = False
        self._attending = threading.Lock()
        self.changed: Callable[[str], None] = lambda key: None
        """Told the key of every piece of work that is asked for here."""

        self.asked: Callable[[str, str], None] = lambda key, argument: None
        """Told the key of work that is queued, and its argument as JSON."""

    # Asking

    def submit(self, task: Task[Argument], asked: Argument) -> WorkState:
        """Queue a task with its argument, under the argument's key, unless that is queued or running already."""
        key = asked.key
        self.changed(key)
        state = self.state(key)
        if state is not None and state.state in ("queued", "running"):
            return state
        argument = asked.model_dump_json()
        self.asked(key, argument)
        facts = {"function": task.name, "argument": argument, "kind": task.kind}
        wanted = facts | {"blobs": self._blobs, "tries": 0}
        self.board.drop(f"cancel:{key}")
        self.board.put(f"task:{key}", orjson.dumps(wanted))
        self._hand_out(key)
        return self._told(key, WorkState(state="queued", text=WAITING))

    def _hand_out(self, key: str) -> None:
        attempt = uuid.uuid4().hex
        self._put(key, _Written(state="queued", text=WAITING, attempt=attempt))
        task = self.board.get(f"task:{key}")
        kind = orjson.loads(task).get("kind", "") if task is not None else ""
        self._task(key, attempt, priority=FIRST.get(kind, 0))

    def state(self, key: str) -> WorkState | None:
        """The state of a piece of work, or None when it was never asked for or is forgotten."""
        found = self._read(key)
        return None if found is None else self._told(key, WorkState(**found.model_dump(exclude={"attempt"})))

    def _told(self, key: str, state: WorkState) -> WorkState:
        """Nobody waits for a free worker where there is none; where there is one, what comes before is told."""
        if state.state != "queued":
            return state
        if self._attended and not self.workers():
            return state.model_copy(update={"text": self.absent})
        return state.model_copy(update={"text": f"{state.text}{self._place(key)}"})

    def _place(self, key: str) -> str:
        """What comes before a piece of work that waits; looked up at most twice a second, however many are asked about."""
        now = time.monotonic()
        if self._places is None or now - self._places.at > _PLACES_SECONDS:
            self._places = _Places(
                {own: place for place, own in reversed(list(enumerate(self.board.first_keys(_PLACES))))}, now
            )
        place = self._places.of.get(key)
        if place is None:
            # handed out since, behind all that was there, or farther back than is looked
            return f", {_PLACES} or more before it" if len(self._places.of) >= _PLACES else ""
        return f", {place} before it" if place else ", as the next"

    def cancel(self, key: str) -> None:
        """Call work off; a running one is stopped within a second. What was never asked for is left alone."""
        state = self._read(key)
        if state is None or state.state not in ("queued", "running"):
            return
        self.changed(key)
        self.board.put(f"cancel:{key}", b"1")
        if state.state == "queued":
            self._put(key, state.model_copy(update={"state": "cancelled", "text": ""}))
            self.board.drop(f"task:{key}")

    def settle(self, keys: Iterable[str], seconds: float = 5.0) -> None:
        """Wait until work that was cancelled has ended, so that it can be asked for anew."""
        end = time.monotonic() + seconds
        for key in keys:
            while self._cancelled(key) and time.monotonic() < end:
                state = self.state(key)
                if state is None or state.state not in ("queued", "running"):
                    break
                time.sleep(0.05)

    def forget(self, key: str) -> None:
        """Drop the state of finished work."""
        self.board.drop(f"work:{key}", f"task:{key}")

    def reset(self) -> None:
        """For the start: drop all that is queued and all states, where nobody else works on it."""
        if not self.board.redis:
            self.board.flush()

    def announce(self, store: str) -> None:
        """Say which release serves, and which blob store (a name that is kept in it) results go to."""
        self.board.put("serves", orjson.dumps({"release": release(), "store": store}))

    def served(self) -> dict[str, str] | None:
        """What the server announced, or None when none ever did."""
        said = self.board.get("serves")
        return None if said is None else orjson.loads(said)

    # What is written down

    def _read(self, key: str) -> _Written | None:
        data = self.board.get(f"work:{key}")
        return None if data is None else _Written.model_validate_json(data)

    def _put(self, key: str, state: _Written) -> None:
        self.board.put(f"work:{key}", state.model_dump_json().encode())

    def _write(self, key: str, attempt: str, state: WorkState) -> bool:
        """Write a state down, if the attempt that it is of is still the one that counts."""
        now = self._read(key)
        if now is None or now.attempt != attempt or now.state not in ("queued", "running"):
            return False
        self._put(key, _Written(**state.model_dump(), attempt=attempt))
        return True

    def _cancelled(self, key: str) -> bool:
        return self.board.has(f"cancel:{key}")

    # Working

    def _child(self) -> Child:
        """This worker thread's process."""
        if not hasattr(self._children, "child"):
            if self._spare:
                self._children.child = self._spare.pop()
            else:
                self._children.child = Child(self._preload, self._limits)
                self._all.append(self._children.child)
        child: Child = self._children.child
        return child

    def _run(self, key: str, attempt: str) -> None:
        state = self._read(key)
        if state is None or state.attempt != attempt or state.state != "queued":
            return
        task = self.board.get(f"task:{key}")
        if task is None or not self.board.first(f"start:{key}:{attempt}", self.worker.encode()):
            return
        try:
            self.board.put(f"hold:{key}", self._holding(attempt))
            ended = self._worked(key, attempt, orjson.loads(task))
        except Exception as error:
            # it could not even be begun: the disk is full, the network away
            _log.error("could not begin, handing back: %s", error)
            self._surely(lambda: self._hand_on(key, attempt, 0))
            return
        self._surely(lambda: self._end(key, attempt, ended))

    def _holding(self, attempt: str) -> bytes:
        return f"{self.worker} {attempt}".encode()

    def _end(self, key: str, attempt: str, ended: WorkState) -> None:
        if self._write(key, attempt, ended):
            self.board.drop(f"task:{key}")
        if self.board.get(f"hold:{key}") == self._holding(attempt):
            self.board.drop(f"hold:{key}")
        self.board.drop(f"start:{key}:{attempt}")

    def _surely(self, write: Callable[[], None]) -> None:
        """Write down how something ended, however long that takes: the disk may be full, the network away."""
        wait = 0.2
        while True:
            try:
                return write()
            except Exception as error:
                _log.error("could not write down how work ended, trying again: %s", error)
                time.sleep(wait)
                wait = min(5.0, wait * 2)

    def _worked(self, key: str, attempt: str, task: dict[str, Any]) -> WorkState:
        """Do a piece of work; how it ended."""
        if self._cancelled(key):
            return WorkState(state="cancelled")
        ours = [self._write(key, attempt, WorkState(state="running", text="Starting"))]

        def report(share: float, text: str) -> None:
            # how far it is may get lost, where it cannot be written down; the work goes on
            with suppress(Exception):
                ours[0] = self._write(key, attempt, WorkState(state="running", share=share, text=text))

        def called_off() -> bool:
            with suppress(Exception):
                return not ours[0] or self._cancelled(key)
            return False

        function = task["function"]
        arguments = {"blobs": self._blobs or task["blobs"], "argument": task["argument"]}
        for last in (False, True):
            try:
                self._child().run(function, arguments, report, called_off, task["kind"])
                return WorkState(state="done", share=1.0)
            except InputError as error:
                return WorkState(state="failed", error=str(error))
            except Cancelled:
                return WorkState(state="cancelled")
            except Killed:
                _log.error("%s: its process was killed%s", function, "" if last else ", it is tried once more")
            except WorkFailed as error:
                _log.error("%s failed: %s", function, error)
                return WorkState(state="failed", error=_BROKE_OFF)
        return WorkState(state="failed", error="The process that did this was killed, twice: there may be too little memory.")

    def warm(self, workers: int) -> None:
        """Start the processes of so many workers before there is work for them."""
        for _ in range(workers):
            child = Child(self._preload, self._limits)
            child.warm()
            self._all.append(child)
            self._spare.append(child)

    def close(self) -> None:
        """Stop the workers' processes."""
        for child in self._all:
            child.close()

    # Keeping watch

    def beat(self) -> None:
        """Say that this worker lives."""
        self._beaten += 1
        self.board.put(f"beat:{self.worker}", str(self._beaten).encode())

    def rest(self) -> None:
        """Say that this worker leaves, and what it had in hand is free."""
        self._give_up(self.worker, 0)

    def workers(self) -> list[str]:
        """The workers whose beat was seen of late."""
        now = time.monotonic()
        return [name for name, sight in self._beats.items() if now - sight.at < self.lost_after]

    def attend(self) -> None:
        """Look after all that is under way: what a lost worker had, what nobody took, what ended long ago. Every worker and
        the server do this every few seconds."""
        if not self._attending.acquire(blocking=False):
            return
        try:
            self._look_at_beats()
            self._look_at_strays()
            self._forget_old()
            self._attended = True
        finally:
            self._attending.release()

    def _look_at_beats(self) -> None:
        now = time.monotonic()
        names = self.board.keys("beat:")
        for name in names:
            value = self.board.get(f"beat:{name}") or b""
            seen = self._beats.get(name)
            if seen is None or seen.value != value:
                self._beats[name] = _Sight(value, now)
            elif now - seen.at > self.lost_after and name != self.worker:
                _log.error("worker %s is lost: others take up its work", name)
                self.lost(name)
        for name in set(self._beats) - set(names):
            del self._beats[name]

    def lost(self, worker: str) -> None:
        """Hand what a worker had in hand to another; what was handed on before has failed."""
        self._give_up(worker, 1)

    def _give_up(self, worker: str, counts: int) -> None:
        for key in self.board.keys("hold:"):
            held = (self.board.get(f"hold:{key}") or b"").decode()
            holder, _, attempt = held.partition(" ")
            if holder == worker:
                self._hand_on(key, attempt, counts)
        self.board.drop(f"beat:{worker}")
        self._beats.pop(worker, None)

    def _hand_on(self, key: str, attempt: str, counts: int = 1) -> None:
        """Give up an attempt, and make the next, unless it was the second. Two may do this at once: the attempt that is written
        down last counts, and the other's message finds that it does not."""
        state = self._read(key)
        if state is None or state.attempt != attempt or state.state not in ("queued", "running"):
            self.board.drop(f"hold:{key}", f"start:{key}:{attempt}")
            return
        task = self.board.get(f"task:{key}")
        facts = orjson.loads(task) if task is not None else {"tries": 1}
        self.board.drop(f"hold:{key}")
        if self._cancelled(key) or facts["tries"] >= 1:
            ended = {"state": "cancelled"} if self._cancelled(key) else {"state": "failed", "error": _LOST_TWICE}
            self._put(key, state.model_copy(update=ended | {"text": ""}))
            self.board.drop(f"task:{key}")
        else:
            self.board.put(f"task:{key}", orjson.dumps(facts | {"tries": counts}))
            self._hand_out(key)
        self.board.drop(f"start:{key}:{attempt}")

    def _look_at_strays(self) -> None:
        """What waits though there is no message for it, and what runs though nobody has it in hand."""
        now = time.monotonic()
        held = set(self.board.keys("hold:"))
        idle = self.board.waiting() == 0
        under_way = self.board.keys("task:")
        for key in under_way:
            state = self._read(key)
            if state is None or key in held or (state.state == "queued" and not idle):
                self._strays.pop(key, None)
                continue
            if state.state not in ("queued", "running"):
                self.board.drop(f"task:{key}")
                continue
            seen = self._strays.get(key)
            if seen is None or seen[0] != state.attempt:
                self._strays[key] = (state.attempt, now)
            elif now - seen[1] > self.lost_after / 2:
                del self._strays[key]
                self._hand_on(key, state.attempt)
        self._strays = {key: seen for key, seen in self._strays.items() if key in under_way}

    def _forget_old(self) -> None:
        """Drop the states of what ended an hour ago: its results are where they are."""
        now = time.monotonic()
        if now < self._forgotten + _FORGET_SECONDS:
            return
        self._forgotten = now
        ended = set(self.board.keys("work:")) - set(self.board.keys("task:"))
        self._ended = {key: self._ended.get(key, now) for key in ended}
        for key, since in self._ended.items():
            if now - since > _KEPT_SECONDS:
                self.board.drop(f"work:{key}", f"cancel:{key}")
