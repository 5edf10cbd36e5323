"""Rough lines are those of the view, off by no more than its triangles, and are there until the exact ones are."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import orjson
import pytest

from skalto.core.artwork import Artwork, EdgeClass, Lines, Polylines
from skalto.core.progress import silent
from skalto.core.projection import rough
from skalto.core.projection.rough import rough_lines, takes_a_while
from skalto.core.projection.view import ProjectionSpec, project, shown_in
from skalto.core.sheets.sheet import ViewSpec
from skalto.core.sources.models.bundle import pack_shapes
from skalto.core.sources.models.features import pack, part_edges
from skalto.core.sources.models.model import Model
from skalto.core.viewpoint import parse_viewpoint
from skalto.demo.solids import block, cut, cylinder
from skalto.jobs.queue import Queue
from skalto.services.results import lines, models
from skalto.services.stored import keys
from skalto.services.tasks.views import ProjectView, project_view
from skalto.services.use_cases.studio import Awaited, Studio
from skalto.settings import Settings
from skalto.store import jobs as store
from tests.core.modelled import modelled, together

SOURCE = "b" * 64


def _spec(name: str) -> ProjectionSpec:
    viewpoint = parse_viewpoint(name)
    return ProjectionSpec(look=viewpoint.look, up=viewpoint.up)


def _length(artwork: Artwork, *classes: EdgeClass) -> float:
    """Of all runs of chords, mm; curves through 400 points."""
    total = 0.0
    for item in artwork.items:
        if item.tags.edge_class not in classes:
            continue
        if isinstance(item, Polylines):
            start, end, _, _ = item.segments()
            total += float(np.linalg.norm(end - start, axis=1).sum())
        elif isinstance(item, Lines):
            total += float(np.linalg.norm(item.points[:, 1] - item.points[:, 0], axis=1).sum())
        elif hasattr(item, "at"):
            share = np.linspace(0, 1, 400)
            points = item.at(item.start[:, None] + item.sweep[:, None] * share)
            total += float(np.linalg.norm(np.diff(points, axis=1), axis=2).sum())
        else:
            raise AssertionError(item)
    return total


@pytest.fixture(scope="module")
def bored(tmp_path_factory: pytest.TempPathFactory) -> Model:
    """A block with a bore, a pin that stands beside it, and behind it one that it hides in part."""
    shape = together(
        cut(block(40, 30, 20), cylinder(12, 60, (0, 0, -20))), cylinder(10, 50, (50, 0, 0)), cylinder(8, 70, (0, 40, 0))
    )
    return modelled(shape, tmp_path_factory.mktemp("bored"))[0]


@pytest.mark.parametrize("view", ["front", "top", "left", "iso", "dir:-1,2,-0.7;up:0,0,1"])
def test_rough_lines_are_as_long_as_the_exact_ones(bored: Model, view: str) -> None:
    """Compared with lines of the same view that ends solved on curves bound; they lie over one another nowhere here but where
    a rim is an outline too."""
    spec = _spec(view)
    found = rough_lines(bored, shown_in(bored, spec), spec.axes())
    exact = project(bored, spec)
    seen = EdgeClass.VISIBLE, EdgeClass.OUTLINE
    assert _length(found, *seen) == pytest.approx(_length(exact, *seen), rel=2e-3)
    assert found.bounds() == pytest.approx(exact.only(seen).bounds(), abs=0.02)
    assert {item.tags.edge_class for item in found.items} <= {*seen, EdgeClass.SMOOTH}


def test_chords_of_an_edge_are_one_run(bored: Model) -> None:
    spec = _spec("top")
    found = rough_lines(bored, shown_in(bored, spec), spec.axes())
    runs = sum(len(item) for item in found.items)
    # a block's four, the bore's rim, two pins' rims; and what these hide
    assert runs < 20
    for item in found.items:
        assert isinstance(item, Polylines)
        assert item.first[-1] == len(item.points)


def test_nothing_of_what_is_small_cut_or_without_triangles(bored: Model, monkeypatch: pytest.MonkeyPatch) -> None:
    spec = _spec("iso")
    shown = shown_in(bored, spec)
    assert not takes_a_while(bored, shown, spec.axes())
    monkeypatch.setattr(rough, "ROUGH_FROM", 10)
    assert takes_a_while(bored, shown, spec.axes())
    cut_spec = _spec("front").model_copy(update={"cut": 0.0})
    assert not takes_a_while(bored, shown_in(bored, cut_spec), cut_spec.axes())


@pytest.fixture
def studio(tmp_path: Path, bored: Model) -> Iterator[Studio]:
    settings = Settings(data=tmp_path / "data")
    settings.data.mkdir()
    store.open_database(settings.data / "skalto.db")
    made = Studio(settings, Queue(settings.data, blobs=settings.blob_url))
    made.blobs.put(keys.model_key(SOURCE, "shapes.bin"), pack_shapes(bored))
    made.blobs.put(keys.model_key(SOURCE, "edges.bin"), pack(part_edges(bored)))
    made.blobs.put(keys.model_key(SOURCE, "tree.json"), bored.tree.model_dump_json().encode())
    yield made
    models._models.clear()
    models._ready.clear()


def _view(**more: object) -> ViewSpec:
    iso = parse_viewpoint("iso")
    return ViewSpec.model_validate({"id": "v", "source": SOURCE, "name": "iso", "look": iso.look, "up": iso.up} | more)


def test_rough_lines_are_shown_until_the_exact_ones_are_there(studio: Studio, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(rough, "ROUGH_FROM", 10)
    view, seen = _view(), list[bytes | Awaited]()
    assert not studio.view_picture(view).rough  # type: ignore[union-attr]
    key = keys.view_key(SOURCE, view.lines())
    project_lines = lines.project_lines

    def looked_at(*args: object) -> object:
        seen.append(studio.view_picture(view))
        seen.append(studio.view_picture(_view(detail={"letter": "B", "parent": "v", "centre": (0, 0), "radius": 5.0})))
        return project_lines(*args)  # type: ignore[arg-type]

    monkeypatch.setattr(lines, "project_lines", looked_at)
    project_view.do(ProjectView(source=SOURCE, spec=view.lines()), studio.settings.blob_url, silent)
    whole, detail = seen
    assert isinstance(whole, Awaited)
    assert isinstance(detail, Awaited)
    drawn = [orjson.loads(own.rough)["paths"] for own in (whole, detail)]
    assert {path["edge_class"] for path in drawn[0]} >= {"visible", "outline"}
    assert all(-5.01 <= v <= 5.01 for path in drawn[1] for v in path["box"])
    exact = studio.view_picture(view)
    assert isinstance(exact, bytes)
    assert "A" in orjson.loads(exact)["paths"][-1]["d"] or "C" in orjson.loads(exact)["paths"][-1]["d"]
    assert not studio.blobs.exists(f"{key}.rough")


def test_the_picture_is_there_before_what_it_is_judged_by(studio: Studio, monkeypatch: pytest.MonkeyPatch) -> None:
    view = _view()
    there: list[bool] = []
    lengths = lines.reference_lengths  # type: ignore[attr-defined]

    def asked(*args: object) -> object:
        there.append(isinstance(studio.view_picture(view), bytes))
        return lengths(*args)  # type: ignore[arg-type]

    monkeypatch.setattr(lines, "reference_lengths", asked)
    project_view.do(ProjectView(source=SOURCE, spec=view.lines()), studio.settings.blob_url, silent)
    assert there == [True]
