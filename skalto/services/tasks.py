"""Heavy work, each a pure function of blobs and a frozen specification, run in a worker's process.

Every function takes the blob store's URL and ``report``, which is told the share done and what is being done, and leaves
its result as blobs under keys of :mod:`skalto.services.keys`.
"""

from __future__ import annotations

import tempfile
import time
from collections import OrderedDict
from collections.abc import Callable
from contextlib import suppress
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

import orjson

from skalto.core.artwork import Artwork
from skalto.core.checks.joined import Measured, check_joined
from skalto.core.checks.verdict import Report
from skalto.core.errors import InputError
from skalto.core.formats import stroke_format
from skalto.core.output.pdf.document import Written
from skalto.core.output.pdf.joining import Part, join
from skalto.core.output.pdf.metadata import Passwords
from skalto.core.output.picture import to_picture
from skalto.core.pens import Pens, PenSet
from skalto.core.progress import Progress
from skalto.core.projection.cutting import Shown
from skalto.core.projection.methods import HiddenLines
from skalto.core.projection.reference import reference_lengths
from skalto.core.projection.view import ProjectionSpec, project_shown, shown_in
from skalto.core.projection.watch import Watch
from skalto.core.recipes import Recipe
from skalto.core.sheets.compose import ViewLines
from skalto.core.sheets.referring import SourceFacts
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.drawings.drawing import Drawing, DrawingFacts
from skalto.core.sources.drawings.excerpt import Excerpt, excerpt_artwork
from skalto.core.sources.drawings.lengths import excerpt_lengths
from skalto.core.sources.drawings.original import page_alone
from skalto.core.sources.formats import is_drawing
from skalto.core.sources.models.bundle import pack_shapes, unpack
from skalto.core.sources.models.features import pack as pack_edges
from skalto.core.sources.models.features import part_edges
from skalto.core.sources.models.model import Model, ModelTree
from skalto.core.sources.models.reading import read_model
from skalto.services import keys
from skalto.services.context import DRAWING, ContextSpec, load_facts, load_tree
from skalto.services.lines import pack_lines, shade_spec, unpack_lines
from skalto.services.sending import metadata_from
from skalto.services.writing import write_and_check, write_one
from skalto.store.blobs import Blobs

if TYPE_CHECKING:
    from skalto.core.projection.shading import ShadeSpec

_LOOK_DPI = 100
"""The resolution of pictures that are only looked at."""
_PATIENCE = 20.0
"""Seconds that a view waits for what another worker is about to have."""
_KEPT_MODELS = 3
_models: OrderedDict[str, Model] = OrderedDict()
_ready: set[str] = set()
"""Of which of these all is made that hidden lines need."""
_spaces: OrderedDict[str, Artwork] = OrderedDict()
_last_cut: tuple[Model, ProjectionSpec, Shown] | None = None


def _fetch(store: Blobs, source: str, name: str, path: Path) -> None:
    try:
        store.fetch(keys.file_key(source), path)
    except KeyError:
        raise InputError(f"{name} is not kept here any more: bring it in again.") from None


def read_source(blobs: str, source: str, name: str, limit: int, report: Progress) -> None:
    """Read a file once: of a model its tree, its shapes, and a scene for the eye; of a drawing its artwork and its facts.

    :raises InputError: when the file cannot be used.
    """
    if is_drawing(name):
        read_drawn(Blobs(blobs), source, name, limit, report)
        return
    from skalto.core.sources.models.tessellation import to_glb  # brings trimesh, which other work does without

    store = Blobs(blobs)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"source{Path(name).suffix.lower()}"
        _fetch(store, source, name, path)
        model = read_model(path, name, lambda share, text: report(share * 0.6, text), limit)
    scene = to_glb(model, lambda share, text: report(0.6 + 0.35 * share, text))
    report(0.95, "Keeping what was read")
    store.put(keys.model_key(source, "shapes.bin"), pack_shapes(model))
    store.put(keys.model_key(source, "scene.glb"), scene)
    store.put(keys.model_key(source, "edges.bin"), pack_edges(part_edges(model)))
    # the tree last: where it is, all is
    tree = model.tree.model_copy(update={"file": name})
    store.put(keys.model_key(source, "tree.json"), tree.model_dump_json().encode())


