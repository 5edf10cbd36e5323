"""Projected lengths of handbook solids, and views of sample models of which only the edges are known."""

from __future__ import annotations

import itertools
from pathlib import Path

import numpy as np
import pytest
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCone, BRepPrimAPI_MakeSphere, BRepPrimAPI_MakeTorus

from skalto.core.artwork import EdgeClass, Ellipses
from skalto.core.geometry import Array
from skalto.core.projection.reference import reference_lengths
from skalto.core.projection.view import ProjectionSpec, project, shown_in
from skalto.core.sources.models.circles import circular_edges
from skalto.core.sources.reading import read_model
from skalto.core.viewpoint import STANDARD, parse_viewpoint
from skalto.demo.solids import block, cylinder, prism
from tests.conftest import SAMPLES, write_step

ROOT2, ROOT3, ROOT6 = np.sqrt([2, 3, 6])


@pytest.mark.parametrize(
    ("make", "view", "width", "height"),
    [
        # isometric (ISO 5456-3): edges along the axes shorten by √(2/3); a box's silhouette is the hexagon of its diagonals
        (lambda: block(100, 100, 100), "iso", 100 * ROOT2, 100 * (ROOT2 / ROOT3 + 2 / ROOT6)),
        (lambda: block(60, 40, 20), "iso", 100 / ROOT2, 100 / ROOT6 + 20 * ROOT2 / ROOT3),
        (lambda: cylinder(40, 60), "front", 40, 60),
        (lambda: cylinder(40, 60), "top", 40, 40),
        # a cylinder's isometric height: h·√(2/3) and the end's minor axis d/√3
        (lambda: cylinder(40, 60), "iso", 40, 60 * ROOT2 / ROOT3 + 40 / ROOT3),
        (lambda: BRepPrimAPI_MakeSphere(25.0).Shape(), "iso", 50, 50),
        (lambda: BRepPrimAPI_MakeCone(30.0, 10.0, 50.0).Shape(), "front", 60, 50),
        # a torus askew: outline at distance r from the centre circle's ellipse, R·sin(elevation), sin = 1/√3
        (lambda: BRepPrimAPI_MakeTorus(30.0, 10.0).Shape(), "iso", 80, 2 * (30 / ROOT3 + 10)),
        # hexagon across flats 30: across corners 30·2/√3
        (lambda: prism(6, 30, 12), "top", 30, 60 / ROOT3),
        # seen along a face's diagonal a cube is a·√2 wide
        (lambda: block(10, 10, 10), "dir:1,1,0;up:0,0,1", 10 * ROOT2, 10),
    ],
)
def test_projected_lengths(make: object, view: str, width: float, height: float, tmp_path: Path) -> None:
    path = write_step(make(), tmp_path / "solid.step")  # type: ignore[operator]
    model = read_model(path, "solid.step")
    viewpoint = parse_viewpoint(view)
    spec = ProjectionSpec(look=viewpoint.look, up=viewpoint.up, tolerance=1e-4)
    artwork = project(model, spec)
    box = artwork.only([EdgeClass.VISIBLE, EdgeClass.OUTLINE]).bounds()
    assert box is not None
    found = sorted((box[2] - box[0], box[3] - box[1]))
    assert found == pytest.approx(sorted((width, height)), abs=2e-4)
    lengths = {length.kind: length.value for length in reference_lengths(model, shown_in(model, spec), spec, artwork)}
    assert sorted((lengths["width"], lengths["height"])) == pytest.approx(sorted((width, height)), abs=1e-5)


# the hammer's many splines take the kernel half a minute a view: one of them will do
@pytest.mark.parametrize(
    ("name", "view"),
    [
        ("iges/hammer.iges", "top"),
        *itertools.product(("step/screw.step", "step/linkrods.step", "iges/bearing.iges"), ("front", "top", "iso")),
    ],
)
def test_sample_models_are_read_and_projected(name: str, view: str) -> None:
    path = SAMPLES / name
    model = read_model(path, path.name)
    viewpoint = STANDARD[view]
    artwork = project(model, ProjectionSpec(look=viewpoint.look, up=viewpoint.up))
    seen = artwork.only([EdgeClass.VISIBLE, EdgeClass.OUTLINE, EdgeClass.SMOOTH])
    assert len(seen) > 5
    # no view is larger than the model's own extents allow
    spec = ProjectionSpec(look=viewpoint.look, up=viewpoint.up)
    lengths = {length.kind: length.value for length in reference_lengths(model, shown_in(model, spec), spec, artwork)}
    box = seen.bounds()
    assert box is not None
    slack = 1e-4 * max(model.tree.size)
    assert box[2] - box[0] <= lengths["width"] + slack
    assert box[3] - box[1] <= lengths["height"] + slack


def _rounded(circles: Array) -> set[tuple[float, ...]]:
    return {tuple(row) for row in (np.round(circles, 4) + 0.0).tolist()}


@pytest.mark.parametrize("name", ["step/screw.step", "step/linkrods.step"])
@pytest.mark.parametrize("view", ["front", "top", "left"])
def test_circles_of_sample_models_are_the_model_s_own(name: str, view: str) -> None:
    """Each circular edge that is square to the view is drawn as a circle, and no sharp circle is drawn that is none."""
    path = SAMPLES / name
    model = read_model(path, path.name)
    viewpoint = STANDARD[view]
    axes = viewpoint.axes()
    own = _rounded(
        np.array(
            [
                (*(axes[:2] @ centre), radius)
                for centre, axis, radius in circular_edges(model.shapes[0])
                if abs(axis @ axes[2]) > 1 - 1e-9 and radius > 1e-6
            ]
        ).reshape(-1, 3)
    )
    drawn: dict[EdgeClass, set[tuple[float, ...]]] = {}
    for item in project(model, ProjectionSpec(look=viewpoint.look, up=viewpoint.up)):
        if isinstance(item, Ellipses):
            circles = np.column_stack((item.centre, item.radii()[:, 0]))[item.is_circle()]
            drawn.setdefault(item.tags.edge_class, set()).update(_rounded(circles))
    assert own <= set().union(*drawn.values())
    assert drawn.get(EdgeClass.VISIBLE, set()) <= own
