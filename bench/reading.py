"""Reading a STEP file, tree, colours and sizes and all, against the kernel's own read and transfer; and a DXF drawing of many
entities, against the same with every entity read by ezdxf."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path
from unittest import mock

from OCP.STEPControl import STEPControl_Reader

from bench.clock import best_of, told
from bench.drawing import ENTITIES, many_entities
from skalto.core.sources.drawings.dxf import loading
from skalto.core.sources.drawings.dxf.reading import read_dxf
from skalto.core.sources.reading import read_model
from skalto.demo.press import write_press

LIMIT = 1.1
DXF_SHARE, DXF_SECONDS = 4 / 15, 4.0


def _kernel(path: Path) -> None:
    reader = STEPControl_Reader()
    reader.ReadFile(str(path))
    reader.TransferRoots()


def _dxf(path: Path) -> float:
    begun = time.perf_counter()
    read_dxf(path, path.name, lambda share, text: None)
    return time.perf_counter() - begun


def run() -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "Ebba.step"
        write_press(path)
        ours, reference = best_of(12, lambda: read_model(path, path.name), lambda: _kernel(path))
        told("read Ebba.step (60 components)", ours, reference, f"<= {LIMIT}", ours <= LIMIT * reference)
        drawing = Path(folder) / "many.dxf"
        many_entities(drawing)
        ours = min(_dxf(drawing) for _ in range(2))
        with mock.patch.object(loading, "plain_of", return_value=None):
            reference = _dxf(drawing)
        holds = ours <= DXF_SHARE * reference
        told(f"read a DXF drawing of {ENTITIES} entities", ours, reference, f"<= {DXF_SHARE:.2f}", holds)
