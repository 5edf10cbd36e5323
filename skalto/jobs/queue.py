"""The queue: work under a key, its state where every process can read it."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Iterable
from pathlib import Path
from typing import Any, Literal

from huey import RedisHuey, SqliteHuey
from pydantic import BaseModel

from skalto.core.errors import Cancelled, InputError
from skalto.jobs.child import Child, WorkFailed

State = Literal["queued", "running", "done", "failed", "cancelled"]
_log = logging.getLogger(__name__)


class WorkState(BaseModel):
    """How far a piece of work is: *share* 0 to 1, what is being done, and for a failure the sentence that says why."""

    state: State
    share: float = 0.0
    text: str = ""
    error: str = ""


class Queue:
    """Hands work to whichever worker is free. One key is one piece of work: asking again while it runs changes nothing."""

    def __init__(self, data: Path, redis: str = "", preload: str = "") -> None:
        """:param preload: a module that workers' processes load at their start."""
        data.mkdir(parents=True, exist_ok=True)
        if redis:
            self.huey = RedisHuey("skalto", url=redis, results=False)
        else:
            self.huey = SqliteHuey("skalto", filename=str(data / "queue.db"), results=False, fsync=False)
        self._task = self.huey.task(name="work")(self._run)
        self._children = threading.local()
        self._all: list[Child] = []
        self._spare: list[Child] = []
        self._preload = preload

    def submit(self, key: str, function: str, arguments: dict[str, Any]) -> WorkState:
        """Queue ``function(**arguments)`` under *key*, unless it is queued or running already."""
        state = self.state(key)
        if state is not None and state.state in ("queued", "running"):
            return state
        self.huey.storage.pop_data(f"cancel:{key}")
        state = WorkState(state="queued", text="Waiting for a free worker")
        self._write(key, state)
        self._task(key, function, arguments)
        return state

    def state(self, key: str) -> WorkState | None:
        """The state of a piece of work, or None when it was never asked for or is forgotten."""
        data = self.huey.storage.peek_data(f"work:{key}")
        return WorkState.model_validate_json(bytes(data)) if isinstance(data, bytes | memoryview) else None

    def cancel(self, key: str) -> None:
        """Call work off; a running one is stopped within a second."""
        self.huey.storage.put_data(f"cancel:{key}", b"1")
        state = self.state(key)
        if state is not None and state.state == "queued":
            self._write(key, WorkState(state="cancelled"))

    def settle(self, keys: Iterable[str], seconds: float = 5.0) -> None:
        """Wait until work that was called off has ended, so that it can be asked for anew."""
        end = time.monotonic() + seconds
        for key in keys:
            while self._cancelled(key) and time.monotonic() < end:
                state = self.state(key)
                if state is None or state.state not in ("queued", "running"):
                    break
                time.sleep(0.05)

    def forget(self, key: str) -> None:
        """Drop the state of finished work."""
        self.huey.storage.pop_data(f"work:{key}")

    def reset(self) -> None:
        """Drop all that is queued and all states: for the start, when no worker runs yet."""
        self.huey.flush()

    def _write(self, key: str, state: WorkState) -> None:
        self.huey.storage.put_data(f"work:{key}", state.model_dump_json().encode())

    def _cancelled(self, key: str) -> bool:
        return bool(self.huey.storage.has_data_for_key(f"cancel:{key}"))

    def _child(self) -> Child:
        """This worker thread's process."""
        if not hasattr(self._children, "child"):
            if self._spare:
                self._children.child = self._spare.pop()
            else:
                self._children.child = Child(self._preload)
                self._all.append(self._children.child)
        child: Child = self._children.child
        return child

    def _run(self, key: str, function: str, arguments: dict[str, Any]) -> None:
        if self._cancelled(key):
            self._write(key, WorkState(state="cancelled"))
            return
        self._write(key, WorkState(state="running", text="Starting"))

        def report(share: float, text: str) -> None:
            self._write(key, WorkState(state="running", share=share, text=text))

        try:
            self._child().run(function, arguments, report, lambda: self._cancelled(key))
            self._write(key, WorkState(state="done", share=1.0))
        except InputError as error:
            self._write(key, WorkState(state="failed", error=str(error)))
        except Cancelled:
            self._write(key, WorkState(state="cancelled"))
        except WorkFailed as error:
            _log.error("%s failed: %s", function, error)
            text = "The work broke off unexpectedly: the file may be damaged. Try it again, or export it anew."
            self._write(key, WorkState(state="failed", error=text))

    def warm(self, workers: int) -> None:
        """Start the processes of so many workers before there is work for them."""
        for _ in range(workers):
            child = Child(self._preload)
            child.warm()
            self._all.append(child)
            self._spare.append(child)

    def close(self) -> None:
        """Stop the workers' processes."""
        for child in self._all:
            child.close()
