"""The command line's contract."""

from __future__ import annotations

import io
import json
import subprocess
import zipfile
from collections.abc import Callable
from pathlib import Path

import pikepdf
import pytest
import trimesh
from pdfminer.high_level import extract_text

from skalto.core.job import JobDocument
from skalto.core.quantities import Scale
from skalto.core.sheets.content import ProjectionContent
from skalto.core.sheets.sheet import SheetSpec, ViewSpec
from skalto.core.sources.section import SourceRef
from skalto.store.blobs import content_hash
from tests.conftest import Ran, write_step
from tests.core.modelled import pin_in_plate
from tests.saved import packed_job

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


@pytest.mark.long
def test_export_takes_what_it_was_asked(press_step: Path, skalto: Run, tmp_path: Path) -> None:
    out = tmp_path / "cheek.pdf"
    run = skalto(
        "export", press_step, "--out", out, "--view", "left", "--view", "front", "--show", "cheek, left", "--scale", "1:2",
        "--paper", "A4", "--orientation", "portrait", "--lines", "visible+hidden", "--frame", "iso",
    )  # fmt: skip
    assert run.returncode == 0, run.stderr
    assert "passes" in run.stdout
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
    assert "fails" in run.stdout


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
    arguments: tuple[str, ...], words: str, plate_step: Path, skalto_here: Ran, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(tmp_path)
    status, _, told = skalto_here(*(str(plate_step) if a == "PLATE" else a for a in arguments))
    assert status == 2
    assert words in told
    assert len(told.strip().splitlines()) == 1
    assert not list(tmp_path.glob("*.pdf"))


def test_a_family_with_all_that_a_shop_needs(press_step: Path, skalto: Run, tmp_path: Path) -> None:
    out = tmp_path / "tray.pdf"
    run = skalto(
        "export", press_step, "--out", out, "--view", "front,top,left", "--arrangement", "third", "--paper", "A2",
        "--show", "*/Inking", "--frame", "iso", "--dims", "overall", "--parts-list", "--title", "owner=Verkstan",
        "--title", "number=EB-114", "--scale", "1:1",
    )  # fmt: skip
    assert run.returncode == 0, run.stderr
    found = extract_text(out)
    assert {"Verkstan", "EB-114", "230", "Cap screw M5x16", "Steel 8.8"} <= set(found.split("\n"))
    assert "Item" in found
    with pikepdf.open(out) as pdf:
        boxes = {str(v.Name): [float(n) * 25.4 / 72 for n in v.BBox] for v in pdf.pages[0].VP}
    # third angle: from above lies above, from the left at the left, all in line
    assert boxes["top"][1] > boxes["front"][3]
    assert boxes["top"][::2] == pytest.approx(boxes["front"][::2], abs=0.01)
    assert boxes["left"][2] < boxes["front"][0]
    assert boxes["left"][1::2] == pytest.approx(boxes["front"][1::2], abs=0.01)


def test_margins_and_refusals_of_the_new_options(plate_step: Path, skalto_here: Ran, tmp_path: Path) -> None:
    out = tmp_path / "plate.pdf"
    common = ("export", plate_step, "--out", out, "--view", "top")
    assert skalto_here(*common, "--paper", "120x80", "--margin", "0")[0] == 0
    status, _, told = skalto_here(*common, "--overwrite", "--paper", "120x80", "--margin", "1mm")
    assert status == 2
    assert "2 mm too wide" in told
    for options, words in (
        (("--title", "colour=red"), "is not a title field"),
        (("--arrangement", "second"), "write first or third"),
        (("--dims", "some"), "overall or none"),
        (("--margin", "1,2"), "is not a margin"),
        (("--frame", "din"), "din"),
    ):
        status, _, told = skalto_here(*common, "--overwrite", *options)
        assert status == 2
        assert words in told
        assert len(told.strip().splitlines()) == 1


