"""What changes, as it changes, for every page that is open: heads of jobs, files on their way, work, issues."""

from __future__ import annotations

import asyncio
import contextlib
import threading
from collections.abc import AsyncIterator
from typing import Literal

from pydantic import BaseModel

from skalto.jobs.queue import Queue
from skalto.store.telling import Kind, listen

_LOOK_SECONDS = 0.05
_WAITING = 200
"""How many pieces of news wait for a slow page before the oldest give way to one that says: look at everything."""


class Item(BaseModel):
    """A piece of news: what of which job, 0 for any; or that work moved on."""

    kind: Literal["job", "incoming", "issue", "release", "settings", "work", "all"]
    job: int = 0


class News:
    """The news of one server. Told from any thread, heard in the loop that :meth:`run` runs in."""

    def __init__(self, queue: Queue) -> None:
        self._queue = queue
        self._hearers: set[asyncio.Queue[Item]] = set()
        self._followed: dict[str, str | None] = {}
        self._lock = threading.Lock()
        self._loop: asyncio.AbstractEventLoop | None = None
        queue.changed = self._follow

    def _follow(self, key: str) -> None:
        with self._lock:
            self._followed.setdefault(key, None)

    def _told(self, kind: Kind, job: int) -> None:
        if self._loop is not None:
            self._loop.call_soon_threadsafe(self._spread, Item(kind=kind, job=job))

    def _spread(self, item: Item) -> None:
        for hearer in self._hearers:
            if hearer.full():
                # a page that did not keep up looks at everything anew
                while not hearer.empty():
                    hearer.get_nowait()
                item = Item(kind="all")
            hearer.put_nowait(item)

    def _moved(self) -> bool:
        """Whether any work that was asked for has moved on since the last look."""
        with self._lock:
            known = dict(self._followed)
        moved = False
        for key, before in known.items():
            state = self._queue.state(key)
            now = None if state is None else state.model_dump_json()
            ended = state is None or state.state not in ("queued", "running")
            moved = moved or now != before
            with self._lock:
                if ended:
                    self._followed.pop(key, None)
                else:
                    self._followed[key] = now
        return moved

    async def run(self) -> None:
        """Look after work until called off."""
        self._loop = asyncio.get_running_loop()
        stop = listen(self._told)
        try:
            while True:
                await asyncio.sleep(_LOOK_SECONDS)
                if not self._followed:
                    continue
                with contextlib.suppress(Exception):  # a queue that is away is told elsewhere
                    if await asyncio.to_thread(self._moved):
                        self._spread(Item(kind="work"))
        finally:
            stop()
            self._loop = None

    async def heard(self, job: int | None) -> AsyncIterator[Item]:
        """The news of a job, or of all, from now on, begun by one that says: look at everything."""
        mine: asyncio.Queue[Item] = asyncio.Queue(_WAITING)
        self._hearers.add(mine)
        try:
            yield Item(kind="all")
            while True:
                item = await mine.get()
                if job is None or item.job in (0, job):
                    yield item
        finally:
            self._hearers.discard(mine)
