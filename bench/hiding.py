"""Hidden lines of many solids: from facets against the kernel's algorithm, and how the time grows with their count.

Five different parts, each many times over, in a loose heap, in a pictorial. The kernel's algorithm is timed at the smallest
count alone: at 990 solids it takes most of a minute.
"""

from __future__ import annotations

import math
import subprocess
import sys
import tempfile
import time
from collections.abc import Sequence
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
from OCP.BRepPrimAPI import BRepPrimAPI_MakeTorus
from OCP.BRepTools import BRepTools
from OCP.gp import gp_Ax1, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.STEPCAFControl import STEPCAFControl_Writer
from OCP.STEPControl import STEPControl_AsIs
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDocStd import TDocStd_Document
from OCP.TopLoc import TopLoc_Location
from OCP.TopTools import TopTools_ListOfShape
from OCP.XCAFDoc import XCAFDoc_DocumentTool

from bench.clock import anew, best_of, told
from bench.size import sized
from skalto.core.projection.hidden_lines import solve
from skalto.core.projection.view import ProjectionSpec, project
from skalto.core.sources.models.kernel import faces, placed
from skalto.core.sources.models.model import Model
from skalto.core.sources.reading import read_model
from skalto.core.viewpoint import STANDARD
from skalto.demo.solids import block, cut, cylinder, fuse, moved

COUNTS = sized((90, 270, 990), (5, 10, 20))
LIMIT = 0.25
SECONDS = 2.0
"""For the most solids, on two quiet cores; told, and not a ratio."""
EXPONENT = 1.2
OF_ANEW = 0.5
"""What a view takes in which one component was hidden, of the same made anew."""
SOCKETS, OF_CONNECTOR = sized(980, 9), 0.3
MANY, DIFFERENT = sized((10_000, 400), (20, 4))
MANY_SECONDS, GIGABYTES = 15.0, 2.0
"""For the view of the many: the time, and the most memory of the process."""


def _parts() -> list[Any]:
    plate = block(40, 24, 6)
    for x in (-14, 0, 14):
        plate = cut(plate, cylinder(6, 20, (x, 0, -5)))
    peg = fuse(block(10, 10, 5), moved(cylinder(6, 16), (0, 0, 5)))
    angle = cut(block(30, 20, 24), moved(block(30, 20, 24), (4, 0, 4)))
    bush = cut(cylinder(16, 18), cylinder(10, 40, (0, 0, -10)))
    return [plate, peg, angle, bush, BRepPrimAPI_MakeTorus(9, 3).Shape()]


def _plates(count: int) -> list[Any]:
    """So many different plates with a hole, and every second a pin."""
    plates = []
    for n in range(count):
        plate = cut(block(24 + n % 20, 16 + n // 20 % 20, 6), cylinder(4 + n % 7, 20, (0, 0, -5)))
        plates.append(fuse(plate, moved(cylinder(3, 10), (9, 0, 5))) if n % 2 else plate)
    return plates


def connector(count: int) -> Any:
    """A block with so many square sockets, five faces each."""
    side = math.ceil(math.sqrt(count))
    sockets = TopTools_ListOfShape()
    for n in range(count):
        sockets.Append(moved(block(1.2, 1.2, 10), (2.54 * (n % side), 2.54 * (n // side), 2)))
    wide, own = 2.54 * (side + 1), TopTools_ListOfShape()
    own.Append(moved(block(wide, wide, 9), (1.27 * (side - 1), 1.27 * (side - 1), 0)))
    cutting = BRepAlgoAPI_Cut()
    cutting.SetArguments(own)
    cutting.SetTools(sockets)
    cutting.Build()
    return cutting.Shape()


def heap(count: int, path: Path, parts: Sequence[Any] = ()) -> Path:
    """A STEP file of so many occurrences of five parts, or of those given, about 40 mm apart, each turned by chance."""
    chance = np.random.default_rng(7)
    document = TDocStd_Document(TCollection_ExtendedString("XmlXCAF"))
    tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    top, labels = tool.NewShape(), [tool.AddShape(part, False) for part in parts or _parts()]
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


def kernel_alone(model: Model, spec: ProjectionSpec) -> None:
    """The kernel's exact algorithm on all solids of a model."""
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
                ours, reference = best_of(2, partial(anew, model, spec), partial(kernel_alone, model, spec))
                told(f"{count} solids", ours, reference, f"<= {LIMIT}", ours <= LIMIT * reference)
            else:
                (ours,) = best_of(2, partial(anew, model, spec))
                verdict = "" if count < COUNTS[-1] else "holds" if ours <= SECONDS else "DOES NOT HOLD"
                print(
                    f"{f'{count} solids':<44} {ours * 1000:9.1f} ms  the first time {first * 1000:9.1f} ms  {verdict}",
                    flush=True,
                )
            times.append(ours)
        _one_hidden(model, spec)
        _connector(Path(folder) / "connector.brep", spec)
        _many(Path(folder) / "many.step", spec)
    grows = float(np.polyfit(np.log(COUNTS), np.log(times), 1)[0])
    verdict = "holds" if grows <= EXPONENT else "DOES NOT HOLD"
    print(f"{'grows with the count to the power of':<44} {grows:9.2f}     limit {EXPONENT}  {verdict}")


def _one_hidden(model: Model, spec: ProjectionSpec) -> None:
    """One component after another hidden in a view that is kept, against the same made anew."""
    paths = iter([component.path for component in model.tree.leaves()][:: sized(37, 2)])
    project(model, spec)

    def hidden() -> ProjectionSpec:
        return spec.model_copy(update={"hidden": frozenset((next(paths),))})

    (ours,) = best_of(4, lambda: project(model, hidden()))
    (reference,) = best_of(2, lambda: anew(model, hidden()))
    told("one of these hidden", ours, reference, f"<= {OF_ANEW}", ours <= OF_ANEW * reference)


def _connector(path: Path, spec: ProjectionSpec) -> None:
    shape = connector(SOCKETS)
    BRepTools.Write_s(shape, str(path))
    model = read_model(path, path.name)
    ours, reference = best_of(2, lambda: anew(model, spec), lambda: kernel_alone(model, spec))
    holds = ours <= OF_CONNECTOR * reference
    told(f"a connector of {faces(model.shapes[0])} faces", ours, reference, f"<= {OF_CONNECTOR}", holds)


def _many(path: Path, spec: ProjectionSpec) -> None:
    """In a process of its own, whose memory is told."""
    heap(MANY, path, _plates(DIFFERENT))
    script = (
        "import resource, sys, time; from pathlib import Path\n"
        "from skalto.core.sources.reading import read_model\n"
        "from skalto.core.projection.view import ProjectionSpec, project\n"
        "from skalto.core.viewpoint import STANDARD\n"
        "model = read_model(Path(sys.argv[1]), 'many.step'); view = STANDARD['iso']\n"
        "def once():\n"
        "    begun = time.perf_counter(); project(model, ProjectionSpec(look=view.look, up=view.up))\n"
        "    return time.perf_counter() - begun\n"
        "print(once(), once(), resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6)\n"
    )
    made = subprocess.run([sys.executable, "-c", script, str(path)], capture_output=True, text=True, check=True)
    first, again, most = (float(word) for word in made.stdout.split())
    holds = again <= MANY_SECONDS and most <= GIGABYTES
    print(
        f"{f'{MANY} solids of {DIFFERENT} parts':<44} {again * 1000:9.1f} ms  the first time {first * 1000:9.1f} ms, "
        f"{most:.2f} GB  {'holds' if holds else 'DOES NOT HOLD'}"
    )
