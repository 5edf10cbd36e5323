"""How many cores there are to work with."""

from __future__ import annotations

import os


def cores() -> int:
    """The cores that this process may use, which may be fewer than the machine has."""
    return len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else os.cpu_count() or 1
