"""A plate with holes on paper, measured by two engines that did not write the file."""

from __future__ import annotations

import json
import subprocess
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import numpy as np
import pypdfium2 as pdfium
import pytest

from skalto.core.checks.vectors import read_page
from skalto.core.geometry import bezier_bounds
from skalto.core.quantities import Scale
from tests.reference.second_engine import Page

Run = Callable[..., subprocess.CompletedProcess[str]]
MICROMETRE = 1e-3
HOLES = {30.0: (-30, 0), 12.0: (25, 15), 6.5: (40, -20)}
SIZE = (120.0, 80.0)


def _exported(skalto: Run, plate: Path, folder: Path, scale: str, *more: str) -> bytes:
    out = folder / "plate.pdf"
    run = skalto("export", plate, "--out", out, "--view", "top", "--scale", scale, "--paper", "A3", *more)
    assert run.returncode == 0, run.stderr
    return out.read_bytes()


@pytest.mark.parametrize("scale", ["1:1", "2:1", "1:5"])
def test_lengths_and_diameters_hold_by_two_engines(scale: str, skalto: Run, plate_step: Path, tmp_path: Path) -> None:
    data = _exported(skalto, plate_step, tmp_path, scale)
    ratio = float(Scale.parse(scale))

    page = Page(data)
    assert page.extent() == pytest.approx(np.array(SIZE) * ratio, abs=MICROMETRE)
    circles = sorted(page.circles(), key=lambda c: c[2])
    assert [c[2] for c in circles] == pytest.approx([d * ratio for d in sorted(HOLES)], abs=MICROMETRE)
    # where the holes are to one another
    by_size = {d: np.array(c[:2]) for d, c in zip(sorted(HOLES), circles, strict=True)}
    for d, place in HOLES.items():
        expected = (np.array(place) - np.array(HOLES[30.0])) * ratio
        assert by_size[d] - by_size[30.0] == pytest.approx(expected, abs=MICROMETRE)

    with pdfium.PdfDocument(data) as document:
        vectors = read_page(document, 0)
        box = vectors.paths.bounds()
        assert box is not None
        assert box[1] - box[0] == pytest.approx(np.array(SIZE) * ratio, abs=MICROMETRE)
        subs = [sub for n in range(len(vectors.paths)) for sub in vectors.paths.subpaths(n)]
        round_ones = [bezier_bounds(sub.curves) for sub in subs if sub.closed]
        assert len(round_ones) == 3
        diameters = sorted(float((box[:, 1].max(axis=0) - box[:, 0].min(axis=0)).mean()) for box in round_ones)
        assert diameters == pytest.approx([d * ratio for d in sorted(HOLES)], abs=MICROMETRE)


def test_no_point_of_a_large_arc_is_off_by_more_than_a_micrometre(skalto: Run, tmp_path: Path) -> None:
    from skalto.demo.solids import cylinder
    from tests.conftest import write_step

    disc = write_step(cylinder(1000, 5), tmp_path / "disc.step")
    out = tmp_path / "disc.pdf"
    run = skalto("export", disc, "--out", out, "--view", "top", "--paper", "1050x1050mm")
    assert run.returncode == 0, run.stderr
    page = Page(out.read_bytes(), samples=2001)
    (points,) = page.points
    radius = np.linalg.norm(points - np.array((525, 525)), axis=1)
    assert np.abs(radius - 500).max() <= MICROMETRE
    # and not many more Béziers than that takes: one fewer a quadrant would be off by over a micrometre (closed form)
    assert len(points) / 2001 <= 14


def test_the_report_and_the_check_say_the_same(skalto: Run, plate_step: Path, tmp_path: Path) -> None:
    _exported(skalto, plate_step, tmp_path, "2:1", "--lines", "visible+hidden", "--frame", "iso")
    run = skalto("check", tmp_path / "plate.pdf", "--json")
    assert run.returncode == 0
    report = json.loads(run.stdout)
    (page,) = report["pages"]
    assert (page["width_mm"], page["height_mm"], page["min_line_width_mm"]) == (420, 297, 0.25)
    (view,) = page["views"]
    assert view["name"] == "top"
    assert view["scale"] == "2:1"
    assert abs(view["deviation_um"]) <= 1
    assert abs(view["measured_mm"] - view["expected_mm"]) <= MICROMETRE
    assert {r["kind"]: r["expected_mm"] for r in view["readings"]} == {"width": 240, "height": 160, "diameter": 60}
    assert report["findings"] == []


@pytest.mark.long
def test_box_widths_and_structure_by_poppler_and_qpdf(skalto: Run, plate_step: Path, tmp_path: Path) -> None:
    _exported(skalto, plate_step, tmp_path, "1:1", "--frame", "iso", "--lines", "visible+hidden")
    path = tmp_path / "plate.pdf"
    assert subprocess.run(["qpdf", "--check", path], capture_output=True, check=False).returncode == 0
    info = subprocess.run(["pdfinfo", "-box", path], capture_output=True, text=True, check=True).stdout
    boxes = {line.split(":")[0]: [float(v) for v in line.split(":")[1].split()] for line in info.splitlines() if "Box:" in line}
    a3 = [0, 0, float(Fraction(420 * 720, 254)), float(Fraction(297 * 720, 254))]
    assert boxes["MediaBox"] == pytest.approx(a3, abs=0.01)
    assert boxes["TrimBox"] == boxes["MediaBox"] == boxes["CropBox"]
    page = Page(path.read_bytes())
    assert sorted({round(w, 3) for w in page.widths}) == [0.25, 0.35, 0.5, 0.7]


@pytest.mark.long
def test_poppler_draws_a_millimetre_as_a_millimetre(skalto: Run, plate_step: Path, tmp_path: Path) -> None:
    """600 dpi: ink must lie where the plate's edges are, to a pixel (42 µm)."""
    from PIL import Image

    Image.MAX_IMAGE_PIXELS = None
    _exported(skalto, plate_step, tmp_path, "1:1")
    subprocess.run(["pdftoppm", "-r", "600", "-gray", "-singlefile", tmp_path / "plate.pdf", tmp_path / "plate"], check=True)
    ink = np.asarray(Image.open(tmp_path / "plate.pgm")) < 128
    columns, rows = np.flatnonzero(ink.any(axis=0)), np.flatnonzero(ink.any(axis=1))
    pixel = 25.4 / 600
    # outermost ink is half a line width, 0.25 mm, beyond the edge
    assert (columns[-1] - columns[0] + 1) * pixel == pytest.approx(120.5, abs=1.5 * pixel)
    assert (rows[-1] - rows[0] + 1) * pixel == pytest.approx(80.5, abs=1.5 * pixel)
