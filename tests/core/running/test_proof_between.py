"""A file that becomes ready while it is asked for is told as ready, not as one that nobody makes."""

from __future__ import annotations

from types import SimpleNamespace
from typing import Any

import pytest

from skalto.core.checks.verdict import Report
from skalto.jobs.queue import WorkState
from skalto.services.use_cases.proofing import Proofing


class Blobs:
    """A store in which a report comes after it was looked for so often."""

    def __init__(self, after: int) -> None:
        self.left = after

    def exists(self, key: str) -> bool:
        self.left -= 1
        return self.left < 0

    def get(self, key: str) -> bytes:
        return Report(pages=(), findings=(), checks=()).model_dump_json().encode()


@pytest.mark.parametrize("after", [0, 1])
def test_a_file_that_becomes_ready_in_between_is_ready(after: int, monkeypatch: pytest.MonkeyPatch) -> None:
    queue = SimpleNamespace(state=lambda key: WorkState(state="done", share=1.0))
    studio: Any = SimpleNamespace(blobs=Blobs(after), queue=queue)
    proofing = Proofing.__new__(Proofing)
    proofing.studio = studio
    plan: Any = SimpleNamespace(key=lambda recipe: "proofs/x")
    monkeypatch.setattr(Proofing, "_plan", lambda self, job, sheet: (None, None, None, plan))
    state = proofing.proof(1, "s")
    assert (state.ready, state.work) == (True, None)
