"""A view in which components are hidden and shown again has the lines that it would have, made anew."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from OCP.BRepPrimAPI import BRepPrimAPI_MakeSphere, BRepPrimAPI_MakeTorus
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt

from skalto.core.artwork import Artwork, EdgeClass, Lines
from skalto.core.geometry.grouping import touched
from skalto.core.projection import faceted
from skalto.core.projection.faceted import forget, is_kept
from skalto.core.projection.methods import HiddenLines
from skalto.core.projection.rough import takes_a_while
from skalto.core.projection.view import ProjectionSpec, project, shown_in
from skalto.core.sources.models.model import Model
from skalto.core.sources.reading import read_model
from skalto.core.viewpoint import parse_viewpoint
from skalto.demo.solids import block, cylinder, moved
from tests.core.modelled import write_assembly
from tests.core.projection.test_facing import lengths

PARTS = ("plate", "bar", "post", "ball", "ring", "far")


def _spec(name: str, *hidden: str, tolerance: float = 1e-3, cut: float | None = None) -> ProjectionSpec:
    viewpoint = parse_viewpoint(name)
    return ProjectionSpec(look=viewpoint.look, up=viewpoint.up, hidden=frozenset(hidden), tolerance=tolerance, cut=cut)


def _ends(artwork: Artwork) -> list[Any]:
    """The straight strokes with their classes and components, in no order."""
    return sorted(
        (item.tags.edge_class, item.tags.component, *row)
        for item in artwork
        if isinstance(item, Lines)
        for row in np.round(item.points.reshape(-1, 4), 5).tolist()
    )


def _anew(model: Model, spec: ProjectionSpec) -> Artwork:
    kept = faceted._kept.pop(model)
    try:
        return project(model, spec)
    finally:
        faceted._kept[model] = kept


def _same(found: Artwork, wanted: Artwork) -> None:
    assert lengths(found) == pytest.approx(lengths(wanted), rel=1e-9, abs=1e-9)
    assert _ends(found) == _ends(wanted)


@pytest.fixture(scope="module")
def heap(tmp_path_factory: pytest.TempPathFactory) -> Model:
    """Parts that hide one another, a bar that goes through a plate and a ball, and one part by itself."""
    shapes = {
        "plate": block(40, 30, 5),
        "bar": moved(cylinder(6, 40), (20, 15, -15)),
        "post": moved(block(4, 4, 30), (4, 4, -10)),
        "ball": BRepPrimAPI_MakeSphere(gp_Pnt(20, 15, 20), 9.0).Shape(),
        "ring": BRepPrimAPI_MakeTorus(gp_Ax2(gp_Pnt(20, 15, 5), gp_Dir(0.2, 0.1, 1)), 14.0, 2.0).Shape(),
        "far": moved(block(5, 5, 5), (200, 0, 0)),
    }
    path = write_assembly(shapes, tmp_path_factory.mktemp("heap") / "heap.step")
    return read_model(path, path.name)


def _path(model: Model, name: str) -> str:
    return next(c.path for c in model.tree.leaves() if c.name == name)


@pytest.mark.parametrize("view", ["front", "top", "iso", "dir:-1,2,-0.7;up:0,0,1"])
@given(steps=st.lists(st.sets(st.sampled_from(PARTS), max_size=len(PARTS) - 1), min_size=1, max_size=4))
@settings(max_examples=6, deadline=None)
def test_hidden_and_shown_again_as_made_anew(heap: Model, view: str, steps: list[set[str]]) -> None:
    project(heap, _spec(view))
    for hidden in [*steps, set[str]()]:
        spec = _spec(view, *(_path(heap, name) for name in hidden))
        assert is_kept(heap, shown_in(heap, spec), spec.axes())
        _same(project(heap, spec), _anew(heap, spec))


def test_only_what_a_component_touches_is_sought(heap: Model, monkeypatch: pytest.MonkeyPatch) -> None:
    tried: list[int] = []
    stretches = faceted.hidden_stretches  # type: ignore[attr-defined]

    def counted(chords: Any, *rest: Any) -> Any:
        tried.append(len(chords))
        return stretches(chords, *rest)

    monkeypatch.setattr(faceted, "hidden_stretches", counted)
    forget(heap)
    for hidden in ((), ("far",), ("post",), (), ()):
        project(heap, _spec("front", *(_path(heap, name) for name in hidden)))
    everything, far, post, back = tried  # and the last time none
    # the one by itself hides nothing; with it no chord is sought, with the post its own and those that it hides
    assert (far, 0 < post < everything / 2, 0 < back < everything / 2) == (0, True, True)


def test_a_line_of_two_that_pass_through_one_another_goes_with_either(heap: Model) -> None:
    project(heap, _spec("front"))
    both = project(heap, _spec("front", *(_path(heap, name) for name in PARTS if name not in ("bar", "ball"))))
    ball = project(heap, _spec("front", *(_path(heap, name) for name in PARTS if name != "ball")))
    assert set(lengths(ball)) == {EdgeClass.OUTLINE}
    # the circle in which the bar enters the ball is seen edge-on
    assert lengths(both)[EdgeClass.VISIBLE] > 6.0


def test_what_a_kept_view_is_good_for(heap: Model) -> None:
    bar = _path(heap, "bar")
    forget(heap)
    project(heap, _spec("front", bar))

    def kept(spec: ProjectionSpec) -> bool:
        return is_kept(heap, shown_in(heap, spec), spec.axes())

    assert kept(_spec("front", bar))
    assert kept(_spec("front", bar, _path(heap, "ball")))
    # other sides, and what was not there
    assert not kept(_spec("top", bar))
    assert not kept(_spec("front"))
    # a section is neither kept nor made of what is
    before = faceted._kept[heap]
    cut = project(heap, _spec("front", bar, cut=0.0))
    assert faceted._kept[heap] is before
    assert lengths(cut) != lengths(project(heap, _spec("front", bar)))
    # at another scale curves are fitted anew, and no hidden stretch is sought
    coarse = _spec("front", bar, tolerance=1e-2)
    assert kept(coarse)
    _same(project(heap, coarse), _anew(heap, coarse))


def test_large_views_are_not_kept(heap: Model, monkeypatch: pytest.MonkeyPatch) -> None:
    forget(heap)
    monkeypatch.setattr(faceted, "MOST", 100)
    project(heap, _spec("front"))
    assert heap not in faceted._kept


def test_a_kept_view_needs_no_rough_lines(heap: Model, monkeypatch: pytest.MonkeyPatch) -> None:
    from skalto.core.projection import rough

    monkeypatch.setattr(rough, "ROUGH_FROM", 100)
    forget(heap)
    spec = _spec("front")
    shown = shown_in(heap, spec)
    assert takes_a_while(heap, shown, spec.axes())
    project(heap, spec)
    assert not takes_a_while(heap, shown, spec.axes())
    assert takes_a_while(heap, shown, _spec("top").axes())


@given(st.lists(st.tuples(*[st.floats(-100, 100)] * 2, *[st.floats(0, 30)] * 2), min_size=1, max_size=30), st.data())
def test_boxes_that_are_touched_are_found(rows: list[tuple[float, ...]], data: st.DataObject) -> None:
    """All that meet are found; what is found is no farther than some cells of the grid."""
    boxes = np.array([(x, y, x + w, y + h) for x, y, w, h in rows])
    count = data.draw(st.integers(0, len(boxes)))
    asked, by = boxes[:count], boxes[count:]
    found = touched(asked, by)
    if not len(by):
        assert not found.any()
        return
    cell = max(float((by[:, 2:].max(axis=0) - by[:, :2].min(axis=0)).max()) / 32, 1e-6)
    gaps = np.maximum(asked[:, None, :2] - by[None, :, 2:], by[None, :, :2] - asked[:, None, 2:]).max(axis=2)
    assert found[(gaps <= 0).any(axis=1)].all()
    assert not found[(gaps > 3 * cell).all(axis=1)].any()


@pytest.mark.long
def test_the_press_without_its_roller(press_step: Path) -> None:
    model = read_model(press_step, press_step.name)
    project(model, _spec("iso"))
    roller = next(c.path for c in model.tree.leaves() if "roller" in c.name.lower())
    spec = _spec("iso", roller)
    _same(project(model, spec), _anew(model, spec))


def test_lines_that_lie_nowhere_send_a_view_the_kernel_s_way(heap: Model, monkeypatch: pytest.MonkeyPatch) -> None:
    forget(heap)
    spec = _spec("iso")
    kernel = lengths(project(heap, spec.model_copy(update={"hidden_lines": HiddenLines.KERNEL})))
    assert lengths(project(heap, spec)) != kernel
    forget(heap)
    staged_for = faceted.staged_for  # type: ignore[attr-defined]

    def nowhere(*given: Any) -> Any:
        curves, chords, triangles = staged_for(*given)
        chords.ends[0, 0, 0] = np.nan
        return curves, chords, triangles

    monkeypatch.setattr(faceted, "staged_for", nowhere)
    assert lengths(project(heap, spec)) == pytest.approx(kernel, rel=1e-9)
    assert heap not in faceted._kept
