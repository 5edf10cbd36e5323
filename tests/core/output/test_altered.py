"""A finished file that another library altered fails, in every way that is known to do harm; one that is only written another
way passes. The ways are data beside the campaign that draws them by chance: :mod:`tests.campaigns.fooled`."""

from __future__ import annotations

import random
from dataclasses import replace
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from skalto.core.artwork import Artwork, EdgeClass, Raster, Tags
from skalto.core.pages.composition import compose
from skalto.core.pages.page import SheetContext
from skalto.core.recipes import PLAIN, changed
from skalto.core.sources.drawings.excerpt import Excerpt
from skalto.core.sources.reading import read_model
from skalto.services.results.drawings import facts_of_drawing
from tests.campaigns.fooled import WAYS, failing
from tests.campaigns.subjects import Subject, of_page
from tests.conftest import plate_with_holes, write_step
from tests.core import drawn
from tests.core.projection.test_fooled import ALL, made, view
from tests.core.scene.test_solid_pdf import solid_of

LAYERED = changed(PLAIN, layers="source and edge classes")
SUFFIXES = (".pdf", ".dxf", ".svg")


def _draw(doc: Any, space: Any) -> None:
    doc.linetypes.add("CHAIN", [9.0, 6.0, -1.0, 1.0, -1.0])
    doc.layers.add("WALLS", true_color=0x1F6F5C, lineweight=50)
    doc.layers.add("GRID", true_color=0x884422, lineweight=18)
    space.add_line((10, 10), (90, 10), {"layer": "WALLS"})
    space.add_line((10, 20), (90, 20), {"layer": "GRID", "linetype": "CHAIN"})
    space.add_circle((50, 50), 20, {"layer": "WALLS"})
    space.add_arc((50, 50), 30, 10, 100, {"layer": "GRID"})
    space.add_ellipse((50, 80), (15, 0), 0.4, dxfattribs={"layer": "WALLS"})
    space.add_lwpolyline([(5, 5, 0), (95, 5, 0.3), (95, 95, 0)], format="xyb", dxfattribs={"layer": "GRID"})
    space.add_line((20, 30), (20, 90), {"layer": "GRID", "transparency": 0x02000080})
    for corners in ([(60, 60), (90, 60), (90, 90)], [(12, 60), (25, 60), (25, 90)]):
        space.add_hatch(dxfattribs={"layer": "WALLS", "true_color": 0xCC3300}).paths.add_polyline_path(corners, is_closed=True)
    for n, text in enumerate(("60", "Ø12", "Ebba 2026", "AVA")):
        space.add_text(text, height=4, dxfattribs={"layer": "WALLS", "style": "Sans"}).set_placement((30, 24 + 8 * n))
    space.add_text("grid", height=3, dxfattribs={"layer": "GRID"}).set_placement((70, 30))


@cache
def subjects(folder: Path) -> tuple[Subject, ...]:
    """A drawing with layers, areas, dashes, opacity, texts in two faces and a picture; a model in two views with hidden edges
    in a frame, and in 3D beside them."""
    drawing = drawn.read(drawn.dxf(folder / "drawn.dxf", _draw))
    sheet = drawn.sheet_of(Excerpt(region=(0, 0, 100, 100)), "A4")
    _, lines = drawn.page_and_lines(drawing, sheet)
    pixels = np.random.default_rng(3).integers(0, 255, (30, 40, 4), np.uint8)
    picture = Raster(
        Tags(EdgeClass.DRAWN, layer="GRID"), pixels, np.array((62.0, 32.0)), np.array((20.0, 0.0)), np.array((0.0, 15.0))
    )
    lines["v"] = replace(lines["v"], artwork=Artwork((*lines["v"].artwork, picture)))
    page = compose(sheet, lines, SheetContext({"s": facts_of_drawing(drawing.facts)}))
    found = list(of_page("drawing", page, lines, PLAIN, SUFFIXES))
    found += of_page("drawing in greys", page, lines, changed(PLAIN, colour="grey", layers="none"), SUFFIXES)

    path = write_step(plate_with_holes(), folder / "plate.step")
    model = read_model(path, path.name)
    spec = view("1:2", classes=ALL)
    page, lines = made(model, spec)
    solid = solid_of(model, place=(230, 150), size=(120, 90))
    page = replace(page, solids=(solid,))
    return (*found, *of_page("model", page, lines, LAYERED, SUFFIXES))


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return tmp_path_factory.mktemp("altered")


@pytest.mark.parametrize("suffix", SUFFIXES)
def test_right_files_pass(suffix: str, folder: Path) -> None:
    for subject in subjects(folder):
        if subject.suffix == suffix:
            assert failing(subject.check, subject.data) == []


KINDS = [(suffix, kind) for suffix, (_, harmful, _) in WAYS.items() for kind in harmful]
ALIKE = [(suffix, kind) for suffix, (_, _, harmless) in WAYS.items() for kind in harmless]


@pytest.mark.parametrize(("suffix", "kind"), KINDS)
def test_what_does_harm_fails(suffix: str, kind: str, folder: Path) -> None:
    tried = 0
    alter, harmful, _ = WAYS[suffix]
    for subject in subjects(folder):
        data = alter(subject.data, harmful[kind], random.Random(5)) if subject.suffix == suffix else None
        if data is not None:
            tried += 1
            assert failing(subject.check, data), subject.name
    assert tried, "a way that no file is altered by tells nothing"


@pytest.mark.parametrize(("suffix", "kind"), ALIKE)
def test_what_changes_nothing_passes(suffix: str, kind: str, folder: Path) -> None:
    alter, _, harmless = WAYS[suffix]
    for subject in subjects(folder):
        data = alter(subject.data, harmless[kind], random.Random(5)) if subject.suffix == suffix else None
        if data is not None:
            assert failing(subject.check, data) == [], subject.name
