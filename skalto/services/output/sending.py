"""Sending sheets: pages written side by side, joined into files; the same plan always comes to the same files."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Collection, Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from pathlib import PurePath
from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict

from skalto.core.annotation.edge_references import SourceFacts
from skalto.core.formats import StrokeFormat, output_format
from skalto.core.output.pdf.metadata import Metadata, Passwords
from skalto.core.recipes import Recipe, shared_recipe
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.models.model import covered
from skalto.jobs.queue import Queue, WorkState
from skalto.services.stored import keys
from skalto.services.stored.context import ContextSpec, load_facts
from skalto.services.tasks.views import ProjectView, project_view
from skalto.services.tasks.writing import JoinSheets, WriteArtwork, WriteSheet, join_sheets, write_artwork, write_sheet
from skalto.store.blobs import Blobs

_KEPT = 1000
"""Pages whose keys are kept at hand."""


class PagePlan(BaseModel):
    """A page to be: the sheet, what shows on it beside it, its title, and the words that describe the file when it is alone."""

    model_config = ConfigDict(frozen=True)

    sheet: SheetSpec
    context: ContextSpec
    title: str
    author: str = ""
    subject: str = ""
    keywords: str = ""
    recipe: Recipe | None = None
    """What writes it, where that is not what the other pages of its file are written by."""

    def asked(self, recipe: Recipe, created: datetime) -> WriteSheet:
        """What writes it."""
        metadata = Metadata(self.title, self.author, created, self.subject, self.keywords)
        return WriteSheet(sheet=self.sheet, context=self.context, recipe=self.recipe or recipe, metadata=metadata)

    def key(self, recipe: Recipe) -> str:
        """What it goes by: whenever it is made, it is the same."""
        return self.asked(recipe, Metadata().created).key


class FilePlan(BaseModel):
    """A file to be: its name, and its pages by their places in the plan."""

    model_config = ConfigDict(frozen=True)

    name: str
    pages: tuple[int, ...]

    @property
    def suffix(self) -> str:
        """The ending that its name has, in lower case."""
        return PurePath(self.name).suffix.lower()

    @property
    def strokes(self) -> StrokeFormat | None:
        """The format of strokes that it is in, None for a PDF."""
        wanted = output_format(self.name)
        return wanted if isinstance(wanted, StrokeFormat) else None


class SendingPlan(BaseModel):
    """All that decides what is sent: pages, files, the recipe, the title of files of several pages, the moment, and where files
    of their own go that must not be found under what they were made from."""

    model_config = ConfigDict(frozen=True)

    pages: tuple[PagePlan, ...]
    files: tuple[FilePlan, ...]
    recipe: Recipe
    title: str
    created: datetime
    apart: str = ""

    def recipe_of(self, file: FilePlan) -> Recipe:
        """The recipe that a file's pages share."""
        return shared_recipe([self.pages[n].recipe or self.recipe for n in file.pages])

    def drawing(self, file: FilePlan) -> WriteArtwork:
        """What writes a file of one page in a format of strokes."""
        page, wanted = self.pages[file.pages[0]], file.strokes
        assert wanted is not None, "it is no PDF"
        return WriteArtwork(sheet=page.sheet, context=page.context, recipe=page.recipe or self.recipe, format=wanted.name)

    def joining(self, file: FilePlan, parts: Sequence[str], under: str, passwords: Passwords) -> JoinSheets:
        """What makes one file of pages that are there under their keys, *parts*; it is kept *under* a key of its own."""
        first = self.pages[file.pages[0]]
        title = self.title if len(file.pages) > 1 else first.title
        return JoinSheets(
            parts=tuple((key, self.pages[n].sheet.name) for key, n in zip(parts, file.pages, strict=True)),
            recipe=self.recipe_of(file),
            metadata=Metadata(title, first.author, self.created, first.subject, first.keywords),
            passwords=passwords,
            under=under,
        )


PageState = Literal["waiting", "projecting", "writing", "ready", "failed", "cancelled"]


@dataclass(frozen=True)
class PageProgress:
    """How far a page is: its state, what is being done, the share of it."""

    name: str
    state: PageState
    text: str = ""
    share: float = 0.0


@dataclass(frozen=True)
class SendingProgress:
    """How far a sending is: every page, the keys of the files that are there, and why it cannot go on."""

    pages: tuple[PageProgress, ...]
    files: tuple[str | None, ...]
    error: str = ""
    cancelled: bool = False

    @property
    def done(self) -> bool:
        return all(key is not None for key in self.files)

    @property
    def share(self) -> float:
        parts = [page.share for page in self.pages] + [1.0 if key else 0.0 for key in self.files]
        return sum(parts) / len(parts) if parts else 1.0


