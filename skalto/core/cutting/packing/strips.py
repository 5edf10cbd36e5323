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
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely

from skalto.core.cutting.packing.pieces import Placed

_PATIENCE = 0.1
"""How long, s, a line is waited for before one asks again whether to stop."""
_IDLE = 200
"""After so many steps without a shorter strip there is no more to come."""
FOREVER = 3600
"""The time, s, that the packer is given: it goes about its work by it, so that it is the same for all, and is ended long
before."""


@dataclass(frozen=True, eq=False)
class StripItem:
    """A piece's outline, grown by half the gap, how many times, and the turns that it may take, degrees, None for any."""

    key: str
    area: Any
    count: int
    turns: tuple[float, ...] | None


@dataclass(frozen=True, eq=False)
class Strip:
    """Pieces in a strip from (0, 0) on: how long it is, mm, and the number of steps after which it was found."""

    width: float
    placed: tuple[Placed, ...]
    step: int


def strips(
    items: Sequence[StripItem],
    height: float,
    seconds: float,
    steps: int,
    seed: int,
    stop: Callable[[], bool] = lambda: False,
    wanted: float = math.inf,
) -> Iterator[Strip]:
    """Ever shorter strips of a height until *steps* are done, the time is up, or somebody says to stop. What comes does not
    depend on the machine's speed but where the time ends it.

    :param wanted: as long as no strip is as short as this, mm, there are three times as many steps.
    """
    asked = {
        "height": height,
        "seconds": FOREVER,
        "seed": seed,
        "items": [
            {
                "id": item.key,
                "shape": np.asarray(item.area.exterior.coords)[:-1].tolist(),
                "count": item.count,
                "turns": None if item.turns is None else list(item.turns),
            }
            for item in items
        ],
    }
    begun = time.monotonic()
    command = [sys.executable, "-m", "skalto.core.cutting.packing.solver"]
    with subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True) as process:
        assert process.stdin is not None, "it was asked for"
        assert process.stdout is not None, "it was asked for"
        lines: queue.Queue[str] = queue.Queue()
        threading.Thread(target=_passed_on, args=(process.stdout, lines), daemon=True).start()
        try:
            process.stdin.write(json.dumps(asked) + "\n")
            process.stdin.flush()
            least, last = float("inf"), 0
            while not stop() and time.monotonic() - begun < seconds:
                try:
                    line = lines.get(timeout=_PATIENCE)
                except queue.Empty:
                    continue
                if not line:
                    return
                row: Mapping[str, Any] = json.loads(line)
                if "width" in row and row["width"] < least:
                    least, last = row["width"], row["step"]
                    placed = tuple(Placed(key, 0, x, y, turn) for key, turn, x, y in row["placed"])
                    yield Strip(least, placed, last)
                most = steps if least <= wanted else 3 * steps
                if row["step"] >= most or row["step"] - last >= max(_IDLE, most // 6):
                    return
        finally:
            process.kill()


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
