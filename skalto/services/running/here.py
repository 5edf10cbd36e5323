"""Workers of this machine for as long as a command takes, with a queue and a store of their own."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from skalto.core.cores import cores
from skalto.core.errors import InputError
from skalto.jobs.consumer import Wanted
from skalto.jobs.queue import Queue, WorkState
from skalto.jobs.task import Task, TaskArgument
from skalto.store.blobs import Blobs

_LOOK_SECONDS = 0.02


@dataclass(frozen=True)
class WorkersHere:
    """A queue that workers take from, and the store that they work in."""

    queue: Queue
    blobs: Blobs
    count: int
    alive: Callable[[], bool]

    def done(self, pieces: Sequence[tuple[Task[Any], TaskArgument]]) -> None:
        """Have several pieces of work done, and wait. :raises InputError: when one fails, with its sentence."""
        for task, asked in pieces:
            self.queue.submit(task, asked)
        for _, asked in pieces:
            state = self.ended(asked.key)
            if state is not None and state.state == "failed":
                raise InputError(state.error)

    def ended(self, key: str) -> WorkState | None:
        """Wait until a piece of work has ended. :raises InputError: when the workers have."""
        while (state := self.queue.state(key)) is not None and state.state in ("queued", "running"):
            self.pause()
        return state

    def pause(self) -> None:
        """A moment, for the workers to get on. :raises InputError: when they have ended."""
        if not self.alive():
            raise InputError("The workers ended: the machine may be out of memory. Try it again.")
        time.sleep(_LOOK_SECONDS)


@contextmanager
def workers_here(count: int | None = None) -> Iterator[WorkersHere]:
    """As many workers as there are cores, in a folder that goes when they are done."""
    many = count or cores()
    with tempfile.TemporaryDirectory(prefix="skalto-") as folder:
        data = Path(folder)
        url = str(data / "blobs")
        queue = Queue(data, blobs=url)
        wanted = Wanted(data=data, workers=many, name="here", blobs=url, parent=os.getpid())
        environment = os.environ | {"SKALTO_WORKER": wanted.model_dump_json()}
        process = subprocess.Popen([sys.executable, "-m", "skalto.jobs.consumer"], start_new_session=True, env=environment)
        try:
            yield WorkersHere(queue, Blobs(url), many, lambda: process.poll() is None)
        finally:
            process.terminate()
            try:
                process.wait(10)
            except subprocess.TimeoutExpired:
                os.killpg(process.pid, 9)
                process.wait()