def unpack_archive(blobs: str, key: str, limit: int, report: Progress) -> None:
    """Take a saved job apart: its sources kept by themselves, the job beside the archive.

    :raises InputError: when it is no saved job, or one over the limits.
    """
    from skalto.services.jobfile import unpack_job

    store = Blobs(blobs)

    def keep(source: str, file: Path) -> None:
        if not store.exists(keys.file_key(source)):
            store.put_file(keys.file_key(source), file)

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "archive.zip"
        store.fetch(key, path)
        report(0.1, "Unpacking")
        job = unpack_job(path, limit, keep)
    store.put(f"{key}.json", job.model_dump_json().encode())


def read_drawn(store: Blobs, source: str, name: str, limit: int, report: Progress) -> None:
    """Read a drawing once. :raises InputError: when the file cannot be used."""
    from skalto.core.sources.drawings.reading import read_drawing

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"source{Path(name).suffix.lower()}"
        _fetch(store, source, name, path)
        drawing = read_drawing(path, name, lambda share, text: report(share * 0.95, text), limit)
        report(0.96, "Making the picture")
        # the first thing that is looked at: made while the drawing is at hand
        first = drawing.facts.spaces[0].name
        if len(drawing.spaces[first]):
            project_lines(
                store, source, picture_spec(first), lambda: excerpt_lines(drawing.spaces[first], Excerpt(space=first))
            )
    keep_drawing(store, source, drawing)


def picture_spec(space: str) -> ProjectionSpec:
    """What decides the lines of one picture of a drawing, whole, in its own units."""
    return ProjectionSpec(look=(0, 0, -1), up=(0, 1, 0), excerpt=Excerpt(space=space))


def keep_drawing(store: Blobs, source: str, drawing: Drawing) -> None:
    """Put a drawing that was read into the store, its facts last: where they are, all is."""
    for number, space in enumerate(drawing.facts.spaces):
        store.put(keys.model_key(source, f"space-{number}.art"), drawing.spaces[space.name].to_bytes())
    tree = facts_of_drawing(drawing.facts).tree
    store.put(keys.model_key(source, "edges.bin"), pack_edges([]))
    store.put(keys.model_key(source, "drawing.json"), drawing.facts.model_dump_json().encode())
    store.put(keys.model_key(source, "tree.json"), tree.model_dump_json().encode())


def facts_of_drawing(facts: DrawingFacts) -> SourceFacts:
    """A drawing as a source: a tree without components, as large as the drawing in its own units."""
    box = facts.spaces[0].box or (0.0, 0.0, 0.0, 0.0)
    size = (box[2] - box[0], box[3] - box[1], 0.0)
    tree = ModelTree(unit=facts.unit, kind=DRAWING, low=(box[0], box[1], 0.0), size=size, solids=0, shapes=(), components=())
    return SourceFacts(tree, [], facts)


def _space(store: Blobs, source: str, name: str) -> Artwork:
    """One picture of a drawing, kept in memory. :raises InputError: when the drawing has no such page."""
    key = f"{store.url}#{source}#{name}"
    if key not in _spaces:
        facts = load_facts(store, source).drawing
        names = [space.name for space in facts.spaces] if facts else []
        if name not in names:
            raise InputError(f"The drawing has no page {name} any more: choose another.")
        _spaces[key] = Artwork.from_bytes(store.get(keys.model_key(source, f"space-{names.index(name)}.art")))
        while len(_spaces) > _KEPT_MODELS:
            _spaces.popitem(last=False)
    _spaces.move_to_end(key)
    return _spaces[key]


def excerpt_lines(artwork: Artwork, excerpt: Excerpt) -> ViewLines:
    """An excerpt's lines with the lengths that it can be judged by. :raises InputError: when it shows nothing."""
    shown = excerpt_artwork(artwork, excerpt)
    return ViewLines(shown, excerpt_lengths(shown))


