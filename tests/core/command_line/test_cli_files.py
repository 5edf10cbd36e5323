"""What the command line does to files that are there, and how it ends."""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path

import psutil
import pytest

from skalto.core.errors import InputError
from skalto.services.commands.files_out import FilesOut
from tests.conftest import Ran

DRAWING = '<svg xmlns="http://www.w3.org/2000/svg" width="20mm" height="20mm"><path d="M1 1H19V19H1Z"/></svg>'
SKALTO = str(Path(sys.executable).parent / "skalto")


@pytest.fixture
def drawing(tmp_path: Path) -> Path:
    path = tmp_path / "part.svg"
    path.write_text(DRAWING)
    return path


def test_a_source_is_never_replaced(drawing: Path, skalto_here: Ran) -> None:
    folder = drawing.parent
    link, hard, way = folder / "link.svg", folder / "hard.svg", folder / "sub" / ".." / "part.svg"
    link.symlink_to(drawing)
    os.link(drawing, hard)
    (folder / "sub").mkdir()
    for out in (drawing, link, hard, way):
        for more in ((), ("--overwrite",)):
            status, _, told = skalto_here("export", drawing, "--out", out, *more)
            assert status == 2
            assert "never replaced" in told
    status, _, told = skalto_here("cut", drawing, "--plate", "60x60mm", "--out", drawing, "--overwrite")
    assert (status, "never replaced" in told) == (2, True)
    assert drawing.read_text() == DRAWING


def test_a_page_that_is_put_onto_is_a_source(drawing: Path, skalto_here: Ran) -> None:
    page = drawing.parent / "page.pdf"
    assert skalto_here("export", drawing, "--out", page, "--paper", "A4")[0] == 0
    before = page.read_bytes()
    at = ("--onto", page, "--at", "10,10,40,40", "--overwrite")
    status, _, told = skalto_here("export", drawing, *at, "--out", page)
    assert (status, "never replaced" in told, page.read_bytes() == before) == (2, True, True)


@pytest.mark.parametrize("command", ["export", "cut", "job", "pack", "parts", "u3d", "unfold"])
def test_what_is_there_is_replaced_only_when_asked(
    command: str, drawing: Path, plate_step: Path, job_file: Path, skalto_here: Ran, tmp_path: Path
) -> None:
    out = tmp_path / {"parts": "list.csv", "u3d": "model.glb", "unfold": "flat.dxf"}.get(command, "out.pdf")
    out.write_text("mine")
    arguments: dict[str, tuple[str | Path, ...]] = {
        "export": ("export", drawing, "--out", out),
        "cut": ("cut", drawing, "--plate", "60x60mm", "--seconds", "0.1", "--out", out),
        "job": ("job", "export", job_file, "--out", out),
        "pack": ("pack", job_file, "--pack", "Shop", "--out", out),
        "parts": ("parts", plate_step, "--csv", out),
        "u3d": ("u3d", plate_step, "--out", out),
        "unfold": ("unfold", plate_step, "--out", out),
    }
    status, _, told = skalto_here(*arguments[command])
    assert (status, out.read_text()) == (2, "mine")
    assert told.strip() == f"{out} is there already: give another name, or --overwrite to replace it."
    if command == "unfold":
        # a plate of this thickness is no sheet: nothing is written, and what is there stays
        return
    status, said, told = skalto_here(*arguments[command], "--overwrite")
    assert status == 0, told
    assert f"info: {out} was there, and is replaced." in said
    assert out.read_bytes()[:4] != b"mine"
    # nothing is left beside
    assert not [path for path in tmp_path.iterdir() if path.name.endswith(".part")]


@pytest.fixture
def job_file(drawing: Path, plate_step: Path) -> Path:
    """A job with a sheet and a pack, its source beside it."""
    from skalto.core.job import JobDocument
    from skalto.core.packs import Pack
    from skalto.core.sheets.content import ProjectionContent
    from skalto.core.sheets.sheet import SheetSpec, ViewSpec
    from skalto.core.sources.section import SourceRef
    from skalto.services.stored.jobfile import JobFile, SourceFile
    from skalto.store.blobs import content_hash

    folder = drawing.parent / "job"
    folder.mkdir()
    shutil.copy(plate_step, folder / "plate.step")
    source = content_hash(plate_step.read_bytes())
    content = ProjectionContent(look=(0, 0, -1), up=(0, 1, 0))
    view = ViewSpec(id="v", source=source, name="Top", content=content, place=(100, 100))
    document = JobDocument(
        name="Plate", sources=(SourceRef(id=source, name="plate.step", size=1),),
        sheets=(SheetSpec(id="s", name="One", views=(view,)),), packs=(Pack(id="shop", name="Shop", sheets=("s",)),),
    )  # fmt: skip
    path = folder / "Plate.skalto.json"
    file = JobFile(document=document, sources=(SourceFile(id=source, name="plate.step", file="plate.step"),))
    path.write_text(file.model_dump_json())
    return path


