"""Issues and their files, kept for ever."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from pathlib import PurePath
from typing import Any

from skalto.core.errors import InputError, NotThere
from skalto.store.tables import Issue, IssuedFile, IssuedSheet, aware, connected, database, now
from skalto.store.telling import tell


@dataclass(frozen=True)
class StoredFile:
    """A file of an issue: its name, the blob that holds it, the SHA-256 of its bytes, and whether all its checks hold."""

    id: int
    name: str
    key: str
    hash: str
    size: int
    pages: int
    holds: bool

    @property
    def suffix(self) -> str:
        """The ending of its name, in lower case."""
        return PurePath(self.name).suffix.lower()


@dataclass(frozen=True)
class StoredIssue:
    """An issue as it stands. *plan* is all that it is made from, as JSON."""

    id: int
    job: int
    job_number: str
    job_name: str
    pack: str
    pack_id: str
    purpose: str
    revision: str
    note: str
    state: str
    error: str
    plan: str
    secret: str
    began: datetime
    ended: datetime | None
    files: tuple[StoredFile, ...] = ()


_PLAIN = [name for name in StoredIssue.__dataclass_fields__ if name != "files"]


def _stored(row: Any) -> StoredIssue:
    files = IssuedFile.select().where(IssuedFile.issue == row).order_by(IssuedFile.id)
    kept = tuple(StoredFile(f.id, f.name, f.key, f.hash, f.size, f.pages, bool(f.holds)) for f in files)
    plain = {name: getattr(row, name) for name in _PLAIN}
    plain |= {"began": aware(row.began), "ended": aware(row.ended) if row.ended else None}
    return StoredIssue(**plain, files=kept)


def add_issue(sheets: Mapping[str, str], **fields: Any) -> StoredIssue:
    """Note an issue as begun. :param sheets: what each of its sheets shows, by its id."""
    with connected(), database.atomic("IMMEDIATE"):
        row = Issue.create(**fields)
        for sheet, content in sheets.items():
            IssuedSheet.create(issue=row, job=row.job, sheet=sheet, content=content)
        made = _stored(row)
    tell("issue", made.job)
    return made


def get_issue(issue_id: int) -> StoredIssue:
    """:raises InputError: when there is no such issue."""
    with connected():
        row = Issue.get_or_none(Issue.id == issue_id)
        if row is None:
            raise NotThere("There is no such issue.")
        return _stored(row)


def list_issues(job: int | None = None, state: str | None = None) -> list[StoredIssue]:
    """Issues, the newest first; of one job or in one state."""
    with connected():
        rows = Issue.select().order_by(Issue.id.desc())
        if job is not None:
            rows = rows.where(Issue.job == job)
        if state is not None:
            rows = rows.where(Issue.state == state)
        return [_stored(row) for row in rows]


def end_issue(issue_id: int, state: str, error: str = "", files: list[dict[str, Any]] | None = None) -> None:
    """Note how an issue ended, or that it waits for an answer (*asking*), and its files; passwords are forgotten once it is
    done or called off."""
    with connected(), database.atomic("IMMEDIATE"):
        row = Issue.get_or_none(Issue.id == issue_id)
        if row is None or row.state not in ("running", "asking"):
            return
        for file in files or []:
            IssuedFile.create(issue=row, **file)
        row.state, row.error, row.ended = state, error, now()
        if state not in ("failed", "asking"):
            row.secret = ""
        row.save()
    tell("issue", row.job)


def resume_issue(issue_id: int) -> None:
    """Set an issue that failed or was cancelled going again. :raises InputError: when it is neither."""
    with connected(), database.atomic("IMMEDIATE"):
        row = Issue.get_or_none(Issue.id == issue_id)
        if row is None or row.state not in ("failed", "cancelled"):
            raise InputError("Only an issue that failed or was cancelled can be tried again.")
        row.state, row.error, row.ended = "running", "", None
        row.save()
    tell("issue", row.job)
