"""The command line's contract."""

from __future__ import annotations

import json
import subprocess
from collections.abc import Callable
from pathlib import Path

import pikepdf
import pytest

Run = Callable[..., subprocess.CompletedProcess[str]]


def test_tree_as_json(press_step: Path, skalto: Run) -> None:
    run = skalto("tree", press_step, "--json")
    assert run.returncode == 0
    tree = json.loads(run.stdout)
    assert tree["unit"] == "mm"
    assert tree["solids"] == 60
    assert tree["size"] == pytest.approx([462, 389, 320])
    (press,) = tree["components"]
    assert press["name"] == press["path"] == "Ebba press"
    assert press["shape"] is None
    frame = press["children"][0]
    left = next(c for c in frame["children"] if c["name"] == "Cheek, left")
    assert left["path"] == "Ebba press/Frame/Cheek, left"
    assert left["color"] == "#3f8573"
    assert left["size"] == pytest.approx([8, 220, 262])
    assert left["children"] == []


def test_tree_for_people(plate_step: Path, skalto: Run) -> None:
    run = skalto("tree", plate_step)
    assert "120 x 80 x 10 mm, 1 solids" in run.stdout


def test_export_takes_what_it_was_asked(press_step: Path, skalto: Run, tmp_path: Path) -> None:
    out = tmp_path / "cheek.pdf"
    run = skalto(
        "export", press_step, "--out", out, "--view", "left", "--view", "front", "--show", "cheek, left", "--scale", "1:2",
        "--paper", "A4", "--orientation", "portrait", "--lines", "visible+hidden", "--frame", "iso",
    )  # fmt: skip
    assert run.returncode == 0, run.stderr
    assert "holds" in run.stdout
    with pikepdf.open(out) as pdf:
        page = pdf.pages[0]
        assert [round(float(v), 2) for v in page.MediaBox] == [0, 0, 595.28, 841.89]
        assert [str(v.Name) for v in page.VP] == ["left", "front"]
        assert {str(v.Measure.R) for v in page.VP} == {"1:2"}
    report = json.loads(skalto("check", out, "--json").stdout)
    left, front = report["pages"][0]["views"]
    assert {r["expected_mm"] for r in left["readings"]} == {110, 131, 31}
    assert {r["expected_mm"] for r in front["readings"]} == {4, 131}


def test_largest_is_of_iso_5455_and_auto_turns_the_sheet(plate_step: Path, skalto: Run, tmp_path: Path) -> None:
    out = tmp_path / "plate.pdf"
    run = skalto("export", plate_step, "--out", out, "--view", "top", "--scale", "largest", "--paper", "A4")
    assert run.returncode == 0, run.stderr
    assert "A4, 2:1" in run.stdout  # 240 × 160 on 297 × 210; 5:1 would be 600 wide
    with pikepdf.open(out) as pdf:
        assert float(pdf.pages[0].MediaBox[2]) > float(pdf.pages[0].MediaBox[3])


def test_what_does_not_fit_is_refused_with_the_excess_unless_forced(plate_step: Path, skalto: Run, tmp_path: Path) -> None:
    out = tmp_path / "plate.pdf"
    arguments = ("export", plate_step, "--out", out, "--view", "top", "--scale", "2:1", "--paper", "200x170mm")
    run = skalto(*arguments)
    assert run.returncode == 2
    assert "40 mm too wide" in run.stderr
    assert not out.exists()
    forced = skalto(*arguments, "--force")
    assert forced.returncode == 0
    assert out.exists()
    assert "20.00 mm at the left" in forced.stdout


def test_an_exact_fit_fits(plate_step: Path, skalto: Run, tmp_path: Path) -> None:
    run = skalto("export", plate_step, "--out", tmp_path / "p.pdf", "--view", "top", "--paper", "120x80mm")
    assert run.returncode == 0, run.stderr


def test_check_fails_with_status_1(plate_step: Path, skalto: Run, tmp_path: Path) -> None:
    out = tmp_path / "plate.pdf"
    assert skalto("export", plate_step, "--out", out, "--view", "top").returncode == 0
    with pikepdf.open(out, allow_overwriting_input=True) as pdf:
        page = pdf.pages[0]
        page.Contents = pdf.make_stream(b"0.97 0 0 0.97 0 0 cm\n" + page.Contents.read_bytes())
        pdf.save(out)
    run = skalto("check", out)
    assert run.returncode == 1
    assert "does not hold" in run.stdout


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (("export", "PLATE"), "Missing option"),
        (("export", "PLATE", "--out", "x.docx"), "does not end in .pdf"),
        (("export", "PLATE", "--out", "/nowhere/x.pdf"), "no folder"),
        (("export", "PLATE", "--out", "x.pdf", "--view", "sideways"), "is not a view"),
        (("export", "PLATE", "--out", "x.pdf", "--scale", "huge"), "is not a scale"),
        (("export", "PLATE", "--out", "x.pdf", "--paper", "Z9"), "is not a sheet format"),
        (("export", "PLATE", "--out", "x.pdf", "--lines", "none"), "is not a choice of lines"),
        (("export", "PLATE", "--out", "x.pdf", "--orientation", "up"), "is not an orientation"),
        (("export", "PLATE", "--out", "x.pdf", "--hide", "*"), "No component is left"),
        (("export", "PLATE", "--out", "x.pdf", "--show", "gear"), "names no component"),
        (("tree", "missing.step"), "There is no file"),
        (("tree", "."), "is a folder"),
        (("check", "missing.pdf"), "There is no file"),
        (("frobnicate",), "No such command"),
    ],
)
def test_bad_requests_are_one_line_and_status_2(
    arguments: tuple[str, ...], words: str, plate_step: Path, skalto: Run, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(tmp_path)
    run = skalto(*(str(plate_step) if a == "PLATE" else a for a in arguments))
    assert run.returncode == 2
    assert words in run.stderr
    assert len(run.stderr.strip().splitlines()) == 1
    assert not list(tmp_path.glob("*.pdf"))