def kept_model(store: Blobs, source: str) -> Model:
    """A model that was read, kept in memory, with what hidden lines need of it, where that is made. :raises KeyError: when it
    was not read."""
    if source not in _models:
        tree = load_tree(store, source)
        _models[source] = unpack(tree, store.get(keys.model_key(source, "shapes.bin")))
        while len(_models) > _KEPT_MODELS:
            left, _ = _models.popitem(last=False)
            _ready.discard(left)
    _models.move_to_end(source)
    if source not in _ready and _models[source].tree.kind != "mesh":
        from skalto.core.projection.ready import unpack_ready

        with suppress(KeyError):
            unpack_ready(_models[source], store.get(keys.facets_key(source)))
            _ready.add(source)
    return _models[source]


def make_source_ready(blobs: str, source: str, report: Progress) -> None:
    """Make what hidden lines need of a model before any view is asked for, once for all workers."""
    store = Blobs(blobs)
    key = keys.facets_key(source)
    if load_tree(store, source).kind == "mesh" or store.exists(key):
        return
    from skalto.core.projection.ready import make_ready, pack_ready

    report(0.1, "Making ready for hidden lines")
    store.put(f"{key}.begun", repr(time.time()).encode())
    try:
        model = kept_model(store, source)
        if make_ready(model):
            store.put(key, pack_ready(model))
            _ready.add(source)
    finally:
        store.drop(f"{key}.begun")


def _await_ready(store: Blobs, source: str) -> None:
    """While another worker makes what hidden lines need of a model, let it: two at it get in each other's way. One that began
    long ago may have been killed."""
    key = keys.facets_key(source)
    while source not in _ready and not store.exists(key):
        try:
            begun = float(store.get(f"{key}.begun"))
        except (KeyError, ValueError):
            return
        if not 0 <= time.time() - begun < _PATIENCE:
            return
        time.sleep(0.05)


def _shown(model: Model, spec: ProjectionSpec) -> Shown:
    """What a view looks at. A cut takes seconds in a large model, and is asked for twice: for the lines and for the rays."""
    if spec.cut is None:
        return shown_in(model, spec)
    global _last_cut
    if _last_cut is None or _last_cut[0] is not model or _last_cut[1] != spec:
        _last_cut = None
        _last_cut = (model, spec, shown_in(model, spec))
    return _last_cut[2]


def project_model(model: Model, spec: ProjectionSpec, show: Callable[[Artwork], None] = lambda artwork: None) -> ViewLines:
    """A view's lines with the lengths that it can be judged by, and the faces that a cut made; *show* has the lines first."""
    shown = _shown(model, spec)
    artwork = project_shown(model, shown, spec)
    show(artwork)
    return ViewLines(artwork, tuple(reference_lengths(model, shown, spec, artwork)), shown.faces)


def watch_lines(model: Model, spec: ProjectionSpec, artwork: Artwork) -> Watch:
    """What rays say of a view's lines."""
    from skalto.core.projection.watch import watch

    return watch(model, _shown(model, spec), spec.axes(), artwork, spec.cut is not None)


def watched_model(model: Model, spec: ProjectionSpec) -> ViewLines:
    """A view's lines with what rays say of them."""
    lines = project_model(model, spec)
    return replace(lines, watch=watch_lines(model, spec, lines.artwork))


def project_lines(store: Blobs, source: str, spec: ProjectionSpec, make: Callable[[], ViewLines] | None = None) -> ViewLines:
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
        elif spec.excerpt is not None:
            lines = excerpt_lines(_space(store, source, spec.excerpt.space), spec.excerpt)
            show(lines.artwork)
        else:
            lines = project_model(kept_model(store, source), spec, show)
    store.put(f"{key}.lines", pack_lines(lines))
    return lines


