"""What nobody refers to any more is not kept for ever."""

from __future__ import annotations

import logging
import re
import threading
import time
from dataclasses import dataclass
from datetime import UTC, timedelta

from skalto.services.stored import keys
from skalto.services.use_cases.studio import Studio
from skalto.store import keeping
from skalto.store.tables import now

_log = logging.getLogger(__name__)

GRACE = timedelta(days=1)
"""How long what nobody refers to is kept (our own choice: a slip is noticed the next day)."""

UNKNOWN = timedelta(days=30)
"""How long a result is kept of which nothing is known: it is made again when it is asked for."""

_HASH = re.compile(r"[0-9a-f]{64}")
_RESULT = re.compile(r"([a-z-]+/(?:all-)?[0-9a-f]{40})(?:[^0-9a-f].*)?")
_OWNER = "owner"
_PLAIN = ("store", _OWNER)
_FILE = re.compile(r"files/([0-9a-f]{64})")
_MODEL = re.compile(r"models/(v\d+)/([0-9a-f]{64})/.+")


def sources_in(text: str) -> frozenset[str]:
    """The sources that something names, as JSON: all that looks like the hash of a content."""
    return frozenset(_HASH.findall(text))


@dataclass(frozen=True)
class Swept:
    """How many blobs were removed, and their bytes; how many wait for their day."""

    removed: int = 0
    size: int = 0
    waiting: int = 0


class Tidying:
    """Removes files and results of jobs that are deleted, and of earlier releases, a day after."""

    def __init__(self, studio: Studio) -> None:
        self.studio = studio
        self._noted: set[str] = set()
        self._sweeping = threading.Lock()
        studio.queue.asked = self.note

    def note(self, key: str, argument: str) -> None:
        """Note what a result that is asked for is made from."""
        if key in self._noted:
            return
        if len(self._noted) > 50_000:
            self._noted.clear()
        self._noted.add(key)
        sources = sources_in(argument)
        if sources:
            keeping.note_made(key, sources)

    def ours(self) -> bool:
        """Whether the blob store is this database's alone: another server's files must not be taken for nobody's."""
        blobs, name = self.studio.blobs, keeping.database_name()
        try:
            return blobs.get(_OWNER).decode() == name
        except KeyError:
            blobs.put(_OWNER, name.encode())
            return blobs.get(_OWNER).decode() == name

    def sweep(self, at_once: bool = False) -> Swept:
        """Remove what nobody has referred to for a day; all of it *at once* where asked.

        Sources go by the jobs that have them; results by their sources, by last proofs and by issues; what an issue or a
        release under way is made from stays.
        """
        with self._sweeping:
            return self._swept(at_once)

    def _swept(self, at_once: bool) -> Swept:
        if not self.ours():
            _log.warning("the blob store has another server: nothing of it is swept")
            return Swept()
        keeping.unlink_dropped()
        linked, needed, made = keeping.linked_sources(), keeping.needed_keys(), keeping.made_from()
        for plan in keeping.plans_under_way():
            linked |= sources_in(plan)
        moment = now()
        present: set[str] = set()
        dead: dict[str, tuple[str, int]] = {}
        for blob in self.studio.blobs.listed():
            own = _owner_of(blob.key)
            if own is None:
                continue
            present.add(own.name)
            if own.source:
                alive = not own.earlier and own.source in linked
            elif own.name in needed:
                alive = True
            elif own.name in made:
                alive = made[own.name] <= linked
            else:
                alive = moment.replace(tzinfo=UTC).timestamp() - blob.modified < UNKNOWN.total_seconds()
            if not alive:
                dead[blob.key] = own.name, blob.size
        since = keeping.note_orphans({what for what, _ in dead.values()})
        removed = size = 0
        for key, (what, length) in dead.items():
            if at_once or moment - since[what] >= GRACE:
                self.studio.blobs.drop(key)
                removed, size = removed + 1, size + length
        keeping.forget_made(made.keys() - present)
        self._noted.clear()
        return Swept(removed, size, len(dead) - removed)


@dataclass(frozen=True)
class _Owner:
    """What a blob is part of: a *source*, or a result under its key; *earlier* where another release read the source."""

    name: str
    source: str = ""
    earlier: bool = False


def _owner_of(key: str) -> _Owner | None:
    """None for a blob that has its own rules."""
    if key in _PLAIN or key.startswith(("archives/", "issues/")):
        return None
    if found := _FILE.fullmatch(key):
        return _Owner(found[1], found[1])
    if found := _MODEL.fullmatch(key):
        earlier = not key.startswith(keys.model_key(found[2], ""))
        return _Owner(f"{found[1]}/{found[2]}" if earlier else found[2], found[2], earlier)
    found = _RESULT.fullmatch(key)
    return _Owner(found[1] if found else key)


def run_daily(tidying: Tidying) -> None:
    """One sweep, and what it did in the log."""
    begun = time.monotonic()
    swept = tidying.sweep()
    if swept.removed:
        _log.info("%d blobs of deleted jobs removed in %.1f s", swept.removed, time.monotonic() - begun)
