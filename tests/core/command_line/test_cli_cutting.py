"""``skalto cut`` and ``skalto cutter``: from a STEP and from a DXF to plates, and the bad cases, each with its sentence."""

from __future__ import annotations

import json
import subprocess
from collections.abc import Callable
from pathlib import Path
from typing import Any

import ezdxf
import pikepdf
import pytest
import shapely

from skalto.core.errors import InputError
from skalto.core.progress import silent
from skalto.demo.solids import block, cut, cylinder
from skalto.services.commands.cutting import cut_files, run_file
from tests.core.drawn import dxf
from tests.core.modelled import write_assembly

Run = Callable[..., subprocess.CompletedProcess[str]]


@pytest.fixture(scope="module")
def plates_step(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Two kinds of 6 mm plates, one of 10 mm, a rod."""
    folder = tmp_path_factory.mktemp("plates")
    wide = cut(block(120, 80, 6), cylinder(20, 20, (30, 0, -5)), cylinder(5, 20, (-40, 20, -5)))
    parts = {"Side": wide, "Foot": block(40, 30, 6), "Base": block(100, 60, 10), "Rod": cylinder(8, 100)}
    return write_assembly(parts, folder / "parts.step")


def _drawn(folder: Path) -> Path:
    def draw(document: Any, space: Any) -> None:
        for x in (0, 90):
            space.add_lwpolyline([(x, 0), (x + 80, 0), (x + 80, 50, 0, 0, 0.2), (x, 50)], close=True)
            space.add_circle((x + 25, 25), 12)
            space.add_line((x + 50, 5), (x + 50, 45), dxfattribs={"layer": "fold"})

    return dxf(folder / "drawn.dxf", draw)


QUICK = ("--seconds", "1", "--kerf", "0.15mm", "--plate", "400x300mm")


@pytest.mark.parametrize("suffix", [".pdf", ".dxf", ".svg"])
def test_plates_out_of_a_model(suffix: str, plates_step: Path, skalto: Run, tmp_path: Path) -> None:
    out = tmp_path / f"plate{suffix}"
    if suffix == ".pdf":
        run = skalto("cut", plates_step, *QUICK, "--thickness", "6mm", "--quantity", "Foot=5", "--out", out, "--json")
        assert run.returncode == 0, run.stdout + run.stderr
        found = json.loads(run.stdout)
    else:
        found = _cut(plates_step, out, thickness="6mm", quantity=["Foot=5"])
        assert found["holds"]
    (plate,) = found["plates"]
    assert sorted(own["part"] for own in plate["placed"]) == ["Foot"] * 5 + ["Side"]
    size = 120 * 80 + 5 * 40 * 30 - 3.14159265 * (100 + 6.25)
    assert plate["yield"] == pytest.approx(size / (400 * 300), abs=1e-4)
    assert 0 < plate["yield"] < plate["bound"] < 1
    assert plate["pierces"] == 8
    assert plate["largest_deviation_um"] < 2
    assert plate["seconds"] > plate["cut_mm"] / 18
    assert found["left"] == []
    assert any("Rod" in line for line in found["notices"])
    assert any("Base is 10 mm thick" in line for line in found["notices"])
    # the machine takes the file alone, and finds the same
    again = run_file(str(out), {"kerf": "0.15mm"}, silent)
    assert len([own for own in again["pieces"] if own["area"] > 1000]) == 6
    assert again["cut_length"] == pytest.approx(plate["cut_mm"], abs=0.05)


@pytest.mark.long
def test_plates_out_of_a_drawing(skalto: Run, tmp_path: Path) -> None:
    source, out = _drawn(tmp_path), tmp_path / "plate.dxf"
    run = skalto("cut", source, *QUICK, "--score", "fold", "--out", out)
    assert run.returncode == 0, run.stdout + run.stderr
    assert "passes" in run.stdout
    layers = {entity.dxf.layer for entity in ezdxf.readfile(out).modelspace()}
    assert layers == {"cut", "score"}
    # as a reader that is not ours has the outlines: on the plate, apart by the gap and the kerf that was added
    outlines = [own for own in ezdxf.readfile(out).modelspace().query("LWPOLYLINE") if own.closed]
    rings = [shapely.Polygon([p[:2] for p in own.get_points()]) for own in outlines]
    assert len(rings) == 2
    assert rings[0].distance(rings[1]) >= 2 - 0.15 - 1e-3
    assert shapely.box(4.9, 4.9, 395.1, 295.1).covers(shapely.union_all(rings))


def test_more_plates_are_more_pages_or_files(plates_step: Path, tmp_path: Path) -> None:
    options: dict[str, Any] = {"plate": "140x100mm", "thickness": "6mm", "quantity": ["Side=3", "Foot=0"]}
    assert len(_cut(plates_step, tmp_path / "p.pdf", **options)["plates"]) == 3
    with pikepdf.open(tmp_path / "p.pdf") as pdf:
        assert [round(float(page.mediabox[2]) / 72 * 25.4, 3) for page in pdf.pages] == [140] * 3
    found = _cut(plates_step, tmp_path / "p.dxf", plates=2, **options)
    assert not found["holds"]
    assert [Path(own["file"]).name for own in found["plates"]] == ["p.dxf", "p-2.dxf"]
    assert found["left"] == [{"part": "Side", "count": 1, "why": "there is no more room on the plates that there are"}]


def _cut(file: Path, out: Path, **options: Any) -> dict[str, Any]:
    """The command's work, in this process."""
    asked = {"seconds": 1, "kerf": "0.15mm", "plate": "400x300mm"} | options
    return cut_files(str(file), [], str(out), asked, True, silent)


def _refused(file: Path, out: Path, words: str, **options: Any) -> None:
    with pytest.raises(InputError) as refused:
        _cut(file, out, **options)
    assert words in str(refused.value)


def test_bad_cases_each_with_a_sentence(plates_step: Path, skalto: Run, tmp_path: Path) -> None:
    out = tmp_path / "x.pdf"

    def made(name: str, draw: Any) -> Path:
        return dxf(tmp_path / name, lambda document, space: draw(space))

    open_ = made("open.dxf", lambda s: s.add_lwpolyline([(0, 0), (50, 0), (50, 30), (0, 30)]))
    _refused(open_, out, "is open: its ends are 30.000 mm apart")
    crossing = made("crossing.dxf", lambda s: s.add_lwpolyline([(0, 0), (100, 50), (100, 0), (0, 60)], close=True))
    _refused(crossing, out, "cannot be cut: The outline crosses itself.")
    six = {"thickness": "6mm"}
    _refused(plates_step, out, "larger than a plate", plate="100x70mm", quantity=["Foot=0"], **six)
    _refused(plates_step, out, "are 6, 10 mm thick")
    _refused(plates_step, out, "No part is 3 mm thick", thickness="3mm")
    _refused(plates_step, out, "every quantity is nought", quantity=["*=0"])
    _refused(plates_step, out, "No plate is named", plate="")
    _refused(plates_step, out, "leaves no plate", plates=0)
    _refused(plates_step, out, "is not a way to turn parts", turn="round")
    _refused(plates_step, out, "Rod is no flat plate", show=["Rod"])
    _refused(plates_step, out, "names no part", quantity=["Lid=2"], **six)
    _refused(plates_step, out, "is no quantity", quantity=["Lid"], **six)
    _refused(plates_step, out, "leaves nothing of a plate", edge="200mm")
    _refused(plates_step, out, "is not a length for --gap", gap="wide")
    _refused(plates_step, out, "kerf", kerf="25mm")
    _refused(plates_step, out.with_suffix(".png"), "is a picture")
    with pytest.raises(InputError, match="is not a file that a cutter takes"):
        run_file(str(plates_step), {}, silent)
    with pytest.raises(InputError, match="is not a corner"):
        run_file(str(open_), {"corner": "middle"}, silent)
    # and one as a person sees it: a line, and status 2
    run = skalto("cut", plates_step, "--out", out)
    assert (run.returncode, run.stderr) == (
        2,
        "No plate is named: write --plate 600x400mm, or --plate drawn where a drawing's outermost contour is it.\n",
    )


def test_a_kerf_that_swallows_a_hole_fails_and_says_which(tmp_path: Path) -> None:
    def draw(document: Any, space: Any) -> None:
        space.add_lwpolyline([(0, 0), (50, 0), (50, 30), (0, 30)], close=True)
        space.add_circle((20, 15), 0.4)

    source = dxf(tmp_path / "pin.dxf", draw)
    found = _cut(source, tmp_path / "x.pdf", plate="200x100mm", kerf="1mm", seconds=1)
    assert not found["holds"]
    told = [own["message"] for own in found["plates"][0]["findings"]]
    assert any("a hole of Ø0.8 mm is narrower than the kerf of 1 mm" in sentence for sentence in told)
    assert any("comes out" in sentence for sentence in told)


def test_the_cutter_says_why_it_refuses(skalto: Run, tmp_path: Path) -> None:
    def draw(document: Any, space: Any) -> None:
        space.add_lwpolyline([(0, 0), (900, 0), (900, 30), (0, 30)], close=True, dxfattribs={"layer": "cut"})

    source = dxf(tmp_path / "long.dxf", draw)
    run = skalto("cutter", source, "--bed", "610x305mm", "--material", "Acrylic")
    assert run.returncode == 1
    assert "larger than the bed of 610 × 305 mm" in run.stdout
    assert "Acrylic 3 mm" in run.stdout


def test_plates_in_one_file_keep_what_was_measured_of_each(tmp_path: Path) -> None:
    """What a page of a joined file was found to be is not lost in it, nor is it asked what is not asked of a plate."""
    found = _cut(_drawn(tmp_path), tmp_path / "p.pdf", plate="100x70mm", score=["fold"])
    assert [own["page"] for own in found["plates"]] == [1, 2]
    assert found["holds"]
    assert [f for own in found["plates"] for f in own["findings"]] == []

    def draw(document: Any, space: Any) -> None:
        for x in (0, 90):
            space.add_lwpolyline([(x, 0), (x + 80, 0), (x + 80, 50), (x, 50)], close=True)
            space.add_circle((x + 25, 25), 0.4)

    pins = _cut(dxf(tmp_path / "pins.dxf", draw), tmp_path / "q.pdf", plate="100x70mm", kerf="1mm")
    assert [own["page"] for own in pins["plates"]] == [1, 2]
    assert not pins["holds"]
    told = [f["message"] for own in pins["plates"] for f in own["findings"] if f["level"] == "error"]
    assert any("comes out" in sentence for sentence in told)


@pytest.mark.long
def test_the_same_seed_writes_the_same_plate(plates_step: Path, tmp_path: Path) -> None:
    rows = []
    for name in ("a.dxf", "b.dxf"):
        found = _cut(
            plates_step, tmp_path / name, thickness="6mm", quantity=["Foot=4"], seed=5, seconds=60, plate="200x150mm"
        )  # fmt: skip
        assert not found["timed"]
        rows.append(found["plates"][0]["placed"])
    assert rows[0] == rows[1]
