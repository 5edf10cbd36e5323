"""The strip packer as a program of its own, so that it can be stopped: a request on its input, layouts on its output, a line
each.

The request is JSON: ``height`` of the strip, mm; ``items`` with ``id``, ``shape`` (corners), ``count``, ``turns`` (degrees,
or null for any); ``seconds``, ``seed``. Each line of the output is JSON: ``width`` of a layout without overlaps and
``placed``, rows of ``id, turn, x, y``. The same request gives the same layouts in the same order, as far as the time goes.
"""

from __future__ import annotations

import json
import os
import sys
import threading
from typing import Any

WORKERS = 2
"""What they find goes by their number, not by how many cores there are (tried)."""
PAUSE = 0.02
"""How often, s, layouts are passed on."""


def _until_left() -> None:
    """End with whoever asked, however they ended: their side of the input closes."""
    sys.stdin.read()
    os._exit(0)


def main() -> None:
    import spyrrow

    asked = json.loads(sys.stdin.readline())
    threading.Thread(target=_until_left, daemon=True).start()
    items = [spyrrow.Item(row["id"], [tuple(p) for p in row["shape"]], row["count"], row["turns"]) for row in asked["items"]]
    instance = spyrrow.StripPackingInstance("", strip_height=asked["height"], items=items)
    # the program ends at the end of its time, or with whoever listens
    config = spyrrow.StripPackingConfig(
        early_termination=False, total_computation_time=None, exploration_time=int(asked["seconds"]) or 1, compression_time=1,
        num_workers=WORKERS, seed=asked["seed"],
    )  # fmt: skip
    queue = spyrrow.ProgressQueue()
    solving = threading.Thread(target=instance.solve, args=(config, queue), daemon=True)
    solving.start()
    kinds = spyrrow.ReportType
    feasible = {int(kinds.ExplFeas), int(kinds.CmprFeas), int(kinds.Final)}
    number = 0
    while True:
        running = solving.is_alive()
        for kind, layout in queue.drain():
            number += 1
            row: dict[str, Any] = {"step": number}
            if int(kind) in feasible:
                row["width"] = layout.width
                row["placed"] = [(own.id, own.rotation, *own.translation) for own in layout.placed_items]
            try:
                sys.stdout.write(json.dumps(row) + "\n")
                sys.stdout.flush()
            except BrokenPipeError:
                os._exit(0)
        if not running:
            os._exit(0)
        solving.join(PAUSE)


if __name__ == "__main__":
    main()
