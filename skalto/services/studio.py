"""The web's use cases: the one place where queue, blobs and database meet."""

from __future__ import annotations

import threading
import uuid
from dataclasses import dataclass, replace
from datetime import UTC, datetime

from skalto.core.checks.report import Report
from skalto.core.errors import InputError
from skalto.core.job import AddSheet, AddSource, AddView, ChangeView, Edit, JobDocument, SourceRef, apply, describe
from skalto.core.models.model import ModelTree
from skalto.core.models.reading import check_size, format_of
from skalto.core.sheets.arranging import new_view, projected_box
from skalto.core.sheets.compose import Box
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.viewpoint import Viewpoint, make_viewpoint
from skalto.jobs.queue import Queue, WorkState
from skalto.services import keys
from skalto.services.tasks import load_tree
from skalto.settings import Settings
from skalto.store import jobs as store
from skalto.store.blobs import Blobs, content_hash
from skalto.store.jobs import IncomingFile, StoredJob

_TASKS = "skalto.services.tasks"


@dataclass(frozen=True)
class ProofState:
    """A sheet's finished file: *key* of what it is or would be now; whether it is there; how far the work is."""

    key: str
    ready: bool
    work: WorkState | None
    report: Report | None


def short_id() -> str:
    """A new name for a sheet or a view."""
    return uuid.uuid4().hex[:8]


