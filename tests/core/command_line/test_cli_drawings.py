"""The command line on drawings: layers, excerpts, saved pages, units, shifts, and files of each kind."""

from __future__ import annotations

import json
import subprocess
from collections.abc import Callable
from pathlib import Path
from typing import Any

import ezdxf
import numpy as np
import pytest

from skalto.core.checks.report import check_pdf
from skalto.demo.workshop import REGIONS, SPACING, write_workshop
from tests.conftest import Ran
from tests.core.drawn import dxf, of_kind, read

Run = Callable[..., subprocess.CompletedProcess[str]]


@pytest.fixture(scope="module")
def workshop(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("workshop") / "fit-out.dxf"
    write_workshop(str(path))
    return path


def region(n: int) -> str:
    return ",".join(f"{v:g}" for v in REGIONS[n])


def walls(path: Path) -> np.ndarray:
    """Where the house's outer wall lies on the page, mm."""
    found = [item.points[item.run(n)] for item in of_kind(read(path).spaces[""], "polylines") for n in range(len(item))]
    return next(p for p in found if len(p) == 4 and np.allclose(np.ptp(p, axis=0), (320, 160), atol=1e-3))


def test_layers_are_listed(workshop: Path, skalto_quick: Run) -> None:
    done = skalto_quick("layers", workshop, "--json")
    assert done.returncode == 0
    rows = {row["name"]: row for row in json.loads(done.stdout)}
    assert rows["WALLS"] == {"name": "WALLS", "colour": "#000000", "width": 0.5, "state": "on", "count": 4}
    assert rows["REMARKS"]["state"] == "off"
    assert "WINDOWS  #007fff  0.25 mm  on  32" in skalto_quick("layers", workshop).stdout.splitlines()


def test_storeys_of_two_regions_and_of_one_shifted_register(workshop: Path, skalto_quick: Run, tmp_path: Path) -> None:
    common = ("--scale", "1:50", "--paper", "A3")
    first, second, third = (tmp_path / f"{n}.pdf" for n in range(3))
    assert skalto_quick("export", workshop, "--out", first, "--region", region(0), *common).returncode == 0
    assert skalto_quick("export", workshop, "--out", second, "--region", region(1), *common).returncode == 0
    shift = f"0,{-SPACING:g}"
    assert skalto_quick("export", workshop, "--out", third, "--region", region(0), "--shift", shift, *common).returncode == 0
    assert np.abs(walls(first) - walls(second)).max() < 1e-3
    assert np.abs(walls(first) - walls(third)).max() < 1e-3
    assert check_pdf(third.read_bytes()).holds


def test_a_saved_page_and_layers_by_pattern(workshop: Path, skalto_quick: Run, tmp_path: Path) -> None:
    out = tmp_path / "page.pdf"
    done = skalto_quick(
        "export", workshop, "--out", out, "--region", "page:Ground floor", "--layers-off", "DIM*", "--layers-on", "rem*"
    )
    assert done.returncode == 0
    assert "A3, 1:50" in done.stdout
    layers = {layer.name for layer in read(out).facts.layers}
    assert "REMARKS" in layers
    assert "DIMENSIONS" not in layers


def test_a_pdf_comes_back_at_its_scale_without_being_asked(workshop: Path, skalto_quick: Run, tmp_path: Path) -> None:
    once, twice = tmp_path / "once.pdf", tmp_path / "twice.pdf"
    skalto_quick("export", workshop, "--out", once, "--region", region(0), "--scale", "1:50", "--paper", "A3")
    done = skalto_quick("export", once, "--out", twice, "--paper", "A3", "--region", "declared")
    assert done.returncode == 0
    assert "A3, 1:50" in done.stdout
    # the house is as large, in its own millimetres
    a, b = walls(once) * 50, walls(twice) * 50
    assert np.abs(np.ptp(a, axis=0) - np.ptp(b, axis=0)).max() < 1e-3


def test_artwork_goes_out_by_its_ending(workshop: Path, skalto_quick: Run, tmp_path: Path) -> None:
    for name in ("plan.dxf", "plan.svg"):
        done = skalto_quick(
            "export", workshop, "--out", tmp_path / name, "--region", region(0), "--scale", "1:50", "--paper", "A3"
        )
        assert done.returncode == 0
        assert "passes" in done.stdout
    document = ezdxf.readfile(tmp_path / "plan.dxf")
    assert document.header["$LIMMAX"][0] == pytest.approx(420)


def test_a_model_goes_out_as_dxf_with_true_circles(plate_step: Path, skalto_quick: Run, tmp_path: Path) -> None:
    done = skalto_quick(
        "export", plate_step, "--out", tmp_path / "plate.dxf", "--view", "top", "--scale", "1:2", "--paper", "A4"
    )
    assert done.returncode == 0
    circles = ezdxf.readfile(tmp_path / "plate.dxf").modelspace().query("CIRCLE")
    assert sorted(round(2 * c.dxf.radius, 6) for c in circles) == [3.25, 6.0, 15.0]


def _no_unit(path: Path) -> Path:
    corners = [(0, 0), (17, 0), (17, 11), (0, 11)]
    return dxf(path, lambda doc, space: space.add_lwpolyline(corners, close=True), units=0)


def test_a_unit_has_to_be_said_where_the_file_names_none(skalto_quick: Run, tmp_path: Path) -> None:
    path = _no_unit(tmp_path / "b.dxf")
    refused = skalto_quick("export", path, "--out", tmp_path / "b.pdf", "--paper", "ANSI-B")
    assert refused.returncode == 2
    assert "does not say its unit" in refused.stderr
    done = skalto_quick("export", path, "--out", tmp_path / "b.pdf", "--paper", "ANSI-B", "--units", "in")
    assert done.returncode == 0
    assert "width 431.8000 mm for 431.8000 mm" in done.stdout
    large = skalto_quick(
        "export", path, "--out", tmp_path / "b.pdf", "--overwrite", "--paper", "ANSI-B", "--units", "in", "--scale", "5:2"
    )
    assert large.returncode == 2
    assert "647.7 mm too wide (323.85 mm at each side) and 419.1 mm too high (209.55 mm at each side)" in large.stderr


BAD: list[tuple[tuple[str, ...], str]] = [
    (("--region", "0,0,10"), "is not a region"),
    (("--region", "page:Attic"), "has no page “Attic”: its pages are Ground floor"),
    (("--layers-off", "ROOF*"), "No layer matches “ROOF*”"),
    (("--units", "furlong"), "is not a unit"),
    (("--page", "2"), "counts the pages of a PDF"),
    (("--shift", "5"), "is not a shift"),
    (("--show", "Cheek"), "--show is for models"),
    (("--dims", "overall"), "--dims is for models"),
]


@pytest.mark.parametrize(("options", "words"), BAD)
def test_what_cannot_be_done_is_said_in_one_line(
    options: tuple[str, ...], words: str, workshop: Path, skalto_here: Ran
) -> None:
    status, _, told = skalto_here("export", workshop, "--out", workshop.parent / "x.pdf", *options)
    assert status == 2
    assert len(told.strip().splitlines()) == 1
    assert words in told


def test_options_of_drawings_are_refused_for_models(plate_step: Path, skalto_quick: Run, tmp_path: Path) -> None:
    done = skalto_quick("export", plate_step, "--out", tmp_path / "x.pdf", "--region", "all")
    assert (done.returncode, "--region is for drawings" in done.stderr) == (2, True)


def test_fonts_that_stand_in_are_told(skalto_quick: Run, tmp_path: Path) -> None:
    def draw(doc: Any, space: Any) -> None:
        doc.styles.add("Gone", font="brush.ttf")
        space.add_text("Guard", height=5, dxfattribs={"style": "Gone"})

    done = skalto_quick("export", dxf(tmp_path / "a.dxf", draw), "--out", tmp_path / "a.pdf", "--paper", "A4")
    assert "info: font brush.ttf is drawn by Liberation Sans (1 texts)." in done.stdout


@pytest.mark.parametrize(
    ("units", "region", "width"),
    [(1, "0,0,8.5,11", 8.5 * 25.4), (4, "0,0,85,110", 85.0), (1, "0mm,0mm,100mm,5in", 100.0)],
)
def test_plain_numbers_are_in_the_drawing_s_own_inches(
    units: int, region: str, width: float, skalto_quick: Run, tmp_path: Path
) -> None:
    def draw(document: Any, layout: Any) -> None:
        layout.add_lwpolyline([(0, 0), (200, 0), (200, 150), (0, 150)], close=True)
        layout.add_line((0, 0), (200, 150))

    path = dxf(tmp_path / "a.dxf", draw, units=units)
    done = skalto_quick("export", path, "--out", tmp_path / "a.pdf", "--paper", "A2", f"--region={region}")
    assert done.returncode == 0, done.stderr
    found = {r.kind: r.model_mm for r in check_pdf((tmp_path / "a.pdf").read_bytes()).pages[0].views[0].readings}
    assert found["width"] == pytest.approx(width, abs=1e-6)
