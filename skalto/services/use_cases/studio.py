"""The web's use cases: the one place where queue, blobs and database meet."""

from __future__ import annotations

import hashlib
import shutil
import tempfile
import threading
import uuid
from collections.abc import Callable, Sequence
from datetime import UTC, datetime
from functools import wraps
from pathlib import Path
from typing import IO, Literal, NamedTuple, ParamSpec, TypeVar

import numpy as np

from skalto.core.annotation.edge_references import SourceFacts
from skalto.core.artwork import Artwork
from skalto.core.artwork.crop_to_circle import clip_to_circle
from skalto.core.edits import Around, Edit, apply
from skalto.core.edits.of_sheets import AddSheet
from skalto.core.edits.of_sources import AddSource
from skalto.core.edits.of_views import AddView
from skalto.core.errors import InputError, Moved, NotThere
from skalto.core.geometry import Array, Box
from skalto.core.job import JobDocument
from skalto.core.layout.arrangement import new_view, shown_box, shown_extent
from skalto.core.layout.drawing_views import region_of
from skalto.core.output.picture import to_picture
from skalto.core.pens import DEFAULT, Pens, PenSet
from skalto.core.quantities import Scale
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.drawings.drawing import UNITS, DrawingFacts
from skalto.core.sources.formats import is_drawing, model_format
from skalto.core.sources.models.model import ModelTree, covered
from skalto.core.sources.reading import check_size
from skalto.core.sources.said_unit import with_unit
from skalto.core.sources.section import SourceRef
from skalto.core.viewpoint import Viewpoint
from skalto.jobs.queue import Queue, WorkState
from skalto.services.results.drawings import boxes_of_page
from skalto.services.stored import keys
from skalto.services.stored.context import DRAWING, ContextSpec, load_facts
from skalto.services.stored.jobfile import JobFile, pack_job
from skalto.services.stored.lines import unpack_lines
from skalto.services.tasks.reading import MakeReady, ReadSource, UnpackArchive, make_source_ready, read_source, unpack_archive
from skalto.services.tasks.views import PenPicture, ProjectView, pen_picture, project_view
from skalto.settings import Settings
from skalto.store import jobs as store
from skalto.store.blobs import Blobs
from skalto.store.cutter import kept_machine
from skalto.store.jobs import IncomingFile, StoredJob, person
from skalto.store.recipes import keep_recipe, kept_recipes
from skalto.store.states import states_now


class Awaited(NamedTuple):
    """A picture on its way: the key and the state of the work that makes it, and what there is to look at until then, as
    JSON."""

    key: str
    work: WorkState
    rough: bytes = b""


_MARK = "store"
"""The blob that names a blob store."""

_Wish = ParamSpec("_Wish")
_Done = TypeVar("_Done")
_ANEW = 20
"""How often a change is made anew for a job that moved under it."""


def _all_but(tree: ModelTree, paths: Sequence[str]) -> frozenset[str]:
    """The leaves that lie in none of some components; none where there are no such."""
    wanted = frozenset(paths)
    return frozenset(leaf.path for leaf in tree.leaves() if not covered(leaf.path, wanted)) if wanted else frozenset()


def anew(do: Callable[_Wish, _Done]) -> Callable[_Wish, _Done]:
    """Does once more, from its first look at the job, what the job moved under."""

    @wraps(do)
    def again(*wish: _Wish.args, **more: _Wish.kwargs) -> _Done:
        for _ in range(_ANEW):
            try:
                return do(*wish, **more)
            except Moved:
                continue
        return do(*wish, **more)

    return again


def short_id() -> str:
    """A new name for a sheet or a view."""
    return uuid.uuid4().hex[:8]


def unit_of_job(facts: SourceFacts) -> Literal["mm", "in"]:
    """The unit of a job whose first source this is: inches where it was drawn in them or in feet."""
    inches = facts.drawing is not None and facts.drawing.unit_mm in (UNITS["in"], UNITS["ft"])
    return "in" if inches else "mm"


