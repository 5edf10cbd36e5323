"""Tasks that read what was brought in."""

from __future__ import annotations

import tempfile
from pathlib import Path

import orjson

from skalto.core.errors import InputError
from skalto.core.progress import Progress
from skalto.core.sources.formats import is_drawing
from skalto.jobs.task import TaskArgument, task
from skalto.services.stored import keys
from skalto.store.blobs import Blobs


class ReadSource(TaskArgument):
    """A file that was received: its hash, its name, and the most bytes that it may have."""

    source: str
    name: str
    limit: int

    @property
    def key(self) -> str:
        return f"read:{self.source}"


class MakeReady(TaskArgument):
    """A model of which views will be asked for."""

    source: str

    @property
    def key(self) -> str:
        return f"ready:{self.source}"


class UnpackArchive(TaskArgument):
    """A saved job, kept under *archive*, and the most bytes that each of its files may have."""

    archive: str
    limit: int

    @property
    def key(self) -> str:
        return self.archive


class DrawPreview(TaskArgument):
    """A page of a drawing to be seen small."""

    source: str
    space: str

    @property
    def key(self) -> str:
        return keys.preview_key(self.source, self.space)


def _fetch(store: Blobs, source: str, name: str, path: Path) -> None:
    try:
        store.fetch(keys.file_key(source), path)
    except KeyError:
        raise InputError(f"{name} is not kept here any more: add it again.") from None


@task(ReadSource, "reading")
def read_source(asked: ReadSource, blobs: str, report: Progress) -> None:
    """Read a file once: of a model its tree, its shapes, and a scene for the eye; of a drawing its artwork and its facts.

    :raises InputError: when the file cannot be used.
    """
    store = Blobs(blobs)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"source{Path(asked.name).suffix.lower()}"
        _fetch(store, asked.source, asked.name, path)
        if is_drawing(asked.name):
            _read_drawing(store, asked, path, report)
        else:
            _read_model(store, asked, path, report)


def _read_model(store: Blobs, asked: ReadSource, path: Path, report: Progress) -> None:
    from skalto.core.sources.models.tessellation import to_glb
    from skalto.core.sources.reading import read_model
    from skalto.services.results.models import keep_model

    model = read_model(path, asked.name, lambda share, text: report(share * 0.6, text), asked.limit)
    scene = to_glb(model, lambda share, text: report(0.6 + 0.35 * share, text))
    report(0.95, "Keeping what was read")
    store.put(keys.model_key(asked.source, "scene.glb"), scene)
    keep_model(store, asked.source, model, asked.name)


def _read_drawing(store: Blobs, asked: ReadSource, path: Path, report: Progress) -> None:
    from skalto.core.sources.drawings.excerpt import Excerpt
    from skalto.core.sources.reading import read_drawing
    from skalto.services.results.drawings import excerpt_lines, keep_drawing, picture_spec
    from skalto.services.results.lines import project_lines

    drawing = read_drawing(path, asked.name, lambda share, text: report(share * 0.95, text), asked.limit)
    report(0.96, "Making the picture")
    # the first thing that is looked at: made while the drawing is at hand
    first = drawing.facts.spaces[0].name
    if len(drawing.spaces[first]):
        project_lines(
            store, asked.source, picture_spec(first), lambda: excerpt_lines(drawing.spaces[first], Excerpt(space=first))
        )
    keep_drawing(store, asked.source, drawing)


@task(MakeReady, "readying")
def make_source_ready(asked: MakeReady, blobs: str, report: Progress) -> None:
    """Make what hidden lines need of a model before any view is asked for, once for all workers."""
    from skalto.services.results.models import make_ready

    report(0.1, "Making ready for hidden lines")
    make_ready(Blobs(blobs), asked.source)


@task(UnpackArchive, "reading")
def unpack_archive(asked: UnpackArchive, blobs: str, report: Progress) -> None:
    """Take a saved job apart: its sources kept by themselves, the job beside the archive.

    :raises InputError: when it is no saved job, or one over the limits.
    """
    from skalto.services.stored.jobfile import unpack_job

    store = Blobs(blobs)

    def keep(source: str, file: Path) -> None:
        if not store.exists(keys.file_key(source)):
            store.put_file(keys.file_key(source), file)

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "archive.zip"
        store.fetch(asked.archive, path)
        report(0.1, "Unpacking")
        job = unpack_job(path, asked.limit, keep)
    store.put(f"{asked.archive}.json", job.model_dump_json().encode())


class DrawFinishedPage(TaskArgument):
    """A page of a PDF, from 1, as it is seen."""

    source: str
    number: int

    @property
    def key(self) -> str:
        return keys.model_key(self.source, f"page-{self.number}")


@task(DrawFinishedPage, "reading")
def draw_finished_page(asked: DrawFinishedPage, blobs: str, report: Progress) -> None:
    """A page of a PDF as a PNG, and beside it its size and the lines that an area on it snaps to.

    :raises InputError: for a page that is not there, and a file that cannot be opened.
    """
    from skalto.services.results.previews import finished_page

    report(0.2, "Drawing the page")
    store = Blobs(blobs)
    picture, told = finished_page(store, asked.source, asked.number)
    store.put(f"{asked.key}.png", picture)
    store.put(f"{asked.key}.json", orjson.dumps(told))


@task(DrawPreview, "reading")
def draw_preview(asked: DrawPreview, blobs: str, report: Progress) -> None:
    """A page of a PDF, or one saved in a drawing, as a small picture. :raises InputError: when it has no size."""
    from skalto.services.results.previews import small_page

    report(0.2, "Drawing the page small")
    store = Blobs(blobs)
    store.put(asked.key, small_page(store, asked.source, asked.space))
