"""The use cases of release: rules, what they would make, states, and the files' way into the outbox."""

from __future__ import annotations

import logging
import threading
import uuid
import zipfile
from collections.abc import Callable, Collection, Sequence
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import IO

from skalto.core.errors import InputError, NotThere, StoreFull
from skalto.core.job import JobDocument
from skalto.core.packs import safe
from skalto.core.release.manifest import (
    CSV_NAME,
    JSON_NAME,
    Manifest,
    ManifestFile,
    manifest_csv,
    manifest_json,
    read_manifest,
)
from skalto.core.release.planning import PlannedFile, ReleasePlan, Subject, subject_of
from skalto.core.release.rules import SHIPPED_RULES, ReleaseRules, rules_from_json
from skalto.core.release.states import State, next_revision
from skalto.core.sources.models.parts import PartFacts
from skalto.jobs.queue import WorkState
from skalto.services.output.release_run import Runner
from skalto.services.output.releasing import FileWork, Releasable
from skalto.services.use_cases.proofing import Proofing, at_hand
from skalto.services.use_cases.recipes import all_recipes
from skalto.services.use_cases.register import PartsRegister
from skalto.store import jobs
from skalto.store import releases as store
from skalto.store.jobs import StoredJob
from skalto.store.outbox import Outbox
from skalto.store.releases import StoredRelease, StoredReleaseFile
from skalto.store.shared import SharedStore
from skalto.store.states import StoredState, add_states, states_now

RULES = SharedStore("rules", ReleaseRules, "set of release rules")
_AT_ONCE = 8
"""So many files are under way for each worker: none waits while another is written to the outbox."""
_log = logging.getLogger(__name__)


def all_rules() -> list[ReleaseRules]:
    """Shipped ones first, then those kept here, by name."""
    return [*SHIPPED_RULES, *RULES.kept()]


def rules_of(rules_id: str) -> ReleaseRules:
    """:raises NotThere: when there are no such rules."""
    for rules in all_rules():
        if rules.id == rules_id:
            return rules
    raise NotThere("These release rules are no longer kept: choose others.")


def keep_rules(rules: ReleaseRules) -> ReleaseRules:
    """Keep rules, or their next version. :raises InputError: for those that ship, and a name that is taken."""
    for own in SHIPPED_RULES:
        if own.id == rules.id:
            raise InputError(f"{own.name} ships and stays as it is: duplicate it, and change the copy.")
        if own.name.casefold() == rules.name.casefold():
            raise InputError(f"There are rules {rules.name} already: choose another name.")
    return RULES.keep(rules)


def read_rules(data: bytes) -> ReleaseRules:
    """Rules out of their file, under an id and a name that are free here. :raises InputError: when it has none."""
    rules = rules_from_json(data)
    taken = {own.name.casefold() for own in all_rules()}
    name, count = rules.name, 2
    while name.casefold() in taken:
        name, count = f"{rules.name} {count}", count + 1
    return rules.model_copy(update={"id": uuid.uuid4().hex[:8], "name": name[:60], "version": 1})


@dataclass(frozen=True)
class Preview:
    """What a release would make: the plan, and which of its files are as the last release left them."""

    plan: ReleasePlan
    kept: frozenset[str]
    work: WorkState | None = None
    """How far the looking at the models is, without which nothing can be said."""


@dataclass(frozen=True)
class ReleaseWish:
    """What is to be released: by which rules, of which *subjects* (``part:…``, ``sheet:…``, ``pack:…``, ``job:job``; None for
    all), everything or only what has changed, with a note; whether it is *accepted* that sheet has no flat pattern."""

    rules: str
    subjects: tuple[str, ...] | None = None
    everything: bool = False
    note: str = ""
    accepted: bool = False


