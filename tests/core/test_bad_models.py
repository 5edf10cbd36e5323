"""Bad input: one clear sentence, never a traceback."""

import subprocess
from collections.abc import Callable
from pathlib import Path

import pytest

from skalto.core.errors import InputError
from skalto.core.models.exchange import _check_brep_whole
from skalto.core.models.reading import check_size, read_model
from tests.conftest import SAMPLES
from tests.core.bad_models import BAD

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
        _check_brep_whole(sample, sample.name)