def _show_rough(store: Blobs, source: str, spec: ProjectionSpec) -> None:
    """Of a view that takes a while, put chords of its lines where the desk finds them until the exact ones are there."""
    key = keys.view_key(source, spec)
    if spec.cut is not None or spec.hidden_lines is not HiddenLines.FACETS or store.exists(f"{key}.lines"):
        return
    from skalto.core.projection.rough import rough_lines, takes_a_while

    model = kept_model(store, source)
    shown = _shown(model, spec)
    if takes_a_while(model, shown, spec.axes()):
        store.put(f"{key}.rough", rough_lines(model, shown, spec.axes()).to_bytes())


def project_view(blobs: str, source: str, spec: str, report: Progress) -> None:
    """Hidden-line removal for a view (*spec*: a ProjectionSpec as JSON).

    :raises InputError: when nothing is shown.
    """
    wanted = ProjectionSpec.model_validate_json(spec)
    report(0.05, "Cutting the excerpt" if wanted.excerpt is not None else "Taking away hidden lines")
    store = Blobs(blobs)
    if wanted.excerpt is None:
        _await_ready(store, source)
        _show_rough(store, source, wanted)
        report(0.3, "Making the lines exact")
    lines = project_lines(store, source, wanted)
    store.drop(f"{keys.view_key(source, wanted)}.rough")
    report(0.9, "Trying the lines by rays")
    watched(store, source, wanted, lines)


def watched(store: Blobs, source: str, spec: ProjectionSpec, lines: ViewLines) -> ViewLines:
    """A view's lines with what rays say of them, from the store, or found out now and kept."""
    if spec.excerpt is not None:
        return lines
    key = f"{keys.view_key(source, spec)}.watch"
    try:
        found = Watch.model_validate_json(store.get(key))
    except KeyError:
        model = kept_model(store, source)
        found = watch_lines(model, spec, lines.artwork)
        store.put(key, found.model_dump_json().encode())
    return replace(lines, watch=found)


def pen_picture(blobs: str, source: str, spec: str, pens: str, scale: float, report: Progress) -> None:
    """A view's picture as a pen set (PenSet as JSON) draws it at a scale, from lines that are there."""
    report(0.1, "Taking up the pens")
    store, wanted = Blobs(blobs), ProjectionSpec.model_validate_json(spec)
    chosen = PenSet.model_validate_json(pens)
    lines = project_lines(store, source, wanted)
    at_work = Pens(chosen, scale, load_facts(store, source).naming)
    key = keys.penned_key(source, wanted, chosen, scale)
    store.put(f"{key}.json", to_picture(lines.artwork, at_work).model_dump_json().encode())


def _shade(store: Blobs, source: str, spec: ShadeSpec) -> tuple[bytes, tuple[float, float, float, float]]:
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


def shade_view(blobs: str, source: str, spec: str, report: Progress) -> None:
    """The shaded picture of a view (*spec*: a ShadeSpec as JSON). :raises InputError: when nothing is shown."""
    from skalto.core.projection.shading import ShadeSpec

    report(0.05, "Shading")
    _shade(Blobs(blobs), source, ShadeSpec.model_validate_json(spec))


def with_shade(view: ViewSpec, lines: ViewLines, png: bytes, box: tuple[float, float, float, float]) -> ViewLines:
    """A view's lines with its shaded picture."""
    from skalto.core.projection.shading import unpack_picture

    return replace(lines, pixels=unpack_picture(png), pixel_box=box)


def drawn_excerpt(drawing: Drawing, path: Path, excerpt: Excerpt) -> ViewLines:
    """An excerpt's lines, and for a PDF the page that they are of. :raises InputError: when it shows nothing."""
    lines = excerpt_lines(drawing.spaces[excerpt.space], excerpt)
    number = page_number(drawing.facts, excerpt.space)
    if number is None:
        return lines
    return replace(lines, original=_alone(path.read_bytes(), number))


def _alone(data: bytes, number: int) -> bytes:
    """A page of a PDF alone; empty where it cannot be taken out, so that its strokes go out and say so."""
    try:
        return page_alone(data, number)
    except InputError:
        return b""


def page_number(facts: DrawingFacts, space: str) -> int | None:
    """The number, from 0, of the page of a PDF that a space is; None for other drawings."""
    names = [own.name for own in facts.spaces]
    return names.index(space) if facts.kind == "pdf" and space in names else None


