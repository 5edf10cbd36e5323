"""What is kept for whom: sources go with their jobs, a day after; nobody else may read the data folder."""

from __future__ import annotations

import hashlib
import os
from collections.abc import Iterator
from datetime import timedelta
from pathlib import Path

import pytest

from skalto.core.job import JobDocument
from skalto.core.sources.section import SourceRef
from skalto.jobs.queue import Queue
from skalto.services.stored import keys
from skalto.services.use_cases import tidying
from skalto.services.use_cases.studio import Studio
from skalto.services.use_cases.tidying import Swept, Tidying
from skalto.settings import Settings
from skalto.store import jobs, keeping
from skalto.store.outbox import Outbox
from skalto.store.tables import Issue, Orphan, Proof, database, now
from tests.api.test_api import bring_in, new_job
from tests.conftest import Running
from tests.core.command_line.test_cli_files import SKALTO

A, B, C = (letter * 64 for letter in "abc")
RESULT = "views/" + "1" * 40


@pytest.fixture
def kept(tmp_path: Path) -> Iterator[Tidying]:
    jobs.open_database(tmp_path / "skalto.db")
    studio = Studio(Settings(data=tmp_path), Queue(tmp_path))
    yield Tidying(studio)
    database.close()


def _job(name: str, *sources: str) -> jobs.StoredJob:
    return jobs.create_job(JobDocument(name=name, sources=tuple(SourceRef(id=s, name=f"{s[0]}.step", size=1) for s in sources)))


def _put(tidied: Tidying, *names: str) -> None:
    for name in names:
        tidied.studio.blobs.put(name, b"x" * 10)


def _left(tidied: Tidying) -> set[str]:
    return {blob.key for blob in tidied.studio.blobs.listed()} - {"owner", "store"}


def _a_day_later() -> None:
    Orphan.update(since=now() - timedelta(days=1, seconds=1)).execute()


def test_a_source_goes_a_day_after_its_last_job(kept: Tidying) -> None:
    tree = keys.model_key(A, "tree.json")
    _put(kept, keys.file_key(A), tree, keys.file_key(B), f"{RESULT}.json", f"{RESULT}.lines")
    first, second = _job("one", A), _job("two", A, B)
    kept.note(RESULT, f'{{"source": "{A}", "other": "{B}"}}')
    jobs.delete_job(first.id)
    assert kept.sweep() == Swept()
    jobs.delete_job(second.id)
    assert (keeping.has_source(A), keeping.has_source(B)) == (False, False)
    assert kept.sweep() == Swept(waiting=5)
    assert len(_left(kept)) == 5
    # it is wanted again: its day begins anew when it is not
    third = _job("three", A)
    _a_day_later()
    assert kept.sweep() == Swept(3, 30, 0)
    assert _left(kept) == {keys.file_key(A), tree}
    jobs.delete_job(third.id)
    assert kept.sweep() == Swept(waiting=2)
    _a_day_later()
    assert kept.sweep() == Swept(2, 20, 0)
    assert _left(kept) == set()


def test_what_undo_goes_back_to_stays(kept: Tidying) -> None:
    _put(kept, keys.file_key(A))
    job = _job("one", A)
    jobs.add_step(job.id, JobDocument(name="one"), "remove a.step", job)
    assert kept.sweep(at_once=True) == Swept()
    assert keeping.has_source(A)
    jobs.move_head(job.id, -1)
    # undone and done otherwise: no state of the job has it any more
    fresh = jobs.create_job(JobDocument(name="two"))
    added = JobDocument(name="two", sources=(SourceRef(id=B, name="b.step", size=1),))
    jobs.add_step(fresh.id, added, "add b.step", fresh)
    back = jobs.move_head(fresh.id, -1)
    jobs.add_step(fresh.id, JobDocument(name="other"), "rename", back)
    _put(kept, keys.file_key(B))
    assert kept.sweep(at_once=True) == Swept(1, 10, 0)
    assert _left(kept) == {keys.file_key(A)}


def test_what_is_on_its_way_or_under_way_or_issued_stays(kept: Tidying) -> None:
    proof, joined = "proofs/" + "2" * 40, "joined/" + "3" * 40
    _put(kept, keys.file_key(A), keys.file_key(B), f"{proof}.pdf", f"{joined}.pdf", "issues/1/0.pdf")
    job = _job("one")
    coming = jobs.add_incoming(job.id, A, "a.step", 1)
    rows = {"job_number": "1", "job_name": "", "pack": "", "pack_id": "", "purpose": "", "revision": ""}
    issue = Issue.create(job=9, plan=f'{{"source": "{B}"}}', **rows)
    kept.note(proof, f'"{C}"')
    kept.note(joined, f'"{C}"')
    jobs.add_proof(job.id, "s", proof, "")
    assert kept.sweep(at_once=True) == Swept(1, 10, 0)
    assert _left(kept) == {keys.file_key(A), keys.file_key(B), f"{proof}.pdf", "issues/1/0.pdf"}
    jobs.remove_incoming(coming.id)
    Issue.update(state="done").where(Issue.id == issue.id).execute()
    Proof.delete().execute()
    assert kept.sweep(at_once=True).removed == 3
    # what was issued is kept for ever
    assert _left(kept) == {"issues/1/0.pdf"}


