"""Releases and their files."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from peewee import fn

from skalto.core.errors import NotThere
from skalto.store.states import person_name
from skalto.store.tables import Release, ReleaseFile, aware, connected, database, now
from skalto.store.telling import tell

OPEN = ("waiting", "working")
"""States of files that have not ended."""


@dataclass(frozen=True)
class StoredRelease:
    """A release as it stands; *counts* says how many of its files are in which state."""

    id: int
    job: int
    job_number: str
    job_name: str
    rules: str
    outbox: str
    whole: bool
    person: str
    note: str
    state: str
    error: str
    began: datetime
    ended: datetime | None
    counts: dict[str, int]


@dataclass(frozen=True)
class StoredReleaseFile:
    """A file of a release; see :class:`skalto.store.tables.ReleaseFile`."""

    id: int
    release: int
    path: str
    kind: str
    called: str
    work: str
    state: str
    priority: int
    share: float
    text: str
    error: str
    log: str
    about: str
    began: datetime | None
    ended: datetime | None


_FILE = [name for name in StoredReleaseFile.__dataclass_fields__ if name not in ("release", "began", "ended")]
_RELEASE = [name for name in StoredRelease.__dataclass_fields__ if name not in ("counts", "began", "ended")]


def _when(moment: datetime | None) -> datetime | None:
    return aware(moment) if moment else None


def _stored(row: Any, counts: dict[str, int]) -> StoredRelease:
    plain = {name: getattr(row, name) for name in _RELEASE}
    return StoredRelease(**plain, began=aware(row.began), ended=_when(row.ended), counts=counts)


def _counts(ids: Sequence[int]) -> dict[int, dict[str, int]]:
    rows = (
        ReleaseFile.select(ReleaseFile.release, ReleaseFile.state, fn.COUNT(ReleaseFile.id).alias("count"))
        .where(ReleaseFile.release.in_(list(ids)))
        .group_by(ReleaseFile.release, ReleaseFile.state)
        .tuples()
    )
    found: dict[int, dict[str, int]] = {}
    told: list[Any] = list(rows)
    for release, state, count in told:
        found.setdefault(release, {})[state] = count
    return found


def add_release(files: Iterable[dict[str, Any]], **fields: Any) -> StoredRelease:
    """Note a release as begun, with its files in the order in which they are to be made."""
    with connected(), database.atomic("IMMEDIATE"):
        row = Release.create(person=person_name.get(), **fields)
        rows = [own | {"release": row} for own in files]
        for begin in range(0, len(rows), 200):
            ReleaseFile.insert_many(rows[begin : begin + 200]).execute()
        made = _stored(row, _counts([row.id]).get(row.id, {}))
    tell("release", made.job)
    return made


def get_release(release_id: int) -> StoredRelease:
    """:raises NotThere: when there is no such release."""
    with connected():
        row = Release.get_or_none(Release.id == release_id)
        if row is None:
            raise NotThere("There is no such release.")
        return _stored(row, _counts([row.id]).get(row.id, {}))


def list_releases(job: int | None = None, state: str | None = None) -> list[StoredRelease]:
    """Releases, the newest first; of one job or in one state."""
    with connected():
        rows = Release.select().order_by(Release.id.desc())
        if job is not None:
            rows = rows.where(Release.job == job)
        if state is not None:
            rows = rows.where(Release.state == state)
        found = list(rows)
        counts = _counts([row.id for row in found])
        return [_stored(row, counts.get(row.id, {})) for row in found]


def set_release(release_id: int, state: str, error: str = "", unless: Sequence[str] = ()) -> bool:
    """Note what became of a release, unless it is in one of some states; whether it was noted."""
    with connected(), database.atomic("IMMEDIATE"):
        row = Release.get_or_none(Release.id == release_id)
        if row is None or row.state in unless:
            return False
        row.state, row.error = state, error
        row.ended = now() if state in ("done", "failed", "cancelled") else None
        row.save()
    tell("release", row.job)
    return True


def files_of(
    release_id: int, states: Sequence[str] = (), begin: int = 0, count: int | None = None, text: str = ""
) -> list[StoredReleaseFile]:
    """Files of a release, those first that are made first; in some states, with a text in their path, a page of them."""
    with connected():
        rows = ReleaseFile.select().where(ReleaseFile.release == release_id)
        if states:
            rows = rows.where(ReleaseFile.state.in_(list(states)))
        if text:
            rows = rows.where(ReleaseFile.path.contains(text) | ReleaseFile.called.contains(text))
        rows = rows.order_by(ReleaseFile.priority.desc(), ReleaseFile.id)
        if count is not None:
            rows = rows.limit(count).offset(begin)
        return [_file(row) for row in rows]


def _file(row: Any) -> StoredReleaseFile:
    plain = {name: getattr(row, name) for name in _FILE}
    return StoredReleaseFile(**plain, release=row.release_id, began=_when(row.began), ended=_when(row.ended))


def get_file(file_id: int) -> StoredReleaseFile:
    """:raises NotThere: when there is no such file."""
    with connected():
        row = ReleaseFile.get_or_none(ReleaseFile.id == file_id)
        if row is None:
            raise NotThere("This release has no such file.")
        return _file(row)


def set_file(file_id: int, job: int, **fields: Any) -> None:
    """Note what became of a file; a *line* goes into its log."""
    line = fields.pop("line", "")
    with connected(), database.atomic("IMMEDIATE"):
        row = ReleaseFile.get_or_none(ReleaseFile.id == file_id)
        if row is None:
            return
        for name, value in fields.items():
            setattr(row, name, value)
        state = fields.get("state")
        if state == "working" and row.began is None:
            row.began = now()
        if state in ("made", "kept", "failed", "cancelled"):
            row.ended = now()
        if line:
            row.log = f"{row.log}{now().isoformat(timespec='seconds')}Z {line}\n"
        row.save()
    tell("release", job)


def again(release_id: int, file_id: int | None = None) -> int:
    """Set files that failed or were called off to wait again: all of a release, or one; how many."""
    with connected(), database.atomic("IMMEDIATE"):
        wanted = (ReleaseFile.release == release_id) & ReleaseFile.state.in_(["failed", "cancelled"])
        if file_id is not None:
            wanted &= ReleaseFile.id == file_id
        fields: dict[str, Any] = {"state": "waiting", "error": "", "share": 0.0, "text": "", "began": None, "ended": None}
        return int(ReleaseFile.update(**fields).where(wanted).execute())


def call_off(release_id: int) -> None:
    """Set files that have not ended to cancelled."""
    with connected(), database.atomic("IMMEDIATE"):
        wanted = (ReleaseFile.release == release_id) & ReleaseFile.state.in_(list(OPEN))
        ReleaseFile.update(state="cancelled", ended=now()).where(wanted).execute()


def count_files(release_id: int, states: Sequence[str] = (), text: str = "") -> int:
    """How many files of a release are in some states, with a text in their path."""
    with connected():
        rows = ReleaseFile.select().where(ReleaseFile.release == release_id)
        if states:
            rows = rows.where(ReleaseFile.state.in_(list(states)))
        if text:
            rows = rows.where(ReleaseFile.path.contains(text) | ReleaseFile.called.contains(text))
        return int(rows.count())
