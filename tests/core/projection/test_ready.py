"""What hidden lines need of a model is kept as bytes: views from it are those that are made anew, and no less are tried."""

from __future__ import annotations

import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from skalto.core.progress import silent
from skalto.core.projection import facing, passing, ready
from skalto.core.projection.view import ProjectionSpec, project
from skalto.core.sources.models.bundle import pack_shapes, unpack
from skalto.core.sources.models.features import pack, part_edges
from skalto.core.sources.models.model import Model
from skalto.core.sources.reading import read_model
from skalto.core.viewpoint import parse_viewpoint
from skalto.demo.solids import block, cylinder, moved
from skalto.jobs.queue import Queue
from skalto.services.results import models
from skalto.services.stored import keys
from skalto.services.tasks.reading import ReadSource, read_source
from skalto.services.use_cases.studio import Studio
from skalto.settings import Settings
from skalto.store import jobs as store
from tests.conftest import plate_with_holes
from tests.core.modelled import modelled, together, write_assembly

VIEWS = ("front", "top", "iso")


def _spec(name: str) -> ProjectionSpec:
    viewpoint = parse_viewpoint(name)
    return ProjectionSpec(look=viewpoint.look, up=viewpoint.up)


def _again(model: Model) -> Model:
    """The same model as another process has it."""
    return unpack(model.tree, pack_shapes(model))


def _assembly(folder: Path) -> Model:
    """A pin that passes through a plate, and one part of two bodies that do."""
    parts = {
        "Plate": plate_with_holes(),
        "Pin": cylinder(4, 60, (25, 20, -20)),
        "Two": together(moved(block(20, 20, 20), (150, 0, 0)), moved(cylinder(3, 40), (150, 0, -10), ("x", 5.0))),
    }
    path = write_assembly(parts, folder / "passing.step")
    return read_model(path, path.name)


def test_views_from_what_is_kept_are_those_made_anew(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    model = _assembly(tmp_path)
    ready.make_ready(model)
    assert sum(len(c) for _, _, _, c in passing.crossings_kept(list(facing.facets_kept(model).values()))) >= 4
    data = ready.pack_ready(model)
    anew = {name: project(_again(model), _spec(name)).to_bytes() for name in VIEWS}
    kept = _again(model)
    ready.unpack_ready(kept, data)

    def never(*_: Any) -> Any:
        raise AssertionError("made again")

    monkeypatch.setattr(facing, "facets_of", never)
    monkeypatch.setattr(passing, "_crossings", never)
    for name in VIEWS:
        assert project(kept, _spec(name)).to_bytes() == anew[name]


def test_what_a_model_has_is_left_alone(tmp_path: Path) -> None:
    model = _assembly(tmp_path)
    ready.make_ready(model)
    own = dict(facing.facets_kept(model))
    ready.unpack_ready(model, ready.pack_ready(model))
    assert {n: id(f) for n, f in facing.facets_kept(model).items()} == {n: id(f) for n, f in own.items()}


def test_a_model_without_crossings_or_faces(tmp_path: Path) -> None:
    model, _ = modelled(block(10, 10, 10), tmp_path)
    ready.make_ready(model)
    kept = _again(model)
    ready.unpack_ready(kept, ready.pack_ready(model))
    (facets,) = facing.facets_kept(kept).values()
    assert np.allclose(np.ptp(facets.points, axis=0), 10)


@pytest.fixture
def studio(tmp_path: Path) -> Iterator[Studio]:
    settings = Settings(data=tmp_path / "data")
    settings.data.mkdir()
    store.open_database(settings.data / "skalto.db")
    models._models.clear()
    models._ready.clear()
    yield Studio(settings, Queue(settings.data, blobs=settings.blob_url))
    models._models.clear()
    models._ready.clear()


def test_one_worker_makes_it_for_all(studio: Studio, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    model = _assembly(tmp_path)
    source = "a" * 64
    studio.blobs.put(keys.model_key(source, "shapes.bin"), pack_shapes(model))
    studio.blobs.put(keys.model_key(source, "edges.bin"), pack(part_edges(model)))
    studio.blobs.put(keys.model_key(source, "tree.json"), model.tree.model_dump_json().encode())
    models.make_ready(studio.blobs, source)
    assert studio.blobs.exists(keys.facets_key(source))
    models._models.clear()
    models._ready.clear()

    def never(*_: Any) -> Any:
        raise AssertionError("made again")

    monkeypatch.setattr(facing, "facets_of", never)
    assert len(project(models.kept_model(studio.blobs, source), _spec("iso")))


def test_a_view_waits_for_what_another_worker_is_about_to_have(
    studio: Studio, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    model = _assembly(tmp_path)
    ready.make_ready(model)
    source = "d" * 64
    key = keys.facets_key(source)
    naps: list[float] = []

    def slept(seconds: float) -> None:
        naps.append(seconds)
        if len(naps) == 3:
            studio.blobs.put(key, ready.pack_ready(model))

    monkeypatch.setattr(models.time, "sleep", slept)  # type: ignore[attr-defined]
    models.await_ready(studio.blobs, source)
    assert not naps  # nobody is at it
    studio.blobs.put(f"{key}.begun", repr(time.time() - 60).encode())
    models.await_ready(studio.blobs, source)
    assert not naps  # whoever was has been killed
    studio.blobs.put(f"{key}.begun", repr(time.time()).encode())
    models.await_ready(studio.blobs, source)
    assert len(naps) == 3


def test_nothing_is_left_behind_by_one_that_breaks(studio: Studio, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    model, source = _assembly(tmp_path), "e" * 64
    studio.blobs.put(keys.model_key(source, "shapes.bin"), pack_shapes(model))
    studio.blobs.put(keys.model_key(source, "edges.bin"), pack(part_edges(model)))
    studio.blobs.put(keys.model_key(source, "tree.json"), model.tree.model_dump_json().encode())

    def breaks(*_: Any) -> Any:
        raise MemoryError

    monkeypatch.setattr(facing, "facets_of", breaks)
    with pytest.raises(MemoryError):
        models.make_ready(studio.blobs, source)
    assert not studio.blobs.exists(f"{keys.facets_key(source)}.begun")
    assert not studio.blobs.exists(keys.facets_key(source))


def test_what_is_too_much_to_keep_is_not_kept(studio: Studio, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    model = _assembly(tmp_path)
    monkeypatch.setattr(ready, "MOST", 40)
    assert not ready.make_ready(model)
    assert len(facing.facets_kept(model)) < len(model.shapes)


def test_a_source_is_made_ready_when_it_joins_its_job(studio: Studio, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    asked: list[str] = []
    submit = studio.queue.submit
    monkeypatch.setattr(studio.queue, "submit", lambda task, own: asked.append(own.key) or submit(task, own))  # type: ignore[func-returns-value]
    path = write_assembly({"Plate": plate_with_holes()}, tmp_path / "plate.step")
    job = studio.create_job("Plates")
    studio.bring_in(job.id, path.name, path)
    (reading,) = asked
    source = reading.removeprefix("read:")
    read_source.do(ReadSource(source=source, name=path.name, limit=10**9), studio.settings.blob_url, silent)
    studio.collect()
    assert asked == [reading, f"ready:{source}"]
