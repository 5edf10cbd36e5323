"""What grows with what, as plots in docs/plots; runs when it is named: ``python -m bench plots``."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

import matplotlib
import numpy as np
from OCP.BRepTools import BRepTools

from bench.clock import anew, best_of
from bench.hiding import connector, heap, kernel_alone
from skalto.core.projection.view import ProjectionSpec, project
from skalto.core.sources.models.model import Model
from skalto.core.sources.reading import read_model
from skalto.core.viewpoint import STANDARD

matplotlib.use("Agg")

from matplotlib import pyplot as plt

FOLDER = Path(__file__).parent.parent / "docs" / "plots"
SOLIDS, BY_KERNEL = (30, 90, 270, 990, 2970), (30, 90, 270)
SOCKETS, SOCKETS_BY_KERNEL = (60, 245, 980, 3920), (60, 245, 980)
OURS, KERNEL = (
    {"color": "#1f5f5b", "marker": "o", "label": "from facets"},
    {"color": "#b5533c", "marker": "s", "label": "kernel"},
)


def _times(model: Model, spec: ProjectionSpec, kernel: bool) -> tuple[float, float, float]:
    """Of the first view, of the next, and of the kernel's algorithm alone (NaN where it is not asked), seconds."""
    begun = time.perf_counter()
    project(model, spec)
    first = time.perf_counter() - begun
    (again,) = best_of(2, lambda: anew(model, spec))
    return first, again, best_of(1, lambda: kernel_alone(model, spec))[0] if kernel else float("nan")


def _plot(name: str, what: str, counts: tuple[int, ...], rows: list[tuple[float, float, float]]) -> None:
    table = np.array(rows)
    figure, axes = plt.subplots(figsize=(6, 3.6), layout="constrained")
    axes.loglog(counts, table[:, 1], **OURS)
    axes.loglog(
        counts, table[:, 0], **OURS | {"label": "from facets, the first view", "linestyle": ":", "markerfacecolor": "none"}
    )
    axes.loglog(counts, table[:, 2], **KERNEL)
    power, _ = np.polyfit(np.log(counts), np.log(table[:, 1]), 1)
    axes.set(xlabel=what, ylabel="seconds", title=f"Iso view: grows with the power of {power:.2f}")
    axes.grid(True, which="both", color="#ddd", linewidth=0.5)
    axes.legend(frameon=False)
    figure.savefig(FOLDER / f"{name}.svg", metadata={"Date": None})
    plt.close(figure)
    print(f"{name}: " + "; ".join(f"{n} {a:.2f} / {b:.2f} / {c:.2f} s" for n, (a, b, c) in zip(counts, rows, strict=True)))


def run() -> None:
    FOLDER.mkdir(exist_ok=True)
    matplotlib.rcParams["svg.hashsalt"] = "skalto"
    spec = ProjectionSpec(look=STANDARD["iso"].look, up=STANDARD["iso"].up)
    with tempfile.TemporaryDirectory() as folder:
        rows = []
        for count in SOLIDS:
            model = read_model(heap(count, Path(folder) / "heap.step"), "heap.step")
            rows.append(_times(model, spec, count in BY_KERNEL))
        _plot("solids", "solids of five parts", SOLIDS, rows)
        rows, faces = [], []
        for count in SOCKETS:
            path = Path(folder) / "connector.brep"
            BRepTools.Write_s(connector(count), str(path))
            rows.append(_times(read_model(path, path.name), spec, count in SOCKETS_BY_KERNEL))
            faces.append(5 * count + 6)
        _plot("faces", "faces of one part", tuple(faces), rows)