def test_what_earlier_releases_read_and_results_that_nothing_is_known_of_go(
    kept: Tidying, monkeypatch: pytest.MonkeyPatch
) -> None:
    _job("one", A)
    earlier, now_read = f"models/v1/{A}/tree.json", keys.model_key(A, "tree.json")
    _put(kept, keys.file_key(A), earlier, now_read, f"{RESULT}.json")
    assert kept.sweep(at_once=True) == Swept(1, 10, 0)
    assert _left(kept) == {keys.file_key(A), now_read, f"{RESULT}.json"}
    monkeypatch.setattr(tidying, "UNKNOWN", timedelta(seconds=-1))
    assert kept.sweep(at_once=True) == Swept(1, 10, 0)


def test_another_server_s_store_is_left_alone(kept: Tidying) -> None:
    _put(kept, keys.file_key(A))
    kept.studio.blobs.put("owner", b"another")
    assert kept.sweep(at_once=True) == Swept()
    assert _left(kept) == {keys.file_key(A)}


def test_a_deleted_job_s_source_is_not_read_by_its_hash(tmp_path: Path, plate_step: Path) -> None:
    running = Running(tmp_path / "data")
    try:
        job = new_job(running)
        source = bring_in(running, job, plate_step)
        assert source == hashlib.sha256(plate_step.read_bytes()).hexdigest()
        for what in ("tree", "scene.glb"):
            assert running.client.get(f"/api/sources/{source}/{what}").status_code == 200
        assert running.client.delete(f"/api/jobs/{job}").status_code == 204
        for what in ("tree", "scene.glb", "flat-parts", "sheet-metal"):
            answer = running.client.get(f"/api/sources/{source}/{what}")
            assert (answer.status_code, answer.json()["detail"]) == (404, "No job here has this source: add the file to one.")
        # and is not taken into another job by whoever knows it
        edit = {"kind": "add_source", "source": {"id": source, "name": "plate.step", "size": 1}}
        other = new_job(running)
        assert running.client.post(f"/api/jobs/{other}/edits", json=edit).status_code == 422
        refused = os.popen(f"{SKALTO} tidy --data {tmp_path / 'data'} 2>&1").read()
        assert "is in use by" in refused
        for path in (p for p in (tmp_path / "data").rglob("*") if p.name != "server.log"):
            assert path.stat().st_mode & 0o077 == 0, path
        assert (tmp_path / "data").stat().st_mode & 0o777 == 0o700
    finally:
        running.interrupt()
    assert (tmp_path / "data" / "blobs" / "files" / source).exists()
    said = os.popen(f"{SKALTO} tidy --data {tmp_path / 'data'}").read()
    assert said.startswith("0 removed")
    said = os.popen(f"{SKALTO} tidy --now --data {tmp_path / 'data'}").read()
    assert not said.startswith("0 removed")
    left = [path for path in (tmp_path / "data" / "blobs").rglob("*") if path.is_file()]
    assert sorted(path.name for path in left) == ["owner", "store"]


def test_what_is_handed_on_has_the_rights_of_other_files(tmp_path: Path) -> None:
    """In a process of its own: what a process writes is set once for all."""
    code = (
        "import sys, pathlib; from skalto.store.rights import keep_private; from skalto.store.outbox import Outbox\n"
        f"at = pathlib.Path({str(tmp_path)!r}); keep_private(at / 'data'); (at / 'data' / 'own').write_text('x')\n"
        "for place in (at / 'out', at / 'data' / 'outbox'):\n"
        "    place.mkdir(); Outbox(str(place)).put('sub/a.pdf', b'x', 'earlier')\n"
    )
    assert os.system(f'umask 027; {SKALTO.replace("skalto", "python")} -c "{code}"') == 0
    modes = {str(p.relative_to(tmp_path)): p.stat().st_mode & 0o777 for p in tmp_path.rglob("*") if p.is_file()}
    assert modes == {"data/own": 0o600, "out/sub/a.pdf": 0o640, "data/outbox/sub/a.pdf": 0o600}
    assert (tmp_path / "out" / "sub").stat().st_mode & 0o777 == 0o750
    assert Outbox(str(tmp_path / "out")).get("sub/a.pdf") == b"x"
