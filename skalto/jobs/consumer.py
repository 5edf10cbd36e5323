"""A worker process: takes work off the queue, does each piece in a process of its own, beats, and looks after what others lost.

``python -m skalto.jobs.consumer``, with what it is told as JSON in ``SKALTO_WORKER``; ``skalto work`` runs the same.
"""

from __future__ import annotations

import logging
import os
import signal
import sys
import threading
from pathlib import Path

import orjson
from huey.consumer import Consumer
from pydantic import BaseModel

from skalto.core.errors import InputError
from skalto.jobs.child import leave, sweep
from skalto.jobs.limits import Kind, Limit
from skalto.jobs.queue import LOST_SECONDS, Queue, release

LOADED = "skalto.services.running.loaded"
"""What workers' processes load at their start: the kernel takes seconds."""

_log = logging.getLogger(__name__)


class Wanted(BaseModel):
    """What a worker process is told: the folder of the SQLite queue or the address of Redis, how many at once, its name, where
    results go (``''`` for where the work says), the limits, after how many seconds a silent worker is lost, and the process
    without which this one ends."""

    data: Path | None = None
    redis: str = ""
    workers: int = 1
    name: str = ""
    blobs: str = ""
    limits: dict[Kind, Limit] = {}
    lost: float = LOST_SECONDS
    parent: int | None = None


def unfit(queue: Queue) -> str:
    """Why this process must not work for the server whose queue it is; '' where it may."""
    served = queue.served()
    if served is not None and served["release"] != release():
        return f"The server runs Skalto {served['release']}, and this worker is {release()}: bring both to one release."
    return ""


def work(wanted: Wanted) -> None:
    """Work until told to stop, or until the parent is gone.

    :raises InputError: when Redis does not answer, or the server is of another release.
    """
    stopped = threading.Event()
    _hear(stopped)
    sweep()
    queue = Queue(wanted.data, wanted.redis, preload=LOADED, blobs=wanted.blobs, limits=wanted.limits, lost=wanted.lost)
    if wanted.name:
        queue.worker = wanted.name
    if refusal := unfit(queue):
        raise InputError(refusal)
    consumer = Consumer(
        queue.huey, workers=wanted.workers, worker_type="thread", periodic=False, initial_delay=0.02, backoff=1.1, max_delay=0.1
    )
    try:
        queue.beat()
        queue.warm(wanted.workers)
        consumer.start()
        _hear(stopped)  # the consumer has set its own
        _stand(queue, stopped, wanted.parent)
    finally:
        consumer.stop_flag.set()
        try:
            queue.rest()
        except Exception as error:
            _log.error("could not hand back what was in hand: %s", error)
        queue.close()
        leave()


def _hear(stopped: threading.Event) -> None:
    """Being told to stop ends in an orderly way: what is in hand is handed back, what lies about is removed."""
    for number in (signal.SIGTERM, signal.SIGINT):
        signal.signal(number, lambda *_: stopped.set())


def _stand(queue: Queue, stopped: threading.Event, parent: int | None) -> None:
    """Beat until told to stop, or the parent has gone. :raises InputError: when the server is of another release by now."""
    while not stopped.wait(queue.beats_every):
        if parent is not None and os.getppid() != parent:
            return
        try:
            queue.beat()
            queue.attend()
            refusal = unfit(queue)
        except Exception as error:
            # a full disk, a network that is away: it goes on when they are back
            _log.error("this worker cannot reach the queue: %s", error)
            continue
        if refusal:
            raise InputError(refusal)


def main() -> None:
    logging.basicConfig(level=logging.WARNING, format="%(message)s")
    logging.getLogger("huey").setLevel(logging.CRITICAL)
    wanted = Wanted.model_validate(orjson.loads(os.environ["SKALTO_WORKER"]))
    status = 0
    try:
        work(wanted)
    except InputError as error:
        print(f"skalto: {error}", file=sys.stderr, flush=True)
        status = 2
    # threads that still stand in a library's call must not keep the process
    os._exit(status)


if __name__ == "__main__":
    main()
