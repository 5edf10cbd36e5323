"""The log of states of parts and sheets: it is only ever added to."""

from __future__ import annotations

from collections.abc import Iterable
from contextvars import ContextVar
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from skalto.core.release.states import State
from skalto.store.tables import StateChange, aware, connected, database
from skalto.store.telling import tell

person_name: ContextVar[str] = ContextVar("person_name", default="")
"""What whoever asks for what is being done is called, as they say."""


@dataclass(frozen=True)
class StoredState:
    """A line of the log of states."""

    id: int
    job: int
    subject: str
    state: str
    revision: str
    person: str
    note: str
    made: datetime


def add_states(job: int, rows: Iterable[dict[str, Any]]) -> None:
    """Write lines into the log of states."""
    with connected(), database.atomic("IMMEDIATE"):
        for row in rows:
            StateChange.create(job=job, person=person_name.get(), **row)
    tell("job", job)


def states_of(job: int) -> list[StoredState]:
    """The log of a job's states, the oldest first."""
    with connected():
        rows = StateChange.select().where(StateChange.job == job).order_by(StateChange.id)
        names = [name for name in StoredState.__dataclass_fields__ if name != "made"]
        return [StoredState(**{name: getattr(row, name) for name in names}, made=aware(row.made)) for row in rows]


def states_now(job: int) -> dict[str, StoredState]:
    """The state in which each subject of a job is: the last line of each."""
    return {own.subject: own for own in states_of(job)}


def locked_of(job: int) -> dict[str, str]:
    """What of a job is released, with its revision."""
    return {subject: own.revision for subject, own in states_now(job).items() if own.state == State.RELEASED}