class Releasing:
    """The use cases of release, on top of the register and the proof."""

    def __init__(self, register: PartsRegister, proofing: Proofing) -> None:
        self.register, self.proofing = register, proofing
        self.studio = proofing.studio
        self.runner = Runner(self.studio.blobs, self.studio.queue)
        self._advancing = threading.Lock()
        self._works: dict[int, FileWork] = {}
        self._swept: set[int] = set()
        self._hashes: dict[int, dict[str, str]] = {}

    # What would be made

    def releasable(self, job: StoredJob) -> Releasable:
        """A job as a release looks at it. :raises InputError: while its models are still looked at."""
        found = self.register.of(job.document)
        if found.work is not None and found.work.state in ("queued", "running"):
            raise InputError("The parts are still looked at, which says what kind they are: wait a moment.")
        trees, flats = {}, {}
        for source in job.document.sources:
            if source.drawing:
                continue
            with suppress(KeyError):
                trees[source.id] = self.studio.facts(source.id).tree
            for (own, component), facts in self.register.flats(source.id).items():
                flats[own, component] = facts
        states = {subject: row.state for subject, row in states_now(job.id).items()}
        recipes = {recipe.id: recipe for recipe in all_recipes()}
        viewer = str(self.studio.settings.web / "viewer")
        return Releasable(at_hand(job), found.rows, trees, flats, recipes, states, viewer)

    def preview(self, job_id: int, wish: ReleaseWish) -> Preview:
        """What a release would make; nothing is made. :raises InputError: when there are no such rules."""
        job = jobs.get_job(job_id)
        work = self.register.of(job.document).work
        if work is not None and work.state in ("queued", "running"):
            return Preview(ReleasePlan(()), frozenset(), work)
        plan = self._plan(self.releasable(job), wish)
        known = self._last(self._outbox(job))
        kept = frozenset() if wish.everything or known is None else frozenset(_kept(plan.files, known))
        return Preview(plan, kept)

    def _plan(self, releasable: Releasable, wish: ReleaseWish) -> ReleasePlan:
        subjects = releasable.subjects()
        if wish.subjects is not None:
            wanted = set(wish.subjects)
            subjects = [own for own in subjects if subject_name(own) in wanted]
        return releasable.plan(rules_of(wish.rules), subjects)

    def outbox_of(self, job: StoredJob) -> str:
        """The address of a job's outbox."""
        return f"{self.studio.settings.outbox_url}/{safe(f'{job.number} {job.document.name}')}"

    def _outbox(self, job: StoredJob) -> Outbox:
        return Outbox(self.outbox_of(job))

    def _last(self, outbox: Outbox) -> Manifest | None:
        """What the last release left."""
        try:
            return read_manifest(outbox.get(JSON_NAME))
        except (KeyError, InputError):
            return None

    # Begin

    def begin(self, job_id: int, wish: ReleaseWish) -> StoredRelease:
        """Begin a release; it goes on by itself. :raises InputError: when something stands against it."""
        job = jobs.get_job(job_id)
        releasable = self.releasable(job)
        plan, rules = self._plan(releasable, wish), rules_of(wish.rules)
        if stops := plan.stops(wish.accepted):
            raise InputError(stops)
        outbox = self._outbox(job)
        known = self._last(outbox)
        kept = {} if wish.everything or known is None else _kept(plan.files, known)
        rows = []
        for work in releasable.work(plan):
            path = work.planned.path
            before = kept.get(path)
            there = before is not None and outbox.hash(path) == before.sha256
            about = before.model_copy(update={"made": False}) if there and before is not None else work.about
            about = about.model_copy(update={"rules": rules.id})
            rows.append(
                {
                    "path": path, "kind": work.about.kind, "called": work.planned.called, "work": work.model_dump_json(),
                    "state": "kept" if there else "waiting", "about": about.model_dump_json(),
                    "subject": subject_of(work.planned)[:255],
                }
            )  # fmt: skip
        whole = wish.subjects is None
        release = store.add_release(
            rows, job=job.id, job_number=job.number, job_name=job.document.name, rules=rules.model_dump_json(),
            outbox=outbox.url, whole=whole, note=wish.note,
        )  # fmt: skip
        self.advance(release)
        return store.get_release(release.id)

    # Under way

    def advance_all(self) -> None:
        """Bring all releases forward that are under way; those that a restart interrupted go on where they were."""
        for release in reversed(store.list_releases(state="running")):
            try:
                self.advance(release)
            except Exception as error:
                # one that cannot go on does not keep the others waiting
                _log.exception("release %s broke off", release.id)
                message = (
                    str(error)
                    if isinstance(error, InputError | StoreFull)
                    else "The release broke off unexpectedly: try it again."
                )
                store.set_release(release.id, "failed", message)

    def advance(self, release: StoredRelease) -> None:
        """Bring a release as far forward as it can be now; note its end."""
        with self._advancing:
            if store.get_release(release.id).state != "running":
                return
            rules = ReleaseRules.model_validate_json(release.rules)
            outbox = Outbox(release.outbox)
            if release.id not in self._swept:
                # what was being written when a server was killed
                outbox.sweep_parts()
                self._swept.add(release.id)
            working = store.files_of(release.id, ["working"])
            for file in working:
                self._bring(release, rules, outbox, file)
            room = _AT_ONCE * max(1, self.studio.settings.workers) - sum(own.state == "working" for own in working)
            for file in store.files_of(release.id, ["waiting"], count=max(0, room)):
                store.set_file(file.id, release.job, state="working", line="begun")
                self._bring(release, rules, outbox, file)
            if not store.files_of(release.id, store.OPEN, count=1):
                self._end(release, rules, outbox)

    def _work(self, file: StoredReleaseFile) -> FileWork:
        if file.id not in self._works:
            if len(self._works) > 200:
                self._works.pop(next(iter(self._works)))
            self._works[file.id] = FileWork.model_validate_json(file.work)
        return self._works[file.id]

    def _bring(self, release: StoredRelease, rules: ReleaseRules, outbox: Outbox, file: StoredReleaseFile) -> None:
        work = self._work(file)
        made = self.runner.advance(work)
        if made.state == "working":
            if (made.text, round(made.share, 2)) != (file.text, round(file.share, 2)):
                store.set_file(file.id, release.job, share=made.share, text=made.text[:200])
            return
        self._works.pop(file.id, None)
        if made.state != "ready":
            error = made.error or "It was called off."
            store.set_file(file.id, release.job, state="failed", error=error, line=f"failed: {error}")
            return
        try:
            data, about = self.runner.result(work)
            about = about.model_copy(update={"rules": rules.id})
            replaced = self._left(release, outbox).get(file.path, "") if rules.earlier == "replaced" else ""
            outbox.put(file.path, data, self._aside(release, rules), replaced)
        except KeyError:
            store.set_file(file.id, release.job, state="waiting", line="its result is no longer kept: made again")
        except (InputError, StoreFull) as error:
            store.set_file(file.id, release.job, state="failed", error=str(error), line=f"failed: {error}")
        else:
            line = f"made, {about.size} bytes, SHA-256 {about.sha256}"
            store.set_file(file.id, release.job, state="made", share=1.0, text="", about=about.model_dump_json(), line=line)

    def _aside(self, release: StoredRelease, rules: ReleaseRules) -> str:
        return f"{rules.aside}/{release.began:%Y-%m-%d}-{release.id}"

    def _left(self, release: StoredRelease, outbox: Outbox) -> dict[str, str]:
        """The hashes of what the release before left: what else is in the outbox is not ours."""
        if release.id not in self._hashes:
            known = self._last(outbox)
            self._hashes = {release.id: known.hashes() if known is not None else {}}
        return self._hashes[release.id]

    def _end(self, release: StoredRelease, rules: ReleaseRules, outbox: Outbox) -> None:
        """Write the manifest: what this release made, and what it left as it was."""
        files = store.files_of(release.id)
        lines = [ManifestFile.model_validate_json(own.about) for own in files if own.state in ("made", "kept")]
        known = self._last(outbox)
        mine = {own.path for own in files}
        if known is not None:
            for path, line in known.known().items():
                if path in mine and any(own.file == path for own in lines):
                    continue
                gone = release.whole and path not in mine and line.rules == rules.id
                if gone and rules.earlier == "moved aside":
                    outbox.move_aside(path, self._aside(release, rules))
                elif outbox.hash(path) == line.sha256:
                    # what failed this time, or is not of this release, is as it was
                    lines.append(line.model_copy(update={"made": False}))
        manifest = Manifest(
            job=release.job_name, job_number=release.job_number, rules=rules.name, rules_version=rules.version,
            released=datetime.now(UTC), files=tuple(sorted(lines, key=lambda own: own.file)),
        )  # fmt: skip
        left, aside = known.hashes() if known is not None else {}, self._aside(release, rules)
        outbox.put(CSV_NAME, manifest_csv(manifest), aside, left.get(CSV_NAME, ""))
        outbox.put(JSON_NAME, manifest_json(manifest), aside, left.get(JSON_NAME, ""))
        failed = [own for own in files if own.state == "failed"]
        count = "1 file was not made" if len(failed) == 1 else f"{len(failed)} files were not made"
        error = f"{count}: {failed[0].called}. {failed[0].error}" if failed else ""
        store.set_release(release.id, "failed" if failed else "done", error, unless=("cancelled",))

    def pause(self, release_id: int) -> None:
        """Begin no more files. :raises InputError: when it is not under way."""
        if store.get_release(release_id).state != "running":
            raise InputError("This release is not under way: it cannot be paused.")
        store.set_release(release_id, "paused", unless=("done", "failed", "cancelled"))

    def resume(self, release_id: int) -> None:
        """Go on. :raises InputError: when it is not paused."""
        if store.get_release(release_id).state != "paused":
            raise InputError("This release is not paused.")
        store.set_release(release_id, "running", unless=("done", "failed", "cancelled"))

    def cancel(self, release_id: int) -> None:
        """Call a release off; what it has made stays. :raises InputError: when it has ended."""
        release = store.get_release(release_id)
        if release.state not in ("running", "paused"):
            raise InputError("This release has ended: it cannot be called off.")
        store.set_release(release_id, "cancelled")
        for file in store.files_of(release_id, ["working"]):
            self.runner.call_off(FileWork.model_validate_json(file.work))
        store.call_off(release_id)

    def retry(self, release_id: int, file_id: int | None = None) -> None:
        """Try again what failed or was called off: all of a release, or one file. :raises InputError: when nothing did."""
        release = store.get_release(release_id)
        for file in store.files_of(release_id, ["failed", "cancelled"]):
            if file_id in (None, file.id):
                self.runner.begin_again(FileWork.model_validate_json(file.work))
        # one that was called off once all was made still lacks its end
        if not store.again(release_id, file_id) and release.state != "cancelled":
            raise InputError("Nothing of this release failed: there is nothing to try again.")
        if release.state in ("done", "failed", "cancelled"):
            store.set_release(release_id, "running")

    def first(self, release_id: int, file_id: int) -> None:
        """Have a file made before all others that wait. :raises InputError: when it does not wait."""
        file = store.get_file(file_id)
        if file.release != release_id or file.state != "waiting":
            raise InputError("This file does not wait: it is under way, or has ended.")
        top = max((own.priority for own in store.files_of(release_id, ["waiting"], count=1)), default=0)
        store.set_file(file_id, store.get_release(release_id).job, priority=top + 1, line="put first")

    # After

    def pack_zip(self, release_id: int, out: IO[bytes]) -> str:
        """Write the files of a release, as they are in the outbox, with the manifest, as one archive; what it is called.

        :raises InputError: while it is under way, and when a file is no longer what was released.
        """
        release = store.get_release(release_id)
        if release.state in ("running", "paused"):
            raise InputError("This release is under way: wait until it has ended.")
        outbox = Outbox(release.outbox)
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
            for file in store.files_of(release_id, ["made", "kept"]):
                about = ManifestFile.model_validate_json(file.about)
                if outbox.hash(file.path) != about.sha256:
                    raise InputError(f"{file.path} is no longer what was released: the outbox has been changed.")
                archive.writestr(file.path, outbox.get(file.path))
            for name in (CSV_NAME, JSON_NAME):
                with suppress(KeyError):
                    archive.writestr(name, outbox.get(name))
        return f"{safe(f'{release.job_number} {release.job_name}')}.zip"

    def file(self, release_id: int, file_id: int) -> tuple[str, bytes]:
        """A file of a release: its name and its bytes. :raises InputError: when it is not there, or another by now."""
        file = store.get_file(file_id)
        if file.release != release_id or file.state not in ("made", "kept"):
            raise NotThere("This release has no such file.")
        outbox = Outbox(store.get_release(release_id).outbox)
        if outbox.hash(file.path) != ManifestFile.model_validate_json(file.about).sha256:
            raise InputError(f"{file.path} is no longer what was released: the outbox has been changed.")
        return file.path.rsplit("/", 1)[-1], outbox.get(file.path)

    # States

    def states(self, job_id: int) -> dict[str, StoredState]:
        """The state in which each part and sheet of a job is."""
        return states_now(job_id)

    def set_state(self, job_id: int, subjects: Sequence[str], state: State, note: str, rules: str = "") -> StoredRelease | None:
        """Bring parts and sheets into a state; what comes to be released gets a first revision where it has none, and with
        *rules* is released by them.

        :raises InputError: for what is not there, and for released ones that are to be worked on: they begin a revision.
        """
        job = jobs.get_job(job_id)
        now = self.states(job_id)
        self._known(job.document, subjects)
        for subject in subjects:
            known = now.get(subject)
            if known is not None and known.state == State.RELEASED and state in (State.IN_WORK, State.IN_REVIEW):
                called = self._called(job.document, subject)
                raise InputError(f"{called} is released at revision {known.revision}: begin its next revision.")
        if state is State.RELEASED:
            way = job.document.revisions
            job = self.studio.change(
                job_id, "first revisions", lambda d: self._revised(d, subjects, lambda own: own or next_revision("", way))
            )
        wish = ReleaseWish(rules, tuple(subjects), note=note)
        makes = state is State.RELEASED and bool(rules) and self._makes(job, wish)
        rows = [
            {"subject": own, "state": state.value, "revision": self._revision(job.document, own), "note": note}
            for own in subjects
        ]
        add_states(job_id, rows)
        return self.begin(job_id, wish) if makes else None

    def _makes(self, job: StoredJob, wish: ReleaseWish) -> bool:
        """Whether a release would make a file: of an assembly rules may make none. :raises InputError: when something stands
        against it, before any state is set."""
        plan = self._plan(self.releasable(job), wish)
        if plan.files and plan.against:
            raise InputError(plan.against[0])
        return bool(plan.files)

    def next_revision(self, job_id: int, subjects: Sequence[str], note: str) -> StoredJob:
        """Begin the next revision of released parts and sheets: they are in work again.

        :raises InputError: for what is not released.
        """
        job = jobs.get_job(job_id)
        now = self.states(job_id)
        self._known(job.document, subjects)
        for subject in subjects:
            if subject not in now or now[subject].state != State.RELEASED:
                raise InputError(f"{self._called(job.document, subject)} is not released: it can be changed as it is.")
        way = job.document.revisions
        before = {own: self._revision(job.document, own) for own in subjects}
        rows = [
            {"subject": own, "state": State.IN_WORK.value, "revision": next_revision(before[own], way), "note": note}
            for own in subjects
        ]
        # the log first: what is in work may be changed
        add_states(job_id, rows)
        return self.studio.change(
            job_id, "next revision", lambda d: self._revised(d, subjects, lambda own: next_revision(own, way))
        )

    def _known(self, document: JobDocument, subjects: Collection[str]) -> None:
        for subject in subjects:
            kind, _, name = subject.partition(":")
            if kind == "sheet":
                document.sheet(name)
            elif kind != "part":
                raise InputError("States are those of parts and sheets.")

    def _called(self, document: JobDocument, subject: str) -> str:
        kind, _, name = subject.partition(":")
        return document.sheet(name).name if kind == "sheet" else (document.parts.get(name, PartFacts()).name or name)

    def _revision(self, document: JobDocument, subject: str) -> str:
        kind, _, name = subject.partition(":")
        if kind == "sheet":
            return document.sheet(name).title.get("revision", "") or document.title.get("revision", "")
        said = document.parts.get(name, PartFacts()).revision
        if said:
            return said
        rows = self.register.of(document).rows
        return next((row.revision for row in rows if name in row.keys), "")

    def _revised(self, document: JobDocument, subjects: Sequence[str], change: Callable[[str], str]) -> JobDocument:
        parts = dict(document.parts)
        for subject in subjects:
            kind, _, name = subject.partition(":")
            revision = change(self._revision(document, subject))
            if kind == "sheet":
                sheet = document.sheet(name)
                document = document.with_sheet(sheet.model_copy(update={"title": sheet.title | {"revision": revision}}))
            else:
                parts[name] = parts.get(name, PartFacts()).model_copy(update={"revision": revision})
        return document.model_copy(update={"parts": parts})


def subject_name(subject: Subject) -> str:
    """What a subject is called in wishes and in the log of states."""
    kind = subject.kind if subject.kind in ("sheet", "pack", "job") else "part"
    return f"{kind}:{subject.id}"


def _kept(files: Sequence[PlannedFile], known: Manifest) -> dict[str, ManifestFile]:
    """The planned files that the last release left as they would be made now."""
    before = known.known()
    return {file.path: before[file.path] for file in files if file.path in before and before[file.path].content == file.content}