def slowest_first(views: Iterable[ViewSpec], facts: Callable[[str], SourceFacts]) -> list[ViewSpec]:
    """Views in the order in which to begin them, so that none keeps a worker waiting at the end: what costs the kernel most
    are curves seen edge-on, which lie over one another.

    :param facts: of a source by its id.
    """

    def edge_on(view: ViewSpec) -> int:
        known, look = facts(view.source), view.axes_of_plane()[2]
        rows = [own.circles for path in known.leaves if not covered(path, view.hidden) and (own := known.of(path)) is not None]
        return int(sum((np.abs(circles[:, 3:6] @ look) < 1e-9).sum() for circles in rows))

    return sorted(views, key=edge_on, reverse=True)


class Sender:
    """Brings plans forward, on as many workers as there are. A source that this release has not read is read *anew*, where
    somebody knows how: what begins that, and gives its name, '' where it cannot."""

    def __init__(self, blobs: Blobs, queue: Queue, anew: Callable[[str], str] = lambda source: "") -> None:
        self.blobs = blobs
        self.queue = queue
        self.anew = anew
        self._keys: OrderedDict[int, tuple[PagePlan, Recipe, str]] = OrderedDict()
        self._ready: OrderedDict[str, None] = OrderedDict()

    def key(self, plan: PagePlan, recipe: Recipe) -> str:
        """The key of a page, worked out once for each plan: a plan is asked for several times a second."""
        kept = self._keys.get(id(plan))
        if kept is None or kept[0] is not plan or kept[1] is not recipe:
            kept = self._keys[id(plan)] = (plan, recipe, plan.key(recipe))
            if len(self._keys) > _KEPT:
                self._keys.popitem(last=False)
        return kept[2]

    def _is_there(self, key: str) -> bool:
        """Whether a blob is there; what was there once is never taken away."""
        if key in self._ready:
            return True
        if not self.blobs.exists(key):
            return False
        self._ready[key] = None
        if len(self._ready) > _KEPT * 8:
            self._ready.popitem(last=False)
        return True

    def _project(self, view: ViewSpec) -> WorkState | None:
        """A view's lines on their way; None once they are there."""
        asked = ProjectView(source=view.source, spec=view.lines())
        if self._is_there(f"{asked.key}.lines"):
            return None
        known = self.queue.state(asked.key)
        if known is not None and known.state in ("failed", "cancelled"):
            return known
        return self.queue.submit(project_view, asked)

    def page(self, plan: PagePlan, recipe: Recipe, created: datetime) -> PageProgress:
        """A page brought as far forward as it can be now."""
        key, name = self.key(plan, recipe), plan.sheet.name
        if self._is_there(f"{key}.json"):
            return PageProgress(name, "ready", share=1.0)
        known = self.queue.state(key)
        if known is not None and known.state in ("queued", "running"):
            return _writing(name, known)
        unread = self._unread(plan)
        if unread is not None:
            return unread
        ordered = self._in_order(plan.sheet.views)
        states = [(view, self._project(view)) for view in ordered]
        waiting = [(view, state) for view, state in states if state is not None]
        for view, state in waiting:
            if state.state in ("failed", "cancelled"):
                return PageProgress(name, state.state, state.error or f"The {view.title} was cancelled.")
        if waiting:
            done = 1 - len(waiting) / len(states)
            running = any(state.state == "running" for _, state in waiting)
            text = f"Projecting the {waiting[0][0].title}"
            return PageProgress(name, "projecting" if running else "waiting", text, 0.5 * done)
        if known is None or known.state == "done":
            known = self.queue.submit(write_sheet, plan.asked(recipe, created))
        if known.state in ("failed", "cancelled"):
            return PageProgress(name, known.state, known.error or "It was cancelled.")
        return _writing(name, known)

    def _unread(self, plan: PagePlan) -> PageProgress | None:
        """How far the reading of a source is that a page needs and this release has not read; None where all are read."""
        shown = [own.source for own in plan.sheet.views] + [own.source for own in plan.sheet.annotations_3d]
        for source in dict.fromkeys(shown):
            if self._is_there(keys.model_key(source, "tree.json")):
                continue
            name, known = plan.sheet.name, self.queue.state(f"read:{source}")
            if known is not None and known.state == "failed":
                return PageProgress(name, "failed", known.error)
            if known is not None and known.state in ("queued", "running"):
                return PageProgress(name, "waiting", "Reading its source anew")
            called = self.anew(source)
            if called:
                return PageProgress(name, "waiting", f"Reading {called} anew")
            return PageProgress(name, "failed", "One of its sources is not kept here: add it again on the Source stop.")
        return None

    def _in_order(self, views: Sequence[ViewSpec]) -> list[ViewSpec]:
        """Views in the order in which to begin them; none of those that are there has to be looked into."""
        missing = [v for v in views if not self._is_there(f"{keys.view_key(v.source, v.lines())}.lines")]
        if not missing:
            for view in views:
                load_facts(self.blobs, view.source)
            return []
        there = [view for view in views if view not in missing]
        return [*there, *slowest_first(missing, lambda source: load_facts(self.blobs, source))]

    def file_key(self, plan: SendingPlan, number: int) -> str:
        """Where a file is kept: that of one page under the page's own key, unless it is to be kept apart."""
        file = plan.files[number]
        if file.strokes is not None:
            return plan.drawing(file).key
        if plan.apart:
            return f"{plan.apart}/{number}"
        if len(file.pages) == 1:
            return self.key(plan.pages[file.pages[0]], plan.recipe)
        parts = [self.key(plan.pages[n], plan.recipe) for n in file.pages]
        return keys.joined_key(parts, plan.title, plan.recipe_of(file))

    def _file(self, plan: SendingPlan, number: int, passwords: Passwords) -> tuple[str | None, WorkState | None]:
        """A file whose pages are there: its key once it is, else how far the joining is."""
        key, file = self.file_key(plan, number), plan.files[number]
        if self._is_there(f"{key}.json"):
            return key, None
        known = self.queue.state(key)
        if known is None or known.state == "done":
            if file.strokes is not None:
                return None, self.queue.submit(write_artwork, plan.drawing(file))
            parts = [self.key(plan.pages[n], plan.recipe) for n in file.pages]
            known = self.queue.submit(join_sheets, plan.joining(file, parts, key, passwords))
        return None, known

    def advance(self, plan: SendingPlan, passwords: Passwords | None = None) -> SendingProgress:
        """Bring a plan as far forward as it can be now, and tell how far it is."""
        pages = tuple(self.page(page, plan.recipe, plan.created) for page in plan.pages)
        error = next((f"{page.name}: {page.text}" for page in pages if page.state == "failed"), "")
        cancelled = any(page.state == "cancelled" for page in pages)
        files: list[str | None] = []
        for number, file in enumerate(plan.files):
            # files of strokes need the same lines; they wait for the page that makes them
            if not all(pages[n].state == "ready" for n in file.pages):
                files.append(None)
                continue
            key, work = self._file(plan, number, passwords or Passwords())
            files.append(key)
            if work is not None and work.state == "failed":
                error = error or f"{file.name}: {work.error}"
            cancelled = cancelled or (work is not None and work.state == "cancelled")
        return SendingProgress(pages, tuple(files), error, cancelled)

    def keys_of(self, plan: SendingPlan) -> list[str]:
        """All pieces of work that a plan may have on their way."""
        views = [keys.view_key(v.source, v.lines()) for page in plan.pages for v in page.sheet.views]
        written = [self.key(page, plan.recipe) for page in plan.pages]
        return list(dict.fromkeys((*views, *written, *(self.file_key(plan, n) for n in range(len(plan.files))))))

    def call_off(self, plan: SendingPlan, needed: Collection[str] = ()) -> None:
        """Stop what is queued or running of a plan, but not what is *needed* elsewhere."""
        for key in self.keys_of(plan):
            if key in needed:
                continue
            state = self.queue.state(key)
            if state is not None and state.state in ("queued", "running"):
                self.queue.cancel(key)

    def try_again(self, plan: SendingPlan) -> None:
        """Forget what failed or was cancelled, so that the next step begins it anew."""
        self.queue.settle(self.keys_of(plan))
        for key in self.keys_of(plan):
            state = self.queue.state(key)
            if state is not None and state.state in ("failed", "cancelled"):
                self.queue.forget(key)


def _writing(name: str, work: WorkState) -> PageProgress:
    """A page whose views are there."""
    return PageProgress(name, "writing" if work.state == "running" else "waiting", work.text, 0.5 + 0.5 * work.share)
