"""What lies far from its origin: sites, survey coordinates and parts come out as exact as those that lie at it."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import trimesh

from skalto.core.artwork import Artwork, EdgeClass
from skalto.core.checks.report import check_pdf
from skalto.core.output.picture import to_picture
from skalto.core.projection.view import ProjectionSpec
from skalto.core.projection.watch import _strokes
from skalto.core.sources.drawings.excerpt import Excerpt
from skalto.core.sources.models.features import part_edges
from skalto.core.sources.models.model import Mesh
from skalto.core.sources.models.tessellation import to_glb
from skalto.core.sources.reading import read_model
from skalto.core.viewpoint import parse_viewpoint
from skalto.demo.solids import moved
from skalto.services.results.lines import project_model
from tests.conftest import Ran, plate_with_holes, write_step
from tests.core.drawn import dxf, read
from tests.core.modelled import write_placed


def _site(x: float, y: float) -> Any:
    """A plot of 40 × 30 units with a well of 5 in it, its lower left at (x, y)."""

    def draw(doc: Any, space: Any) -> None:
        space.add_lwpolyline([(x, y), (x + 40, y), (x + 40, y + 30, 0, 0, 0.3), (x, y + 30)], format="xyseb", close=True)
        space.add_circle((x + 10, y + 10), 2.5)
        space.add_arc((x + 30, y + 10), 4, 30, 200)
        space.add_text("Well", height=1.2).set_placement((x + 14, y + 10))

    return draw


@pytest.mark.parametrize(
    ("x", "y", "units", "scale"),
    [
        (0.0, 0.0, 6, "1:500"),
        (4e5, 5.8e6, 6, "1:200"),  # survey coordinates, m
        (1e7, -1e7, 6, "1:100"),
        (1e10, 1e10, 4, "1:1"),  # mm: ten thousand kilometres
    ],
)
def test_a_drawing_far_out_is_as_exact_as_one_at_its_origin(
    x: float, y: float, units: int, scale: str, skalto_here: Ran, tmp_path: Path
) -> None:
    path = dxf(tmp_path / "site.dxf", _site(x, y), units=units)
    out = tmp_path / "site.pdf"
    status, printed, told = skalto_here("export", path, "--out", out, "--scale", scale, "--paper", "A2")
    assert status == 0, told + printed
    report = check_pdf(out.read_bytes())
    readings = report.pages[0].views[0].readings
    unit = 1000 if units == 6 else 1
    lengths = {reading.kind: reading for reading in readings}
    assert lengths["diameter"].model_mm == pytest.approx(5 * unit, abs=1e-5 * unit)
    assert lengths["width"].model_mm == pytest.approx(40 * unit, abs=1e-5 * unit)
    # a micrometre on paper, of the size that was meant and not of the one that was read
    factor = float(scale.split(":")[0]) / float(scale.split(":")[1])
    assert lengths["diameter"].measured_mm == pytest.approx(5 * unit * factor, abs=1e-3)
    assert all(reading.holds for reading in readings)
    # and by a region typed in the file's own coordinates, mm
    typed = ",".join(repr(v * unit) for v in (x + 5, y + 5, x + 25, y + 20))
    status, _, told = skalto_here(
        "export", path, "--out", out, "--overwrite", "--scale", scale, "--paper", "A2", f"--region={typed}"
    )
    assert status == 0, told
    width = {r.kind: r.model_mm for r in check_pdf(out.read_bytes()).pages[0].views[0].readings}
    assert width["diameter"] == pytest.approx(5 * unit, abs=1e-5 * unit)


def test_a_picture_of_a_far_drawing_has_small_numbers(tmp_path: Path) -> None:
    """Browsers draw in single precision: what they get has to lie near nought."""
    drawing = read(dxf(tmp_path / "site.dxf", _site(4e5, 5.8e6), units=6))
    assert drawing.facts.origin == (400000.0, 5800000.0)
    box = drawing.spaces[""].bounds()
    assert box is not None
    assert max(map(abs, box)) < 1000
    assert len(to_picture(drawing.spaces[""]).model_dump_json()) > 100


def test_a_site_of_a_quarter_of_a_kilometre_goes_on_a_sheet(skalto_here: Ran, tmp_path: Path) -> None:
    def draw(doc: Any, space: Any) -> None:
        space.add_lwpolyline([(0, 0), (250_000, 0), (250_000, 180_000), (0, 180_000)], close=True)

    path = dxf(tmp_path / "plain.dxf", draw)
    status, _, told = skalto_here(
        "export", path, "--out", tmp_path / "a.pdf", "--scale", "1:500", "--paper", "A1", "--region", "all"
    )
    assert status == 0, told


def test_an_excerpt_turned_on_a_saved_page_stays_where_it_was() -> None:
    from skalto.core.sources.drawings.drawing import _turned_back

    region = (0.0, 0.0, 10.0, 5.0)
    x, y, angle = 300.0, -200.0, 30.0
    got = _turned_back(region, angle, x, y)
    turn = np.radians(angle)
    by = np.array(((np.cos(turn), -np.sin(turn)), (np.sin(turn), np.cos(turn)))) @ (x, y)
    assert got == pytest.approx((-by[0], -by[1], 10 - by[0], 5 - by[1]))
    assert Excerpt(region=got).region is not None


def drawn(artwork: Artwork, kind: EdgeClass) -> float:
    return sum(float(length.sum()) for item, length in _strokes(artwork) if item.tags.edge_class is kind)


@pytest.mark.parametrize("far", [1e5, 1e8])
def test_a_part_far_out_gives_the_same_lines_as_at_its_origin(far: float, tmp_path: Path) -> None:
    near = read_model(write_step(plate_with_holes(), tmp_path / "near.step"), "near.step")
    out = read_model(write_step(moved(plate_with_holes(), (far, -far, far / 2)), tmp_path / "far.step"), "far.step")
    assert max(map(abs, out.tree.low)) < 1e4
    assert out.tree.size == pytest.approx(near.tree.size, abs=1e-4)
    for name in ("top", "iso"):
        seen = parse_viewpoint(name)
        spec = ProjectionSpec(look=seen.look, up=seen.up)
        a, b = project_model(near, spec), project_model(out, spec)
        for kind in (EdgeClass.VISIBLE, EdgeClass.OUTLINE):
            assert drawn(b.artwork, kind) == pytest.approx(drawn(a.artwork, kind), rel=1e-6)
        assert {r.kind: r.value for r in a.lengths} == pytest.approx({r.kind: r.value for r in b.lengths}, abs=1e-5)
    # what dimensions hold on to
    assert np.ptp(part_edges(out)[0].lines[:, :3], axis=0) == pytest.approx((120, 80, 10), abs=1e-4)
    # what screens draw in single precision
    scene = trimesh.load_scene(io.BytesIO(to_glb(out)), file_type="glb")
    (mesh,) = scene.geometry.values()
    assert np.ptp(mesh.vertices, axis=0) == pytest.approx((120, 80, 10), abs=1e-3)
    assert np.abs(scene.bounds).max() < 1e4


def test_a_part_placed_ten_thousand_kilometres_out(tmp_path: Path) -> None:
    """An assembly that places its part there; the part's own geometry lies at its origin."""
    path = write_placed(plate_with_holes(), (1e10, 0.0, -1e10), tmp_path / "far.step")
    out = read_model(path, path.name)
    near = read_model(write_step(plate_with_holes(), tmp_path / "near.step"), "near.step")
    seen = parse_viewpoint("iso")
    spec = ProjectionSpec(look=seen.look, up=seen.up)
    a, b = project_model(near, spec).artwork, project_model(out, spec).artwork
    assert drawn(b, EdgeClass.VISIBLE) == pytest.approx(drawn(a, EdgeClass.VISIBLE), rel=1e-6)


def test_a_mesh_far_out_counts_from_a_local_origin(tmp_path: Path) -> None:
    mesh = trimesh.creation.box((10, 20, 30))
    mesh.apply_translation((5e6, 0, 0))
    path = tmp_path / "far.ply"
    path.write_bytes(mesh.export(file_type="ply", encoding="ascii"))
    model = read_model(path, path.name)
    assert model.tree.origin[0] == pytest.approx(5e6, rel=1e-3)
    assert isinstance(model.shapes[0], Mesh)
    assert np.abs(model.shapes[0].vertices).max() < 1e4


def test_no_message_carries_another_library_s_words(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from skalto import cli
    from skalto.core.errors import InputError
    from skalto.jobs.child import WorkFailed

    class Breaking:
        def run(self, *_: object) -> object:
            raise WorkFailed(
                "pydantic_core._pydantic_core.ValidationError: see https://errors.pydantic.dev/2/v/less_than_equal"
            )

        def close(self) -> None:
            pass

    monkeypatch.setattr("skalto.jobs.child.Child", Breaking)
    with pytest.raises(InputError) as told:
        cli._run("x:y", {"path": "plate.step"})
    assert "pydantic" not in str(told.value)
    assert "plate.step cannot be worked with" in str(told.value)
