"""The watch over hidden lines: what the kernel draws wrong is found by rays, and nothing is said of what is right."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from OCP.BRepPrimAPI import BRepPrimAPI_MakeTorus

from skalto.core.artwork import Artwork, EdgeClass, Ellipses, Lines, Tags
from skalto.core.checks.watched import watch_checks
from skalto.core.pages.page import ViewLines
from skalto.core.pages.placed_views import place_view
from skalto.core.projection.methods import HiddenLines
from skalto.core.projection.view import ProjectionSpec, project_shown, shown_in
from skalto.core.projection.watch import Watch, watch
from skalto.core.quantities import Scale
from skalto.core.sheets.content import ProjectionContent
from skalto.core.sheets.sheet import ViewSpec
from skalto.core.sources.models.model import Model
from skalto.core.sources.reading import read_model
from skalto.core.viewpoint import parse_viewpoint
from tests.conftest import SAMPLES, write_step
from tests.core.modelled import pin_in_plate

SEEN = (EdgeClass.VISIBLE, EdgeClass.OUTLINE)


def watched(model: Model, name: str, change: Callable[[Artwork], Artwork] = lambda artwork: artwork, **more: Any) -> Watch:
    seen = parse_viewpoint(name)
    spec = ProjectionSpec(look=seen.look, up=seen.up, **more)
    shown = shown_in(model, spec)
    return watch(model, shown, spec.axes(), change(project_shown(model, shown, spec)), spec.cut is not None)


@pytest.fixture(scope="module")
def plate(plate_step: Path) -> Model:
    return read_model(plate_step, plate_step.name)


@pytest.mark.parametrize("name", ["front", "top", "left", "iso"])
def test_a_plate_with_holes_is_right(plate: Model, name: str) -> None:
    found = watched(plate, name)
    assert found.samples > 1000
    assert not found.faults


def test_a_section_is_tried_as_it_is_cut(plate: Model) -> None:
    assert not watched(plate, "front", cut=0.0).faults


def test_a_pin_in_a_hole_of_its_own_diameter(tmp_path: Path) -> None:
    """The kernel draws the back of the rim over the pin. With play it does not."""
    tight = read_model(write_step(pin_in_plate(0.0), tmp_path / "tight.step"), "tight.step")
    faults = watched(tight, "iso", hidden_lines=HiddenLines.KERNEL).of(SEEN)
    # the back half of the rim, an ellipse of half axes 10 and 10/√3, and where the pin leaves below
    assert sum(fault.length for fault in faults if fault.kind == "unseen") > 20
    assert not watched(tight, "top").of(SEEN)
    loose = read_model(write_step(pin_in_plate(0.1), tmp_path / "loose.step"), "loose.step")
    assert not watched(loose, "iso").of(SEEN)


def test_a_ring_seen_along_its_seam(tmp_path: Path) -> None:
    """The kernel leaves out half a circle of the tube's radius 4: π·4 = 12.566 mm."""
    ring = read_model(write_step(BRepPrimAPI_MakeTorus(20, 4).Shape(), tmp_path / "ring.step"), "ring.step")
    faults = watched(ring, "front", hidden_lines=HiddenLines.KERNEL).of(SEEN)
    assert {fault.kind for fault in faults} == {"contour"}
    assert sum(fault.length for fault in faults) == pytest.approx(4 * np.pi, rel=0.06)
    assert not watched(ring, "top").of(SEEN)


def test_the_press_has_strokes_and_edges_that_the_kernel_gets_wrong(press_step: Path) -> None:
    model = read_model(press_step, press_step.name)
    found = watched(model, "front", hidden_lines=HiddenLines.KERNEL)
    kinds = {kind: sum(f.length for f in found.of(SEEN) if f.kind == kind) for kind in ("unseen", "edge")}
    # 0.9 % of the visible strokes, counted by rays once before
    assert kinds["unseen"] / found.drawn == pytest.approx(0.01, abs=0.003)
    assert kinds["edge"] > 20


