"""Unfolding against reading: a hundred bent parts of four to twelve bends and twenty holes, unfolded, folded back, written as
DXF and read again, on two workers; and one part after reading, against reading it."""

from __future__ import annotations

import random
import tempfile
import time
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import Any

from bench.clock import held, told
from bench.size import sized

PARTS, WORKERS = 100, 2
ALL, ONE = 60.0, 1.0
"""Seconds that are promised."""


def _part(seed: int) -> Any:
    """A staircase of bends with holes in its flats."""
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder
    from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
    from OCP.TopTools import TopTools_ListOfShape

    from skalto.demo.folded import Flat, Step, Turn, folded

    rng = random.Random(seed)
    bends = rng.randint(4, 12)
    thickness = rng.choice((1.0, 1.5, 2.0, 3.0))
    steps: list[Step] = [Flat(60)]
    for n in range(bends):
        radius = rng.choice((1.0, 2.0, 3.0)) * thickness
        angle = 60.0 if n % 2 == 0 else -60.0
        steps += [Turn(angle, radius), Flat(30 if n % 2 == 0 else 60)]
    shape = folded(steps, thickness, 150)
    tools = TopTools_ListOfShape()
    for n in range(20):
        at = gp_Pnt(8 + 10 * (n % 5), -5, 20 + 35 * (n // 5))
        tools.Append(BRepPrimAPI_MakeCylinder(gp_Ax2(at, gp_Dir(0, 1, 0)), rng.uniform(1.5, 4), 20).Shape())
    own = TopTools_ListOfShape()
    own.Append(shape)
    cut = BRepAlgoAPI_Cut()
    cut.SetArguments(own)
    cut.SetTools(tools)
    cut.Build()
    return cut.Shape()


def _write(folder: str, seed: int) -> str:
    from OCP.STEPControl import STEPControl_AsIs, STEPControl_Writer

    import skalto.core.sources.models.kernel

    assert skalto.core.sources.models.kernel, "which keeps the kernel silent"
    path = f"{folder}/part-{seed}.step"
    writer = STEPControl_Writer()
    writer.Transfer(_part(seed), STEPControl_AsIs)
    writer.Write(path)
    return path


def _read(path: str) -> float:
    from skalto.core.sources.reading import read_model

    begun = time.perf_counter()
    read_model(Path(path), Path(path).name)
    return time.perf_counter() - begun


def _unfold(path: str) -> tuple[float, int, float]:
    from skalto.core.sheet_metal.flat_writing import FlatWriting
    from skalto.core.sheet_metal.pattern_dxf import reread, write_pattern
    from skalto.core.sheet_metal.unfolding import unfolded
    from skalto.core.sources.reading import read_model

    model = read_model(Path(path), Path(path).name)
    begun = time.perf_counter()
    made = unfolded(model.shapes[0], name=Path(path).stem)
    written = write_pattern(made, FlatWriting())
    assert not reread(written.data, made, FlatWriting())
    Path(path).with_suffix(".dxf").write_bytes(written.data)
    return time.perf_counter() - begun, len(made.bends), made.refolded


def run() -> None:
    count = sized(PARTS, 2)
    with tempfile.TemporaryDirectory() as folder, ProcessPoolExecutor(WORKERS) as workers:
        paths = list(workers.map(_write, [folder] * count, range(count)))
        begun = time.perf_counter()
        list(workers.map(_read, paths))
        reading = time.perf_counter() - begun
        begun = time.perf_counter()
        rows = list(workers.map(_unfold, paths))
        whole = time.perf_counter() - begun
    spent = sorted(row[0] for row in rows)
    told(f"{count} bent parts, against reading them alone", whole, reading, f"<= {ALL:g} s", whole <= ALL)
    median = spent[len(spent) // 2]
    told("one of them after reading, both workers busy", median, reading / count * WORKERS, f"<= {ONE:g} s", median <= ONE)
    worst = 1000 * max(row[2] for row in rows)
    held("folded back, µm", worst, 2.0, "<= 2 µm", worst <= 2)


if __name__ == "__main__":
    run()
