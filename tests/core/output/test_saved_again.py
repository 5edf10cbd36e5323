"""A job that was saved gives the same bytes when it is opened again, whatever its sources are called on disk, and tells what
composing tells."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Callable
from pathlib import Path

import ezdxf
import numpy as np
import pytest
import trimesh
from OCP.BRepTools import BRepTools
from OCP.IGESControl import IGESControl_Writer

from skalto.core.job import JobDocument
from skalto.core.quantities import Scale
from skalto.core.sheets.annotations import Dimension, DimensionKind, Ref
from skalto.core.sheets.content import DrawingContent, ProjectionContent
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.drawings.excerpt import Excerpt
from skalto.core.sources.models.features import part_edges
from skalto.core.sources.models.model import Model
from skalto.core.sources.reading import read_model
from skalto.core.sources.section import SourceRef
from skalto.demo.solids import block, moved
from skalto.services.stored.jobfile import ENDING, JobFile, SourceFile
from skalto.store.blobs import content_hash
from tests.conftest import Ran, write_step
from tests.core.modelled import together
from tests.saved import packed_job

Make = Callable[[Path], Path]
BOTH = together(block(40, 20, 10), moved(block(10, 10, 10), (0, 0, 10)))


def _brep(path: Path) -> Path:
    BRepTools.Write_s(BOTH, str(path))
    return path


def _iges(path: Path) -> Path:
    writer = IGESControl_Writer("MM", 1)
    writer.AddShape(BOTH)
    writer.Write(str(path))
    return path


def _mesh(path: Path) -> Path:
    boxes = [trimesh.creation.box((40, 20, 10)), trimesh.creation.box((10, 10, 10), np.eye(4))]
    boxes[1].apply_translation((0, 0, 10))
    trimesh.util.concatenate(boxes).export(path)
    return path


def _dxf(path: Path) -> Path:
    document = ezdxf.new("R2010", units=4)
    document.modelspace().add_lwpolyline([(0, 0), (40, 0), (40, 20), (0, 20)], close=True)
    document.modelspace().add_text("plate", height=5)
    document.saveas(path)
    return path


def _svg(path: Path) -> Path:
    path.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40">'
        '<rect x="5" y="5" width="40" height="20" fill="none" stroke="black"/></svg>'
    )
    return path


def _pdf(path: Path) -> Path:
    from reportlab.pdfgen.canvas import Canvas

    canvas = Canvas(str(path), pagesize=(200, 100), invariant=True)
    canvas.rect(20, 20, 100, 50)
    canvas.save()
    return path


KINDS: dict[str, Make] = {
    "plate é.step": lambda path: write_step(BOTH, path),
    "plate.iges": _iges,
    "plate.brep": _brep,
    "plate.stl": _mesh,
    "plate.obj": _mesh,
    "plate.ply": _mesh,
    "plate.glb": _mesh,
    "plan.dxf": _dxf,
    "plan.svg": _svg,
    "plan.pdf": _pdf,
}


def _view(model: Model, source: str) -> ViewSpec:
    """The front with the smaller part hidden, where there are two, and a dimension on an edge of the larger."""
    leaves = model.tree.leaves()
    hidden = frozenset({leaves[-1].path}) if len(leaves) > 1 else frozenset()
    dimensions: tuple[Dimension, ...] = ()
    edges = part_edges(model)[leaves[0].shape or 0]
    if len(edges.lines):
        rows = edges.lines
        n = int(np.argmax(np.abs(rows[:, 3] - rows[:, 0])))
        ref = Ref(component=leaves[0].path, edge=int(edges.line_edges[n]), kind="line", geometry=tuple(rows[n].tolist()))
        dimensions = (Dimension(id="d", kind=DimensionKind.ALIGNED, first=ref),)
    return ViewSpec(
        id="v",
        source=source,
        name="front",
        content=ProjectionContent(look=(0, 1, 0), up=(0, 0, 1), hidden=hidden),
        place=(150, 150),
        dimensions=dimensions,
    )


def _job(path: Path) -> tuple[JobDocument, bytes]:
    data = path.read_bytes()
    source = content_hash(data)
    drawing = path.suffix in (".dxf", ".svg", ".pdf")
    if drawing:
        view = ViewSpec(
            id="v", source=source, name="plan", content=DrawingContent(excerpt=Excerpt()), place=(150, 150), anchor=(20, 10)
        )
    else:
        view = _view(read_model(path, path.name), source)
    sheet = SheetSpec(id="s", name="Plate", format="A3", views=(view,))
    ref = SourceRef(id=source, name=path.name, size=len(data), drawing=drawing)
    return JobDocument(name="Plate", sources=(ref,), sheets=(sheet,)), data


def _exported(skalto_here: Ran, file: Path, out: Path) -> tuple[bytes, str]:
    status, printed, told = skalto_here("job", "export", file, "--out", out)
    assert status in (0, 1), told
    return out.read_bytes(), printed


@pytest.mark.parametrize("name", list(KINDS))
def test_a_saved_job_gives_the_same_bytes(name: str, skalto_here: Ran, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from skalto.services.output import plans

    class Still(plans.datetime):  # type: ignore[name-defined,misc]
        @classmethod
        def now(cls, tz: object = None) -> object:
            return cls(2026, 1, 1, tzinfo=tz)

    monkeypatch.setattr(plans, "datetime", Still)
    path = KINDS[name](tmp_path / name)
    document, data = _job(path)
    if name.endswith((".step", ".brep")):
        assert document.sheets[0].views[0].hidden
    if not document.sources[0].drawing:
        assert document.sheets[0].views[0].dimensions
    # as it lies beside its source, called what it was called
    source = document.sources[0]
    beside = JobFile(document=document, sources=(SourceFile(id=source.id, name=name, file=name),))
    (tmp_path / f"a{ENDING}").write_text(beside.model_dump_json())
    first, told = _exported(skalto_here, tmp_path / f"a{ENDING}", tmp_path / "a.pdf")
    # and as it comes out of the archive that the browser saves
    folder = tmp_path / "saved"
    zipfile.ZipFile(io.BytesIO(packed_job(document, "", {source.id: data})[1])).extractall(folder)
    assert json.loads((folder / f"Plate{ENDING}").read_text())["sources"][0]["file"] != name
    second, again = _exported(skalto_here, folder / f"Plate{ENDING}", tmp_path / "b.pdf")
    assert first == second
    assert "lost its edge" not in told
    assert again.splitlines()[1:] == told.splitlines()[1:]


def test_what_composing_tells_is_printed(skalto_here: Ran, tmp_path: Path) -> None:
    path = KINDS["plan.dxf"](tmp_path / "plan.dxf")
    document, data = _job(path)
    sheet = document.sheets[0]
    small = sheet.views[0].model_copy(update={"scale": Scale(1, 10)})
    document = document.model_copy(update={"sheets": (sheet.with_views((small, small.model_copy(update={"id": "w"}))),)})
    zipfile.ZipFile(io.BytesIO(packed_job(document, "", {document.sources[0].id: data})[1])).extractall(tmp_path)
    _, told = _exported(skalto_here, tmp_path / f"Plate{ENDING}", tmp_path / "a.pdf")
    assert "lie over one another" in told
    assert "warning: Small text" in told