def test_a_dropped_edge_and_a_stroke_from_behind_are_found(plate: Model) -> None:
    def without_a_side(artwork: Artwork) -> Artwork:
        items = [replace(item, points=item.points[1:]) if isinstance(item, Lines) else item for item in artwork]
        return Artwork(tuple(items))

    (missing,) = watched(plate, "top", without_a_side).faults
    assert (missing.kind, missing.edge_class) == ("edge", EdgeClass.VISIBLE)
    assert missing.length == pytest.approx(120, rel=0.05) or missing.length == pytest.approx(80, rel=0.05)

    def with_one_more(artwork: Artwork) -> Artwork:
        return artwork + Artwork((Lines(Tags(EdgeClass.VISIBLE, "plate"), np.array([[[-10.0, -30], [20, -30]]])),))

    (extra,) = watched(plate, "top", with_one_more).faults
    assert (extra.kind, extra.component) == ("unseen", "plate")
    assert extra.length == pytest.approx(30, rel=0.02)
    assert extra.box == pytest.approx((-10, -30, 20, -30), abs=0.2)

    def without_the_hole(artwork: Artwork) -> Artwork:
        return Artwork(tuple(item for item in artwork if not isinstance(item, Ellipses)))

    holes = watched(plate, "top", without_the_hole).faults
    assert sum(fault.length for fault in holes) == pytest.approx(np.pi * (30 + 12 + 6.5), rel=0.03)


@pytest.mark.parametrize(
    ("name", "look"),
    [
        *((name, look) for name in ("step/screw.step", "step/linkrods.step") for look in ("front", "iso")),
        # a head that is part of a ring whose tube goes through its own axis
        ("step/screw.step", "left"),
        # walls that lean by a degree, along which triangles turn to and fro: no contours
        ("iges/hammer.iges", "top"),
        # a ball's contour from its pole, where many triangles meet, to a hole close by
        ("occ/Ball.brep", "right"),
        # a hidden stretch whose end was sought too far along a curve that begins slowly
        ("occ/bottle.brep", "right"),
        # ends of rods that are seen square to their axes, where a ball begins
        ("occ/MODERN_Chair_1.brep", "top"),
    ],
)
def test_samples_of_others_raise_no_false_alarm(name: str, look: str) -> None:
    """Models of Debian's occt-misc; what the kernel draws of them was looked at."""
    path = SAMPLES / name
    faults = watched(read_model(path, path.name), look).of(SEEN)
    assert [fault for fault in faults if fault.kind != "unseen" or "hammer" not in name] == []


@pytest.mark.parametrize("name", ["shape.stl", "sh1.stl"])
def test_meshes_are_tried_too(name: str) -> None:
    model = read_model(SAMPLES / "stl" / name, name)
    found = watched(model, "iso")
    assert found.samples > 1000
    assert not found.of(SEEN)


def test_faults_fail_the_proof_with_their_length_and_place(plate: Model) -> None:
    seen = parse_viewpoint("top")
    view = ViewSpec(
        id="v",
        source="0",
        name="top",
        content=ProjectionContent(look=seen.look, up=seen.up),
        scale=Scale(1, 2),
        rotation=90,
        place=(100.0, 100.0),
    )

    def one_more(artwork: Artwork) -> Artwork:
        return artwork + Artwork((Lines(Tags(EdgeClass.VISIBLE, "plate"), np.array([[[-10.0, -30], [20, -30]]])),))

    found = watched(plate, "top", one_more)
    placed = place_view(view, ViewLines(one_more(Artwork()), ()))
    (check,) = watch_checks(placed, found, 3)
    assert (check.code, check.verdict, check.page) == ("watch-unseen", "fails", 3)
    assert check.reading.startswith(("29.", "30.", "30"))
    # turned by a quarter, halved, about (100, 100)
    assert check.place == pytest.approx((115, 95, 115, 110), abs=0.2)
    (good,) = watch_checks(placed, watched(plate, "top"), 1)
    assert (good.code, good.verdict) == ("watch", "holds")
    # classes that a view does not show cannot be wrong in it
    hidden = place_view(view.model_copy(update={"classes": (EdgeClass.OUTLINE,)}), ViewLines(Artwork(), ()))
    assert {c.verdict for c in watch_checks(hidden, found, 1)} == {"holds"}
