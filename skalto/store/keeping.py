"""What is kept for whom: which jobs have a source, which sources a result is made from, and what nobody refers to any more."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from datetime import datetime
from typing import Any

from skalto.store.tables import (
    About,
    Incoming,
    Issue,
    IssuedFile,
    JobSource,
    Made,
    Orphan,
    Proof,
    Release,
    ReleaseFile,
    Step,
    connected,
    database,
    now,
)


def database_name() -> str:
    """What names this database, whatever folder it lies in."""
    with connected():
        return str(About.get(About.name == "database").value)


def link_sources(job: int, sources: Iterable[str]) -> None:
    """Note that a job has some sources. Within a transaction of the caller's, where there is one."""
    rows = [{"job": job, "source": source} for source in sources]
    if rows:
        JobSource.insert_many(rows).on_conflict_ignore().execute()


def has_source(source: str) -> bool:
    """Whether a job has a source, or has had it in a state that undo goes back to, or it is on its way into one."""
    with connected():
        linked = JobSource.select().where(JobSource.source == source).exists()
        return bool(linked) or bool(Incoming.select().where(Incoming.source == source).exists())


def note_made(key: str, sources: Collection[str]) -> None:
    """Note what sources a result is made from."""
    with connected():
        Made.insert(key=key, sources=" ".join(sorted(sources))).on_conflict_ignore().execute()


def unlink_dropped() -> None:
    """Take sources from jobs that no step of theirs has any more."""
    with connected(), database.atomic("IMMEDIATE"):
        rows: list[Any] = list(JobSource.select())
        for row in rows:
            if not Step.select().where((Step.job == row.job_id) & Step.document.contains(row.source)).exists():
                row.delete_instance()


def linked_sources() -> set[str]:
    """The sources that jobs have, or that are on their way into them."""
    with connected():
        found = {row.source for row in JobSource.select(JobSource.source).distinct()}
        return found | {row.source for row in Incoming.select(Incoming.source).distinct()}


def needed_keys() -> set[str]:
    """The keys of results that somebody counts on: last proofs, and files of issues."""
    with connected():
        keys = {row.key for row in Proof.select(Proof.key).distinct()}
        return keys | {row.key for row in IssuedFile.select(IssuedFile.key).distinct()}


def plans_under_way() -> list[str]:
    """What issues and releases that have not ended are made from, as JSON."""
    with connected():
        plans = [row.plan for row in Issue.select(Issue.plan).where(Issue.state == "running")]
        going = Release.select(Release.id).where(Release.state.in_(["running", "paused"]))
        return plans + [row.work for row in ReleaseFile.select(ReleaseFile.work).where(ReleaseFile.release.in_(going))]


def made_from() -> dict[str, frozenset[str]]:
    """The sources of results, by their keys."""
    with connected():
        return {row.key: frozenset(row.sources.split()) for row in Made.select()}


def forget_made(keys: Collection[str]) -> None:
    """Forget what results that are gone were made from."""
    with connected(), database.atomic("IMMEDIATE"):
        for key in keys:
            Made.delete().where(Made.key == key).execute()


def note_orphans(orphans: Collection[str]) -> Mapping[str, datetime]:
    """Since when nothing refers to each of some keys and sources, UTC; those that are none of them any more are forgotten."""
    with connected(), database.atomic("IMMEDIATE"):
        known = {row.what: row.since for row in Orphan.select()}
        for what in known.keys() - set(orphans):
            Orphan.delete().where(Orphan.what == what).execute()
        moment = now()
        fresh = [{"what": what, "since": moment} for what in orphans if what not in known]
        for begin in range(0, len(fresh), 200):
            Orphan.insert_many(fresh[begin : begin + 200]).execute()
        return {what: known.get(what, moment) for what in orphans}
