"""The register of drawings as it is kept: what each sheet says of itself, its state, and when it last went out."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import datetime
from typing import Any

import orjson
from peewee import chunked

from skalto.core.job import JobDocument
from skalto.core.release.drawings import DrawingRow
from skalto.store.jobs import get_job
from skalto.store.tables import Drawing, Job, aware, connected, database

Lister = Callable[[JobDocument, str], Sequence[tuple[str, str, str]]]
"""What lists the sheets of a job's document and number: id, a short name for what shows, what it says of itself (JSON)."""

_LATEST = """
SELECT d.job_id, j.number, d.sheet, d.content, d.document, s.state, p.made, p.content, i.id, i.ended, i.purpose, i.revision,
       t.content, f.release, f.ended, f.path, f.about
FROM drawing AS d
JOIN job AS j ON j.id = d.job_id
LEFT JOIN (SELECT job, subject, state, MAX(id) FROM statechange GROUP BY job, subject) AS s
  ON s.job = d.job_id AND s.subject = 'sheet:' || d.sheet
LEFT JOIN (SELECT job_id, sheet, made, content, MAX(id) FROM proof GROUP BY job_id, sheet) AS p
  ON p.job_id = d.job_id AND p.sheet = d.sheet
LEFT JOIN (SELECT t.job, t.sheet, t.content, t.issue_id, MAX(t.id) FROM issuedsheet AS t
           JOIN issue AS i ON i.id = t.issue_id AND i.state = 'done' GROUP BY t.job, t.sheet) AS t
  ON t.job = d.job_id AND t.sheet = d.sheet
LEFT JOIN issue AS i ON i.id = t.issue_id
LEFT JOIN (SELECT r.job AS job, f.subject, f.path, f.about, f.state, r.id AS release, r.ended AS ended, MAX(f.id)
           FROM releasefile AS f JOIN release AS r ON r.id = f.release_id AND r.state = 'done'
           WHERE f.state IN ('made', 'kept') AND f.subject LIKE 'sheet:%' GROUP BY r.job, f.subject) AS f
  ON f.job = d.job_id AND f.subject = 'sheet:' || d.sheet
ORDER BY j.number, d.id
"""
"""SQLite takes the other columns of a group from the row that has its greatest."""


def _stamp(row: Any) -> str:
    return f"{row.head} {row.changed.isoformat()}"


def bring_up(lister: Lister, version: str) -> None:
    """List the sheets anew of jobs that have changed since they were listed. *version* names the way of listing."""
    with connected():
        stale = [row.id for row in Job.select() if row.listed != f"{version} {_stamp(row)}"]
    for job_id in stale:
        with connected(), database.atomic("IMMEDIATE"):
            row = Job.get_or_none(Job.id == job_id)
            if row is None:
                continue
            job = get_job(job_id)
            Drawing.delete().where(Drawing.job == row).execute()
            told = [(row.id, *own) for own in lister(job.document, job.number)]
            for some in chunked(told, 200):
                fields = [Drawing.job, Drawing.sheet, Drawing.content, Drawing.document]
                Drawing.insert_many(some, fields=fields).execute()
            Job.update(listed=f"{version} {_stamp(row)}").where(Job.id == job_id).execute()


def _moment(text: str | datetime | None) -> datetime | None:
    return aware(datetime.fromisoformat(text)) if isinstance(text, str) else aware(text) if text else None


def _since(now: str, then: str | None) -> bool | None:
    return None if not then else now != then


_read: dict[tuple[Any, ...], DrawingRow] = {}


def _row(told: tuple[Any, ...]) -> DrawingRow:
    job, number, sheet, content, said, state, made, proofed, issue, ended, purpose, revision, issued, *released = told
    release, released_at, file, file_about = released
    about = orjson.loads(said)
    return DrawingRow.model_validate({
        "job": job, "job_number": number, "job_name": about["job_name"], "sheet": sheet, "about": about["about"],
        "state": state or "in work", "proofed": _moment(made), "changed_since_proof": _since(content, proofed),
        "issue": issue, "issued": _moment(ended), "purpose": purpose or "", "issued_revision": revision or "",
        "changed_since_issue": _since(content, issued),
        "release": release, "released": _moment(released_at), "released_file": file or "",
        "released_revision": orjson.loads(file_about).get("revision", "") if file_about else "",
    })  # fmt: skip


def drawing_rows() -> list[DrawingRow]:
    """All sheets of all jobs as they were listed last, job by job, each job's in their order."""
    global _read
    with connected():
        told = list(database.execute_sql(_LATEST))
    # most are as they were when somebody looked last
    _read = {own: _read.get(own) or _row(own) for own in told}
    return list(_read.values())
