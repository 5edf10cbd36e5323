"""Hidden lines of many solids: from facets against the kernel's algorithm, and how the time grows with their count.

Five different parts, each many times over, in a loose heap, in a pictorial. The kernel's algorithm is timed at the smallest
count alone: at 990 solids it takes most of a minute.
"""

from __future__ import annotations

import math
import tempfile
import time
from pathlib import Path
from typing import Any

import numpy as np
from OCP.BRepPrimAPI import BRepPrimAPI_MakeTorus
from OCP.gp import gp_Ax1, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.STEPCAFControl import STEPCAFControl_Writer
from OCP.STEPControl import STEPControl_AsIs
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDocStd import TDocStd_Document
from OCP.TopLoc import TopLoc_Location
from OCP.XCAFDoc import XCAFDoc_DocumentTool

from bench.clock import best_of, told
from skalto.core.models.kernel import placed
from skalto.core.models.model import Model
from skalto.core.models.reading import read_model
from skalto.core.projection.hidden_lines import solve
from skalto.core.projection.view import ProjectionSpec, project
from skalto.core.viewpoint import STANDARD
from skalto.demo.solids import block, cut, cylinder, fuse, moved

COUNTS = (90, 270, 990)
LIMIT = 0.25
SECONDS = 2.0
"""For the most solids, on two quiet cores; told, and not a ratio."""
EXPONENT = 1.2


def _parts() -> list[Any]:
    plate = block(40, 24, 6)
    for x in (-14, 0, 14):
        plate = cut(plate, cylinder(6, 20, (x, 0, -5)))
    peg = fuse(block(10, 10, 5), moved(cylinder(6, 16), (0, 0, 5)))
    angle = cut(block(30, 20, 24), moved(block(30, 20, 24), (4, 0, 4)))
    bush = cut(cylinder(16, 18), cylinder(10, 40, (0, 0, -10)))
    return [plate, peg, angle, bush, BRepPrimAPI_MakeTorus(9, 3).Shape()]


def heap(count: int, path: Path) -> Path:
    """A STEP file of so many occurrences of five parts, about 40 mm apart, each turned by chance."""
    chance = np.random.default_rng(7)
    document = TDocStd_Document(TCollection_ExtendedString("XmlXCAF"))
    tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    top, labels = tool.NewShape(), [tool.AddShape(part, False) for part in _parts()]
    side = math.ceil(count ** (1 / 3))
    for n in range(count):
        turn, move = gp_Trsf(), gp_Trsf()
        turn.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(*chance.normal(size=3).tolist())), float(chance.uniform(0, 6)))
        move.SetTranslation(gp_Vec(45.0 * (n % side), 45.0 * (n // side % side), 45.0 * (n // side**2)))
        tool.AddComponent(top, labels[n % len(labels)], TopLoc_Location(move.Multiplied(turn)))
    tool.UpdateAssemblies()
    writer = STEPCAFControl_Writer()
    writer.Transfer(document, STEPControl_AsIs)
    writer.Write(str(path))
    return path


def _kernel(model: Model, spec: ProjectionSpec) -> None:
    leaves = [c for c in model.tree.leaves() if c.shape is not None]
    solve([placed(model.shapes[c.shape], c.matrix()) for c in leaves if c.shape is not None], spec.axes())


def run() -> None:
    spec = ProjectionSpec(look=STANDARD["iso"].look, up=STANDARD["iso"].up)
    times = []
    with tempfile.TemporaryDirectory() as folder:
        for count in COUNTS:
            model = read_model(heap(count, Path(folder) / "heap.step"), "heap.step")
            begun = time.perf_counter()
            project(model, spec)
            first = time.perf_counter() - begun
            if count == COUNTS[0]:
                ours, reference = best_of(2, lambda m=model: project(m, spec), lambda m=model: _kernel(m, spec))
                told(f"{count} solids", ours, reference, f"<= {LIMIT}", ours <= LIMIT * reference)
            else:
                (ours,) = best_of(2, lambda m=model: project(m, spec))
                verdict = "" if count < COUNTS[-1] else "holds" if ours <= SECONDS else "DOES NOT HOLD"
                print(
                    f"{f'{count} solids':<44} {ours * 1000:9.1f} ms  the first time {first * 1000:9.1f} ms  {verdict}",
                    flush=True,
                )
            times.append(ours)
    grows = float(np.polyfit(np.log(COUNTS), np.log(times), 1)[0])
    verdict = "holds" if grows <= EXPONENT else "DOES NOT HOLD"
    print(f"{'grows with the count to the power of':<44} {grows:9.2f}     limit {EXPONENT}  {verdict}")
