"""A worker on another machine: no database and no data folder, only the queue and the blobs that it shares with a server."""

from __future__ import annotations

import logging
import os
import time

from skalto.core.errors import InputError
from skalto.jobs.consumer import Wanted, unfit
from skalto.jobs.consumer import work as run
from skalto.jobs.queue import Queue
from skalto.settings import Settings
from skalto.store.blobs import Blobs

_WAIT_SECONDS = 1.0


def _same_store(queue: Queue, blobs: Blobs) -> None:
    """Wait for a server to announce itself, then see that its blob store is this one. :raises InputError: when it is not."""
    told = False
    while (served := queue.served()) is None:
        if not told:
            print("No server has been here yet: waiting for one", flush=True)
            told = True
        time.sleep(_WAIT_SECONDS)
    try:
        here = blobs.get("store").decode()
    except KeyError:
        here = ""
    if here != served["store"]:
        raise InputError("SKALTO_BLOBS here is not the store that the server keeps its blobs in: give both the same.")


def open_store(url: str) -> Blobs:
    """:raises InputError: when the address is of no kind that is installed, or does not answer."""
    try:
        return Blobs(url)
    except ImportError as error:
        raise InputError(f"{url.partition(':')[0]}:// needs a package that is not installed ({error}).") from None
    except Exception as error:
        # the library's own words name the reason
        raise InputError(f"The blob store {url} cannot be reached: {error}") from None


def work(workers: int | None) -> None:
    """Work until told to stop.

    :raises InputError: when the settings name no queue or store, when one of them does not answer, or when they are not the
        server's.
    """
    logging.basicConfig(level=logging.WARNING, format="%(message)s")
    logging.getLogger("huey").setLevel(logging.CRITICAL)
    settings = Settings()
    if not settings.redis:
        raise InputError("SKALTO_REDIS names no Redis: a worker alone takes its work from there.")
    if not settings.blobs:
        raise InputError("SKALTO_BLOBS names no blob store: a worker alone leaves its results where the server finds them.")
    count = workers or max(1, settings.workers)
    queue = Queue(None, settings.redis)
    _same_store(queue, open_store(settings.blobs))
    if refusal := unfit(queue):
        raise InputError(refusal)
    print(f"Working, {count} at once, process {os.getpid()} (Ctrl-C ends it)", flush=True)
    run(Wanted(redis=settings.redis, workers=count, blobs=settings.blobs, limits=settings.limits, lost=settings.lost_seconds))
    os._exit(0)