def original_page(store: Blobs, source: str, space: str) -> bytes | None:
    """A page of a PDF alone, made once and kept, empty where it cannot be taken out; None for other drawings."""
    facts = load_facts(store, source).drawing
    number = None if facts is None else page_number(facts, space)
    if number is None:
        return None
    key = keys.model_key(source, f"page-{number}.pdf")
    try:
        return store.get(key)
    except KeyError:
        made = _alone(store.get(keys.file_key(source)), number)
    store.put(key, made)
    return made


def _sheet_lines(store: Blobs, spec: SheetSpec, around: ContextSpec, report: Progress) -> dict[str, ViewLines]:
    """The lines of a sheet's views, made where they are not there, with the shaded pictures."""
    lines: dict[str, ViewLines] = {}
    for number, view in enumerate(spec.views):
        report(0.05 + 0.7 * number / len(spec.views), f"Projecting the {view.title}")
        lines[view.id] = watched(store, view.source, view.projection(), project_lines(store, view.source, view.projection()))
        if view.excerpt is not None:
            lines[view.id] = replace(lines[view.id], original=original_page(store, view.source, view.excerpt.space))
        if view.shaded and not spec.clean:
            report(0.1 + 0.7 * number / len(spec.views), f"Shading the {view.title}")
            lines[view.id] = with_shade(view, lines[view.id], *_shade(store, view.source, shade_spec(view, around.colours)))
    return lines


def write_artwork(
    blobs: str, sheet: str, context: str, view: str, suffix: str, recipe: str, key: str, report: Progress
) -> None:
    """A sheet (SheetSpec as JSON), or one view of it, in a format of strokes under *key*, the check's report beside it."""
    store = Blobs(blobs)
    spec, around = SheetSpec.model_validate_json(sheet), ContextSpec.model_validate_json(context)
    lines = _sheet_lines(store, spec, around, report)
    report(0.78, "Writing the file")
    built = around.built(store, (v.source for v in spec.views))
    data, checked = write_one(spec, built, lines, stroke_format(suffix[1:]), view or None, Recipe.model_validate_json(recipe))
    store.put(f"{key}{suffix}", data)
    store.put(f"{key}.json", checked.model_dump_json().encode())


def write_sheet(blobs: str, sheet: str, context: str, recipe: str, metadata: str, key: str, report: Progress) -> None:
    """A sheet (SheetSpec as JSON) with its context (ContextSpec) by a recipe (Recipe) as a finished PDF under *key*; beside it
    the check's report, the glyphs that it uses, and its twin where it has one."""
    store = Blobs(blobs)
    spec, around = SheetSpec.model_validate_json(sheet), ContextSpec.model_validate_json(context)
    chosen = Recipe.model_validate_json(recipe)
    lines = _sheet_lines(store, spec, around, report)
    report(0.78, "Writing the file")
    built = around.built(store, (view.source for view in spec.views))
    solids = {}
    if spec.fields:
        from skalto.services.scenes import solids_of

        report(0.8, "Making the 3D model")
        solids = solids_of(store, spec, around)
    made, checked = write_and_check([(spec, built)], lines, metadata_from(metadata), report, chosen, solids=solids)
    keep_written(store, key, made, checked)


def keep_written(store: Blobs, key: str, made: Written, checked: Report) -> None:
    """Put a written file into the store, its report last: where that is, all is."""
    store.put(f"{key}.pdf", made.data)
    store.put(f"{key}.glyphs", orjson.dumps(made.glyphs, option=orjson.OPT_NON_STR_KEYS))
    if made.twin is not None:
        store.put(f"{key}.twin", made.twin)
    store.put(f"{key}.json", checked.model_dump_json().encode())


def _part(store: Blobs, key: str, name: str) -> Part:
    glyphs = {
        int(face): {int(glyph): text for glyph, text in used.items()}
        for face, used in orjson.loads(store.get(f"{key}.glyphs")).items()
    }
    try:
        data = store.get(f"{key}.twin")
    except KeyError:
        data = store.get(f"{key}.pdf")
    return Part(data, glyphs, name)


