"""The lines of views: projected once and kept, with what rays say of them, and their shaded pictures."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import orjson

from skalto.core.artwork import Artwork
from skalto.core.output.picture import to_picture
from skalto.core.pages.page import ViewLines
from skalto.core.progress import Progress
from skalto.core.projection.methods import HiddenLines
from skalto.core.projection.reference import reference_lengths
from skalto.core.projection.view import ExcerptSpec, LinesSpec, ProjectionSpec, ShadeSpec, project_shown
from skalto.core.projection.watch import Watch
from skalto.core.sheet_metal.choices import FlatSpec
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.models.model import Model
from skalto.services.results.drawings import excerpt_lines, load_space, original_page
from skalto.services.results.flat import flat_lines
from skalto.services.results.models import kept_model, shown_by
from skalto.services.stored import keys
from skalto.services.stored.context import ContextSpec
from skalto.services.stored.lines import pack_lines, shade_spec, unpack_lines
from skalto.store.blobs import Blobs


def project_model(model: Model, spec: ProjectionSpec, show: Callable[[Artwork], None] = lambda artwork: None) -> ViewLines:
    """A view's lines with the lengths that it can be judged by, and the faces that a cut made; *show* has the lines first."""
    shown = shown_by(model, spec)
    artwork = project_shown(model, shown, spec)
    show(artwork)
    return ViewLines(artwork, tuple(reference_lengths(model, shown, spec, artwork)), shown.faces)


def watch_lines(model: Model, spec: ProjectionSpec, artwork: Artwork) -> Watch:
    """What rays say of a view's lines."""
    from skalto.core.projection.watch import watch

    return watch(model, shown_by(model, spec), spec.axes(), artwork, spec.cut is not None)


def project_lines(store: Blobs, source: str, spec: LinesSpec, make: Callable[[], ViewLines] | None = None) -> ViewLines:
    """From the store, or projected now and kept, the picture for the desk beside it, and before."""
    key = keys.view_key(source, spec)

    def show(artwork: Artwork) -> None:
        store.put(f"{key}.json", to_picture(artwork).model_dump_json().encode())

    try:
        return unpack_lines(store.get(f"{key}.lines"))
    except KeyError:
        if make is not None:
            lines = make()
            show(lines.artwork)
        elif isinstance(spec, ExcerptSpec):
            lines = excerpt_lines(load_space(store, source, spec.excerpt.space), spec.excerpt)
            show(lines.artwork)
        elif isinstance(spec, FlatSpec):
            lines = flat_lines(store, source, spec)
            show(lines.artwork)
        else:
            lines = project_model(kept_model(store, source), spec, show)
    store.put(f"{key}.lines", pack_lines(lines))
    return lines


def show_rough(store: Blobs, source: str, spec: ProjectionSpec) -> None:
    """Of a view that takes a while, put chords of its lines where the desk finds them until the exact ones are there."""
    key = keys.view_key(source, spec)
    if spec.cut is not None or spec.hidden_lines is not HiddenLines.FACETS or store.exists(f"{key}.lines"):
        return
    from skalto.core.projection.rough import rough_lines, takes_a_while

    model = kept_model(store, source)
    shown = shown_by(model, spec)
    if takes_a_while(model, shown, spec.axes()):
        store.put(f"{key}.rough", rough_lines(model, shown, spec.axes()).to_bytes())


def watched(store: Blobs, source: str, spec: LinesSpec, lines: ViewLines) -> ViewLines:
    """A view's lines with what rays say of them, from the store, or found out now and kept."""
    if not isinstance(spec, ProjectionSpec):
        return lines
    key = f"{keys.view_key(source, spec)}.watch"
    try:
        found = Watch.model_validate_json(store.get(key))
    except KeyError:
        model = kept_model(store, source)
        found = watch_lines(model, spec, lines.artwork)
        store.put(key, found.model_dump_json().encode())
    return replace(lines, watch=found)


def load_shade(store: Blobs, source: str, spec: ShadeSpec) -> tuple[bytes, tuple[float, float, float, float]]:
    """From the store, or made now and kept: the PNG and its box."""
    key = keys.shade_key(source, spec)
    try:
        box = orjson.loads(store.get(f"{key}.json"))["box"]
        return store.get(f"{key}.png"), (box[0], box[1], box[2], box[3])
    except KeyError:
        from skalto.core.projection.shading import shade

        png, placed = shade(kept_model(store, source), spec)
    store.put(f"{key}.png", png)
    store.put(f"{key}.json", placed.model_dump_json().encode())
    return png, placed.box


def with_shade(view: ViewSpec, lines: ViewLines, png: bytes, box: tuple[float, float, float, float]) -> ViewLines:
    """A view's lines with its shaded picture."""
    from skalto.core.projection.shading import unpack_picture

    return replace(lines, pixels=unpack_picture(png), pixel_box=box)


def sheet_lines(store: Blobs, spec: SheetSpec, around: ContextSpec, report: Progress) -> dict[str, ViewLines]:
    """The lines of a sheet's views, made where they are not there, with the shaded pictures."""
    lines: dict[str, ViewLines] = {}
    for number, view in enumerate(spec.views):
        report(0.05 + 0.7 * number / len(spec.views), f"Projecting the {view.title}")
        lines[view.id] = watched(store, view.source, view.lines(), project_lines(store, view.source, view.lines()))
        if view.excerpt is not None:
            lines[view.id] = replace(lines[view.id], original=original_page(store, view.source, view.excerpt.space))
        if view.shaded and not spec.clean:
            report(0.1 + 0.7 * number / len(spec.views), f"Shading the {view.title}")
            lines[view.id] = with_shade(view, lines[view.id], *load_shade(store, view.source, shade_spec(view, around.colours)))
    return lines
