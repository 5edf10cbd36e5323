"""Times taken side by side, so that what else the machine does hits both alike."""

from __future__ import annotations

import gc
import time
from collections.abc import Callable
from typing import Any

from bench.size import sized
from skalto.core.projection.faceted import forget
from skalto.core.projection.view import ProjectionSpec, project
from skalto.core.sources.models.model import Model

Work = Callable[[], Any]


def best_of(rounds: int, *works: Work) -> list[float]:
    """The shortest time of each work, run in turns, seconds."""
    rounds = sized(rounds, 1)
    best = [float("inf")] * len(works)
    for _ in range(rounds):
        for number, work in enumerate(works):
            gc.collect()
            begun = time.perf_counter()
            work()
            best[number] = min(best[number], time.perf_counter() - begun)
    return best


def anew(model: Model, spec: ProjectionSpec) -> None:
    """A view of a model whose facets are kept, and nothing of a view before."""
    forget(model)
    project(model, spec)


def told(name: str, ours: float, reference: float, limit: str, holds: bool) -> None:
    """One line: times, ratio, and whether the limit holds."""
    print(
        f"{name:<44} {ours * 1000:9.1f} ms  reference {reference * 1000:9.1f} ms  ratio {ours / reference:6.2f}  "
        f"limit {limit:<8} {'holds' if holds else 'DOES NOT HOLD'}",
        flush=True,
    )


def held(name: str, ours: float, reference: float, limit: str, holds: bool) -> None:
    """The same for shares."""
    print(
        f"{name:<44} {ours:9.3f}     reference {reference:9.3f}     ratio {ours / reference:6.2f}  "
        f"limit {limit:<8} {'holds' if holds else 'DOES NOT HOLD'}",
        flush=True,
    )
