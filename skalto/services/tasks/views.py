"""Tasks that make the lines and the pictures of views."""

from __future__ import annotations

from skalto.core.pens import Pens, PenSet
from skalto.core.progress import Progress
from skalto.core.projection.view import LinesSpec, ProjectionSpec, ShadeSpec
from skalto.jobs.task import TaskArgument, task
from skalto.services.stored import keys
from skalto.store.blobs import Blobs


class ProjectView(TaskArgument):
    """The lines of a view of a source."""

    source: str
    spec: LinesSpec

    @property
    def key(self) -> str:
        return keys.view_key(self.source, self.spec)


class PenPicture(TaskArgument):
    """A view as a pen set draws it at a scale."""

    source: str
    spec: LinesSpec
    pens: PenSet
    scale: float

    @property
    def key(self) -> str:
        return keys.penned_key(self.source, self.spec, self.pens, self.scale)


class ShadeView(TaskArgument):
    """A view to be shaded."""

    source: str
    spec: ShadeSpec

    @property
    def key(self) -> str:
        return keys.shade_key(self.source, self.spec)


@task(ProjectView, "drawing")
def project_view(asked: ProjectView, blobs: str, report: Progress) -> None:
    """Hidden-line removal for a view. :raises InputError: when nothing is shown."""
    from skalto.services.results.lines import project_lines, show_rough, watched
    from skalto.services.results.models import await_ready

    spec, store = asked.spec, Blobs(blobs)
    if isinstance(spec, ProjectionSpec):
        report(0.05, "Removing hidden lines")
        await_ready(store, asked.source)
        show_rough(store, asked.source, spec)
        report(0.3, "Making the lines exact")
    lines = project_lines(store, asked.source, spec)
    store.drop(f"{asked.key}.rough")
    report(0.9, "Checking the lines with rays")
    watched(store, asked.source, spec, lines)


@task(PenPicture, "drawing")
def pen_picture(asked: PenPicture, blobs: str, report: Progress) -> None:
    """A view's picture as a pen set draws it at a scale, from lines that are there."""
    from skalto.core.output.picture import to_picture
    from skalto.services.results.lines import project_lines
    from skalto.services.stored.context import load_facts

    report(0.1, "Applying the pens")
    store = Blobs(blobs)
    lines = project_lines(store, asked.source, asked.spec)
    at_work = Pens(asked.pens, asked.scale, load_facts(store, asked.source).naming)
    store.put(f"{asked.key}.json", to_picture(lines.artwork, at_work).model_dump_json().encode())


@task(ShadeView, "drawing")
def shade_view(asked: ShadeView, blobs: str, report: Progress) -> None:
    """The shaded picture of a view. :raises InputError: when nothing is shown."""
    from skalto.services.results.lines import load_shade

    report(0.05, "Shading")
    load_shade(Blobs(blobs), asked.source, asked.spec)
