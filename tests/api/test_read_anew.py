"""A job whose sources another release has read: the proof has them read anew, and goes on by itself."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest

from skalto.demo.solids import block
from skalto.services.stored import keys
from tests.api.test_api import bring_in, new_job, wait_for
from tests.api.test_issues import sheet_of
from tests.conftest import Running, write_step


@pytest.fixture
def unread(running: Running, tmp_path: Path) -> tuple[int, str, str]:
    """A job, a sheet of it, and its source, which is as an upgrade leaves it: the file alone."""
    # nobody else's: what a server has seen there once, it takes to be there
    path = write_step(block(61, 41, 7 + len(tmp_path.name)), tmp_path / "Own plate.step")
    job = new_job(running, "Of an older release")
    source = bring_in(running, job, path)
    sheet = sheet_of(running.client, job, "One", "A3", source, "top")
    shutil.rmtree(running.data / "blobs" / keys.model_key(source, "tree.json").rpartition("/")[0])
    return job, sheet, source


def test_the_proof_has_a_source_read_anew(running: Running, unread: tuple[int, str, str]) -> None:
    job, sheet, _ = unread
    proof = f"/api/jobs/{job}/sheets/{sheet}/proof"
    running.client.post(proof)
    told = running.client.get(proof).json()
    assert "Reading" in str(told) or told["report"], told
    assert wait_for(lambda: running.client.get(proof).json()["report"], 60)
    assert running.client.get(proof).json()["holds"] is True


def test_a_source_that_is_not_kept_is_told(running: Running, unread: tuple[int, str, str]) -> None:
    job, sheet, source = unread
    (running.data / "blobs" / keys.file_key(source)).unlink()
    proof = f"/api/jobs/{job}/sheets/{sheet}/proof"
    running.client.post(proof)
    assert "One of its sources is not kept here: add it again" in str(running.client.get(proof).json())


def test_a_view_has_its_source_read_anew(running: Running, unread: tuple[int, str, str]) -> None:
    """The desk asks for pictures before anybody has opened the source: none of them fails."""
    job, sheet, _ = unread
    (view,) = (own["id"] for own in running.client.get(f"/api/jobs/{job}").json()["document"]["sheets"][0]["views"])
    address = f"/api/jobs/{job}/sheets/{sheet}/views/{view}/picture"
    shutil.rmtree(running.data / "blobs" / "views", ignore_errors=True)

    def drawn() -> bool:
        answer = running.client.get(address)
        assert answer.status_code in (200, 202), answer.text
        assert "broke off" not in answer.text
        return answer.status_code == 200

    assert wait_for(drawn, 60)


def test_what_is_looked_for_in_a_source_waits_for_it(running: Running, unread: tuple[int, str, str]) -> None:
    _, _, source = unread

    def found() -> dict[str, object] | None:
        answer = running.client.get(f"/api/sources/{source}/sheet-metal")
        assert answer.status_code in (200, 202), answer.text
        told: dict[str, object] = answer.json()
        assert "broke off" not in str(told)
        return told if told["parts"] is not None else None

    assert wait_for(found, 60)