def test_the_kernel_s_hidden_lines_can_be_asked_for(skalto_here: Ran, tmp_path: Path) -> None:
    """A pin in a hole of its own size: the kernel draws the rim behind it, and is told of it."""
    pin = write_step(pin_in_plate(0.0), tmp_path / "pin.step")
    code, said, _ = skalto_here("export", pin, "--view", "iso", "--out", tmp_path / "facets.pdf")
    assert code == 0, said
    code, said, _ = skalto_here("export", pin, "--view", "iso", "--hidden-lines", "kernel", "--out", tmp_path / "kernel.pdf")
    assert code == 1
    assert "are drawn as seen, and hidden by what lies in front" in said
    drawing = tmp_path / "a.svg"
    drawing.write_text('<svg xmlns="http://www.w3.org/2000/svg" width="20mm" height="20mm"><path d="M0 0L9 9"/></svg>')
    code, _, said = skalto_here("export", drawing, "--hidden-lines", "kernel", "--out", tmp_path / "b.pdf")
    assert (code, "--hidden-lines is for models" in said) == (2, True)
    mesh = tmp_path / "box.stl"
    trimesh.creation.box((10, 10, 10)).export(mesh)
    code, _, said = skalto_here("export", mesh, "--hidden-lines", "kernel", "--out", tmp_path / "b.pdf")
    assert (code, "is for solids" in said) == (2, True)


@pytest.mark.long
def test_a_job_file_goes_out_whole(plate_step: Path, skalto: Run, tmp_path: Path) -> None:
    data = plate_step.read_bytes()
    source = content_hash(data)
    view = ViewSpec(
        id="v", source=source, name="top", content=ProjectionContent(look=(0, 0, -1), up=(0, 1, 0)), place=(150, 150)
    )
    sheets = (
        SheetSpec(id="a", name="First", views=(view,)),
        SheetSpec(id="b", name="Empty"),
        SheetSpec(
            id="c",
            name="Second",
            format="A4",
            scale=Scale(1, 2),
            views=(view.model_copy(update={"id": "w", "scale": Scale(1, 2)}),),
        ),
    )
    document = JobDocument(name="Plates", sources=(SourceRef(id=source, name="plate.step", size=len(data)),), sheets=sheets)
    _, archive = packed_job(document, "0042", {source: data})
    with zipfile.ZipFile(io.BytesIO(archive)) as packed:
        packed.extractall(tmp_path)
    (path,) = tmp_path.glob("*.skalto.json")
    out = tmp_path / "out.pdf"
    run = skalto("job", "export", path, "--out", out)
    assert run.returncode == 0, run.stderr
    with pikepdf.open(out) as pdf:
        assert [round(float(p.MediaBox[2]) * 25.4 / 72) for p in pdf.pages] == [420, 297]
    assert "0042-03" in extract_text(out)
    held = next((tmp_path / "sources").iterdir())
    held.write_bytes(data + b" ")
    run = skalto("job", "export", path, "--out", out)
    assert (run.returncode, "has changed since" in run.stderr) == (2, True)
    held.unlink()
    assert "is missing" in skalto("job", "export", path, "--out", out).stderr
    path.write_text("{}")
    assert "is not a job file" in skalto("job", "export", path, "--out", out).stderr


@pytest.mark.parametrize(
    ("arguments", "kind"),
    [
        (("tree", "plate.step"), "reading"),
        (("layers", "plan.dxf"), "reading"),
        (("check", "plan.pdf"), "reading"),
        (("export", "plate.step", "--out", "out.pdf"), "writing"),
        (("u3d", "plate.step", "--out", "out.glb"), "scene"),
    ],
)
def test_work_is_limited_by_its_kind(
    arguments: tuple[str, ...], kind: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Reading has five minutes, writing half an hour."""
    from skalto import cli
    from skalto.core.errors import InputError
    from skalto.jobs.child import Child

    monkeypatch.chdir(tmp_path)
    Path(arguments[1]).write_text("x")
    asked: list[str] = []

    def run(self: Child, name: str, own: object, report: object, cancelled: object, kind: str = "looking") -> object:
        asked.append(kind)
        raise InputError("enough")

    monkeypatch.setattr(Child, "run", run)
    monkeypatch.setattr("sys.argv", ["skalto", *arguments])
    with pytest.raises(SystemExit):
        cli.main()
    assert asked == [kind]
