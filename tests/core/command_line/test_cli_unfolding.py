"""``skalto unfold``: from a STEP to flat patterns, and the bad cases, each with its sentence."""

from __future__ import annotations

import json
import math
import subprocess
from collections.abc import Callable
from pathlib import Path
from typing import Any

import ezdxf
import pytest

from skalto.core.errors import InputError
from skalto.core.progress import silent
from skalto.core.recipes import SHIPPED_RECIPES, recipe_to_json
from skalto.core.sheet_metal.flat_writing import FlatWriting, LineKind, LineWriting, OtherSide, Version
from skalto.demo.folded import Flat, Turn, folded
from skalto.demo.solids import block, cut, cylinder
from skalto.services.commands.unfolding import unfold_file
from tests.core.modelled import write_assembly
from tests.core.sheet_metal.shapes import cone, rod

Run = Callable[..., subprocess.CompletedProcess[str]]


@pytest.fixture(scope="module")
def parts_step(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """An angle of 2 mm with a hole and a countersunk one, a plate, a block."""
    folder = tmp_path_factory.mktemp("sheet")
    angle = cut(
        folded([Flat(50), Turn(90, 2), Flat(30)], 2, 100), rod((20, -5, 50), (0, 1, 0), 10, 20),
        rod((20, -5, 80), (0, 1, 0), 5, 20), cone((20, 0, 80), (0, 1, 0), 9, 7, 1),
    )  # fmt: skip
    parts = {"Angle": angle, "Plate": cut(block(120, 80, 3), cylinder(20, 20, (0, 0, -5))), "Lump": block(20, 20, 20)}
    return write_assembly(parts, folder / "parts.step")


def _unfold(path: Path, out: Path, **options: Any) -> dict[str, Any]:
    return unfold_file(str(path), str(out), options, True, silent)


@pytest.mark.parametrize(
    ("options", "allowance"),
    [
        ({}, math.pi / 2 * (2 + 0.44 * 2)),
        ({"k": 0.3}, math.pi / 2 * (2 + 0.3 * 2)),
        ({"rule": "din6935"}, math.pi / 2 * (2 + 0.325 * 2)),
        ({"deduction": "3.2mm"}, 8 - 3.2),
    ],
)
def test_the_rule_is_chosen(options: dict[str, Any], allowance: float, parts_step: Path, tmp_path: Path) -> None:
    found = _unfold(parts_step, tmp_path / "angle.dxf", component=["Angle"], **options)
    (row,) = found["parts"]
    assert (row["kind"], row["thickness"]) == ("bent sheet", 2)
    assert (row["length"], row["width"]) == pytest.approx((100, 80 + allowance))
    assert row["bends"][0]["allowance"] == pytest.approx(allowance, abs=1e-6)
    assert row["bends"][0]["deduction"] == pytest.approx(8 - allowance, abs=1e-6)
    assert sorted(hole["diameter"] for hole in row["holes"]) == pytest.approx([5, 10])
    assert row["refolded_um"] <= 2
    assert found["holds"]
    outline = next(e for e in ezdxf.readfile(tmp_path / "angle.dxf").modelspace() if e.dxf.layer == "outline")
    points = [tuple(row[:2]) for row in outline.get_points()]
    assert max(x for x, _ in points) == pytest.approx(100, abs=1e-6)
    assert max(y for _, y in points) == pytest.approx(80 + allowance, abs=1e-6)


@pytest.mark.long
def test_a_folder_takes_a_file_for_each_part(parts_step: Path, skalto: Run, tmp_path: Path) -> None:
    run = skalto("unfold", parts_step, "--out", tmp_path / "flat", "--json")
    assert run.returncode == 0, run.stdout + run.stderr
    rows = {row["part"]: row for row in json.loads(run.stdout)["parts"]}
    assert sorted(path.name for path in (tmp_path / "flat").iterdir()) == ["Angle.dxf", "Plate.dxf"]
    assert rows["Plate"]["kind"] == "flat plate"
    assert rows["Plate"]["area"] == pytest.approx(120 * 80 - 100 * math.pi)
    assert rows["Lump"]["kind"] in ("no sheet", "tube or profile")
    assert rows["Lump"]["reason"].endswith(".")
    assert rows["Angle"]["features"] == [{"kind": "countersink", "side": "b"}]


def test_a_recipe_says_how_files_are_written(parts_step: Path, tmp_path: Path) -> None:
    lines = {LineKind.OUTER: LineWriting(layer="KONTUR", colour=1)}
    writing = FlatWriting(version=Version.R12, lines=lines, other_side=OtherSide.NEEDED)
    recipe = SHIPPED_RECIPES[0].model_copy(update={"id": "house", "name": "House", "flat": writing})
    (tmp_path / "house.json").write_bytes(recipe_to_json(recipe))
    found = _unfold(parts_step, tmp_path / "out", recipe=str(tmp_path / "house.json"))
    files = {Path(name).name for row in found["parts"] for name in row["files"]}
    assert files == {"Angle.dxf", "Angle-side-b.dxf", "Plate.dxf"}
    document = ezdxf.readfile(tmp_path / "out" / "Angle.dxf")
    assert document.acad_release == "R12"
    assert "KONTUR" in {e.dxf.layer for e in document.modelspace()}


def test_a_table_is_read_from_csv(parts_step: Path, tmp_path: Path) -> None:
    table = tmp_path / "shop.csv"
    table.write_text("material,thickness,radius,angle,deduction\n,2,2,90,3.5\n")
    found = _unfold(parts_step, tmp_path / "a.dxf", component=["Angle"], table=str(table))
    assert found["parts"][0]["bends"][0]["deduction"] == pytest.approx(3.5)


@pytest.mark.parametrize(
    ("options", "told"),
    [
        ({"component": ["Lump"]}, "Lump has no flat pattern"),
        ({"component": ["Nobody"]}, "no component"),
        ({"k": 1.5}, "outside the sheet"),
        ({"k": 0.4, "deduction": "3mm"}, "two rules"),
        ({"rule": "din1234"}, "not a bend rule"),
        ({"deduction": "long"}, "not a length"),
        ({"table": "/nowhere.csv"}, "cannot be read"),
        ({"curves": "wavy"}, "splines, arcs, lines"),
        ({"tolerance": "5mm"}, "1mm or less"),
        ({"side": "c"}, "--side a"),
        ({"recipe": "nobody"}, "not a recipe"),
        ({}, "name a folder"),
    ],
)
def test_what_cannot_be_is_told(options: dict[str, Any], told: str, parts_step: Path, tmp_path: Path) -> None:
    with pytest.raises(InputError, match=told):
        _unfold(parts_step, tmp_path / "out.dxf", **options)
    assert not (tmp_path / "out.dxf").exists()


@pytest.mark.long
def test_no_sheet_ends_with_two(parts_step: Path, skalto: Run, tmp_path: Path) -> None:
    run = skalto("unfold", parts_step, "--component", "Lump", "--out", tmp_path / "x.dxf")
    assert run.returncode == 2
    assert run.stderr.count("\n") == 1
    assert "Lump has no flat pattern" in run.stderr
