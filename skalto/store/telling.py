"""Telling others in this process what was written to the database, once it is there."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal

Kind = Literal["job", "incoming", "issue", "release", "settings"]
Listener = Callable[[Kind, int], None]

_listeners: list[Listener] = []


def listen(listener: Listener) -> Callable[[], None]:
    """Have *listener* called with what changed (a job's head, its files on their way, its issues, its releases, or settings
    that all jobs share) and the job's id, 0 for all; what ends that."""
    _listeners.append(listener)
    return lambda: _listeners.remove(listener)


def tell(kind: Kind, job: int) -> None:
    """Something of a job has been written."""
    for listener in tuple(_listeners):
        listener(kind, job)