def join_sheets(blobs: str, parts: str, recipe: str, metadata: str, passwords: str, key: str, report: Progress) -> None:
    """Finished sheets (a JSON list of keys and names), in order, as one PDF under *key*, the check's report beside it."""
    store, chosen = Blobs(blobs), Recipe.model_validate_json(recipe)
    rows = orjson.loads(parts)
    secret = Passwords(*orjson.loads(passwords))
    report(0.1, "Joining the sheets")
    made = join([_part(store, own, name) for own, name in rows], metadata_from(metadata), chosen, secret)
    report(0.5, "Measuring the file")
    measured = [Measured(store.get(f"{own}.pdf"), Report.model_validate_json(store.get(f"{own}.json"))) for own, _ in rows]
    checked = check_joined(made.data, measured, chosen, secret.open)
    store.put(f"{key}.pdf", made.data)
    store.put(f"{key}.json", checked.model_dump_json().encode())


def find_points(blobs: str, file: str, key: str, report: Progress) -> None:
    """What can be measured from in a finished file (its blob's key), as JSON under *key*."""
    from skalto.core.checks.snapping import snap_points

    report(0.2, "Reading the file's ends and centres")
    store = Blobs(blobs)
    store.put(f"{key}.json", snap_points(store.get(file)).model_dump_json().encode())


def print_page(blobs: str, file: str, printer: str, key: str, report: Progress) -> None:
    """A finished file on a stand-in printer (Printer as JSON): what came out as JSON, and its picture, under *key*."""
    from skalto.core.checks.printer import printed, printed_pdf
    from skalto.core.checks.printing import Printer
    from skalto.core.output.pixels import PictureWish, draw_pages

    report(0.2, "Printing")
    store, chosen = Blobs(blobs), Printer.model_validate_json(printer)
    data = store.get(file)
    found = printed(data, chosen)
    report(0.6, "Drawing the printed sheet")
    (picture,) = draw_pages(printed_pdf(data, chosen), PictureWish(kind="png", dpi=_LOOK_DPI))
    store.put(f"{key}.png", picture)
    store.put(f"{key}.json", found.model_dump_json().encode())


def compare_pages(blobs: str, before: str, after: str, page: int, key: str, report: Progress) -> None:
    """A finished file over a page of an earlier one: the overlay, and the boxes of what differs, under *key*."""
    from skalto.core.checks.comparing import compare

    report(0.2, "Laying one over the other")
    store = Blobs(blobs)
    found = compare(store.get(before), store.get(after), page_before=page)
    store.put(f"{key}.png", found.png)
    store.put(f"{key}.json", orjson.dumps({"gone": found.gone, "came": found.came}))


def draw_tile(blobs: str, file: str, level: int, column: int, row: int, key: str, report: Progress) -> None:
    """A tile of a finished file's page, as PNG under *key*."""
    from skalto.core.output import tiles

    store = Blobs(blobs)
    store.put(f"{key}.png", tiles.draw_tile(lambda: store.get(file), level, column, row, f"{blobs}#{file}"))
    store.put(f"{key}.json", b"{}")


def draw_pictures(blobs: str, file: str, wish: str, key: str, report: Progress) -> None:
    """A finished file as a picture (PictureWish as JSON) under *key*; several pages as a zip of one a page, or as one TIFF."""
    import io
    import zipfile

    from skalto.core.output.pixels import PictureWish, draw_pages

    report(0.1, "Drawing the pixels")
    store, chosen = Blobs(blobs), PictureWish.model_validate_json(wish)
    drawn = draw_pages(store.get(file), chosen)
    data = drawn[0]
    if len(drawn) > 1:
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as archive:
            for number, picture in enumerate(drawn, 1):
                archive.writestr(f"{number:02d}.{chosen.kind}", picture)
        data = out.getvalue()
    store.put(f"{key}.bin", data)
    store.put(f"{key}.json", orjson.dumps({"pages": len(drawn), "size": len(data)}))
