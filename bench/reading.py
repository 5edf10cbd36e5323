"""Reading a STEP file, tree, colours and sizes and all, against the kernel's own read and transfer."""

from __future__ import annotations

import tempfile
from pathlib import Path

from OCP.STEPControl import STEPControl_Reader

from bench.clock import best_of, told
from skalto.core.models.reading import read_model
from skalto.demo.press import write_press

LIMIT = 1.3


def _kernel(path: Path) -> None:
    reader = STEPControl_Reader()
    reader.ReadFile(str(path))
    reader.TransferRoots()


def run() -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "Ebba.step"
        write_press(path)
        ours, reference = best_of(12, lambda: read_model(path, path.name), lambda: _kernel(path))
    told("read Ebba.step (60 components)", ours, reference, f"<= {LIMIT}", ours <= LIMIT * reference)
