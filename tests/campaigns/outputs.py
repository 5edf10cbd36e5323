"""Every output of the demo and of some thirty files, so that two versions of Skalto can be compared byte by byte.

``python -m tests.campaigns.outputs FOLDER`` writes them all; run it in the working trees of both versions, on the same day,
for sheets are dated. ``python -m tests.campaigns.outputs --compare BEFORE AFTER`` names what differs, and ends with status 1
where anything does.
"""

from __future__ import annotations

import argparse
import os
import re
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import httpx

from skalto.demo.press import write_press
from skalto.demo.workshop import write_workshop
from tests.conftest import SAMPLES, Running, plate_with_holes, write_step
from tests.core.modelled import pin_in_plate
from tests.reference import drawn_kinds, pdf_kinds, svg_kinds

Case = tuple[str, str, tuple[str, ...]]
"""The file to bring in, the suffix to write, and the options."""

_ROW = ("--view", "front,top,left", "--arrangement", "first", "--paper", "A2", "--scale", "largest", "--frame", "iso")
_MODELS: tuple[tuple[str, str, tuple[str, ...]], ...] = (
    ("plate.step", ".pdf", ("--view", "top", "--paper", "A3", "--frame", "iso", "--dims", "overall")),
    ("plate.step", ".dxf", ("--view", "top", "--recipe", "cutter")),
    ("plate.step", ".svg", ("--view", "top", "--recipe", "cutter", "--paper", "140x100mm", "--margin", "0")),
    (
        "plate.step",
        ".pdf",
        ("--view", "iso", "--archive", "--text", "outlines", "--frame", "iso", "--title", "title=Bed plate"),
    ),
    ("pin.step", ".pdf", ("--view", "iso", "--lines", "visible+hidden", "--color", "gray")),
    ("pin.step", ".pdf", ("--view", "front", "--hidden-lines", "kernel")),
    ("Ebba.step", ".pdf", (*_ROW, "--parts-list")),
    ("Ebba.step", ".dxf", _ROW),
    ("Ebba.step", ".svg", _ROW),
    ("Ebba.step", ".png", ("--view", "iso", "--scale", "1:5", "--dpi", "150")),
    ("Ebba.step", ".pdf", ("--3d", "page", "--quality", "draft")),
    ("Ebba.step", ".pdf", ("--3d", "field", "--quality", "draft", "--scale", "1:10", "--view", "front")),
)
_SAMPLES = ("screw.step", "linkrods.step", "hammer.iges", "face1.brep", "Ball.brep", "sh1.stl")
_DRAWN = (".pdf", ".dxf", ".svg")
_SETTLED = os.environ | {"PYTHONHASHSEED": "0"}
"""Sets come in one order."""