class Studio:
    """Jobs, sources, views and proofs of one data folder."""

    def __init__(self, settings: Settings, queue: Queue) -> None:
        self.settings = settings
        self.queue = queue
        self.blobs = Blobs(settings.blob_url)
        self.preparing = ""
        """What the server does by itself for its beginning, '' when nothing."""

        self._changing: dict[int, threading.Lock] = {}
        self.replacing: Callable[[int, str, SourceRef], object] = self._cannot_replace

    def _cannot_replace(self, job_id: int, old: str, new: SourceRef) -> None:
        raise InputError("A newer revision cannot be put in place here: open the job at a desk.")

    def tidy(self) -> None:
        """For the start: remove what broken uploads and openings left."""
        shutil.rmtree(self.settings.coming, ignore_errors=True)
        self.blobs.sweep("archives")
        if not self.settings.blobs:
            # in a store that is shared, others may be writing
            self.blobs.sweep_parts()

    def announce(self) -> None:
        """Tell workers elsewhere which release this is, and by what they know that they share its blob store."""
        try:
            mark = self.blobs.get(_MARK).decode()
        except KeyError:
            mark = uuid.uuid4().hex
            self.blobs.put(_MARK, mark.encode())
        self.queue.announce(mark)

    # Jobs

    def create_job(self, name: str) -> StoredJob:
        return store.create_job(JobDocument(name=name.strip() or "Untitled job"))

    def edit(self, job_id: int, edit: Edit) -> StoredJob:
        """Apply an edit and keep it as a step. An edit that changes nothing is not a step.

        :raises InputError: when it does not fit the job.
        """
        for own in edit.singles:
            if isinstance(own, AddSource) and not self.blobs.exists(keys.file_key(own.source.id)):
                raise InputError(f"The file of {own.source.name} is not kept here: add it.")
        label = ""

        def made(document: JobDocument) -> JobDocument:
            nonlocal label
            changed = apply(document, edit, Around(self.middle, self.drawing))
            label = edit.label(document)
            return changed

        return self._changed(job_id, made, lambda: label)

    def change(
        self, job_id: int, label: str, make: Callable[[JobDocument], JobDocument], of: StoredJob | None = None
    ) -> StoredJob:
        """Keep what *make* makes of a job's document as a step.

        :param of: the job that *make* has looked at already.
        :raises InputError: as *make* raises it. :raises Moved: when the job is no longer as *of* has it.
        """
        return self._changed(job_id, make, lambda: label, of)

    def _changed(
        self, job_id: int, make: Callable[[JobDocument], JobDocument], label: Callable[[], str], of: StoredJob | None = None
    ) -> StoredJob:
        # one after another in each job, so that few are made in vain; that none is lost, the store sees to
        with self._changing.setdefault(job_id, threading.Lock()):
            for last in (*[False] * _ANEW, True):
                job = of or store.get_job(job_id)
                changed = make(job.document)
                if changed == job.document:
                    return job
                try:
                    return store.add_step(job_id, changed, label(), job)
                except Moved:
                    if of is not None or last:
                        raise
        raise AssertionError

    def middle(self, view: ViewSpec) -> Array:
        """The middle of the box of what a view shows, model mm (3,)."""
        shown = shown_box(self.facts(view.source).tree, view.hidden)
        return np.zeros(3) if shown is None else (shown[0] + shown[1]) / 2

    # Sources

    def fitting(self, job_id: int, name: str, replaces: str = "") -> None:
        """:raises InputError: when a file of this name cannot be brought in, before any of it is taken."""
        job = store.get_job(job_id)
        if replaces:
            job.document.source(replaces)
        if not is_drawing(name):
            model_format(name)

    def bring_in(self, job_id: int, name: str, file: Path, replaces: str = "") -> IncomingFile:
        """Take a file and start reading it; it joins the job when it has been read, in the place of the source *replaces*.

        :raises InputError: when its name or size rules it out.
        """
        self.fitting(job_id, name, replaces)
        size = file.stat().st_size
        check_size(name, size, self.settings.size_limit)
        with file.open("rb") as opened:
            source = hashlib.file_digest(opened, "sha256").hexdigest()
        if not self.blobs.exists(keys.file_key(source)):
            self.blobs.put_file(keys.file_key(source), file)
        incoming = store.add_incoming(job_id, source, name, size, replaces)
        try:
            self._read(incoming)
        except BaseException:
            # who is told that it failed sends it again: it must not come twice
            store.remove_incoming(incoming.id)
            raise
        self.collect()
        return incoming

    def say_unit(self, job_id: int, source: str, millimetres: float) -> IncomingFile:
        """Say what a millimetre of a model's file is: it is read anew and takes its own place, as a newer revision does.

        :raises InputError: for a drawing, which has its own unit, and for what is no unit.
        """
        ref = store.get_job(job_id).document.source(source)
        if ref.drawing:
            raise InputError("A drawing's unit is said where its facts are: this is for models.")
        data = self.blobs.get(keys.file_key(source))
        made = with_unit(data, millimetres)
        if made == data:
            raise InputError(f"{ref.name} is read in that unit already.")
        self.settings.coming.mkdir(parents=True, exist_ok=True)
        with tempfile.NamedTemporaryFile(dir=self.settings.coming) as file:
            file.write(made)
            file.flush()
            return self.bring_in(job_id, ref.name, Path(file.name), source)

    def _read(self, incoming: IncomingFile) -> None:
        if self.blobs.exists(keys.model_key(incoming.source, "tree.json")):
            return
        asked = ReadSource(source=incoming.source, name=incoming.name, limit=self.settings.size_limit)
        self.queue.submit(read_source, asked)

    def collect(self) -> None:
        """Put files that have been read into their jobs; note those that could not be."""
        asker = person.get()
        for incoming in store.all_reading():
            person.set(incoming.person)
            if self.blobs.exists(keys.model_key(incoming.source, "tree.json")):
                tree = load_facts(self.blobs, incoming.source).tree
                first = tree.file
                source = SourceRef(
                    id=incoming.source, name=incoming.name, size=incoming.size, drawing=is_drawing(incoming.name),
                    read_as=first if first != incoming.name else "",
                )  # fmt: skip
                try:
                    if incoming.replaces:
                        self.replacing(incoming.job, incoming.replaces, source)
                    else:
                        unit = unit_of_job(load_facts(self.blobs, incoming.source))
                        self.edit(incoming.job, AddSource(kind="add_source", source=source, unit=unit))
                    store.remove_incoming(incoming.id)
                    self._make_ready(incoming.source, tree)
                except InputError as error:
                    store.fail_incoming(incoming.id, "failed", str(error))
                continue
            work = self.queue.state(f"read:{incoming.source}")
            if work is None:
                self._read(incoming)
            elif work.state == "failed":
                store.fail_incoming(incoming.id, "failed", work.error)
            elif work.state == "cancelled":
                store.remove_incoming(incoming.id)
        person.set(asker)

    def _make_ready(self, source: str, tree: ModelTree) -> None:
        """Begin with what every view of a model needs, before one is asked for."""
        if tree.kind not in ("mesh", DRAWING) and not self.blobs.exists(keys.facets_key(source)):
            self.queue.submit(make_source_ready, MakeReady(source=source))

    def incoming(self, job_id: int) -> list[tuple[IncomingFile, WorkState | None]]:
        """Files on their way into a job, with how far each is."""
        return [(row, self.queue.state(f"read:{row.source}")) for row in store.incoming_of(job_id)]

    def dismiss(self, job_id: int, incoming_id: int) -> None:
        """Call off the reading of a file, or take it off the list if nobody reads it."""
        row = self._incoming(job_id, incoming_id)
        work = self.queue.state(f"read:{row.source}")
        if row.state == "reading" and work is not None and work.state in ("queued", "running"):
            self.queue.cancel(f"read:{row.source}")
        else:
            self.queue.forget(f"read:{row.source}")
            store.remove_incoming(row.id)

    def read_again(self, job_id: int, incoming_id: int) -> None:
        """Read a file that could not be read once more. :raises NotThere: when it is not kept here."""
        row = self._incoming(job_id, incoming_id)
        if not self.blobs.exists(keys.file_key(row.source)):
            raise NotThere(f"{row.name} is not kept here: add it again.")
        if row.state != "reading":
            self.queue.forget(f"read:{row.source}")
            store.read_again(row.id)
        self._read(row)

    def _incoming(self, job_id: int, incoming_id: int) -> IncomingFile:
        for row in store.incoming_of(job_id):
            if row.id == incoming_id:
                return row
        raise NotThere("This file is no longer on its way in.")

    def tree(self, source: str) -> ModelTree:
        """:raises InputError: when the source was never read here."""
        return self.facts(source).tree

    def facts(self, source: str) -> SourceFacts:
        """What is known of a source. :raises InputError: when it was never read here, or not by this release."""
        try:
            return load_facts(self.blobs, source)
        except KeyError:
            pass
        name = self.read_anew(source)
        if name:
            raise InputError(f"{name} is being read anew: wait a moment.")
        raise NotThere("This source has not been read: add it again.")

    def reading(self, source: str) -> WorkState | None:
        """How far the reading of a source is that this release has not read, begun where it can be; None for one that is."""
        if self.blobs.exists(keys.model_key(source, "tree.json")):
            return None
        known = self.queue.state(f"read:{source}")
        if known is not None and known.state in ("queued", "running", "failed"):
            return known
        told = "" if self.read_anew(source) else "This source is not kept here: add it again on the Source stop."
        return self.queue.state(f"read:{source}") or WorkState(state="failed", error=told)

    def read_anew(self, source: str) -> str:
        """Have a source of some job read that this release has not read: its name, '' where it is not kept here."""
        if not self.blobs.exists(keys.file_key(source)):
            return ""
        for job in store.list_jobs():
            for known in job.document.sources:
                if known.id == source:
                    self._read(IncomingFile(0, job.id, source, known.name, known.size, "reading", ""))
                    return known.name
        return ""

    def drawing(self, source: str) -> DrawingFacts:
        """What is known of a drawing. :raises InputError: when the source was never read here, or is a model."""
        facts = self.facts(source).drawing
        if facts is None:
            raise InputError("This source is a model, not a drawing.")
        return facts

    def begin_opening(self, archive: Path) -> str:
        """Have a saved job unpacked by a worker; the key of that work."""
        key = f"archives/{uuid.uuid4().hex}"
        self.blobs.put_file(key, archive)
        self.queue.submit(unpack_archive, UnpackArchive(archive=key, limit=self.settings.size_limit))
        return key

    def opened(self, key: str) -> StoredJob | None:
        """The new job from a saved one, once that is unpacked; its sources are read where they were not. None until then.

        :raises InputError: for no saved job.
        """
        work = self.queue.state(key)
        if work is None or work.state in ("queued", "running"):
            return None
        try:
            if work.state != "done":
                raise InputError(work.error or "The opening was cancelled.")
            file = JobFile.model_validate_json(self.blobs.get(f"{key}.json"))
        finally:
            # the archive has served: its sources are kept by themselves
            for own in (key, f"{key}.json"):
                self.blobs.drop(own)
            self.queue.forget(key)
        here = {recipe.id for recipe in kept_recipes()}
        names = {recipe.name.casefold() for recipe in kept_recipes()}
        for recipe in file.document.recipes:
            # what came along is kept here too, unless it is here; under a name of its own
            if recipe.id not in here:
                free = recipe.name if recipe.name.casefold() not in names else f"{recipe.name}, from {file.document.name}"[:60]
                keep_recipe(recipe.model_copy(update={"name": free}))
        job = store.create_job(file.document.model_copy(update={"recipes": ()}), "opened job")
        for source in file.document.sources:
            self._read(store.add_incoming(job.id, source.id, source.named, source.size))
        return job

    def save_job(self, job_id: int, out: IO[bytes]) -> str:
        """Write a job with its sources as one archive; what it is called."""
        job = store.get_job(job_id)
        wanted = {name for name in (*(s.recipe for s in job.document.sheets), *(p.recipe for p in job.document.packs)) if name}
        travelling = tuple(recipe for recipe in kept_recipes() if recipe.id in wanted)
        document = job.document.model_copy(update={"recipes": travelling})
        with tempfile.TemporaryDirectory() as folder:
            files = {}
            for source in job.document.sources:
                files[source.id] = Path(folder) / source.id
                try:
                    self.blobs.fetch(keys.file_key(source.id), files[source.id])
                except KeyError:
                    raise NotThere(f"The file of {source.name} is not kept here: add it again.") from None
            return pack_job(document, job.number, files, out)

    def scene(self, source: str) -> bytes:
        """The source as glb. :raises InputError: when it was never read here."""
        try:
            return self.blobs.get(keys.model_key(source, "scene.glb"))
        except KeyError:
            raise NotThere("This source has not been read: add it again.") from None

    # Views

    @anew
    def put_on_sheet(
        self,
        job_id: int,
        source: str,
        viewpoint: Viewpoint,
        sheet_id: str | None,
        components: Sequence[str] = (),
        each: bool = False,
    ) -> tuple[StoredJob, str, str]:
        """Put a view of a source on a sheet (a new one where *sheet_id* is None): the job, the sheet's and the view's id.

        :param components: what alone it shows, by their paths; all without any. :param each: whether every one of them has a
            view of its own; the last one's id comes back.
        :raises InputError: when source, sheet or a component are not there.
        """
        job = store.get_job(job_id)
        if job.document.source(source).drawing:
            raise InputError("A drawing goes on a sheet as a drawing view: choose its area.")
        tree = self.tree(source)
        known = {component.path for component in tree.walk()}
        for path in components:
            if path not in known:
                raise NotThere(f"There is no component {path} any more: choose another.")
        if sheet_id is None:
            sheet = SheetSpec(id=short_id(), name=f"Sheet {len(job.document.sheets) + 1}")
        else:
            sheet = job.document.sheet(sheet_id)
        groups = [(path,) for path in components] if each and components else [tuple(components)]
        saved = next((v.id for v in job.document.viewpoints if v.name == viewpoint.name), None)
        shown = sheet
        for group in groups:
            taken = [box for view in shown.views if (box := self.rough_box(view)) is not None]
            hidden = _all_but(tree, group)
            view, scale = new_view(short_id(), source, tree, viewpoint, shown, taken, hidden)
            view = view.model_copy(update={"viewpoint": saved})
            shown = shown.model_copy(update={"views": (*shown.views, view), "scale": scale})
        if sheet_id is None:
            return self.edit(job_id, AddSheet(kind="add_sheet", sheet=shown)), shown.id, view.id
        if not sheet.views or len(groups) > 1:
            label = f"add {view.title}" if len(groups) == 1 else f"add {len(groups)} views"
            return self.change(job_id, label, lambda d: d.with_sheet(shown), job), shown.id, view.id
        return self.edit(job_id, AddView(kind="add_view", sheet=shown.id, view=view)), shown.id, view.id

    def added(self, job: StoredJob, sheet: SheetSpec, view: ViewSpec, scale: Scale, new: bool) -> StoredJob:
        """The job with a view put on a sheet, which then has the scale; the sheet itself is added where it is *new*."""
        shown = sheet.model_copy(update={"views": (*sheet.views, view), "scale": scale})
        if new:
            return self.edit(job.id, AddSheet(kind="add_sheet", sheet=shown))
        if not sheet.views:
            return self.change(job.id, f"add {view.title}", lambda d: d.with_sheet(shown), job)
        return self.edit(job.id, AddView(kind="add_view", sheet=sheet.id, view=view))

    def taken_on(self, sheet: SheetSpec) -> Array:
        """The boxes (n, 4) of what lies on a sheet, mm: views, 3D annotations, notes' places, what a finished page shows."""
        boxes = [box for view in sheet.views if (box := self.rough_box(view)) is not None]
        for own in sheet.annotations_3d:
            (x, y), (wide, high) = own.place, own.size
            boxes.append((x, y, x + wide, y + high))
        boxes += [(*note.place, *note.place) for note in sheet.notes]
        found = np.array(boxes, float).reshape(-1, 4)
        if sheet.onto is None:
            return found
        try:
            return np.concatenate((found, boxes_of_page(self.blobs, sheet.onto.source, sheet.onto.page)))
        except KeyError:
            return found

    def rough_box(self, view: ViewSpec) -> Box | None:
        """The box that a view on a sheet takes at most."""
        try:
            facts = load_facts(self.blobs, view.source)
            if view.excerpt is not None and facts.drawing is not None:
                x0, y0, x1, y1 = region_of(view.excerpt, facts.drawing)
                middle, size = np.array(((x0 + x1) / 2, (y0 + y1) / 2)), np.array((x1 - x0, y1 - y0))
            else:
                middle, size = shown_extent(facts.tree, view.axes_of_plane(), view.hidden)
        except KeyError:
            return None
        scale = float(view.scale)
        centre = (middle - view.anchor) * scale + view.place
        half = size * scale / 2
        return float(centre[0] - half[0]), float(centre[1] - half[1]), float(centre[0] + half[0]), float(centre[1] + half[1])

    def picture(self, job_id: int, sheet_id: str, view_id: str, again: bool = False) -> bytes | Awaited | None:
        """A view's picture as JSON, or the work that makes it; None for a view that was just taken off.

        Work that failed or was cancelled is begun anew only when asked to do it *again*.
        """
        try:
            view = self._view(job_id, sheet_id, view_id)
        except InputError:
            return None
        document = store.get_job(job_id).document
        return self.view_picture(view, again, document.pens_of(document.sheet(sheet_id)))

    def view_picture(self, view: ViewSpec, again: bool = False, pens: PenSet = DEFAULT) -> bytes | Awaited:
        """The same, of a view that need not be on a sheet, as a pen set draws it."""
        spec = view.lines()
        key = keys.view_key(view.source, spec)
        penned = keys.penned_key(view.source, spec, pens, float(view.scale))
        try:
            if view.detail is None:
                return self.blobs.get(f"{penned}.json")
            return self._as_penned(view, unpack_lines(self.blobs.get(f"{key}.lines")).artwork, pens)
        except KeyError:
            pass
        if penned != key and self.blobs.exists(f"{key}.lines"):
            asked = PenPicture(source=view.source, spec=spec, pens=pens, scale=float(view.scale))
            return Awaited(penned, self.queue.submit(pen_picture, asked))
        known = self.queue.state(key)
        if known is not None and known.state in ("failed", "cancelled") and not again:
            return Awaited(key, known)
        reading = self.reading(view.source)
        if reading is not None:
            return Awaited(f"read:{view.source}", reading)
        work = self.queue.submit(project_view, ProjectView(source=view.source, spec=spec))
        try:
            return Awaited(key, work, self._as_penned(view, Artwork.from_bytes(self.blobs.get(f"{key}.rough")), pens))
        except KeyError:
            return Awaited(key, work)

    def _as_penned(self, view: ViewSpec, artwork: Artwork, pens: PenSet) -> bytes:
        """A view's lines as a pen set draws them, of a detail what is in its circle, as JSON."""
        if view.detail is not None:
            artwork = clip_to_circle(artwork, view.detail.centre, view.detail.radius)
        at_work = Pens(pens, float(view.scale), self.facts(view.source).naming)
        return to_picture(artwork, at_work).model_dump_json().encode()

    def _view(self, job_id: int, sheet_id: str, view_id: str) -> ViewSpec:
        try:
            return store.get_job(job_id).document.sheet(sheet_id).view(view_id)
        except KeyError:
            raise NotThere("This view is no longer on the sheet: choose another.") from None

    # Proofs

    def context(self, job: StoredJob, sheet: SheetSpec) -> ContextSpec:
        """What of the job shows on a sheet, today."""
        known = states_now(job.id).get(f"sheet:{sheet.id}")
        today = datetime.now(UTC).date()
        return ContextSpec.of(job.document, job.number, sheet.id, today, kept_machine(), known.state if known else "")
