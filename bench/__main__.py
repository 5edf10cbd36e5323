"""Run the benchmarks that are named, or all."""

from __future__ import annotations

import importlib
import sys

NAMES = ("beginning", "waiting", "reading", "view", "hiding", "writing", "drawing", "desk", "issuing", "solids")

for name in sys.argv[1:] or NAMES:
    importlib.import_module(f"bench.{name}").run()
