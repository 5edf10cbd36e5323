"""Heavy work, each a pure function of blobs and a frozen specification, run in a worker's process.

Every function takes the blob store's URL and ``report``, which is told the share done and what is being done, and leaves
its result as blobs under keys of :mod:`skalto.services.keys`.
"""

from __future__ import annotations

import tempfile
from collections import OrderedDict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
import orjson

from skalto.core.artwork import Artwork
from skalto.core.checks.report import Report, check_pdf
from skalto.core.models.bundle import pack_shapes, unpack
from skalto.core.models.features import pack as pack_edges
from skalto.core.models.features import part_edges
from skalto.core.models.model import Model
from skalto.core.models.reading import read_model
from skalto.core.output.pdf.document import Metadata, write_pdf
from skalto.core.output.picture import to_picture
from skalto.core.projection.cutting import CutFace
from skalto.core.projection.reference import ReferenceLength, reference_lengths
from skalto.core.projection.view import ProjectionSpec, project_shown, shown_in
from skalto.core.sheets.compose import SheetContext, ViewLines, compose
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.services import keys
from skalto.services.context import ContextSpec, load_tree
from skalto.store.blobs import Blobs

if TYPE_CHECKING:
    from skalto.core.projection.shading import ShadeSpec

ReportProgress = Callable[[float, str], None]
_KEPT_MODELS = 3
_models: OrderedDict[str, Model] = OrderedDict()


def read_source(blobs: str, source: str, name: str, limit: int, report: ReportProgress) -> None:
    """Read a model file once: its tree, its shapes, and a scene for the eye.

    :raises InputError: when the file cannot be used.
    """
    from skalto.core.models.tessellation import to_glb  # brings trimesh, which other work does without

    store = Blobs(blobs)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"source{Path(name).suffix.lower()}"
        store.fetch(keys.file_key(source), path)
        model = read_model(path, name, lambda share, text: report(share * 0.8, text), limit)
    report(0.82, "Making the 3D view")
    scene = to_glb(model)
    store.put(keys.model_key(source, "shapes.bin"), pack_shapes(model))
    store.put(keys.model_key(source, "scene.glb"), scene)
    store.put(keys.model_key(source, "edges.bin"), pack_edges(part_edges(model)))
    # the tree last: where it is, all is
    store.put(keys.model_key(source, "tree.json"), model.tree.model_dump_json().encode())


def _model(store: Blobs, source: str) -> Model:
    if source not in _models:
        tree = load_tree(store, source)
        _models[source] = unpack(tree, store.get(keys.model_key(source, "shapes.bin")))
        while len(_models) > _KEPT_MODELS:
            _models.popitem(last=False)
    _models.move_to_end(source)
    return _models[source]


def pack_lines(lines: ViewLines) -> bytes:
    """A projected view as bytes: length of the JSON (4 bytes, big end first), reference lengths and cut faces, the artwork."""
    head = orjson.dumps(
        {
            "lengths": [length.model_dump() for length in lines.lengths],
            "faces": [[face.component, face.area, [ring.tolist() for ring in face.rings]] for face in lines.faces],
        }
    )
    head += b" " * (-(len(head) + 4) % 8)  # the numbers behind stand where a processor likes them
    return len(head).to_bytes(4, "big") + head + lines.artwork.to_bytes()


def unpack_lines(data: bytes) -> ViewLines:
    """What :func:`pack_lines` wrote."""
    size = int.from_bytes(data[:4], "big")
    head = orjson.loads(data[4 : 4 + size])
    lengths = tuple(ReferenceLength.model_validate(row) for row in head["lengths"])
    faces = tuple(
        CutFace(component, area, tuple(np.array(ring, float).reshape(-1, 2) for ring in rings))
        for component, area, rings in head["faces"]
    )
    return ViewLines(Artwork.from_bytes(data[4 + size :]), lengths, faces)


def project_model(model: Model, spec: ProjectionSpec) -> ViewLines:
    """A view's lines with the lengths that it can be judged by, and the faces that a cut made."""
    shown = shown_in(model, spec)
    artwork = project_shown(model, shown, spec)
    return ViewLines(artwork, tuple(reference_lengths(model, shown, spec, artwork)), shown.faces)


