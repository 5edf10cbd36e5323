"""Sessions that were ended before their day: who signed out stays out, over a restart too."""

from __future__ import annotations

import time

from skalto.store.tables import SignedOut, connected


def end_session(name: str, until: int) -> None:
    """Note that a session has ended that would hold until a moment, seconds since 1970."""
    with connected():
        SignedOut.delete().where(SignedOut.until < time.time()).execute()
        SignedOut.insert(name=name, until=until).on_conflict_ignore().execute()


def ended_sessions() -> set[str]:
    """The names of sessions that were ended."""
    with connected():
        return {row.name for row in SignedOut.select()}