class Studio:
    """Jobs, sources, views and proofs of one data folder."""

    def __init__(self, settings: Settings, queue: Queue) -> None:
        self.settings = settings
        self.queue = queue
        self.blobs = Blobs(settings.blob_url)
        self._changing = threading.Lock()

    # Jobs

    def create_job(self, name: str) -> StoredJob:
        return store.create_job(JobDocument(name=name.strip() or "Untitled job"))

    def edit(self, job_id: int, edit: Edit) -> StoredJob:
        """Apply an edit and keep it as a step. An edit that changes nothing is not a step.

        :raises InputError: when it does not fit the job.
        """
        # one after another, so that no change is made to a document that another has just replaced
        with self._changing:
            job = store.get_job(job_id)
            changed = apply(job.document, self._with_anchor(job.document, edit))
            if changed == job.document:
                return job
            return store.add_step(job_id, changed, describe(job.document, edit))

    def _with_anchor(self, job: JobDocument, edit: Edit) -> Edit:
        """A view that is to look another way keeps the middle of the model where it lies on the sheet."""
        if not isinstance(edit, ChangeView) or not {"look", "up"} & set(edit.fields) or "anchor" in edit.fields:
            return edit
        view = job.sheet(edit.sheet).view(edit.view)
        looking = make_viewpoint("", edit.fields.get("look", view.look), edit.fields.get("up", view.up))
        middle, _ = projected_box(self.tree(view.source), looking.axes())
        return edit.model_copy(update={"fields": edit.fields | {"anchor": (float(middle[0]), float(middle[1]))}})

    # Sources

    def bring_in(self, job_id: int, name: str, data: bytes) -> IncomingFile:
        """Take a file and start reading it; it joins the job when it has been read.

        :raises InputError: when its name or size rules it out.
        """
        store.get_job(job_id)
        format_of(name)
        check_size(name, len(data), self.settings.size_limit)
        source = content_hash(data)
        if not self.blobs.exists(keys.file_key(source)):
            self.blobs.put(keys.file_key(source), data)
        incoming = store.add_incoming(job_id, source, name, len(data))
        self._read(incoming)
        self.collect()
        return incoming

    def _read(self, incoming: IncomingFile) -> None:
        if self.blobs.exists(keys.model_key(incoming.source, "tree.json")):
            return
        arguments = {
            "blobs": self.settings.blob_url,
            "source": incoming.source,
            "name": incoming.name,
            "limit": self.settings.size_limit,
        }
        self.queue.submit(f"read:{incoming.source}", f"{_TASKS}:read_source", arguments)

    def collect(self) -> None:
        """Put files that have been read into their jobs; note those that could not be."""
        for incoming in store.all_reading():
            if self.blobs.exists(keys.model_key(incoming.source, "tree.json")):
                source = SourceRef(id=incoming.source, name=incoming.name, size=incoming.size)
                self.edit(incoming.job, AddSource(kind="add_source", source=source))
                store.remove_incoming(incoming.id)
                continue
            work = self.queue.state(f"read:{incoming.source}")
            if work is None:
                self._read(incoming)
            elif work.state == "failed":
                store.fail_incoming(incoming.id, "failed", work.error)
            elif work.state == "cancelled":
                store.remove_incoming(incoming.id)

    def incoming(self, job_id: int) -> list[tuple[IncomingFile, WorkState | None]]:
        """Files on their way into a job, with how far each is."""
        return [(row, self.queue.state(f"read:{row.source}")) for row in store.incoming_of(job_id)]

    def dismiss(self, job_id: int, incoming_id: int) -> None:
        """Call off the reading of a file, or take away the note that it failed."""
        for row in store.incoming_of(job_id):
            if row.id == incoming_id:
                if row.state == "reading":
                    self.queue.cancel(f"read:{row.source}")
                else:
                    self.queue.forget(f"read:{row.source}")
                    store.remove_incoming(row.id)

    def tree(self, source: str) -> ModelTree:
        """:raises InputError: when the source was never read here."""
        try:
            return load_tree(self.blobs, source)
        except KeyError:
            raise InputError("This source has not been read: bring it in again.") from None

    def scene(self, source: str) -> bytes:
        """The source as glb. :raises InputError: when it was never read here."""
        try:
            return self.blobs.get(keys.model_key(source, "scene.glb"))
        except KeyError:
            raise InputError("This source has not been read: bring it in again.") from None

    # Views

    def put_on_sheet(self, job_id: int, source: str, viewpoint: Viewpoint, sheet_id: str | None) -> tuple[StoredJob, str, str]:
        """Put a view of a source on a sheet (a new one where *sheet_id* is None): the job, the sheet's and the view's id.

        :raises InputError: when source or sheet are not there.
        """
        job = store.get_job(job_id)
        job.document.source(source)
        tree = self.tree(source)
        if sheet_id is None:
            sheet = SheetSpec(id=short_id(), name=f"Sheet {len(job.document.sheets) + 1}")
        else:
            sheet = job.document.sheet(sheet_id)
        taken = [box for view in sheet.views if (box := self._rough_box(view)) is not None]
        view = new_view(short_id(), source, tree, viewpoint, sheet, taken)
        if sheet_id is None:
            with_view = sheet.model_copy(update={"views": (view,)})
            return self.edit(job_id, AddSheet(kind="add_sheet", sheet=with_view)), sheet.id, view.id
        return self.edit(job_id, AddView(kind="add_view", sheet=sheet.id, view=view)), sheet.id, view.id

    def _rough_box(self, view: ViewSpec) -> Box | None:
        """The box that a view on a sheet takes at most."""
        try:
            middle, size = projected_box(load_tree(self.blobs, view.source), view.projection().axes())
        except KeyError:
            return None
        scale = float(view.ratio)
        centre = (middle - view.anchor) * scale + view.place
        half = size * scale / 2
        return float(centre[0] - half[0]), float(centre[1] - half[1]), float(centre[0] + half[0]), float(centre[1] + half[1])

    def picture(self, job_id: int, sheet_id: str, view_id: str, again: bool = False) -> bytes | tuple[str, WorkState]:
        """A view's picture as JSON, or the key and state of the work that makes it.

        Work that failed or was called off is begun anew only when asked to do it *again*.

        :raises InputError: when the view is not there.
        """
        view = self._view(job_id, sheet_id, view_id)
        spec = view.projection()
        key = keys.view_key(view.source, spec)
        try:
            return self.blobs.get(f"{key}.json")
        except KeyError:
            pass
        known = self.queue.state(key)
        if known is not None and known.state in ("failed", "cancelled") and not again:
            return key, known
        arguments = {"blobs": self.settings.blob_url, "source": view.source, "spec": spec.model_dump_json()}
        return key, self.queue.submit(key, f"{_TASKS}:project_view", arguments)

    def _view(self, job_id: int, sheet_id: str, view_id: str) -> ViewSpec:
        try:
            return store.get_job(job_id).document.sheet(sheet_id).view(view_id)
        except KeyError:
            raise InputError("This view is no longer on the sheet: choose another.") from None

    # Proofs

    def _title(self, job: StoredJob, sheet: SheetSpec) -> str:
        return f"{job.document.name}, {sheet.name}"

    def proof(self, job_id: int, sheet_id: str) -> ProofState:
        """The state of a sheet's finished file as the sheet is now."""
        job = store.get_job(job_id)
        sheet = job.document.sheet(sheet_id)
        key = keys.proof_key(sheet, self._title(job, sheet))
        if self.blobs.exists(f"{key}.json"):
            return ProofState(key, True, None, Report.model_validate_json(self.blobs.get(f"{key}.json")))
        return ProofState(key, False, self.queue.state(key), None)

    def begin_proof(self, job_id: int, sheet_id: str) -> dict[str, str]:
        """Note that a sheet's file is wanted; what the task that writes it needs.

        :raises InputError: for a sheet without a view.
        """
        job = store.get_job(job_id)
        sheet = job.document.sheet(sheet_id)
        if not sheet.views:
            raise InputError(f"{sheet.name} is empty: put a view on it first.")
        title = self._title(job, sheet)
        key = keys.proof_key(sheet, title)
        if store.latest_proofs(job_id, [sheet_id]).get(sheet_id) != key:
            store.add_proof(job_id, sheet_id, key)
        return {
            "blobs": self.settings.blob_url,
            "sheet": sheet.model_dump_json(),
            "title": title,
            "created": datetime.now(UTC).isoformat(),
        }

    def make_proof(self, job_id: int, sheet_id: str) -> ProofState:
        """Write and measure a sheet's file, unless that has been done. :raises InputError: for a sheet without a view."""
        arguments = self.begin_proof(job_id, sheet_id)
        state = self.proof(job_id, sheet_id)
        if state.ready:
            return state
        return replace(state, work=self.queue.submit(state.key, f"{_TASKS}:write_sheet", arguments))

    def proof_file(self, job_id: int, sheet_id: str) -> tuple[str, bytes]:
        """File name and bytes of a sheet's finished file as the sheet is now. :raises InputError: when it is not made yet."""
        job = store.get_job(job_id)
        sheet = job.document.sheet(sheet_id)
        state = self.proof(job_id, sheet_id)
        if not state.ready:
            raise InputError("The file of this sheet is not made yet: make the proof first.")
        safe = "".join(c if c.isalnum() or c in " -_" else "_" for c in f"{job.document.name} {sheet.name}")
        return f"{safe.strip().replace(' ', '_')}.pdf", self.blobs.get(f"{state.key}.pdf")
