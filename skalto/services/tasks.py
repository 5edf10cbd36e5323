"""Heavy work, each a pure function of blobs and a frozen specification, run in a worker's process.

Every function takes the blob store's URL and ``report``, which is told the share done and what is being done, and leaves
its result as blobs under keys of :mod:`skalto.services.keys`.
"""

from __future__ import annotations

import tempfile
from collections import OrderedDict
from collections.abc import Callable, Mapping
from datetime import datetime
from pathlib import Path

import orjson

from skalto.core.artwork import Artwork
from skalto.core.checks.report import Report, check_pdf
from skalto.core.models.bundle import pack_shapes, unpack
from skalto.core.models.model import Model, ModelTree
from skalto.core.models.reading import read_model
from skalto.core.output.pdf.document import Metadata, write_pdf
from skalto.core.output.picture import to_picture
from skalto.core.projection.reference import ReferenceLength, reference_lengths
from skalto.core.projection.view import ProjectionSpec, project
from skalto.core.sheets.compose import ViewLines, compose
from skalto.core.sheets.sheet import SheetSpec
from skalto.services import keys
from skalto.store.blobs import Blobs

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
    # the tree last: where it is, all is
    store.put(keys.model_key(source, "tree.json"), model.tree.model_dump_json().encode())


def load_tree(store: Blobs, source: str) -> ModelTree:
    """The tree of a source that was read. :raises KeyError: when it was not."""
    return ModelTree.model_validate_json(store.get(keys.model_key(source, "tree.json")))


def _model(store: Blobs, source: str) -> Model:
    if source not in _models:
        tree = load_tree(store, source)
        _models[source] = unpack(tree, store.get(keys.model_key(source, "shapes.bin")))
        while len(_models) > _KEPT_MODELS:
            _models.popitem(last=False)
    _models.move_to_end(source)
    return _models[source]


def pack_lines(lines: ViewLines) -> bytes:
    """A projected view as bytes: length of the JSON (4 bytes, big end first), the reference lengths, the artwork."""
    head = orjson.dumps([length.model_dump() for length in lines.lengths])
    head += b" " * (-(len(head) + 4) % 8)  # the numbers behind stand where a processor likes them
    return len(head).to_bytes(4, "big") + head + lines.artwork.to_bytes()


def unpack_lines(data: bytes) -> ViewLines:
    """What :func:`pack_lines` wrote."""
    size = int.from_bytes(data[:4], "big")
    lengths = tuple(ReferenceLength.model_validate(row) for row in orjson.loads(data[4 : 4 + size]))
    return ViewLines(Artwork.from_bytes(data[4 + size :]), lengths)


def project_model(model: Model, spec: ProjectionSpec) -> ViewLines:
    """A view's lines with the lengths that it can be judged by."""
    artwork = project(model, spec)
    return ViewLines(artwork, tuple(reference_lengths(model, spec, artwork)))


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


def write_sheet(blobs: str, sheet: str, title: str, created: str, report: ReportProgress) -> None:
    """A sheet (SheetSpec as JSON) as a finished PDF with the check's report beside it."""
    store = Blobs(blobs)
    spec = SheetSpec.model_validate_json(sheet)
    lines: dict[str, ViewLines] = {}
    for number, view in enumerate(spec.views):
        report(0.05 + 0.7 * number / len(spec.views), f"Projecting the {view.name} view")
        lines[view.id] = _lines(store, view.source, view.projection())
    report(0.78, "Writing the file")
    data, checked = write_and_check([spec], lines, Metadata(title, created=datetime.fromisoformat(created)), report)
    key = keys.proof_key(spec, title)
    store.put(f"{key}.pdf", data)
    store.put(f"{key}.json", checked.model_dump_json().encode())


def write_and_check(
    sheets: list[SheetSpec], lines: Mapping[str, ViewLines], metadata: Metadata, report: ReportProgress
) -> tuple[bytes, Report]:
    """Compose, write, and measure what was written."""
    data = write_pdf([compose(sheet, lines) for sheet in sheets], metadata)
    report(0.9, "Measuring the file")
    return data, check_pdf(data)