def _inputs(folder: Path) -> Iterator[Case]:
    """Make the files, and say what is written of each."""
    write_step(plate_with_holes(), folder / "plate.step")
    write_step(pin_in_plate(0.0), folder / "pin.step")
    write_press(folder / "Ebba.step")
    write_workshop(str(folder / "workshop.dxf"))
    yield from _MODELS
    for name in _SAMPLES:
        found = sorted(SAMPLES.rglob(name))
        if found:
            shutil.copy(found[0], folder / name)
            yield name, ".pdf", ("--view", "iso", "--scale", "largest", "--force")
    yield "workshop.dxf", ".pdf", ("--paper", "A1", "--scale", "1:50", "--frame", "iso")
    for number, kind in enumerate(drawn_kinds.KINDS):
        own = folder / f"own-{number}"
        own.mkdir()
        name = f"{number:02d} {_plain(kind)}.dxf"
        drawn_kinds.build(kind, own).rename(folder / name)
        yield name, _DRAWN[number % 3], ("--paper", "A3", "--force")
    for number, (kind, body) in enumerate(svg_kinds.KINDS.items()):
        if number % 6 == 0:
            name = f"{_plain(kind)}.svg"
            (folder / name).write_text(svg_kinds.document(body))
            yield name, _DRAWN[number // 6 % 3], ("--paper", "A4", "--force")
    for number, kind in enumerate(pdf_kinds.KINDS):
        if number % 3 == 0:
            name = f"{_plain(kind)}.pdf"
            (folder / name).write_bytes(pdf_kinds.page(kind))
            yield name, _DRAWN[number // 3 % 3], ("--paper", "A4", "--units", "mm", "--force")


def _plain(kind: str) -> str:
    return re.sub(r"[^a-z]+", "-", kind.lower()).strip("-")


def write_by_command(out: Path) -> None:
    """The command line's outputs; what it printed stands beside each."""
    out.mkdir(parents=True)
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        cases = list(_inputs(folder))

        def run(numbered: tuple[int, Case]) -> None:
            number, (source, suffix, options) = numbered
            target = f"{number:02d} {Path(source).stem}{suffix}"
            command = [str(Path(sys.executable).parent / "skalto"), "export", source, "--out", target, "--overwrite", *options]
            ran = subprocess.run(command, cwd=folder, capture_output=True, text=True, check=False, env=_SETTLED)
            (out / f"{target}.txt").write_text(f"{ran.returncode}\n{ran.stdout}{ran.stderr}")
            if (folder / target).exists():
                shutil.copy(folder / target, out / target)

        with ThreadPoolExecutor(2) as pool:
            list(pool.map(run, enumerate(cases)))


def _wait(ask: Callable[[], Any], seconds: float = 300) -> Any:
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        if found := ask():
            return found
        time.sleep(0.2)
    raise SystemExit("The server did not come to an end.")


def write_by_server(out: Path) -> None:
    """The demo's outputs as the page asks for them: each sheet's proof, drawings and pictures, the whole job, an issue."""
    out.mkdir(parents=True)
    with tempfile.TemporaryDirectory() as name:
        server = Running(Path(name) / "data", "--demo", PYTHONHASHSEED="0")
        try:
            _of_jobs(server.client, out)
        finally:
            server.interrupt()


def _ids(value: Any) -> Iterator[str]:
    """All ids in a job document, in their order."""
    if isinstance(value, dict):
        if isinstance(value.get("id"), str):
            yield value["id"]
        for own in value.values():
            yield from _ids(own)
    elif isinstance(value, list):
        for own in value:
            yield from _ids(own)


def _of_jobs(client: httpx.Client, out: Path) -> None:
    _wait(lambda: not client.get("/api/preparing").json()["text"] and len(client.get("/api/jobs").json()) > 1)
    for job in client.get("/api/jobs").json():
        base = f"/api/jobs/{job['id']}"
        document = client.get(base).json()["document"]
        # the demo's ids are drawn by lot: they are numbered here
        numbers = {own: f"{n:0{len(own)}d}" for n, own in enumerate(_ids(document))}

        def keep(name: str, answer: httpx.Response, numbers: dict[str, str] = numbers) -> None:
            data = answer.raise_for_status().content
            for own, number in numbers.items():
                data = data.replace(own.encode(), number.encode())
            (out / name).write_bytes(data)

        for sheet in document["sheets"]:
            own = f"{base}/sheets/{sheet['id']}"
            label = f"{job['id']} {_plain(sheet['name'])}"
            _wait(lambda own=own: client.post(f"{own}/proof").json()["ready"])
            keep(f"{label}.pdf", client.get(f"{own}/proof.pdf"))
            keep(f"{label}.json", client.get(f"{own}/proof"))
            keep(f"{label}.writing.json", client.get(f"{own}/writing"))
            for suffix in ("dxf", "svg"):
                address = f"{own}/artwork?suffix={suffix}"
                if client.post(address).status_code < 300:
                    _wait(lambda address=address: client.post(address).json()["ready"])
                    keep(f"{label}.{suffix}", client.get(address))
        _wait(lambda base=base: client.post(f"{base}/whole").json()["ready"])
        keep(f"{job['id']} whole.pdf", client.get(f"{base}/whole.pdf"))


_TIMES = (
    (".pdf", rb"/ID \[<[0-9a-fA-F]*><[0-9a-fA-F]*>\]"),
    (".pdf", rb"\(D:[0-9]{14}[^)]*\)"),
    (".pdf", rb"[0-9]{4}-[0-9]{2}-[0-9]{2}T[0-9:]{8}[^<]*"),
    (".dxf", rb"\$TD[A-Z]+\n *40\n[0-9.]+"),
    (".dxf", rb"\{[0-9A-F-]{36}\}"),
    (".dxf", rb"[0-9]{4}-[0-9]{2}-[0-9]{2}T[0-9:.+]+"),
)
"""What says when a file was made, by the ending of its name."""


def _timeless(path: Path) -> bytes:
    data = path.read_bytes()
    for suffix, pattern in _TIMES:
        if path.suffix == suffix:
            data = re.sub(pattern, b"", data)
    return data


def compare(before: Path, after: Path) -> list[str]:
    """What differs between two folders of outputs but for when each was made, in words."""
    names = sorted(
        {path.relative_to(root).as_posix() for root in (before, after) for path in root.rglob("*") if path.is_file()}
    )
    found = []
    for name in names:
        a, b = before / name, after / name
        if not a.exists() or not b.exists():
            found.append(f"{name}: only {'before' if a.exists() else 'after'}")
        elif _timeless(a) != _timeless(b):
            found.append(f"{name}: {a.stat().st_size} bytes before, {b.stat().st_size} after")
    return found


def main() -> None:
    parser = argparse.ArgumentParser(description="Write all outputs, or compare those of two versions.")
    parser.add_argument("folder", type=Path, nargs="?")
    parser.add_argument("--compare", type=Path, nargs=2, metavar=("BEFORE", "AFTER"))
    parser.add_argument("--only", choices=("command", "server"))
    chosen = parser.parse_args()
    if chosen.compare:
        found = compare(*chosen.compare)
        print("\n".join(found) or "all the same")
        raise SystemExit(1 if found else 0)
    if chosen.folder is None:
        parser.error("name a folder to write to, or two to compare")
    if chosen.only != "server":
        write_by_command(chosen.folder / "command")
    if chosen.only != "command":
        write_by_server(chosen.folder / "server")
    print(sum(path.is_file() for path in chosen.folder.rglob("*")), "files")


if __name__ == "__main__":
    main()
