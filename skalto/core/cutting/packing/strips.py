"""Pieces laid into a strip as short as can be (spyrrow), in a process that is ended when it has done enough."""

from __future__ import annotations

import json
import math
import queue
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import shapely

from skalto.core.cutting.packing.pieces import Placed
from skalto.core.cutting.packing.squeezing import squeezed

_PATIENCE = 0.1
"""How long, s, a line is waited for before one asks again whether to stop."""
_IDLE = 400
"""After so many steps without a shorter strip there is no more to come."""
_SQUEEZE, _MOST_SQUEEZED = 0.04, 120
"""How long, s, a piece takes to squeeze strips, of which more pieces than these are left as they are."""
FOREVER = 3600
"""The time, s, that the packer is given: it goes about its work by it, so that it is the same for all, and is ended long
before."""


@dataclass(frozen=True, eq=False)
class StripItem:
    """A piece's outline, grown by half the gap, the same with fewer corners around it, which the packer is quicker with, how
    many times, and the turns that it may take, degrees, None for any."""

    key: str
    area: Any
    rough: Any
    count: int
    turns: tuple[float, ...] | None


@dataclass(frozen=True, eq=False)
class Strip:
    """Pieces in a strip from (0, 0) on: how long it is, mm, and the number of steps after which it was found."""

    width: float
    placed: tuple[Placed, ...]
    step: int


class _Solver:
    """A process of the packer, and how far it is."""

    def __init__(self, asked: dict[str, Any], steps: int | None, wanted: float) -> None:
        self.steps, self.wanted = steps, wanted
        self.least, self.last, self.done = math.inf, 0, False
        self.best: Strip | None = None
        command = [sys.executable, "-m", "skalto.core.cutting.packing.solver"]
        self.process = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)
        assert self.process.stdin is not None, "it was asked for"
        assert self.process.stdout is not None, "it was asked for"
        self.lines: queue.Queue[str] = queue.Queue()
        threading.Thread(target=_passed_on, args=(self.process.stdout, self.lines), daemon=True).start()
        self.process.stdin.write(json.dumps(asked) + "\n")
        self.process.stdin.flush()

    def next(self, wait: float) -> Strip | None:
        """A shorter strip than it had before, None where there is none within a wait, s."""
        try:
            line = self.lines.get(timeout=wait)
        except queue.Empty:
            return None
        if not line:
            self.done = True
            return None
        row: Mapping[str, Any] = json.loads(line)
        found = None
        if "width" in row and row["width"] < self.least:
            self.least, self.last = row["width"], row["step"]
            found = self.best = Strip(
                self.least, tuple(Placed(key, 0, x, y, turn) for key, turn, x, y in row["placed"]), self.last
            )
        idle = row["step"] - self.last
        if self.steps is None:
            self.done = idle >= _IDLE
        else:
            most = self.steps if self.least <= self.wanted else 3 * self.steps
            self.done = row["step"] >= most or idle >= max(_IDLE, most // 6)
        return found

    def end(self) -> None:
        self.process.kill()
        self.process.communicate()


def strips(
    items: Sequence[StripItem],
    height: float,
    seconds: float,
    steps: int | None,
    seed: int,
    stop: Callable[[], bool] = lambda: False,
    wanted: float = math.inf,
) -> Iterator[Strip]:
    """Ever shorter strips of a height until the packer has done *steps*, finds no better ones, the time is up, or somebody says
    to stop; then the best of them squeezed. The last one does not depend on the machine's speed but where the time ends it.

    :param steps: None for as many as the time is good for. :param wanted: as long as no strip is as short as this, mm, there
        are three times as many steps.
    """
    asked = {
        "height": height,
        "seconds": FOREVER,
        "seed": seed,
        "items": [
            {
                "id": item.key,
                "shape": np.asarray(item.rough.exterior.coords)[:-1].tolist(),
                "count": item.count,
                "turns": None if item.turns is None else list(item.turns),
            }
            for item in items
        ],
    }
    begun = time.monotonic()
    pieces = sum(item.count for item in items)
    reserve = min(seconds / 4, pieces * _SQUEEZE)
    solver = _Solver(asked, steps, wanted)
    try:
        while not solver.done and not stop() and time.monotonic() - begun < seconds - reserve:
            found = solver.next(_PATIENCE)
            if found is not None:
                yield found
    finally:
        solver.end()
    if solver.best is not None and pieces <= _MOST_SQUEEZED:
        tight = _squeezed(
            solver.best, {item.key: item.area for item in items}, height, lambda: time.monotonic() - begun >= seconds
        )
        if tight.width < solver.least:
            yield tight


def _squeezed(strip: Strip, areas: Mapping[str, Any], height: float, stop: Callable[[], bool]) -> Strip:
    """A strip with its pieces moved together."""
    by, width = squeezed([own.of(areas[own.key]) for own in strip.placed], height, stop)
    placed = tuple(replace(own, x=own.x + dx, y=own.y + dy) for own, (dx, dy) in zip(strip.placed, by.tolist(), strict=True))
    return Strip(width, placed, strip.step)


def _passed_on(lines: Iterable[str], to: queue.Queue[str]) -> None:
    """Put lines where they can be waited for; an empty one at the end."""
    with suppress(ValueError):  # the process was ended meanwhile
        for line in lines:
            to.put(line)
    to.put("")


def tall_enough(items: Sequence[StripItem], height: float) -> bool:
    """Whether each piece can stand in a strip of a height at all, one way or another."""
    for item in items:
        ring = shapely.get_coordinates(item.area.convex_hull)
        angles = np.radians(np.arange(0, 180, 1.0) if item.turns is None else np.array(item.turns))
        tall = np.stack((np.sin(angles), np.cos(angles)), axis=1) @ ring.T
        if float((tall.max(axis=1) - tall.min(axis=1)).min()) > height:
            return False
    return True
