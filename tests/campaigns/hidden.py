"""Hidden lines of every model of the corpus against rays, and against the kernel's own algorithm.

``python -m tests.campaigns.hidden [--models NAME,NAME] [--views "front iso"] [--kernel]``. Each model is seen from six sides
and in two pictorials; rays, which know nothing of how the lines were found, say which strokes are not to be seen and which
edges are missing. Printed for each view: time, length drawn, and what is wrong of it. Ends with status 1 where that is more
than :data:`LIMIT` in any view, or one cannot be drawn at all.
"""

from __future__ import annotations

import argparse
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepFilletAPI import BRepFilletAPI_MakeFillet
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakeThickSolid
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCone, BRepPrimAPI_MakeSphere, BRepPrimAPI_MakeTorus
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from OCP.TopAbs import TopAbs_FACE
from OCP.TopoDS import TopoDS
from OCP.TopTools import TopTools_ListOfShape

from skalto.core.models.kernel import edges, sub_shapes
from skalto.core.models.model import Model
from skalto.core.models.reading import read_model
from skalto.core.projection.methods import HiddenLines
from skalto.core.projection.view import ProjectionSpec, project_shown, shown_in
from skalto.core.projection.watch import watch
from skalto.core.viewpoint import parse_viewpoint
from skalto.demo.press import write_press
from skalto.demo.solids import block, cut, cylinder, fuse, moved, turned
from tests.conftest import SAMPLES
from tests.core.modelled import pin_in_plate, together

LIMIT = 2e-4
"""How much of the length that is drawn from facets may be wrong."""
TRIED = 100_000
"""Places on strokes of a view, and as many on edges, that rays are sent from."""
VIEWS = ("front", "rear", "left", "right", "top", "bottom", "iso", "dir:1,2,-1.5")


def _rounded(radius: float) -> Any:
    body = block(60, 40, 20)
    fillet = BRepFilletAPI_MakeFillet(body)
    for edge in edges(body):
        fillet.Add(radius, TopoDS.Edge_s(edge))
    return fillet.Shape()


def _torus(*at: float, axis: tuple[float, float, float] = (0, 0, 1), big: float = 20, small: float = 5) -> Any:
    return BRepPrimAPI_MakeTorus(gp_Ax2(gp_Pnt(*at), gp_Dir(*axis)), big, small).Shape()


def _shell() -> Any:
    body, taken = cylinder(40, 30), TopTools_ListOfShape()
    taken.Append(sub_shapes(body, TopAbs_FACE)[1])
    made = BRepOffsetAPI_MakeThickSolid()
    made.MakeThickSolidByJoin(body, taken, -0.4, 1e-3)
    return made.Shape()


def _grid(count: int) -> Any:
    peg = fuse(block(8, 8, 4), moved(cylinder(5, 9), (0, 0, 4)))
    return together(*(moved(peg, (10 * (n % count), 10 * (n // count), 0)) for n in range(count * count)))


MADE: dict[str, Callable[[], Any]] = {
    "pin": lambda: pin_in_plate(0.0),
    "pin with play": lambda: pin_in_plate(0.2),
    "ring": lambda: _torus(),
    "standing ring": lambda: _torus(axis=(0, 1, 0)),
    "tori cut by tori": lambda: BRepAlgoAPI_Cut(_torus(), _torus(12, 0, 0, axis=(0.2, 1, 0.1), big=12, small=4)).Shape(),
    "tori together": lambda: BRepAlgoAPI_Fuse(_torus(), _torus(20, 0, 0, axis=(0, 1, 0))).Shape(),
    "rounded": lambda: _rounded(3),
    "much rounded": lambda: _rounded(9.5),
    "cone": lambda: BRepPrimAPI_MakeCone(10, 4, 15).Shape(),
    "ball": lambda: BRepPrimAPI_MakeSphere(10).Shape(),
    "drilled ball": lambda: cut(BRepPrimAPI_MakeSphere(10).Shape(), cylinder(6, 40, (2, 1, -20))),
    "vase": lambda: turned([(0, 0), (12, 0), (7, 15), (10, 24), (8, 24), (5, 15), (9, 2), (0, 2)]),
    "thin shell": _shell,
    "grid": lambda: _grid(20),
}


def models(chosen: set[str], folder: Path) -> Iterator[tuple[str, Model]]:
    """The corpus: the demo press, made solids, and the public samples of Debian's package occt-misc."""
    from tests.core.modelled import modelled

    if not chosen or "press" in chosen:
        path = folder / "Ebba.step"
        write_press(path)
        yield "press", read_model(path, path.name)
    for name, make in MADE.items():
        if not chosen or name in chosen:
            yield name, modelled(make(), folder)[0]
    for path in sorted(p for ending in ("step", "iges", "occ") for p in (SAMPLES / ending).glob("*.[bsi]*")):
        if not chosen or path.name in chosen:
            try:
                yield path.name, read_model(path, path.name)
            except Exception as refused:
                print(f"{path.name}: {refused}")


def tried(model: Model, name: str, kernel: bool) -> tuple[float, float, float, float]:
    """Seconds, length drawn, length of what is wrong (drawn and not to be seen; to be seen and missing), mm."""
    viewpoint = parse_viewpoint(name)
    way = HiddenLines.KERNEL if kernel else HiddenLines.FACETS
    spec = ProjectionSpec(look=viewpoint.look, up=viewpoint.up, hidden_lines=way)
    shown = shown_in(model, spec)
    begin = time.perf_counter()
    artwork = project_shown(model, shown, spec)
    seconds = time.perf_counter() - begin
    found = watch(model, shown, spec.axes(), artwork, count=TRIED)
    wrong = sum(f.length for f in found.faults if f.kind == "unseen")
    return seconds, found.drawn, wrong, sum(f.length for f in found.faults) - wrong


def main() -> None:
    ask = argparse.ArgumentParser()
    ask.add_argument("--models", default="")
    ask.add_argument("--views", default=" ".join(VIEWS))
    ask.add_argument("--kernel", action="store_true", help="the kernel's algorithm too")
    given = ask.parse_args()
    chosen = set(filter(None, given.models.split(",")))
    over = 0
    with tempfile.TemporaryDirectory() as folder:
        for name, model in models(chosen, Path(folder)):
            for view in given.views.split(" "):
                for kernel in (False, True) if given.kernel else (False,):
                    head = f"{name:24} {view:13} {'kernel' if kernel else 'facets'}"
                    try:
                        seconds, drawn, unseen, missing = tried(model, view, kernel)
                    except Exception as error:
                        print(f"{head} ! {type(error).__name__}: {error}", flush=True)
                        over += not kernel
                        continue
                    over += not kernel and unseen + missing > LIMIT * drawn
                    share = f"{100 * (unseen + missing) / drawn:.3f} %" if drawn else "nothing drawn"
                    wrong = f"unseen {unseen:8.3f}, missing {missing:8.3f}, {share}"
                    print(f"{head} {seconds:7.2f} s {drawn:9.1f} mm, {wrong}", flush=True)
    print(f"{over} views over the limit of {100 * LIMIT:g} %")
    raise SystemExit(1 if over else 0)


if __name__ == "__main__":
    main()