def test_a_job_s_sources_are_never_replaced(job_file: Path, skalto_here: Ran) -> None:
    source = job_file.parent / "plate.step"
    other = job_file.parent / "out.pdf"
    os.link(source, other)
    status, _, told = skalto_here("job", "export", job_file, "--out", other, "--overwrite")
    assert (status, "never replaced" in told) == (2, True)
    assert source.read_bytes() == other.read_bytes()


def test_files_are_written_all_or_none_and_whole(tmp_path: Path) -> None:
    source = tmp_path / "a.step"
    source.write_text("source")
    (tmp_path / "two.dxf").write_text("mine")
    files = FilesOut(False, [source])
    files.add(tmp_path / "one.dxf", b"1")
    with pytest.raises(InputError, match="there already"):
        files.add(tmp_path / "two.dxf", b"2")
    files.add(tmp_path / "three.dxf", b"3")
    # one that came meanwhile
    (tmp_path / "three.dxf").write_text("meanwhile")
    with pytest.raises(InputError, match=r"three\.dxf is there already"):
        files.write()
    assert not (tmp_path / "one.dxf").exists()
    assert (tmp_path / "three.dxf").read_text() == "meanwhile"
    # a name that leads nowhere is taken, too; one that leads somewhere goes on leading there
    (tmp_path / "nowhere.dxf").symlink_to(tmp_path / "none")
    with pytest.raises(InputError, match="there already"):
        files.check(tmp_path / "nowhere.dxf")
    (tmp_path / "link.dxf").symlink_to(tmp_path / "two.dxf")
    (tmp_path / "two.dxf").chmod(0o640)
    over = FilesOut(True, [source])
    over.add(tmp_path / "link.dxf", b"new")
    assert over.write() == [f"{tmp_path / 'link.dxf'} was there, and is replaced."]
    assert (tmp_path / "link.dxf").is_symlink()
    assert ((tmp_path / "two.dxf").read_bytes(), (tmp_path / "two.dxf").stat().st_mode & 0o777) == (b"new", 0o640)
    over.add(tmp_path / "no" / "x.dxf", b"")
    with pytest.raises(InputError, match=r"cannot be written: No such file"):
        over.write()


def test_an_interruption_is_no_success(press_step: Path, tmp_path: Path) -> None:
    """Ctrl-C reaches the whole group of processes, as it does in a terminal."""
    out = tmp_path / "x.pdf"
    run = subprocess.Popen(
        [SKALTO, "export", str(press_step), "--out", str(out), "--scale", "1:2", "--view", "front,top,left,iso",
         "--hidden-lines", "kernel"],
        start_new_session=True, stderr=subprocess.PIPE, text=True,
    )  # fmt: skip
    # while the work is under way in a process of its own, which takes many seconds that way
    end = time.monotonic() + 20
    while not psutil.Process(run.pid).children(recursive=True):
        assert time.monotonic() < end
        time.sleep(0.05)
    time.sleep(1.5)
    os.killpg(run.pid, signal.SIGINT)
    _, told = run.communicate(timeout=30)
    assert (run.returncode, told) == (130, "Cancelled.\n")
    assert list(tmp_path.iterdir()) == []


def test_output_that_cannot_be_printed_is_said(drawing: Path) -> None:
    with open("/dev/full", "w") as full:
        run = subprocess.run([SKALTO, "layers", str(drawing)], stdout=full, stderr=subprocess.PIPE, text=True, timeout=60)
    assert (run.returncode, run.stderr) == (2, "What was found cannot be printed: No space left on device.\n")
    # nobody reads on
    head = subprocess.run(f"{SKALTO} layers {drawing} | true; echo ${{PIPESTATUS[0]}}", shell=True, executable="/bin/bash",
                          capture_output=True, text=True, timeout=60)  # fmt: skip
    assert (head.stdout, head.stderr) == ("141\n", "")
    # closed: what is written goes into its file all the same, and nothing else does
    out = drawing.parent / "closed.svg"
    command = f"{SKALTO} export {drawing} --out {out} --paper A4 >&-"
    closed = subprocess.run(command, shell=True, stderr=subprocess.PIPE, text=True, timeout=60)
    assert (closed.returncode, closed.stderr) == (0, "")
    assert out.read_text().startswith("<?xml")


def test_names_that_are_no_text(drawing: Path) -> None:
    odd = os.fsencode(drawing.parent) + b"/w\xff.svg"
    Path(os.fsdecode(odd)).write_text(DRAWING)
    run = subprocess.run([SKALTO, b"export", odd, b"--out", odd + b".pdf", b"--paper", b"A4"], capture_output=True, timeout=60)
    assert run.returncode == 0, run.stderr
    assert Path(os.fsdecode(odd + b".pdf")).read_bytes().startswith(b"%PDF")
    lacking = subprocess.run([SKALTO, b"tree", b"no\xff.step"], capture_output=True, timeout=60)
    assert (lacking.returncode, lacking.stderr.count(b"\n"), b"Traceback" in lacking.stderr) == (2, 1, False)
