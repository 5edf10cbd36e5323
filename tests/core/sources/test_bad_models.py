"""Bad input: one clear sentence, never a traceback."""

import re
import subprocess
from collections.abc import Callable
from pathlib import Path

import pytest
import trimesh
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder
from OCP.BRepTools import BRepTools
from OCP.TopTools import TopTools_FormatVersion

from skalto.core.errors import InputError
from skalto.core.sources.models.brep_text import check_brep
from skalto.core.sources.reading import check_size, odd_size, read_model
from tests.conftest import SAMPLES
from tests.core.sources.bad_models import BAD

# each command line run starts the kernel anew: half of the kinds, one of each format and fault
ON_THE_COMMAND_LINE = [
    "no model at all", "empty", "not STEP", "STEP cut short", "STEP without solids", "IGES cut short", "BREP cut short",
    "STL cut short", "glb cut short", "PLY cut short",
]  # fmt: skip


@pytest.mark.parametrize("kind", BAD)
def test_the_reader_says_what_is_wrong(kind: str, plate_step: Path, tmp_path: Path) -> None:
    make, words = BAD[kind]
    path = make(tmp_path, plate_step)
    with pytest.raises(InputError, match=words) as caught:
        read_model(path, path.name)
    assert "\n" not in str(caught.value)
    assert str(caught.value).startswith(path.name)


def test_a_file_over_the_limit() -> None:
    with pytest.raises(InputError, match="over the limit of 500 MB"):
        check_size("huge.step", 600_000_000)


@pytest.mark.long
@pytest.mark.parametrize("kind", ON_THE_COMMAND_LINE)
def test_the_command_line_says_so_in_one_line(
    kind: str, plate_step: Path, tmp_path: Path, skalto: Callable[..., subprocess.CompletedProcess[str]]
) -> None:
    make, words = BAD[kind]
    path = make(tmp_path, plate_step)
    out = tmp_path / "out.pdf"
    run = skalto("export", path, "--out", out)
    assert run.returncode == 2
    assert run.stdout == ""
    assert len(run.stderr.strip().splitlines()) == 1
    assert "Traceback" not in run.stderr
    assert any(word in run.stderr for word in words.split("|"))
    assert not out.exists()


def test_whole_brep_files_of_others_are_not_taken_for_damaged() -> None:
    """The kernel's own samples, from many releases of it."""
    samples = sorted((SAMPLES / "occ").glob("*.brep"))
    assert len(samples) > 20
    for sample in samples:
        check_brep(sample.read_bytes(), sample.name)


@pytest.mark.parametrize("meshed", [False, True], ids=["bare", "meshed"])
@pytest.mark.parametrize("version", TopTools_FormatVersion.__members__)
def test_every_version_of_brep_is_followed_to_its_end(version: str, meshed: bool, tmp_path: Path) -> None:
    shape = BRepPrimAPI_MakeCylinder(4, 5).Shape()
    if meshed:
        BRepMesh_IncrementalMesh(shape, 0.3)
    path = tmp_path / "roller.brep"
    BRepTools.Write_s(shape, str(path), meshed, meshed, TopTools_FormatVersion.__members__[version])
    check_brep(path.read_bytes(), path.name)
    assert len(read_model(path, path.name).shapes) == 1


@pytest.mark.parametrize(
    ("was", "put", "where"),
    [
        ("Curve2ds 6", "Curve2ds 7", "curves on faces"),
        ("Curves 3", "Curves 2", "polygons"),
        ("\n1 4 -9.7971743931788", "\n1 nan -9.7971743931788", "curves"),
        ("Surfaces 3", "Surfaces x", "surfaces"),
        ("1  1 0 0 6.28318530717959", "1  nan 0 0 6.28318530717959", "shapes"),
        ("1e-07 1 1 0", "1e-07 1 3 0", "shapes"),
        ("1  1 0 0 6.28318530717959", "1  1 0 0 6." + 40 * "3", "shapes"),
        ("0101101", "01a1101", "shapes"),
        ("+13 0 -13 0 *", "+14 0 -13 0 *", "shapes"),
        ("+13 0 -13 0 *", "+13 0 -13 0", "shapes"),
    ],
)
def test_brep_on_which_the_kernel_would_read_for_ever(was: str, put: str, where: str, tmp_path: Path) -> None:
    path = tmp_path / "roller.brep"
    BRepTools.Write_s(BRepPrimAPI_MakeCylinder(4, 5).Shape(), str(path))
    text = path.read_text()
    assert was in text
    with pytest.raises(InputError, match=f"damaged in its {where} and cannot be read"):
        check_brep(text.replace(was, put, 1).encode(), path.name)


@pytest.mark.parametrize(
    ("size", "told"),
    [
        (38_100.0, r"measures 38\.1 m\. .*\(then it is 1500 mm or 38\.1 mm\)"),
        (0.1, r"0\.1 mm\. .*2\.54 mm or 100 mm"),
        (20_000.0, ""),
        (0.5, ""),
        (0.0, ""),
    ],
)
def test_a_size_that_can_hardly_be_right_is_told(size: float, told: str) -> None:
    found = odd_size(size)
    assert bool(found) is bool(told)
    assert not told or re.search(told, found[0])


def test_a_hammer_of_38_metres_comes_in_with_a_word(tmp_path: Path) -> None:
    path = tmp_path / "hammer.stl"
    trimesh.creation.box((38_100, 9_000, 3_000)).export(path)
    assert "measures 38.1 m" in read_model(path, path.name).tree.lost[0]