def _lines(store: Blobs, source: str, spec: ProjectionSpec) -> ViewLines:
    """From the store, or projected now and kept, the picture for the desk beside it."""
    key = keys.view_key(source, spec)
    try:
        return unpack_lines(store.get(f"{key}.lines"))
    except KeyError:
        lines = project_model(_model(store, source), spec)
    store.put(f"{key}.lines", pack_lines(lines))
    store.put(f"{key}.json", to_picture(lines.artwork).model_dump_json().encode())
    return lines


def project_view(blobs: str, source: str, spec: str, report: ReportProgress) -> None:
    """Hidden-line removal for a view (*spec*: a ProjectionSpec as JSON).

    :raises InputError: when nothing is shown.
    """
    report(0.05, "Taking away hidden lines")
    _lines(Blobs(blobs), source, ProjectionSpec.model_validate_json(spec))


def shade_spec(view: ViewSpec, colours: Mapping[str, str]) -> ShadeSpec:
    """What decides a view's shaded picture, at its resolution on paper."""
    from skalto.core.projection.shading import ShadeSpec

    dots = round(view.shade_dpi / 25.4 * float(view.ratio), 6)
    return ShadeSpec(view=view.projection(), dots=dots, colours=dict(colours))


def _shade(store: Blobs, source: str, spec: ShadeSpec) -> tuple[bytes, tuple[float, float, float, float]]:
    """From the store, or made now and kept: the PNG and its box."""
    key = keys.shade_key(source, spec)
    try:
        box = orjson.loads(store.get(f"{key}.json"))["box"]
        return store.get(f"{key}.png"), (box[0], box[1], box[2], box[3])
    except KeyError:
        from skalto.core.projection.shading import shade

        png, placed = shade(_model(store, source), spec)
    store.put(f"{key}.png", png)
    store.put(f"{key}.json", placed.model_dump_json().encode())
    return png, placed.box


def shade_view(blobs: str, source: str, spec: str, report: ReportProgress) -> None:
    """The shaded picture of a view (*spec*: a ShadeSpec as JSON). :raises InputError: when nothing is shown."""
    from skalto.core.projection.shading import ShadeSpec

    report(0.05, "Shading")
    _shade(Blobs(blobs), source, ShadeSpec.model_validate_json(spec))


def with_shade(view: ViewSpec, lines: ViewLines, png: bytes, box: tuple[float, float, float, float]) -> ViewLines:
    """A view's lines with its shaded picture."""
    from skalto.core.projection.shading import unpack_picture

    return replace(lines, pixels=unpack_picture(png), pixel_box=box)


def write_sheet(blobs: str, sheet: str, title: str, created: str, context: str, report: ReportProgress) -> None:
    """A sheet (SheetSpec as JSON) with its context (ContextSpec as JSON) as a finished PDF, the check's report beside it."""
    store = Blobs(blobs)
    spec, around = SheetSpec.model_validate_json(sheet), ContextSpec.model_validate_json(context)
    lines: dict[str, ViewLines] = {}
    for number, view in enumerate(spec.views):
        report(0.05 + 0.7 * number / len(spec.views), f"Projecting the {view.title}")
        lines[view.id] = _lines(store, view.source, view.projection())
        if view.shaded and not spec.clean:
            report(0.1 + 0.7 * number / len(spec.views), f"Shading the {view.title}")
            lines[view.id] = with_shade(view, lines[view.id], *_shade(store, view.source, shade_spec(view, around.colours)))
    report(0.78, "Writing the file")
    built = around.built(store, (view.source for view in spec.views))
    metadata = Metadata(title, author=around.title.get("creator", ""), created=datetime.fromisoformat(created))
    data, checked = write_and_check([(spec, built)], lines, metadata, report)
    key = keys.proof_key(spec, title, around)
    store.put(f"{key}.pdf", data)
    store.put(f"{key}.json", checked.model_dump_json().encode())


def write_and_check(
    sheets: Sequence[tuple[SheetSpec, SheetContext]],
    lines: Mapping[str, ViewLines],
    metadata: Metadata,
    report: ReportProgress,
) -> tuple[bytes, Report]:
    """Compose, write, and measure what was written."""
    data = write_pdf([compose(sheet, lines, context) for sheet, context in sheets], metadata)
    report(0.9, "Measuring the file")
    return data, check_pdf(data)
