"""Whoever does the demo's work: the workers of a server, through its queue, as they do what a page asks for."""

from __future__ import annotations

import time
from collections.abc import Sequence

from skalto.jobs.child import WorkFailed
from skalto.jobs.queue import Queue

Work = tuple[str, str, dict[str, object]]
"""A key of the queue, the function as ``module:name``, its arguments. A page that wants the same asks under the same key."""
_LOOK_SECONDS = 0.05


class Hands:
    """The workers of one queue."""

    def __init__(self, queue: Queue) -> None:
        self._queue = queue

    def begin(self, work: Sequence[Work]) -> None:
        """Hand it out, what comes first first."""
        for key, function, arguments in work:
            self._queue.submit(key, function, arguments)

    def done(self, work: Sequence[Work]) -> None:
        """Hand it out and wait for its end. :raises WorkFailed: when one of it fails or is called off."""
        self.begin(work)
        for key, _, _ in work:
            while (state := self._queue.state(key)) is not None and state.state in ("queued", "running"):
                time.sleep(_LOOK_SECONDS)
            if state is not None and state.state in ("failed", "cancelled"):
                raise WorkFailed(state.error or "called off")
