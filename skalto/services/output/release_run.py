"""Brings the files of a release forward, each a piece of work of its own, and leaves them in the outbox."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

import orjson

from skalto.core.checks.verdict import Report
from skalto.core.errors import InputError
from skalto.core.release.manifest import ManifestFile
from skalto.jobs.queue import Queue
from skalto.services.output.releasing import FileWork
from skalto.services.output.sending import Sender
from skalto.services.tasks.releasing import make_part_file
from skalto.store.blobs import Blobs, content_hash

FileState = Literal["working", "ready", "failed", "cancelled"]


@dataclass(frozen=True)
class FileProgress:
    """How far a file is: what is being done, the share of it, and why it failed."""

    state: FileState
    share: float = 0.0
    text: str = ""
    error: str = ""


class Runner:
    """Files of releases on the workers."""

    def __init__(self, blobs: Blobs, queue: Queue) -> None:
        self.blobs, self.queue = blobs, queue
        self.sender = Sender(blobs, queue)

    def advance(self, work: FileWork) -> FileProgress:
        """Bring a file as far forward as it can be now."""
        if work.text is not None:
            return FileProgress("ready", 1.0)
        if work.sent is not None:
            return self._sent(work)
        assert work.part is not None, "a file is pages, a part or text"
        if self.blobs.exists(f"{work.part.key}.json"):
            return FileProgress("ready", 1.0)
        known = self.queue.state(work.part.key)
        if known is None or known.state == "done":
            known = self.queue.submit(make_part_file, work.part)
        if known.state in ("failed", "cancelled"):
            return FileProgress("failed" if known.state == "failed" else "cancelled", known.share, "", known.error)
        return FileProgress("working", known.share, known.text)

    def _sent(self, work: FileWork) -> FileProgress:
        assert work.sent is not None
        made = self.sender.advance(work.sent)
        if made.done:
            return FileProgress("ready", 1.0)
        if made.error or made.cancelled:
            return FileProgress("failed" if made.error else "cancelled", made.share, "", made.error)
        doing = next((page.text for page in made.pages if page.text), "")
        return FileProgress("working", made.share, doing)

    def begin_again(self, work: FileWork) -> None:
        """Forget what failed or was cancelled of a file, so that the next step begins it anew."""
        if work.sent is not None:
            self.sender.try_again(work.sent)
        elif work.part is not None:
            state = self.queue.state(work.part.key)
            if state is not None and state.state in ("failed", "cancelled"):
                self.queue.forget(work.part.key)

    def call_off(self, work: FileWork) -> None:
        """Stop what is queued or running of a file."""
        if work.sent is not None:
            self.sender.call_off(work.sent)
        elif work.part is not None:
            self.queue.cancel(work.part.key)

    def result(self, work: FileWork) -> tuple[bytes, ManifestFile]:
        """A finished file, and its line of the manifest.

        :raises InputError: when a check of it fails. :raises KeyError: when it is no longer kept.
        """
        told: dict[str, Any] = {"checks": ""}
        if work.text is not None:
            data = work.text.encode()
        elif work.sent is not None:
            key = self.sender.file_key(work.sent, 0)
            data = self.blobs.get(f"{key}.pdf")
            report = Report.model_validate_json(self.blobs.get(f"{key}.json"))
            if not report.holds:
                wrong = next(finding.message for finding in report.findings if finding.level == "error")
                raise InputError(f"A check of the file fails: {wrong}")
            told["checks"] = "pass"
        else:
            assert work.part is not None
            data = self.blobs.get(f"{work.part.key}{work.planned.file.suffix}")
            measured = orjson.loads(self.blobs.get(f"{work.part.key}.json"))
            told = {name: measured[name] for name in ("cut_length", "pierces", "thickness") if name in measured}
            told["checks"] = "pass" if measured else ""
        return data, work.about.model_copy(update={"sha256": content_hash(data), "size": len(data), **told})
