"""Whoever does the demo's work: the workers of a server, through its queue, as they do what a page asks for."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence

from skalto.jobs.child import WorkFailed
from skalto.jobs.queue import Queue
from skalto.jobs.task import Argument, Task

Begin = Callable[[Queue], str]
"""Asks a queue for a piece of work; the key that a page asks for the same under."""


def work(task: Task[Argument], asked: Argument) -> Begin:
    """A piece of work to be begun."""

    def begin(queue: Queue) -> str:
        queue.submit(task, asked)
        return asked.key

    return begin


_LOOK_SECONDS = 0.05


class Hands:
    """The workers of one queue."""

    def __init__(self, queue: Queue) -> None:
        self._queue = queue

    def begin(self, pieces: Sequence[Begin]) -> None:
        """Hand it out, what comes first first."""
        for begin in pieces:
            begin(self._queue)

    def done(self, pieces: Sequence[Begin]) -> None:
        """Hand it out and wait for its end. :raises WorkFailed: when one of it fails or is called off."""
        for key in [begin(self._queue) for begin in pieces]:
            while (state := self._queue.state(key)) is not None and state.state in ("queued", "running"):
                time.sleep(_LOOK_SECONDS)
            if state is not None and state.state in ("failed", "cancelled"):
                raise WorkFailed(state.error or "cancelled")
